"""Walking a room with a tape."""

from __future__ import annotations

import math

import msgspec

from fjeld.drawing.building import Build, Join, Opening, Room, Side
from fjeld.drawing.changes import Change, Set, apply, between
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Remove
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing, Standing
from fjeld.quantities import Length


def _room(drawing: Drawing, handle: Handle) -> Room:
    try:
        return drawing.get(handle, Room)
    except KeyError:
        raise EditRefused(f"there is no room {handle}") from None


def _standing_on(drawing: Drawing, room: Handle, wall: int) -> list[str]:
    return [
        handle
        for handle, item in drawing.items.items()
        if isinstance(item, Standing | Join) and item.room == room and item.wall == wall
    ]


class WalkSide(msgspec.Struct, frozen=True, tag="walk-side"):
    """Lay one more wall, from where the tape stands now."""

    room: Handle
    bearing: float
    length: Length

    def words(self, drawing: Drawing) -> str:
        return f"Walk wall {len(_room(drawing, self.room).sides) + 1}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        sides = _room(drawing, self.room).sides
        return (Set(self.room, "sides", sides, (*sides, Side(self.bearing % 360, self.length))),)


class LiftSide(msgspec.Struct, frozen=True, tag="lift-side"):
    """Take back the last wall, unless something stands on it."""

    room: Handle

    def words(self, drawing: Drawing) -> str:
        return f"Lift wall {len(_room(drawing, self.room).sides)}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        sides = _room(drawing, self.room).sides
        if not sides:
            raise EditRefused("there is no wall to lift")
        carried = _standing_on(drawing, self.room, len(sides))
        if carried:
            raise EditRefused(f"wall {len(sides)} carries {', '.join(carried)}; move that first")
        room = _room(drawing, self.room)
        n = len(sides)
        kept = msgspec.structs.replace(
            room,
            sides=sides[:-1],
            builds={w: b for w, b in room.builds.items() if w < n},
            diagonals=tuple(d for d in room.diagonals if max(d.a, d.b) < n),
            slope=room.slope if room.slope and room.slope.wall < n else None,
        )
        return between(drawing, Drawing({**drawing.items, self.room: kept}))


class RemeasureSide(msgspec.Struct, frozen=True, tag="remeasure-side"):
    """Another length, or another direction, for a wall already laid (numbered from 1)."""

    room: Handle
    wall: int
    length: Length
    bearing: float | None = None

    def words(self, drawing: Drawing) -> str:
        return f"Measure wall {self.wall} again"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        sides = _room(drawing, self.room).sides
        if not 1 <= self.wall <= len(sides):
            raise EditRefused(f"{self.room} has no wall {self.wall}")
        old = sides[self.wall - 1]
        new = Side(old.bearing if self.bearing is None else self.bearing % 360, self.length)
        return (Set(self.room, "sides", sides, (*sides[: self.wall - 1], new, *sides[self.wall :])),)


class LayRectangle(msgspec.Struct, frozen=True, tag="lay-rectangle"):
    """Four walls at once, east first, for a room that has none; its corner may be put on the storey."""

    room: Handle
    width: Length
    depth: Length
    x: Length | None = None
    y: Length | None = None

    def words(self, drawing: Drawing) -> str:
        return f"Lay the four walls of {_room(drawing, self.room).name}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        room = _room(drawing, self.room)
        if room.sides:
            raise EditRefused(f"{room.name} has walls already; lift them first")
        lengths = (self.width, self.depth, self.width, self.depth)
        sides = tuple(Side(b, v) for b, v in zip((90.0, 180.0, 270.0, 0.0), lengths, strict=True))
        laid = msgspec.structs.replace(room, sides=sides, x=self.x or room.x, y=self.y or room.y)
        return between(drawing, Drawing({**drawing.items, self.room: laid}))


class TraceRoom(msgspec.Struct, frozen=True, tag="trace-room"):
    """Walls along a closed line: corners in mm on the storey, in the order walked."""

    room: Handle
    corners: tuple[tuple[float, float], ...]

    def words(self, drawing: Drawing) -> str:
        return f"Trace the walls of {_room(drawing, self.room).name}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        room = _room(drawing, self.room)
        if room.sides:
            raise EditRefused(f"{room.name} has walls already; lift them first")
        if len(self.corners) < 3:
            raise EditRefused("a room has three corners or more")
        ends = [*self.corners[1:], self.corners[0]]
        sides = tuple(_side(a, b) for a, b in zip(self.corners, ends, strict=True))
        x, y = self.corners[0]
        laid = msgspec.structs.replace(room, sides=sides, x=Length(round(x, 2)), y=Length(round(y, 2)))
        return between(drawing, Drawing({**drawing.items, self.room: laid}))


def _side(a: tuple[float, float], b: tuple[float, float]) -> Side:
    """The wall between two corners; within a hundredth of a degree of a main direction it is that
    direction.
    """
    bearing = math.degrees(math.atan2(b[0] - a[0], a[1] - b[1])) % 360
    quarter = round(bearing / 90) * 90 % 360
    near = min(abs(bearing - quarter), 360 - abs(bearing - quarter)) < 0.01
    return Side(float(quarter) if near else round(bearing, 4), Length(round(math.dist(a, b), 2)))


class BuildWall(msgspec.Struct, frozen=True, tag="build-wall"):
    """Note how one wall is built."""

    room: Handle
    wall: int
    build: Build

    def words(self, drawing: Drawing) -> str:
        return f"Note how wall {self.wall} of {_room(drawing, self.room).name} is built"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        builds = _room(drawing, self.room).builds
        return (Set(self.room, "builds", builds, {**builds, self.wall: self.build}),)


class MoveRoom(msgspec.Struct, frozen=True, tag="move-room"):
    """Shift a room over its storey, mm, and with it all that its openings join it to."""

    room: Handle
    dx: float
    dy: float

    def words(self, drawing: Drawing) -> str:
        return f"Move {_room(drawing, self.room).name}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        rooms = drawing.of(Room)
        if self.room not in rooms:
            raise EditRefused(f"there is no room {self.room}")
        changes: list[Change] = []
        for handle in sorted(joined_rooms(drawing, self.room)):
            for field, shift in (("x", self.dx), ("y", self.dy)):
                old: Length = getattr(rooms[handle], field)
                if shift:
                    changes.append(Set(handle, field, old, Length(old.mm + shift)))
        return tuple(changes)


def joined_rooms(drawing: Drawing, room: Handle) -> set[Handle]:
    """A room and all that stand on its storey joined to it by openings seen from both sides."""
    rooms = drawing.of(Room)
    found, waiting = {room}, [room]
    while waiting:
        here = waiting.pop()
        for join in drawing.of(Join).values():
            opening = drawing.items.get(join.opening)
            pair = {join.room, opening.room} if isinstance(opening, Opening) else set()
            if here in pair:
                fresh = {r for r in pair - found if rooms[r].storey == rooms[room].storey}
                found |= fresh
                waiting += fresh
    return found


class ClearRoom(msgspec.Struct, frozen=True, tag="clear-room"):
    """Take a room away with all that is in it, as one step."""

    room: Handle

    def words(self, drawing: Drawing) -> str:
        return f"Take away {_room(drawing, self.room).name} with what is in it"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        after = drawing
        for handle in held_by(drawing, self.room):
            if handle in after.items:
                after = apply(after, Remove(handle).plan(after))
        return between(drawing, apply(after, Remove(self.room).plan(after)))


def held_by(drawing: Drawing, room: Handle) -> list[Handle]:
    """What stands in a room and goes with it, in the drawing's order."""
    return [h for h, item in drawing.items.items() if isinstance(item, Standing) and item.room == room]
