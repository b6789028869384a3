"""Rooms as they stand: corners after the misclosure is spread, walls with their studs, joists.

Right angles are kept: the error along each axis is spread over the walls along that
axis. Beyond the practice's limit nothing is bent: the walls stay as walked, and the
room is not closed until a measure is taken again.
"""

from __future__ import annotations

import math

import msgspec

from fjeld import geometry
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Joists, Opening, Room, Studs
from fjeld.geometry import Point


class Wall(msgspec.Struct, frozen=True):
    """A wall in plan: ends, inward normal, and stud centers (mm from its start)."""

    key: str
    number: int
    start: Point
    end: Point
    length: float
    normal: Point
    studs: tuple[float, ...]

    def at(self, along: float) -> Point:
        """The point of the inner face ``along`` mm from the wall's start."""
        return geometry.along(self.start, self.end, along)


class RoomShape(msgspec.Struct, frozen=True):
    """A room in plan. ``closed`` is false while walls are missing, misread, or crossing."""

    handle: Handle
    corners: tuple[Point, ...]
    walls: tuple[Wall, ...]
    misclosure: float
    perimeter: float
    closed: bool
    crossing: tuple[int, int] | None
    joist_axis: int
    joists: tuple[float, ...]
    height: float

    @property
    def share(self) -> float:
        """Misclosure as a share of the perimeter, %."""
        return 100 * self.misclosure / self.perimeter if self.perimeter else 0.0

    @property
    def area(self) -> float:
        """Floor area, m²; nought while the room is not closed."""
        return abs(geometry.area(self.corners)) / 1e6 if self.closed else 0.0


def shape(handle: Handle, room: Room, openings: tuple[Opening, ...], limit: float) -> RoomShape:
    """The room in plan; ``limit`` is the misclosure still spread, in % of the perimeter."""
    legs = [(side.bearing, side.length.mm) for side in room.sides]
    walked = geometry.walk(legs)
    perimeter = math.fsum(length for _, length in legs)
    misclosure = geometry.distance(walked[0], walked[-1])
    closes = len(legs) >= 3 and misclosure <= perimeter * limit / 100 + 1e-6
    corners = geometry.closed_corners(legs) if closes else walked[:-1] if len(legs) > 2 else walked
    ends = [*corners[1:], corners[0]] if closes else walked[1:]
    crossing = geometry.crossing_sides(corners) if closes else None
    turn = -1.0 if len(corners) > 2 and geometry.area(corners) < 0 else 1.0
    walls = tuple(
        _wall(handle, n, start, end, turn, room.studs, [o for o in openings if o.wall == n])
        for n, (start, end) in enumerate(zip(corners if closes else walked[:-1], ends, strict=True), 1)
    )
    axis = 1 if room.joists.run == "E-W" else 0
    return RoomShape(
        handle, tuple(corners), walls, misclosure, perimeter, closes and crossing is None, crossing,
        axis, _joists(room.joists, corners, axis), room.height.mm,
    )  # fmt: skip


def _wall(
    room: str, n: int, start: Point, end: Point, turn: float, studs: Studs, openings: list[Opening]
) -> Wall:
    length = geometry.distance(start, end)
    normal = geometry.inward(start, end)
    return Wall(
        f"{room}.{n}", n, start, end, length, (normal[0] * turn, normal[1] * turn),
        stud_centers(length, studs, openings),
    )  # fmt: skip


def stud_centers(length: float, studs: Studs, openings: list[Opening]) -> tuple[float, ...]:
    """Stud centers along a wall: one at each end, commons on center, jack and king beside each opening."""
    half = studs.thick.mm / 2
    centers = {half, length - half} if length > 2 * half else set()
    spacing = max(studs.spacing.mm, 25.4)
    count = min(int(max(0.0, length - half - studs.first.mm) // spacing) + 1, 2000)
    centers |= {
        studs.first.mm + k * spacing
        for k in range(count)
        if half < studs.first.mm + k * spacing < length - half
    }
    for opening in openings:
        left, right = opening.at.mm, opening.at.mm + opening.width.mm
        centers = {
            c for c in centers if not left - 4 * half < c < right + 4 * half or c in (half, length - half)
        }
        centers |= {
            c
            for c in (left - 3 * half, left - half, right + half, right + 3 * half)
            if half <= c <= length - half
        }
    return tuple(sorted(centers))


def _joists(joists: Joists, corners: list[Point], axis: int) -> tuple[float, ...]:
    """Joist centers along the axis across them; the first is measured from the least coordinate."""
    if len(corners) < 3:
        return ()
    low, high = min(c[axis] for c in corners), max(c[axis] for c in corners)
    spacing = max(joists.spacing.mm, 25.4)
    count = min(int(max(0.0, high - low - joists.first.mm) // spacing) + 1, 2000)
    return tuple(
        low + joists.first.mm + k * spacing for k in range(count) if low + joists.first.mm + k * spacing < high
    )


def crossings(positions: tuple[float, ...], start: float, end: float) -> list[float]:
    """The framing members strictly between ``start`` and ``end``, in the order met."""
    low, high = min(start, end), max(start, end)
    met = [p for p in positions if low + 1e-6 < p < high - 1e-6]
    return met if start <= end else met[::-1]
