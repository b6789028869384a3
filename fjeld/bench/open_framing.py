"""Questions of the bench that are of open framing as well: rows of lights, a volt drop, a pendant's cord,
outlets along a wall.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.derive import cords
from fjeld.derive.circuits import Stretch, drop
from fjeld.drawing.building import Body
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting
from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.rooms import least_outlets
from fjeld.practice import Practice, rules
from fjeld.propose.rows import RowsRefused, stations
from fjeld.quantities import Length, Line, Working, at_least, at_most, format_length


class RowsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A width with so many lights across it."""

    width: Length
    count: int
    school: Literal["half-spacing", "offset"] = "half-spacing"
    offset: Length | None = None


def rows(asked: RowsAsked, practice: Practice) -> Answer:
    """Where each stands from the start, and how far apart."""
    try:
        found = stations(asked.width.mm, asked.count, asked.school, asked.offset.mm if asked.offset else 0.0)
    except RowsRefused as refused:
        raise NotAsked(str(refused)) from None
    figures = [Figure(f"light {n}", at) for n, at in enumerate(found, 1)]
    if len(found) > 1:
        figures.insert(1, Figure("apart", found[1] - found[0]))
    return Answer(tuple(figures), (Said("advice", "Then each row is moved clear of the joists"),))


class DropStretchAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One stretch from the panel: its length one way, its gauge, the current in it."""

    length: Length
    gauge: str
    amps: float


class DropAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Consecutive stretches from the panel, and whether they feed ``lights`` or something else."""

    stretches: tuple[DropStretchAsked, ...]
    feeds: Literal["lights", "outlets"] = "lights"


def volts(asked: DropAsked, practice: Practice) -> Answer:
    """The volt drop at the far end, against the rule."""
    gauges = {g.id for g in practice.catalogue.gauges}
    if strange := [s.gauge for s in asked.stretches if s.gauge not in gauges]:
        raise NotAsked(f"there is no gauge “{strange[0]}”; there is {', '.join(sorted(gauges))}")
    found = drop(
        [
            Stretch(s.length.mm, s.gauge, s.amps, rests_on=_open(s, n))
            for n, s in enumerate(asked.stretches, 1)
        ],
        practice,
    )
    other = asked.feeds != "lights" and rules.VOLT_DROP_OTHER in practice
    percent = practice[rules.VOLT_DROP_OTHER if other else rules.VOLT_DROP]
    limit = percent * practice.volts / 100
    words = (
        f"{100 * found.total / practice.volts:.1f} % of {practice.volts:g} V, where {percent:g} % is advised"
    )
    tone: Literal["ask", "passes", "advice"] = "passes" if at_most(found.total, limit, 1e-9) else "advice"
    if tone == "passes" and found.rests_on and found.at_most > limit:
        tone, words = "ask", f"{words}; not known until {found.rests_on[0]} is measured"
    return Answer((Figure("volts dropped", found.total, "count"),), (Said(tone, words),), (found,))


def _open(stretch: DropStretchAsked, n: int) -> tuple[str, ...]:
    return (f"stretch {n}",) if stretch.length.unknown else ()


class CordAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A pendant over a table: the ceiling, the table's top, what stays clear, and how tall its shade is."""

    ceiling: Length
    top: Length
    clear: Length | None = None
    shade: Length | None = None


def cord(asked: CordAsked, practice: Practice) -> Answer:
    """How long its cord is cut."""
    table = Body("table", Handle("R1"), width=Length(0.0), depth=Length(0.0), high=asked.top)
    found = cords.cord(
        asked.ceiling.mm, table, Fitting(clearance=asked.clear, shade=asked.shade), practice, ()
    )
    if found.total <= cords.SPARE:
        raise NotAsked("the ceiling is too low for that")
    return Answer((Figure("cord", found.total),), (), (found,))


class OutletsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stretch of wall between doors and fixed things."""

    wall: Length


def outlets(asked: OutletsAsked, practice: Practice) -> Answer:
    """The fewest outlets that reach all of a wall space, and where."""
    if rules.OUTLET_REACH not in practice:
        raise NotAsked(f"{practice.title} practice asks for no outlets by the length of a wall")
    reach, least = practice[rules.OUTLET_REACH], practice[rules.WALL_SPACE]
    wall, unit = asked.wall.mm, practice.unit
    if not at_least(wall, least):
        return Answer(
            (Figure("outlets", 0.0, "count"),),
            (Said("passes", f"Shorter than {format_length(least, unit)}: none is asked for"),),
        )
    count = max(1, least_outlets(wall, reach))
    figures = [Figure("outlets", float(count), "count")]
    figures += [Figure(f"outlet {n}", wall * (n - 0.5) / count) for n in range(1, count + 1)]
    line = Line(1.0 / (2 * reach), wall, "wall over twice the reach")
    return Answer(
        tuple(figures),
        (
            Said(
                "advice",
                "Anywhere within reach of all of it will do; corners do not break a wall space, doors do",
            ),
        ),
        (Working("Outlets", "", (line,), 1.0),),
    )
