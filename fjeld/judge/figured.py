"""Figures that a test is to show: what each is, and what of it holds the gate shut."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache

import msgspec

from fjeld.judge.answer import NotAsked
from fjeld.practice.finished import read_table

#: What an insulation meter shows beyond its range.
BEYOND = 1e6


class Figured(msgspec.Struct, frozen=True):
    """A figure that a test is to show, by its ``id``. Below the ``least`` or above the ``most`` it holds the
    gate shut; ``expected`` is what the plan comes to, where it says, in ``unit``.
    """

    id: str
    words: str
    unit: str
    least: float | None = None
    most: float | None = None
    expected: float | None = None

    def read(self, typed: str) -> float:
        """What was typed, as a meter shows it, ``>999`` and ``OL`` for beyond its range; raises
        :class:`NotAsked`.
        """
        # A unit by its own letters: of milliohms and megohms only the capital tells which.
        text = typed.strip().removesuffix(self.unit).strip()
        if text.upper() == "OL" and self.least is not None:
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
                f"{self.words}: {value:g} {self.unit}, where the cables alone come to"
                f" {self.expected or 0:.2g}"
            )
        return ""


class Through(msgspec.Struct, frozen=True):
    """How far a joint-to-joint reading may be above what its cables come to: by a factor, and by what leads
    and joints add, Ω.
    """

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


class Loop(msgspec.Struct, frozen=True):
    """What a cold loop may come to of the most by its table, and how soon a device trips, ms."""

    share: float
    trips: float


@cache
def _loop() -> Loop:
    return msgspec.convert(read_table("tests.toml")["loop"], Loop)


def bad(reading: str, read: Mapping[str, float]) -> str:
    """Why the figures of a reading of the circuit say no; empty where they do not."""
    match reading:
        case "R7":
            return _bad_ground(read)
        case "R18":
            if read.get("megohms", BEYOND) < (least := _table()["insulation"].least or 0.0):
                return f"insulation {read['megohms']:g} MΩ, below {least:g}: find out why first"
        case "R20":
            return _bad_loop(read)
        case "R21":
            if read.get("bonded", 1.0) < 1.0:
                return "the main earth or its bonding is not as it must be: that comes first"
    return ""


def _bad_ground(read: Mapping[str, float]) -> str:
    ohms, expected, volts = (read.get(name) for name in ("ohms", "expected", "volts"))
    if ohms is not None and expected is not None and ohms > expected + through().beside:
        return (
            f"its ground reads {ohms:g} Ω where the way comes to {expected:g}: it is none, or a joint"
            " in it is bad"
        )
    if volts is not None and volts <= 0.0:
        return "nothing at all from neutral to ground under load: the two are tied together here"
    return ""


def _bad_loop(read: Mapping[str, float]) -> str:
    limit, most = _loop(), read.get("most")
    if most is not None and read.get("loop", 0.0) > limit.share * most:
        return f"the loop reads {read['loop']:g} Ω, over {limit.share:g} of the {most:g} of its table"
    if read.get("trips", 0.0) > limit.trips:
        return f"its device trips in {read['trips']:g} ms, later than {limit.trips:g}"
    return ""


def known_figures() -> tuple[str, ...]:
    """The ids of all figures that tests are to show."""
    return tuple(_table())


def figured(
    names: tuple[str, ...], words: dict[str, str], expected: float | None = None
) -> tuple[Figured, ...]:
    """The figures of those names, in a practice's words; ``expected`` is a conductor's from end to end by the
    plan, Ω.
    """
    found = []
    for name in names:
        mine = _table()[name]
        mine = msgspec.structs.replace(mine, words=mine.words.format(**words))
        if name == "through" and expected is not None:
            most = through().factor * expected + through().beside
            mine = msgspec.structs.replace(mine, expected=expected, most=most)
        found.append(mine)
    return tuple(found)
