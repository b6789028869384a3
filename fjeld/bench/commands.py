"""Questions that are asked as JSON alone, or in another form than on their page: of open framing, and of
cuts.
"""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from fjeld.derive.circuits import Stretch, drop
from fjeld.derive.house import shape
from fjeld.derive.routes import supports_needed
from fjeld.derive.wall_spaces import breaks, spaces
from fjeld.drawing.building import Opening, Room, Side
from fjeld.drawing.handles import Handle
from fjeld.judge.answer import NotAsked
from fjeld.judge.fill import Contents
from fjeld.judge.fill import fill as filled
from fjeld.judge.rooms import least_outlets
from fjeld.practice import Practice, rules
from fjeld.propose.outlets import propose as propose_outlets
from fjeld.propose.rows import stations
from fjeld.quantities import Length, Working, at_least, format_length


class Summed(msgspec.Struct, frozen=True):
    """A sum that is told as it is written out, and ``more`` that goes with it, by name."""

    sum: Working
    more: dict[str, Any]


def fill(contents: Contents, practice: Practice) -> Summed:
    """The volume, and the least box of the catalogue that holds it, by its shape; where boxes are told by
    cables, none.
    """
    if rules.BOX_FILL not in practice:
        raise NotAsked("boxes are told by depth and cables here, not by volume: ask fits")
    needed = filled(contents, practice)
    least: dict[str, str] = {}
    for box in sorted(practice.catalogue.boxes, key=lambda b: (b.volume, b.cents)):
        if at_least(box.volume, needed.total, 1e-9):
            shape_of = f"{box.shape}, {box.gangs} gang" if box.gangs else box.shape
            least.setdefault(shape_of, practice.catalogue.box_name(box))
    return Summed(needed, {"least box": least})


class SpacingAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"sides": "walls"}):
    """A room's walls and openings."""

    sides: tuple[Side, ...]
    openings: tuple[Opening, ...] = ()


def spacing(asked: SpacingAsked, practice: Practice) -> dict[str, Any]:
    """The wall spaces of a room, and the fewest outlets that reach all of each."""
    if rules.WALL_SPACE not in practice:
        raise NotAsked("no rule of this practice says how far apart outlets stand along a wall")
    room = Room("room", asked.sides)
    reach, least = practice[rules.OUTLET_REACH], practice[rules.WALL_SPACE]
    where = shape(Handle("R1"), room, asked.openings, practice[rules.ROOM_CLOSES])
    height, body = practice[rules.OUTLET_HEIGHT], practice.catalogue.body("device")
    found = propose_outlets(
        where,
        asked.openings,
        blocks=(),
        standing=[],
        room=room,
        bottom=height,
        body=body,
        reach=reach,
        narrowest=least,
    )
    lengths = [s.length for s in spaces(where, breaks(where, asked.openings), least)]
    return {
        "wall_spaces_mm": lengths,
        "outlets": [{"wall": w, "at_mm": round(a, 2)} for w, a in found.added],
        "least": [float(least_outlets(length, reach)) for length in lengths],
        "short": found.short,
    }


class GridAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rectangle and the lights across and down it."""

    width: Length
    depth: Length
    across: int
    down: int
    school: Literal["half-spacing", "offset"] = "half-spacing"
    offset: Length | None = None


def grid(asked: GridAsked, practice: Practice) -> dict[str, Any]:
    """Where rows of lights stand, each way."""
    offset, unit = asked.offset.mm if asked.offset else 0.0, practice.unit
    rows = {
        "x": stations(asked.width.mm, asked.across, asked.school, offset),
        "y": stations(asked.depth.mm, asked.down, asked.school, offset),
    }
    return {f"{name}_mm": at for name, at in rows.items()} | {
        name: [format_length(v, unit) for v in at] for name, at in rows.items()
    }


class SupportsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stretch of cable between boxes or holes."""

    length: Length
    ends: Literal["box-box", "box-hole", "hole-hole"] = "box-hole"
    first: Length | None = None
    interval: Length | None = None
    cables: int = 1
    fished: bool = False


def supports(asked: SupportsAsked, practice: Practice) -> dict[str, Any]:
    """How many staples a stretch takes, and of how many rows."""
    interval = asked.interval.mm if asked.interval else practice[rules.SUPPORT_INTERVAL]
    first = asked.first.mm if asked.first else practice[rules.FIRST_SUPPORT]
    count = 0 if asked.fished else supports_needed(asked.length.mm, first, first, interval, asked.ends)
    rows = -(-asked.cables // practice[rules.CABLES_PER_STAPLE])
    return {"staples": count * rows, "along": count, "rows": rows, "interval_mm": interval, "first_mm": first}


class StretchAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One stretch: its length one way, its gauge, and the current in it."""

    length: Length
    amps: float
    gauge: str = "14"


class DropsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Consecutive stretches from the panel."""

    stretches: tuple[StretchAsked, ...]


def drops(asked: DropsAsked, practice: Practice) -> Summed:
    """The volt drop along a circuit, and its share."""
    gauges = [g.id for g in practice.catalogue.gauges]
    if strange := [s.gauge for s in asked.stretches if s.gauge not in gauges]:
        raise NotAsked(f"there is no gauge “{strange[0]}”; there is {', '.join(gauges)}")
    found = drop([Stretch(s.length.mm, s.gauge, s.amps) for s in asked.stretches], practice)
    return Summed(found, {"percent": round(100 * found.total / practice.volts, 4)})
