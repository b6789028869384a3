"""Voltages: complex nodal equations at line frequency, many states from one factorisation.

With all contacts open, Y₀v₀ = i is factored once (sparse LU). A closed contact is a port
with conductance g; for a set c of closed contacts with incidence A, the Woodbury
identity gives

    v = v₀ − X_c (G⁻¹ + A_cᵀX_c)⁻¹ A_cᵀv₀,   X = Y₀⁻¹A,

so a state costs one small dense solve. Contacts that stay closed through all the states asked for are taken
in first; of the others only those closed in a state are solved for, all states of as many at once. Volts are
worked out where they are asked for. The same holds for a meter across two nodes.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from fjeld.derive.keys import BreakerOf, State, standing
from fjeld.derive.memo import Remember, always
from fjeld.derive.network import (
    CONTACT_OHMS,
    EARTH,
    LEAK_OHMS,
    Capacitor,
    Load,
    Network,
    Residual,
    VoltageSource,
    Wire,
)
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
        self.watched = {w.key: w for w in network.wires if w.key in watched}
        from scipy.sparse.linalg import splu

        self._lu = splu(self._admittance().tocsc())
        current = np.zeros(len(self.index), dtype=complex)
        for source in network.sources:
            for node, sign in ((source.a, 1), (source.b, -1)):
                if node != EARTH:
                    current[self.index[node]] += sign * source.volts / source.ohms
        #: Volts with every contact open, and how they fall with the current through each.
        self.at_rest: Array = self._lu.solve(current)
        ports = np.zeros((len(self.index), len(network.contacts)), dtype=complex)
        for n, contact in enumerate(network.contacts):
            ports[:, n] = self._incidence(contact.a, contact.b)
        self._ports = ports
        self.moved: Array = self._lu.solve(ports) if len(network.contacts) else ports
        self._z: Array = ports.T @ self.moved
        self._port_volts: Array = ports.T @ self.at_rest

    @classmethod
    def of(cls, network: Network, remember: Remember = always) -> Solver:
        """The solver of a network; with a memo, factored once for as long as the network stands."""
        found: Solver = remember.same("solver", cls, network)
        return found

    @property
    def nbytes(self) -> int:
        """About the bytes it takes: its arrays, and as much again for the factors."""
        return 2 * (self._ports.nbytes + self.moved.nbytes + self._z.nbytes + self.at_rest.nbytes)

    def _admittance(self) -> coo_matrix:
        from scipy.sparse import coo_matrix

        net = self.network
        omega = 2 * math.pi * net.hertz
        resistive: list[Wire | Load | VoltageSource] = [*net.wires, *net.loads, *net.sources]
        elements: list[Wire | Load | VoltageSource | Capacitor] = [*resistive, *net.capacitors]
        y = np.array(
            [1 / e.ohms for e in resistive]
            + [1j * omega * c.farads for c in net.capacitors]
            + [1 / LEAK_OHMS] * len(self.index),
            dtype=complex,
        )
        # Earth is no row of the equations.
        a, b = (np.array([self.index.get(node, -1) for node in ends]) for ends in self._ends(elements))
        rows, columns = np.concatenate([a, b, a, b]), np.concatenate([a, b, b, a])
        values = np.concatenate([y, y, -y, -y])
        there = (rows >= 0) & (columns >= 0)
        size = (len(self.index), len(self.index))
        return coo_matrix((values[there], (rows[there], columns[there])), shape=size)

    def _ends(
        self, elements: Sequence[Wire | Load | VoltageSource | Capacitor]
    ) -> tuple[list[str], list[str]]:
        """The two nodes of each element, and of the leak that every node has to earth."""
        return (
            [*(e.a for e in elements), *self.index],
            [*(e.b for e in elements), *(EARTH for _ in self.index)],
        )

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
        return [int(n) for n in self._closed([state], off)[0].nonzero()[0]]

    def _closed(self, states: Sequence[State], off: Collection[Handle]) -> Array:
        """Which contacts are closed in each state, shape (states, contacts)."""
        contacts = self.network.contacts
        positions = list(dict.fromkeys(c.position for c in contacts))
        at = {position: n for n, position in enumerate(positions)}
        stand = np.empty((len(states), len(positions)), dtype=np.int8)
        for n, position in enumerate(positions):
            moves = not isinstance(position, BreakerOf)
            stand[:, n] = (
                [standing(position, state) for state in states] if moves else standing(position, {}, off)
            )
        columns = [at[c.position] for c in contacts]
        found: Array = stand[:, columns] == np.array([c.closed_at for c in contacts], dtype=np.int8)
        return found

    def solved(self, states: Sequence[State], off: Collection[Handle] = ()) -> Solved:
        """The network in each of some states. O(states × closed³), closed of the contacts that move."""
        return Solved(self, self._flows(self._closed(states, off)))

    def _flows(self, closed: Array) -> Array:
        """The current through each contact in each state, A, nought where it is open; shape as ``closed``."""
        flows = np.zeros(closed.shape, dtype=complex)
        if not closed.size:
            return flows
        first: dict[bytes, int] = {}
        of = [first.setdefault(row.tobytes(), len(first)) for row in closed]
        alike = np.array([np.frombuffer(row, dtype=bool) for row in first])
        found = np.zeros(alike.shape, dtype=complex)
        stay = alike.all(axis=0)
        moving = np.flatnonzero(alike.any(axis=0) & ~stay)
        kept = np.flatnonzero(stay)
        middle = self._z[np.ix_(kept, kept)] + CONTACT_OHMS * np.eye(len(kept))
        right = np.column_stack([self._port_volts[kept], self._z[np.ix_(kept, moving)]])
        inner = np.linalg.solve(middle, right)
        drawn, shared = inner[:, 0], inner[:, 1:]
        z = self._z[np.ix_(moving, moving)] - self._z[np.ix_(moving, kept)] @ shared
        volts = self._port_volts[moving] - self._z[np.ix_(moving, kept)] @ drawn
        counts = alike[:, moving].sum(axis=1)
        for count in np.unique(counts):
            rows = np.flatnonzero(counts == count)
            which = np.nonzero(alike[np.ix_(rows, moving)])[1].reshape(len(rows), count)
            block = z[which[:, :, None], which[:, None, :]] + CONTACT_OHMS * np.eye(count)
            flow = np.linalg.solve(block, volts[which][:, :, None])[:, :, 0]
            found[rows[:, None], moving[which]] = flow
        found[:, kept] = drawn - found[:, moving] @ shared.T
        return found[of]

    def voltages(self, states: Sequence[State], off: Collection[Handle] = ()) -> Array:
        """Node voltages, V, shape (states, nodes), in the order of ``index``."""
        return self.solved(states, off).volts

    def readings(
        self, nodes: Sequence[str], reference: str, states: Sequence[State], off: Collection[Handle] = ()
    ) -> list[list[tuple[float, float]]]:
        """What a two-lead meter reads from each node to ``reference`` in each state: (V₀ at 10 MΩ, V₃ at 3
        kΩ).
        """
        probes = np.column_stack([self._incidence(n, reference) for n in nodes])
        z_open: Array = self._lu.solve(probes)
        own = np.einsum("np,np->p", probes, z_open)
        ends_open = probes.T @ self.at_rest
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

    def residual(self, volts: Array, watching: Residual) -> float:
        """What does not come back through a protective device in a row of :meth:`voltages`, A."""
        wires = [self.watched[key] for key in watching.through]
        return abs(sum(self._between(volts, w.a, w.b) / w.ohms for w in wires))

    def _between(self, volts: Array, a: str, b: str) -> complex:
        one, other = (complex(volts[self.index[node]]) if node != EARTH else 0j for node in (a, b))
        return one - other

    def across(self, volts: Array, a: str, b: str) -> float:
        """Volts between two nodes in one row of :meth:`voltages`."""
        return abs(self._between(volts, a, b))


class Solved:
    """A network in some states: what is asked of it is worked out for all of them at once.

    ``flows`` is the current through each contact, A, shape (states, contacts).
    """

    def __init__(self, solver: Solver, flows: Array) -> None:
        self.solver, self.flows = solver, flows

    def part(self, first: int, beyond: int) -> Solved:
        """Some of the states by themselves."""
        return Solved(self.solver, self.flows[first:beyond])

    @property
    def volts(self) -> Array:
        """Node voltages, V, shape (states, nodes)."""
        found: Array = self.solver.at_rest - self.flows @ self.solver.moved.T
        return found

    def apart(self, pairs: Sequence[tuple[str, str]]) -> Array:
        """Volts between the nodes of each pair, shape (states, pairs)."""
        return self._sums([{one: 1.0, other: -1.0} for one, other in pairs])

    def residuals(self, watching: Sequence[Residual]) -> Array:
        """What does not come back through each protective device, A, shape (states, devices)."""
        weighed = []
        for each in watching:
            nodes: dict[str, float] = defaultdict(float)
            for key in each.through:
                wire = self.solver.watched[key]
                nodes[wire.a] += 1 / wire.ohms
                nodes[wire.b] -= 1 / wire.ohms
            weighed.append(nodes)
        return self._sums(weighed)

    def amps(self, contacts: Sequence[int]) -> Array:
        """The current through some contacts, A, shape (states, contacts)."""
        found: Array = np.abs(self.flows[:, list(contacts)])
        return found

    def _sums(self, weighed: Sequence[Mapping[str, float]]) -> Array:
        """Sums of node voltages, each node by its weight, in each state; earth stands at nothing."""
        index = self.solver.index
        rows = np.zeros((len(weighed), len(index)))
        for n, nodes in enumerate(weighed):
            for node, weight in nodes.items():
                if node != EARTH:
                    rows[n, index[node]] += weight
        found: Array = np.abs(rows @ self.solver.at_rest - self.flows @ (rows @ self.solver.moved).T)
        return found


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
