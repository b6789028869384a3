"""The fewest outlets that serve a wall space, then slid to the evenest spacing.

Greedy over the positions allowed (beside studs): at the first point not served, the
farthest position that still serves it. For intervals on a line this is optimal: any
solution must serve that point, and none reaches further. A second pass keeps the number
and spreads them by dynamic programming over the same positions.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import msgspec

from fjeld.derive.bodies import Block
from fjeld.derive.facts.spots import IN_WALL
from fjeld.derive.house import RoomShape, Wall
from fjeld.derive.wall_spaces import WallSpace, breaks, offset_in, spaces, too_far, wall_starts
from fjeld.drawing.building import Opening, Room
from fjeld.quantities import TOLERANCE


class OutletPlan(msgspec.Struct, frozen=True):
    """Outlets to add: (wall number, distance along it, mm) each; ``short`` when a stretch stays
    out of reach.
    """

    added: tuple[tuple[int, float], ...]
    short: bool


#: An outlet cannot be reached, or cannot stand, behind these.
COVERING = ("fireplace", "cabinet", "tall cabinet", "stairs", "bath", "shower", "counter", "cooker")


def allowed(
    where: RoomShape,
    openings: tuple[Opening, ...],
    blocks: tuple[Block, ...],
    room: Room,
    bottom: float,
    body: tuple[float, float],
) -> list[tuple[float, int, float]]:
    """Where an outlet can go: (unrolled position, wall, along), clear of openings and of what stands before
    the wall.

    ``body`` is the box's width and height, ``bottom`` the height of its foot, mm.
    Beside a stud in open framing; in the middle of a bay where the wall is closed.
    """
    found = []
    starts = wall_starts(where)
    half, tall = body[0] / 2, body[1]
    for wall in where.walls:
        thick = room.studs_of(wall.number).thick.mm
        covered = [(b.start, b.end) for b in blocks if b.wall == wall.number and b.kind in COVERING]
        covered += _opened(openings, wall.number, bottom, bottom + tall)
        for along in _spots(wall, thick, half, room.build(wall.number).closed):
            if (
                half <= along <= wall.length - half
                and all(abs(along - other) >= thick / 2 + half - 2 for other in wall.studs)
                and not any(start - half < along < end + half for start, end in covered)
                and not _blocked(where, wall, along=along, bottom=bottom, body=body, blocks=blocks)
            ):
                found.append((starts[wall.number - 1] + along, wall.number, along))
    return sorted(found)


def _opened(openings: Sequence[Opening], wall: int, low: float, high: float) -> Iterator[tuple[float, float]]:
    """Where the openings of a wall begin and end along it, of those that reach between two heights, mm."""
    for o in openings:
        if o.wall == wall and o.sill.mm < high and o.head.mm > low:
            yield o.at.mm, o.at.mm + o.width.mm


def _spots(wall: Wall, thick: float, half: float, closed: bool) -> list[float]:
    if closed:
        return [(a + b) / 2 for a, b in pairwise(wall.studs)]
    return [at for stud in wall.studs for at in (stud - thick / 2 - half, stud + thick / 2 + half)]


def _blocked(
    where: RoomShape,
    wall: Wall,
    along: float,
    bottom: float,
    body: tuple[float, float],
    blocks: tuple[Block, ...],
) -> bool:
    """Whether a duct, pipe or flue is where the box would be."""
    x, y = wall.at(along)
    z = where.level + bottom + body[1] / 2
    outer = (x - wall.normal[0] * IN_WALL, y - wall.normal[1] * IN_WALL, z)
    return any(b.in_the_way and b.met((x, y, z), outer, body[0]) for b in blocks)


def propose(
    where: RoomShape,
    openings: tuple[Opening, ...],
    blocks: tuple[Block, ...],
    standing: list[float],
    room: Room,
    bottom: float,
    body: tuple[float, float],
    reach: float,
    narrowest: float,
) -> OutletPlan:
    """The outlets to add to those ``standing`` (unrolled positions) in every wall space of a room."""
    around = wall_starts(where)[-1] if where.walls else 0.0
    spots = allowed(where, openings, blocks=blocks, room=room, bottom=bottom, body=body)
    added: list[tuple[int, float]] = []
    short = False
    for space in spaces(where, breaks(where, openings, blocks), narrowest):
        here = [
            (o, wall, along) for at, wall, along in spots if (o := offset_in(space, at, around)) is not None
        ]
        here.sort()
        fixed = [o for at in standing if (o := offset_in(space, at, around)) is not None]
        chosen = _fewest(space, [o for o, *_ in here], fixed, reach)
        if not fixed and not space.ring:
            chosen = _evenest(space, [o for o, *_ in here], len(chosen), reach) or chosen
        by_offset = {o: (wall, along) for o, wall, along in here}
        added += [by_offset[o] for o in chosen]
        short = short or bool(too_far(space, [*fixed, *chosen], reach))
    return OutletPlan(tuple(added), short)


def _fewest(space: WallSpace, spots: list[float], fixed: list[float], reach: float) -> list[float]:
    if space.ring and not fixed:
        starts = [s for s in spots if s <= spots[0] + 2 * reach] if spots else []
        ways = [[s, *_greedy(space, spots, [s], reach)] for s in starts]
        return min(ways, key=lambda w: (len(too_far(space, w, reach)), len(w)), default=[])
    return _greedy(space, spots, fixed, reach)


def _greedy(space: WallSpace, spots: list[float], fixed: list[float], reach: float) -> list[float]:
    chosen: list[float] = []
    dead: set[float] = set()
    while True:
        open_ = [t for t in too_far(space, [*fixed, *chosen], reach) if t.start not in dead]
        if not open_:
            return chosen
        first = open_[0].start % space.length if space.ring else open_[0].start
        near = [s for s in spots if s not in chosen and abs(s - first) <= reach + TOLERANCE]
        if not near:
            dead.add(open_[0].start)
            continue
        chosen.append(max(near))


def _evenest(space: WallSpace, spots: list[float], count: int, reach: float) -> list[float] | None:
    """``count`` positions whose gaps come nearest to even, all of the space in reach; None if
    there are none.
    """
    if not count:
        return None
    ideal = space.length / count
    best: dict[float, tuple[float, list[float]]] = {
        s: ((s - ideal / 2) ** 2, [s]) for s in spots if s <= reach + TOLERANCE
    }
    for _ in range(count - 1):
        following: dict[float, tuple[float, list[float]]] = {}
        for s in spots:
            ways = [
                (cost + (s - t - ideal) ** 2, [*path, s])
                for t, (cost, path) in best.items()
                if t < s <= t + 2 * reach + TOLERANCE
            ]
            if ways:
                following[s] = min(ways)
        best = following
    ends = [
        (cost + (space.length - s - ideal / 2) ** 2, path)
        for s, (cost, path) in best.items()
        if space.length - s <= reach + TOLERANCE
    ]
    return min(ends)[1] if ends else None
