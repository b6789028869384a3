"""Putting points on circuits."""

from __future__ import annotations

import msgspec

from fjeld.drawing.changes import Change, Put, Set
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


class TakeGroups(msgspec.Struct, frozen=True, tag="take-groups"):
    """Make these circuits and put these loads on them."""

    fresh: dict[Handle, Circuit]
    members: dict[Handle, tuple[Handle, ...]]

    def words(self, drawing: Drawing) -> str:
        return f"Make {len(self.fresh)} circuit{'s' if len(self.fresh) != 1 else ''}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        changes: list[Change] = [Put(handle, circuit) for handle, circuit in self.fresh.items()]
        for circuit, handles in self.members.items():
            if circuit not in self.fresh and circuit not in drawing.items:
                raise EditRefused(f"there is no circuit {circuit}")
            for handle in handles:
                point = drawing.items.get(handle)
                if not isinstance(point, Point):
                    raise EditRefused(f"{handle} is no longer there")
                if point.circuit != circuit:
                    changes.append(Set(handle, "circuit", point.circuit, circuit))
        return tuple(changes)
