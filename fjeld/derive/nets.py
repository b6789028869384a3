"""The nets of a circuit, its chains of switches running the way that costs least."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from itertools import permutations, product

import msgspec

from fjeld.derive.divide import Nets, crossing, divide
from fjeld.derive.terminals import CircuitIntent, terminals_of
from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control

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
    chains: dict[Handle, tuple[Handle, ...]] = {}
    for handle, control in sorted(intent.controls.items(), key=lambda c: order(c[0])):
        chains[handle] = _by_depth(control.positions, where, intent)
    several = [h for h in chains if len(chains[h]) > 1 and h not in intent.strap]

    def cost(tried: dict[Handle, tuple[Handle, ...]]) -> tuple[object, ...]:
        terminals = terminals_of(intent, where.root, tried, where.behind)
        counts = {e.cable: len(crossing(terminals, where.beyond[e.cable])) for e in where.edges}
        overflow = 0
        if max(counts.values(), default=0) > intent.most:
            made = divide(terminals, where, _homes(intent, tried), intent.most)
            overflow = len(made.overflow)
            total = sum(price(cable, len(b.nets)) for cable, of in made.bundles.items() for b in of)
        else:
            total = sum(price(cable, n) for cable, n in counts.items())
        ends = [[(where.depth.get(intent.home(p), 99), order(p)) for p in tried[h]] for h in several]
        return overflow, round(total, 3), ends

    ways = {h: orders(chains[h], intent.controls[h]) for h in several}
    if math.prod(len(w) for w in ways.values()) <= _TOGETHER:
        tries = [{**chains, **dict(zip(several, way, strict=True))} for way in product(*ways.values())]
        chains = min(tries, key=cost)
    else:
        for handle in several * 2:
            settled = chains
            chains = min(({**settled, handle: way} for way in ways[handle]), key=cost)
    terminals = terminals_of(intent, where.root, chains, where.behind)
    made = divide(terminals, where, _homes(intent, chains), intent.most)
    return msgspec.structs.replace(made, chains=chains)


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
