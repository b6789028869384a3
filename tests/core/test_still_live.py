"""With one breaker off: what else may be live in a box, and what a reading then says of it."""

import itertools

from msgspec.structs import replace

from fjeld.drawing.old_box import Device, cable_of
from fjeld.judge.volts import Volts
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.oldbox.still_live import fed_at, still_live
from fjeld.practice import load
from tests.true_boxes import true_boxes
from tests.worlds import world

W = ("BK", "WH", "G")
R = ("BK", "RD", "WH", "G")
NA = load("na")
SWITCH = FoundBox(
    "switch",
    (cable_of("1", W), cable_of("2", W)),
    (("1.WH", "2.WH"),),
    (Device("S", "switch", {"a": ("1.BK",), "b": ("2.BK",)}),),
)


def test_in_a_box_of_one_circuit_nothing_stays_live():
    assert still_live(SWITCH, ("1.BK",), NA) == ()


def test_two_lines_of_two_circuits_are_told_before_they_are_touched():
    box = FoundBox(
        "outlet",
        (cable_of("1", R),),
        (),
        (Device("O", "outlet", {"brass": ("1.BK",), "brass2": ("1.RD",), "silver": ("1.WH",)}, "broken"),),
    )
    assert fed_at(box, box.devices[0]) == ("1.BK",), "the other side may be of another breaker"
    (red,) = still_live(box, ("1.BK",), NA)
    assert red.ends == ("1.RD",)
    assert 0.1 < red.share < 0.5
    apart = Reading("R15", between=(("1.BK", "1.RD", Volts(241.0)),), proven=True)
    always = Reading("R4", words={"1.BK": "always", "1.RD": "always"}, every_switch=True, proven=True)
    (red,) = still_live(replace(box, readings=(apart, always)), ("1.BK",), NA)
    assert red.share > 0.99


def test_what_nothing_brings_together_may_be_of_any_circuit_until_it_is_read():
    two = replace(SWITCH, cables=(*SWITCH.cables, cable_of("3", W)))
    assert {s.ends for s in still_live(two, ("1.BK",), NA)} == {("3.BK",), ("3.WH",)}
    dead = {"3.BK": Volts(0.2, 0.1), "3.WH": Volts(0.1, 0.0)}
    read = Reading("R3", to_earth=dead, off=("1.BK",), proven=True)
    assert still_live(replace(two, readings=(read,)), ("1.BK",), NA) == ()
    unproven = replace(read, proven=False)
    assert still_live(replace(two, readings=(unproven,)), ("1.BK",), NA)
    other = replace(read, off=("3.BK",))
    assert still_live(replace(two, readings=(other,)), ("1.BK",), NA)


def test_in_boxes_of_whole_houses_no_conductor_of_another_circuit_is_left_out():
    """Against the house as it was drawn: whatever is of another circuit than the one that is off is told as
    perhaps live.
    """
    seen = 0
    # Of the first 120 drawings those that have such boxes.
    for seed in (40, 45, 70, 80):
        drawing = world(seed)
        for made in itertools.islice(true_boxes(drawing, seed), 12):
            if len(made.box.circuits) < 2:
                continue
            circuit = {
                made.names[c.key]: made.plan.drawing.items[c.cable].circuit
                for c in made.box.ends
                if c.key in made.names
            }
            lines = [made.names[c.key] for c in made.box.ends if c.net.role == "line" and c.insulated]
            for off in lines[:2]:
                told = {
                    e for s in still_live(made.found, (off,), load(drawing.house.practice)) for e in s.ends
                }
                beyond = {e for e in lines if circuit[e] != circuit[off]}
                assert beyond <= told, (seed, made.handle, off, beyond - told)
                seen += bool(beyond)
    assert seen > 3
