"""Edits that every waypoint's forms can make: type over a figure, choose, take away."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec
from django.http import QueryDict

from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Remove, Revise, present
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.quantities import Length, not_measured, parse_length
from fjeld.web.ui.view import View


def need(form: Mapping[str, Any], name: str) -> str:
    """A field of the form; refused in words when it is missing or empty."""
    value = str(form.get(name, "")).strip()
    if not value:
        raise EditRefused(f"“{name}” was left empty")
    return value


def whole(form: Mapping[str, Any], name: str) -> int:
    """A field as a whole number."""
    value = need(form, name)
    if not value.isdigit():
        raise EditRefused(f"“{value}” is not a whole number")
    return int(value)


def number(form: Mapping[str, Any], name: str) -> float:
    """A field as a coordinate in mm, such as a drag sends."""
    try:
        value = float(str(form.get(name)))
    except ValueError:
        raise EditRefused(f"“{form.get(name)}” is not a place") from None
    if not -1e6 < value < 1e6:
        raise EditRefused("that place is outside any house")
    return value


def figure(view: View, form: QueryDict) -> Edit:
    """Type over one figure: ``handle``, ``field`` (``studs.spacing`` for a part), ``value``."""
    handle = Handle(need(form, "handle"))
    item = present(view.drawing, handle)
    field, _, part = need(form, "field").partition(".")
    typed = str(form.get("value", "")).strip()
    if field not in item.__struct_fields__:
        raise EditRefused(f"{handle} has no {field}")
    if part:
        inner = getattr(item, field)
        value: Any = msgspec.structs.replace(inner, **{part: _read(inner, part, typed, view)})
    else:
        value = _read(item, field, typed, view)
    thing = "the job" if handle == HOUSE else handle
    return Revise(handle, {field: value}, f"Change {(part or field).replace('_', ' ')} of {thing}")


def _read(holder: Any, field: str, typed: str, view: View) -> Any:
    """The typed text as the field's own type; refused in words."""
    kinds = {f.name: f.type for f in msgspec.structs.fields(holder)}
    if field not in kinds:
        raise EditRefused(f"there is no {field} here")
    wanted = kinds[field]
    if wanted is Length or wanted == Length | None:
        standing = getattr(holder, field)
        if typed == "?" and isinstance(standing, Length):
            return not_measured(standing, view.drawing.house.unit)
        return parse_length(typed, view.drawing.house.unit)
    try:
        return msgspec.convert(
            None if typed == "" and type(None) in getattr(wanted, "__args__", ()) else typed,
            wanted,
            strict=False,
        )
    except msgspec.ValidationError:
        raise EditRefused(f"“{typed[:40]}” is no {field.replace('_', ' ')}") from None


def remove(view: View, form: QueryDict) -> Edit:
    """Take a thing away."""
    return Remove(Handle(need(form, "handle")))


COMMON = {"figure": figure, "remove": remove}
