"""Seeded drawings over all that a drawing can hold: both practices, one room to three, whatever sits in,
hangs on or feeds what.

``world(seed)`` gives a valid drawing as an editor would leave it; ``holds`` names what one
holds, so that a test can publish how wide the world is.
"""

from __future__ import annotations

import random

from msgspec.structs import replace

from fjeld.derive.plan import Plan, derive
from fjeld.drawing.building import Body, Panel, Room, Side
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Item, Override, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import problems_of, require_valid
from fjeld.practice import Amendment
from fjeld.propose.attach import attached
from fjeld.quantities import Length, not_measured
from tests.houses import inches, one_room, row_of_rooms
from tests.old_boxes import found_cable

Items = dict[Handle, Item]
#: A North American gauge and breaker as the nearest British ones.
BRITISH = {"14": ("1.5", 10), "12": ("2.5", 20), "10": ("2.5", 20)}


def world(seed: int) -> Drawing:
    """A valid drawing; the same for the same seed."""
    die = random.Random(f"world {seed}")
    start = one_room(seed, attach=False) if die.random() < 0.7 else row_of_rooms(seed, die.randint(2, 3), 9)
    items: Items = {h: i for h, i in start.items.items() if not isinstance(i, Cable)}
    british = die.random() < 0.4
    if british:
        _go_british(items)
    for change in (_mixed, _sources, _legs, _kinds, _shared_boxes, _surroundings, _local, _measures):
        change(items, die, british)
    drawing = attached(require_valid(Drawing(items)), Mint(items))
    items = dict(drawing.items)
    _cables(items, drawing, die, british)
    return require_valid(attached(Drawing(items), Mint(items)))


def _of(items: Items, kind: type) -> dict[Handle, Item]:
    return {h: i for h, i in items.items() if isinstance(i, kind)}


def _try(items: Items, handle: Handle, **fields: object) -> bool:
    """Set fields where the drawing stays valid with them."""
    before = items[handle]
    items[handle] = replace(before, **fields)
    if any(True for _ in problems_of(Drawing(items))):
        items[handle] = before
        return False
    return True


def _go_british(items: Items) -> None:
    for handle, item in list(items.items()):
        if isinstance(item, Circuit):
            gauge, breaker = BRITISH[item.gauge]
            items[handle] = replace(item, gauge=gauge, breaker=breaker, protection="residual")
    items[Handle("house")] = replace(items[Handle("house")], practice="gb", unit="mm")


def _mixed(items: Items, die: random.Random, british: bool) -> None:
    """Lights and outlets on one circuit, and boxes of several circuits."""
    if die.random() < 0.4:
        only = min(_of(items, Circuit))
        for handle, point in _of(items, Point).items():
            if point.circuit:
                items[handle] = replace(point, circuit=only)


def _sources(items: Items, die: random.Random, british: bool) -> None:
    """A second panel, or an old box known in part."""
    circuits = sorted(_of(items, Circuit))
    if die.random() < 0.25:
        items[Handle("Q80")] = Circuit("Feeder", 20 if british else 30, "2.5" if british else "10")
        items[Handle("P8")] = Panel("R1", 3, inches(30), circuit="Q80")
        _try(items, die.choice(circuits), source="P8")
    if die.random() < 0.3:
        colours = ("brown", "blue", "bare") if british else ("black", "white", "bare")
        said = ("line", "neutral", "ground")
        cables = tuple(
            found_cable(
                n,
                *(
                    (c, die.choice(("", "screw", "joint")), die.choice(("", role)), die.random() < 0.5)
                    for c, role in zip(colours, said, strict=True)
                ),
                gauge=die.choice(("", "1.5" if british else "14")),
            )
            for n in range(1, die.randint(0, 3) + 1)
        )
        items[Handle("E8")] = OldBox(
            "R1",
            1,
            inches(50),
            inches(14),
            holds=die.choice(("outlet", "switch", "")),
            cables=cables,
            volume=die.choice((None, 18.0, 40.0)),
            breaker=die.choice(("", "4")),
            breaker_read=die.random() < 0.5,
        )
        _try(items, die.choice(circuits), source="E8", found=die.choice(("", "1")) if cables else "")


def _legs(items: Items, die: random.Random, british: bool) -> None:
    for handle in sorted(_of(items, Circuit)):
        if die.random() < 0.25 and _try(items, handle, poles=2):
            legs: dict[str, int] = {}
            for control in _of(items, Control).values():
                points = [load.point for load in control.loads]
                leg = next((legs[p] for p in points if p in legs), die.choice((1, 2)))
                legs |= dict.fromkeys(points, leg)
            for point in [h for h, p in _of(items, Point).items() if p.circuit == handle]:
                items[point] = replace(items[point], leg=legs.get(point, die.choice((1, 2))))


def _kinds(items: Items, die: random.Random, british: bool) -> None:
    for handle in _of(items, Control):
        if die.random() < 0.3:
            _try(items, handle, device=die.choice(("dimmer", "timer", "sensor")))
        if die.random() < 0.2:
            _try(items, handle, style=die.choice(("chain", "strap")))
    for handle, point in _of(items, Point).items():
        if point.kind == "light" and die.random() < 0.15:
            items[handle] = replace(point, chain=True)
        if point.kind == "switch" and die.random() < 0.2:
            items[handle] = replace(point, neutral=die.choice(("yes", "no")), line=die.random() < 0.3)
        if die.random() < 0.2:
            items[handle] = replace(
                items[handle],
                va=float(die.randint(5, 60 if point.kind == "light" else 250)),
                continuous=die.random() < 0.3,
            )


def _shared_boxes(items: Items, die: random.Random, british: bool) -> None:
    points = sorted(h for h, p in _of(items, Point).items() if p.kind in ("switch", "outlet"))
    for handle in points:
        if die.random() < 0.15:
            _try(items, handle, within=die.choice(points), yoke=die.random() < 0.3)


def _surroundings(items: Items, die: random.Random, british: bool) -> None:
    """What stands there, what is finished, what is built."""
    rooms = sorted(_of(items, Room))
    for room in rooms:
        if die.random() < 0.3:
            items[room] = replace(items[room], ceiling_closed=True)
        if die.random() < 0.3:
            items[room] = replace(items[room], use=die.choice(("bath", "kitchen", "garage", "bed", "hall")))
        if die.random() < 0.15:
            items[room] = replace(items[room], work="as it stands")
    if die.random() < 0.3:
        kind = die.choice(("sink", "counter", "bath"))
        items[Handle("B8")] = Body(kind, die.choice(rooms), Length(600.0), Length(500.0), 1, Length(200.0))


def _local(items: Items, die: random.Random, british: bool) -> None:
    """Local values, findings let rest, own prices."""
    house = items[Handle("house")]
    if die.random() < 0.25:
        house = replace(house, amendments=(Amendment("volt-drop", 2.0, "local"),))
    if die.random() < 0.2:
        house = replace(house, overrides={"volt-drop:Q1": Override("as the owner wants", 3.0)})
    if die.random() < 0.2:
        house = replace(house, prices={"outlet": 333})
    items[Handle("house")] = house


def _measures(items: Items, die: random.Random, british: bool) -> None:
    """Walls as computed and walls not measured yet."""
    for handle, room in _of(items, Room).items():
        sides = list(room.sides)
        n = die.randrange(len(sides))
        if die.random() < 0.2:
            sides[n] = Side(sides[n].bearing, not_measured(sides[n].length, "ft-in"))
        elif die.random() < 0.3:
            sides[n] = Side(sides[n].bearing, Length(sides[n].length.mm))
        items[handle] = replace(room, sides=tuple(sides))


def _cables(items: Items, drawing: Drawing, die: random.Random, british: bool) -> None:
    """Load sides, pieces of other gauges, lengths held up by hand, rings."""
    halves = {load.point for c in drawing.of(Control).values() for load in c.loads if load.part}
    plain = [
        h for h, p in drawing.of(Point).items() if p.kind == "outlet" and h not in halves and not p.within
    ]
    if not british:
        for handle in plain:
            if die.random() < 0.25:
                _try(items, handle, protective=True)
    plan = derive(Drawing(items))
    for circuit in plan.circuits.values():
        for edge in circuit.tree.edges:
            upper = items[edge.up]
            if (
                isinstance(upper, Point)
                and upper.protective
                and circuit.circuit.poles == 1
                and die.random() < 0.6
            ):
                items[edge.cable] = replace(items[edge.cable], load_side=True, state="pinned")
            elif die.random() < 0.08:
                gauge = die.choice(("1.5", "2.5") if british else ("14", "12", "10"))
                _try(items, edge.cable, gauge=gauge, by="person", state="pinned")
            elif die.random() < 0.08:
                items[edge.cable] = replace(items[edge.cable], measured=Length(float(die.randint(900, 9000))))
        kinds = {items[b].kind for b in circuit.boxes}
        if british and kinds == {"outlet"} and die.random() < 0.5:
            ends = [e.down for e in circuit.tree.edges if len(circuit.tree.beyond[e.cable]) == 1]
            items[circuit.handle] = replace(items[circuit.handle], ring=True)
            back = Cable(ends[-1], circuit.source, circuit.handle, by="person", state="pinned")
            items[Mint(items).fresh("cable")] = back


def holds(drawing: Drawing, plan: Plan) -> set[str]:
    """The names of what a drawing and its plan hold."""
    found = {drawing.house.practice, f"{min(3, len(drawing.of(Room)))} rooms"}
    found |= {d.kind for box in plan.boxes.values() for d in box.devices}
    found |= {"a yoke shared"} if any(d.shares for b in plan.boxes.values() for d in b.devices) else set()
    found |= {"two circuits in a box"} if any(len(b.circuits) > 1 for b in plan.boxes.values()) else set()
    for circuit in plan.circuits.values():
        found |= {"second panel"} if circuit.panels else set()
        found |= {"old box"} if circuit.source in plan.begun else set()
        found |= {"two legs"} if circuit.circuit.poles == 2 else set()
        found |= {"load side"} if circuit.tree.behind else set()
        found |= {"ring"} if circuit.tree.ring else set()
        found |= {"divided"} if any(len(b) > 1 for b in circuit.nets.bundles.values()) else set()
        found |= {"overflow"} if circuit.nets.overflow else set()
    for point in drawing.of(Point).values():
        found |= {"within"} if point.within else set()
    for room in drawing.of(Room).values():
        found |= {"closed ceiling"} if room.ceiling_closed else set()
        found |= {"not measured"} if any(side.length.unknown for side in room.sides) else set()
        found |= {"as it stands"} if room.work == "as it stands" else set()
    for cable in drawing.of(Cable).values():
        found |= {"own gauge"} if cable.gauge else set()
        found |= {"held up"} if cable.measured else set()
    house = drawing.house
    found |= {"amended"} if house.amendments else set()
    found |= {"let rest"} if house.overrides else set()
    return found
