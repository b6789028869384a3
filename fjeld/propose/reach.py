"""Wall lights by reach: a mirrored pair beside a bed or a seat, where both find a clear spot in the wall.

A light with its own switch is worked lying or sitting: its box stands in a band above the
mattress and in a band beside it. Of the spots in both bands the pair nearest to the wish
is taken, mirrored about the middle of the bed, each clear of studs and openings.
"""

from __future__ import annotations

import math

import msgspec

from fjeld.derive.plan import Plan
from fjeld.drawing.building import Body, Room
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Together
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Fitting, Point
from fjeld.practice import rules
from fjeld.propose.wanted import circuit_for
from fjeld.quantities import INCH, Length

#: Above the mattress or seat: where an arm finds a switch without sitting up, mm, and the wish.
ABOVE, WISHED_ABOVE = (380.0, 760.0), 560.0
#: Beyond the bed's edge: how far an arm goes sideways, mm, and the wish.
BESIDE, WISHED_BESIDE = (-150.0, 300.0), 100.0
_STEP = INCH / 4
#: Two lights this nearly as far from the middle are a mirrored pair, mm.
_MIRRORED = 5.0


class Bands(msgspec.Struct, frozen=True):
    """Where a hand reaches: heights above the floor, and distances from the middle of the bed, mm."""

    low: float
    high: float
    near: float
    far: float


def bands(body: Body) -> Bands:
    """The bands of a bed or seat against a wall."""
    half = body.width.mm / 2
    return Bands(body.high.mm + ABOVE[0], body.high.mm + ABOVE[1], half + BESIDE[0], half + BESIDE[1])


def pair_offset(plan: Plan, handle: Handle, height: float) -> float | None:
    """How far to each side of the middle the pair stands, mm: the nearest to the wish with both
    spots clear.
    """
    return _nearest_offset(plan, handle, height, plan.drawing.get(handle, Body).width.mm / 2 + WISHED_BESIDE)


def _nearest_offset(plan: Plan, handle: Handle, height: float, wish: float) -> float | None:
    block, body = plan.blocks[handle], plan.drawing.get(handle, Body)
    found, middle = bands(body), (block.start + block.end) / 2
    count = int((found.far - found.near) / _STEP)
    tries = sorted((found.near + k * _STEP for k in range(count + 1)), key=lambda d: (abs(d - wish), d))
    return next(
        (
            d
            for d in tries
            if all(_clear(plan, block.room, block.wall, middle + s * d, height) for s in (-1, 1))
        ),
        None,
    )


def _clear(plan: Plan, room: Handle, wall: int, along: float, height: float) -> bool:
    where = plan.rooms[room]
    found = where.walls[wall - 1]
    half, thick = (
        plan.practice.catalogue.body("ceiling")[0] / 2,
        plan.drawing.get(room, Room).studs_of(wall).thick.mm,
    )
    if not half <= along <= found.length - half:
        return False
    # Cut into a finished wall it wants a finger's room beside the stud as well.
    apart = plan.practice[rules.CUT_IN_CLEAR] if plan.drawing.get(room, Room).build(wall).closed else -0.5
    if any(abs(along - s) < half + thick / 2 + apart for s in found.studs):
        return False
    openings = [o for o in plan.openings[room].values() if o.wall == wall]
    if any(
        o.at.mm - half < along < o.at.mm + o.width.mm + half and o.sill.mm < height < o.head.mm
        for o in openings
    ):
        return False
    spot = (*found.at(along), where.level + height)
    return not any(b.in_the_way and b.met(spot, spot, half) for b in plan.blocks_in(room))


def moved_as_pair(plan: Plan, light: Handle) -> Edit | None:
    """One of a mirrored pair moved clear, and its twin with it; None where it is of no pair, or no spots are
    clear.
    """
    point = plan.drawing.get(light, Point)
    over = point.over
    block = plan.blocks.get(over) if over else None
    if over is None or block is None or not isinstance(plan.drawing.items.get(over), Body) or not point.wall:
        return None
    both = [h for h, p in plan.drawing.of(Point).items() if (p.over, p.wall) == (over, point.wall)]
    if len(both) != 2 or not {*both} <= plan.placed.keys():
        return None
    middle = (block.start + block.end) / 2
    twin = next(h for h in both if h != light)
    sides = {h: plan.placed[h].along - middle for h in (light, twin)}
    mirrored = abs(sum(sides.values())) <= _MIRRORED
    off = _nearest_offset(plan, over, plan.placed[light].height, abs(sides[light])) if mirrored else None
    if off is None:
        return None
    moves = tuple(
        MovePoint(h, at=Length(round(middle + math.copysign(off, side), 2))) for h, side in sides.items()
    )
    return Together(moves, f"Move {light} and {twin} clear, mirrored as they are")


def pair(plan: Plan, handle: Handle, mint: Fresh) -> Edit:
    """The mirrored pair beside a bed or seat; refused in words where there is no room for it."""
    block = plan.blocks.get(handle)
    body = plan.drawing.items.get(handle)
    if block is None or not isinstance(body, Body) or not block.wall:
        raise EditRefused(f"{handle} stands at no wall, so no wall light can be reached from it")
    height = body.high.mm + WISHED_ABOVE
    off = pair_offset(plan, handle, height)
    if off is None:
        raise EditRefused(f"studs and openings leave no mirrored pair of spots in reach of {handle}")
    middle = (block.start + block.end) / 2
    circuit = circuit_for(plan, "light", block.room)
    things = {
        mint.fresh("light"): Point(
            kind="light",
            room=block.room,
            wall=block.wall,
            at=Length(round(middle + side * off, 2)),
            height=Length(round(height, 1)),
            edge="center",
            circuit=circuit,
            mount="wall",
            over=handle,
            fitting=Fitting("Reading light with its own switch"),
            by="fjeld",
        )
        for side in (-1, 1)
    }
    return Place(dict(things), f"a pair of reading lights beside {handle}")
