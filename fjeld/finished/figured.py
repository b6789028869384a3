"""Figures that a test is to show: what each is, and what of it holds the gate shut."""

from __future__ import annotations

import re
from functools import cache

import msgspec

from fjeld.finished.answer import NotAsked
from fjeld.practice.finished import read_table

#: What an insulation meter shows beyond its range.
BEYOND = 1e6


class Figured(msgspec.Struct, frozen=True):
    """A figure that a test is to show, by its ``id``. Below the ``least`` or above the ``most`` it holds the gate shut;
    ``expected`` is what the plan comes to, where it says, in ``unit``."""

    id: str
    words: str
    unit: str
    least: float | None = None
    most: float | None = None
    expected: float | None = None

    def read(self, typed: str) -> float:
        """What was typed, as a meter shows it, ``>999`` and ``OL`` for beyond its range; raises :class:`NotAsked`."""
        text = typed.strip().lower().removesuffix(self.unit.lower()).strip()
        if text == "ol" and self.least is not None:
            return BEYOND
        said = re.fullmatch(r">?\s*(\d{1,6}(?:[.,]\d{1,4})?)", text)
        if not said:
            raise NotAsked(
                f"{self.words}: “{typed[:20]}” is not a reading; write it as the meter shows it, 0.35"
            )
        return float(said[1].replace(",", "."))

    def against(self, value: float) -> str:
        """Why a value holds the gate shut; empty where it does not."""
        if self.least is not None and value < self.least:
            return f"{self.words}: {value:g} {self.unit}, at least {self.least:g} is asked"
        if self.most is not None and value > self.most:
            return (
                f"{self.words}: {value:g} {self.unit}, where the cables alone come to {self.expected or 0:.2g}"
            )
        return ""


class Through(msgspec.Struct, frozen=True):
    """How far a joint-to-joint reading may be above what its cables come to: by a factor, and by what leads and joints add, Ω."""

    factor: float
    beside: float


@cache
def _table() -> dict[str, Figured]:
    found = msgspec.convert(read_table("tests.toml")["figure"], tuple[Figured, ...])
    return {f.id: f for f in found}


@cache
def through() -> Through:
    """What is allowed on a reading of a conductor from end to end."""
    return msgspec.convert(read_table("tests.toml")["through"], Through)


def figured(
    names: tuple[str, ...], words: dict[str, str], expected: float | None = None
) -> tuple[Figured, ...]:
    """The figures of those names, in a practice's words; ``expected`` is a conductor's from end to end by the plan, Ω."""
    found = []
    for name in names:
        mine = _table()[name]
        mine = msgspec.structs.replace(mine, words=mine.words.format(**words))
        if name == "through" and expected is not None:
            most = through().factor * expected + through().beside
            mine = msgspec.structs.replace(mine, expected=expected, most=most)
        found.append(mine)
    return tuple(found)
