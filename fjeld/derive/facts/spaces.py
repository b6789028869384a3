"""Wall spaces of a room with the outlets that count for them, and what of each lies too far from one."""

from __future__ import annotations

import msgspec

from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import TooFar, WallSpace, breaks, offset_in, spaces, too_far, wall_starts
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Control
from fjeld.practice import rules
from fjeld.quantities import at_most


class Reached(msgspec.Struct, frozen=True):
    """A wall space with the outlets of it (offsets in it, mm), and the stretches that none of them
    reaches.
    """

    space: WallSpace
    outlets: dict[Handle, float]
    beyond: list[TooFar]


def wanted_in(plan: Plan, room: Handle) -> bool:
    """Whether the practice asks for outlets along the walls of such a room."""
    return rules.OUTLET_REACH in plan.practice and (
        plan.drawing.get(room, Room).use in plan.practice[rules.OUTLET_ROOMS]
    )


def reached(plan: Plan, room: Handle, moved: dict[Handle, float] | None = None) -> list[Reached]:
    """Every wall space of a room; ``moved`` are outlets that would stand elsewhere, by unrolled position."""
    where = plan.rooms[room]
    around = wall_starts(where)[-1]
    at = {**outlet_offsets(plan, room), **(moved or {})}
    cuts = breaks(where, plan.openings[room].values(), plan.blocks_in(room))
    found = []
    for space in spaces(where, cuts, plan.practice[rules.WALL_SPACE]):
        here = {h: o for h, a in at.items() if (o := offset_in(space, a, around)) is not None}
        found.append(
            Reached(space, here, too_far(space, list(here.values()), plan.practice[rules.OUTLET_REACH]))
        )
    return found


def counter_outlet(plan: Plan, placed: Placed) -> Handle | None:
    """The counter that an outlet stands over, if any."""
    for block in plan.blocks_in(placed.room):
        over = block.high - plan.rooms[placed.room].level < placed.height
        if (
            block.kind == "counter"
            and block.wall == placed.wall
            and block.start <= placed.along <= block.end
            and over
        ):
            return block.handle
    return None


def outlet_offsets(plan: Plan, room: Handle) -> dict[Handle, float]:
    """Unrolled positions of the outlets that count for wall space.

    Those too high, wholly switched in place of a light, or over a counter do not.
    """
    starts = wall_starts(plan.rooms[room])
    switched = {load.point for c in plan.drawing.of(Control).values() for load in c.loads if not load.part}
    limit = plan.practice[rules.OUTLET_HEIGHT_LIMIT]
    return {
        h: starts[p.wall - 1] + p.along
        for h, p in plan.placed.items()
        if p.kind == "outlet"
        and p.room == room
        and p.wall
        and p.inside
        and h not in switched
        and at_most(p.height, limit)
        and counter_outlet(plan, p) is None
    }
