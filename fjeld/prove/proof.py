"""Does each switch do what was meant? Over all combinations, by logic and by voltages.

For a control: the lit set equals the intent's function (closed = on for one position;
parity, up to its complement, for several); nothing trips; no shell is live; where a lamp
is meant dark neither of its terminals is live, which is how a switched neutral shows.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import chain

import msgspec

from fjeld.derive.keys import BreakerOf, DeviceKey, Movable, OwnContact, State, bar_node, end_node, stands
from fjeld.derive.memo import Remember, always
from fjeld.derive.network import EARTH, Load, Network
from fjeld.derive.old import taken_for_granted
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, LoadRef
from fjeld.drawing.old_box import OldBox
from fjeld.practice import rules
from fjeld.prove.reach import MOST_POSITIONS, Reach, merged, reach
from fjeld.prove.solve import SHELL_VOLTS, Band, Found, Solved, Solver, band, conductor_verdict, trip_seconds
from fjeld.prove.states import chosen_states, gray
from fjeld.states import first_state, pattern

#: Up to this many switches, every state is looked at for what is still live.
MOST_TRIED = 8
#: A breaker that opens within so many seconds is said to trip.
TRIPS_WITHIN = 5.0
_WORST: dict[Found, int] = {"dead": 0, "induced": 1, "live through a load": 2, "live": 3}


class StateRow(msgspec.Struct, frozen=True):
    """One combination of a control's positions: what each lamp does against what was meant.

    ``meant`` says that all of its lamps are meant lit.
    """

    setting: tuple[int, ...]
    meant: bool
    bands: dict[str, Band]
    volts: dict[str, float]
    right: bool


class ControlProof(msgspec.Struct, frozen=True):
    """The proof of one control. ``states`` looked at by logic; sampled when not all of them.

    ``assumes`` is what it rests on and nobody has read: it works if all of that is so.
    ``faint`` says that all is joined as it should be, and only too many volts are lost on the way.
    """

    control: Handle
    positions: tuple[Movable, ...]
    loads: tuple[str, ...]
    rows: tuple[StateRow, ...]
    proven: bool
    reasons: tuple[str, ...]
    states: int
    sampled: bool
    assumes: tuple[str, ...] = ()
    faint: bool = False


class LiveConductor(msgspec.Struct, frozen=True):
    """A conductor end in a box, the worst that was found there, and the state it was found in."""

    conductor: str
    found: Found
    v0: float
    v3: float
    state: dict[Movable, int]


def position_keys(plan: Plan, control: Handle) -> tuple[DeviceKey, ...]:
    """The network's names of a control's switch positions, in the drawing's order."""
    return tuple(DeviceKey(p, control) for p in plan.drawing.get(control, Control).positions)


def moved_by(plan: Plan, network: Network, control: Handle) -> tuple[Movable, ...]:
    """A control's switches, and what they and its loads have of their own: a dimmer, a timer, a sensor, a
    pull chain.
    """
    switches = position_keys(plan, control)
    lit = {load.point for load in plan.drawing.get(control, Control).loads}
    own = [
        p
        for p in network.positions
        if isinstance(p, OwnContact) and (p.device in switches or (not p.control and p.box in lit))
    ]
    return (*switches, *own)


def loads_in(network: Network, references: Sequence[LoadRef]) -> list[Load]:
    """The network's loads that a control's references name, a whole point standing for all its parts."""
    return [x for x in network.loads if any(r.holds(LoadRef.read(x.key)) for r in references)]


def prove(plan: Plan, remember: Remember = always) -> dict[Handle, ControlProof]:
    """The proof of every control of a plan; empty while nothing feeds any.

    Circuits that share no box are proven apart from each other: their networks meet only
    at the bars of what feeds them. With a memo, a group whose network is as it was is not run again.
    """
    if plan.network is None:
        return {}
    controls = plan.drawing.of(Control)
    found: dict[Handle, ControlProof] = {}
    for group in plan.together():
        network = plan.network_of(group, remember)
        mine = {c: controls[c] for c in controls if plan.control_circuit(c) in group}
        if network is None or not mine:
            continue
        begun = tuple(plan.drawing.items[plan.circuits[q].source] for q in group)
        breakers = (plan.practice[rules.TRIP_CURVE], *(plan.circuits[q].circuit for q in group), *begun)
        found |= remember(
            "prove",
            lambda n, m, _: prove_network(plan, n, tuple(m), remember),
            network,
            mine,
            breakers,
            practice=plan.practice.id,
        )
    return {c: found[c] if c in found else _unwired(plan, c) for c in sorted(controls, key=order)}


def prove_network(
    plan: Plan, network: Network, only: tuple[Handle, ...] | None = None, remember: Remember = always
) -> dict[Handle, ControlProof]:
    """Prove every control on this network, or ``only`` some; it may hold faults the plan does not."""
    controls = sorted(plan.drawing.of(Control) if only is None else only, key=order)
    if not network.loads:
        return {c: _unwired(plan, c) for c in controls}
    solver, joined = Solver.of(network, remember), merged(network)
    found: dict[Handle, ControlProof] = {}
    for control in controls:
        wired = plan.control_circuit(control) is not None and loads_in(
            network, plan.drawing.get(control, Control).loads
        )
        found[control] = (
            _prove_one(plan, network, solver, joined, control) if wired else _unwired(plan, control)
        )
    return found


def _unwired(plan: Plan, control: Handle) -> ControlProof:
    reason = "nothing to prove: it has no load on a circuit, or no panel feeds it"
    return ControlProof(
        control=control,
        positions=position_keys(plan, control),
        loads=(),
        rows=(),
        proven=False,
        reasons=(reason,),
        states=0,
        sampled=False,
    )


def _prove_one(
    plan: Plan, network: Network, solver: Solver, joined: Mapping[str, int], control: Handle
) -> ControlProof:
    own = moved_by(plan, network, control)
    others = [p for p in network.positions if p not in own]
    together = [*own, *others[: MOST_POSITIONS - len(own)]]
    found = reach(network, together, joined=joined)
    loads = loads_in(network, plan.drawing.get(control, Control).loads)
    meant = _meant(own, together, found, loads)
    joined_wrong = _logic(found, network, loads, meant)
    settings, states = list(gray(len(own))), chosen_states(own, others)
    at_rest = [dict(zip(own, setting, strict=True)) for setting in settings]
    solved = solver.solved([*at_rest, *states])
    rows = _rows(solved.part(0, len(at_rest)), network, settings=settings, loads=loads, meant=meant)
    wrong_volts, low = _voltages(
        plan,
        solved.part(len(at_rest), len(at_rest) + len(states)),
        network=network,
        own=own,
        states=states,
        loads=loads,
        meant=meant,
    )
    reasons = joined_wrong + wrong_volts + low
    if any(not row.right for row in rows):
        wrong = next(row for row in rows if not row.right)
        reasons.append(f"with {_setting_words(own, wrong.setting)} the lamps are not as meant")
    sampled = len(others) + len(own) > MOST_POSITIONS
    return ControlProof(
        control=control,
        positions=own,
        loads=tuple(load.key for load in loads),
        rows=rows,
        proven=not reasons,
        reasons=tuple(dict.fromkeys(reasons)),
        states=1 << len(together),
        sampled=sampled,
        assumes=_assumed(plan, control),
        faint=bool(low) and not joined_wrong and not wrong_volts,
    )


def _assumed(plan: Plan, control: Handle) -> tuple[str, ...]:
    """What is not known of where a control's circuit begins."""
    begins = plan.circuits.get(plan.control_circuit(control) or Handle(""))
    old = plan.drawing.items.get(begins.source) if begins else None
    if begins is None or not isinstance(old, OldBox):
        return ()
    return taken_for_granted(begins.source, old, begins.circuit.found)


def _number(setting: Sequence[int]) -> int:
    return sum(bit << i for i, bit in enumerate(setting))


def _meant(
    own: Sequence[Movable], together: Sequence[Movable], found: Reach, loads: list[Load]
) -> dict[str, int]:
    """For each load the states in which it is meant lit.

    Closed for one switch, parity for several, which may be turned about as a whole; and only
    while all that stands in series with it, of the switches' own and of its own, lets through.
    """
    switches = [i for i, p in enumerate(own) if not isinstance(p, OwnContact)]
    parity = 0
    for i in switches:
        parity ^= pattern(i, len(together))
    at_rest = sum(1 << i for i in range(len(own)) if i not in switches)
    if len(switches) > 1 and found.lit(loads[0].a, loads[0].b) >> at_rest & 1:
        parity = found.all & ~parity
    meant = dict.fromkeys((load.key for load in loads), parity)
    for i, position in enumerate(own):
        if isinstance(position, OwnContact):
            for load in loads:
                if position.control or LoadRef.read(load.key).point == position.box:
                    meant[load.key] &= pattern(i, len(together))
    return meant


def _logic(found: Reach, network: Network, loads: list[Load], meant: Mapping[str, int]) -> list[str]:
    reasons: list[str] = []

    def say(states: int, words: str) -> None:
        state = first_state(states)
        if state is not None:
            setting = tuple(state >> i & 1 for i in range(len(found.positions)))
            reasons.append(f"with {_setting_words(found.positions, setting)} {words}")

    say(found.shorts(), "line and neutral are joined")
    for load in loads:
        lit, wanted = found.lit(load.a, load.b), meant[load.key]
        say(lit & ~wanted, f"{load.key} is lit though it is meant dark")
        say(wanted & ~lit, f"{load.key} is dark though it is meant lit")
        live = (found.line.get(load.a, 0) | found.line.get(load.b, 0)) & ~wanted & found.all
        say(live & ~lit, f"{load.key} is dark with a live terminal")
    for shell in network.shells:
        say(found.line.get(shell, 0), f"{shell} is live")
    return reasons


def _setting_words(positions: Sequence[Movable], setting: Sequence[int]) -> str:
    # Two switches in one box are told apart by the control that each is of.
    boxes = [p.box for p in positions if not isinstance(p, OwnContact)]
    return ", ".join(
        stands(p, at, alone=boxes.count(p.box) < 2) for p, at in zip(positions, setting, strict=True)
    )


def _rows(
    solved: Solved,
    network: Network,
    settings: Sequence[tuple[int, ...]],
    loads: list[Load],
    meant: Mapping[str, int],
) -> tuple[StateRow, ...]:
    """What the lamps of a control do in each of its own settings, all else at rest."""
    across = solved.apart([(load.a, load.b) for load in loads])
    rows = []
    for setting, volts in zip(settings, across.tolist(), strict=True):
        lit = {key: bool(m >> _number(setting) & 1) for key, m in meant.items()}
        read = dict(zip((load.key for load in loads), volts, strict=True))
        bands = {key: band(v, network.volts) for key, v in read.items()}
        right = all(b == ("lit" if lit[key] else "dark") for key, b in bands.items())
        rows.append(StateRow(setting, all(lit.values()), bands, read, right))
    return tuple(rows)


def _voltages(
    plan: Plan,
    solved: Solved,
    network: Network,
    own: Sequence[Movable],
    states: Sequence[Mapping[Movable, int]],
    loads: list[Load],
    meant: Mapping[str, int],
) -> tuple[list[str], list[str]]:
    """What the readings say against it in some states, and apart from that the lamps that are lit too
    faintly.
    """

    def told(found: Iterator[tuple[int, str]]) -> list[str]:
        """State by state, each with how its switches stand."""
        return [
            f"with {_setting_words(own, [states[n][p] for p in own])} {words}"
            for n, words in sorted(found, key=lambda one: one[0])
        ]

    lamps = solved.apart([(load.a, load.b) for load in loads])
    wrong: list[tuple[int, str]] = []
    faint: list[tuple[int, str]] = []
    for n, (state, lit) in enumerate(zip(states, lamps.tolist(), strict=True)):
        number = _number([state[p] for p in own])
        for load, across in zip(loads, lit, strict=True):
            wanted = meant[load.key] >> number & 1
            if (seen := band(across, network.volts)) != ("lit" if wanted else "dark"):
                (faint if wanted and seen == "wrong" else wrong).append(
                    (n, f"{load.key} reads {across:.1f} V")
                )
    return told(chain(wrong, _dangers(plan, solved, network))), told(iter(faint))


def _dangers(plan: Plan, solved: Solved, network: Network) -> Iterator[tuple[int, str]]:
    """Metal that stands live, breakers and protective devices that open, each with its state's number."""
    touched = solved.apart([(shell, EARTH) for shell in network.shells])
    for state, n in zip(*(touched >= SHELL_VOLTS).nonzero(), strict=True):
        yield int(state), f"{network.shells[n]} stands at {touched[state, n]:.0f} V"
    curve = plan.practice[rules.TRIP_CURVE]
    breakers = [n for n, c in enumerate(network.contacts) if isinstance(c.position, BreakerOf)]
    for n, through in zip(breakers, solved.amps(breakers).T.tolist(), strict=True):
        contact = network.contacts[n]
        assert isinstance(contact.position, BreakerOf)
        rating = plan.circuits[contact.position.circuit].circuit.breaker
        for state, amps in enumerate(through):
            if _trips(amps, rating, curve):
                yield state, f"{contact.key} trips at {amps:.0f} A"
    missing = solved.residuals(network.residuals)
    for watching, amperes in zip(network.residuals, missing.T.tolist(), strict=True):
        for state, amps in enumerate(amperes):
            if amps >= watching.trips:
                yield state, f"{watching.key} opens: {amps * 1000:.0f} mA do not come back through it"


def _trips(amps: float, rating: float, curve: Sequence[Sequence[float]]) -> bool:
    return trip_seconds(amps, rating, curve) <= TRIPS_WITHIN


def always_on(plan: Plan, remember: Remember = always) -> dict[str, bool]:
    """For each load that no control works: whether it has line and neutral in every state."""
    if plan.network is None:
        return {}
    found: dict[str, bool] = {}
    for group in plan.together():
        network = plan.network_of(group, remember)
        if network is not None and network.loads:
            worked = tuple(load for c in plan.drawing.of(Control).values() for load in c.loads)
            found |= remember.same("always on", _always_on, network, worked)
    return found


def _always_on(network: Network, worked: tuple[LoadRef, ...]) -> dict[str, bool]:
    switched = {load.key for load in loads_in(network, worked)}
    # A chain of its own stands as it rests: pulled off, nobody misses the line.
    positions = [p for p in network.positions if not isinstance(p, OwnContact) or p.control][:MOST_POSITIONS]
    found = reach(network, positions)
    return {
        load.key: found.lit(load.a, load.b) == found.all for load in network.loads if load.key not in switched
    }


def still_live(
    plan: Plan,
    box: Handle,
    off: Sequence[Handle] = (),
    held: State | None = None,
    remember: Remember = always,
) -> list[LiveConductor]:
    """Each conductor end in a box, at its worst over all switch positions but those ``held``.

    ``off`` are circuits whose breakers are off; every other breaker is on. The panel
    itself, whose parts ahead of the main stay live, is not asked here.
    """
    if plan.network is None or box not in plan.boxes:
        return []
    ends = [c.key for c in plan.boxes[box].ends if c.insulated]
    if not ends:
        return []
    solver = Solver.of(plan.network, remember)
    nodes = [end_node(key, box) for key in ends]
    states = _telling_states(plan, box, nodes, off, dict(held or {}))
    # To the ground of where its first circuit begins: those of one house are one.
    source = plan.circuits[plan.boxes[box].circuits[0]].source
    read = solver.readings(nodes, bar_node(source, "ground"), states, off)
    worst: dict[str, LiveConductor] = {}
    for state, row in zip(states, read, strict=True):
        for key, (v0, v3) in zip(ends, row, strict=True):
            found = LiveConductor(key, conductor_verdict(v0, v3), v0, v3, state)
            if key not in worst or (_WORST[found.found], v0) > (_WORST[worst[key].found], worst[key].v0):
                worst[key] = found
    return [worst[key] for key in ends]


def _telling_states(
    plan: Plan, box: Handle, nodes: Sequence[str], off: Sequence[Handle], held: dict[Movable, int]
) -> list[dict[Movable, int]]:
    """States in which every conductor in a box is seen at its worst.

    Up to :data:`MOST_TRIED` switches of its circuits: all of their states. Beyond, all
    down, all up, each alone up or down, and for each conductor that logic finds joined to
    the line in any state, the first such state.
    """
    network = plan.network
    assert network is not None
    down: dict[Movable, int] = {p: 0 for p in network.positions if p not in held}
    near = [p for p in down if _near(plan, p, box)]
    if len(near) <= MOST_TRIED:
        return [{**down, **dict(zip(near, setting, strict=True)), **held} for setting in gray(len(near))]
    up = {**down, **dict.fromkeys(near, 1)}
    states = [down, up, *({**down, p: 1} for p in near), *({**up, p: 0} for p in near)]
    near = near[:MOST_POSITIONS]
    joined = reach(network, near, held, off).line
    for node in nodes:
        first = first_state(joined.get(node, 0))
        if first is not None:
            states.append({**down, **{p: first >> i & 1 for i, p in enumerate(near)}})
    return [{**state, **held} for state in states]


def _near(plan: Plan, position: Movable, box: Handle) -> bool:
    if not position.control:
        return bool({*plan.boxes[plan.home(position.box)].circuits} & {*plan.boxes[box].circuits})
    return plan.control_circuit(Handle(position.control)) in plan.boxes[box].circuits
