"""Where a box goes so that its fitting's body lines up: worked out from the body, as it would be typed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.errand import Errand
from fjeld.judge.answer import NotAsked
from fjeld.judge.spot import HeightAsked, stands
from fjeld.practice import Practice
from fjeld.quantities import Length, format_length
from fjeld.web.errand.actions import read_length
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Shown

Form = Mapping[str, Any]


class BodyField(Shown, frozen=True):
    """A measure of a fitting's body, or of what it lines up with."""

    name: str
    words: str


#: What is asked of a body by the question that it answers.
ASKED: dict[str, tuple[BodyField, ...]] = {
    "height": (
        BodyField("high", "Body, how tall"),
        BodyField("below", "Its box above its foot"),
        BodyField("top", "Its top level with, above the floor"),
        BodyField("foot", "Or its foot at"),
    ),
    "along": (
        BodyField("wide", "Body, how wide"),
        BodyField("left", "Its box from its left edge; the middle if empty"),
        BodyField("left_edge", "Its left edge at, along the tape"),
        BodyField("middle", "Or its middle at"),
    ),
}
#: Errands that hang a fitting with a body of its own.
WITH_BODY = ("light", "outdoors", "heavy")


def body_fields(errand: Errand, ask: str) -> tuple[BodyField, ...]:
    """What is asked of the fitting's body to answer a question by it; nothing where it has none."""
    return ASKED.get(ask, ()) if errand.wants in WITH_BODY else ()


def by_body(form: Form, practice: Practice) -> Form:
    """The form with the answer that the body gives, where one was sent; raises :class:`EditRefused`."""
    asked = ASKED.get(given(form, "ask"), ())
    typed = {f.name: given(form, f"body:{f.name}") for f in asked}
    if not any(typed.values()):
        return form
    measures: dict[str, Length] = {}
    for field in asked:
        if typed[field.name]:
            try:
                measures[field.name] = read_length(typed[field.name], practice)
            except EditRefused as wrong:
                raise EditRefused(f"{field.words}: {wrong}") from None
    try:
        answer = stands(HeightAsked(**measures), practice)
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    found = answer.figure("box height" if given(form, "ask") == "height" else "box along")
    if found < 0:
        raise EditRefused("by that body its box would be below the floor, or before the tape begins")
    return {"ask": given(form, "ask"), "value": format_length(found, practice.unit)}
