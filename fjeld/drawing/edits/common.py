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
        self._refuse_what_is_held(drawing, present(drawing, self.handle))
        items = {
            handle: left
            for handle, item in drawing.items.items()
            if handle != self.handle and (left := _without(item, self.handle)) is not None
        }
        return between(drawing, Drawing(items))

    def _refuse_what_is_held(self, drawing: Drawing, item: Item) -> None:
        """Raise :class:`EditRefused` where something stands in what would go."""
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


def _without(item: Item, gone: Handle) -> Item | None:
    """What a thing is once another is gone; None where it cannot be without that."""
    replace = msgspec.structs.replace
    match item:
        case Cable() if gone in (item.a, item.b, item.circuit):
            return None
        case Join() if gone in (item.opening, item.room):
            return None
        case Control():
            positions = tuple(p for p in item.positions if p != gone)
            return replace(item, positions=positions, loads=tuple(x for x in item.loads if x.point != gone))
        case Point() | Panel() if item.circuit == gone:
            return replace(item, circuit=None)
        case Circuit() if item.source == gone:
            return replace(item, source=None, found="")
        case Point() if item.over == gone:
            return replace(item, over=None)
        case Point() if item.within == gone:
            return replace(item, within=None, yoke=False)
    return item
