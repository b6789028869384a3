"""What each practice's own boxes, cables and figures change: places, supports, ways, earths, sleeving, the
supply.
"""

import pytest

from fjeld import practice as practices
from fjeld.demo import job_file
from fjeld.derive.keys import GROUND
from fjeld.derive.network import NetworkPart, Supply, Wire, build
from fjeld.derive.places import usual_outlet_height
from fjeld.derive.plan import derive
from fjeld.derive.routes import Leg, support_interval
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.edits.record import AmendRule
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Point
from fjeld.formats import jobfile
from fjeld.propose.wanted import one_outlet
from fjeld.prove.solve import Solver
from fjeld.quantities import FOOT, INCH

HOUSES = ("boot-room", "chandlers-loft", "tarn-house")


@pytest.fixture(scope="module", params=HOUSES)
def plan(request):
    return derive(jobfile.decode(job_file(request.param)))


def loft():
    return derive(jobfile.decode(job_file("chandlers-loft")))


def test_a_box_is_as_wide_and_tall_as_those_on_sale(plan):
    sizes = {(b.width, b.height or b.width) for b in plan.practice.catalogue.boxes}
    for handle, placed in plan.placed.items():
        if placed.kind != "panel":
            assert (placed.width, placed.tall) in sizes, handle


@pytest.mark.parametrize(
    ("practice", "one", "two"), [("na", (58.0, 95.25), 104.0), ("gb", (75.0, 75.0), 135.0)]
)
def test_bodies_by_gangs(practice, one, two):
    catalogue = practices.load(practice).catalogue
    assert catalogue.body("device") == one
    assert catalogue.body("device", 2)[0] == two
    assert catalogue.body("device", 99)[0] == max(b.width for b in catalogue.boxes if b.shape == "device")


def test_the_typed_height_is_to_the_edge_of_this_practices_box(plan):
    for handle, point in plan.drawing.of(Point).items():
        placed = plan.placed.get(handle)
        if placed is not None and placed.wall and point.height is not None:
            edge = point.edge or plan.practice.edges.get(point.kind, "center")
            off = {"bottom": -placed.tall / 2, "top": placed.tall / 2, "center": 0.0}[edge]
            assert placed.height + off == pytest.approx(point.height.mm), handle


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_a_hole_is_worth_its_price_in_cable(practice):
    catalogue = practices.load(practice).catalogue
    least = min((g for g in catalogue.gauges if catalogue.cable(g.id, 2)), key=lambda g: g.area)
    assert catalogue.hole_length * catalogue.cable(least.id, 2).cents == pytest.approx(
        catalogue.parts["hole"] * catalogue.cable_unit_mm
    )
    assert practice != "na" or catalogue.hole_length == pytest.approx(FOOT)


def test_a_hole_that_costs_more_is_gone_round(plan):
    """With dearer holes no way has more of them for the same length, and the routes follow the price that is
    in force.
    """
    dear = apply(plan.drawing, Revise(Handle("house"), {"prices": {"hole": 4000}}).plan(plan.drawing))
    again = derive(dear)
    before = sum(c.route.weight for c in plan.cables.values() if c.route)
    after = sum(c.route.weight for c in again.cables.values() if c.route)
    assert after <= before
    assert sum(c.route.length for c in again.cables.values() if c.route) >= 0.999 * sum(
        c.route.length for c in plan.cables.values() if c.route
    )


UP = Leg((0.0, 0.0, 0.0), (0.0, 0.0, 2000.0), "stud")
ALONG = Leg((0.0, 0.0, 2000.0), (2000.0, 0.0, 2000.0), "stud")


@pytest.mark.parametrize(
    ("practice", "legs", "width", "apart"),
    [
        ("gb", [UP], 8.2, 400),
        ("gb", [ALONG], 8.2, 250),
        ("gb", [ALONG], 9.0, 250),
        ("gb", [ALONG], 10.2, 300),
        ("gb", [UP, ALONG], 10.2, 300),
        ("na", [UP], 9.5, 54 * 25.4),
        ("na", [ALONG], 13.0, 54 * 25.4),
    ],
)
def test_supports_by_width_and_direction(practice, legs, width, apart):
    assert support_interval(legs, width, practices.load(practice)) == pytest.approx(apart)


def test_no_alarm_has_a_ground_lead_and_its_ground_goes_on_or_is_capped(plan):
    boxes = [b for b in plan.boxes.values() if any(d.kind == "alarm" for d in b.devices)]
    assert boxes or "alarm" not in {p.kind for p in plan.drawing.of(Point).values()}
    for box in boxes:
        grounds = [j for j in box.joints if j.net == GROUND]
        assert not any(
            landing.device == d.key
            for j in grounds
            for landing in j.landings
            for d in box.devices
            if d.kind == "alarm"
        )
        bare = {c.key for c in box.ends if not c.insulated}
        assert bare == {k for j in grounds for k in j.ends}, "none is left out"
        for joint in grounds:
            if joint.how == "parked":
                assert joint.reason == "the alarm takes none"


def test_sleeving_is_bought_for_every_bare_end_and_every_mark():
    plan = loft()
    listed = {m.part: m.count for m in plan.materials}
    conductors = [c for run in plan.runs() for c in run.conductors]
    bare = sum(2 * 0.150 for c in conductors if c.colour == "G")
    brown = sum(2 * 0.040 for c in conductors if c.marked and c.net.role != "neutral")
    blue = sum(2 * 0.040 for c in conductors if c.marked and c.net.role == "neutral")
    found = (listed["sleeve-G"], listed.get("sleeve-BN", 0), listed.get("sleeve-BU", 0))
    assert found == pytest.approx((bare, brown, blue), abs=0.01)
    assert not any(
        m.part.startswith("sleeve") for m in derive(jobfile.decode(job_file("boot-room"))).materials
    )


def test_a_steel_box_has_its_earth_and_a_grommet_a_cable():
    plan = loft()
    steel = [b for b in plan.boxes.values() if b.kind.metal]
    listed = {m.part: m.count for m in plan.materials}
    assert steel
    assert listed["ground-screw"] == len(steel)
    assert listed["cable-clamp"] == sum(len({c.bundle for c in b.ends}) for b in steel)
    for box in steel:
        assert any(
            landing.terminal == "ground screw"
            for j in box.joints
            if j.net == GROUND
            for landing in j.landings
        )


@pytest.mark.parametrize(("practice", "amps"), [("na", 120 / 0.08), ("gb", 230 / 0.35)])
def test_a_short_at_the_panel_draws_what_the_supply_lets_through(practice, amps):
    found = practices.load(practice)
    network = build(
        (Supply(Handle("P1"), ()),),
        (NetworkPart(wires=(Wire("short", "P1.bus", "P1.neutral", 1e-6),)),),
        found,
    )
    solver = Solver(network)
    volts = solver.voltages([{}])[0]
    assert solver.across(volts, "P1.bus", "P1.neutral") / 1e-6 == pytest.approx(amps, rel=1e-3)


def test_a_measured_supply_is_followed():
    drawing = jobfile.decode(job_file("chandlers-loft"))
    measured = AmendRule("supply-loop", 0.62, "measured at the board", "somebody")
    (source,) = derive(apply(drawing, measured.plan(drawing))).network.sources
    assert source.ohms == 0.62


@pytest.mark.parametrize(
    ("use", "inches"), [("garage", 44), ("laundry", 44), ("bath", 42), ("outdoors", 18), ("bed", 12)]
)
def test_an_outlet_is_put_where_such_a_room_has_it(use, inches):
    drawing = jobfile.decode(job_file("boot-room"))
    drawing = apply(drawing, Revise(Handle("R1"), {"use": use}).plan(drawing))
    placed = one_outlet(derive(drawing), Handle("R1"), Mint(drawing.items))
    after = derive(apply(drawing, placed.plan(drawing)))
    (fresh,) = set(after.placed) - set(drawing.items)
    at = after.placed[fresh]
    assert (at.height - at.tall / 2) / INCH == pytest.approx(inches)
    assert usual_outlet_height(use, practices.load("gb")) is None
