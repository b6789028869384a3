"""What may feed what, and what it costs to find out or to change, as data."""

from __future__ import annotations

from functools import cache

import msgspec

from fjeld.practice import Practice
from fjeld.practice.finished import read_table


class Feeds(msgspec.Struct, frozen=True):
    """What a kind of circuit may feed: points, in rooms if only in some, ``alone`` where it feeds nothing
    else, ``fused`` what it feeds only through a fused unit; and why not the rest.
    """

    feeds: tuple[str, ...]
    rooms: tuple[str, ...] = ()
    alone: tuple[str, ...] = ()
    fused: tuple[str, ...] = ()
    why: str = ""
    basis: str = ""


class OwnCircuits(msgspec.Struct, frozen=True):
    """The circuits that a room's outlets are on: ``all`` of them, or those that are asked for there."""

    circuits: tuple[str, ...]
    why: str
    basis: str
    all: bool = False


class Changes(msgspec.Struct, frozen=True):
    """Minutes that a change costs."""

    box: float
    ring: float
    breaker: float
    protection: float
    conductors: float


class Chances(msgspec.Struct, frozen=True):
    """How likely a gate is open before anyone has looked; ``earth`` by practice: a year, the chance from it
    on, and before.
    """

    line_outlet: float
    line_switch: float
    line_light: tuple[float, float, float]
    neutral: float
    earth: dict[str, tuple[float, float, float]]
    worth: float

    def of_earth(self, practice: Practice) -> tuple[float, float, float]:
        """The year, and the chances from it on and before, under a practice."""
        return self.earth[practice.tables]


class Sheath(msgspec.Struct, frozen=True):
    """A kind of cable and its age: why work stops at it, whether it brings no ground, and what is to be known
    of it.
    """

    words: str
    stop: str = ""
    bare: bool = False
    note: str = ""


class Local(msgspec.Struct, frozen=True):
    """What is of one practice: kinds of circuit, rooms whose outlets have circuits of their ``own``, the VA
    that a new point adds where nobody says, and kinds of cable.

    ``fuse`` is that of a fused unit for lights, A, and ``after_fuse`` the thinnest cable behind it.
    """

    circuits: dict[str, Feeds]
    adds: dict[str, float]
    sheaths: dict[str, Sheath]
    own: dict[str, OwnCircuits] = {}
    fuse: float = 0.0
    after_fuse: str = ""


class Sources(msgspec.Struct, frozen=True):
    """All of it."""

    na: Local
    gb: Local
    changes: Changes
    chances: Chances

    def local(self, practice: Practice) -> Local:
        """What is of a practice."""
        found: Local = getattr(self, practice.tables)
        return found


@cache
def sources() -> Sources:
    """The data of sources."""
    return msgspec.convert(read_table("sources.toml"), Sources)
