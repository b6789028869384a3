"""Circuits of two poles: a line on each leg of the supply, one neutral for both."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.check import check, open_findings
from fjeld.derive.keys import BreakerOf
from fjeld.derive.network import VoltageSource
from fjeld.derive.plan import derive
from fjeld.drawing.building import Panel
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Circuit, Control, Drawing, Point
from fjeld.drawing.validate import problems_of, require_valid
from fjeld.formats.jobfile import decode, encode
from fjeld.propose.attach import attached
from fjeld.prove.faults import Bridge, OpenConductor, with_fault
from fjeld.prove.proof import always_on, prove
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver, band
from fjeld.quantities import Passes
from tests.core.test_spice import agree
from tests.houses import assert_balanced, inches, one_room
from tests.often import often

seeds = st.integers(0, 400)


def shared(seed, joining=None):
    """A room all of whose loads are on one circuit of two poles, what a control works on one leg."""
    drawing, die = one_room(seed, attach=False), random.Random(seed)
    items = {h: i for h, i in drawing.items.items() if not isinstance(i, Circuit)}
    items["Q1"] = Circuit("Both legs", 20, "12", poles=2)
    if joining:
        items["house"] = replace(items["house"], joining=joining)
    legs = {}
    for control in drawing.of(Control).values():
        known = next((legs[load.point] for load in control.loads if load.point in legs), die.choice((1, 2)))
        legs |= {load.point: known for load in control.loads}
    for handle, point in drawing.of(Point).items():
        leg = legs.get(handle, die.choice((1, 2)))
        items[handle] = replace(point, circuit="Q1", leg=leg) if point.circuit else point
    return require_valid(attached(Drawing(items), Mint(items)))


@given(seeds)
@often(30)
def test_everything_on_two_legs_is_fed_proven_and_balanced(seed):
    plan = derive(shared(seed))
    if plan.circuits["Q1"].nets.overflow:
        return
    for control, proof in prove(plan).items():
        assert proof.proven, (control, proof.reasons)
    assert all(always_on(plan).values())
    assert_balanced(plan, seed)


def test_most_rooms_hold_both_legs_and_few_are_over_full():
    plans = [derive(shared(seed)) for seed in range(60)]
    both = sum(len({p.leg for p in plan.drawing.of(Point).values() if p.circuit}) == 2 for plan in plans)
    assert both > 40
    assert sum(bool(plan.circuits["Q1"].nets.overflow) for plan in plans) < 6


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("joining", ["pigtail", "feed-through"])
def test_the_shared_neutral_goes_through_no_device(seed, joining):
    plan = derive(shared(seed, joining))
    joints = [j for box in plan.boxes.values() for j in box.joints if j.net.role == "neutral"]
    assert all(j.how != "through" for j in joints)
    found = [f for f in check(plan) if f.rule.id == "shared-neutral"]
    assert [isinstance(f.verdict, Passes) for f in found] == [True]


def test_between_the_legs_stand_twice_the_volts_and_each_is_once():
    network = derive(shared(3)).network
    solver = Solver(network)
    volts = solver.voltages([{}])[0]
    assert solver.across(volts, "P1.bus", "P1.bus 2") == pytest.approx(240, abs=1.5)
    for bus in ("P1.bus", "P1.bus 2"):
        assert solver.across(volts, bus, "P1.neutral") == pytest.approx(120, abs=1)
    assert {s.volts for s in network.sources} == {120.0}
    assert all(isinstance(s, VoltageSource) for s in network.sources)


def test_one_breaker_opens_both():
    network = derive(shared(3)).network
    poles = [c for c in network.contacts if c.position == BreakerOf("Q1")]
    assert len(poles) == 2
    solver = Solver(network)
    volts = solver.voltages([{}], ["Q1"])[0]
    assert all(solver.across(volts, load.a, load.b) < 1 for load in network.loads)


def test_a_neutral_that_is_lost_lifts_the_lighter_leg():
    """What the rule is for: with the home run's neutral open, the two legs share 240 V by what
    hangs on them.
    """
    drawing = shared(3)
    outlets = [h for h, p in drawing.of(Point).items() if p.kind == "outlet"]
    items = dict(drawing.items)
    for n, handle in enumerate(outlets):
        items[handle] = replace(items[handle], va=60.0 if n % 2 else 1200.0, leg=1 + n % 2)
    plan = derive(Drawing(items))
    home = next(c for r in plan.runs() for c in r.conductors if c.a == "P1" and c.net.role == "neutral")
    solver = Solver(with_fault(plan.network, OpenConductor(home.key)))
    volts = solver.voltages([{}])[0]
    bands = {
        band(solver.across(volts, load.a, load.b), 120.0) for load in plan.network.loads if load.key[0] == "O"
    }
    assert "danger" in bands


def test_the_legs_joined_are_a_short_in_logic():
    network = derive(shared(5)).network
    assert not reach(network, ()).shorts()
    assert reach(with_fault(network, Bridge("P1.Q1", "P1.Q1 2")), ()).shorts()


def test_a_stock_simulator_agrees(tmp_path):
    network = derive(shared(4)).network
    die = random.Random(4)
    agree(network, [{p: die.getrandbits(1) for p in network.positions} for _ in range(3)], tmp_path)


def test_the_load_is_that_of_the_heavier_leg():
    drawing = shared(6)
    points = {h: p for h, p in drawing.of(Point).items() if p.circuit and p.kind != "switch"}
    figures = derive(drawing).circuits["Q1"].figures
    legs = [
        sum(line.amount for line in figures.load.lines if points[line.handles[0]].leg == leg)
        for leg in (1, 2)
    ]
    assert figures.load.total == pytest.approx(max(legs))
    assert min(legs) == 0


def test_a_breaker_of_two_poles_is_bought_and_takes_two_ways():
    drawing = shared(6)
    plan = derive(drawing)
    assert {m.part: m.count for m in plan.materials}["breaker-two-pole"] == 1
    one_way = Drawing({**drawing.items, "P1": replace(drawing.items["P1"], ways=1)})
    assert any(f.rule.id == "panel-ways" for f in open_findings(derive(one_way)))


def test_what_cannot_be_is_told():
    drawing = shared(6)
    british = Drawing({**drawing.items, "house": replace(drawing.house, practice="gb")})
    assert "Q1.poles" in [p.path for p in problems_of(british)]
    items = dict(drawing.items)
    items |= {"Q9": Circuit("Feeder", 30, "10"), "P2": Panel("R1", 3, inches(30), circuit="Q9")}
    items["Q1"] = replace(items["Q1"], source="P2")
    fed = derive(attached(Drawing(items), Mint(items)))
    assert [f.handles for f in check(fed) if f.rule.id == "second-leg"] == [("Q1", "Q9")]
    items["Q9"] = replace(items["Q9"], poles=2)
    whole = derive(attached(Drawing(items), Mint(items)))
    assert not [f for f in check(whole) if f.rule.id == "second-leg"]
    assert all(p.proven for p in prove(whole).values())


def test_a_load_side_on_a_shared_neutral_is_told():
    for seed in range(30):
        drawing = shared(seed)
        edges = derive(drawing).circuits["Q1"].tree.edges
        halves = {load.point for c in drawing.of(Control).values() for load in c.loads}
        edge = next(
            (e for e in edges if e.up in drawing.items and e.up.startswith("O") and e.up not in halves), None
        )
        if edge is None:
            continue
        items = dict(drawing.items)
        items[edge.up] = replace(items[edge.up], protective=True)
        items[edge.cable] = replace(items[edge.cable], load_side=True)
        found = [f for f in open_findings(derive(Drawing(items))) if f.rule.id == "shared-neutral"]
        assert [f.severity for f in found] == ["danger"]
        return
    raise AssertionError("no outlet had a cable going on")


def test_legs_go_out_and_come_back():
    drawing = shared(2)
    assert decode(encode(drawing)) == drawing
