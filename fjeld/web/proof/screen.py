"""Proof: plates that flip, lamps that light from the solved network, what is still live."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from urllib.parse import urlencode

from fjeld.derive.boxes import Box
from fjeld.derive.keys import Movable, end_node, position_order, rest, stands
from fjeld.derive.old import taken_for_granted
from fjeld.derive.places import Placed
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, LoadRef
from fjeld.drawing.old_box import OldBox
from fjeld.graphics.floor import SMALL_SYMBOL, Floor
from fjeld.graphics.labels import Rect, free_place
from fjeld.graphics.shapes import Shape, group, line, path, rect, shape, text
from fjeld.prove.proof import ControlProof, always_on, loads_in, moved_by, prove, still_live
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver, band
from fjeld.prove.states import gray
from fjeld.web.http.view import MEMO, View
from fjeld.web.http.waypoint import Action, Waypoint
from fjeld.web.proof.panels import (
    BreakerCell,
    Condition,
    ControlStrip,
    Dock,
    LampVolts,
    StateCell,
    Watching,
    Workings,
)
from fjeld.web.ui.switches import Switches

#: The word in the address for all circuits at once.
EVERY = "all"
ACTIONS: dict[str, Action] = {}


def standing(view: View) -> dict[Movable, int]:
    """Where each switch stands, from the page's address: ``up`` lists those that stand at 1."""
    return Switches.of(view.plan, view.params).state(view.plan.network)


def off(view: View) -> tuple[Handle, ...]:
    """The circuits whose breakers are off."""
    return Switches.of(view.plan, view.params).off


def address(view: View, **changes: str) -> str:
    """This page with other switches, as a query."""
    return "?" + urlencode({k: v for k, v in {**view.params, **changes}.items() if v})


def flipped(view: View, position: Movable) -> str:
    """The query with one switch flipped."""
    return _with_up(view, {p for p, at in standing(view).items() if at != rest(p)} ^ {position})


def _with_up(view: View, up: set[Movable], none: str = "") -> str:
    """The query with these switches up."""
    return address(view, up=",".join(str(p) for p in sorted(up, key=position_order)) or none)


def in_focus(view: View) -> Handle | None:
    """The circuit to look at: the one asked for, else on a whole storey that of what is selected, or the
    first with a switch.
    """
    wanted = view.params.get("circuit", "")
    if wanted == EVERY:
        return None
    if wanted in view.plan.circuits:
        return Handle(wanted)
    if not view.whole:
        return None
    of = [q for q, plan in view.plan.circuits.items() if view.selected in plan.boxes]
    switched = [q for c in view.drawing.of(Control) if (q := view.plan.control_circuit(c))]
    return min(of or switched, key=order, default=None)


def _solved(view: View) -> dict[str, float]:
    """Volts at each load, in the state shown."""
    network = view.plan.network
    if network is None or not network.loads:
        return {}
    solver = Solver.of(network, MEMO)
    volts = solver.voltages([standing(view)], off(view))[0]
    return {load.key: solver.across(volts, load.a, load.b) for load in network.loads}


def _energized(view: View) -> set[str]:
    """Conductors joined to the line in the state shown."""
    network = view.plan.network
    if network is None:
        return set()
    found = reach(network, (), standing(view), off(view))
    return {
        c.key
        for run in view.plan.runs()
        for c in run.conductors
        if all(found.line.get(end_node(c.key, box)) for box in (c.a, c.b))
    }


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """The room with lamps as they are, energized cables aglow, and switches as plates."""
    volts = _solved(view)
    lit = frozenset(
        LoadRef.read(k).point
        for k, v in volts.items()
        if band(v, view.plan.practice.volts) == "lit" and LoadRef.read(k).point.startswith(("A", "F"))
    )
    return {
        "f-walls": floor.walls(),
        "f-openings": floor.openings(),
        "f-live": _live(view, floor),
        "f-points": floor.points(view.selected, lit=lit),
        "f-plates": _plates(view, floor),
    }


def _live(view: View, floor: Floor) -> Shape:
    energized, focus = _energized(view), in_focus(view)
    glow: list[Shape] = []
    lines: list[Shape] = []
    for n, run in enumerate(view.plan.runs()):
        cable = view.plan.cables[run.cable]
        if cable.route is None:
            continue
        points = floor.route_points(cable.route, n)
        if not points:
            continue
        if focus in (None, run.circuit) and any(c.key in energized for c in run.conductors):
            glow.append(path(points, "glow"))
            lines += _chevrons(points if run.conductors[0].a == cable.cable.a else points[::-1])
        lines.append(path(points, "route hairline"))
    return group("f-live", *glow, *lines)


def _chevrons(points: list[tuple[float, float]]) -> list[Shape]:
    """Arrow heads along a line, from the supply."""
    found = []
    for (x1, y1), (x2, y2) in itertools.pairwise(points):
        length = math.dist((x1, y1), (x2, y2))
        if length < 46:
            continue
        ux, uy = (x2 - x1) / length, (y2 - y1) / length
        x, y = (x1 + x2) / 2, (y1 + y2) / 2
        found.append(
            path(
                [
                    (x - 4 * ux - 4 * uy, y - 4 * uy + 4 * ux),
                    (x + 3 * ux, y + 3 * uy),
                    (x - 4 * ux + 4 * uy, y - 4 * uy - 4 * ux),
                ],
                "chevron",
            )
        )
    return found


def _plates(view: View, floor: Floor) -> Shape:
    """A plate beside each switch box with a rocker for each device, and the breakers beside the panel; a tap
    flips one.
    """
    if floor.where is None:
        return group("f-plates")
    parts: list[Shape] = []
    at = standing(view)
    # On a whole storey the plates are small, and the breakers are in the dock alone.
    small = floor.whole
    taken = floor.small_symbols() + [named.covers for named in floor.named] if small else floor.covered()
    for handle, placed in sorted(view.plan.placed.items(), key=lambda p: order(p[0])):
        if placed.room not in floor.shown:
            continue
        if placed.kind == "panel":
            parts += [] if small else _beside_panel(view, floor, placed, taken)
        elif mine := {p: up for p, up in at.items() if view.plan.home(p.box) == handle}:
            parts += _plate(view, floor, placed, mine, taken)
    return group("f-plates", *parts)


def _into_room(view: View, placed: Placed) -> tuple[float, float]:
    """The way from a box into its room."""
    return view.plan.rooms[placed.room].walls[placed.wall - 1].normal if placed.wall else (0.0, 1.0)


def _beside_panel(view: View, floor: Floor, placed: Placed, taken: list[Rect]) -> list[Shape]:
    """The breakers of a panel, one under another."""
    circuits = [q for q, c in view.plan.circuits.items() if c.source == placed.handle]
    high = 26.0 * len(circuits) + 6
    middle = free_place(floor.spot(placed), _into_room(view, placed), 44, high, taken)
    return [_breaker(view, q, middle, n, len(circuits)) for n, q in enumerate(circuits)]


def _plate(
    view: View, floor: Floor, placed: Placed, mine: Mapping[Movable, int], taken: list[Rect]
) -> list[Shape]:
    """A plate with a rocker for each device, and the line to its box."""
    k = SMALL_SYMBOL if floor.whole else 1.0
    spot = floor.to_px(placed.position) if floor.whole else floor.spot(placed)
    wide = (28.0 * len(mine) + 6) * k
    x, y = free_place(spot, _into_room(view, placed), width=wide, height=52 * k, taken=taken, scale=k)
    rockers = [
        _rocker(view, p, middle=(x, y), n=n, count=len(mine), up=bool(up))
        for n, (p, up) in enumerate(mine.items())
    ]
    moved = f"translate({x * (1 - k):.1f} {y * (1 - k):.1f}) scale({k})"
    return [line(*spot, x, y, "leader"), shape("g", *rockers, transform=moved)]


def _rocker(
    view: View, position: Movable, middle: tuple[float, float], n: int, count: int, up: bool
) -> Shape:
    x, y = middle[0] + 28 * (n - (count - 1) / 2), middle[1]
    words = stands(position, int(up))
    bar = y - 9 if up else y + 9
    return shape(
        "a",
        shape("title", text=words),
        rect(x - 15, y - 24, width=30, height=48, cls="plate", rx=5),
        rect(x - 9, y - 17, width=18, height=34, cls="rocker", rx=3),
        rect(x - 9, y - 17 if up else y, width=18, height=17, cls="rocker-in", rx=3),
        line(x - 4, bar, x + 4, bar, "rocker-bar"),
        href=flipped(view, position),
        data_live="",
        aria_label=words,
        role="switch",
        aria_checked="true" if up else "false",
    )


def _breaker(view: View, circuit: Handle, middle: tuple[float, float], n: int, count: int) -> Shape:
    """A breaker's toggle: toward the bus when it is on."""
    x, y = middle[0], middle[1] + 26 * (n - (count - 1) / 2)
    on = circuit not in off(view)
    words = f"Breaker of {circuit}: {'on' if on else 'off'}"
    knob = x - 20 if on else x - 6
    return shape(
        "a",
        shape("title", text=words),
        rect(x - 22, y - 12, width=44, height=24, cls="plate", rx=4),
        rect(knob, y - 8, width=13, height=16, cls="rocker-in" if on else "rocker", rx=2),
        text(x + (9 if on else 14), y + 4.5, circuit, "breaker-name"),
        href=breaker_flipped(view, circuit),
        data_live="",
        aria_label=words,
        role="switch",
        aria_checked="true" if on else "false",
    )


def breaker_flipped(view: View, circuit: Handle) -> str:
    """The query with one breaker flipped."""
    return address(view, off=",".join(sorted({*off(view)} ^ {circuit})))


def dock(view: View) -> Dock:
    """The truth strip of each control, and the breakers."""
    proofs = prove(view.plan, MEMO)
    focus = in_focus(view)
    fed = always_on(view.plan, MEMO)
    dead, circuits = off(view), view.plan.circuits
    return Dock(
        strips=[
            _strip(view, control, proof)
            for control, proof in proofs.items()
            if focus in (None, view.plan.control_circuit(control))
        ],
        focus=focus,
        circuits=[(q, plan.circuit.name, address(view, circuit=q)) for q, plan in circuits.items()],
        every=address(view, circuit=EVERY),
        elsewhere=_not_as_meant(view, proofs) if focus else [],
        breakers=[
            BreakerCell(handle=q, name=plan.circuit.name, off=q in dead, href=breaker_flipped(view, q))
            for q, plan in circuits.items()
        ],
        unfed=[k for k, ok in fed.items() if not ok],
        fed=len(fed),
        unread=_rests_on_the_unread(view),
        wired=bool(view.plan.network and view.plan.network.loads),
    )


def _strip(view: View, control: Handle, proof: ControlProof) -> ControlStrip:
    """Every setting of a control with what its lamps do, each a way to stand there."""
    at, mine = standing(view), proof.positions
    here = tuple(at.get(p, 0) for p in mine)
    elsewhere = {p for p, on in at.items() if on != rest(p)} - {*mine}
    cells = []
    for row in proof.rows:
        stood = list(zip(mine, row.setting, strict=True))
        cells.append(
            StateCell(
                row=row,
                lit=all(b == "lit" for b in row.bands.values()),
                here=row.setting == here,
                href=_with_up(view, elsewhere | {p for p, on in stood if on != rest(p)}, "-"),
                words=", ".join(stands(p, s, alone=True) for p, s in stood),
            )
        )
    name = view.drawing.get(control, Control).name
    return ControlStrip(control=control, name=name, proof=proof, cells=cells)


def _rests_on_the_unread(view: View) -> bool:
    """Whether something begins in an old box of which no reading has settled line and neutral."""
    begins = (c for c in view.plan.circuits.values() if c.source in view.plan.begun)
    return any(
        taken_for_granted(c.source, view.drawing.get(c.source, OldBox), c.circuit.found) for c in begins
    )


def _not_as_meant(view: View, proofs: Mapping[Handle, ControlProof]) -> list[Handle]:
    """The controls out of focus that do not do what was meant: never out of sight."""
    return [c for c, p in proofs.items() if not p.proven and view.plan.control_circuit(c) != in_focus(view)]


def workings(view: View) -> Workings:
    """What is still live in the selected box, conductor by conductor; what each lamp reads."""
    box = _box_in_hand(view)
    dark = _switched_off(view, box.handle) if box is not None else {}
    volts, nominal = _solved(view), view.plan.practice.volts
    lamps = [
        LampVolts(key=load.key, volts=volts[load.key], band=band(volts[load.key], nominal))
        for load in (view.plan.network.loads if view.plan.network else ())
    ]
    return Workings(
        box=box,
        near_old=_old_box_at(view, box.handle) if box is not None else "",
        begins=_unread_breaker(view, box) if box is not None else "",
        rows=_conditions(view, box, dark) if box is not None else [],
        dark=[stands(p, at) for p, at in dark.items()],
        lamps=lamps,
        watching=_watching(view),
        netlist=urlencode({k: view.params[k] for k in ("up", "off") if view.params.get(k)}),
    )


def _box_in_hand(view: View) -> Box | None:
    """The box that is selected, else the first of a switch, else any that is wired."""
    box = view.plan.boxes.get(Handle(view.selected))
    if box is not None and box.ends:
        return box
    boxes = [b for b in view.plan.boxes.values() if b.ends]
    switches = [b for b in boxes if b.handle.startswith("S")]
    return min(switches, key=lambda b: order(b.handle), default=boxes[0] if boxes else None)


def _conditions(view: View, box: Box, dark: Mapping[Movable, int]) -> list[Condition]:
    """Each conductor of a box with its light switched off, and with its breaker off besides."""
    dead = off(view)
    conductors = {c.key: c for c in box.ends}
    circuits = {c.key: run.circuit for run in view.plan.runs() for c in run.conductors}
    all_off = sorted({*dead, *box.circuits})
    by_breaker = {f.conductor: f for f in still_live(view.plan, box.handle, all_off, remember=MEMO)}
    return [
        Condition(
            c=conductors[found.conductor],
            circuit=circuits[found.conductor],
            switch=found,
            breaker=by_breaker[found.conductor],
        )
        for found in still_live(view.plan, box.handle, dead, dark, MEMO)
    ]


def _watching(view: View) -> list[Watching]:
    """What each protective device sees go missing as the switches stand, mA, and at how much it opens."""
    network = view.plan.network
    if network is None or not network.residuals:
        return []
    solver = Solver.of(network, MEMO)
    volts = solver.voltages([standing(view)], off(view))[0]
    return [
        Watching(
            name="breaker of " + r.circuit if r.circuit else r.key,
            missing=solver.residual(volts, r) * 1000,
            trips=r.trips * 1000,
            opens=solver.residual(volts, r) >= r.trips,
        )
        for r in network.residuals
    ]


def _unread_breaker(view: View, box: Box) -> str:
    """The old box that feeds a box, where no reading says which breaker makes it dead."""
    for circuit in box.circuits:
        source = view.plan.circuits[circuit].source
        old = view.drawing.items.get(source)
        if isinstance(old, OldBox) and not (old.breaker.strip() and old.breaker_read):
            return source
    return ""


#: An old box this near to a new one is the same opening, or shares it, mm.
_SAME_PLACE = 150.0


def _old_box_at(view: View, handle: Handle) -> str:
    """The old box that stands where a box is to be, if any: whatever feeds it is not in the network."""
    placed = view.plan.placed.get(handle)
    for old_handle, old in view.drawing.of(OldBox).items():
        if placed is None or old.room != placed.room or old.wall != placed.wall:
            continue
        if old.wall and abs((old.at.mm if old.at else 0.0) - placed.along) <= _SAME_PLACE:
            return old_handle
        local = view.plan.rooms[placed.room].local(placed.position[:2])
        if not old.wall and old.x and old.y and math.dist((old.x.mm, old.y.mm), local) <= _SAME_PLACE:
            return old_handle
    return ""


def _switched_off(view: View, box: Handle) -> dict[Movable, int]:
    """Switch positions that make the lamps of this box's controls dark: “switch off, breaker on”."""
    held: dict[Movable, int] = {}
    network = view.plan.network
    if network is None:
        return held
    solver = Solver.of(network, MEMO)
    for control, item in view.drawing.of(Control).items():
        loads = loads_in(network, item.loads)
        if not loads or (box not in item.positions and box not in {load.point for load in item.loads}):
            continue
        keys = moved_by(view.plan, network, control)
        for setting in gray(len(keys)):
            state = {**dict.fromkeys(network.positions, 0), **dict(zip(keys, setting, strict=True))}
            volts = solver.voltages([state])[0]
            if all(band(solver.across(volts, load.a, load.b), network.volts) == "dark" for load in loads):
                held |= dict(zip(keys, setting, strict=True))
                break
    return held


PROOF = Waypoint(name="proof", title="Proof", layers=layers, dock=dock, workings=workings, actions=ACTIONS)
