"""What can be done in Layout: rows and single boxes put in, boxes moved, nudged and set by eye."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, cast, get_args

from django.http import QueryDict

from fjeld import geometry
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Opening, Point, PointKind, Room
from fjeld.propose import align, fixes, rows, stops
from fjeld.quantities import Length, parse_length
from fjeld.web.ui.forms import COMMON, need, whole
from fjeld.web.ui.view import View


def _room(view: View) -> Handle:
    if view.room is None or not view.plan.rooms[view.room].closed:
        raise EditRefused("measure the room first: its walls do not close yet")
    return view.room


def array_of(view: View, form: Mapping[str, Any]) -> rows.Array:
    room = _room(view)
    where = view.plan.rooms[room]
    framing = view.drawing.get(room, Room)
    across, down = whole(form, "across"), whole(form, "down")
    school: rows.School = "offset" if form.get("school") == "offset" else "half-spacing"
    offset = parse_length(str(form.get("offset") or '30"'), view.drawing.house.unit).mm
    found = rows.array(where, across, down, school, offset, 101.6 / 2)
    if form.get("snap") != "no":
        found = rows.snapped(found, where, framing.joists.thick.mm, 101.6, 0.0)
    return found


def _lights_circuit(view: View) -> Handle | None:
    """The circuit that lights already are on, for one more."""
    of = [
        p.circuit for p in view.drawing.of(Point).values() if p.kind in ("light", "alarm", "fan") and p.circuit
    ]
    return of[0] if of else None


def _outlets_circuit(view: View) -> Handle | None:
    of = [p.circuit for p in view.drawing.of(Point).values() if p.kind == "outlet" and p.circuit]
    return of[0] if of else None


def _rows(view: View, form: QueryDict) -> Edit:
    found = array_of(view, form)
    mint = view.mint()
    room = _room(view)
    name = mint.fresh("light")
    handles = [name, *(mint.fresh("light") for _ in found.points[1:])]
    circuit = _lights_circuit(view)
    lights = {
        h: Point("light", room, x=Length(round(x, 2)), y=Length(round(y, 2)), row=str(name), circuit=circuit)
        for h, (x, y) in zip(handles, found.points, strict=True)
    }
    return Place(dict(lights), f"{len(lights)} light{'s' if len(lights) > 1 else ''}")


def _beside(view: View, form: QueryDict) -> Edit:
    _room(view)
    door = Handle(need(form, "door"))
    if door not in view.drawing.of(Opening):
        raise EditRefused(f"there is no door {door}")
    edit = fixes.switch_beside(view.plan, door, view.mint())
    if edit is None:
        raise EditRefused(f"there is no wall for a switch beside {door}")
    return edit


def outlets_of(view: View, form: QueryDict) -> Edit:
    found = fixes.missing_outlets(view.plan, _room(view))
    if found is None or not found.added:
        raise EditRefused("every point of every wall space is in reach of an outlet already")
    mint, circuit = view.mint(), _outlets_circuit(view)
    room = _room(view)
    things = {
        mint.fresh("outlet"): Point("outlet", room, w, Length(round(a, 2)), circuit=circuit, by="fjeld")
        for w, a in found.added
    }
    return Place(dict(things), f"{len(things)} outlet{'s' if len(things) > 1 else ''} by the wall-space rule")


def _add(view: View, form: QueryDict) -> Edit:
    """One box: on a wall at a distance, or on the ceiling in the middle."""
    room = _room(view)
    kind = need(form, "kind")
    if kind not in get_args(PointKind):
        raise EditRefused(f"there is no box of kind “{kind}”")
    kind = cast(PointKind, kind)
    where = view.plan.rooms[room]
    wall = whole(form, "wall") if form.get("wall") else 0
    circuit = (
        None if kind == "switch" else _outlets_circuit(view) if kind == "outlet" else _lights_circuit(view)
    )
    handle = view.mint().fresh(kind)
    if wall or kind in ("switch", "outlet"):
        at = parse_length(need(form, "at"), view.drawing.house.unit)
        return Place({handle: Point(kind, room, wall or 1, at, circuit=circuit)}, f"{kind} {handle}")
    x, y = geometry.middle(where.corners)
    return Place(
        {handle: Point(kind, room, x=Length(round(x, 1)), y=Length(round(y, 1)), circuit=circuit)},
        f"{kind} {handle}",
    )


def _move(view: View, form: QueryDict) -> Edit:
    """A drag let go at a stop, or an arrow key: coordinates in mm; a row moves as one unless ``alone``."""
    handle = Handle(need(form, "handle"))
    point = view.drawing.items.get(handle)
    if not isinstance(point, Point):
        raise EditRefused(f"{handle} is no longer there")
    given = {n: _number(form, n) for n in ("at", "x", "y") if form.get(n)}
    if point.wall or form.get("alone") == "1" or not point.row:
        return MovePoint(handle, **{n: Length(v) for n, v in given.items()})
    assert point.x
    assert point.y
    return MoveRow(handle, given.get("x", point.x.mm) - point.x.mm, given.get("y", point.y.mm) - point.y.mm)


def _number(form: QueryDict, name: str) -> float:
    try:
        value = float(str(form.get(name)))
    except ValueError:
        raise EditRefused(f"“{form.get(name)}” is not a place") from None
    if not -1e6 < value < 1e6:
        raise EditRefused("that place is outside any house")
    return value


def _nudge(view: View, form: QueryDict) -> Edit:
    """To the next stop one way or the other, ``by`` stops."""
    handle = Handle(need(form, "handle"))
    placed = view.plan.placed.get(handle)
    if placed is None or placed.kind == "panel":
        raise EditRefused(f"{handle} cannot be moved here")
    way, by = need(form, "way"), 10 if form.get("far") == "1" else 1
    if placed.wall:
        found, here, field = stops.wall_stops(view.plan, handle), placed.along, "at"
        sign = {"left": -1, "up": -1, "right": 1, "down": 1}.get(way, 1)
    else:
        axis = 0 if way in ("left", "right") else 1
        found, here, field = stops.ceiling_stops(view.plan, handle, axis), placed.position[axis], "xy"[axis]
        sign = 1 if way in ("right", "down") else -1
    beyond = [s for s in found if (s.at - here) * sign > 0.6]
    if not beyond:
        raise EditRefused(f"{handle} can go no further that way")
    ordered = sorted(beyond, key=lambda s: abs(s.at - here))
    there = Length(ordered[min(by, len(ordered)) - 1].at)
    point = view.drawing.get(handle, Point)
    if placed.wall or not point.row:
        return MovePoint(handle, **{field: there})
    shift = there.mm - here
    return MoveRow(handle, dx=shift if field == "x" else 0.0, dy=shift if field == "y" else 0.0)


def _align(view: View, form: QueryDict) -> Edit:
    """Set a box by what the eye compares it with: ``how`` names it and, after a colon, the other thing."""
    handle = Handle(need(form, "handle"))
    how, _, other = need(form, "how").partition(":")
    if how == "mirror":
        return align.mirrored(view.plan, handle, view.mint(), Handle(other) if other else None)
    ways: dict[str, Callable[[], Edit]] = {
        "even": lambda: align.even_up(view.plan, handle),
        "center": lambda: align.centered(view.plan, handle, Handle(other) if other else None),
        "line": lambda: align.in_line(view.plan, handle, Handle(other)),
        "level": lambda: align.level_with(view.plan, handle, Handle(other)),
    }
    if how not in ways:
        raise EditRefused(f"“{how[:20]}” is no way to set a box")
    return ways[how]()


ACTIONS = {
    "rows": _rows,
    "align": _align,
    "beside": _beside,
    "outlets": outlets_of,
    "add": _add,
    "move": _move,
    "nudge": _nudge,
    **COMMON,
}
