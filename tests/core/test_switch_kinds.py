"""Dimmers, timers, sensors and pull chains: contacts of their own, in series, proven over all
their states.
"""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.derive.keys import DeviceKey, OwnContact, rest, stands
from fjeld.derive.plan import derive
from fjeld.drawing.model import Control, Drawing, Point
from fjeld.drawing.validate import problems_of, require_valid
from fjeld.formats.jobfile import decode, encode
from fjeld.prove.proof import always_on, prove
from fjeld.prove.solve import Solver
from tests.core.test_spice import agree
from tests.houses import one_room
from tests.often import often

seeds = st.integers(0, 400)


def with_kinds(seed):
    """A room whose controls are in part dimmers, timers and sensors, some lights with a chain."""
    drawing, die = one_room(seed), random.Random(seed)
    items = dict(drawing.items)
    for handle, control in drawing.of(Control).items():
        kinds = ("", "dimmer", "timer", "sensor") if len(control.positions) == 1 else ("", "dimmer")
        items[handle] = replace(control, device=die.choice(kinds))
    for handle, point in drawing.of(Point).items():
        if point.kind == "light":
            items[handle] = replace(point, chain=die.random() < 0.3)
    return require_valid(Drawing(items))


@given(seeds)
@often(40)
def test_every_control_is_proven_over_all_states_of_what_stands_in_it(seed):
    plan = derive(with_kinds(seed))
    for control, proof in prove(plan).items():
        assert proof.proven, (control, proof.reasons)
        kind = plan.drawing.get(control, Control).device
        own = {p.what for p in proof.positions if isinstance(p, OwnContact) and p.control}
        assert own == ({kind} if kind else set())
        assert len(proof.rows) == 2 ** len(proof.positions)
    assert all(always_on(plan).values()), "a chain pulled off is no missing line"


def test_the_generator_reaches_every_kind():
    seen = set()
    for seed in range(80):
        plan = derive(with_kinds(seed))
        seen |= {d.kind for box in plan.boxes.values() for d in box.devices}
    assert {"dimmer", "three-way dimmer", "four-way switch", "timer", "sensor", "light with chain"} <= seen


@pytest.mark.parametrize("seed", range(12))
def test_a_dimmer_stands_at_an_end_of_its_chain(seed):
    plan = derive(with_kinds(seed))
    for circuit in plan.circuits.values():
        for control, chain in circuit.nets.chains.items():
            item = plan.drawing.get(control, Control)
            if item.device and len(chain) > 1:
                assert item.positions[0] in (chain[0], chain[-1])


def boot(boot_room, kind, **light):
    """The boot room with its dryer's switch of a kind, and A1 as told."""
    items = dict(boot_room.items)
    items["K2"] = replace(items["K2"], device=kind)
    items["A1"] = replace(items["A1"], **light)
    return require_valid(Drawing(items))


@pytest.mark.parametrize("kind", ["timer", "sensor"])
def test_what_needs_a_neutral_of_its_own_gets_one(boot_room, kind):
    plan = derive(boot(boot_room, kind))
    neutral = next(j for j in plan.boxes["S3"].joints if j.net.role == "neutral")
    assert DeviceKey("S3", "K2") in {at.device for at in neutral.landings}
    part = {"timer": "timer-switch", "sensor": "sensor-switch"}[kind]
    assert {m.part: m.count for m in plan.materials}[part] == 1


def test_a_lamp_burns_only_with_switch_and_dimmer_both(boot_room):
    plan = derive(boot(boot_room, "dimmer"))
    own = OwnContact(DeviceKey("S3", "K2"), "dimmer")
    rows = {row.setting: row.bands["O5.upper"] for row in prove(plan)["K2"].rows}
    assert prove(plan)["K2"].positions == (DeviceKey("S3", "K2"), own)
    assert rows == {(0, 0): "dark", (1, 0): "dark", (0, 1): "dark", (1, 1): "lit"}
    assert rest(own) == 1
    assert stands(own, 0) == "dimmer of S3 for K2 down"


def test_a_chain_is_the_lights_own_and_leaves_the_others_alone(boot_room):
    plan = derive(boot(boot_room, "", chain=True))
    proof = prove(plan)["K1"]
    assert proof.proven
    chain = proof.positions.index(OwnContact(DeviceKey("A1"), "chain"))
    for row in proof.rows:
        others = {row.bands[load] for load in ("A2", "A3", "A4")}
        assert len(others) == 1
        assert row.bands["A1"] == ("dark" if row.setting[chain] == 0 else others.pop())


def test_a_chain_that_is_not_moved_lets_through(boot_room):
    plan = derive(boot(boot_room, "", chain=True))
    volts = Solver(plan.network).voltages([{DeviceKey("S1", "K1"): 1}])[0]
    solver = Solver(plan.network)
    read = {load.key: solver.across(volts, load.a, load.b) for load in plan.network.loads}
    assert (read["A1"] > 100) is (read["A2"] > 100)


def test_a_stock_simulator_agrees_over_their_states(boot_room, tmp_path):
    network = derive(boot(boot_room, "sensor", chain=True)).network
    die = random.Random(1)
    agree(network, [{p: die.getrandbits(1) for p in network.positions} for _ in range(6)], tmp_path)


def test_a_timer_among_several_switches_is_refused(boot_room):
    items = {**boot_room.items, "K1": replace(boot_room.items["K1"], device="timer")}
    assert "K1.device" in [p.path for p in problems_of(Drawing(items))]


def test_kinds_go_out_and_come_back(boot_room):
    drawing = boot(boot_room, "dimmer", chain=True)
    assert decode(encode(drawing)) == drawing
