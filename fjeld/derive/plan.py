"""The stages in their order, each given exactly the values it reads.

``derive(drawing)`` is the whole plan. With a memo, a stage whose arguments are what they
were before is not run again; the result is the same either way. Nothing is chosen here:
what the drawing leaves open (a room not closed, a point on no circuit) stays open.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld import practice as practices
from fjeld.derive import (
    bodies,
    cables,
    cords,
    holes,
    joins,
    lanes,
    materials,
    network,
    places,
    rests,
    ways,
    wired,
)
from fjeld.derive.bodies import Block
from fjeld.derive.boxes import Box
from fjeld.derive.cables import CablePlan
from fjeld.derive.conductors import Conductor, Run
from fjeld.derive.holes import Hole
from fjeld.derive.house import RoomShape
from fjeld.derive.intents import control_circuit
from fjeld.derive.joins import Laid, Placement
from fjeld.derive.lanes import Portal
from fjeld.derive.materials import Material
from fjeld.derive.memo import Memo, Remember, always
from fjeld.derive.network import Network, Part
from fjeld.derive.old import OldMade
from fjeld.derive.places import Mark, Placed
from fjeld.derive.rests import Rests
from fjeld.derive.routes import Router
from fjeld.derive.ways import Ways
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Body, Join, OldBox, Opening, Panel, Room, Storey
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, House, Point, first_panel, home
from fjeld.practice import Amendment, Practice, rules


class Plan(msgspec.Struct, frozen=True):
    """All that follows from a drawing. ``old`` are the old boxes that circuits begin in, as they stand; ``begun`` what they become."""

    drawing: Drawing
    practice: Practice
    panel: Handle | None
    rests: Rests
    rooms: dict[Handle, RoomShape]
    openings: dict[Handle, dict[Handle, Opening]]
    placement: Placement
    blocks: dict[Handle, Block]
    placed: dict[Handle, Placed]
    marks: dict[Handle, Mark]
    old: dict[Handle, Placed]
    routers: dict[Handle, Router]
    ways: Ways
    circuits: dict[Handle, CircuitPlan]
    cables: dict[Handle, CablePlan]
    holes: tuple[Hole, ...]
    boxes: dict[Handle, Box]
    begun: dict[Handle, OldMade]
    parts: dict[Handle, tuple[Part, ...]]
    network: Network | None
    materials: tuple[Material, ...]

    def blocks_in(self, room: Handle) -> list[Block]:
        """What stands in a room."""
        return [b for b in self.blocks.values() if b.room == room]

    def pendant_drop(self, handle: Handle) -> float:
        """How far below its ceiling a pendant's lower edge hangs, mm; nought for what does not hang."""
        point = self.drawing.items.get(handle)
        if not isinstance(point, Point) or point.mount != "pendant" or point.over is None:
            return 0.0
        return cords.drop(
            self.placed[handle].height, self.drawing.get(point.over, Body), point.fitting, self.practice
        )

    def pendant_clearance(self, handle: Handle) -> float:
        """From a pendant's lower edge to the top of what it hangs over, mm."""
        over = self.drawing.get(handle, Point).over
        top = self.drawing.get(over, Body).high.mm if over else 0.0
        return self.placed[handle].height - self.pendant_drop(handle) - top

    def home(self, handle: Handle) -> Handle:
        """The box that a point is in: its own, or another's that it sits within."""
        point = self.drawing.items.get(handle)
        return point.within if isinstance(point, Point) and point.within is not None else handle

    def runs(self) -> list[Run]:
        """Every physical cable of the job."""
        return [run for circuit in self.circuits.values() for run in circuit.runs]

    def conductor(self, key: str) -> Conductor:
        """A conductor by key; raises ``KeyError``."""
        for run in self.runs():
            for conductor in run.conductors:
                if conductor.key == key:
                    return conductor
        raise KeyError(key)

    def together(self) -> list[tuple[Handle, ...]]:
        """The circuits in groups that share no box: nothing in one group can join anything in another."""
        groups: list[set[Handle]] = []
        fed = [
            {feeder, *(q for q, c in self.circuits.items() if c.source == panel)}
            for feeder, plan in self.circuits.items()
            for panel in plan.panels
        ]
        for shared in [{q} for q in self.circuits] + [set(box.circuits) for box in self.boxes.values()] + fed:
            met = [g for g in groups if g & shared]
            groups = [g for g in groups if not g & shared] + [shared.union(*met)] if shared else groups
        return sorted((tuple(sorted(g, key=order)) for g in groups), key=lambda g: order(g[0]))

    def network_of(self, circuits: tuple[Handle, ...], remember: Remember = always) -> Network | None:
        """The network of some circuits alone, with where they begin."""
        mine = {q: c for q, c in self.circuits.items() if q in circuits}
        if not mine:
            return None
        made = [h for h, b in self.boxes.items() if set(b.circuits) & set(circuits)]
        parts = [part for h in (*mine, *made) for part in self.parts[h]]
        found: Network = remember.same("network", network.build, wired.supplies(mine), parts, self.practice)
        return found

    def control_circuit(self, control: Handle) -> Handle | None:
        """The circuit that a control's switches are on."""
        return control_circuit(self.drawing, self.drawing.get(control, Control))


def derive(drawing: Drawing, memo: Memo | None = None) -> Plan:
    """The whole plan of a valid drawing (see :mod:`fjeld.drawing.validate`)."""
    remember: Remember = always if memo is None else memo
    # By value: a job that is renamed, or an override, leaves the practice and the way of wiring what they were.
    house = drawing.house
    practice: Practice = remember("practice", _in_force, house.practice, house.amendments, house.prices)
    choices = remember.known("choices", _choices(house))
    version = f"{practice.id} {drawing.house.amendments!r} {drawing.house.prices!r}"
    panel = first_panel(drawing)
    laid = lay(drawing, practice, remember)
    blocks = _blocks(drawing, laid.rooms, remember)
    placed, marks = _places(drawing, laid.rooms, practice, remember)
    there = _old_places(drawing, laid.rooms, practice, remember)
    routers, through = _ways(drawing, laid, blocks, {**placed, **there}, practice, remember)
    assumed = rests.rests(drawing, remember)
    laid_cables = _cables(drawing, {**placed, **there}, through, laid.rooms, assumed, practice, remember)
    bored = holes.holes(laid_cables, practice)
    circuits = wired.circuits_of(drawing, choices, laid_cables, practice, remember, version)
    made = wired.boxes_of(drawing, choices, circuits, placed, laid.rooms, practice, remember, version)
    begun_in = wired.begun_in(drawing, circuits, practice, remember, version)
    parts = wired.parts_of(drawing, circuits, made, laid_cables, practice, remember)
    begun = wired.supplies(circuits, panel)
    grid = network.build(begun, [p for of in parts.values() for p in of], practice) if begun else None
    bought = materials.materials(
        made, {h: m.box for h, m in begun_in.items()}, [r for c in circuits.values() for r in c.runs], laid_cables, bored, placed,
        drawing.of(Circuit), practice.catalogue, practice.neutral, remember,
    )  # fmt: skip
    return Plan(
        drawing, practice, panel, assumed, laid.rooms, laid.openings, laid.placement, blocks, placed, marks, there, routers, through,
        circuits, laid_cables, bored, made, begun_in, parts, grid, bought,
    )  # fmt: skip


def in_force(house: House) -> Practice:
    """The practice of a house with its local amendments and its own prices."""
    return _in_force(house.practice, house.amendments, house.prices)


def _in_force(practice: str, amendments: tuple[Amendment, ...], prices: dict[str, int]) -> Practice:
    return practices.load(practice).amended(amendments).priced(prices)


def _choices(house: House) -> House:
    """Of a house's choices those that circuits and boxes are wired by."""
    return House(
        practice=house.practice, unit=house.unit, feed=house.feed, two_position=house.two_position, joining=house.joining,
        connectors=house.connectors, neutrals=house.neutrals,
    )  # fmt: skip


def lay(drawing: Drawing, practice: Practice, remember: Remember = always) -> Laid:
    """The rooms of a drawing on their storeys, with the openings seen from each."""
    found: Laid = remember.same(
        "lay", joins.lay, drawing.of(Room), drawing.of(Storey), drawing.of(Opening), drawing.of(Join),
        practice[rules.ROOM_CLOSES], practice[rules.ROOMS_FIT],
    )  # fmt: skip
    return found


def _blocks(drawing: Drawing, rooms: Mapping[Handle, RoomShape], remember: Remember) -> dict[Handle, Block]:
    found = {}
    for handle, body in drawing.of(Body).items():
        block: Block | None = remember.same("block", bodies.block, handle, body, rooms[body.room])
        if block is not None:
            found[handle] = block
    return found


def _places(
    drawing: Drawing, rooms: Mapping[Handle, RoomShape], practice: Practice, remember: Remember
) -> tuple[dict[Handle, Placed], dict[Handle, Mark]]:
    gangs = _gangs(drawing)
    points = drawing.of(Point)
    placed: dict[Handle, Placed] = {}
    marks: dict[Handle, Mark] = {}
    from_finish = drawing.house.measure_from == "finish"
    standing: dict[Handle, Panel | Point] = {**drawing.of(Panel), **drawing.of(Point)}
    all_rooms = drawing.of(Room)
    for handle, item in standing.items():
        where, room = rooms[item.room], all_rooms[item.room]
        if not where.closed and item.wall > len(where.walls):
            continue
        box = home(points, handle)
        stands = points.get(box, item)
        at: Placed = remember.same("place", places.place, box, stands, room, where, gangs[box], practice)
        if box != handle:
            # It stands where the box does that it sits in.
            at = remember.same("within", _within, at, handle, item.kind if isinstance(item, Point) else "")
        placed[handle] = at
        marks[handle] = remember.same("mark", places.mark, item, at, where, room, practice, from_finish)
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


def _old_places(
    drawing: Drawing, rooms: Mapping[Handle, RoomShape], practice: Practice, remember: Remember
) -> dict[Handle, Placed]:
    """The old boxes that something is fed from."""
    ends = {c.source for c in drawing.of(Circuit).values()}
    found: dict[Handle, Placed] = {}
    for handle, item in drawing.of(OldBox).items():
        where = rooms[item.room]
        if handle in ends and (where.closed or item.wall <= len(where.walls)):
            room = drawing.get(item.room, Room)
            at: Placed = remember.same("place", places.place, handle, item, room, where, item.gangs, practice)
            found[handle] = at
    return found


def _ways(
    drawing: Drawing, laid: Laid, blocks: Mapping[Handle, Block], placed: Mapping[Handle, Placed],
    practice: Practice, remember: Remember,
) -> tuple[dict[Handle, Router], Ways]:  # fmt: skip
    drills = {h: lanes.drill_height(where, practice) for h, where in laid.rooms.items()}
    doors: ways.Portals = remember.same(
        "portals", ways.portals, laid.rooms, laid.openings, drills, rules.CABLE_ZONES in practice
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
            "lanes", _router, where, drawing.get(handle, Room), tuple(laid.openings[handle].values()),
            tuple(boxes_in[handle]), drills[handle], hole, doors.of[handle], tuple(met[handle]),
        )
        for handle, where in laid.rooms.items()
    }  # fmt: skip
    return routers, Ways(routers, {h: p.room for h, p in placed.items()}, doors, remember)


def _router(
    where: RoomShape, room: Room, openings: tuple[Opening, ...], placed: tuple[Placed, ...], drill: float,
    hole: float, portals: tuple[Portal, ...], blocks: tuple[Block, ...],
) -> Router:  # fmt: skip
    return Router(lanes.lanes(where, room, openings, placed, drill, hole, portals, blocks))


def _cables(
    drawing: Drawing, placed: Mapping[Handle, Placed], through: Ways, rooms: Mapping[Handle, RoomShape], assumed: Rests,
    practice: Practice, remember: Remember,
) -> dict[Handle, CablePlan]:  # fmt: skip
    # How many conductors it needs is not known yet: the narrowest of its gauge wants the most support.
    gauges = {q: c.gauge for q, c in drawing.of(Circuit).items()}
    width = {c.gauge: c.width for c in sorted(practice.catalogue.cables, key=lambda c: -c.width)}
    found: dict[Handle, CablePlan] = {}
    for handle, cable in drawing.of(Cable).items():
        route = remember.known("route", through.route(cable.a, cable.b))
        found[handle] = remember.same(
            "cable", cables.work_out, handle, cable, route, tuple(placed[end] for end in (cable.a, cable.b) if end in placed),
            width.get(cable.gauge or gauges.get(cable.circuit, ""), 0.0), practice,
            rests.of_way(assumed, (cable.a, cable.b), route, rooms),
        )  # fmt: skip
    return found
