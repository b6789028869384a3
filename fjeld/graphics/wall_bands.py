"""The walls of a closed room as a band outside their inner faces, and the studs in it."""

from __future__ import annotations

from fjeld.derive.house import RoomShape, Wall
from fjeld.drawing.building import Room
from fjeld.graphics.labels import Px
from fjeld.graphics.projection import Projection
from fjeld.graphics.shapes import Shape, path, shape


def wall_band(to_px: Projection, where: RoomShape) -> Shape:
    """The thickness of a closed room's walls."""
    faces = [to_px(c) for c in where.corners]
    outer = [_outward(to_px, where, i) for i in range(len(faces))]
    d = " ".join("M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in loop) + " Z" for loop in (outer, faces))
    return shape("path", d=d, cls="wall-band", fill_rule="evenodd")


def _outward(to_px: Projection, where: RoomShape, i: int) -> Px:
    """A corner of the outer face."""
    n = len(where.walls)
    a, b = where.walls[i - 1].normal, where.walls[i % n].normal
    bisect = max(1 + a[0] * b[0] + a[1] * b[1], 0.2)
    x, y = to_px(where.corners[i])
    k = to_px.band / bisect
    return x - k * (a[0] + b[0]), y - k * (a[1] + b[1])


def studs(to_px: Projection, room: Room, wall: Wall) -> list[Shape]:
    """The studs of one wall, each as thick as the room says."""
    half = room.studs_of(wall.number).thick.mm / 2
    found = []
    for stud in wall.studs:
        (x1, y1), (x2, y2) = (to_px(wall.at(stud + side)) for side in (-half, half))
        nx, ny = -wall.normal[0] * to_px.band, -wall.normal[1] * to_px.band
        found.append(path([(x1, y1), (x2, y2), (x2 + nx, y2 + ny), (x1 + nx, y1 + ny)], "stud", close=True))
    return found
