"""Edits that every waypoint uses: put things in, type over a figure, take things away."""

from __future__ import annotations

from typing import Any

import msgspec

from fjeld.drawing.building import Join, Panel, Room, Storey
from fjeld.drawing.changes import Change, apply, between, differing, with_value
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Item, Point, Standing


def present(drawing: Drawing, handle: str) -> Item:
    """The item; raises :class:`EditRefused` when it has gone."""
    item = drawing.items.get(Handle(handle))
    if item is None:
        raise EditRefused(f"{handle} is no longer there")
    return item


class Place(msgspec.Struct, frozen=True, tag="place"):
    """Put new things into the drawing. Their handles travel inside the edit."""

    things: dict[Handle, Item]
    what: str

    def words(self, drawing: Drawing) -> str:
        return f"Place {self.what}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        for handle in self.things:
            if handle in drawing.items:
                raise EditRefused(f"{handle} is already taken")
        return between(drawing, Drawing({**drawing.items, **self.things}))


class Revise(msgspec.Struct, frozen=True, tag="revise"):
    """Type over figures of one thing; of a part of it with dots, ``errand.weighs``, whatever the rest of that
    part is by then.
    """

    handle: Handle
    fields: dict[str, Any]
    what: str = ""

    def words(self, drawing: Drawing) -> str:
        return self.what or f"Change {self.handle}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        item = present(drawing, self.handle)
        unknown = {name.partition(".")[0] for name in self.fields} - set(item.__struct_fields__)
        if unknown:
            raise EditRefused(f"{self.handle} has no {', '.join(sorted(unknown))}")
        revised = item
        for name, value in self.fields.items():
            revised = with_value(revised, name, value)
        return between(drawing, Drawing({**drawing.items, self.handle: revised}))


def retold(handle: Handle, part: str, old: Any, new: Any, what: str) -> Revise:
    """What differs between two values of a part of a thing, typed over by itself; the whole where there was
    none.
    """
    if old is None:
        return Revise(handle, {part: new}, what)
    return Revise(handle, {f"{part}.{name}": value for name, _, value in differing(old, new)}, what)


class Together(msgspec.Struct, frozen=True, tag="together"):
    """Several edits as one step, each planned on what those before it left."""

    edits: tuple[Any, ...]
    what: str

    def words(self, drawing: Drawing) -> str:
        return self.what

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        after = drawing
        for edit in self.edits:
            after = apply(after, edit.plan(after))
        return between(drawing, after)


class Remove(msgspec.Struct, frozen=True, tag="remove"):
    """Take a thing away, and with it whatever cannot be without it."""

    handle: Handle

    def words(self, drawing: Drawing) -> str:
        return f"Take away {self.handle}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        item = present(drawing, self.handle)
        if self.handle == HOUSE:
            raise EditRefused("the job's own choices stay")
        if isinstance(item, Room):
            inside = [
                h for h, i in drawing.items.items() if isinstance(i, Standing) and i.room == self.handle
            ]
            if inside:
                raise EditRefused(f"{self.handle} still holds {', '.join(inside[:4])}")
        if isinstance(item, Storey) and any(r.storey == self.handle for r in drawing.of(Room).values()):
            raise EditRefused(f"{item.name} still holds rooms")
        items = {h: i for h, i in drawing.items.items() if h != self.handle}
        for handle, other in list(items.items()):
            if (isinstance(other, Cable) and self.handle in (other.a, other.b, other.circuit)) or (
                isinstance(other, Join) and self.handle in (other.opening, other.room)
            ):
                del items[handle]
            elif isinstance(other, Control):
                items[handle] = msgspec.structs.replace(
                    other,
                    positions=tuple(p for p in other.positions if p != self.handle),
                    loads=tuple(load for load in other.loads if load.point != self.handle),
                )
            elif isinstance(other, Point | Panel) and other.circuit == self.handle:
                items[handle] = msgspec.structs.replace(other, circuit=None)
            elif isinstance(other, Circuit) and other.source == self.handle:
                items[handle] = msgspec.structs.replace(other, source=None, found="")
            elif isinstance(other, Point) and other.over == self.handle:
                items[handle] = msgspec.structs.replace(other, over=None)
            elif isinstance(other, Point) and other.within == self.handle:
                items[handle] = msgspec.structs.replace(other, within=None, yoke=False)
        return between(drawing, Drawing(items))
