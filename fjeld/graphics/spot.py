"""The place of a new box: the surface drawn as it is known, and what is pencilled on it."""

from __future__ import annotations

import math

from fjeld.concealed.cut import PlacedSpot
from fjeld.drawing.errand import Spot, length_of
from fjeld.graphics.patch import Patch, patch
from fjeld.graphics.shapes import Shape
from fjeld.judge.spot import known_to
from fjeld.practice import Practice, rules
from fjeld.quantities import INCH, Unit, format_length


def pencil(unit: Unit) -> float:
    """The finest that a pencil marks, mm."""
    return 1.0 if unit == "mm" else INCH / 16


def inward(low: float, high: float, unit: Unit) -> tuple[float, float]:
    """The ends of a span as a pencil marks them, never outside it."""
    step = pencil(unit)
    return math.ceil(low / step - 1e-6) * step, math.floor(high / step + 1e-6) * step


def _inside(found: PlacedSpot) -> str:
    if found.box.round:
        return "opposite each other, both inside the circle"
    many = found.covering is not None and found.covering.corners == 4
    return f"inside {'all four' if many else 'two opposite'} corners"


def spot_drawn(found: PlacedSpot, told: Spot, practice: Practice, unit: Unit) -> Shape:
    """The surface with its members, the span for the middle of the box, and the box where it goes."""
    door = length_of(told.door)
    left = door + practice[rules.JAMB_WOOD] if door is not None else length_of(told.left)
    up = length_of(told.height)
    low, high = found.low, found.high
    if low is not None and high is not None:
        low, high = inward(low, high, unit)
    return patch(
        Patch(
            box=found.box,
            unit=unit,
            left=left,
            left_sure=known_to(told.left_by, practice),
            right=length_of(told.right),
            right_sure=known_to(told.right_by, practice),
            low=low,
            high=high,
            at=found.at,
            up=f"{format_length(up, unit)} up" if up is not None and told.surface != "ceiling" else "",
            ceiling=told.surface == "ceiling",
        )
    )


def spot_marks(found: PlacedSpot, told: Spot, practice: Practice, unit: Unit) -> list[str]:
    """What is pencilled on the surface, once the place is known."""
    if found.at is None:
        return []
    wide, high = (format_length(v, unit) for v in found.box.cut)
    marks = [
        f"A cross at {format_length(found.at, unit)} along"
        + (
            f", {format_length(up, unit)} up"
            if (up := length_of(told.height)) is not None and told.surface != "ceiling"
            else ""
        ),
        (
            f"The outline of the box in your hand, {wide} by {high} where it is a typical one, level at top"
            " and bottom"
        ),
        "Both edges of both members, an arrow up, the name of the box",
        "The same cross on the other side, and a look there before anything is cut",
    ]
    if found.covering is not None and found.covering.corners:
        x, y = (format_length(v, unit) for v in found.start)
        marks.insert(
            2,
            f"Holes to start in: {x} to each side of the cross, {y} above and below it, {_inside(found)}",
        )
    return marks
