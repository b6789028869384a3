"""By a tub, a shower or a basin: what may stand there, by the rules that a house is held against."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice, rules
from fjeld.practice.rules import RuleKey
from fjeld.quantities import Length, at_least, at_most, format_length


class WaterAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What goes by a tub, a shower or a basin: how far sideways from its edge, and how high: above its rim in
    North America, above the floor in Britain.
    """

    what: Literal["outlet", "light", "hanging light", "fan", "switch"] = "outlet"
    by: Literal["tub", "shower", "shower without tray", "basin"] = "tub"
    away: Length
    up: Length | None = None


def water(asked: WaterAsked, practice: Practice) -> Answer:
    """Whether it may stand there, by the same rules that a house is held against."""
    if asked.away.unknown:
        raise NotAsked("say how far sideways it is")
    up = None if asked.up is None or asked.up.unknown else asked.up.mm
    said = _zoned(asked, up, practice) if rules.BATH_ZONES in practice else _beside(asked, up, practice)
    return Answer((Figure("sideways", asked.away.mm),), (said,))


def bath_zone(
    off: float, height: float | None, practice: Practice, rim: float | None = None, tray: bool = True
) -> int:
    """The zone of a bath or shower that a place is in: 0 inside it, 1 above it, 2 around it, 3 outside them
    all.

    ``off`` is how far sideways of its edge, none or less within it; ``height`` and its ``rim`` above the
    floor, mm, None where nobody has said. Without a ``tray`` the first zone itself reaches out, from the
    outlet.
    """
    high, around, _ = practice[rules.BATH_ZONES]
    if height is not None and not at_most(height, high):
        return 3
    if not tray:
        return 3 if at_least(off, practice[rules.SHOWER_WITHOUT_TRAY]) else 1
    if at_most(off, 0.0):
        within = rim is not None and height is not None and not at_least(height, rim)
        return 0 if within else 1
    return 3 if at_least(off, around) else 2


def near_tub(off: float, above: float | None, rule: RuleKey[tuple[float, float]], practice: Practice) -> bool:
    """Whether a place is beside or over a tub as a rule has it: ``off`` sideways of its edge, ``above`` its
    rim where told, mm.
    """
    around, high = practice[rule]
    return not at_least(off, around) and (above is None or not at_least(above, high))


#: What is said where a practice has no rule for it.
NOT_AMONG = Said("ask", "What is asked by a tub or a shower is not among the rules that were looked at")


def _beside(asked: WaterAsked, up: float | None, practice: Practice) -> Said:
    if asked.by == "basin":
        if asked.what != "outlet":
            return Said("passes", "No distance is asked from a basin")
        basis = practice.rule(rules.OUTLET_REACH).shown_basis
        return Said("needs", "Ground-fault protection, and no face that looks up over the bowl", basis)
    if asked.what == "switch":
        if rules.SWITCH_TUB not in practice:
            return NOT_AMONG
        basis = practice.rule(rules.SWITCH_TUB).shown_basis
        return Said(
            "fails" if at_most(asked.away.mm, 0.0) else "passes", "No switch within a tub or a shower", basis
        )
    if asked.what == "light":
        if rules.TUB_RATING not in practice:
            return NOT_AMONG
        basis = practice.rule(rules.TUB_RATING).shown_basis
        over = at_most(asked.away.mm, 0.0) and (up is None or not at_least(up, practice[rules.TUB_RATING]))
        return (
            Said("needs", "Over it a light is for damp places, or for wet ones where it is sprayed", basis)
            if over
            else Said("passes", "A light that is fixed close may stand there", basis)
        )
    rule = rules.TUB_OUTLET if asked.what == "outlet" else rules.TUB_FITTING
    if rule not in practice:
        return NOT_AMONG
    around, high = practice[rule]
    near = near_tub(asked.away.mm, up, rule, practice)
    thing = "outlet" if asked.what == "outlet" else "paddle fan, and nothing that hangs,"
    words = (
        f"No {thing} within {format_length(around, 'ft-in')} sideways of it, up to"
        f" {format_length(high, 'ft-in')} above its rim"
    )
    return Said("fails" if near else "passes", words, practice.rule(rule).shown_basis)


def _zoned(asked: WaterAsked, up: float | None, practice: Practice) -> Said:
    if asked.by == "basin":
        apart = practice[rules.OUTLET_SINK]
        near = asked.what == "outlet" and not at_least(asked.away.mm, apart)
        return Said(
            "advice" if near else "passes", f"A socket stays {apart:g} mm from a basin or a sink: a habit"
        )
    sockets = practice[rules.BATH_ZONES][2]
    basis = practice.rule(rules.BATH_ZONES).shown_basis
    # Without a tray the first zone itself reaches out.
    bare = asked.by == "shower without tray"
    first = practice[rules.SHOWER_WITHOUT_TRAY] if bare else 0.0
    if asked.what == "outlet":
        far = at_least(asked.away.mm - first, sockets)
        return Said("passes" if far else "fails", f"A socket stays {sockets:g} mm from zone 1", basis)
    zone = bath_zone(asked.away.mm, up, practice, tray=not bare)
    if zone == 3:
        return Said(
            "passes", "Outside the zones; a residual-current device is asked for the whole of the room", basis
        )
    if asked.what == "switch":
        return Said("fails", f"Zone {zone}: no switch but one of very low voltage, or its cord", basis)
    sealed = practice[rules.BATH_SEALED][zone]
    return Said("needs", f"Zone {zone}: IPX{sealed} or better, and fit for that zone by its maker", basis)
