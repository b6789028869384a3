"""A conductor as it is drawn anywhere: in its true colour."""

from __future__ import annotations

from fjeld.graphics.shapes import Shape, shape
from fjeld.practice.colours import NAMES


def wire(
    d: str, colour: str, mark: str = "", current: bool = False, grey: bool = False
) -> list[Shape | None]:
    """A conductor in its true colour, outlined in two tones so that it shows on any ground."""
    found: list[Shape | None] = []
    if current:
        found.append(shape("path", d=d, cls="wire-current"))
    name = "off" if grey else NAMES.get(colour, "unseen")
    found += [shape("path", d=d, cls="wire-outline"), shape("path", d=d, cls=f"wire wire-{name}")]
    if mark and not grey:
        found.append(shape("path", d=d, cls=f"wire-mark wire-{NAMES[mark]}"))
    return found
