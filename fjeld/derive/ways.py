"""Ways through the whole house: each room's own lanes, joined where rooms share a wall or a floor.

A cable between two boxes of one room stays in that room. Between rooms it takes the
cheapest chain of portals: over the plates of a shared wall, through a stud bay that two
rooms share, or up through the bottom plate of a wall on the storey above. Portals are few
and stand at fixed places, so the shortest ways between them are one small all-pairs
search (Dijkstra), whatever the number of boxes.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Mapping

import msgspec
import numpy as np

from fjeld.derive.house import RoomShape
from fjeld.derive.joins import shared_stretch
from fjeld.derive.lanes import FRAME, PLATE_HOLES, Portal
from fjeld.derive.memo import Remember, always
from fjeld.derive.routes import Leg, Route, Router, merged
from fjeld.drawing.building import Opening
from fjeld.drawing.handles import Handle
from fjeld.geometry import Point, Point3, contains, distance

#: Walls thicker than this are not one wall but two with something between.
THICKEST = 500.0
#: Portals stand this far from the ends of a shared stretch, and at most so far apart.
INSET, APART = 150.0, 1200.0
#: Half of a usual wall: from its face to the middle of its plates.
HALF_WALL = 57.0
#: What holds a plate of the storey above lies this far inside the walls below.
UNDER_PLATE = 150.0


class Passage(msgspec.Struct, frozen=True):
    """Two portals that are one way: keys, rooms, whether it goes up through a floor, and the
    plate's depth.
    """

    a: str
    b: str
    rooms: tuple[Handle, Handle]
    up: bool = False
    depth: float = 0.0


class Portals(msgspec.Struct, frozen=True):
    """The ways out of every room, and which of them meet."""

    of: dict[Handle, tuple[Portal, ...]]
    passages: tuple[Passage, ...]


def portals(
    rooms: Mapping[Handle, RoomShape],
    openings: Mapping[Handle, Mapping[Handle, Opening]],
    drill: Mapping[Handle, float],
    by_corners: bool = False,
) -> Portals:
    """Portals between all closed rooms that stand back to back, or one above the other.

    ``drill`` is the height of each room's lanes along its walls, mm above its floor;
    ``by_corners`` lets cable up into a wall near its ends only, where it may be expected.
    """
    found: dict[Handle, list[Portal]] = defaultdict(list)
    passages: list[Passage] = []
    closed = {h: r for h, r in rooms.items() if r.closed}
    for a, b in itertools.combinations(closed, 2):
        if abs(closed[a].level - closed[b].level) < 1.0:
            _beside(a, b, rooms=closed, openings=openings, drill=drill, found=found, passages=passages)
        else:
            low, high = (a, b) if closed[a].level < closed[b].level else (b, a)
            _above(
                low,
                high,
                rooms=closed,
                openings=openings,
                drill=drill,
                by_corners=by_corners,
                found=found,
                passages=passages,
            )
    return Portals({h: tuple(found[h]) for h in rooms}, tuple(passages))


def _spots(length: float) -> list[float]:
    """Where portals stand along a shared stretch: near its ends, and between them at even steps."""
    if length <= 2 * INSET:
        return [length / 2]
    steps = max(1, math.ceil((length - 2 * INSET) / APART))
    return [INSET + (length - 2 * INSET) * n / steps for n in range(steps + 1)]


def _beside(
    a: Handle,
    b: Handle,
    rooms: Mapping[Handle, RoomShape],
    openings: Mapping[Handle, Mapping[Handle, Opening]],
    drill: Mapping[Handle, float],
    found: dict[Handle, list[Portal]],
    passages: list[Passage],
) -> None:
    for wall, other, start, end in shared_stretch(rooms[a], rooms[b], THICKEST):
        mine, theirs = rooms[a].walls[wall - 1], rooms[b].walls[other - 1]
        first = distance(mine.start, start)
        for n, at in enumerate(_spots(distance(start, end))):
            along = first + at
            beyond = _along(theirs.start, theirs.end, mine.at(along))
            for over in (True, False):
                spots = ((a, b, wall, along), (b, a, other, beyond))
                if not over and any(_open(openings[r], w, s, drill[r]) for r, _, w, s in spots):
                    continue
                kind = "over" if over else "in"
                keys = [f"{r}.{w}>{to}.{n}{kind}" for r, to, w, _ in spots]
                for key, (room, _, number, spot) in zip(keys, spots, strict=True):
                    found[room].append(Portal(key, number, spot, over))
                passages.append(Passage(keys[0], keys[1], (a, b)))


def _above(
    low: Handle,
    high: Handle,
    rooms: Mapping[Handle, RoomShape],
    openings: Mapping[Handle, Mapping[Handle, Opening]],
    drill: Mapping[Handle, float],
    by_corners: bool,
    found: dict[Handle, list[Portal]],
    passages: list[Passage],
) -> None:
    below, upper = rooms[low], rooms[high]
    gap = upper.level - below.level - below.height
    if not 0.0 <= gap < 1000.0:
        return
    for wall in upper.walls:
        spots = _spots(wall.length)
        for n, along in enumerate([spots[0], spots[-1]] if by_corners else spots):
            x, y = wall.at(along)
            plate = (x - wall.normal[0] * HALF_WALL, y - wall.normal[1] * HALF_WALL)
            if not contains(below.corners, plate, UNDER_PLATE) or _open(
                openings[high], wall.number, along, drill[high]
            ):
                continue
            down, up = f"{low}^{high}.{wall.number}.{n}", f"{high}.{wall.number}v{low}.{n}"
            found[low].append(Portal(down, 0, 0.0, True, plate))
            found[high].append(Portal(up, wall.number, along))
            passages.append(Passage(down, up, (low, high), True, wall.depth))


def _along(start: Point, end: Point, spot: Point) -> float:
    length = distance(start, end)
    return ((spot[0] - start[0]) * (end[0] - start[0]) + (spot[1] - start[1]) * (end[1] - start[1])) / length


def _open(openings: Mapping[Handle, Opening], wall: int, along: float, drill: float) -> bool:
    """Whether a door or window is where a cable would go through the wall at drill height."""
    return any(
        o.wall == wall
        and o.at.mm - FRAME < along < o.at.mm + o.width.mm + FRAME
        and o.sill.mm < drill < o.head.mm
        for o in openings.values()
    )


def _between(router: Router, keys: list[str]) -> np.ndarray:
    """The cost of each way between two portals of one room, mm, shape (ways, 3): their places among the keys,
    and what it costs.
    """
    pairs = [(i, j, router.cost(keys[i], keys[j])) for i, j in itertools.combinations(range(len(keys)), 2)]
    found = np.array(pairs, dtype=float).reshape(-1, 3)
    there: np.ndarray = found[np.isfinite(found[:, 2])]
    return there


def _all_pairs(n: int, ways: bytes) -> tuple[np.ndarray, np.ndarray]:
    """Costs and predecessors between all of ``n`` nodes, by the ways between some: rows of two nodes and a
    cost.
    """
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import dijkstra

    rows, columns, costs = np.frombuffer(ways).reshape(-1, 3).T
    # csgraph reads 0 as "no edge".
    edges = np.maximum(costs, 1e-3), (rows.astype(int), columns.astype(int))
    matrix = csr_matrix(edges, shape=(n, n))
    found: tuple[np.ndarray, np.ndarray] = dijkstra(matrix, directed=False, return_predecessors=True)
    return found


class Ways:
    """Shortest ways between any two boxes of the house."""

    def __init__(
        self,
        routers: Mapping[Handle, Router],
        rooms: Mapping[Handle, Handle],
        found: Portals,
        remember: Remember = always,
    ) -> None:
        self.routers = routers
        self._remember = remember
        self._room = rooms
        self._passages = {(p.a, p.b): p for p in found.passages}
        there = {h: r.lanes.boxes for h, r in routers.items()}
        self._keys = [p.key for h, of in found.of.items() for p in of if p.key in there.get(h, ())]
        self._index = {key: n for n, key in enumerate(self._keys)}
        self._of = {h: [p.key for p in of if p.key in self._index] for h, of in found.of.items()}
        self._home = {key: h for h, keys in self._of.items() for key in keys}
        self._solved: tuple[np.ndarray, np.ndarray] | None = None
        self._known: dict[tuple[str, str], Route | None] = {}

    def _all(self) -> tuple[np.ndarray, np.ndarray]:
        """Costs and predecessors between all portals."""
        if self._solved is None:
            ways = []
            for room, keys in self._of.items():
                mine = self._remember.same("between portals", _between, self.routers[room], keys)
                at = np.array([self._index[key] for key in keys], dtype=int)
                places = mine[:, :2].astype(int)
                ways.append(np.column_stack([at[places], mine[:, 2]]) if len(mine) else mine)
            # A room too small for lanes overhead has no node for its ways out.
            known = [p for p in self._passages.values() if p.a in self._index and p.b in self._index]
            across = [(self._index[p.a], self._index[p.b], self._across(p)) for p in known]
            ways.append(np.array(across, dtype=float).reshape(-1, 3))
            self._solved = self._remember("ways", _all_pairs, len(self._keys), np.concatenate(ways).tobytes())
        return self._solved

    def _spot(self, key: str) -> Point3:
        lanes = self.routers[self._home[key]].lanes
        return lanes.nodes[lanes.boxes[key]]

    def _across(self, passage: Passage) -> float:
        apart = distance(self._spot(passage.a), self._spot(passage.b))
        return apart + (PLATE_HOLES * self.routers[self._home[passage.a]].lanes.hole if passage.up else 0.0)

    def cost(self, a: str, b: str) -> float:
        """Cost of the best way between two boxes, mm; infinite when there is none."""
        return self._best(a, b)[0]

    def _best(self, a: str, b: str) -> tuple[float, str, str]:
        """The cost, and the portals at which the way leaves the first room and enters the last."""
        here, there = self._room.get(Handle(a)), self._room.get(Handle(b))
        if here is None or there is None:
            return math.inf, "", ""
        if here == there:
            return self.routers[here].cost(a, b), "", ""
        out, into = self._of[here], self._of[there]
        if not out or not into:
            return math.inf, "", ""
        between = self._all()[0][np.ix_([self._index[k] for k in out], [self._index[k] for k in into])]
        first = np.array([self.routers[here].cost(a, k) for k in out])
        last = np.array([self.routers[there].cost(b, k) for k in into])
        total = first[:, None] + between + last[None, :]
        i, j = np.unravel_index(int(np.argmin(total)), total.shape)
        return float(total[i, j]), out[int(i)], into[int(j)]

    def route(self, a: str, b: str) -> Route | None:
        """The best way between two boxes, or none."""
        if (a, b) not in self._known:
            self._known[a, b] = self._route(a, b)
        return self._known[a, b]

    def _route(self, a: str, b: str) -> Route | None:
        cost, out, into = self._best(a, b)
        if not math.isfinite(cost):
            return None
        if not out:
            return self.routers[self._room[Handle(a)]].route(a, b)
        chain = self._chain(out, into)
        passed = tuple(self.routers[self._home[key]] for key in chain)
        return self._remember.same("way", lambda *_: self._along(a, chain, b), a, chain, b, passed)

    def _along(self, a: str, chain: list[str], b: str) -> Route:
        """The way from box to box through a chain of portals."""
        legs = [*self._within(self._home[chain[0]], a, chain[0])]
        for p, q in itertools.pairwise(chain):
            legs += self._within(self._home[p], p, q) if self._home[p] == self._home[q] else self._cross(p, q)
        return Route(merged([*legs, *self._within(self._home[chain[-1]], chain[-1], b)]))

    def _within(self, room: Handle, a: str, b: str) -> tuple[Leg, ...]:
        found = self.routers[room].route(a, b)
        return found.legs if found else ()

    def _chain(self, out: str, into: str) -> list[str]:
        before = self._all()[1][self._index[out]]
        chain = [self._index[into]]
        while chain[-1] != self._index[out]:
            chain.append(int(before[chain[-1]]))
        return [self._keys[n] for n in reversed(chain)]

    def _cross(self, p: str, q: str) -> list[Leg]:
        start, end = self._spot(p), self._spot(q)
        passage = self._passages.get((p, q)) or self._passages[q, p]
        if not passage.up:
            return [Leg(start, end, "through")]
        # Plate and subfloor are bored in one; the rest of the way is up the stud bay.
        low, high = (start, end) if start[2] < end[2] else (end, start)
        foot = (high[0], high[1], low[2] + 1.0)
        legs = [Leg(low, foot, "plate", (0.0,), passage.depth), Leg(foot, high, "stud")]
        return (
            legs
            if low is start
            else [
                Leg(leg.end, leg.start, leg.medium, tuple(leg.length - b for b in leg.bores), leg.depth)
                for leg in reversed(legs)
            ]
        )
