"""What each circuit must do: which boxes are on it, what works what, where a neutral is wanted.

Read from the drawing alone; nothing here knows where a box is.
"""

from __future__ import annotations

from fjeld.derive.terminals import BoxIntent, CircuitIntent
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import PARTS, Circuit, Control, Drawing, Point, load_point
from fjeld.practice import Practice


def control_circuit(drawing: Drawing, control: Control) -> Handle | None:
    """The circuit of a control's loads, if they agree; else None."""
    found = {
        point.circuit
        for load in control.loads
        if isinstance(point := drawing.items.get(load_point(load)), Point)
    }
    return found.pop() if len(found) == 1 else None


def circuit_boxes(drawing: Drawing) -> dict[Handle, list[Handle]]:
    """The boxes of each circuit: its loads, and the switches of the controls over them."""
    members: dict[Handle, dict[Handle, None]] = {q: {} for q in drawing.of(Circuit)}
    for handle, point in drawing.of(Point).items():
        if point.circuit is not None and point.kind != "switch":
            members[point.circuit][handle] = None
    for control in drawing.of(Control).values():
        circuit = control_circuit(drawing, control)
        if circuit is not None:
            members[circuit] |= dict.fromkeys(control.positions)
    return {q: sorted(boxes, key=order) for q, boxes in members.items()}


def wants_neutral(point: Point, room: Room, for_light: bool, everywhere: bool, practice: Practice) -> bool:
    """Whether a switch box is to have a neutral: as drawn, or as the rule asks for its room and load."""
    if point.neutral != "rule":
        return point.neutral == "yes"
    asked = practice.value("neutral-at-switch") if practice.holds("neutral-at-switch") else ()
    return everywhere or (for_light and room.use in asked)


def intents(drawing: Drawing, practice: Practice) -> dict[Handle, CircuitIntent]:
    """What each circuit must do, controls without loads or positions left out."""
    found: dict[Handle, CircuitIntent] = {}
    for circuit, members in circuit_boxes(drawing).items():
        controls = {
            h: c for h, c in drawing.of(Control).items()
            if c.positions and c.loads and control_circuit(drawing, c) == circuit
        }  # fmt: skip
        lights = {
            p for c in controls.values() for p in c.positions
            if any(drawing.get(load_point(load), Point).kind != "outlet" for load in c.loads)
        }  # fmt: skip
        boxes = []
        for handle in members:
            point = drawing.get(handle, Point)
            neutral = point.kind == "switch" and wants_neutral(
                point,
                drawing.get(point.room, Room),
                handle in lights,
                drawing.house.neutrals == "everywhere",
                practice,
            )
            boxes.append(BoxIntent(handle, point.kind, neutral, point.line))
        style = drawing.house.two_position
        strap = frozenset(
            h for h, c in controls.items() if (c.style or style) == "strap" and len(c.positions) == 2
        )
        most = practice.catalogue.most_insulated(drawing.get(circuit, Circuit).gauge)
        found[circuit] = CircuitIntent(circuit, tuple(boxes), controls, strap, most)
    return found


def load_references(handle: Handle, point: Point) -> list[str]:
    """The loads of a point, as controls name them: ``A1``, or ``O2.upper`` and ``O2.lower``."""
    return [f"{handle}.{part}" for part in PARTS.get(point.kind, ())] or [handle]
