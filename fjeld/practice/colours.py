"""Colours of conductors: their codes, and what people write for them."""

from __future__ import annotations

#: The name of each code. Bare copper is a ground, and so is what is sleeved in a ground's colours.
NAMES = {
    "BK": "black",
    "WH": "white",
    "RD": "red",
    "BU": "blue",
    "BN": "brown",
    "GY": "grey",
    "OG": "orange",
    "G": "bare",
}
#: A colour that nobody has told.
NOT_SEEN = "?"
_ALSO = {
    "gray": "GY",
    "slate": "GY",
    "green": "G",
    "green-yellow": "G",
    "green and yellow": "G",
    "earth": "G",
    "ground": "G",
}
_CODES = {name: code for code, name in NAMES.items()} | _ALSO


def code_of(words: str) -> str:
    """The code of a colour by what people write for it, :data:`NOT_SEEN` where it is none."""
    return _CODES.get(words.strip().lower(), NOT_SEEN)
