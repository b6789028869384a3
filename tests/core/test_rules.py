"""Rules as data: each used, each cited, each at its limit; amendments win; fixes put findings right."""

import ast
import re
from pathlib import Path
from typing import get_args

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

import fjeld
from fjeld import practice
from fjeld.check import RANK, check, open_findings
from fjeld.check.finding import LOOKED_AT, failed, looks_at, require_all_looked_at
from fjeld.concealed.cut import place
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.derive.terminals import BoxIntent, CircuitIntent, terminals_of
from fjeld.drawing.building import Build, Opening, Panel, Room, Side
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.edits.record import AmendRule
from fjeld.drawing.errand import Errand, Spot
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable, Circuit, Point, Protection
from fjeld.judge.outdoors import OutdoorsAsked, outdoors
from fjeld.judge.ways import WoodAsked, wood
from fjeld.practice import Amendment, UnknownRule, available, kinds, load, rules
from fjeld.practice.rules import DECLARED
from fjeld.propose.attach import settle
from fjeld.propose.fixes import fix
from fjeld.quantities import INCH, Fails, Length, NotKnown, Passes
from tests.houses import inches, one_room
from tests.often import often

CORE = Path(fjeld.__file__).parent


def named_in(*packages):
    """The rules that the code of some packages names, as ``rules.OUTLET_REACH``."""
    for package in packages:
        for file in (CORE / package).rglob("*.py"):
            for node in ast.walk(ast.parse(file.read_text())):
                if (
                    isinstance(node, ast.Attribute)
                    and isinstance(node.value, ast.Name)
                    and node.value.id == "rules"
                ):
                    key = getattr(rules, node.attr, None)
                    if isinstance(key, rules.RuleKey):
                        yield key.id


def test_every_rule_declared_is_in_some_practice_and_used():
    held = set(load("na").rules) | set(load("gb").rules)
    assert held == set(DECLARED)
    used = set(named_in(""))
    assert set(DECLARED) == used


def test_a_rule_is_looked_at_by_a_check_and_what_is_given_by_none():
    require_all_looked_at()
    assert set(LOOKED_AT) == {key.id for key in DECLARED.values() if key.looked_at}
    with pytest.raises(ValueError, match="only gone by"):
        looks_at(rules.TRIP_CURVE)


def test_a_check_finds_no_rule_that_it_is_not_registered_for(boot_plan, monkeypatch):
    monkeypatch.setattr("fjeld.check.finding.LOOKED_AT", {})

    @looks_at(rules.BOX_FILL)
    def astray(plan):
        yield failed(plan, rules.BOX_GANGS, "boxes", (), "another rule")

    with pytest.raises(ValueError, match="does not look at"):
        list(astray(boot_plan))


def test_a_check_is_not_run_where_the_practice_has_none_of_its_rules(boot_plan, monkeypatch):
    monkeypatch.setattr("fjeld.check.finding.LOOKED_AT", {})

    @looks_at(rules.CABLE_ZONES)
    def never(plan):
        raise AssertionError("no practice here has zones")
        yield

    assert list(never(boot_plan)) == []


@pytest.mark.parametrize(
    ("name", "body", "wrong"),
    [
        ("outlet-reech", {"value": "6 ft", "severity": "breach"}, "no such rule is declared"),
        ("outlet-reach", {"value": "6 VA", "severity": "breach"}, "in, ft, mm, m"),
        ("outlet-reach", {"value": 6, "severity": "breach"}, "in, ft, mm, m"),
        ("outlet-reach", {"value": "6 ft"}, "no severity"),
        ("outlet-reach", {"value": "6 ft", "severity": "grave"}, "grave"),
        ("panel-clear", {"value": ["30 in"], "severity": "breach"}, "a list of 2"),
        ("breaker-gauge", {"value": {"14": "15 A", "12": "20 ft"}, "severity": "danger"}, "A, mA"),
        ("box-fill", {"value": {"14": "2 in³", "12": "2 in"}, "severity": "breach"}, "in³"),
        ("alarm-linked", {"value": "1.5 alarms", "severity": "danger"}, "whole number"),
        ("trip-curve", {"value": []}, "no rows"),
        ("box-gangs", {"value": "1 in", "severity": "breach"}, "without a value"),
        ("outlet-reach", {"value": "6 ft", "severity": "breach", "applies_to": ["neww"]}, "neww"),
    ],
)
def test_a_rule_that_is_mistyped_does_not_load(name, body, wrong):
    with pytest.raises(ValueError, match=re.escape(wrong)):
        practice._rule("here", name, {"title": "t", "basis": "b", "why": "w" * 30, **body})


@pytest.mark.parametrize(
    ("kind", "written", "value", "unit", "read"),
    [
        (kinds.LENGTH, "6 ft", 6, "ft", 1828.8),
        (kinds.LENGTH, "0.25 in", 0.25, "in", 6.35),
        (kinds.AMPS, "30 mA", 30, "mA", 0.03),
        (kinds.KILOGRAMS, "50 lb", 50, "lb", 22.6796185),
        (
            kinds.several(kinds.SHARE, kinds.LENGTH),
            ["0.25 of depth", "50 mm"],
            [0.25, 50],
            "of depth, mm",
            (0.25, 50.0),
        ),
        (kinds.each(kinds.AMPS), {"14": "15 A"}, {"14": 15}, "A", {"14": 15.0}),
        (kinds.each(kinds.COUNT), {}, {}, "", {}),
        (kinds.CURVE, [["2 × rating", "60 s"]], [[2, 60]], "× rating, s", ((2.0, 60.0),)),
        (kinds.FLAG, False, False, "", False),
        (kinds.NAMES, ["bed"], ["bed"], "", ("bed",)),
    ],
)
def test_a_value_is_taken_apart_and_read_in_the_programs_own_unit(kind, written, value, unit, read):
    assert kind.split(written) == (value, unit)
    assert (
        kind.read(value, unit) == pytest.approx(read)
        if isinstance(read, float)
        else kind.read(value, unit) == read
    )


def figures_of(value):
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, list | tuple):
        for each in value:
            yield from figures_of(each)
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield round(float(value), 6)


#: Numbers that mean themselves: counts, halves, tolerances, a thousand of something.
OF_THEIR_OWN = {0.05, 0.1, 0.25, 0.5, 100.0, 1000.0, *map(float, range(13))}


#: Where what a practice says is looked at, worked with or proposed.
ROOMS = (
    *("judge", "oldbox", "concealed", "work", "errand"),
    *("check", "derive", "propose", "prove"),
)


def numbers_in_code(tree):
    """Numbers that stand in a function; not where a name says what they are, nor where text is cut short."""
    named = (ast.Assign, ast.AnnAssign)
    spaces = [tree, *(n for n in tree.body if isinstance(n, ast.ClassDef))]
    own = {n for space in spaces for line in space.body if isinstance(line, named) for n in ast.walk(line)}
    own |= {n for cut in ast.walk(tree) if isinstance(cut, ast.Slice) for n in ast.walk(cut)}
    return [
        n
        for n in ast.walk(tree)
        if isinstance(n, ast.Constant) and type(n.value) in (int, float) and n not in own
    ]


def test_no_code_has_a_rules_number():
    """Compared with the figures of every rule of every practice, as written and as read."""
    figures = {
        figure
        for found in map(load, available())
        for key in DECLARED.values()
        if key in found
        for value in (found[key], found.rules[key.id].value)
        for figure in figures_of(value)
    } - OF_THEIR_OWN
    assert len(figures) > 80
    met = [
        f"{file.relative_to(CORE)}:{n.lineno} {n.value}"
        for room in ROOMS
        for file in (CORE / room).rglob("*.py")
        for n in numbers_in_code(ast.parse(file.read_text()))
        if round(float(n.value), 6) in figures
    ]
    assert met == []


def test_a_number_in_a_function_is_seen_and_a_named_one_is_not():
    written = """
HIGH = 457.2
class Box:
    deep: float = 18.0
def over(text, by=72):
    own = 1371.6
    return own > HIGH and text[:40]
"""
    assert [n.value for n in numbers_in_code(ast.parse(written))] == [72, 1371.6]


def test_the_name_of_a_rule_is_text_in_one_place():
    """Elsewhere it is asked for by its key, so that a mistyped one is told by the type checker."""
    words = {"measured", "fan-ready", "arc-fault", "ground-fault", "residual", "fire-stop"}
    for file in CORE.rglob("*.py"):
        if "practice" in file.parts:
            continue
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                assert node.value not in set(DECLARED) - words, f"{file.name}:{node.lineno}"


def test_every_rule_has_a_basis_a_reason_and_a_severity(na):
    for rule in [*na.rules.values(), *load("gb").rules.values()]:
        assert rule.basis
        assert len(rule.why) > 20
        assert "check against your printed copy" in rule.shown_basis
        assert rule.severity in RANK


def findings(drawing, rule):
    return [f for f in check(derive(drawing)) if f.rule.id == rule]


def with_(drawing, *edits):
    for edit in edits:
        drawing = apply(drawing, settle(drawing, edit, Mint(drawing.items)))
    return drawing


def open_rule(drawing, rule):
    return [f for f in findings(drawing, rule) if f.open]


@pytest.mark.parametrize(
    ("breaker", "gauge", "passes"),
    [
        (15, "14", True),
        (20, "14", False),
        (16, "14", False),
        (20, "12", True),
        (25, "12", False),
        (15, "12", True),
        (30, "10", True),
        (35, "10", False),
    ],
)
def test_breaker_against_gauge(boot_room, breaker, gauge, passes):
    drawing = with_(boot_room, Revise("Q1", {"breaker": breaker, "gauge": gauge}))
    assert (not open_rule(drawing, "breaker-gauge")) is passes
    if not passes:
        assert open_rule(drawing, "breaker-gauge")[0].rule.severity == "danger"


@pytest.mark.parametrize(("va", "passes"), [(1790, True), (1800, True), (1801, False)])
def test_load_against_breaker(boot_room, va, passes):
    lights = [h for h, p in boot_room.of(Point).items() if p.circuit == "Q1"]
    edits = [Revise(h, {"va": 0.0}) for h in lights[1:]] + [Revise(lights[0], {"va": float(va)})]
    assert (not open_rule(with_(boot_room, *edits), "circuit-load")) is passes


@pytest.mark.parametrize(("inches_", "passes"), [(7.5, False), (8, True), (48, True), (48.5, False)])
def test_framing_of_this_world(boot_room, inches_, passes):
    joists = msgspec.structs.replace(boot_room.get("R1", Room).joists, spacing=inches(inches_))
    assert (not open_rule(with_(boot_room, Revise("R1", {"joists": joists})), "framing-plausible")) is passes


@pytest.mark.parametrize(("height", "passes"), [(78, True), (79, True), (80, False)])
def test_switch_handle(boot_room, height, passes):
    drawing = with_(
        boot_room,
        Revise("R1", {"height": inches(108)}),
        Revise("S1", {"height": inches(height), "edge": "center"}),
    )
    assert (not open_rule(drawing, "switch-handle")) is passes


@pytest.mark.parametrize(("away", "passes"), [(11.9, False), (12, True), (12.1, True)])
def test_row_clearance(boot_room, away, passes):
    drawing = with_(boot_room, Revise("A1", {"y": inches(away), "row": ""}))
    assert (not [f for f in open_rule(drawing, "row-clearance") if "A1" in f.handles]) is passes


@pytest.mark.parametrize(("down", "passes"), [(11, True), (12, True), (12.5, False)])
def test_alarm_on_a_wall(boot_room, down, passes):
    height = boot_room.get("R1", Room).height.mm
    alarm = Point("alarm", "R1", 4, inches(60), Length(height - down * INCH), "center", circuit="Q1")
    drawing = with_(boot_room, Place({"V9": alarm}, "an alarm"))
    assert (not open_rule(drawing, "alarm-wall")) is passes
    for finding in open_rule(drawing, "alarm-wall"):
        assert isinstance(finding.verdict, NotKnown), "the maker has the word, so it is asked"


@pytest.mark.parametrize(("count", "passes"), [(12, True), (13, False)])
def test_alarms_on_one_link(boot_room, count, passes):
    have = sum(p.kind == "alarm" for p in boot_room.of(Point).values())
    fresh = {
        f"V{50 + n}": Point("alarm", "R1", x=inches(30 + 6 * n), y=inches(50), circuit="Q1")
        for n in range(count - have)
    }
    assert (not open_rule(with_(boot_room, Place(fresh, "alarms")), "alarm-linked")) is passes


@pytest.mark.parametrize(("depth", "passes"), [(2.2, True), (2.25, True), (1.8, False)])
def test_holes_in_studs(boot_room, depth, passes):
    """Three-quarter-inch holes in bearing walls: forty per cent of the depth."""
    studs = msgspec.structs.replace(boot_room.get("R1", Room).studs, depth=inches(depth))
    bearing = {n: Build(bearing=True) for n in range(1, 5)}
    drawing = with_(boot_room, Revise("R1", {"studs": studs, "builds": bearing}))
    mine = [f for f in open_rule(drawing, "stud-hole") if abs(f.working.total - 0.75 * INCH) < 0.1]
    assert (not mine) is passes


@pytest.mark.parametrize(("depth", "passes"), [(2.0, True), (1.95, False), (1.5, True)])
def test_holes_in_studs_that_bear_nothing(boot_room, depth, passes):
    """Sixty per cent of the depth and five eighths left at each face; a furring strip is no stud."""
    studs = msgspec.structs.replace(boot_room.get("R1", Room).studs, depth=inches(depth))
    drawing = with_(boot_room, Revise("R1", {"studs": studs}))
    small = [
        f for f in open_findings(derive(drawing)) if f.working and abs(f.working.total - 0.75 * INCH) < 0.1
    ]
    rules = {f.rule.id for f in small if f.rule.id.startswith("stud-hole")}
    assert (not rules) is passes
    assert "stud-hole" not in rules


@pytest.mark.parametrize(("ways", "passes"), [(2, True), (1, False)])
def test_panel_ways(boot_room, ways, passes):
    assert len(boot_room.of(Circuit)) == 2
    assert (not open_rule(with_(boot_room, Revise("P1", {"ways": ways})), "panel-ways")) is passes


@pytest.mark.parametrize(
    ("use", "rule", "protection"),
    [
        ("living", "arc-fault", "arc-fault"),
        ("bath", "ground-fault", "ground-fault"),
        ("kitchen", "arc-fault", "both"),
        ("kitchen", "ground-fault", "both"),
    ],
)
def test_protection_by_room(boot_room, use, rule, protection):
    bare = [Revise(q, {"protection": ""}) for q in boot_room.of(Circuit)]
    drawing = with_(boot_room, Revise("R1", {"use": use}), *bare)
    assert open_rule(drawing, rule)
    kept = [Revise(q, {"protection": protection}) for q in boot_room.of(Circuit)]
    assert not open_rule(with_(drawing, *kept), rule)


@pytest.mark.parametrize(("lumens", "passes"), [(800, True), (300, False)])
def test_light_wanted_is_advice_and_says_what_is_estimated(boot_room, lumens, passes):
    edits = [Revise(h, {"lumens": float(lumens)}) for h in ("A1", "A2", "A3")]
    drawing = with_(boot_room, *edits)
    (finding,) = findings(drawing, "light-wanted")
    assert (not finding.open) is passes
    assert finding.rule.severity == "advice"
    assert "estimated" in finding.words, "nobody said what A4 throws"
    assert finding.working.total == pytest.approx(sum(line.amount for line in finding.working.lines))
    assert (
        "estimated" not in findings(with_(drawing, Revise("A4", {"lumens": 800.0})), "light-wanted")[0].words
    )


def test_two_home_runs_are_told_and_joined_elsewhere(boot_room):
    cable, standing = next(
        (h, c) for h, c in boot_room.of(Cable).items() if c.circuit == "Q2" and "P1" not in (c.a, c.b)
    )
    second = msgspec.structs.replace(standing, a="P1")
    drawing = msgspec.structs.replace(boot_room, items={**boot_room.items, cable: second})
    (finding,) = open_rule(drawing, "one-home-run")
    edit = fix(derive(drawing), finding, Mint(drawing.items))
    mended = with_(drawing, edit)
    assert not open_rule(mended, "one-home-run")
    assert not derive(mended).circuits["Q2"].tree.unfed


def test_bad_input_each_at_its_place(boot_room):
    """Each wrong thing is a finding with its handle, and the rest of the plan stands."""
    wrong = {
        "room-simple": RevisedWalls((("E", 140), ("S", 120), ("W", 40), ("N", 160), ("W", 100), ("S", 40))),
        "inside-room": Revise("A1", {"x": inches(400), "row": ""}),
        "opening-fits": Place(
            {"D9": Opening("door", "R1", 2, inches(20), inches(600))}, "a door wider than its wall"
        ),
        "control-complete": Revise("K1", {"loads": ()}),
        "box-fill": Revise("A1", {"box": "pan"}),
        "breaker-gauge": Revise("Q1", {"breaker": 30}),
        "circuit-fed": Revise("O1", {"circuit": None}),
        "clear-of-framing": Revise("A1", {"x": Length(derive(boot_room).rooms["R1"].joists[2]), "row": ""}),
        "box-reserve": Revise(_fullest(boot_room), {"box": "one-18"}),
        "end-of-run-box": Revise(_joining(boot_room), {"box": "pan"}),
        "boxes-apart": Revise("O1", {"wall": 2, "at": boot_room.get("O2", Point).at}),
    }
    for rule, edit in wrong.items():
        drawing = with_(boot_room, edit)
        found = open_rule(drawing, rule)
        assert found, rule
        assert found[0].handles
        assert found[0].words


def _joining(drawing):
    """A ceiling box with two cables or more."""
    boxes = derive(drawing).boxes
    return next(h for h, b in boxes.items() if h.startswith("A") and len({e.bundle for e in b.ends}) > 1)


def _fullest(drawing):
    """A one-gang box that fits eighteen cubic inches, with no room for a cable more."""
    boxes = derive(drawing).boxes
    return next(h for h, b in boxes.items() if b.kind.gangs == 1 and 12.5 < b.needed.total <= 18)


def RevisedWalls(legs):
    bearings = {"E": 90.0, "S": 180.0, "W": 270.0, "N": 0.0}
    return Revise("R1", {"sides": tuple(Side(bearings[b], inches(n)) for b, n in legs)})


def test_a_light_no_cable_can_reach(boot_room):
    drawing = with_(boot_room, Revise("A1", {"x": inches(400), "row": ""}))
    assert any(f.open for f in findings(drawing, "reachable"))


def test_a_job_without_a_panel_asks_where_it_is(boot_room):
    items = {h: i for h, i in boot_room.items.items() if not isinstance(i, Panel | Cable)}
    found = open_rule(msgspec.structs.replace(boot_room, items=items), "circuit-fed")
    assert any(isinstance(f.verdict, NotKnown) for f in found)


# --- amendments and overrides -----------------------------------------------------


def test_an_amendment_wins_and_is_shown(boot_room):
    drawing = with_(boot_room, AmendRule("switch-handle", 40, "low switches wanted", "ada", "2026-01-02"))
    finding, *_ = open_rule(drawing, "switch-handle")
    assert finding.rule.value == 40
    assert "low switches wanted" in finding.rule.shown_basis
    assert not open_rule(with_(drawing, AmendRule("switch-handle", None, "", "ada")), "switch-handle")


@pytest.mark.parametrize(
    "amendment",
    [
        Amendment("no-such", 1, "x"),
        Amendment("volt-drop", "five", "x"),
        Amendment("volt-drop", -1, "x"),
        Amendment("breaker-gauge", {"14": 15}, "x"),
        Amendment("trip-curve", [], "x"),
        Amendment("trip-curve", [[1.5, 60.0]], "x"),
        Amendment("trip-curve", ["1.5", "60"], "x"),
        Amendment("trip-curve", [[2.0, 60.0], [1.5, 0.1]], "x"),
        Amendment("trip-curve", [[0.0, 60.0], [1.5, 0.1]], "x"),
    ],
)
def test_an_amendment_of_the_wrong_shape_is_refused(na, amendment):
    with pytest.raises(UnknownRule):
        na.amended((amendment,))


def test_a_makers_own_curve_is_taken(na):
    curve = [[1.2, 3600.0], [3.0, 30.0], [8.0, 0.1]]
    assert na.amended((Amendment("trip-curve", curve, "the maker's sheet"),))[rules.TRIP_CURVE] == tuple(
        map(tuple, curve)
    )


def test_an_unknown_practice_or_rule_is_refused(na):
    with pytest.raises(ValueError, match="there is gb, na"):
        practice.load("moon")
    with pytest.raises(UnknownRule):
        na.named("no-such")


def test_an_overridden_finding_rests_and_others_stay(boot_room):
    drawing = with_(boot_room, Revise("Q1", {"breaker": 30}))
    key = next(f.key for f in open_findings(derive(drawing)) if f.rule.id == "breaker-gauge")
    rested = with_(drawing, Revise("house", {"overrides": {key: "ada: tested"}}))
    assert key not in {f.key for f in open_findings(derive(rested))}
    assert any(f.key == key for f in check(derive(rested))), "it is still looked at"


# --- fixes -------------------------------------------------------------------------


def spoilt(drawing, n):
    """The drawing with one thing wrong."""
    points = drawing.of(Point)
    some = sorted(points)
    edits = [
        Revise("Q1", {"breaker": 30}),
        Revise("Q1", {"protection": ""}),
        Revise("Q2", {"protection": ""}),
        Revise(next(h for h in some if h.startswith("A")), {"box": "pan"}),
        Revise(next(h for h in some if h.startswith("S")), {"neutral": "no"}),
        Revise(next(h for h in some if h.startswith("O")), {"circuit": None}),
        Revise("R1", {"use": "living"}),
    ]
    return with_(drawing, edits[n % len(edits)])


@given(st.integers(0, 300), st.integers(0, 6))
@often(8)
def test_a_fix_removes_its_finding_and_adds_no_worse(seed, n):
    drawing, memo = spoilt(one_room(seed), n), Memo()
    plan = derive(drawing, memo)
    before = open_findings(plan, memo)
    one_of_each = {f.rule.id: f for f in before}
    for finding in one_of_each.values():
        edit = fix(plan, finding, Mint(drawing.items), memo, before)
        if edit is None:
            continue
        after = open_findings(derive(with_(drawing, edit), memo), memo)
        assert finding.key not in {f.key for f in after}, (finding.key, edit)
        known = {f.key for f in before}
        fresh = [f for f in after if f.key not in known]
        assert all(RANK[f.severity] >= RANK[finding.severity] for f in fresh), (
            finding.key,
            [f.key for f in fresh],
        )


def test_a_finding_that_passes_has_no_fix_and_says_what_was_checked(boot_plan):
    looked = check(boot_plan)
    passed = [f for f in looked if isinstance(f.verdict, Passes)]
    assert passed
    for finding in passed:
        assert fix(boot_plan, finding, Mint(boot_plan.drawing.items)) is None
        assert finding.words


def test_findings_come_worst_first_and_their_keys_are_unique(boot_room):
    drawing = with_(boot_room, Revise("Q1", {"breaker": 30}), Revise("A1", {"box": "pan"}))
    found = open_findings(derive(drawing))
    ranks = [RANK[f.rule.severity] for f in found]
    assert ranks == sorted(ranks)
    keys = [f.key for f in check(derive(drawing))]
    assert len(keys) == len(set(keys))
    assert any(isinstance(f.verdict, Fails) for f in found)


@pytest.mark.parametrize("practice", available())
def test_every_part_on_sale_has_a_name_and_every_lead_a_colour(practice):
    found = load(practice)
    catalogue = found.catalogue
    assert set(catalogue.parts) - {"hole"} == set(catalogue.names) - {"cable"}
    assert set(catalogue.protections) <= set(get_args(Protection))
    assert {kind.gauge for kind in catalogue.cables} == set(catalogue.wired_gauges())
    boxes = tuple(BoxIntent(kind, kind) for kind in ("light", "fan", "alarm"))
    ends = terminals_of(CircuitIntent("Q1", boxes, {}), "P1", {})
    assert {t.name for t in ends if t.lead} | {"ground lead"} == set(found.leads)


def test_one_rule_holds_in_a_house_and_where_things_stay_closed():
    """What an inspector wants otherwise is told once, and holds for the errand too: it has no number of its
    own.
    """
    usual = load("na")
    local = usual.amended(
        (
            Amendment("stud-hole", 0.3, "here"),
            Amendment("stud-hole-other", 0.5, "here"),
            Amendment("hole-edge", 1.5, "here"),
            Amendment("outlet-height-limit", 60.0, "here"),
            Amendment("outdoor-outlet-height", 72.0, "here"),
        )
    )
    asked = WoodAsked(Length(0.0), Length(1000.0), Length(400.0), depth=Length(100.0))
    assert wood(asked, local).figure("bore at most") == pytest.approx(50.0)
    assert wood(msgspec.structs.replace(asked, bearing=True), local).figure("bore at most") == pytest.approx(
        30.0
    )

    def uncounted(practice):
        inside = place(Errand("outlet", spot=Spot(height=Length(1600.0))), practice).said
        outside = outdoors(OutdoorsAsked("outlet", height=Length(1900.0)), practice).said
        return [any("does not count" in s.words for s in said) for said in (inside, outside)]

    assert uncounted(usual) == [False, False]
    assert uncounted(local) == [True, True]
