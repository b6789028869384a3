"""The plan as an electrical network: nodes joined by conductors, contacts and loads.

Every conductor end, joint and terminal is a node. Elements carry only what physics
needs; what they mean is in their keys. Faults rewrite this network, the two engines of
:mod:`fjeld.prove` read it, and it is written out as a netlist for any circuit simulator.

Values: conductors by length and gauge at 20 °C; contacts and joints 1 mΩ; source 0.02 Ω
a leg; neutral bonded to ground at the service only; electrode 25 Ω; 100 pF a metre
between every pair in a cable, half at each end; 1 TΩ from every node to earth.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import chain, combinations

import msgspec

from fjeld.derive import keys
from fjeld.derive.boxes import Box, Joint
from fjeld.derive.conductors import Conductor, Run
from fjeld.derive.keys import BreakerOf, DeviceKey, Movable, Net, OwnContact, Position, position_order
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Protection
from fjeld.practice import Practice, rules
from fjeld.practice.devices import DeviceKind, device

EARTH = "0"
CONTACT_OHMS = 1e-3
ELECTRODE_OHMS = 25.0
LEAK_OHMS = 1e12
FARAD_PER_METRE = 100e-12
#: Solid copper from 75 °C, where the tables stand, to 20 °C, where tests are made.


class Wire(msgspec.Struct, frozen=True):
    """A conductor, joint or landing: a plain resistance, Ω."""

    key: str
    a: str
    b: str
    ohms: float


class Contact(msgspec.Struct, frozen=True):
    """An ideal switch contact: closed when ``position`` stands at ``closed_at``; a breaker is closed at 1."""

    key: str
    a: str
    b: str
    position: Position
    closed_at: int


class Load(msgspec.Struct, frozen=True):
    """A load at its own voltage: Ω = U²/P. ``part`` as in a control's load reference."""

    key: str
    a: str
    b: str
    ohms: float


class Residual(msgspec.Struct, frozen=True):
    """What opens when the currents ``through`` it, told by the keys of its wires, do not sum to nought.

    ``circuit`` is whose breaker it is, empty for a device in a box.

    Every one of them is counted from its ``a`` to its ``b``. ``trips`` A at which it is sure to open.
    """

    key: str
    through: tuple[str, ...]
    trips: float
    circuit: str = ""


class Capacitor(msgspec.Struct, frozen=True):
    """Capacitance between two nodes, F."""

    a: str
    b: str
    farads: float


class VoltageSource(msgspec.Struct, frozen=True):
    """A voltage source, V RMS, behind its impedance, Ω."""

    a: str
    b: str
    volts: float
    ohms: float


Element = Wire | Contact | Load | Capacitor | VoltageSource


class Network(msgspec.Struct, frozen=True):
    """Everything that the engines need. ``shells`` are metal parts a hand may touch.

    ``lines`` and ``neutrals`` are the nodes of its sources, ``second_lines`` those of the second leg.
    """

    volts: float
    hertz: float
    wires: tuple[Wire, ...]
    contacts: tuple[Contact, ...]
    loads: tuple[Load, ...]
    capacitors: tuple[Capacitor, ...]
    sources: tuple[VoltageSource, ...]
    shells: tuple[str, ...]
    neutrals: tuple[str, ...]
    lines: tuple[str, ...]
    residuals: tuple[Residual, ...] = ()
    second_lines: tuple[str, ...] = ()

    @property
    def nodes(self) -> list[str]:
        """All nodes but earth, in the order met."""
        found: dict[str, None] = {}
        elements: list[Element] = [*self.sources, *self.wires, *self.contacts, *self.loads, *self.capacitors]
        for element in elements:
            found |= {element.a: None, element.b: None}
        found |= dict.fromkeys(self.shells)
        found.pop(EARTH, None)
        return list(found)

    @property
    def positions(self) -> list[Movable]:
        """What can be moved: switches, and contacts of devices' own; breakers left out."""
        return sorted(
            {c.position for c in self.contacts if not isinstance(c.position, BreakerOf)}, key=position_order
        )


class NetworkPart(msgspec.Struct, frozen=True):
    """What one cable or one box brings into the network."""

    wires: tuple[Wire, ...] = ()
    contacts: tuple[Contact, ...] = ()
    loads: tuple[Load, ...] = ()
    capacitors: tuple[Capacitor, ...] = ()
    shells: tuple[str, ...] = ()
    residuals: tuple[Residual, ...] = ()


class Supply(msgspec.Struct, frozen=True):
    """Where circuits begin: a panel, or an old box. ``fed`` when a circuit of this job feeds it, not a source
    of its own.

    ``double`` are those of its circuits that have two poles, a line on each leg.
    """

    root: Handle
    circuits: tuple[Handle, ...]
    fed: bool = False
    double: frozenset[Handle] = frozenset()


def part_of_cable(
    source: Handle,
    run: Run,
    length: float,
    practice: Practice,
    protection: Protection = "",
    panels: Sequence[Handle] = (),
) -> NetworkPart:
    """The conductors of a cable of so many mm, the coupling between them, their landings at ``source`` and in
    ``panels`` fed.

    ``protection`` is that of its circuit: one that watches for leaks sees what goes out and comes home.
    """
    metres = length / 1000
    # What closes a ring may end at the source instead of beginning there.
    landings = [_source_landing(source, run.circuit, c) for c in run.conductors if source in (c.a, c.b)]
    lugs = [_lug(c) for c in run.conductors if c.b in panels]
    watched = [w.key for w, c in zip(landings, run.conductors, strict=False) if c.net.feeds]
    trips = practice[rules.RESIDUAL_TRIP]
    return NetworkPart(
        wires=(*_conductors(run, metres, practice), *landings, *lugs),
        capacitors=tuple(_coupling(run, metres)),
        residuals=(
            (Residual(str(BreakerOf(run.circuit)), tuple(watched), trips, run.circuit),)
            if watched and protection in ("ground-fault", "both", "residual")
            else ()
        ),
    )


def part_of_box(box: Box, loads: Mapping[str, float], practice: Practice) -> NetworkPart:
    """The joints and devices of a box; ``loads`` VA by load reference."""
    volts = practice.volts
    devices = [(d.key, device(d.kind)) for d in box.devices]
    sensed = {key: _sensed(key, kind) for key, kind in devices}
    metal = (keys.shell_node(box.handle),) if box.kind.metal else ()
    return NetworkPart(
        (
            *chain.from_iterable(_joint(box, joint) for joint in box.joints),
            *chain.from_iterable(_bridges(*of) for of in devices),
            *chain.from_iterable(sensed.values()),
        ),
        tuple(chain.from_iterable(_contacts(*of) for of in devices if not of[1].residual)),
        tuple(chain.from_iterable(_loads(*of, loads, volts) for of in devices)),
        shells=(*metal, *(keys.terminal_node(key, "ground") for key, kind in devices if kind.grounded)),
        residuals=tuple(
            Residual(str(key), tuple(w.key for w in sensed[key]), practice[rules.RESIDUAL_TRIP])
            for key, kind in devices
            if kind.residual
        ),
    )


def build(supplies: Sequence[Supply], parts: Sequence[NetworkPart], practice: Practice) -> Network:
    """The network of a job: its supplies, a breaker for each circuit, and the parts of its cables and boxes.

    Neutral and ground meet where a source is, and nowhere else: a panel that is fed keeps them apart.
    """
    sources = [s.root for s in supplies if not s.fed]
    bus, neutral, ground = ({s.root: keys.bar_node(s.root, bar) for s in supplies} for bar in _BARS)
    bonds = _bonds(sources, neutral, ground)
    second = {s.root: keys.bar_node(s.root, "bus 2") for s in supplies if s.double}
    on_two = [root for root in sources if root in second]
    ends = [*((bus[root], neutral[root]) for root in sources), *((neutral[r], second[r]) for r in on_two)]
    whole, loop = _together(parts), practice[rules.SUPPLY_LOOP]
    return msgspec.structs.replace(
        whole,
        volts=practice.volts,
        hertz=practice.hertz,
        wires=(*bonds, *whole.wires),
        contacts=(*_breakers(supplies, bus, second), *whole.contacts),
        sources=tuple(VoltageSource(*between, practice.volts, loop) for between in ends),
        neutrals=tuple(neutral[root] for root in sources),
        lines=tuple(bus[root] for root in sources),
        second_lines=tuple(second[root] for root in on_two),
    )


def _bonds(
    sources: Sequence[Handle], neutral: Mapping[Handle, str], ground: Mapping[Handle, str]
) -> list[Wire]:
    """At each source its electrode, and its neutral on the ground."""
    return [
        *(Wire(f"{root} electrode", ground[root], EARTH, ELECTRODE_OHMS) for root in sources),
        *(Wire(f"{root} main bond", neutral[root], ground[root], CONTACT_OHMS) for root in sources),
    ]


def _together(parts: Sequence[NetworkPart]) -> Network:
    """The parts of cables and boxes as one network that nothing feeds."""
    return Network(
        volts=0.0,
        hertz=0.0,
        wires=tuple(chain.from_iterable(p.wires for p in parts)),
        contacts=tuple(chain.from_iterable(p.contacts for p in parts)),
        loads=tuple(chain.from_iterable(p.loads for p in parts)),
        capacitors=tuple(chain.from_iterable(p.capacitors for p in parts)),
        sources=(),
        shells=tuple(chain.from_iterable(p.shells for p in parts)),
        neutrals=(),
        lines=(),
        residuals=tuple(chain.from_iterable(p.residuals for p in parts)),
    )


def _breakers(
    supplies: Sequence[Supply], bus: Mapping[Handle, str], second: Mapping[Handle, str]
) -> Iterator[Contact]:
    """The breaker of each circuit, from its bar to its way."""
    for s in supplies:
        for q in s.circuits:
            yield Contact(str(BreakerOf(q)), bus[s.root], keys.way_node(s.root, q), BreakerOf(q), 1)
    # Both poles are one breaker, which opens them together.
    for s in supplies:
        for q in sorted(s.double):
            way = keys.way_node(s.root, q, 2)
            yield Contact(f"{BreakerOf(q)} pole 2", second[s.root], way, BreakerOf(q), 1)


_BARS: tuple[keys.BarName, ...] = ("bus", "neutral", "ground")


def _conductors(run: Run, metres: float, practice: Practice) -> list[Wire]:
    return [
        Wire(
            c.key,
            keys.end_node(c.key, c.a),
            keys.end_node(c.key, c.b),
            max(practice.catalogue.gauge(c.gauge).cold * metres, 1e-4),
        )
        for c in run.conductors
    ]


def _coupling(run: Run, metres: float) -> list[Capacitor]:
    half = FARAD_PER_METRE * max(metres, 0.1) / 2
    return [
        Capacitor(keys.end_node(x.key, box), keys.end_node(y.key, box), half)
        for x, y in combinations(run.conductors, 2)
        for box in (x.a, x.b)
    ]


def _source_landing(source: Handle, circuit: Handle, conductor: Conductor) -> Wire:
    end = keys.end_node(conductor.key, source)
    net = conductor.net
    way = keys.way_node(source, circuit, net.leg) if net.role == "line" else _bar(source, net)
    return Wire(f"{end} landing", end, way or f"{end} spare", CONTACT_OHMS)


def _lug(conductor: Conductor) -> Wire:
    """The landing of a feeder's conductor in the panel that it feeds."""
    end = keys.end_node(conductor.key, conductor.b)
    return Wire(f"{end} landing", end, _bar(conductor.b, conductor.net) or f"{end} spare", CONTACT_OHMS)


def _bar(panel: Handle, net: Net) -> str:
    """The bar that a net lands on; empty for what lands on none."""
    bars: dict[str, keys.BarName] = {"line": "bus", "neutral": "neutral", "ground": "ground"}
    if net.role not in bars:
        return ""
    return keys.bar_node(panel, "bus 2" if net.leg == 2 else bars[net.role])


def _joint(box: Box, joint: Joint) -> list[Wire]:
    """All members of a joint meet at the joint's own node; a parked end meets nothing."""
    if joint.how == "parked":
        return []
    members = [keys.end_node(k, box.handle) for k in joint.ends]
    members += [
        keys.terminal_node(at.device, at.terminal) if at.device else keys.shell_node(box.handle)
        for at in joint.landings
    ]
    return [Wire(f"{joint.key} / {m}", m, str(joint.key), CONTACT_OHMS) for m in members]


def _contacts(key: DeviceKey, kind: DeviceKind) -> list[Contact]:
    return [
        Contact(
            f"{key} {c.a}–{c.b}",
            keys.terminal_node(key, c.a),
            keys.terminal_node(key, c.b),
            OwnContact(key, c.by) if c.by else key,
            state,
        )
        for c in kind.contacts
        for state in c.closed
    ]


def _sensed(key: DeviceKey, kind: DeviceKind) -> list[Wire]:
    """The contacts of a residual device as they are at rest, closed.

    As wires: were they ports like a switch's, all that hangs beyond would float in the one
    factorisation that all states come from, and the milliamperes that count be lost in it.
    """
    if not kind.residual:
        return []
    return [Wire(c.key, c.a, c.b, CONTACT_OHMS) for c in _contacts(key, kind) if c.closed_at == 0]


def _bridges(key: DeviceKey, kind: DeviceKind) -> list[Wire]:
    """The tabs that are left whole."""
    return [
        Wire(f"{key} tab {b}", keys.terminal_node(key, a), keys.terminal_node(key, b), CONTACT_OHMS)
        for a, b in kind.bridges
    ]


def _loads(key: DeviceKey, kind: DeviceKind, loads: Mapping[str, float], volts: float) -> list[Load]:
    found = []
    for load in kind.loads:
        reference = f"{key}.{load.part}" if load.part else str(key)
        va = loads.get(reference, 0.0)
        if va > 0:
            ends = keys.terminal_node(key, load.hot), keys.terminal_node(key, load.neutral)
            found.append(Load(reference, *ends, volts * volts / va))
    return found
