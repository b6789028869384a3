"""The stages from what is drawn to where it stands and how cables reach it, each given exactly the values it
reads.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld.derive import bodies, cables, joins, lanes, places, reads, rests, ways
from fjeld.derive.bodies import Block
from fjeld.derive.cables import CablePlan
from fjeld.derive.house import RoomShape
from fjeld.derive.joins import Laid
from fjeld.derive.lanes import Portal
from fjeld.derive.memo import Remember, always
from fjeld.derive.places import Mark, Placed
from fjeld.derive.rests import Rests
from fjeld.derive.routes import Router
from fjeld.derive.ways import Ways
from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Storey
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Point, home
from fjeld.drawing.old_box import OldBox
from fjeld.practice import Practice, rules


def shells_of(drawing: Drawing, remember: Remember) -> dict[Handle, Room]:
    """The rooms, each without what nothing that stands in it hangs on."""
    return {h: reads.shell(room, remember) for h, room in drawing.of(Room).items()}


def lay(drawing: Drawing, practice: Practice, remember: Remember = always) -> Laid:
    """The rooms of a drawing on their storeys, with the openings seen from each."""
    mine = reads.of(practice, reads.LAYING, remember)
    gaps = {h: reads.gap(opening, remember) for h, opening in drawing.of(Opening).items()}
    found: Laid = remember.same(
        "lay",
        joins.lay,
        shells_of(drawing, remember),
        drawing.of(Storey),
        gaps,
        drawing.of(Join),
        mine[rules.ROOM_CLOSES],
        mine[rules.ROOMS_FIT],
    )
    # A room that stands as it did is the same one to all that follows.
    rooms = {h: remember.known("room", where) for h, where in found.rooms.items()}
    return Laid(rooms, found.openings, found.placement)


def blocks_of(drawing: Drawing, rooms: Mapping[Handle, RoomShape], remember: Remember) -> dict[Handle, Block]:
    """What stands in the rooms, by body."""
    found = {}
    for handle, body in drawing.of(Body).items():
        block: Block | None = remember.same("block", bodies.block, handle, body, rooms[body.room])
        if block is not None:
            found[handle] = block
    return found


def places_of(
    drawing: Drawing, rooms: Mapping[Handle, RoomShape], practice: Practice, remember: Remember
) -> tuple[dict[Handle, Placed], dict[Handle, Mark]]:
    """Where every box and panel stands, and what to read on the tape for it."""
    setting = reads.of(practice, reads.SETTING, remember)
    gangs = _gangs(drawing)
    points = drawing.of(Point)
    placed: dict[Handle, Placed] = {}
    marks: dict[Handle, Mark] = {}
    from_finish = drawing.house.measure_from == "finish"
    standing: dict[Handle, Panel | Point] = {**drawing.of(Panel), **drawing.of(Point)}
    all_rooms = shells_of(drawing, remember)
    for handle, item in standing.items():
        where, room = rooms[item.room], all_rooms[item.room]
        if not where.closed and item.wall > len(where.walls):
            continue
        box = home(points, handle)
        stands = points.get(box, item)
        at: Placed = remember.same("place", places.place, box, stands, room, where, gangs[box], setting)
        if box != handle:
            # It stands where the box does that it sits in.
            at = remember.same("within", _within, at, handle, item.kind if isinstance(item, Point) else "")
        placed[handle] = at
        marks[handle] = remember.same("mark", places.mark, item, at, where, room, setting, from_finish)
    return placed, marks


def _gangs(drawing: Drawing) -> dict[Handle, int]:
    """How many gangs wide what sits in each box is."""
    points, found = drawing.of(Point), defaultdict[Handle, int](int)
    for control in drawing.of(Control).values():
        for position in control.positions:
            found[home(points, position)] += not points[position].shares_yoke
    shared = {h for handle, p in points.items() if p.within is not None for h in (handle, p.within)}
    for handle, point in points.items():
        if handle in shared and point.kind != "switch":
            found[home(points, handle)] += not point.shares_yoke
    return found


def _within(at: Placed, handle: Handle, kind: str) -> Placed:
    return msgspec.structs.replace(at, handle=handle, kind=kind)


def old_places_of(
    drawing: Drawing, rooms: Mapping[Handle, RoomShape], practice: Practice, remember: Remember
) -> dict[Handle, Placed]:
    """The old boxes that something is fed from."""
    setting = reads.of(practice, reads.SETTING, remember)
    shells = shells_of(drawing, remember)
    ends = {c.source for c in drawing.of(Circuit).values()}
    found: dict[Handle, Placed] = {}
    for handle, item in drawing.of(OldBox).items():
        where = rooms[item.room]
        if handle in ends and (where.closed or item.wall <= len(where.walls)):
            at: Placed = remember.same(
                "place", places.place, handle, item, shells[item.room], where, item.gangs, setting
            )
            found[handle] = at
    return found


def ways_of(
    drawing: Drawing,
    laid: Laid,
    blocks: Mapping[Handle, Block],
    placed: Mapping[Handle, Placed],
    practice: Practice,
    remember: Remember,
) -> Ways:
    """The ways between any two boxes, through each room's lanes and from room to room."""
    mine = reads.of(practice, reads.LANES, remember)
    shells = shells_of(drawing, remember)
    drills = {h: lanes.drill_height(where, mine) for h, where in laid.rooms.items()}
    doors: ways.Portals = remember.same(
        "portals", ways.portals, laid.rooms, laid.openings, drills, rules.CABLE_ZONES in mine
    )
    boxes_in: dict[Handle, list[Placed]] = defaultdict(list)
    within = {h for h, point in drawing.of(Point).items() if point.within is not None}
    for h, p in placed.items():
        if h not in within:
            boxes_in[p.room].append(p)
    met: dict[Handle, list[Block]] = defaultdict(list)
    for block in blocks.values():
        if block.in_the_way:
            met[block.room].append(block)
    hole = practice.catalogue.hole_length
    routers = {
        handle: remember(
            "lanes",
            _router,
            where,
            shells[handle],
            tuple(laid.openings[handle].values()),
            tuple(boxes_in[handle]),
            drills[handle],
            hole,
            doors.of[handle],
            tuple(met[handle]),
        )
        for handle, where in laid.rooms.items()
    }
    return remember.same(
        "between rooms", Ways, routers, {h: p.room for h, p in placed.items()}, doors, remember
    )


def _router(
    where: RoomShape,
    room: Room,
    openings: tuple[Opening, ...],
    placed: tuple[Placed, ...],
    drill: float,
    hole: float,
    portals: tuple[Portal, ...],
    blocks: tuple[Block, ...],
) -> Router:
    return Router(
        lanes.lanes(
            where,
            room,
            openings=openings,
            placed=placed,
            drill=drill,
            hole=hole,
            portals=portals,
            blocks=blocks,
        )
    )


def cables_of(
    drawing: Drawing,
    placed: Mapping[Handle, Placed],
    through: Ways,
    rooms: Mapping[Handle, RoomShape],
    assumed: Rests,
    practice: Practice,
    remember: Remember,
) -> dict[Handle, CablePlan]:
    """Each cable along its way, with what it is cut to and held by."""
    pieces = reads.of(practice, reads.PIECES, remember)
    # How many conductors it needs is not known yet: the narrowest of its gauge wants the most support.
    gauges = {q: c.gauge for q, c in drawing.of(Circuit).items()}
    width = {c.gauge: c.width for c in sorted(practice.catalogue.cables, key=lambda c: -c.width)}
    found: dict[Handle, CablePlan] = {}
    for handle, cable in drawing.of(Cable).items():
        route = remember.known("route", through.route(cable.a, cable.b))
        found[handle] = remember.same(
            "cable",
            cables.work_out,
            handle,
            cable,
            route,
            tuple(placed[end] for end in (cable.a, cable.b) if end in placed),
            width.get(cable.gauge or gauges.get(cable.circuit, ""), 0.0),
            pieces,
            rests.of_way(assumed, (cable.a, cable.b), route, rooms),
        )
    return found
