"""Layout: rows of lights, boxes on their walls, and the reach band along the floor line."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, cast, get_args

from django.http import QueryDict

from fjeld import geometry
from fjeld.derive.places import default_edge, default_height
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Opening, Panel, Point, PointKind, Room
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats.sheet import Shape, circle, group, svg
from fjeld.propose import fixes, rows, stops
from fjeld.quantities import Length, UnreadableLength, format_length, parse_length
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.forms import COMMON, need, whole
from fjeld.web.ui.strip import STRIP, walls_unrolled
from fjeld.web.ui.trial import Trial, ghosts, tried
from fjeld.web.ui.view import View

NAME = "layout"


def _room(view: View) -> Handle:
    if view.room is None or not view.plan.rooms[view.room].closed:
        raise EditRefused("measure the room first: its walls do not close yet")
    return view.room


def _array(view: View, form: Mapping[str, Any]) -> rows.Array:
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
    found = _array(view, form)
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


def _outlets(view: View, form: QueryDict) -> Edit:
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


ACTIONS = {
    "rows": _rows,
    "beside": _beside,
    "outlets": _outlets,
    "add": _add,
    "move": _move,
    "nudge": _nudge,
    **COMMON,
}


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Framing over the room, boxes, the selected box's tape readings, and the array being tried."""
    return {
        "f-walls": floor.walls(),
        "f-joists": floor.joists(),
        "f-openings": floor.openings(),
        "f-ghost": _ghost(view, floor),
        "f-points": floor.points(view.selected),
        "f-marks": _marks(view, floor),
        "f-drag": _drag(view, floor),
    }


def _ghost(view: View, floor: Floor) -> Shape:
    if offered := _offered(view):
        return ghosts(view, floor, offered)
    if view.params.get("try") != "rows":
        return group("f-ghost")
    try:
        found = _array(view, view.params)
    except (EditRefused, rows.RowsRefused, UnreadableLength):
        return group("f-ghost")
    where = floor.where
    assert where is not None
    parts: list[Shape | None] = [circle(*floor.to_px(p), 11, "ghost") for p in found.points]
    left, top = min(c[0] for c in where.corners), min(c[1] for c in where.corners)
    first = found.points[0]
    parts.append(
        floor.dimension(
            (left, first[1]), first, (0, -1), 16, format_length(first[0] - left, floor.unit), cls="figure-text"
        )
    )
    parts.append(
        floor.dimension(
            (first[0], top), first, (-1, 0), 16, format_length(first[1] - top, floor.unit), cls="figure-text"
        )
    )
    across = [p for p in found.points if abs(p[1] - first[1]) < 1 and p[0] > first[0] + 1]
    if across:
        parts.append(
            floor.dimension(
                first,
                across[0],
                (0, -1),
                16,
                format_length(across[0][0] - first[0], floor.unit),
                cls="figure-text",
            )
        )
    return group("f-ghost", *parts)


def _offered(view: View) -> Trial | None:
    """The fix or the outlets being shown, tried on the drawing; None when nothing is, or it has gone."""
    trying = view.params.get("try")
    try:
        if trying == "outlets":
            return tried(view, _outlets(view, QueryDict()))
        if trying == "fix":
            key = view.params.get("finding", "")
            finding = next((f for f in view.here if f.key == key), None)
            edit = fixes.fix(view.plan, finding, view.mint()) if finding else None
            return tried(view, edit) if edit else None
    except (EditRefused, InvalidDrawing):
        return None
    return None


def _marks(view: View, floor: Floor) -> Shape:
    """The tape readings of the selected box as dimension lines whose figures can be typed over."""
    placed = view.plan.placed.get(Handle(view.selected)) if view.selected else None
    if placed is None or floor.where is None or not floor.where.closed:
        return group("f-marks")
    where, unit = floor.where, floor.unit
    if placed.wall:
        wall = where.walls[placed.wall - 1]
        out = (-wall.normal[0], -wall.normal[1])
        rest = wall.length - placed.along
        return group(
            "f-marks",
            floor.dimension(
                wall.start,
                wall.at(placed.along),
                out,
                34,
                format_length(placed.along, unit),
                "at",
                "figure-text",
            ),
            floor.dimension(
                wall.at(placed.along), wall.end, out, 34, format_length(rest, unit), cls="figure-text"
            ),
        )
    x, y, _ = placed.position
    left, top = min(c[0] for c in where.corners), min(c[1] for c in where.corners)
    return group(
        "f-marks",
        floor.dimension((left, y), (x, y), (0, -1), 16, format_length(x - left, unit), "x", "figure-text"),
        floor.dimension((x, top), (x, y), (-1, 0), 18, format_length(y - top, unit), "y", "figure-text"),
    )


def _drag(view: View, floor: Floor) -> Shape:
    """For the script: the selected box's stops in pixels, with the readings to show at each."""
    handle = Handle(view.selected)
    placed = view.plan.placed.get(handle) if view.selected else None
    if (
        placed is None
        or placed.kind == "panel"
        or not view.may_edit
        or floor.where is None
        or not floor.where.closed
    ):
        return group("f-drag")
    to_px = floor.to_px
    axes: list[dict[str, Any]] = []
    if placed.wall:
        wall = floor.where.walls[placed.wall - 1]
        (x0, y0), (x1, y1) = to_px(wall.start), to_px(wall.end)
        length = wall.length or 1.0
        ux, uy = (x1 - x0) / length, (y1 - y0) / length
        axes.append(
            {
                "field": "at",
                "ux": ux,
                "uy": uy,
                "here": placed.along,
                "stops": _plain(stops.wall_stops(view.plan, handle)),
            }
        )
    else:
        for axis in (0, 1):
            u = (to_px.scale, 0.0) if axis == 0 else (0.0, to_px.scale)
            found = stops.ceiling_stops(view.plan, handle, axis)
            axes.append(
                {
                    "field": "xy"[axis],
                    "ux": u[0],
                    "uy": u[1],
                    "here": placed.position[axis],
                    "stops": _plain(found),
                }
            )
    return group("f-drag", cls="drag", data_handle=handle, data_axes=json.dumps(axes, separators=(",", ":")))


def _plain(found: list[stops.Stop]) -> list[list[Any]]:
    return [[s.at, s.label, s.why] for s in found]


def dock(view: View) -> dict[str, Any]:
    """What can be put in, with what the array being tried would cost; the reach band beneath."""
    found: rows.Array | None = None
    refused = ""
    trying = view.params.get("try", "")
    if trying == "rows":
        try:
            found = _array(view, view.params)
        except (EditRefused, rows.RowsRefused, UnreadableLength) as error:
            refused = str(error)
    missing = fixes.missing_outlets(view.plan, view.room) if view.room else None
    return {
        "array": found,
        "refused": refused,
        "trying": trying,
        "offered": _offered(view),
        "params": view.params,
        "doors": [h for h, o in view.drawing.of(Opening).items() if o.kind == "door" and o.room == view.room],
        "missing": len(missing.added) if missing else 0,
        "closed": bool(view.room and view.plan.rooms[view.room].closed),
        "strip": svg(walls_unrolled(view.plan, view.room, view.selected, STRIP)),
        "walls": [w.number for w in view.plan.rooms[view.room].walls] if view.room else [],
    }


def workings(view: View) -> dict[str, Any]:
    """The selected box: its tape readings large, its height, how it meets the framing."""
    handle = Handle(view.selected)
    point = view.item if isinstance(view.item, Point) else None
    placed = view.plan.placed.get(handle)
    mark = view.plan.marks.get(handle)
    room = view.drawing.get(view.room, Room) if view.room else None
    height = None
    if point and placed and placed.wall and room:
        edge = point.edge or default_edge(point.kind)
        shown = point.height.mm if point.height else default_height(point.kind, view.plan.practice, room)
        height = {"mm": shown, "edge": edge}
    return {
        "point": point,
        "handle": handle,
        "placed": placed,
        "mark": mark,
        "height": height,
        "row": [h for h, p in view.drawing.of(Point).items() if point and point.row and p.row == point.row],
        "panel": view.item if isinstance(view.item, Panel) else None,
        "table": [
            (h, p, view.plan.marks[h], view.drawing.items[h])
            for h, p in view.plan.placed.items()
            if p.room == view.room
        ],
        "circuits": view.drawing.of(Circuit),
        "frame_word": "stud" if placed and placed.wall else "joist",
        "from_word": "rough framing" if view.drawing.house.measure_from == "framing" else "the finished face",
    }
