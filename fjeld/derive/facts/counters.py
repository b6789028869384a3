"""Counters cut at sinks and cookers, what stands over them, and how near a basin an outlet is."""

from __future__ import annotations

import msgspec

from fjeld.derive.bodies import Block
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle
from fjeld.practice import rules
from fjeld.quantities import at_least


class CounterSpace(msgspec.Struct, frozen=True):
    """A stretch of counter between sinks, cookers and ends: along its wall, mm, with the top's height above
    floor.
    """

    counter: Handle
    wall: int
    start: float
    end: float
    top: float


def counter_spaces(plan: Plan, room: Handle) -> list[CounterSpace]:
    """The counters of a room against walls, cut at sinks and cookers, those too narrow dropped."""
    blocks = plan.blocks_in(room)
    least = plan.practice[rules.COUNTER_WIDTH]
    found = []
    for counter in (b for b in blocks if b.kind == "counter" and b.wall):
        cuts = sorted(
            (b.start, b.end) for b in blocks if b.kind in ("sink", "cooker") and b.wall == counter.wall
        )
        here = counter.start
        for start, end in [*cuts, (counter.end, counter.end)]:
            stop = min(start, counter.end)
            if at_least(stop - here, least):
                top = counter.high - plan.rooms[room].level
                found.append(CounterSpace(counter.handle, counter.wall, here, stop, top))
            here = max(here, end)
    return found


def outlets_over(plan: Plan, room: Handle, space: CounterSpace) -> list[float]:
    """Where along its wall outlets stand over a counter space, mm."""
    return [
        p.along
        for p in plan.placed.values()
        if p.kind == "outlet"
        and p.room == room
        and p.wall == space.wall
        and space.top < p.height <= space.top + plan.practice[rules.COUNTER_OUTLET_ABOVE]
        and space.start - 0.5 <= p.along <= space.end + 0.5
    ]


def near_basin(plan: Plan, basin: Block) -> float:
    """From a basin's edge to the nearest outlet of its room, mm; infinite without one."""
    return min(
        (
            basin.off(p.position[:2])
            for p in plan.placed.values()
            if p.kind == "outlet" and p.room == basin.room
        ),
        default=float("inf"),
    )
