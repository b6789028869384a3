"""What gates answer with a change, and what the box itself asks for: each a step with its part.

A change shuts nothing: the work goes on once it is made, and what is proven is proven on condition of it.
"""

from __future__ import annotations

from fjeld.drawing.errand import CHANGED, NEW, length_of
from fjeld.drawing.old_box import OldBox
from fjeld.errand.facts import Gate
from fjeld.errand.filled import Filled, asked_for, larger
from fjeld.errand.known import ErrandFacts
from fjeld.judge.answer import NotAsked
from fjeld.practice import Practice, rules
from fjeld.practice.finished.sources import sources
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import at_most, format_length
from fjeld.work.changes import Change


def asked_changes(facts: ErrandFacts) -> tuple[Change, ...]:
    """Every change that a gate asks for, in the order of the work."""
    by_gate = {g.id: g for g in facts.judged.gates if g.is_ == "change"} if facts.judged else {}
    found: list[Change] = []
    if gate := by_gate.get("G10"):
        found.append(Change("second breaker", gate.words, "", gate.id, gate.basis))
    if gate := by_gate.get("G1"):
        found.append(Change("bright copper", gate.words, "", gate.id, gate.basis))
    if boxless(facts):
        found.append(Change("first box", "the wires are in no box", _box_that_takes(facts), "G7"))
    elif (box := larger_source(facts)) is not None and box.part:
        found.append(box)
    if (flush := extender(facts)) is not None:
        found.append(flush)
    if gate := by_gate.get("G4"):
        local = sources().local(facts.practice)
        part = f"a fused connection unit with a fuse of {local.fuse:g} A, in a box of its own"
        found.append(Change("fused unit", gate.words, part, gate.id, gate.basis))
    if facts.found.dangers and not _put_right(facts):
        found.append(Change("line and load", facts.found.dangers[0], "", "G9"))
    if facts.support.change:
        found.append(facts.support.change)
    if gate := by_gate.get("G12"):
        found.append(Change("in reach", gate.words, "a cover", gate.id, gate.basis))
    return (*found, *_protections(facts, by_gate.get("G9")))


def boxless(facts: ErrandFacts) -> bool:
    """Whether wires are joined where no box is, and none comes there by the errand itself."""
    return facts.old.material == "none" and facts.errand.wants not in CHANGED | {"loose splice"}


def _box_that_takes(facts: ErrandFacts) -> str:
    """The least box for old work that takes what is there and what is added; in words where none is sold."""
    if facts.old.place == "ceiling":
        return "a ceiling box listed for what hangs on it"
    fits = _that_take(facts)
    return f"{fits[0].name[:1].lower()}{fits[0].name[1:]}" if fits else "a box that takes every cable"


def _that_take(facts: ErrandFacts) -> tuple[OldWorkBox, ...]:
    """Boxes for old work that take what is there and what is added; none where that cannot be reckoned."""
    try:
        return larger(asked_for(facts.old, facts.errand), facts.practice)
    except NotAsked:
        return ()


def extender(facts: ErrandFacts) -> Change | None:
    """A box whose edge stands too far behind the surface; one that gives way to another is gone."""
    back, why = length_of(facts.old.setback), set_back(facts.old, facts.practice)
    if facts.errand.wants in CHANGED or back is None or not why or boxless(facts):
        return None
    part = f"a box extender of {format_length(back, facts.practice.unit)} or a little more"
    return Change("extender", why, part, "G7", facts.practice.clauses("NEC 2023 314.20"))


def set_back(old: OldBox, practice: Practice) -> str:
    """Why an old box wants an extender: how far its edge stands behind the surface, and how far it may; empty
    where it may.
    """
    back, limit = length_of(old.setback), practice[rules.BOX_SETBACK]
    if back is None or at_most(back, limit):
        return ""
    unit = practice.unit
    return (
        f"its edge stands {format_length(back, unit)} behind the surface, of {format_length(limit, unit)} at"
        " the most"
    )


def _put_right(facts: ErrandFacts) -> bool:
    """Whether the device that is the wrong way round is the one that is replaced: it is put right by that."""
    tried = facts.stead.tried if facts.stead else None
    return (
        facts.stead is not None
        and facts.stead.device.kind == "protective"
        and tried is not None
        and bool(tried.moves)
    )


def _protections(facts: ErrandFacts, gate: Gate | None) -> list[Change]:
    """Protection that something new, or something put in the place of what was there, sets off."""
    if gate is not None:
        return [Change("protection", gate.words, _as_part(gate.words), gate.id, gate.basis)]
    needs = [
        s
        for s in (facts.stead.said if facts.stead else ())
        if s.tone == "needs" and "protection, as" in s.words
    ]
    if not needs:
        return []
    words = "; ".join(s.words for s in needs)
    return [Change("protection", words, _as_part(words), "G9", needs[0].basis)]


def _as_part(words: str) -> str:
    return words[:1].lower() + words[1:]


def larger_source(facts: ErrandFacts) -> Change | None:
    """A box that is too small for what will be in it, or has no way in: the least one that takes it; no part
    where none does.
    """
    errand, old = facts.errand, facts.old
    if errand.wants in CHANGED or not facts.filled:
        return None
    now = facts.filled[min(1, len(facts.filled) - 1)] if errand.wants in NEW else facts.filled[0]
    shut = errand.wants in NEW and old.opening is False
    if not now.over and not shut:
        return None
    if errand.wants == "loose splice":
        return Change("larger source", over(now), "", "G7")
    fits = _that_take(facts) if old.place != "ceiling" else ()
    why = over(now) if now.over else "no opening is free for one more cable"
    if old.place == "ceiling":
        return Change(
            "larger source",
            why,
            (
                f"a ceiling box that holds {now.needs.total:g} {now.unit}"
                if not facts.practice.counts_cables
                else "a deeper ceiling box"
            ),
            "G7",
        )
    if not fits:
        return Change(
            "larger source",
            f"{why}; and no box for old work takes it: fewer cables in it, or another box",
            "",
            "G7",
        )
    best = fits[0]
    holds = f", {best.volume:g} in³" if best.volume else f", {best.depth:g} mm deep"
    return Change("larger source", why, f"{best.name[:1].lower()}{best.name[1:]}{holds}", "G7")


def over(box: Filled) -> str:
    return (
        f"{box.title}: {box.needs.total:g} of {box.holds:g} {box.unit}, which is over"
        if box.holds is not None
        else ""
    )
