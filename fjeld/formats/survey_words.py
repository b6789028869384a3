"""What each word of the tape line means: walls and rooms, openings, what stands in them, how they are built.

Every reader takes the words after its own, where the tape stands, and the mint, and gives
one edit or raises :class:`Misread` with an example of what it expects.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, get_args

import msgspec

from fjeld.drawing.building import (
    Access,
    Body,
    BodyKind,
    Build,
    Diagonal,
    Join,
    Opening,
    Panel,
    PanelWay,
    Room,
    RoomUse,
    Slope,
    Storey,
    Studs,
    Surface,
)
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.edits.survey import BuildWall, LayRectangle
from fjeld.drawing.handles import HOUSE, Fresh, Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.quantities import Length, Unit, not_measured, parse_length, whole_number


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

    @property
    def here(self) -> Room:
        return self.drawing.get(self.room, Room)


Reader = Callable[[str, Walk, Fresh], Edit]

_CLAUSE = re.compile(
    r"\b(at|on|sill|head|hinge|swing|first|deep|amps|ways|by|high|low|in|east|south|thick|height|storey|as|holds|kind)\s+",
    re.IGNORECASE,
)


def clauses(rest: str, *allowed: str) -> dict[str, str]:
    """``32 at 4'2 on 3`` → {"": "32", "at": "4'2", "on": "3"}; only ``allowed`` words, each once."""
    pieces = _CLAUSE.split(rest)
    found = {"": pieces[0].strip()}
    for name, value in zip(pieces[1::2], pieces[2::2], strict=True):
        if name.lower() in found:
            # Two phrases run together must not be read as one.
            raise Misread(f"“{name.lower()}” is there twice; one line is one thing: press Enter between")
        if name.lower() not in allowed:
            raise Misread(f"“{name.lower()} {value.strip()[:20]}” does not belong here")
        found[name.lower()] = value.strip()
    return found


def _wall(found: dict[str, str], walk: Walk) -> int:
    laid = len(walk.here.sides)
    if "on" not in found:
        if not laid:
            raise Misread("lay the wall first")
        return laid
    return _number(found["on"], laid, "on")


def _number(text: str, laid: int, word: str) -> int:
    found = whole_number(text)
    if found is None or not 1 <= found <= laid:
        raise Misread(f"“{word} {text[:40]}” names no wall; there are {laid}")
    return found


def _need(found: dict[str, str], name: str, walk: Walk, example: str) -> Length:
    if not found.get(name):
        raise Misread(f"a measure is missing; write it like {example}")
    return parse_length(found[name], walk.unit)


def _given(found: dict[str, str], names: dict[str, str], walk: Walk) -> dict[str, Length]:
    """The lengths given, by field: ``names`` maps words to fields."""
    return {field: parse_length(found[word], walk.unit) for word, field in names.items() if found.get(word)}


def opening(kind: str) -> Reader:
    """A door, cased opening, sliding door or window on a wall."""
    example = f"{kind} 32 at 4'2"

    def read_opening(rest: str, walk: Walk, mint: Fresh) -> Edit:
        found = clauses(rest, "at", "on", "sill", "head", "hinge", "swing")
        width, at = _need(found, "", walk, example), _need(found, "at", walk, example)
        extra: dict[str, Any] = _given(found, {"sill": "sill", "head": "head"}, walk)
        metric = walk.unit == "mm"
        if kind == "window" and "sill" not in extra:
            extra["sill"] = parse_length("900 mm" if metric else '36"')
        if metric and "head" not in extra:
            extra["head"] = parse_length("2100 mm" if kind == "window" else "1981 mm")
        for word, ways in (("hinge", ("start", "end")), ("swing", ("in", "out"))):
            if word in found:
                if found[word] not in ways:
                    raise Misread(f"a door has its {word} at {ways[0]} or {ways[1]}: {word} {ways[0]}")
                extra[word] = found[word]
        handle = mint.fresh("window" if kind == "window" else "door")
        made = Opening(kind, walk.room, _wall(found, walk), at, width, **extra)  # type: ignore[arg-type]
        return Place({handle: made}, f"{kind} {handle}")

    return read_opening


def through(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``through D1 on 4 at 3' thick 4 1/2``: an opening of another room, seen from this one."""
    found = clauses(rest, "at", "on", "thick")
    name = found[""].upper()
    opening = walk.drawing.items.get(Handle(name))
    if not isinstance(opening, Opening) or opening.room == walk.room:
        raise Misread(f"“{name or rest}” is no opening of another room; write it like through D1 on 4 at 3'")
    at = _need(found, "at", walk, "through D1 on 4 at 3'")
    handle = mint.fresh("join")
    extra = _given(found, {"thick": "thick"}, walk)
    return Place(
        {handle: Join(Handle(name), walk.room, _wall(found, walk), at, **extra)},
        f"{name} into {walk.here.name}",
    )


def room(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``room Galley as kitchen storey L1``: the next room."""
    found = clauses(rest, "as", "storey")
    name, use = found[""], found.get("as", "other").lower()
    if not name:
        raise Misread("name the room: room Galley as kitchen")
    if use not in get_args(RoomUse):
        raise Misread(f"“{use}” is no use of a room; there is {', '.join(get_args(RoomUse))}")
    storey: Handle | None = walk.here.storey
    if "storey" in found:
        storey = Handle(found["storey"].upper())
        if not isinstance(walk.drawing.items.get(storey), Storey):
            raise Misread(f"there is no storey {storey}")
    # The next room of a house is mostly built as the one before it.
    like = msgspec.structs.replace(
        walk.here, name=name[:80], use=use, sides=(), builds={}, diagonals=(), slope=None, storey=storey
    )
    return Place({mint.fresh("room"): like}, f"room “{name[:80]}”")


def storey(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``storey Loft at 9'2``: a floor of the house, by its level above the lowest."""
    found = clauses(rest, "at")
    if not found[""]:
        raise Misread("name the storey and its level: storey Loft at 9'2")
    return Place(
        {mint.fresh("storey"): Storey(found[""][:80], _need(found, "at", walk, "storey Loft at 9'2"))},
        f"storey “{found['']}”",
    )


def rectangle(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``rect 14' by 11'``: east–west by north–south."""
    found = clauses(rest, "by")
    return LayRectangle(
        walk.room, _need(found, "", walk, "rect 14' by 11'"), _need(found, "by", walk, "rect 14' by 11'")
    )


def body(kind: str) -> Reader:
    """A counter, a bath, a duct …: along a wall, or free with east and south."""
    example = f"{kind} 6' by 25 at 2' on 3 high 36"

    def read_body(rest: str, walk: Walk, mint: Fresh) -> Edit:
        found = clauses(rest, "by", "at", "on", "in", "low", "high", "east", "south")
        width, depth = _need(found, "", walk, example), _need(found, "by", walk, example)
        extra: dict[str, Any] = _given(found, {"high": "high", "low": "low", "in": "sunk"}, walk)
        if "low" in extra and "high" not in extra:
            # What hangs reaches the ceiling, or lies above it.
            room, low = walk.here, extra["low"]
            extra["high"] = room.height if low.mm < room.height.mm else Length(low.mm + 300.0)
        handle = mint.fresh("body")
        if "east" in found or "south" in found:
            at = {
                "x": _need(found, "east", walk, f"{kind} 6' by 3' east 4' south 3'"),
                "y": _need(found, "south", walk, f"{kind} 6' by 3' east 4' south 3'"),
            }
            made = Body(kind, walk.room, width, depth, **at, **extra)  # type: ignore[arg-type]
        else:
            along = _need(found, "at", walk, example)
            made = Body(
                kind=kind,  # type: ignore[arg-type]
                room=walk.room,
                width=width,
                depth=depth,
                wall=_wall(found, walk),
                at=along,
                **extra,
            )
        return Place({handle: made}, f"{kind} {handle}")

    return read_body


def panel(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``panel at 2' on 4 amps 100 ways 12``."""
    found = clauses(rest, "at", "on", "amps", "ways", "height")
    at = _need(found, "at", walk, "panel at 2'")
    amps, ways = found.get("amps", "100"), found.get("ways", "12")
    rating, count = whole_number(amps), whole_number(ways)
    if rating is None or count is None:
        raise Misread("a panel has amps and ways in whole numbers: panel at 2' amps 100 ways 12")
    handle = mint.fresh("panel")
    extra: dict[str, Any] = _given(found, {"height": "height"}, walk)
    made = Panel(walk.room, _wall(found, walk), at, amps=rating, ways=count, **extra)
    return Place({handle: made}, f"panel {handle}")


def way(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``way 3 30 Water heater``: what is on the panel already; ``way 3 free`` clears it, ``30x2`` takes two
    poles.
    """
    found = re.match(r"^([0-9]{1,4})\s+(?:([0-9]{1,4})(?:x([0-9]))?\s+(.+)|free)$", rest)
    panels = walk.drawing.of(Panel)
    if not found or not panels:
        raise Misread("name the way, its amps and what it feeds: way 3 30 Water heater (the panel first)")
    handle, panel = next(iter(panels.items()))
    number = int(found[1])
    if not 1 <= number <= panel.ways:
        raise Misread(f"the panel has {panel.ways} ways")
    kept = [w for w in panel.taken if w.number != number]
    if found[2]:
        kept.append(PanelWay(number, int(found[2]), found[4].strip()[:60], int(found[3] or 1)))
    taken = tuple(sorted(kept, key=lambda w: w.number))
    return Revise(handle, {"taken": taken}, f"Note way {number} of {handle}")


def old_box(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``old outlet at 3' on 2 height 12``, ``old light east 6' south 5'``: a box that is there already."""
    found = clauses(rest, "at", "on", "height", "east", "south")
    if not found[""]:
        raise Misread("say what the box holds: old outlet at 3' on 2 height 12")
    extra: dict[str, Any] = _given(found, {"height": "height"}, walk)
    handle = mint.fresh("old box")
    if "east" in found or "south" in found:
        example = "old light east 6' south 5'"
        x, y = _need(found, "east", walk, example), _need(found, "south", walk, example)
        return Place({handle: OldBox(walk.room, x=x, y=y, holds=found[""][:40])}, f"old box {handle}")
    made = OldBox(
        walk.room,
        _wall(found, walk),
        _need(found, "at", walk, "old outlet at 3' on 2"),
        holds=found[""][:40],
        **extra,
    )
    return Place({handle: made}, f"old box {handle}")


def diagonal(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``diagonal 1 3 15'7``: a check measure between two corners."""
    found = re.match(r"^([0-9]{1,4})\s+(?:to\s+)?([0-9]{1,4})\s+(.+)$", rest)
    if not found:
        raise Misread("name two corners and the measure: diagonal 1 3 15'7")
    check = Diagonal(int(found[1]), int(found[2]), parse_length(found[3], walk.unit))
    kept = [d for d in walk.here.diagonals if {d.a, d.b} != {check.a, check.b}]
    return Revise(walk.room, {"diagonals": (*kept, check)}, f"Measure from corner {check.a} to {check.b}")


def measure(field: str, words: str) -> Reader:
    """One measure of the room: its height, the finishes still to come."""

    def read_measure(rest: str, walk: Walk, mint: Fresh) -> Edit:
        standing: Length = getattr(walk.here, field)
        length = not_measured(standing, walk.unit) if rest == "?" else parse_length(rest, walk.unit)
        return Revise(walk.room, {field: length}, words)

    return read_measure


def slope(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``slope 3 low 5'``: the ceiling is lowest along wall 3."""
    found = clauses(rest, "low")
    if found[""].lower() == "none":
        return Revise(walk.room, {"slope": None}, "Note a flat ceiling")
    wall = _number(found[""], len(walk.here.sides), "slope")
    return Revise(
        walk.room, {"slope": Slope(wall, _need(found, "low", walk, "slope 3 low 5'"))}, "Note the slope"
    )


def joists(field: str) -> Reader:
    """``joists ns 16 first 8 deep 9 1/4 kind engineered``; ``under`` for those of the floor."""

    def read_joists(rest: str, walk: Walk, mint: Fresh) -> Edit:
        return _joists(field, rest, walk)

    return read_joists


def _joists(field: str, rest: str, walk: Walk) -> Edit:
    found = clauses(rest, "first", "deep", "kind", "thick")
    run, _, spacing = found[""].partition(" ")
    if run.lower() not in ("ew", "ns", "e-w", "n-s"):
        raise Misread("say which way joists run, and their spacing: joists ns 16 first 8")
    fields: dict[str, Any] = {"run": "E-W" if run.lower().startswith("e") else "N-S"}
    if spacing:
        fields["spacing"] = parse_length(spacing, walk.unit)
    fields |= _given(found, {"first": "first", "deep": "depth", "thick": "thick"}, walk)
    if "kind" in found:
        if found["kind"] not in ("sawn", "engineered", "truss"):
            raise Misread("joists are sawn, engineered or truss: kind engineered")
        fields["kind"] = found["kind"]
    noted = msgspec.structs.replace(getattr(walk.here, field), **fields)
    return Revise(walk.room, {field: noted}, f"Note the {field.replace('_', ' ')}")


def studs(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``studs 16 first 16 deep 3 1/2``: the usual walls of the room; ``on 2`` for one wall."""
    found = clauses(rest, "first", "deep", "thick", "on")
    fields = {"spacing": _need(found, "", walk, "studs 16 first 16 deep 3 1/2")}
    fields |= _given(found, {"first": "first", "deep": "depth", "thick": "thick"}, walk)
    if "on" in found:
        wall = _wall(found, walk)
        build = walk.here.build(wall)
        own = msgspec.structs.replace(walk.here.studs_of(wall), **fields)
        return BuildWall(walk.room, wall, msgspec.structs.replace(build, studs=own))
    return Revise(walk.room, {"studs": msgspec.structs.replace(walk.here.studs, **fields)}, "Note the studs")


_FLAGS = ("exterior", "insulated", "bearing", "closed")


def wall(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``wall 2 exterior insulated plaster 3/4``: how one wall is built."""
    number, _, words = rest.partition(" ")
    n = _number(number, len(walk.here.sides), "wall")
    fields: dict[str, Any] = {}
    board: list[str] = []
    for word in words.split():
        if word in _FLAGS:
            fields[word] = True
        elif word in ("interior", "open"):
            fields[{"interior": "exterior", "open": "closed"}[word]] = False
        elif word in get_args(Surface):
            fields["surface"] = word
        else:
            board.append(word)
    build: Build = msgspec.structs.replace(walk.here.build(n), **fields)
    if board:
        own: Studs = msgspec.structs.replace(
            walk.here.studs_of(n), board=parse_length(" ".join(board), walk.unit)
        )
        build = msgspec.structs.replace(build, studs=own)
    if not fields and not board:
        raise Misread(f"say how wall {n} is built: wall {n} exterior insulated plaster 3/4")
    return BuildWall(walk.room, n, build)


def access(field: str) -> Reader:
    """What lies above or below the room: closed, open, or another storey."""

    def read_access(rest: str, walk: Walk, mint: Fresh) -> Edit:
        if rest not in get_args(Access):
            raise Misread(f"{field} is {', '.join(get_args(Access))}: {field} open")
        return Revise(walk.room, {field: rest}, f"Note what is {field}")

    return read_access


def feed(rest: str, walk: Walk, mint: Fresh) -> Edit:
    """``from framing`` or ``from finish``: what the tape is laid against."""
    if rest not in ("framing", "finish"):
        raise Misread("the tape is laid from framing or from finish")
    return Revise(HOUSE, {"measure_from": rest}, f"Measure from {rest}")


WORDS: dict[str, Reader] = {
    **{kind: opening(kind) for kind in ("door", "cased", "sliding", "window")},
    "through": through,
    "room": room,
    "storey": storey,
    "rect": rectangle,
    "panel": panel,
    "old": old_box,
    "diagonal": diagonal,
    "height": measure("height", "Measure the ceiling height"),
    "floor": measure("floor", "Note the floor finish to come"),
    "ceiling": measure("ceiling", "Note the ceiling finish"),
    "slope": slope,
    "joists": joists("joists"),
    "under": joists("floor_joists"),
    "way": way,
    "studs": studs,
    "wall": wall,
    "above": access("above"),
    "below": access("below"),
    "from": feed,
    **{kind: body(kind) for kind in get_args(BodyKind) if " " not in kind},
    "tall": lambda rest, walk, mint: body("tall cabinet")(rest.removeprefix("cabinet").strip(), walk, mint),
}
