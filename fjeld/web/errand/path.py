"""The path of an errand: the section of the way in hand, its alternatives with their price, what to look for,
what to cut.
"""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import QueryDict

from fjeld.bench.questions import QUESTIONS
from fjeld.concealed.along import AT, Detail
from fjeld.concealed.ground import Ground
from fjeld.concealed.path import Path, answered, by_measure, path
from fjeld.concealed.plates import plate_of
from fjeld.concealed.routes import ConcealedRoute, bits, blocker
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.handles import HOUSE
from fjeld.graphics.both_sides import both_sides
from fjeld.graphics.section import section
from fjeld.graphics.shapes import Shape
from fjeld.judge.answer import Said
from fjeld.practice import Practice
from fjeld.practice.finished.spots import Ask
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import Unit, Working, coarse, format_length
from fjeld.web.errand.step import ErrandStep, InHand
from fjeld.web.errand.telling import PutQuestion, question, tell
from fjeld.web.errand.wanted import OF_PATH
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Shown


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
    typed: str


def _told(hand: InHand, form: QueryDict) -> Edit:
    """One answer, or a way taken."""
    found = path(hand.errand, hand.box[1], hand.practice)
    way = given(form, "way")
    if way:
        return _taken(hand.errand, found, way)
    return tell(hand.errand, "way", found.asks, hand.practice, form)


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


def _page(hand: InHand) -> PathPage:
    """The ways."""
    practice, errand = hand.practice, hand.errand
    unit = practice.unit
    found = path(errand, hand.box[1], practice)
    wanted = hand.asked("ask")
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
    return PathPage(
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
        typed=hand.typed("value"),
    )


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


PATH = ErrandStep(name="path", template="path", page=_page, told=_told, tells=OF_PATH)
