"""The proof of a house against a stock circuit simulator: one process that goes through every state, its
contacts altered.
"""

from __future__ import annotations

import re
import subprocess
from collections.abc import Sequence
from pathlib import Path

from fjeld.derive.keys import State, standing
from fjeld.derive.network import CONTACT_OHMS, Network
from fjeld.formats.spice import OPEN, netlist, node_names


def every_state(network: Network, states: Sequence[State]) -> str:
    """A deck that works out each state after the other, altering only the contacts that moved."""
    names = node_names(network)
    first = netlist(network, states[0]).splitlines()
    frequency = next(line.split()[3] for line in first if line.startswith(".ac"))
    shown = [m[1] for line in first if (m := re.match(r"\.print ac (\S+)", line))]
    kept = [line for line in first if not line.startswith(("Rc", "* open", ".ac", ".print", ".end"))]
    deck, commands = list(kept), list[str]()
    values: dict[int, float] = {}
    for n, contact in enumerate(network.contacts, 1):
        values[n] = _ohms(network, n, states[0])
        deck.append(f"Rc{n} {names[contact.a]} {names[contact.b]} {values[n]:.6g}")
    for state in states:
        for n in values:
            if (ohms := _ohms(network, n, state)) != values[n]:
                commands.append(f"alter rc{n} = {ohms:.6g}")
                values[n] = ohms
        commands += [f"ac lin 1 {frequency} {frequency}", *(f"print {name}" for name in shown), "destroy all"]
    return "\n".join([*deck, ".control", "set noaskquit", *commands, "quit 0", ".endc", ".end", ""])


def _ohms(network: Network, n: int, state: State) -> float:
    contact = network.contacts[n - 1]
    return CONTACT_OHMS if standing(contact.position, state) == contact.closed_at else OPEN


def run(file: Path) -> list[float]:
    """The volts that a deck prints, state by state; raises ``CalledProcessError`` where it does not run."""
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, check=True, text=True)
    return [float(m[1]) for m in re.finditer(r"^vm\([^)]*\) = (\S+)", done.stdout, re.MULTILINE)]
