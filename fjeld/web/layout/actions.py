"""What can be done in Layout: rows and single boxes put in, boxes moved, nudged and set by eye."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, cast, get_args

import msgspec

from fjeld import geometry
from fjeld.derive.places import Placed, default_edge, edge_height, usual_outlet_height
from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Mount, Point, PointKind, Rating
from fjeld.graphics.strip import walked_left
from fjeld.propose import align, fixes, reach, rows, stops, wanted
from fjeld.quantities import Length, format_length, parse_length
from fjeld.web.http.actions import action
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import View
from fjeld.web.ui.forms import weight, whole


def _room(view: View) -> Handle:
    if view.room is None or not view.plan.rooms[view.room].closed:
        raise EditRefused("measure the room first: its walls do not close yet")
    return view.room


class ArrayAsked(msgspec.Struct, frozen=True):
    """An array of lights as its form asks for it: school, counts, what is kept off and how it is snapped."""

    school: str = ""
    across: str = ""
    down: str = ""
    offset: Length | None = None
    housing: Length | None = None
    snap: str = ""
    mount: str = ""


#: A light's housing where none is said.
_HOUSING = Length(101.6, '4"')


def array_of(view: View, asks: ArrayAsked) -> rows.Array:
    """The array asked for: its school, its counts, snapped to the framing unless told not to."""
    room = _room(view)
    where = view.plan.rooms[room]
    framing = view.drawing.get(room, Room)
    school: rows.School = asks.school if asks.school in get_args(rows.School) else "half-spacing"  # type: ignore[assignment]
    counted = {"across": asks.across, "down": asks.down}
    counts = (
        rows.by_mounting(where)
        if school == "mounting"
        else (whole(counted, "across"), whole(counted, "down"))
    )
    usual = 750.0 if view.drawing.house.unit == "mm" else 762.0
    offset = asks.offset.mm if asks.offset else usual
    if school == "framing":
        offset -= framing.studs.board.mm
    housing = (asks.housing or _HOUSING).mm
    found = rows.array(
        where,
        *counts,
        school=school,
        offset=offset,
        clearance=housing / 2,
        taken=lambda p: wanted.overhead(view.plan, room, p),
    )
    if asks.snap == "whole":
        return rows.snapped_whole(found, where, framing.joists.thick.mm, housing, 0.0)
    return found if asks.snap == "no" else rows.snapped(found, where, framing.joists.thick.mm, housing, 0.0)


def _kind(chosen: str) -> tuple[PointKind, Mount]:
    """A kind as chosen: ``light:pendant`` is a light hung on a cord."""
    kind, _, mount = chosen.partition(":")
    if kind not in get_args(PointKind) or mount not in get_args(Mount):
        raise EditRefused(f"there is no box of kind “{chosen[:40]}”")
    return cast(PointKind, kind), cast(Mount, mount)


def _circuit(view: View, kind: PointKind, room: Handle) -> Handle | None:
    """The circuit for one more of a kind in a room; a switch follows its loads."""
    return None if kind == "switch" else wanted.circuit_for(view.plan, kind, room)


@action
def _rows(view: View, asks: ArrayAsked) -> Edit:
    found = array_of(view, asks)
    mint = view.drafts()
    room = _room(view)
    name = mint.fresh("light")
    handles = [name, *(mint.fresh("light") for _ in found.points[1:])]
    circuit = _circuit(view, "light", room)
    recessed = asks.mount == "recessed"
    housing = asks.housing or _HOUSING
    kept: dict[str, Any] = {"mount": "recessed", "fitting": Fitting(hole=housing)} if recessed else {}
    lights = {
        h: Point(
            "light",
            room,
            x=Length(round(x, 2)),
            y=Length(round(y, 2)),
            row=str(name),
            circuit=circuit,
            **kept,
        )
        for h, (x, y) in zip(handles, map(view.plan.rooms[room].local, found.points), strict=True)
    }
    return Place(dict(lights), f"{len(lights)} light{'s' if len(lights) > 1 else ''}")


@action
def _beside(view: View, door: Handle) -> Edit:
    room = _room(view)
    if door not in view.plan.openings[room]:
        raise EditRefused(f"there is no door {door} in this room")
    edit = fixes.switch_beside(view.plan, door, room, view.drafts())
    if edit is None:
        raise EditRefused(f"there is no wall for a switch beside {door}")
    return edit


@action
def outlets_of(view: View) -> Edit:
    found = fixes.outlets_by_wall_space(view.plan, _room(view), view.drafts())
    if found is None:
        raise EditRefused("every point of every wall space is in reach of an outlet already")
    return found


@action
def _add(
    view: View, kind: str, wall: int | None = None, at: Length | None = None, over: Handle | None = None
) -> Edit:
    """One box: on a wall at a distance, or on the ceiling in the middle."""
    room = _room(view)
    of, mount = _kind(kind)
    where = view.plan.rooms[room]
    circuit = _circuit(view, of, room)
    handle = view.drafts().fresh(of)
    extra: dict[str, Any] = {"circuit": circuit, "mount": mount}
    if wall or of in ("switch", "outlet"):
        if at is None:
            raise EditRefused("“at” was left empty")
        if of == "outlet":
            extra["height"] = usual_outlet_height(view.drawing.get(room, Room).use, view.plan.practice)
        return Place({handle: Point(of, room, wall or 1, at, **extra)}, f"{of} {handle}")
    block = view.plan.blocks.get(over) if over else None
    x, y = where.local(block.middle if block else _free_middle(view, room))
    if block:
        extra["over"] = over
    made = Point(of, room, x=Length(round(x, 1)), y=Length(round(y, 1)), **extra)
    return Place({handle: made}, f"{of} {handle}")


def _free_middle(view: View, room: Handle) -> tuple[float, float]:
    """The middle of a room, or the nearest place to it where no other box is and nothing is in the way."""
    where = view.plan.rooms[room]
    middle = geometry.middle(where.corners)
    others = [p.position[:2] for p in view.plan.placed.values() if p.room == room and not p.wall]
    tries = sorted(
        ((middle[0] + dx * 300.0, middle[1] + dy * 300.0) for dx in range(-10, 11) for dy in range(-10, 11)),
        key=lambda p: math.dist(p, middle),
    )
    fits = (
        p
        for p in tries
        if geometry.contains(where.corners, p)
        and all(math.dist(p, o) >= 450.0 for o in others)
        and not wanted.overhead(view.plan, room, p)
    )
    return next(fits, middle)


@action
def _sheet(view: View, handle: Handle, field: str, value: str = "") -> Edit:
    """One figure of a fitting's sheet, typed from the maker's paper; empty takes it back to not known."""
    point = view.drawing.items.get(handle)
    typed = value
    if not isinstance(point, Point) or field not in Fitting.__struct_fields__:
        raise EditRefused(f"{handle} has no sheet with {field}")
    read: Any
    if field == "insulation_contact":
        read = {"yes": True, "no": False}.get(typed)
    elif field == "weight":
        read = weight(typed, view.drawing.house.unit) if typed else None
    elif field == "cords":
        read = whole({"value": typed}, "value")
    elif field in ("name", "rating", "photometry", "ip"):
        read = typed
    else:
        read = parse_length(typed, view.drawing.house.unit) if typed else None
    sheet = msgspec.structs.replace(point.fitting or Fitting(), **{field: read})
    try:
        msgspec.convert(msgspec.to_builtins(sheet.rating), Rating)
    except msgspec.ValidationError:
        raise EditRefused(f"“{typed}” is no rating: dry, damp or wet") from None
    return Revise(handle, {"fitting": sheet}, f"Change the {field.replace('_', ' ')} of {handle}")


@action
def _pair(view: View, handle: Handle) -> Edit:
    return reach.pair(view.plan, handle, view.drafts())


@action
def _move(
    view: View,
    handle: Handle,
    at: float | None = None,
    height: float | None = None,
    x: float | None = None,
    y: float | None = None,
    alone: bool = False,
) -> Edit:
    """A drag let go at a stop, or an arrow key: coordinates in mm; a row moves as one unless ``alone``."""
    # What sits in another's box moves with it.
    handle = view.plan.home(handle)
    point = view.drawing.items.get(handle)
    if not isinstance(point, Point):
        raise EditRefused(f"{handle} is no longer there")
    origin = dict(zip("xy", view.plan.rooms[point.room].origin, strict=True))
    read = {"at": at, "height": height, "x": x, "y": y}
    given = {n: v - origin.get(n, 0.0) for n, v in read.items() if v is not None}
    if point.wall or alone or not point.row:
        return MovePoint(handle, **{n: Length(v) for n, v in given.items()})
    assert point.x
    assert point.y
    return MoveRow(handle, given.get("x", point.x.mm) - point.x.mm, given.get("y", point.y.mm) - point.y.mm)


@action
def _nudge(view: View, handle: Handle, way: str, far: bool = False) -> Edit:
    """To the next stop one way or the other, as one sees it: along a wall from inside the room, or up and
    down it.
    """
    # What sits in another's box moves with it.
    handle = view.plan.home(handle)
    placed = view.plan.placed.get(handle)
    if placed is None or placed.kind == "panel":
        raise EditRefused(f"{handle} cannot be moved here")
    # A button pressed stands after the hidden field that the arrow keys fill.
    by = 10 if far else 1
    if way not in ("left", "right", "up", "down"):
        raise EditRefused(f"“{way[:20]}” is no way to move a box")
    field, here, found, sign = _stops(view, placed, way)
    beyond = sorted((s.at for s in found if (s.at - here) * sign > 0.6), key=lambda at: abs(at - here))
    if not beyond:
        raise EditRefused(f"{handle} can go no further that way")
    there = beyond[min(by, len(beyond)) - 1]
    origin = 0.0 if placed.wall else view.plan.rooms[placed.room].origin["xy".index(field)]
    point = view.drawing.get(handle, Point)
    if placed.wall or not point.row:
        return MovePoint(handle, **{field: Length(there - origin)})
    return MoveRow(handle, **{"dx" if field == "x" else "dy": there - here})


def _stops(view: View, placed: Placed, way: str) -> tuple[str, float, list[stops.Stop], int]:
    """(field, where it is, the stops there are, which way counts up) for a move as seen."""
    plan, handle = view.plan, placed.handle
    if not placed.wall:
        axis = 0 if way in ("left", "right") else 1
        sign = 1 if way in ("right", "down") else -1
        return "xy"[axis], placed.position[axis], stops.ceiling_stops(plan, handle, axis), sign
    if way in ("up", "down"):
        point = view.drawing.get(handle, Point)
        edge = point.edge or default_edge(point.kind, plan.practice)
        here = edge_height(placed, edge)
        return "height", here, stops.height_stops(plan, handle), 1 if way == "up" else -1
    # Seen from inside, a room walked the other way round has its walls run from right to left.
    ahead = "left" if walked_left(plan.rooms[placed.room]) else "right"
    return "at", placed.along, stops.wall_stops(plan, handle), 1 if way == ahead else -1


@action
def _align(view: View, handle: Handle, how: str) -> Edit:
    """Set a box by what the eye compares it with: ``how`` names it and, after a colon, the other thing."""
    how, _, other = how.partition(":")
    if how == "mirror":
        return align.mirrored(view.plan, handle, view.drafts(), Handle(other) if other else None)
    if how in ("top", "middle", "foot"):
        return align.body_level(view.plan, handle, Handle(other), how)  # type: ignore[arg-type]
    ways: dict[str, Callable[[], Edit]] = {
        "even": lambda: align.even_up(view.plan, handle),
        "center": lambda: align.centered(view.plan, handle, Handle(other) if other else None),
        "line": lambda: align.in_line(view.plan, handle, Handle(other)),
        "level": lambda: align.level_with(view.plan, handle, Handle(other)),
    }
    if how not in ways:
        raise EditRefused(f"“{how[:20]}” is no way to set a box")
    return ways[how]()


@action
def _reading(view: View, handle: Handle, field: str, value: Length) -> Edit:
    """A tape reading typed over: the box moves by what it differs from the reading that stands."""
    handle = view.plan.home(handle)
    placed, mark = view.plan.placed.get(handle), view.plan.marks.get(handle)
    if placed is None or mark is None or not isinstance(view.drawing.items.get(handle), Point):
        raise EditRefused(f"{handle} is no box that can be moved here")
    local = view.plan.rooms[placed.room].local(placed.position[:2])
    standing = {
        "at": (mark.across, placed.along),
        "x": (mark.across, local[0]),
        "y": (mark.down, local[1]),
        "height": (mark.height, edge_height(placed, mark.edge or "center")),
    }
    fits = ("at", "height") if placed.wall else ("x", "y")
    if field not in fits:
        raise EditRefused(f"{handle} has no such reading")
    read, kept = standing[field]
    shift = kept - (read or 0.0)
    # Where reading and coordinate are one, what was typed is kept as typed.
    length = value if abs(shift) < 1e-6 else Length(value.mm + shift)
    said = format_length(value.mm, view.drawing.house.unit)
    return Revise(handle, {field: length}, f"Set {handle} {'up to' if field == 'height' else 'at'} {said}")


ACTIONS = {
    "reading": _reading,
    "rows": _rows,
    "align": _align,
    "beside": _beside,
    "outlets": outlets_of,
    "add": _add,
    "move": _move,
    "nudge": _nudge,
    "sheet": _sheet,
    "pair": _pair,
    **COMMON,
}
