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

from fjeld.derive import keys
from fjeld.derive.divide import Bundle, Nets
from fjeld.derive.keys import GROUND, LINE, NEUTRAL, SPARE, Net
from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle
from fjeld.practice import Practice
from fjeld.practice.parts import CableKind

GROUND_COLOUR = "G"


class Conductor(msgspec.Struct, frozen=True):
    """One conductor from box ``a`` to box ``b``; ``marked`` when re-identified at both ends."""

    key: str
    cable: Handle
    bundle: str
    colour: str
    net: Net
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
        return "BU" if self.net.role == "neutral" else "BN"


class Run(msgspec.Struct, frozen=True):
    """One physical cable: its structural key, kind on sale, and conductors (ground last)."""

    key: str
    cable: Handle
    circuit: Handle
    kind: CableKind
    nets: tuple[Net, ...]
    conductors: tuple[Conductor, ...]
    too_few: bool = False


def runs(
    circuit: Handle, gauges: Mapping[Handle, str], where: Tree, nets: Nets, practice: Practice
) -> tuple[Run, ...]:
    """The cables of a circuit with their conductors, from the panel outward; ``gauges`` are its cables'."""
    catalogue, neutral = practice.catalogue, practice.neutral
    worn: dict[tuple[Handle, Net], str] = {}
    found: list[Run] = []
    edges = [(edge, nets.bundles[edge.cable]) for edge in where.edges]
    if where.ring:
        # What closes a ring carries what its other cables do, the other way round.
        edges.append((where.ring.closing, (Bundle("", (LINE, NEUTRAL)),)))
    for edge, bundles in edges:
        gauge = gauges[edge.cable]
        for n, bundle in enumerate(bundles):
            kind = catalogue.cable(gauge, max(2, len(bundle.nets)))
            too_few = kind is None
            kind = kind or max((c for c in catalogue.cables if c.gauge == gauge), key=lambda c: c.insulated)
            key = keys.run_key(edge.cable, n)
            carried = bundle.nets[: kind.insulated]
            colours = _colours(
                carried, kind.colours, {n: worn.get((edge.up, n), "") for n in carried}, neutral
            )
            made = [
                Conductor(
                    key=keys.conductor_key(key, colour),
                    cable=edge.cable,
                    bundle=key,
                    colour=colour,
                    net=colours.get(colour, SPARE),
                    a=edge.up,
                    b=edge.down,
                    gauge=gauge,
                    marked=_departs(colour, colours.get(colour, SPARE), practice),
                )
                for colour in kind.colours
            ]
            made.append(
                Conductor(
                    key=keys.conductor_key(key, GROUND_COLOUR),
                    cable=edge.cable,
                    bundle=key,
                    colour=GROUND_COLOUR,
                    net=GROUND,
                    a=edge.up,
                    b=edge.down,
                    gauge=kind.ground or gauge,
                )
            )
            worn |= {(edge.down, c.net): c.colour for c in made}
            found.append(
                Run(
                    key=key,
                    cable=edge.cable,
                    circuit=circuit,
                    kind=kind,
                    nets=bundle.nets,
                    conductors=tuple(made),
                    too_few=too_few,
                )
            )
    return tuple(found)


def _departs(colour: str, net: Net, practice: Practice) -> bool:
    """Whether the insulation's own colour does not say what the conductor is."""
    if net == SPARE:
        return False
    if net.role == "neutral":
        return colour != practice.neutral
    return colour not in practice.plain_line


def _colours(
    nets: tuple[Net, ...], colours: tuple[str, ...], before: dict[Net, str], neutral: str
) -> dict[str, Net]:
    """Colour → net for one cable, the assignment with the fewest departures.

    ``before`` is the colour each net wore on its way here. Exhaustive: a cable has at
    most four conductors.
    """
    seats = [*nets, *[SPARE] * (len(colours) - len(nets))]

    def cost(way: tuple[Net, ...]) -> tuple[int, list[str]]:
        return sum(
            _unease(colour, net, before.get(net, ""), neutral, colours)
            for colour, net in zip(colours, way, strict=True)
        ), [str(net) for net in way]

    best = min(set(permutations(seats)), key=cost)
    return {colour: net for colour, net in zip(colours, best, strict=True) if net != SPARE}


#: Colours in the order wished for, by the neutral's colour and the role; "" for any other role.
_WISHED: dict[str, dict[str, tuple[str, ...]]] = {
    "WH": {"line": ("BK", "RD", "BU"), "switched": ("BK", "RD", "BU"), "": ("RD", "BU", "BK")},
    "BU": {"line": ("BN", "BK", "GY"), "switched": ("BN", "BK", "GY"), "": ("BK", "GY", "BN")},
}


#: The unease of a conductor that is sleeved as the neutral of a cable without one.
SLEEVED_NEUTRAL = 30
#: The unease of the neutral's colour in another role, to be marked at both ends.
MARKED_AGAIN = {"line": 40, "traveller": 50, "strap": 60, "link": 900}


def _unease(colour: str, net: Net, before: str, neutral: str, colours: tuple[str, ...]) -> int:
    """How unwelcome a colour is for a net; a thousand and more is against the rules."""
    if net.role == "neutral":
        # A cable without the neutral's colour has one conductor sleeved so: the last.
        sleeved = neutral not in colours and colour == colours[-1]
        return 0 if colour == neutral else SLEEVED_NEUTRAL if sleeved else 5000
    if net == SPARE:
        return 0 if colour == neutral else 3
    if colour == neutral:
        return MARKED_AGAIN.get(net.role, 2000)
    keeps = 0 if before in ("", colour) else 12
    wished = _WISHED[neutral]
    # The second leg wears the colour of a traveller: the first is black beside it.
    order_of = wished[""] if net.leg == 2 else wished.get(net.role, wished[""])
    # Line comes first to black; a switched line takes it only where no line travels along.
    lean = order_of.index(colour) * (6 if net.role == "line" else 2) if colour in order_of else 9
    return keeps + lean
