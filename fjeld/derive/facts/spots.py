"""Whether a box is on solid wall, and what is where it and its depth would be."""

from __future__ import annotations

from fjeld.derive.bodies import Block
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.practice import rules


def stands(plan: Plan, placed: Placed) -> bool:
    """Whether it is in its room and on solid wall."""
    return placed.inside and not _in_opening(plan, placed.handle)


def _in_opening(plan: Plan, handle: Handle) -> bool:
    placed = plan.placed[handle]
    for opening in plan.openings[placed.room].values():
        if placed.wall and opening.wall == placed.wall:
            half = placed.width / 2
            across = opening.at.mm - half < placed.along < opening.at.mm + opening.width.mm + half
            if across and opening.sill.mm < placed.height < opening.head.mm:
                return True
    return False


#: A box takes up this much before the surface and behind a wall's, and so much above a ceiling whose fitting
#: is not known, mm.
BEFORE, IN_WALL, ABOVE = 20.0, 70.0, 60.0


def in_its_place(plan: Plan, placed: Placed) -> list[tuple[Block, bool]]:
    """What is where the box and its depth would be, and (True) what covers it: a fireplace, a tall
    cabinet.
    """
    where = plan.rooms[placed.room]
    x, y, z = placed.position
    if placed.wall:
        nx, ny = where.walls[placed.wall - 1].normal
        inner = (x + nx * BEFORE, y + ny * BEFORE, z)
        outer = (x - nx * IN_WALL, y - ny * IN_WALL, z)
    else:
        inner, outer = (x, y, z - BEFORE), (x, y, z + _depth(plan, placed.handle))
    clear = plan.practice[rules.CLEAR_OF_BODIES] + min(placed.width, placed.tall) / 2
    found = []
    for block in plan.blocks_in(placed.room):
        covers = block.kind in ("fireplace", "tall cabinet") and placed.wall and block.wall == placed.wall
        if block.in_the_way and block.met(inner, outer, clear):
            found.append((block, False))
        elif covers and block.start < placed.along < block.end and block.low < z < block.high:
            found.append((block, True))
    return found


def _depth(plan: Plan, handle: Handle) -> float:
    """What a ceiling box needs above the ceiling, mm: its fitting's depth, else a usual box."""
    point = plan.drawing.items.get(handle)
    sheet = point.fitting if isinstance(point, Point) else None
    return sheet.depth.mm if sheet and sheet.depth else ABOVE
