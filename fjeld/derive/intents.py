"""What each circuit must do: which boxes are on it, what works what, where a neutral is wanted.

Read from the drawing alone; nothing here knows where a box is.
"""

from __future__ import annotations

import msgspec

from fjeld.derive.terminals import BoxIntent, CircuitIntent
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import (
    PARTS,
    Circuit,
    Control,
    Drawing,
    House,
    LoadRef,
    Point,
    first_panel,
    home,
)
from fjeld.practice import Practice, rules


class Membership(msgspec.Struct, frozen=True):
    """The items that a circuit's intent is read from: its points, their rooms, the controls over its loads,
    panels it feeds.
    """

    points: dict[Handle, Point]
    rooms: dict[Handle, Room]
    controls: dict[Handle, Control]
    panels: tuple[Handle, ...] = ()

    @property
    def boxes(self) -> list[Handle]:
        """The boxes of its points, some of which may share one."""
        return sorted({home(self.points, h) for h in self.points}, key=order)


def source_of(drawing: Drawing, circuit: Handle) -> Handle | None:
    """Where a circuit begins: a panel, or an old box; None where there is neither."""
    return drawing.get(circuit, Circuit).source or first_panel(drawing)


def control_circuit(drawing: Drawing, control: Control) -> Handle | None:
    """The circuit of a control's loads, if they agree; else None."""
    found = {
        point.circuit for load in control.loads if isinstance(point := drawing.items.get(load.point), Point)
    }
    return found.pop() if len(found) == 1 else None


def memberships(drawing: Drawing) -> dict[Handle, Membership]:
    """What is on each circuit: its loads, and the controls over them with their switches."""
    points, rooms = drawing.of(Point), drawing.of(Room)
    boxes: dict[Handle, dict[Handle, None]] = {q: {} for q in drawing.of(Circuit)}
    controls: dict[Handle, dict[Handle, Control]] = {q: {} for q in boxes}
    for handle, point in points.items():
        if point.circuit is not None and point.kind != "switch":
            boxes[point.circuit][handle] = None
    for handle, control in drawing.of(Control).items():
        circuit = control_circuit(drawing, control)
        if circuit is not None:
            boxes[circuit] |= dict.fromkeys(control.positions)
            if control.positions and control.loads:
                controls[circuit][handle] = control
    fed = _panels_fed(drawing)
    found = {}
    for circuit, members in boxes.items():
        mine = {h: points[h] for h in sorted(members, key=order)}
        in_rooms = {h: rooms[p.room] for h, p in mine.items()}
        found[circuit] = Membership(mine, in_rooms, controls[circuit], fed.get(circuit, ()))
    return found


def _panels_fed(drawing: Drawing) -> dict[Handle, tuple[Handle, ...]]:
    """The panels that each circuit feeds."""
    fed: dict[Handle, tuple[Handle, ...]] = {}
    for handle, panel in sorted(drawing.of(Panel).items(), key=lambda p: order(p[0])):
        if panel.circuit is not None:
            fed[panel.circuit] = (*fed.get(panel.circuit, ()), handle)
    return fed


def circuit_boxes(drawing: Drawing) -> dict[Handle, list[Handle]]:
    """The boxes of each circuit: its loads, the switches of the controls over them, and panels
    that it feeds.
    """
    return {q: [*members.boxes, *members.panels] for q, members in memberships(drawing).items()}


def is_light(point: Point, load: LoadRef) -> bool:
    """Whether what a control works is a light: a light, or the light of a fan; a fan's motor is none, nor an
    outlet.
    """
    return point.kind == "light" or (point.kind == "fan" and load.part != "fan")


def wants_neutral(point: Point, room: Room, for_light: bool, everywhere: bool, practice: Practice) -> bool:
    """Whether a switch box is to have a neutral: as drawn, or as the rule asks for its room and load."""
    if point.neutral != "rule":
        return point.neutral == "yes"
    asked = practice.get(rules.NEUTRAL_AT_SWITCH, ())
    return everywhere or (for_light and room.use in asked)


def intent(
    handle: Handle, circuit: Circuit, members: Membership, house: House, practice: Practice
) -> CircuitIntent:
    """What one circuit must do."""
    lights = {
        position
        for control in members.controls.values()
        for position in control.positions
        if any(is_light(members.points[load.point], load) for load in control.loads)
    }
    boxes = tuple(
        _box_intent(box, point, members.rooms[box], for_light=box in lights, house=house, practice=practice)
        for box, point in members.points.items()
    )
    strap = frozenset(
        h
        for h, c in members.controls.items()
        if (c.style or house.two_position) == "strap" and len(c.positions) == 2
    )
    return CircuitIntent(
        circuit=handle,
        boxes=boxes,
        controls=members.controls,
        strap=strap,
        most=practice.catalogue.most_insulated(circuit.gauge),
        panels=members.panels,
        poles=circuit.poles,
        homes={b.handle: b.within for b in boxes if b.within is not None},
    )


def _box_intent(
    handle: Handle, point: Point, room: Room, for_light: bool, house: House, practice: Practice
) -> BoxIntent:
    """What one box of a circuit is to have."""
    switch, everywhere = point.kind == "switch", house.neutrals == "everywhere"
    return BoxIntent(
        handle=handle,
        kind=point.kind,
        neutral=switch and wants_neutral(point, room, for_light, everywhere, practice),
        line=point.line or (everywhere and switch),
        protective=point.kind == "outlet" and point.protective,
        leg=point.leg,
        chain=point.kind == "light" and point.chain,
        within=point.within,
    )


def intents(drawing: Drawing, practice: Practice) -> dict[Handle, CircuitIntent]:
    """What each circuit must do, controls without loads or positions left out."""
    circuits = drawing.of(Circuit)
    return {
        q: intent(q, circuits[q], members, drawing.house, practice)
        for q, members in memberships(drawing).items()
    }


def load_references(handle: Handle, point: Point) -> list[LoadRef]:
    """The loads of a point, as controls name them: ``A1``, or ``O2.upper`` and ``O2.lower``."""
    return [LoadRef(handle, part) for part in PARTS.get(point.kind, ())] or [LoadRef(handle)]
