"""Points that a rule asks for and nobody has placed: outlets over counters, alarms, a light with its switch.

Each function gives an edit that puts the least in the plainest place that passes, or None
where no place passes.
"""

from __future__ import annotations

import itertools
import math

from fjeld import geometry
from fjeld.derive.facts.counters import CounterSpace, counter_spaces, outlets_over
from fjeld.derive.facts.sleeping import outside_sleeping
from fjeld.derive.facts.spots import ABOVE, BEFORE
from fjeld.derive.places import body_of, usual_outlet_height
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Together
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Circuit, Control, LoadRef, Point, PointKind, Sensing
from fjeld.practice import rules
from fjeld.propose import groups, stops
from fjeld.propose.outlets import allowed
from fjeld.quantities import INCH, Length

#: The bottom of an outlet over a counter stands so far above its top, mm.
OVER_TOP = 150.0
#: An alarm stays so far off a joist's side, and off lights: well away where the room allows it, else just
#: clear.
OFF_JOIST = 2 * INCH
OFF_LIGHTS = (700.0, 300.0)
#: Its place is looked for around the middle of the ceiling, every so many mm, so many times each way.
TRIED_EVERY = 6 * INCH
TRIED = range(-12, 13)
#: Half of what a ceiling box takes up to each side, mm.
HALF_BOX = 65.0


def circuit_for(plan: Plan, kind: PointKind, room: Handle) -> Handle | None:
    """The circuit for one more point of this kind: that of the room's others, else one protected as the room
    wants.
    """
    like = ("outlet",) if kind == "outlet" else ("light", "fan", "alarm")
    others = {h: p for h, p in plan.drawing.of(Point).items() if p.kind in like and p.circuit}
    here = [p.circuit for p in others.values() if p.room == room]
    if here:
        return here[0]
    rooms, circuits = plan.drawing.of(Room), plan.drawing.of(Circuit)
    wanted = groups.protection(plan, [Point(kind, room)])
    # Outlets of these places are on circuits of their own kind.
    kept = {"kitchen", "bath", "laundry", "garage"} if kind == "outlet" else set()
    fitting = [
        p.circuit
        for p in others.values()
        if p.circuit
        and circuits[p.circuit].protection == wanted
        and (rooms[p.room].use == rooms[room].use or not {rooms[p.room].use, rooms[room].use} & kept)
    ]
    return next(iter(fitting), None)


def over_counter(plan: Plan, room: Handle, mint: Fresh) -> Edit | None:
    """The fewest outlets over the counters of a room, evenly along each stretch, beside studs where the wall
    is open.
    """
    reach = plan.practice[rules.COUNTER_REACH]
    circuit = circuit_for(plan, "outlet", room)
    things: dict[Handle, Point] = {}
    for space in counter_spaces(plan, room):
        here = sorted(outlets_over(plan, room, space))
        if here and _worst(here, space.start, space.end) <= reach:
            continue
        bottom = space.top + OVER_TOP
        spots = _over(plan, room, space, bottom)
        for at in _cover(spots, space.start, space.end, reach):
            if not any(abs(at - old) < 100.0 for old in here):
                things[mint.fresh("outlet")] = Point(
                    kind="outlet",
                    room=room,
                    wall=space.wall,
                    at=Length(round(at, 2)),
                    height=Length(round(bottom, 2)),
                    edge="bottom",
                    circuit=circuit,
                    by="fjeld",
                )
    return Place(dict(things), f"{len(things)} over the counter") if things else None


def _outlet_body(plan: Plan) -> tuple[float, float]:
    return body_of("outlet", 1, 1, plan.practice)


def _over(plan: Plan, room: Handle, space: CounterSpace, bottom: float) -> list[float]:
    blocks = tuple(b for b in plan.blocks_in(room) if b.kind not in ("counter", "cooker", "sink"))
    opens = tuple(plan.openings[room].values())
    found = allowed(
        plan.rooms[room],
        opens,
        blocks=blocks,
        room=plan.drawing.get(room, Room),
        bottom=bottom,
        body=_outlet_body(plan),
    )
    return [along for _, wall, along in found if wall == space.wall and space.start <= along <= space.end]


def _worst(here: list[float], start: float, end: float) -> float:
    gaps = [(b - a) / 2 for a, b in itertools.pairwise(here)]
    return max(here[0] - start, end - here[-1], *gaps)


def _cover(spots: list[float], start: float, end: float, reach: float) -> list[float]:
    """The fewest of ``spots`` so that no point from ``start`` to ``end`` is out of reach (greedy, optimal on
    a line).
    """
    chosen: list[float] = []
    open_from = start
    while open_from < end - 0.5:
        near = [s for s in spots if s <= open_from + reach + 0.5 and s > open_from - reach]
        if not near:
            return chosen
        best = max(near)
        if chosen and best <= chosen[-1]:
            return chosen
        chosen.append(best)
        open_from = best + reach
    return chosen


def beside_basin(plan: Plan, basin: Handle, mint: Fresh) -> Edit | None:
    """An outlet within reach of a basin, as near its height as the wall allows, clear of tubs."""
    block = plan.blocks[basin]
    room, where = block.room, plan.rooms[block.room]
    bottom = block.high - where.level + OVER_TOP
    rest = tuple(b for b in plan.blocks_in(room) if b.kind != "basin")
    spots = allowed(
        where,
        tuple(plan.openings[room].values()),
        blocks=rest,
        room=plan.drawing.get(room, Room),
        bottom=bottom,
        body=_outlet_body(plan),
    )
    limit = plan.practice[rules.BASIN_OUTLET]
    tubs = [b for b in plan.blocks_in(room) if b.kind in ("bath", "shower")]
    around = plan.practice[rules.TUB_OUTLET][0] if rules.TUB_OUTLET in plan.practice else 0.0
    best: tuple[float, int, float] | None = None
    for _, wall, along in spots:
        at = where.walls[wall - 1].at(along)
        off = block.off(at)
        if off <= limit and all(t.off(at) >= around for t in tubs) and (best is None or off < best[0]):
            best = (off, wall, along)
    if best is None:
        return None
    _, wall, along = best
    point = Point(
        kind="outlet",
        room=room,
        wall=wall,
        at=Length(round(along, 2)),
        height=Length(round(bottom, 2)),
        edge="bottom",
        circuit=circuit_for(plan, "outlet", room),
        by="fjeld",
    )
    return Place({mint.fresh("outlet"): point}, f"an outlet by {basin}")


def one_outlet(plan: Plan, room: Handle, mint: Fresh) -> Edit | None:
    """One outlet in a place that wants one, beside a stud of its longest wall."""
    where = plan.rooms[room]
    own = usual_outlet_height(plan.drawing.get(room, Room).use, plan.practice)
    bottom = own.mm if own else plan.practice[rules.OUTLET_HEIGHT]
    spots = allowed(
        where,
        tuple(plan.openings[room].values()),
        blocks=tuple(plan.blocks_in(room)),
        room=plan.drawing.get(room, Room),
        bottom=bottom,
        body=_outlet_body(plan),
    )
    if not spots:
        return None
    longest = max(where.walls, key=lambda w: w.length)
    _, wall, along = min(spots, key=lambda s: (s[1] != longest.number, abs(s[2] - longest.length / 2)))
    point = Point(
        "outlet",
        room,
        wall,
        Length(round(along, 2)),
        own,
        circuit=circuit_for(plan, "outlet", room),
        by="fjeld",
    )
    return Place({mint.fresh("outlet"): point}, f"an outlet in {plan.drawing.get(room, Room).name}")


def alarm(
    plan: Plan, room: Handle, mint: Fresh, heat: bool = False, sensing: Sensing = "photoelectric"
) -> Edit | None:
    """An alarm on the ceiling, as near the middle as joists, cookers and bath doors allow."""
    where = plan.rooms[room]
    middle = geometry.middle(where.corners)
    framing = plan.drawing.get(room, Room)
    clear = framing.joists.thick.mm / 2 + OFF_JOIST
    tries = sorted(
        ((middle[0] + dx * TRIED_EVERY, middle[1] + dy * TRIED_EVERY) for dx in TRIED for dy in TRIED),
        key=lambda p: math.dist(p, middle),
    )
    for apart in OFF_LIGHTS:
        for x, y in tries:
            if _takes_alarm(plan, room, (x, y), clear, apart) and (heat or _calm(plan, room, (x, y))):
                px, py = where.local((x, y))
                point = Point(
                    "alarm",
                    room,
                    x=Length(round(px, 1)),
                    y=Length(round(py, 1)),
                    circuit=_alarm_circuit(plan, room),
                    sensing="heat" if heat else sensing,
                    by="fjeld",
                )
                return Place({mint.fresh("alarm"): point}, f"an alarm in {framing.name}")
    return None


def _takes_alarm(plan: Plan, room: Handle, at: tuple[float, float], clear: float, apart: float) -> bool:
    """Whether the ceiling is free here: a foot from walls, clear of joists, of other boxes, and of what is in
    the way.
    """
    where = plan.rooms[room]
    if not geometry.contains(where.corners, at):
        return False
    if any(geometry.to_segment(at, w.start, w.end) <= 305.0 for w in where.walls):
        return False
    if any(abs(at[where.joist_axis] - j) < clear for j in where.joists):
        return False
    others = [p for p in plan.placed.values() if p.room == room and not p.wall]
    return all(math.dist(p.position[:2], at) > apart for p in others) and not overhead(plan, room, at)


def _alarm_circuit(plan: Plan, room: Handle) -> Handle | None:
    standing = (p.circuit for p in plan.drawing.of(Point).values() if p.kind == "alarm" and p.circuit)
    return next(standing, circuit_for(plan, "alarm", room))


def _calm(plan: Plan, room: Handle, at: tuple[float, float]) -> bool:
    """Whether a photoelectric alarm here is far enough from cookers and from bath rooms' doors."""
    level = plan.rooms[room].level
    far = plan.practice[rules.ALARM_COOKING]["photoelectric"]
    cookers = [
        b for b in plan.blocks.values() if b.kind == "cooker" and abs(plan.rooms[b.room].level - level) < 1.0
    ]
    rooms = plan.drawing.of(Room)
    baths = {o for h, of in plan.openings.items() if rooms[h].use == "bath" for o in of}
    doors = [o for h, o in plan.openings[room].items() if h in baths]
    steam = [plan.rooms[room].walls[o.wall - 1].at(o.at.mm + o.width.mm / 2) for o in doors]
    return all(b.off(at) >= far for b in cookers) and all(
        math.dist(s, at) >= plan.practice[rules.ALARM_BATH] for s in steam
    )


def overhead(plan: Plan, room: Handle, at: tuple[float, float]) -> bool:
    """Whether a beam or duct is under or over the ceiling here."""
    z = plan.rooms[room].level + plan.rooms[room].ceiling_at(at)
    return any(
        b.in_the_way and b.met((*at, z - BEFORE), (*at, z + ABOVE), HALF_BOX) for b in plan.blocks_in(room)
    )


def outside_gas(plan: Plan, bedroom: Handle, mint: Fresh) -> Edit | None:
    """A carbon monoxide alarm in the first of the rooms that a bedroom opens from."""
    beyond = outside_sleeping(plan).get(bedroom, [])
    return alarm(plan, beyond[0], mint, sensing="carbon monoxide") if beyond else None


def outside(plan: Plan, bedroom: Handle, mint: Fresh) -> Edit | None:
    """An alarm in the first of the rooms that a bedroom opens from."""
    beyond = outside_sleeping(plan).get(bedroom, [])
    return alarm(plan, beyond[0], mint) if beyond else None


def switched_light(plan: Plan, room: Handle, mint: Fresh) -> Edit | None:
    """A ceiling light in the middle, with a switch beside the first door, or a switch for the lights there
    are.

    A switch that stands in the room and works nothing yet is the one that is used.
    """
    points = plan.drawing.of(Point)
    lights = [h for h, p in points.items() if p.room == room and p.kind in ("light", "fan")]
    things: dict[Handle, Point | Control] = {}
    if not lights:
        where = plan.rooms[room]
        x, y = where.local(geometry.middle(where.corners))
        handle = mint.fresh("light")
        things[handle] = Point(
            "light",
            room,
            x=Length(round(x, 1)),
            y=Length(round(y, 1)),
            circuit=circuit_for(plan, "light", room),
            by="fjeld",
        )
    loads = tuple(map(LoadRef, lights or things))
    name = plan.drawing.get(room, Room).name
    if idle := _idle_switch(plan, room):
        things[mint.fresh("control")] = Control((idle,), loads)
        return Together(
            (Place(dict(things), name),),
            f"Let {idle} work {'the light' if lights else 'a new light'} of {name}",
        )
    if (spot := _beside_a_door(plan, room)) is None:
        return None
    switch = mint.fresh("switch")
    things[switch] = Point("switch", room, spot[0], Length(round(spot[1], 2)), by="fjeld")
    things[mint.fresh("control")] = Control((switch,), loads)
    return Place(
        dict(things), f"a switched light in {name}" if not lights else f"a switch for the light of {name}"
    )


def _beside_a_door(plan: Plan, room: Handle) -> tuple[int, float] | None:
    """(wall, along) for a switch beside the first door that leaves room for one."""
    width = body_of("switch", 1, 1, plan.practice)[0]
    doors = (h for h, o in plan.openings[room].items() if o.kind == "door")
    return next((spot for d in doors if (spot := stops.beside_door(plan, d, room, width))), None)


def _idle_switch(plan: Plan, room: Handle) -> Handle | None:
    """The first switch of a room that is in no control."""
    used = {p for control in plan.drawing.of(Control).values() for p in control.positions}
    points = plan.drawing.of(Point)
    return next(
        (h for h, p in points.items() if p.room == room and p.kind == "switch" and h not in used), None
    )
