"""Protection by place: what a room's use and the water near by ask of an outlet and of a circuit."""

from __future__ import annotations

from typing import Literal

from fjeld.drawing.building import RoomUse
from fjeld.practice import Practice, rules
from fjeld.quantities import at_most

#: What protects against a loose joint, and against current that goes astray.
ARCS, ASTRAY = ("arc-fault", "both"), ("ground-fault", "both")


def ground_fault_by_room(use: RoomUse, practice: Practice, below_grade: bool = False) -> bool:
    """Whether an outlet wants ground-fault protection by its room alone; one ``below_grade`` counts as a
    basement.
    """
    if rules.GROUND_FAULT not in practice:
        return False
    rooms = practice[rules.GROUND_FAULT]
    return use in rooms or (below_grade and "basement" in rooms)


def ground_fault_by_water(off: float, practice: Practice) -> bool:
    """Whether an outlet ``off`` so far from a sink, a basin or a tub wants ground-fault protection, mm as a
    cord reaches.
    """
    return rules.GROUND_FAULT_WATER in practice and at_most(off, practice[rules.GROUND_FAULT_WATER])


def arc_fault_by_room(use: RoomUse, practice: Practice) -> Literal["", "asked", "similar"]:
    """Whether a circuit in a room wants arc-fault protection; ``similar`` where the local code says whether
    that room counts.
    """
    if rules.ARC_FAULT not in practice:
        return ""
    if use in practice[rules.ARC_FAULT]:
        return "asked"
    known = rules.ARC_FAULT_SIMILAR in practice and use in practice[rules.ARC_FAULT_SIMILAR]
    return "similar" if known else ""
