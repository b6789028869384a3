"""A conductor as it is drawn anywhere: in its true colour."""

from __future__ import annotations

from fjeld.formats.sheet import Shape, shape

COLOURS = {
    "BK": "black",
    "WH": "white",
    "RD": "red",
    "BU": "blue",
    "BN": "brown",
    "GY": "slate",
    "OG": "orange",
    "G": "bare",
    "?": "unseen",
}


def wire(d: str, colour: str, mark: str = "", current: bool = False, grey: bool = False) -> list[Shape | None]:
    """A conductor in its true colour, outlined in two tones so that it shows on any ground."""
    found: list[Shape | None] = []
    if current:
        found.append(shape("path", d=d, cls="wire-current"))
    name = "grey" if grey else COLOURS[colour]
    found += [shape("path", d=d, cls="wire-outline"), shape("path", d=d, cls=f"wire wire-{name}")]
    if mark and not grey:
        found.append(shape("path", d=d, cls=f"wire-mark wire-{COLOURS[mark]}"))
    return found
