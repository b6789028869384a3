"""Voltages: complex nodal equations at line frequency, many states from one factorisation.

With all contacts open, Y₀v₀ = i is factored once (sparse LU). A closed contact is a port
with conductance g; for a set c of closed contacts with incidence A, the Woodbury
identity gives

    v = v₀ − X_c (G⁻¹ + A_cᵀX_c)⁻¹ A_cᵀv₀,   X = Y₀⁻¹A,

so a state costs one small dense solve. The same holds for a meter across two nodes.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Collection, Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from fjeld.derive.keys import State, standing
from fjeld.derive.memo import Remember, always
from fjeld.derive.network import CONTACT_OHMS, EARTH, LEAK_OHMS, Load, Network, Residual, VoltageSource, Wire
from fjeld.drawing.handles import Handle
from fjeld.judge.volts import DEAD_BELOW, Volts, through_a_load

if TYPE_CHECKING:
    from scipy.sparse import coo_matrix

Array = np.ndarray[Any, np.dtype[Any]]
Band = Literal["dark", "wrong", "lit", "danger"]
Found = Literal["dead", "induced", "live", "live through a load"]

HIGH_OHMS = 10e6
LOW_OHMS = 3e3
#: What a shell may reach, V.
SHELL_VOLTS = 30.0


class Solver:
    """The voltages of one network in any state of its contacts."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.index = {node: i for i, node in enumerate(network.nodes)}
        watched = {key for r in network.residuals for key in r.through}
        self._watched = {w.key: w for w in network.wires if w.key in watched}
        from scipy.sparse.linalg import splu

        self._lu = splu(self._admittance().tocsc())
        current = np.zeros(len(self.index), dtype=complex)
        for source in network.sources:
            for node, sign in ((source.a, 1), (source.b, -1)):
                if node != EARTH:
                    current[self.index[node]] += sign * source.volts / source.ohms
        self._open: Array = self._lu.solve(current)
        ports = np.zeros((len(self.index), len(network.contacts)), dtype=complex)
        for n, contact in enumerate(network.contacts):
            ports[:, n] = self._incidence(contact.a, contact.b)
        self._ports = ports
        self._x: Array = self._lu.solve(ports) if len(network.contacts) else ports
        self._z: Array = ports.T @ self._x
        self._port_volts: Array = ports.T @ self._open

    @classmethod
    def of(cls, network: Network, remember: Remember = always) -> Solver:
        """The solver of a network; with a memo, factored once for as long as the network stands."""
        found: Solver = remember.same("solver", cls, network)
        return found

    @property
    def nbytes(self) -> int:
        """About the bytes it takes: its arrays, and as much again for the factors."""
        return 2 * (self._ports.nbytes + self._x.nbytes + self._z.nbytes + self._open.nbytes)

    def _admittance(self) -> coo_matrix:
        from scipy.sparse import coo_matrix

        rows: list[int] = []
        columns: list[int] = []
        values: list[complex] = []

        def stamp(a: str, b: str, y: complex) -> None:
            for one, other in ((a, b), (b, a)):
                if one == EARTH:
                    continue
                rows.append(self.index[one])
                columns.append(self.index[one])
                values.append(y)
                if other != EARTH:
                    rows.append(self.index[one])
                    columns.append(self.index[other])
                    values.append(-y)

        net = self.network
        omega = 2 * math.pi * net.hertz
        resistive: list[Wire | Load | VoltageSource] = [*net.wires, *net.loads, *net.sources]
        for element in resistive:
            stamp(element.a, element.b, 1 / element.ohms)
        for capacitor in net.capacitors:
            stamp(capacitor.a, capacitor.b, 1j * omega * capacitor.farads)
        for node in self.index:
            stamp(node, EARTH, 1 / LEAK_OHMS)
        size = (len(self.index), len(self.index))
        return coo_matrix((np.array(values, dtype=complex), (rows, columns)), shape=size)

    def _incidence(self, a: str, b: str) -> Array:
        column = np.zeros(len(self.index), dtype=complex)
        for node, sign in ((a, 1), (b, -1)):
            if node != EARTH:
                column[self.index[node]] += sign
        return column

    def closed(self, state: State, off: Collection[Handle] = ()) -> list[int]:
        """The contacts closed in a state; positions not named stand at 0, breakers of circuits not ``off``
        are on.
        """
        return [
            n for n, c in enumerate(self.network.contacts) if standing(c.position, state, off) == c.closed_at
        ]

    def voltages(self, states: Sequence[State], off: Collection[Handle] = ()) -> Array:
        """Node voltages, V, shape (states, nodes), in the order of ``index``."""
        return self.solve(states, off)[0]

    def solve(
        self, states: Sequence[State], off: Collection[Handle] = ()
    ) -> tuple[Array, list[dict[str, float]]]:
        """Node voltages as :meth:`voltages`, and in each state the current through each closed contact, A."""
        volts = np.empty((len(states), len(self.index)), dtype=complex)
        currents: list[dict[str, float]] = []
        known: dict[tuple[int, ...], int] = {}
        for n, state in enumerate(states):
            closed = self.closed(state, off)
            twin = known.setdefault(tuple(closed), n)
            if twin != n:
                volts[n] = volts[twin]
                currents.append(currents[twin])
                continue
            flow = self._flow(closed)
            volts[n] = self._open - self._x[:, closed] @ flow if closed else self._open
            keys = [self.network.contacts[c].key for c in closed]
            currents.append(dict(zip(keys, np.abs(flow).tolist(), strict=True)))
        return volts, currents

    def _flow(self, closed: list[int]) -> Array:
        """The current through each closed contact, A."""
        if not closed:
            return np.zeros(0, dtype=complex)
        middle = self._z[np.ix_(closed, closed)] + CONTACT_OHMS * np.eye(len(closed))
        found: Array = np.linalg.solve(middle, self._port_volts[closed])
        return found

    def readings(
        self, nodes: Sequence[str], reference: str, states: Sequence[State], off: Collection[Handle] = ()
    ) -> list[list[tuple[float, float]]]:
        """What a two-lead meter reads from each node to ``reference`` in each state: (V₀ at 10 MΩ, V₃ at 3
        kΩ).
        """
        probes = np.column_stack([self._incidence(n, reference) for n in nodes])
        z_open: Array = self._lu.solve(probes)
        own = np.einsum("np,np->p", probes, z_open)
        ends_open = probes.T @ self._open
        across = self._ports.T @ z_open
        found: list[list[tuple[float, float]]] = []
        for state in states:
            closed = self.closed(state, off)
            volts, z = ends_open, own
            if closed:
                middle = self._z[np.ix_(closed, closed)] + CONTACT_OHMS * np.eye(len(closed))
                right = np.column_stack([across[closed], self._port_volts[closed]])
                solved = np.linalg.solve(middle, right)
                volts = volts - across[closed].T @ solved[:, -1]
                z = z - np.einsum("ip,ip->p", across[closed], solved[:, :-1])
            high = np.abs(volts * HIGH_OHMS / (HIGH_OHMS + z))
            low = np.abs(volts * LOW_OHMS / (LOW_OHMS + z))
            found.append([(float(v0), float(v3)) for v0, v3 in zip(high, low, strict=True)])
        return found

    def apart(self, volts: Array, pairs: Sequence[tuple[str, str]]) -> Array:
        """Volts between the nodes of each pair in each row of :meth:`voltages`, shape (rows, pairs)."""
        # Earth is no node of the equations: it stands in the column after them, at nothing.
        grounded = np.column_stack([volts, np.zeros(len(volts), dtype=complex)])
        one, other = ([self.index.get(pair[side], -1) for pair in pairs] for side in (0, 1))
        found: Array = np.abs(grounded[:, one] - grounded[:, other])
        return found

    def residual(self, volts: Array, watching: Residual) -> float:
        """What does not come back through a protective device in a row of :meth:`voltages`, A."""
        wires = [self._watched[key] for key in watching.through]
        return abs(sum(self._between(volts, w.a, w.b) / w.ohms for w in wires))

    def _between(self, volts: Array, a: str, b: str) -> complex:
        one, other = (complex(volts[self.index[node]]) if node != EARTH else 0j for node in (a, b))
        return one - other

    def across(self, volts: Array, a: str, b: str) -> float:
        """Volts between two nodes in one row of :meth:`voltages`."""
        return abs(self._between(volts, a, b))


def band(volts: float, nominal: float) -> Band:
    """What a lamp made for ``nominal`` volts does at ``volts``."""
    share = volts / nominal
    if share < 0.10:
        return "dark"
    if share < 0.90:
        return "wrong"
    return "lit" if share <= 1.10 else "danger"


def conductor_verdict(v0: float, v3: float) -> Found:
    """Dead, induced, or live, from the two readings of one conductor; anything but dead blocks work."""
    if v0 < DEAD_BELOW:
        return "dead"
    if v3 < DEAD_BELOW:
        return "induced"
    return "live through a load" if through_a_load(Volts(v0, v3)) else "live"


def trip_seconds(amps: float, rating: float, curve: Sequence[Sequence[float]]) -> float:
    """How long a breaker holds ``amps``, s; infinite below its least tripping current.

    ``curve`` gives multiples of its rating and seconds to trip, rising; log–log between.
    """
    multiple = amps / rating
    if multiple < curve[0][0]:
        return math.inf
    if multiple >= curve[-1][0]:
        return float(curve[-1][1])
    (m1, t1), (m2, t2) = next((a, b) for a, b in itertools.pairwise(curve) if multiple <= b[0])
    share = math.log(multiple / m1) / math.log(m2 / m1)
    return math.exp(math.log(t1) + share * math.log(t2 / t1))
