"""A fitting in its place: a fan and the controls that its cable allows, a light in a shaft and the heat that it may make."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.finished.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice
from fjeld.practice.finished import habits
from fjeld.quantities import Line, Working

#: Square metres in a square foot.
SQUARE_FOOT = 0.09290304


class FanAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A fan with a light: the cable that comes to it from its switch, and what is wished for on the wall."""

    cable: Literal["two-wire", "three-wire", "loop"]
    wish: Literal["one switch", "two switches", "speed and dimmer", "remote"]


def fan(asked: FanAsked, practice: Practice) -> Answer:
    """Whether that can be had by that cable, and what else can."""
    black, red, white = ("brown", "black", "grey") if practice.metric else ("black", "red", "white")
    said: list[Said] = []
    if asked.wish == "one switch":
        said.append(Said("passes", "One switch for both, and the chains on the fan"))
    elif asked.wish == "remote":
        said.append(
            Said(
                "passes", "A receiver in the canopy, not in the box, on a line that is always on or switched on"
            )
        )
    elif asked.cable == "three-wire":
        said.append(
            Said(
                "passes",
                f"{black} to the fan's own lead, {red} to the light's, {white} home: two controls, the fan's above",
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
                "Not with plain controls: one switched line comes to it, and a speed control or a dimmer would feed both",
            )
        )
        said += [
            Said("advice", "A receiver in the canopy with its own remote"),
            Said(
                "advice",
                "A pair of a wall control and a receiver that speak over the two wires, where its maker says so",
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


class ShaftAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A light in a shaft, a niche or a cupboard: the areas of its walls, in square metres or square feet, and its watts.

    ``bare`` is board between two rooms, ``single`` one board open behind, ``insulated`` one with insulation behind it.
    ``limit`` and ``room`` in °C.
    """

    bare: float = 0.0
    single: float = 0.0
    insulated: float = 0.0
    watts: float | None = None
    limit: float = 40.0
    room: float = 25.0


def shaft(asked: ShaftAsked, practice: Practice) -> Answer:
    """How many watts leave it before it is as warm as the fitting may stand: an estimate."""
    known = habits(practice.id).heat_through
    each = {"bare": asked.bare, "single": asked.single, "insulated": asked.insulated}
    if min(each.values()) < 0 or not any(each.values()):
        raise NotAsked("say how large its walls are")
    if asked.limit <= asked.room:
        raise NotAsked("the fitting must stand more than the room's own warmth")
    unit = 1.0 if practice.metric else SQUARE_FOOT
    warmer = asked.limit - asked.room
    lines = tuple(Line(area * unit * warmer, known[name], name) for name, area in each.items() if area)
    may = Working("Heat that leaves it", "W", lines)
    figures = [Figure("watts at most", may.total, "count")]
    said = []
    if asked.watts is not None:
        over = asked.watts > may.total + 1e-9
        said.append(
            Said(
                "advice",
                f"{asked.watts:g} W is {'more than' if over else 'within'} the {may.total:.1f} W that leave it at {asked.limit:g} °C: an estimate",
            )
        )
    said.append(Said("ask", "What its maker says of enclosed fittings decides"))
    return Answer(tuple(figures), tuple(said), (may,))
