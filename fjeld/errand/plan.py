"""The plan of an errand: all that follows from its drawing, its readings, its log and the practice in force.

Every page, sheet, record and file of an errand shows one such value; none of them judges for itself. What may
be done next is decided here and nowhere else: gates that say no or that nobody can answer shut the steps
which they concern, what they answer with a change is a step with its part, and what was done is held against
the box, the breaker and the way that are meant now. No clock is read: :func:`fjeld.work.standing.as_of` lets
tests lapse.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Literal, TypeVar

import msgspec

from fjeld.concealed.cut import place
from fjeld.concealed.path import Path, path
from fjeld.derive.memo import Remember, always
from fjeld.derive.plan import in_force
from fjeld.drawing.building import Room, RoomUse
from fjeld.drawing.ends import owner
from fjeld.drawing.errand import NEW, REPLACED, Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import Device, OldBox
from fjeld.errand.asked import asked_changes
from fjeld.errand.filled import Filled, asked_for, before_and_after
from fjeld.errand.known import ErrandFacts, Stead
from fjeld.errand.record import as_found, facts_of
from fjeld.errand.shut import concerns, remarks, with_concerns
from fjeld.errand.source import Source, source
from fjeld.errand.support import support
from fjeld.judge.answer import Answer, NotAsked
from fjeld.judge.devices import ReplaceAsked, replaced
from fjeld.judge.wires import ShortAsked, short
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.oldbox.makeup import MakeUp, make_up, tails
from fjeld.oldbox.replacing import may_become, replaced_in
from fjeld.oldbox.tie_in import TieIn, tie_in
from fjeld.practice import Practice, rules
from fjeld.practice.finished.roles import role_data
from fjeld.quantities import Length
from fjeld.work.book import Task, book, nodes_of
from fjeld.work.carry import Carried, carry
from fjeld.work.changes import Change, with_changes
from fjeld.work.standing import Log, PowerOn, Stands, Visit, standing

#: Gates of what only changes what is there: nothing is fed from it, and nothing goes anywhere.
CHANGING = ("G1", "G5", "G10", "G12")
#: Errands in which it matters how long the wires are that come into the box.
SHORT = ("short wires", "replace", "move", "larger box", "loose splice")
T = TypeVar("T")
Verdict = Literal["", "works", "once", "unless", "fails", "refused"]


class Taken(msgspec.Struct, frozen=True):
    """A reading that counts, when it was taken (seconds), and whether the breaker was off and locked again
    after it.
    """

    reading: Reading
    at: float = 0.0
    locked: bool = False


class Proof(msgspec.Struct, frozen=True):
    """Whether it will do what is meant. ``why`` it is refused or fails, or what it works ``once`` of."""

    verdict: Verdict
    why: tuple[str, ...] = ()


class ErrandPlan(msgspec.Struct, frozen=True):
    """An errand as it stands: what is known (``facts``), how its box is ``made`` up, the ``changes`` that
    gates ask for, its tasks with what shuts each, where each stands, what holds a dead test, and the proof.
    """

    facts: ErrandFacts
    made: MakeUp | None
    changes: tuple[Change, ...]
    tasks: tuple[Task, ...]
    stands: tuple[Stands[Task], ...]
    visit: Visit
    nodes: tuple[str, ...]
    proof: Proof


def plan(
    drawing: Drawing,
    readings: Mapping[Handle, Sequence[Taken]],
    log: Sequence[Log],
    practice: Practice | None = None,
    remember: Remember = always,
) -> ErrandPlan:
    """The plan of the errand of a drawing. ``readings`` are those that count, by their old box; ``practice``
    is the one in force where it is not given, ``remember`` what its stages came to before. Raises
    ``ValueError`` where the drawing has no old box.
    """
    rules_ = practice or in_force(drawing.house)
    handle, old = at_hand(drawing)
    taken = readings.get(handle, ())
    facts = facts_of_errand(drawing, handle, [t.reading for t in taken], rules_, remember)
    changes = asked_changes(facts)
    made = _made(facts)
    tasks = _tasks(facts, made, changes)
    visit = _visit(facts, taken)
    return ErrandPlan(
        facts=facts,
        made=made,
        changes=changes,
        tasks=tasks,
        stands=standing(tasks, log, visit),
        visit=visit,
        nodes=nodes(old, facts.box),
        proof=_proof(facts, changes),
    )


def at_hand(drawing: Drawing, asked: str = "") -> tuple[Handle, OldBox]:
    """The old box that is asked for, else the one taken as the source, else the first; ``ValueError`` where
    there is none.
    """
    boxes = drawing.of(OldBox)
    if not boxes:
        raise ValueError("this drawing has no old box")
    taken = drawing.house.errand.source if drawing.house.errand else None
    handle = next((Handle(h) for h in (asked, taken or "") if h in boxes), next(iter(boxes)))
    return handle, boxes[handle]


def nodes(old: OldBox, box: FoundBox) -> tuple[str, ...]:
    """What a dead test of a box measures between, the metal of the box among it."""
    return nodes_of(box, metal=old.material == "metal" or bool(old.size))


# --- what is known ---------------------------------------------------------------------------------------


class _Stage:
    """Runs a stage of the plan under a practice, or gives what it came to for the same arguments."""

    def __init__(self, practice: Practice, remember: Remember) -> None:
        self.practice, self.remember, self._version = practice, remember, practice.version

    def __call__(self, name: str, run: Callable[..., T], *arguments: Any) -> T:
        return self.remember(name, run, *arguments, practice=self._version)


def facts_of_errand(
    drawing: Drawing,
    handle: Handle,
    readings: Sequence[Reading],
    practice: Practice,
    remember: Remember = always,
) -> ErrandFacts:
    """What is known of one old box and of what is wanted of it."""
    errand, old = drawing.house.errand or Errand("light"), drawing.get(handle, OldBox)
    use = drawing.get(old.room, Room).use
    box = as_found(old, readings)
    stage = _Stage(practice, remember)
    way = (
        stage("way", lambda errand, old: path(errand, old, practice), errand, old)
        if errand.wants in NEW
        else None
    )
    # The way was told from the box that is the source: of another nothing is known yet.
    mine = handle == at_hand(drawing)[0]
    judged, trouble = _judged(box, old, errand=errand, use=use, way=way if mine else None, stage=stage)
    return ErrandFacts(
        errand=errand,
        handle=handle,
        old=old,
        practice=practice,
        box=box,
        judged=judged,
        trouble=trouble,
        placed=stage("spot", lambda errand: place(errand, practice), errand),
        path=way,
        filled=stage("filled", lambda old, errand: _filled(old, errand, practice), old, errand),
        into=_into(box, errand, stage),
        stead=_stead(box, old, errand, use, stage),
        support=support(errand, old, practice),
        ends=_ends(old, errand, practice),
    )


def _judged(
    box: FoundBox, old: OldBox, errand: Errand, use: RoomUse, way: Path | None, stage: _Stage
) -> tuple[Source | None, str]:
    """A box as a source of what is wanted, by all that is told; or why it cannot be reckoned."""
    if not box.cables:
        return None, ""
    length, minutes = None, 0.0
    if way is not None and way.picked:
        lengths = way.chosen.lengths
        length = Length(sum(leg.mm for leg in lengths)) if lengths else None
        minutes = 0.0 if way.chosen.blocked else way.chosen.minutes.total
    try:
        facts = facts_of(
            old,
            errand,
            practice=stage.practice,
            use="" if use == "other" else use,
            way=length,
            minutes=minutes,
        )
        judged = stage(
            "source", lambda box, facts: source(box, facts, stage.practice, stage.remember), box, facts
        )
    except NotAsked as wrong:
        return None, str(wrong)
    if errand.wants not in NEW:
        judged = msgspec.structs.replace(judged, gates=tuple(g for g in judged.gates if g.id in CHANGING))
    return judged, ""


def _filled(old: OldBox, errand: Errand, practice: Practice) -> tuple[Filled, ...]:
    if not old.cables:
        return ()
    try:
        return tuple(before_and_after(asked_for(old, errand), errand, practice))
    except NotAsked:
        return ()


def _into(box: FoundBox, errand: Errand, stage: _Stage) -> TieIn | None:
    if errand.wants not in NEW or not box.cables:
        return None
    try:
        return stage(
            "tied in",
            lambda box, same: tie_in(box, stage.practice, same, stage.remember),
            box,
            errand.same_switch,
        )
    except NotAsked:
        return None


def _ends(old: OldBox, errand: Errand, practice: Practice) -> Answer | None:
    """Whether the wires of a box are long enough, or can be made so, by what was measured of them."""
    if errand.wants not in SHORT or old.free is None or old.free.unknown:
        return None
    known = {
        name: v
        for name in ("sheath", "slack", "past")
        if (v := getattr(old, name)) is not None and not v.unknown
    }
    return short(ShortAsked(old.free, cables=min(len(old.cables), 8), **known), practice)


#: What the rules of replacement know of devices by, and of a ground.
_WHAT: dict[str, Literal["outlet", "switch", "light"]] = {
    "outlet": "outlet",
    "protective": "outlet",
    "fused unit": "outlet",
    "light": "light",
    "fan": "light",
    "alarm": "light",
}
_GROUND: dict[str, Literal["yes", "no"]] = {"present": "yes", "none": "no"}


def replaced_device(box: FoundBox, errand: Errand) -> Device | None:
    """The device that is replaced: the one that was named, else the first."""
    if errand.wants not in REPLACED or not box.devices:
        return None
    return next((d for d in box.devices if d.id == errand.replaces), box.devices[0])


def gauge_of(box: FoundBox) -> str:
    """The gauge of its cables, as far as one of them was read."""
    return next((c.gauge for c in box.cables if c.gauge), "")


def _stead(box: FoundBox, old: OldBox, errand: Errand, use: RoomUse, stage: _Stage) -> Stead | None:
    """What stands in the place of a device, tried, by the rules of replacement and in every wiring that is
    left.
    """
    device, practice = replaced_device(box, errand), stage.practice
    if device is None:
        return None
    if not errand.becomes or errand.becomes not in may_become(device.kind, practice):
        return Stead(device, None)
    # Beside a basin or a tub, as the spot of the errand says.
    asked = ReplaceAsked(
        what=_WHAT.get(device.kind, "switch"),
        room=use,
        ground=_GROUND.get(old.ground, "not known"),
        aluminium=old.condition == "aluminium",
        near_water=errand.spot.seen.get("water") == "there",
        protective=errand.becomes == "protective" or device.kind == "protective",
        ahead=old.ahead,
    )
    said = replaced(asked, practice).said
    try:
        tried = stage(
            "in its stead",
            lambda box, name, becomes: replaced_in(
                box, name, becomes=becomes, practice=practice, gauge=gauge_of(box), remember=stage.remember
            ),
            box,
            device.id,
            errand.becomes,
        )
    except NotAsked as wrong:
        return Stead(device, None, said, str(wrong))
    return Stead(device, tried, (*said, *tried.said))


# --- what follows ----------------------------------------------------------------------------------------


def _made(facts: ErrandFacts) -> MakeUp | None:
    """How the box is made up: the joints of a new cable, tails on short wires, a device replaced; none where
    it may not work by what is known.
    """
    errand, box, practice, old = facts.errand, facts.box, facts.practice, facts.old
    if errand.wants in NEW:
        return made_up(facts, facts.into) if facts.into and facts.into.verdict == "works" else None
    if errand.wants == "short wires":
        return tails(box, gauge_of(box), practice) if old.cables else None
    tried = facts.stead.tried if facts.stead else None
    return MakeUp(tried.moves, tried.after) if tried and tried.moves and tried.verdict == "works" else None


def made_up(facts: ErrandFacts, into: TieIn) -> MakeUp:
    """The make-up by where it is tied in; the new cable of the gauge that it goes on from."""
    metal = facts.old.material == "metal" or bool(facts.old.size)
    return make_up(
        facts.box,
        into,
        gauge=_gauge_from(facts.box, into),
        practice=facts.practice,
        metal=metal,
        linked=facts.errand.wants == "alarms",
    )


def _gauge_from(box: FoundBox, into: TieIn) -> str:
    """The gauge of the cable that feeds what is new, empty while it is not read."""
    fed_by = owner(into.line[0]) if into.line else ""
    return next((c.gauge for c in box.cables if c.id == fed_by), "")


def new_cable(facts: ErrandFacts) -> str:
    """The cable that is pulled, by its kind and gauge as it is bought; empty where none is, or its gauge is
    not read.
    """
    gauge = _gauge_from(facts.box, facts.into) if facts.into else ""
    conductors = 3 if facts.errand.wants == "alarms" else 2
    catalogue = facts.practice.catalogue
    kind = next((c for c in catalogue.cables if c.insulated == conductors and c.gauge == gauge), None)
    name = catalogue.cable_name(kind.id) if kind and facts.errand.wants in NEW else ""
    return name[:1].lower() + name[1:]


def _tasks(facts: ErrandFacts, made: MakeUp | None, changes: Sequence[Change]) -> tuple[Task, ...]:
    """The book, its changes among it, each task with what shuts it and what is not known of it."""
    way = facts.decided
    tasks = book(
        facts.errand,
        facts.practice,
        route=way.chosen if way else None,
        joints=made.joints if made else (),
        measured=way.details if way else (),
        cable=new_cable(facts),
    )
    tasks = with_changes(tasks, changes, facts.practice.tables)
    return with_concerns(tasks, concerns(facts), remarks(facts))


def _visit(facts: ErrandFacts, taken: Sequence[Taken]) -> Visit:
    """What a dead test of this box holds for, and when something in it was live."""
    live = role_data().readings
    power = tuple(
        PowerOn(t.at, t.locked)
        for t in taken
        if t.reading.live or (t.reading.id in live and live[t.reading.id].live)
    )
    way = "+".join(facts.decided.chosen.key) if facts.decided else ""
    lasts = facts.practice[rules.DEAD_TEST_LASTS]
    return Visit(facts.handle, facts.old.breaker, way, lasts, power)


def _proof(facts: ErrandFacts, changes: Sequence[Change]) -> Proof:
    """Whether it will do what is meant: never of a source that is refused, and of one with changes once they
    are made.
    """
    refused = [facts.found.contradiction, *(g.words for g in (facts.judged.refused if facts.judged else ()))]
    if why := tuple(dict.fromkeys(filter(None, refused))):
        return Proof("refused", why)
    tried = facts.into or (facts.stead.tried if facts.stead else None)
    if tried is None or not tried.verdict:
        return Proof("")
    if tried.verdict == "fails":
        return Proof("fails", tuple(dict.fromkeys(c.why for c in tried.cases if c.why))[:3])
    if tried.verdict == "works" and changes:
        return Proof("once", tuple(f"{c.why}: {c.part}" if c.part else c.why for c in changes))
    return Proof(tried.verdict)


def kit(known: ErrandPlan) -> tuple[Carried, ...]:
    """What goes along: for one climb where a way was taken, and the part of every change that is still asked
    for.
    """
    facts, way = known.facts, known.facts.decided
    found: tuple[Carried, ...] = ()
    if way is not None:
        cut = way.pull.figure("cut") if way.pull else None
        found = carry(facts.errand, way.chosen, cut, facts.practice, new_cable(facts))
    return (*found, *(Carried(c.part, 1, c.why) for c in known.changes if c.part))
