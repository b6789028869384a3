"""Cables: do they find a way, do they close a ring, do their holes leave wood enough?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import Finding, failed
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.handles import Handle, order
from fjeld.quantities import INCH, Fails, Line, Working, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the runs."""
    for handle, cable in plan.cables.items():
        if cable.route is None:
            words = f"{handle} finds no way from {cable.cable.a} to {cable.cable.b}"
            yield failed(plan, "reachable", "runs", (handle,), words)
        elif cable.cut and cable.cable.measured and cable.cable.measured.mm < cable.route.length:
            measured = format_length(cable.cable.measured.mm, plan.drawing.house.unit)
            yield Finding(
                plan.practice.rule("free-conductor"), (handle,), f"{handle} measured {measured} is shorter than its way",
                Fails(), "runs", cable.cut, cable.cable.measured.mm,
            )  # fmt: skip
    for circuit in plan.circuits.values():
        for handle in circuit.tree.loops:
            yield failed(plan, "no-loops", "runs", (handle,), f"{handle} closes a loop on {circuit.handle}")
        yield from _home_runs(plan, circuit)
    yield from _holes(plan)
    yield from _strays(plan)


def _home_runs(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    found = [edge.cable for edge in circuit.tree.edges if edge.up == circuit.tree.root]
    most = int(plan.practice.value("one-home-run"))
    if len(found) > most:
        line = Line(float(len(found)), 1.0, "cables at the panel", tuple(found))
        words = f"{circuit.handle} leaves the panel by {', '.join(found)}"
        yield Finding(
            plan.practice.rule("one-home-run"), tuple(sorted(found, key=order)[most:]), words, Fails(), "runs",
            Working("Home runs", "", (line,)), float(most),
        )  # fmt: skip


def _strays(plan: Plan) -> Iterator[Finding]:
    wired = {edge.cable for q in plan.circuits.values() for edge in q.tree.edges}
    loops = {c for q in plan.circuits.values() for c in q.tree.loops}
    for handle, cable in plan.cables.items():
        if plan.panel is not None and handle not in wired | loops:
            words = f"{handle} is not joined to the panel by the boxes of {cable.cable.circuit}"
            yield failed(plan, "circuit-fed", "runs", (handle,), words, "cable")


def _holes(plan: Plan) -> Iterator[Finding]:
    share, edge = plan.practice.value("joist-hole")
    stud_share = float(plan.practice.value("stud-hole"))
    seen: set[tuple[str, float]] = set()
    for hole in plan.holes:
        if hole.member == "plate" or (hole.member, hole.size) in seen:
            continue
        seen.add((hole.member, hole.size))
        rule, most = ("joist-hole", float(share)) if hole.member == "joist" else ("stud-hole", stud_share)
        line = Line(1.0, hole.size, f"hole through a {hole.member}", hole.cables)
        sum_ = Working("Hole", "mm", (line,))
        words = f"{format_length(hole.size)} hole in a {hole.member} {format_length(hole.depth)} deep"
        if not at_most(hole.size, hole.depth * most, 0.05):
            yield Finding(
                plan.practice.rule(rule), tuple(hole.cables), words, Fails(), "runs", sum_, hole.depth * most
            )
        if hole.member == "joist" and (hole.depth - hole.size) / 2 < float(edge) * INCH - 0.05:
            yield Finding(
                plan.practice.rule(rule),
                tuple(hole.cables),
                f"{words}: too near top or bottom",
                Fails(),
                "runs",
                sum_,
                place="edge",
            )


def steel_plates(plan: Plan) -> dict[Handle, int]:
    """Steel plates along each cable's holes, each hole counted for its first cable."""
    found: dict[Handle, int] = {}
    for hole in plan.holes:
        found[hole.cables[0]] = found.get(hole.cables[0], 0) + hole.plates
    return found
