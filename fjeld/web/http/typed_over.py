"""Edits that every waypoint's forms can make: type over a figure, choose, take away."""

from __future__ import annotations

from typing import Any, get_args, get_type_hints

import msgspec

from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Remove, Revise, present
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.quantities import Length, finite_number, not_measured, parse_length, whole_number
from fjeld.web.http.actions import action
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Action


@action
def figure(view: View, handle: Handle, field: str, value: str = "") -> Edit:
    """Type over one figure: ``field`` may be of a part, as ``studs.spacing``."""
    item = present(view.drawing, handle)
    field, _, part = field.partition(".")
    if field not in item.__struct_fields__:
        raise EditRefused(f"{handle} has no {field}")
    if part:
        inner = getattr(item, field)
        if not isinstance(inner, msgspec.Struct):
            raise EditRefused(f"the {field.replace('_', ' ')} of {handle} has no {part[:40]}")
        read: Any = msgspec.structs.replace(inner, **{part: _read(inner, part, value, view)})
    else:
        read = _read(item, field, value, view)
    thing = "the job" if handle == HOUSE else handle
    return Revise(
        handle, {field: read}, f"Change {_NAMED.get(field, (part or field).replace('_', ' '))} of {thing}"
    )


#: Figures that a person calls by another name than the drawing does.
_NAMED = {
    "at": "place along the wall",
    "x": "place",
    "y": "place",
    "va": "load",
    "protective": "ground-fault protection",
    "within": "the box",
    "yoke": "the yoke",
    "chain": "the pull chain",
    "leg": "the leg",
    "poles": "the poles",
}


def _read(holder: msgspec.Struct, field: str, typed: str, view: View) -> Any:
    """The typed text as the field's own type; refused in words."""
    kinds = get_type_hints(type(holder))
    if field not in kinds:
        raise EditRefused(f"there is no {field[:40]} here")
    wanted, may_be_empty = kinds[field], False
    if type(None) in get_args(wanted):
        (wanted,) = (t for t in get_args(wanted) if t is not type(None))
        may_be_empty = True
    unit, stands = view.drawing.house.unit, getattr(holder, field)
    if wanted is Length and typed == "?" and isinstance(stands, Length):
        return not_measured(stands, unit)
    if typed == "" and may_be_empty:
        return None
    if wanted is Length:
        return parse_length(typed, unit)
    if wanted in (bool, int, float):
        return _plain(typed, wanted)
    try:
        return msgspec.convert(typed, wanted, strict=False)
    except (msgspec.ValidationError, TypeError, NotImplementedError):
        raise EditRefused(f"“{typed[:40]}” is no {field.replace('_', ' ')}") from None


def _plain(typed: str, wanted: type) -> bool | int | float:
    """A yes or no, or a number."""
    if wanted is bool:
        if typed not in ("true", "false"):
            raise EditRefused(f"“{typed[:20]}” is neither yes nor no")
        return typed == "true"
    found = whole_number(typed) if wanted is int else finite_number(typed)
    if found is None:
        raise EditRefused(f"“{typed[:40]}” is not a {'whole ' if wanted is int else ''}number")
    return found


@action
def remove(view: View, handle: Handle) -> Edit:
    """Take a thing away."""
    return Remove(handle)


COMMON: dict[str, Action] = {"figure": figure, "remove": remove}
