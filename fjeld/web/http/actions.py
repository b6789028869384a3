"""What a form means: an action says by its parameters what it reads, and is given that or refuses in words.

A parameter without a default is needed. Its kind says how the field is read: a :class:`Handle`, words, a
whole number, a place in mm (``float``), a :class:`Length` as people write it, a box that is ticked, or
every field of that name (``tuple``). Fields that belong together are a struct, read as one.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from functools import wraps
from types import NoneType
from typing import Any, TypeVar, get_args, get_origin, get_type_hints

import msgspec
from django.http import QueryDict

from fjeld.drawing.edits import Edit
from fjeld.drawing.handles import Handle
from fjeld.quantities import Length, parse_length
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Action
from fjeld.web.ui.forms import given, need, number, whole

Form = Mapping[str, Any]
AskedT = TypeVar("AskedT", bound=msgspec.Struct)
_TICKED = ("on", "1", "true", "yes")


class ActionField(msgspec.Struct, frozen=True):
    """A field that an action reads: its name, its kind, and whether it can be left out."""

    name: str
    kind: Any
    optional: bool
    default: Any = None

    def read(self, form: Form, view: View) -> Any:
        """Its value; refused in words."""
        if get_origin(self.kind) is tuple:
            every = form.getlist(self.name) if isinstance(form, QueryDict) else [form.get(self.name, "")]
            return tuple(value for value in map(str, every) if value)
        if self.kind is bool:
            return form.get(self.name) in _TICKED
        if self.optional and not given(form, self.name):
            return self.default
        return _READ[self.kind](form, self.name, view)


_READ: dict[Any, Callable[[Form, str, View], Any]] = {
    Handle: lambda form, name, view: Handle(need(form, name)),
    str: lambda form, name, view: need(form, name),
    int: lambda form, name, view: whole(form, name),
    float: lambda form, name, view: number(form, name),
    Length: lambda form, name, view: parse_length(need(form, name), view.drawing.house.unit),
}


def asked(kind: type[AskedT], form: Form, view: View) -> AskedT:
    """The fields of a struct, read from a form or an address; refused in words."""
    return kind(**{field.name: field.read(form, view) for field in fields_of(kind)})


def fields_of(kind: Any) -> list[ActionField]:
    """What a struct, or a function after its view, reads."""
    hints = get_type_hints(kind)
    found = []
    for name, parameter in list(inspect.signature(kind).parameters.items()):
        wanted = hints[name]
        if wanted is View:
            continue
        kinds = (
            [k for k in get_args(wanted) if k is not NoneType] if NoneType in get_args(wanted) else [wanted]
        )
        optional = parameter.default is not inspect.Parameter.empty
        found.append(ActionField(name, kinds[0], optional, parameter.default if optional else None))
    return found


def action(function: Callable[..., Edit]) -> Action:
    """An action whose parameters after the view are read from the form."""
    mine = fields_of(function)

    @wraps(function)
    def read(view: View, form: QueryDict) -> Edit:
        found = {
            f.name: asked(f.kind, form, view) if _is_struct(f.kind) else f.read(form, view) for f in mine
        }
        return function(view, **found)

    read.fields = [  # type: ignore[attr-defined]
        inner for f in mine for inner in (fields_of(f.kind) if _is_struct(f.kind) else [f])
    ]
    return read


def _is_struct(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, msgspec.Struct) and kind is not Length
