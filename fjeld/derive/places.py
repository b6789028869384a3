"""Where each box is in space, how it sits in the framing, and what the tape must read.

Running measures from one datum corner: errors of single steps do not add up. From the
rough framing they include the wallboard that is not there yet; from the finished face
they do not.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from fjeld.derive.house import RoomShape, Wall
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Edge, Point
from fjeld.drawing.old_box import OldBox
from fjeld.geometry import Point3, contains, distance, to_segment
from fjeld.practice import Practice, rules
from fjeld.quantities import INCH, Length

#: Width and height of a panel's cabinet between two studs, mm.
CABINET = (360.0, 500.0)
#: Where nothing says otherwise, a wall light is this high, and it and an alarm are this far below a ceiling,
#: mm.
EYE_HEIGHT, BELOW_CEILING = 1800.0, 150.0

Sits = Literal["fastened", "clear", "clash", "free"]


class Placed(msgspec.Struct, frozen=True):
    """A box in the house. ``along`` and ``wall`` on a wall; ``height`` above its own floor.

    ``width`` and ``tall`` (mm) are its body's.
    ``gap`` (mm) lies between the box and the nearest framing member, at ``member``; both are
    None where there are no members, as in brick: the box is then ``free`` of them. ``closed``
    tells that the surface it sits in is finished already, so that it is cut in.
    """

    handle: Handle
    kind: str
    room: Handle
    wall: int
    along: float
    position: Point3
    width: float
    sits: Sits
    gap: float | None
    member: float | None
    inside: bool
    height: float
    closed: bool
    tall: float


class Mark(msgspec.Struct, frozen=True):
    """What to read on the tape: along the wall or from two walls, mm, and the height with its edge.

    ``rest`` is what is left to the far end of the wall, or to the east and south walls.
    """

    handle: Handle
    across: float
    down: float | None
    height: float | None
    edge: Edge | None
    datum: str
    rest: tuple[float, float | None] = (0.0, None)


def default_edge(kind: str, practice: Practice) -> Edge:
    """The edge of a box that people measure to, by kind."""
    return practice.edges.get(kind, "center")  # type: ignore[return-value]


def default_height(kind: str, practice: Practice, room: Room) -> float:
    """The height at which a box of this kind is put when nothing says otherwise, mm to its edge."""
    if kind == "outlet":
        return practice[rules.OUTLET_HEIGHT]
    if kind == "switch":
        return practice[rules.SWITCH_HEIGHT]
    below_ceiling = room.height.mm - BELOW_CEILING
    return below_ceiling if kind == "alarm" else min(EYE_HEIGHT, below_ceiling)


def usual_outlet_height(use: str, practice: Practice) -> Length | None:
    """The height to the foot of an outlet's box where rooms of this use have a habit of their own; None for
    the usual.
    """
    own = practice.get(rules.OUTLET_HEIGHT_BY_USE, {}).get(use)
    return None if own is None else Length(own, f'{own / INCH:g}"')


def edge_above_center(edge: Edge, tall: float) -> float:
    """How far an edge of a box so ``tall`` lies above its center, mm."""
    return {"bottom": -tall / 2, "center": 0.0, "top": tall / 2}[edge]


def edge_height(placed: Placed, edge: Edge) -> float:
    """Height above its floor of an edge of a box that stands, mm."""
    return placed.height + edge_above_center(edge, placed.tall)


def center_height(point: Point | OldBox, practice: Practice, room: Room, tall: float) -> float:
    """Height of the center above the floor, mm, of a box so ``tall``; an old one is measured to
    its center.
    """
    if isinstance(point, OldBox):
        return point.height.mm if point.height else practice[rules.OUTLET_HEIGHT] + tall / 2
    edge = point.edge or default_edge(point.kind, practice)
    height = point.height.mm if point.height else default_height(point.kind, practice, room)
    return height - edge_above_center(edge, tall)


def body_of(kind: str, wall: int, gangs: int, practice: Practice) -> tuple[float, float]:
    """Width and height of the body of a point's box, mm, as this practice's boxes are."""
    device = wall and kind in ("switch", "outlet")
    return practice.catalogue.body("device" if device else "ceiling", max(gangs, 1))


def place(
    handle: Handle, item: Point | Panel | OldBox, room: Room, where: RoomShape, gangs: int, practice: Practice
) -> Placed:
    """Put a point, a panel or an old box where its room's shape has it now."""
    if isinstance(item, Panel):
        return _on_wall(
            handle,
            "panel",
            room_handle=item.room,
            wall=where.walls[item.wall - 1],
            along=item.at.mm,
            height=item.height.mm,
            body=CABINET,
            where=where,
            room=room,
            practice=practice,
        )
    kind = "old box" if isinstance(item, OldBox) else item.kind
    # An old box on a wall is a device's, whatever it holds.
    body = body_of("switch" if kind == "old box" else kind, item.wall, gangs, practice)
    width, tall = body
    if item.wall:
        along = item.at.mm if item.at else 0.0
        height = center_height(item, practice, room, tall)
        return _on_wall(
            handle,
            kind,
            room_handle=item.room,
            wall=where.walls[item.wall - 1],
            along=along,
            height=height,
            body=body,
            where=where,
            room=room,
            practice=practice,
        )
    x = where.origin[0] + (item.x.mm if item.x else 0.0)
    y = where.origin[1] + (item.y.mm if item.y else 0.0)
    across = (x, y)[where.joist_axis]
    sits, gap, member = _seat(across, where.joists, width, room.joists.thick.mm, practice)
    inside = (
        where.closed and contains(where.corners, (x, y)) and _edge_distance(where, (x, y)) > width / 2 - 0.5
    )
    height = where.ceiling_at((x, y))
    return Placed(
        handle=handle,
        kind=kind,
        room=item.room,
        wall=0,
        along=0.0,
        position=(x, y, where.level + height),
        width=width,
        sits=sits,
        gap=gap,
        member=member,
        inside=inside,
        height=height,
        closed=room.ceiling_closed,
        tall=tall,
    )


def _on_wall(
    handle: Handle,
    kind: str,
    room_handle: Handle,
    wall: Wall,
    along: float,
    height: float,
    body: tuple[float, float],
    where: RoomShape,
    room: Room,
    practice: Practice,
) -> Placed:
    x, y = wall.at(along)
    width, tall = body
    sits, gap, member = _seat(along, wall.studs, width, room.studs_of(wall.number).thick.mm, practice)
    inside = width / 2 - 0.5 <= along <= wall.length - width / 2 + 0.5 and 0 < height < where.ceiling_at(
        (x, y)
    )
    if kind == "panel":
        sits = "fastened"
    return Placed(
        handle=handle,
        kind=kind,
        room=room_handle,
        wall=wall.number,
        along=along,
        position=(x, y, where.level + height),
        width=width,
        sits=sits,
        gap=gap,
        member=member,
        inside=inside,
        height=height,
        closed=room.build(wall.number).closed,
        tall=tall,
    )


def _seat(
    at: float, members: tuple[float, ...], width: float, thick: float, practice: Practice
) -> tuple[Sits, float | None, float | None]:
    """How a box sits, its gap to the nearest member and where that is; no gap where there are none, as in
    brick.
    """
    if not members:
        return "free", None, None
    member = min(members, key=lambda m: (abs(m - at), m))
    gap = abs(member - at) - thick / 2 - width / 2
    near = practice[rules.CLEAR_OF_FRAMING]
    return ("clash" if gap < -1.6 else "fastened" if gap <= near else "clear"), gap, member


Carries = Literal["", "fan", "fan-ready"]


def carries(point: Point, placed: Placed | None, room: Room, where: RoomShape, practice: Practice) -> Carries:
    """Whether a fan hangs from a box, or could be hung there later: over the middle of a room to live in,
    high enough.
    """
    if rules.FAN_BOX not in practice:
        return ""
    if point.kind == "fan":
        return "fan"
    mid_room = (
        point.kind == "light" and point.mount in ("", "surface") and point.wall == 0 and placed is not None
    )
    if (
        not mid_room
        or placed is None
        or not placed.inside
        or room.use not in practice.get(rules.FAN_READY, ())
    ):
        return ""
    drop, sweep = practice[rules.USUAL_FAN]
    low = practice[rules.FAN_BLADES] + drop
    clear = practice[rules.FAN_CLEAR] + sweep / 2
    hangs = placed.height >= low - 0.5 and _edge_distance(where, placed.position[:2]) >= clear - 0.5
    return "fan-ready" if hangs else ""


def outdoors(point: Point, room: Room) -> bool:
    """Whether a point stands where weather comes: outside, or made to."""
    return room.use == "outdoors" or point.mount == "outdoor"


def fastening(placed: Placed) -> str:
    """How a box is fastened where it sits, in words; empty where it meets a member and cannot be."""
    member = "stud" if placed.wall else "joist"
    if placed.sits == "clash":
        return ""
    if placed.closed:
        return (
            "cut into the finished surface, in the middle of a bay"
            if placed.sits == "clear"
            else f"cut in beside a {member}"
            if placed.sits == "fastened"
            else "cut into the wall"
        )
    if placed.sits == "free":
        return "set in the wall: no framing"
    if placed.sits == "fastened":
        return f"nail to the {member}"
    return "between studs: bar or block" if placed.wall else "on a bar between joists"


def overlap(a: Placed, b: Placed) -> bool:
    """Whether two boxes of one room stand in each other's place, on one wall or on the ceiling."""
    if a.room != b.room or a.wall != b.wall:
        return False
    reach = (a.width + b.width) / 2 - 1.0
    if a.wall:
        return (
            abs(a.along - b.along) < reach
            and abs(a.position[2] - b.position[2]) < (a.tall + b.tall) / 2 - 1.0
        )
    return distance(a.position, b.position) < reach


def _edge_distance(where: RoomShape, point: tuple[float, float]) -> float:
    return min(to_segment(point, wall.start, wall.end) for wall in where.walls)


def mark(
    point: Point | Panel, placed: Placed, where: RoomShape, room: Room, practice: Practice, from_finish: bool
) -> Mark:
    """The tape readings for a box, from rough framing or from the finished faces."""
    if placed.wall:
        wall = where.walls[placed.wall - 1]
        kind = point.kind if isinstance(point, Point) else "panel"
        edge = (point.edge if isinstance(point, Point) else None) or default_edge(kind, practice)
        # While roughing in, the tape stands on the subfloor: the finish is still to come.
        center = placed.height + (0.0 if from_finish else room.floor.mm)
        height = center + edge_above_center(edge, placed.tall)
        start, end = (0.0 if from_finish else _board_at(where, room, wall, far) for far in (False, True))
        rest = (wall.length - placed.along + end, None)
        return Mark(
            handle=placed.handle,
            across=placed.along + start,
            down=None,
            height=height,
            edge=edge,
            datum=f"start of wall {wall.number}",
            rest=rest,
        )
    (west, east), (north, south) = (
        from_sides(placed.position, where, room, axis, from_finish) for axis in (0, 1)
    )
    return Mark(
        handle=placed.handle,
        across=west,
        down=north,
        height=None,
        edge=None,
        datum="west and north walls",
        rest=(east, south),
    )


def from_sides(
    spot: Sequence[float], where: RoomShape, room: Room, axis: int, from_finish: bool
) -> tuple[float, float]:
    """How far a spot on the ceiling is from the walls farthest west and east (axis 0), or north and south
    (1).
    """
    found = []
    for side in (min, max):
        ends = side(c[axis] for c in where.corners)
        on_it = [w for w in where.walls if abs(w.start[axis] - ends) < 1.0 and abs(w.end[axis] - ends) < 1.0]
        board = 0.0 if from_finish else room.studs_of(on_it[0].number if on_it else 1).board.mm
        found.append(abs(spot[axis] - ends) + board)
    return found[0], found[1]


def _board_at(where: RoomShape, room: Room, wall: Wall, far: bool) -> float:
    """How far the framing's corner lies beyond the finished one at a wall's start, or its ``far`` end, mm.

    In an inner corner the board of the next wall hides part of this one; at an outer corner
    this wall's finished face reaches past the framing, and the sign turns.
    """
    beside = where.walls[(wall.number if far else wall.number - 2) % len(where.walls)]
    a, b = (wall.end, wall.start) if far else (wall.start, wall.end)
    into = sum((q - p) * n for p, q, n in zip(a, b, beside.normal, strict=True))
    return math.copysign(room.studs_of(beside.number).board.mm, into)
