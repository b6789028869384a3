"""Edits, changes and the rule for two people: written once, held to their properties here."""

import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.memo import Memo, always, weigh
from fjeld.derive.plan import derive
from fjeld.drawing.building import Room
from fjeld.drawing.changes import Put, Set, StaleChange, apply, between, invert, meet, written
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.circuits import Assign
from fjeld.drawing.edits.common import Place, Remove, Revise
from fjeld.drawing.edits.layout import MovePoint, MoveRow, row_of
from fjeld.drawing.edits.record import AmendRule, OverrideFinding
from fjeld.drawing.edits.runs import TakeTree
from fjeld.drawing.edits.survey import LiftSide, RemeasureSide, WalkSide
from fjeld.drawing.handles import HOUSE, Handle, Mint, is_handle, order
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, House, Point
from fjeld.drawing.validate import InvalidDrawing
from fjeld.propose.attach import settle
from fjeld.quantities import Length
from tests.houses import inches, one_room
from tests.often import often

seeds = st.integers(0, 400)


def some_edit(drawing: Drawing, die: random.Random):
    points = sorted(drawing.of(Point), key=order)
    handle = die.choice(points)
    point = drawing.get(handle, Point)
    mint = Mint(drawing.items)
    circuit = min(drawing.of(Circuit))
    move = (
        MovePoint(handle, at=inches(die.randint(8, 60)))
        if point.wall
        else MovePoint(handle, x=inches(die.randint(30, 60)))
    )
    return die.choice(
        [
            move,
            Remove(handle),
            Revise("R1", {"height": inches(die.randint(90, 110))}),
            RemeasureSide("R1", 1, inches(die.randint(100, 220))),
            Revise(circuit, {"breaker": die.choice((15, 20))}),
            Place(
                {mint.fresh("light"): Point("light", "R1", x=inches(50), y=inches(50), circuit=circuit)},
                "a light",
            ),
            Assign((handle,), None) if point.kind != "switch" else Revise(handle, {"neutral": "yes"}),
            AmendRule("volt-drop", 5.0, "local", "me"),
            OverrideFinding("x:y", "because"),
            Revise(HOUSE, {"feed": die.choice(("switch", "light"))}),
        ]
    )


@given(seeds, st.integers(0, 2**20))
def test_undo_right_after_an_edit_is_identity(seed, dice):
    before = one_room(seed)
    changes = settle(before, some_edit(before, random.Random(dice)), Mint(before.items))
    after = apply(before, changes)
    assert apply(after, invert(changes)) == before
    assert apply(before, invert(invert(changes))) == after


@given(seeds, st.integers(0, 2**20))
def test_between_is_what_an_edit_did(seed, dice):
    before = one_room(seed)
    after = apply(before, settle(before, some_edit(before, random.Random(dice)), Mint(before.items)))
    assert apply(before, between(before, after)) == after
    assert between(after, after) == ()


@given(seeds, st.integers(0, 2**20), st.integers(0, 2**20))
@often(40)
def test_edits_with_disjoint_paths_commute(seed, one, two):
    drawing = one_room(seed)
    first = some_edit(drawing, random.Random(one)).plan(drawing)
    second = some_edit(drawing, random.Random(two)).plan(drawing)
    if meet(written(first), written(second)):
        return
    assert apply(apply(drawing, first), second).items == apply(apply(drawing, second), first).items


@given(seeds, st.integers(0, 2**20))
def test_after_any_edit_every_box_of_a_circuit_is_joined(seed, dice):
    before = one_room(seed)
    try:
        changes = settle(before, some_edit(before, random.Random(dice)), Mint(before.items))
    except InvalidDrawing:
        return

    plan = derive(apply(before, changes))
    for circuit in plan.circuits.values():
        assert not circuit.tree.unfed
        assert not circuit.tree.loops
        assert sum(e.up == plan.panel for e in circuit.tree.edges) <= 1


def test_a_handle_is_never_given_twice():
    mint = Mint(["A1", "A3"], {"A": 7})
    assert mint.fresh("light") == "A8"
    assert mint.fresh("light") == "A9"
    assert Mint(["A3"]).fresh("light") == "A4"
    assert Mint([], mint.counters).fresh("light") == "A10"


def test_handles_sort_by_their_number():
    assert sorted(["S12", "S2", "A10", "A9"], key=order) == ["A9", "A10", "S2", "S12"]
    assert [is_handle(h) for h in ("S12", "house", "s1", "S0", "S", "S1234567")] == [
        True,
        True,
        False,
        False,
        False,
        False,
    ]


def test_a_change_that_no_longer_fits_is_stale(boot_room):
    old = boot_room.get("A1", Point)
    for change in (
        Set(Handle("A1"), "x", Length(1), Length(2)),
        Put(Handle("A1"), old),
        Set(Handle("Z9"), "x", None, None),
    ):
        with pytest.raises(StaleChange):
            apply(boot_room, [change])


def test_clash_is_by_path():
    x, y = Set(Handle("A1"), "x", None, Length(1)), Set(Handle("A1"), "y", None, Length(1))
    assert not meet(written([x]), written([y]))
    assert meet(written([x]), written([x])) == {("A1", "x")}
    assert meet(written([x]), written([Put(Handle("A1"), Point("light", Handle("R1")))]))


def test_a_row_moves_as_one_and_stays_straight(boot_room):
    handle = next(h for h, p in boot_room.of(Point).items() if p.row)
    moved = apply(boot_room, MoveRow(handle, dy=50.0).plan(boot_room))
    mates = row_of(boot_room, handle, "y")
    assert len(mates) >= 2
    assert {round(moved.get(h, Point).y.mm - boot_room.get(h, Point).y.mm, 3) for h in mates} == {50.0}
    others = [h for h in boot_room.of(Point) if h not in mates]
    assert all(moved.get(h, Point) == boot_room.get(h, Point) for h in others)


def test_a_removed_switch_leaves_its_controls_and_a_removed_room_must_be_empty(boot_room):
    switch = next(iter(boot_room.of(Control).values())).positions[0]
    after = apply(boot_room, settle(boot_room, Remove(switch), Mint(boot_room.items)))
    assert all(switch not in c.positions for c in after.of(Control).values())
    assert all(switch not in (c.a, c.b) for c in after.of(Cable).values())
    with pytest.raises(EditRefused, match="still holds"):
        Remove("R1").plan(boot_room)


def test_what_is_built_no_proposal_may_touch(boot_room):
    cable = next(h for h, c in boot_room.of(Cable).items() if c.circuit == "Q1")
    built = apply(boot_room, Revise(cable, {"state": "built"}).plan(boot_room))
    with pytest.raises(EditRefused, match="is built"):
        TakeTree("Q1", (), {}).plan(built)


@pytest.mark.parametrize(
    "edit",
    [
        Remove("Z9"),
        Remove(HOUSE),
        Revise("Z9", {}),
        Revise("A1", {"no such": 1}),
        MovePoint("Z9", at=Length(1)),
        Assign(("S1",), None),
        Assign(("A1",), "Q99"),
        WalkSide("R9", 0, Length(1)),
        RemeasureSide("R1", 99, Length(1)),
        LiftSide("R1"),
        Place({"A1": Point("light", "R1")}, "twice"),
        MoveRow("S1", dx=1),
        TakeTree("Q1", ("C99",), {}),
        TakeTree("Q1", (), {"C99": ("A1", "Z9")}),
    ],
)
def test_an_edit_that_makes_no_sense_is_refused_in_words(boot_room, edit):
    with pytest.raises(EditRefused) as refused:
        edit.plan(boot_room)
    assert str(refused.value)


def test_an_edit_that_would_break_the_drawing_is_refused(boot_room):
    for edit in (
        Revise("A1", {"room": "R9"}),
        Revise("Q1", {"gauge": "13"}),
        Revise("R1", {"height": Length(0)}),
    ):
        with pytest.raises(InvalidDrawing):
            settle(boot_room, edit, Mint(boot_room.items))


def test_every_edit_has_words_for_the_history(boot_room):
    edits = [some_edit(boot_room, random.Random(n)) for n in range(60)]
    assert all(e.words(boot_room) and len(e.words(boot_room)) < 200 for e in edits)


def test_walking_and_lifting_a_wall():
    drawing = Drawing({HOUSE: House(), Handle("R1"): Room("Room")})
    walked = apply(drawing, WalkSide("R1", 90, inches(148)).plan(drawing))
    assert len(walked.get("R1", Room).sides) == 1
    assert apply(walked, LiftSide("R1").plan(walked)) == drawing


@given(seeds, st.integers(0, 2**20))
@often(10)
def test_a_plan_with_a_memo_is_the_plan_without(seed, dice):
    """Whatever was remembered from before the edit changes nothing of what comes out."""
    before = one_room(seed)
    memo = Memo()
    derive(before, memo)
    try:
        after = apply(before, settle(before, some_edit(before, random.Random(dice)), Mint(before.items)))
    except InvalidDrawing:
        return
    remembered, fresh = derive(after, memo), derive(after)
    for field in ("rooms", "placed", "marks", "circuits", "cables", "holes", "boxes", "network", "materials"):
        assert getattr(remembered, field) == getattr(fresh, field), field
    again = dict(memo.ran)
    derive(after, memo)
    assert dict(memo.ran) == again, "nothing runs twice for the same values"


def test_the_memo_keeps_within_its_limit():
    memo = Memo(limit=40_000)
    for n in range(200):
        assert memo("double", lambda x: "ab" * 100 * x, n) == "ab" * 100 * n
    assert memo("double", lambda x: 3 * x, 199) == "ab" * 100 * 199, "the last is known"
    assert memo.weight <= 40_000 + 2 * 40_000, "no more than its limit and the two kept last"
    large, small = Memo(limit=40_000), Memo(limit=40_000)
    for n in range(1000):
        large.same("repeat", lambda x: "ab" * 100 * x, n)
        small.same("triple", lambda x: 3 * x, n)
    assert small.weight <= 40_000
    assert len(small) > 2 * len(large), "of small results more are kept than of large ones"


def test_what_a_result_weighs_grows_with_what_it_holds():
    line = Length(1234.5, "4' 0 9/16")
    assert 72 <= weigh(line) < weigh((line, Length(2.0))) < weigh([Length(float(n)) for n in range(100)])
    assert weigh((line, line)) < weigh((line, Length(1234.5, "4' 0 9/16"))), "one object is counted once"
    assert weigh(np.zeros(1000)) >= 8000
    many = [Length(float(n)) for n in range(20_000)]
    assert weigh(many) > 0.5 * 20_000 * weigh(many[0]) / 2, "what is not looked at is guessed"


def test_a_memo_knows_an_equal_value_and_gives_the_one_met_before():
    memo = Memo()
    first, second = Length(12.0), Length(12.0)
    assert memo.known("length", first) is first
    assert memo.known("length", second) is first
    assert memo.known("length", Length(13.0)) is not first
    assert always.known("length", second) is second


@given(seeds, st.lists(st.integers(0, 2**20), min_size=3, max_size=6))
@often(8)
def test_a_memo_kept_over_a_walk_of_edits_and_back_changes_nothing(seed, dice):
    """One memo through edits and their undoing, objects coming and going, against a fresh plan at
    each step.
    """
    drawing, memo = one_room(seed), Memo(limit=300_000)
    walked = [drawing]
    for die in dice:
        try:
            drawing = apply(
                drawing, settle(drawing, some_edit(drawing, random.Random(die)), Mint(drawing.items))
            )
        except InvalidDrawing:
            continue
        walked.append(drawing)
    for step in [*walked, *reversed(walked)]:
        remembered, fresh = derive(step, memo), derive(step)
        for field in (
            "placed",
            "marks",
            "circuits",
            "cables",
            "holes",
            "boxes",
            "parts",
            "network",
            "materials",
        ):
            assert getattr(remembered, field) == getattr(fresh, field), field
