"""Which boxes a cable joins."""

from __future__ import annotations

import msgspec

from fjeld.drawing.changes import Change, Drop, Put
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import By, Cable, Drawing


class TakeTree(msgspec.Struct, frozen=True, tag="take-tree"):
    """Join a circuit's boxes by these cables, keeping every standing cable that is among them.

    ``fresh`` maps the handle of each new cable to the boxes it joins.
    """

    circuit: Handle
    kept: tuple[Handle, ...]
    fresh: dict[Handle, tuple[Handle, Handle]]
    by: By = "fjeld"
    what: str = ""

    def words(self, drawing: Drawing) -> str:
        return self.what or f"Lay the cables of {self.circuit} another way"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        changes: list[Change] = []
        for handle, cable in drawing.of(Cable).items():
            if cable.circuit == self.circuit and handle not in self.kept:
                if cable.state != "proposed":
                    raise EditRefused(f"{handle} is {cable.state}; release it first")
                changes.append(Drop(handle, cable))
        for handle in self.kept:
            if handle not in drawing.items:
                raise EditRefused(f"{handle} is no longer there")
        for handle, (a, b) in self.fresh.items():
            if a not in drawing.items or b not in drawing.items:
                raise EditRefused(f"{a} or {b} is no longer there")
            changes.append(Put(handle, Cable(a, b, self.circuit, by=self.by)))
        return tuple(changes)
