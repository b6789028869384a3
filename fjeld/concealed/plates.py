"""The wood over and under closed walls: what was measured at either end of a way, and what of it blocks the
way.
"""

from __future__ import annotations

from fjeld.concealed.ground import Ground
from fjeld.drawing.errand import Plate, Seen, length_of
from fjeld.judge.ways import drill_over_plate, headroom
from fjeld.practice import rules


def plate_of(ground: Ground, end: int) -> Plate:
    """What was measured at an end: 0 the old box, 1 the new one."""
    return (ground.errand.way.here, ground.errand.way.there)[end]


def surface_of(ground: Ground, end: int) -> float | None:
    """How thick the wall's surface is, mm, where somebody has measured it."""
    return length_of(ground.errand.spot.thick) if end else None


def deep_of(ground: Ground, end: int) -> float | None:
    """How deep the wall's wood is, mm: a plate is as deep as the cavity of its wall."""
    told = length_of(plate_of(ground, end).deep)
    return told if told is not None else length_of(ground.errand.spot.cavity) if end else None


def depth_of_bay(ground: Ground, end: int, below: bool) -> float | None:
    """From where the bay is bored open, over or under it, to the box in its wall, mm."""
    told, height = ground.errand.way, ground.heights[end]
    if height is None:
        return None
    if below:
        return height + ground.practice[rules.FLOOR_PLATE]
    ceiling, plates = length_of(told.ceiling), length_of(told.plates)
    return (
        None
        if ceiling is None
        else ceiling + (ground.practice[rules.TOP_PLATES] if plates is None else plates) - height
    )


def measured(ground: Ground, end: int, below: bool) -> dict[str, Seen]:
    """What the measures of an end say of what may stand in the way there."""
    plate, found = plate_of(ground, end), dict[str, Seen]()
    depth, went, heel = depth_of_bay(ground, end, below), length_of(plate.went), length_of(plate.heel)
    if depth is not None and went is not None:
        if went >= depth - ground.practice[rules.SOUNDING_ERROR]:
            found["block"] = "clear"
        elif plate.stops == "all across":
            found["block"] = "there"
    if not below and heel is not None and plate.rise is not None:
        wood = deep_of(ground, end) or ground.practice[rules.PLATE_DEEP]
        head = headroom(heel, plate.rise, wood, ground.practice).total
        found["eave"] = "there" if drill_over_plate(head, ground.practice).tone == "fails" else "clear"
    return found
