"""Circuits: what works what, and on which breaker."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import get_args

from fjeld.check.circuits import drop_limit
from fjeld.derive.circuits import va_of
from fjeld.derive.intents import load_references
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.circuits import Assign
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Circuit, Control, LoadRef, Point, SwitchKind
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape, group, line, shape, text
from fjeld.practice import rules
from fjeld.propose import groups
from fjeld.quantities import finite_number
from fjeld.web.circuits.panels import ByRoom, Dock, LoadBar, PanelRow, Workings
from fjeld.web.circuits.sources import begin_in, begins, sources
from fjeld.web.http.actions import action
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.ui.called import called, called_together

#: How a cable may lie at its worst, by the methods of the tables.
_LIES = (
    ("", "not told"),
    ("C", "clipped, in free air or in plaster"),
    ("100", "on a ceiling, under up to 100 mm of insulation"),
    ("101", "over a ceiling, deeper in insulation"),
    ("102", "in a stud wall with insulation, touching the board"),
    ("103", "in a stud wall, in insulation all round"),
    ("A", "in conduit in an insulated wall"),
)


@action
def _control(
    view: View,
    position: tuple[Handle, ...],
    load: tuple[str, ...],
    style: str = "",
    device: str = "",
    name: str = "",
    handle: Handle | None = None,
) -> Edit:
    """A new control, or another meaning for a standing one."""
    if not position:
        raise EditRefused("choose at least one switch")
    if not load:
        raise EditRefused("choose at least one light, outlet half or fan for the switch to work")
    if style not in ("", "chain", "strap"):
        raise EditRefused(f"“{style}” is no way of wiring two positions")
    kind, _, at = device.partition(" ")
    if kind not in get_args(SwitchKind):
        raise EditRefused(f"“{kind[:20]}” is no kind of switch")
    # What is no plain switch comes first, whatever the order they were ticked in.
    positions = tuple(sorted(position, key=lambda p: p != at))
    loads, name = tuple(map(LoadRef.read, load)), name[:80]
    if handle:
        return Revise(
            handle,
            {"positions": positions, "loads": loads, "style": style, "name": name, "device": kind},
            f"Change what {handle} works",
        )
    made = Control(positions, loads, name, style, kind)  # type: ignore[arg-type]
    fresh = view.drafts().fresh("control")
    return Place({fresh: made}, f"control {fresh}: {', '.join(positions)} for {', '.join(load)}")


@action
def _groups(view: View) -> Edit:
    edit = groups.propose(view.plan, view.drafts())
    if edit is None:
        raise EditRefused("every load is on a circuit already")
    return edit


@action
def _assign(view: View, handle: Handle, circuit: Handle | None = None) -> Edit:
    return Assign((handle,), circuit)


@action
def _new(view: View, name: str, breaker: int, gauge: str) -> Edit:
    handle = view.drafts().fresh("circuit")
    circuit = Circuit(name[:80], breaker, gauge)
    return Place({handle: circuit}, f"circuit {handle}")


@action
def _load(view: View, handle: Handle, va: str = "", continuous: bool = False) -> Edit:
    """A point's own load in VA, continuous or not."""
    drawn = finite_number(va)
    if va and drawn is None:
        raise EditRefused(f"“{va[:20]}” is no load; write it in VA, like 60")
    return Revise(handle, {"va": drawn, "continuous": continuous}, f"Set the load of {handle}")


ACTIONS = {
    "control": _control,
    "groups": _groups,
    "assign": _assign,
    "new": _new,
    "load": _load,
    "source": begin_in,
    **COMMON,
}


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Boxes, and a curve from each switch to what it works."""
    return {
        "f-walls": floor.walls(),
        "f-openings": floor.openings(),
        "f-links": _links(view, floor),
        "f-points": floor.points(view.selected),
    }


def _links(view: View, floor: Floor) -> Shape:
    curves: list[Shape] = []
    for handle, control in view.drawing.of(Control).items():
        focus = not view.selected or view.selected in (
            handle,
            *control.positions,
            *(load.point for load in control.loads),
        )
        for position in control.positions:
            for load in control.loads:
                target = load.point
                if position not in view.plan.placed or target not in view.plan.placed:
                    continue
                style = "link" if focus else "link faint"
                ends = [view.plan.placed[h].room in floor.rooms for h in (position, target)]
                if all(ends):
                    curves.append(_curve(floor, position, target, style))
                elif any(ends):
                    here, there = (position, target) if ends[0] else (target, position)
                    curves.append(_elsewhere(view, floor, here, there, style))
    return group("f-links", *curves)


def _elsewhere(view: View, floor: Floor, here: Handle, there: Handle, style: str) -> Shape:
    """What a switch works on another storey, or is worked from there: a short stroke, and what lies at its
    end.
    """
    x, y = floor.spot(floor.plan.placed[here])
    up = view.plan.placed[there].position[2] > view.plan.placed[here].position[2]
    end = (x + 26, y - 26 if up else y + 26)
    way = "up" if up else "down"
    words = f"{way} to {called(view.drawing, there, view.plan.practice)}"
    parts = [line(x + 10, y - 10 if up else y + 10, *end, style)]
    if style == "link":
        # Whole names only for the chosen: a plan has room for few.
        shown = words if view.selected in (here, there) else f"{way} to {there}"
        parts.append(text(end[0] + 4, end[1], shown, "label elsewhere", "start"))
    return shape("g", shape("title", text=words), *parts)


def _curve(floor: Floor, a: Handle, b: Handle, cls: str) -> Shape:
    (x1, y1), (x2, y2) = floor.spot(floor.plan.placed[a]), floor.spot(floor.plan.placed[b])
    dx, dy = x2 - x1, y2 - y1
    length = math.hypot(dx, dy) or 1.0
    # The ends stop at the symbols' edges; the bow keeps two curves apart.
    x1, y1, x2, y2 = (
        x1 + dx / length * 13,
        y1 + dy / length * 13,
        x2 - dx / length * 13,
        y2 - dy / length * 13,
    )
    bow = 0.12
    mx, my = (x1 + x2) / 2 - dy * bow, (y1 + y2) / 2 + dx * bow
    return shape("path", d=f"M{x1:.1f} {y1:.1f} Q{mx:.1f} {my:.1f} {x2:.1f} {y2:.1f}", cls=cls)


def dock(view: View) -> Dock:
    """Load bars against each breaker, and what the panel will hold."""
    panels = []
    for handle, panel in view.drawing.of(Panel).items():
        used = sum(plan.source == handle for plan in view.plan.circuits.values())
        free = len(panel.free())
        panels.append(
            PanelRow(handle=handle, ways=panel.ways, used=panel.ways - free + used, free=free - used)
        )
    loose = [h for h, p in view.drawing.of(Point).items() if p.kind != "switch" and p.circuit is None]
    bars = []
    for handle, plan in view.plan.circuits.items():
        bars.append(
            LoadBar(
                handle=handle,
                plan=plan,
                figures=plan.figures,
                width=min(100.0, plan.figures.share),
                over=plan.figures.share > 100,
            )
        )
    return Dock(
        bars=bars,
        panels=panels,
        loose=loose,
    )


def _switch_kinds(control: Control | None) -> list[tuple[str, str]]:
    """What the switches of a control can be: one of several a dimmer, one alone a timer or a sensor too."""
    if control is None:
        return [("dimmer", "a dimmer, the first"), ("timer", "a timer"), ("sensor", "an occupancy sensor")]
    found = [(f"dimmer {p}", f"{p} a dimmer") for p in control.positions]
    if len(control.positions) == 1:
        (p,) = control.positions
        found += [(f"timer {p}", f"{p} a timer"), (f"sensor {p}", f"{p} an occupancy sensor")]
    return found


def _by_room(view: View, references: Sequence[str]) -> ByRoom:
    """Switches or loads under the rooms they are in, the room in hand first."""
    rooms: dict[Handle, list[tuple[str, str]]] = {}
    for reference in references:
        point = view.drawing.get(LoadRef.read(reference).point, Point)
        name = called(view.drawing, reference, view.plan.practice)
        room = view.drawing.get(point.room, Room).name
        short = name.removeprefix(room).strip() or name
        rooms.setdefault(point.room, []).append((reference, short[0].upper() + short[1:]))
    ordered = sorted(rooms, key=lambda r: (r != view.room, order(r)))
    return [(view.drawing.get(r, Room).name, rooms[r]) for r in ordered]


def _loads(view: View) -> list[str]:
    """What a control may work: each light, each outlet whole or by halves, a fan by its parts."""
    found: list[str] = []
    for handle, p in view.drawing.of(Point).items():
        if p.kind in ("light", "outlet"):
            found.append(handle)
        if p.kind == "fan" or (p.kind == "outlet" and view.plan.practice.halves):
            found += map(str, load_references(handle, p))
    return found


def _free_loads(view: View) -> list[str]:
    """The loads that no other control than the selected one works."""
    others = {
        str(load)
        for handle, control in view.drawing.of(Control).items()
        if handle != view.selected
        for load in control.loads
    }
    return [load for load in _loads(view) if load not in others]


def _controls(view: View) -> list[tuple[Handle, str, str, str, int]]:
    """Each control: its name, its switches and its loads in words, how many switches."""
    return [
        (
            h,
            c.name,
            called_together(view.drawing, c.positions, view.plan.practice),
            called_together(view.drawing, [str(load) for load in c.loads], view.plan.practice),
            len(c.positions),
        )
        for h, c in view.drawing.of(Control).items()
    ]


def _chain(view: View) -> tuple[Handle, ...]:
    """The switches of the selected control in the order that the line goes through them."""
    circuit = view.plan.control_circuit(Handle(view.selected))
    if circuit not in view.plan.circuits:
        return ()
    return view.plan.circuits[circuit].nets.chains.get(Handle(view.selected), ())


def _on_two_legs(view: View, point: Point | None) -> bool:
    """Whether a point is on a circuit of two poles, of which each outlet has a leg."""
    return bool(point and point.circuit and view.drawing.get(point.circuit, Circuit).poles == 2)


def workings(view: View) -> Workings:
    """The selected control, circuit or point, and the form that makes a control."""
    item, practice = view.item, view.plan.practice
    control = item if isinstance(item, Control) else None
    circuit = item if isinstance(item, Circuit) else None
    point = item if isinstance(item, Point) else None
    drawn = view.plan.circuits.get(Handle(view.selected)) if circuit else None
    switches = [h for h, p in view.drawing.of(Point).items() if p.kind == "switch"]
    return Workings(
        control=control,
        worked=list(map(str, control.loads)) if control else [],
        circuit=circuit,
        point=point,
        handle=view.selected,
        switches=_by_room(view, switches),
        loads=_by_room(view, _free_loads(view)),
        controls=_controls(view),
        # Only what was chosen here is ticked beforehand, not what was placed last elsewhere.
        chosen=view.selected if point and point.kind in ("switch", "light", "fan") else "",
        circuits=view.drawing.of(Circuit),
        figures=drawn.figures if drawn else None,
        drop_limit=drop_limit(view.plan, drawn)[1] if drawn else None,
        va=va_of(point, practice) if point else None,
        members=_members(view) if circuit else [],
        breakers=_breakers(view, circuit),
        gauges=practice.catalogue.wired_gauges(),
        sources=sources(view),
        switch_kinds=_switch_kinds(control),
        switch_kind=f"{control.device} {control.positions[0]}" if control and control.device else "",
        legs=practice.legs,
        poles=((1, "one"), (2, "two, one neutral for both")),
        lies=_LIES if rules.CAPACITY_BY_WAY in practice else (),
        leg_names=((1, "first"), (2, "second")),
        two_legs=_on_two_legs(view, point),
        begins=begins(view),
        begins_old=circuit is not None and circuit.source in view.plan.begun,
        protections=practice.catalogue.protections.items(),
        chain=_chain(view) if control else (),
    )


def _members(view: View) -> list[Handle]:
    """What is on the circuit in hand."""
    return [h for h, p in view.drawing.of(Point).items() if p.circuit == view.selected]


def _breakers(view: View, circuit: Circuit | None) -> list[int]:
    """The breakers to choose from, with the one that it has."""
    return sorted({*view.plan.practice.catalogue.breakers, *({circuit.breaker} if circuit else ())})


CIRCUITS = Waypoint(
    name="circuits", title="Circuits", layers=layers, dock=dock, workings=workings, actions=ACTIONS
)
