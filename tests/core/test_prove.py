"""Proof: the two engines against each other, against brute force, and against what physics says."""

import itertools
import math
import random
from collections import deque

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld import practice as practices
from fjeld.derive.keys import LINE, BreakerOf, DeviceKey, end_node, standing
from fjeld.derive.network import EARTH, Capacitor, Contact, Load, Network, VoltageSource, Wire
from fjeld.derive.plan import derive
from fjeld.drawing.model import Control, LoadRef
from fjeld.practice import rules
from fjeld.prove.proof import always_on, prove, prove_network, still_live
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver, band, conductor_verdict, trip_seconds
from fjeld.prove.states import gray
from fjeld.states import first_state, pattern
from tests.houses import one_room, patterns
from tests.often import often

seeds = st.integers(0, 600)


# --- physics ----------------------------------------------------------------------


def three_conductors():
    """Line, neutral, a floating conductor and ground in one cable, a nanofarad between each pair."""
    names = ("line", "neutral", "floating", "ground")
    wires = (Wire("bond", "ground", EARTH, 1e-3), Wire("main bond", "neutral", "ground", 1e-3))
    capacitors = tuple(Capacitor(a, b, 1e-9) for a, b in itertools.combinations(names, 2))
    source = VoltageSource("line", "neutral", 120.0, 0.04)
    return Network(120.0, 60.0, wires, (), (), capacitors, (source,), (), ("neutral",), ("line",))


def test_a_floating_conductor_reads_a_third_of_line_and_nothing_under_load():
    solver = Solver(three_conductors())
    volts = solver.voltages([{}])[0]
    assert solver.across(volts, "floating", EARTH) == pytest.approx(40.0, abs=0.05)
    (((high, low),),) = solver.readings(["floating"], EARTH, [{}])
    assert high == pytest.approx(39.84, abs=0.01)
    assert low == pytest.approx(0.136, abs=0.001)
    assert conductor_verdict(high, low) == "induced"


@pytest.mark.parametrize(
    ("share", "found"),
    [
        (0.0, "dark"),
        (0.099, "dark"),
        (0.101, "wrong"),
        (0.87, "wrong"),
        (0.899, "wrong"),
        (0.901, "lit"),
        (1.10, "lit"),
        (1.11, "danger"),
        (1.6, "danger"),
        (0.4, "wrong"),
    ],
)
def test_lamp_bands(share, found):
    assert band(120 * share, 120) == found


@pytest.mark.parametrize(
    ("v0", "v3", "found"),
    [
        (4.9, 0, "dead"),
        (5.0, 4.9, "induced"),
        (40, 0.1, "induced"),
        (119, 118, "live"),
        (119, 80, "live through a load"),
        (29, 29, "live through a load"),
        (30, 30, "live"),
    ],
)
def test_conductor_verdicts(v0, v3, found):
    assert conductor_verdict(v0, v3) == found


@pytest.mark.parametrize(
    ("practice", "multiple", "seconds"),
    [("gb", 1.45, 3600), ("gb", 2.55, 60), ("gb", 5, 0.1), ("na", 4.47, 3.46), ("na", 1.35, 3600)],
)
def test_each_practice_has_its_own_trip_curve(practice, multiple, seconds):
    curve = practices.load(practice)[rules.TRIP_CURVE]
    assert trip_seconds(multiple * 16, 16, curve) == pytest.approx(seconds, rel=0.15)
    assert math.isinf(trip_seconds(1.3 * 16, 16, curve))


def test_a_breaker_trips_by_its_curve():
    curve = practices.load("na")[rules.TRIP_CURVE]
    assert math.isinf(trip_seconds(20, 15, curve))
    assert trip_seconds(1.35 * 15, 15, curve) == pytest.approx(3600)
    assert trip_seconds(30, 15, curve) == pytest.approx(120)
    assert trip_seconds(150, 15, curve) == pytest.approx(0.1)
    assert trip_seconds(1000, 15, curve) == 0.1
    times = [trip_seconds(15 * m / 10, 15, curve) for m in range(14, 110)]
    assert times == sorted(times, reverse=True)


def test_a_lost_shared_neutral_puts_lamps_at_the_wrong_volts():
    """Two legs, two lamps of 100 and 300 W in series once their neutral has gone."""
    network = Network(
        120.0,
        60.0,
        (),
        (),
        (Load("small", "a", "n", 120**2 / 100), Load("large", "b", "n", 120**2 / 300)),
        (),
        (VoltageSource("a", EARTH, 120, 0.02), VoltageSource(EARTH, "b", 120, 0.02)),
        (),
        EARTH,
        "a",
    )
    solver = Solver(network)
    volts = solver.voltages([{}])[0]
    small, large = solver.across(volts, "a", "n"), solver.across(volts, "b", "n")
    assert small == pytest.approx(180, abs=0.1)
    assert large == pytest.approx(60, abs=0.1)
    assert (band(small, 120), band(large, 120)) == ("danger", "wrong")


def dense(network, closed):
    """The nodal equations written out again, dense, contacts as plain resistances."""
    import numpy as np

    names = network.nodes
    index = {n: i for i, n in enumerate(names)}
    y = np.zeros((len(names), len(names)), dtype=complex)
    i = np.zeros(len(names), dtype=complex)
    branches = [(w.a, w.b, 1 / w.ohms) for w in network.wires] + [
        (x.a, x.b, 1 / x.ohms) for x in network.loads
    ]
    branches += [(c.a, c.b, 2j * math.pi * network.hertz * c.farads) for c in network.capacitors]
    branches += [(network.contacts[n].a, network.contacts[n].b, 1e3) for n in closed]
    branches += [(n, EARTH, 1e-12) for n in names]
    for s in network.sources:
        branches.append((s.a, s.b, 1 / s.ohms))
        for node, sign in ((s.a, 1), (s.b, -1)):
            if node != EARTH:
                i[index[node]] += sign * s.volts / s.ohms
    for a, b, g in branches:
        for p, q in ((a, b), (b, a)):
            if p != EARTH:
                y[index[p], index[p]] += g
                if q != EARTH:
                    y[index[p], index[q]] -= g
    return dict(zip(names, np.linalg.solve(y, i), strict=True))


@given(seeds, st.integers(0, 2**16))
@often(8)
def test_the_ports_give_the_volts_of_the_whole_equations(seed, dice):
    network = derive(one_room(seed)).network
    die = random.Random(dice)
    state = {p: die.getrandbits(1) for p in network.positions}
    solver = Solver(network)
    found = solver.voltages([state])[0]
    whole = dense(network, solver.closed(state))
    for load in network.loads:
        expected = abs(whole.get(load.a, 0) - whole.get(load.b, 0))
        assert solver.across(found, load.a, load.b) == pytest.approx(expected, abs=1e-3)


@given(seeds, st.integers(0, 2**16))
@often(12)
def test_currents_cancel_in_every_cable(seed, dice):
    """What goes out in a cable comes back in it, or it would heat the steel beside it."""
    plan = derive(one_room(seed))
    solver = Solver(plan.network)
    ohms = {w.key: w.ohms for w in plan.network.wires}
    die = random.Random(dice)
    for _ in range(4):
        volts = solver.voltages([{p: die.getrandbits(1) for p in plan.network.positions}])[0]
        for run in plan.runs():
            total = sum(
                (volts[solver.index[end_node(c.key, c.a)]] - volts[solver.index[end_node(c.key, c.b)]])
                / ohms[c.key]
                for c in run.conductors
            )
            assert abs(total) < 2e-3, run.key


# --- logic ---------------------------------------------------------------------------


def test_patterns_and_first_states():
    for n in range(1, 5):
        for i in range(n):
            assert pattern(i, n) == sum(1 << s for s in range(1 << n) if s >> i & 1)
    assert first_state(0) is None
    assert first_state(0b1000) == 3


def walk(network, start, state):
    """The nodes joined to ``start`` in one state, by an ordinary breadth-first search."""
    near = {}
    joins = [(w.a, w.b) for w in network.wires if w.key != "electrode"]
    joins += [(c.a, c.b) for c in network.contacts if standing(c.position, state) == c.closed_at]
    for a, b in joins:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    seen, queue = {start}, deque([start])
    while queue:
        for there in near.get(queue.popleft(), ()):
            if there not in seen:
                seen.add(there)
                queue.append(there)
    return seen


@given(seeds)
@often(12)
def test_all_states_at_once_are_each_state_on_its_own(seed):
    network = derive(one_room(seed)).network
    positions = network.positions[:6]
    found = reach(network, positions)
    for s in range(1 << len(positions)):
        state = {p: s >> i & 1 for i, p in enumerate(positions)}
        on_line, on_neutral = (
            walk(network, network.lines[0], state),
            walk(network, network.neutrals[0], state),
        )
        for node in network.nodes:
            assert bool(found.line.get(node, 0) >> s & 1) == (node in on_line)
            assert bool(found.neutral.get(node, 0) >> s & 1) == (node in on_neutral)


def test_too_many_positions_are_refused(boot_plan):
    with pytest.raises(ValueError, match="more than 20"):
        reach(boot_plan.network, [DeviceKey(f"S{n}", "K1") for n in range(21)])


def test_gray_moves_one_switch_at_a_time():
    for n in range(1, 6):
        states = gray(n)
        assert len(set(states)) == 2**n
        assert all(sum(a != b for a, b in zip(x, y, strict=True)) == 1 for x, y in itertools.pairwise(states))


# --- the proof ------------------------------------------------------------------------


@given(seeds)
@often(40)
def test_every_control_of_every_room_is_proven(seed):
    plan = derive(one_room(seed))
    for control, proof in prove(plan).items():
        assert proof.proven, (control, proof.reasons)
        assert not proof.sampled
        assert len(proof.rows) == 2 ** len(plan.drawing.get(control, Control).positions)
    assert all(always_on(plan).values())


def test_the_generator_reaches_every_pattern():
    """Its reach: each pattern in at least a twentieth of the drawings."""
    seen: dict[str, int] = {}
    for seed in range(200):
        for name in patterns(one_room(seed, attach=False)):
            seen[name] = seen.get(name, 0) + 1
    wanted = {
        "rectangle",
        "L",
        "T",
        "skew",
        "1 positions",
        "2 positions",
        "3 positions",
        "half-switched outlet",
        "fan and light",
        "several lights",
        "strap",
        "linked alarms",
        "neutral everywhere",
        "feed-through",
        "feed switch",
        "feed light",
        "feed cheapest",
    }
    assert wanted <= set(seen)
    assert min(seen[name] for name in wanted) >= 10, seen


@given(seeds)
@often(10)
def test_logic_and_volts_light_the_same_lamps(seed):
    network = derive(one_room(seed)).network
    positions = network.positions[:5]
    found = reach(network, positions)
    solver = Solver(network)
    for s in range(1 << len(positions)):
        volts = solver.voltages([{p: s >> i & 1 for i, p in enumerate(positions)}])[0]
        for load in network.loads:
            lit = band(solver.across(volts, load.a, load.b), 120) == "lit"
            assert lit == bool(found.lit(load.a, load.b) >> s & 1), (load.key, s)


def test_a_switched_neutral_fails_though_the_lamp_obeys(boot_plan):
    """Swap what the two leads of one lamp are joined to: it lights as meant, and is live when dark."""
    network = boot_plan.network
    lamp = network.loads[0]
    swap = {lamp.a: lamp.b, lamp.b: lamp.a}
    wires = tuple(
        msgspec.structs.replace(w, a=swap.get(w.a, w.a), b=swap.get(w.b, w.b)) for w in network.wires
    )
    # Crossing both leads turns the lamp about: nothing is wrong with that.
    assert all(
        p.proven for p in prove_network(boot_plan, msgspec.structs.replace(network, wires=wires)).values()
    )
    simple = Network(
        120.0,
        60.0,
        (
            Wire("l", "P1.Q1", "lamp.black", 0.1),
            Wire("n", "lamp.white", "switch.line", 0.1),
            Wire("back", "switch.load", "P1.neutral", 0.1),
            Wire("bond", "P1.neutral", EARTH, 1e-3),
        ),
        (
            Contact("breaker:Q1", "P1.bus", "P1.Q1", BreakerOf("Q1"), 1),
            Contact("s", "switch.line", "switch.load", DeviceKey("S1", "K1"), 1),
        ),
        (Load("A1", "lamp.black", "lamp.white", 240.0),),
        (),
        (VoltageSource("P1.bus", "P1.neutral", 120, 0.04),),
        (),
        ("P1.neutral",),
        ("P1.bus",),
    )
    plan = msgspec.structs.replace(boot_plan, drawing=one_control(boot_plan), network=simple)
    (proof,) = prove_network(plan, simple).values()
    assert not proof.proven
    assert any("dark with a live terminal" in r for r in proof.reasons)


@pytest.mark.parametrize(
    ("ohms", "proven", "faint"), [(0.1, True, False), (12.0, False, True), (600.0, False, False)]
)
def test_what_is_only_lost_on_the_way_is_told_apart(boot_plan, ohms, proven, faint):
    """A lamp joined as meant by too much wire is faint; where nothing of it is left it is dark, whatever the
    cause.
    """
    network = Network(
        120.0,
        60.0,
        (
            Wire("l", "P1.Q1", "switch.line", ohms),
            Wire("s", "switch.load", "lamp.black", 0.1),
            Wire("back", "lamp.white", "P1.neutral", 0.1),
            Wire("bond", "P1.neutral", EARTH, 1e-3),
        ),
        (
            Contact("breaker:Q1", "P1.bus", "P1.Q1", BreakerOf("Q1"), 1),
            Contact("s", "switch.line", "switch.load", DeviceKey("S1", "K1"), 1),
        ),
        (Load("A1", "lamp.black", "lamp.white", 60.0),),
        (),
        (VoltageSource("P1.bus", "P1.neutral", 120, 0.04),),
        (),
        ("P1.neutral",),
        ("P1.bus",),
    )
    plan = msgspec.structs.replace(boot_plan, drawing=one_control(boot_plan), network=network)
    (proof,) = prove_network(plan, network).values()
    assert (proof.proven, proof.faint) == (proven, faint)


def one_control(plan):
    items = {h: i for h, i in plan.drawing.items.items() if not isinstance(i, Control)}
    return msgspec.structs.replace(plan.drawing, items={**items, "K1": Control(("S1",), (LoadRef("A1"),))})


def test_a_control_without_a_fed_load_is_not_proven(boot_room):
    bare = msgspec.structs.replace(
        boot_room, items={h: i for h, i in boot_room.items.items() if h[0] not in "PC"}
    )
    assert prove(derive(bare)) == {}
    unfed = msgspec.structs.replace(
        boot_room, items={h: i for h, i in boot_room.items.items() if h[0] != "C"}
    )
    assert not any(p.proven for p in prove(derive(unfed)).values())


# --- what is still live ----------------------------------------------------------------


@given(seeds)
@often(10)
def test_with_its_breakers_off_nothing_in_a_box_of_one_circuit_is_live(seed):
    plan = derive(one_room(seed))
    for handle, box in plan.boxes.items():
        if not box.ends:
            continue
        off = still_live(plan, handle, list(box.circuits))
        assert all(f.found in ("dead", "induced") for f in off)
        on = still_live(plan, handle)
        assert any(f.found == "live" for f in on), "with its breaker on, something is"
        assert {f.conductor for f in on} == {c.key for c in box.ends if c.insulated}


def test_a_switch_off_leaves_the_feed_beside_it_live(boot_plan):
    found = still_live(boot_plan, "S1", (), {DeviceKey("S1", "K1"): 0, DeviceKey("S2", "K1"): 0})
    feed = [f for f in found if boot_plan.conductor(f.conductor).net == LINE]
    assert feed
    assert all(f.found == "live" for f in feed)


def test_still_live_asks_the_worst_over_all_positions(boot_plan):
    """Each conductor's reading is at least that of any one state."""
    worst = {f.conductor: f.v0 for f in still_live(boot_plan, "S1")}
    solver = Solver(boot_plan.network)
    for s1 in (0, 1):
        for s2 in (0, 1):
            nodes = [f"{k}@S1" for k in worst]
            (read,) = solver.readings(
                nodes, "P1.ground", [{DeviceKey("S1", "K1"): s1, DeviceKey("S2", "K1"): s2}]
            )
            for key, (v0, _) in zip(worst, read, strict=True):
                assert v0 <= worst[key] + 0.5
