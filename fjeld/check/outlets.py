"""Outlets: along wall spaces, over counters, beside basins, and in the places that need one at least."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from fjeld.check.finding import Finding, failed, looks_at
from fjeld.derive.facts.counters import counter_spaces, near_basin, outlets_over
from fjeld.derive.facts.spaces import outlet_offsets, reached, wanted_in
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import wall_starts
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.practice import rules
from fjeld.quantities import Fails, Line, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about outlets."""
    for handle, room in plan.drawing.of(Room).items():
        if plan.rooms[handle].closed:
            yield from _spacing(plan, handle, room)
            yield from _counters(plan, handle)
            yield from _basins(plan, handle, room)
            for look in (_at_least_one, _garage, _hall, _foyer):
                yield from look(plan, handle, room)


@looks_at(rules.OUTLET_REACH)
def _spacing(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if not wanted_in(plan, handle):
        return
    where, unit = plan.rooms[handle], plan.drawing.house.unit
    reach = plan.practice[rules.OUTLET_REACH]
    around = wall_starts(where)[-1]
    positions = outlet_offsets(plan, handle)
    bodies = (b.handle for b in plan.blocks_in(handle))
    assumed = plan.rests.on(handle, *plan.openings[handle], *bodies, *positions)
    for n, found in enumerate(reached(plan, handle), 1):
        space, inside, beyond = found.space, found.outlets, found.beyond
        rule = plan.practice.rule(rules.OUTLET_REACH)
        words = f"Wall space {n} of {room.name}, {format_length(space.length, unit)}"
        if not beyond:
            passed = f"{words}: no point out of reach"
            yield Finding(rule, (handle, *inside), passed, Passes(), "layout", place=str(n), assumed=assumed)
        for k, stretch in enumerate(beyond, 1):
            start = format_length((space.start + stretch.start) % around, unit)
            if inside:
                line = Line(
                    1.0, reach + stretch.by, "to the nearest outlet of this space", tuple(inside), assumed
                )
                far = (
                    f"{words}: {format_length(stretch.by, unit)} too far,"
                    f" {format_length(stretch.end - stretch.start, unit)} of wall from {start}"
                )
            else:
                line = Line(
                    1.0, stretch.end - stretch.start, "of wall without any outlet", (handle,), assumed
                )
                far = f"{words}: no outlet in it"
            yield Finding(
                rule=rule,
                handles=(handle,),
                words=far,
                verdict=Fails(),
                waypoint="layout",
                working=Working("Distance", "mm", (line,)),
                limit=reach,
                place=f"{n}.{k}",
            )


@looks_at(rules.COUNTER_REACH)
def _counters(plan: Plan, handle: Handle) -> Iterator[Finding]:
    reach, unit = plan.practice[rules.COUNTER_REACH], plan.drawing.house.unit
    for space in counter_spaces(plan, handle):
        here = sorted(outlets_over(plan, handle, space))
        gaps = (
            [here[0] - space.start, space.end - here[-1], *((b - a) / 2 for a, b in itertools.pairwise(here))]
            if here
            else [space.end - space.start]
        )
        outlets = (h for h, p in plan.placed.items() if p.kind == "outlet" and p.room == handle)
        bodies = (b.handle for b in plan.blocks_in(handle))
        assumed = plan.rests.on(handle, *bodies, *outlets, sides=("flat", "up"))
        line = Line(1.0, max(gaps), "to the nearest outlet over it", (space.counter,), assumed)
        worst = Working("Distance", "mm", (line,))
        passes = bool(here) and at_most(worst.total, reach)
        length = format_length(space.end - space.start, unit)
        words = f"Counter {space.counter}, {length} from {format_length(space.start, unit)}: " + (
            f"{format_length(worst.total, unit)} to the nearest outlet over it"
            if here
            else "no outlet over it"
        )
        yield Finding(
            rule=plan.practice.rule(rules.COUNTER_REACH),
            handles=(handle, space.counter),
            words=words,
            verdict=Passes() if passes else Fails(),
            waypoint="layout",
            working=worst,
            limit=reach,
            place=str(round(space.start)),
        )


@looks_at(rules.BASIN_OUTLET)
def _basins(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if rules.BASIN_OUTLET not in plan.practice or room.use != "bath":
        return
    reach = plan.practice[rules.BASIN_OUTLET]
    for basin in plan.blocks_in(handle):
        if basin.kind == "basin" and not at_most(near_basin(plan, basin), reach):
            limit = format_length(reach, plan.drawing.house.unit)
            words = f"No outlet within {limit} of basin {basin.handle} in {room.name}"
            yield failed(plan, rules.BASIN_OUTLET, "layout", (basin.handle, handle), words)


def _outlets_in(plan: Plan, handle: Handle) -> list[Placed]:
    """The outlets that stand inside a room."""
    return [p for p in plan.placed.values() if p.kind == "outlet" and p.room == handle and p.inside]


@looks_at(rules.ROOM_OUTLET, rules.OUTDOOR_OUTLET_HEIGHT, rules.OUTLET_HEIGHT_LIMIT)
def _at_least_one(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if rules.ROOM_OUTLET not in plan.practice or room.use not in plan.practice[rules.ROOM_OUTLET]:
        return
    outlets = _outlets_in(plan, handle)
    limit = rules.OUTDOOR_OUTLET_HEIGHT if room.use == "outdoors" else rules.OUTLET_HEIGHT_LIMIT
    if not outlets:
        yield failed(plan, rules.ROOM_OUTLET, "layout", (handle,), f"No outlet in {room.name}")
    elif not any(at_most(p.height, plan.practice[limit]) for p in outlets):
        words = f"Every outlet is out of reach in {room.name}"
        yield Finding(plan.practice.rule(limit), (handle,), words, Fails(), "layout")


@looks_at(rules.GARAGE_BAYS, rules.OUTLET_HEIGHT_LIMIT)
def _garage(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    outlets = _outlets_in(plan, handle)
    if room.use != "garage" or rules.GARAGE_BAYS not in plan.practice or not outlets:
        return
    wide, bay = plan.practice[rules.GARAGE_BAYS], plan.practice[rules.GARAGE_BAY]
    doors = [
        o.width.mm
        for o in plan.openings[handle].values()
        if o.kind != "window" and at_least(o.width.mm, wide)
    ]
    # A door for two cars opens two bays.
    bays = sum(max(1, round(width / bay)) for width in doors)
    reached = [p for p in outlets if at_most(p.height, plan.practice[rules.OUTLET_HEIGHT_LIMIT])]
    if len(reached) < bays:
        words = (
            f"{len(reached)} outlet{'s' if len(reached) != 1 else ''} in reach for the {bays} bays of"
            f" {room.name}"
        )
        yield failed(plan, rules.GARAGE_BAYS, "layout", (handle,), words)


@looks_at(rules.HALL_OUTLET)
def _hall(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if room.use != "hall" or rules.HALL_OUTLET not in plan.practice or _outlets_in(plan, handle):
        return
    longest = max((w.length for w in plan.rooms[handle].walls), default=0.0)
    if at_least(longest, plan.practice[rules.HALL_OUTLET]):
        words = f"{room.name} is a long hall without an outlet"
        yield failed(plan, rules.HALL_OUTLET, "layout", (handle,), words)


@looks_at(rules.FOYER_OUTLET)
def _foyer(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    where = plan.rooms[handle]
    if room.use != "foyer" or rules.FOYER_OUTLET not in plan.practice:
        return
    if where.area <= plan.practice[rules.FOYER_OUTLET]:
        return
    served = {p.wall for p in _outlets_in(plan, handle)}
    for wall in where.walls:
        if wall.number not in served and at_least(wall.length, plan.practice[rules.FOYER_WALL]):
            words = f"Wall {wall.number} of {room.name} has no outlet"
            yield failed(
                plan,
                rules.FOYER_OUTLET,
                waypoint="layout",
                handles=(handle,),
                words=words,
                place=str(wall.number),
            )
