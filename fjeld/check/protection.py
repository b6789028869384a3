"""Protection of circuits: arc-fault, residual current, and what each protective device covers.

A protective outlet covers its own slots and what hangs on its load side; what is joined ahead
of it, though fed through its box, is not covered.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.bodies import Block
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan, guards
from fjeld.drawing.building import Room, Storey
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, Point
from fjeld.geometry import Point as Point2
from fjeld.geometry import distance
from fjeld.judge.protection import ARCS, arc_fault_by_room, ground_fault_by_room, ground_fault_by_water
from fjeld.practice import rules
from fjeld.quantities import Passes, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about protection."""
    for figured in plan.circuits.values():
        yield from _residual(plan, figured)
        yield from _arc_fault(plan, figured)
        yield from _ground_fault(plan, figured)
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
    if point.kind != "outlet" or rules.GROUND_FAULT not in plan.practice:
        return ""
    room = plan.drawing.get(point.room, Room)
    if ground_fault_by_room(room.use, plan.practice):
        return f"in {room.name}"
    if ground_fault_by_room(room.use, plan.practice, below_grade(plan, point.room)):
        return f"in {room.name}, below the ground outside"
    if placed is None:
        return ""
    for block in plan.blocks_in(point.room):
        if block.kind in ("sink", "basin", "bath", "shower"):
            off = block.off(placed.position[:2])
            if ground_fault_by_water(off, plan.practice):
                return f"{format_length(off, plan.drawing.house.unit)} from the {block.kind} {block.handle}"
    return _through_a_door(plan, handle)


def _through_a_door(plan: Plan, handle: Handle) -> str:
    """A sink or a tub in the next room, as a cord reaches it through a doorway."""
    placed = plan.placed[handle]
    for other, openings in plan.openings.items():
        if other == placed.room:
            continue
        for door in sorted(plan.openings[placed.room].keys() & openings.keys()):
            opening, where = openings[door], plan.rooms[other]
            if opening.kind not in ("door", "cased") or opening.wall > len(where.walls):
                continue
            wall = where.walls[opening.wall - 1]
            ends = (wall.at(opening.at.mm), wall.at(opening.at.mm + opening.width.mm))
            for block in plan.blocks_in(other):
                if block.kind in ("sink", "basin", "bath", "shower"):
                    off = _by_way_of(placed.position[:2], block, *ends)
                    if ground_fault_by_water(off, plan.practice):
                        return (
                            f"{format_length(off, plan.drawing.house.unit)} from the {block.kind}"
                            f" {block.handle}, through {door}"
                        )
    return ""


#: A doorway is halved so often in looking for the place that a cord takes through it.
_HALVED = 40


def _by_way_of(outlet: Point2, block: Block, a: Point2, b: Point2) -> float:
    """The shortest way from an outlet to a thing through a doorway from ``a`` to ``b``, mm. Its length is
    convex in the place across the doorway, so that of two places the better one tells which side of the other
    the best is on.
    """

    def way(share: float) -> float:
        at = (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)
        return distance(outlet, at) + block.off(at)

    low, high = 0.0, 1.0
    for _ in range(_HALVED):
        one, two = low + (high - low) / 3, high - (high - low) / 3
        low, high = (low, two) if way(one) <= way(two) else (one, high)
    return way((low + high) / 2)


def below_grade(plan: Plan, room: Handle) -> bool:
    """Whether a room's floor lies below the ground outside: as it says, else as its storey does."""
    mine = plan.drawing.get(room, Room)
    if mine.grade or mine.storey is None:
        return mine.grade == "below"
    return plan.drawing.get(mine.storey, Storey).grade == "below"


@looks_at(rules.RESIDUAL)
def _residual(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    if circuit.circuit.protection != "residual":
        words = (
            f"{circuit.handle} has no {plan.practice[rules.RESIDUAL] * 1000:g} mA residual-current protection"
        )
        yield failed(plan, rules.RESIDUAL, "circuits", (circuit.handle,), words)


@looks_at(rules.ARC_FAULT)
def _arc_fault(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Circuits in the rooms of the rule, whatever their breaker: a larger one takes no protection away."""
    if circuit.circuit.protection in ARCS:
        return
    points, rooms = plan.drawing.of(Point), plan.drawing.of(Room)
    serves = [rooms[points[b].room] for b in circuit.boxes]
    wants = {r.use: arc_fault_by_room(r.use, plan.practice) for r in serves}
    arc = sorted({r.name for r in serves if wants[r.use] == "asked"})
    if arc:
        words = f"{circuit.handle} serves {', '.join(arc)} without arc-fault protection at its breaker"
        yield failed(plan, rules.ARC_FAULT, "circuits", (circuit.handle,), words, count=len(arc))
    elif near := sorted({r.name for r in serves if wants[r.use] == "similar"}):
        words = f"{circuit.handle} serves {', '.join(near)}: a similar room or not?"
        yield unknown(
            plan,
            rules.ARC_FAULT,
            waypoint="circuits",
            handles=(circuit.handle,),
            words=words,
            reading="whether the local code counts it",
            place="similar",
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


@looks_at(rules.GROUND_FAULT)
def _ground_fault(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    bare = uncovered(plan, circuit)
    if bare:
        reasons = ", ".join(f"{b} {bare[b]}" for b in sorted(bare, key=order)[:4])
        words = f"{reasons}, on {circuit.handle} without ground-fault protection"
        if ahead := sorted(set(bare) & _past_a_device(circuit, guards(plan.drawing.of(Point))), key=order):
            words += f"; {_named(ahead)} {_are(ahead)} fed past a protective outlet, joined ahead of it"
        yield failed(plan, rules.GROUND_FAULT, "circuits", (circuit.handle,), words, count=len(bare))
    for device in sorted(set(circuit.tree.behind.values()), key=order):
        served = [b for b, by in circuit.tree.behind.items() if by == device and wants_ground_fault(plan, b)]
        if served:
            words = f"{_named(served)} {_are(served)} covered by {device}, on its load side"
            rule = plan.practice.rule(rules.GROUND_FAULT)
            yield Finding(rule, (circuit.handle, device), words, Passes(), "circuits", place="covered")


def _past_a_device(circuit: CircuitPlan, devices: Iterable[Handle]) -> set[Handle]:
    """The boxes that are fed through a protective outlet's box."""
    edges = [e for e in circuit.tree.edges if e.up in devices]
    return {box for edge in edges for box in circuit.tree.beyond[edge.cable]}


@looks_at(rules.ALARM_BEHIND, rules.LIGHT_BEHIND)
def _behind(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """What should not go dark when a protective outlet opens."""
    points = plan.drawing.of(Point)
    for device in sorted(set(circuit.tree.behind.values()), key=order):
        mine = sorted((b for b in circuit.tree.behind if device in circuit.tree.devices_before(b)), key=order)
        at = (circuit.handle, device)
        alarms, lights = ([b for b in mine if points[b].kind == kind] for kind in ("alarm", "light"))
        if alarms and rules.ALARM_BEHIND in plan.practice:
            yield failed(plan, rules.ALARM_BEHIND, "circuits", at, _dark(alarms, device), count=len(alarms))
        if lights and rules.LIGHT_BEHIND in plan.practice:
            yield failed(plan, rules.LIGHT_BEHIND, "circuits", at, _dark(lights, device), count=len(lights))


def _dark(hung: list[Handle], device: Handle) -> str:
    return f"{_named(hung)} {'go' if len(hung) > 1 else 'goes'} dark when {device} opens: on its load side"


@looks_at(rules.ONE_SIDE)
def _one_side(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Whether all that a control works takes its neutral on one side of each device."""
    for handle, control in plan.drawing.of(Control).items():
        loads = {load.point for load in control.loads} & set(circuit.boxes)
        sides = {circuit.tree.behind.get(plan.home(load), Handle("")) for load in loads}
        if control.positions and len(sides) > 1:
            device = min(sides - {""}, key=order)
            covered = [h for h in loads if circuit.tree.behind.get(plan.home(h)) == device]
            words = (
                f"{handle} works {_named(covered)} beyond {device} and {_named(loads - {*covered})} ahead of"
                " it: it opens as soon as they burn"
            )
            yield failed(plan, rules.ONE_SIDE, "circuits", (handle, device), words)


@looks_at(rules.SECOND_LEG, rules.SHARED_NEUTRAL)
def _shared(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """A neutral that two legs share: through no device, in no protective outlet, and both legs there."""
    if circuit.circuit.poles != 2:
        return
    handle = circuit.handle
    if device := min(circuit.tree.behind.values(), key=order, default=None):
        words = (
            f"{handle} shares one neutral between two legs, of which {device} sees one: what hangs on its"
            " load side makes it open"
        )
        yield failed(plan, rules.SHARED_NEUTRAL, "circuits", (handle, device), words)
    feeder = next((q for q, c in plan.circuits.items() if circuit.source in c.panels), None)
    if feeder and plan.circuits[feeder].circuit.poles != 2:
        words = f"{handle} wants both legs, and {feeder} brings one to {circuit.source}: half of it is dead"
        yield failed(plan, rules.SECOND_LEG, "circuits", (handle, feeder), words)
    parted = [
        box
        for box in circuit.boxes
        for joint in plan.boxes[plan.home(box)].joints
        if joint.key.circuit == handle and joint.net.role == "neutral" and joint.how == "through"
    ]
    words = f"The neutral of {handle}, shared by two legs, goes through no device"
    if parted:
        yield failed(
            plan, rules.SHARED_NEUTRAL, "boxes", (handle, *parted), f"{words} but in {_named(parted)}"
        )
    else:
        yield Finding(plan.practice.rule(rules.SHARED_NEUTRAL), (handle,), words, Passes(), "boxes")


@looks_at(rules.LOAD_SIDE_THERE)
def _marked(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Cables to be joined to a load side that is not there."""
    devices = guards(plan.drawing.of(Point))
    for edge in circuit.tree.edges:
        if plan.cables[edge.cable].cable.load_side and edge.up not in devices:
            words = (
                f"{edge.cable} is to hang on the load side of {edge.up}, which is no protective outlet:"
                " joined as others are, it is not covered"
            )
            yield failed(plan, rules.LOAD_SIDE_THERE, "runs", (edge.cable, edge.up), words)


@looks_at(rules.PROTECTIVE_WHOLE)
def _whole(plan: Plan) -> Iterator[Finding]:
    """A protective outlet has no tab to break: its halves cannot be worked apart."""
    for handle in guards(plan.drawing.of(Point)):
        parts = [load for c in plan.drawing.of(Control).values() for load in c.loads if load.point == handle]
        if any(load.part for load in parts):
            words = (
                f"{handle} is protective, and a half of it is worked by a switch: protect it at the breaker,"
                " or work it whole"
            )
            yield failed(plan, rules.PROTECTIVE_WHOLE, "circuits", (handle,), words)


def _named(handles: Iterable[Handle]) -> str:
    return ", ".join(sorted(handles, key=order)[:6])


def _are(handles: list[Handle]) -> str:
    return "are" if len(handles) > 1 else "is"
