"""Faults that can be put into a network: each rewrites it, and says in words what it did."""

from __future__ import annotations

import msgspec

from fjeld.derive.keys import end_node
from fjeld.derive.network import CONTACT_OHMS, Network, Wire
from fjeld.drawing.handles import Handle

OPEN_OHMS = 1e9


class NoSuchPlace(ValueError):
    """The fault names a conductor or node that the network does not have."""


class OpenConductor(msgspec.Struct, frozen=True, tag="open"):
    """A conductor that is broken or was never joined."""

    conductor: str


class LooseJoint(msgspec.Struct, frozen=True, tag="loose"):
    """A landing or joint member with resistance, Ω."""

    wire: str
    ohms: float = 50.0


class Bridge(msgspec.Struct, frozen=True, tag="bridge"):
    """Two nodes joined that should not be: a short, a bootleg ground, mixed neutrals."""

    a: str
    b: str


class Crossed(msgspec.Struct, frozen=True, tag="crossed"):
    """Two conductor ends in one box landed in each other's place: hot and neutral, traveller and common."""

    one: str
    other: str
    box: str


Fault = OpenConductor | LooseJoint | Bridge | Crossed


def with_fault(network: Network, fault: Fault) -> Network:
    """The network with the fault in it; raises :class:`NoSuchPlace`."""
    if isinstance(fault, OpenConductor):
        return _resistance(network, fault.conductor, OPEN_OHMS)
    if isinstance(fault, LooseJoint):
        return _resistance(network, fault.wire, fault.ohms)
    if isinstance(fault, Bridge):
        missing = {fault.a, fault.b} - set(network.nodes)
        if missing:
            raise NoSuchPlace(f"no node {missing.pop()}")
        bridge = Wire(f"bridge {fault.a} – {fault.b}", fault.a, fault.b, CONTACT_OHMS)
        return msgspec.structs.replace(network, wires=(*network.wires, bridge))
    return _crossed(network, fault)


def _resistance(network: Network, key: str, ohms: float) -> Network:
    if not any(w.key == key for w in network.wires):
        raise NoSuchPlace(f"no conductor or landing {key}")
    wires = tuple(msgspec.structs.replace(w, ohms=ohms) if w.key == key else w for w in network.wires)
    if ohms >= OPEN_OHMS:
        wires = tuple(w for w in wires if w.key != key)
    return msgspec.structs.replace(network, wires=wires)


def _crossed(network: Network, fault: Crossed) -> Network:
    """Swap what the two ends are landed on."""
    one, other = (end_node(conductor, Handle(fault.box)) for conductor in (fault.one, fault.other))
    ends = {one: other, other: one}
    conductors = {fault.one, fault.other}
    landed = [w for w in network.wires if w.key not in conductors and (w.a in ends or w.b in ends)]
    if len({w.a if w.a in ends else w.b for w in landed}) != 2:
        raise NoSuchPlace(f"{fault.one} and {fault.other} are not both landed in {fault.box}")
    swapped = {w.key: msgspec.structs.replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) for w in landed}
    return msgspec.structs.replace(network, wires=tuple(swapped.get(w.key, w) for w in network.wires))
