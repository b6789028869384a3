"""What readings would show if a hypothesis were so: which nets are live in which state of the switches.

Each bit of a mask is one state of every switch at once, those in the box and those beyond its cables.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec

from fjeld.drawing.ends import End
from fjeld.oldbox.beyond import far_edges
from fjeld.oldbox.found import BoxNets, FoundBox
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.practice.devices import contacts_of, worked
from fjeld.states import Contacts, every, standing


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
    alone: dict[End, int]

    @property
    def all(self) -> int:
        """Every state."""
        return every(len(self.controls))

    def moves(self, mask: int) -> frozenset[str]:
        """The switches that a mask depends on."""
        n = len(self.controls)
        # Each state against the one in which that switch alone stands the other way.
        return frozenset(
            c for i, c in enumerate(self.controls) if (mask >> (1 << i) ^ mask) & standing(i, n, 0)
        )


def shows(box: FoundBox, nets: BoxNets, hypothesis: Hypothesis) -> Shows:
    """What a hypothesis shows of a box."""
    joined, alone = _laid(box, nets, hypothesis)
    first, second, neutral = (joined.reach(of) for of in ("L", "L2", "N"))
    parted, other = alone.reach("L"), alone.reach("L2")
    all_nets = range(len(nets.ends))
    return Shows(
        tuple(joined.controls),
        live={n: first.get(str(n), 0) | second.get(str(n), 0) for n in all_nets},
        second={n: second.get(str(n), 0) for n in all_nets},
        home=frozenset(n for n in all_nets if neutral.get(str(n))),
        alone={name: parted.get(name, 0) | other.get(name, 0) for c in box.cables for name in c.insulated},
    )


def _laid(box: FoundBox, nets: BoxNets, hypothesis: Hypothesis) -> tuple[_Joined, _Joined]:
    """What is joined in a hypothesis, in the box and beyond it; and every conductor by itself, with nothing
    in the box joined.
    """
    edges = list(_beyond(box, hypothesis))
    local = [d.id for d in box.devices if worked(d.kind)]
    controls = list(dict.fromkeys([*local, *(name for *_, name, _ in edges if name)]))
    joined, alone = _Joined(controls), _Joined(controls)
    for one, two, name, closed in edges:
        alone.join(one, two, name, closed)
        here, there = (str(nets.of[e]) if e in nets.of else e for e in (one, two))
        joined.join(here, there, name, closed)
    for device in box.devices:
        for a, b, stands in contacts_of(device.kind):
            on_a, on_b = (str(nets.of[device.at(t)]) for t in (a, b))
            joined.join(on_a, on_b, device.id, stands)
    return joined, alone


def _beyond(box: FoundBox, hypothesis: Hypothesis) -> Iterator[tuple[End, End, str, int | None]]:
    """What is joined at the far end of each cable, by the switch there and how it must stand."""
    for cable, beyond in zip(box.cables, hypothesis.cables, strict=True):
        for edge in far_edges(beyond):
            one, two = (cable.insulated[e] if isinstance(e, int) else End(e) for e in (edge.a, edge.b))
            if edge.control:
                yield one, two, f"{edge.control} {cable.id}", edge.closed
            else:
                yield one, two, "", None


class _Joined:
    """Nodes by name, and what joins them as switches by name stand."""

    def __init__(self, controls: Sequence[str]) -> None:
        self.controls, self._every = list(controls), every(len(controls))
        self._contacts: Contacts[str] = Contacts()

    def join(self, a: str, b: str, control: str, closed: int | None) -> None:
        """Join two nodes where a switch stands so; always where it is none that is known, or no hand opens
        it.
        """
        always = closed is None or control not in self.controls
        n = len(self.controls)
        states = self._every if always else standing(self.controls.index(control), n, int(closed or 0))
        self._contacts.join(a, b, states)

    def reach(self, start: str) -> dict[str, int]:
        """The states in which each node is joined to ``start``."""
        return self._contacts.reach((start,), self._every)
