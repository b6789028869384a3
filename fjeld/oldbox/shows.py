"""What readings would show if a hypothesis were so: which nets are live in which state of the switches.

Each bit of a mask is one state of every switch at once, those in the box and those beyond its cables.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import msgspec

from fjeld.oldbox.beyond import far_edges
from fjeld.oldbox.found import FoundBox, Nets
from fjeld.oldbox.hypotheses import Hypothesis

#: A contact in the box, by kind of device: two terminals and how its switch must stand.
_CONTACTS: dict[str, tuple[tuple[str, str, int | None], ...]] = {
    "switch": (("a", "b", 1),),
    "three-way": (("common", "t1", 0), ("common", "t2", 1)),
    "four-way": (("a1", "b1", 0), ("a2", "b2", 0), ("a1", "b2", 1), ("a2", "b1", 1)),
    "protective": (("line", "load", None), ("line n", "load n", None)),
    "fused unit": (("line", "load", None), ("line n", "load n", None)),
}


class Shows(msgspec.Struct, frozen=True):
    """What a hypothesis shows.

    ``controls`` are the switches, each a bit of a state's number. ``live`` has the states in which a
    node is joined to line, ``legs`` which legs, ``home`` the nodes joined to neutral; ``alone`` the same
    as ``live`` for every conductor by itself, with nothing in the box joined.
    """

    controls: tuple[str, ...]
    live: dict[int, int]
    second: dict[int, int]
    home: frozenset[int]
    alone: dict[str, int]

    @property
    def all(self) -> int:
        """Every state."""
        return (1 << (1 << len(self.controls))) - 1

    def moves(self, mask: int) -> frozenset[str]:
        """The switches that a mask depends on."""
        n = len(self.controls)
        # Each state against the one in which that switch alone stands the other way.
        return frozenset(c for i, c in enumerate(self.controls) if (mask >> (1 << i) ^ mask) & stands(i, n, 0))


@cache
def stands(i: int, n: int, at: int) -> int:
    """The states of ``n`` switches in which the ``i``-th stands ``at``."""
    found = sum(1 << s for s in range(min(1 << n, 2 << i)) if (s >> i & 1) == at)
    for k in range(i + 1, n):
        found |= found << (1 << k)
    return found


def shows(box: FoundBox, nets: Nets, hypothesis: Hypothesis) -> Shows:
    """What a hypothesis shows of a box."""
    controls = [d.id for d in box.devices if d.kind in ("switch", "three-way", "four-way")]
    far: list[tuple[int, str, str, int | str, int | str, int | None]] = []
    for n, (cable, beyond) in enumerate(zip(box.cables, hypothesis.cables, strict=True)):
        for edge in far_edges(beyond):
            name = f"{edge.control} {cable.id}" if edge.control else ""
            if name and name not in controls:
                controls.append(name)
            far.append((n, cable.id, name, edge.a, edge.b, edge.closed if name else None))
    joined = _Joined(controls)
    alone = _Joined(controls)
    for n, _, name, a, b, closed in far:
        ends = box.cables[n].insulated
        mask = joined.mask(name, closed)
        one, two = ((ends[e] if isinstance(e, int) else e) for e in (a, b))
        alone.join(one, two, mask)
        here, there = (str(nets.of[e]) if e in nets.of else e for e in (one, two))
        joined.join(here, there, mask)
    for device in box.devices:
        for a, b, closed in _CONTACTS.get(device.kind, ()):
            one, two = (str(nets.of[f"{device.id}.{t}"]) for t in (a, b))
            joined.join(one, two, joined.mask(device.id, closed))
    first, second, neutral = joined.reach("L"), joined.reach("L2"), joined.reach("N")
    live = {n: first.get(str(n), 0) | second.get(str(n), 0) for n in range(len(nets.ends))}
    parted = alone.reach("L")
    other = alone.reach("L2")
    return Shows(
        tuple(controls), live, {n: second.get(str(n), 0) for n in live},
        frozenset(n for n in live if neutral.get(str(n))),
        {name: parted.get(name, 0) | other.get(name, 0) for c in box.cables for name in c.insulated},
    )  # fmt: skip


class _Joined:
    """Nodes and what joins them in which states; reached from one of them by running all states at once."""

    def __init__(self, controls: Sequence[str]) -> None:
        self.controls = list(controls)
        self.states = 1 << len(controls)
        self.joins: list[tuple[str, str, int]] = []

    def mask(self, control: str, closed: int | None) -> int:
        """The states in which a contact is closed."""
        if closed is None or control not in self.controls:
            return (1 << self.states) - 1
        return stands(self.controls.index(control), len(self.controls), closed)

    def join(self, a: str, b: str, mask: int) -> None:
        """Join two nodes in the states of a mask."""
        self.joins.append((a, b, mask))

    def reach(self, start: str) -> dict[str, int]:
        """The states in which each node is joined to ``start``."""
        found = {start: (1 << self.states) - 1}
        moved = True
        while moved:
            moved = False
            for a, b, mask in self.joins:
                for one, two in ((a, b), (b, a)):
                    new = found.get(one, 0) & mask & ~found.get(two, 0)
                    if new:
                        found[two] = found.get(two, 0) | new
                        moved = True
        return found
