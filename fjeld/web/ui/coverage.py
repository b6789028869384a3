"""What covers an outlet, and what a protective outlet covers, as the Layout and the Boxes tell it."""

from __future__ import annotations

import msgspec

from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan, guards
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Point


class Onward(msgspec.Struct, frozen=True):
    """A cable that leaves a protective outlet's box: to its load side, or ahead of it; ``beyond`` are the
    boxes it feeds.
    """

    cable: Handle
    load: bool
    beyond: tuple[Handle, ...]


class Coverage(msgspec.Struct, frozen=True):
    """``by`` the device whose load side feeds a box; ``past`` one whose box the way leads through, joined
    ahead of it.
    """

    device: bool
    onward: tuple[Onward, ...]
    by: Handle | None
    past: Handle | None
    breaker: bool


def coverage(plan: Plan, box: Handle) -> Coverage | None:
    """How a box is protected; None for one that is no outlet or not wired."""
    point = plan.drawing.items.get(box)
    circuit = next((c for c in plan.circuits.values() if box in c.boxes), None)
    if not isinstance(point, Point) or point.kind != "outlet" or circuit is None:
        return None
    devices = guards(plan.drawing.of(Point))
    onward = tuple(
        Onward(
            e.cable,
            circuit.tree.behind.get(e.down) == box,
            tuple(sorted(circuit.tree.beyond[e.cable], key=order)),
        )
        for e in circuit.tree.edges
        if e.up == box and box in devices
    )
    by = circuit.tree.behind.get(box)
    past = None if by else next((d for d in _way(circuit, box) if d in devices), None)
    return Coverage(box in devices, onward, by, past, circuit.circuit.protection in ("ground-fault", "both"))


def _way(circuit: CircuitPlan, box: Handle) -> list[Handle]:
    """The boxes between a box and the panel, the nearest first."""
    above = {e.down: e.up for e in circuit.tree.edges}
    found: list[Handle] = []
    while box in above:
        box = above[box]
        found.append(box)
    return found
