"""One sheet an errand, on paper: marks, way, the box as found and after, the order with its gates, parts,
readings to fill in.
"""

from __future__ import annotations

from collections.abc import Sequence

from fjeld.drawing.errand import CHANGED, NEW
from fjeld.errand.plan import ErrandPlan, kit
from fjeld.graphics.columns import columns
from fjeld.graphics.page import (
    Block,
    Heading,
    KeptTogether,
    List,
    Listed,
    Page,
    Paragraph,
    Picture,
    Span,
    Spans,
    joined,
    plain,
)
from fjeld.graphics.picture import picture, short_words
from fjeld.graphics.section import section
from fjeld.graphics.spot import spot_drawn, spot_marks
from fjeld.graphics.triangle import triangle
from fjeld.quantities import coarse
from fjeld.work.book import Task
from fjeld.work.carry import Carried
from fjeld.work.standing import Stands

#: No drawing is higher, mm.
HIGH = 42.0
_SEEN = (
    "What stands here is what was looked at and read; whatever else the place asks was not. Local codes and a"
    " licensed electrician have the last word."
)
#: What a cable was found to be: its name, the words, how sure.
CableTold = tuple[str, str, str]


def errand_sheet(
    known: ErrandPlan, stands: Sequence[Stands[Task]], *, name: str, told: str, cables: Sequence[CableTold]
) -> Page:
    """The sheet of an errand called ``name``; ``told`` is its kind and day, ``stands`` its book."""
    blocks = [
        *_place(known),
        *_boxes(known, cables),
        *_order(stands),
        *_dead_test(known),
        *_parts(kit(known)),
    ]
    return Page(
        title=name,
        head=(Heading(name, 1, told), *_first(known, stands)),
        blocks=tuple(blocks),
        foot=_SEEN,
        columns=2,
        size=8.2,
        one=True,
    )


def _first(known: ErrandPlan, stands: Sequence[Stands[Task]]) -> list[Block]:
    """What shuts a step, said before anything else: what is known, then what is still to be found out."""
    found: list[Block] = []
    if known.facts.trouble:
        found.append(Paragraph(plain(known.facts.trouble), caution=True))
    why = dict.fromkeys(
        (b.known, known.facts.practice.said(b.why)) for s in stands if not s.done for b in s.task.blocked_by
    )
    found += [
        Paragraph(plain(f"Not like this: {words}", strong=True), caution=True) for sure, words in why if sure
    ]
    if open_ := "; ".join(words for sure, words in why if not sure):
        found.append(Paragraph((Span("Still to find out: ", strong=True), Span(f"{open_}."))))
    return found


def _place(known: ErrandPlan) -> list[Block]:
    """Where the new box goes and how the cable gets there."""
    facts = known.facts
    practice, way, found = facts.practice, facts.decided, []
    if facts.errand.wants in {*NEW, *CHANGED}:
        spot = facts.errand.spot
        marks = spot_marks(facts.placed, spot, practice, practice.unit) or [
            "Along: ____________ up: ____________"
        ]
        found.append(
            KeptTogether(
                (
                    Heading("Marks"),
                    Picture(spot_drawn(facts.placed, spot, practice, practice.unit), HIGH),
                    List(tuple(Listed(plain(m)) for m in marks)),
                )
            )
        )
    if way is not None:
        cut = way.pull.figure("cut") if way.pull else None
        title = f"Way: cut {coarse(cut, practice.unit)}" if cut else "Way"
        found.append(
            KeptTogether((Heading(title), Picture(section(way.chosen, way.ground, way.details), HIGH)))
        )
    return list(found)


def _boxes(known: ErrandPlan, cables: Sequence[CableTold]) -> list[Block]:
    """The old box as found and made up, and what each box needs against what it holds."""
    facts = known.facts
    practice = facts.practice
    title = Heading(f"The box {facts.handle} as found")
    found: list[Block] = []
    if facts.old.cables:
        carried = short_words([(e, n.carries) for n in facts.found.nets if n.word != "open" for e in n.ends])
        told: list[Spans] = [
            (Span(f"Cable {id_}: "), Span(what, strong=True), Span(f" ({word})"))
            for id_, what, word in cables
        ]
        drawn = Picture(picture(facts.box, carried, practice=practice), HIGH)
        found.append(KeptTogether((title, drawn, Paragraph(joined(told, " · ")))))
    else:
        found.append(KeptTogether((title, Paragraph(plain("Not opened yet.")))))
    if known.made:
        made = Picture(picture(known.made.after, {}, practice=practice), HIGH)
        found.append(KeptTogether((Heading(f"The box {facts.handle} made up"), made)))
    if facts.filled:
        found.append(KeptTogether((Heading("Before and after"), Picture(columns([*facts.filled]), HIGH))))
    return found


def _order(stands: Sequence[Stands[Task]]) -> list[Block]:
    """The steps in their order, what is done crossed, what is shut said to be."""
    lines = []
    for s in stands:
        runs = [Span("Shut. ", strong=True)] if s.task.blocked_by and not s.done else []
        runs.append(Span(s.task.words))
        runs += [Span(f" {m}.", strong=True) for m in s.task.marks]
        if s.task.needs and s.task.asks == "dead test":
            runs.append(Span(" Gate.", strong=True))
        lines.append(Listed(tuple(runs), done=s.done))
    return [Heading("Order"), List(tuple(lines))]


def _dead_test(known: ErrandPlan) -> list[Block]:
    """The pairs to read, and that the tester was proven."""
    if not known.facts.old.cables:
        return []
    proven = List(tuple(Listed(plain(f"tester proven {when}"), done=False) for when in ("before", "after")))
    drawn = Picture(triangle(known.nodes, {}, known.facts.practice), HIGH * 1.2)
    return [KeptTogether((Heading("Dead test: volts at worst"), proven, drawn))]


def _parts(carried: Sequence[Carried]) -> list[Block]:
    if not carried:
        return []
    told = " · ".join(f"{c.count} × {c.what}" if c.count else c.what for c in carried)
    return [KeptTogether((Heading("Parts and tools"), Paragraph(plain(told))))]
