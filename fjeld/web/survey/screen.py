"""Survey: the tape in hand, the walls laid so far, what the room is built of."""

from __future__ import annotations

from typing import Any

from django.http import QueryDict

from fjeld import practice as practices
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.edits.survey import LiftSide, RemeasureSide, WalkSide
from fjeld.drawing.model import Opening, Panel, Room, RoomUse
from fjeld.formats.jobfile import bearing_words
from fjeld.formats.sheet import Shape, circle, group, line, path, svg, text
from fjeld.formats.words import Misread, Walk, next_bearing, read
from fjeld.geometry import BEARINGS, step
from fjeld.quantities import UnreadableLength, format_length, parse_length
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.forms import COMMON, need, whole
from fjeld.web.ui.strip import STRIP, walls_unrolled
from fjeld.web.ui.view import View

NAME = "survey"
USES: tuple[str, ...] = RoomUse.__args__  # type: ignore[attr-defined]


def _bearing(view: View, form: QueryDict | dict[str, str]) -> float:
    assert view.room
    wanted = str(form.get("bearing", ""))
    if wanted in BEARINGS:
        return BEARINGS[wanted]
    return next_bearing(view.drawing.get(view.room, Room))


def _start(view: View, form: QueryDict) -> Edit:
    use = form.get("use", "other")
    if use not in USES:
        raise EditRefused(f"“{use}” is no use of a room")
    if view.room:
        raise EditRefused("this release holds one room a job; start another job for the next room")
    name = need(form, "name")[:80]
    return Place({view.mint().fresh("room"): Room(name, use=use)}, f"room “{name}”")


def _say(view: View, form: QueryDict) -> Edit:
    if view.room is None:
        raise EditRefused("name the room first")
    return read(str(form.get("words", "")), Walk(view.drawing, view.room, _bearing(view, form)), view.mint())


def _lift(view: View, form: QueryDict) -> Edit:
    if view.room is None:
        raise EditRefused("there is no wall to lift")
    return LiftSide(view.room)


def _side(view: View, form: QueryDict) -> Edit:
    assert view.room
    return RemeasureSide(
        view.room, whole(form, "wall"), parse_length(need(form, "value"), view.drawing.house.unit)
    )


ACTIONS = {"start": _start, "say": _say, "lift": _lift, "side": _side, **COMMON}


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """Walls with their dimensions, joists faint, the pen and what is being typed."""
    return {
        "f-walls": floor.walls(),
        "f-joists": floor.joists(),
        "f-openings": floor.openings(),
        "f-dims": floor.wall_lengths(),
        "f-points": floor.points(view.selected, quiet=True),
        "f-pen": _pen(view, floor),
    }


def _pen(view: View, floor: Floor) -> Shape:
    """While the walls do not close: the pen, the way back to the start, and a wall being typed."""
    where = floor.where
    if where is None or not where.walls:
        start = floor.to_px((0.0, 0.0))
        return group(
            "f-pen", circle(*start, 6, "pen"), text(start[0] + 12, start[1] + 5, "start here", "label", "start")
        )
    typed = _typed(view, floor)
    if where.closed and not typed:
        return group("f-pen")
    begin, here = floor.to_px(where.walls[0].start), floor.to_px(where.walls[-1].end)
    parts: list[Shape | None] = [circle(*begin, 5, "pen-start")]
    if not where.closed:
        parts.append(line(*here, *begin, "way-back"))
        gap = format_length(where.misclosure, floor.unit)
        parts.append(
            text(
                (here[0] + begin[0]) / 2 + 8,
                (here[1] + begin[1]) / 2 - 8,
                f"{gap} to the start",
                "label",
                "start",
            )
        )
    if typed:
        parts.append(path([here, typed], "ghost-wall"))
    return group("f-pen", *parts, circle(*(typed or here), 6, "pen"))


def _typed(view: View, floor: Floor) -> tuple[float, float] | None:
    """Where the wall in the typed words would end."""
    words = view.params.get("typing", "")
    if not words or floor.where is None or view.room is None:
        return None
    try:
        edit = read(words, Walk(view.drawing, view.room, _bearing(view, view.params)), view.mint())
    except (Misread, UnreadableLength):
        return None
    if not isinstance(edit, WalkSide):
        return None
    dx, dy = step(edit.bearing, edit.length.mm)
    x, y = floor.where.walls[-1].end
    return floor.to_px((x + dx, y + dy))


def dock(view: View) -> dict[str, Any]:
    """The tape line and the notebook of walls."""
    if view.room is None:
        return {"uses": USES, "room": None}
    room, where = view.drawing.get(view.room, Room), view.plan.rooms[view.room]
    bearing = _bearing(view, view.params)
    sides = [
        {"n": n, "way": bearing_words(side.bearing), "length": side.length, "typed": side.length.typed or format_length(side.length.mm, view.drawing.house.unit),
         "shown": wall.length}
        for n, (side, wall) in enumerate(zip(room.sides, where.walls, strict=False), 1)
    ]  # fmt: skip
    return {
        "room": room,
        "where": where,
        "sides": sides,
        "bearing": bearing_words(bearing),
        "bearings": list(BEARINGS),
        "reading": _reading(view),
        "tape_ready": view.item is None or isinstance(view.item, Room),
        "strip": svg(
            walls_unrolled(view.plan, view.room, view.selected, STRIP, 0 if where.closed else len(where.walls))
        ),
    }


def _reading(view: View) -> str:
    """What the words being typed are read as, or what is wrong with them."""
    words = view.params.get("typing", "")
    if not words or view.room is None:
        return ""
    try:
        edit = read(words, Walk(view.drawing, view.room, _bearing(view, view.params)), view.mint())
    except (Misread, UnreadableLength) as error:
        return str(error)
    if isinstance(edit, WalkSide):
        return f"{bearing_words(edit.bearing)} {format_length(edit.length.mm, view.drawing.house.unit)}"
    return edit.words(view.drawing)


def workings(view: View) -> dict[str, Any]:
    """The selected thing, or the room: how it closes and what it is built of."""
    room = view.drawing.get(view.room, Room) if view.room else None
    item = view.item
    return {
        "room": room,
        "square": room is not None and all(abs(side.bearing % 90) < 1e-9 for side in room.sides),
        "room_handle": view.room,
        "where": view.plan.rooms[view.room] if view.room else None,
        "uses": USES,
        "opening": item if isinstance(item, Opening) else None,
        "panel": item if isinstance(item, Panel) else None,
        "limit": practices.load(view.drawing.house.practice).value("room-closes"),
        "closing": next((f for f in _closing(view)), None),
        "things": [
            (h, i) for h, i in view.drawing.items.items() if isinstance(i, Opening | Panel) and i.room == view.room
        ],
    }  # fmt: skip


def _closing(view: View) -> list[Any]:
    from fjeld.check import survey

    return [f for f in survey.check(view.plan) if f.rule.id == "room-closes" and f.working]
