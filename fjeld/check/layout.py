"""Where boxes go: inside their room, clear of framing, and as near as the rules want them."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from fjeld.check import Finding, failed, unknown
from fjeld.derive.light import BEAM, LUMENS, Lamp, light_map
from fjeld.derive.places import overlap
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import offset_in, spaces, too_far, wall_starts
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, Opening, Point, Room, load_part, load_point
from fjeld.geometry import to_segment
from fjeld.quantities import Fails, Line, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the layout."""
    yield from _places(plan)
    yield from _apart(plan)
    for handle, room in plan.drawing.of(Room).items():
        if plan.rooms[handle].closed:
            yield from _outlets(plan, handle, room)
            yield from _switched(plan, handle, room)
            yield from _latch(plan, handle)
            yield from _alarms(plan, handle, room)
            yield from _light(plan, handle, room)
    yield from _linked(plan)


def _places(plan: Plan) -> Iterator[Finding]:
    unit = plan.drawing.house.unit
    for handle, placed in plan.placed.items():
        where = plan.rooms[placed.room]
        if not placed.inside or _in_opening(plan, handle):
            yield failed(
                plan,
                "inside-room",
                "layout",
                (handle,),
                f"{handle} lies outside its room or wall, or in an opening",
            )
            continue
        if placed.sits == "clash":
            member = "stud" if placed.wall else "joist"
            words = f"{handle} meets a {member}: {format_length(-placed.gap, unit)} of the box is where the {member} stands"
            yield failed(plan, "clear-of-framing", "layout", (handle,), words)
        if placed.kind == "switch" and not at_most(placed.position[2], plan.practice.mm("switch-handle")):
            yield failed(
                plan,
                "switch-handle",
                "layout",
                (handle,),
                f"{handle} is out of reach at {format_length(placed.position[2], unit)}",
            )
        if placed.kind == "light" and not placed.wall:
            off = min(to_segment(placed.position[:2], w.start, w.end) for w in where.walls)
            if off < plan.practice.mm("row-clearance") - 0.5:
                yield failed(
                    plan,
                    "row-clearance",
                    "layout",
                    (handle,),
                    f"{handle} is {format_length(off, unit)} from a wall",
                )
        if placed.kind == "alarm" and placed.wall:
            down = where.height - placed.position[2]
            if not at_most(down, plan.practice.mm("alarm-wall")):
                yield unknown(
                    plan,
                    "alarm-wall",
                    "layout",
                    (handle,),
                    f"{handle} hangs {format_length(down, unit)} below the ceiling",
                    "the maker's sheet",
                )


def _apart(plan: Plan) -> Iterator[Finding]:
    boxes = [p for p in plan.placed.values() if p.kind != "panel"]
    for a, b in combinations(boxes, 2):
        if overlap(a, b):
            pair = sorted((a.handle, b.handle), key=order)
            yield failed(
                plan, "boxes-apart", "layout", pair, f"{pair[0]} and {pair[1]} stand in each other's place"
            )


def _in_opening(plan: Plan, handle: Handle) -> bool:
    placed = plan.placed[handle]
    for opening in plan.drawing.of(Opening).values():
        if placed.wall and opening.room == placed.room and opening.wall == placed.wall:
            across = (
                opening.at.mm - placed.width / 2
                < placed.along
                < opening.at.mm + opening.width.mm + placed.width / 2
            )
            if across and opening.sill.mm < placed.position[2] < opening.head.mm:
                return True
    return False


def outlet_offsets(plan: Plan, room: Handle) -> dict[Handle, float]:
    """Unrolled positions of the outlets that count for wall space: low enough, and not wholly switched."""
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
        and at_most(p.position[2], limit)
    }


def _outlets(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if room.use not in plan.practice.value("outlet-rooms"):
        return
    where, unit = plan.rooms[handle], plan.drawing.house.unit
    openings = [o for o in plan.drawing.of(Opening).values() if o.room == handle]
    reach = plan.practice.mm("outlet-reach")
    around = wall_starts(where)[-1]
    positions = outlet_offsets(plan, handle)
    for n, space in enumerate(spaces(where, openings, plan.practice.mm("wall-space")), 1):
        inside = {h: o for h, at in positions.items() if (o := offset_in(space, at, around)) is not None}
        beyond = too_far(space, list(inside.values()), reach)
        rule = plan.practice.rule("outlet-reach")
        words = f"Wall space {n} of {room.name}, {format_length(space.length, unit)}"
        if not beyond:
            yield Finding(
                rule, (handle, *inside), f"{words}: no point out of reach", Passes(), "layout", place=str(n)
            )
        for stretch in beyond:
            start = format_length((space.start + stretch.start) % around, unit)
            line = Line(1.0, reach + stretch.by, "to the nearest outlet of this space", tuple(inside))
            far = f"{words}: {format_length(stretch.by, unit)} too far, {format_length(stretch.end - stretch.start, unit)} of wall from {start}"
            yield Finding(
                rule,
                (handle,),
                far,
                Fails(),
                "layout",
                Working("Distance", "mm", (line,)),
                reach,
                f"{n}@{round(stretch.start)}",
            )


def _switched(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    if room.use not in plan.practice.value("switched-light"):
        return
    points = plan.drawing.of(Point)
    for control in plan.drawing.of(Control).values():
        here = [p for load in control.loads if (p := points[load_point(load)]).room == handle]
        if control.positions and any(p.kind in ("light", "fan", "outlet") for p in here):
            return
    yield failed(plan, "switched-light", "layout", (handle,), f"No switch works a light in {room.name}")


def _latch(plan: Plan, handle: Handle) -> Iterator[Finding]:
    where = plan.rooms[handle]
    near = plan.practice.mm("switch-latch")
    starts = wall_starts(where)
    switches = {
        h: starts[p.wall - 1] + p.along
        for h, p in plan.placed.items()
        if p.kind == "switch" and p.room == handle and p.wall
    }
    for door, opening in plan.drawing.of(Opening).items():
        if opening.kind != "door" or opening.room != handle:
            continue
        latch = (
            starts[opening.wall - 1] + opening.at.mm + (opening.width.mm if opening.hinge == "start" else 0.0)
        )
        if not any(_between(at, latch, starts[-1]) <= near for at in switches.values()):
            yield failed(plan, "switch-latch", "layout", (door,), f"No switch on the latch side of {door}")


def _between(a: float, b: float, around: float) -> float:
    return min((a - b) % around, (b - a) % around)


def _alarms(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    alarmed = any(p.kind == "alarm" and p.room == handle for p in plan.placed.values())
    if room.use in plan.practice.value("alarm-rooms") and not alarmed:
        yield failed(plan, "alarm-rooms", "layout", (handle,), f"No smoke alarm in {room.name}")


def lamps_of(plan: Plan, room: Handle) -> list[Lamp]:
    """The ceiling lights of a room as lamps; what nobody said is estimated."""
    points = plan.drawing.of(Point)
    return [
        Lamp(
            h, placed.position, p.lumens or LUMENS, p.beam or BEAM, p.lumens is None,
        )
        for h, p in points.items()
        if p.kind == "light" and not p.wall and p.room == room and (placed := plan.placed.get(h)) and placed.inside
    ]  # fmt: skip


def _light(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    """Mean light on the floor against what the room's use wants; never more than advice, being an estimate."""
    wanted = plan.practice.value("light-wanted").get(room.use)
    lamps = lamps_of(plan, handle)
    found = light_map(plan.rooms[handle], lamps, 0.0, 300.0) if wanted else None
    if found is None:
        return
    lines = tuple(
        Line(1.0, found.figures.mean - rest.mean, f"{lamp}", (lamp,)) for lamp, rest in found.without.items()
    )
    guess = ", lamps estimated" if any(lamp.estimated for lamp in lamps) else ""
    mean = Working("Mean light", "lx", lines)
    verdict = Passes() if at_least(mean.total, float(wanted), 0.5) else Fails()
    words = f"{room.name} has {mean.total:.0f} lx on the floor of {wanted} wanted{guess}"
    yield Finding(plan.practice.rule("light-wanted"), (handle,), words, verdict, "layout", mean, float(wanted))


def _linked(plan: Plan) -> Iterator[Finding]:
    alarms = {h: p for h, p in plan.drawing.of(Point).items() if p.kind == "alarm"}
    circuits = {p.circuit for p in alarms.values()}
    if len(circuits) > 1:
        yield failed(
            plan,
            "alarm-linked",
            "layout",
            tuple(alarms),
            "The alarms are on different circuits, so their interconnect cannot join them",
        )
    if len(alarms) > int(plan.practice.value("alarm-linked")):
        yield failed(
            plan, "alarm-linked", "layout", ("house",), f"{len(alarms)} alarms are more than one link takes"
        )
