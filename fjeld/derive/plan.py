"""The stages in their order, each given exactly the values it reads.

``derive(drawing)`` is the whole plan. With a memo, a stage whose arguments are what they
were before is not run again; the result is the same either way. Nothing is chosen here:
what the drawing leaves open (a room not closed, a point on no circuit) stays open.
"""

from __future__ import annotations

from collections import defaultdict

import msgspec

from fjeld import practice as practices
from fjeld.derive import (
    bodies,
    conductors,
    cords,
    holes,
    joins,
    lanes,
    materials,
    nets,
    network,
    places,
    routes,
    ways,
)
from fjeld.derive import boxes as boxes_stage
from fjeld.derive import circuits as circuits_stage
from fjeld.derive.bodies import Block
from fjeld.derive.boxes import Box, BoxInputs, Device
from fjeld.derive.circuits import CircuitFigures, va_of
from fjeld.derive.conductors import Conductor, Run
from fjeld.derive.divide import Nets
from fjeld.derive.holes import Hole
from fjeld.derive.house import RoomShape
from fjeld.derive.intents import control_circuit, intents, load_references
from fjeld.derive.joins import Laid, Placement
from fjeld.derive.lanes import Portal
from fjeld.derive.materials import Material
from fjeld.derive.memo import Memo, Remember, always
from fjeld.derive.network import Network
from fjeld.derive.places import Mark, Placed
from fjeld.derive.routes import Route, Router, Staple
from fjeld.derive.terminals import CircuitIntent, Terminal
from fjeld.derive.tree import Tree, tree
from fjeld.derive.ways import Ways
from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Storey
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Point
from fjeld.practice import Practice
from fjeld.quantities import Working


class CircuitPlan(msgspec.Struct, frozen=True):
    """One circuit worked out: its tree, nets, cables and figures."""

    handle: Handle
    circuit: Circuit
    boxes: tuple[Handle, ...]
    tree: Tree
    nets: Nets
    runs: tuple[Run, ...]
    figures: CircuitFigures


class CablePlan(msgspec.Struct, frozen=True):
    """One cable worked out. ``route`` is None where no way was found; then ``cut`` is None too."""

    handle: Handle
    cable: Cable
    route: Route | None
    cut: Working | None
    staples: tuple[Staple, ...]

    @property
    def length(self) -> float:
        """The length to cut, mm: as measured by a person if it was, else as computed."""
        if self.cable.measured is not None:
            return self.cable.measured.mm
        return self.cut.total if self.cut else 0.0


class Plan(msgspec.Struct, frozen=True):
    """All that follows from a drawing."""

    drawing: Drawing
    practice: Practice
    panel: Handle | None
    rooms: dict[Handle, RoomShape]
    openings: dict[Handle, dict[Handle, Opening]]
    placement: Placement
    blocks: dict[Handle, Block]
    placed: dict[Handle, Placed]
    marks: dict[Handle, Mark]
    routers: dict[Handle, Router]
    ways: Ways
    circuits: dict[Handle, CircuitPlan]
    cables: dict[Handle, CablePlan]
    holes: tuple[Hole, ...]
    boxes: dict[Handle, Box]
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
        for shared in [{q} for q in self.circuits] + [set(box.circuits) for box in self.boxes.values()]:
            met = [g for g in groups if g & shared]
            groups = [g for g in groups if not g & shared] + [shared.union(*met)] if shared else groups
        return sorted((tuple(sorted(g, key=order)) for g in groups), key=lambda g: order(g[0]))

    def network_of(self, circuits: tuple[Handle, ...]) -> Network | None:
        """The network of some circuits alone, fed from the panel."""
        mine = {q: c for q, c in self.circuits.items() if q in circuits}
        made = {h: b for h, b in self.boxes.items() if set(b.circuits) & set(circuits)}
        return _network(self.drawing, self.panel, mine, made, self.cables, self.practice)

    def control_circuit(self, control: Handle) -> Handle | None:
        """The circuit that a control's switches are on."""
        return control_circuit(self.drawing, self.drawing.get(control, Control))


def derive(drawing: Drawing, memo: Memo | None = None) -> Plan:
    """The whole plan of a valid drawing (see :mod:`fjeld.drawing.validate`)."""
    remember: Remember = memo or always
    practice = practices.load(drawing.house.practice).amended(drawing.house.amendments)
    version = repr(drawing.house.amendments)
    panel = min(drawing.of(Panel), key=order, default=None)
    laid = lay(drawing, practice)
    rooms = laid.rooms
    blocks = {
        h: found
        for h, b in drawing.of(Body).items()
        if (found := bodies.block(h, b, rooms[b.room])) is not None
    }
    placed, marks = _places(drawing, rooms, practice)
    drills = {h: lanes.drill_height(where, practice) for h, where in rooms.items()}
    doors = ways.portals(rooms, laid.openings, drills, practice.holds("cable-zones"))
    routers = {
        handle: remember("lanes", _router, where, drawing.get(handle, Room), tuple(laid.openings[handle].values()),
                         tuple(p for p in placed.values() if p.room == handle), drills[handle],
                         doors.of[handle], tuple(b for b in blocks.values() if b.room == handle and b.in_the_way))
        for handle, where in rooms.items()
    }  # fmt: skip
    through = Ways(routers, {h: p.room for h, p in placed.items()}, doors)
    cables = _cables(drawing, placed, through, practice)
    circuits = _circuits(drawing, panel, cables, practice, remember, version)
    made = _boxes(drawing, circuits, practice, remember, version)
    bored = holes.holes({h: c.route for h, c in cables.items() if c.route}, practice)
    grid = _network(drawing, panel, circuits, made, cables, practice)
    bought = materials.materials(
        made.values(), [r for c in circuits.values() for r in c.runs], {h: c.length for h, c in cables.items()},
        {h: len(c.staples) for h, c in cables.items()}, bored, placed, drawing.of(Circuit), practice.catalogue,
    )  # fmt: skip
    return Plan(
        drawing, practice, panel, rooms, laid.openings, laid.placement, blocks, placed, marks, routers, through,
        circuits, cables, bored, made, grid, bought,
    )  # fmt: skip


def lay(drawing: Drawing, practice: Practice) -> Laid:
    """The rooms of a drawing on their storeys, with the openings seen from each."""
    return joins.lay(
        drawing.of(Room), drawing.of(Storey), drawing.of(Opening), drawing.of(Join),
        float(practice.value("room-closes")), practice.mm("rooms-fit"),
    )  # fmt: skip


def _router(
    where: RoomShape, room: Room, openings: tuple[Opening, ...], placed: tuple[Placed, ...], drill: float,
    portals: tuple[Portal, ...], blocks: tuple[Block, ...],
) -> Router:  # fmt: skip
    return Router(lanes.lanes(where, room, openings, placed, drill, portals, blocks))


def _places(
    drawing: Drawing, rooms: dict[Handle, RoomShape], practice: Practice
) -> tuple[dict[Handle, Placed], dict[Handle, Mark]]:
    gangs: dict[Handle, int] = defaultdict(int)
    for control in drawing.of(Control).values():
        for position in control.positions:
            gangs[position] += 1
    placed: dict[Handle, Placed] = {}
    marks: dict[Handle, Mark] = {}
    from_finish = drawing.house.measure_from == "finish"
    boxes: dict[Handle, Panel | Point] = {**drawing.of(Panel), **drawing.of(Point)}
    for handle, item in boxes.items():
        where, room = rooms[item.room], drawing.get(item.room, Room)
        if not where.closed and item.wall > len(where.walls):
            continue
        placed[handle] = places.place(handle, item, room, where, gangs[handle], practice)
        marks[handle] = places.mark(item, placed[handle], where, room, practice, from_finish)
    return placed, marks


def _cables(
    drawing: Drawing, placed: dict[Handle, Placed], through: Ways, practice: Practice
) -> dict[Handle, CablePlan]:
    found: dict[Handle, CablePlan] = {}
    for handle, cable in drawing.of(Cable).items():
        route = through.route(cable.a, cable.b)
        if route is None:
            found[handle] = CablePlan(handle, cable, None, None, ())
            continue
        at_panel = sum(placed[end].kind == "panel" for end in (cable.a, cable.b))
        cut = routes.cut_length(route.length, at_panel, practice, (handle,))
        firsts = [_first_support(placed[end], practice) for end in (cable.a, cable.b)]
        found[handle] = CablePlan(
            handle, cable, route, cut, tuple(routes.staples(route, firsts[0], firsts[1], practice))
        )
    return found


def _first_support(placed: Placed, practice: Practice) -> float:
    single = placed.kind in ("switch", "outlet") and placed.width <= places.DEVICE_WIDTH
    return practice.mm("first-support-unclamped" if single else "first-support")


def _circuits(
    drawing: Drawing,
    panel: Handle | None,
    cables: dict[Handle, CablePlan],
    practice: Practice,
    remember: Remember,
    version: str,
) -> dict[Handle, CircuitPlan]:
    if panel is None:
        return {}
    found: dict[Handle, CircuitPlan] = {}
    for handle, intent in intents(drawing, practice).items():
        circuit = drawing.get(handle, Circuit)
        joined = {h: (c.cable.a, c.cable.b) for h, c in cables.items() if c.cable.circuit == handle}
        members = {b.handle for b in intent.boxes} | {panel}
        joined = {h: ends for h, ends in joined.items() if set(ends) <= members}
        lengths = {h: cables[h].length for h in joined}
        where: Tree = tree(panel, [b.handle for b in intent.boxes], joined)
        solved: Nets
        made: tuple[Run, ...]
        solved, made = remember(
            "conductors", lambda i, w, n, g, q=handle: _wire(i, w, n, g, q, practice),
            intent, where, lengths, circuit.gauge, practice=version,
        )  # fmt: skip
        loads = {b.handle: drawing.get(b.handle, Point) for b in intent.boxes if b.kind != "switch"}
        numbers = circuits_stage.figures(
            handle,
            circuit,
            loads,
            where,
            {h: r.length if (r := cables[h].route) else 0.0 for h in joined},
            practice,
        )
        found[handle] = CircuitPlan(
            handle, circuit, tuple(b.handle for b in intent.boxes), where, solved, made, numbers
        )
    return found


def _wire(
    intent: CircuitIntent,
    where: Tree,
    lengths: dict[Handle, float],
    gauge: str,
    circuit: Handle,
    practice: Practice,
) -> tuple[Nets, tuple[Run, ...]]:
    solved = nets.solve(
        intent, where, lambda cable, n: lengths.get(cable, 0.0) * practice.catalogue.price_of_mm(gauge, n)
    )
    return solved, conductors.runs(circuit, gauge, where, solved, practice)


def _boxes(
    drawing: Drawing, circuits: dict[Handle, CircuitPlan], practice: Practice, remember: Remember, version: str
) -> dict[Handle, Box]:
    entering: dict[Handle, list[tuple[Handle, Conductor]]] = defaultdict(list)
    terminals: dict[Handle, list[tuple[Handle, Terminal]]] = defaultdict(list)
    links: dict[Handle, list[tuple[Handle, str, str]]] = defaultdict(list)
    for handle, plan in circuits.items():
        for run in plan.runs:
            for conductor in run.conductors:
                entering[conductor.a].append((handle, conductor))
                entering[conductor.b].append((handle, conductor))
        for terminal in plan.nets.terminals:
            terminals[terminal.box].append((handle, terminal))
        for (box, net), parent in plan.nets.links.items():
            links[box].append((handle, net, parent))
    found: dict[Handle, Box] = {}
    for box, point in drawing.of(Point).items():
        inputs = BoxInputs(
            box, "device" if point.wall and point.kind in ("switch", "outlet") else "ceiling", tuple(entering[box]),
            tuple(terminals[box]), tuple(links[box]), _devices(box, point, terminals[box]), point.box,
            drawing.house.joining, drawing.house.connectors,
        )  # fmt: skip
        found[box] = remember("boxes", lambda i: boxes_stage.make_up(i, practice), inputs, practice=version)
    return found


def _devices(box: Handle, point: Point, terminals: list[tuple[Handle, Terminal]]) -> tuple[Device, ...]:
    names: dict[str, set[str]] = defaultdict(set)
    for _, terminal in terminals:
        if terminal.device:
            names[terminal.device].add(terminal.name)
    if point.kind == "switch":
        kinds = {
            device: "four-way switch" if "in 1" in has else "three-way switch" if "common" in has else "switch"
            for device, has in names.items()
        }
        return tuple(Device(d, kinds[d], d.partition(":")[2]) for d in sorted(kinds, key=order))
    if point.kind in ("junction", "blank"):
        return ()
    if point.kind == "outlet":
        kind = (
            "split outlet"
            if "brass upper" in names[box]
            else "protective outlet"
            if point.protective
            else "outlet"
        )
        return (Device(box, kind),)
    return (Device(box, point.kind, gangs=0),)


def _network(
    drawing: Drawing, panel: Handle | None, circuits: dict[Handle, CircuitPlan], made: dict[Handle, Box],
    cables: dict[Handle, CablePlan], practice: Practice,
) -> Network | None:  # fmt: skip
    if panel is None:
        return None
    loads: dict[str, float] = {}
    for handle, point in drawing.of(Point).items():
        if point.circuit in circuits:
            parts = load_references(handle, point)
            # A load of nothing still shows whether volts arrive: a tester of one watt.
            loads |= {part: max(va_of(point, practice)[0] / len(parts), 1.0) for part in parts}
    return network.build(
        panel, [r for c in circuits.values() for r in c.runs], made.values(), {h: c.length for h, c in cables.items()},
        loads, list(circuits), practice,
    )  # fmt: skip
