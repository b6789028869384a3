"""Arrays of ceiling lights: by half a spacing from the walls, or by a fixed offset.

Half-spacing: x_i = w (i + ½) / n. Offset o: x_1 = o, x_n = w − o, equal steps between; from
rough framing o is less by the board. By mounting height the counts follow from a target
spacing, so many times the height of the lamp above what it lights.
In a room that is no rectangle the array is laid over the room's bounding rectangle and
clipped to the room shrunk by the wall clearance.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import product
from typing import Literal

import msgspec

from fjeld.derive.house import RoomShape
from fjeld.geometry import contains, to_segment

School = Literal["half-spacing", "offset", "framing", "mounting"]
MOST_IN_ROW = 40
#: Light is wanted at this height where nothing else is said, and falls at least so far, mm.
WORK_PLANE, LEAST_DROP = 762.0, 300.0


class RowsRefused(ValueError):
    """The array cannot be laid; the message says why."""


class Array(msgspec.Struct, frozen=True):
    """Light positions (mm in the room), the spacings, and how near the walls come."""

    points: tuple[tuple[float, float], ...]
    dropped: int
    spacing: tuple[float, float]
    worst_wall: float
    ratio: float
    shift: tuple[float, float] = (0.0, 0.0)


def stations(width: float, count: int, school: School, offset: float = 0.0) -> list[float]:
    """Positions of ``count`` lights across ``width`` (mm); raises :class:`RowsRefused`."""
    if count < 1 or count > MOST_IN_ROW:
        raise RowsRefused(f"a row has 1 to {MOST_IN_ROW} lights")
    if school in ("half-spacing", "mounting") or count == 1:
        return [width * (i + 0.5) / count for i in range(count)]
    if not 0 < offset < width / 2:
        raise RowsRefused("the offset must be less than half the room")
    step = (width - 2 * offset) / (count - 1)
    return [offset + i * step for i in range(count)]


def array(
    where: RoomShape,
    across: int,
    down: int,
    school: School,
    offset: float,
    clearance: float,
    taken: Callable[[tuple[float, float]], bool] = lambda spot: False,
) -> Array:
    """An array of ``across × down`` lights over a closed room, clipped to it and to what is ``taken``
    overhead.
    """
    if not where.closed:
        raise RowsRefused("the walls do not close yet")
    (left, right), (top, foot) = ((min(at), max(at)) for at in zip(*where.corners, strict=True))
    xs = [left + x for x in stations(right - left, across, school, offset)]
    ys = [top + y for y in stations(foot - top, down, school, offset)]
    wanted = [(x, y) for y in ys for x in xs]
    inside = [p for p in wanted if contains(where.corners, p) and wall_distance(where, p) >= clearance - 0.5]
    kept = tuple(p for p in inside if not taken(p))
    if not kept:
        raise RowsRefused("no light of this array lies in the room clear of its walls")
    return _described(where, kept, len(wanted) - len(kept), xs, ys)


def by_mounting(where: RoomShape, plane: float = WORK_PLANE, ratio: float = 1.0) -> tuple[int, int]:
    """How many across and down, so that no spacing exceeds ``ratio`` × the height above the plane (mm)."""
    xs, ys = [c[0] for c in where.corners], [c[1] for c in where.corners]
    target = max(where.height - plane, LEAST_DROP) * ratio
    return max(1, math.ceil((max(xs) - min(xs)) / target)), max(1, math.ceil((max(ys) - min(ys)) / target))


def proposals(where: RoomShape, clearance: float, most: int = 6) -> list[tuple[int, int, Array]]:
    """Arrays that suit a room, the evenest spacing first: (across, down, array)."""
    across, down = by_mounting(where)
    found: list[tuple[int, int, Array]] = []
    for n in range(max(1, across - 1), min(across + 1, 12) + 1):
        for m in range(max(1, down - 1), min(down + 1, 12) + 1):
            try:
                found.append(
                    (n, m, array(where, n, down=m, school="half-spacing", offset=0.0, clearance=clearance))
                )
            except RowsRefused:
                continue
    return sorted(found, key=lambda f: (f[2].dropped, abs(f[2].ratio - 1), len(f[2].points)))[:most]


def _described(
    where: RoomShape, kept: tuple[tuple[float, float], ...], dropped: int, xs: list[float], ys: list[float]
) -> Array:
    spacing = (xs[1] - xs[0] if len(xs) > 1 else 0.0, ys[1] - ys[0] if len(ys) > 1 else 0.0)
    longest, shortest = max(spacing), min(s for s in spacing if s > 0) if max(spacing) else 0.0
    worst = min(wall_distance(where, p) for p in kept)
    return Array(kept, dropped, spacing, worst, longest / shortest if shortest else 1.0)


def wall_distance(where: RoomShape, point: tuple[float, float]) -> float:
    """From a point to the nearest wall, mm."""
    return min(to_segment(point, wall.start, wall.end) for wall in where.walls)


def snapped(found: Array, where: RoomShape, joist: float, housing: float, clearance: float) -> Array:
    """The array with each row moved as a whole, by the least that clears the joists.

    Touching passes. Raises :class:`RowsRefused`, naming the row, where the joists leave
    no bay wide enough; a bar-hung or a pan box goes there instead.
    """
    axis = where.joist_axis
    needed = joist / 2 + housing / 2 + clearance
    moved: dict[float, float] = {}
    for at in sorted({round(p[axis], 3) for p in found.points}):
        moved[at] = at + least_shift(at, where.joists, needed)
    points = []
    for point in found.points:
        there = list(point)
        there[axis] = moved[round(point[axis], 3)]
        points.append((there[0], there[1]))
    worst = max((new - old for old, new in moved.items()), key=abs, default=0.0)
    shift = (worst, 0.0) if axis == 0 else (0.0, worst)
    clipped = min(wall_distance(where, p) for p in points)
    return msgspec.structs.replace(found, points=tuple(points), shift=shift, worst_wall=clipped)


def snapped_whole(found: Array, where: RoomShape, joist: float, housing: float, clearance: float) -> Array:
    """The array moved as one, its spacing kept, by the least that clears every row of the joists.

    Raises :class:`RowsRefused` where no such move lies within a joist's spacing either way.
    """
    axis = where.joist_axis
    needed = joist / 2 + housing / 2 + clearance
    stations_ = sorted({round(p[axis], 3) for p in found.points})
    at_joists = list(product(stations_, where.joists))
    tries = {0.0} | {j + side * needed - at for at, j in at_joists for side in (-1, 1)}

    def clears(move: float) -> bool:
        return abs(move) <= 1220 and all(abs(at + move - j) >= needed - 0.5 for at, j in at_joists)

    best = min(filter(clears, tries), key=lambda t: (abs(t), t), default=None)
    if best is None:
        raise RowsRefused(
            "no move of the whole array clears the joists with its spacing kept; let each row move by itself"
        )
    shift = (best, 0.0) if axis == 0 else (0.0, best)
    points = tuple((x + shift[0], y + shift[1]) for x, y in found.points)
    if not all(contains(where.corners, p) for p in points):
        raise RowsRefused("moved as one, the array would leave the room; let each row move by itself")
    clipped = min(wall_distance(where, p) for p in points)
    return msgspec.structs.replace(found, points=points, shift=shift, worst_wall=clipped)


def least_shift(at: float, joists: tuple[float, ...], needed: float) -> float:
    """The least move (mm, signed) that brings ``at`` to ``needed`` from every joist center."""

    def clear(x: float) -> bool:
        return all(abs(x - j) >= needed - 0.5 for j in joists)

    if clear(at):
        return 0.0
    tries = [x for j in joists for x in (j - needed, j + needed) if clear(x)]
    best = min(tries, key=lambda x: (abs(x - at), x), default=None)
    if best is None or abs(best - at) > 1220:
        raise RowsRefused("the joists leave no bay wide enough; use a bar-hung or a pan box")
    return best - at
