"""Every choice of roles that no net forbids: cable after cable, leaving a branch as soon as it cannot be."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from fjeld.oldbox.alike import Alike
from fjeld.oldbox.beyond import Beyond
from fjeld.oldbox.found import BoxNets, FoundBox
from fjeld.practice.devices import screws_of

_THROWS = frozenset(
    (kind, t)
    for kind, names in (("three-way", ("t1", "t2")), ("four-way", ("a1", "a2", "b1", "b2")))
    for t in names
)


def cable_order(at: list[list[int]], options: list[list[Beyond]]) -> list[int]:
    """The cables in an order that leaves early: what meets those before it most, and has the least choice,
    first.
    """
    left = list(range(len(at)))
    order: list[int] = []
    met: set[int] = set()
    while left:
        best = min(left, key=lambda n: (-len(met & {*at[n]}), len(options[n])))
        order.append(best)
        left.remove(best)
        met |= {*at[best]}
    return order


class _Way:
    """A conductor of a cable carries something: what the next may carry then, and the roles that end here,
    each with its place among all.
    """

    __slots__ = ("onward", "roles")

    def __init__(self) -> None:
        self.onward: dict[str, _Way] = {}
        self.roles: list[tuple[int, Beyond]] = []


def _ways_of(options: list[Beyond], cable: int, same: Alike) -> tuple[tuple[int, _Way], ...]:
    """Roles by what they carry, conductor after conductor; rings apart, of which a net may be brought two. Of
    those that differ only in which of two alike conductors is which, the first.
    """
    found = {0: _Way(), 1: _Way()}
    known: set[Beyond] = set()
    for n, beyond in enumerate(options):
        if beyond in known:
            continue
        known |= {*same.ways_round(cable, beyond)}
        here = found[int(beyond.role == "RING")]
        for way in beyond.carries:
            here = here.onward.setdefault(way, _Way())
        here.roles.append((n, beyond))
    return tuple(found.items())


class Choice:
    """Cable after cable, leaving a branch as soon as a net would carry two things, be brought twice, or not
    at all.

    Roles that begin alike are left together: a cable of four conductors has a thousand of them. Cables that
    are alike get theirs in one order, each a role that is no earlier than that of the one before it.
    """

    def __init__(
        self, box: FoundBox, nets: BoxNets, at: list[list[int]], options: list[list[Beyond]], same: Alike
    ) -> None:
        self.order = cable_order(at, options)
        self.at = [at[n] for n in self.order]
        self.options = [_ways_of(options[n], n, same) for n in self.order]
        #: For each cable the one before it that is like it, by their places in the order.
        self.before = [
            max((k for k in range(n) if self.order[k] in same.like(cable)), default=-1)
            for n, cable in enumerate(self.order)
        ]
        self.ways: dict[int, list[str]] = defaultdict(list)
        self.rings: dict[int, int] = defaultdict(int)
        self.ends = {net: sum(places.count(net) for places in at) for places in at for net in places}
        on = [(nets.of[d.at(t)], d.kind, t) for d in box.devices for t in screws_of(d.kind)]
        #: Nets that a device can bring something to, and those that travellers end on.
        self.given = {n for n, kind, _ in on if kind in ("switch", "three-way", "protective", "fused unit")}
        self.throws = {n for n, kind, t in on if (kind, t) in _THROWS}

    def all(self, chosen: tuple[tuple[int, Beyond], ...] = ()) -> Iterator[tuple[Beyond, ...]]:
        """Every choice of what the cables are."""
        n = len(chosen)
        if n == len(self.at):
            yield tuple(chosen[self.order.index(k)][1] for k in range(n))
            return
        least = chosen[self.before[n]][0] if self.before[n] >= 0 else 0
        fitting = sorted(
            (found for ring, first in self.options[n] for found in self._fitting(self.at[n], 0, first, ring)),
            key=lambda found: found[0],
        )
        for place, beyond in fitting:
            if place < least:
                continue
            ring = beyond.role == "RING"
            for net, way in zip(self.at[n], beyond.carries, strict=True):
                self.ways[net].append(way)
                self.rings[net] += ring
            yield from self.all((*chosen, (place, beyond)))
            for net in self.at[n]:
                self.ways[net].pop()
                self.rings[net] -= ring

    def _fitting(self, places: list[int], k: int, here: _Way, ring: int) -> Iterator[tuple[int, Beyond]]:
        """The roles of a cable that the nets allow with what is on them, from its conductor ``k`` on."""
        if k == len(places):
            yield from here.roles
            return
        net = places[k]
        for way, onward in here.onward.items():
            self.ways[net].append(way)
            self.rings[net] += ring
            if self._stands(net):
                yield from self._fitting(places, k + 1, onward, ring)
            self.ways[net].pop()
            self.rings[net] -= ring

    def _stands(self, net: int) -> bool:
        """Whether a net can still be, with what has been put on it so far."""
        ways = self.ways[net]
        what = ways[0][0]
        if any(way[0] != what for way in ways):
            return False
        brought = sum(way[1:] == "<" for way in ways)
        whole = len(ways) == self.ends[net]
        if what in "lsn":
            if brought > 1 and (brought > 2 or self.rings[net] < 2):
                return False
            # What ties two switches is switched by either of them.
            return not whole or brought > 0 or net in self.given or "s-" in ways
        if what == "t":
            if net in self.throws:
                return len(ways) == 1
            return len(ways) < 3 and (not whole or sorted(ways) == ["t<", "t>"])
        return True
