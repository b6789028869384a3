"""The path of an errand: the section of the way in hand, its alternatives with their price, what to look for,
what to cut.
"""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from fjeld.bench.questions import QUESTIONS
from fjeld.concealed.along import AT, Detail
from fjeld.concealed.ground import Ground
from fjeld.concealed.path import Path, answered, by_measure, path
from fjeld.concealed.plates import plate_of
from fjeld.concealed.routes import ConcealedRoute, bits, blocker
from fjeld.derive.plan import in_force
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.handles import HOUSE
from fjeld.errand.plan import at_hand
from fjeld.graphics.both_sides import both_sides
from fjeld.graphics.section import section
from fjeld.graphics.shapes import Shape
from fjeld.judge.answer import Said
from fjeld.practice import Practice
from fjeld.practice.finished.spots import Ask
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import Unit, Working, coarse, format_length
from fjeld.web.errand.hand import base_of, drawing_of
from fjeld.web.errand.spot import errand_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.errand.telling import PutQuestion, question, tell
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Shown, context


class Measured(Shown, frozen=True, kw_only=True):
    """A measure of the way in hand: its marks, what is said of it, its figures, what it still lacks, what
    nobody measured, and its sum.
    """

    title: str
    address: str
    picture: Shape | None
    marks: list[str]
    said: list[Said]
    figures: list[tuple[str, str]]
    lacks: list[str]
    usual: str
    workings: tuple[Working, ...]


class WayCard(Shown, frozen=True, kw_only=True):
    """A way with its price, what it needs and what can block it."""

    key: str
    name: str
    here: bool
    minutes: str
    leaves: str
    hands: str
    how: list[str]
    bits: str
    wants: list[str]
    blocked: str
    looks: list[str]


class PathPage(Shown, frozen=True, kw_only=True):
    """The way in hand in section, what to cut for it, the question in hand, the other ways, and those that
    are refused.
    """

    job: Job
    kind: ErrandCard
    stones: list[Stone]
    picture: Shape | None
    cut: str
    lacks: list[str]
    workings: tuple[Working, ...]
    picked: bool
    lost: bool
    question: PutQuestion | None
    questions: list[PutQuestion]
    left: int
    cards: list[WayCard]
    refused_ways: list[tuple[str, str]]
    reached: list[tuple[str, str, bool]]
    measured: list[Measured]
    unit: Unit
    may_edit: bool
    typed: str
    refused: str


@require_GET
@for_member
def show(request: HttpRequest, member: Member) -> HttpResponse:
    """The ways."""
    return _page(request, member, "")


@require_POST
@for_editor
def told(request: HttpRequest, member: Member) -> HttpResponse:
    """One answer, or a way taken; refused on the page it came from."""
    drawing = drawing_of(member)
    practice, errand = in_force(drawing.house), errand_of(drawing)
    _, old = at_hand(drawing, "")
    try:
        found = path(errand, old, practice)
        edit = (
            _taken(errand, found, given(request.POST, "way"))
            if given(request.POST, "way")
            else tell(errand, "way", found.asks, practice, request.POST)
        )
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
    except (EditRefused, *store.REFUSALS) as refused:
        return _page(request, member, in_words(refused, drawing))
    return redirect(reverse("errand-path", args=[member.job_id]))


def _taken(errand: Errand, found: Path, wanted: str) -> Edit:
    """A way taken in hand."""
    route = next((r for r in found.routes if _key(r) == wanted), None)
    if route is None:
        raise EditRefused("that way is no longer there; these are")
    if route.blocked:
        raise EditRefused(f"that way is blocked: {route.blocked}")
    return Revise(HOUSE, {"errand.way.chosen": route.key}, f"The way: {route.name}")


def _key(route: ConcealedRoute) -> str:
    return "+".join(route.key)


def _page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    drawing = drawing_of(member)
    practice, errand = in_force(drawing.house), errand_of(drawing)
    unit = practice.unit
    _, old = at_hand(drawing, "")
    found = path(errand, old, practice)
    wanted = str(request.GET.get("ask", request.POST.get("ask", "")))
    here = next((a for a in found.asks if a.id == wanted), found.next)
    rows = [
        question(
            a,
            errand.way,
            answered=answered(errand.way, a, found.ground, found.chosen),
            here=a == here,
            practice=practice,
            known=_elsewhere(a, found, unit),
        )
        for a in found.asks
    ]
    shown = PathPage(
        job=member.job,
        kind=KINDS[errand.wants],
        stones=stones(errand.wants, "path"),
        picture=section(found.chosen, found.ground, found.details),
        cut=_cut(found, unit),
        lacks=_lacks(found),
        workings=found.pull.workings if found.pull else (),
        picked=found.picked,
        lost=found.lost,
        question=next((r for r in rows if r.here), None),
        questions=rows,
        left=len(found.open),
        cards=[_card(r, r == found.chosen, practice, unit) for r in found.routes[:6]],
        refused_ways=[(r.way.name, practice.said(r.why)) for r in found.refused],
        reached=_reached(errand, practice),
        measured=[_measured(d, found, practice) for d in found.details],
        unit=unit,
        may_edit=member.may_edit,
        typed=str(request.POST.get("value", ""))[:80],
        refused=refused,
    )
    return render(request, "errand/path.html", context(shown), status=422 if refused else 200)


def _elsewhere(ask: Ask, found: Path, unit: Unit) -> str:
    """What answers a question without its having been asked: the box as it was told, or a measure."""
    height = found.ground.heights[0]
    if ask.id == "source" and height is not None:
        return format_length(height, unit)
    if ask.id == "insulation" and found.ground.errand.way.insulated is not None:
        return "As told: yes" if found.ground.errand.way.insulated else "As told: no"
    return {"there": "It is, by the measures", "clear": "Not, by the measures"}.get(
        by_measure(ask, found.chosen) or "", ""
    )


def _reached(errand: Errand, practice: Practice) -> list[tuple[str, str, bool]]:
    """From where the work can be reached: each by its name, in words, and whether it is said to be open."""
    return [("attic", practice.said("above, an attic"), errand.attic), ("below", "below", errand.below)]


def _cut(found: Path, unit: Unit) -> str:
    return coarse(found.pull.figure("cut"), unit) if found.pull else ""


def _lacks(found: Path) -> list[str]:
    """Measures that the length of the way in hand still wants, in words."""
    words = {
        "across": "how far it goes",
        "source": "how high the old box is",
        "ceiling": "how high the ceiling is",
        "height": "how high the new box is (in Spot)",
        "cavity": "how deep the wall is (in Spot)",
        "pull": "how long the way is, by a string laid along it",
    }
    return [words.get(name, name) for name in found.chosen.lacks]


def _card(route: ConcealedRoute, here: bool, practice: Practice, unit: Unit) -> WayCard:
    counted = (("hole", route.holes), ("steel plate", route.steel), ("patch", route.patches))
    leaves = (
        ", ".join(f"{n} {_many(word, n)}" for word, n in counted if n) or "nothing bored, nothing to patch"
    )
    facts = {a.id: a.words for a in way_data().ask}
    minutes = f"{'from ' if route.at_least else ''}{route.minutes.total:.0f} min"
    return WayCard(
        key=_key(route),
        name=route.name,
        here=here,
        minutes=minutes,
        leaves=leaves,
        hands="two people" if route.hands > 1 else "one person",
        how=list(dict.fromkeys(leg.way.told(practice) for leg in route.made)),
        bits=_bits(route, practice),
        wants=[facts[w] for w in route.wants],
        blocked=route.blocked,
        looks=[blocker(b).words for b in route.looks],
    )


def _many(word: str, n: int) -> str:
    return word if n == 1 else f"{word}es" if word.endswith("ch") else f"{word}s"


def _bits(route: ConcealedRoute, practice: Practice) -> str:
    """What it is bored with, and what goes before; nothing where no wood is gone through."""
    found = bits(route, practice)
    return f"{found['bit']}, after a pilot of {found['pilot']}" if found["long"] else ""


#: How a figure of a measure is counted.
_SUFFIX = {"minutes": " min", "hours": " h", "count": ""}


def _measured(detail: Detail, found: Path, practice: Practice) -> Measured:
    """A measure in words, with the address of its single question, what is known filled in."""
    unit = practice.unit
    answer = detail.answer
    said = list(answer.said) if answer else []
    figures = (
        [
            (
                f.name,
                (
                    format_length(f.value, unit)
                    if f.kind == "length"
                    else f"{f.value:g}{_SUFFIX.get(f.kind, '')}"
                ),
            )
            for f in answer.figures
        ]
        if answer
        else []
    )
    words = {a.id: a.words for a in found.asks} | {a.id: a.words for a in way_data().measure}
    asked = {"practice": practice.id, **_known(detail, found.ground)}
    at = f", {AT[detail.end][:1].lower()}{AT[detail.end][1:]}" if detail.end is not None else ""
    return Measured(
        title=f"{QUESTIONS[detail.measure].title}{at}",
        address=f"{detail.measure}?{urlencode(asked)}",
        picture=both_sides(detail, found.ground, unit),
        marks=[m for m in detail.marks if m not in [s.words for s in said]],
        said=said,
        figures=figures,
        lacks=[words[k] for k in detail.lacks if k in words],
        usual=" and ".join(detail.usual),
        workings=answer.workings if answer else (),
    )


def _known(detail: Detail, ground: Ground) -> dict[str, str]:
    """What the single question of a measure asks and this way knows, as it was typed."""
    if detail.end is None:
        known = (
            {"wide": ground.errand.way.across}
            if detail.measure == "patch"
            else {"depth": ground.errand.way.wood}
            if detail.measure == "wood"
            else {}
        )
        return {k: v.typed for k, v in known.items() if length_of(v) is not None and v is not None}
    plate = plate_of(ground, detail.end)
    names = {
        "transfer": {
            "room": plate.room,
            "back": plate.back,
            "pilot": plate.pilot,
            "surface": ground.errand.spot.thick if detail.end else None,
            "plate": plate.deep or ground.errand.spot.cavity,
        },
        "eave": {"heel": plate.heel, "plate": plate.deep},
        "sounding": {"went": plate.went},
    }
    return {k: v.typed for k, v in names.get(detail.measure, {}).items() if v is not None and not v.unknown}
