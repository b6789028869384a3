"""What can be done in Survey: rooms begun, walls walked, lifted and measured again, words typed."""

from __future__ import annotations

from typing import get_args

import msgspec
from django.http import QueryDict

from fjeld.drawing.building import (
    Build,
    Room,
    RoomUse,
    Storey,
    Surface,
    Underlay,
    usual_room,
)
from fjeld.drawing.changes import differing
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Revise, Together
from fjeld.drawing.edits.survey import (
    BuildWall,
    ClearRoom,
    LayRectangle,
    LiftSide,
    MoveRoom,
    RemeasureSide,
    TraceRoom,
)
from fjeld.drawing.ends import codes, end
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit
from fjeld.drawing.old_box import Lead, OldBox, OldCable, joined, parted
from fjeld.formats.words import Walk, next_bearing, read
from fjeld.geometry import BEARINGS
from fjeld.quantities import Length, finite_number, parse_length
from fjeld.web.http.actions import action
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import View
from fjeld.web.http.waypoint import Action

USES: tuple[str, ...] = get_args(RoomUse)
SURFACES: tuple[str, ...] = get_args(Surface)
#: A room not joined to another yet begins this far to the east of all that stands.
CLEAR = 900.0


def bearing(view: View, form: QueryDict | dict[str, str]) -> float:
    """The direction of the next wall: as chosen, else a right turn."""
    wanted = str(form.get("bearing", ""))
    if wanted in BEARINGS:
        return BEARINGS[wanted]
    return next_bearing(view.drawing.get(_in_hand(view), Room))


def _in_hand(view: View) -> Handle:
    """The room in hand; refused in words while there is none."""
    if view.room is None:
        raise EditRefused("name the room first")
    return view.room


def clear_place(view: View, storey: str | None) -> tuple[Length, Length]:
    """Where a new room can be begun: beside the others of its storey, else over the storey below."""
    rooms = view.drawing.of(Room)
    here = [
        c
        for h, where in view.plan.rooms.items()
        if rooms[h].storey == (storey or None)
        for c in where.corners
    ]
    if here:
        east, north = max(c[0] for c in here), min(c[1] for c in here)
        return Length(round(east + CLEAR, 1)), Length(round(north, 1))
    corners = [c for where in view.plan.rooms.values() for c in where.corners]
    if not corners:
        return Length(0.0, '0"'), Length(0.0, '0"')
    return Length(round(min(c[0] for c in corners), 1)), Length(round(min(c[1] for c in corners), 1))


def walk(view: View, form: QueryDict | dict[str, str]) -> Walk:
    """Where the tape stands now."""
    return Walk(view.drawing, _in_hand(view), bearing(view, form))


@action
def _start(view: View, name: str, use: str = "other", storey: Handle | None = None) -> Edit:
    if use not in USES:
        raise EditRefused(f"“{use}” is no use of a room")
    name = name[:80]
    like = view.drawing.get(view.room, Room) if view.room else usual_room(view.drawing.house.unit)
    if storey and storey not in view.drawing.of(Storey):
        raise EditRefused(f"there is no storey {storey}")
    x, y = clear_place(view, storey)
    room = msgspec.structs.replace(
        like,
        name=name,
        use=use,
        sides=(),
        builds={},
        diagonals=(),
        slope=None,
        x=x,
        y=y,
        storey=storey,
    )
    return Place({view.drafts().fresh("room"): room}, f"room “{name}”")


@action
def _say(view: View, words: str = "", bearing: str = "") -> Edit:
    if view.room is None:
        raise EditRefused("name the room first")
    edit = read(words, walk(view, {"bearing": bearing}), view.drafts())
    if isinstance(edit, Place):
        fresh = {h: i for h, i in edit.things.items() if isinstance(i, Room)}
        moved = {}
        for handle, room in fresh.items():
            x, y = clear_place(view, room.storey)
            moved[handle] = msgspec.structs.replace(room, x=x, y=y)
        return msgspec.structs.replace(edit, things={**edit.things, **moved})
    return edit


@action
def _lift(view: View) -> Edit:
    if view.room is None:
        raise EditRefused("there is no wall to lift")
    return LiftSide(view.room)


@action
def _side(view: View, wall: int, value: Length) -> Edit:
    return RemeasureSide(_in_hand(view), wall, value)


@action
def _turn(view: View, wall: int, value: str) -> Edit:
    """Another direction for a wall already laid: a letter, or degrees by the compass."""
    room = _in_hand(view)
    sides = view.drawing.get(room, Room).sides
    typed = value.upper()
    bearing = BEARINGS.get(typed, finite_number(typed.removesuffix("°")))
    if bearing is None or not 0 <= bearing < 360:
        raise EditRefused(f"“{typed[:20]}” is no direction; write N, E, S, W or degrees like 112.5")
    if not 1 <= wall <= len(sides):
        raise EditRefused(f"there is no wall {wall}")
    return RemeasureSide(room, wall, sides[wall - 1].length, bearing)


@action
def _shift(view: View, handle: Handle, dx: float, dy: float) -> Edit:
    """A room let go elsewhere on its storey: how far it was dragged, mm."""
    return MoveRoom(handle, dx, dy)


@action
def _stand(view: View, handle: Handle, field: str, value: str) -> Edit:
    """A room typed to another place: the distance of its first corner east or south on its storey."""
    where = view.plan.rooms.get(handle)
    if where is None or field not in ("x", "y"):
        raise EditRefused("there is no such room, or no such place")
    typed = parse_length(value.removeprefix("-"), view.drawing.house.unit).mm
    wanted = -typed if value.startswith("-") else typed
    shift = wanted - where.origin["xy".index(field)]
    return MoveRoom(handle, shift, 0.0) if field == "x" else MoveRoom(handle, 0.0, shift)


@action
def _clear(view: View, handle: Handle) -> Edit:
    return ClearRoom(handle)


@action
def _uncable(view: View, cable: str) -> Edit:
    """A cable of an old box struck out, by its number."""
    handle, box = Handle(view.selected), view.item
    if not isinstance(box, OldBox) or box.cable(cable) is None:
        raise EditRefused("that cable is not written down")
    begun = [q for q, c in view.drawing.of(Circuit).items() if c.source == handle and c.found == cable]
    if begun:
        raise EditRefused(f"{begun[0]} begins at a cable of {handle}: say first that which one is not known")
    left = {field: value for field, _, value in differing(box, box.without(cable))}
    return Revise(handle, left, f"Strike out cable {cable} of {handle}")


@action
def _carries(view: View, cable: str, lead: str, carries: str = "", read: bool = False) -> Edit:
    """What a conductor found in an old box is taken to carry, and whether a reading settled it."""
    handle, box = Handle(view.selected), view.item
    taken = box.lead(end(cable, lead)) if isinstance(box, OldBox) else None
    if not isinstance(box, OldBox) or taken is None:
        raise EditRefused("that conductor is not written down")
    if carries not in CARRIES:
        raise EditRefused(f"“{carries[:40]}” is nothing that a conductor carries")
    settled = carries != "" and read
    told = msgspec.structs.replace(taken, carries=carries, read=settled)
    cables = tuple(
        msgspec.structs.replace(c, leads=tuple(told if n is taken else n for n in c.leads))
        for c in box.cables
    )
    words = f"{taken.colour} of cable {cable} in {handle}: {CARRIES[carries]}{', read' if settled else ''}"
    return Revise(handle, {"cables": cables}, words)


#: What a conductor in an old box can be taken for.
CARRIES = {
    "": "not known",
    "line": "line, always live",
    "switched": "line by way of a switch",
    "neutral": "neutral",
    "ground": "ground",
    "other": "something else",
}


@action
def _rectangle(view: View, x: float, y: float, width: float, depth: float) -> Edit:
    """A room dragged on the floor: its north-west corner and its two lengths, mm."""
    if view.room is None:
        raise EditRefused("name the room first")
    if width < 300 or depth < 300:
        raise EditRefused("a room is at least a foot each way")
    return LayRectangle(view.room, Length(width), Length(depth), Length(x), Length(y))


@action
def _build(view: View, wall: int, field: str, value: str = "") -> Edit:
    """How one wall is built: one field of it."""
    handle = _in_hand(view)
    room = view.drawing.get(handle, Room)
    if not 1 <= wall <= len(room.sides):
        raise EditRefused(f"{room.name} has no wall {wall}")
    build: Build = room.build(wall)
    if field in ("exterior", "insulated", "bearing", "closed"):
        changed = {field: value == "yes"}
    elif field == "surface" and value in SURFACES:
        changed = {field: value}  # type: ignore[dict-item]
    elif field in ("spacing", "first", "depth", "thick", "board"):
        length = parse_length(value, view.drawing.house.unit)
        changed = {"studs": msgspec.structs.replace(room.studs_of(wall), **{field: length})}  # type: ignore[dict-item]
    elif field == "surface":
        raise EditRefused(f"“{value[:40]}” is no surface; there is {', '.join(SURFACES)}")
    else:
        raise EditRefused(f"a wall has no {field[:40]}")
    return BuildWall(handle, wall, msgspec.structs.replace(build, **changed))


@action
def _cable(
    view: View, leads: str, gauge: str = "", guess: str = "", cable: str = "", again: bool = False
) -> Edit:
    """A cable found in an old box: ``black on brass, white on silver, bare on ground``."""
    handle = Handle(view.selected)
    box = view.item
    if not isinstance(box, OldBox):
        raise EditRefused("choose the old box first")
    written = []
    for part in leads.split(","):
        colour, _, lands = part.strip().partition(" on ")
        if not colour:
            raise EditRefused(
                "name each conductor and where it lands: black on brass, white on silver, bare on ground"
            )
        # A question mark is a colour not seen yet, no colour.
        written.append(("not seen" if colour.strip() == "?" else colour.strip()[:30], lands.strip()[:60]))
    named = codes([colour for colour, _ in written])
    leads_ = tuple(Lead(code, *told) for code, told in zip(named, written, strict=True))
    found = OldCable(cable if box.cable(cable) else box.next_cable(), leads_, gauge[:10], guess[:60])
    if box.cable(found.id):
        return _written_again(handle, box, found)
    if any(msgspec.structs.replace(c, id=found.id) == found for c in box.cables) and not again:
        raise EditRefused("a cable just like that is written down already; change its guess if there are two")
    return Revise(handle, {"cables": (*box.cables, found)}, f"Write down a cable of {handle}")


def _written_again(handle: Handle, box: OldBox, found: OldCable) -> Edit:
    """A cable told anew under its number: ends that it no longer has are in no joint and on no device."""
    cables = tuple(found if c.id == found.id else c for c in box.cables)
    gone = {*box.ends} - {e for c in cables for e in c.ends}
    fields = {
        "cables": cables,
        "joints": joined(tuple(e for e in j if e not in gone) for j in box.joints),
        "held": tuple(parted(d, gone) for d in box.held),
    }
    return Revise(handle, fields, f"Write cable {found.id} of {handle} again")


def _underlay(view: View) -> tuple[Handle, Underlay]:
    found = view.item
    if not isinstance(found, Underlay):
        raise EditRefused("choose the underlay first")
    return Handle(view.selected), found


@action
def _layer(view: View, layer: str) -> Edit:
    """Show or hide a layer of the underlay."""
    handle, underlay = _underlay(view)
    off = tuple(n for n in underlay.off if n != layer) if layer in underlay.off else (*underlay.off, layer)
    return Revise(handle, {"off": off}, f"{'Show' if layer in underlay.off else 'Hide'} layer {layer}")


@action
def _scale(view: View, line: int, part: int, value: Length) -> Edit:
    """Scale the underlay by two points: what lies between the ends of one of its lines measures so much."""
    handle, underlay = _underlay(view)
    n, k = line, part
    if n >= len(underlay.lines) or k + 1 >= len(underlay.lines[n].points):
        raise EditRefused("that line is not there")
    stretch = underlay.stretch(n, k)
    if value.mm <= 0 or stretch <= 0:
        raise EditRefused("a scale wants two points apart, and what lies between them")
    return Revise(
        handle, {"scale": underlay.scale * value.mm / stretch}, f"Scale {underlay.name} by two points"
    )


@action
def _trace(view: View, line: int, name: str, use: str = "other") -> Edit:
    """Make a closed line of the underlay a room."""
    _, underlay = _underlay(view)
    n = line
    if n >= len(underlay.lines) or not underlay.lines[n].closed:
        raise EditRefused("that line does not close")
    name = name[:80]
    handle = view.drafts().fresh("room")
    if use not in get_args(RoomUse):
        raise EditRefused(f"“{use[:20]}” is no use of a room")
    made = Place({handle: Room(name, use=use, storey=underlay.storey)}, f"room “{name}”")  # type: ignore[arg-type]
    return Together((made, TraceRoom(handle, underlay.placed(n))), f"Trace “{name}” from {underlay.name}")


ACTIONS: dict[str, Action] = {
    "start": _start,
    "say": _say,
    "lift": _lift,
    "side": _side,
    "turn": _turn,
    "shift": _shift,
    "stand": _stand,
    "clear": _clear,
    "uncable": _uncable,
    "carries": _carries,
    "rectangle": _rectangle,
    "build": _build,
    "cable": _cable,
    "layer": _layer,
    "scale": _scale,
    "trace": _trace,
    **COMMON,
}
