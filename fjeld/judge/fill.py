"""Box fill: the volume that a box's contents need, line by line.

Counts conductors from outside, clamps, support fittings, device yokes and grounds by
their allowances; tails that begin and end in the box, connectors, and a canopy's thin
fixture wires take none.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.practice import Practice, rules
from fjeld.quantities import Line, Working


class ConductorCount(msgspec.Struct, forbid_unknown_fields=True, frozen=True):
    """So many conductors of one gauge; ``looped`` ones pass unbroken with twice the free length."""

    gauge: str
    count: int
    handles: tuple[str, ...] = ()
    looped: bool = False


class Yoke(msgspec.Struct, forbid_unknown_fields=True, frozen=True):
    """A device's yoke: the largest gauge connected to it, and the gangs it fills."""

    gauge: str
    gangs: int = 1
    handle: str = ""


class Contents(msgspec.Struct, forbid_unknown_fields=True, frozen=True):
    """What is in a box, for the sum. ``grounds`` are the gauges of those entering."""

    conductors: tuple[ConductorCount, ...] = ()
    grounds: tuple[str, ...] = ()
    yokes: tuple[Yoke, ...] = ()
    internal_clamps: bool = False
    support_fittings: int = 0
    terminal_blocks: int = 0
    cables: int = 0
    ground_school: Literal["quarter-beyond-four", "all-as-one"] | None = None


class NoVolume(ValueError):
    """A gauge for which the practice gives no volume."""


def fill(contents: Contents, practice: Practice) -> Working:
    """The volume needed, in³, written out; raises :class:`NoVolume` for an unknown gauge.

    A practice without volumes counts the cables instead.
    """
    if rules.BOX_FILL not in practice:
        return Working("Cables in the box", "cables", (Line(float(contents.cables), 1.0, "cables"),))
    volumes: dict[str, float] = practice[rules.BOX_FILL]

    def volume(gauge: str) -> float:
        if gauge not in volumes:
            raise NoVolume(f"no volume for gauge {gauge}; there is {', '.join(volumes)}")
        return float(volumes[gauge])

    gauges = [c.gauge for c in contents.conductors if c.count] + list(contents.grounds)
    largest = max(gauges, key=volume, default="14")
    lines = [
        Line(
            c.count * (2 if c.looped else 1),
            volume(c.gauge),
            f"gauge {c.gauge} conductors" + (" looped" if c.looped else ""),
            c.handles,
        )
        for c in contents.conductors
        if c.count
    ]
    if contents.grounds:
        lines += _grounds(contents, practice, volume(max(contents.grounds, key=volume)))
    if contents.internal_clamps:
        lines.append(Line(1, volume(largest), "internal clamps, all together"))
    if contents.support_fittings:
        lines.append(Line(contents.support_fittings, volume(largest), "kinds of support fitting"))
    lines += [
        Line(
            2 * y.gangs,
            volume(y.gauge),
            "device yoke" + (f" over {y.gangs} gangs" if y.gangs > 1 else ""),
            (y.handle,) if y.handle else (),
        )
        for y in contents.yokes
    ]
    if contents.terminal_blocks:
        lines.append(Line(contents.terminal_blocks, volume(largest), "terminal block"))
    return Working("Box fill", "in³", tuple(lines))


def _grounds(contents: Contents, practice: Practice, each: float) -> list[Line]:
    by_rule: str = practice[rules.GROUND_FILL]
    school = contents.ground_school or by_rule
    count = len(contents.grounds)
    lines = [
        Line(
            1,
            each,
            "grounds, all as one" if school == "all-as-one" else f"grounds, first {min(count, 4)} as one",
        )
    ]
    if school != "all-as-one" and count > 4:
        lines.append(Line((count - 4) * 0.25, each, f"{count - 4} more grounds, a quarter each"))
    return lines


def with_reserve(contents: Contents, gauge: str, conductors: int = 2) -> Contents:
    """The same contents and one more cable of ``gauge``: its conductors and its ground."""
    return msgspec.structs.replace(
        contents,
        conductors=(*contents.conductors, ConductorCount(gauge, conductors)),
        grounds=(*contents.grounds, gauge),
        cables=contents.cables + 1,
    )
