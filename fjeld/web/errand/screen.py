"""The page of an old box: what it holds, what to read next, and whether it can be the source."""

from __future__ import annotations

from collections.abc import Mapping
from typing import get_args
from urllib.parse import urlencode

import msgspec

from fjeld import practice as practices
from fjeld.drawing.building import Room
from fjeld.drawing.errand import Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import HeldKind, OldBox
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import NEW
from fjeld.finished.box.arrangements import arrangements
from fjeld.finished.box.found import TERMINALS, FoundBox
from fjeld.finished.box.infer import CableIs, Inferred
from fjeld.finished.box.record import as_found, device_names, facts_of, names_of
from fjeld.finished.box.source import Source as Judged
from fjeld.finished.box.source import next_due, source
from fjeld.finished.box.tie_in import tie_in
from fjeld.finished.path import path
from fjeld.finished.questions import QUESTIONS
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources
from fjeld.quantities import Length
from fjeld.web.errand.actions import marks
from fjeld.web.errand.gate_rows import gate_rows
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.panels import BoxRow, CableLook, CableRow, End, Joined, NextStep, Source, Usual
from fjeld.web.errand.picture import picture, short_words
from fjeld.web.errand.records import counting, readings_of
from fjeld.web.errand.shots import shots_of
from fjeld.web.errand.stones import stones
from fjeld.web.errand.taking import Taking, taking
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.panel import Choices

#: Gates of what only changes what is there: nothing is fed from it, and nothing goes anywhere.
CHANGING = ("G1", "G5", "G10")
#: Roles in the words of the trade.
ROLES = {
    "FEED": "the feed", "ON": "goes on to others", "LEG": "switched line and neutral", "LEG2": "two switched lines", "LOOP": "a switch loop, no neutral",
    "LOOPN": "a switch loop with a neutral", "TRAV": "travellers", "HALF": "one line always, one switched", "TWO": "two lines of two circuits", "LINK": "links alarms",
    "DEAD": "nothing", "RING": "one side of a ring", "SPUR": "a spur", "other": "something else",
}  # fmt: skip
PLACES = (
    ("switch", "a switch"), ("outlet", "an outlet"), ("ceiling", "a light or an alarm"), ("junction", "joints alone"),
)  # fmt: skip


def at_hand(drawing: Drawing, asked: str) -> tuple[Handle, OldBox]:
    """The old box that is asked for, else the one taken as the source, else the first."""
    boxes = drawing.of(OldBox)
    taken = drawing.house.errand.source if drawing.house.errand else None
    handle = next((Handle(h) for h in (asked, taken or "") if h in boxes), next(iter(boxes)))
    return handle, boxes[handle]


def source_page(
    member: Member, drawing: Drawing, handle: Handle, old: OldBox, params: Mapping[str, str], refused: str, token: str,
    typed: Mapping[str, str],
) -> Source:  # fmt: skip
    """All that the page of one old box shows; with what was ``typed`` into a form that was refused."""
    practice = practices.load(drawing.house.practice)
    errand = drawing.house.errand or Errand("light")
    kind = KINDS[errand.wants]
    kept = readings_of(member.job, handle, as_found(old))
    box = as_found(old, counting(kept))
    judged, trouble = judged_by(box, old, drawing, practice)
    end = params.get("end", "")
    found = judged.found if judged else Inferred((), (), None)
    next_ = _in_words(_next(old, kind, judged, trouble), practice)
    wanted = typed.get("reading", "") or params.get("take", "") or next_.reading
    carried = short_words([(e, n.carries) for n in found.nets if n.word != "open" for e in n.ends])
    return Source(
        member.job, kind, stones(kind.name, "source"), kind.name in NEW, "earth" if practice.metric else "ground", handle, old, bool(old.cables), picture(box, carried, end, metric=practice.metric) if old.cables else "", next_,
        [_cable(c) for c in found.cables], found.contradiction, found.notes, gate_rows(judged, old, drawing.house.errand or Errand("light"), drawing.get(old.room, Room).use, practice) if old.cables else [],
        _verdict(judged), _joined(box, kind, practice, errand.same_switch), _boxes(member.job, drawing, handle, practice), kept,
        [] if old.cables else _usual(old, errand, practice), PLACES, _ends(old, end), _targets(old, end), end,
        [(k, k) for k in get_args(HeldKind)], [(str(n), f"{name}, {h.kind}") for n, (name, h) in enumerate(zip(device_names(old.held), old.held, strict=True), 1)],
        *_looked_at(old, end, practice), practice.metric, _questions(kind, old, practice), _taking(wanted, box, found, typed, practice) if old.cables else None, _others(old, wanted, practice), _unopened(old, errand, practice), shots_of(member.job).get(handle, []), token,
        member.may_edit, not member.job.archived and member.role != Member.Role.READER, refused,
    )  # fmt: skip


def _looked_at(old: OldBox, end: str, practice: Practice) -> tuple[list[CableLook], Choices, str]:
    """What each cable may be, the marks that an end in hand may have, and the one that it has."""
    sheaths = [("", "?"), *((s, k.words) for s, k in sources().local(practice.metric).sheaths.items())]
    gauges = [("", "?"), *((g, g) for g in practice.catalogue.wired_gauges())]
    rows = [CableLook(n, c.sheath, c.gauge, sheaths, gauges) for n, c in enumerate(old.cables, 1)]
    leads = zip(names_of(old), old.cables, strict=True)
    here = next(
        (lead for names, c in leads for name, lead in zip(names, c.leads, strict=True) if name == end), None
    )
    choices = [("", "its own colour"), *((m, f"marked {m}") for m in marks(practice))]
    return rows, choices if here else (), here.marked if here else ""


def judged_by(box: FoundBox, old: OldBox, drawing: Drawing, practice: Practice) -> tuple[Judged | None, str]:
    """A box as a source of what the errand wants, by all that is told; or why it cannot be reckoned."""
    if not box.cables:
        return None, ""
    errand = drawing.house.errand or Errand("light")
    use = drawing.get(old.room, Room).use
    way, minutes = None, 0.0
    # The way was told from the box that is the source: of another nothing is known yet.
    mine = old is at_hand(drawing, "")[1]
    if mine and errand.wants in NEW and (errand.way.lies or errand.way.chosen):
        chosen = path(errand, old, practice).chosen
        lengths = chosen.lengths
        way = Length(sum(leg.mm for leg in lengths)) if lengths else None
        minutes = 0.0 if chosen.blocked else chosen.minutes.total
    try:
        judged = source(
            box, facts_of(old, errand, practice, "" if use == "other" else use, way, minutes), practice
        )
    except NotAsked as wrong:
        return None, str(wrong)
    if errand.wants not in NEW:
        judged = msgspec.structs.replace(judged, gates=tuple(g for g in judged.gates if g.id in CHANGING))
    return judged, ""


def _next(old: OldBox, kind: Kind, judged: Judged | None, trouble: str) -> NextStep:
    if not old.place:
        words = f"Take {kind.box}. Breaker off and locked, cover off, touch nothing. What is it?"
        return NextStep("What is in front of you?", words)
    if not old.cables:
        return NextStep(
            "How does it look inside?",
            "Take the nearest of these, then put right what is different; or draw it cable by cable.",
        )
    if judged is None:
        return NextStep("That cannot be reckoned yet", trouble)
    if judged.found.contradiction:
        return NextStep("Stop", judged.found.contradiction)
    reading = next_due(judged)
    if judged.found.next is not None:
        kind_of = role_data().readings[judged.found.next.id]
        return NextStep(kind_of.name, f"It tells {judged.found.next.why}.", judged.found.next.id, kind_of)
    if refusing := judged.refused:
        return NextStep("Not from this box", refusing[0].words)
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
    return msgspec.structs.replace(step, title=practice.said(step.title), why=practice.said(step.why), kind=how)


def _verdict(judged: Judged | None) -> str:
    if judged is None or judged.found.contradiction:
        return ""
    if judged.refused:
        return f"no: {judged.refused[0].words}"
    n = len(judged.open)
    if n:
        return f"{n} thing{'s' if n != 1 else ''} still to find out"
    return "nothing against it by what was looked at"


def _cable(cable: CableIs) -> CableRow:
    if cable.word == "contradictory":
        return CableRow(cable, "not known", "", "")
    shares = [(r, s) for r, s in cable.roles.items() if s >= 0.005]
    first = shares[0] if shares else ("other", 1.0)
    others = ", ".join(f"{ROLES[r]} {s:.0%}" for r, s in shares[1:4] if s >= 0.03)
    return CableRow(
        cable,
        ROLES[first[0]],
        "" if cable.word == "settled" else f"{first[1]:.0%}",
        "" if cable.word == "settled" else others,
    )


def _joined(box: FoundBox, kind: Kind, practice: Practice, switched: bool) -> Joined | None:
    """Where what is new is joined, for errands that bring something new."""
    if kind.name not in NEW or not box.cables:
        return None
    try:
        found = tie_in(box, practice, switched)
    except NotAsked:
        return None
    if found is None:
        return None
    failing = [
        f"{', '.join(f'cable {c} is {ROLES[r]}' for c, r in case.roles)}: {case.why}" for case in found.cases if not case.works
    ]  # fmt: skip
    return Joined(
        " with ".join(found.line), " with ".join(found.neutral), found.verdict, failing[:3], found.excludes
    )


def _boxes(job: Job, drawing: Drawing, here: Handle, practice: Practice) -> list[BoxRow]:
    rows, taken = [], at_hand(drawing, "")[0]
    for handle, old in drawing.of(OldBox).items():
        box = as_found(old, counting(readings_of(job, handle, as_found(old))))
        judged, trouble = judged_by(box, old, drawing, practice)
        standing = _in_a_word(judged) if judged else trouble or "not opened"
        rows.append(
            BoxRow(
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
        Usual(n, a.words, picture(a.box, {}, metric=practice.metric), _means(a.box, errand, practice))
        for n, a in enumerate(arrangements(practice.id))
        if a.box.place == old.place
    ]


def _means(box: FoundBox, errand: Errand, practice: Practice) -> str:
    """Whether something new could be fed from such a box, before anything is read in it."""
    if errand.wants not in NEW:
        return ""
    try:
        found = tie_in(box, practice, errand.same_switch)
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
        return f"At an outlet a line is always live {usual.line_outlet:.0%} of the time."
    if old.place == "switch":
        return f"At a switch with two cables or more a line is always live {usual.line_switch:.0%} of the time; with one cable never."
    if old.place == "ceiling":
        one, two, three = (f"{share:.0%}" for share in usual.line_light)
        return f"At a light with one cable a line is always live {one} of the time, with two {two}, with three or more {three}."
    return ""


def _others(old: OldBox, wanted: str, practice: Practice) -> Choices:
    """Every other reading that can be taken of it."""
    if not old.cables:
        return []
    return [
        (id_, f"{id_} {kind.name}")
        for id_, kind in role_data().readings.items()
        if id_ not in ("R1", "R11", wanted) and kind.practice in ("", practice.id)
    ]


def _ends(old: OldBox, in_hand: str) -> list[End]:
    return [
        End(name, lead.colour, lead.landing, name == in_hand)
        for names, cable in zip(names_of(old), old.cables, strict=True)
        for name, lead in zip(names, cable.leads, strict=True)
    ]


def _targets(old: OldBox, in_hand: str) -> Choices:
    """What the end in hand can be put to: another end, a terminal, or nothing."""
    ends = [name for names in names_of(old) for name in names]
    if in_hand not in ends:
        return []
    found = [(name, f"with {name}") for name in ends if name != in_hand]
    for name, held in zip(device_names(old.held), old.held, strict=True):
        found += [(f"{name}.{t}", f"on {name} {t}") for t in (*TERMINALS[held.kind], "g")]
    return [*found, ("", "loose")]


def _taking(
    reading: str, box: FoundBox, found: Inferred, typed: Mapping[str, str], practice: Practice
) -> Taking | None:
    can = reading in role_data().readings and reading not in ("R1", "R11")
    if not can:
        return None
    asked = taking(reading, box, found, typed)
    fields = [msgspec.structs.replace(f, label=practice.said(f.label)) for f in asked.fields]
    kind = msgspec.structs.replace(asked.kind, name=practice.said(asked.kind.name))
    return msgspec.structs.replace(asked, fields=fields, kind=kind)


def _questions(kind: Kind, old: OldBox, practice: Practice) -> Choices:
    """The questions that go with the errand, what the record knows filled in already."""
    rows = []
    for name in kind.questions:
        known: dict[str, str] = {"practice": practice.id}
        if name == "fits" and old.cables and all(c.gauge for c in old.cables):
            sold = [f"{c.gauge}/{sum(1 for lead in c.leads if lead.colour != 'bare')}" for c in old.cables]
            known |= {
                "cables": "\n".join(sold),
                "volume": f"{old.volume:g}" if old.volume else "",
                "devices": str(len(old.held)),
            }
        rows.append((f"{name}?{urlencode({k: v for k, v in known.items() if v})}", QUESTIONS[name].title))
    return rows
