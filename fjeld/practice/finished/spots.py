"""What is asked before a box is cut in, and how each surface is cut, as data."""

from __future__ import annotations

from functools import cache
from typing import Literal

import msgspec

from fjeld.practice import Practice
from fjeld.practice.finished import read_table

AskKind = Literal["choice", "edge", "length", "count", "box", "seen", "yes", "rise"]


class Found(msgspec.Struct, frozen=True):
    """What it means where something is there: its tone, its words, and the clauses by practice."""

    tone: Literal["fails", "danger", "ask", "advice"]
    words: str
    na: str = ""
    gb: str = ""

    def basis(self, practice: Practice) -> str:
        """The clauses under a practice."""
        found: str = getattr(self, practice.tables, "")
        return found


class Ask(msgspec.Struct, frozen=True):
    """One question: ``options`` are answers with their words; ``surface``, ``of`` and ``practice`` narrow
    where it is asked, and so does ``after``: what was looked for and is there. Of ``end`` it is asked at each
    end of a way.
    """

    id: str
    words: str
    kind: AskKind
    why: str = ""
    options: tuple[str, ...] | dict[str, str] = ()
    surface: str = ""
    of: tuple[str, ...] = ()
    practice: str = ""
    after: str = ""
    end: bool = False
    there: Found | None = None


#: The covering that a bit goes through, not a saw.
MASONRY = "veneer brick or block"


class Covering(msgspec.Struct, frozen=True):
    """A surface: how its outline is drawn, how the cut starts (inside how many ``corners``) and goes on;
    ``time`` its step.
    """

    id: str
    outline: str
    start: str
    saw: str
    time: str
    corners: int
    note: str = ""


class Spots(msgspec.Struct, frozen=True):
    """Every question of a spot in its order, and every surface."""

    ask: tuple[Ask, ...]
    covering: tuple[Covering, ...]


@cache
def spots() -> Spots:
    """The questions and the surfaces."""
    return msgspec.convert(read_table("spot.toml"), Spots)
