"""Words typed while walking a room: ``12'4``, ``door 32 at 4'2``, ``panel at 2' on 4``.

One line is one edit. Anything that cannot be read raises :class:`Misread` with what was
expected, and nothing is lost.
"""

from __future__ import annotations

import re
from collections.abc import Callable

import msgspec

from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.edits.survey import WalkSide
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Drawing, Opening, Panel, Room
from fjeld.geometry import BEARINGS
from fjeld.quantities import Length, Unit, UnreadableLength, parse_length


class Misread(ValueError):
    """Words that could not be read; the message says what was expected."""


class Walk(msgspec.Struct, frozen=True):
    """Where the tape stands: the drawing, the room, and the direction of the next wall."""

    drawing: Drawing
    room: Handle
    bearing: float

    @property
    def unit(self) -> Unit:
        return self.drawing.house.unit


def next_bearing(room: Room) -> float:
    """A right turn from the last wall; the first goes east."""
    return (room.sides[-1].bearing + 90) % 360 if room.sides else 90.0


def read(words: str, walk: Walk, mint: Mint) -> Edit:
    """The edit that a typed line means; raises :class:`Misread` or :class:`UnreadableLength`."""
    line = words.strip().removeprefix("/").strip()
    if not line:
        raise Misread("type a length, or a word such as door, window, panel, height, joists, studs")
    head, _, rest = line.partition(" ")
    reader = _WORDS.get(head.lower())
    if reader:
        return reader(rest.strip(), walk, mint)
    if head.upper() in BEARINGS and rest:
        return WalkSide(walk.room, BEARINGS[head.upper()], parse_length(rest, walk.unit))
    try:
        return WalkSide(walk.room, walk.bearing, parse_length(line, walk.unit))
    except UnreadableLength as error:
        if re.match(r"^[A-Za-z]", head):
            raise Misread(f"“{head}” is no word here; there is {', '.join(_WORDS)}") from None
        raise error from None


_CLAUSE = re.compile(r"\b(at|on|sill|head|hinge|first|deep|amps|ways)\s+", re.IGNORECASE)


def _clauses(rest: str) -> dict[str, str]:
    """``32 at 4'2 on 3`` → {"": "32", "at": "4'2", "on": "3"}."""
    pieces = _CLAUSE.split(rest)
    found = {"": pieces[0].strip()}
    for name, value in zip(pieces[1::2], pieces[2::2], strict=True):
        found[name.lower()] = value.strip()
    return found


def _wall(found: dict[str, str], walk: Walk) -> int:
    laid = len(walk.drawing.get(walk.room, Room).sides)
    if "on" not in found:
        if not laid:
            raise Misread("lay the wall first")
        return laid
    if not found["on"].isdigit() or not 1 <= int(found["on"]) <= laid:
        raise Misread(f"“on {found['on']}” names no wall; there are {laid}")
    return int(found["on"])


def _need(found: dict[str, str], name: str, walk: Walk, example: str) -> Length:
    if not found.get(name):
        raise Misread(f"a measure is missing; write it like {example}")
    return parse_length(found[name], walk.unit)


def _opening(kind: str) -> Callable[[str, Walk, Mint], Edit]:
    example = f"{kind} 32 at 4'2"

    def read_opening(rest: str, walk: Walk, mint: Mint) -> Edit:
        found = _clauses(rest)
        width, at = _need(found, "", walk, example), _need(found, "at", walk, example)
        extra: dict[str, object] = {}
        for name in ("sill", "head"):
            if name in found:
                extra[name] = parse_length(found[name], walk.unit)
        if kind == "window" and "sill" not in extra:
            extra["sill"] = parse_length('36"', "ft-in")
        if "hinge" in found:
            if found["hinge"] not in ("start", "end"):
                raise Misread("a door hangs at the start or the end of its opening: hinge start, or hinge end")
            extra["hinge"] = found["hinge"]
        opening = Opening(kind, walk.room, _wall(found, walk), at, width, **extra)  # type: ignore[arg-type]
        handle = mint.fresh("window" if kind == "window" else "door")
        return Place({handle: opening}, f"{kind} {handle}")

    return read_opening


def _panel(rest: str, walk: Walk, mint: Mint) -> Edit:
    found = _clauses(rest)
    at = _need(found, "at", walk, "panel at 2'")
    amps, ways = found.get("amps", "100"), found.get("ways", "12")
    if not amps.isdigit() or not ways.isdigit() or not 1 <= int(ways) <= 84 or not 1 <= int(amps) <= 400:
        raise Misread("a panel has amps and ways in whole numbers: panel at 2' amps 100 ways 12")
    handle = mint.fresh("panel")
    return Place(
        {handle: Panel(walk.room, _wall(found, walk), at, amps=int(amps), ways=int(ways))}, f"panel {handle}"
    )


def _height(rest: str, walk: Walk, mint: Mint) -> Edit:
    return Revise(walk.room, {"height": parse_length(rest, walk.unit)}, "Measure the ceiling height")


def _joists(rest: str, walk: Walk, mint: Mint) -> Edit:
    found = _clauses(rest)
    run, _, spacing = found[""].partition(" ")
    if run.lower() not in ("ew", "ns", "e-w", "n-s"):
        raise Misread("say which way joists run, and their spacing: joists ns 16 first 8")
    joists = walk.drawing.get(walk.room, Room).joists
    fields: dict[str, object] = {"run": "E-W" if run.lower().startswith("e") else "N-S"}
    if spacing:
        fields["spacing"] = parse_length(spacing, walk.unit)
    for word, field in (("first", "first"), ("deep", "depth")):
        if word in found:
            fields[field] = parse_length(found[word], walk.unit)
    return Revise(walk.room, {"joists": msgspec.structs.replace(joists, **fields)}, "Note the joists")


def _studs(rest: str, walk: Walk, mint: Mint) -> Edit:
    found = _clauses(rest)
    studs = walk.drawing.get(walk.room, Room).studs
    fields: dict[str, object] = {"spacing": _need(found, "", walk, "studs 16 first 16 deep 3 1/2")}
    for word, field in (("first", "first"), ("deep", "depth")):
        if word in found:
            fields[field] = parse_length(found[word], walk.unit)
    return Revise(walk.room, {"studs": msgspec.structs.replace(studs, **fields)}, "Note the studs")


_WORDS: dict[str, Callable[[str, Walk, Mint], Edit]] = {
    "door": _opening("door"),
    "cased": _opening("cased"),
    "window": _opening("window"),
    "panel": _panel,
    "height": _height,
    "joists": _joists,
    "studs": _studs,
}
