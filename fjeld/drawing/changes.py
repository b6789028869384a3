"""The one kind of change, and everything that is written once for it.

An edit says what a person meant; it is planned into changes. Applying, inverting,
telling whether two edits touch the same thing, history and the consequence line all
work on changes alone. A change carries what it replaces, so that its inverse needs
no other knowledge.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

import msgspec

from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing, Item
from fjeld.quantities import Length


class Put(msgspec.Struct, frozen=True, tag="put"):
    """An item that was not there (``old`` None) or replaces ``old`` whole."""

    handle: Handle
    value: Item
    old: Item | None = None


class Drop(msgspec.Struct, frozen=True, tag="drop"):
    """An item taken away."""

    handle: Handle
    old: Item


class Set(msgspec.Struct, frozen=True, tag="set"):
    """One field of an item, from ``old`` to ``new``; ``field`` of a part of it has dots:
    ``errand.spot.left``.
    """

    handle: Handle
    field: str
    old: Any
    new: Any


Change = Put | Drop | Set


class StaleChange(ValueError):
    """A change does not fit the drawing: what it replaces is no longer there."""


class Built(ValueError):
    """A change would alter what is built; only a person's own release makes it changeable again."""

    def __init__(self, handle: str) -> None:
        super().__init__(f"{handle} is built; release it first if it is really to change")
        self.handle = handle


def apply(drawing: Drawing, changes: Iterable[Change]) -> Drawing:
    """The drawing after ``changes``.

    Raises :class:`StaleChange` if one does not fit (a handle to be put in that is taken
    already, a value that is no longer there), :class:`Built` if one would alter what is built.
    """
    items = dict(drawing.items)
    for change in changes:
        there = items.get(change.handle)
        if getattr(there, "state", "") == "built" and not (
            isinstance(change, Set) and change.field == "state"
        ):
            raise Built(change.handle)
        if isinstance(change, Put):
            _fits(there == change.old, change.handle)
            items[change.handle] = change.value
        elif isinstance(change, Drop):
            _fits(there == change.old, change.handle)
            del items[change.handle]
        else:
            _fits(there is not None and value_at(there, change.field) == change.old, change.handle)
            assert there is not None
            items[change.handle] = with_value(there, change.field, change.new)
    return Drawing(items)


def value_at(of: Any, field: str) -> Any:
    """The value of a field, or of one of a part by its dots; None where it is not there."""
    for name in field.split("."):
        of = getattr(of, name, None)
    return of


def with_value(of: Any, field: str, value: Any) -> Any:
    """A thing with another value in a field, or in one of a part; raises :class:`StaleChange` where that part
    is not there.
    """
    name, _, rest = field.partition(".")
    if not rest:
        return msgspec.structs.replace(of, **{name: value})
    part = getattr(of, name, None)
    if not isinstance(part, msgspec.Struct):
        raise StaleChange(f"there is no {field} any more")
    return msgspec.structs.replace(of, **{name: with_value(part, rest, value)})


def _fits(fits: bool, handle: str) -> None:
    if not fits:
        raise StaleChange(f"{handle} has changed in the meantime")


def invert(changes: Iterable[Change]) -> tuple[Change, ...]:
    """The changes that undo ``changes``."""
    return tuple(_inverse(change) for change in reversed(tuple(changes)))


def _inverse(change: Change) -> Change:
    if isinstance(change, Set):
        return Set(change.handle, change.field, change.new, change.old)
    if isinstance(change, Drop):
        return Put(change.handle, change.old)
    return (
        Put(change.handle, change.old, change.value)
        if change.old is not None
        else Drop(change.handle, change.value)
    )


def between(before: Drawing, after: Drawing) -> tuple[Change, ...]:
    """The fewest changes that lead from one drawing to the other."""
    changes: list[Change] = [
        Drop(handle, item) for handle, item in before.items.items() if handle not in after.items
    ]
    for handle, item in after.items.items():
        old = before.items.get(handle)
        if old is None:
            changes.append(Put(handle, item))
        elif old != item:
            changes.extend(_field_changes(handle, old, item))
    return tuple(changes)


def _field_changes(handle: Handle, old: Item, new: Item) -> list[Change]:
    if type(old) is not type(new):
        return [Put(handle, new, old)]
    return [Set(handle, field, was, now) for field, was, now in differing(old, new)]


def differing(old: Any, new: Any) -> Iterator[tuple[str, Any, Any]]:
    """The fields in which two values of one type differ, those of a part by themselves: so two people can
    each tell their own.
    """
    for field in old.__struct_fields__:
        was, now = getattr(old, field), getattr(new, field)
        if was == now:
            continue
        if isinstance(was, msgspec.Struct) and type(was) is type(now) and not isinstance(was, Length):
            yield from ((f"{field}.{name}", a, b) for name, a, b in differing(was, now))
        else:
            yield field, was, now


def written(changes: Iterable[Change]) -> set[tuple[str, str]]:
    """The paths (handle, field) that changes write; ``*`` stands for every field."""
    return {(c.handle, c.field if isinstance(c, Set) else "*") for c in changes}


def meet(mine: Iterable[tuple[str, str]], theirs: Iterable[tuple[str, str]]) -> set[tuple[str, str]]:
    """The paths of ``mine`` that are among ``theirs``, or lie within one of them or around it."""
    by_handle: dict[str, set[str]] = {}
    for handle, field in theirs:
        by_handle.setdefault(handle, set()).add(field)
    return {
        (handle, field)
        for handle, field in mine
        if (met := by_handle.get(handle))
        and ("*" in (field, *met) or any(_within(field, other) for other in met))
    }


def _within(one: str, other: str) -> bool:
    """Whether two fields are the same, or one is a part of the other."""
    return one == other or one.startswith(f"{other}.") or other.startswith(f"{one}.")
