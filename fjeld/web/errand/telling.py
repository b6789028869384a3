"""Answers to the questions of a spot and a way: read, or refused in words; any of them may stay open."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import atan, degrees, radians, tan
from typing import Any, get_args

from msgspec.structs import replace

from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import retold
from fjeld.drawing.errand import Errand, FoundBy, Spot, Way, length_of, part_of, with_part
from fjeld.drawing.handles import HOUSE
from fjeld.practice import Practice
from fjeld.practice.finished.spots import Ask, spots
from fjeld.quantities import Length, Unit, finite_number, whole_number
from fjeld.web.errand.actions import read_length
from fjeld.web.ui.forms import given, need
from fjeld.web.ui.panel import Choices, Shown

Form = Mapping[str, Any]
FOUND_BY = (
    ("probe", "a bent wire"),
    ("screws", "a row of screws"),
    ("detector", "a detector"),
    ("pattern", "the spacing only"),
    ("", "seen in the open"),
)
JAMB = ("door", "it is a door’s jamb")
#: The steepest roof, in inches in 12 or in degrees.
MOST_RISE: dict[Unit, float] = {"ft-in": 48.0, "mm": 75.0}
_YES_NO = (("yes", "Yes"), ("no", "No"))


class PutQuestion(Shown, frozen=True, kw_only=True):
    """A question as it is put: its answer so far in words, and what may be answered."""

    id: str
    words: str
    why: str
    kind: str
    options: Choices
    answer: str
    value: str
    by: str
    ways_found: Choices
    here: bool


def question(
    ask: Ask, told: Spot | Way, answered: bool, here: bool, practice: Practice, known: str = ""
) -> PutQuestion:
    """A question with what was answered; ``known`` where another step has its answer already."""
    value, by = _told(ask, told, practice)
    options = _options(ask, practice)
    # Nothing behind a closed surface was seen in the open, unless somebody says so.
    by = by if answered or ask.kind != "edge" else FOUND_BY[0][0]
    answer = known or _words(ask, value, by, dict(options)) if answered else ""
    if ask.kind == "rise" and answer:
        answer = f"{answer}°" if practice.unit == "mm" else f"{answer} in 12"
    found = (*FOUND_BY, JAMB) if ask.id == "left" else FOUND_BY
    return PutQuestion(
        id=ask.id,
        words=ask.words,
        why=ask.why,
        kind=ask.kind,
        options=options,
        answer=answer,
        value=value,
        by=by,
        ways_found=found if ask.kind == "edge" else (),
        here=here,
    )


def _told(ask: Ask, told: Spot | Way, practice: Practice) -> tuple[str, str]:
    """What was answered as it was typed, and how an edge was found."""
    if ask.kind == "seen":
        return told.seen.get(ask.id, ""), ""
    if isinstance(told, Spot) and ask.id == "left" and length_of(told.door) is not None:
        return told.door.typed if told.door else "", "door"
    value = part_of(told, ask.id)
    by = str(getattr(told, f"{ask.id}_by")) if ask.kind == "edge" else ""
    if isinstance(value, Length):
        return value.typed, by
    if isinstance(value, bool):
        return "yes" if value else "no", by
    if isinstance(value, float):
        return f"{degrees(atan(value / 12)) if practice.unit == 'mm' else value:.4g}", by
    return "" if value is None else str(value), by


def _options(ask: Ask, practice: Practice) -> Choices:
    if ask.kind == "yes":
        return _YES_NO
    if ask.id == "covering":
        return [(c.id, c.id[:1].upper() + c.id[1:]) for c in spots().covering]
    if ask.kind == "box":
        return [(b.id, b.name) for b in practice.catalogue.old_work]
    if isinstance(ask.options, dict):
        return list(ask.options.items())
    return [(o, o[:1].upper() + o[1:]) for o in ask.options]


def _words(ask: Ask, value: str, by: str, options: dict[str, str]) -> str:
    found = options.get(value, value)
    how = dict((*FOUND_BY, JAMB)).get(by, "")
    return (
        f"{found}, by {how}"
        if ask.kind == "edge" and by not in ("", "door")
        else f"{found} ({how})"
        if by
        else found
    )


def tell(errand: Errand, part: str, asks: tuple[Ask, ...], practice: Practice, form: Form) -> Edit:
    """The edit of one answer to the ``part`` (spot or way) of an errand; raises :class:`EditRefused`."""
    told: Spot | Way = errand.spot if part == "spot" else errand.way
    ask = next((a for a in asks if a.id == given(form, "ask")), None)
    if ask is None:
        raise EditRefused("that is not asked here")
    value = given(form, "value")
    if value in ("?", "later"):
        after = _left_open(told, ask, clear=value == "?")
    else:
        after = replace(_read(told, ask, practice, form), later=tuple(a for a in told.later if a != ask.id))
    words = f"{ask.words} {_said(after, ask, practice)}"[:300]
    return retold(HOUSE, f"errand.{part}", told, after, words)


def _said(told: Spot | Way, ask: Ask, practice: Practice) -> str:
    value, by = _told(ask, told, practice)
    return _words(ask, value, by, dict(_options(ask, practice))) or "not known"


def _left_open(told: Spot | Way, ask: Ask, clear: bool) -> Spot | Way:
    """The question left open; with what was answered before gone, where it is no longer known."""
    later = (*(a for a in told.later if a != ask.id), ask.id)
    if not clear:
        return replace(told, later=later)
    if ask.kind == "seen":
        return replace(told, later=later, seen={k: v for k, v in told.seen.items() if k != ask.id})
    if ask.kind == "edge":
        return replace(
            told,
            later=later,
            **{ask.id: None, f"{ask.id}_by": "", **({"door": None} if ask.id == "left" else {})},
        )
    return with_part(replace(told, later=later), ask.id, "" if ask.kind in ("choice", "box") else None)


def _read(told: Spot | Way, ask: Ask, practice: Practice, form: Form) -> Spot | Way:
    value = given(form, "rest") or need(form, "value")
    if ask.kind == "seen":
        return replace(told, seen={**told.seen, ask.id: _chosen(ask, value, practice)})
    if ask.kind == "edge":
        return _edge(told, ask, read_length(value, practice), given(form, "by"))
    reads: dict[str, Callable[[], Any]] = {
        "length": lambda: read_length(value, practice),
        "count": lambda: _count(value),
        "yes": lambda: _chosen(ask, value, practice) == "yes",
        "rise": lambda: _rise(value, practice),
    }
    return with_part(told, ask.id, reads.get(ask.kind, lambda: _chosen(ask, value, practice))())


def _chosen(ask: Ask, value: str, practice: Practice) -> str:
    options = dict(_options(ask, practice))
    if value not in options:
        raise EditRefused(f"“{value[:40]}” is none of: {', '.join(options.values())}")
    return value


def _edge(told: Spot | Way, ask: Ask, at: Length, by: str) -> Spot | Way:
    if by == "door" and ask.id == "left":
        return replace(told, left=None, left_by="", door=at)
    if by not in get_args(FoundBy):
        raise EditRefused("say how the edge was found")
    fields: dict[str, Any] = {ask.id: at, f"{ask.id}_by": by}
    return replace(told, **(fields | ({"door": None} if ask.id == "left" else {})))


def _rise(value: str, practice: Practice) -> float:
    """The slope of a roof, in 12: as it is said, or in degrees."""
    found = finite_number(value.removesuffix("°").removesuffix("in 12").strip())
    if found is None or not 0 <= found <= MOST_RISE[practice.unit]:
        how = "degrees, up to 75" if practice.unit == "mm" else "so many inches in 12, up to 48"
        raise EditRefused(f"“{value[:20]}” is no slope of a roof; it is in {how}")
    return 12 * tan(radians(found)) if practice.unit == "mm" else found


def _count(value: str) -> int:
    found = whole_number(value)
    if found is None or found > 60:
        raise EditRefused(f"“{value[:20]}” is no number of members; it is a whole number up to 60")
    return found
