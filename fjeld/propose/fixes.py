"""What would put a finding right, worked out when the finding is shown.

A fix is an edit like any other. Each kind of finding knows what might mend it, the best first;
what is offered is the first of these that does, tried on the whole plan.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from typing import Any

import msgspec

from fjeld.check import Finding, open_findings
from fjeld.derive.facts.spaces import outlet_offsets, reached, wanted_in
from fjeld.derive.memo import Memo
from fjeld.derive.places import body_of, usual_outlet_height
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import wall_starts
from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Cable, Circuit, Control, LoadRef, Point
from fjeld.drawing.old_box import OldBox
from fjeld.practice import rules
from fjeld.practice.rules import DECLARED, RuleKey
from fjeld.propose import align, groups, outlets, protection, reach, rings, rows, stops, wanted
from fjeld.propose.mending import mends
from fjeld.quantities import Fails, Length

Fix = Callable[[Plan, Finding, Fresh], Edit | None]
#: What might mend a finding, the best first.
Ways = Callable[[Plan, Finding, Fresh], Iterator[Edit]]

#: Where the nearest places do not do, one far off is a person's to choose.
MOST_TRIED = 4


def fix(
    plan: Plan,
    finding: Finding,
    mint: Fresh,
    memo: Memo | None = None,
    before: Sequence[Finding] | None = None,
) -> Edit | None:
    """An edit that removes the finding and brings none that is graver, or None when only a person can.

    ``before`` is what is open on the plan, where that is known already.
    """
    if not has_ways(finding):
        return None
    ways = _WAYS[DECLARED[finding.rule.id]]
    standing = open_findings(plan) if before is None else before
    for edit in islice(ways(plan, finding, mint), MOST_TRIED):
        if isinstance(edit, MovePoint):
            # What sits in another's box moves with it.
            edit = msgspec.structs.replace(edit, handle=plan.home(edit.handle))
        if mends(plan, edit, finding, standing, memo):
            return edit
    return None


def has_ways(finding: Finding) -> bool:
    """Whether there is anything to try for a finding of its rule."""
    return finding.open and DECLARED[finding.rule.id] in _WAYS


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
        where,
        around,
        blocks=tuple(plan.blocks_in(room)),
        standing=list(outlet_offsets(plan, room).values()),
        room=measured,
        bottom=own.mm if own else plan.practice[rules.OUTLET_HEIGHT],
        body=body_of("outlet", 1, 1, plan.practice),
        reach=plan.practice[rules.OUTLET_REACH],
        narrowest=plan.practice[rules.WALL_SPACE],
    )


def _breaker(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    if not isinstance(finding.verdict, Fails):
        # What only a look or a reading settles, no breaker does.
        return None
    handle = Handle(finding.handles[0])
    piece = plan.drawing.items[handle]
    if isinstance(piece, Cable):
        gauge = plan.drawing.get(piece.circuit, Circuit).gauge
        return Revise(
            handle, {"gauge": ""}, f"Make {handle} of gauge {gauge}, as the rest of {piece.circuit}"
        )
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


def _move_clear(plan: Plan, finding: Finding, mint: Fresh) -> Iterator[Edit]:
    """To the nearest place beside a stud, or the whole row by the least that clears the joists."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    if placed.wall:
        if paired := reach.moved_as_pair(plan, handle):
            yield paired
        closed = plan.drawing.get(placed.room, Room).build(placed.wall).closed
        yield from _along(plan, handle, "between studs" if closed else "nailed to a stud")
        return
    axis = plan.rooms[placed.room].joist_axis
    room = plan.drawing.get(placed.room, Room)
    needed = room.joists.thick.mm / 2 + placed.width / 2
    try:
        shift = rows.least_shift(placed.position[axis], plan.rooms[placed.room].joists, needed)
    except rows.RowsRefused:
        return
    yield MoveRow(handle, **{("dx", "dy")[axis]: shift})


def _along(plan: Plan, handle: Handle, wished: str) -> Iterator[Edit]:
    """Along its wall to the places of a kind, the nearest first, none of which leaves more wall
    out of reach.
    """
    placed = plan.placed[handle]
    now = _out_of_reach(plan, handle, placed.along)
    for stop in stops.by_distance(
        [s for s in stops.wall_stops(plan, handle) if s.why == wished], placed.along
    ):
        if abs(stop.at - placed.along) >= 0.5 and _out_of_reach(plan, handle, stop.at) <= now:
            yield MovePoint(handle, at=Length(stop.at))


def _out_of_reach(plan: Plan, outlet: Handle, along: float) -> float:
    """Wall out of reach in all of a room, mm, if one outlet stood ``along`` its wall."""
    placed = plan.placed[outlet]
    if placed.kind != "outlet" or not wanted_in(plan, placed.room):
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
    words = f"Place a switch beside {door} for"
    lights = {h: p for h, p in plan.drawing.of(Point).items() if p.kind == "light" and p.room == room}
    controls = plan.drawing.of(Control)
    for handle, control in controls.items():
        whole = {load.point for load in control.loads if not load.part}
        # A timer or a sensor works alone.
        if whole & {*lights} and control.positions and control.device not in ("timer", "sensor"):
            joined = Revise(handle, {"positions": (*control.positions, switch)})
            return Together((placed, joined), f"{words} {handle}")
    worked = {load.point for c in controls.values() for load in c.loads}
    loads = tuple(LoadRef(h) for h, p in lights.items() if p.circuit is not None and h not in worked)
    if not loads:
        return None
    fresh = Place({mint.fresh("control"): Control((switch,), loads)}, "a control")
    return Together((placed, fresh), f"{words} {', '.join(map(str, loads))}")


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


def _to_first(put: Callable[[Plan, Handle, Fresh], Edit | None]) -> Ways:
    """What is done to the thing that the finding names first, as a room that wants something."""
    return _one(lambda plan, finding, mint: put(plan, Handle(finding.handles[0]), mint))


def _nearest_stud(plan: Plan, finding: Finding, mint: Fresh) -> Iterator[Edit]:
    """Along its wall to a place beside a stud, or in a finished wall to a clear bay."""
    handle = Handle(finding.handles[0])
    if not plan.placed[handle].wall:
        return _between_joists(plan, handle)
    return _along(
        plan, handle, "between studs" if finding.rule.id == rules.CUT_IN_CLEAR.id else "nailed to a stud"
    )


def _between_joists(plan: Plan, handle: Handle) -> Iterator[Edit]:
    """Across the joists to where the box clears them as one cut into a finished ceiling is to, the nearest
    first.
    """
    axis, placed = plan.rooms[plan.placed[handle].room].joist_axis, plan.placed[handle]
    near = plan.practice[rules.CUT_IN_CLEAR]
    thick = plan.drawing.get(placed.room, Room).joists.thick.mm
    joists, half = plan.rooms[placed.room].joists, (placed.width + thick) / 2
    spots = [
        s
        for s in stops.ceiling_stops(plan, handle, axis)
        if all(abs(s.at - j) - half >= near for j in joists)
    ]
    for stop in stops.by_distance(spots, placed.position[axis]):
        yield MovePoint(handle, **{"xy"[axis]: Length(stop.at - plan.rooms[placed.room].origin[axis])})


def _clear_of_bodies(plan: Plan, finding: Finding, mint: Fresh) -> Iterator[Edit]:
    """Along its wall, or over the ceiling, to a stop that is free, the nearest first."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    if placed.kind == "panel":
        return
    if placed.wall:
        for stop in stops.by_distance(stops.wall_stops(plan, handle), placed.along):
            yield MovePoint(handle, at=Length(stop.at))
        return
    ways: list[tuple[float, Edit]] = []
    for axis, field in ((0, "dx"), (1, "dy")):
        for stop in stops.ceiling_stops(plan, handle, axis):
            off = stop.at - placed.position[axis]
            ways.append((abs(off), MoveRow(handle, **{field: off})))
    yield from (edit for _, edit in sorted(ways, key=lambda w: w[0]))


def _level(plan: Plan, finding: Finding, mint: Fresh) -> Edit | None:
    """To the height of most boxes of its kind in the room."""
    handle = Handle(finding.handles[0])
    placed = plan.placed[handle]
    others = [
        h
        for h, p in plan.placed.items()
        if p.room == placed.room and p.kind == placed.kind and p.wall and abs(p.height - placed.height) > 1.0
    ]
    heights = [round(plan.placed[h].height, 1) for h in others]
    usual = max(set(heights), key=heights.count, default=None)
    like = next((h for h in others if round(plan.placed[h].height, 1) == usual), None)
    return align.level_with(plan, handle, like) if like else None


def _one(put: Fix) -> Ways:
    """What knows one way, or none."""

    def ways(plan: Plan, finding: Finding, mint: Fresh) -> Iterator[Edit]:
        if edit := put(plan, finding, mint):
            yield edit

    return ways


_WAYS: dict[RuleKey[Any], Ways] = {
    rules.OUTLET_REACH: _one(_outlet),
    rules.BREAKER_GAUGE: _one(_breaker),
    rules.ARC_FAULT: _one(protection.at_the_breaker),
    rules.GROUND_FAULT: _one(protection.ground_fault),
    rules.RESIDUAL: _one(protection.at_the_breaker),
    rules.ALARM_BEHIND: _one(protection.ahead),
    rules.LIGHT_BEHIND: _one(protection.ahead),
    rules.ONE_SIDE: _one(protection.ahead),
    rules.LOAD_SIDE_THERE: _one(protection.device_there),
    rules.PROTECTIVE_WHOLE: _one(protection.whole),
    rules.BOX_FILL: _one(_box),
    rules.BOX_RESERVE: _one(_box),
    rules.END_OF_RUN_BOX: _one(_box),
    rules.CLEAR_OF_FRAMING: _move_clear,
    rules.CIRCUIT_FED: _one(_circuit),
    rules.NO_LOOPS: _one(_loop),
    rules.RING_CLOSED: _to_first(rings.close),
    rules.ONE_HOME_RUN: _one(_loop),
    rules.NEUTRAL_AT_SWITCH: _one(_neutral),
    rules.SWITCH_LATCH: _one(_latch),
    rules.CONTROL_COMPLETE: _one(_control),
    rules.NAIL_ON_FACE: _nearest_stud,
    rules.CUT_IN_CLEAR: _nearest_stud,
    rules.CLEAR_OF_BODIES: _clear_of_bodies,
    rules.HEIGHTS_MATCH: _one(_level),
    rules.COUNTER_REACH: _to_first(wanted.over_counter),
    rules.BASIN_OUTLET: _to_first(wanted.beside_basin),
    rules.ROOM_OUTLET: _to_first(wanted.one_outlet),
    rules.SWITCHED_LIGHT: _to_first(wanted.switched_light),
    rules.BATH_LIGHT: _to_first(wanted.switched_light),
    rules.ALARM_ROOMS: _to_first(wanted.alarm),
    rules.ALARM_STOREY: _to_first(wanted.alarm),
    rules.ALARM_HEAT: _to_first(lambda plan, room, mint: wanted.alarm(plan, room, mint, heat=True)),
    rules.ALARM_GAS_ROOM: _to_first(
        lambda plan, room, mint: wanted.alarm(plan, room, mint, sensing="carbon monoxide")
    ),
    rules.ALARM_OUTSIDE: _to_first(wanted.outside),
    rules.ALARM_GAS: _to_first(wanted.outside_gas),
}
