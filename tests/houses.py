"""Seeded rooms for properties and for measuring speed: every shape and pattern that is in reach.

``one_room(seed)`` gives a valid drawing of one room, cabled as an editor would leave it.
``patterns`` names what a drawing holds, so that a test can publish how often each occurs.
"""

from __future__ import annotations

import math
import random

import msgspec

from fjeld import geometry
from fjeld.derive.house import shape
from fjeld.derive.keys import end_node
from fjeld.derive.plan import Plan, derive
from fjeld.drawing.building import Joists, Opening, Panel, Room, Side
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Circuit, Control, Drawing, House, Item, LoadRef, Point
from fjeld.drawing.validate import require_valid
from fjeld.propose.attach import attached
from fjeld.prove.solve import Solver
from fjeld.quantities import INCH, Length, format_length

R1, P1 = Handle("R1"), Handle("P1")
SHAPES = ("rectangle", "L", "T", "skew")


def inches(value: float) -> Length:
    """A length as typed to the nearest sixteenth."""
    mm = round(value * 16) / 16 * INCH
    return Length(mm, format_length(mm))


def walls_of(kind: str, die: random.Random, scale: float = 1.0) -> tuple[Side, ...]:
    """The walls of a room, clockwise from its north-west corner."""
    w, d = (scale * die.randint(110, 230) for _ in range(2))
    if kind == "rectangle":
        legs = [(90, w), (180, d), (270, w), (0, d)]
    elif kind == "L":
        a, b = w * 0.45, d * 0.5
        legs = [(90, w), (180, d - b), (270, a), (180, b), (270, w - a), (0, d)]
    elif kind == "T":
        a, c, b = w * 0.3, w * 0.3, d * 0.5
        legs = [(90, w), (180, d - b), (270, a), (180, b), (270, w - a - c), (0, b), (270, c), (0, d - b)]
    else:
        c = min(w, d) * 0.3
        legs = [(90, w - c), (135, c * math.sqrt(2)), (180, d - c), (270, w), (0, d)]
    return tuple(Side(float(bearing), inches(length)) for bearing, length in legs)


def one_room(seed: int, points: int | None = None, attach: bool = True) -> Drawing:
    """A drawing of one room; with ``points`` the room grows so that their density stays the same."""
    die = random.Random(seed)
    kind = "rectangle" if points and points > 30 else SHAPES[seed % 4]
    scale = math.sqrt(points / 12) if points else 1.0
    room = Room(
        "Room",
        walls_of(kind, die, max(scale, 1.0)),
        die.choice(("boot", "living", "bed", "kitchen", "other")),
        joists=Joists(die.choice(("E-W", "N-S")), first=inches(die.randint(4, 16))),
    )
    where = shape(R1, room, (), 1.0)
    assert where.closed
    house = House(
        f"House {seed}",
        feed=die.choice(("switch", "switch", "light", "cheapest")),
        two_position=die.choice(("chain", "chain", "strap")),
        joining=die.choice(("pigtail", "feed-through")),
        neutrals=die.choice(("rules", "rules", "everywhere")),
    )
    items: dict[Handle, Item] = {HOUSE: house, R1: room}
    items[P1] = Panel(R1, 1, inches(18), ways=42)
    items[Handle("D1")] = Opening("door", R1, 2, inches(20), inches(28), hinge=die.choice(("start", "end")))
    _furnish(items, where, die, points)
    drawing = require_valid(Drawing(items))
    return attached(drawing, Mint(items)) if attach else drawing


def _furnish(items: dict[Handle, Item], where, die: random.Random, points: int | None) -> None:
    mint = Mint(items)
    lights = points // 3 if points else die.randint(1, 5)
    outlets = points // 3 if points else die.randint(1, 4)
    controls = max(1, lights // 3) if points else die.randint(1, min(lights, 3))
    q_lights = [mint.fresh("circuit") for _ in range(1 if not points else max(1, lights // 8))]
    q_outlets = [mint.fresh("circuit") for _ in range(1 if not points else max(1, outlets // 8))]
    for n, q in enumerate(q_lights):
        items[q] = Circuit(f"Lights {n + 1}", 15, "14", "arc-fault")
    for n, q in enumerate(q_outlets):
        items[q] = Circuit(f"Outlets {n + 1}", 20, "12", "both")
    groups: list[list[Handle]] = [[] for _ in range(controls)]
    for n in range(lights):
        x, y = _inside(where, die)
        handle = mint.fresh("light")
        group = n % controls
        items[handle] = Point(
            "light",
            R1,
            x=inches(x / INCH),
            y=inches(y / INCH),
            va=12,
            circuit=q_lights[group % len(q_lights)],
        )
        groups[group].append(handle)
    for group in groups:
        positions = tuple(_switch(items, where, die, mint) for _ in range(die.choice((1, 1, 2, 2, 3))))
        items[mint.fresh("control")] = Control(positions, tuple(map(LoadRef, group)))
    for n in range(outlets):
        wall, at = _on_wall(where, die)
        items[mint.fresh("outlet")] = Point("outlet", R1, wall, at, circuit=q_outlets[n % len(q_outlets)])
    if die.random() < 0.4:
        half = die.choice([h for h, i in items.items() if isinstance(i, Point) and i.kind == "outlet"])
        items[mint.fresh("control")] = Control((_switch(items, where, die, mint),), (LoadRef(half, "upper"),))
    if die.random() < 0.4:
        x, y = _inside(where, die)
        fan = mint.fresh("fan")
        items[fan] = Point("fan", R1, x=inches(x / INCH), y=inches(y / INCH), circuit=q_lights[0])
        switch = _switch(items, where, die, mint)
        for part in ("fan", "light"):
            items[mint.fresh("control")] = Control((switch,), (LoadRef(fan, part),))
    for _ in range(die.randint(0, 2)):
        x, y = _inside(where, die)
        items[mint.fresh("alarm")] = Point(
            "alarm", R1, x=inches(x / INCH), y=inches(y / INCH), circuit=q_lights[0]
        )


def guarded(seed: int) -> Drawing:
    """A room whose outlets are in part protective, with cables to either side of them; lights often on the
    same circuit.
    """
    drawing, die = one_room(seed, attach=False), random.Random(seed)
    items = dict(drawing.items)
    if die.random() < 0.8:
        only = next(iter(drawing.of(Circuit)))
        for handle, point in drawing.of(Point).items():
            items[handle] = msgspec.structs.replace(point, circuit=only if point.circuit else None)
    halves = {load.point for c in drawing.of(Control).values() for load in c.loads}
    whole = [h for h, p in drawing.of(Point).items() if p.kind == "outlet" and h not in halves]
    for handle in die.sample(whole, min(len(whole), die.randint(1, 3))):
        items[handle] = msgspec.structs.replace(items[handle], protective=True)
    joined = attached(Drawing(items), Mint(items))
    items = dict(joined.items)
    for circuit in derive(joined).circuits.values():
        for edge in circuit.tree.edges:
            upper = items[edge.up]
            if isinstance(upper, Point) and upper.protective and die.random() < 0.6:
                items[edge.cable] = msgspec.structs.replace(items[edge.cable], load_side=True, state="pinned")
    return require_valid(Drawing(items))


def _inside(where, die: random.Random) -> geometry.Point:
    xs, ys = zip(*where.corners, strict=True)
    while True:
        point = die.uniform(min(xs), max(xs)), die.uniform(min(ys), max(ys))
        if (
            geometry.contains(where.corners, point)
            and min(geometry.to_segment(point, w.start, w.end) for w in where.walls) > 320
        ):
            return point


def _on_wall(where, die: random.Random) -> tuple[int, Length]:
    fitting = [w for w in where.walls if w.length > 500 and w.number != 2]
    wall = die.choice(fitting)
    return wall.number, inches(die.uniform(120, wall.length - 120) / INCH)


def _switch(items: dict[Handle, Item], where, die: random.Random, mint: Mint) -> Handle:
    wall, at = _on_wall(where, die)
    handle = mint.fresh("switch")
    items[handle] = Point("switch", R1, wall, at)
    return handle


def patterns(drawing: Drawing) -> set[str]:
    """The names of what a drawing holds."""
    found = {SHAPES[int(drawing.house.name.split()[1]) % 4], f"feed {drawing.house.feed}"}
    for control in drawing.of(Control).values():
        found.add(f"{len(control.positions)} positions")
        if any(load.part == "upper" for load in control.loads):
            found.add("half-switched outlet")
        if any(load.part == "fan" for load in control.loads):
            found.add("fan and light")
        if len(control.loads) > 1:
            found.add("several lights")
        if len(control.positions) == 2 and drawing.house.two_position == "strap":
            found.add("strap")
    alarms = [p for p in drawing.of(Point).values() if p.kind == "alarm"]
    if len(alarms) > 1:
        found.add("linked alarms")
    if drawing.house.neutrals == "everywhere":
        found.add("neutral everywhere")
    if drawing.house.joining == "feed-through":
        found.add("feed-through")
    return found


def row_of_rooms(seed: int, rooms: int, points: int = 25) -> Drawing:
    """A house of several rooms side by side, each with its own circuits, all fed from the panel in the first.

    It grows by rooms at constant density: what is measured on it is how work grows with a house.
    """
    items: dict[Handle, Item] = {HOUSE: House()}
    mint = Mint(())
    east = 0.0
    for n in range(rooms):
        one = one_room(seed + n, points, attach=False)
        names = {h: mint.fresh(_KINDS[h[0]]) for h in one.items if h != HOUSE and (h[0] != "P" or n == 0)}
        where = shape(R1, one.get(R1, Room), (), 5.0)
        xs = [c[0] for c in where.corners]
        for handle, item in one.items.items():
            if handle in names:
                items[names[handle]] = _renamed(item, names)
        room = items[names[R1]]
        assert isinstance(room, Room)
        items[names[R1]] = msgspec.structs.replace(room, x=Length(east - min(xs)), name=f"Room {n + 1}")
        east += max(xs) - min(xs) + 120.0
    return require_valid(attached(Drawing(items), mint))


_KINDS = {
    "R": "room",
    "D": "door",
    "W": "window",
    "P": "panel",
    "A": "light",
    "S": "switch",
    "O": "outlet",
    "V": "alarm",
    "F": "fan",
    "J": "junction",
    "K": "control",
    "Q": "circuit",
    "C": "cable",
}


def _renamed(item: Item, names: dict[Handle, Handle]) -> Item:
    """An item whose references follow the handles' new names."""

    def new(value: object) -> object:
        if isinstance(value, str):
            head, dot, part = value.partition(".")
            return f"{names[Handle(head)]}{dot}{part}" if Handle(head) in names else value
        if isinstance(value, LoadRef):
            return LoadRef(names.get(value.point, value.point), value.part)
        return tuple(new(v) for v in value) if isinstance(value, tuple) else value

    fields = [f for f in ("room", "circuit", "positions", "loads", "row", "a", "b") if hasattr(item, f)]
    return msgspec.structs.replace(item, **{f: new(getattr(item, f)) for f in fields})


def assert_balanced(plan: Plan, seed: int, states: int = 3, most: float = 2e-3) -> None:
    """In random states what goes out in each cable comes back in it, A, summed as phasors."""
    solver, die = Solver(plan.network), random.Random(seed)
    ohms = {w.key: w.ohms for w in plan.network.wires}
    for _ in range(states):
        volts = solver.voltages([{p: die.getrandbits(1) for p in plan.network.positions}])[0]
        for run in plan.runs():
            if plan.circuits[run.circuit].tree.ring:
                continue
            ends = {
                c.key: [volts[solver.index[end_node(c.key, box)]] for box in (c.a, c.b)]
                for c in run.conductors
            }
            assert abs(sum((a - b) / ohms[key] for key, (a, b) in ends.items())) < most, (seed, run.key)
