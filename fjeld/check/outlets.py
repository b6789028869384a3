"""Outlets: along wall spaces, over counters, beside basins, and in the places that need one at least."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import msgspec

from fjeld.check import Finding, failed
from fjeld.derive.bodies import Block
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import breaks, offset_in, spaces, too_far, wall_starts
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Control, load_part, load_point
from fjeld.quantities import FOOT, Fails, Line, Passes, Working, at_least, at_most, format_length

#: The width of one bay's door, mm.
BAY = 8 * FOOT
#: Outlets over a counter stand no higher than this above it, mm.
OVER_COUNTER = 508.0


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about outlets."""
    for handle, room in plan.drawing.of(Room).items():
        if plan.rooms[handle].closed:
            yield from _spacing(plan, handle, room)
            yield from _counters(plan, handle)
            yield from _basins(plan, handle, room)
            yield from _at_least_one(plan, handle, room)


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
    switched = {
        load_point(load) for c in plan.drawing.of(Control).values() for load in c.loads if not load_part(load)
    }
    limit = plan.practice.mm("outlet-height-limit")
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


def _spacing(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if not plan.practice.holds("outlet-reach") or room.use not in plan.practice.value("outlet-rooms"):
        return
    where, unit = plan.rooms[handle], plan.drawing.house.unit
    reach = plan.practice.mm("outlet-reach")
    around = wall_starts(where)[-1]
    positions = outlet_offsets(plan, handle)
    cuts = breaks(where, plan.openings[handle].values(), plan.blocks_in(handle))
    for n, space in enumerate(spaces(where, cuts, plan.practice.mm("wall-space")), 1):
        inside = {h: o for h, at in positions.items() if (o := offset_in(space, at, around)) is not None}
        beyond = too_far(space, list(inside.values()), reach)
        rule = plan.practice.rule("outlet-reach")
        words = f"Wall space {n} of {room.name}, {format_length(space.length, unit)}"
        if not beyond:
            passed = f"{words}: no point out of reach"
            yield Finding(rule, (handle, *inside), passed, Passes(), "layout", place=str(n))
        for k, stretch in enumerate(beyond, 1):
            start = format_length((space.start + stretch.start) % around, unit)
            if inside:
                line = Line(1.0, reach + stretch.by, "to the nearest outlet of this space", tuple(inside))
                far = f"{words}: {format_length(stretch.by, unit)} too far, {format_length(stretch.end - stretch.start, unit)} of wall from {start}"
            else:
                line = Line(1.0, stretch.end - stretch.start, "of wall without any outlet", (handle,))
                far = f"{words}: no outlet in it"
            yield Finding(
                rule, (handle,), far, Fails(), "layout", Working("Distance", "mm", (line,)), reach,
                f"{n}.{k}",
            )  # fmt: skip


class CounterSpace(msgspec.Struct, frozen=True):
    """A stretch of counter between sinks, cookers and ends: along its wall, mm, with the top's height above floor."""

    counter: Handle
    wall: int
    start: float
    end: float
    top: float


def counter_spaces(plan: Plan, room: Handle) -> list[CounterSpace]:
    """The counters of a room against walls, cut at sinks and cookers, those too narrow dropped."""
    blocks = plan.blocks_in(room)
    least = plan.practice.mm("counter-width")
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


def over(plan: Plan, room: Handle, space: CounterSpace) -> list[float]:
    """Where along its wall outlets stand over a counter space, mm."""
    return [
        p.along
        for p in plan.placed.values()
        if p.kind == "outlet" and p.room == room and p.wall == space.wall and space.top < p.height <= space.top + OVER_COUNTER
        and space.start - 0.5 <= p.along <= space.end + 0.5
    ]  # fmt: skip


def _counters(plan: Plan, handle: Handle) -> Iterator[Finding]:
    if not plan.practice.holds("counter-reach"):
        return
    reach, unit = plan.practice.mm("counter-reach"), plan.drawing.house.unit
    for space in counter_spaces(plan, handle):
        here = sorted(over(plan, handle, space))
        gaps = [here[0] - space.start, space.end - here[-1], *((b - a) / 2 for a, b in itertools.pairwise(here))] if here else [space.end - space.start]  # fmt: skip
        worst = Working(
            "Distance", "mm", (Line(1.0, max(gaps), "to the nearest outlet over it", (space.counter,)),)
        )
        passes = bool(here) and at_most(worst.total, reach)
        length = format_length(space.end - space.start, unit)
        words = f"Counter {space.counter}, {length} from {format_length(space.start, unit)}: " + (
            f"{format_length(worst.total, unit)} to the nearest outlet over it" if here else "no outlet over it"
        )
        yield Finding(
            plan.practice.rule("counter-reach"), (handle, space.counter), words, Passes() if passes else Fails(), "layout",
            worst, reach, str(round(space.start)),
        )  # fmt: skip


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


def _basins(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if not plan.practice.holds("basin-outlet") or room.use != "bath":
        return
    reach = plan.practice.mm("basin-outlet")
    for basin in plan.blocks_in(handle):
        if basin.kind == "basin" and not at_most(near_basin(plan, basin), reach):
            limit = format_length(reach, plan.drawing.house.unit)
            words = f"No outlet within {limit} of basin {basin.handle} in {room.name}"
            yield failed(plan, "basin-outlet", "layout", (basin.handle, handle), words)


def _at_least_one(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    outlets = [p for p in plan.placed.values() if p.kind == "outlet" and p.room == handle and p.inside]
    if plan.practice.holds("room-outlet") and room.use in plan.practice.value("room-outlet"):
        limit = "outdoor-outlet-height" if room.use == "outdoors" else "outlet-height-limit"
        low = [p for p in outlets if at_most(p.height, plan.practice.mm(limit))]
        if not outlets:
            yield failed(plan, "room-outlet", "layout", (handle,), f"No outlet in {room.name}")
        elif not low:
            words = f"Every outlet is out of reach in {room.name}"
            yield Finding(plan.practice.rule(limit), (handle,), words, Fails(), "layout")
    if room.use == "garage" and plan.practice.holds("garage-bays"):
        wide = plan.practice.mm("garage-bays")
        doors = [
            o.width.mm
            for o in plan.openings[handle].values()
            if o.kind != "window" and at_least(o.width.mm, wide)
        ]
        # A door for two cars opens two bays.
        bays = sum(max(1, round(width / BAY)) for width in doors)
        reached = [p for p in outlets if at_most(p.height, plan.practice.mm("outlet-height-limit"))]
        if outlets and len(reached) < bays:
            words = f"{len(reached)} outlet{'s' if len(reached) != 1 else ''} in reach for the {bays} bays of {room.name}"
            yield failed(plan, "garage-bays", "layout", (handle,), words)
    where = plan.rooms[handle]
    longest = max((w.length for w in where.walls), default=0.0)
    if room.use == "hall" and plan.practice.holds("hall-outlet") and not outlets and at_least(longest, plan.practice.mm("hall-outlet")):  # fmt: skip
        yield failed(plan, "hall-outlet", "layout", (handle,), f"{room.name} is a long hall without an outlet")
    foyer = plan.practice.holds("foyer-outlet") and room.use == "foyer"
    if foyer and where.area / 0.09290304 > float(plan.practice.value("foyer-outlet")):
        for wall in where.walls:
            if at_least(wall.length, 914.4) and not any(p.wall == wall.number for p in outlets):
                words = f"Wall {wall.number} of {room.name} has no outlet"
                yield failed(plan, "foyer-outlet", "layout", (handle,), words, str(wall.number))
