"""Ring finals: both ends in one breaker, spurs of one outlet, volts that go the shorter way round."""

import random
from itertools import combinations, permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.check import check, open_findings
from fjeld.derive.network import Load
from fjeld.derive.plan import derive
from fjeld.derive.tree import tree
from fjeld.drawing.building import Panel
from fjeld.drawing.changes import apply
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Cable, Circuit, Drawing, House, Point
from fjeld.drawing.validate import problems_of, require_valid
from fjeld.formats.jobfile import decode, encode
from fjeld.propose import rings
from fjeld.propose.attach import attached, settle
from fjeld.propose.fixes import fix
from fjeld.prove.faults import OpenConductor, with_fault
from fjeld.prove.proof import always_on
from fjeld.prove.solve import Solver
from fjeld.quantities import Fails, NotKnown, Passes
from tests.houses import inches, one_room
from tests.often import often


def sockets(count, breaker=32, loads=()):
    """A British room with so many sockets around its walls, joined one after the other, on one circuit."""
    items = {h: i for h, i in one_room(0, attach=False).items.items() if h == "R1"}
    items["house"] = House("Ring", practice="gb", unit="mm")
    items["P1"] = Panel("R1", 1, inches(18))
    items["Q1"] = Circuit("Sockets", breaker, "2.5", "residual")
    for n in range(count):
        va = loads[n] if n < len(loads) else None
        items[f"O{n + 1}"] = Point("outlet", "R1", n % 4 + 1, inches(24 + 16 * (n // 4)), circuit="Q1", va=va)
    before = "P1"
    for n in range(count):
        items[f"C{n + 1}"] = Cable(before, f"O{n + 1}", "Q1", by="person", state="pinned")
        before = f"O{n + 1}"
    return require_valid(Drawing(items))


def ring(count, **kind):
    """The same, closed."""
    drawing = sockets(count, **kind)
    edit = rings.close(derive(drawing), "Q1", Mint(drawing.items))
    return apply(drawing, edit.plan(drawing))


def of_rule(plan, rule):
    return [f for f in check(plan) if f.rule.id == rule]


@pytest.mark.parametrize("count", [1, 2, 3, 4, 9])
def test_a_chain_is_closed_and_every_cable_carries_line_and_neutral(count):
    plan = derive(ring(count))
    found = plan.circuits["Q1"].tree.ring
    assert set(found.boxes) == {f"O{n + 1}" for n in range(count)}
    assert len(found.cables) == count + 1
    assert not plan.circuits["Q1"].tree.loops
    for run in plan.runs():
        assert {str(c.net) for c in run.conductors} == {"L", "N", "PE"}
    at_panel = [
        c for run in plan.runs() for c in run.conductors if "P1" in (c.a, c.b) and c.net.role == "line"
    ]
    assert len(at_panel) == 2
    assert all(always_on(plan).values())
    assert [isinstance(f.verdict, Passes) for f in of_rule(plan, "ring-closed")] == [True]
    assert not [f for f in open_findings(plan) if f.rule.id in ("no-loops", "one-home-run", "ring-spur")]


def test_a_ring_broken_anywhere_still_feeds_all_and_one_of_two_breaks_does_not():
    plan = derive(ring(5))
    lines = [c.key for run in plan.runs() for c in run.conductors if c.net.role == "line"]
    for broken in lines:
        solver = Solver(with_fault(plan.network, OpenConductor(broken)))
        volts = solver.voltages([{}])[0]
        assert all(solver.across(volts, load.a, load.b) > 200 for load in plan.network.loads)
    twice = with_fault(with_fault(plan.network, OpenConductor(lines[1])), OpenConductor(lines[3]))
    solver = Solver(twice)
    volts = solver.voltages([{}])[0]
    assert any(solver.across(volts, load.a, load.b) < 100 for load in plan.network.loads)


@given(st.integers(2, 8), st.lists(st.floats(100, 3000), min_size=8, max_size=8))
@often(15)
def test_the_drop_is_what_the_nodal_equations_give(count, loads):
    """Without the source's own impedance and at the tables' temperature: the volts lost at the
    worst point.
    """
    drawing = ring(count, loads=tuple(loads))
    plan = derive(drawing)
    figures = plan.circuits["Q1"].figures
    network = plan.network
    hot = {g.id: g.there_and_back / 2 for g in plan.practice.catalogue.gauges}
    keys = {c.key: (c, run) for run in plan.runs() for c in run.conductors if c.insulated}
    wires = tuple(
        (
            replace(w, ohms=hot[keys[w.key][0].gauge] * plan.cables[keys[w.key][1].cable].route.length / 1000)
            if w.key in keys
            else replace(w, ohms=w.ohms * 1e-6)
        )
        for w in network.wires
    )
    # Each load draws its nominal current whatever its volts: one at a time, and summed.
    empty = replace(
        network, wires=wires, loads=(), sources=tuple(replace(s, ohms=1e-9) for s in network.sources)
    )
    at = figures.far
    nodes = f"{at}.brass", f"{at}.silver"
    lost = 0.0
    for n in range(count):
        amps = loads[n] / plan.practice.volts
        ohms = 100.0
        one = replace(empty, loads=(Load("probe", f"O{n + 1}.brass", f"O{n + 1}.silver", ohms),))
        solver = Solver(one)
        volts = solver.voltages([{}])[0]
        drop = solver.across(volts, "P1.Q1", "P1.neutral") - solver.across(volts, *nodes)
        lost += drop * amps / (solver.across(volts, f"O{n + 1}.brass", f"O{n + 1}.silver") / ohms)
    assert figures.drop.total == pytest.approx(lost, rel=5e-3, abs=1e-4)


def test_spurs_of_one_outlet_pass_and_longer_or_more_do_not():
    drawing = ring(5)
    items = dict(drawing.items)
    items["O6"] = Point("outlet", "R1", 2, inches(90), circuit="Q1")
    items["C20"] = Cable("O2", "O6", "Q1", by="person", state="pinned")
    one = derive(Drawing(items))
    assert "O6" not in one.circuits["Q1"].tree.ring.boxes
    assert not of_rule(one, "ring-spur")
    items["O7"] = Point("outlet", "R1", 2, inches(100), circuit="Q1")
    items["C21"] = Cable("O6", "O7", "Q1", by="person", state="pinned")
    longer = of_rule(derive(Drawing(items)), "ring-spur")
    assert [f.place for f in longer] == ["length"]
    items["C21"] = Cable("O2", "O7", "Q1", by="person", state="pinned")
    assert [f.place for f in of_rule(derive(Drawing(items)), "ring-spur")] == ["number"]


def test_thirty_two_amps_on_a_ring_are_a_question_of_its_legs_and_on_a_radial_are_not():
    closed = [f for f in check(derive(ring(4))) if f.rule.id == "ring-capacity"]
    assert len(closed) == 1
    assert isinstance(closed[0].verdict, Passes | NotKnown)
    fat = ring(4, breaker=32)
    thin = Drawing({**fat.items, "Q1": replace(fat.items["Q1"], gauge="1.0")})
    assert [isinstance(f.verdict, Fails) for f in check(derive(thin)) if f.rule.id == "ring-capacity"] == [
        True
    ]


@pytest.mark.parametrize(("breaker", "fails"), [(30, False), (32, False), (40, True), (63, True)])
def test_a_breaker_too_large_for_a_ring_is_a_danger(breaker, fails):
    found = of_rule(derive(ring(4, breaker=breaker)), "ring-breaker")
    assert [(f.severity, isinstance(f.verdict, Fails)) for f in found] == [("danger", True)] * fails


def test_a_ring_that_no_cable_closes_is_a_danger_with_a_fix():

    drawing = sockets(4)
    marked = Drawing({**drawing.items, "Q1": replace(drawing.items["Q1"], ring=True)})
    plan = derive(marked)
    (finding,) = of_rule(plan, "ring-closed")
    assert isinstance(finding.verdict, Fails)
    assert finding.severity == "danger"
    edit = fix(plan, finding, Mint(marked.items))
    after = derive(apply(marked, edit.plan(marked)))
    assert [isinstance(f.verdict, Passes) for f in of_rule(after, "ring-closed")] == [True]


def test_a_ring_is_opened_again_and_a_new_outlet_is_joined_to_it():
    drawing = ring(4)
    opened = apply(drawing, settle(drawing, rings.open_again(derive(drawing), "Q1"), Mint(drawing.items)))
    plan = derive(opened)
    assert plan.circuits["Q1"].tree.ring is None
    assert not plan.circuits["Q1"].tree.unfed
    items = {**drawing.items, "O9": Point("outlet", "R1", 3, inches(80), circuit="Q1")}
    more = derive(attached(Drawing(items), Mint(items)))
    assert not more.circuits["Q1"].tree.unfed
    assert more.circuits["Q1"].tree.ring is not None


def test_two_loops_are_no_ring():
    cables = {"C1": ("P1", "O1"), "C2": ("O1", "O2"), "C3": ("O2", "P1"), "C4": ("O1", "O2")}
    found = tree(Handle("P1"), ["O1", "O2"], cables, ring=True)
    assert found.ring is None
    assert len(found.loops) == 2
    inner = {"C1": ("P1", "O1"), "C2": ("O1", "O2"), "C3": ("O2", "O3"), "C4": ("O3", "O1")}
    found = tree(Handle("P1"), ["O1", "O2", "O3"], inner, ring=True)
    assert found.ring is None, "a loop that does not come back to the source"
    assert len(found.loops) == 1


def test_north_american_practice_has_none(boot_room):
    items = {**boot_room.items, "Q2": replace(boot_room.items["Q2"], ring=True)}
    assert "Q2.ring" in [p.path for p in problems_of(Drawing(items))]


def test_a_ring_goes_out_and_comes_back():
    drawing = ring(3)
    assert decode(encode(drawing)) == drawing


def test_a_ring_in_a_room_that_is_not_closed_has_no_length_and_no_drop():
    drawing = ring(3)
    room = drawing.items["R1"]
    open_room = replace(drawing, items={**drawing.items, "R1": replace(room, sides=room.sides[:1])})
    plan = derive(open_room)
    assert all(cable.route is None for cable in plan.cables.values())
    assert plan.circuits["Q1"].figures.drop.total == 0
    assert of_rule(plan, "reachable")


def scattered(die, count):
    """Boxes at random on a floor, and what each way between two of them costs."""
    root, *boxes = [Handle("P1"), *(Handle(f"O{n}") for n in range(1, count + 1))]
    at = {h: (die.random() * 9000, die.random() * 6000) for h in (root, *boxes)}
    cost = {
        (a, b): abs(at[a][0] - at[b][0]) + abs(at[a][1] - at[b][1]) + 400 for a in at for b in at if a != b
    }
    return root, boxes, cost


@pytest.mark.parametrize("seed", range(24))
def test_a_tour_of_few_boxes_is_the_shortest_of_all_orders(seed):
    root, boxes, cost = scattered(random.Random(seed), 1 + seed % 7)
    shortest = min(rings.length(root, way, cost) for way in permutations(boxes))
    found = rings.tour(root, boxes, cost)
    assert sorted(found) == sorted(boxes)
    assert rings.length(root, found, cost) == pytest.approx(shortest)


@pytest.mark.parametrize("seed", range(6))
def test_a_tour_of_many_boxes_passes_each_once_and_no_turn_of_a_stretch_shortens_it(seed):
    root, boxes, cost = scattered(random.Random(seed), rings.EXACT + 1 + 3 * seed)
    found = rings.tour(root, boxes, cost)
    assert sorted(found) == sorted(boxes)
    length = rings.length(root, found, cost)
    for a, b in combinations(range(len(found) + 1), 2):
        turned = (*found[:a], *reversed(found[a:b]), *found[b:])
        assert rings.length(root, turned, cost) >= length - 1e-6
