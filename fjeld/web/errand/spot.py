"""The spot of an errand: the surface drawn as it is known, the span for the middle of the box, and one
question at a time.
"""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld.concealed.cut import PlacedSpot, answered, place
from fjeld.derive.plan import in_force
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.errand import Errand, Spot, length_of
from fjeld.drawing.model import Drawing
from fjeld.graphics.shapes import Shape
from fjeld.graphics.spot import inward, pencil, spot_drawn, spot_marks
from fjeld.judge.answer import Said
from fjeld.practice.finished.spots import Covering
from fjeld.quantities import Unit, Working, format_length
from fjeld.web.errand.by_body import BodyField, body_fields, by_body
from fjeld.web.errand.hand import base_of, drawing_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.errand.telling import PutQuestion, question, tell
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.ui.panel import Choices, Shown, context


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

    job: Job
    kind: ErrandCard
    stones: list[Stone]
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
    may_edit: bool
    typed: str
    refused: str


@require_GET
@for_member
def spot(request: HttpRequest, member: Member) -> HttpResponse:
    """Where the new box goes."""
    return _page(request, member, "")


@require_POST
@for_editor
def told(request: HttpRequest, member: Member) -> HttpResponse:
    """One answer kept, or refused on the page it came from."""
    drawing = drawing_of(member)
    practice, errand = in_force(drawing.house), errand_of(drawing)
    try:
        edit = tell(errand, "spot", place(errand, practice).asks, practice, by_body(request.POST, practice))
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
    except (EditRefused, *store.REFUSALS) as refused:
        return _page(request, member, in_words(refused, drawing))
    back = str(request.POST.get("back", ""))
    return redirect(back if back == "errand-box" else "errand-spot", member.job_id)


def errand_of(drawing: Drawing) -> Errand:
    """What the job is about; a light to be added where it does not say."""
    return drawing.house.errand or Errand("light")


def _page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    drawing = drawing_of(member)
    practice, errand = in_force(drawing.house), errand_of(drawing)
    unit = practice.unit
    found, known = place(errand, practice), errand.spot
    wanted = str(request.GET.get("ask", request.POST.get("ask", "")))
    asks = {a.id: a for a in found.asks}
    here = asks.get(wanted) or found.next
    rows = [question(a, known, answered(known, a), a == here, practice) for a in found.asks]
    shown = SpotPage(
        job=member.job,
        kind=KINDS[errand.wants],
        stones=stones(errand.wants, "spot"),
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
        may_edit=member.may_edit,
        typed=str(request.POST.get("value", ""))[:80],
        refused=refused,
    )
    return render(request, "errand/spot.html", context(shown), status=422 if refused else 200)


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
