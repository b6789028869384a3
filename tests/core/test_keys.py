"""The names of what is wired: each text is read back to the value that wrote it, and nothing else is read."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fjeld
from fjeld.derive.keys import (
    GROUND,
    LINE,
    LINE_2,
    NEUTRAL,
    SPARE,
    BreakerOf,
    DeviceKey,
    JointKey,
    Net,
    NoSuchKey,
    parse_device,
    parse_net,
    standing,
    strap,
    switched,
    traveller,
)
from fjeld.derive.plan import derive
from tests.houses import one_room

numbers = st.integers(1, 400)
nets = st.one_of(
    st.sampled_from([GROUND, SPARE, Net("link")]),
    st.builds(lambda n: switched(f"K{n}"), numbers),
    st.builds(lambda n: strap(f"K{n}"), numbers),
    st.builds(
        lambda n, pair, s: traveller(f"K{n}", pair, s), numbers, st.integers(1, 12), st.sampled_from("ab")
    ),
    st.builds(
        lambda net, device, branch: net.behind(device).in_branch(branch),
        st.sampled_from([LINE, LINE_2, NEUTRAL]),
        st.one_of(st.just(""), st.builds("O{}".format, numbers)),
        st.one_of(st.just(""), st.builds("C{}{}".format, numbers, st.sampled_from("bcdefghi"))),
    ),
)


@given(nets)
def test_a_net_is_read_back_from_its_text(net):
    assert parse_net(str(net)) == net


@given(nets, nets)
def test_two_nets_have_two_texts(one, other):
    assert (str(one) == str(other)) is (one == other)


@pytest.mark.parametrize(
    "text",
    ["", "X", "SL", "T:K1.1c", "T:K1", "L>", "L/O3", "N>O3/C1", "L L", "N2", "SL2:K1", "L3", "SL:S1", "N:K1"],
)
def test_other_texts_are_no_net(text):
    with pytest.raises(NoSuchKey):
        parse_net(text)


@given(numbers, st.one_of(st.just(""), st.builds("K{}".format, numbers)))
def test_a_device_is_read_back_from_its_text(box, control):
    key = DeviceKey(f"S{box}", control)
    assert parse_device(str(key)) == key


@pytest.mark.parametrize("text", ["", "S", "S1:", "S1:S2", "s1", "S1:K1:K2", "breaker:Q1"])
def test_other_texts_are_no_device(text):
    with pytest.raises(NoSuchKey):
        parse_device(text)


def test_a_breaker_is_on_unless_its_circuit_is_off_and_a_switch_down_unless_it_is_up():
    assert standing(BreakerOf("Q1"), {}) == 1
    assert standing(BreakerOf("Q1"), {}, ["Q1"]) == 0
    assert standing(DeviceKey("S1", "K1"), {}) == 0
    assert standing(DeviceKey("S1", "K1"), {DeviceKey("S1", "K1"): 1}) == 1


@pytest.mark.parametrize("seed", range(12))
def test_every_joint_and_conductor_of_a_room_has_a_name_of_its_own(seed):
    plan = derive(one_room(seed))
    conductors = [c.key for run in plan.runs() for c in run.conductors]
    joints = [j.key for box in plan.boxes.values() for j in box.joints]
    assert len(set(conductors)) == len(conductors)
    assert len({*map(str, joints)}) == len({*joints}) == len(joints)
    assert all(
        JointKey(box, j.net, j.key.circuit, j.key.conductor) == j.key
        for box, b in plan.boxes.items()
        for j in b.joints
    )


#: How a wiring key is written or taken apart in text.
WRITTEN = re.compile(
    r"""["'](?:SL|T|C|breaker):|\}@|@\{|["']PE["']|["']IC["']"""
    r"""|partition\(["'][:/@]["']\)\[[02]\] *== *["'][LN]["']"""
)


def test_no_other_module_writes_a_key_or_takes_one_apart():
    package = Path(fjeld.__file__).parent
    written = {
        f"{path.relative_to(package)}: {line.strip()}"
        for path in package.rglob("*.py")
        if path.name != "keys.py"
        for line in path.read_text().splitlines()
        if WRITTEN.search(line)
    }
    assert not written
