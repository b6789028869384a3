"""Protection put right: at a protective outlet that is there already, else at the breaker."""

from __future__ import annotations

from fjeld.check import Finding
from fjeld.check.protection import uncovered, wants_ground_fault
from fjeld.derive.plan import Plan
from fjeld.derive.tree import Edge
from fjeld.derive.wiring import CircuitPlan, guards
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Revise, Together
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Circuit, Point, Protection


def at_the_breaker(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """A breaker that gives the protection which the finding's rule asks, with what it gives now."""
    handle = Handle(finding.handles[0])
    has = plan.drawing.get(handle, Circuit).protection
    wanted: Protection
    if finding.rule.id == "residual":
        wanted = "residual"
    elif has and has != finding.rule.id:
        wanted = "both"
    else:
        wanted = "arc-fault" if finding.rule.id == "arc-fault" else "ground-fault"
    return Revise(handle, {"protection": wanted}, f"Protect {handle}")


def ground_fault(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """What is fed past a protective outlet onto its load side, where that covers all; else at the breaker."""
    if len(finding.handles) > 1:
        return None
    circuit = plan.circuits[Handle(finding.handles[0])]
    edges = _onto_load(plan, circuit)
    if not edges:
        return at_the_breaker(plan, finding, mint)
    return Together(
        tuple(on_load_side(e.cable, True) for e in edges),
        f"Join {', '.join(e.cable for e in edges)} to the load side of"
        f" {', '.join(sorted({e.up for e in edges}))}",
    )


def on_load_side(cable: Handle, load: bool, words: str = "") -> Revise:
    """A cable on the load side of the device at its upper end, or ahead of it; a person's word, which trees
    keep.
    """
    return Revise(cable, {"load_side": load, "by": "person", "state": "pinned"}, words)


def ahead(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """What hangs on a device's load side joined ahead of it; None where an outlet there wants its
    protection.
    """
    device = Handle(finding.handles[-1])
    for circuit in plan.circuits.values():
        edges = [
            e for e in circuit.tree.edges if e.up == device and circuit.tree.behind.get(e.down) == device
        ]
        if not edges:
            continue
        beyond = {b for e in edges for b in circuit.tree.beyond[e.cable]}
        if any(wants_ground_fault(plan, b) for b in beyond):
            return None
        names = ", ".join(e.cable for e in edges)
        return Together(tuple(on_load_side(e.cable, False) for e in edges), f"Join {names} ahead of {device}")
    return None


def device_there(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """A protective outlet where one is thought to be, if it is an outlet at all; else the cable as others
    are.
    """
    cable, upper = (Handle(h) for h in finding.handles)
    point = plan.drawing.items.get(upper)
    if isinstance(point, Point) and point.kind == "outlet":
        return Revise(upper, {"protective": True}, f"Make {upper} a protective outlet")
    return Revise(cable, {"load_side": False}, f"Join {cable} as the others in {upper}")


def whole(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """A plain outlet, and its protection at the breaker."""
    handle = Handle(finding.handles[0])
    circuit = plan.drawing.get(handle, Point).circuit
    plain = Revise(handle, {"protective": False})
    if circuit is None:
        return plain
    has = plan.drawing.get(circuit, Circuit).protection
    wanted: Protection = "both" if has in ("arc-fault", "both") else "ground-fault"
    protect = Revise(circuit, {"protection": wanted})
    return Together((plain, protect), f"A plain outlet at {handle}, {circuit} protected at its breaker")


def _onto_load(plan: Plan, circuit: CircuitPlan) -> list[Edge]:
    """The cables to put on load sides so that all outlets that want protection have it; none where that is
    not possible.

    Not where an alarm or a light lies beyond: it would go dark with them.
    """
    points, left = plan.drawing.of(Point), set(uncovered(plan, circuit))
    devices = guards(points)
    found: list[Edge] = []
    for edge in circuit.tree.edges:
        beyond = circuit.tree.beyond[edge.cable]
        if edge.up in devices and left & beyond and edge.down not in circuit.tree.behind:
            if any(points[b].kind != "outlet" for b in beyond if b in points):
                return []
            found.append(edge)
            left -= beyond
    return [] if left else found
