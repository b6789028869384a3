"""A box before and after: worked sums, what would take it all, both practices."""

import pytest

from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.errand.filled import asked_of, larger, new_box, old_box
from fjeld.errand.record import as_found, drawn_as
from fjeld.oldbox.arrangements import arrangements
from fjeld.practice import load
from fjeld.work.learned import Took, learned

NA, GB = load("na"), load("gb")


def found(practice, words):
    usual = next(a for a in arrangements(practice) if a.words.startswith(words))
    return as_found(drawn_as(OldBox(Handle("R1")), usual.box))


OUTLET = "Two cables, dark on one side"


def test_an_outlets_box_that_one_more_cable_just_fills():
    asked = asked_of(found("na", OUTLET), ("14", "14"), 18.0, "", None, False, ("",))
    now, after = old_box(asked, NA)
    assert (now.needs.total, after.needs.total, after.holds) == (14.0, 18.0, 18.0)
    assert not after.over


def test_a_metal_box_with_clamps_that_is_over_as_found():
    asked = asked_of(found("na", OUTLET), ("14", "14"), None, "3 x 2 x 2 3/4", None, True, ("",))
    now, after = old_box(asked, NA)
    assert (now.needs.total, now.holds, after.needs.total) == (16.0, 14.0, 20.0)
    assert now.over
    assert now.said[0].tone == "danger"
    assert "6.00" in after.said[0].words
    takes = larger(asked, NA)
    assert takes
    assert all(b.volume >= 18.0 for b in takes), "without clamps inside it needs 18"
    assert [b.id for b in takes] == [b.id for b in sorted(takes, key=lambda b: (b.on_member, b.volume))]


def test_what_nobody_read_is_not_known_and_over_nothing():
    now, after = old_box(asked_of(found("na", OUTLET), (), None, "", None, None, ("",)), NA)
    assert after.holds is None
    assert not after.over
    assert after.said[0].tone == "ask"
    assert now.said == ()


@pytest.mark.parametrize(
    ("depth", "holds", "over"), [(25, 2, True), (35, 3, False), (47, 5, False), (None, None, False)]
)
def test_british_boxes_are_counted_in_cables(depth, holds, over):
    _, after = old_box(asked_of(found("gb", OUTLET), (), None, "", depth, None, ("",)), GB)
    assert (after.needs.total, after.holds, after.over) == (3, holds, over)


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_every_box_for_a_wall_takes_one_cable_and_its_device(practice):
    for box in load(practice).catalogue.old_work:
        if box.surface == "wall" and (box.volume or practice == "gb"):
            filled = new_box(box, "", 1, load(practice))
            assert filled.holds is not None
            assert not filled.over


def test_times_that_were_taken_teach_by_class():
    log = [
        Took("cut", 10, 20),
        Took("cut", 10, 5),
        Took("fish", 30, 60),
        Took("cut", 10, 0.1),
        Took("test", 0, 5),
    ]
    factors = learned(log)
    assert factors["cut"] == pytest.approx(1.0)
    assert factors["fish"] == pytest.approx(2.0)
    assert "test" not in factors
    assert learned([]) == {}
