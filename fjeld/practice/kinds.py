"""What a rule's value can be, how the data writes it, and what the program reads from it.

Data carry their unit in the text: ``"6 ft"``, ``"250 mm"``, ``"0.25 of depth"``. A kind takes
such a text apart into the number and unit that people see and amend, and gives the program
the value in its own unit: lengths in mm, currents in A, weights in kg, areas in m².
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, Generic, TypeVar, overload

from fjeld.quantities import FOOT, INCH

T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)
A = TypeVar("A")
B = TypeVar("B")

#: Millimetres to a unit that a rule or a list is written in.
MM = {"in": INCH, "ft": FOOT, "mm": 1.0, "m": 1000.0}
KG_PER_LB = 0.45359237
SQUARE_METRES_PER_SQUARE_FOOT = 0.09290304

_WRITTEN = re.compile(r"(-?[0-9]+(?:\.[0-9]+)?) (\S.*)")


class WrongKind(ValueError):
    """A value that is not written as its rule asks; one line that says what was wanted."""


class Kind(Generic[T_co]):
    """One kind of value: ``split`` reads the data's text, ``read`` what the program reckons with."""

    def split(self, written: Any) -> tuple[Any, str]:
        """The value in numbers as people amend it, and its unit (several are parted by commas); raises
        :class:`WrongKind`.
        """
        raise NotImplementedError

    def read(self, value: Any, unit: str) -> T_co:
        """The program's value of what :meth:`split` gave, or of an amendment in its place."""
        raise NotImplementedError


class Quantity(Kind[float]):
    """A number with one of some units; ``units`` says what each is in the program's own."""

    def __init__(self, units: Mapping[str, float]) -> None:
        self.units = units

    def split(self, written: Any) -> tuple[Any, str]:
        found = _WRITTEN.fullmatch(written) if isinstance(written, str) else None
        if found is None or found[2] not in self.units:
            raise WrongKind(f"{written!r} is not a number with one of {', '.join(self.units)}")
        return (int(found[1]) if found[1].lstrip("-").isdigit() else float(found[1])), found[2]

    def read(self, value: Any, unit: str) -> float:
        return float(value) * self.units[unit]


class Count(Kind[int]):
    """A whole number of things."""

    def __init__(self, *things: str) -> None:
        self.things = things

    def split(self, written: Any) -> tuple[Any, str]:
        value, unit = Quantity(dict.fromkeys(self.things, 1.0)).split(written)
        if not isinstance(value, int):
            raise WrongKind(f"{written!r} is not a whole number")
        return value, unit

    def read(self, value: Any, unit: str) -> int:
        return int(value)


class Several(Kind[tuple[Any, ...]]):
    """So many values in their order, each of its own kind."""

    def __init__(self, *of: Kind[Any]) -> None:
        self.of = of

    def split(self, written: Any) -> tuple[Any, str]:
        if not isinstance(written, list) or len(written) != len(self.of):
            raise WrongKind(f"{written!r} is not a list of {len(self.of)}")
        found = [kind.split(each) for kind, each in zip(self.of, written, strict=True)]
        units = [unit for _, unit in found]
        return [value for value, _ in found], units[0] if len(set(units)) == 1 else ", ".join(units)

    def read(self, value: Any, unit: str) -> tuple[Any, ...]:
        units = unit.split(", ") if ", " in unit else [unit] * len(self.of)
        return tuple(k.read(v, u) for k, v, u in zip(self.of, value, units, strict=True))


class Each(Kind[dict[str, T]]):
    """A value of one kind by name: by gauge, by the use of a room."""

    def __init__(self, of: Kind[T]) -> None:
        self.of = of

    def split(self, written: Any) -> tuple[Any, str]:
        if not isinstance(written, dict):
            raise WrongKind(f"{written!r} is no table")
        found = {name: self.of.split(each) for name, each in written.items()}
        units = {unit for _, unit in found.values()}
        if len(units) > 1:
            raise WrongKind(f"{written!r} has several units: {', '.join(sorted(units))}")
        return {name: value for name, (value, _) in found.items()}, units.pop() if units else ""

    def read(self, value: Any, unit: str) -> dict[str, T]:
        return {name: self.of.read(each, unit) for name, each in value.items()}


class Rows(Kind[tuple[T, ...]]):
    """A table of rows, all of one kind."""

    def __init__(self, of: Kind[T]) -> None:
        self.of = of

    def split(self, written: Any) -> tuple[Any, str]:
        if not isinstance(written, list) or not written:
            raise WrongKind(f"{written!r} has no rows")
        found = [self.of.split(row) for row in written]
        return [value for value, _ in found], found[0][1]

    def read(self, value: Any, unit: str) -> tuple[T, ...]:
        return tuple(self.of.read(row, unit) for row in value)


class Plain(Kind[T]):
    """A value without a unit: a word, a list of words, yes or no, or nothing at all."""

    def __init__(self, fits: Callable[[Any], bool], read: Callable[[Any], T], wanted: str) -> None:
        self._fits, self._read, self._wanted = fits, read, wanted

    def split(self, written: Any) -> tuple[Any, str]:
        if not self._fits(written):
            raise WrongKind(f"{written!r} is not {self._wanted}")
        return written, ""

    def read(self, value: Any, unit: str) -> T:
        return self._read(value)


def _is_words(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(v, str) for v in value)


LENGTH = Quantity(MM)
AMPS = Quantity({"A": 1.0, "mA": 1e-3})
VOLTS = Quantity({"V": 1.0})
VOLT_AMPERES = Quantity({"VA": 1.0})
OHMS = Quantity({"Ω": 1.0})
LUX = Quantity({"lx": 1.0})
KILOGRAMS = Quantity({"kg": 1.0, "lb": KG_PER_LB})
AREA = Quantity({"m²": 1.0, "ft²": SQUARE_METRES_PER_SQUARE_FOOT})
CUBIC_INCHES = Quantity({"in³": 1.0})
SHARE = Quantity({"share": 1.0, "factor": 1.0, "of depth": 1.0, "× rating": 1.0})
PERCENT = Quantity({"%": 1.0})
HEAT = Quantity({"W/m²K": 1.0})
PARTS = Quantity({"parts": 1.0})
DEGREES = Quantity({"°": 1.0})
SECONDS = Quantity({"s": 1.0})
MINUTES = Quantity({"min": 1.0, "h": 60.0})
COUNT = Count(
    "cable", "cables", "circuits", "alarms", "outlets", "sockets", "conductor", "conductors", "wires"
)
DIGIT = Count("X")
#: A rule that says yes or no of itself and has no value.
YES: Kind[None] = Plain(lambda v: v is None, lambda _: None, "without a value")
FLAG: Kind[bool] = Plain(lambda v: isinstance(v, bool), bool, "true or false")
WORD: Kind[str] = Plain(lambda v: isinstance(v, str), str, "a word")
NAMES: Kind[tuple[str, ...]] = Plain(_is_words, tuple, "a list of words")


@overload
def several(first: Kind[A], second: Kind[B], /) -> Kind[tuple[A, B]]: ...
@overload
def several(first: Kind[A], second: Kind[A], third: Kind[A], /) -> Kind[tuple[A, A, A]]: ...
def several(*of: Kind[Any]) -> Kind[Any]:
    """Two or three values in their order."""
    return Several(*of)


def each(of: Kind[T]) -> Kind[dict[str, T]]:
    """A value of one kind by name."""
    return Each(of)


def rows(of: Kind[T]) -> Kind[tuple[T, ...]]:
    """A table of rows."""
    return Rows(of)


#: Rows of a breaker's curve: so many times its rating opens it in so many seconds.
CURVE = rows(several(SHARE, SECONDS))
