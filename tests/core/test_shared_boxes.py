"""Several things in one box: a switch with an outlet, two positions of one control, two devices on
one yoke.
"""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.check import check, open_findings
from fjeld.derive.keys import DeviceKey
from fjeld.derive.plan import derive
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Remove
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Control, Drawing, Point
from fjeld.drawing.validate import problems_of, require_valid
from fjeld.formats.jobfile import decode, encode
from fjeld.propose.attach import attached, settle
from fjeld.propose.offers import offer
from fjeld.prove.proof import always_on, prove, still_live
from tests.houses import assert_balanced, one_room
from tests.often import often

seeds = st.integers(0, 400)


def shared(seed):
    """A room in which some switches and outlets sit in each other's boxes, now and then on one yoke."""
    drawing, die = one_room(seed, attach=False), random.Random(seed)
    items = dict(drawing.items)
    on_walls = [h for h, p in drawing.of(Point).items() if p.kind in ("switch", "outlet")]
    die.shuffle(on_walls)
    hosts = on_walls[: max(1, len(on_walls) // 3)]
    for handle in on_walls[len(hosts) :]:
        if die.random() < 0.5:
            host = die.choice(hosts)
            yoke = die.random() < 0.3 and not any(p.within == host for p in Drawing(items).of(Point).values())
            items[handle] = replace(items[handle], within=host, yoke=yoke)
    return require_valid(attached(Drawing(items), Mint(items)))


@given(seeds)
@often(40)
def test_whatever_shares_a_box_is_wired_proven_and_balanced(seed):
    plan = derive(shared(seed))
    if any(c.nets.overflow for c in plan.circuits.values()):
        return
    for circuit in plan.circuits.values():
        assert not circuit.tree.unfed
        assert {plan.home(b) for b in circuit.boxes} == {*circuit.tree.depth} - {circuit.source}
    for control, proof in prove(plan).items():
        assert proof.proven, (control, proof.reasons)
    assert all(always_on(plan).values())
    assert_balanced(plan, seed)
    check(plan)


def test_the_generator_reaches_what_it_should():
    seen = set()
    for seed in range(120):
        plan = derive(shared(seed))
        for box in plan.boxes.values():
            kinds = sorted({d.kind.split()[-1] for d in box.devices})
            seen.add("+".join(kinds))
            seen |= {"two circuits"} if len(box.circuits) > 1 else set()
            seen |= {"one yoke"} if any(d.shares for d in box.devices) else set()
        for control in plan.drawing.of(Control).values():
            homes = [plan.home(p) for p in control.positions]
            seen |= {"two positions in one box"} if len(set(homes)) < len(homes) else set()
    assert {"outlet+switch", "two circuits", "one yoke", "two positions in one box"} <= seen


def with_outlet_in(boot_room, **fields):
    """The boot room with O3 in the box of S1, which is on the other circuit."""
    items = {**boot_room.items, "O3": replace(boot_room.items["O3"], within="S1", **fields)}
    return require_valid(attached(Drawing(items), Mint(items)))


def test_a_switch_and_an_outlet_are_one_box_two_devices_two_circuits(boot_room):
    plan = derive(with_outlet_in(boot_room))
    assert "O3" not in plan.boxes
    box = plan.boxes["S1"]
    assert {d.key for d in box.devices} == {DeviceKey("S1", "K1"), DeviceKey("O3")}
    assert set(box.circuits) == {"Q1", "Q2"}
    assert box.kind.gangs == 2
    neutrals = [j for j in box.joints if j.net.role == "neutral"]
    assert {j.key.circuit for j in neutrals} == {"Q1", "Q2"}, "two neutrals, not joined"
    assert {c.conductor.partition(".")[0] for c in still_live(plan, "S1")} == {c.bundle for c in box.ends}


def test_on_one_yoke_they_take_one_gang_and_are_one_part(boot_room):
    apart, joined = derive(with_outlet_in(boot_room)), derive(with_outlet_in(boot_room, yoke=True))
    assert [sum(d.gangs for d in plan.boxes["S1"].devices) for plan in (apart, joined)] == [2, 1]
    yokes = [line for line in joined.boxes["S1"].needed.lines if "yoke" in line.what]
    assert [(line.count, line.each) for line in yokes] == [(2, 2.25)], "twice the largest conductor on it"
    bought = [{m.part: m.count for m in plan.materials} for plan in (apart, joined)]
    assert bought[1]["combination-device"] == 1
    assert bought[0]["outlet"] == bought[1]["outlet"] + 1


def test_a_yoke_without_a_host_is_a_device_as_any(boot_room):
    items = {**boot_room.items, "O3": replace(boot_room.items["O3"], yoke=True)}
    assert [d.gangs for d in derive(Drawing(items)).boxes["O3"].devices] == [1]


def test_two_positions_of_one_control_in_one_box_need_no_travellers_in_cables(boot_room):
    items = {**boot_room.items, "S2": replace(boot_room.items["S2"], within="S1")}
    plan = derive(attached(Drawing(items), Mint(items)))
    carried = {c.net.role for run in plan.runs() for c in run.conductors}
    assert "traveller" not in carried
    assert prove(plan)["K1"].proven
    travellers = [j for j in plan.boxes["S1"].joints if j.net.role == "traveller"]
    assert len(travellers) == 2
    assert all(
        {at.device for at in j.landings} == {DeviceKey("S1", "K1"), DeviceKey("S2", "K1")} for j in travellers
    )


def test_they_do_not_stand_in_each_others_place(boot_room):
    plan = derive(with_outlet_in(boot_room))
    assert not [f for f in open_findings(plan) if f.rule.id == "boxes-apart"]
    assert plan.placed["O3"].position == plan.placed["S1"].position


def test_a_tree_is_offered_over_the_boxes_there_are(boot_room):
    drawing = with_outlet_in(boot_room)
    found = offer(derive(drawing), "Q2", "cheapest", Mint(drawing.items))
    after = derive(apply(drawing, found.edit.plan(drawing)))
    assert not after.circuits["Q2"].tree.unfed


def test_a_host_taken_away_leaves_the_other_in_a_box_of_its_own(boot_room):
    drawing = with_outlet_in(boot_room)
    after = apply(drawing, settle(drawing, Remove("S1"), Mint(drawing.items)))
    assert after.items["O3"].within is None
    assert "O3" in derive(after).boxes


@pytest.mark.parametrize(
    ("handle", "fields"),
    [
        ("O3", {"within": "A1"}),
        ("O3", {"within": "O3"}),
        ("O3", {"within": "S99"}),
        ("A1", {"within": "S1"}),
        ("O3", {"within": "S1", "protective": True}),
    ],
)
def test_what_cannot_share_a_box_is_refused(boot_room, handle, fields):
    items = {**boot_room.items, handle: replace(boot_room.items[handle], **fields)}
    assert f"{handle}.within" in [p.path for p in problems_of(Drawing(items))]


def test_shared_boxes_go_out_and_come_back(boot_room):
    drawing = with_outlet_in(boot_room, yoke=True)
    assert decode(encode(drawing)) == drawing
