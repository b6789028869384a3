"""What is asked, made plain before it is answered: what is not measured is not there, and no size is below
nothing.
"""

from __future__ import annotations

import math
from typing import Any

import msgspec

from fjeld.judge.answer import NotAsked
from fjeld.quantities import Length

#: Places along a wall or a surface, which may lie to either side of where one measures from; all else are
#: sizes.
PLACES = frozenset(
    {
        "left",
        "right",
        "door",
        "wished",
        "face",
        "next",
        "start",
        "end",
        "first",
        "left_edge",
        "middle",
        "foot",
    }
)


def plain(asked: Any) -> Any:
    """The same without what is marked as not measured yet; raises :class:`NotAsked` for a size below nothing,
    or one that is needed and not measured.
    """
    changes: dict[str, Any] = {}
    for field in msgspec.structs.fields(asked):
        value = getattr(asked, field.name)
        if isinstance(value, Length) and _blank(value):
            if field.required:
                raise NotAsked(f"{_said(field.name)}: not measured yet")
            changes[field.name] = None
        else:
            _looked_at(field.name, value)
    return msgspec.structs.replace(asked, **changes) if changes else asked


def _blank(value: Length) -> bool:
    """Whether nobody has measured it, nor says what to take meanwhile."""
    return value.unknown and value.mm == 0


def _looked_at(name: str, value: Any) -> None:
    if isinstance(value, msgspec.Struct) and not isinstance(value, Length):
        plain(value)
    elif isinstance(value, tuple | list):
        for n, one in enumerate(value, 1):
            _looked_at(f"{name} {n}", one)
    elif isinstance(value, Length):
        if _blank(value):
            raise NotAsked(f"{_said(name)}: not measured yet")
        _of_size(name, value.mm)
    elif isinstance(value, int | float) and not isinstance(value, bool):
        _of_size(name, value)


def _of_size(name: str, value: float) -> None:
    if not math.isfinite(value) or (value < 0 and name not in PLACES):
        raise NotAsked(f"{_said(name)}: it is not below nothing")


def _said(name: str) -> str:
    return name.replace("_", " ")
