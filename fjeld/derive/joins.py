"""Rooms laid side by side: each opening measured from both of its rooms says where one lies from the other.

A room reached through a chain of openings is placed by them; a loop of rooms comes back
to where it began with a misfit. Within the practice's limit the misfits are spread over
the openings by least squares, every opening weighing the same. Beyond it nothing is
spread: rooms stand where the first way to each puts them, and the misfit is shown.
Rooms keep their own shapes throughout: only their places move.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

import msgspec
import numpy as np

from fjeld.derive.house import RoomShape, shape
from fjeld.drawing.building import Join, Opening, Room, Side, Storey
from fjeld.drawing.handles import Handle, order
from fjeld.geometry import Point


class Misfit(msgspec.Struct, frozen=True):
    """By how much an opening's two sides miss each other in plan (mm), once all rooms stand."""

    join: Handle
    east: float
    south: float
    facing: bool

    @property
    def size(self) -> float:
        return float(np.hypot(self.east, self.south))


class Placement(msgspec.Struct, frozen=True):
    """Where each room's first corner lies on its storey, and how well the openings agree."""

    origins: dict[Handle, Point]
    misfits: tuple[Misfit, ...]
    spread: bool


def opposite(opening: Opening, join: Join, here: Side, there: Side) -> Opening:
    """The opening as it is seen, walked and hung in the room beyond it."""
    turned = math.cos(math.radians(there.bearing - here.bearing)) < -1e-9
    hinge = {"start": "end", "end": "start"}[opening.hinge] if turned else opening.hinge
    return msgspec.structs.replace(
        opening,
        room=join.room,
        wall=join.wall,
        at=join.at,
        hinge=hinge,
        swing={"in": "out", "out": "in"}[opening.swing],
    )


def openings_by_room(
    rooms: Mapping[Handle, Room], openings: Mapping[Handle, Opening], joins: Mapping[Handle, Join]
) -> dict[Handle, dict[Handle, Opening]]:
    """Every opening of each room, its own and those that lead into it, as seen from there."""
    found: dict[Handle, dict[Handle, Opening]] = {room: {} for room in rooms}
    for handle, opening in openings.items():
        found[opening.room][handle] = opening
    for join in joins.values():
        opening = openings[join.opening]
        here, there = rooms[opening.room].sides[opening.wall - 1], rooms[join.room].sides[join.wall - 1]
        found[join.room][join.opening] = opposite(opening, join, here, there)
    return found


def placement(
    shapes: Mapping[Handle, RoomShape],
    rooms: Mapping[Handle, Room],
    openings: Mapping[Handle, Opening],
    joins: Mapping[Handle, Join],
    limit: float,
) -> Placement:
    """Place the rooms. ``shapes`` stand at their own first corners; ``limit`` (mm) is the misfit still
    spread.
    """
    steps = {h: s for h, j in joins.items() if (s := _step(shapes, openings[j.opening], j)) is not None}
    ends = {h: (openings[joins[h].opening].room, joins[h].room) for h in steps}
    first = _along_the_first_way(rooms, ends, steps)
    loose = _misfits(joins, steps, ends=ends, origins=first, shapes=shapes, openings=openings)
    within = all(m.size <= limit for m in loose)
    origins = (
        _least_squares(rooms, ends, steps, first) if within and any(m.size > 1e-6 for m in loose) else first
    )
    return Placement(
        origins, _misfits(joins, steps, ends=ends, origins=origins, shapes=shapes, openings=openings), within
    )


def _step(shapes: Mapping[Handle, RoomShape], opening: Opening, join: Join) -> Point | None:
    """From the first corner of the opening's room to that of the room beyond, or None while walls are
    missing.
    """
    here, there = shapes[opening.room], shapes[join.room]
    if len(here.walls) < opening.wall or len(there.walls) < join.wall:
        return None
    wall, beyond = here.walls[opening.wall - 1], there.walls[join.wall - 1]
    middle = wall.at(opening.at.mm + opening.width.mm / 2)
    through = (middle[0] - wall.normal[0] * join.thick.mm, middle[1] - wall.normal[1] * join.thick.mm)
    seen = beyond.at(join.at.mm + opening.width.mm / 2)
    return through[0] - seen[0], through[1] - seen[1]


def _along_the_first_way(
    rooms: Mapping[Handle, Room], ends: Mapping[Handle, tuple[Handle, Handle]], steps: Mapping[Handle, Point]
) -> dict[Handle, Point]:
    """Each room where the fewest openings put it, from the first room of its group; ties by handle."""
    found: dict[Handle, Point] = {}
    for root in rooms:
        if root in found:
            continue
        found[root] = (rooms[root].x.mm, rooms[root].y.mm)
        waiting = [root]
        for room in waiting:
            for join in sorted(steps, key=order):
                (a, b), (dx, dy) = ends[join], steps[join]
                x, y = found[room]
                if a == room and b not in found:
                    found[b] = (x + dx, y + dy)
                    waiting.append(b)
                elif b == room and a not in found:
                    found[a] = (x - dx, y - dy)
                    waiting.append(a)
    return found


def _least_squares(
    rooms: Mapping[Handle, Room],
    ends: Mapping[Handle, tuple[Handle, Handle]],
    steps: Mapping[Handle, Point],
    first: Mapping[Handle, Point],
) -> dict[Handle, Point]:
    """The places that make the openings' misfits least, as small corrections to ``first``.

    The smallest corrections are taken (the pseudo-inverse), then each group of rooms is
    shifted as one so that its first room stays where it was put.
    """
    order_of = {room: n for n, room in enumerate(rooms)}
    matrix = np.zeros((len(steps), len(order_of)))
    wanted = np.zeros((len(steps), 2))
    for row, join in enumerate(steps):
        a, b = ends[join]
        matrix[row, order_of[b]], matrix[row, order_of[a]] = 1.0, -1.0
        wanted[row] = np.subtract(steps[join], np.subtract(first[b], first[a]))
    moved = np.linalg.pinv(matrix) @ wanted
    root = _roots(rooms, ends)
    return {
        room: (
            # Rounded, so that the same survey gives the same places to the last bit.
            round(float(first[room][0] + moved[n, 0] - moved[order_of[root[room]], 0]), 4),
            round(float(first[room][1] + moved[n, 1] - moved[order_of[root[room]], 1]), 4),
        )
        for room, n in order_of.items()
    }


def _roots(
    rooms: Mapping[Handle, Room], ends: Mapping[Handle, tuple[Handle, Handle]]
) -> dict[Handle, Handle]:
    """The first room of each room's group."""
    root = {room: room for room in rooms}
    for _ in rooms:
        for a, b in ends.values():
            low = min(root[a], root[b], key=list(rooms).index)
            root[a] = root[b] = low
    return root


def _misfits(
    joins: Mapping[Handle, Join],
    steps: Mapping[Handle, Point],
    ends: Mapping[Handle, tuple[Handle, Handle]],
    origins: Mapping[Handle, Point],
    shapes: Mapping[Handle, RoomShape],
    openings: Mapping[Handle, Opening],
) -> tuple[Misfit, ...]:
    found = []
    for join, (dx, dy) in steps.items():
        (a, b), opening = ends[join], openings[joins[join].opening]
        wall, beyond = shapes[a].walls[opening.wall - 1], shapes[b].walls[joins[join].wall - 1]
        facing = wall.normal[0] * beyond.normal[0] + wall.normal[1] * beyond.normal[1] < -0.99
        off = (origins[a][0] + dx - origins[b][0], origins[a][1] + dy - origins[b][1])
        found.append(Misfit(join, off[0], off[1], facing))
    return tuple(found)


def moved(shape: RoomShape, origin: Point, level: float) -> RoomShape:
    """The same room with its first corner at ``origin``, its floor at ``level``."""
    dx, dy = origin[0] - shape.origin[0], origin[1] - shape.origin[1]

    def shift(p: Point) -> Point:
        return p[0] + dx, p[1] + dy

    walls = tuple(
        msgspec.structs.replace(wall, start=shift(wall.start), end=shift(wall.end)) for wall in shape.walls
    )
    return msgspec.structs.replace(
        shape,
        corners=tuple(shift(c) for c in shape.corners),
        walls=walls,
        origin=origin,
        level=level,
        joists=tuple(j + (dx, dy)[shape.joist_axis] for j in shape.joists),
    )


def shared_stretch(a: RoomShape, b: RoomShape, thickest: float) -> list[tuple[int, int, Point, Point]]:
    """Where two rooms stand back to back: wall numbers and the ends of each shared stretch, on
    ``a``'s face.
    """
    found = []
    for wall in a.walls:
        u = wall.run
        for other in b.walls:
            if wall.normal[0] * other.normal[0] + wall.normal[1] * other.normal[1] > -0.999:
                continue
            gap = (wall.start[0] - other.start[0]) * wall.normal[0] + (
                wall.start[1] - other.start[1]
            ) * wall.normal[1]
            spots = sorted(
                (p[0] - wall.start[0]) * u[0] + (p[1] - wall.start[1]) * u[1]
                for p in (other.start, other.end)
            )
            low, high = max(0.0, spots[0]), min(wall.length, spots[1])
            if -1.0 <= gap <= thickest and high - low > 1.0:
                found.append((wall.number, other.number, wall.at(low), wall.at(high)))
    return found


class Laid(msgspec.Struct, frozen=True):
    """The survey as it stands: rooms on their storeys, the openings of each, how well they agree."""

    rooms: dict[Handle, RoomShape]
    openings: dict[Handle, dict[Handle, Opening]]
    placement: Placement


def lay(
    rooms: Mapping[Handle, Room],
    storeys: Mapping[Handle, Storey],
    openings: Mapping[Handle, Opening],
    joins: Mapping[Handle, Join],
    closes: float,
    misfit: float,
) -> Laid:
    """Lay all rooms; ``closes`` is the misclosure still spread (%), ``misfit`` that of openings (mm)."""
    seen = openings_by_room(rooms, openings, joins)
    shapes = {h: shape(h, room, tuple(seen[h].values()), closes) for h, room in rooms.items()}
    found = placement(shapes, rooms, openings, joins, misfit)
    placed = {
        h: moved(s, found.origins[h], storeys[level].level.mm if (level := rooms[h].storey) else 0.0)
        for h, s in shapes.items()
    }
    return Laid(placed, seen, found)
