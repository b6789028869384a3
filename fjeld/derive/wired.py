"""The stages from circuits to the parts of the network, each given exactly the values it reads.

A circuit that is as it was, a box that gets what it got, a cable whose runs did not change: each is
known again by identity, and what it comes to is not worked out twice.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

from fjeld.derive import boxes, network, old, places, reads, wiring
from fjeld.derive.boxes import Box
from fjeld.derive.cables import CablePlan
from fjeld.derive.circuits import va_of
from fjeld.derive.conductors import Run
from fjeld.derive.house import RoomShape
from fjeld.derive.intents import Membership, load_references, memberships, source_of
from fjeld.derive.memo import Remember
from fjeld.derive.network import NetworkPart, Supply
from fjeld.derive.old import Begin, OldMade
from fjeld.derive.places import Placed
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Control, Drawing, House, Point, Protection
from fjeld.drawing.old_box import OldBox
from fjeld.practice import Practice


def circuits_of(
    drawing: Drawing, choices: House, laid: Mapping[Handle, CablePlan], practice: Practice, remember: Remember
) -> dict[Handle, CircuitPlan]:
    """The circuits that begin somewhere, each by its own points and cables."""
    mine = reads.of(practice, reads.CIRCUITS, remember)
    # How conductors are chosen hangs on no rule, only on what is sold and at what price.
    sold = reads.version(practice.only(()), drawing.house.prices)
    drawn: dict[Handle, dict[Handle, CablePlan]] = defaultdict(dict)
    for handle, cable in laid.items():
        if cable.cable.circuit is not None:
            drawn[cable.cable.circuit][handle] = cable

    def work_out(
        handle: Handle,
        circuit: Circuit,
        boxes: Mapping[Handle, Point],
        rooms: Mapping[Handle, Room],
        controls: dict[Handle, Control],
        fed: Mapping[Handle, Mapping[Handle, Point]],
        pieces: Mapping[Handle, CablePlan],
        source: Handle,
        house: House,
        practice: Practice,
        sold: str,
    ) -> CircuitPlan:
        members = Membership(dict(boxes), dict(rooms), controls, tuple(fed))
        return wiring.work_out(
            handle,
            circuit,
            members=members,
            cables=pieces,
            source=source,
            fed=fed,
            house=house,
            practice=practice,
            remember=remember,
            version=sold,
        )

    circuits, on = drawing.of(Circuit), memberships(drawing)
    sources = {q: source for q in on if (source := source_of(drawing, q)) is not None}
    return {
        q: remember.same(
            "circuit",
            work_out,
            q,
            circuits[q],
            on[q].points,
            {h: reads.purpose(r, remember) for h, r in on[q].rooms.items()},
            on[q].controls,
            {panel: _beyond(panel, on, sources) for panel in on[q].panels},
            drawn[q],
            source,
            choices,
            mine,
            sold,
        )
        for q, source in sources.items()
    }


def _beyond(
    panel: Handle, on: Mapping[Handle, Membership], sources: Mapping[Handle, Handle]
) -> dict[Handle, Point]:
    """All points that are fed from a panel, straight or by way of others."""
    found: dict[Handle, Point] = {}
    for circuit, source in sources.items():
        if source == panel:
            found |= on[circuit].points
            for further in on[circuit].panels:
                found |= _beyond(further, on, sources)
    return found


def supplies(circuits: Mapping[Handle, CircuitPlan], panel: Handle | None = None) -> tuple[Supply, ...]:
    """Where these circuits begin, and ``panel`` though none begins there yet."""
    of: dict[Handle, list[Handle]] = {panel: []} if panel else {}
    for handle, circuit in circuits.items():
        of.setdefault(circuit.source, []).append(handle)
    fed = {p for circuit in circuits.values() for p in circuit.panels}
    double = frozenset(q for q, c in circuits.items() if c.circuit.poles == 2)
    return tuple(Supply(root, tuple(mine), root in fed, double & {*mine}) for root, mine in of.items())


def boxes_of(
    drawing: Drawing,
    choices: House,
    circuits: Mapping[Handle, CircuitPlan],
    placed: Mapping[Handle, Placed],
    shapes: Mapping[Handle, RoomShape],
    practice: Practice,
    remember: Remember,
) -> dict[Handle, Box]:
    """What is in each box, and the least box that takes it."""
    mine = reads.of(practice, reads.BOXES, remember)
    hangs = reads.of(practice, reads.CARRYING, remember)
    version = reads.version(mine, drawing.house.prices)
    brought: dict[Handle, list[wiring.BoxShare]] = defaultdict(list)
    for plan in circuits.values():
        for box, share in remember.same("shares", wiring.shares, plan).items():
            brought[box].append(share)

    def make_up(
        box: Handle,
        point: Point,
        shares: tuple[wiring.BoxShare, ...],
        house: House,
        closed: bool,
        carries: places.Carries,
        hosted: dict[Handle, Point],
        practice: Practice,
        version: str,
        outside: bool,
    ) -> Box:
        inputs = wiring.box_inputs(
            box,
            point,
            brought=shares,
            house=house,
            closed=closed,
            carries=carries,
            hosted=hosted,
            outdoors=outside,
        )
        made: Box = remember("boxes", lambda i: boxes.make_up(i, practice), inputs, practice=version)
        return made

    rooms = drawing.of(Room)

    def of(box: Handle, point: Point) -> Box:
        at = placed.get(box)
        carries = places.carries(point, at, rooms[point.room], shapes[point.room], hangs)
        made: Box = remember.same(
            "box",
            make_up,
            box,
            point,
            tuple(brought[box]),
            choices,
            bool(at and at.closed),
            carries,
            hosted[box],
            mine,
            version,
            places.outdoors(point, rooms[point.room]),
        )
        return made

    hosted = _hosted(drawing)
    return {box: of(box, point) for box, point in drawing.of(Point).items() if point.within is None}


def _hosted(drawing: Drawing) -> dict[Handle, dict[Handle, Point]]:
    """For each box the points that sit in it beside its own."""
    found: dict[Handle, dict[Handle, Point]] = defaultdict(dict)
    for handle, point in drawing.of(Point).items():
        if point.within is not None:
            found[point.within][handle] = point
    return found


def begun_in(
    drawing: Drawing,
    circuits: Mapping[Handle, CircuitPlan],
    practice: Practice,
    remember: Remember,
) -> dict[Handle, OldMade]:
    """The old boxes that circuits begin in, as they will be."""
    mine = reads.of(practice, reads.BOXES, remember)
    version = reads.version(mine, drawing.house.prices)

    def make_up(handle: Handle, item: OldBox, begins: tuple[Begin, ...]) -> OldMade:
        return old.make_up(handle, item, begins, mine)

    begins: dict[Handle, list[Begin]] = defaultdict(list)
    for handle, plan in circuits.items():
        ends = tuple(c for run in plan.runs for c in run.conductors if plan.source in (c.a, c.b))
        begins[plan.source].append(Begin(handle, plan.circuit.found, plan.circuit.gauge, ends))
    return {
        handle: remember("old box", make_up, handle, item, tuple(begins[handle]), practice=version)
        for handle, item in drawing.of(OldBox).items()
        if handle in begins
    }


def parts_of(
    drawing: Drawing,
    circuits: Mapping[Handle, CircuitPlan],
    made: Mapping[Handle, Box],
    laid: Mapping[Handle, CablePlan],
    practice: Practice,
    remember: Remember,
) -> dict[Handle, tuple[NetworkPart, ...]]:
    """What the cables of each circuit, and each box, bring into the network."""
    net = reads.of(practice, reads.NETWORK, remember)
    drawn = reads.of(practice, (*reads.NETWORK, *reads.LOADS), remember)

    def of_circuit(
        source: Handle,
        panels: tuple[Handle, ...],
        runs: tuple[Run, ...],
        lengths: tuple[float, ...],
        practice: Practice,
        protection: Protection,
    ) -> tuple[NetworkPart, ...]:
        return tuple(
            network.part_of_cable(
                source, run, length=length, practice=practice, protection=protection, panels=panels
            )
            for run, length in zip(runs, lengths, strict=True)
        )

    def of_box(box: Box, wired: dict[Handle, Point], practice: Practice) -> tuple[NetworkPart, ...]:
        loads: dict[str, float] = {}
        for handle, point in wired.items():
            names = load_references(handle, point)
            # A load of nothing still shows whether volts arrive: a tester of one watt.
            loads |= {str(name): max(va_of(point, practice)[0] / len(names), 1.0) for name in names}
        return (network.part_of_box(box, loads, practice),)

    found: dict[Handle, tuple[NetworkPart, ...]] = {
        q: remember.same(
            "cable parts",
            of_circuit,
            plan.source,
            plan.panels,
            plan.runs,
            tuple(laid[r.cable].length for r in plan.runs),
            net,
            plan.circuit.protection,
        )
        for q, plan in circuits.items()
    }
    points, hosted = drawing.of(Point), _hosted(drawing)
    for handle, box in made.items():
        wired = {h: p for h, p in {handle: points[handle], **hosted[handle]}.items() if p.circuit in circuits}
        found[handle] = remember.same("box part", of_box, box, wired, drawn)
    return found
