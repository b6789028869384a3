"""The page of an old box: what it holds, what to read next, and whether it can be the source."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from typing import get_args
from urllib.parse import urlencode

import msgspec

from fjeld.bench.questions import QUESTIONS
from fjeld.drawing.building import Room
from fjeld.drawing.ends import End as Named
from fjeld.drawing.errand import NEW, Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import HeldKind, OldBox
from fjeld.errand.known import ErrandFacts
from fjeld.errand.plan import at_hand
from fjeld.errand.record import as_found
from fjeld.errand.source import Source as Judged
from fjeld.errand.source import next_due
from fjeld.graphics.picture import picture, short_words
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import CableIs, Inferred
from fjeld.oldbox.tie_in import tie_in
from fjeld.practice import Practice
from fjeld.practice.devices import screws_of
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources
from fjeld.web.errand.actions import marks
from fjeld.web.errand.gate_rows import gate_rows
from fjeld.web.errand.panels import (
    CableLook,
    End,
    Joined,
    NextStep,
    OldBoxRow,
    OldCableRow,
    SourcePanel,
    Usual,
)
from fjeld.web.errand.step import ErrandStep, InHand
from fjeld.web.errand.taking import Taking, taking
from fjeld.web.errand.wanted import OF_SOURCE
from fjeld.web.http.view import MEMO
from fjeld.web.jobs.models import Job
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.places.looked import ROLES
from fjeld.web.places.planned import facts_at
from fjeld.web.places.records import readings_of
from fjeld.web.places.shots import shots_of
from fjeld.web.ui.panel import Choices

PLACES = (
    ("switch", "a switch"),
    ("outlet", "an outlet"),
    ("ceiling", "a light or an alarm"),
    ("junction", "joints alone"),
)


def _page(hand: InHand) -> SourcePanel:
    """All that the page of one old box shows; with what was typed into a form that was refused."""
    member, drawing, (handle, old) = hand.member, hand.drawing, hand.box
    params, typed = hand.request.GET, hand.request.POST
    facts = facts_at(member.job, drawing, handle)
    practice, errand, found = facts.practice, facts.errand, facts.found
    kind, end = KINDS[errand.wants], params.get("end", "")
    next_ = _in_words(_next(facts, kind), practice)
    wanted = typed.get("reading", "") or params.get("take", "") or next_.reading
    carried = short_words([(e, n.carries) for n in found.nets if n.word != "open" for e in n.ends])
    looked_at, marked_as, marked = _looked_at(old, end, practice)
    begun, use = bool(old.cables), drawing.get(old.room, Room).use
    return SourcePanel(
        brings=kind.name in NEW,
        earth=practice.word("ground"),
        handle=handle,
        old=old,
        begun=begun,
        picture=picture(facts.box, carried, end, practice=practice) if begun else None,
        next=next_,
        cables=[_cable(c) for c in found.cables],
        contradiction=found.contradiction,
        notes=found.notes,
        dangers=found.dangers,
        gates=gate_rows(facts.judged, old, errand, use, practice) if begun else [],
        verdict=_verdict(facts.judged),
        joined=_joined(facts),
        boxes=_boxes(member.job, drawing, handle),
        kept=readings_of(member.job, handle, as_found(old)),
        usual=[] if begun else _usual(old, errand, practice),
        places=PLACES,
        ends=_ends(old, end),
        targets=_targets(old, end),
        in_hand=end,
        devices=[(k, k) for k in get_args(HeldKind)],
        held=[(d.id, f"{d.id}, {d.kind}") for d in old.held],
        looked_at=looked_at,
        marks=marked_as,
        marked=marked,
        old_colours=bool(practice.former),
        questions=_questions(kind, old, practice),
        taking=_taking(wanted, facts.box, found, typed, practice) if begun else None,
        others=_others(old, wanted, practice),
        unopened=_unopened(old, errand, practice),
        shots=shots_of(member.job).get(handle, []),
        token=secrets.token_urlsafe(18),
    )


def _looked_at(old: OldBox, end: str, practice: Practice) -> tuple[list[CableLook], Choices, str]:
    """What each cable may be, the marks that an end in hand may have, and the one that it has."""
    sheaths = [("", "?"), *((s, k.words) for s, k in sources().local(practice).sheaths.items())]
    gauges = [("", "?"), *((g, g) for g in practice.catalogue.wired_gauges())]
    rows = [CableLook(c.id, c.sheath, c.gauge, sheaths, gauges) for c in old.cables]
    here = old.lead(Named(end))
    choices = [("", "its own colour"), *((m, f"marked {m}") for m in marks(practice))]
    return rows, choices if here else (), here.marked if here else ""


#: Errands that ask for no reading with power on: what is there goes back to what it was on.
NOTHING_LIVE = ("short wires", "replace", "loose splice", "larger box", "move")


def asks_nothing_live(facts: ErrandFacts) -> bool:
    """Whether nothing of this work turns on what is live where: like for like, each wire goes back to what it
    was on.
    """
    stead = facts.stead
    settles = stead is not None and stead.tried is not None and stead.tried.verdict == "unless"
    return facts.errand.wants in NOTHING_LIVE and facts.errand.becomes in ("", "same") and not settles


def _next(facts: ErrandFacts, kind: ErrandCard) -> NextStep:
    old, judged = facts.old, facts.judged
    if not old.place:
        words = f"Take {kind.box}. Breaker off and locked, cover off, touch nothing. What is it?"
        return NextStep("What is in front of you?", words)
    if not old.cables:
        return NextStep(
            "How does it look inside?",
            "Take the nearest of these, then put right what is different; or draw it cable by cable.",
        )
    if judged is None:
        return NextStep("That cannot be reckoned yet", facts.trouble)
    if judged.found.contradiction:
        return NextStep("Stop", judged.found.contradiction)
    reading = next_due(judged)
    if judged.found.next is not None and not asks_nothing_live(facts):
        kind_of = role_data().readings[judged.found.next.id]
        return NextStep(kind_of.name, f"It tells {judged.found.next.why}.", judged.found.next.id, kind_of)
    if refusing := judged.refused:
        return NextStep("Not from this box" if kind.name in NEW else "Not like this", refusing[0].words)
    if waits := judged.open:
        first = next((g for g in waits if g.settles == reading), waits[0])
        return NextStep(first.asks, f"{first.words[:1].upper()}{first.words[1:]}. Answer it below.")
    if kind.name in NEW:
        return NextStep(
            "This box can be the source", "By what was looked at and read, and by the way that was told."
        )
    return NextStep(
        "Nothing stands against it", "By what was looked at and read: the box is next, then the book."
    )


def _in_words(step: NextStep, practice: Practice) -> NextStep:
    """What is next in the practice's words."""
    how = step.kind and msgspec.structs.replace(
        step.kind, name=practice.said(step.kind.name), how=practice.said(step.kind.how)
    )
    return msgspec.structs.replace(
        step, title=practice.said(step.title), why=practice.said(step.why), kind=how
    )


def _verdict(judged: Judged | None) -> str:
    if judged is None or judged.found.contradiction:
        return ""
    if judged.refused:
        return f"no: {judged.refused[0].words}"
    n = len(judged.open)
    if n:
        return f"{n} thing{'s' if n != 1 else ''} still to find out"
    return "nothing against it by what was looked at"


def _cable(cable: CableIs) -> OldCableRow:
    if cable.word == "contradictory":
        return OldCableRow(cable, "not known", "", "")
    shares = [(r, s) for r, s in cable.roles.items() if s >= 0.005]
    first = shares[0] if shares else ("other", 1.0)
    others = ", ".join(f"{ROLES[r]} {s:.0%}" for r, s in shares[1:4] if s >= 0.03)
    return OldCableRow(
        cable,
        ROLES[first[0]],
        "" if cable.word == "settled" else f"{first[1]:.0%}",
        "" if cable.word == "settled" else others,
    )


def _joined(facts: ErrandFacts) -> Joined | None:
    """Where what is new is joined, for errands that bring something new; nothing is said to work of a box
    that is refused.
    """
    found = facts.into
    if found is None:
        return None
    failing = [
        f"{', '.join(f'cable {c} is {ROLES[r]}' for c, r in case.roles)}: {case.why}"
        for case in found.cases
        if not case.works
    ]
    refused = facts.judged.refused if facts.judged else []
    verdict = "refused" if refused and found.verdict == "works" else found.verdict
    return Joined(
        " with ".join(found.line),
        " with ".join(found.neutral),
        verdict,
        failing[:3] if verdict != "refused" else [refused[0].words],
        found.excludes,
    )


def _boxes(job: Job, drawing: Drawing, here: Handle) -> list[OldBoxRow]:
    rows, taken = [], at_hand(drawing)[0]
    for handle, old in drawing.of(OldBox).items():
        facts = facts_at(job, drawing, handle)
        standing = _in_a_word(facts.judged) if facts.judged else facts.trouble or "not opened"
        rows.append(
            OldBoxRow(
                handle,
                handle == here,
                handle == taken,
                old.holds or dict(PLACES).get(old.place, "an old box"),
                standing,
            )
        )
    return rows


def _in_a_word(judged: Judged) -> str:
    if judged.found.contradiction:
        return "contradictory"
    if judged.refused:
        return "refused"
    n = len(judged.open)
    return f"{n} to find out" if n else "nothing against it"


def _usual(old: OldBox, errand: Errand, practice: Practice) -> list[Usual]:
    return [
        Usual(n, a.words, picture(a.box, {}, practice=practice), _means(a.box, errand, practice))
        for n, a in enumerate(arrangements(practice.tables))
        if a.box.place == old.place
    ]


def _means(box: FoundBox, errand: Errand, practice: Practice) -> str:
    """Whether something new could be fed from such a box, before anything is read in it."""
    if errand.wants not in NEW:
        return ""
    try:
        found = tie_in(box, practice, errand.same_switch, MEMO)
    except NotAsked:
        return ""
    if found is None or found.verdict == "fails":
        return "no source: no line and neutral of one circuit in it"
    if found.verdict == "works":
        return "a source, in every case that it may be"
    likely = sum(c.share for c in found.cases if c.works)
    return f"a source in {likely:.0%} of what it may be; a reading tells"


def _unopened(old: OldBox, errand: Errand, practice: Practice) -> str:
    """How likely such a box is a source before it is opened."""
    if not old.place or old.cables or errand.wants not in NEW:
        return ""
    usual = sources().chances
    if old.place == "outlet":
        return f"Of outlet boxes, {usual.line_outlet:.0%} hold a line that no switch turns off."
    if old.place == "switch":
        return (
            f"Of switch boxes with two cables or more, {usual.line_switch:.0%} hold a line that stays live"
            " with the switch off; with one cable, none."
        )
    if old.place == "ceiling":
        one, two, three = (f"{share:.0%}" for share in usual.line_light)
        return (
            f"A line that no switch turns off is in {one} of light boxes with one cable, {two} with two,"
            f" {three} with three or more."
        )
    return ""


def _others(old: OldBox, wanted: str, practice: Practice) -> Choices:
    """Every other reading that can be taken of it."""
    if not old.cables:
        return []
    return [
        (id_, f"{id_} {kind.name}")
        for id_, kind in role_data().readings.items()
        if id_ not in ("R1", "R11", wanted) and practice.of(kind.practice)
    ]


def _ends(old: OldBox, in_hand: str) -> list[End]:
    return [
        End(end, lead.colour, old.landing(end), end == in_hand)
        for cable in old.cables
        for end, lead in zip(cable.ends, cable.leads, strict=True)
    ]


def _targets(old: OldBox, in_hand: str) -> Choices:
    """What the end in hand can be put to: another end, a terminal, or nothing."""
    if in_hand not in old.ends:
        return []
    found = [(str(end), f"with {end}") for end in old.ends if end != in_hand]
    for device in old.held:
        found += [(str(device.at(t)), f"on {device.id} {t}") for t in (*screws_of(device.kind), "g")]
    return [*found, ("", "loose")]


def _taking(
    reading: str, box: FoundBox, found: Inferred, typed: Mapping[str, str], practice: Practice
) -> Taking | None:
    can = reading in role_data().readings and reading not in ("R1", "R11")
    if not can:
        return None
    asked = taking(reading, box, found, typed)
    fields = [msgspec.structs.replace(f, label=practice.said(f.label)) for f in asked.fields]
    words = {name: practice.said(getattr(asked.kind, name)) for name in ("name", "how", "caution")}
    kind = msgspec.structs.replace(asked.kind, **words)
    return msgspec.structs.replace(asked, fields=fields, kind=kind)


def _questions(kind: ErrandCard, old: OldBox, practice: Practice) -> Choices:
    """The questions that go with the errand, what the record knows filled in already."""
    rows = []
    for name in kind.questions:
        known: dict[str, str] = {"practice": practice.id}
        if name == "fits" and old.cables and all(c.gauge for c in old.cables):
            sold = [f"{c.gauge}/{len(c.insulated)}" for c in old.cables]
            known |= {
                "cables": "\n".join(sold),
                "volume": f"{old.volume:g}" if old.volume else "",
                "devices": str(len(old.held)),
            }
        rows.append((f"{name}?{urlencode({k: v for k, v in known.items() if v})}", QUESTIONS[name].title))
    return rows


SOURCE = ErrandStep(name="source", template="source", page=_page, tells=OF_SOURCE)
