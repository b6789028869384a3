"""The houses of the demo: complete as surveyed, laid out, wired and proven, under both practices."""

import random
import subprocess

import msgspec
import pytest

from fjeld.check import open_findings
from fjeld.demo import job_file
from fjeld.derive.keys import SPARE
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Join, Room, Storey
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.model import Control, Point
from fjeld.drawing.old_box import OldBox
from fjeld.formats.jobfile import decode, encode
from fjeld.formats.spice import lamp_volts, of_groups
from fjeld.prove.proof import prove
from fjeld.quantities import Length
from tests.core.test_spice import agree

HOUSES = ("tarn-house", "chandlers-loft")
#: What is left open on purpose, by rule.
OPEN = {
    "tarn-house": {"outlet-reach", "measured", "sheet-blank", "box-reserve", "light-wanted", "volt-drop"},
    "chandlers-loft": {"heights-match", "light-wanted", "switch-latch", "breaker-gauge", "volt-drop-other"},
}


@pytest.fixture(scope="module", params=HOUSES)
def house(request):
    return request.param, derive(decode(job_file(request.param)))


def test_every_room_closes_and_every_opening_faces(house):
    _, plan = house
    assert all(where.closed for where in plan.rooms.values())
    assert all(m.facing for m in plan.placement.misfits)
    assert plan.placement.spread
    assert len(plan.drawing.of(Storey)) == 1
    assert plan.drawing.of(Join)
    assert plan.drawing.of(Body)
    assert any(old.cables for old in plan.drawing.of(OldBox).values())


def test_every_box_is_fed_and_every_control_proven_in_all_its_states(house):
    _, plan = house
    assert all(p.inside for p in plan.placed.values())
    assert not [h for q in plan.circuits.values() for h in q.tree.unfed]
    proofs = prove(plan)
    assert set(proofs) == set(plan.drawing.of(Control))
    assert all(p.proven and not p.sampled for p in proofs.values())


def test_what_is_open_was_left_open_on_purpose(house):
    name, plan = house
    assert {f.rule.id for f in open_findings(plan)} == OPEN[name]


def test_the_file_reads_back_the_same(house):
    _, plan = house
    assert decode(encode(plan.drawing)) == plan.drawing


def test_one_group_of_circuits_against_a_stock_simulator(house, tmp_path):
    _, plan = house
    group = max(plan.together(), key=lambda g: len(plan.network_of(g).positions))
    network = plan.network_of(group)
    dice = random.Random(7)
    states = [{p: dice.getrandbits(1) for p in network.positions} for _ in range(6)]
    agree(network, states, tmp_path)


def test_the_exported_netlist_reads_what_the_proof_reads(house, tmp_path):
    """A stock simulator on the file as exported, every switch down: each load within a tenth of a volt of the
    proof.
    """
    _, plan = house
    networks = [n for group in plan.together() if (n := plan.network_of(group)) is not None]
    file = tmp_path / "network.cir"
    file.write_text(of_groups(networks, {}))
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=120)
    read = lamp_volts(done.stdout, *networks)
    compared = 0
    for proof in prove(plan).values():
        for row in proof.rows:
            if not any(row.setting):
                for key, volts in row.volts.items():
                    assert read[key] == pytest.approx(volts, abs=0.1), key
                    compared += 1
    assert compared > 5


def test_circuits_proven_apart_are_proven_together(house):
    """The whole network at once, in a few states, lights what the groups' networks light."""
    _, plan = house
    from fjeld.prove.solve import Solver, band

    whole = Solver(plan.network)
    dice = random.Random(11)
    states = [{p: dice.getrandbits(1) for p in plan.network.positions} for _ in range(3)]
    rows = whole.voltages(states)
    for group in plan.together():
        network = plan.network_of(group)
        if not network.loads:
            continue
        alone = Solver(network).voltages([{p: s[p] for p in network.positions} for s in states])
        for load in network.loads:
            for row, mine in zip(rows, alone, strict=True):
                volts = plan.practice.volts
                seen = Solver(network).across(mine, load.a, load.b)
                assert band(whole.across(row, load.a, load.b), volts) == band(seen, volts), load.key


def test_with_a_memo_the_plan_is_the_same(house):
    _, plan = house
    memo = Memo()
    derive(plan.drawing, memo)
    light = next(h for h, p in plan.drawing.of(Point).items() if p.kind == "light" and not p.wall)
    x = plan.drawing.items[light].x.mm
    moved = apply(plan.drawing, Revise(light, {"x": Length(x + 120.0)}).plan(plan.drawing))
    with_memo, without = derive(moved, memo), derive(moved)
    for field in ("rooms", "placed", "marks", "circuits", "cables", "holes", "boxes", "network", "materials"):
        assert getattr(with_memo, field) == getattr(without, field), field


def test_moving_a_lamp_routes_only_its_own_room_again(house):
    _, plan = house
    memo = Memo()
    derive(plan.drawing, memo)
    ran = dict(memo.ran)
    light = next(h for h, p in plan.drawing.of(Point).items() if p.kind == "light" and not p.wall)
    x = plan.drawing.items[light].x.mm
    derive(apply(plan.drawing, Revise(light, {"x": Length(x + 120.0)}).plan(plan.drawing)), memo)
    again = {stage: n - ran.get(stage, 0) for stage, n in memo.ran.items()}
    assert again["lanes"] == 1
    assert again["place"] == again["mark"] == 1
    assert again["cable"] < ran["cable"] / 3, "only cables that lead past or to the lamp"
    assert again["boxes"] == 0, "no box holds other conductors than before"
    assert len(plan.rooms) > 4


def test_every_conductor_of_the_british_house_says_what_it_is():
    """No core is used as line or neutral in a colour that says otherwise, unless sleeved at both ends."""
    plan = derive(decode(job_file("chandlers-loft")))
    three_core = sleeved = 0
    for run in plan.runs():
        three_core += run.kind.insulated == 3
        assert run.kind.insulated <= 3, "there is no flat four-core"
        assert run.conductors[-1].gauge == run.kind.ground
        for c in run.conductors:
            if not c.insulated or c.net == SPARE:
                continue
            plain = "BU" if c.net.role == "neutral" else "BN"
            assert c.marked == (c.colour != plain), c
            sleeved += c.marked
    assert three_core
    assert sleeved


def test_the_ground_of_a_ceiling_joist_run_stays_in_its_storey(house):
    _, plan = house
    for handle, cable in plan.cables.items():
        ends = {plan.drawing.items[plan.placed[e].room].storey for e in (cable.cable.a, cable.cable.b)}
        if len(ends) == 1:
            levels = [plan.rooms[plan.placed[e].room].level for e in (cable.cable.a, cable.cable.b)]
            tops = [plan.rooms[plan.placed[e].room].height for e in (cable.cable.a, cable.cable.b)]
            highest = max(p[2] for leg in cable.route.legs for p in (leg.start, leg.end))
            assert highest <= max(levels) + max(tops) + 300.0, handle


def test_a_room_renamed_changes_no_cable(house):
    _, plan = house
    room = next(iter(plan.drawing.of(Room)))
    item = msgspec.structs.replace(plan.drawing.items[room], name="Elsewhere")
    after = derive(msgspec.structs.replace(plan.drawing, items={**plan.drawing.items, room: item}))
    assert after.cables == plan.cables


def test_what_is_on_the_panel_already_takes_its_ways():
    plan = derive(decode(job_file("tarn-house")))
    panel = plan.drawing.items["P1"]
    assert panel.free() == [2, 4, 6, *range(8, 17)]
    assert len(plan.circuits) <= len(panel.free())
    full = Revise("P1", {"ways": 12})
    assert any(
        f.rule.id == "panel-ways" for f in open_findings(derive(apply(plan.drawing, full.plan(plan.drawing))))
    ) is (len(plan.circuits) > 8)
    small = Revise("P1", {"ways": 10})
    assert any(
        f.rule.id == "panel-ways"
        for f in open_findings(derive(apply(plan.drawing, small.plan(plan.drawing))))
    )
