"""Smoke alarms: where they must be, what sets them off wrongly, and that all of them sound."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.geometry import distance
from fjeld.quantities import FOOT, Fails, Line, NotKnown, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about alarms."""
    yield from _where(plan)
    yield from _outside(plan)
    yield from _storeys(plan)
    yield from _gas(plan)
    for handle, point in plan.drawing.of(Point).items():
        if point.kind == "alarm" and handle in plan.placed:
            yield from _wall(plan, handle)
            yield from _cooking(plan, handle, point)
            yield from _bath_door(plan, handle)
    yield from _linked(plan)


def alarmed(plan: Plan) -> set[Handle]:
    """The rooms that have a smoke alarm."""
    return {
        p.room for h, p in plan.placed.items()
        if p.kind == "alarm" and plan.drawing.get(h, Point).sensing not in ("heat", "carbon monoxide")
    }  # fmt: skip


def _where(plan: Plan) -> Iterator[Finding]:
    have = alarmed(plan)
    heat = {p.room for p in plan.drawing.of(Point).values() if p.sensing == "heat"}
    for handle, room in plan.drawing.of(Room).items():
        if not plan.rooms[handle].closed:
            continue
        if (
            plan.practice.holds("alarm-rooms")
            and room.use in plan.practice.value("alarm-rooms")
            and handle not in have
        ):
            yield failed(plan, "alarm-rooms", "layout", (handle,), f"No smoke alarm in {room.name}")
        if (
            plan.practice.holds("alarm-heat")
            and room.use in plan.practice.value("alarm-heat")
            and handle not in heat
        ):
            yield failed(plan, "alarm-heat", "layout", (handle,), f"No heat alarm in {room.name}")


def outside_sleeping(plan: Plan) -> dict[Handle, list[Handle]]:
    """For each room to sleep in, the rooms that its doors open from, bath rooms and closets left out."""
    rooms = plan.drawing.of(Room)
    leads = _leads(plan)
    found = {}
    for handle, room in rooms.items():
        if room.use == "bed":
            beyond = {r for of in leads.values() if handle in of for r in of if r != handle}
            found[handle] = sorted(
                r for r in beyond if rooms[r].use not in ("bath", "closet", "outdoors", "bed")
            )
    return found


def _outside(plan: Plan) -> Iterator[Finding]:
    if not plan.practice.holds("alarm-outside"):
        return
    have, rooms = alarmed(plan), plan.drawing.of(Room)
    for handle, beyond in outside_sleeping(plan).items():
        if beyond and not have & set(beyond):
            words = f"No alarm outside {rooms[handle].name}, in {' or '.join(rooms[r].name for r in beyond)}"
            yield failed(plan, "alarm-outside", "layout", (handle, *beyond), words)


def _storeys(plan: Plan) -> Iterator[Finding]:
    if not plan.practice.holds("alarm-storey"):
        return
    lived = {
        h: r
        for h, r in plan.drawing.of(Room).items()
        if r.use not in ("outdoors", "garage") and plan.rooms[h].closed
    }
    sleeping = any(r.use == "bed" for r in lived.values())
    have = alarmed(plan)
    for storey in dict.fromkeys(r.storey for r in lived.values()):
        mine = [h for h, r in lived.items() if r.storey == storey]
        if sleeping and not have & set(mine):
            words = f"No alarm on the storey of {lived[mine[0]].name}"
            yield failed(plan, "alarm-storey", "layout", (mine[0],), words)


def _gas(plan: Plan) -> Iterator[Finding]:
    """Carbon monoxide: outside sleeping areas of a house that burns fuel or has a garage, and where fuel is burned."""
    points = plan.drawing.of(Point)
    warned = {
        p.room for h, p in plan.placed.items() if p.kind == "alarm" and points[h].sensing == "carbon monoxide"
    }
    if plan.practice.holds("alarm-gas"):
        yield from _gas_outside(plan, warned)
    if plan.practice.holds("alarm-gas-room"):
        asked = plan.practice.value("alarm-gas-room")
        for handle, burning in _burning(plan, asked).items():
            if handle not in warned:
                name = plan.drawing.get(handle, Room).name
                words = f"No carbon monoxide alarm in {name}, where {', '.join(burning)} burns fuel"
                yield failed(plan, "alarm-gas-room", "layout", (handle,), words)


def _burning(plan: Plan, kinds: Collection[str]) -> dict[Handle, list[Handle]]:
    """What burns fuel, or carries its smoke, by room."""
    found: dict[Handle, list[Handle]] = defaultdict(list)
    for block in plan.blocks.values():
        if block.kind in kinds:
            found[block.room].append(block.handle)
    return found


def _gas_outside(plan: Plan, warned: set[Handle]) -> Iterator[Finding]:
    rooms = plan.drawing.of(Room)
    burning = _burning(plan, plan.practice.value("alarm-gas"))
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
                "alarm-gas",
                "layout",
                (handle, *beyond),
                f"No carbon monoxide alarm outside {name}; {why}",
            )
        inside = [r for r in (handle, *_own_baths(plan, handle)) if burning.get(r)]
        if inside and handle not in warned:
            words = f"No carbon monoxide alarm in {name}, where fuel is burned in it or in its bath room"
            yield failed(plan, "alarm-gas", "layout", (handle,), words, "inside")


def _leads(plan: Plan) -> dict[Handle, set[Handle]]:
    """The rooms that each opening leads into."""
    leads: dict[Handle, set[Handle]] = defaultdict(set)
    for into, openings in plan.openings.items():
        for opening in openings:
            leads[opening].add(into)
    return leads


def _own_baths(plan: Plan, bedroom: Handle) -> list[Handle]:
    rooms = plan.drawing.of(Room)
    beyond = {r for of in _leads(plan).values() if bedroom in of for r in of if r != bedroom}
    return sorted(r for r in beyond if rooms[r].use == "bath")


def attached_garages(plan: Plan) -> list[Handle]:
    """Garages with an opening into the rest of the house."""
    rooms = plan.drawing.of(Room)
    return sorted(
        {
            garage
            for of in _leads(plan).values()
            for garage in of
            if rooms[garage].use == "garage" and any(rooms[r].use not in ("garage", "outdoors") for r in of)
        }
    )


def _wall(plan: Plan, handle: Handle) -> Iterator[Finding]:
    placed = plan.placed[handle]
    down = plan.rooms[placed.room].ceiling_at(placed.position[:2]) - placed.height
    if placed.wall and plan.practice.holds("alarm-wall") and not at_most(down, plan.practice.mm("alarm-wall")):
        words = f"{handle} hangs {format_length(down, plan.drawing.house.unit)} below the ceiling"
        yield unknown(plan, "alarm-wall", "layout", (handle,), words, "the maker's sheet")


def _cooking(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    """Distance from the nearest cooker in plan, of the same storey, by what the alarm senses."""
    if point.sensing in ("heat", "carbon monoxide"):
        return
    placed, limits = plan.placed[handle], plan.practice.value("alarm-cooking")
    level = plan.rooms[placed.room].level
    cookers = [
        b for b in plan.blocks.values() if b.kind == "cooker" and abs(plan.rooms[b.room].level - level) < 1.0
    ]
    nearest = min(cookers, key=lambda b: b.off(placed.position[:2]), default=None)
    if nearest is None:
        return
    off = Working(
        "Distance", "mm", (Line(1.0, nearest.off(placed.position[:2]), "in plan", (handle, nearest.handle)),)
    )
    limit = float(limits[point.sensing or "ionization"]) * FOOT
    rule = plan.practice.rule("alarm-cooking")
    words = f"{handle} is {format_length(off.total, plan.drawing.house.unit)} from cooker {nearest.handle}"
    if at_least(off.total, limit):
        yield Finding(rule, (handle,), words, Passes(), "layout", off, limit)
    elif not point.sensing and at_least(off.total, float(limits["photoelectric"]) * FOOT):
        yield Finding(rule, (handle,), words, NotKnown("what the alarm senses: photoelectric may stand here"), "layout", off, limit)  # fmt: skip
    else:
        yield Finding(rule, (handle,), words, Fails(), "layout", off, limit)


def _bath_door(plan: Plan, handle: Handle) -> Iterator[Finding]:
    placed, rooms = plan.placed[handle], plan.drawing.of(Room)
    # A bath room of which nothing is drawn yet is taken to have its tub.
    dry = {
        h
        for h in rooms
        if (there := plan.blocks_in(h)) and not any(b.kind in ("bath", "shower") for b in there)
    }
    baths = {o for h, of in plan.openings.items() if rooms[h].use == "bath" and h not in dry for o in of}
    where, limit = plan.rooms[placed.room], plan.practice.mm("alarm-bath")
    for door, opening in plan.openings[placed.room].items():
        if door in baths and opening.kind == "door" and opening.wall <= len(where.walls):
            wall = where.walls[opening.wall - 1]
            off = distance(wall.at(opening.at.mm + opening.width.mm / 2), placed.position[:2])
            if not at_least(off, limit):
                words = f"{handle} is {format_length(off, plan.drawing.house.unit)} from the bath room's door {door}"
                yield failed(plan, "alarm-bath", "layout", (handle, door), words)


def _linked(plan: Plan) -> Iterator[Finding]:
    alarms = {h: p for h, p in plan.drawing.of(Point).items() if p.kind == "alarm"}
    wired = {h: p for h, p in alarms.items() if p.link == "wire"}
    circuits = {p.circuit for p in wired.values()}
    if len(circuits) > 1:
        words = "The alarms are on different circuits, so their interconnect cannot join them, unless they are linked by radio"
        yield failed(plan, "alarm-linked", "layout", tuple(wired), words, count=len(circuits))
    smoke = [h for h, p in alarms.items() if p.sensing not in ("heat", "carbon monoxide")]
    if len(smoke) > int(plan.practice.value("alarm-linked")):
        words = f"{len(smoke)} smoke alarms are more than one link takes"
        yield failed(plan, "alarm-linked", "layout", ("house",), words, count=len(smoke))
    if plan.practice.holds("alarm-linked-all") and len(alarms) > int(plan.practice.value("alarm-linked-all")):
        words = f"{len(alarms)} alarms of all kinds are more than one link takes"
        yield failed(plan, "alarm-linked-all", "layout", ("house",), words, count=len(alarms))
