"""Edits that every waypoint's forms can make: type over a figure, choose, take away."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args, get_type_hints

import msgspec
from django.http import QueryDict

from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Remove, Revise, present
from fjeld.drawing.extents import clean
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.quantities import Length, finite_number, not_measured, parse_length, whole_number
from fjeld.web.ui.view import View


def need(form: Mapping[str, Any], name: str) -> str:
    """A field of the form without what nobody can see; refused in words when it is missing or empty."""
    value = given(form, name)
    if not value:
        raise EditRefused(f"“{name}” was left empty")
    return value


def given(form: Mapping[str, Any], name: str) -> str:
    """A field of the form without what nobody can see; empty when it is missing."""
    return clean(str(form.get(name) or ""))


def whole(form: Mapping[str, Any], name: str) -> int:
    """A field as a whole number."""
    value = need(form, name)
    found = whole_number(value)
    if found is None:
        raise EditRefused(f"“{value[:40]}” is not a whole number")
    return found


def number(form: Mapping[str, Any], name: str) -> float:
    """A field as a coordinate in mm, such as a drag sends."""
    found = finite_number(given(form, name))
    if found is None and given(form, name).lower().lstrip("+-") in ("inf", "infinity", "nan"):
        raise EditRefused("that place is outside any house")
    if found is None:
        raise EditRefused(f"“{given(form, name)[:40]}” is not a place")
    if not -1e6 < found < 1e6:
        raise EditRefused("that place is outside any house")
    return found


def figure(view: View, form: QueryDict) -> Edit:
    """Type over one figure: ``handle``, ``field`` (``studs.spacing`` for a part), ``value``."""
    handle = Handle(need(form, "handle"))
    item = present(view.drawing, handle)
    field, _, part = need(form, "field").partition(".")
    typed = given(form, "value")
    if field not in item.__struct_fields__:
        raise EditRefused(f"{handle} has no {field}")
    if part:
        inner = getattr(item, field)
        if not isinstance(inner, msgspec.Struct):
            raise EditRefused(f"the {field.replace('_', ' ')} of {handle} has no {part[:40]}")
        value: Any = msgspec.structs.replace(inner, **{part: _read(inner, part, typed, view)})
    else:
        value = _read(item, field, typed, view)
    thing = "the job" if handle == HOUSE else handle
    return Revise(
        handle, {field: value}, f"Change {_NAMED.get(field, (part or field).replace('_', ' '))} of {thing}"
    )


#: Figures that a person calls by another name than the drawing does.
_NAMED = {
    "at": "place along the wall", "x": "place", "y": "place", "va": "load", "protective": "ground-fault protection",
    "within": "the box", "yoke": "the yoke", "chain": "the pull chain", "leg": "the leg", "poles": "the poles",
}  # fmt: skip


def _read(holder: msgspec.Struct, field: str, typed: str, view: View) -> Any:
    """The typed text as the field's own type; refused in words."""
    kinds = get_type_hints(type(holder))
    if field not in kinds:
        raise EditRefused(f"there is no {field[:40]} here")
    wanted, may_be_empty = kinds[field], False
    if type(None) in get_args(wanted):
        (wanted,) = (t for t in get_args(wanted) if t is not type(None))
        may_be_empty = True
    unit = view.drawing.house.unit
    if wanted is Length:
        standing = getattr(holder, field)
        if typed == "?" and isinstance(standing, Length):
            return not_measured(standing, unit)
        if typed == "" and may_be_empty:
            return None
        return parse_length(typed, unit)
    if typed == "" and may_be_empty:
        return None
    if wanted is bool:
        if typed not in ("true", "false"):
            raise EditRefused(f"“{typed[:20]}” is neither yes nor no")
        return typed == "true"
    if wanted in (int, float):
        found = whole_number(typed) if wanted is int else finite_number(typed)
        if found is None:
            raise EditRefused(f"“{typed[:40]}” is not a {'whole ' if wanted is int else ''}number")
        return found
    try:
        return msgspec.convert(typed, wanted, strict=False)
    except (msgspec.ValidationError, TypeError, NotImplementedError):
        raise EditRefused(f"“{typed[:40]}” is no {field.replace('_', ' ')}") from None


def remove(view: View, form: QueryDict) -> Edit:
    """Take a thing away."""
    return Remove(Handle(need(form, "handle")))


COMMON = {"figure": figure, "remove": remove}
