"""Load and volt drop: the examples, the limits, and the drop against the solver's own volts."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.check import check
from fjeld.derive.circuits import Stretch, drop, hangs_of, va_of
from fjeld.derive.keys import GROUND
from fjeld.derive.plan import derive
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Place, Revise, Together
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.drawing.validate import InvalidDrawing
from fjeld.judge.load import Hangs, loaded
from fjeld.propose.attach import settle
from fjeld.propose.fixes import fix
from fjeld.propose.offers import offer
from fjeld.prove.proof import always_on, prove, still_live
from fjeld.quantities import FOOT, Fails, Length, Passes
from tests.houses import one_room


def test_eighty_feet_of_fourteen_at_eight_amps(na):
    found = drop([Stretch(80 * FOOT, "14", 8)], na)
    assert found.total == pytest.approx(3.93, abs=0.005)
    assert 100 * found.total / 120 == pytest.approx(3.3, abs=0.05)


@pytest.mark.parametrize(
    ("other", "continuous", "passes"),
    [(8, 6, False), (7.5, 6, True), (7.51, 6, False), (0, 12, True), (0, 12.01, False)],
)
def test_continuous_loads_count_a_quarter_more(na, other, continuous, passes):
    points = {
        "A1": Point("light", "R1", va=other * 120),
        "A2": Point("light", "R1", va=continuous * 120, continuous=True),
    }
    assert (type(loaded(hangs_of(points, na), 15, na).verdict).__name__ == "Passes") is passes


def test_an_unknown_outlet_is_estimated_and_says_so(na):
    assert va_of(Point("outlet", "R1"), na) == (180.0, True)
    assert va_of(Point("outlet", "R1", va=600), na) == (600, False)
    assert va_of(Point("switch", "R1"), na) == (0.0, False)
    assert "estimated" in hangs_of({"O1": Point("outlet", "R1")}, na)[0].what


@given(st.integers(0, 300))
def test_the_drop_at_the_far_end_is_the_sum_of_its_stretches(seed):
    """Each known load on its own, its current sent down its own path: superposition against the sum by
    stretch.

    A far outlet of unknown use is reckoned with its share of the breaker all the way instead.
    """
    plan = derive(one_room(seed))
    for circuit in plan.circuits.values():
        figures = circuit.figures
        if figures.far is None:
            continue
        above = {e.down: e for e in circuit.tree.edges}

        def path(box, above=above):
            found = []
            while box in above:
                found.append(above[box].cable)
                box = above[box].up
            return found

        ohms = plan.practice.catalogue.gauge(circuit.circuit.gauge).ohms_per_1000_ft / 1000
        feet = {c: plan.cables[c].route.length / FOOT for c in path(figures.far)}
        far = plan.drawing.get(figures.far, Point)
        if far.kind == "outlet" and far.va is None:
            total = 0.8 * circuit.circuit.breaker * 2 * ohms * sum(feet.values())
            assert "drawn there" in figures.drop_basis
        else:
            points = {b: plan.drawing.get(b, Point) for b in circuit.boxes}
            total = sum(
                va_of(p, plan.practice)[0]
                / plan.practice.volts
                * 2
                * ohms
                * sum(feet.get(c, 0.0) for c in path(b))
                for b, p in points.items()
                if p.kind != "outlet"
            )
        assert figures.drop.total == pytest.approx(total)


def test_load_bars_of_the_demo(boot_plan):
    for handle, circuit in boot_plan.circuits.items():
        members = [p for p in boot_plan.drawing.of(Point).values() if p.circuit == handle]
        assert circuit.figures.va == pytest.approx(sum(va_of(p, boot_plan.practice)[0] for p in members))
        assert circuit.figures.rating == boot_plan.drawing.get(handle, Circuit).breaker


def with_gauge(drawing, cable, gauge, **circuit):
    drawing = apply(drawing, Revise(cable, {"gauge": gauge, "state": "pinned"}).plan(drawing))
    of = drawing.get(cable, Cable).circuit
    return apply(drawing, Revise(of, circuit).plan(drawing)) if circuit else drawing


def gauge_findings(plan, cable):
    return [f for f in check(plan) if f.rule.id == "breaker-gauge" and f.handles[0] == cable]


def test_a_thicker_piece_in_a_circuit_is_counted_where_it_is(boot_room):
    """Conductors, fill, drop, resistance and the list follow the piece; the rest of the circuit stays."""
    plain = derive(boot_room)
    cable = next(h for h, c in boot_room.of(Cable).items() if c.circuit == "Q1" and c.a != plain.panel != c.b)
    plan = derive(with_gauge(boot_room, cable, "12"))
    for run in plan.runs():
        expected = "12" if run.cable == cable else plan.drawing.get(run.circuit, Circuit).gauge
        assert run.kind.gauge == expected
        assert {c.gauge for c in run.conductors if c.insulated} == {expected}
    ohms = {w.key: w.ohms for w in plan.network.wires}
    before = {w.key: w.ohms for w in plain.network.wires}
    thick, thin = (plan.practice.catalogue.gauge(g) for g in ("12", "14"))
    for conductor in (c for run in plan.runs() if run.cable == cable for c in run.conductors):
        assert ohms[conductor.key] / before[conductor.key] == pytest.approx(thick.cold / thin.cold)
    for end in (plan.cables[cable].cable.a, plan.cables[cable].cable.b):
        more = plan.boxes[end].needed.total - plain.boxes[end].needed.total
        assert more >= 0.25 * sum(c.bundle == cable and c.insulated for c in plan.boxes[end].ends) - 1e-9
    assert all(f.verdict == Passes() for f in gauge_findings(plan, cable))


def test_a_thin_piece_behind_a_large_breaker_is_a_danger_and_its_fix_removes_it(boot_room):
    cable = next(h for h, c in boot_room.of(Cable).items() if c.circuit == "Q2")
    assert boot_room.get("Q2", Circuit).gauge == "12"
    drawing = with_gauge(boot_room, cable, "14")
    assert boot_room.get("Q2", Circuit).breaker == 20
    plan = derive(drawing)
    (found,) = gauge_findings(plan, cable)
    assert found.open
    assert found.severity == "danger"
    assert cable in found.words
    mended = apply(drawing, fix(plan, found, Mint(drawing.items)).plan(drawing))
    assert not gauge_findings(derive(mended), cable)
    assert mended.get(cable, Cable).gauge == ""


def test_a_gauge_that_is_not_on_sale_is_refused(boot_room):
    cable = next(iter(boot_room.of(Cable)))
    with pytest.raises(InvalidDrawing, match="no circuit cable of gauge 9"):
        settle(boot_room, Revise(cable, {"gauge": "9"}), Mint(boot_room.items))


@pytest.fixture(scope="module")
def passed_through(boot_room):
    """The boot room with the second circuit's way to its last outlet led through a switch box of
    the first.
    """
    plan = derive(boot_room)
    leaf = next(
        e
        for e in reversed(plan.circuits["Q2"].tree.edges)
        if len(plan.circuits["Q2"].tree.beyond[e.cable]) == 1
    )
    switch = next(iter(boot_room.of(Control).values())).positions[0]
    mint = Mint(boot_room.items)
    changes = settle(
        boot_room,
        Together(
            (
                Revise(leaf.cable, {"a": leaf.up, "b": switch, "by": "person", "state": "pinned"}),
                Place(
                    {"C90": Cable(switch, leaf.down, "Q2", by="person", state="pinned")},
                    "the rest of the way",
                ),
            ),
            "Lead it through",
        ),
        mint,
    )
    return apply(boot_room, changes), leaf, switch


def test_a_circuit_passes_through_anothers_box_and_joins_nothing_there(boot_room, passed_through):
    drawing, _, switch = passed_through
    plain, plan = derive(boot_room), derive(drawing)
    second = plan.circuits["Q2"]
    assert second.through == (switch,)
    assert not second.tree.unfed
    assert set(second.boxes) == set(plain.circuits["Q2"].boxes), "the box is no box of the circuit"
    box = plan.boxes[switch]
    assert set(box.circuits) == {"Q1", "Q2"}
    for joint in box.joints:
        of = {plan_circuit(plan, key) for key in joint.ends}
        assert joint.net == GROUND or len(of) <= 1, "nothing of one circuit is joined to the other"
        if of == {"Q2"} and joint.net != GROUND:
            assert not joint.landings
            assert len(joint.ends) == 2
    assert box.needed.total > plain.boxes[switch].needed.total
    assert all(p.proven for p in prove(plan).values())
    assert all(always_on(plan).values())


def plan_circuit(plan, conductor):
    return next(run.circuit for run in plan.runs() for c in run.conductors if c.key == conductor)


def test_what_passes_through_stays_live_with_the_box_own_breaker_off(passed_through):
    drawing, _, switch = passed_through
    plan = derive(drawing)
    live = {f.conductor for f in still_live(plan, switch, ["Q1"]) if f.found == "live"}
    assert {plan_circuit(plan, key) for key in live} == {"Q2"}
    assert not [f for f in still_live(plan, switch, ["Q1", "Q2"]) if f.found != "dead"]


def test_a_held_way_through_outlives_other_edits_and_another_tree(passed_through):
    drawing, leaf, switch = passed_through
    again = apply(
        drawing,
        settle(
            drawing,
            MovePoint(leaf.down, at=Length(drawing.get(leaf.down, Point).at.mm - 100)),
            Mint(drawing.items),
        ),
    )
    assert derive(again).circuits["Q2"].through == (switch,)
    found = offer(derive(again), "Q2", "cheapest", Mint(again.items))
    taken = apply(again, settle(again, found.edit, Mint(again.items)))
    assert derive(taken).circuits["Q2"].through == (switch,)
    assert not derive(taken).circuits["Q2"].tree.unfed


def test_a_cable_that_only_ends_in_anothers_box_is_left_out(boot_room):
    switch = next(iter(boot_room.of(Control).values())).positions[0]
    outlet = derive(boot_room).circuits["Q2"].boxes[0]
    stray = Place({"C91": Cable(outlet, switch, "Q2", by="person", state="pinned")}, "a stray end")
    plan = derive(apply(boot_room, stray.plan(boot_room)))
    assert plan.circuits["Q2"].through == ()
    assert "Q2" not in plan.boxes[switch].circuits


@pytest.mark.parametrize(
    ("known", "guessed", "over", "advice"),
    [(1000, 500, False, True), (1800, 0, False, False), (1801, 100, True, False), (1000, 900, True, True)],
)
def test_only_what_is_known_is_over_a_breaker_in_earnest(na, known, guessed, over, advice):
    """One judgement, whatever else was there: what only estimates bring over is a reason to look."""
    found = loaded([Hangs(known, "known"), Hangs(guessed, "a guess", estimated=True)], 15, na)
    assert isinstance(found.verdict, Fails) is over
    assert found.by_estimates_alone is advice
    assert found.left == pytest.approx(15 - (known + guessed) / 120)
