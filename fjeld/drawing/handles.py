"""Handles: short names, unique in a job, that stay with a thing for its whole life.

The letter tells the kind (``S12`` a switch position, ``C4`` a cable). Numbers only
rise; a job keeps its counters apart from the drawing, so that a handle once given
is never given again, not even after the thing was taken away.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import NewType, Protocol

Handle = NewType("Handle", str)

#: The one item that is always there: the job's own choices.
HOUSE = Handle("house")

PREFIXES = {
    "room": "R",
    "door": "D",
    "window": "W",
    "panel": "P",
    "light": "A",
    "switch": "S",
    "outlet": "O",
    "alarm": "V",
    "fan": "F",
    "junction": "J",
    "control": "K",
    "circuit": "Q",
    "cable": "C",
    "blank": "J",
    "storey": "L",
    "join": "G",
    "body": "B",
    "old box": "E",
    "photometry": "I",
    "underlay": "U",
}

_FORM = re.compile(r"([A-Z])([1-9][0-9]{0,5})")


def is_handle(text: str) -> bool:
    """Whether ``text`` has the form of a handle."""
    return bool(_FORM.fullmatch(text)) or text == HOUSE


@lru_cache(maxsize=65536)
def order(handle: str) -> tuple[str, int, str]:
    """A sort key that puts ``S2`` before ``S12``, and structural keys after their base."""
    found = re.match(r"^([A-Za-z]+)(\d*)(.*)$", handle)
    if not found:
        return handle, 0, ""
    return found[1], int(found[2] or 0), found[3]


class Fresh(Protocol):
    """Whatever gives out names for new things: a mint its handles, a sketch its drafts."""

    def fresh(self, kind: str) -> Handle:
        """The next name for ``kind`` (a key of :data:`PREFIXES`)."""
        ...


class Mint:
    """Gives out fresh handles above all that ``taken`` and ``counters`` have used."""

    def __init__(self, taken: Iterable[str], counters: Mapping[str, int] | None = None) -> None:
        self.counters: dict[str, int] = dict(counters or {})
        self.note(taken)

    def note(self, taken: Iterable[str]) -> None:
        """Give out nothing up to these handles any more."""
        for handle in taken:
            if found := _FORM.fullmatch(handle):
                self.counters[found[1]] = max(self.counters.get(found[1], 0), int(found[2]))

    def fresh(self, kind: str) -> Handle:
        """The next handle for ``kind`` (a key of :data:`PREFIXES`)."""
        return self.next(PREFIXES[kind])

    def next(self, prefix: str) -> Handle:
        """The next handle with that letter."""
        self.counters[prefix] = self.counters.get(prefix, 0) + 1
        return Handle(f"{prefix}{self.counters[prefix]}")
