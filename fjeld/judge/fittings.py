"""A fitting in its place: a fan and the controls that its cable allows, a light in a shaft and the heat that
it may make.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice, rules
from fjeld.practice.colours import NAMES
from fjeld.practice.kinds import SQUARE_METRES_PER_SQUARE_FOOT
from fjeld.quantities import ROUNDING, Length, Line, Working, at_least, at_most, format_length

#: No ceiling falls by more than so much in 12.
STEEPEST = 24.0


class FanAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A fan with a light: the cable that comes to it from its switch, and what is wished for on the wall."""

    cable: Literal["two-wire", "three-wire", "loop"]
    wish: Literal["one switch", "two switches", "speed and dimmer", "remote"]


def _three_cores(practice: Practice) -> tuple[str, str, str]:
    """The colours of a cable of three, the one that goes home last."""
    first, second, third = next(c.colours for c in practice.catalogue.cables if c.insulated == 3)
    return NAMES[first], NAMES[second], NAMES[third]


def fan(asked: FanAsked, practice: Practice) -> Answer:
    """Whether that can be had by that cable, and what else can."""
    black, red, white = _three_cores(practice)
    said: list[Said] = []
    if asked.wish == "one switch":
        said.append(Said("passes", "One switch for both, and the chains on the fan"))
    elif asked.wish == "remote":
        said.append(
            Said(
                "passes",
                "A receiver in the canopy, not in the box, on a line that is always on or switched on",
            )
        )
    elif asked.cable == "three-wire":
        said.append(
            Said(
                "passes",
                f"{black} to the fan's own lead, {red} to the light's, {white} home: two controls, the fan's"
                " above",
            )
        )
        if asked.wish == "speed and dimmer":
            said.append(
                Said(
                    "needs",
                    "A control made for fans on the fan, the dimmer on the light alone",
                    "NEC 2023 404.14(E)",
                )
            )
    else:
        said.append(
            Said(
                "fails",
                "Not with plain controls: one switched line comes to it, and a speed control or a dimmer"
                " would feed both",
            )
        )
        said += [
            Said("advice", "A receiver in the canopy with its own remote"),
            Said(
                "advice",
                "A pair of a wall control and a receiver that speak over the two wires, where its maker"
                " says so",
            ),
            Said("advice", f"A new cable of three: {black}, {red}, {white}"),
        ]
    said.append(
        Said(
            "danger" if asked.wish == "speed and dimmer" and asked.cable != "three-wire" else "advice",
            "A dimmer on a motor hums and burns: a fan wants a control made for fans",
        )
    )
    return Answer((), tuple(said))


class DownrodAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A fan under a ceiling: how far its blades are below that without a rod, how wide they sweep, its
    ``rod``, how far its middle is from the nearest ``wall``, how wide the ``room`` is where it is narrowest
    and, under a slope, how much the ceiling falls in 12.
    """

    ceiling: Length
    body: Length
    blades: Length
    rod: Length | None = None
    wall: Length | None = None
    room: Length | None = None
    falls: float = 0.0


def downrod(asked: DownrodAsked, practice: Practice) -> Answer:
    """The longest rod that leaves its blades high enough, the shortest that clears a slope, and its distance
    from walls.
    """
    unread = any(v.unknown or v.mm <= 0 for v in (asked.ceiling, asked.blades)) or asked.body.unknown
    if unread or not 0 <= asked.falls <= STEEPEST:
        raise NotAsked(
            f"the ceiling's height, the body and the blades are wanted, and a slope up to {STEEPEST:g} in 12"
        )
    off = asked.blades.mm / 2 + practice[rules.FAN_CLEAR]
    most = asked.ceiling.mm - practice[rules.FAN_BLADES] - asked.body.mm
    # A ceiling that falls comes down to the height of the blades no nearer than a wall may stand.
    least = max(0.0, off * asked.falls / 12 - asked.body.mm)
    figures = (Figure("rod at most", most), Figure("rod at least", least), Figure("from walls", off))
    return Answer(figures, (*_rod(asked, least, most, practice), *_in_room(asked, off, practice)))


def _rod(asked: DownrodAsked, least: float, most: float, practice: Practice) -> Iterator[Said]:
    """Whether some rod will do, and the one that is there."""
    unit, basis = practice.unit, practice.rule(rules.FAN_BLADES).shown_basis
    if not at_least(most, max(least, 0.0)):
        low = format_length(practice[rules.FAN_BLADES], unit)
        yield Said("fails", f"Under this ceiling its blades would turn lower than {low}", basis)
    elif asked.rod is not None and not asked.rod.unknown:
        fits = at_most(asked.rod.mm, most) and at_least(asked.rod.mm, least)
        words = (
            f"A rod of {format_length(asked.rod.mm, unit)}, where {format_length(least, unit)} to"
            f" {format_length(most, unit)} will do"
        )
        yield Said("passes" if fits else "fails", words, basis)


def _in_room(asked: DownrodAsked, off: float, practice: Practice) -> Iterator[Said]:
    """Whether it stands far enough from a wall, and the room is wide enough for its blades."""
    unit, basis = practice.unit, practice.rule(rules.FAN_CLEAR).shown_basis
    if asked.wall is not None and not asked.wall.unknown:
        words = (
            f"Its middle {format_length(asked.wall.mm, unit)} from the wall, where {format_length(off, unit)}"
            " is wanted"
        )
        yield Said("passes" if at_least(asked.wall.mm, off) else "fails", words, basis)
    if asked.room is not None and not asked.room.unknown:
        widest = asked.room.mm - 2 * practice[rules.FAN_CLEAR]
        fits = at_most(asked.blades.mm, widest)
        words = (
            f"Blades of {format_length(asked.blades.mm, unit)}, where the room leaves"
            f" {format_length(max(widest, 0.0), unit)}"
        )
        yield Said(
            "passes" if fits else "fails", words if fits else f"{words}: a smaller fan, or none", basis
        )


class ShaftAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A light in a shaft, a niche or a cupboard: the areas of its walls, in square metres or square feet, and
    its watts.

    ``bare`` is board between two rooms, ``single`` one board open behind, ``insulated`` one with insulation
    behind it. ``limit`` and ``room`` in °C.
    """

    bare: float = 0.0
    single: float = 0.0
    insulated: float = 0.0
    watts: float | None = None
    limit: float = 40.0
    room: float = 25.0


def shaft(asked: ShaftAsked, practice: Practice) -> Answer:
    """How many watts leave it before it is as warm as the fitting may stand: an estimate."""
    known = practice[rules.HEAT_THROUGH]
    each = {"bare": asked.bare, "single": asked.single, "insulated": asked.insulated}
    if min(each.values()) < 0 or not any(each.values()):
        raise NotAsked("say how large its walls are")
    if asked.limit <= asked.room:
        raise NotAsked("the fitting must stand more than the room's own warmth")
    unit = 1.0 if practice.unit == "mm" else SQUARE_METRES_PER_SQUARE_FOOT
    warmer = asked.limit - asked.room
    lines = tuple(Line(area * unit * warmer, known[name], name) for name, area in each.items() if area)
    may = Working("Heat that leaves it", "W", lines)
    figures = [Figure("watts at most", may.total, "count")]
    said = []
    if asked.watts is not None:
        over = not at_most(asked.watts, may.total, ROUNDING)
        said.append(
            Said(
                "advice",
                f"{asked.watts:g} W is {'more than' if over else 'within'} the {may.total:.1f} W that leave"
                f" it at {asked.limit:g} °C: an estimate",
            )
        )
    said.append(Said("ask", "What its maker says of enclosed fittings decides"))
    return Answer(tuple(figures), tuple(said), (may,))
