"""Circuits that begin in an old box: what is known of what was found there, and which reading settles the
rest.

A colour, a landing or a guess never passes: each of these rules passes on a reading alone.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.old import carrying
from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Room
from fjeld.drawing.ends import End, owner
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.drawing.old_box import Found, Lead, OldBox
from fjeld.errand.asked import set_back
from fjeld.errand.facts import BoxFacts, Gate, Wants
from fjeld.errand.gates import looked_at
from fjeld.errand.record import as_found
from fjeld.judge.load import Hangs, loaded
from fjeld.practice import Rule, Severity, rules
from fjeld.quantities import Fails, NotKnown, Passes


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of circuits that begin in old boxes."""
    for circuit in plan.circuits.values():
        old = plan.drawing.items.get(circuit.source)
        if isinstance(old, OldBox):
            yield from _wires(plan, circuit, old)
            yield from _gauge(plan, circuit, old)
            yield from _held(plan, circuit, old)
            yield from _state(plan, circuit, old)
            yield from _protected(plan, circuit, old)
    yield from _fill(plan)


@looks_at(rules.SOURCE_GROUND, rules.SOURCE_LINE, rules.SOURCE_NEUTRAL)
def _wires(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Iterator[Finding]:
    """The three conductors that it begins at."""
    yield _line(plan, circuit, old)
    yield _neutral(plan, circuit, old)
    yield _ground(plan, circuit, old)


#: What a thing of the house is to an old box that feeds it.
_FEEDS: dict[str, Wants] = {"light": "light", "outlet": "outlet", "alarm": "alarm", "fan": "fan"}


def _seen(plan: Plan, circuit: CircuitPlan, old: OldBox) -> list[Gate]:
    """What is told of an old box and its circuit by looking, for each kind of thing that is to hang on it,
    each once.
    """
    points = [plan.drawing.get(b, Point) for b in circuit.boxes]
    wanted = {(_FEEDS[p.kind], plan.drawing.get(p.room, Room).use) for p in points if p.kind in _FEEDS}
    known = BoxFacts(
        circuit=old.serves,
        ground=old.ground,
        condition=old.condition,
        opening=old.opening,
        reachable=old.accessible,
        one_circuit=old.alone,
    )
    asked = [
        msgspec.structs.replace(known, wants=wants, room="" if use == "other" else use)
        for wants, use in sorted(wanted)
    ] or [known]
    gates = [g for facts in asked for g in looked_at(as_found(old), facts, plan.practice)]
    return list({(g.id, g.is_, g.words): g for g in gates}.values())


@looks_at(rules.SOURCE_STATE)
def _state(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Iterator[Finding]:
    """Whether it may be begun in at all: one question for what nobody has looked at, and each thing that is
    not as it should be.
    """
    rule, begins = plan.practice.rule(rules.SOURCE_STATE), f"{circuit.handle} begins in {circuit.source}"
    seen = _seen(plan, circuit, old)
    for n, gate in enumerate(seen):
        if gate.is_ == "no":
            yield failed(
                plan,
                rules.SOURCE_STATE,
                waypoint="circuits",
                handles=_where(circuit),
                words=f"{begins}: {gate.words}",
                place=f"{gate.id} {n}",
            )
        elif gate.is_ == "change":
            yield Finding(
                rule,
                _where(circuit),
                f"{begins}: {gate.words}",
                Fails(),
                "circuits",
                place=f"{gate.id} {n}",
                grade=_CHANGE.get(gate.id, "breach"),
            )
    if old.material == "none":
        words = f"{begins}, where wires are joined in no box: it wants one first"
        yield failed(
            plan,
            rules.SOURCE_STATE,
            waypoint="circuits",
            handles=_where(circuit),
            words=words,
            place="no box",
        )
    elif back := set_back(old, plan.practice):
        yield Finding(
            rule,
            _where(circuit),
            f"{begins}: {back}; it wants an extender",
            Fails(),
            "circuits",
            place="set back",
            grade="breach",
        )
    if unseen := [g.words for g in seen if g.is_ == "unknown"]:
        words = f"{begins}, which nobody has looked at in full"
        yield unknown(
            plan,
            rules.SOURCE_STATE,
            waypoint="circuits",
            handles=_where(circuit),
            words=words,
            reading="; ".join(unseen),
        )
    elif all(g.is_ == "yes" for g in seen):
        yield Finding(
            rule,
            _where(circuit),
            f"{circuit.source} and its circuit were looked at: {'; '.join(g.words for g in seen)}",
            Passes(),
            "circuits",
        )


#: How grave it is that something is to be changed first, where it is less than a breach: two circuits may be
#: in one box.
_CHANGE: dict[str, Severity] = {"G10": "advice"}

#: What protection each word of a circuit asks to stand before it.
_ASKS = {
    "arc-fault": {"arc-fault"},
    "ground-fault": {"ground-fault"},
    "residual": {"ground-fault"},
    "both": {"arc-fault", "ground-fault"},
}
_STANDS = {**_ASKS, "none": set[str]()}


@looks_at(rules.SOURCE_PROTECTED)
def _protected(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Iterator[Finding]:
    """The protection that is drawn for it against what was seen to stand before the box."""
    asked = _ASKS.get(circuit.circuit.protection)
    if not asked:
        return
    if not old.ahead:
        words = (
            f"Whether {' and '.join(sorted(asked))} protection stands before {circuit.source} is not known"
        )
        yield unknown(
            plan,
            rules.SOURCE_PROTECTED,
            waypoint="circuits",
            handles=_where(circuit),
            words=words,
            reading="the breaker's face, and every outlet before the box, looked at and tried by its test"
            " button",
        )
    elif missing := sorted(asked - _STANDS[old.ahead]):
        words = (
            f"{circuit.handle} is drawn with {' and '.join(missing)} protection, and none was found before"
            f" {circuit.source}: fit it there first"
        )
        yield failed(plan, rules.SOURCE_PROTECTED, "circuits", _where(circuit), words)
    else:
        words = f"{' and '.join(sorted(asked))} protection was found before {circuit.source}"
        yield Finding(
            plan.practice.rule(rules.SOURCE_PROTECTED), _where(circuit), words, Passes(), "circuits"
        )


@looks_at(rules.SOURCE_BREAKER, rules.SOURCE_LOAD)
def _held(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Iterator[Finding]:
    """What its breaker is, and what that carries already."""
    yield _breaker(plan, circuit, old)
    yield _load(plan, circuit, old)


def _where(circuit: CircuitPlan) -> tuple[Handle, Handle]:
    return circuit.handle, circuit.source


def _named(met: list[tuple[End, Lead]]) -> str:
    return " and ".join(f"{lead.colour} of cable {owner(end)}" for end, lead in met)


def _line(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Finding:
    at, box = _where(circuit), circuit.source
    if not carrying(old, circuit.circuit.found, "line") and (
        switched := carrying(old, circuit.circuit.found, "switched")
    ):
        words = (
            f"{circuit.handle} would begin at {_named(switched)} in {box}, which a switch works: all on it"
            " goes dark with that"
        )
        return failed(plan, rules.SOURCE_LINE, "circuits", at, words)
    reading = (
        f"with the cover of {box} off and nothing parted: which conductor is live to a proven ground in every"
        " position of every switch near it"
    )
    none = f"{circuit.handle} begins in {box}: what brings the line there is not known yet"
    return _taken(
        plan,
        circuit,
        old=old,
        rule=plan.practice.rule(rules.SOURCE_LINE),
        role="line",
        none=none,
        reading=reading,
    )


def _neutral(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Finding:
    at, box = _where(circuit), circuit.source
    said = bool(old.cables) and all(lead.carries for cable in old.cables for lead in cable.leads)
    if said and not carrying(old, circuit.circuit.found, "neutral"):
        words = (
            f"{box} has no neutral for {circuit.handle}: a switch loop brings none, and another circuit's is"
            " none of its own"
        )
        return failed(plan, rules.SOURCE_NEUTRAL, "circuits", at, words)
    reading = (
        f"with all lamps of the circuit out: a test lamp from the line in {box} to it is bright, and nothing"
        " flows in it with this circuit's loads off and all else on"
    )
    none = f"Which conductor in {box} is the neutral of {circuit.handle} is not known yet"
    return _taken(
        plan,
        circuit,
        old=old,
        rule=plan.practice.rule(rules.SOURCE_NEUTRAL),
        role="neutral",
        none=none,
        reading=reading,
    )


def _taken(
    plan: Plan, circuit: CircuitPlan, old: OldBox, rule: Rule, role: Found, none: str, reading: str
) -> Finding:
    """What is taken for a role: passes once a reading has settled all of it, else waits for that reading."""
    met = carrying(old, circuit.circuit.found, role)
    words = f"{circuit.handle} takes its {role} from {_named(met)} in {circuit.source}" if met else none
    if met and all(lead.read for _, lead in met):
        return Finding(rule, _where(circuit), words, Passes(), "circuits")
    open_words = f"{words}, which no reading has settled" if met else words
    return Finding(rule, _where(circuit), open_words, NotKnown(reading), "circuits", grade="ask")


def _ground(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Finding:
    at, box = _where(circuit), circuit.source
    met = carrying(old, "", "ground")
    reading = (
        f"a long lead from the panel's ground bar to the ground in {box}, dead: as few ohms as its copper"
        " makes"
    )
    if not met:
        if old.cables and all(cable.leads for cable in old.cables):
            words = f"No ground was found in {box}: nothing is to be extended from there"
            return failed(plan, rules.SOURCE_GROUND, "circuits", at, words)
        return unknown(
            plan,
            rules.SOURCE_GROUND,
            waypoint="circuits",
            handles=at,
            words=f"Whether {box} has a ground is not known yet",
            reading=reading,
        )
    if any(lead.read for _, lead in met):
        return Finding(
            plan.practice.rule(rules.SOURCE_GROUND),
            at,
            f"The ground in {box} reaches the panel",
            Passes(),
            "circuits",
        )
    return unknown(
        plan,
        rules.SOURCE_GROUND,
        waypoint="circuits",
        handles=at,
        words=f"Whether the ground in {box} reaches the panel, no reading has settled",
        reading=reading,
    )


@looks_at(rules.BREAKER_GAUGE)
def _gauge(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Iterator[Finding]:
    """The breaker against the thinnest cable that was found."""
    limits = plan.practice[rules.BREAKER_GAUGE]
    breaker = max(circuit.circuit.breaker, old.amps or 0)
    read = [cable.gauge for cable in old.cables if cable.gauge in limits]
    if any(breaker > limits[gauge] for gauge in read):
        thin = min(read, key=lambda gauge: limits[gauge])
        words = (
            f"A cable of gauge {thin} in {circuit.source} behind a breaker of {breaker} A, where"
            f" {circuit.handle} begins"
        )
        yield failed(plan, rules.BREAKER_GAUGE, "circuits", _where(circuit), words)
    elif not old.cables or len(read) < len(old.cables):
        reading = f"the print on each sheath in {circuit.source}, or its bare copper measured across"
        words = (
            f"The gauge of what feeds {circuit.source} is not known: {circuit.handle} is taken to be of gauge"
            f" {circuit.circuit.gauge}"
        )
        yield unknown(
            plan,
            rules.BREAKER_GAUGE,
            waypoint="circuits",
            handles=_where(circuit),
            words=words,
            reading=reading,
            place="found",
        )


def _breaker(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Finding:
    if old.amps is not None and old.amps != circuit.circuit.breaker:
        words = (
            f"The breaker of {circuit.source} was read as {old.amps} A, and {circuit.handle} is drawn with"
            f" {circuit.circuit.breaker} A"
        )
        return failed(plan, rules.SOURCE_BREAKER, "circuits", _where(circuit), words)
    if old.breaker.strip() and old.breaker_read:
        words = f"{old.breaker} makes {circuit.source} dead"
        return Finding(plan.practice.rule(rules.SOURCE_BREAKER), _where(circuit), words, Passes(), "circuits")
    reading = f"with a lamp on what {circuit.source} feeds, the breakers one by one until it goes dark"
    said = f": “{old.breaker}” is what is told" if old.breaker.strip() else ""
    words = f"Which breaker makes {circuit.source} dead, no reading has settled{said}"
    return unknown(
        plan, rules.SOURCE_BREAKER, waypoint="circuits", handles=_where(circuit), words=words, reading=reading
    )


def _load(plan: Plan, circuit: CircuitPlan, old: OldBox) -> Finding:
    """What was there and what is new against the breaker; not known until someone listed what goes dark with
    it.
    """
    rating = circuit.circuit.breaker
    there = (
        []
        if old.beside is None
        else [Hangs(old.beside, f"{old.beside:g} VA there already", of=(circuit.source,))]
    )
    carried = circuit.figures.loaded.beside(loaded(there, rating, plan.practice))
    sum_ = carried.all
    words = f"{circuit.handle} carries {sum_.total:.1f} of {rating:g} A, with what hangs on it already"
    rule, verdict = plan.practice.rule(rules.SOURCE_LOAD), carried.verdict
    grade: Severity | None = None
    if old.beside is None:
        words = (
            f"What else hangs on what feeds {circuit.source} is not known: {circuit.handle} adds"
            f" {sum_.total:.1f} A"
        )
        verdict, grade = (
            NotKnown("a list of all that goes dark with its breaker, with what each takes"),
            "ask",
        )
    elif carried.by_estimates_alone:
        grade = "advice"
    return Finding(
        rule=rule,
        handles=_where(circuit),
        words=words,
        verdict=verdict,
        waypoint="circuits",
        working=sum_,
        limit=carried.rating,
        grade=grade,
    )


@looks_at(rules.BOX_CABLES, rules.BOX_FILL)
def _fill(plan: Plan) -> Iterator[Finding]:
    rule = plan.practice.rule(rules.BOX_FILL if rules.BOX_FILL in plan.practice else rules.BOX_CABLES)
    for handle, made in plan.begun.items():
        unit, verdict = made.most.unit, made.verdict
        holds = f"{made.volume:g}" if made.volume is not None else "?"
        span = (
            f"{made.least.total:g}"
            if made.least.total == made.most.total
            else f"{made.least.total:g} to {made.most.total:g}"
        )
        words = f"{handle}, old and new together, needs {span} of {holds} {unit}"
        grade: Severity | None = "ask" if isinstance(verdict, NotKnown) else None
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=verdict,
            waypoint="boxes",
            working=made.most,
            limit=made.volume,
            grade=grade,
        )
