"""Logic: in which states of the switches each node is joined to the line and to the neutral.

Nodes joined by plain conductors are first made one (disjoint sets), then sets of states flow through contacts
(:mod:`fjeld.states`). Loads do not conduct here.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import msgspec

from fjeld.derive.keys import BreakerOf, Movable, Position, State, standing
from fjeld.derive.network import EARTH, Network
from fjeld.drawing.handles import Handle
from fjeld.states import Contacts, every, pattern

#: Beyond this many positions a proof is sampled, and called so.
MOST_POSITIONS = 20


class Reach(msgspec.Struct, frozen=True):
    """Bit sets of states by node. ``positions[i]`` stands for bit *i* of a state's number.

    ``line`` is of either leg; ``between_legs`` the states in which the two legs are joined.
    """

    positions: tuple[Movable, ...]
    line: dict[str, int]
    neutral: dict[str, int]
    between_legs: int = 0

    @property
    def all(self) -> int:
        """The set of all states."""
        return every(len(self.positions))

    def lit(self, a: str, b: str) -> int:
        """The states in which a load between ``a`` and ``b`` has line on one side and neutral on
        the other.
        """
        la, lb = self.line.get(a, 0), self.line.get(b, 0)
        na, nb = self.neutral.get(a, 0), self.neutral.get(b, 0)
        return (la & nb) | (lb & na)

    def shorts(self) -> int:
        """The states in which line and neutral are joined somewhere, or the two legs."""
        found = self.between_legs
        for node, states in self.line.items():
            found |= states & self.neutral.get(node, 0)
        return found


def reach(
    network: Network,
    positions: Sequence[Movable],
    fixed: State | None = None,
    off: Collection[Handle] = (),
    joined: Mapping[str, int] | None = None,
) -> Reach:
    """Reachability over all states of ``positions``.

    Other positions stand as in ``fixed`` (at rest if not named); breakers are on but those of the
    circuits ``off``; ``joined`` is :func:`merged` of the network, where that is known.

    Complexity O(E · n-bit words · depth); raises ``ValueError`` beyond :data:`MOST_POSITIONS`.
    """
    n = len(positions)
    if n > MOST_POSITIONS:
        raise ValueError(f"{n} positions are more than {MOST_POSITIONS}")
    everything = every(n)
    index = {position: pattern(i, n) for i, position in enumerate(positions)}

    def closed(position: Position, at: int) -> int:
        if not isinstance(position, BreakerOf) and position in index:
            return index[position] if at else everything & ~index[position]
        return everything if standing(position, fixed or {}, off) == at else 0

    group = merged(network) if joined is None else joined
    contacts: Contacts[int] = Contacts()
    for contact in network.contacts:
        contacts.join(group[contact.a], group[contact.b], closed(contact.position, contact.closed_at))
    line = contacts.reach({group[node] for node in network.lines}, everything)
    neutral = contacts.reach({group[node] for node in network.neutrals}, everything)
    second = contacts.reach({group[node] for node in network.second_lines}, everything)
    between = 0
    for g, states in second.items():
        between |= states & line.get(g, 0)
    live = {g: line.get(g, 0) | second.get(g, 0) for g in {*line, *second}}
    return Reach(
        tuple(positions),
        {node: live[g] for node, g in group.items() if live.get(g)},
        {node: neutral[g] for node, g in group.items() if neutral.get(g)},
        between,
    )


def merged(network: Network) -> dict[str, int]:
    """The number of each node's group: nodes joined by conductors are one."""
    parent: dict[str, str] = {}

    def find(node: str) -> str:
        parent.setdefault(node, node)
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for node in (*network.lines, *network.second_lines, *network.neutrals, *network.nodes):
        find(node)
    for wire in network.wires:
        if EARTH not in (wire.a, wire.b):
            parent[find(wire.a)] = find(wire.b)
    number: dict[str, int] = {}
    return {node: number.setdefault(find(node), len(number)) for node in list(parent)}
