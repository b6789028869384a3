"""Circuits: load against breaker, breaker against gauge, protection, and what is not connected."""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.intents import control_circuit, wants_neutral
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.model import Circuit, Control, Point, load_point
from fjeld.quantities import Fails, Line, Working, verdict_at_most


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the circuits."""
    for figured in plan.circuits.values():
        yield from _figures(plan, figured)
        yield from _protection(plan, figured)
    for handle, circuit in plan.drawing.of(Circuit).items():
        limit = float(plan.practice.value("breaker-gauge")[circuit.gauge])
        line = Line(1.0, float(circuit.breaker), f"breaker on gauge {circuit.gauge}", (handle,))
        words = f"{circuit.breaker} A breaker on gauge {circuit.gauge} of {handle}"
        verdict = verdict_at_most(circuit.breaker, limit)
        yield Finding(
            plan.practice.rule("breaker-gauge"),
            (handle,),
            words,
            verdict,
            "circuits",
            Working("Breaker", "A", (line,)),
            limit,
        )
    yield from _controls(plan)
    yield from _points(plan)
    yield from _ways(plan)


def _figures(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    q, numbers = circuit.handle, circuit.figures
    rule = plan.practice.rule
    words = f"{q} carries {numbers.load.total:.2f} A of {numbers.rating} A"
    yield Finding(
        rule("circuit-load"),
        (q,),
        words,
        verdict_at_most(numbers.load.total, numbers.rating),
        "circuits",
        numbers.load,
        float(numbers.rating),
    )
    lights = any(plan.drawing.get(b, Point).kind == "light" for b in circuit.boxes)
    drop_rule = "volt-drop" if lights or not plan.practice.holds("volt-drop-other") else "volt-drop-other"
    limit = float(plan.practice.value(drop_rule)) * plan.practice.volts / 100
    drop = f"{q} drops {numbers.drop.total:.2f} V ({numbers.drop_percent:.1f} %) at {numbers.far or 'nothing'}"
    yield Finding(
        rule(drop_rule),
        (q,),
        drop,
        verdict_at_most(numbers.drop.total, limit),
        "circuits",
        numbers.drop,
        limit,
    )
    most = plan.practice.value("outlets-per-circuit").get(str(circuit.circuit.breaker))
    if most and numbers.outlets > most:
        line = Line(float(numbers.outlets), 1.0, "outlets", circuit.boxes)
        yield Finding(
            rule("outlets-per-circuit"),
            (q,),
            f"{numbers.outlets} outlets on {q}",
            Fails(),
            "circuits",
            Working("Outlets", "", (line,)),
            float(most),
        )


def _protection(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    if plan.practice.holds("residual") and circuit.circuit.protection != "residual":
        words = f"{circuit.handle} has no 30 mA residual-current protection"
        yield failed(plan, "residual", "circuits", (circuit.handle,), words)
    if not plan.practice.holds("arc-fault"):
        return
    points = plan.drawing.of(Point)
    rooms = plan.drawing.of(Room)
    arc = sorted(
        {
            rooms[points[b].room].name
            for b in circuit.boxes
            if rooms[points[b].room].use in plan.practice.value("arc-fault")
        }
    )
    ground = sorted(
        b
        for b in circuit.boxes
        if points[b].kind == "outlet"
        and not points[b].protective
        and rooms[points[b].room].use in plan.practice.value("ground-fault")
    )
    has = circuit.circuit.protection
    if arc and has not in ("arc-fault", "both"):
        yield failed(
            plan,
            "arc-fault",
            "circuits",
            (circuit.handle,),
            f"{circuit.handle} serves {', '.join(arc)} without arc-fault protection",
        )
    if ground and has not in ("ground-fault", "both"):
        yield failed(
            plan,
            "ground-fault",
            "circuits",
            (circuit.handle,),
            f"{', '.join(ground)} on {circuit.handle} without ground-fault protection",
        )


def _controls(plan: Plan) -> Iterator[Finding]:
    for handle, control in plan.drawing.of(Control).items():
        if not control.positions:
            yield failed(plan, "control-complete", "circuits", (handle,), f"{handle} has no switch")
        elif not control.loads:
            yield failed(plan, "control-complete", "circuits", (handle,), f"{handle} works nothing")
        elif control_circuit(plan.drawing, control) is None:
            yield failed(
                plan, "control-complete", "circuits", (handle,), f"The loads of {handle} are not on one circuit"
            )


def _points(plan: Plan) -> Iterator[Finding]:
    controls = list(plan.drawing.of(Control).values())
    used = {p for c in controls for p in c.positions}
    worked = {load_point(load) for c in controls for load in c.loads}
    unfed = {b: q.handle for q in plan.circuits.values() for b in q.tree.unfed}
    for handle, point in plan.drawing.of(Point).items():
        if point.kind == "switch":
            if handle not in used:
                yield failed(plan, "control-complete", "circuits", (handle,), f"{handle} works nothing yet")
            yield from _neutral(plan, handle, point, controls)
        elif point.circuit is None:
            yield failed(plan, "circuit-fed", "circuits", (handle,), f"{handle} is on no circuit")
        if handle in unfed:
            yield failed(
                plan, "circuit-fed", "runs", (handle,), f"No cable joins {handle} to {unfed[handle]}", "cable"
            )
        if point.kind == "light" and handle not in worked:
            yield unknown(
                plan,
                "control-complete",
                "circuits",
                (handle,),
                f"Nothing switches {handle}: it is always on",
                "what is to switch it",
            )


def _neutral(plan: Plan, handle: str, point: Point, controls: list[Control]) -> Iterator[Finding]:
    loads = [load_point(load) for c in controls if handle in c.positions for load in c.loads]
    for_light = any(plan.drawing.get(p, Point).kind != "outlet" for p in loads)
    by_rule = Point(point.kind, point.room)
    if point.neutral == "no" and wants_neutral(
        by_rule, plan.drawing.get(point.room, Room), for_light, False, plan.practice
    ):
        yield failed(plan, "neutral-at-switch", "circuits", (handle,), f"{handle} is drawn without a neutral")


def _ways(plan: Plan) -> Iterator[Finding]:
    ways = sum(len(panel.free()) for panel in plan.drawing.of(Panel).values())
    circuits = plan.drawing.of(Circuit)
    if plan.panel is not None and len(circuits) > ways:
        line = Line(float(len(circuits)), 1.0, "circuits", tuple(circuits))
        words = f"{len(circuits)} circuits for {ways} ways"
        yield Finding(
            plan.practice.rule("panel-ways"),
            (plan.panel,),
            words,
            Fails(),
            "circuits",
            Working("Ways", "", (line,)),
            float(ways),
        )
