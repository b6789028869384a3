"""The way each cable takes, and its sums: cut length, staples, holes, plates, fire-stops.

Shortest paths by Dijkstra over the lanes (:mod:`scipy.sparse.csgraph`), cost being length
plus holes. Supports follow the unbored stretches of the route between box, hole and hole.
"""

from __future__ import annotations

import itertools
import math
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from functools import cached_property

import msgspec
import numpy as np

from fjeld.derive.lanes import OPENED_HOLES, PLATE_HOLES, LaneEdge, Lanes, Medium
from fjeld.geometry import Point3, distance
from fjeld.practice import Practice, rules
from fjeld.quantities import Line, Working, at_most

#: Stretches behind a finished surface, where no hand reaches: no staple, no hole.
FISHED = ("fished", "opened")


#: Stretches in the void over a ceiling.
_OVERHEAD = ("joist", "bored ceiling", "plate")


class Leg(msgspec.Struct, frozen=True, dict=True):
    """A straight stretch of a route; ``bores`` are distances (mm) from its start, ``depth`` that of the
    ``member`` crossed.
    """

    start: Point3
    end: Point3
    medium: Medium
    bores: tuple[float, ...] = ()
    depth: float = 0.0
    member: str = ""

    @cached_property
    def length(self) -> float:
        return distance(self.start, self.end)

    def at(self, along: float) -> Point3:
        """The point ``along`` mm from its start."""
        t = along / self.length if self.length else 0.0
        x, y, z = (a + t * (b - a) for a, b in zip(self.start, self.end, strict=True))
        return x, y, z


class Route(msgspec.Struct, frozen=True, dict=True):
    """The way of one cable from box to box."""

    legs: tuple[Leg, ...]

    @cached_property
    def length(self) -> float:
        """Length along the way, mm."""
        return math.fsum(leg.length for leg in self.legs)

    @cached_property
    def ends(self) -> list[float]:
        """How far from its start each leg ends, mm."""
        return list(itertools.accumulate(leg.length for leg in self.legs))

    @property
    def holes(self) -> int:
        """Studs and joists bored."""
        return sum(len(leg.bores) for leg in self.legs if leg.medium not in ("plate", "opened"))

    @property
    def openings(self) -> int:
        """Openings in finished surfaces, one at each member that is crossed behind them."""
        return sum(len(leg.bores) for leg in self.legs if leg.medium == "opened")

    @property
    def fished(self) -> float:
        """Length behind finished surfaces, mm."""
        return math.fsum(leg.length for leg in self.legs if leg.medium in FISHED)

    @property
    def fire_stops(self) -> int:
        """Plates bored, each to be filled."""
        return sum(len(leg.bores) for leg in self.legs if leg.medium == "plate")

    @property
    def weight(self) -> int:
        """Its crossings, in bored holes: what the way was chosen by, beside its length."""
        return self.holes + self.fire_stops * PLATE_HOLES + self.openings * OPENED_HOLES


class Router:
    """Shortest ways through one room's lanes, each source searched and each way traced once."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes
        n = len(lanes.nodes)
        rows = [e.a for e in lanes.edges] + [e.b for e in lanes.edges]
        columns = [e.b for e in lanes.edges] + [e.a for e in lanes.edges]
        # A box and the lane beside it may be at one spot; csgraph reads 0 as "no edge".
        costs = [max(e.cost(lanes.hole), 1e-3) for e in lanes.edges] * 2
        from scipy.sparse import csr_matrix  # half a second that only laying ways is worth

        self._matrix = csr_matrix((costs, (rows, columns)), shape=(n, n))
        self._edges = {(min(e.a, e.b), max(e.a, e.b)): e for e in lanes.edges}
        self._found: dict[int, tuple[np.ndarray, np.ndarray]] = {}
        self._traced: dict[tuple[str, str], Route | None] = {}

    def _from(self, source: int) -> tuple[np.ndarray, np.ndarray]:
        if source not in self._found:
            from scipy.sparse.csgraph import dijkstra

            # All boxes of the room at once: a call costs more than a source.
            sources = sorted({source, *self.lanes.boxes.values()} - {*self._found})
            costs, before = dijkstra(self._matrix, indices=sources, return_predecessors=True)
            self._found |= {n: (costs[k], before[k]) for k, n in enumerate(sources)}
        return self._found[source]

    def cost(self, a: str, b: str) -> float:
        """Cost of the best way between two boxes, mm; infinite when there is none."""
        boxes = self.lanes.boxes
        if a not in boxes or b not in boxes:
            return math.inf
        return float(self._from(boxes[a])[0][boxes[b]])

    def route(self, a: str, b: str) -> Route | None:
        """The best way between two boxes, or none."""
        if (a, b) not in self._traced:
            self._traced[a, b] = self._trace(a, b)
        return self._traced[a, b]

    def _trace(self, a: str, b: str) -> Route | None:
        if not math.isfinite(self.cost(a, b)):
            return None
        source, here = self.lanes.boxes[a], self.lanes.boxes[b]
        before = self._from(source)[1]
        steps: list[Leg] = []
        while here != source:
            previous = int(before[here])
            steps.append(self._leg(self._edges[min(previous, here), max(previous, here)], previous, here))
            here = previous
        return Route(merged(reversed(steps)))

    def _leg(self, edge: LaneEdge, start: int, end: int) -> Leg:
        bores = edge.bores if edge.a == start else tuple(edge.length - b for b in reversed(edge.bores))
        return Leg(
            start=self.lanes.nodes[start],
            end=self.lanes.nodes[end],
            medium=edge.medium,
            bores=bores,
            depth=edge.depth,
            member=edge.member,
        )


def merged(steps: Iterable[Leg]) -> tuple[Leg, ...]:
    """The stretches of a way, those that go straight on in one kind of lane made one."""
    legs: list[Leg] = []
    for leg in steps:
        if leg.length < 1e-6 and not leg.bores:
            continue
        last = legs[-1] if legs else None
        if last and _same_way(last, leg):
            bores = (*last.bores, *(last.length + b for b in leg.bores))
            legs[-1] = Leg(
                start=last.start,
                end=leg.end,
                medium=last.medium if last.bores else leg.medium,
                bores=bores,
                depth=max(last.depth, leg.depth),
                member=last.member if last.bores else leg.member,
            )
        else:
            legs.append(leg)
    return tuple(legs)


_KINDRED = {
    "joist": "ceiling",
    "bored ceiling": "ceiling",
    "bored wall": "wall",
    "stud": "stud",
    "plate": "plate",
    "box": "box",
    "through": "through",
    "fished": "behind",
    "opened": "behind",
}


def _same_way(a: Leg, b: Leg) -> bool:
    if (a.depth and b.depth and a.depth != b.depth) or (a.bores and b.bores and a.member != b.member):
        return False
    if _KINDRED[a.medium] != _KINDRED[b.medium] or a.medium in ("plate", "box", "through"):
        return False
    u = [q - p for p, q in zip(a.start, a.end, strict=True)]
    v = [q - p for p, q in zip(b.start, b.end, strict=True)]
    along = math.fsum(x * y for x, y in zip(u, v, strict=True))
    # Straight on: the share of |u||v| across the way is less than a thousandth.
    square = math.fsum(x * x for x in u) * math.fsum(y * y for y in v)
    return along > 0 and square - along * along < 1e-6 * square


# --- sums ---------------------------------------------------------------------------


def cut_length(
    route: float,
    at_panel: int,
    practice: Practice,
    handles: tuple[str, ...] = (),
    rests_on: tuple[str, ...] = (),
) -> Working:
    """The length to cut, mm: the route with its slack, an allowance at each end, rounded up.

    ``at_panel`` is the number of the cable's ends that go into the panel (0 or 1).
    """
    at_box, into_panel = practice[rules.CABLE_ALLOWANCE]
    lines = [
        Line(1.0, route, "along the route", handles, rests_on),
        Line(practice[rules.CABLE_SLACK], route, "slack on the route", handles, rests_on),
        Line(2.0 - at_panel, at_box, "left at a box", handles),
    ]
    if at_panel:
        lines.append(Line(float(at_panel), into_panel, "left at the panel", handles))
    return Working("Cut length", "mm", tuple(lines), practice[rules.CUT_STEP])


def supports_needed(length: float, first: float, second: float, interval: float, ends: str) -> int:
    """Staples on an unbored stretch, mm. ``ends`` is ``box-box``, ``box-hole`` or ``hole-hole``.

    A hole counts as a support but never replaces the fastening at a box.
    """

    def steps(rest: float) -> int:
        return max(0, math.ceil((rest - 0.5) / interval))

    if ends == "box-hole":
        return max(1, steps(length - first))
    if ends == "box-box":
        return 1 if at_most(length, first + second) else 1 + steps(length - first - second)
    if ends == "hole-hole":
        return max(0, steps(length) - 1)
    raise ValueError(f"ends of a stretch are box-box, box-hole or hole-hole, not {ends}")


def staple_positions(length: float, first: float, second: float, interval: float, ends: str) -> list[float]:
    """Where the staples of :func:`supports_needed` go, mm from the start of the stretch."""
    count = supports_needed(length, first, second, interval, ends)
    if ends == "hole-hole":
        return [length * (k + 1) / (count + 1) for k in range(count)]
    if ends == "box-hole" or count == 1:
        return [min(first + k * interval, length) for k in range(count)]
    gap = (length - first - second) / (count - 1)
    return [first + k * gap for k in range(count)]


class Staple(msgspec.Struct, frozen=True):
    """A staple on a route, at a point in space."""

    position: Point3


def support_interval(legs: Iterable[Leg], width: float, practice: Practice) -> float:
    """The most between two supports of a cable so wide (mm) along these legs, mm: the least that any of them
    asks.

    Where the practice tells upright from level, and narrow cable from wide, a leg is level unless it stands.
    """
    level = practice[rules.SUPPORT_INTERVAL]
    if rules.SUPPORT_WIDE in practice and width > practice[rules.SUPPORT_WIDE]:
        level = practice[rules.SUPPORT_INTERVAL_WIDE]
    if rules.SUPPORT_INTERVAL_UPRIGHT not in practice:
        return level
    upright = practice[rules.SUPPORT_INTERVAL_UPRIGHT]
    return min((upright if _stands(leg) else level for leg in legs), default=level)


def _stands(leg: Leg) -> bool:
    return math.dist(leg.start[:2], leg.end[:2]) < 0.1 * leg.length


def staples(route: Route, width: float, first_a: float, first_b: float, practice: Practice) -> list[Staple]:
    """The staples of a route of cable so wide (mm). Plates bored on an upright run are no support; studs and
    joists are.

    Behind a finished surface there is none: support is waived there, and the box grips the cable.
    """
    if not route.legs:
        # Two boxes at one spot; the layout says so as a finding of its own.
        return []
    behind, marks = _held_at(route, practice)
    starts = [0.0, *route.ends]
    found: list[Staple] = []
    for n, (start, end) in enumerate(itertools.pairwise(marks)):
        if any(a - 0.1 <= start and end <= b + 0.1 for a, b in behind):
            continue
        at_a, at_b = n == 0, n == len(marks) - 2
        ends = ("hole-hole", "box-hole", "box-box")[at_a + at_b]
        first, second = (first_a, first_b) if at_a else (first_b, first_a)
        along_it = route.legs[bisect_right(route.ends, start + 0.1) : bisect_left(starts, end - 0.1)]
        interval = support_interval(along_it, width, practice)
        for offset in staple_positions(end - start, first, second, interval, ends):
            found.append(Staple(point_along(route, start + offset if at_a or not at_b else end - offset)))
    return found


def _held_at(route: Route, practice: Practice) -> tuple[list[tuple[float, float]], list[float]]:
    """What of a route is closed in, by where along it that begins and ends, mm; and where it is held without
    a staple: at its boxes, by bores, where it goes behind a finished surface.
    """
    hidden = rules.SUPPORT_IN_VOIDS in practice and not practice[rules.SUPPORT_IN_VOIDS]
    starts = [0.0, *route.ends]
    spans = [(a, b, leg) for (a, b), leg in zip(itertools.pairwise(starts), route.legs, strict=True)]
    behind = [(a, b) for a, b, leg in spans if _closed_in(leg, hidden)]
    bores = [a + bore for a, _, leg in spans for bore in _held_by(leg, hidden)]
    return behind, sorted({0.0, *bores, *itertools.chain.from_iterable(behind), starts[-1]})


def _closed_in(leg: Leg, hidden: bool) -> bool:
    """Whether a stretch runs where nothing can be stapled: fished, or overhead in a void that asks none."""
    return leg.medium in FISHED or (hidden and leg.medium in _OVERHEAD)


def _held_by(leg: Leg, hidden: bool) -> Sequence[float]:
    """The bores of a stretch that hold its cable; those of plates do not."""
    return () if leg.medium == "plate" or _closed_in(leg, hidden) else leg.bores


def point_along(route: Route, at: float) -> Point3:
    """The point of the route ``at`` mm from its start."""
    n = min(bisect_left(route.ends, at), len(route.legs) - 1)
    leg, begins = route.legs[n], route.ends[n] - route.legs[n].length
    return leg.at(at - begins) if at <= route.ends[n] else leg.end
