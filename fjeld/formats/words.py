"""Words typed while walking a house: ``12'4``, ``door 32 at 4'2``, ``through D1 on 4 at 3'``.

One line is one edit. Anything that cannot be read raises :class:`Misread` with what was
expected, and nothing is lost.
"""

from __future__ import annotations

import re

from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.survey import WalkSide
from fjeld.drawing.handles import Mint
from fjeld.formats.survey_words import WORDS, Misread, Walk
from fjeld.geometry import BEARINGS
from fjeld.quantities import UnreadableLength, parse_length

__all__ = ["WORDS", "Misread", "Walk", "next_bearing", "read"]


def next_bearing(room: Room) -> float:
    """A right turn from the last wall; the first goes east."""
    return (room.sides[-1].bearing + 90) % 360 if room.sides else 90.0


def read(words: str, walk: Walk, mint: Mint) -> Edit:
    """The edit that a typed line means; raises :class:`Misread` or :class:`UnreadableLength`."""
    line = words.strip().removeprefix("/").strip()
    if not line:
        raise Misread("type a length, or a word such as door, window, through, room, panel, counter, height")
    head, _, rest = line.partition(" ")
    reader = WORDS.get(head.lower())
    if reader:
        return reader(rest.strip(), walk, mint)
    if head.upper() in BEARINGS and rest:
        return WalkSide(walk.room, BEARINGS[head.upper()], parse_length(rest, walk.unit))
    try:
        return WalkSide(walk.room, walk.bearing, parse_length(line, walk.unit))
    except UnreadableLength as error:
        if re.match(r"^[A-Za-z]", head):
            raise Misread(f"“{head}” is no word here; there is {', '.join(WORDS)}") from None
        raise error from None
