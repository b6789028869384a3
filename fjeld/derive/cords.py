"""Pendant cords: how long, so that the shade hangs right over the thing it lights.

Cord = ceiling − top of the thing − clearance − shade. Several cords of one group are cut to
one length with a little spare each, to level them when they hang.
"""

from __future__ import annotations

from fjeld.drawing.building import Body
from fjeld.drawing.model import Fitting
from fjeld.practice import Practice, rules
from fjeld.quantities import INCH, Line, Working

#: Left on each cord to level it by, mm.
SPARE = 3 * INCH
#: A shade until its sheet is typed in, mm.
USUAL_SHADE = 200.0


def clearance(sheet: Fitting | None, practice: Practice) -> float:
    """From the thing's top to the shade's lower edge, mm: as chosen, else the practice's habit."""
    return sheet.clearance.mm if sheet and sheet.clearance else practice[rules.PENDANT_CLEAR]


def drop(ceiling: float, below: Body, sheet: Fitting | None, practice: Practice) -> float:
    """From the ceiling to the shade's lower edge, mm; never less than nothing."""
    return max(0.0, ceiling - below.high.mm - clearance(sheet, practice))


def cord(
    ceiling: float, below: Body, sheet: Fitting | None, practice: Practice, handles: tuple[str, ...]
) -> Working:
    """The length of one cord to cut, mm, its spare included."""
    shade = sheet.shade.mm if sheet and sheet.shade else USUAL_SHADE
    return Working(
        "Cord",
        "mm",
        (
            Line(1.0, ceiling, "ceiling above the floor", handles),
            Line(-1.0, below.high.mm, f"top of the {below.name or below.kind}", handles),
            Line(-1.0, clearance(sheet, practice), "clear above it", handles),
            Line(-1.0, shade, "shade" if sheet and sheet.shade else "shade, estimated", handles),
            Line(1.0, SPARE, "spare to level by", handles),
        ),
    )
