"""A drawing as a list of shapes.

Shapes carry classes, not colours: a style sheet says how they look on a screen, another
on paper. Coordinates are pixels of the sheet.
"""

from __future__ import annotations

import msgspec

Value = str | float | int | None


class Shape(msgspec.Struct, frozen=True):
    """One element: its tag, attributes, text and children."""

    tag: str
    attributes: tuple[tuple[str, str], ...] = ()
    text: str = ""
    children: tuple[Shape, ...] = ()


def shape(tag: str, *children: Shape | None, text: str = "", cls: str = "", **attributes: Value) -> Shape:
    """A shape; ``stroke_width=2`` becomes ``stroke-width="2"``, and None is left out."""
    given = {
        "class": cls or None,
        **{name.rstrip("_").replace("_", "-"): value for name, value in attributes.items()},
    }
    written = tuple((name, _number(value)) for name, value in given.items() if value is not None)
    return Shape(tag, written, text, tuple(c for c in children if c is not None))


def _number(value: Value) -> str:
    if isinstance(value, float):
        return f"{value:.1f}".rstrip("0").rstrip(".") if abs(value) > 0.04 else "0"
    return str(value)


def weight(found: Shape) -> int:
    """About how many bytes a shape takes in memory with all within it."""
    return 320 + 130 * len(found.attributes) + len(found.text) + sum(map(weight, found.children))


def group(name: str, *children: Shape | None, cls: str = "", **attributes: Value) -> Shape:
    """A named group, which can be replaced on its own."""
    return shape("g", *children, text="", cls=cls, id=name, **attributes)


def line(x1: float, y1: float, x2: float, y2: float, cls: str) -> Shape:
    return shape("line", x1=float(x1), y1=float(y1), x2=float(x2), y2=float(y2), cls=cls)


def circle(x: float, y: float, r: float, cls: str) -> Shape:
    return shape("circle", cx=float(x), cy=float(y), r=float(r), cls=cls)


def rect(x: float, y: float, width: float, height: float, cls: str, rx: float = 0.0) -> Shape:
    return shape(
        "rect", x=float(x), y=float(y), width=float(width), height=float(height), cls=cls, rx=rx or None
    )


def text(
    x: float, y: float, words: str, cls: str, anchor: str = "middle", transform: str | None = None
) -> Shape:
    return shape("text", text=words, x=float(x), y=float(y), cls=cls, text_anchor=anchor, transform=transform)


def path(points: list[tuple[float, float]], cls: str, close: bool = False) -> Shape:
    """A line through points."""
    steps = " ".join(
        f"{'M' if n == 0 else 'L'}{_number(float(x))} {_number(float(y))}" for n, (x, y) in enumerate(points)
    )
    return shape("path", d=steps + (" Z" if close else ""), cls=cls)


#: What makes a shape an element of a page rather than of a picture.
_LIVING = {"id", "href", "data-live", "aria-label", "role", "data-figure", "data-handle"}


def still(found: Shape, words: bool = True) -> Shape:
    """The shape as a mere picture: no links, names or titles inside it, and no text unless ``words``."""
    kept = tuple((k, v) for k, v in found.attributes if k not in _LIVING)
    dropped = ("title",) if words else ("title", "text")
    children = tuple(still(c, words) for c in found.children if c.tag not in dropped)
    tag = "g" if found.tag == "a" else found.tag
    return msgspec.structs.replace(found, tag=tag, attributes=kept, children=children)
