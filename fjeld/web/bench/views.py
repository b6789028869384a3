"""Pages of the bench: the list of questions, and each question with its answer."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.bench.questions import GROUPS, QUESTIONS, Question
from fjeld.graphics.patch import Patch, patch
from fjeld.graphics.shapes import Shape
from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.spot import SpotAsked, box_of, known_to
from fjeld.practice import Practice, rules
from fjeld.quantities import Unit, Working, format_length
from fjeld.web.bench.fields import Asking, asking, read
from fjeld.web.ui.panel import Choices, Shown, context

_SUFFIX = {"minutes": "min", "hours": "h", "amperes": "A", "count": "", "share": ""}


class ShownFigure(Shown, frozen=True):
    """A figure as it is printed."""

    name: str
    words: str


class Bench(Shown, frozen=True):
    """The questions by group, and the practice that they are asked under."""

    groups: list[tuple[str, tuple[Question, ...]]]
    practice: Practice
    practices: Choices


class QuestionPage(Shown, frozen=True, kw_only=True):
    """A question with its fields; once it is asked its answer, or why there is none."""

    question: Question
    fields: list[Asking]
    practice: Practice
    practices: Choices
    unit: Unit
    first: ShownFigure | None = None
    figures: list[ShownFigure] = []
    said: tuple[Said, ...] = ()
    workings: tuple[Working, ...] = ()
    refused: str = ""
    picture: Shape | None = None


def _practice(request: HttpRequest) -> Practice:
    asked = request.GET.get("practice", practices.USUAL)
    return practices.load(asked if asked in practices.available() else practices.USUAL)


def _choices() -> list[tuple[str, str]]:
    found = [practices.load(p) for p in reversed(practices.available())]
    return [(p.id, f"{p.title}, {'metric' if p.unit == 'mm' else 'feet and inches'}") for p in found]


@login_not_required
@require_GET
def index(request: HttpRequest) -> HttpResponse:
    """All questions."""
    return render(
        request, "bench/list.html", context(Bench(list(GROUPS.items()), _practice(request), _choices()))
    )


@login_not_required
@require_GET
def question(request: HttpRequest, name: str) -> HttpResponse:
    """One question; what is typed stands in its address."""
    if name not in QUESTIONS:
        raise Http404("no such question")
    asked, practice = QUESTIONS[name], _practice(request)
    status = 200
    page = QuestionPage(
        question=asked,
        fields=asking(asked, practice, request.GET),
        practice=practice,
        practices=_choices(),
        unit=practice.unit,
    )
    if any(k != "practice" and v.strip() for k, v in request.GET.items()):
        try:
            typed = read(asked, practice, request.GET)
            page = _answered(page, typed, asked.ask(typed, practice))
        except NotAsked as wrong:
            page, status = replace(page, refused=str(wrong)), 422
    return render(request, "bench/question.html", context(page), status=status)


def _answered(page: QuestionPage, typed: Any, answer: Answer) -> QuestionPage:
    """The page with the answer to what was typed."""
    unit = page.unit
    leading = answer.leading
    shown = [ShownFigure(f.name, _words(f, unit)) for f in answer.figures if f not in leading]
    first = ShownFigure(" to ".join(f.name for f in leading), " to ".join(_words(f, unit) for f in leading))
    if [f.name for f in leading] == ["from", "to"]:
        first = ShownFigure("its middle, from the left", first.words)
    # What must not be missed stands first.
    said = tuple(sorted(answer.said, key=lambda s: {"danger": 0, "fails": 1}.get(s.tone, 2)))
    picture = _bay(typed, answer, page.practice) if isinstance(typed, SpotAsked) else None
    return replace(
        page,
        first=first if leading else None,
        figures=shown,
        said=said,
        workings=answer.workings,
        picture=picture,
    )


def _bay(asked: SpotAsked, answer: Answer, practice: Practice) -> Shape | None:
    """The bay drawn, once an edge of it is known."""
    known = {f.name: f.value for f in answer.figures}
    left = asked.door.mm + practice[rules.JAMB_WOOD] if asked.door else asked.left.mm if asked.left else None
    right = asked.right.mm if asked.right else None
    if left is None and right is None:
        return None
    low, high = known.get("from"), known.get("to")
    if low is not None and high is not None and low > high:
        low = high = None
    at = asked.wished.mm if asked.wished and not answer.fails else low
    return patch(
        Patch(
            box=box_of(practice, asked.box),
            unit=practice.unit,
            left=left,
            left_sure=known_to(asked.left_by, practice),
            right=right,
            right_sure=known_to(asked.right_by, practice),
            low=low,
            high=high,
            at=at,
        )
    )


def _words(figure: Figure, unit: Unit) -> str:
    if figure.kind == "length":
        # A wall is marked to the sixteenth; a span of feet is said in inches, as a tape reads.
        return _tape(figure.value, unit)
    value = f"{figure.value:.3f}".rstrip("0").rstrip(".")
    return f"{value} {_SUFFIX[figure.kind]}".strip()


def _tape(mm: float, unit: Unit) -> str:
    return f"{mm:.1f} mm".replace(".0 mm", " mm") if unit == "mm" else format_length(mm, unit, 32)
