"""What a step of the history keeps beside its drawing: the edit as it was meant, and its changes."""

from __future__ import annotations

import zlib
from collections.abc import Iterable
from typing import Any

import msgspec

from fjeld.drawing.changes import Change, Put, Set
from fjeld.drawing.edits.record import ReturnTo
from fjeld.formats.document import plain


def written(value: Any) -> bytes:
    """An edit, or a tuple of changes, as compressed JSON; lengths with how they were typed."""
    return zlib.compress(msgspec.json.encode(value, enc_hook=plain), 6)


def of_edit(edit: Any) -> bytes:
    """An edit as it was meant; what a return goes back to is known by its step."""
    if isinstance(edit, ReturnTo):
        return written({"type": "return-to", "seq": edit.seq})
    return written(edit)


def of_changes(changes: Iterable[Change]) -> bytes:
    """Changes as they are kept: of a thing put in or replaced what is new, of a field both values."""
    return written([_brief(change) for change in changes])


def _brief(change: Change) -> Any:
    # The drawing before holds what a Put replaced and a Drop took; to keep it here too would double the
    # store.
    if isinstance(change, Put):
        return {"type": "put", "handle": change.handle, "replaced": change.old is not None}
    if isinstance(change, Set):
        return {
            "type": "set",
            "handle": change.handle,
            "field": change.field,
            "old": change.old,
            "new": change.new,
        }
    return {"type": "drop", "handle": change.handle}


def read(data: bytes) -> Any:
    """What was kept, as builtins; None for a step older than this record."""
    return msgspec.json.decode(zlib.decompress(bytes(data))) if data else None


def paths(data: bytes) -> set[tuple[str, str]] | None:
    """The paths (handle, field) that a step wrote, ``*`` for every field; None where that was not kept."""
    found = read(data)
    return None if found is None else {(c["handle"], c.get("field", "*")) for c in found}
