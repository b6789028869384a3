"""By a tub, a shower or a basin: what may stand there, by the rules that a house is held against."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice, rules
from fjeld.quantities import Length, at_least, format_length


class WaterAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What goes by a tub, a shower or a basin: how far sideways from its edge, and how high: above its rim in North
    America, above the floor in Britain."""

    what: Literal["outlet", "light", "hanging light", "fan", "switch"] = "outlet"
    by: Literal["tub", "shower", "shower without tray", "basin"] = "tub"
    away: Length
    up: Length | None = None


def water(asked: WaterAsked, practice: Practice) -> Answer:
    """Whether it may stand there, by the same rules that a house is held against."""
    if asked.away.unknown:
        raise NotAsked("say how far sideways it is")
    up = None if asked.up is None or asked.up.unknown else asked.up.mm
    said = _water_gb(asked, up, practice) if practice.metric else _water_na(asked, up, practice)
    return Answer((Figure("sideways", asked.away.mm),), (said,))


def _water_na(asked: WaterAsked, up: float | None, practice: Practice) -> Said:
    if asked.by == "basin":
        if asked.what != "outlet":
            return Said("passes", "No distance is asked from a basin")
        basis = practice.rule(rules.OUTLET_REACH).shown_basis
        return Said("needs", "Ground-fault protection, and no face that looks up over the bowl", basis)
    if asked.what == "switch":
        basis = practice.rule(rules.SWITCH_TUB).shown_basis
        return Said("fails" if asked.away.mm <= 0 else "passes", "No switch within a tub or a shower", basis)
    if asked.what == "light":
        basis = practice.rule(rules.TUB_RATING).shown_basis
        over = asked.away.mm <= 0 and (up is None or not at_least(up, practice[rules.TUB_RATING]))
        return Said("needs", "Over it a light is for damp places, or for wet ones where it is sprayed", basis) if over else Said("passes", "A light that is fixed close may stand there", basis)  # fmt: skip
    rule = rules.TUB_OUTLET if asked.what == "outlet" else rules.TUB_FITTING
    around, high = practice[rule]
    near = not at_least(asked.away.mm, around) and (up is None or not at_least(up, high))
    thing = "outlet" if asked.what == "outlet" else "paddle fan, and nothing that hangs,"
    words = f"No {thing} within {format_length(around, 'ft-in')} sideways of it, up to {format_length(high, 'ft-in')} above its rim"
    return Said("fails" if near else "passes", words, practice.rule(rule).shown_basis)


def _water_gb(asked: WaterAsked, up: float | None, practice: Practice) -> Said:
    if asked.by == "basin":
        apart = practice[rules.OUTLET_SINK]
        near = asked.what == "outlet" and not at_least(asked.away.mm, apart)
        return Said(
            "advice" if near else "passes", f"A socket stays {apart:g} mm from a basin or a sink: a habit"
        )
    high, around, sockets = practice[rules.BATH_ZONES]
    basis = practice.rule(rules.BATH_ZONES).shown_basis
    # Without a tray the first zone itself reaches out.
    bare = asked.by == "shower without tray"
    first = practice[rules.SHOWER_WITHOUT_TRAY] if bare else 0.0
    if asked.what == "outlet":
        far = at_least(asked.away.mm - first, sockets)
        return Said("passes" if far else "fails", f"A socket stays {sockets:g} mm from zone 1", basis)
    zone = 1 if asked.away.mm <= first else 2 if not bare and not at_least(asked.away.mm, around) else 3
    if zone == 3 or (up is not None and up > high):
        return Said(
            "passes", "Outside the zones; a residual-current device is asked for the whole of the room", basis
        )
    if asked.what == "switch":
        return Said("fails", f"Zone {zone}: no switch but one of very low voltage, or its cord", basis)
    sealed = practice[rules.BATH_SEALED][zone]
    return Said("needs", f"Zone {zone}: IPX{sealed} or better, and fit for that zone by its maker", basis)
