"""Light and its switches: one switched by each entrance, on stairs from both ends, enough of it."""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check.finding import Finding, failed, looks_at
from fjeld.derive.facts.lamps import lamps_of
from fjeld.derive.intents import is_light
from fjeld.derive.light import light_map
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import wall_starts
from fjeld.drawing.building import Body, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Control, Point
from fjeld.geometry import contains
from fjeld.practice import rules
from fjeld.quantities import Fails, Line, Passes, Working, at_least

#: The light of a room is reckoned this fine for its mean, mm.
_STEP = 300.0


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about light."""
    for handle, room in plan.drawing.of(Room).items():
        if plan.rooms[handle].closed:
            yield from _switched(plan, handle, room)
            yield from _latch(plan, handle, room)
            yield from _light(plan, handle, room)
    yield from _stairs(plan)


@looks_at(rules.BATH_LIGHT, rules.SWITCHED_LIGHT)
def _switched(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if room.use not in plan.practice.get(rules.SWITCHED_LIGHT, ()):
        return
    points = plan.drawing.of(Point)
    here = [
        (p, load)
        for control in plan.drawing.of(Control).values()
        if control.positions
        for load in control.loads
        if (p := points[load.point]).room == handle
    ]
    if any(is_light(p, load) for p, load in here):
        return
    if not any(p.kind == "outlet" for p, _ in here):
        words = f"No switch works a light in {room.name}"
        yield failed(plan, rules.SWITCHED_LIGHT, "layout", (handle,), words)
    elif room.use in plan.practice.get(rules.BATH_LIGHT, ()):
        words = f"Only an outlet is switched in {room.name}; a light must be"
        yield failed(plan, rules.BATH_LIGHT, "layout", (handle,), words)


@looks_at(rules.SWITCH_LATCH)
def _latch(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if room.use in ("outdoors", "closet"):
        return
    where = plan.rooms[handle]
    near = plan.practice[rules.SWITCH_LATCH]
    starts = wall_starts(where)
    switches = {
        h: starts[p.wall - 1] + p.along
        for h, p in plan.placed.items()
        if p.kind == "switch" and p.room == handle and p.wall
    }
    for door, opening in plan.openings[handle].items():
        if opening.kind != "door" or opening.wall > len(where.walls):
            continue
        if room.use == "garage" and at_least(opening.width.mm, plan.practice[rules.VEHICLE_DOOR]):
            continue
        latch = (
            starts[opening.wall - 1] + opening.at.mm + (opening.width.mm if opening.hinge == "start" else 0.0)
        )
        if not any(_between(at, latch, starts[-1]) <= near for at in switches.values()):
            words = f"No switch on the latch side of {door} in {room.name}"
            yield failed(plan, rules.SWITCH_LATCH, "layout", (door, handle), words)


def _between(a: float, b: float, around: float) -> float:
    return min((a - b) % around, (b - a) % around)


@looks_at(rules.STAIRS_SWITCHED)
def _stairs(plan: Plan) -> Iterator[Finding]:
    """Stairs between storeys: some control works a light at them, from below and from where they arrive."""
    rooms, points = plan.drawing.of(Room), plan.drawing.of(Point)
    for handle, body in plan.drawing.of(Body).items():
        if body.kind != "stairs" or not (upper := _arrives(plan, handle, body)):
            continue
        for control in plan.drawing.of(Control).values():
            at = {points[p].room for p in control.positions}
            lights = any(
                points[load.point].room in (body.room, *upper) and is_light(points[load.point], load)
                for load in control.loads
            )
            if body.room in at and at & {*upper} and lights:
                break
        else:
            words = f"No light of the stairs in {rooms[body.room].name} is switched from below and from above"
            yield failed(plan, rules.STAIRS_SWITCHED, "layout", (handle, body.room), words)


def _arrives(plan: Plan, handle: Handle, body: Body) -> list[Handle]:
    """The rooms that stairs arrive in: of the next storey those that lie over them, else all of it."""
    here = plan.rooms[body.room].level
    above = {h: w.level for h, w in plan.rooms.items() if w.level > here + 1.0}
    if not above:
        return []
    upper = [h for h, level in above.items() if level <= min(above.values()) + 1.0]
    block = plan.blocks.get(handle)
    over = [
        h
        for h in upper
        if block is not None and any(contains(plan.rooms[h].corners, c) for c in block.corners)
    ]
    return over or upper


@looks_at(rules.LIGHT_WANTED)
def _light(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    """Mean light on the floor against what the room's use wants; never more than advice, being an
    estimate.
    """
    wanted = plan.practice[rules.LIGHT_WANTED].get(room.use, 0.0)
    lamps = lamps_of(plan, handle)
    found = light_map(plan.rooms[handle], lamps, 0.0, _STEP) if wanted else None
    if found is None:
        return
    assumed = plan.rests.on(handle, *found.without, sides=("flat", "up"))
    lines = tuple(
        Line(1.0, found.figures.mean - rest.mean, f"{lamp}", (lamp,), assumed)
        for lamp, rest in found.without.items()
    )
    guess = ", lamps estimated" if any(lamp.estimated for lamp in lamps) else ""
    mean = Working("Mean light", "lx", lines)
    verdict = Passes() if at_least(mean.total, wanted, 0.5) else Fails()
    words = f"{room.name} has {mean.total:.0f} lx on the floor of {wanted:g} wanted{guess}"
    yield Finding(
        rule=plan.practice.rule(rules.LIGHT_WANTED),
        handles=(handle,),
        words=words,
        verdict=verdict,
        waypoint="layout",
        working=mean,
        limit=wanted,
    )
