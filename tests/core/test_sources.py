"""Circuits that begin elsewhere than in the first panel: in a second one, or in an old box whose wires are
known in part.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.check import check, open_findings
from fjeld.derive.conductors import Conductor
from fjeld.derive.keys import BreakerOf
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.drawing.building import Panel
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Remove, Revise
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable, Circuit, Drawing, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import InvalidDrawing, problems_of, require_valid
from fjeld.formats.jobfile import decode, encode
from fjeld.propose.attach import attached, settle
from fjeld.propose.fixes import fix
from fjeld.prove.proof import prove
from fjeld.prove.solve import Solver
from fjeld.quantities import Fails, NotKnown, Passes
from tests.houses import assert_balanced, inches, one_room
from tests.often import often
from tests.old_boxes import found_cable

seeds = st.integers(0, 400)


def two_panels(seed):
    """A room whose lights are on a second panel, which a circuit of the first feeds."""
    drawing = one_room(seed, attach=False)
    lights = [q for q, c in drawing.of(Circuit).items() if c.name.startswith("Lights")]
    items = dict(drawing.items)
    items["Q90"] = Circuit("Feeder", 30, "10")
    items["P2"] = Panel("R1", 3, inches(30), ways=8, circuit="Q90")
    for q in lights:
        items[q] = replace(items[q], source="P2")
    return require_valid(attached(Drawing(items), Mint(items)))


#: As an outlet's box is often found: two cables, on the two screws of each side.
TWO_CABLES = (
    found_cable(1, ("black", "brass"), ("white", "silver"), ("bare", "joint 1"), gauge="14"),
    found_cable(2, ("black", "brass"), ("white", "silver"), ("bare", "joint 1"), gauge="14"),
)


def from_old(seed, cables=TWO_CABLES, **fields):
    """A room without a panel, all of it on one circuit that begins in an old box."""
    drawing = one_room(seed, attach=False)
    old = OldBox("R1", 1, inches(40), inches(14), holds="outlet", cables=cables, **fields)
    items = {h: i for h, i in drawing.items.items() if not isinstance(i, Panel | Circuit)}
    items |= {"E1": old, "Q1": Circuit("Found", 15, "14", source="E1", found="1" if cables else "")}
    for handle, point in drawing.of(Point).items():
        items[handle] = replace(point, circuit="Q1" if point.circuit else None)
    return require_valid(attached(Drawing(items), Mint(items)))


def read(drawing, *what, box="E1"):
    """The drawing with conductors (cable, lead, carries) of the old box as read."""
    old = drawing.items[box]
    cables = list(old.cables)
    for n, k, carries in what:
        leads = list(cables[n - 1].leads)
        leads[k - 1] = replace(leads[k - 1], carries=carries, read=True)
        cables[n - 1] = replace(cables[n - 1], leads=tuple(leads))
    return Drawing({**drawing.items, box: replace(old, cables=tuple(cables))})


def of_rule(plan, rule):
    return [f for f in check(plan) if f.rule.id == rule]


# --- a second panel --------------------------------------------------------------------


@given(seeds)
@often(20)
def test_what_is_on_a_second_panel_is_fed_proven_and_balanced(seed):
    plan = derive(two_panels(seed))
    feeder = plan.circuits["Q90"]
    assert feeder.panels == ("P2",)
    assert [(e.up, e.down) for e in feeder.tree.edges] == [("P1", "P2")]
    lights = next(c for c in plan.circuits.values() if c.source == "P2")
    assert lights.tree.root == "P2"
    assert not lights.tree.unfed
    for proof in prove(plan).values():
        assert proof.proven, proof.reasons
    assert_balanced(plan, seed)


def test_a_fed_panel_keeps_neutral_and_ground_apart_and_has_no_source_of_its_own():
    network = derive(two_panels(1)).network
    assert [(s.a, s.b) for s in network.sources] == [("P1.bus", "P1.neutral")]
    joined = [w for w in network.wires if {w.a, w.b} == {"P2.neutral", "P2.ground"}]
    assert not joined
    assert any({w.a, w.b} == {"P1.neutral", "P1.ground"} for w in network.wires)


def test_the_feeder_carries_what_hangs_on_the_panel_that_it_feeds():
    plan = derive(two_panels(3))
    feeder = plan.circuits["Q90"].figures
    beyond = [c.figures for c in plan.circuits.values() if c.source == "P2"]
    assert feeder.load.total == pytest.approx(sum(f.load.total for f in beyond))
    assert feeder.drop.total > 0


def test_the_feeders_breaker_makes_everything_beyond_dead():
    plan = derive(two_panels(5))
    on_second = [q for q, c in plan.circuits.items() if c.source == "P2"]
    group = next(g for g in plan.together() if "Q90" in g)
    assert {*on_second, "Q90"} <= {*group}
    network = plan.network_of(group)
    solver = Solver(network)
    lamps = [load for load in network.loads if load.key.startswith(("A", "V", "F"))]
    up = {p: 1 for p in network.positions}
    on, dead = solver.voltages([up])[0], solver.voltages([up], ["Q90"])[0]
    assert any(solver.across(on, load.a, load.b) > 100 for load in lamps)
    assert all(solver.across(dead, load.a, load.b) < 1 for load in lamps)
    assert BreakerOf("Q90") in {c.position for c in network.contacts}


@pytest.mark.parametrize(
    ("changed", "path"),
    [
        ({"P2": {"circuit": "Q77"}}, "P2.circuit"),
        ({"Q90": {"source": "P2"}}, "P2.circuit"),
        ({"Q1": {"source": "A1"}}, "Q1.source"),
        ({"Q1": {"found": "2"}}, "Q1.found"),
    ],
)
def test_a_feed_that_cannot_be_is_refused(changed, path):
    drawing = two_panels(2)
    items = {h: replace(i, **changed[h]) if h in changed else i for h, i in drawing.items.items()}
    assert path in [p.path for p in problems_of(Drawing(items))]
    with pytest.raises(InvalidDrawing):
        require_valid(Drawing(items))


def test_a_panel_taken_away_leaves_its_circuits_to_the_first():
    drawing = two_panels(4)
    after = apply(drawing, settle(drawing, Remove("P2"), Mint(drawing.items)))
    assert all(c.source is None for c in after.of(Circuit).values())
    plan = derive(after)
    assert all(not c.tree.unfed for c in plan.circuits.values())
    without = apply(drawing, settle(drawing, Remove("Q90"), Mint(drawing.items)))
    assert without.items["P2"].circuit is None
    derive(without)


# --- an old box ------------------------------------------------------------------------


@given(seeds)
@often(20)
def test_what_begins_in_an_old_box_is_wired_and_rests_on_what_nobody_read(seed):
    plan = derive(from_old(seed, volume=40.0))
    circuit = plan.circuits["Q1"]
    assert circuit.source == "E1"
    assert not circuit.tree.unfed
    assert plan.panel is None
    for control, proof in prove(plan).items():
        assert proof.proven, (control, proof.reasons)
        assert len(proof.assumes) == 2
    assert_balanced(plan, seed)
    for finding in of_rule(plan, "control-proven"):
        assert isinstance(finding.verdict, NotKnown)


@pytest.mark.parametrize("seed", range(6))
def test_nothing_of_an_old_box_passes_on_a_colour_or_a_landing(seed):
    plan = derive(from_old(seed))
    rules = ("source-line", "source-neutral", "source-ground", "source-breaker", "source-load", "box-fill")
    for rule in rules:
        mine = [f for f in of_rule(plan, rule) if "E1" in f.handles]
        assert mine
        assert all(isinstance(f.verdict, NotKnown) and f.verdict.reading for f in mine), rule


def test_readings_settle_one_thing_after_the_other():
    drawing = from_old(2, volume=40.0, clamps=False, breaker="4", breaker_read=True, beside=300.0)
    drawing = read(drawing, (1, 1, "line"), (1, 2, "neutral"), (1, 3, "ground"))
    plan = derive(drawing)
    for rule in ("source-line", "source-neutral", "source-ground", "source-breaker", "source-load"):
        (finding,) = of_rule(plan, rule)
        assert isinstance(finding.verdict, Passes), finding.words
    assert all(proof.proven and not proof.assumes for proof in prove(plan).values())
    assert all(isinstance(f.verdict, Passes) for f in of_rule(plan, "control-proven"))
    assert isinstance(plan.begun["E1"].verdict, Passes)


def test_a_line_that_a_switch_works_and_a_box_without_neutral_fail():
    loop = (found_cable(1, ("black", "the switch"), ("white", "the switch"), ("bare", "")),)
    drawing = from_old(1, loop, volume=20.0)
    drawing = read(drawing, (1, 1, "switched"), (1, 2, "line"), (1, 3, "ground"))
    (neutral,) = of_rule(derive(drawing), "source-neutral")
    assert isinstance(neutral.verdict, Fails)
    assert neutral.severity == "danger"
    drawing = read(from_old(1, loop), (1, 1, "switched"), (1, 2, "neutral"))
    (line,) = of_rule(derive(drawing), "source-line")
    assert isinstance(line.verdict, Fails)


def test_a_thin_cable_behind_the_breaker_is_a_danger_and_an_unread_one_a_question():
    thin = (found_cable(1, ("black", "brass"), ("white", "silver"), ("bare", ""), gauge="14"),)
    drawing = from_old(1, thin)
    twenty = Drawing({**drawing.items, "Q1": replace(drawing.items["Q1"], breaker=20, gauge="12")})
    mine = [f for f in of_rule(derive(twenty), "breaker-gauge") if "E1" in f.handles]
    assert [f.severity for f in mine] == ["danger"]
    edit = fix(derive(twenty), mine[0], Mint(twenty.items))
    assert apply(twenty, edit.plan(twenty)).items["Q1"].breaker == 15
    unread = derive(from_old(1, (replace(thin[0], gauge=""),)))
    (question,) = [f for f in of_rule(unread, "breaker-gauge") if "E1" in f.handles]
    assert isinstance(question.verdict, NotKnown)


def test_the_fill_counts_old_and_new_together():
    """Two 14/2 there on an outlet, one 14/2 more: 6 conductors, grounds as one, the yoke twice: 12
    + 2 + 4.
    """
    for seed in range(40):
        drawing = read(from_old(seed, volume=18.0, clamps=False), (1, 1, "line"), (1, 2, "neutral"))
        made = derive(drawing).begun["E1"]
        new = [c for c in made.box.ends if not c.bundle.startswith("cable ")]
        if sum(c.insulated for c in new) == 2:
            assert made.most.total == made.least.total == pytest.approx(18.0)
            assert isinstance(made.verdict, Passes)
            return
    raise AssertionError("no room began with a cable of two")


def test_what_is_joined_is_all_that_meets_there_and_the_device():
    drawing = read(from_old(3, volume=40.0, clamps=False), (1, 1, "line"), (1, 2, "neutral"))
    joints = {j.net.role: j for j in derive(drawing).begun["E1"].box.joints}
    line = joints["line"]
    assert [e for e in line.ends if e.startswith("cable")] == ["cable 1.1", "cable 2.1"]
    assert [at.terminal for at in line.landings] == ["brass"]
    assert line.connectors
    assert [e for e in joints["ground"].ends if e.startswith("cable")] == ["cable 1.3", "cable 2.3"]


def test_while_nobody_says_what_carries_the_line_its_end_waits_capped():
    joints = {j.net.role: j for j in derive(from_old(3)).begun["E1"].box.joints}
    assert joints["line"].how == "parked"
    assert "not known" in joints["line"].reason


def test_the_old_breaker_and_the_old_box_are_not_bought_but_the_joints_are():
    drawing = read(from_old(3), (1, 1, "line"), (1, 2, "neutral"))
    plan = derive(drawing)
    bought = {m.part: m for m in plan.materials}
    assert not any(part.startswith("breaker") for part in bought)
    assert any("E1" in m.handles for part, m in bought.items() if part.startswith("connector:"))
    assert not any("E1" in m.handles for part, m in bought.items() if part.startswith("box:"))


@pytest.mark.parametrize("make", [two_panels, from_old])
@pytest.mark.parametrize("seed", range(5))
def test_sources_go_out_come_back_and_are_remembered(make, seed):
    drawing = make(seed)
    assert decode(encode(drawing)) == drawing
    memo = Memo()
    first = derive(drawing, memo)
    again = derive(apply(drawing, Revise("R1", {"name": "Renamed"}).plan(drawing)), memo)
    assert again.materials == derive(again.drawing).materials
    assert {h: m.verdict for h, m in again.begun.items()} == {h: m.verdict for h, m in first.begun.items()}


def test_a_circuit_is_led_over_to_an_old_box_by_one_edit_and_back(boot_room):
    old = OldBox("R1", 3, inches(20), inches(14), holds="outlet", cables=TWO_CABLES)
    drawing = require_valid(Drawing({**boot_room.items, "E1": old}))
    over = apply(drawing, settle(drawing, Revise("Q1", {"source": "E1", "found": "1"}), Mint(drawing.items)))
    plan = derive(over)
    assert plan.circuits["Q1"].source == "E1"
    assert not plan.circuits["Q1"].tree.unfed
    assert "P1" not in {end for c in over.of(Cable).values() if c.circuit == "Q1" for end in (c.a, c.b)}
    back = apply(over, settle(over, Revise("Q1", {"source": None, "found": ""}), Mint(over.items)))
    plan = derive(back)
    assert plan.circuits["Q1"].source == "P1"
    assert not plan.circuits["Q1"].tree.unfed
    assert not plan.begun
    assert not [f for f in open_findings(plan) if f.rule.id.startswith("source-")]


def test_the_conductors_of_an_old_box_are_drawn_as_found():
    made = derive(from_old(3, (found_cable(1, ("black", "brass"), ("not seen", "")),))).begun["E1"]
    there = [c for c in made.box.ends if isinstance(c, Conductor) and c.bundle == "cable 1"]
    assert [c.colour for c in there] == ["BK", "?"]
