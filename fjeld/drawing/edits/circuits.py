"""Putting points on circuits."""

from __future__ import annotations

import msgspec

from fjeld.drawing.changes import Change, Set
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Drawing, Point


class Assign(msgspec.Struct, frozen=True, tag="assign"):
    """Put loads on a circuit, or take them off (``circuit`` None). Switches follow their loads."""

    handles: tuple[Handle, ...]
    circuit: Handle | None

    def words(self, drawing: Drawing) -> str:
        return f"Put {', '.join(self.handles)} on {self.circuit or 'no circuit'}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        if self.circuit is not None and not isinstance(drawing.items.get(self.circuit), Circuit):
            raise EditRefused(f"there is no circuit {self.circuit}")
        changes = []
        for handle in self.handles:
            point = drawing.items.get(handle)
            if not isinstance(point, Point) or point.kind == "switch":
                raise EditRefused(f"{handle} is not a load")
            if point.circuit != self.circuit:
                changes.append(Set(handle, "circuit", point.circuit, self.circuit))
        return tuple(changes)
