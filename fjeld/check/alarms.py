"""Smoke alarms: where they must be, what sets them off wrongly, and that all of them sound."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.facts.sleeping import attached_garages, leads, outside_sleeping
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.geometry import distance
from fjeld.practice import rules
from fjeld.quantities import Fails, Line, NotKnown, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about alarms."""
    yield from _where(plan)
    yield from _outside(plan)
    yield from _storeys(plan)
    yield from _gas_outside(plan)
    yield from _gas_inside(plan)
    for handle, point in plan.drawing.of(Point).items():
        if point.kind == "alarm" and handle in plan.placed:
            yield from _wall(plan, handle)
            yield from _cooking(plan, handle, point)
            yield from _bath_door(plan, handle)
    yield from _linked(plan)


def alarmed(plan: Plan) -> set[Handle]:
    """The rooms that have a smoke alarm."""
    return {
        p.room
        for h, p in plan.placed.items()
        if p.kind == "alarm" and plan.drawing.get(h, Point).sensing not in ("heat", "carbon monoxide")
    }


@looks_at(rules.ALARM_HEAT, rules.ALARM_ROOMS)
def _where(plan: Plan) -> Iterator[Finding]:
    have = alarmed(plan)
    heat = {p.room for p in plan.drawing.of(Point).values() if p.sensing == "heat"}
    for handle, room in plan.drawing.of(Room).items():
        if not plan.rooms[handle].closed:
            continue
        if (
            rules.ALARM_ROOMS in plan.practice
            and room.use in plan.practice[rules.ALARM_ROOMS]
            and handle not in have
        ):
            yield failed(plan, rules.ALARM_ROOMS, "layout", (handle,), f"No smoke alarm in {room.name}")
        if (
            rules.ALARM_HEAT in plan.practice
            and room.use in plan.practice[rules.ALARM_HEAT]
            and handle not in heat
        ):
            yield failed(plan, rules.ALARM_HEAT, "layout", (handle,), f"No heat alarm in {room.name}")


@looks_at(rules.ALARM_OUTSIDE)
def _outside(plan: Plan) -> Iterator[Finding]:
    have, rooms = alarmed(plan), plan.drawing.of(Room)
    for handle, beyond in outside_sleeping(plan).items():
        if beyond and not have & set(beyond):
            words = f"No alarm outside {rooms[handle].name}, in {' or '.join(rooms[r].name for r in beyond)}"
            yield failed(plan, rules.ALARM_OUTSIDE, "layout", (handle, *beyond), words)


@looks_at(rules.ALARM_STOREY)
def _storeys(plan: Plan) -> Iterator[Finding]:
    lived = {
        h: r
        for h, r in plan.drawing.of(Room).items()
        if r.use not in ("outdoors", "garage") and plan.rooms[h].closed
    }
    sleeping = any(r.use == "bed" for r in lived.values())
    have = alarmed(plan)
    asked = set(plan.practice[rules.ALARM_ROOMS]) if rules.ALARM_ROOMS in plan.practice else set()
    for storey in dict.fromkeys(r.storey for r in lived.values()):
        mine = [h for h, r in lived.items() if r.storey == storey]
        if any(lived[h].use in asked for h in mine):
            # The room that wants one of its own is told of: once that is there, the storey has one.
            continue
        if sleeping and not have & set(mine):
            words = f"No alarm on the storey of {lived[mine[0]].name}"
            yield failed(plan, rules.ALARM_STOREY, "layout", (mine[0],), words)


def _warned(plan: Plan) -> set[Handle]:
    """The rooms with a carbon monoxide alarm."""
    points = plan.drawing.of(Point)
    return {
        p.room for h, p in plan.placed.items() if p.kind == "alarm" and points[h].sensing == "carbon monoxide"
    }


@looks_at(rules.ALARM_GAS_ROOM)
def _gas_inside(plan: Plan) -> Iterator[Finding]:
    """Carbon monoxide alarms where fuel is burned."""
    warned = _warned(plan)
    for handle, burning in _burning(plan, plan.practice[rules.ALARM_GAS_ROOM]).items():
        if handle not in warned:
            name = plan.drawing.get(handle, Room).name
            words = f"No carbon monoxide alarm in {name}, where {', '.join(burning)} burns fuel"
            yield failed(plan, rules.ALARM_GAS_ROOM, "layout", (handle,), words)


def _burning(plan: Plan, kinds: Collection[str]) -> dict[Handle, list[Handle]]:
    """What burns fuel, or carries its smoke, by room."""
    found: dict[Handle, list[Handle]] = defaultdict(list)
    for block in plan.blocks.values():
        if block.kind in kinds:
            found[block.room].append(block.handle)
    return found


@looks_at(rules.ALARM_GAS)
def _gas_outside(plan: Plan) -> Iterator[Finding]:
    """Carbon monoxide alarms outside sleeping areas of a house that burns fuel or has a garage."""
    rooms, warned = plan.drawing.of(Room), _warned(plan)
    burning = _burning(plan, plan.practice[rules.ALARM_GAS])
    sources = [h for of in burning.values() for h in of]
    why = f"{', '.join(sources)} burns fuel or carries it" if sources else ""
    garages = attached_garages(plan)
    if garages and not why:
        why = f"{rooms[garages[0]].name} opens into the house"
    if not why:
        return
    for handle, beyond in outside_sleeping(plan).items():
        name = rooms[handle].name
        if beyond and not warned & set(beyond):
            yield failed(
                plan,
                rules.ALARM_GAS,
                "layout",
                (handle, *beyond),
                f"No carbon monoxide alarm outside {name}; {why}",
            )
        inside = [r for r in (handle, *_own_baths(plan, handle)) if burning.get(r)]
        if inside and handle not in warned:
            words = f"No carbon monoxide alarm in {name}, where fuel is burned in it or in its bath room"
            yield failed(
                plan, rules.ALARM_GAS, waypoint="layout", handles=(handle,), words=words, place="inside"
            )


def _own_baths(plan: Plan, bedroom: Handle) -> list[Handle]:
    rooms = plan.drawing.of(Room)
    beyond = {r for of in leads(plan).values() if bedroom in of for r in of if r != bedroom}
    return sorted(r for r in beyond if rooms[r].use == "bath")


@looks_at(rules.ALARM_WALL)
def _wall(plan: Plan, handle: Handle) -> Iterator[Finding]:
    placed = plan.placed[handle]
    down = plan.rooms[placed.room].ceiling_at(placed.position[:2]) - placed.height
    if (
        placed.wall
        and rules.ALARM_WALL in plan.practice
        and not at_most(down, plan.practice[rules.ALARM_WALL])
    ):
        words = f"{handle} hangs {format_length(down, plan.drawing.house.unit)} below the ceiling"
        yield unknown(
            plan,
            rules.ALARM_WALL,
            waypoint="layout",
            handles=(handle,),
            words=words,
            reading="the maker's sheet",
        )


@looks_at(rules.ALARM_COOKING)
def _cooking(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    """Distance from the nearest cooker in plan, of the same storey, by what the alarm senses."""
    if point.sensing in ("heat", "carbon monoxide"):
        return
    placed, limits = plan.placed[handle], plan.practice[rules.ALARM_COOKING]
    level = plan.rooms[placed.room].level
    cookers = [
        b for b in plan.blocks.values() if b.kind == "cooker" and abs(plan.rooms[b.room].level - level) < 1.0
    ]
    nearest = min(cookers, key=lambda b: b.off(placed.position[:2]), default=None)
    if nearest is None:
        return
    assumed = plan.rests.on(handle, *(b.handle for b in cookers))
    line = Line(1.0, nearest.off(placed.position[:2]), "in plan", (handle, nearest.handle), assumed)
    off = Working("Distance", "mm", (line,))
    limit = limits[point.sensing or "ionization"]
    rule = plan.practice.rule(rules.ALARM_COOKING)
    words = f"{handle} is {format_length(off.total, plan.drawing.house.unit)} from cooker {nearest.handle}"
    if at_least(off.total, limit):
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=Passes(),
            waypoint="layout",
            working=off,
            limit=limit,
        )
    elif not point.sensing and at_least(off.total, limits["photoelectric"]):
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=NotKnown("what the alarm senses: photoelectric may stand here"),
            waypoint="layout",
            working=off,
            limit=limit,
        )
    else:
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=Fails(),
            waypoint="layout",
            working=off,
            limit=limit,
        )


@looks_at(rules.ALARM_BATH)
def _bath_door(plan: Plan, handle: Handle) -> Iterator[Finding]:
    placed, rooms = plan.placed[handle], plan.drawing.of(Room)
    # A bath room of which nothing is drawn yet is taken to have its tub.
    dry = {
        h
        for h in rooms
        if (there := plan.blocks_in(h)) and not any(b.kind in ("bath", "shower") for b in there)
    }
    baths = {o for h, of in plan.openings.items() if rooms[h].use == "bath" and h not in dry for o in of}
    where, limit = plan.rooms[placed.room], plan.practice[rules.ALARM_BATH]
    for door, opening in plan.openings[placed.room].items():
        if door in baths and opening.kind == "door" and opening.wall <= len(where.walls):
            wall = where.walls[opening.wall - 1]
            off = distance(wall.at(opening.at.mm + opening.width.mm / 2), placed.position[:2])
            if not at_least(off, limit):
                words = (
                    f"{handle} is {format_length(off, plan.drawing.house.unit)} from the bath room's door"
                    f" {door}"
                )
                yield failed(plan, rules.ALARM_BATH, "layout", (handle, door), words)


@looks_at(rules.ALARM_FAMILIES, rules.ALARM_LINKED, rules.ALARM_LINKED_ALL)
def _linked(plan: Plan) -> Iterator[Finding]:
    alarms = {h: p for h, p in plan.drawing.of(Point).items() if p.kind == "alarm"}
    wired = {h: p for h, p in alarms.items() if p.link == "wire"}
    circuits = {p.circuit for p in wired.values()}
    if len(circuits) > 1:
        words = (
            "The alarms are on different circuits, so their interconnect cannot join them, unless they are"
            " linked by radio"
        )
        yield failed(plan, rules.ALARM_LINKED, "layout", tuple(wired), words, count=len(circuits))
    radio = [h for h, p in alarms.items() if p.link == "radio"]
    if wired and radio:
        words = (
            f"{', '.join([*wired][:4])} {'are' if len(wired) > 1 else 'is'} linked by wire and"
            f" {', '.join(radio[:4])} by radio: neither hears the other"
        )
        fewer = min(len(wired), len(radio))
        yield failed(plan, rules.ALARM_FAMILIES, "layout", (*wired, *radio), words, count=fewer)
    smoke = sum(p.sensing not in ("heat", "carbon monoxide") for p in alarms.values())
    yield from _too_many(plan, smoke, len(alarms))


@looks_at(rules.ALARM_LINKED, rules.ALARM_LINKED_ALL)
def _too_many(plan: Plan, smoke: int, all_: int) -> Iterator[Finding]:
    """More than one link takes: of smoke alarms, and of all kinds."""
    if smoke > plan.practice[rules.ALARM_LINKED]:
        words = f"{smoke} smoke alarms are more than one link takes"
        yield failed(plan, rules.ALARM_LINKED, "layout", ("house",), words, count=smoke)
    if rules.ALARM_LINKED_ALL in plan.practice and all_ > plan.practice[rules.ALARM_LINKED_ALL]:
        words = f"{all_} alarms of all kinds are more than one link takes"
        yield failed(plan, rules.ALARM_LINKED_ALL, "layout", ("house",), words, count=all_)
