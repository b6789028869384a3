"""An old box in one of its hypotheses as an electrical network: what the engines of a house's proof read, and
a simulator runs.

What lies beyond a cable is as near as its role says: the source of what it brings, a switch where one is, a
lamp on what it takes on with a neutral. Every end is a node by its name, and so is each conductor's far end.
The cables of one circuit and another hang on one source: what is told apart by breakers alone is not told
apart here.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from fjeld.derive.keys import DeviceKey
from fjeld.derive.network import (
    CONTACT_OHMS,
    EARTH,
    FARAD_PER_METRE,
    Capacitor,
    Contact,
    Load,
    Network,
    VoltageSource,
    Wire,
)
from fjeld.drawing.ends import End
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldCable
from fjeld.oldbox.beyond import Beyond, FarEdge, far_edges
from fjeld.oldbox.found import BoxNets, FoundBox, nets
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.oldbox.weighed import weigh
from fjeld.practice import Practice, rules
from fjeld.practice.devices import contacts_of, device, worked

#: A cable that nobody has followed is taken to be so long, m: it matters to what is induced, and to nothing
#: that is joined.
METRES = 10.0
#: The lamp on what is taken on, and a light in the box, VA.
LAMP = 60.0
#: The handle of a box that nobody named.
BOX = Handle("E1")
#: The nodes that circuits come from.
LINE, SECOND, NEUTRAL = "L", "L2", "N"


def network_of(box: FoundBox, hypothesis: Hypothesis, practice: Practice, handle: Handle = BOX) -> Network:
    """The network of a box in a hypothesis. Switches are positions by their names, those beyond a cable by
    ``far`` and its number, as :class:`fjeld.oldbox.shows.Shows` has them. O(ends² in a cable), for what
    couples.
    """
    where, made = nets(box), _Made(handle, practice)
    for cable, beyond in zip(box.cables, hypothesis.cables, strict=True):
        made.cable(cable, beyond)
    made.box(box, where)
    legs = any(beyond.legs for beyond in hypothesis.cables)
    loop = practice[rules.SUPPLY_LOOP]
    second = (VoltageSource(NEUTRAL, SECOND, practice.volts, loop),) if legs else ()
    return Network(
        volts=practice.volts,
        hertz=practice.hertz,
        wires=(Wire("main bond", NEUTRAL, EARTH, CONTACT_OHMS), *made.wires),
        contacts=tuple(made.contacts),
        loads=tuple(made.loads),
        capacitors=tuple(made.capacitors),
        sources=(VoltageSource(LINE, NEUTRAL, practice.volts, loop), *second),
        shells=(),
        neutrals=(NEUTRAL,),
        lines=(LINE,),
        second_lines=(SECOND,) if legs else (),
    )


def likeliest_networks(box: FoundBox, practice: Practice) -> list[Network]:
    """The network of each group of a box's cables in the likeliest hypothesis that its readings leave; none
    for a group without one.
    """
    found = []
    for weighed in weigh(box, practice):
        if (best := weighed.likeliest) is not None:
            found.append(network_of(weighed.box, best, practice))
    return found


def far_end(of: End) -> str:
    """The node of a conductor's other end."""
    return f"{of} beyond"


class _Made:
    """The elements of a network, brought by one cable after another and by the box."""

    def __init__(self, handle: Handle, practice: Practice) -> None:
        self.handle, self.practice = handle, practice
        self.wires: list[Wire] = []
        self.contacts: list[Contact] = []
        self.loads: list[Load] = []
        self.capacitors: list[Capacitor] = []
        self.ohms = practice.catalogue.gauges[0].cold * METRES

    def _contact(self, name: str, a: str, b: str, closed_at: int) -> None:
        at = DeviceKey(self.handle, name)
        self.contacts.append(Contact(f"{at} {a}–{b}", a, b, at, closed_at))

    def _load(self, key: str, a: str, b: str) -> None:
        self.loads.append(Load(key, a, b, self.practice.volts**2 / LAMP))

    def cable(self, cable: OldCable, beyond: Beyond) -> None:
        """Its conductors, what couples them, and what is at its far end."""
        self.wires += [Wire(str(e), e, far_end(e), self.ohms) for e in cable.ends]
        half = FARAD_PER_METRE * METRES / 2
        for a, b in combinations(cable.ends, 2):
            self.capacitors += [Capacitor(a, b, half), Capacitor(far_end(a), far_end(b), half)]
        self.wires += [Wire(f"{e} ground", far_end(e), NEUTRAL, CONTACT_OHMS) for e in cable.grounds]
        for edge in far_edges(beyond):
            self._joined(cable, edge)
        taken = [k for what in "ls" for k in beyond.takes(what)]
        home = beyond.takes("n")
        for k in taken if home else ():
            self._load(
                f"lamp beyond {cable.insulated[k]}", *(far_end(cable.insulated[n]) for n in (k, home[0]))
            )

    def _joined(self, cable: OldCable, edge: FarEdge) -> None:
        a, b = (far_end(cable.insulated[e]) if isinstance(e, int) else e for e in (edge.a, edge.b))
        if edge.control:
            self._contact(f"{edge.control} {cable.id}", a, b, edge.closed)
        else:
            self.wires.append(Wire(f"{a} / {b}", a, b, CONTACT_OHMS))

    def box(self, box: FoundBox, where: BoxNets) -> None:
        """What is joined in the box, and its devices."""
        self.wires += [Wire(f"joint {net} / {e}", e, _node(net), CONTACT_OHMS) for e, net in where.of.items()]
        for held in box.devices:
            for a, b, closed_at in contacts_of(held.kind):
                if closed_at is not None and worked(held.kind):
                    self._contact(held.id, held.at(a), held.at(b), closed_at)
                else:
                    self.wires.append(Wire(f"{held.id} {a}–{b}", held.at(a), held.at(b), CONTACT_OHMS))
            for hot, neutral in _loads(held.kind):
                self._load(f"{held.id} {hot}", held.at(hot), held.at(neutral))


def _node(net: int) -> str:
    return f"joint {net}"


def _loads(kind: str) -> Iterator[tuple[str, str]]:
    """The screws of each load that a kind brings."""
    found = device(kind)
    at = {s.at: s.id for s in found.screws}
    return ((at[load.hot], at[load.neutral]) for load in found.loads if {load.hot, load.neutral} <= {*at})
