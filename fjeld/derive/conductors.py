"""Every conductor of every cable: its kind of cable, its colour, and where colour departs.

The neutral is always the neutral colour, or sleeved so where a cable has none. A net keeps
one colour along its way if it can. Under North American practice white may feed a switch,
re-identified, but never return from one; a traveller may become re-identified white where
a neutral is not in the cable. Under British practice black, grey and blue used as line are
sleeved brown. Departures are marked at both ends.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import permutations

import msgspec

from fjeld.derive.divide import Nets
from fjeld.derive.terminals import role_of
from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle
from fjeld.practice import Practice
from fjeld.practice.parts import CableKind

GROUND_COLOUR = "G"
SPARE = "spare"


class Conductor(msgspec.Struct, frozen=True):
    """One conductor from box ``a`` to box ``b``; ``marked`` when re-identified at both ends."""

    key: str
    cable: Handle
    bundle: str
    colour: str
    net: str
    a: Handle
    b: Handle
    gauge: str
    marked: bool = False

    @property
    def insulated(self) -> bool:
        return self.colour != GROUND_COLOUR

    def marked_as(self, neutral: str) -> str:
        """The colour of the tape or sleeve that tells what it carries, where its own does not."""
        if neutral != "BU":
            return "BK"
        return "BU" if role_of(self.net) == "N" else "BN"


class Run(msgspec.Struct, frozen=True):
    """One physical cable: its structural key, kind on sale, and conductors (ground last)."""

    key: str
    cable: Handle
    circuit: Handle
    kind: CableKind
    nets: tuple[str, ...]
    conductors: tuple[Conductor, ...]
    too_few: bool = False


def runs(
    circuit: Handle, gauges: Mapping[Handle, str], where: Tree, nets: Nets, practice: Practice
) -> tuple[Run, ...]:
    """The cables of a circuit with their conductors, from the panel outward; ``gauges`` are its cables'."""
    catalogue, neutral = practice.catalogue, practice.neutral
    worn: dict[tuple[Handle, str], str] = {}
    found: list[Run] = []
    for edge in where.edges:
        gauge = gauges[edge.cable]
        for n, bundle in enumerate(nets.bundles[edge.cable]):
            kind = catalogue.cable(gauge, max(2, len(bundle.nets)))
            too_few = kind is None
            kind = kind or max((c for c in catalogue.cables if c.gauge == gauge), key=lambda c: c.insulated)
            # The cables of one edge are C3, C3b, C3c: short, and the same on the tags at both ends.
            key = f"{edge.cable}{' bcdefghi'[n].strip()}"
            carried = bundle.nets[: kind.insulated]
            colours = _colours(carried, kind.colours, {n: worn.get((edge.up, n), "") for n in carried}, neutral)
            made = [
                Conductor(
                    f"{key}.{colour.lower()}", edge.cable, key, colour, colours.get(colour, SPARE), edge.up, edge.down,
                    gauge, _departs(colour, colours.get(colour, SPARE), practice),
                )
                for colour in kind.colours
            ]  # fmt: skip
            made.append(
                Conductor(
                    f"{key}.g", edge.cable, key, GROUND_COLOUR, "PE", edge.up, edge.down, kind.ground or gauge
                )
            )
            worn |= {(edge.down, c.net): c.colour for c in made}
            found.append(Run(key, edge.cable, circuit, kind, bundle.nets, tuple(made), too_few))
    return tuple(found)


def _departs(colour: str, net: str, practice: Practice) -> bool:
    """Whether the insulation's own colour does not say what the conductor is."""
    if net == SPARE:
        return False
    if role_of(net) == "N":
        return colour != practice.neutral
    return colour not in practice.plain_line


def _colours(
    nets: tuple[str, ...], colours: tuple[str, ...], before: dict[str, str], neutral: str
) -> dict[str, str]:
    """Colour → net for one cable, the assignment with the fewest departures.

    ``before`` is the colour each net wore on its way here. Exhaustive: a cable has at
    most four conductors.
    """
    seats = [*nets, *[SPARE] * (len(colours) - len(nets))]

    def cost(way: tuple[str, ...]) -> tuple[int, tuple[str, ...]]:
        return sum(
            _unease(colour, net, before.get(net, ""), neutral, colours)
            for colour, net in zip(colours, way, strict=True)
        ), way

    best = min(set(permutations(seats)), key=cost)
    return {colour: net for colour, net in zip(colours, best, strict=True) if net != SPARE}


#: Colours in the order wished for, by the neutral's colour and the role; "" for any other role.
_WISHED: dict[str, dict[str, tuple[str, ...]]] = {
    "WH": {"L": ("BK", "RD", "BU"), "SL": ("BK", "RD", "BU"), "": ("RD", "BU", "BK")},
    "BU": {"L": ("BN", "BK", "GY"), "SL": ("BN", "BK", "GY"), "": ("BK", "GY", "BN")},
}


def _unease(colour: str, net: str, before: str, neutral: str, colours: tuple[str, ...]) -> int:
    """How unwelcome a colour is for a net; a thousand and more is against the rules."""
    role = role_of(net).partition(":")[0]
    if role == "N":
        # A cable without the neutral's colour has one conductor sleeved so: the last.
        return 0 if colour == neutral else 30 if neutral not in colours and colour == colours[-1] else 5000
    if net == SPARE:
        return 0 if colour == neutral else 3
    if colour == neutral:
        return {"L": 40, "T": 50, "C": 60, "IC": 900}.get(role, 2000)
    keeps = 0 if before in ("", colour) else 12
    order_of = _WISHED[neutral].get(role, _WISHED[neutral][""])
    # Line comes first to black; a switched line takes it only where no line travels along.
    lean = order_of.index(colour) * (6 if role == "L" else 2) if colour in order_of else 9
    return keeps + lean
