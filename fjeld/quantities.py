"""Lengths as people write them, sums as people check them, and the one tolerance.

Inside the program a length is a float in millimetres. A figure that a person typed
is a :class:`Length`, which keeps the typed text beside its value, so that a sheet
measured in feet and sixteenths never comes back as a rounded decimal.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Literal

import msgspec

INCH = 25.4
FOOT = 304.8

#: Who assumes a measure is right to within half and twice of what is there.
ASSUMED_WITHIN = 2.0

#: Two measures closer than this (mm) are equal wherever a rule draws its limit.
TOLERANCE = 0.5
#: What sums of anything else, in³, A, kg or Ω, may be off by for being sums of floats.
ROUNDING = 1e-6

Unit = Literal["ft-in", "mm"]


def at_most(value: float, limit: float, tolerance: float = TOLERANCE) -> bool:
    """Whether ``value`` does not exceed ``limit``; exactly at the limit passes."""
    return value <= limit + tolerance


def at_least(value: float, limit: float, tolerance: float = TOLERANCE) -> bool:
    """Whether ``value`` does not fall short of ``limit``; exactly at the limit passes."""
    return value >= limit - tolerance


class UnreadableLength(ValueError):
    """A text that is no length, or that could be read in two ways. The message is one line."""

    def __init__(self, words: str) -> None:
        super().__init__("".join(c if c.isprintable() else " " for c in words))


class Written:
    """A value that files hold as people write it, not field by field; compared and hashed by its parts."""

    __slots__: tuple[str, ...] = ()

    def parts(self) -> tuple[object, ...]:
        """The values that make it up."""
        return tuple(getattr(self, name) for name in self.__slots__)

    def __eq__(self, other: object) -> bool:
        return type(other) is type(self) and isinstance(other, Written) and self.parts() == other.parts()

    def __hash__(self) -> int:
        return hash(self.parts())

    def __repr__(self) -> str:
        return f"{type(self).__name__}{self.parts()!r}"


class Length(Written):
    """A length in mm, with the text it was typed as (empty when it was computed).

    A measure nobody has taken is typed ``?``; ``mm`` is then what is assumed, which may
    stand behind it: ``? 8'``.
    """

    __slots__ = ("mm", "typed")

    def __init__(self, mm: float, typed: str = "") -> None:
        self.mm = mm
        self.typed = typed

    @property
    def inches(self) -> float:
        return self.mm / INCH

    @property
    def unknown(self) -> bool:
        """Whether it is still to be measured."""
        return self.typed.startswith("?")


def whole_number(text: str) -> int | None:
    """A whole number of at most nine plain digits; None for anything else. The one reader of counts."""
    plain = text.strip()
    return int(plain) if re.fullmatch(r"[0-9]{1,9}", plain) else None


def finite_number(text: str) -> float | None:
    """A decimal number, with a point or a comma; None for anything else, and for what is not finite."""
    plain = text.strip().replace("−", "-").replace(",", ".")
    # With as many places as a browser writes of a coordinate.
    if not re.fullmatch(r"[+-]?(?:[0-9]{1,12}(?:\.[0-9]{0,24})?|\.[0-9]{1,24})(?:e-[0-9]{1,3})?", plain):
        return None
    return float(plain)


_PLAIN = str.maketrans(
    {
        "′": "'",
        "’": "'",
        "″": '"',
        "”": '"',
        "“": '"',
        "−": "-",
        "–": "-",
        "\u00a0": " ",
        "\u202f": " ",
        "⁄": "/",
    }
)
_VULGAR = {
    "½": "1/2",
    "¼": "1/4",
    "¾": "3/4",
    "⅛": "1/8",
    "⅜": "3/8",
    "⅝": "5/8",
    "⅞": "7/8",
    "⅓": "1/3",
    "⅔": "2/3",
}
_NUMBER = r"\d+(?:\.\d+)?"
_INCHES = rf"(?:(?P<whole>{_NUMBER})(?:[ -]+(?P<num>\d+)/(?P<den>\d+))?|(?P<num2>\d+)/(?P<den2>\d+))"
_FEET_INCHES = re.compile(
    rf"^(?P<feet>{_NUMBER})\s*(?:'|ft\.?|feet|foot)\s*-?\s*(?:{_INCHES}\s*(?:\"|''|in\.?|inch(?:es)?)?)?$"
)
_INCHES_ONLY = re.compile(rf"^{_INCHES}\s*(?:\"|''|in\.?|inch(?:es)?)$")
_DASHED = re.compile(rf"^(?P<feet>\d+)-{_INCHES}\s*\"?$")
_METRIC = re.compile(r"^(?P<value>\d+(?:[.,]\d+)?)\s*(?P<unit>mm|cm|m)$")
_BARE = r"[\d., /-]+"
_QUESTIONED = re.compile(r"^\d{1,3},\d{3}\s*[a-z'\"]*$")
_GROUPED = re.compile(r"(?<=\d) (?=\d{3}(?!\d))")


def _fraction(num: str | None, den: str | None, text: str) -> float:
    if num is None or den is None:
        return 0.0
    if int(den) == 0:
        raise UnreadableLength(f"“{text}” divides by zero")
    return int(num) / int(den)


def _inch_part(found: re.Match[str], text: str) -> float:
    parts = found.groupdict()
    whole = float(parts["whole"]) if parts["whole"] else 0.0
    return whole + _fraction(parts["num"], parts["den"], text) + _fraction(parts["num2"], parts["den2"], text)


def parse_length(text: str, unit: Unit = "ft-in") -> Length:
    """Read a length; a bare number takes ``unit`` (inches under ``ft-in``).

    Raises :class:`UnreadableLength`, naming what was read, for anything else. A comma
    before exactly three digits and a unit is questioned rather than guessed. ``?`` alone
    is a length of nothing that is still to be measured; ``? 8'`` assumes 8 feet meanwhile.
    """
    if len(text) > 80:
        raise UnreadableLength(f"“{text[:40]}…” is too long to be a length")
    if text.strip().startswith("?"):
        assumed = text.strip()[1:].strip()
        if "?" in assumed:
            raise UnreadableLength(f"“{text}”: one question mark is enough; what is assumed stands after it")
        known = parse_length(assumed, unit) if assumed else Length(0.0)
        return Length(known.mm, f"? {known.typed}".strip())
    plain = _plain(text)
    bare = re.fullmatch(_BARE, plain) is not None
    millimetres = _read_imperial(plain, text)
    if millimetres is None:
        millimetres = _read_metric(plain)
    if millimetres is None and bare:
        millimetres = _read_bare(plain, unit, text)
    if millimetres is None:
        raise UnreadableLength(f"“{text}” is not a length; write it like 12'4 1/2\" or 3.77 m")
    if not math.isfinite(millimetres) or millimetres > 1e6:
        raise UnreadableLength(f"“{text}” is longer than any house")
    typed = text.strip()
    if bare:
        # What a bare number means depends on the drawing's unit; write it out once.
        typed += " mm" if unit == "mm" else '"'
    return Length(millimetres, typed)


def _plain(text: str) -> str:
    """What was typed in plain signs and single spaces; refused where it is no length at all."""
    plain = text.translate(_PLAIN)
    for sign, spelled in _VULGAR.items():
        plain = re.sub(rf"(?<=\d)\s*{sign}", f" {spelled}", plain).replace(sign, spelled)
    plain = " ".join(plain.lower().split())
    if not plain:
        raise UnreadableLength("nothing was typed where a length is wanted")
    if len(plain) > 40:
        raise UnreadableLength(f"“{text[:40]}…” is too long to be a length")
    if _QUESTIONED.match(plain):
        raise UnreadableLength(
            f"“{text}”: is the comma a decimal mark or a thousands mark? Write it without the comma"
        )
    return plain


def _read_imperial(plain: str, text: str) -> float | None:
    if found := _FEET_INCHES.match(plain):
        inches = _inch_part(found, text)
        if inches >= 12:
            raise UnreadableLength(
                f"“{text}”: beside feet, inches go to less than 12. Which of the two is meant?"
            )
        return (float(found["feet"]) * 12 + inches) * INCH
    if found := _INCHES_ONLY.match(plain):
        return _inch_part(found, text) * INCH
    if found := _DASHED.match(plain):
        return (int(found["feet"]) * 12 + _inch_part(found, text)) * INCH
    return None


def _read_metric(plain: str) -> float | None:
    found = _METRIC.match(_GROUPED.sub("", plain))
    if not found:
        return None
    scale = {"mm": 1.0, "cm": 10.0, "m": 1000.0}[found["unit"]]
    return float(found["value"].replace(",", ".")) * scale


def _read_bare(plain: str, unit: Unit, text: str) -> float | None:
    if unit == "mm":
        grouped = _GROUPED.sub("", plain)
        return float(grouped.replace(",", ".")) if re.fullmatch(r"\d+(?:[.,]\d+)?", grouped) else None
    found = re.fullmatch(_INCHES, plain)
    return _inch_part(found, text) * INCH if found else None


def not_measured(assumed: Length, unit: Unit = "ft-in") -> Length:
    """The length as a measure still to be taken, what stood there being assumed meanwhile."""
    plain = assumed.typed.removeprefix("?").strip() or format_length(assumed.mm, unit)
    return parse_length(f"? {plain}", unit)


class Measure(msgspec.Struct, frozen=True):
    """A length split for printing: ``4' 6 1/2"`` is feet 4, inches 6, fraction 1/2."""

    negative: bool
    feet: int
    inches: int
    numerator: int
    denominator: int


def split_imperial(mm: float, step: int = 16) -> Measure:
    """Round ``mm`` half up to 1/``step`` inch and split it, with carry and reduction."""
    steps = math.floor(abs(mm) / INCH * step + 0.5 + 1e-9)
    inches, rest = divmod(steps, step)
    fraction = Fraction(rest, step)
    return Measure(mm < 0 and steps > 0, inches // 12, inches % 12, fraction.numerator, fraction.denominator)


def format_length(mm: float, unit: Unit = "ft-in", step: int = 16) -> str:
    """Print ``mm`` as ``4' 6 1/2"`` or ``1372 mm``."""
    if unit == "mm":
        return f"{math.copysign(math.floor(abs(mm) + 0.5), mm):.0f} mm".replace("-0 ", "0 ")
    measure = split_imperial(mm, step)
    parts = [f"{measure.feet}'"] if measure.feet else []
    fraction = f"{measure.numerator}/{measure.denominator}" if measure.numerator else ""
    if fraction and not measure.inches:
        parts.append(f'0 {fraction}"' if measure.feet else f'{fraction}"')
    elif measure.inches or fraction or not measure.feet:
        parts.append(f'{measure.inches}{" " + fraction if fraction else ""}"')
    return ("-" if measure.negative else "") + " ".join(parts)


def coarse(mm: float, unit: Unit = "ft-in") -> str:
    """A way or a piece of cable as a person pulls it: to the half foot, or to 10 cm."""
    if unit == "mm":
        return f"{math.floor(mm / 100 + 0.5) / 10:.1f} m"
    halves = math.floor(mm / FOOT * 2 + 0.5)
    if halves < 4:
        # Less than that is told to the inch.
        return format_length(mm, unit, 1)
    return f"{halves // 2}' 6\"" if halves % 2 else f"{halves // 2}'"


class Known(msgspec.Struct, frozen=True):
    """A figure, and the readings that it rests on: none where it is known, some where it is assumed
    meanwhile.
    """

    value: float
    rests_on: tuple[str, ...] = ()


class Line(msgspec.Struct, frozen=True):
    """One line of a sum: ``count × each``, what it counts, and the things counted.

    ``rests_on`` are the readings that would settle it, where something in it is assumed.
    """

    count: float
    each: float
    what: str
    handles: tuple[str, ...] = ()
    rests_on: tuple[str, ...] = ()

    @property
    def amount(self) -> float:
        return self.count * self.each


class Working(msgspec.Struct, frozen=True):
    """A sum that is both computed and shown: its total *is* the sum of its lines.

    ``round_up`` (same unit) rounds the total up to its next multiple, as cable is cut.
    ``in_proportion`` tells that each line grows with the measures it rests on and no faster.
    """

    title: str
    unit: str
    lines: tuple[Line, ...]
    round_up: float = 0.0
    in_proportion: bool = False

    @property
    def exact(self) -> float:
        return math.fsum(line.amount for line in self.lines)

    @property
    def rests_on(self) -> tuple[str, ...]:
        """The readings that it waits for, each once; empty where all of it is known."""
        return tuple(dict.fromkeys(reading for line in self.lines for reading in line.rests_on))

    @property
    def at_most(self) -> float:
        """What it cannot come to more than, though all that is assumed in it were half of what is there."""
        if self.rests_on and not self.in_proportion:
            return math.inf
        return math.fsum(line.amount * (ASSUMED_WITHIN if line.rests_on else 1.0) for line in self.lines)

    @property
    def total(self) -> float:
        if not self.round_up:
            return self.exact
        return math.ceil(self.exact / self.round_up - 1e-9) * self.round_up


class Passes(msgspec.Struct, frozen=True, tag=True):
    """The rule was looked at and is met."""


class Fails(msgspec.Struct, frozen=True, tag=True):
    """The rule was looked at and is not met."""


class NotKnown(msgspec.Struct, frozen=True, tag=True):
    """The rule cannot be decided until ``reading`` is taken."""

    reading: str


Verdict = Passes | Fails | NotKnown


def verdict_at_most(value: float, limit: float, tolerance: float = 1e-6) -> Verdict:
    """Pass when ``value`` is at most ``limit`` (units of the caller, tolerance included)."""
    return Passes() if at_most(value, limit, tolerance) else Fails()


def format_area(square_metres: float, unit: Unit) -> str:
    """A floor area for printing, in square feet or square metres."""
    return f"{square_metres:.2f} m²" if unit == "mm" else f"{square_metres / 0.09290304:.0f} ft²"
