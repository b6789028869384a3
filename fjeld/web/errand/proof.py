"""The proof of an errand: what is new joined at the source and tried in every wiring still possible, and the
dead test as a triangle.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from django.utils import timezone
from msgspec.structs import replace

from fjeld.drawing.ends import End
from fjeld.drawing.errand import NEW, REPLACED
from fjeld.errand.known import ErrandFacts
from fjeld.errand.plan import ErrandPlan, Verdict, made_up
from fjeld.graphics.picture import picture
from fjeld.graphics.shapes import Shape
from fjeld.graphics.triangle import triangle
from fjeld.judge.answer import NotAsked, Said
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.makeup import MakeUp
from fjeld.oldbox.replacing import Replaced
from fjeld.oldbox.still_live import fed_at, still_live
from fjeld.oldbox.tie_in import Case, TieIn
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data
from fjeld.web.errand.step import ErrandStep, InHand
from fjeld.web.errand.wanted import OF_PROOF
from fjeld.web.http.view import MEMO
from fjeld.web.jobs.models import Job
from fjeld.web.places.looked import ROLES
from fjeld.web.ui.panel import Shown
from fjeld.work.book import Task
from fjeld.work.records import StepEvent
from fjeld.work.standing import Stands

#: Cases that are shown; the rest are counted.
MOST = 6


class ProofCell(Shown, frozen=True):
    """A state of the switches: how each ``stands`` (0 or 1, in the order of the plates) and in words, whether
    what is new has line in it, and whether that is as meant.
    """

    words: str
    live: bool
    right: bool
    stands: str


class CaseRow(Shown, frozen=True, kw_only=True):
    """One thing that the box may still be, with its truth strip, and a plate to flip for each of its
    switches.
    """

    words: str
    share: str
    works: bool
    why: str
    cells: list[ProofCell]
    plates: list[str]


class ProofPage(Shown, frozen=True, kw_only=True):
    """Whether what is new works, or what stands in the place of something, case by case, and how it is
    ``made`` up; the dead test with what was read, whether its gate is open, and what may still be live with
    the breaker ``off`` that is known by some ends.
    """

    earth: str
    new: bool
    replaces: bool
    instead: bool
    said: list[Said]
    trouble: str
    found: TieIn | None
    verdict: str
    why: list[str]
    reading: str
    excludes: str
    rows: list[CaseRow]
    more: int
    same_switch: bool
    made: MakeUp | None
    after: Shape | None
    triangle: Shape | None
    tested: str
    pairs: int
    off: str
    still: list[tuple[str, str, str]]


def _page(hand: InHand) -> ProofPage:
    """The proof."""
    known = hand.known
    facts, practice, errand, found = known.facts, known.facts.practice, known.facts.errand, known.facts.into
    new, stead = errand.wants in NEW, facts.stead
    tried = stead.tried if stead else None
    made = _made(known, tried)
    judged = found or (tried if tried and tried.verdict else None)
    rows = _rows(judged.cases, errand.same_switch, tried is not None) if judged else []
    read, tested = _dead_test(hand.job, known, hand.stands)
    proof = known.proof
    off, still = _still(facts.box, _off(facts), practice)
    return ProofPage(
        earth=practice.word("ground"),
        new=new,
        replaces=errand.wants in REPLACED,
        instead=tried is not None,
        said=[replace(s, words=practice.said(s.words)) for s in (stead.said if stead and tried else ())],
        trouble=_trouble(facts),
        found=found,
        verdict=_VERDICTS[proof.verdict],
        why=[practice.said(w) for w in proof.why],
        reading=judged.excludes if judged else "",
        excludes=_excludes(judged),
        rows=rows[:MOST],
        more=max(0, len(rows) - MOST),
        same_switch=errand.same_switch,
        made=made,
        after=picture(made.after, {}, practice=practice) if made else None,
        triangle=triangle(known.nodes, read, practice) if facts.old.cables else None,
        tested=tested,
        pairs=len(known.nodes) * (len(known.nodes) - 1) // 2,
        off=off,
        still=still,
    )


def _trouble(facts: ErrandFacts) -> str:
    """Why nothing can be proven yet; empty where it can."""
    if not facts.old.cables:
        return "What is in the old box is not told yet."
    if facts.errand.wants in NEW and facts.into is None:
        nothing = "No line and neutral of one circuit can be in this box."
        return facts.trouble or facts.found.contradiction or nothing
    return facts.stead.trouble if facts.stead else ""


def _made(known: ErrandPlan, tried: Replaced | None) -> MakeUp | None:
    """The box made up: as it is planned, else as it would be where the proof says "unless"."""
    found = known.facts.into
    if known.made is not None:
        return known.made
    if tried is not None and tried.moves and tried.verdict == "unless":
        return MakeUp(tried.moves, tried.after)
    return made_up(known.facts, found) if found is not None and found.verdict == "unless" else None


#: What is said of a proof, by its verdict.
_VERDICTS: dict[Verdict, str] = {
    "": "",
    "works": "Works in every case that is left",
    "once": "Works once this is done:",
    "unless": "Works in some cases, fails in others",
    "fails": "Fails in every case that is left",
    "refused": "Not from this box",
}


def _off(facts: ErrandFacts) -> tuple[End, ...]:
    """The ends that the breaker in question makes dead: where what is new is fed, or what is on the device
    that is replaced.
    """
    if facts.into:
        return facts.into.line
    return fed_at(facts.box, facts.stead.device) if facts.stead else ()


def _still(box: FoundBox, off: tuple[End, ...], practice: Practice) -> tuple[str, list[tuple[str, str, str]]]:
    """What that breaker is known by, and each conductor that may stay live with it off: its ends, how likely,
    of what.
    """
    if not off:
        return "", []
    try:
        found = still_live(box, off, practice, MEMO)
    except NotAsked:
        return "", []
    return " with ".join(off[:3]), [(" with ".join(s.ends), f"{s.share:.0%}", s.why) for s in found[:MOST]]


def _excludes(found: TieIn | Replaced | None) -> str:
    if not found or not found.excludes:
        return ""
    return role_data().readings[found.excludes].name


def _rows(cases: Sequence[Case], switched: bool, instead: bool) -> list[CaseRow]:
    """A row for each thing that the box may be; what stands in the place of something has its states where it
    works as before.
    """
    rows: dict[tuple[str, int], CaseRow] = {}
    for case in cases:
        words = ", ".join(f"cable {c}: {ROLES[r]}" for c, r in case.roles)
        share = sum(c.share for c in cases if (c.roles, c.live) == (case.roles, case.live))
        rows.setdefault(
            (words, case.live),
            CaseRow(
                words=words[:1].upper() + words[1:],
                share=f"{share:.0%}",
                works=case.works,
                why=case.why,
                cells=[] if instead and not case.works else _cells(case, switched or instead),
                plates=[] if instead and not case.works else [_switch(c) for c in case.controls],
            ),
        )
    return list(rows.values())


def _cells(case: Case, switched: bool) -> list[ProofCell]:
    """One cell a state, one switch moved at a time."""
    n = len(case.controls)
    cells = []
    for k in range(1 << n):
        state = k ^ k >> 1
        live = bool(case.live >> state & 1)
        stands = ", ".join(
            f"{_switch(c)} {'on' if state >> i & 1 else 'off'}" for i, c in enumerate(case.controls)
        )
        bits = "".join(str(state >> i & 1) for i in range(n))
        cells.append(ProofCell(stands or "always", live, live or switched, bits))
    return cells


def _switch(control: str) -> str:
    """A switch in words: one of the box by its letter, one elsewhere by its cable."""
    kind, _, cable = control.partition(" ")
    return (
        f"the switch on cable {cable}"
        if kind == "far"
        else f"another on cable {cable}"
        if kind.startswith("far")
        else kind
    )


def _dead_test(
    job: Job, known: ErrandPlan, stands: Sequence[Stands[Task]]
) -> tuple[Mapping[str, Sequence[float]], str]:
    """The pairs of the last dead test of a box, and whether it still holds. One of another box says nothing
    of this.
    """
    handle = known.facts.handle
    kept = job.records.filter(kind="step", key="step:dead", struck=False).select_related("who").last()
    event = kept.told if kept else None
    read = event.pairs if isinstance(event, StepEvent) and event.box in ("", handle) else {}
    if not kept or not read:
        return {}, ""
    holds = any(s.task.id == "dead" and s.done for s in stands)
    when = timezone.localtime(kept.happened).strftime("%H:%M")
    by = f"{kept.who.get_username()} at {when}"
    return (
        read,
        (
            f"All dead, by {by}"
            if holds
            else (
                f"Was dead, by {by}; it holds no longer: somebody was away, time went by, power was on, or"
                " another box or breaker is meant. Again"
            )
        ),
    )


PROOF = ErrandStep(name="proof", template="proof", page=_page, tells=OF_PROOF)
