"""Smoke alarms: where they must be, what sets them off wrongly, and that all of them sound."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

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
    leads: dict[Handle, set[Handle]] = defaultdict(set)
    for into, openings in plan.openings.items():
        for opening in openings:
            leads[opening].add(into)
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
    """Where fuel is burned, a carbon monoxide alarm outside each sleeping room."""
    if not plan.practice.holds("alarm-gas"):
        return
    burning = [b.handle for b in plan.blocks.values() if b.kind in plan.practice.value("alarm-gas")]
    points = plan.drawing.of(Point)
    warned = {
        p.room for h, p in plan.placed.items() if p.kind == "alarm" and points[h].sensing == "carbon monoxide"
    }
    for handle, beyond in outside_sleeping(plan).items():
        if burning and beyond and not warned & {handle, *beyond}:
            name = plan.drawing.get(handle, Room).name
            words = f"No carbon monoxide alarm outside {name}; {', '.join(burning)} burns fuel or carries it"
            yield failed(plan, "alarm-gas", "layout", (handle, *beyond), words)


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
    baths = {o for h, of in plan.openings.items() if rooms[h].use == "bath" for o in of}
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
    circuits = {p.circuit for p in alarms.values()}
    if len(circuits) > 1:
        words = "The alarms are on different circuits, so their interconnect cannot join them"
        yield failed(plan, "alarm-linked", "layout", tuple(alarms), words)
    if len(alarms) > int(plan.practice.value("alarm-linked")):
        words = f"{len(alarms)} alarms are more than one link takes"
        yield failed(plan, "alarm-linked", "layout", ("house",), words)
