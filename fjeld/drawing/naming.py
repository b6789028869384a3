"""Names for things that are not yet in a drawing.

An edit is made on one drawing and planned on another, perhaps long after: which handles
are free is known only there. So an edit names what it brings by a *draft* name, which
begins with a character that nothing typed can hold, and :func:`named` puts the handles of
one mint in their place, in references and in words alike, when the edit is planned.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Any, TypeVar

import msgspec

from fjeld.drawing.handles import PREFIXES, Handle, Mint
from fjeld.quantities import Written

#: SUBSTITUTE, which by its own definition stands where another character is to come.
_MARK = "\x1a"
_Name = TypeVar("_Name", str, int)
_DRAFT = re.compile(f"{_MARK}([A-Z])([0-9]+)")


class Drafts:
    """Gives out draft names, as a :class:`~fjeld.drawing.handles.Mint` gives out handles."""

    def __init__(self) -> None:
        self._count = 0

    def fresh(self, kind: str) -> Handle:
        """The next draft name for ``kind`` (a key of :data:`~fjeld.drawing.handles.PREFIXES`)."""
        self._count += 1
        return Handle(f"{_MARK}{PREFIXES[kind]}{self._count}")


def named(edit: Any, mint: Mint) -> Any:
    """The edit with a fresh handle of ``mint`` for each draft name in it; the edit itself when it
    has none.
    """
    given: dict[str, str] = {}

    def handle(found: re.Match[str]) -> str:
        draft = found[0]
        if draft not in given:
            given[draft] = mint.next(found[1])
        return given[draft]

    return _walk(edit, lambda text: _DRAFT.sub(handle, text))


def _walk(value: Any, put: Any) -> Any:
    """``value`` with ``put`` made of every text in it; what holds no draft name stays the same object."""
    match value:
        case str():
            return put(value) if _MARK in value else value
        case msgspec.Struct():
            changed = _changed({name: getattr(value, name) for name in _fields(type(value))}, put)
            return msgspec.structs.replace(value, **changed) if changed else value
        case tuple() | list():
            parts = _changed(dict(enumerate(value)), put)
            return type(value)(parts.get(n, v) for n, v in enumerate(value)) if parts else value
        case dict():
            return _walked(value, put)
        case Written():
            own = {name: getattr(value, name) for name in value.__slots__}
            changed = _changed(own, put)
            return type(value)(**{**own, **changed}) if changed else value
    assert value is None or isinstance(value, int | float), type(value)
    return value


def _walked(value: dict[Any, Any], put: Any) -> dict[Any, Any]:
    """A mapping, its keys looked at as well."""
    pairs = [(_walk(k, put), _walk(v, put)) for k, v in value.items()]
    same = all(k is a and v is b for (k, v), (a, b) in zip(pairs, value.items(), strict=True))
    return value if same else dict(pairs)


def _changed(parts: Mapping[_Name, Any], put: Any) -> dict[_Name, Any]:
    """The parts of a value that hold a draft name, as they become."""
    return {name: new for name, old in parts.items() if (new := _walk(old, put)) is not old}


@cache
def _fields(kind: type[msgspec.Struct]) -> tuple[str, ...]:
    return kind.__struct_fields__
