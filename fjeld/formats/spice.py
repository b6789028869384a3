"""The network as a SPICE netlist that a stock circuit simulator runs to the same voltages.

RMS values with AC analysis at line frequency, plain numbers, node 0 for earth, node names
unique whatever their case, and a resistor from every node to 0.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from fjeld.derive.keys import DeviceKey, State, standing
from fjeld.derive.network import CONTACT_OHMS, EARTH, LEAK_OHMS, Network
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.network import likeliest_networks
from fjeld.practice import Practice

OPEN = 1e12


def node_names(network: Network, prefix: str = "") -> dict[str, str]:
    """A legal, unique name for every node."""
    names = {EARTH: "0"}
    for n, node in enumerate(network.nodes, 1):
        names[node] = f"{prefix}n{n}_{re.sub(r'[^A-Za-z0-9]+', '_', node).strip('_').lower()}"
    return names


def netlist(
    network: Network, state: State, off: Collection[Handle] = (), title: str = "Fjeld network"
) -> str:
    """The netlist of one state of the switches. ``off`` are the circuits whose breakers are off."""
    return of_groups([network], state, off, title)


def of_groups(
    networks: Sequence[Network], state: State, off: Collection[Handle] = (), title: str = "Fjeld network"
) -> str:
    """Several networks in one netlist, each behind a source of its own: as the proof solves them.

    Circuits that share no box are proven apart, so that what one draws does not sag the
    volts of another; the whole house behind one source is :func:`netlist` of its network.
    """
    plain = " ".join(title.split())
    lines = [f"* {plain}", "* RMS volts; every element keeps its meaning as a comment"]
    if len(networks) > 1:
        lines.append(
            f"* {len(networks)} groups of circuits that share no box, each behind a source of its own"
        )
    shown: list[str] = []
    for g, network in enumerate(networks, 1):
        prefix = f"g{g}" if len(networks) > 1 else ""
        body, loads = _elements(network, state, off, prefix)
        lines += body
        shown += loads
    hertz = networks[0].hertz
    lines.append(f".ac lin 1 {hertz:g} {hertz:g}")
    return "\n".join([*lines, *shown, ".end", ""])


def _elements(
    network: Network, state: State, off: Collection[Handle], prefix: str
) -> tuple[list[str], list[str]]:
    """The elements of one network, and the lines that print its loads' volts."""
    names = node_names(network, prefix)
    lines: list[str] = []

    for n, source in enumerate(network.sources, 1):
        lines.append(f"V{prefix}{n} {prefix}src{n} {names[source.b]} DC 0 AC {source.volts:.6g} 0")
        lines.append(f"Rsrc{prefix}{n} {prefix}src{n} {names[source.a]} {source.ohms:.6g}")
    for n, wire in enumerate(network.wires, 1):
        lines.append(f"Rw{prefix}{n} {names[wire.a]} {names[wire.b]} {wire.ohms:.6g} ; {wire.key}")
    for n, contact in enumerate(network.contacts, 1):
        if standing(contact.position, state, off) == contact.closed_at:
            lines.append(
                f"Rc{prefix}{n} {names[contact.a]} {names[contact.b]} {CONTACT_OHMS:.6g} ; closed"
                f" {contact.key}"
            )
        else:
            lines.append(f"* open {contact.key}")
    for n, load in enumerate(network.loads, 1):
        lines.append(f"Rload{prefix}{n} {names[load.a]} {names[load.b]} {load.ohms:.6g} ; {load.key}")
    for n, capacitor in enumerate(network.capacitors, 1):
        lines.append(f"C{prefix}{n} {names[capacitor.a]} {names[capacitor.b]} {capacitor.farads:.6g}")
    lines += [
        f"Rleak{prefix}{n} {name} 0 {LEAK_OHMS:.6g}" for n, name in enumerate(names.values()) if name != "0"
    ]
    return lines, [f".print ac vm({names[load.a]},{names[load.b]})" for load in network.loads]


def lamp_volts(output: str, *networks: Network) -> dict[str, float]:
    """The load voltages, V RMS, that a simulator printed when run in batch on a netlist of these networks."""
    loads = [load for network in networks for load in network.loads]
    blocks: list[float] = []
    heading = False
    for line in output.splitlines():
        words = line.split()
        if words[:1] == ["Index"]:
            heading = True
        elif heading and len(words) == 3 and words[0] == "0":
            blocks.append(float(words[2]))
            heading = False
    if len(blocks) != len(loads):
        raise ValueError("the simulator printed other figures than were asked for")
    return {load.key: value for load, value in zip(loads, blocks, strict=True)}


def of_box(box: FoundBox, practice: Practice, up: Collection[str] = ()) -> str:
    """An old box by the likeliest of what its cables may be, its switches named in ``up`` closed or up;
    raises :class:`NotAsked` where nothing is likely, or a switch is none of its own.
    """
    networks = likeliest_networks(box, practice)
    if not networks:
        raise NotAsked("nothing that is known of this box tells what its cables may be")
    known = {str(p.control): p for n in networks for p in n.positions if isinstance(p, DeviceKey)}
    if unknown := [name for name in up if name not in known]:
        raise NotAsked(f"there is no switch “{unknown[0]}”; there is {', '.join(sorted(known)) or 'none'}")
    return of_groups(
        networks, {known[name]: 1 for name in up}, title="Old box, the likeliest of what it may be"
    )


def of_plan(plan: Plan, state: State, off: Collection[Handle] = ()) -> str:
    """The network of a house as its proof solves it: circuits that share no box apart from each other;
    ``ValueError`` without one.
    """
    if plan.network is None:
        raise ValueError("there is no panel, so there is no network")
    groups = [found for circuits in plan.together() if (found := plan.network_of(circuits)) is not None]
    return of_groups(groups or [plan.network], state, off, plan.drawing.house.name)
