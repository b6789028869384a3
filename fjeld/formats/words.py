"""Words typed while walking a house: ``12'4``, ``door 32 at 4'2``, ``through D1 on 4 at 3'``.

One line is one edit. Anything that cannot be read raises :class:`Misread` with what was
expected, and nothing is lost.
"""

from __future__ import annotations

import difflib
import re

from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.survey import WalkSide
from fjeld.drawing.handles import Fresh
from fjeld.formats.survey_words import WORDS, Misread, Walk
from fjeld.geometry import BEARINGS
from fjeld.quantities import UnreadableLength, finite_number, parse_length

__all__ = ["WORDS", "Misread", "Walk", "next_bearing", "read"]


def next_bearing(room: Room) -> float:
    """A right turn from the last wall; the first goes east."""
    return (room.sides[-1].bearing + 90) % 360 if room.sides else 90.0


#: What is no wall of the house but a box on it.
_PLACED_IN_LAYOUT = frozenset(
    {
        "light",
        "lamp",
        "pendant",
        "fan",
        "switch",
        "outlet",
        "socket",
        "alarm",
        "junction",
        "blank",
        "receptacle",
    }
)
_UNIT = re.compile(r"['\"′″’”]|\b(?:mm|cm|m|ft|in)\b|[0-9](?:mm|cm|m|ft|in)\b", re.IGNORECASE)
_SKEW = {"NE": 45.0, "SE": 135.0, "SW": 225.0, "NW": 315.0}


def read(words: str, walk: Walk, mint: Fresh) -> Edit:
    """The edit that a typed line means; raises :class:`Misread` or :class:`UnreadableLength`.

    A wall runs where the tape was turned to, or where its words say: ``N 12'4``, ``SE 4'2``,
    or skew by the compass, ``112.5 4'2``, with the unit written so that no length is taken for it.
    """
    line = words.strip().removeprefix("/").strip()
    if not line:
        raise Misread("type a length, or a word such as door, window, through, room, panel, counter, height")
    if len(line) > 200:
        raise Misread("that is too long for one line of a notebook")
    head, _, rest = line.partition(" ")
    reader = WORDS.get(head.lower())
    if reader:
        return reader(rest.strip(), walk, mint)
    ways = {**BEARINGS, **_SKEW}
    if head.upper() in ways and rest:
        return WalkSide(walk.room, ways[head.upper()], parse_length(rest, walk.unit))
    try:
        return WalkSide(walk.room, walk.bearing, parse_length(line, walk.unit))
    except UnreadableLength as error:
        if re.match(r"^[A-Za-z]", head):
            raise Misread(_no_word(head)) from None
        bearing = finite_number(head)
        if bearing is not None and 0 <= bearing < 360 and _UNIT.search(rest):
            return WalkSide(walk.room, bearing, parse_length(rest, walk.unit))
        raise error from None


def _no_word(head: str) -> str:
    if head.lower().rstrip("s") in _PLACED_IN_LAYOUT:
        return (
            f"a {head.lower()} is placed in Layout; here the tape notes walls, openings and what stands there"
        )
    near = difflib.get_close_matches(head.lower(), WORDS, 1, 0.6)
    if near:
        return f"“{head[:20]}” is no word here; is “{near[0]}” meant?"
    return (
        f"“{head[:20]}” is no word here. Type a length, or door, window, through, room, panel, counter,"
        " height; ? lists the keys"
    )
