"""What would put a finding right, worked out when the finding is shown.

A fix is an edit like any other. It removes its finding and brings none that is worse;
a property test holds it to that.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from fjeld.check import Finding
from fjeld.derive.facts.spaces import outlet_offsets, reached, wanted_in
from fjeld.derive.places import body_of, usual_outlet_height
from fjeld.derive.plan import Plan, derive
from fjeld.derive.wall_spaces import wall_starts
from fjeld.drawing.building import OldBox, Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Fresh, Handle, Mint
from fjeld.drawing.model import Cable, Circuit, Control, Point, load_point
from fjeld.practice import rules
from fjeld.practice.rules import DECLARED, RuleKey
from fjeld.propose import align, groups, outlets, protection, reach, rings, rows, stops, wanted
from fjeld.propose.attach import settle
from fjeld.quantities import Fails, Length

Fix = Callable[[Plan, Finding, Fresh], Edit | None]


def fix(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """An edit that removes the finding, or None when only a person can."""
    if not finding.open:
        return None
    found = _FIXES.get(DECLARED[finding.rule.id])
    edit = found(plan, finding, mint) if found else None
    if isinstance(edit, MovePoint):
        # What sits in another's box moves with it.
        return msgspec.structs.replace(edit, handle=plan.home(edit.handle))
    return edit


def _outlet(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    room = Handle(finding.handles[0])
    return outlets_by_wall_space(plan, room, mint)


def outlets_by_wall_space(plan: Plan, room: Handle, mint: Fresh) -> Place | None:
    """The outlets that a room's wall spaces still want, placed; None where none is wanted."""
    missing = missing_outlets(plan, room)
    if missing is None or not missing.added:
        return None
    circuit = wanted.circuit_for(plan, "outlet", room)
    height = usual_outlet_height(plan.drawing.get(room, Room).use, plan.practice)
    things = {
        mint.fresh("outlet"): Point(
            "outlet", room, wall, Length(round(at, 2)), height, circuit=circuit, by="fjeld"
        )
        for wall, at in missing.added
    }
    return Place(dict(things), f"{len(things)} outlet{'s' if len(things) > 1 else ''} by the wall-space rule")


def missing_outlets(plan: Plan, room: Handle) -> outlets.OutletPlan | None:
    """The outlets that a room's wall spaces still want; None while its walls do not close."""
    where = plan.rooms[room]
    if not where.closed:
        return None
    measured = plan.drawing.get(room, Room)
    around = tuple(plan.openings[room].values())
    if rules.OUTLET_REACH not in plan.practice:
        return None
    own = usual_outlet_height(measured.use, plan.practice)
    return outlets.propose(
        where, around, tuple(plan.blocks_in(room)), list(outlet_offsets(plan, room).values()),
        measured, own.mm if own else plan.practice[rules.OUTLET_HEIGHT], body_of("outlet", 1, 1, plan.practice),
        plan.practice[rules.OUTLET_REACH], plan.practice[rules.WALL_SPACE],
    )  # fmt: skip


def _breaker(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    if not isinstance(finding.verdict, Fails):
        # What only a look or a reading settles, no breaker does.
        return None
    handle = Handle(finding.handles[0])
    piece = plan.drawing.items[handle]
    if isinstance(piece, Cable):
        gauge = plan.drawing.get(piece.circuit, Circuit).gauge
        return Revise(handle, {"gauge": ""}, f"Make {handle} of gauge {gauge}, as the rest of {piece.circuit}")
    limits = plan.practice[rules.BREAKER_GAUGE]
    limit = limits[plan.drawing.get(handle, Circuit).gauge]
    found = plan.drawing.items.get(Handle(finding.handles[-1]))
    if isinstance(found, OldBox):
        limit = min(limit, *(limits[c.gauge] for c in found.cables if c.gauge in limits))
    return Revise(handle, {"breaker": int(limit)}, f"Put {handle} on a {limit} A breaker")


def _box(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    handle = Handle(finding.handles[0])
    if handle in plan.begun or not plan.boxes[handle].pinned:
        return None
    return Revise(handle, {"box": ""}, f"Give {handle} the least box that passes")


def _move_clear(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """To the nearest place beside a stud, or the whole row by the least that clears the joists."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    if placed.wall and (paired := reach.moved_as_pair(plan, handle)):
        return paired
    if placed.wall:
        closed = plan.drawing.get(placed.room, Room).build(placed.wall).closed
        wished = "between studs" if closed else "nailed to a stud"
        spots = [s for s in stops.wall_stops(plan, handle) if s.why == wished]
        for stop in sorted(spots, key=lambda s: (abs(s.at - placed.along), s.at)):
            if placed.kind != "outlet" or _out_of_reach(plan, handle, stop.at) <= _out_of_reach(
                plan, handle, placed.along
            ):
                return MovePoint(handle, at=Length(stop.at))
        return None
    axis = plan.rooms[placed.room].joist_axis
    room = plan.drawing.get(placed.room, Room)
    needed = room.joists.thick.mm / 2 + placed.width / 2
    try:
        shift = rows.least_shift(placed.position[axis], plan.rooms[placed.room].joists, needed)
    except rows.RowsRefused:
        return None
    return MoveRow(handle, **{("dx", "dy")[axis]: shift})


def _out_of_reach(plan: Plan, outlet: Handle, along: float) -> float:
    """Wall out of reach in all of a room, mm, if one outlet stood ``along`` its wall."""
    placed = plan.placed[outlet]
    if not wanted_in(plan, placed.room):
        return 0.0
    counted = outlet in outlet_offsets(plan, placed.room)
    there = wall_starts(plan.rooms[placed.room])[placed.wall - 1] + along
    found = reached(plan, placed.room, {outlet: there} if counted else {})
    return round(sum(t.end - t.start for each in found for t in each.beyond), 3)


def _circuit(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    handle = Handle(finding.handles[0])
    if handle not in plan.drawing.of(Point) or plan.drawing.get(handle, Point).circuit is not None:
        return None
    return groups.propose(plan, mint)


def _loop(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    return Remove(Handle(finding.handles[0]))


def _neutral(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    handle = Handle(finding.handles[0])
    return Revise(handle, {"neutral": "rule"}, f"Bring a neutral to {handle}")


def _latch(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """A switch beside the door, put in with whatever works the room's lights already, or all of them."""
    door, room = Handle(finding.handles[0]), Handle(finding.handles[1])
    placed = switch_beside(plan, door, room, mint)
    if placed is None:
        return None
    (switch,) = placed.things
    lights = [h for h, p in plan.drawing.of(Point).items() if p.kind == "light" and p.room == room]
    for handle, control in plan.drawing.of(Control).items():
        # A timer or a sensor works alone.
        if set(control.loads) & set(lights) and control.positions and control.device not in ("timer", "sensor"):
            # One position more is a cable or a conductor more in boxes of its circuit: not where one is full already.
            circuit = plan.control_circuit(handle)
            on_it = plan.circuits[circuit].boxes if circuit in plan.circuits else ()
            if not all(plan.boxes[plan.home(h)].has_reserve for h in on_it):
                return None
            joined = Revise(handle, {"positions": (*control.positions, switch)})
            both = Together((placed, joined), f"Place a switch beside {door} for {handle}")
            return both if _fits(plan, both) else None
    worked = {load_point(load) for c in plan.drawing.of(Control).values() for load in c.loads}
    loads = tuple(h for h in lights if plan.drawing.get(h, Point).circuit is not None and h not in worked)
    if not loads:
        return None
    fresh = Place({mint.fresh("control"): Control((switch,), loads)}, "a control")
    return Together((placed, fresh), f"Place a switch beside {door} for {', '.join(loads)}")


def _fits(plan: Plan, edit: Edit) -> bool:
    """Whether after an edit no cable lacks a core and no box is over-full that did or was not before."""
    after = derive(apply(plan.drawing, settle(plan.drawing, edit, Mint(plan.drawing.items))))
    lacking = [{e for c in p.circuits.values() for e in c.nets.overflow} for p in (plan, after)]
    full = [{h for h, b in p.boxes.items() if not b.passes} for p in (plan, after)]
    return lacking[1] <= lacking[0] and full[1] <= full[0]


def switch_beside(plan: Plan, door: Handle, room: Handle, mint: Fresh) -> Place | None:
    """A switch on the latch side of a door, in one of the rooms it leads to."""
    spot = stops.beside_door(plan, door, room, body_of("switch", 1, 1, plan.practice)[0])
    if spot is None:
        return None
    wall, at = spot
    return Place(
        {mint.fresh("switch"): Point("switch", room, wall, Length(round(at, 2)), by="fjeld")},
        f"a switch beside {door}",
    )


def _control(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    handle = Handle(finding.handles[0])
    return Remove(handle) if handle.startswith("K") and "works nothing" in finding.words else None


def _in_room(put: Callable[[Plan, Handle, Fresh], Edit | None]) -> Fix:
    """A fix that puts something into the room that the finding names first."""
    return lambda plan, finding, mint: put(plan, Handle(finding.handles[0]), mint)


def _nearest_stud(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """Along its wall to the nearest place beside a stud, or in a finished wall to the nearest clear bay."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    if not placed.wall:
        return _between_joists(plan, handle)
    wanted = "between studs" if finding.rule.id == rules.CUT_IN_CLEAR.id else "nailed to a stud"
    spots = [s for s in stops.wall_stops(plan, handle) if s.why == wanted]
    best = stops.nearest(spots, placed.along)
    if best is None or abs(best.at - placed.along) < 0.5:
        return None
    if placed.kind == "outlet" and _out_of_reach(plan, handle, best.at) > _out_of_reach(
        plan, handle, placed.along
    ):
        return None
    return MovePoint(handle, at=Length(best.at))


def _between_joists(plan: Plan, handle: Handle) -> Edit | None:
    """Across the joists to the nearest place where the box clears them as one cut into a finished ceiling is to."""
    axis, placed = plan.rooms[plan.placed[handle].room].joist_axis, plan.placed[handle]
    near = plan.practice[rules.CUT_IN_CLEAR]
    thick = plan.drawing.get(placed.room, Room).joists.thick.mm
    joists, half = plan.rooms[placed.room].joists, (placed.width + thick) / 2
    spots = [
        s for s in stops.ceiling_stops(plan, handle, axis) if all(abs(s.at - j) - half >= near for j in joists)
    ]
    best = stops.nearest(spots, placed.position[axis])
    return (
        MovePoint(handle, **{"xy"[axis]: Length(best.at - plan.rooms[placed.room].origin[axis])})
        if best
        else None
    )


def _clear_of_bodies(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """Along its wall, or over the ceiling, to the nearest stop that is free."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    if placed.kind == "panel":
        return None
    if placed.wall:
        best = stops.nearest(stops.wall_stops(plan, handle), placed.along)
        return MovePoint(handle, at=Length(best.at)) if best else None
    ways: list[tuple[float, Edit]] = []
    for axis, field in ((0, "dx"), (1, "dy")):
        stop = stops.nearest(stops.ceiling_stops(plan, handle, axis), placed.position[axis])
        if stop:
            off = stop.at - placed.position[axis]
            ways.append((abs(off), MoveRow(handle, **{field: off})))
    return min(ways, key=lambda w: w[0])[1] if ways else None


def _level(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """To the height of most boxes of its kind in the room."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    others = [
        h for h, p in plan.placed.items()
        if p.room == placed.room and p.kind == placed.kind and p.wall and abs(p.height - placed.height) > 1.0
    ]  # fmt: skip
    heights = [round(plan.placed[h].height, 1) for h in others]
    usual = max(set(heights), key=heights.count, default=None)
    like = next((h for h in others if round(plan.placed[h].height, 1) == usual), None)
    return align.level_with(plan, handle, like) if like else None


_FIXES: dict[RuleKey[Any], Fix] = {
    rules.OUTLET_REACH: _outlet,
    rules.BREAKER_GAUGE: _breaker,
    rules.ARC_FAULT: protection.at_the_breaker,
    rules.GROUND_FAULT: protection.ground_fault,
    rules.RESIDUAL: protection.at_the_breaker,
    rules.ALARM_BEHIND: protection.ahead,
    rules.LIGHT_BEHIND: protection.ahead,
    rules.ONE_SIDE: protection.ahead,
    rules.LOAD_SIDE_THERE: protection.device_there,
    rules.PROTECTIVE_WHOLE: protection.whole,
    rules.BOX_FILL: _box,
    rules.BOX_RESERVE: _box,
    rules.END_OF_RUN_BOX: _box,
    rules.CLEAR_OF_FRAMING: _move_clear,
    rules.CIRCUIT_FED: _circuit,
    rules.NO_LOOPS: _loop,
    rules.RING_CLOSED: lambda plan, finding, mint: rings.close(plan, Handle(finding.handles[0]), mint),
    rules.ONE_HOME_RUN: _loop,
    rules.NEUTRAL_AT_SWITCH: _neutral,
    rules.SWITCH_LATCH: _latch,
    rules.CONTROL_COMPLETE: _control,
    rules.NAIL_ON_FACE: _nearest_stud,
    rules.CUT_IN_CLEAR: _nearest_stud,
    rules.CLEAR_OF_BODIES: _clear_of_bodies,
    rules.HEIGHTS_MATCH: _level,
    rules.COUNTER_REACH: _in_room(wanted.over_counter),
    rules.BASIN_OUTLET: _in_room(wanted.beside_basin),
    rules.ROOM_OUTLET: _in_room(wanted.one_outlet),
    rules.SWITCHED_LIGHT: _in_room(wanted.switched_light),
    rules.BATH_LIGHT: _in_room(wanted.switched_light),
    rules.ALARM_ROOMS: _in_room(wanted.alarm),
    rules.ALARM_STOREY: _in_room(wanted.alarm),
    rules.ALARM_HEAT: _in_room(lambda plan, room, mint: wanted.alarm(plan, room, mint, heat=True)),
    rules.ALARM_GAS_ROOM: _in_room(
        lambda plan, room, mint: wanted.alarm(plan, room, mint, sensing="carbon monoxide")
    ),
    rules.ALARM_OUTSIDE: _in_room(wanted.outside),
    rules.ALARM_GAS: _in_room(wanted.outside_gas),
}
