"""The path of an errand: the section of the way in hand, its alternatives with their price, what to look for, what to cut."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.handles import HOUSE
from fjeld.finished.path import Path, answered, path
from fjeld.finished.questions import QUESTIONS
from fjeld.finished.routes import Refused, Route, blocker
from fjeld.practice import Practice
from fjeld.practice.finished import habits
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import Unit, Working, coarse, format_length
from fjeld.web.errand.hand import drawing_of
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.screen import at_hand
from fjeld.web.errand.section import section
from fjeld.web.errand.spot import errand_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.errand.telling import Question, question, tell
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Choices, Shown, context
from fjeld.web.ui.refusals import in_words

#: Questions of the bench that belong to a way.
BESIDE = {
    "P1": ("transfer", "sounding"), "P2": ("transfer", "sounding"), "P5": ("wood", "patch"), "P6": ("wood",), "P7": ("transfer", "patch"), "P9": ("patch",),
    "P10": ("eave", "transfer", "sounding"), "P11": ("transfer",), "P14": ("masonry",),
}  # fmt: skip


class WayCard(Shown, frozen=True):
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


class PathPage(Shown, frozen=True):
    """The way in hand in section, what to cut for it, the question in hand, the other ways, and those that are refused."""

    job: Job
    kind: Kind
    stones: list[Stone]
    picture: str
    cut: str
    lacks: list[str]
    workings: tuple[Working, ...]
    picked: bool
    lost: bool
    question: Question | None
    questions: list[Question]
    left: int
    cards: list[WayCard]
    refused_ways: tuple[Refused, ...]
    bench: Choices
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
    practice, errand = practices.load(drawing.house.practice), errand_of(drawing)
    _, old = at_hand(drawing, "")
    try:
        found = path(errand, old, practice)
        edit = (
            _taken(errand, found, given(request.POST, "way"))
            if given(request.POST, "way")
            else tell(errand, "way", found.asks, practice, request.POST)
        )
        store.commit(member.job_id, request.user, edit)
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
    return Revise(
        HOUSE,
        {"errand": replace(errand, way=replace(errand.way, chosen=route.key))},
        f"The way: {route.name}",
    )


def _key(route: Route) -> str:
    return "+".join(route.key)


def _page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    drawing = drawing_of(member)
    practice, errand = practices.load(drawing.house.practice), errand_of(drawing)
    unit: Unit = "mm" if practice.metric else "ft-in"
    _, old = at_hand(drawing, "")
    found = path(errand, old, practice)
    wanted = str(request.GET.get("ask", request.POST.get("ask", "")))
    here = next((a for a in found.asks if a.id == wanted), found.next)
    height = found.ground.heights[0]
    rows = [
        question(a, errand.way, answered(errand.way, a, found.ground), a == here, practice, format_length(height, unit) if a.id == "source" and height is not None else "")
        for a in found.asks
    ]  # fmt: skip
    shown = PathPage(
        member.job, KINDS[errand.wants], stones(errand.wants, "path"), section(found.chosen, found.ground), _cut(found, unit), _lacks(found),
        found.pull.workings if found.pull else (), found.picked, found.lost, next((r for r in rows if r.here), None), rows, len(found.open),
        [_card(r, r == found.chosen, practice, unit) for r in found.routes[:6]], found.refused, _bench(found, errand, practice), unit, member.may_edit,
        str(request.POST.get("value", ""))[:80], refused,
    )  # fmt: skip
    return render(request, "errand/path.html", context(shown), status=422 if refused else 200)


def _cut(found: Path, unit: Unit) -> str:
    return coarse(found.pull.figure("cut"), unit) if found.pull else ""


def _lacks(found: Path) -> list[str]:
    """Measures that the length of the way in hand still wants, in words."""
    words = {
        "across": "how far it goes", "source": "how high the old box is", "ceiling": "how high the ceiling is",
        "height": "how high the new box is (in Spot)", "cavity": "how deep the wall is (in Spot)", "pull": "a way from storey to storey: measure it with a string",
    }  # fmt: skip
    return [words.get(name, name) for name in found.chosen.lacks]


def _card(route: Route, here: bool, practice: Practice, unit: Unit) -> WayCard:
    counted = (("hole", route.holes), ("steel plate", route.steel), ("patch", route.patches))
    leaves = ", ".join(f"{n} {_many(word, n)}" for word, n in counted if n) or "nothing bored, nothing to patch"
    facts = {a.id: a.words for a in way_data().ask}
    minutes = f"{'from ' if route.at_least else ''}{route.minutes.total:.0f} min"
    return WayCard(
        _key(route), route.name, here, minutes, leaves, "two people" if route.hands > 1 else "one person", list(dict.fromkeys(leg.way.told(practice.metric) for leg in route.made)),
        _bits(route, practice, unit), [facts[w] for w in route.wants], route.blocked, [blocker(b).words for b in route.looks],
    )  # fmt: skip


def _many(word: str, n: int) -> str:
    return word if n == 1 else f"{word}es" if word.endswith("ch") else f"{word}s"


def _bits(route: Route, practice: Practice, unit: Unit) -> str:
    """What it is bored with: as wide as one or two cables want, longer than the wood."""
    mine = habits(practice.id)
    woods = [getattr(mine, leg.way.through) for leg in route.made if leg.way.through]
    if not woods:
        return ""
    wide = "16 to 20 mm" if practice.metric else "3/4 in"
    return f"a bit {wide} wide, {format_length(max(woods) + mine.bit_beyond, unit)} long or more, after a pilot of {'3 mm' if practice.metric else '1/8 in'}"


def _bench(found: Path, errand: Errand, practice: Practice) -> Choices:
    """The questions that go with the way in hand, what is known filled in."""
    rows: dict[str, str] = {}
    for leg in found.chosen.made:
        for name in BESIDE.get(leg.way.id, ()):
            known = {"practice": practice.id}
            if (
                name == "transfer"
                and errand.spot.thick is not None
                and length_of(errand.spot.thick) is not None
            ):
                known["surface"] = errand.spot.thick.typed
            rows[f"{name}?{urlencode(known)}"] = QUESTIONS[name].title
    return list(rows.items())
