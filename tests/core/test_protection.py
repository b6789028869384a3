"""Protective outlets: what hangs on their load side is covered, what is joined ahead is not, and leaks are
seen.
"""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.check import RANK, check, open_findings
from fjeld.derive.keys import LINE, NEUTRAL, DeviceKey, end_node
from fjeld.derive.memo import Memo
from fjeld.derive.network import Load
from fjeld.derive.plan import derive
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable, Control, LoadRef, Point
from fjeld.formats.jobfile import decode, encode
from fjeld.propose.fixes import fix
from fjeld.propose.offers import offer
from fjeld.prove.proof import prove
from fjeld.prove.solve import Solver
from tests.houses import guarded
from tests.often import often

seeds = st.integers(0, 600)


def revised(drawing, **fields):
    """The drawing with fields of some items set anew."""
    for handle, new in fields.items():
        drawing = apply(drawing, Revise(handle, new).plan(drawing))
    return drawing


@pytest.fixture(scope="module")
def chain(boot_room):
    """The outlets of the boot room on a plain breaker: O4 protective, C10 beyond it on its load side; C9 and
    C12 elsewhere.
    """
    return revised(boot_room, Q2={"protection": ""}, O4={"protective": True}, C10={"load_side": True})


def of_rule(plan, rule, only_open=True):
    found = open_findings(plan) if only_open else check(plan)
    return [f for f in found if f.rule.id == rule]


def landed(plan, box):
    """Net → terminals of the device in a box."""
    return {
        str(j.net): {at.terminal for at in j.landings if at.device == DeviceKey(box)}
        for j in plan.boxes[box].joints
    }


def test_what_lies_beyond_the_load_side_is_behind_the_device(chain):
    tree = derive(chain).circuits["Q2"].tree
    assert tree.behind == {"O5": "O4", "O1": "O4"}
    assert tree.devices_before("O1") == ("O4",)
    assert tree.devices_before("O3") == ()


def test_line_and_load_are_four_screws_and_two_nets(chain):
    plan = derive(chain)
    at = landed(plan, "O4")
    assert at["L"] == {"line brass"}
    assert at["N"] == {"line silver"}
    assert at["L>O4"] == {"load brass"}
    assert at["N>O4"] == {"load silver"}
    nets = {str(c.net) for c in plan.boxes["O1"].ends if c.insulated}
    assert nets == {"L>O4", "N>O4"}


def test_joined_ahead_the_load_screws_stay_free(chain):
    plan = derive(revised(chain, C10={"load_side": False}))
    at = landed(plan, "O4")
    assert at["L"] == {"line brass"}
    assert not any("load" in name for names in at.values() for name in names)
    assert {c.net for c in plan.boxes["O1"].ends if c.insulated} == {LINE, NEUTRAL}


def test_a_switch_ahead_takes_line_back_from_the_load_side_of_what_it_works(chain):
    """S3 works half of O5, which hangs beyond O4: what goes out through the device comes home through it."""
    plan = derive(chain)
    nets = {str(c.net) for c in plan.boxes["S3"].ends if c.insulated and c.cable == "C9"}
    assert nets == {"L", "N", "L>O4", "SL:K2"}
    assert prove(plan)["K2"].proven


def leaking(network, node, ohms):
    """The network with a leak from a node to the ground bar."""
    leak = Load("leak", node, network.neutrals[0].replace("neutral", "ground"), ohms)
    return replace(network, loads=(*network.loads, leak))


@pytest.mark.parametrize(
    ("cable", "by_device", "by_breaker"), [("C11", True, True), ("C10", True, True), ("C13", False, True)]
)
def test_a_leak_shows_where_it_is_and_is_as_large_as_ohm_says(chain, cable, by_device, by_breaker):
    plan = derive(revised(chain, Q2={"protection": "ground-fault"}))
    hot = next(c for r in plan.runs() for c in r.conductors if r.cable == cable and c.net.role == "line")
    network = leaking(plan.network, end_node(hot.key, hot.b), 15_000.0)
    solver = Solver(network)
    volts = solver.voltages([{}])[0]
    missing = {r.key: solver.residual(volts, r) for r in network.residuals}
    assert set(missing) == {"O4", "breaker:Q2"}
    assert missing["O4"] == pytest.approx(0.008 if by_device else 0.0, abs=2e-4)
    assert missing["breaker:Q2"] == pytest.approx(0.008 if by_breaker else 0.0, abs=4e-4)


def test_loads_on_both_sides_of_a_device_are_told_and_fail_in_the_proof(chain):
    both = revised(chain, K2={"loads": (LoadRef("O5"), LoadRef("O2"))}, O5={"va": 100.0}, O2={"va": 100.0})
    plan = derive(both)
    (finding,) = of_rule(plan, "one-side")
    assert finding.handles == ("K2", "O4")
    proof = prove(plan)["K2"]
    assert not proof.proven
    assert any(reason.startswith("with S3 up O4 opens") for reason in proof.reasons)
    edit = fix(plan, finding, Mint(both.items))
    assert prove(derive(apply(both, edit.plan(both))))["K2"].proven
    bath = derive(revised(both, R1={"use": "bath"}))
    (finding,) = of_rule(bath, "one-side")
    assert fix(bath, finding, Mint(both.items)) is None, "the outlets there want the device: a person chooses"


def test_covered_and_bare_outlets_are_told_apart(boot_room, chain):
    bathroom = revised(chain, R1={"use": "bath"})
    plan = derive(bathroom)
    (bare,) = of_rule(plan, "ground-fault")
    assert "O2" in bare.words
    assert "O3" in bare.words
    assert "O1" not in bare.words
    (covered,) = [f for f in of_rule(plan, "ground-fault", only_open=False) if f.place == "covered"]
    assert covered.handles == ("Q2", "O4")
    assert covered.words.startswith("O1, O5 are covered by O4")
    ahead = derive(revised(bathroom, C10={"load_side": False}))
    (bare,) = of_rule(ahead, "ground-fault")
    assert "O1, O5 are fed past a protective outlet, joined ahead of it" in bare.words


def test_the_fix_takes_the_load_side_where_that_covers_all_else_the_breaker(chain):
    bath = revised(chain, R1={"use": "bath"}, C10={"load_side": False})
    (bare,) = of_rule(derive(bath), "ground-fault")
    edit = fix(derive(bath), bare, Mint(bath.items))
    assert apply(bath, edit.plan(bath)).items["Q2"].protection == "ground-fault"
    near = revised(bath, O2={"protective": True}, O3={"protective": True})
    (bare,) = of_rule(derive(near), "ground-fault")
    edit = fix(derive(near), bare, Mint(near.items))
    after = apply(near, edit.plan(near))
    assert after.get("C10", Cable).load_side
    assert not of_rule(derive(after), "ground-fault")


def test_an_alarm_and_a_light_beyond_a_device_are_told(boot_room):
    mixed = revised(boot_room, Q1={"protection": ""}, V1={"circuit": "Q2"}, Q2={"protection": ""})
    placed = apply(mixed, Place({"C90": Cable("O4", "V1", "Q2", load_side=True)}, "").plan(mixed))
    plan = derive(revised(placed, O4={"protective": True}))
    (alarm,) = of_rule(plan, "alarm-behind")
    assert alarm.severity == "breach"
    assert alarm.words.startswith("V1 goes dark when O4 opens")
    lamp = apply(mixed, Place({"C90": Cable("O4", "A1", "Q2", load_side=True)}, "").plan(mixed))
    lamp = revised(
        lamp,
        O4={"protective": True},
        A1={"circuit": "Q2"},
        K1={"loads": tuple(map(LoadRef, ("A2", "A3", "A4")))},
    )
    (light,) = of_rule(derive(lamp), "light-behind")
    assert light.severity == "advice"


def test_a_mark_without_a_device_and_a_half_that_cannot_be_are_told_and_mended(chain):
    plain = revised(chain, O4={"protective": False})
    (finding,) = of_rule(derive(plain), "load-side-there")
    after = apply(plain, fix(derive(plain), finding, Mint(plain.items)).plan(plain))
    assert after.get("O4", Point).protective
    split = revised(chain, O5={"protective": True})
    (finding,) = of_rule(derive(split), "protective-whole")
    after = apply(split, fix(derive(split), finding, Mint(split.items)).plan(split))
    assert not of_rule(derive(after), "protective-whole")
    assert after.items["Q2"].protection == "ground-fault"


def test_one_protective_outlet_is_bought_for_each(chain):
    bought = {m.part: m.count for m in derive(chain).materials}
    assert bought["outlet-ground-fault"] == 1


def test_a_tree_on_offer_keeps_what_hangs_on_a_load_side(chain):
    held = revised(chain, C10={"state": "pinned"})
    plan = derive(held)
    found = offer(plan, "Q2", "cheapest", Mint(held.items))
    after = derive(apply(held, found.edit.plan(held)))
    assert not found.exact
    assert after.circuits["Q2"].tree.behind["O5"] == "O4"


def test_the_side_goes_out_in_the_file_and_comes_back(chain):
    assert decode(encode(chain)).get("C10", Cable).load_side


@given(seeds)
@often(40)
def test_wherever_load_sides_are_all_works_or_says_why(seed):
    plan = derive(guarded(seed))
    solver = Solver(plan.network)
    die = random.Random(seed)
    ohms = {w.key: w.ohms for w in plan.network.wires}
    astray = {f.handles[0] for f in of_rule(plan, "one-side")}
    full = {q for q, c in plan.circuits.items() if c.nets.overflow}
    # One control that makes a device open darkens all of its circuit.
    tripping = {plan.control_circuit(c) for c in astray}
    assert full == {plan.drawing.get(f.handles[0], Cable).circuit for f in of_rule(plan, "cable-conductors")}
    for control, proof in prove(plan).items():
        assert proof.proven or plan.control_circuit(control) in full | tripping, (control, proof.reasons)
        assert control not in astray or not proof.proven
    if astray or full:
        return
    for _ in range(3):
        state = {p: die.getrandbits(1) for p in plan.network.positions}
        volts = solver.voltages([state])[0]
        for watching in plan.network.residuals:
            assert solver.residual(volts, watching) < 1e-3, watching.key
        for run in plan.runs():
            at = {
                c.key: [volts[solver.index[end_node(c.key, box)]] for box in (c.a, c.b)]
                for c in run.conductors
            }
            assert abs(sum((a - b) / ohms[key] for key, (a, b) in at.items())) < 2e-3, run.key


@given(seeds)
@often(20)
def test_a_fix_of_protection_removes_its_finding_and_adds_none_worse(seed):
    drawing = guarded(seed)
    plan = derive(drawing)
    rules = {
        "ground-fault",
        "alarm-behind",
        "light-behind",
        "one-side",
        "load-side-there",
        "protective-whole",
    }
    standing, memo = open_findings(plan), Memo()
    before = {f.key for f in standing}
    for finding in (f for f in standing if f.rule.id in rules):
        edit = fix(plan, finding, Mint(drawing.items), memo, standing)
        if edit is None:
            continue
        after = open_findings(derive(apply(drawing, edit.plan(drawing)), memo), memo)
        assert finding.key not in {f.key for f in after}
        worse = [f for f in after if f.key not in before and RANK[f.severity] < RANK[finding.severity]]
        assert not worse, worse


def test_the_generator_of_load_sides_reaches_what_it_should():
    wanted = {
        "light",
        "outlet",
        "switch",
        "fan",
        "alarm",
        "1 devices before",
        "2 devices before",
        "astray",
        "switch behind",
        "a branch of what hangs on a load side",
    }
    seen = set()
    for seed in range(100):
        if wanted <= seen:
            break
        plan = derive(guarded(seed))
        for circuit in plan.circuits.values():
            for box in circuit.tree.behind:
                seen.add(plan.drawing.get(box, Point).kind)
                seen.add(f"{min(2, len(circuit.tree.devices_before(box)))} devices before")
            if any(n.beyond and n.branch for b in circuit.nets.bundles.values() for x in b for n in x.nets):
                seen.add("a branch of what hangs on a load side")
        seen |= {"astray" for _ in of_rule(plan, "one-side")}
        positions = {p for c in plan.drawing.of(Control).values() for p in c.positions}
        seen |= {"switch behind" for c in plan.circuits.values() if positions & {*c.tree.behind}}
    assert wanted <= seen, wanted - seen
