"""The stored form of a drawing: exact, for the program alone.

The job file is for people and writes lengths as they do; what is stored keeps every float
whole and says beside it how it was typed, so that a drawing read back *is* the drawing that
was written. A document has its own number; older ones are brought up to date on reading, a
step a number, and those steps also repair what an older program wrote wrongly.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import msgspec

from fjeld.drawing.building import Side
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing, House, LoadRef
from fjeld.formats import jobfile
from fjeld.formats.older import body_with_names
from fjeld.quantities import INCH, Length, Written

#: 1 was the job file itself; 2 the first form of its own; since 3 all in an old box has a name.
FORMAT = 3


class DocumentError(ValueError):
    """A stored drawing that cannot be read; the message is one line."""


class NotTheSame(ValueError):
    """A drawing that would not come back as it is. ``handle`` is the first thing that differs."""

    def __init__(self, handle: str) -> None:
        super().__init__(f"{handle} would not be read back as it was written")
        self.handle = handle


def encode(drawing: Drawing) -> bytes:
    """The bytes that are stored: the same for equal drawings in the same order of things."""
    things = {
        group: {handle: item for handle, item in drawing.of(kind).items()}
        for group, kind in jobfile.GROUPS.items()
    }
    body = {"document": FORMAT, "house": drawing.house, **{g: t for g, t in things.items() if t}}
    return msgspec.json.encode(body, enc_hook=plain)


def plain(value: Any) -> Any:
    """What a value that is written whole consists of; for the encoders of msgspec."""
    if isinstance(value, Length):
        return {"mm": value.mm, "typed": value.typed} if value.typed else {"mm": value.mm}
    if isinstance(value, Side):
        return {"bearing": value.bearing, "length": value.length}
    if isinstance(value, LoadRef):
        return str(value)
    if isinstance(value, Written):
        return value.parts()
    raise NotImplementedError(type(value))


#: Gives the thing that was read from the same bytes before, else what the call makes of them.
Same = Callable[[tuple[str, bytes], Callable[[], Any]], Any]


def decode(data: bytes, number: int = FORMAT, same: Same | None = None) -> Drawing:
    """Read what was stored under a document number; raises :class:`DocumentError`.

    Nothing is refused for being implausible: what was once taken must stay readable. With
    ``same``, things whose bytes were met before are the very ones that were read then, so
    that what was worked out of them is known again.
    """
    if same is not None and number == FORMAT:
        return _known_items(data, same)
    try:
        body = msgspec.json.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise DocumentError(f"the stored drawing cannot be read: {str(error).splitlines()[0]}") from None
    if not isinstance(body, dict):
        raise DocumentError("the stored drawing is not an object")
    if number > FORMAT:
        raise DocumentError(
            f"this drawing was stored by a newer program, as number {number}; this one reads up to {FORMAT}"
        )
    try:
        for step in range(number, FORMAT):
            body = MIGRATIONS[step](body)
    except (jobfile.JobFileError, AttributeError, LookupError, TypeError) as error:
        raise DocumentError(f"the stored drawing is damaged: {error}") from None
    return _items(body)


def _known_items(data: bytes, same: Same) -> Drawing:
    def thing(raw: msgspec.Raw, kind: Any, handle: str) -> Any:
        written = bytes(raw)
        return same((handle, written), lambda: convert(msgspec.json.decode(written), kind, handle))

    try:
        body = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        items: dict[Handle, Any] = {HOUSE: thing(body["house"], House, "house")}
        for group, kind in jobfile.GROUPS.items():
            if group in body:
                for handle, raw in msgspec.json.decode(body[group], type=dict[str, msgspec.Raw]).items():
                    items[Handle(handle)] = thing(raw, kind, handle)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError, KeyError) as error:
        raise DocumentError(f"the stored drawing cannot be read: {str(error).splitlines()[0]}") from None
    return Drawing(items)


def _items(body: dict[str, Any]) -> Drawing:
    house = convert(body.get("house", {}), House, "house")
    items: dict[Handle, Any] = {HOUSE: house}
    for group, kind in jobfile.GROUPS.items():
        for handle, thing in body.get(group, {}).items():
            items[Handle(handle)] = convert(thing, kind, handle)
    return Drawing(items)


def convert(value: Any, kind: Any, handle: str) -> Any:
    """Builtins of the stored form as a value; raises :class:`DocumentError`, naming ``handle``."""
    try:
        return msgspec.convert(value, kind, dec_hook=_read, str_keys=True)
    except (msgspec.ValidationError, TypeError, ValueError) as error:
        raise DocumentError(f"{handle}: {str(error).splitlines()[0]}") from None


def _read(wanted: type[Any], found: Any) -> Any:
    if wanted is Length:
        return Length(float(found["mm"]), found.get("typed", ""))
    if wanted is LoadRef:
        return LoadRef.read(found)
    if wanted is Side:
        return Side(float(found["bearing"]), _read(Length, found["length"]))
    raise NotImplementedError(wanted)


def require_same(drawing: Drawing) -> tuple[bytes, Drawing]:
    """The stored bytes and the drawing read back from them; raises :class:`NotTheSame` if they differ."""
    data = encode(drawing)
    back = decode(data)
    if back.items != drawing.items:
        there = {**drawing.items, **back.items}
        raise NotTheSame(next(h for h in there if back.items.get(h) != drawing.items.get(h)))
    # In the order of the store, and of the very things that were given: they are equal, and known to every
    # stage.
    return data, Drawing({handle: drawing.items[handle] for handle in back.items})


#: A wall as the job file's first number wrote it when it was computed: millimetres without a unit.
_COMPUTED = re.compile(r"^(\S+)\s+(\d+\.\d+)$")
#: The same, once read back as inches and written again as if somebody had typed them.
_TWICE = re.compile(r"^(\S+)\s+(\d+\.\d+)\"$")


def _from_job_file(body: dict[str, Any]) -> dict[str, Any]:
    """From 1, the job file, in which computed walls had lost their unit and came back 25.4 times too long.

    A bare decimal can only be the program's own. A decimal of inches that is a whole number
    of inches in millimetres is one that was already misread: nobody's tape shows 3352.8 inches.
    """
    for room in body.get("rooms", {}).values():
        room["walls"] = [repaired(wall) for wall in room.get("walls", [])]
    drawing = jobfile.read_items(body)
    moved: dict[str, Any] = msgspec.json.decode(encode(drawing))
    return moved


def _with_names(body: dict[str, Any]) -> dict[str, Any]:
    """From 2, in which what is in an old box was called by its place. Of what came from 1 it is
    done already.
    """
    return body if body.get("document") == FORMAT else body_with_names(body)


def repaired(wall: str) -> str:
    """A wall of the first job file with the unit that it had lost."""
    if found := _COMPUTED.match(wall):
        return f"{found[1]} {found[2]} mm"
    if (found := _TWICE.match(wall)) and _whole_inches(float(found[2])):
        return f"{found[1]} {found[2]} mm"
    return wall


def _whole_inches(mm: float) -> bool:
    return mm > 300 and abs(mm / INCH - round(mm / INCH)) < 0.002


MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_job_file, 2: _with_names}
