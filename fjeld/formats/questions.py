"""Single questions as JSON: their shapes, read with the same care as a job file."""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from fjeld.drawing.building import Opening, Side
from fjeld.formats.jobfile import convert, json_object
from fjeld.quantities import Length, Unit

Question = Any


class SpacingQuestion(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"sides": "walls"}):
    """A room's walls and openings."""

    sides: tuple[Side, ...]
    openings: tuple[Opening, ...] = ()


class RowsQuestion(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rectangle and the lights across and down it."""

    width: Length
    depth: Length
    across: int
    down: int
    school: Literal["half-spacing", "offset"] = "half-spacing"
    offset: Length | None = None


class SupportsQuestion(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stretch of cable between boxes or holes."""

    length: Length
    ends: Literal["box-box", "box-hole", "hole-hole"] = "box-hole"
    first: Length | None = None
    interval: Length | None = None
    cables: int = 1
    fished: bool = False


class DropStretch(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One stretch: its length one way, its gauge, and the current in it."""

    length: Length
    amps: float
    gauge: str = "14"


class DropQuestion(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Consecutive stretches from the panel."""

    stretches: tuple[DropStretch, ...]


def read(data: bytes, kind: type[Any], unit: Unit = "ft-in") -> Any:
    """Read a question; raises :class:`fjeld.formats.jobfile.JobFileError` with the place."""
    return convert(json_object(data), kind, "$", unit)
