"""Cables: do they find a way, do they close a ring, do their holes leave wood enough?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check.circuits import could_be_ring
from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.cables import CablePlan
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control
from fjeld.judge.wood import Bored, Member, bored
from fjeld.practice import rules, with_article
from fjeld.quantities import Fails, Line, NotKnown, Passes, Working, at_least, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the runs."""
    for handle, cable in plan.cables.items():
        yield from _way(plan, handle, cable)
        if cable.route is not None and cable.cut and cable.cable.measured:
            yield from _measured(plan, handle, cable)
    for circuit in plan.circuits.values():
        ring = circuit.circuit.ring or could_be_ring(plan, circuit.handle)
        yield from _loops(plan, circuit, ring)
        if not ring:
            yield from _home_runs(plan, circuit)
        if circuit.circuit.ring:
            yield from _ring(plan, circuit)
    yield from _holes(plan)
    yield from _strays(plan)


@looks_at(rules.FINISHED_SURFACE, rules.REACHABLE)
def _way(plan: Plan, handle: Handle, cable: CablePlan) -> Iterator[Finding]:
    """Whether a cable finds a way, and what it must open."""
    if cable.route is None:
        words = f"{handle} finds no way from {cable.cable.a} to {cable.cable.b}"
        yield failed(plan, rules.REACHABLE, "runs", (handle,), words)
    elif cable.route.openings:
        yield _opened(plan, handle, cable)


@looks_at(rules.NO_LOOPS)
def _loops(plan: Plan, circuit: CircuitPlan, ring: bool) -> Iterator[Finding]:
    """Cables that close a loop where none is meant, or asked about where one may be."""
    for handle in circuit.tree.loops:
        words = f"{handle} closes a loop on {circuit.handle}"
        if circuit.circuit.ring:
            said = f"{words}, which is no single ring from {circuit.source} and back"
            yield failed(plan, rules.NO_LOOPS, "runs", (handle,), said)
        elif ring:
            said = f"{words}: say in Circuits whether it is a ring"
            yield unknown(
                plan,
                rules.NO_LOOPS,
                waypoint="runs",
                handles=(handle,),
                words=said,
                reading="whether it is meant as a ring",
            )
        else:
            yield failed(plan, rules.NO_LOOPS, "runs", (handle,), words)


@looks_at(rules.RING_CLOSED, rules.RING_SPUR)
def _ring(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    """A ring meets itself at its source, and its spurs hang each on a point of its own, one outlet long."""
    ring = circuit.tree.ring
    if ring is None:
        words = f"{circuit.handle} is to be a ring, and no cable leads back to {circuit.source}"
        yield failed(plan, rules.RING_CLOSED, "runs", (circuit.handle,), words)
        return
    words = f"{circuit.handle} is a ring: {', '.join(ring.cables)} through {len(ring.boxes)} points and back"
    yield Finding(plan.practice.rule(rules.RING_CLOSED), (circuit.handle,), words, Passes(), "runs")
    for box in ring.boxes:
        spurs = [e for e in circuit.tree.edges if e.up == box and e.down not in ring.boxes]
        long = sorted(
            {b for e in spurs for b in circuit.tree.beyond[e.cable] if len(circuit.tree.beyond[e.cable]) > 1},
            key=order,
        )
        if len(spurs) > 1:
            words = f"{len(spurs)} spurs leave the ring of {circuit.handle} at {box}, where one may"
            yield failed(
                plan,
                rules.RING_SPUR,
                waypoint="runs",
                handles=(circuit.handle, box),
                words=words,
                place="number",
                count=len(spurs),
            )
        if long:
            words = (
                f"The spur at {box} feeds {', '.join(long)}: one outlet may hang on it, unless it is fused"
            )
            yield failed(
                plan,
                rules.RING_SPUR,
                waypoint="runs",
                handles=(circuit.handle, box),
                words=words,
                place="length",
                count=len(long),
            )
    if controls := [c for c in plan.drawing.of(Control) if plan.control_circuit(c) == circuit.handle]:
        words = (
            f"{', '.join(controls)} switches loads on the ring of {circuit.handle}: lights and switched loads"
            " go behind a fused unit"
        )
        yield failed(
            plan,
            rules.RING_SPUR,
            waypoint="runs",
            handles=(circuit.handle, *controls),
            words=words,
            place="switched",
        )


@looks_at(rules.ONE_HOME_RUN)
def _home_runs(plan: Plan, circuit: CircuitPlan) -> Iterator[Finding]:
    found = [edge.cable for edge in circuit.tree.edges if edge.up == circuit.tree.root]
    most = plan.practice[rules.ONE_HOME_RUN]
    if len(found) > most:
        line = Line(float(len(found)), 1.0, "cables at the panel", tuple(found))
        words = f"{circuit.handle} leaves {circuit.source} by {', '.join(found)}"
        yield Finding(
            rule=plan.practice.rule(rules.ONE_HOME_RUN),
            handles=tuple(sorted(found, key=order)[most:]),
            words=words,
            verdict=Fails(),
            waypoint="runs",
            working=Working("Home runs", "", (line,)),
            limit=float(most),
        )


@looks_at(rules.FREE_CONDUCTOR)
def _measured(plan: Plan, handle: Handle, cable: CablePlan) -> Iterator[Finding]:
    """A piece held up by a person reaches its way and what is left free at both ends; slack is not asked of
    it.
    """
    assert cable.cut is not None
    assert cable.cable.measured is not None
    lines = tuple(line for line in cable.cut.lines if not line.what.startswith("slack"))
    needed, unit = Working("What the piece must reach", "mm", lines), plan.drawing.house.unit
    measured = cable.cable.measured.mm
    if not at_least(measured, needed.total):
        words = (
            f"{handle} measured {format_length(measured, unit)} is"
            f" {format_length(needed.total - measured, unit)} short of its way and what is left free at its"
            " ends"
        )
        yield Finding(
            rule=plan.practice.rule(rules.FREE_CONDUCTOR),
            handles=(handle,),
            words=words,
            verdict=Fails(),
            waypoint="runs",
            working=needed,
            limit=measured,
        )


def _opened(plan: Plan, handle: Handle, cable: CablePlan) -> Finding:
    """What cannot be fished: members behind a finished surface, each an opening to be cut and mended."""
    assert cable.route is not None
    count = cable.route.openings
    line = Line(float(count), 1.0, "members crossed behind a finished surface", (handle,))
    words = (
        f"{handle} cannot be fished all its way: {count} opening{'s' if count > 1 else ''} in finished"
        " surfaces, one at each stud or joist it crosses"
    )
    return Finding(
        rule=plan.practice.rule(rules.FINISHED_SURFACE),
        handles=(handle,),
        words=words,
        verdict=NotKnown("whether the surface may be opened there, or another way is found"),
        waypoint="runs",
        working=Working("Openings", "", (line,)),
        limit=0.0,
        grade="ask",
    )


@looks_at(rules.CIRCUIT_FED)
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
            yield failed(
                plan, rules.CIRCUIT_FED, waypoint="runs", handles=(handle,), words=words, place="cable"
            )


@looks_at(
    rules.ENGINEERED_HOLE, rules.JOIST_HOLE, rules.STUD_HOLE, rules.STUD_HOLE_EDGE, rules.STUD_HOLE_OTHER
)
def _holes(plan: Plan) -> Iterator[Finding]:
    """Each size of hole in each size of member, once, named for all the cables that want it."""
    kinds: dict[tuple[str, float, float], list[str]] = {}
    for hole in plan.holes:
        if hole.member != "plate":
            kinds.setdefault((hole.member, hole.size, hole.depth), []).extend(hole.cables)
    for (member, size, depth), cables in kinds.items():
        handles = tuple(sorted(set(cables), key=order))
        line = Line(1.0, size, f"hole through {with_article(member)}", handles)
        sum_ = Working("Hole", "mm", (line,))
        unit = plan.drawing.house.unit
        words = (
            f"{format_length(size, unit)} hole in {with_article(member)} {format_length(depth, unit)} deep"
        )
        if member == "engineered joist":
            said = f"{words}: where and how large is the maker's to say"
            yield unknown(
                plan,
                rules.ENGINEERED_HOLE,
                waypoint="runs",
                handles=handles[:6],
                words=said,
                reading="the maker's hole chart",
                place=f"{round(depth)}",
            )
        else:
            # A strip on masonry carries nothing, whatever its wall does.
            strip = member == "bearing stud" and depth <= plan.practice[rules.FURRING]
            kind: Member = "stud" if strip else member  # type: ignore[assignment]
            yield from _in_member(plan, handles, words, sum_, bored(kind, depth, size, plan.practice))


def _in_member(
    plan: Plan, handles: tuple[str, ...], words: str, sum_: Working, hole: Bored
) -> Iterator[Finding]:
    practice, joist = plan.practice, hole.rule == rules.JOIST_HOLE
    if hole.too_wide and hole.rule is not None:
        yield Finding(
            rule=practice.rule(hole.rule),
            handles=handles,
            words=words,
            verdict=Fails(),
            waypoint="runs",
            working=sum_,
            limit=hole.most,
        )
    # One too wide for a stud is too near its faces as well, and told once; a joist's top and bottom carry the
    # floor, however deep it is.
    if hole.too_near and hole.edge_rule is not None and (joist or not hole.too_wide):
        said = f"{words}: too near {'top or bottom' if joist else 'its faces'}"
        yield Finding(
            rule=practice.rule(hole.edge_rule),
            handles=handles,
            words=said,
            verdict=Fails(),
            waypoint="runs",
            working=sum_,
            place="edge",
        )
