"""Rooms as they stand: corners after the misclosure is spread, walls with their studs, joists.

Right angles are kept: the error along each axis is spread over the walls along that
axis. Beyond the practice's limit nothing is bent: the walls stay as walked, and the
room is not closed until a measure is taken again. A wall still to be measured is what
closes the room, as long as one in each direction is missing at the most.
"""

from __future__ import annotations

import itertools
import math

import msgspec
import numpy as np

from fjeld import geometry
from fjeld.drawing.building import Joists, Opening, Room, Studs
from fjeld.drawing.handles import Handle
from fjeld.geometry import Point
from fjeld.quantities import INCH


class Wall(msgspec.Struct, frozen=True):
    """A wall in plan: ends, inward normal, stud centers (mm from its start) and stud ``depth``."""

    key: str
    number: int
    start: Point
    end: Point
    length: float
    normal: Point
    studs: tuple[float, ...]
    measured: bool = True
    depth: float = 88.9

    @property
    def run(self) -> Point:
        """One mm along the wall, from its start; of a wall of no length, nowhere."""
        if self.length <= 0.0:
            return 0.0, 0.0
        return (self.end[0] - self.start[0]) / self.length, (self.end[1] - self.start[1]) / self.length

    def at(self, along: float) -> Point:
        """The point of the inner face ``along`` mm from the wall's start."""
        return geometry.along(self.start, self.end, along)


class RoomShape(msgspec.Struct, frozen=True):
    """A room in plan. ``closed`` is false while walls are missing, misread, or crossing.

    Corners, walls and joists are on the storey; ``origin`` is the first corner there and
    ``level`` the floor's height in the house. ``height`` is the highest of the ceiling.
    """

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
    origin: Point = (0.0, 0.0)
    level: float = 0.0
    slope: tuple[int, float, float] | None = None
    joist_depth: float = 235.0

    def ceiling_at(self, spot: Point) -> float:
        """Height of the ceiling above the floor at a place in plan, mm."""
        if self.slope is None:
            return self.height
        number, low, run = self.slope
        wall = self.walls[number - 1]
        off = (spot[0] - wall.start[0]) * wall.normal[0] + (spot[1] - wall.start[1]) * wall.normal[1]
        return low + (self.height - low) * min(max(off / run, 0.0), 1.0)

    def local(self, spot: Point) -> Point:
        """A place on the storey, from the room's own first corner as points are written."""
        return spot[0] - self.origin[0], spot[1] - self.origin[1]

    @property
    def unmeasured(self) -> list[int]:
        """The walls still to be measured, by number."""
        return [wall.number for wall in self.walls if not wall.measured]

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
    legs = solved([(side.bearing, side.length.mm) for side in room.sides], _missing(room))
    walked = geometry.walk(legs)
    perimeter = math.fsum(length for _, length in legs)
    misclosure = geometry.distance(walked[0], walked[-1])
    measured = all(length > 0 for _, length in legs)
    closes = measured and len(legs) >= 3 and misclosure <= perimeter * limit / 100 + 1e-6
    if closes:
        corners = geometry.closed_corners(legs)
        sides = list(zip(corners, [*corners[1:], corners[0]], strict=True))
    else:
        corners = walked[:-1] if len(legs) > 2 else walked
        sides = list(itertools.pairwise(walked))
    crossing = geometry.crossing_sides(corners) if closes else None
    turn = -1.0 if len(corners) > 2 and geometry.area(corners) < 0 else 1.0
    on = {n: [o for o in openings if o.wall == n] for n in range(1, len(sides) + 1)}
    walls = tuple(
        _wall(handle, n, start=start, end=end, turn=turn, room=room, openings=on[n])
        for n, (start, end) in enumerate(sides, 1)
    )
    axis = 1 if room.joists.run == "E-W" else 0
    return RoomShape(
        handle=handle,
        corners=tuple(corners),
        walls=walls,
        misclosure=misclosure,
        perimeter=perimeter,
        closed=closes and crossing is None,
        crossing=crossing,
        joist_axis=axis,
        joists=_joists(room.joists, corners, axis),
        height=room.height.mm,
        slope=_slope(room, walls, corners),
        joist_depth=room.joists.depth.mm,
    )


def _missing(room: Room) -> list[int]:
    return [n for n, side in enumerate(room.sides) if side.length.unknown and side.length.mm <= 0]


def solved(legs: list[tuple[float, float]], missing: list[int]) -> list[tuple[float, float]]:
    """The ``(bearing, length)`` sides with those ``missing`` (by index) as long as closes the figure.

    One missing side takes what lies along it and leaves the rest as misclosure; two that
    are not parallel close it exactly. What cannot be told stays without length.
    """
    if not 1 <= len(missing) <= 2:
        return legs
    known = [geometry.step(b, length) for n, (b, length) in enumerate(legs) if n not in missing]
    gap = np.array([-math.fsum(v[0] for v in known), -math.fsum(v[1] for v in known)])
    units = np.array([geometry.step(legs[n][0], 1.0) for n in missing]).T
    if units.shape[1] == 2 and abs(float(np.linalg.det(units))) < 1e-6:
        return legs
    lengths = np.linalg.lstsq(units, gap, rcond=None)[0]
    if float(lengths.min()) <= 1e-6:
        return legs
    found = dict(zip(missing, (float(v) for v in lengths), strict=True))
    return [(bearing, found.get(n, length)) for n, (bearing, length) in enumerate(legs)]


def _slope(room: Room, walls: tuple[Wall, ...], corners: list[Point]) -> tuple[int, float, float] | None:
    """The wall a ceiling is lowest at, its height there, and how far from it the ceiling is highest."""
    if room.slope is None or room.slope.wall > len(walls):
        return None
    wall = walls[room.slope.wall - 1]
    run = max(
        ((c[0] - wall.start[0]) * wall.normal[0] + (c[1] - wall.start[1]) * wall.normal[1] for c in corners),
        default=0.0,
    )
    return (wall.number, room.slope.low.mm, run) if run > 1.0 else None


def _wall(
    handle: str, n: int, start: Point, end: Point, turn: float, room: Room, openings: list[Opening]
) -> Wall:
    length = geometry.distance(start, end)
    normal = geometry.inward(start, end)
    return Wall(
        key=f"{handle}.{n}",
        number=n,
        start=start,
        end=end,
        length=length,
        normal=(normal[0] * turn, normal[1] * turn),
        # Masonry has no studs to miss or to nail to.
        studs=() if room.build(n).surface == "brick" else stud_centers(length, room.studs_of(n), openings),
        measured=not room.sides[n - 1].length.unknown,
        depth=room.studs_of(n).depth.mm,
    )


def stud_centers(length: float, studs: Studs, openings: list[Opening]) -> tuple[float, ...]:
    """Stud centers along a wall: one at each end, commons on center, jack and king beside each opening."""
    half = studs.thick.mm / 2
    centers = {half, length - half} if length > 2 * half else set()
    spacing = max(studs.spacing.mm, INCH)
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
    spacing = max(joists.spacing.mm, INCH)
    count = min(int(max(0.0, high - low - joists.first.mm) // spacing) + 1, 2000)
    return tuple(
        low + joists.first.mm + k * spacing
        for k in range(count)
        if low + joists.first.mm + k * spacing < high
    )


def crossings(positions: tuple[float, ...], start: float, end: float) -> list[float]:
    """The framing members strictly between ``start`` and ``end``, in the order met."""
    low, high = min(start, end), max(start, end)
    met = [p for p in positions if low + 1e-6 < p < high - 1e-6]
    return met if start <= end else met[::-1]
