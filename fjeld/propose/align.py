"""Boxes set by what the eye compares them with: in line, evenly spaced, level, centered, mirrored.

Each function takes a plan and gives an edit, or refuses in words. A box on a wall has one
free coordinate and its height; a box on the ceiling has two. What is written are lengths
as a tape would read them, to the nearest sixteenth or millimetre.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.derive.places import Placed, default_edge, edge_height
from fjeld.derive.plan import Plan
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Revise, Together
from fjeld.drawing.edits.layout import MovePoint, row_of
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Point
from fjeld.quantities import Length, format_length, parse_length

Axis = Literal["x", "y"]


def _length(plan: Plan, mm: float) -> Length:
    unit = plan.drawing.house.unit
    return parse_length(format_length(mm, unit), unit)


def _placed(plan: Plan, handle: Handle) -> Placed:
    placed = plan.placed.get(handle)
    if placed is None or not isinstance(plan.drawing.items.get(handle), Point):
        raise EditRefused(f"{handle} is not a box that can be moved")
    return placed


def _ceiling(plan: Plan, handle: Handle) -> Placed:
    placed = _placed(plan, handle)
    if placed.wall:
        raise EditRefused(f"{handle} is on a wall, not on the ceiling")
    return placed


def in_line(plan: Plan, handle: Handle, other: Handle) -> Edit:
    """A ceiling box moved straight into line with another: along the axis on which they differ least."""
    mine, theirs = _ceiling(plan, handle), _ceiling(plan, other)
    if mine.room != theirs.room or handle == other:
        raise EditRefused(f"{handle} and {other} are not two boxes of one ceiling")
    gaps = [abs(theirs.position[axis] - mine.position[axis]) for axis in (0, 1)]
    axis = 0 if gaps[0] <= gaps[1] else 1
    there = getattr(plan.drawing.get(other, Point), "xy"[axis])
    return Together((MovePoint(handle, **{"xy"[axis]: there}),), f"Put {handle} in line with {other}")


def even_up(plan: Plan, handle: Handle) -> Edit:
    """The lights of a row evenly spaced between the first and the last, which stay."""
    _ceiling(plan, handle)
    rows = {field: row_of(plan.drawing, handle, field) for field in ("x", "y")}
    along: Axis = "x" if len(rows["y"]) >= len(rows["x"]) else "y"
    mates = rows["y"] if along == "x" else rows["x"]
    if len(mates) < 3:
        raise EditRefused(f"{handle} is in no row of three or more")
    axis = "xy".index(along)
    ordered = sorted(mates, key=lambda h: plan.placed[h].position[axis])
    first, last = (plan.placed[h].position[axis] for h in (ordered[0], ordered[-1]))
    step = (last - first) / (len(ordered) - 1)
    origin = plan.rooms[plan.placed[handle].room].origin[axis]
    moves = tuple(
        MovePoint(h, **{along: _length(plan, first + n * step - origin)})
        for n, h in enumerate(ordered)
        if 0 < n < len(ordered) - 1
    )
    return Together(moves, f"Space the row of {handle} evenly")


def level_with(plan: Plan, handle: Handle, other: Handle) -> Edit:
    """A wall box at another's height, measured to the same edge."""
    mine, theirs = _placed(plan, handle), _placed(plan, other)
    if not mine.wall or not theirs.wall or handle == other:
        raise EditRefused(f"{handle} and {other} are not two boxes on walls")
    like = plan.drawing.get(other, Point)
    edge = like.edge or default_edge(like.kind, plan.practice)
    # Not its mark: while roughing in that is read from the subfloor.
    height = like.height or _length(plan, edge_height(theirs, edge))
    return Revise(handle, {"height": height, "edge": edge}, f"Put {handle} level with {other}")


def centered(plan: Plan, handle: Handle, over: Handle | None = None) -> Edit:
    """A box in the middle of its wall or ceiling, or over the middle of an opening (of the
    opening's wall).
    """
    placed = _placed(plan, handle)
    where = plan.rooms[placed.room]
    if over is None:
        if placed.wall:
            middle = where.walls[placed.wall - 1].length / 2
            return Together((MovePoint(handle, at=_length(plan, middle)),), f"Center {handle} on its wall")
        xs, ys = [c[0] for c in where.corners], [c[1] for c in where.corners]
        x, y = where.local(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2))
        move = MovePoint(handle, x=_length(plan, x), y=_length(plan, y))
        return Together((move,), f"Center {handle} in the room")
    if over in plan.blocks:
        return _over_body(plan, handle, placed, over)
    opening = plan.openings[placed.room].get(over)
    if opening is None:
        raise EditRefused(f"{over} is no opening of this room")
    middle = opening.at.mm + opening.width.mm / 2
    if placed.wall:
        if placed.wall != opening.wall:
            raise EditRefused(f"{over} is on another wall than {handle}")
        return Together((MovePoint(handle, at=_length(plan, middle)),), f"Center {handle} over {over}")
    wall = where.walls[opening.wall - 1]
    x, y = where.local(wall.at(middle))
    # The box moves along the wall only: its distance from the wall stays.
    axis = 0 if abs(wall.normal[0]) < 1e-6 else 1 if abs(wall.normal[1]) < 1e-6 else None
    if axis is None:
        raise EditRefused(f"{over} is on a skew wall; type the distances instead")
    move = MovePoint(handle, **{"xy"[axis]: _length(plan, (x, y)[axis])})
    return Together((move,), f"Center {handle} on {over}")


def _over_body(plan: Plan, handle: Handle, placed: Placed, over: Handle) -> Edit:
    """Over the middle of a thing: plumb above it, or on its wall along its middle."""
    block = plan.blocks[over]
    if block.room != placed.room:
        raise EditRefused(f"{over} is in another room than {handle}")
    if placed.wall:
        if block.wall != placed.wall:
            raise EditRefused(f"{over} is at another wall than {handle}")
        middle = (block.start + block.end) / 2
        return Together((MovePoint(handle, at=_length(plan, middle)),), f"Center {handle} over {over}")
    x, y = plan.rooms[placed.room].local(block.middle)
    move = MovePoint(handle, x=_length(plan, x), y=_length(plan, y))
    return Together((move, Revise(handle, {"over": over})), f"Center {handle} over {over}")


def body_level(plan: Plan, handle: Handle, opening: Handle, edge: Literal["top", "middle", "foot"]) -> Edit:
    """A fitting's body, not its box, level with the head of an opening: its top, its middle or its foot."""
    placed = _placed(plan, handle)
    sheet = plan.drawing.get(handle, Point).fitting
    seen = plan.openings[placed.room].get(opening)
    if not placed.wall or seen is None:
        raise EditRefused(f"{handle} is on no wall, or {opening} is no opening of its room")
    if sheet is None or sheet.body_height is None or sheet.body_below is None:
        raise EditRefused(
            f"type the body of {handle} from its sheet first: its height, and its foot below the box"
        )
    tall, below = sheet.body_height.mm, sheet.body_below.mm
    up = {"top": tall - below, "middle": tall / 2 - below, "foot": -below}[edge]
    height = _length(plan, seen.head.mm - up)
    return Revise(
        handle,
        {"height": height, "edge": "center"},
        f"Put the {edge} of {handle} level with the head of {opening}",
    )


def mirrored(plan: Plan, handle: Handle, mint: Fresh, about: Handle | None = None) -> Edit:
    """A second box like a wall box, mirrored about the middle of its wall or of an opening on it."""
    placed = _placed(plan, handle)
    if not placed.wall:
        raise EditRefused(f"{handle} is not on a wall")
    wall = plan.rooms[placed.room].walls[placed.wall - 1]
    middle, what = wall.length / 2, f"the middle of wall {placed.wall}"
    if about is not None:
        opening, block = plan.openings[placed.room].get(about), plan.blocks.get(about)
        if opening is not None and opening.wall == placed.wall:
            middle = opening.at.mm + opening.width.mm / 2
        elif block is not None and (block.room, block.wall) == (placed.room, placed.wall):
            middle = (block.start + block.end) / 2
        else:
            raise EditRefused(f"{about} is no opening of the same wall, and nothing at it")
        what = about
    there = 2 * middle - placed.along
    if not placed.width / 2 <= there <= wall.length - placed.width / 2:
        raise EditRefused(f"the mirror of {handle} would lie off the wall")
    if abs(there - placed.along) < placed.width:
        raise EditRefused(f"{handle} stands in the middle already")
    point = plan.drawing.get(handle, Point)
    twin = msgspec.structs.replace(point, at=_length(plan, there))
    fresh = mint.fresh(point.kind)
    return Place({fresh: twin}, f"{fresh}, the mirror of {handle} about {what}")
