"""The nets of a circuit, its chains of switches running the way that costs least."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import permutations, product

import msgspec

from fjeld.derive.divide import Nets, crossings, divide
from fjeld.derive.terminals import CircuitIntent, Terminal, terminals_of
from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control

#: For each control the order of its switches, from the line.
Chains = dict[Handle, tuple[Handle, ...]]
#: As many ways of running all chains together are each worked out; beyond, one control after the other.
_TOGETHER = 150


def solve(intent: CircuitIntent, where: Tree, price: Callable[[Handle, int], float]) -> Nets:
    """The nets of a circuit, its chains running the way that costs least.

    ``price(cable, n)`` is what the edge costs with ``n`` insulated conductors in one cable. A
    way is priced by the cables that it comes to, divided where an edge is over-full. Of
    equal ways, the line ends at the position fewest cables from the panel, then at the lower
    handle. Where there are few ways, all are tried together; else chains are settled one
    control after the other, twice, which is exact for controls that share no cable.
    """
    chains: Chains = {}
    for handle, control in sorted(intent.controls.items(), key=lambda c: order(c[0])):
        chains[handle] = _by_depth(control.positions, where, intent)
    several = [h for h in chains if len(chains[h]) > 1 and h not in intent.strap]
    ways = {h: orders(chains[h], intent.controls[h]) for h in several}
    priced = _Priced(intent, where, price, several)
    if math.prod(len(w) for w in ways.values()) <= _TOGETHER:
        together = ({**chains, **dict(zip(several, way, strict=True))} for way in product(*ways.values()))
        chains = priced.cheapest(together)
    else:
        for handle in several * 2:
            settled = chains
            chains = priced.cheapest({**settled, handle: way} for way in ways[handle])
    terminals = terminals_of(intent, where.root, chains, where.behind)
    made = divide(terminals, where, _homes(intent, chains), intent.most)
    return msgspec.structs.replace(made, chains=chains)


class _Priced:
    """Ways of running the chains of a circuit, by what their cables come to."""

    def __init__(
        self,
        intent: CircuitIntent,
        where: Tree,
        price: Callable[[Handle, int], float],
        several: Sequence[Handle],
    ) -> None:
        self.intent, self.where, self.price, self.several = intent, where, price, several
        self.lowest: dict[tuple[Handle, int], float] = {}

    def cheapest(self, ways: Iterable[Chains]) -> Chains:
        """The way that costs least. Edges are divided only in those that could be it: what each carries
        undivided costs no more, in whatever cables it is laid.
        """
        tried = list(ways)
        if len(tried) == 1:
            return tried[0]
        bounded = []
        for n, way in enumerate(tried):
            terminals = terminals_of(self.intent, self.where.root, way, self.where.behind)
            counts = crossings(terminals, self.where)
            low = sum(self._at_least(cable, count) for cable, count in counts.items())
            bounded.append((round(low, 3), n, way, counts, terminals))
        best: tuple[tuple[int, float, object], Chains] | None = None
        for low, _, way, counts, terminals in sorted(bounded, key=lambda b: b[:2]):
            if best is not None and best[0][0] == 0 and low > best[0][1]:
                break
            overflow, total = self._of(way, counts, terminals)
            key = overflow, round(total, 3), self._ends(way)
            if best is None or key < best[0]:
                best = key, way
        assert best is not None
        return best[1]

    def _of(self, way: Chains, counts: Mapping[Handle, int], terminals: list[Terminal]) -> tuple[int, float]:
        """How many edges are over-full still, and the price of a way."""
        if max(counts.values(), default=0) <= self.intent.most:
            return 0, sum(self.price(cable, n) for cable, n in counts.items())
        made = divide(terminals, self.where, _homes(self.intent, way), self.intent.most)
        total = sum(self.price(cable, len(b.nets)) for cable, of in made.bundles.items() for b in of)
        return len(made.overflow), total

    def _ends(self, way: Chains) -> list[list[tuple[int, object]]]:
        """Of equal ways, the line ends at the position fewest cables from the panel."""
        depth = self.where.depth
        return [[(depth.get(self.intent.home(p), 99), order(p)) for p in way[h]] for h in self.several]

    def _at_least(self, cable: Handle, count: int) -> float:
        """The least that so many conductors cost along an edge, in one cable or in several."""
        if count <= 0:
            return 0.0
        if (cable, count) not in self.lowest:
            most = max(1, self.intent.most)
            self.lowest[cable, count] = min(
                self.price(cable, n) + self._at_least(cable, count - n) for n in range(1, most + 1)
            )
        return self.lowest[cable, count]


def _homes(
    intent: CircuitIntent, chains: dict[Handle, tuple[Handle, ...]]
) -> dict[Handle, tuple[Handle, ...]]:
    """The boxes that the positions of each chain are in."""
    return {control: tuple(intent.home(p) for p in chain) for control, chain in chains.items()}


def orders(chain: tuple[Handle, ...], control: Control) -> list[tuple[Handle, ...]]:
    """The orders that a chain can run in; a dimmer stands at one of its ends, it has no four-way kind."""
    dimmed = control.positions[0] if control.device else None
    if len(chain) <= 4:
        return [way for way in permutations(chain) if dimmed is None or dimmed in (way[0], way[-1])]
    return [chain if dimmed is None else (dimmed, *(p for p in chain if p != dimmed))]


def _by_depth(positions: Iterable[Handle], where: Tree, intent: CircuitIntent) -> tuple[Handle, ...]:
    return tuple(sorted(positions, key=lambda p: (where.depth.get(intent.home(p), 99), order(p))))
