"""How large anything in a house can plausibly be: each count and measure is declared with its extent.

A field's type says what it may hold (``height: CeilingHeight``); :func:`outside` reads those
types and tells every value beyond them, however it came in: typed, dragged, amended,
imported. An extent is wide enough for any house and narrow enough that no computation
is led astray by it; what is merely unusual is a finding, not a problem.
"""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Callable, Iterator
from functools import cache
from typing import Annotated, Any

import msgspec
from msgspec import inspect

from fjeld.quantities import Length, Unit, format_length


def _mm(low: float, high: float) -> msgspec.Meta:
    return msgspec.Meta(extra={"mm": (low, high)})


def _from(low: float, high: float, words: str = "") -> msgspec.Meta:
    """From ``low`` to ``high``; ``words`` say what a value beyond is not, with a place for it."""
    # Not msgspec's own ge and le: what was stored under wider extents must stay readable.
    schema = {"minimum": low, "maximum": high}
    return msgspec.Meta(extra={"from": low, "to": high, "words": words}, extra_json_schema=schema)


def at_most(count: int) -> msgspec.Meta:
    """So many characters or things, for texts and lists."""
    return msgspec.Meta(extra={"most": count})


# Lengths, by what they are of, mm.
WallLength = Annotated[Length, _mm(10, 60_000)]
AlongWall = Annotated[Length, _mm(-1_000, 60_000)]
OnStorey = Annotated[Length, _mm(-200_000, 200_000)]
InRoom = Annotated[Length, _mm(-20_000, 60_000)]
CeilingHeight = Annotated[Length, _mm(300, 12_000)]
AboveFloor = Annotated[Length, _mm(-3_000, 12_000)]
Level = Annotated[Length, _mm(-20_000, 40_000)]
Spacing = Annotated[Length, _mm(50, 3_000)]
FirstMember = Annotated[Length, _mm(0, 60_000)]
MemberDepth = Annotated[Length, _mm(10, 1_000)]
MemberThickness = Annotated[Length, _mm(10, 300)]
BoardThickness = Annotated[Length, _mm(0, 300)]
WallThickness = Annotated[Length, _mm(10, 1_500)]
OpeningWidth = Annotated[Length, _mm(100, 20_000)]
BodySize = Annotated[Length, _mm(5, 60_000)]
FittingSize = Annotated[Length, _mm(0, 5_000)]
CutLength = Annotated[Length, _mm(10, 500_000)]

# Counts and figures.
Amps = Annotated[int, _from(1, 600)]
BreakerAmps = Annotated[int, _from(1, 200, "{:g} A is not a branch breaker")]
Ways = Annotated[int, _from(1, 84)]
Poles = Annotated[int, _from(1, 3)]
#: A joint or a device of an old box by number, or how deep it is in mm.
FoundNumber = Annotated[int, msgspec.Meta(ge=0, le=200)]
Gangs = Annotated[int, _from(1, 8)]
Cords = Annotated[int, _from(1, 40)]
WallNumber = Annotated[int, _from(0, 200)]
Kilograms = Annotated[float, _from(0, 500)]
Cents = Annotated[int, _from(0, 10_000_000)]
CubicInches = Annotated[float, _from(0, 500)]
VoltAmperes = Annotated[float, _from(0, 20_000, "{:g} VA is not a load of a house")]
Lumens = Annotated[float, _from(1, 50_000, "{:g} lm is not the light of a lamp in a house")]
BeamDegrees = Annotated[float, _from(5, 170, "a beam is 5 to 170 degrees wide")]
Rise = Annotated[float, _from(0, 48)]
Scale = Annotated[float, _from(1e-6, 1e6)]
DrawingUnits = Annotated[float, _from(-1e7, 1e7)]
VerticalAngle = Annotated[float, _from(0, 180)]
Candela = Annotated[float, _from(0, 1e7)]
MeasuredLumens = Annotated[float, _from(0, 1e6)]

# Texts.
Name = Annotated[str, at_most(80)]
Note = Annotated[str, at_most(300)]

Outside = tuple[str, str]
Check = Callable[[Any, Unit], Iterator[Outside]]


def outside(item: msgspec.Struct, unit: Unit = "ft-in") -> Iterator[Outside]:
    """Each value of an item beyond what its field declares, as (path, words); nothing when all are within."""
    yield from _checks(type(item))(item, unit)


def clean(text: str) -> str:
    """A text without what nobody can see: line breaks and tabs become blanks, control characters go."""
    plain = (" " if c in "\n\r\t\v\f\x85\u2028\u2029" else c for c in text)
    return "".join(c for c in plain if not unseen(c)).strip()


def unseen(char: str) -> bool:
    """Whether a character is a control or formatting character, or half of one."""
    return unicodedata.category(char) in ("Cc", "Cf", "Cs", "Zl", "Zp")


@cache
def _checks(kind: type[msgspec.Struct]) -> Check:
    info = inspect.type_info(kind)
    assert isinstance(info, inspect.StructType)
    fields = [(f.name, f.encode_name, check) for f in info.fields if (check := _check(f.type)) is not None]

    def struct(item: Any, unit: Unit) -> Iterator[Outside]:
        for name, written, check in fields:
            for path, words in check(getattr(item, name), unit):
                yield _under(written, path), words

    return struct


def _under(name: str, path: str) -> str:
    return f"{name}{path}" if path.startswith("[") or not path else f"{name}.{path}"


def _check(kind: Any, extra: dict[str, Any] | None = None) -> Check | None:
    """What looks at values of a declared type; none for a type whose every value will do."""
    extra = extra or {}
    if isinstance(kind, inspect.Metadata):
        return _check(kind.type, kind.extra)
    if isinstance(kind, inspect.CustomType):
        low, high = extra.get("mm", (-math.inf, math.inf))
        return {"Length": _length(low, high), "Side": _side, "LoadRef": _spelled}.get(kind.cls.__name__)
    if isinstance(kind, inspect.FloatType | inspect.IntType):
        return _number(extra.get("from", -1e12), extra.get("to", 1e12), extra.get("words", ""))
    if isinstance(kind, inspect.StrType):
        return _text(extra.get("most", 300))
    if isinstance(kind, inspect.StructType):
        return lambda value, unit: outside(value, unit)
    if isinstance(kind, inspect.UnionType):
        # A value or nothing: no field is one of several that want looking at.
        if any(isinstance(t, inspect.StructType) for t in kind.types):
            return _struct_or_text
        looked_at = [c for t in kind.types if not isinstance(t, inspect.NoneType) and (c := _check(t, extra))]
        return _if_given(looked_at[0]) if looked_at else None
    if isinstance(kind, inspect.VarTupleType):
        return _each(_check(kind.item_type), extra.get("most", 400))
    if isinstance(kind, inspect.TupleType):
        return _each(_check(kind.item_types[0]), len(kind.item_types))
    if isinstance(kind, inspect.DictType):
        return _values(_check(kind.value_type), extra.get("most", 2_000))
    return None


def _struct_or_text(value: Any, unit: Unit) -> Iterator[Outside]:
    if isinstance(value, msgspec.Struct):
        yield from outside(value, unit)
    elif isinstance(value, str):
        yield from _seen(value, 300)


def _length(low: float, high: float) -> Check:
    def length(value: Length, unit: Unit) -> Iterator[Outside]:
        if not math.isfinite(value.mm):
            yield "", "is no length"
        # What is still to be measured may be left at nothing meanwhile.
        elif not low <= value.mm <= high and not (value.unknown and value.mm == 0):
            yield "", _between(format_length(low, unit), format_length(high, unit))
        yield from _seen(value.typed, 80)

    return length


_wall_length = _length(10, 60_000)


def _spelled(value: Any, unit: Unit) -> Iterator[Outside]:
    """What is written as text is looked at as text."""
    yield from _seen(str(value), 300)


def _side(value: Any, unit: Unit) -> Iterator[Outside]:
    if not (math.isfinite(value.bearing) and 0 <= value.bearing < 360):
        yield "", "a wall's direction is 0 to 360 degrees"
    yield from _wall_length(value.length, unit)


def _number(low: float, high: float, words: str) -> Check:
    def number(value: float, unit: Unit) -> Iterator[Outside]:
        if not math.isfinite(value):
            yield "", "is no number"
        elif not low <= value <= high:
            yield "", words.format(value) if words else _between(f"{low:g}", f"{high:g}")

    return number


def _between(low: str, high: str) -> str:
    return f"is to be from {low} to {high}"


def _text(longest: int) -> Check:
    return lambda value, unit: _seen(value, longest)


def _seen(value: str, longest: int) -> Iterator[Outside]:
    if len(value) > longest:
        yield "", f"is longer than {longest} characters"
    elif not (value.isascii() and value.isprintable()) and any(unseen(c) for c in value):
        yield "", "holds a character that nobody can see"


def _if_given(check: Check) -> Check:
    def given(value: Any, unit: Unit) -> Iterator[Outside]:
        if value is not None:
            yield from check(value, unit)

    return given


def _each(check: Check | None, most: int) -> Check:
    def each(values: tuple[Any, ...], unit: Unit) -> Iterator[Outside]:
        if len(values) > most:
            yield "", f"holds more than {most}"
            return
        for n, value in enumerate(values if check else ()):
            assert check is not None
            for path, words in check(value, unit):
                yield _under(f"[{n}]", path), words

    return each


def _values(check: Check | None, most: int) -> Check:
    def each(values: dict[Any, Any], unit: Unit) -> Iterator[Outside]:
        if len(values) > most:
            yield "", f"holds more than {most}"
            return
        for key, value in values.items():
            if isinstance(key, str):
                yield from _seen(key, 300)
            for path, words in check(value, unit) if check else ():
                yield _under(str(key), path), words

    return each
