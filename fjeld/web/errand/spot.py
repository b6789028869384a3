"""The spot of an errand: the surface drawn as it is known, the span for the middle of the box, and one
question at a time.
"""

from __future__ import annotations

from django.http import QueryDict

from fjeld.concealed.cut import PlacedSpot, answered, place
from fjeld.drawing.edits import Edit
from fjeld.drawing.errand import Spot, length_of
from fjeld.graphics.shapes import Shape
from fjeld.graphics.spot import inward, pencil, spot_drawn, spot_marks
from fjeld.judge.answer import Said
from fjeld.practice.finished.spots import Covering
from fjeld.quantities import Unit, Working, format_length
from fjeld.web.errand.by_body import BodyField, body_fields, by_body
from fjeld.web.errand.step import ErrandStep, InHand
from fjeld.web.errand.telling import PutQuestion, question, tell
from fjeld.web.ui.panel import Choices, Shown


class Slide(Shown, frozen=True):
    """The span in steps of a pencil, for a slider: from, to and where it stands, with a step's mm."""

    low: int
    high: int
    at: int
    step: str


class SpotPage(Shown, frozen=True, kw_only=True):
    """The place of the new box: drawn, its figures, what stops the cut, the question in hand and all others;
    by what ``body`` it may be answered.
    """

    picture: Shape | None
    figures: list[tuple[str, str]]
    word: str
    stops: tuple[Said, ...]
    said: tuple[Said, ...]
    workings: tuple[Working, ...]
    question: PutQuestion | None
    questions: list[PutQuestion]
    body: tuple[BodyField, ...]
    left: int
    rests: Choices
    slide: Slide | None
    covering: Covering | None
    marks: list[str]
    ready: bool
    unit: Unit
    typed: str


def _told(hand: InHand, form: QueryDict) -> Edit:
    """One answer."""
    asks = place(hand.errand, hand.practice).asks
    return tell(hand.errand, "spot", asks, hand.practice, by_body(form, hand.practice))


def _page(hand: InHand) -> SpotPage:
    """Where the new box goes."""
    practice, errand = hand.practice, hand.errand
    unit = practice.unit
    found, known = place(errand, practice), errand.spot
    asks = {a.id: a for a in found.asks}
    here = asks.get(hand.asked("ask")) or found.next
    rows = [question(a, known, answered(known, a), a == here, practice) for a in found.asks]
    return SpotPage(
        picture=spot_drawn(found, known, practice, unit),
        figures=_figures(found, known, unit),
        word=found.word,
        stops=found.stops,
        said=found.said,
        workings=found.answer.workings if found.answer else (),
        question=next((r for r in rows if r.here), None),
        questions=rows,
        body=body_fields(errand, here.id if here else ""),
        left=len(found.open),
        rests=_rests(found, unit),
        slide=_slide(found, unit),
        covering=found.covering,
        marks=spot_marks(found, known, practice, unit),
        ready=found.may_cut,
        unit=unit,
        typed=hand.typed("value"),
    )


def _figures(found: PlacedSpot, told: Spot, unit: Unit) -> list[tuple[str, str]]:
    """The two figures of a place: along, and up; or the span, while nobody has said where in it."""
    up = length_of(told.height)
    figures = []
    if found.at is not None:
        figures.append(("along, to its middle", format_length(found.at, unit)))
    elif found.low is not None and found.high is not None:
        low, high = inward(found.low, found.high, unit)
        figures += [("its middle, from", format_length(low, unit)), ("to", format_length(high, unit))]
    if up is not None and told.surface != "ceiling":
        figures.append(("up, to its middle", format_length(up, unit)))
    return figures


def _rests(found: PlacedSpot, unit: Unit) -> Choices:
    """Where the box rests, to what a pencil marks and within the span."""
    if found.low is None or found.high is None:
        return []
    step = pencil(unit)
    least, most = inward(found.low, found.high, unit)
    within = [(min(max(round(r.at / step) * step, least), most), r.words) for r in found.rests]
    return [(format_length(at, unit), words) for at, words in within] if least <= most else []


def _slide(found: PlacedSpot, unit: Unit) -> Slide | None:
    if found.low is None or found.high is None:
        return None
    step = pencil(unit)
    low, high = (round(v / step) for v in inward(found.low, found.high, unit))
    at = round((found.at if found.at is not None else (found.low + found.high) / 2) / step)
    return Slide(low, high, min(max(at, low), high), f"{step:.6f}") if low < high else None


SPOT = ErrandStep(name="spot", template="spot", page=_page, told=_told)
