"""Moving boxes: one point to a place, or a whole row by the same amount."""

from __future__ import annotations

import msgspec

from fjeld.drawing.changes import Change, Set
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing, Point
from fjeld.quantities import Length


def _point(drawing: Drawing, handle: Handle) -> Point:
    try:
        return drawing.get(handle, Point)
    except KeyError:
        raise EditRefused(f"there is no box {handle}") from None


class MovePoint(msgspec.Struct, frozen=True, tag="move-point"):
    """Move one box: along its wall (``at``, ``height``) or over the ceiling (``x``, ``y``)."""

    handle: Handle
    at: Length | None = None
    height: Length | None = None
    x: Length | None = None
    y: Length | None = None

    def words(self, drawing: Drawing) -> str:
        return f"Move {self.handle}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        point = _point(drawing, self.handle)
        wanted = ("at", "height") if point.wall else ("x", "y")
        return tuple(
            Set(self.handle, field, getattr(point, field), getattr(self, field))
            for field in wanted
            if getattr(self, field) is not None and getattr(self, field) != getattr(point, field)
        )


class MoveRow(msgspec.Struct, frozen=True, tag="move-row"):
    """Shift every light of a row by (``dx``, ``dy``) mm, so that the row stays straight.

    A row is the lights that were laid together and share the moved light's y when the
    shift is across (``dy``), its x when it is sideways (``dx``).
    """

    handle: Handle
    dx: float = 0.0
    dy: float = 0.0

    def words(self, drawing: Drawing) -> str:
        return f"Move the row of {self.handle}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        changes: list[Change] = []
        for field, shift in (("x", self.dx), ("y", self.dy)):
            for handle in row_of(drawing, self.handle, field) if shift else ():
                old = getattr(_point(drawing, handle), field)
                changes.append(Set(handle, field, old, Length(old.mm + shift)))
        return tuple(changes)


def row_of(drawing: Drawing, handle: Handle, field: str) -> list[Handle]:
    """The lights laid together with ``handle`` that share its coordinate ``field`` (``x`` or ``y``)."""
    moved = _point(drawing, handle)
    here = getattr(moved, field)
    if here is None:
        raise EditRefused(f"{handle} is not on the ceiling")
    if not moved.row:
        return [handle]
    return [
        other
        for other, point in drawing.of(Point).items()
        if point.row == moved.row
        and point.room == moved.room
        and getattr(point, field) is not None
        and abs(getattr(point, field).mm - here.mm) < 1.0
    ]
