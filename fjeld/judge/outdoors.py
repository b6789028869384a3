"""A light or an outlet outside: what it must be, and how its box and its hole keep water out."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, NotAsked, Said
from fjeld.judge.rooms import use_of
from fjeld.practice import Practice, rules
from fjeld.practice.finished.sources import sources
from fjeld.quantities import Length, at_least, at_most


class OutdoorsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What goes outside: a roof's depth over it and its height above it, its own height above the ground, and
    what feeds it.
    """

    what: Literal["light", "outlet"] = "light"
    roof: Length | None = None
    above: Length | None = None
    height: Length | None = None
    circuit: str = ""
    inside: str = ""


def outdoors(asked: OutdoorsAsked, practice: Practice) -> Answer:
    """What it must be out there, and how its box and its hole keep water out."""
    said = [_wet(asked, practice)]
    if rules.OUTDOOR_SEALED in practice:
        said += _british(asked, practice)
    else:
        said.append(
            Said(
                "needs",
                "A box that is listed for wet places, or one flush in the wall behind a gasketed fitting on a"
                " flat block",
            )
        )
        said += _outlet(asked, practice) if asked.what == "outlet" else []
        said += _circuit(asked)
        if asked.inside and use_of(asked.inside) in practice[rules.ARC_FAULT]:
            basis = practice.rule(rules.ARC_FAULT).shown_basis
            said.append(
                Said(
                    "ask",
                    "The point outside wants no arc-fault protection; what is extended from that room may",
                    basis,
                )
            )
    said += [
        Said("needs", "Sealed at its top and its sides, open at its foot so that it drains"),
        Said("needs", "The hole slopes down outward, and is sealed around the cable"),
    ]
    return Answer((), tuple(said))


def _wet(asked: OutdoorsAsked, practice: Practice) -> Said:
    """Whether it must stand rain, or damp alone under a roof that is as deep as it is high above."""
    rated = "of IP44 or better" if rules.OUTDOOR_SEALED in practice else "rated for wet places"
    if asked.roof is None or asked.roof.unknown or asked.roof.mm <= 0:
        return Said("needs", f"It is {rated}")
    if asked.above is None or asked.above.unknown:
        return Said(
            "ask", f"It is {rated}, unless the roof over it is as deep as it is high above: how high is it?"
        )
    if not at_least(asked.roof.mm, asked.above.mm):
        return Said("needs", f"It is {rated}: the roof stands out less than it is high above")
    return Said("ask", "Under so deep a roof one for damp places may do: ask whoever inspects it")


def _outlet(asked: OutdoorsAsked, practice: Practice) -> list[Said]:
    found = [
        Said(
            "needs",
            "Ground-fault protected, tamper-resistant and weather-resistant",
            practice.rule(rules.GROUND_FAULT).shown_basis,
        ),
        Said("needs", "Under a cover that closes over a plug", "NEC 2023 406.9(B)"),
    ]
    if asked.height is None or asked.height.unknown or rules.OUTDOOR_OUTLET_HEIGHT not in practice:
        return found
    if not at_most(asked.height.mm, practice[rules.OUTDOOR_OUTLET_HEIGHT]):
        basis = practice.rule(rules.OUTDOOR_OUTLET_HEIGHT).shown_basis
        found.append(
            Said(
                "advice",
                "That high above the ground it does not count as the outlet that is asked for outside",
                basis,
            )
        )
    return found


def _circuit(asked: OutdoorsAsked) -> list[Said]:
    """Whether the circuit feeds what is outside; raises :class:`NotAsked` where it is none that is known."""
    if not asked.circuit:
        return []
    known = sources().na.circuits
    kind = known.get(asked.circuit)
    if kind is None:
        raise NotAsked(f"circuit: “{asked.circuit[:40]}” is none of: {', '.join(known)}")
    if asked.what in kind.feeds and (not kind.rooms or "outdoors" in kind.rooms):
        return []
    return [Said("fails", f"Not from it: {kind.why}", kind.basis)]


def _british(asked: OutdoorsAsked, practice: Practice) -> list[Said]:
    residual = practice.rule(rules.RESIDUAL) if rules.RESIDUAL in practice else None
    found = [
        *(
            [
                Said(
                    "needs",
                    f"A {practice[rules.RESIDUAL] * 1000:g} mA residual-current device ahead of it",
                    residual.shown_basis,
                )
            ]
            if residual
            else []
        ),
        Said("needs", "The cable comes in from below through a gland, with a loop that drips"),
        Said("advice", "A switch inside that cuts it off"),
    ]
    if asked.circuit in ("ring", "radial 20") and asked.what == "light":
        found.append(Said("needs", "From a ring or a socket circuit by a fused unit"))
    return found
