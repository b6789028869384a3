"""Walking a room with a tape."""

from __future__ import annotations

import msgspec

from fjeld.drawing.changes import Change, Set
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing, Opening, Panel, Point, Room, Side
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
        if isinstance(item, Opening | Panel | Point) and item.room == room and item.wall == wall
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
        return (Set(self.room, "sides", sides, sides[:-1]),)


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
