"""Boxes whose wiring is known, shown only as one would find them: a house is derived, and one of its boxes
opened.

Readings are taken from the voltages of the whole house's network, with a meter's noise, not from anything
that the inference works with. Joints are parted by taking them out of the network.
"""

import random
from itertools import product

import msgspec

from fjeld.derive.keys import DeviceKey, OwnContact, end_node
from fjeld.derive.network import EARTH, Load, Wire
from fjeld.derive.plan import derive
from fjeld.drawing.old_box import Device, cable_of
from fjeld.judge.volts import Volts
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.prove.proof import _near, prove
from fjeld.prove.solve import Solver

KINDS = {
    "switch": ("switch", {"line": "a", "load": "b"}),
    "three-way switch": ("three-way", {"common": "common", "traveller 1": "t1", "traveller 2": "t2"}),
    "four-way switch": ("four-way", {"in 1": "a1", "in 2": "a2", "out 1": "b1", "out 2": "b2"}),
    "outlet": ("outlet", {"brass": "brass", "silver": "silver"}),
    "split outlet": ("outlet", {"brass upper": "brass", "brass lower": "brass2", "silver": "silver"}),
    "light": ("light", {"black lead": "hot", "white lead": "neutral"}),
    "alarm": ("alarm", {"black lead": "hot", "white lead": "neutral", "interconnect lead": "link"}),
    "protective outlet": (
        "protective",
        {"line brass": "line", "line silver": "line n", "load brass": "load", "load silver": "load n"},
    ),
}


class TrueBox:
    """A box of a plan: ``found`` as it is recorded, ``roles`` as they are, empty where the inference knows of
    none such.
    """

    def __init__(self, plan, handle, die):
        self.plan, self.handle, self.die = plan, handle, die
        self.box = plan.boxes[handle]
        self.solver = Solver(plan.network)
        bundles = list(dict.fromkeys(c.bundle for c in self.box.ends))
        die.shuffle(bundles)
        self.ids = {b: str(n) for n, b in enumerate(bundles, 1)}
        self.names, cables = {}, []
        for bundle in bundles:
            colours = []
            for c in (c for c in self.box.ends if c.bundle == bundle):
                same = sum(x.rstrip("0123456789") == c.colour for x in colours)
                colours.append(f"{c.colour}{same + 1}" if same else c.colour)
                self.names[c.key] = f"{self.ids[bundle]}.{colours[-1]}"
            cables.append(cable_of(self.ids[bundle], tuple(colours), ""))
        self.devices = {d.key: d for d in self.box.devices}
        self.kind = {k: KINDS.get(d.kind) for k, d in self.devices.items()}
        place = {
            "switch": "switch",
            "three-way": "switch",
            "four-way": "switch",
            "outlet": "outlet",
            "protective": "outlet",
        }
        first = next((k[0] for k in self.kind.values() if k), "")
        self.found = FoundBox(
            place.get(first, "ceiling" if first else "junction"),
            tuple(cables),
            tuple(self._joints()),
            tuple(self._devices()),
        )
        self.roles = {self.ids[b]: self._role(b) for b in bundles}

    @property
    def modelled(self):
        """Whether it is a box as one finds them: no cable beside another that carries half of what goes that
        way, and no circuit so long that its neutral reads as live.
        """
        divided = any(c.net.branch for c in self.box.ends) or any(
            len({r.key for r in self.plan.runs() if r.cable == self._run(b).cable}) > 1 for b in self.ids
        )
        wide = sum(len(c.insulated) > 3 for c in self.found.cables) > 2
        return all(self.kind.values()) and len(self.ids) <= 5 and not divided and not wide and self._quiet()

    def _quiet(self):
        neutrals = [end_node(c.key, self.handle) for c in self.box.ends if c.net.role == "neutral"]
        if not neutrals:
            return True
        states = list(self.states())
        return all(
            v0 < 4.0
            for row in self.solver.readings(neutrals, EARTH, states[:: max(1, len(states) // 4)])
            for v0, _ in row
        )

    def _joints(self):
        for joint in self.box.joints:
            if joint.how != "parked" and len(joint.ends) > 1:
                yield tuple(self.names[k] for k in joint.ends)

    def _devices(self):
        for key, d in self.devices.items():
            if not self.kind[key]:
                continue
            kind, terminals = self.kind[key]
            lands = {}
            for joint in self.box.joints:
                for at in joint.landings:
                    if at.device == key and at.terminal in terminals and joint.ends:
                        lands[terminals[at.terminal]] = (self.names[joint.ends[0]],)
            tab = "broken" if d.kind == "split outlet" else "whole"
            yield Device(self._id(key), kind, lands, tab)

    @staticmethod
    def _id(key):
        return str(key).replace(":", "_")

    # --- the truth --------------------------------------------------------------------

    def _run(self, bundle):
        """The cable of the plan that a bundle is."""
        return next(
            r
            for r in self.plan.runs()
            if r.conductors[0].bundle == bundle and self.handle in (r.conductors[0].a, r.conductors[0].b)
        )

    def _reached(self, start, without):
        """The boxes of a cable's circuit that are joined to one of them, without going by that cable."""
        near = {}
        for run in self.plan.runs():
            if run.circuit == without.circuit and run.cable != without.cable:
                a, b = run.conductors[0].a, run.conductors[0].b
                near.setdefault(a, set()).add(b)
                near.setdefault(b, set()).add(a)
        seen, queue = {start}, [start]
        while queue:
            for there in near.get(queue.pop(), ()):
                if there not in seen:
                    seen.add(there)
                    queue.append(there)
        return seen

    def _role(self, bundle):
        run = self._run(bundle)
        nets = [c.net for c in run.conductors if c.insulated and c.net.role != "spare"]
        kinds = sorted(n.role for n in nets)
        other = run.conductors[0].b if run.conductors[0].a == self.handle else run.conductors[0].a
        here = self._reached(self.handle, run)
        circuit = self.plan.circuits[run.circuit]
        inward = circuit.source not in here
        if circuit.tree.ring and kinds == ["line", "neutral"]:
            around = circuit.source in here and circuit.source in self._reached(other, run)
            return "RING" if around else "SPUR"
        if kinds.count("line") == 2 and "neutral" in kinds:
            return "TWO"
        if "traveller" in kinds or "strap" in kinds:
            return "TRAV"
        if "link" in kinds:
            return "LINK"
        if kinds == ["line", "neutral"]:
            return "FEED" if inward else "ON"
        if kinds == ["neutral", "switched"]:
            return "LEG"
        if kinds[0] == "neutral" and {*kinds[1:]} == {"switched"}:
            return "LEG2"
        if kinds[0] == "line" and {*kinds[1:]} == {"switched"}:
            return "LOOP"
        if kinds[:2] == ["line", "neutral"] and {*kinds[2:]} == {"switched"}:
            control = next(n.control for n in nets if n.role == "switched")
            positions = {self.plan.home(p) for p in self.plan.drawing.items[control].positions}
            # Switched on the side that the line comes from, it goes the line's way.
            return (
                "HALF"
                if all((p in here) != inward for p in positions)
                else "LOOPN"
                if all((p in here) == inward for p in positions)
                else None
            )
        return None

    # --- readings ------------------------------------------------------------------------

    def states(self):
        """Every state of the switches that could matter, by name: those here and those beyond that change
        anything here.
        """
        near = [
            p
            for p in self.plan.network.positions
            if not isinstance(p, OwnContact) and _near(self.plan, p, self.handle)
        ]
        own = [p for p in near if p in self.devices]
        far = [p for p in near if p not in self.devices and self._matters(p, near)]
        switches = [*own, *far]
        if len(switches) <= 5:
            settings = list(product((0, 1), repeat=len(switches)))
        else:
            base = [self.die.getrandbits(1) for _ in switches]
            settings = [base, *([b ^ (n == k) for k, b in enumerate(base)] for n in range(len(switches)))]
            settings += [[self.die.getrandbits(1) for _ in switches] for _ in range(8)]
        for setting in settings:
            yield dict(zip(switches, setting, strict=True))

    def _matters(self, position, near):
        """Whether a switch changes what any conductor here shows, in some of the states of the others."""
        nodes = [end_node(c.key, self.handle) for c in self.box.ends if c.insulated]
        for die in range(8):
            base = {p: random.Random(f"{die} {p}").getrandbits(1) for p in near}
            rows = self.solver.readings(nodes, EARTH, [{**base, position: at} for at in (0, 1)])
            if any((a[1] > 60) != (b[1] > 60) for a, b in zip(*rows, strict=True)):
                return True
        return False

    def _named(self, state):
        found = {}
        for position, at in state.items():
            if position in self.devices:
                single = self.kind[position] and self.kind[position][0] == "switch"
                found[self._id(position)] = ("open", "closed")[at] if single else ("down", "up")[at]
            else:
                found[str(position)] = ("down", "up")[at]
        return found

    def _read(self, solver, nodes, state):
        row = solver.readings(nodes, EARTH, [state])[0]
        noise = lambda v: round(abs(v * self.die.uniform(0.99, 1.01) + self.die.uniform(-0.3, 0.3)), 1)  # noqa: E731
        return [Volts(noise(v0), noise(v3)) for v0, v3 in row]

    def take(self, reading):
        """One reading, as it would be written down; none where it cannot be taken here."""
        ends = [c for c in self.box.ends if c.insulated]
        nodes = [end_node(c.key, self.handle) for c in ends]
        names = [self.names[c.key] for c in ends]
        if reading in ("R4", "R17"):
            taken = []
            for state in self.states():
                volts = self._read(self.solver, nodes, state)
                taken.append(
                    Reading(
                        reading,
                        self._named(state),
                        dict(zip(names, volts, strict=True)),
                        proven=True,
                        every_switch=True,
                        power=True,
                    )
                )
            return taken
        if reading == "R8":
            solver = Solver(self._parted())
            taken = []
            for state in self.states():
                volts = self._read(solver, nodes, state)
                taken.append(
                    Reading(
                        "R8",
                        self._named(state),
                        dict(zip(names, volts, strict=True)),
                        proven=True,
                        parted=True,
                        every_switch=True,
                        power=True,
                    )
                )
            return taken
        if reading == "R15":
            volts = self.solver.voltages([{}])[0]
            pairs = []
            for n, a in enumerate(nodes):
                for m, b in enumerate(nodes[:n]):
                    across = self.solver.across(volts, a, b)
                    if min(self.solver.across(volts, x, EARTH) for x in (a, b)) > 100:
                        pairs.append((names[n], names[m], Volts(round(across, 1), round(across, 1))))
            return [Reading("R15", between=tuple(pairs), proven=True)] if pairs else []
        if reading == "R3":
            return self._own_breaker_off(ends, nodes, names)
        if reading == "R16":
            return [Reading("R16", dies=tuple(self._behind()), proven=True)]
        if reading == "R19" and len(self.box.circuits) == 1:
            return [Reading("R19", ring=any(self._ring(q) for q in self.box.circuits), proven=True)]
        if reading == "R9":
            return [Reading("R9", ohms=tuple(self._buzz(ends)), proven=True)]
        return []

    def _own_breaker_off(self, ends, nodes, names):
        circuit = self.box.circuits[0]
        off = next(
            (
                self.names[c.key]
                for c in ends
                if c.net.role in ("line", "switched") and self._run(c.bundle).circuit == circuit
            ),
            None,
        )
        if off is None:
            return []
        taken = []
        for state in self.states():
            row = self.solver.readings(nodes, EARTH, [state], [circuit])[0]
            volts = [Volts(round(v0, 1), round(v3, 1)) for v0, v3 in row]
            taken.append(
                Reading(
                    "R3", self._named(state), dict(zip(names, volts, strict=True)), proven=True, off=(off,)
                )
            )
        return taken

    def _behind(self):
        """The cables that hang on the load side of a protective outlet here."""
        for bundle, name in self.ids.items():
            if any(c.bundle == bundle and c.net.beyond == self.handle for c in self.box.ends):
                yield name

    def _ring(self, circuit):
        return bool(self.plan.circuits[circuit].tree.ring)

    def _buzz(self, ends):
        """Line to line and neutral to neutral of each two cables, parted, over wires alone."""
        near = {}
        for w in self._parted().wires:
            near.setdefault(w.a, []).append(w.b)
            near.setdefault(w.b, []).append(w.a)
        for n, a in enumerate(ends):
            for b in ends[:n]:
                if a.bundle == b.bundle or a.colour != b.colour:
                    continue
                seen, queue = {EARTH}, [end_node(a.key, self.handle)]
                while queue:
                    at = queue.pop()
                    if at not in seen:
                        seen.add(at)
                        queue += near.get(at, ())
                joined = end_node(b.key, self.handle) in seen
                yield self.names[a.key], self.names[b.key], 0.4 if joined else 5e6

    def lamp(self, line, neutral):
        """A lamp joined between two ends: its share of the nominal volts, state by state."""
        at = {self.names[c.key]: end_node(c.key, self.handle) for c in self.box.ends}
        volts = self.plan.practice.volts
        lamp = Load("new", at[line], at[neutral], volts * volts / 9.0)
        solver = Solver(msgspec.structs.replace(self.plan.network, loads=(*self.plan.network.loads, lamp)))
        for state in self.states():
            yield solver.across(solver.voltages([state])[0], lamp.a, lamp.b) / volts

    def _parted(self):
        """The network with every joint of the box taken apart."""
        joints = {str(j.key) for j in self.box.joints if j.net.role != "ground"}
        wires = tuple(w for w in self.plan.network.wires if not isinstance(w, Wire) or w.b not in joints)
        return msgspec.structs.replace(self.plan.network, wires=wires)


def true_boxes(drawing, seed):
    """The boxes of a drawing that can be opened and that the inference has the devices for."""
    plan = derive(drawing)
    if plan.network is None:
        return
    die = random.Random(seed)
    astray = {plan.control_circuit(c) for c, proof in prove(plan).items() if not proof.proven}
    for handle in sorted(plan.boxes):
        box = plan.boxes[handle]
        if astray & {*box.circuits}:
            continue
        if any(not isinstance(d.key, DeviceKey) for d in box.devices) or not box.ends:
            continue
        made = TrueBox(plan, handle, die)
        if made.modelled:
            yield made
