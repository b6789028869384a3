"""Circuits: load against breaker, breaker against gauge, protection, and what is not connected."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.facts.spaces import counter_outlet
from fjeld.derive.intents import control_circuit, is_light, wants_neutral
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.practice import rules
from fjeld.practice.rules import RuleKey
from fjeld.quantities import ROUNDING, Fails, Line, NotKnown, Passes, Working, at_most, verdict_at_most


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the circuits."""
    for figured in plan.circuits.values():
        yield from _figures(plan, figured)
        yield from _own_kind(plan, figured)
        yield from _feeds(plan, figured)
    for handle, circuit in plan.drawing.of(Circuit).items():
        yield from _gauges(plan, handle, circuit)
    yield from _kitchens(plan)
    yield from _dimmed(plan)
    yield from _controls(plan)
    yield from _points(plan)
    for handle, point in plan.drawing.of(Point).items():
        if point.kind == "switch":
            yield from _neutral(plan, handle, point)
    yield from _ways(plan)


@looks_at(rules.BREAKER_GAUGE, rules.RING_BREAKER, rules.RING_CAPACITY)
def _gauges(plan: Plan, handle: Handle, circuit: Circuit) -> Iterator[Finding]:
    """Breaker against the gauge of the circuit, and of each piece that is of another."""
    yield _gauge(plan, (handle,), circuit, circuit.gauge)
    for piece, cable in plan.drawing.of(Cable).items():
        if cable.circuit == handle and cable.gauge not in ("", circuit.gauge):
            yield _gauge(plan, (piece, handle), circuit, cable.gauge)


def _gauge(plan: Plan, handles: tuple[Handle, ...], circuit: Circuit, gauge: str) -> Finding:
    """Breaker against one gauge. Where capacity hangs on how a cable lies, between the worst way and the best
    is a question.
    """
    handle = handles[-1]
    limit = plan.practice[rules.BREAKER_GAUGE][gauge]
    line = Line(1.0, float(circuit.breaker), f"breaker on gauge {gauge}", handles)
    sum_ = Working("Breaker", "A", (line,))
    words = f"{circuit.breaker} A breaker on gauge {gauge} of {' of '.join(handles)}"
    rule = plan.practice.rule(rules.BREAKER_GAUGE)
    if rules.CAPACITY_BY_WAY not in plan.practice:
        return Finding(
            rule=rule,
            handles=handles,
            words=words,
            verdict=verdict_at_most(circuit.breaker, limit),
            waypoint="circuits",
            working=sum_,
            limit=limit,
        )
    worst, best = _carries(plan, circuit, gauge)
    if circuit.breaker <= worst:
        return Finding(
            rule=rule,
            handles=handles,
            words=words,
            verdict=Passes(),
            waypoint="circuits",
            working=sum_,
            limit=worst,
        )
    found = Finding(
        rule=rule,
        handles=handles,
        words=words,
        verdict=Fails(),
        waypoint="circuits",
        working=sum_,
        limit=best,
    )
    ringed = plan.circuits.get(handle)
    if ringed is not None and ringed.tree.ring:
        return _ring_gauge(plan, circuit, found, worst, best)
    if could_be_ring(plan, handle):
        # No ring by what is drawn is the answer: only one that is closed carries by both legs.
        open_ = (
            "said to be a ring, and no cable closes it"
            if circuit.ring
            else "a ring of it stands behind that, a radial does not"
        )
        return msgspec.structs.replace(found, words=f"{words}: {open_}", limit=best)
    if circuit.breaker <= best:
        said = (
            f"{words}: enough where it is clipped or in free air, too little where it lies in insulation"
            f" ({worst:g} to {best:g} A); say how it lies, at the circuit"
        )
        return msgspec.structs.replace(found, words=said, verdict=_HOW_IT_LIES, limit=worst, grade="ask")
    return found


def _carries(plan: Plan, circuit: Circuit, gauge: str) -> tuple[float, float]:
    """What a gauge carries at the least and at the most by how it lies; one figure where somebody has said
    how.
    """
    by_way = plan.practice[rules.CAPACITY_BY_WAY][gauge]
    if circuit.lies in by_way:
        return by_way[circuit.lies], by_way[circuit.lies]
    return min(by_way.values()), max(by_way.values())


def _ring_gauge(plan: Plan, circuit: Circuit, finding: Finding, worst: float, best: float) -> Finding:
    """The cable of a ring against what each of its legs must carry, by the way it lies, and its breaker
    against a ring's largest.
    """
    handles, words = finding.handles, finding.words
    most = plan.practice[rules.RING_BREAKER]
    if not at_most(circuit.breaker, most):
        rule, said = (
            plan.practice.rule(rules.RING_BREAKER),
            f"{words}: a ring stands behind {most:g} A at most",
        )
        return msgspec.structs.replace(finding, rule=rule, words=said, verdict=Fails(), limit=most)
    least = plan.practice[rules.RING_CAPACITY]
    sum_ = Working("Leg of the ring", "A", (Line(1.0, least, "at least", handles),))
    leg = msgspec.structs.replace(finding, rule=plan.practice.rule(rules.RING_CAPACITY), working=sum_)
    if worst >= least:
        said = f"{words}: a ring whose legs carry {worst:g} A"
        return msgspec.structs.replace(leg, words=said, verdict=Passes(), limit=worst)
    said = (
        f"{words}: a ring whose legs are to carry {least:g} A each, and carry {worst:g} to {best:g} A by the"
        " way they lie"
    )
    if best < least:
        return msgspec.structs.replace(leg, words=said, verdict=Fails(), limit=best)
    return msgspec.structs.replace(leg, words=said, verdict=_HOW_IT_LIES, limit=worst, grade="ask")


#: What settles how much a cable carries.
_HOW_IT_LIES = NotKnown("how the cable lies all along its way")


def could_be_ring(plan: Plan, circuit: Handle) -> bool:
    """Whether a circuit has the look of a ring final: a ring's cable behind more than one leg of it carries,
    outlets only.
    """
    item, figured = plan.drawing.get(circuit, Circuit), plan.circuits.get(circuit)
    if rules.RING_GAUGE not in plan.practice or item.gauge != plan.practice[rules.RING_GAUGE]:
        return False
    _, one_leg = _carries(plan, item, item.gauge)
    if not one_leg < item.breaker <= plan.practice[rules.RING_BREAKER]:
        return False
    kinds = {plan.drawing.get(b, Point).kind for b in figured.boxes} if figured else set()
    return kinds <= {"outlet", "junction", "blank"}


@looks_at(rules.BREAKER_FEEDS)
def _feeds(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """What hangs on a circuit against its breaker, whatever its gauge; an outlet of two legs alone on its
    circuit has its own rating.
    """
    breaker, most = circuit.circuit.breaker, plan.practice[rules.BREAKER_FEEDS]
    points = plan.drawing.of(Point)
    if circuit.circuit.poles == 2 and len(circuit.boxes) == 1:
        return
    burnt = [
        b
        for b in circuit.boxes
        if points[b].kind in most and not at_most(breaker, most[points[b].kind], ROUNDING)
    ]
    if burnt:
        limit = min(most[points[b].kind] for b in burnt)
        words = f"{circuit.handle} feeds {_some(burnt)} from {breaker} A, where {limit:g} A is the most"
        sum_ = Working("Breaker", "A", (Line(1.0, float(breaker), "breaker", (circuit.handle,)),))
        rule = plan.practice.rule(rules.BREAKER_FEEDS)
        yield Finding(
            rule=rule,
            handles=(circuit.handle,),
            words=words,
            verdict=Fails(),
            waypoint="circuits",
            working=sum_,
            limit=limit,
        )


@looks_at(rules.DIMMER_LOADS)
def _dimmed(plan: Plan) -> Iterator[Finding]:
    """What a dimmer works: lights that are fixed, and neither an outlet nor a motor."""
    may, points = plan.practice[rules.DIMMER_LOADS], plan.drawing.of(Point)
    for handle, control in plan.drawing.of(Control).items():
        if control.device != "dimmer":
            continue
        others = [
            load for load in control.loads if not (is_light(points[load.point], load) and "light" in may)
        ]
        if others:
            words = (
                f"{handle} dims {', '.join(str(load) for load in others[:6])}: a dimmer works lights alone"
            )
            yield failed(plan, rules.DIMMER_LOADS, "circuits", (handle,), words, count=len(others))


@looks_at(rules.CIRCUIT_LOAD, rules.OUTLETS_PER_CIRCUIT, rules.VOLT_DROP, rules.VOLT_DROP_OTHER)
def _figures(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    q, numbers = circuit.handle, circuit.figures
    rule = plan.practice.rule
    known = numbers.known.total
    parts = f", {known:.2f} A of it known and the rest estimated" if numbers.estimated else ""
    words = f"{q} carries {numbers.load.total:.2f} A of {numbers.rating} A{parts}"
    loaded = numbers.loaded
    yield Finding(
        rule=rule(rules.CIRCUIT_LOAD),
        handles=(q,),
        words=words,
        verdict=loaded.verdict,
        waypoint="circuits",
        working=loaded.all,
        limit=loaded.rating,
        grade="advice" if loaded.by_estimates_alone else None,
    )
    drop_rule, limit = drop_limit(plan, circuit)
    drop = (
        f"{q} drops {numbers.drop.total:.2f} V ({numbers.drop_percent:.1f} %) at"
        f" {numbers.far or 'nothing'}{numbers.drop_basis}"
    )
    yield Finding(
        rule=rule(drop_rule),
        handles=(q,),
        words=drop,
        verdict=verdict_at_most(numbers.drop.total, limit),
        waypoint="circuits",
        working=numbers.drop,
        limit=limit,
    )
    most = plan.practice[rules.OUTLETS_PER_CIRCUIT].get(str(circuit.circuit.breaker))
    if most and numbers.outlets > most:
        line = Line(float(numbers.outlets), 1.0, "outlets", circuit.boxes)
        words = f"{numbers.outlets} outlets on {q}"
        sum_ = Working("Outlets", "", (line,))
        yield Finding(
            rule=rule(rules.OUTLETS_PER_CIRCUIT),
            handles=(q,),
            words=words,
            verdict=Fails(),
            waypoint="circuits",
            working=sum_,
            limit=float(most),
        )


def drop_limit(plan: Plan, circuit: CircuitPlan) -> tuple[RuleKey[float], float]:
    """The rule that limits a circuit's volt drop, and the limit in V."""
    lights = any(plan.drawing.get(b, Point).kind == "light" for b in circuit.boxes)
    rule = rules.VOLT_DROP if lights or rules.VOLT_DROP_OTHER not in plan.practice else rules.VOLT_DROP_OTHER
    return rule, plan.practice[rule] * plan.practice.volts / 100


def own_kind(plan: Plan, point: Point) -> str:
    """The kind of circuit that an outlet wants to itself, as ``laundry``; empty for what may share any."""
    if point.kind != "outlet" or rules.DEDICATED_CIRCUIT not in plan.practice:
        return ""
    found: str = plan.practice[rules.DEDICATED_CIRCUIT].get(plan.drawing.get(point.room, Room).use, "")
    return found


@looks_at(rules.DEDICATED_CIRCUIT)
def _own_kind(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """Circuits for one kind of outlet carry nothing else, at 20 A."""
    points, rooms = plan.drawing.of(Point), plan.drawing.of(Room)
    mine = {b: points[b] for b in circuit.boxes if points[b].kind != "switch"}
    kinds = {b: own_kind(plan, p) for b, p in mine.items()}
    for kind in sorted({k for k in kinds.values() if k}):
        own = [b for b, k in kinds.items() if k == kind]
        beside = [b for b in mine if b not in own and not _may_share(plan, kind, mine[b], mine, rooms)]
        said = (
            f"{circuit.handle} feeds {_some(own)}, an outlet of the {kind} kind"
            if len(own) == 1
            else f"{circuit.handle} feeds {_some(own)}, outlets of the {kind} kind"
        )
        if beside:
            words = f"{said}, together with {_some(beside)}"
            yield failed(
                plan,
                rules.DEDICATED_CIRCUIT,
                waypoint="circuits",
                handles=(circuit.handle, *own, *beside),
                words=words,
                place=kind,
                count=len(beside),
            )
        elif circuit.circuit.breaker != plan.practice[rules.DEDICATED_BREAKER]:
            words = (
                f"{said}, on {circuit.circuit.breaker} A where {plan.practice[rules.DEDICATED_BREAKER]:g} A"
                " is asked"
            )
            yield failed(
                plan,
                rules.DEDICATED_CIRCUIT,
                waypoint="circuits",
                handles=(circuit.handle, *own),
                words=words,
                place=f"{kind} rating",
            )


def _may_share(
    plan: Plan, kind: str, other: Point, mine: Mapping[Handle, Point], rooms: Mapping[Handle, Room]
) -> bool:
    """A bath's circuit may feed all of that one bath room; a garage's also the outlets outdoors."""
    if kind == "bath":
        return len({p.room for p in mine.values()}) == 1
    return kind == "garage" and other.kind == "outlet" and rooms[other.room].use == "outdoors"


def _some(handles: list[Handle]) -> str:
    named = sorted(handles, key=order)
    return ", ".join(named[:4]) + (f" and {len(named) - 4} more" if len(named) > 4 else "")


@looks_at(rules.KITCHEN_CIRCUITS)
def _kitchens(plan: Plan) -> Iterator[Finding]:
    """The outlets over a kitchen's counters are on two circuits or more."""
    wanted = plan.practice[rules.KITCHEN_CIRCUITS]
    for handle, room in plan.drawing.of(Room).items():
        circuits = _over_counters(plan, handle) if room.use == "kitchen" else None
        if circuits is None or len(circuits) >= wanted:
            continue
        count = len(circuits)
        line = Line(float(count), 1.0, "circuits over the counters", tuple(sorted(circuits, key=order)))
        yield Finding(
            rule=plan.practice.rule(rules.KITCHEN_CIRCUITS),
            handles=(handle,),
            words=f"The outlets over the counters of {room.name} are on {count}"
            f" circuit{'s' if count != 1 else ''}; {wanted} are asked",
            verdict=Fails(),
            waypoint="circuits",
            working=Working("Circuits", "", (line,)),
            limit=float(wanted),
        )


def _over_counters(plan: Plan, room: Handle) -> set[str] | None:
    """The circuits of the outlets over a room's counters, each leg of two with one neutral by itself; none
    where there are no such outlets, or one has no circuit yet.
    """
    over = [
        plan.drawing.get(h, Point)
        for h, p in plan.placed.items()
        if p.room == room and p.kind == "outlet" and counter_outlet(plan, p) is not None
    ]
    if not over or not all(p.circuit for p in over):
        return None
    double = {q for q, c in plan.drawing.of(Circuit).items() if c.poles == 2}
    return {f"{p.circuit} leg {p.leg if p.circuit in double else 1}" for p in over}


@looks_at(rules.CONTROL_COMPLETE)
def _controls(plan: Plan) -> Iterator[Finding]:
    for handle, control in plan.drawing.of(Control).items():
        if not control.positions:
            yield failed(plan, rules.CONTROL_COMPLETE, "circuits", (handle,), f"{handle} has no switch")
        elif not control.loads:
            yield failed(plan, rules.CONTROL_COMPLETE, "circuits", (handle,), f"{handle} works nothing")
        elif control_circuit(plan.drawing, control) is None:
            yield failed(
                plan,
                rules.CONTROL_COMPLETE,
                "circuits",
                (handle,),
                f"The loads of {handle} are not on one circuit",
            )


@looks_at(rules.CIRCUIT_FED, rules.CONTROL_COMPLETE)
def _points(plan: Plan) -> Iterator[Finding]:
    controls = list(plan.drawing.of(Control).values())
    used = {p for c in controls for p in c.positions}
    worked = {load.point for c in controls for load in c.loads}
    unfed = {b: q.handle for q in plan.circuits.values() for b in q.tree.unfed}
    for handle, point in plan.drawing.of(Point).items():
        if point.kind == "switch":
            if handle not in used:
                yield failed(
                    plan, rules.CONTROL_COMPLETE, "circuits", (handle,), f"{handle} works nothing yet"
                )
        elif point.circuit is None:
            yield failed(plan, rules.CIRCUIT_FED, "circuits", (handle,), f"{handle} is on no circuit")
        if handle in unfed:
            yield failed(
                plan,
                rules.CIRCUIT_FED,
                waypoint="runs",
                handles=(handle,),
                words=f"No cable joins {handle} to {unfed[handle]}",
                place="cable",
            )
        if point.kind == "light" and handle not in worked:
            yield unknown(
                plan,
                rules.CONTROL_COMPLETE,
                waypoint="circuits",
                handles=(handle,),
                words=f"Nothing switches {handle}: it is always on",
                reading="whether it is meant to be always on, as a night light, or what is to switch it",
            )


@looks_at(rules.NEUTRAL_AT_SWITCH)
def _neutral(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    """A switch drawn without a neutral where the rule asks one for what it works; unless one of the room's
    suffices.
    """
    points = plan.drawing.of(Point)
    loads = [load for c in plan.drawing.of(Control).values() if handle in c.positions for load in c.loads]
    for_light = any(is_light(points[load.point], load) for load in loads)
    room = plan.drawing.get(point.room, Room)
    by_rule = Point(point.kind, point.room)
    if point.neutral != "no" or not wants_neutral(by_rule, room, for_light, False, plan.practice):
        return
    words = f"{handle} is drawn without a neutral"
    switches = (p for h, p in points.items() if p.kind == "switch" and h != handle)
    others = any(p.room == point.room and p.neutral != "no" for p in switches)
    if not others or room.seen == "no":
        yield failed(plan, rules.NEUTRAL_AT_SWITCH, "circuits", (handle,), words)
    elif not room.seen:
        yield unknown(
            plan,
            rules.NEUTRAL_AT_SWITCH,
            waypoint="circuits",
            handles=(handle,),
            words=f"{words}; one neutral in {room.name} suffices only where the whole floor is seen from each"
            " switch",
            reading="whether the whole floor is seen from each switch",
        )


@looks_at(rules.PANEL_WAYS)
def _ways(plan: Plan) -> Iterator[Finding]:
    """Each panel's free ways against the circuits that begin in it."""
    circuits = plan.drawing.of(Circuit)
    for handle, panel in plan.drawing.of(Panel).items():
        mine = {q: circuits[q] for q, c in plan.circuits.items() if c.source == handle}
        chosen: dict[int, list[Handle]] = {}
        for circuit, item in mine.items():
            if item.way is not None:
                chosen.setdefault(item.way, []).append(circuit)
        for way, handles in chosen.items():
            if len(handles) > 1 or way not in panel.free():
                words = f"Way {way} of the panel, chosen for {', '.join(handles)}, is " + (
                    "taken twice" if len(handles) > 1 else "not free"
                )
                yield failed(
                    plan,
                    rules.PANEL_WAYS,
                    waypoint="circuits",
                    handles=tuple(handles),
                    words=words,
                    place=str(way),
                )
        ways = len(panel.free())
        double = [q for q, item in mine.items() if item.poles == 2]
        if len(mine) + len(double) > ways:
            lines = [Line(float(len(mine)), 1.0, "circuits", tuple(mine))]
            if double:
                lines.append(Line(float(len(double)), 1.0, "second poles", tuple(double)))
            sum_ = Working("Ways", "", tuple(lines))
            words = f"{len(mine) + len(double)} poles for {ways} ways of {handle}"
            rule = plan.practice.rule(rules.PANEL_WAYS)
            yield Finding(
                rule=rule,
                handles=(handle,),
                words=words,
                verdict=Fails(),
                waypoint="circuits",
                working=sum_,
                limit=float(ways),
            )
