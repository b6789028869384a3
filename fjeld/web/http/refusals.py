"""Refusals in a person's words: what was refused is named as on the screen, not by its path in the file."""

from __future__ import annotations

import re

from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.validate import InvalidDrawing, Problem
from fjeld.web.jobs.models import Job
from fjeld.web.ui.panel import Shown

#: How a person calls a field, where its own name would not be understood.
_CALLED = {
    "va": "load in VA",
    "at": "distance along the wall",
    "x": "distance from the west wall",
    "y": "distance from the north wall",
    "sides": "walls",
    "first": "first member",
    "thick": "thickness",
    "board": "thickness of the board",
    "low": "lowest height",
    "high": "top",
    "a": "first end",
    "b": "second end",
    "from": "first end",
    "to": "second end",
    "floor": "floor finish",
    "ceiling": "ceiling finish",
    "measured": "measured length",
    "amps": "rating in A",
}


class RefusedPage(Shown, frozen=True):
    """What was refused, on a page of its own, and the way back."""

    words: str
    job: Job
    waypoint: str


def in_words(refused: Exception, drawing: Drawing | None) -> str:
    """What to tell the person."""
    if not isinstance(refused, InvalidDrawing):
        return str(refused)
    return "; ".join(_said(problem, drawing) for problem in refused.problems[:2])


def _said(problem: Problem, drawing: Drawing | None) -> str:
    handle, _, rest = problem.path.partition(".")
    item = drawing.items.get(Handle(handle)) if drawing else None
    name = item.name if isinstance(item, Room) and item.name else "" if handle == "house" else handle
    parts = [_part(part) for part in rest.split(".") if part]
    where = (
        " ".join(reversed(parts)) if len(parts) > 1 and not parts[0].startswith("wall ") else ", ".join(parts)
    )
    place = ", ".join(p for p in (name, where) if p)
    return f"{place}: {problem.words}" if place else problem.words


def _part(part: str) -> str:
    found = re.fullmatch(r"(\w+)\[(\d+)\]", part)
    if found and found[1] in ("walls", "sides"):
        return f"wall {int(found[2]) + 1}"
    name = found[1] if found else part
    called = _CALLED.get(name, name.replace("_", " "))
    return f"{called} {int(found[2]) + 1}" if found else called
