"""Ways through closed construction, what can block them, and what is asked of them, as data."""

from __future__ import annotations

from functools import cache
from typing import Literal

import msgspec

from fjeld.practice import Practice, rules
from fjeld.practice.finished import read_table
from fjeld.practice.finished.spots import Ask

MeasureName = Literal["transfer", "sounding", "eave", "wood", "patch", "masonry"]


class WayKind(msgspec.Struct, frozen=True):
    """A way: what it leaves behind, once and for ``each`` member crossed, how many legs are ``blind``, the
    wood ``through`` which its bit goes, whether it stays ``in_sight``, what keeps it in a ``zone``;
    ``measures`` are the single questions that belong to it.
    """

    id: str
    name: str
    how: str
    blockers: tuple[str, ...] = ()
    measures: tuple[MeasureName, ...] = ()
    holes: int = 0
    each_hole: int = 0
    each_plate: int = 0
    patches: int = 0
    fills: int = 0
    blind: int = 0
    hands: int = 1
    through: Literal["", "plates", "floor"] = ""
    in_sight: bool = False
    zone: str = ""

    def told(self, practice: Practice) -> str:
        """How it is done; where cables lie hidden in zones, what keeps it in one."""
        return f"{self.how} {self.zone}" if self.zone and rules.CABLE_ZONES in practice else self.how


class Blocker(msgspec.Struct, frozen=True):
    """Something that can be in the way, and how one looks for it first."""

    id: str
    words: str
    look: str


class WayData(msgspec.Struct, frozen=True):
    """Every way, every blocker, every question, and every measure of a way that was taken."""

    way: tuple[WayKind, ...]
    blocker: tuple[Blocker, ...]
    ask: tuple[Ask, ...]
    measure: tuple[Ask, ...]

    def kind(self, id_: str) -> WayKind:
        """A way by id; raises ``KeyError``."""
        return {w.id: w for w in self.way}[id_]


@cache
def way_data() -> WayData:
    """The ways."""
    return msgspec.convert(read_table("ways.toml"), WayData)
