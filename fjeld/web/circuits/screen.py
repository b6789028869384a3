"""Circuits: what works what, and on which breaker."""

from __future__ import annotations

import math
from typing import Any

from django.http import QueryDict

from fjeld.derive.circuits import va_of
from fjeld.derive.intents import load_references
from fjeld.drawing.building import Panel
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.circuits import Assign
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Control, Point
from fjeld.formats.sheet import Shape, group, shape
from fjeld.propose import groups
from fjeld.quantities import finite_number
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.forms import COMMON, given, need, whole
from fjeld.web.ui.view import View

NAME = "circuits"
#: Whether what it shows is looked for beside the page.
SEARCHES = False


def _control(view: View, form: QueryDict) -> Edit:
    """A new control, or another meaning for a standing one."""
    positions = tuple(Handle(p) for p in form.getlist("position"))
    loads = tuple(form.getlist("load"))
    if not positions:
        raise EditRefused("choose at least one switch")
    if not loads:
        raise EditRefused("choose at least one light, outlet half or fan for the switch to work")
    style = form.get("style", "")
    if style not in ("", "chain", "strap"):
        raise EditRefused(f"“{style}” is no way of wiring two positions")
    name = str(form.get("name", "")).strip()[:80]
    handle = str(form.get("handle", ""))
    if handle:
        return Revise(
            Handle(handle),
            {"positions": positions, "loads": loads, "style": style, "name": name},
            f"Change what {handle} works",
        )
    made = Control(positions, loads, name, style)
    fresh = view.drafts().fresh("control")
    return Place({fresh: made}, f"control {fresh}: {', '.join(positions)} for {', '.join(loads)}")


def _groups(view: View, form: QueryDict) -> Edit:
    edit = groups.propose(view.plan, view.drafts())
    if edit is None:
        raise EditRefused("every load is on a circuit already")
    return edit


def _assign(view: View, form: QueryDict) -> Edit:
    circuit = str(form.get("circuit", ""))
    return Assign((Handle(need(form, "handle")),), Handle(circuit) if circuit else None)


def _new(view: View, form: QueryDict) -> Edit:
    gauge = need(form, "gauge")
    handle = view.drafts().fresh("circuit")
    circuit = Circuit(need(form, "name")[:80], whole(form, "breaker"), str(gauge))
    return Place({handle: circuit}, f"circuit {handle}")


def _load(view: View, form: QueryDict) -> Edit:
    """A point's own load in VA, continuous or not."""
    handle = Handle(need(form, "handle"))
    typed = given(form, "va")
    va = finite_number(typed)
    if typed and va is None:
        raise EditRefused(f"“{typed[:20]}” is no load; write it in VA, like 60")
    return Revise(handle, {"va": va, "continuous": form.get("continuous") == "on"}, f"Set the load of {handle}")


ACTIONS = {"control": _control, "groups": _groups, "assign": _assign, "new": _new, "load": _load, **COMMON}


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
            *(load.partition(".")[0] for load in control.loads),
        )
        for position in control.positions:
            for load in control.loads:
                target = Handle(load.partition(".")[0])
                if position in view.plan.placed and target in view.plan.placed:
                    curves.append(_curve(floor, position, target, "link" if focus else "link faint"))
    return group("f-links", *curves)


def _curve(floor: Floor, a: Handle, b: Handle, cls: str) -> Shape:
    (x1, y1), (x2, y2) = floor.spot(floor.plan.placed[a]), floor.spot(floor.plan.placed[b])
    dx, dy = x2 - x1, y2 - y1
    length = math.hypot(dx, dy) or 1.0
    # The ends stop at the symbols' edges; the bow keeps two curves apart.
    x1, y1, x2, y2 = x1 + dx / length * 13, y1 + dy / length * 13, x2 - dx / length * 13, y2 - dy / length * 13
    bow = 0.12
    mx, my = (x1 + x2) / 2 - dy * bow, (y1 + y2) / 2 + dx * bow
    return shape("path", d=f"M{x1:.1f} {y1:.1f} Q{mx:.1f} {my:.1f} {x2:.1f} {y2:.1f}", cls=cls)


def dock(view: View) -> dict[str, Any]:
    """Load bars against each breaker, and what the panel will hold."""
    panels = view.drawing.of(Panel).values()
    ways, free = sum(p.ways for p in panels), sum(len(p.free()) for p in panels)
    loose = [h for h, p in view.drawing.of(Point).items() if p.kind != "switch" and p.circuit is None]
    bars = []
    for handle, plan in view.plan.circuits.items():
        bars.append(
            {
                "handle": handle,
                "plan": plan,
                "figures": plan.figures,
                "width": min(100.0, plan.figures.share),
                "over": plan.figures.share > 100,
            }
        )
    return {
        "bars": bars,
        "ways": ways,
        "used": ways - free + len(view.drawing.of(Circuit)),
        "free": free - len(view.drawing.of(Circuit)),
        "loose": loose,
        "panel": view.plan.panel,
    }


def workings(view: View) -> dict[str, Any]:
    """The selected control, circuit or point, and the form that makes a control."""
    item = view.item
    control = item if isinstance(item, Control) else None
    circuit = item if isinstance(item, Circuit) else None
    point = item if isinstance(item, Point) else None
    switches = [h for h, p in view.drawing.of(Point).items() if p.kind == "switch"]
    loads: list[str] = []
    for handle, p in view.drawing.of(Point).items():
        if p.kind == "light":
            loads.append(handle)
        elif p.kind in ("outlet", "fan"):
            loads += [handle, *load_references(handle, p)] if p.kind == "outlet" else load_references(handle, p)
    catalogue = view.plan.practice.catalogue
    worked = {load: h for h, c in view.drawing.of(Control).items() for load in c.loads}
    return {
        "control": control,
        "circuit": circuit,
        "point": point,
        "handle": view.selected,
        "switches": switches,
        "loads": [(load, worked.get(load, "")) for load in loads],
        "controls": list(view.drawing.of(Control).items()),
        "circuits": view.drawing.of(Circuit),
        "figures": view.plan.circuits[Handle(view.selected)].figures if circuit and Handle(view.selected) in view.plan.circuits else None,
        "drop_limit": float(view.plan.practice.value("volt-drop")) * view.plan.practice.volts / 100,
        "va": va_of(point, view.plan.practice) if point else None,
        "members": [h for h, p in view.drawing.of(Point).items() if p.circuit == view.selected] if circuit else [],
        "breakers": sorted({*catalogue.breakers, *({circuit.breaker} if circuit else ())}),
        "gauges": catalogue.wired_gauges(),
        "protections": catalogue.protections.items(),
        "chain": view.plan.circuits[q].nets.chains.get(Handle(view.selected), ()) if control and (q := view.plan.control_circuit(Handle(view.selected))) in view.plan.circuits else (),
    }  # fmt: skip
