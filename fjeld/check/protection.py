"""Protection of circuits: arc-fault, residual current, and what each protective device covers.

A protective outlet covers its own slots and what hangs on its load side; what is joined ahead
of it, though fed through its box, is not covered.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan, guards
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, Point, load_point
from fjeld.quantities import Passes, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about protection."""
    for figured in plan.circuits.values():
        yield from _protection(plan, figured)
        yield from _behind(plan, figured)
        yield from _one_side(plan, figured)
        yield from _marked(plan, figured)
        yield from _shared(plan, figured)
    yield from _whole(plan)


def wants_ground_fault(plan: Plan, handle: Handle) -> str:
    """Why an outlet wants ground-fault protection, in words; empty when nothing asks it.

    By the use of its room, or by what it is near: from a sink's or basin's edge, a tub or a
    shower, as a cord would reach without going through a wall or a door.
    """
    point, placed = plan.drawing.get(handle, Point), plan.placed.get(handle)
    if point.kind != "outlet" or not plan.practice.holds("ground-fault"):
        return ""
    room = plan.drawing.get(point.room, Room)
    if room.use in plan.practice.value("ground-fault"):
        return f"in {room.name}"
    if placed is None or not plan.practice.holds("ground-fault-water"):
        return ""
    reach = plan.practice.mm("ground-fault-water")
    for block in plan.blocks_in(point.room):
        if block.kind in ("sink", "basin", "bath", "shower"):
            off = block.off(placed.position[:2])
            if at_most(off, reach):
                return f"{format_length(off, plan.drawing.house.unit)} from the {block.kind} {block.handle}"
    return ""


def _protection(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    if plan.practice.holds("residual") and circuit.circuit.protection != "residual":
        words = f"{circuit.handle} has no 30 mA residual-current protection"
        yield failed(plan, "residual", "circuits", (circuit.handle,), words)
    if plan.practice.holds("arc-fault"):
        yield from _arc_fault(plan, circuit)
        yield from _ground_fault(plan, circuit)


def _arc_fault(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Circuits up to 20 A in the rooms of the rule; at the breaker, or by a listed outlet at the first point."""
    if circuit.circuit.breaker > 20 or circuit.circuit.protection in ("arc-fault", "both"):
        return
    points, rooms = plan.drawing.of(Point), plan.drawing.of(Room)
    asked = set(plan.practice.value("arc-fault"))
    similar = (
        set(plan.practice.value("arc-fault-similar")) if plan.practice.holds("arc-fault-similar") else set()
    )
    serves = [rooms[points[b].room] for b in circuit.boxes]
    arc = sorted({r.name for r in serves if r.use in asked})
    if arc:
        words = f"{circuit.handle} serves {', '.join(arc)} without arc-fault protection at its breaker"
        yield failed(plan, "arc-fault", "circuits", (circuit.handle,), words, count=len(arc))
    elif near := sorted({r.name for r in serves if r.use in similar}):
        words = f"{circuit.handle} serves {', '.join(near)}: a similar room or not?"
        yield unknown(
            plan,
            "arc-fault",
            "circuits",
            (circuit.handle,),
            words,
            "whether the local code counts it",
            "similar",
        )


def uncovered(plan: Plan, circuit: CircuitPlan) -> dict[Handle, str]:
    """The outlets of a circuit that want ground-fault protection and have none, each with why."""
    if circuit.circuit.protection in ("ground-fault", "both"):
        return {}
    points = plan.drawing.of(Point)
    return {
        b: why
        for b in circuit.boxes
        if not points[b].protective
        and plan.home(b) not in circuit.tree.behind
        and (why := wants_ground_fault(plan, b))
    }


def _ground_fault(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    bare = uncovered(plan, circuit)
    if bare:
        reasons = ", ".join(f"{b} {bare[b]}" for b in sorted(bare, key=order)[:4])
        words = f"{reasons}, on {circuit.handle} without ground-fault protection"
        if ahead := sorted(set(bare) & _past_a_device(circuit, guards(plan.drawing.of(Point))), key=order):
            words += f"; {_named(ahead)} {_are(ahead)} fed past a protective outlet, joined ahead of it"
        yield failed(plan, "ground-fault", "circuits", (circuit.handle,), words, count=len(bare))
    for device in sorted(set(circuit.tree.behind.values()), key=order):
        served = [b for b, by in circuit.tree.behind.items() if by == device and wants_ground_fault(plan, b)]
        if served:
            words = f"{_named(served)} {_are(served)} covered by {device}, on its load side"
            rule = plan.practice.rule("ground-fault")
            yield Finding(rule, (circuit.handle, device), words, Passes(), "circuits", place="covered")


def _past_a_device(circuit: CircuitPlan, devices: Iterable[Handle]) -> set[Handle]:
    """The boxes that are fed through a protective outlet's box."""
    edges = [e for e in circuit.tree.edges if e.up in devices]
    return {box for edge in edges for box in circuit.tree.beyond[edge.cable]}


def _behind(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """What should not go dark when a protective outlet opens."""
    points = plan.drawing.of(Point)
    for device in sorted(set(circuit.tree.behind.values()), key=order):
        mine = sorted((b for b in circuit.tree.behind if device in circuit.tree.devices_before(b)), key=order)
        at = (circuit.handle, device)
        alarms, lights = ([b for b in mine if points[b].kind == kind] for kind in ("alarm", "light"))
        if alarms and plan.practice.holds("alarm-behind"):
            yield failed(plan, "alarm-behind", "circuits", at, _dark(alarms, device), count=len(alarms))
        if lights and plan.practice.holds("light-behind"):
            yield failed(plan, "light-behind", "circuits", at, _dark(lights, device), count=len(lights))


def _dark(hung: list[Handle], device: Handle) -> str:
    return f"{_named(hung)} {'go' if len(hung) > 1 else 'goes'} dark when {device} opens: on its load side"


def _one_side(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Whether all that a control works takes its neutral on one side of each device."""
    for handle, control in plan.drawing.of(Control).items():
        loads = {load_point(load) for load in control.loads} & set(circuit.boxes)
        sides = {circuit.tree.behind.get(plan.home(load), Handle("")) for load in loads}
        if control.positions and len(sides) > 1:
            device = min(sides - {""}, key=order)
            covered = [h for h in loads if circuit.tree.behind.get(plan.home(h)) == device]
            words = f"{handle} works {_named(covered)} beyond {device} and {_named(loads - {*covered})} ahead of it: it opens as soon as they burn"
            yield failed(plan, "one-side", "circuits", (handle, device), words)


def _shared(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """A neutral that two legs share: through no device, in no protective outlet, and both legs there."""
    if circuit.circuit.poles != 2:
        return
    handle = circuit.handle
    if device := min(circuit.tree.behind.values(), key=order, default=None):
        words = f"{handle} shares one neutral between two legs, of which {device} sees one: what hangs on its load side makes it open"
        yield failed(plan, "shared-neutral", "circuits", (handle, device), words)
    feeder = next((q for q, c in plan.circuits.items() if circuit.source in c.panels), None)
    if feeder and plan.circuits[feeder].circuit.poles != 2:
        words = f"{handle} wants both legs, and {feeder} brings one to {circuit.source}: half of it is dead"
        yield failed(plan, "second-leg", "circuits", (handle, feeder), words)
    parted = [
        box
        for box in circuit.boxes
        for joint in plan.boxes[plan.home(box)].joints
        if joint.key.circuit == handle and joint.net.role == "neutral" and joint.how == "through"
    ]
    words = f"The neutral of {handle}, shared by two legs, goes through no device"
    if parted:
        yield failed(plan, "shared-neutral", "boxes", (handle, *parted), f"{words} but in {_named(parted)}")
    else:
        yield Finding(plan.practice.rule("shared-neutral"), (handle,), words, Passes(), "boxes")


def _marked(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Cables to be joined to a load side that is not there."""
    devices = guards(plan.drawing.of(Point))
    for edge in circuit.tree.edges:
        if plan.cables[edge.cable].cable.load_side and edge.up not in devices:
            words = f"{edge.cable} is to hang on the load side of {edge.up}, which is no protective outlet: joined as others are, it is not covered"
            yield failed(plan, "load-side-there", "runs", (edge.cable, edge.up), words)


def _whole(plan: Plan) -> Iterator[Finding]:
    """A protective outlet has no tab to break: its halves cannot be worked apart."""
    for handle in guards(plan.drawing.of(Point)):
        parts = [
            load for c in plan.drawing.of(Control).values() for load in c.loads if load_point(load) == handle
        ]
        if any("." in load for load in parts):
            words = f"{handle} is protective, and a half of it is worked by a switch: protect it at the breaker, or work it whole"
            yield failed(plan, "protective-whole", "circuits", (handle,), words)


def _named(handles: Iterable[Handle]) -> str:
    return ", ".join(sorted(handles, key=order)[:6])


def _are(handles: list[Handle]) -> str:
    return "are" if len(handles) > 1 else "is"
