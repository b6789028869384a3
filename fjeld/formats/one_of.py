"""What may stand where something else was written: the choices of a field that has but a few."""

from __future__ import annotations

import re
from typing import Any

from msgspec import inspect


def one_of(kind: type[Any], words: str, place: str) -> str:
    """The choices at the place of a refusal, to be said after its words; nothing where it is of
    another kind.
    """
    if not words.startswith("Invalid enum value"):
        return ""
    at: list[inspect.Type] = [inspect.type_info(kind)]
    for name, inner in re.findall(r"\.(\w+)|\[(.*?)\]", place):
        at = [found for one in at for found in _within(one, name, inner)]
    choices = [
        str(v)
        for one in at
        for part in _parts(one)
        if isinstance(part, inspect.LiteralType)
        for v in part.values
        if v != ""
    ]
    return f"; it is one of: {', '.join(choices)}" if choices else ""


def _parts(kind: inspect.Type) -> list[inspect.Type]:
    if isinstance(kind, inspect.UnionType):
        return [p for one in kind.types for p in _parts(one)]
    return _parts(kind.type) if isinstance(kind, inspect.Metadata) else [kind]


def _within(kind: inspect.Type, name: str, inner: str) -> list[inspect.Type]:
    """What a field, or any of a list or a table, is of."""
    found: list[inspect.Type] = []
    for part in _parts(kind):
        if name and isinstance(part, inspect.StructType):
            found += [f.type for f in part.fields if f.encode_name == name]
        elif not name and isinstance(part, inspect.VarTupleType | inspect.ListType):
            found.append(part.item_type)
        elif not name and isinstance(part, inspect.DictType):
            found.append(
                part.key_type
                if inner == "..." and not isinstance(part.value_type, inspect.LiteralType)
                else part.value_type
            )
    return found
