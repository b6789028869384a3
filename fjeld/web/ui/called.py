"""What a person calls a thing: its place first, then what it is, the handle after it."""

from __future__ import annotations

import re
from collections.abc import Sequence

from fjeld.drawing.building import Body, Opening, Panel, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, LoadRef, Point
from fjeld.drawing.old_box import OldBox
from fjeld.practice import Practice

_KIND = {"alarm": "alarm", "blank": "blank cover", "junction": "junction"}


def called(drawing: Drawing, reference: str, practice: Practice) -> str:
    """A thing by its place and kind, as ``Hall switch S9``; a load's part is said too. A cable is
    its handle.
    """
    named = LoadRef.read(reference)
    handle, part = named.point, named.part
    item = drawing.items.get(handle)
    if isinstance(item, Circuit | Control):
        return f"{item.name} {reference}" if item.name else reference
    if isinstance(item, Room):
        return item.name or reference
    if item is None or isinstance(item, Cable):
        return reference
    words = _what(item)
    if not words:
        return reference
    room = drawing.items.get(getattr(item, "room", Handle("")))
    place = room.name if isinstance(room, Room) and len(drawing.of(Room)) > 1 else ""
    said = f"{place} {practice.said(words)}".strip()
    return f"{said[0].upper()}{said[1:]} {handle}" + (f", {part}" if part else "")


def called_together(drawing: Drawing, references: Sequence[str], practice: Practice) -> str:
    """Several things in few words: ``Main room recessed lights A2, A3, A4; pendant A8``."""
    groups: dict[tuple[str, str], list[str]] = {}
    for reference in references:
        item = drawing.items.get(LoadRef.read(reference).point)
        room = drawing.items.get(getattr(item, "room", Handle("")))
        place = room.name if isinstance(room, Room) and len(drawing.of(Room)) > 1 else ""
        groups.setdefault((place, practice.said(_what(item))), []).append(reference)
    said, last = [], ""
    for (place, what), mine in groups.items():
        ending = "" if len(mine) < 2 or not what else "es" if what.endswith(("ch", "sh")) else "s"
        words = f"{what}{ending} {', '.join(mine)}".strip()
        said.append(f"{place} {words}".strip() if place != last else words)
        last = place
    text = "; ".join(said)
    return text[:1].upper() + text[1:]


def _what(item: object) -> str:
    if isinstance(item, Point):
        if item.kind == "light":
            return {
                "pendant": "pendant",
                "recessed": "recessed light",
                "wall": "wall light",
                "outdoor": "outdoor light",
            }.get(item.mount, "light")
        return _KIND.get(item.kind, item.kind)
    if isinstance(item, Opening | Body):
        return item.kind
    if isinstance(item, Panel):
        return "panel"
    return f"old {item.holds}" if isinstance(item, OldBox) else ""


_NAMED = re.compile(r"(?<![\w.])([A-Z][1-9][0-9]{0,5})(?![\w.])")


def with_places(words: str, drawing: Drawing, practice: Practice) -> str:
    """A sentence with the first thing it names called by its place; those after it keep their handles."""
    done = False

    def say(found: re.Match[str]) -> str:
        nonlocal done
        item = drawing.items.get(Handle(found[1]))
        if done or item is None or isinstance(item, Cable):
            return found[0]
        done = True
        return called(drawing, found[1], practice)

    return _NAMED.sub(say, words)
