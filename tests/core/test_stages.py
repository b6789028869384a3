"""Stages run again only for what they read, and never less than that."""

import pickle

import msgspec
import pytest

from fjeld.check import check
from fjeld.demo import job_file
from fjeld.derive import reads
from fjeld.derive.memo import Memo, always
from fjeld.derive.plan import derive
from fjeld.drawing.building import Opening, Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.edits.record import AmendRule
from fjeld.drawing.model import Circuit, Point
from fjeld.formats import jobfile
from fjeld.practice import COUNTED, available, extent, load, rules
from fjeld.quantities import Length
from tests.core.test_rules import named_in
from tests.houses import row_of_rooms

HOUSES = ("tarn-house", "chandlers-loft")


@pytest.fixture(scope="module", params=HOUSES)
def house(request):
    return jobfile.decode(job_file(request.param))


def ran(drawing, edit):
    """The stages that an edit runs again, with how often, and the drawing after it."""
    memo = Memo()
    derive(drawing, memo)
    memo.ran.clear()
    after = apply(drawing, edit.plan(drawing))
    derive(after, memo)
    return dict(memo.ran), after


def some(drawing, kind, wanted=lambda item: True):
    return next(h for h, item in drawing.of(kind).items() if wanted(item))


def test_a_room_with_a_new_name_runs_nothing_that_is_built(house):
    found, _ = ran(house, Revise(some(house, Room), {"name": "Hall of echoes"}))
    assert set(found) == {"shell", "purpose", "open measures"}


def test_a_room_with_a_new_use_runs_its_circuits_alone(house):
    room = some(house, Room)
    found, _ = ran(house, Revise(room, {"use": "hall" if house.get(room, Room).use != "hall" else "bed"}))
    assert not set(found) & {"lay", "place", "lanes", "route", "way", "cable"}


def test_a_door_that_swings_the_other_way_runs_nothing_that_is_built(house):
    door = some(house, Opening, lambda o: o.kind == "door")
    swing = "out" if house.get(door, Opening).swing == "in" else "in"
    found, _ = ran(house, Revise(door, {"swing": swing}))
    assert set(found) == {"gap", "open measures"}


def test_a_lamp_that_moves_runs_its_own_room_alone(house):
    lamp = some(house, Point, lambda p: p.kind == "light" and not p.wall and not p.row)
    found, _ = ran(house, MovePoint(lamp, x=Length(house.get(lamp, Point).x.mm + 40)))
    assert found["place"] == found["mark"] == found["lanes"] == 1
    assert found.get("circuit", 0) <= len(house.of(Circuit)) / 2
    assert found.get("cable", 0) <= 12


def test_an_outlet_on_another_circuit_runs_those_two_alone(house):
    outlet = some(house, Point, lambda p: p.kind == "outlet")
    other = some(house, Circuit, lambda c: c is not house.items[house.get(outlet, Point).circuit])
    found, _ = ran(house, Revise(outlet, {"circuit": other}))
    assert found["circuit"] <= 2
    assert not set(found) & {"lay", "lanes", "route"}


#: A rule of one number, and the stages that it may run again.
CHECKED = ("switch-handle", "volt-drop", "row-clearance", "alarm-bath")
READ_BY = {
    "circuit-load": {"circuit", "shares", "box", "cable parts", "box part", "box's parts", "open measures"},
    "cut-step": {
        "cable",
        "circuit",
        "conductors",
        "shares",
        "box",
        "boxes",
        "box's parts",
        "box part",
        "cable parts",
        "holes",
        "materials",
    },
    "residual-trip": {"cable parts", "box part"},
    "supply-loop": {"cable parts", "box part"},
}
ALWAYS = {"practice", "rule", "rules read", "open measures"}


def test_a_rule_that_only_a_check_reads_runs_no_stage(house):
    practice = load(house.house.practice)
    for name in CHECKED:
        if name in practice.rules:
            edit = AmendRule(name, practice.rules[name].value * 0.9, "here", "ada")
            found, after = ran(house, edit)
            assert set(found) <= ALWAYS, name
            assert derive(after).practice.rules[name].value == pytest.approx(practice.rules[name].value * 0.9)


@pytest.mark.parametrize("name", READ_BY)
def test_a_rule_runs_the_stages_that_read_it(house, name):
    practice = load(house.house.practice)
    edit = AmendRule(name, practice.rules[name].value * 1.1, "here", "ada")
    found, _ = ran(house, edit)
    assert set(found) <= READ_BY[name] | ALWAYS
    assert set(found) & READ_BY[name], "it is read"


def amended(rule):
    """A local value of a rule, where its own is one number or several."""
    value = rule.value
    if isinstance(value, bool) or (rule.unit in ("X", "outlets", "sockets")):
        return None
    if isinstance(value, int | float):
        low, high = extent(rule)
        moved = value + 1 if rule.unit in COUNTED else value * 1.2
        return moved if low <= moved <= high else value * 0.9 if low <= value * 0.9 <= high else None
    if isinstance(value, list) and value and all(isinstance(v, int | float) for v in value):
        return [v * 0.95 for v in value]
    if isinstance(value, dict) and value and all(type(v) in (int, float) for v in value.values()):
        return {k: v * 0.95 for k, v in value.items()}
    if isinstance(value, list) and value and all(isinstance(v, str) for v in value):
        return value[:-1]
    return None


@pytest.mark.parametrize("practice", available())
def test_any_amended_rule_gives_with_a_memo_what_it_gives_without(practice):
    """Each stage is told of every rule that it reads: one that is not would stay as it was."""
    name = {"na": "boot-room", "gb": "chandlers-loft"}[practice]
    drawing = jobfile.decode(job_file(name))
    memo, looked_at = Memo(), 0
    derive(drawing, memo)
    # What no stage names is read by none.
    for name in sorted({*named_in("derive")}):
        rule = load(practice).rules.get(name)
        value = amended(rule) if rule else None
        if value is None:
            continue
        looked_at += 1
        after = apply(drawing, AmendRule(rule.id, value, "here", "ada").plan(drawing))
        assert derive(after, memo) == derive(after), rule.id
    assert looked_at > 30


def test_a_stage_cannot_read_a_rule_that_is_not_its_own(na):
    mine = reads.of(na, reads.SETTING, always)
    assert mine[rules.SWITCH_HEIGHT] == na[rules.SWITCH_HEIGHT]
    for ask in (
        lambda: mine[rules.TRIP_CURVE],
        lambda: rules.TRIP_CURVE in mine,
        lambda: mine.rule(rules.TRIP_CURVE),
    ):
        with pytest.raises(LookupError, match="not among the rules"):
            ask()
    british = load("gb").only(reads.LANES)
    assert rules.DRILL_BELOW in british
    assert rules.DRILL_BELOW not in na.only(reads.LANES), "it may be asked for, and is not there"


def test_the_rules_that_a_stage_reads_are_one_object_while_they_stay_as_they_are(na):
    memo = Memo()
    one = reads.of(na, reads.SETTING, memo)
    edit = AmendRule("volt-drop", 2.5, "here", "ada")
    other = reads.of(na.amended((edit_of(edit),)), reads.SETTING, memo)
    assert one is other
    changed = na.amended((edit_of(AmendRule("switch-height", 46, "here", "ada")),))
    assert reads.of(changed, reads.SETTING, memo) is not one


def edit_of(edit):
    from fjeld.practice import Amendment

    return Amendment(edit.rule, edit.value, edit.reason, edit.who)


def test_a_plan_is_a_value(house):
    """It is written down and read back; the ways are found again where they are asked for."""
    plan = derive(house)
    again = pickle.loads(pickle.dumps(plan))
    assert again == plan
    assert "ways" not in again.__dict__
    a, b = list(plan.placed)[:2]
    assert again.ways.cost(a, b) == pytest.approx(plan.ways.cost(a, b))
    assert [f.key for f in check(again)] == [f.key for f in check(plan)]


def test_what_is_looked_up_of_a_drawing_is_looked_for_once(house):
    assert house.of(Point) is house.of(Point)
    copy = msgspec.structs.replace(house, items=dict(house.items))
    assert copy == house
    assert copy.of(Point) is not house.of(Point)


def test_more_rooms_are_no_more_work_for_one_that_moves():
    """The stages run for a moved lamp are as many in a house of eight rooms as in one of two."""
    counts = []
    for size in (2, 8):
        drawing = row_of_rooms(7, size)
        lamp = some(drawing, Point, lambda p: p.kind == "light" and not p.wall)
        found, _ = ran(drawing, MovePoint(lamp, x=Length(drawing.get(lamp, Point).x.mm + 40)))
        counts.append(
            {stage: n for stage, n in found.items() if stage not in ("way", "route", "between portals")}
        )
    assert counts[0] == counts[1]
