"""A circuit wired: its tree, its nets, the conductors of each cable, its figures, and what it brings into
each box.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from typing import Literal

import msgspec

from fjeld.derive import circuits, conductors, nets
from fjeld.derive.boxes import BoxDevice, BoxInputs
from fjeld.derive.cables import CablePlan
from fjeld.derive.circuits import CircuitFigures
from fjeld.derive.conductors import Conductor, Run
from fjeld.derive.divide import Nets
from fjeld.derive.intents import Membership, intent
from fjeld.derive.keys import DeviceKey, Net
from fjeld.derive.memo import Remember
from fjeld.derive.terminals import CircuitIntent, Terminal
from fjeld.derive.tree import Tree, tree
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Circuit, House, Point
from fjeld.practice import Practice
from fjeld.practice.devices import device
from fjeld.quantities import Known


class CircuitPlan(msgspec.Struct, frozen=True):
    """One circuit worked out: its points (``boxes``, some of which may sit in one), tree, nets, cables and
    figures.

    ``through`` are boxes of others that it passes, ``panels`` those that it feeds.
    """

    handle: Handle
    circuit: Circuit
    boxes: tuple[Handle, ...]
    tree: Tree
    nets: Nets
    runs: tuple[Run, ...]
    figures: CircuitFigures
    through: tuple[Handle, ...] = ()
    panels: tuple[Handle, ...] = ()

    @property
    def source(self) -> Handle:
        """The panel or the old box that it begins at."""
        return self.tree.root


class BoxShare(msgspec.Struct):
    """What one circuit brings into one box: conductors, terminals, and nets linked to one upstream.

    ``shares`` says that its two lines share one neutral.
    """

    circuit: Handle
    shares: bool = False
    conductors: list[Conductor] = []
    terminals: list[Terminal] = []
    links: list[tuple[Net, Net]] = []


def work_out(
    handle: Handle,
    circuit: Circuit,
    members: Membership,
    cables: Mapping[Handle, CablePlan],
    source: Handle,
    fed: Mapping[Handle, Mapping[Handle, Point]],
    house: House,
    practice: Practice,
    remember: Remember,
    version: str,
) -> CircuitPlan:
    """One circuit with the cables that are drawn for it.

    It may pass through a box that is not its own, where its conductors are joined to each
    other and to nothing else; a cable that only ends in such a box is left out.
    """
    wanted = intent(handle, circuit, members, house, practice)
    boxes = (*members.boxes, *members.panels)
    joined, through = _joined(cables, {*boxes, source})
    ends = {h: (c.cable.a, c.cable.b) for h, c in joined.items()}
    on_load = {h for h, c in joined.items() if c.cable.load_side}
    where = tree(
        source, boxes, cables=ends, on_load=on_load, guards=guards(members.points), ring=circuit.ring
    )
    gauges = {h: c.cable.gauge or circuit.gauge for h, c in joined.items()}
    solved: Nets
    made: tuple[Run, ...]
    solved, made = remember(
        "conductors",
        lambda i, w, n, g: _wire(i, w, n, g, practice),
        wanted,
        where,
        {h: c.length for h, c in joined.items()},
        gauges,
        practice=version,
    )
    loads = {h: p for h, p in members.points.items() if p.kind != "switch"}
    # As held up by a person where it was; else the way itself, without what is left at its ends.
    ways = {
        h: c.known if c.cable.measured else Known(c.route.length if c.route else 0.0, c.rests_on)
        for h, c in joined.items()
    }
    numbers = circuits.figures(
        handle, circuit, own=loads, fed=fed, where=where, lengths=ways, gauges=gauges, practice=practice
    )
    return CircuitPlan(
        handle=handle,
        circuit=circuit,
        boxes=tuple(members.points),
        tree=where,
        nets=solved,
        runs=made,
        figures=numbers,
        through=through,
        panels=members.panels,
    )


def guards(points: Mapping[Handle, Point]) -> frozenset[Handle]:
    """The boxes whose device protects what hangs on its load side."""
    return frozenset(h for h, p in points.items() if p.kind == "outlet" and p.protective)


def _joined(
    cables: Mapping[Handle, CablePlan], mine: set[Handle]
) -> tuple[dict[Handle, CablePlan], tuple[Handle, ...]]:
    """The cables that lead to boxes of the circuit, and the boxes of others that they pass through."""
    left = dict(cables)
    while True:
        ends = Counter(end for c in left.values() for end in (c.cable.a, c.cable.b) if end not in mine)
        loose = {h for h, c in left.items() if any(ends[end] == 1 for end in (c.cable.a, c.cable.b))}
        if not loose:
            return left, tuple(sorted(ends, key=order))
        left = {h: c for h, c in left.items() if h not in loose}


def _wire(
    wanted: CircuitIntent,
    where: Tree,
    lengths: dict[Handle, float],
    gauges: Mapping[Handle, str],
    practice: Practice,
) -> tuple[Nets, tuple[Run, ...]]:
    price = practice.catalogue.price_of_mm
    solved = nets.solve(wanted, where, lambda cable, n: lengths.get(cable, 0.0) * price(gauges[cable], n))
    return solved, conductors.runs(wanted.circuit, gauges, where, solved, practice)


def shares(plan: CircuitPlan) -> dict[Handle, BoxShare]:
    """What a circuit brings into each of its boxes."""
    found: dict[Handle, BoxShare] = {}

    def of(box: Handle) -> BoxShare:
        return found.setdefault(box, BoxShare(plan.handle, plan.circuit.poles == 2))

    for run in plan.runs:
        for conductor in run.conductors:
            of(conductor.a).conductors.append(conductor)
            of(conductor.b).conductors.append(conductor)
    for terminal in plan.nets.terminals:
        of(terminal.box).terminals.append(terminal)
    for (box, net), parent in plan.nets.links.items():
        of(box).links.append((net, parent))
    return found


def box_inputs(
    box: Handle,
    point: Point,
    brought: tuple[BoxShare, ...],
    house: House,
    closed: bool = False,
    carries: Literal["", "fan", "fan-ready"] = "",
    hosted: Mapping[Handle, Point] | None = None,
    outdoors: bool = False,
) -> BoxInputs:
    """What a box is made up from, by all the circuits in it; ``hosted`` are the points that sit in it beside
    its own.
    """
    terminals = tuple((s.circuit, t) for s in brought for t in s.terminals)
    return BoxInputs(
        handle=box,
        shape="device" if point.wall and point.kind in ("switch", "outlet") else "ceiling",
        conductors=tuple((s.circuit, c) for s in brought for c in s.conductors),
        terminals=terminals,
        links=tuple((s.circuit, net, parent) for s in brought for net, parent in s.links),
        devices=_devices({box: point, **(hosted or {})}, [t for _, t in terminals]),
        pinned=point.box,
        joining=house.joining,
        family=house.connectors,
        closed=closed,
        carries=carries,
        weight=(point.fitting.weight if point.fitting else None) or 0.0,
        sharing=frozenset(s.circuit for s in brought if s.shares),
        outdoors=outdoors,
    )


def _devices(points: Mapping[Handle, Point], terminals: list[Terminal]) -> tuple[BoxDevice, ...]:
    """The devices of a box. One that shares a yoke takes no gang of its own."""
    kinds = {t.device: t.kind for t in terminals if t.device and t.kind}
    for handle, point in points.items():
        if point.kind not in ("switch", "junction", "blank"):
            # One that no circuit reaches yet is what its point says.
            usual = (
                "protective outlet" if point.protective else "light with chain" if point.chain else point.kind
            )
            kinds.setdefault(DeviceKey(handle), usual)
    shared = {handle for handle, point in points.items() if point.shares_yoke}
    return tuple(
        BoxDevice(d, kinds[d], 0 if d.box in shared else device(kinds[d]).gangs, d.box in shared)
        for d in sorted(kinds, key=lambda key: order(str(key)))
    )
