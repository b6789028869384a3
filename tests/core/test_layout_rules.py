"""Rules of layout at their limits: just inside, exactly at, just outside; and fixes that mend what
they say.
"""

import itertools

import msgspec
import pytest

from fjeld.check import RANK, check, open_findings
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Build, Opening, Panel, Room, Side, Slope, Storey
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Remove
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Circuit, Control, Drawing, Fitting, House, LoadRef, Point
from fjeld.propose import fixes
from fjeld.propose.attach import settle
from fjeld.quantities import FOOT, INCH, Length, NotKnown, parse_length

L = parse_length
MM = 0.2


def room(width="14'", depth="12'", **more) -> Room:
    sides = tuple(Side(b, L(v)) for b, v in ((90, width), (180, depth), (270, width), (0, depth)))
    return Room("Room", sides, **more)


def house(*, practice="na", use="living", **items) -> Drawing:
    more = items.pop("room", {})
    base = {
        "house": House(practice=practice),
        "R1": room(use=use, **more),
        "P1": Panel("R1", 4, L("10'")),
        "Q1": Circuit("All"),
    }
    if practice == "gb":
        base["Q1"] = Circuit("All", 6, "1.5", "residual")
    return Drawing({**base, **items})


def found(drawing: Drawing, rule: str, only_open=True):
    return [f for f in check(derive(drawing)) if f.rule.id == rule and (f.open or not only_open)]


def at(mm: float) -> Length:
    return Length(mm)


COUNTER = Body("counter", "R1", L("6'"), L("25"), 1, L("2'"))


@pytest.mark.parametrize(
    ("off", "passes"), [(24 * INCH - MM, True), (24 * INCH, True), (24 * INCH + 1, False)]
)
def test_counter_reach(off, passes):
    start, end = 2 * FOOT, 8 * FOOT
    outlets = {
        f"O{n}": Point("outlet", "R1", 1, at(a), L("44"), "bottom", circuit="Q1")
        for n, a in ((1, start + off), (2, end - off))
    }
    drawing = house(use="kitchen", B1=COUNTER, **outlets)
    gap = (end - start - 2 * off) / 2
    assert (not found(drawing, "counter-reach")) is (passes and gap <= 24 * INCH + 0.5)


def test_a_sink_cuts_a_counter_and_a_narrow_stretch_does_not_count():
    sink = Body("sink", "R1", L("24"), L("20"), 1, L("2' 11"), low=L("28"))
    drawing = house(use="kitchen", B1=COUNTER, B2=sink)
    lengths = sorted(round(f.working.total / INCH) for f in found(drawing, "counter-reach"))
    assert lengths == [37], "the 11 inches before the sink are too narrow to count"


def test_an_outlet_over_a_counter_does_not_serve_the_wall():
    low = house(use="kitchen", O1=Point("outlet", "R1", 1, L("5'"), circuit="Q1"), B1=COUNTER)
    high = house(
        use="kitchen", O1=Point("outlet", "R1", 1, L("5'"), L("44"), "bottom", circuit="Q1"), B1=COUNTER
    )
    assert len(found(low, "outlet-reach")) == 1
    assert found(high, "outlet-reach")[0].working.total > found(low, "outlet-reach")[0].working.total


@pytest.mark.parametrize(
    ("off", "passes"), [(36 * INCH - MM, True), (36 * INCH, True), (36 * INCH + 1, False)]
)
def test_basin_outlet(off, passes):
    basin = Body("basin", "R1", L("20"), L("18"), 1, L("2'"), low=L("26"), high=L("34"))
    outlet = Point("outlet", "R1", 1, at((24 + 20) * INCH + off), L("42"), "bottom", circuit="Q1")
    assert (not found(house(use="bath", B1=basin, O1=outlet), "basin-outlet")) is passes


@pytest.mark.parametrize(
    ("off", "passes"), [(36 * INCH - 1, False), (36 * INCH, True), (36 * INCH + MM, True)]
)
def test_outlets_keep_away_from_tubs(off, passes):
    tub = Body("bath", "R1", L("5'"), L("30"), 1, L("0"), high=L("20"))
    outlet = Point("outlet", "R1", 1, at(60 * INCH + off), L("42"), "bottom", circuit="Q1")
    assert (not found(house(use="bath", B1=tub, O1=outlet), "tub-outlet")) is passes


def test_what_hangs_and_what_is_dry_over_a_tub():
    tub = Body("bath", "R1", L("5'"), L("30"), 1, L("0"), high=L("20"))
    here = {"x": L("2'"), "y": L("1'"), "circuit": "Q1"}
    pendant = Point("light", "R1", mount="pendant", **here)
    assert found(house(use="bath", B1=tub, A1=pendant), "tub-fitting")
    dry = Point("light", "R1", fitting=Fitting(weight=1.0, rating="dry"), **here)
    damp = Point("light", "R1", fitting=Fitting(weight=1.0, rating="damp"), **here)
    blank = Point("light", "R1", **here)
    asked = {
        name: found(house(use="bath", B1=tub, A1=p), "tub-rating")
        for name, p in (("dry", dry), ("damp", damp), ("blank", blank))
    }
    assert "marked for dry" in asked["dry"][0].words
    assert not asked["damp"]
    assert asked["blank"][0].verdict.reading
    assert found(house(use="bath", B1=tub, S1=Point("switch", "R1", 1, L("2'"))), "switch-tub")


@pytest.mark.parametrize(("length", "wants"), [("9' 11\"", False), ("10'", True)])
def test_a_long_hall_has_an_outlet(length, wants):
    hall = {"width": length, "depth": "3'"}
    assert bool(found(house(use="hall", room=hall), "hall-outlet")) is wants


def test_a_large_foyer_has_an_outlet_in_each_wall():
    assert len(found(house(use="foyer"), "foyer-outlet")) == 4
    assert not found(house(use="foyer", room={"width": "7'", "depth": "8'"}), "foyer-outlet")


@pytest.mark.parametrize("use", ["laundry", "garage", "basement", "outdoors"])
def test_places_that_want_one_outlet(use):
    assert found(house(use=use), "room-outlet")
    limit, rule = (78, "outdoor-outlet-height") if use == "outdoors" else (66, "outlet-height-limit")
    low = house(use=use, O1=Point("outlet", "R1", 2, L("5'"), L(f"{limit - 1}"), "center", circuit="Q1"))
    high = house(use=use, O1=Point("outlet", "R1", 2, L("5'"), L(f"{limit + 1}"), "center", circuit="Q1"))
    assert not found(low, "room-outlet")
    assert not found(low, rule)
    assert found(high, rule)


def test_in_a_bath_a_switched_outlet_is_no_light():
    items = {
        "S1": Point("switch", "R1", 2, L("3'")),
        "O1": Point("outlet", "R1", 2, L("6'"), circuit="Q1"),
        "K1": Control(("S1",), (LoadRef("O1"),)),
    }
    assert found(house(use="bath", **items), "bath-light")
    assert not found(house(use="living", **items), "bath-light")
    assert not found(house(use="living", **items), "switched-light")
    assert found(house(use="living"), "switched-light")


def test_stairs_are_switched_from_both_ends():
    stairs = Body("stairs", "R1", L("8'"), L("3'"), 1, L("1'"), high=L("9'"))
    upper = msgspec.structs.replace(room(use="hall"), storey="L1", name="Up")
    items = {
        "B1": stairs,
        "L1": Storey("Up", L("9'")),
        "R2": upper,
        "A1": Point("light", "R1", x=L("7'"), y=L("6'"), circuit="Q1"),
        "S1": Point("switch", "R1", 2, L("3'")),
        "S2": Point("switch", "R2", 2, L("3'")),
    }
    assert found(house(**items, K1=Control(("S1",), (LoadRef("A1"),))), "stairs-switched")
    assert not found(house(**items, K1=Control(("S1", "S2"), (LoadRef("A1"),))), "stairs-switched")


@pytest.mark.parametrize(
    ("sensing", "feet", "verdict"),
    [
        ("photoelectric", 6.0, "Passes"),
        ("photoelectric", 5.9, "Fails"),
        ("ionization", 20.0, "Passes"),
        ("ionization", 19.9, "Fails"),
        ("", 12.0, "NotKnown"),
        ("", 5.0, "Fails"),
        ("", 21.0, "Passes"),
    ],
)
def test_alarms_and_cooking(sensing, feet, verdict):
    long_room = {"width": "30'", "depth": "10'"}
    cooker = Body("cooker", "R1", L("30"), L("25"), 4, L("3'"), high=L("36"))
    alarm = Point("alarm", "R1", x=at(25 * INCH + feet * FOOT), y=L("5' 9\""), circuit="Q1", sensing=sensing)
    (finding,) = found(
        house(use="kitchen", room=long_room, B1=cooker, V1=alarm), "alarm-cooking", only_open=False
    )
    assert type(finding.verdict).__name__ == verdict


def two_rooms(**items):
    """A bedroom beside a hall, and a bath beyond it; doors D1 (bed) and D2 (bath) in the hall's walls."""
    from fjeld.drawing.building import Join

    base = {
        "house": House(),
        "R1": msgspec.structs.replace(room(use="hall"), name="Hall"),
        "R2": msgspec.structs.replace(room(use="bed"), name="Bed"),
        "R3": msgspec.structs.replace(room(use="bath"), name="Bath"),
        "D1": Opening("door", "R1", 2, L("4'"), L("30")),
        "G1": Join("D1", "R2", 4, L("4'")),
        "D2": Opening("door", "R1", 3, L("4'"), L("30")),
        "G2": Join("D2", "R3", 1, L("4'")),
    }
    return Drawing({**base, **items})


def test_alarms_outside_sleeping_rooms_on_each_storey_and_off_bath_doors():
    assert found(two_rooms(), "alarm-outside")
    assert found(two_rooms(), "alarm-rooms")
    assert not found(two_rooms(), "alarm-storey"), "one alarm that is missing is one finding"
    hall = two_rooms(V1=Point("alarm", "R1", x=L("5'"), y=L("4'")))
    assert not found(hall, "alarm-outside")
    assert not found(hall, "alarm-storey")
    assert not found(hall, "alarm-bath")
    # The bath's door is centered 5' 3" from the start of wall 3, which runs west from 14'.
    near = two_rooms(V1=Point("alarm", "R1", x=L("8' 9\""), y=L("9' 1\"")))
    basin = Body("basin", "R3", L("2'"), L("2'"), 1, L("0"))
    assert not found(two_rooms(B9=basin, V1=near.items["V1"]), "alarm-bath"), (
        "without a tub or shower no steam"
    )
    assert found(
        two_rooms(B9=msgspec.structs.replace(basin, kind="shower"), V1=near.items["V1"]), "alarm-bath"
    )
    far = two_rooms(V1=Point("alarm", "R1", x=L("8' 9\""), y=L("8' 11\"")))
    assert found(near, "alarm-bath")
    assert not found(far, "alarm-bath")


@pytest.mark.parametrize(("drop", "passes"), [("12", True), ("11 7/8", True), ("12 1/8", False)])
def test_fan_blades_over_the_floor(drop, passes):
    sheet = Fitting(blades=L("44"), downrod=L("0"), body_drop=L(drop), weight=6.0)
    fan = Point("fan", "R1", x=L("7'"), y=L("6'"), circuit="Q1", fitting=sheet)
    assert (not found(house(F1=fan), "fan-blades")) is passes


@pytest.mark.parametrize(("x", "passes"), [(18 + 22, True), (18 + 22.1, True), (17.9 + 22, False)])
def test_fan_tips_from_a_wall(x, passes):
    sheet = Fitting(blades=L("44"), downrod=L("0"), body_drop=L("9"), weight=6.0)
    fan = Point("fan", "R1", x=at(x * INCH), y=L("6'"), circuit="Q1", fitting=sheet)
    assert (not found(house(F1=fan), "fan-clear")) is passes


def test_fan_under_a_slope_and_by_a_door():
    sheet = Fitting(blades=L("44"), downrod=L("0"), body_drop=L("9"), weight=6.0)
    fan = Point("fan", "R1", x=L("7'"), y=L("6'"), circuit="Q1", fitting=sheet)
    sloped = {"slope": Slope(1, L("4'")), "height": L("12'")}
    assert "slope" in found(house(room=sloped, F1=fan), "fan-clear")[0].words
    door = Opening("door", "R1", 1, L("6'"), L("36"), head=L("95"))
    by_door = found(house(F1=msgspec.structs.replace(fan, y=L("4'")), D1=door), "fan-clear")
    assert "arc of D1" in by_door[0].words


def test_a_pendant_hangs_as_its_cord_says():
    table = Body("table", "R1", L("6'"), L("3'"), x=L("4'"), y=L("4'"), high=L("30"))
    sheet = Fitting(clearance=L("30"), shade=L("10"), weight=2.0)
    plan = derive(
        house(
            B1=table,
            A1=Point("light", "R1", x=L("7'"), y=L("5' 6"), mount="pendant", over="B1", fitting=sheet),
        )
    )
    assert plan.pendant_drop("A1") == pytest.approx((96 - 30 - 30) * INCH)
    assert plan.pendant_clearance("A1") == pytest.approx(30 * INCH)
    from fjeld.derive.cords import SPARE, cord

    assert cord(plan.placed["A1"].height, table, sheet, plan.practice, ()).total == pytest.approx(
        (96 - 30 - 30 - 10) * INCH + SPARE
    )


@pytest.mark.parametrize(("need", "passes"), [("9 1/4", True), ("9 3/8", False)])
def test_void_depth(need, passes):
    light = Point(
        "light", "R1", x=L("7'"), y=L("6'"), mount="recessed", fitting=Fitting(depth=L(need), weight=1.0)
    )
    assert (not found(house(A1=light), "void-depth")) is passes


def test_recessed_lights_and_insulation():
    def light(rated):
        return Point(
            "light", "R1", x=L("7'"), y=L("6'"), mount="recessed", fitting=Fitting(insulation_contact=rated)
        )

    assert found(house(A1=light(None)), "recessed-insulated")[0].verdict.reading
    assert found(house(A1=light(False)), "recessed-insulated")
    assert not found(house(A1=light(True)), "recessed-insulated")
    assert not found(house(room={"above": "storey"}, A1=light(False)), "recessed-insulated")


@pytest.mark.parametrize(("pounds", "asked"), [(50, False), (50.1, True), (120, True)])
def test_a_heavy_light_hangs_from_the_structure_or_from_what_is_listed_for_it(pounds, asked):
    point = Point("light", "R1", x=L("7'"), y=L("6'"), fitting=Fitting(weight=pounds * 0.45359237))
    rows = found(house(A1=point), "fixture-weight")
    assert bool(rows) is asked
    assert all(isinstance(f.verdict, NotKnown) and f.severity == "ask" for f in rows)


@pytest.mark.parametrize(
    ("pounds", "severity"),
    [(35, None), (35.1, "ask"), (44, "ask"), (70, "ask"), (70.1, "danger"), (90, "danger")],
)
def test_a_fan_hangs_from_a_box_listed_for_it(pounds, severity):
    fan = Point("fan", "R1", x=L("7'"), y=L("6'"), fitting=Fitting(weight=pounds * 0.45359237))
    plan = derive(house(F1=fan))
    assert plan.boxes["F1"].kind.fan_kg
    assert "joist-bar" not in {m.part for m in plan.materials if "F1" in m.handles}
    rows = [f for f in check(plan) if f.rule.id == "fan-box" and f.open]
    assert [f.severity for f in rows] == ([severity] if severity else [])


@pytest.mark.parametrize("box", ["round-13", "pan", "octagon-21", "square-42"])
def test_a_fan_on_a_box_that_is_not_listed_for_it_is_a_danger(box):
    fan = Point("fan", "R1", x=L("7'"), y=L("6'"), box=box)
    (row,) = found(house(F1=fan), "fan-box")
    assert row.severity == "danger"
    assert found(house(F1=fan), "sheet-blank"), "its weight is asked for without a sheet too"


def test_where_a_fan_could_hang_the_box_carries_one():
    middle, edge = ({"x": L("7'"), "y": L("6'")}, {"x": L("7'"), "y": L("2'")})
    for use, at, wanted in (
        ("living", middle, True),
        ("living", edge, False),
        ("boot", middle, False),
        ("closet", middle, False),
    ):
        plan = derive(house(use=use, A1=Point("light", "R1", **at)))
        assert bool(plan.boxes["A1"].kind.fan_kg) is wanted, (use, at)
    pinned = house(use="living", A1=Point("light", "R1", **middle, box="round-13"))
    assert bool(found(pinned, "fan-ready")) is (derive(pinned).placed["A1"].sits != "fastened")
    assert not found(house(use="living", A1=Point("light", "R1", **middle, mount="recessed")), "fan-ready")


def test_a_weight_not_known_is_asked_for():
    point = Point("light", "R1", x=L("7'"), y=L("6'"), fitting=Fitting(name="Big lamp"))
    assert found(house(A1=point), "sheet-blank")


def test_closets_outdoors_and_panels():
    hung = Point("light", "R1", x=L("7'"), y=L("6'"), mount="pendant")
    assert found(house(use="closet", A1=hung), "closet-light")
    assert found(house(use="outdoors", A1=Point("light", "R1", x=L("7'"), y=L("6'"))), "wet-rating")
    assert found(house(use="closet"), "panel-place")
    crate = Body("cabinet", "R1", L("20"), L("20"), x=L("10"), y=L("1'"), high=L("30"))
    assert found(house(B1=crate), "panel-clear")


def test_boxes_and_what_is_in_the_way():
    pipe = Body("pipe", "R1", L("4"), L("3 1/2"), 2, L("5'"), sunk=L("3 1/2"), high=L("8'"))
    on_it = Point("outlet", "R1", 2, L("5' 2"), circuit="Q1")
    beside = Point("outlet", "R1", 2, L("6'"), circuit="Q1")
    assert found(house(B1=pipe, O1=on_it), "clear-of-bodies")
    assert not found(house(B1=pipe, O1=beside), "clear-of-bodies")
    hearth = Body("fireplace", "R1", L("4'"), L("2'"), 2, L("4'"), high=L("4'"))
    assert found(house(B1=hearth, O1=on_it), "clear-of-bodies")


def test_nailing_cutting_in_and_heights():
    between = Point("switch", "R1", 2, L("40"))
    assert found(house(S1=between), "nail-on-face")
    closed = {"builds": {2: Build(closed=True)}}
    assert not found(house(room=closed, S1=between), "cut-in-clear")
    at_stud = Point("switch", "R1", 2, at(48 * INCH - 0.75 * INCH - 29))
    assert found(house(room=closed, S1=at_stud), "cut-in-clear")
    assert not found(house(S1=at_stud), "nail-on-face")
    row = {f"O{n}": Point("outlet", "R1", 3, at(n * 900), circuit="Q1") for n in (1, 2, 3)}
    odd = {**row, "O4": Point("outlet", "R1", 2, L("3'"), L("13"), circuit="Q1")}
    assert not found(house(**row), "heights-match")
    assert [f.handles for f in found(house(**odd), "heights-match")] == [("O4",)]


def test_a_switch_behind_an_open_door():
    door = Opening("door", "R1", 1, L("5'"), L("32"), hinge="start")
    assert found(house(D1=door, S1=Point("switch", "R1", 1, L("4'"))), "behind-door")
    assert not found(house(D1=door, S1=Point("switch", "R1", 1, L("8' 6\""))), "behind-door")
    assert not found(
        house(D1=msgspec.structs.replace(door, swing="out"), S1=Point("switch", "R1", 1, L("4'"))),
        "behind-door",
    )


# --- British practice ------------------------------------------------------------------


def test_zones_of_a_shower():
    shower = Body("shower", "R1", L("900 mm"), L("900 mm"), 1, L("0 mm"), high=L("2.1 m"))

    def with_(**items):
        return house(practice="gb", use="bath", B1=shower, **items)

    for off, passes in ((2499, False), (2500, True), (2501, True)):
        outlet = Point("outlet", "R1", 1, at(900 + off), circuit="Q1")
        assert (not found(with_(O1=outlet), "bath-zones")) is passes
    for off, passes in ((599, False), (600, True)):
        switch = Point("switch", "R1", 1, at(900 + off))
        assert (not found(with_(S1=switch), "bath-zones")) is passes
    light = {"x": L("450 mm"), "y": L("450 mm"), "circuit": "Q1"}
    low = {"height": L("2.2 m")}
    assert found(
        house(practice="gb", use="bath", room=low, B1=shower, A1=Point("light", "R1", **light)), "zone-rating"
    )
    assert not found(with_(A1=Point("light", "R1", **light)), "zone-rating"), "2.44 m is above zone 1"


@pytest.mark.parametrize(("height", "passes"), [(449, False), (450, True), (1200, True), (1201, False)])
def test_accessible_heights(height, passes):
    outlet = Point("outlet", "R1", 2, L("2 m"), at(height), "center", circuit="Q1")
    assert (not found(house(practice="gb", O1=outlet), "accessible-height")) is passes


def test_circuits_of_a_dwelling_are_protected_and_alarms_are_where_local_rules_want_them():
    assert found(
        house(
            practice="gb",
            Q1=Circuit("All", 6, "1.5"),
            A1=Point("light", "R1", x=L("2 m"), y=L("2 m"), circuit="Q1"),
        ),
        "residual",
    )
    assert found(house(practice="gb"), "alarm-rooms")
    assert found(house(practice="gb", use="kitchen"), "alarm-heat")
    heat = Point("alarm", "R1", x=L("2 m"), y=L("2 m"), sensing="heat", circuit="Q1")
    assert not found(house(practice="gb", use="kitchen", V1=heat), "alarm-heat")


# --- fixes -----------------------------------------------------------------------------


def worse(before, after) -> list[str]:
    """Findings that are new and at least as bad as the worst there was."""
    had = {f.key for f in before}
    return [f.words for f in after if f.key not in had and RANK[f.rule.severity] <= RANK["breach"]]


@pytest.mark.parametrize("name", ["tarn-house", "chandlers-loft"])
def test_taking_things_away_is_found_and_put_right(name):
    """Each kind of thing of the demo houses taken away: what the fix offers removes its finding and adds none
    that is worse.
    """
    from fjeld.demo import job_file
    from fjeld.formats.jobfile import decode

    whole, memo = decode(job_file(name)), Memo()
    points = whole.of(Point)
    kinds = itertools.groupby(
        sorted(points, key=lambda h: (points[h].kind, points[h].room)),
        key=lambda h: (points[h].kind, points[h].room),
    )
    mended = 0
    for (kind, _), handles in kinds:
        if kind not in ("outlet", "alarm"):
            continue
        handle = next(iter(handles))
        less = apply(whole, Remove(handle).plan(whole))
        plan = derive(less, memo)
        before = open_findings(plan, memo)
        for finding in [f for f in before if f.waypoint == "layout"]:
            edit = fixes.fix(plan, finding, Mint(whole.items), memo, before)
            if edit is None:
                continue
            after = open_findings(derive(apply(less, settle(less, edit, Mint(whole.items))), memo), memo)
            assert finding.key not in {f.key for f in after}, finding.words
            # A place whose last outlet went has no circuit of its own kind to join: that is asked next.
            fresh = [w for w in worse(before, after) if not w.endswith("on no circuit")]
            assert not fresh, (finding.words, fresh)
            mended += 1
    assert mended > 3


def test_stops_rows_and_fixes_keep_clear_of_what_is_in_the_way():
    from fjeld.propose import rows, stops, wanted

    pipe = Body("pipe", "R1", L("4"), L("3 1/2"), 2, L("5'"), sunk=L("3 1/2"), high=L("8'"))
    beam = Body("beam", "R1", L("14'"), L("8"), x=L("0"), y=L("5' 8"), low=L("7'"), high=L("8'"))
    drawing = house(
        B1=pipe,
        B2=beam,
        O1=Point("outlet", "R1", 2, L("5' 2"), circuit="Q1"),
        A1=Point("light", "R1", x=L("7'"), y=L("6'"), circuit="Q1"),
    )
    plan = derive(drawing)
    assert all(not 5 * FOOT - 29 < s.at < 5 * FOOT + 4 * INCH + 29 for s in stops.wall_stops(plan, "O1"))
    assert all(not 68 * INCH - 50 < s.at < 76 * INCH + 50 for s in stops.ceiling_stops(plan, "A1", 1))
    free = rows.array(plan.rooms["R1"], 3, 3, "half-spacing", 0.0, 50.0)
    clear = rows.array(
        plan.rooms["R1"], 3, 3, "half-spacing", 0.0, 50.0, lambda p: wanted.overhead(plan, "R1", p)
    )
    assert (len(free.points), len(clear.points), clear.dropped) == (9, 6, 3)
    for finding in found(drawing, "clear-of-bodies"):
        edit = fixes.fix(plan, finding, Mint(drawing.items))
        after = apply(drawing, settle(drawing, edit, Mint(drawing.items)))
        assert finding.key not in {f.key for f in open_findings(derive(after))}, finding.words


@pytest.mark.parametrize(
    ("mount", "off", "passes"),
    [("surface", 12, True), ("surface", 11.9, False), ("recessed", 6, True), ("recessed", 5.9, False)],
)
def test_closet_lights_and_storage(mount, off, passes):
    shelf = Body("cabinet", "R1", L("4'"), L("16"), 1, L("2'"), high=L("6'"))
    light = Point("light", "R1", x=L("4'"), y=at((16 + off) * INCH), mount=mount)
    assert (not found(house(use="closet", B1=shelf, A1=light), "closet-light")) is passes


def test_carbon_monoxide_where_fuel_is_burned():
    hearth = Body("fireplace", "R1", L("4'"), L("2'"), 1, L("2'"))
    smoke = Point("alarm", "R1", x=L("5'"), y=L("6'"), sensing="photoelectric")
    assert not found(two_rooms(V1=smoke), "alarm-gas")
    assert found(two_rooms(V1=smoke, B1=hearth), "alarm-gas")
    assert not found(
        two_rooms(
            V1=smoke, B1=hearth, V2=Point("alarm", "R1", x=L("9'"), y=L("6'"), sensing="carbon monoxide")
        ),
        "alarm-gas",
    )


def test_each_bay_of_a_garage_has_an_outlet():
    bays = {f"D{n}": Opening("sliding", "R1", 1, L(f"{n * 7 - 6.5}'"), L("7'"), head=L("7'")) for n in (1, 2)}
    one = {"O1": Point("outlet", "R1", 2, L("5'"), L("40"), circuit="Q1")}
    two = {**one, "O2": Point("outlet", "R1", 4, L("5'"), L("40"), circuit="Q1")}
    wide = {"width": "16'"}
    assert found(house(use="garage", room=wide, **bays, **one), "garage-bays")
    assert not found(house(use="garage", room=wide, **bays, **two), "garage-bays")
