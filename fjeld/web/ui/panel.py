"""What a template is given: a struct whose fields are its names, and nothing that the struct does not say."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import msgspec

#: Options of a choice: value and words.
Choices = Iterable[tuple[str, str]]


class Shown(msgspec.Struct, frozen=True):
    """The fields that a template, or a row of one, is written from."""


def context(*of: Shown) -> dict[str, Any]:
    """The names that a template sees: the fields of what it is given, the later before the earlier."""
    return {name: getattr(shown, name) for shown in of for name in shown.__struct_fields__}
