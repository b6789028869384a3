"""Wall spaces: the perimeter unrolled, cut at doors and fixed things, and what lies too far from an outlet.

Spaces run around corners; windows do not break them. A position on the unrolled wall is
counted from the start of wall 1, in mm, once around.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import accumulate, pairwise

import msgspec

from fjeld.derive.bodies import Block
from fjeld.derive.house import RoomShape
from fjeld.drawing.building import Opening
from fjeld.quantities import TOLERANCE, at_least


class WallSpace(msgspec.Struct, frozen=True):
    """A stretch of unrolled wall. ``ring``: it runs all the way around, without an end."""

    start: float
    length: float
    ring: bool = False


class TooFar(msgspec.Struct, frozen=True):
    """A stretch of a space beyond reach: offsets in the space, and by how much at the worst, mm."""

    start: float
    end: float
    by: float


def wall_starts(where: RoomShape) -> list[float]:
    """The unrolled position of each wall's start, and of the end of the last."""
    return [0.0, *accumulate(wall.length for wall in where.walls)]


#: What breaks a wall along the floor line: openings one walks through, and fixed things without a work top.
BREAKING_OPENINGS = ("door", "cased", "sliding")
BREAKING_BODIES = ("fireplace", "cabinet", "tall cabinet", "stairs")


def breaks(
    where: RoomShape, openings: Iterable[Opening], blocks: Iterable[Block] = ()
) -> list[tuple[float, float]]:
    """The stretches of the unrolled wall (mm) where nothing can be plugged in, in order."""
    starts = wall_starts(where)
    cuts = [
        (starts[o.wall - 1] + o.at.mm, starts[o.wall - 1] + o.at.mm + o.width.mm)
        for o in openings
        if o.kind in BREAKING_OPENINGS and o.wall <= len(where.walls)
    ]
    for block in blocks:
        if block.kind in BREAKING_BODIES and block.wall:
            wall = where.walls[block.wall - 1]
            start, end = max(block.start, 0.0), min(block.end, wall.length)
            if start < end:
                cuts.append((starts[block.wall - 1] + start, starts[block.wall - 1] + end))
    return _merged(cuts)


def _merged(cuts: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Overlapping stretches made one."""
    found: list[tuple[float, float]] = []
    for start, end in sorted(cuts):
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((start, end))
    return found


def spaces(where: RoomShape, cuts: Sequence[tuple[float, float]], narrowest: float) -> list[WallSpace]:
    """The wall spaces of a closed room between its ``cuts`` (see :func:`breaks`), the narrow ones dropped."""
    if not where.closed:
        return []
    around = wall_starts(where)[-1]
    if not cuts:
        return [WallSpace(0.0, around, True)]
    found = []
    for n, (_, end) in enumerate(cuts):
        following = cuts[(n + 1) % len(cuts)][0] + (around if n == len(cuts) - 1 else 0.0)
        if at_least(following - end, narrowest):
            found.append(WallSpace(end % around, following - end))
    return found


def offset_in(space: WallSpace, position: float, around: float) -> float | None:
    """Where an unrolled position lies in a space, or None if it lies outside."""
    offset = (position - space.start) % around
    if offset <= space.length + TOLERANCE:
        return min(offset, space.length)
    return 0.0 if around - offset <= TOLERANCE else None


def too_far(space: WallSpace, outlets: Sequence[float], reach: float) -> list[TooFar]:
    """The stretches of a space more than ``reach`` from every outlet at ``outlets`` (offsets)."""
    here = sorted(outlets)
    if not here:
        return [TooFar(0.0, space.length, space.length / 2 if space.ring else space.length)]
    gaps = list(pairwise(here))
    found = [TooFar(a + reach, b - reach, (b - a) / 2 - reach) for a, b in gaps]
    if space.ring:
        rest = here[0] + space.length - here[-1]
        found.append(TooFar(here[-1] + reach, here[0] + space.length - reach, rest / 2 - reach))
    else:
        found += [TooFar(0.0, here[0] - reach, here[0] - reach)]
        found += [TooFar(here[-1] + reach, space.length, space.length - here[-1] - reach)]
    return sorted((t for t in found if t.by > TOLERANCE), key=lambda t: t.start)
