"""Cables: do they find a way, do they close a ring, do their holes leave wood enough?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.check.circuits import could_be_ring
from fjeld.derive.cables import CablePlan
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control
from fjeld.quantities import INCH, Fails, Line, NotKnown, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the runs."""
    for handle, cable in plan.cables.items():
        if cable.route is None:
            words = f"{handle} finds no way from {cable.cable.a} to {cable.cable.b}"
            yield failed(plan, "reachable", "runs", (handle,), words)
        elif cable.cut and cable.cable.measured:
            yield from _measured(plan, handle, cable)
        if cable.route is not None and cable.route.openings:
            yield _opened(plan, handle, cable)
    for circuit in plan.circuits.values():
        ring = circuit.circuit.ring or could_be_ring(plan, circuit.handle)
        for handle in circuit.tree.loops:
            words = f"{handle} closes a loop on {circuit.handle}"
            if circuit.circuit.ring:
                said = f"{words}, which is no single ring from {circuit.source} and back"
                yield failed(plan, "no-loops", "runs", (handle,), said)
            elif ring:
                said = f"{words}: say in Circuits whether it is a ring"
                yield unknown(plan, "no-loops", "runs", (handle,), said, "whether it is meant as a ring")
            else:
                yield failed(plan, "no-loops", "runs", (handle,), words)
        if not ring:
            yield from _home_runs(plan, circuit)
        if circuit.circuit.ring:
            yield from _ring(plan, circuit)
    yield from _holes(plan)
    yield from _strays(plan)


def _ring(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """A ring meets itself at its source, and its spurs hang each on a point of its own, one outlet long."""
    ring = circuit.tree.ring
    if ring is None:
        words = f"{circuit.handle} is to be a ring, and no cable leads back to {circuit.source}"
        yield failed(plan, "ring-closed", "runs", (circuit.handle,), words)
        return
    words = f"{circuit.handle} is a ring: {', '.join(ring.cables)} through {len(ring.boxes)} points and back"
    yield Finding(plan.practice.rule("ring-closed"), (circuit.handle,), words, Passes(), "runs")
    for box in ring.boxes:
        spurs = [e for e in circuit.tree.edges if e.up == box and e.down not in ring.boxes]
        long = sorted(
            {b for e in spurs for b in circuit.tree.beyond[e.cable] if len(circuit.tree.beyond[e.cable]) > 1},
            key=order,
        )
        if len(spurs) > 1:
            words = f"{len(spurs)} spurs leave the ring of {circuit.handle} at {box}, where one may"
            yield failed(plan, "ring-spur", "runs", (circuit.handle, box), words, "number", len(spurs))
        if long:
            words = f"The spur at {box} feeds {', '.join(long)}: one outlet may hang on it, unless it is fused"
            yield failed(plan, "ring-spur", "runs", (circuit.handle, box), words, "length", len(long))
    if controls := [c for c in plan.drawing.of(Control) if plan.control_circuit(c) == circuit.handle]:
        words = f"{', '.join(controls)} switches loads on the ring of {circuit.handle}: lights and switched loads go behind a fused unit"
        yield failed(plan, "ring-spur", "runs", (circuit.handle, *controls), words, "switched")


def _home_runs(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    found = [edge.cable for edge in circuit.tree.edges if edge.up == circuit.tree.root]
    most = int(plan.practice.value("one-home-run"))
    if len(found) > most:
        line = Line(float(len(found)), 1.0, "cables at the panel", tuple(found))
        words = f"{circuit.handle} leaves {circuit.source} by {', '.join(found)}"
        yield Finding(
            plan.practice.rule("one-home-run"), tuple(sorted(found, key=order)[most:]), words, Fails(), "runs",
            Working("Home runs", "", (line,)), float(most),
        )  # fmt: skip


def _measured(plan: Plan, handle: Handle, cable: CablePlan) -> Iterator[Finding]:
    """A piece held up by a person reaches its way and what is left free at both ends; slack is not asked of it."""
    assert cable.cut is not None
    assert cable.cable.measured is not None
    lines = tuple(line for line in cable.cut.lines if not line.what.startswith("slack"))
    needed, unit = Working("What the piece must reach", "mm", lines), plan.drawing.house.unit
    measured = cable.cable.measured.mm
    if not at_least(measured, needed.total):
        words = f"{handle} measured {format_length(measured, unit)} is {format_length(needed.total - measured, unit)} short of its way and what is left free at its ends"
        yield Finding(plan.practice.rule("free-conductor"), (handle,), words, Fails(), "runs", needed, measured)


def _opened(plan: Plan, handle: Handle, cable: CablePlan) -> Finding:
    """What cannot be fished: members behind a finished surface, each an opening to be cut and mended."""
    assert cable.route is not None
    count = cable.route.openings
    line = Line(float(count), 1.0, "members crossed behind a finished surface", (handle,))
    words = f"{handle} cannot be fished all its way: {count} opening{'s' if count > 1 else ''} in finished surfaces, one at each stud or joist it crosses"
    return Finding(
        plan.practice.rule("finished-surface"), (handle,), words, NotKnown("whether the surface may be opened there, or another way is found"), "runs",
        Working("Openings", "", (line,)), 0.0, grade="ask",
    )  # fmt: skip


def _strays(plan: Plan) -> Iterator[Finding]:
    wired = {edge.cable for q in plan.circuits.values() for edge in q.tree.edges}
    loops = {c for q in plan.circuits.values() for c in q.tree.loops}
    loops |= {q.tree.ring.closing.cable for q in plan.circuits.values() if q.tree.ring}
    for handle, cable in plan.cables.items():
        begins = plan.circuits.get(cable.cable.circuit)
        if begins is not None and handle not in wired | loops:
            words = (
                f"{handle} is not joined to {begins.source}, where {cable.cable.circuit} begins, by its boxes"
            )
            yield failed(plan, "circuit-fed", "runs", (handle,), words, "cable")


#: Shallower than this it is a furring strip, no stud, mm.
_FURRING = 45.0


def _holes(plan: Plan) -> Iterator[Finding]:
    """Each size of hole in each size of member, once, named for all the cables that want it."""
    kinds: dict[tuple[str, float, float], list[str]] = {}
    for hole in plan.holes:
        if hole.member != "plate":
            kinds.setdefault((hole.member, hole.size, hole.depth), []).extend(hole.cables)
    for (member, size, depth), cables in kinds.items():
        handles = tuple(sorted(set(cables), key=order))
        line = Line(1.0, size, f"hole through a {member}", handles)
        sum_ = Working("Hole", "mm", (line,))
        unit = plan.drawing.house.unit
        words = f"{format_length(size, unit)} hole in a {member} {format_length(depth, unit)} deep"
        if member == "engineered joist":
            said = f"{words}: where and how large is the maker's to say"
            yield unknown(
                plan, "engineered-hole", "runs", handles[:6], said, "the maker's hole chart", f"{round(depth)}"
            )
        elif member == "joist":
            yield from _in_joist(plan, handles, words, sum_, size, depth)
        elif depth > _FURRING:
            yield from _in_stud(plan, handles, words, sum_, size, depth, member)


def _in_joist(
    plan: Plan, handles: tuple[str, ...], words: str, sum_: Working, size: float, depth: float
) -> Iterator[Finding]:
    share, edge = (float(v) for v in plan.practice.value("joist-hole"))
    rule = plan.practice.rule("joist-hole")
    if not at_most(size, depth * share, 0.05):
        yield Finding(rule, handles, words, Fails(), "runs", sum_, depth * share)
    if (depth - size) / 2 < edge * INCH - 0.05:
        yield Finding(rule, handles, f"{words}: too near top or bottom", Fails(), "runs", sum_, place="edge")


def _in_stud(
    plan: Plan, handles: tuple[str, ...], words: str, sum_: Working, size: float, depth: float, member: str
) -> Iterator[Finding]:
    other = member == "stud" and plan.practice.holds("stud-hole-other")
    name = "stud-hole-other" if other else "stud-hole"
    share = float(plan.practice.value(name))
    if not at_most(size, depth * share, 0.05):
        yield Finding(plan.practice.rule(name), handles, words, Fails(), "runs", sum_, depth * share)
    elif (
        plan.practice.holds("stud-hole-edge") and (depth - size) / 2 < plan.practice.mm("stud-hole-edge") - 0.05
    ):
        said = f"{words}: too near its faces"
        yield Finding(plan.practice.rule("stud-hole-edge"), handles, said, Fails(), "runs", sum_, place="edge")


def steel_plates(plan: Plan) -> dict[Handle, int]:
    """Steel plates along each cable's holes, each hole counted for its first cable."""
    found: dict[Handle, int] = {}
    for hole in plan.holes:
        found[hole.cables[0]] = found.get(hole.cables[0], 0) + hole.plates
    return found
