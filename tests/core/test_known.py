"""What rests on a measure that nobody has taken never passes; what does not rest on it is not held up by it.

The check is by brute force: the assumed measure is made longer and shorter, and whatever changes hung on it.
"""

import os

import msgspec
import pytest

from fjeld.check import check
from fjeld.derive.plan import derive
from fjeld.derive.rests import open_measures, settles
from fjeld.drawing.building import Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.quantities import Known, Length, Line, NotKnown, Passes, Working, Written, not_measured
from tests.houses import one_room
from tests.worlds import world

#: So many drawings of each kind are looked at; ``FJELD_KNOWN=8`` looks at eight times as many.
ROOMS, WORLDS = (n * int(os.environ.get("FJELD_KNOWN", "1")) for n in (10, 24))


def with_length(item, old, new):
    """The thing with a measure in another's place, wherever in it that stands."""
    if item is old:
        return new
    if isinstance(item, Written) and not isinstance(item, Length):
        return type(item)(*(with_length(part, old, new) for part in item.parts()))
    if isinstance(item, Length) or not isinstance(item, msgspec.Struct | tuple | dict):
        return item
    if isinstance(item, tuple):
        return tuple(with_length(i, old, new) for i in item)
    if isinstance(item, dict):
        return {k: with_length(v, old, new) for k, v in item.items()}
    fields = {f: with_length(getattr(item, f), old, new) for f in item.__struct_fields__}
    return msgspec.structs.replace(item, **fields)


def put(drawing, handle, old, new):
    items = {**drawing.items, handle: with_length(drawing.items[handle], old, new)}
    return msgspec.structs.replace(drawing, items=items)


def lengths_in(item):
    if isinstance(item, Length):
        yield item
    elif isinstance(item, msgspec.Struct):
        for field in item.__struct_fields__:
            yield from lengths_in(getattr(item, field))
    elif isinstance(item, tuple | Written):
        for each in item if isinstance(item, tuple) else item.parts():
            yield from lengths_in(each)


def hanging_on(drawing, handle, length):
    """The findings whose verdict changes as an assumed measure does; those whose sum does, unless it is far
    within.
    """
    stands = {f.key: f for f in check(derive(drawing))}
    for by in (0.55, 0.9, 1.07, 1.9):
        moved = put(drawing, handle, length, Length(length.mm * by, length.typed))
        other = {f.key: f for f in check(derive(moved))}
        for key in stands.keys() & other.keys():
            one, two = stands[key], other[key]
            # Which joint is cheaper can hang on a length; what is in a box is then looked at anew.
            if one.working is not None and one.working.unit not in ("mm", "V", "lx", "%"):
                continue
            sums = [f.working.total if f.working else 0.0 for f in (one, two)]
            far_within = (
                one.limit is not None and one.working is not None and one.working.at_most <= one.limit
            )
            if type(one.verdict) is not type(two.verdict) or (
                abs(sums[0] - sums[1]) > 1e-6 and not far_within
            ):
                yield one


def assert_nothing_passes_on(drawing, handle, length, seed):
    for finding in hanging_on(drawing, handle, length):
        assert not isinstance(finding.verdict, Passes), (seed, handle, finding.key, finding.words)


@pytest.mark.parametrize("seed", range(ROOMS))
def test_no_finding_passes_on_a_measure_nobody_took(seed):
    """One measure of a room, taken at random from all that are drawn, is only assumed."""
    drawing = one_room(seed)
    measured = [
        (h, length)
        for h, item in drawing.items.items()
        for length in lengths_in(item)
        if length.mm > 0 and not length.unknown
    ]
    handle, length = measured[seed * 7919 % len(measured)]
    assumed = not_measured(length)
    drawing = put(drawing, handle, length, assumed)
    assert_nothing_passes_on(drawing, handle, assumed, seed)


@pytest.mark.parametrize("seed", range(WORLDS))
def test_no_finding_passes_on_an_open_measure_of_a_wide_world(seed):
    drawing = world(seed)
    for handle, item in drawing.items.items():
        for _, length in open_measures(handle, item):
            if length.mm > 0:
                assert_nothing_passes_on(drawing, handle, length, seed)


def test_what_does_not_hang_on_a_measure_is_not_held_up_by_it(boot_room):
    """A wall that is only assumed leaves box fill and breakers as they were."""
    side = boot_room.get("R1", Room).sides[1].length
    assumed = put(boot_room, "R1", side, not_measured(side))
    for rule in ("box-fill", "breaker-gauge", "circuit-load", "control-proven"):
        before = [f.verdict for f in check(derive(boot_room)) if f.rule.id == rule]
        after = [f.verdict for f in check(derive(assumed)) if f.rule.id == rule]
        assert before == after
        assert before


def test_the_reading_that_would_settle_it_is_named_to_the_end(boot_room):
    side = boot_room.get("R1", Room).sides[1].length
    plan = derive(put(boot_room, "R1", side, not_measured(side)))
    reading = f"wall 2 of {boot_room.get('R1', Room).name}"
    assert [h for h, c in plan.cables.items() if reading not in c.rests_on] == []
    assert all(reading in cable.cut.rests_on for cable in plan.cables.values())
    assert all(reading in q.figures.drop.rests_on for q in plan.circuits.values())
    assert all(q.figures.load.rests_on == () for q in plan.circuits.values())
    close = [q for q, c in plan.circuits.items() if 2 * c.figures.drop.total > 3.6]
    dropped = {f.handles[0]: f for f in check(plan) if f.rule.id == "volt-drop"}
    for circuit, finding in dropped.items():
        # What is far within its limit is so however long the wall turns out to be.
        assert isinstance(finding.verdict, NotKnown if circuit in close else Passes), circuit
        assert circuit not in close or reading in finding.verdict.reading
    spaced = [f for f in check(plan) if f.rule.id == "outlet-reach"]
    assert all(not isinstance(f.verdict, Passes) for f in spaced)
    assert dropped


def test_a_cable_that_was_held_up_rests_on_nothing(boot_room):
    side = boot_room.get("R1", Room).sides[1].length
    drawing = put(boot_room, "R1", side, not_measured(side))
    handle = next(h for h, c in derive(drawing).cables.items() if c.route)
    drawing = apply(drawing, Revise(handle, {"measured": Length(4000.0)}).plan(drawing))
    cable = derive(drawing).cables[handle]
    assert cable.known == Known(4000.0)
    assert cable.rests_on, "its way still hangs on the wall"


def test_a_sum_rests_on_what_its_lines_rest_on():
    lines = (
        Line(1.0, 2.0, "a"),
        Line(1.0, 3.0, "b", (), ("wall 1", "wall 2")),
        Line(1.0, 1.0, "c", (), ("wall 1",)),
    )
    assert Working("Sum", "mm", lines).rests_on == ("wall 1", "wall 2")
    assert Working("Sum", "mm", lines[:1]).rests_on == ()


@pytest.mark.parametrize(
    ("words", "side"),
    [
        ("wall 2 of Pantry", "flat"),
        ("at of O1", "flat"),
        ("height of Pantry", "up"),
        ("height of S1", "up"),
        ("studs spacing of Pantry", "framing"),
        ("joists depth of Pantry", "framing"),
        ("sill of D1", "up"),
        ("fitting depth of A1", "up"),
        ("fitting blades of F1", "flat"),
    ],
)
def test_what_a_measure_settles(words, side):
    assert settles(words) == side
