"""How a new cable is made up in an old box: what is taken apart, what it goes to, and that nothing else
changes.
"""

import itertools
from collections import Counter

import pytest

from fjeld.drawing.errand import Errand
from fjeld.drawing.old_box import Device, cable_of
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox, nets
from fjeld.oldbox.hypotheses import hypotheses
from fjeld.oldbox.makeup import make_up, tails
from fjeld.oldbox.tie_in import TieIn, tie_in
from fjeld.practice import load, rules
from fjeld.work.book import book
from tests.often import OFTEN
from tests.true_boxes import true_boxes
from tests.worlds import world

W = ("BK", "WH", "G")
B = ("BN", "BU", "G")


def at(line, neutral):
    return TieIn(line, neutral, "works", ())


def cables(*colours, gauge="14"):
    return tuple(cable_of(str(n), c, gauge) for n, c in enumerate(colours, 1))


def made(box, line, neutral, practice="na", gauge="14", metal=False):
    found = make_up(box, at(line, neutral), gauge, load(practice), metal)
    return {j.what: j for j in found.joints}, found.after


def test_a_feed_on_a_switch_gets_a_tail_and_a_bundle_grows():
    box = FoundBox(
        "switch",
        cables(W, W),
        (("1.WH", "2.WH"), ("1.G", "2.G")),
        (Device("S", "switch", {"a": ("1.BK",), "b": ("2.BK",)}),),
    )
    by, after = made(box, ("1.BK",), ("1.WH", "2.WH"))
    assert (by["line"].off, by["line"].tail, by["line"].count) == (("S.a",), "S.a", 3)
    assert (
        by["line"].words
        == 'Take 1.BK off “a” of the switch; join it with the new black and a tail of 6" to the same screw: 3'
        " in it, twist-on connector, small."
    )
    assert by["neutral"].count == 3
    assert by["neutral"].words.startswith("Open the joint of 1.WH and 2.WH; put the new white to it")
    assert by["ground"].count == 3
    assert after.devices[0].lands == {"b": ("2.BK",)}
    assert ("1.BK", "S.a", "new.BK") in after.joints


def test_conductors_that_an_outlet_joined_become_one_joint():
    box = FoundBox(
        "outlet",
        cables(W, W),
        (("1.G", "2.G"),),
        (
            Device(
                "O",
                "outlet",
                {"brass": ("1.BK",), "brass2": ("2.BK",), "silver": ("1.WH",), "silver2": ("2.WH",)},
            ),
        ),
    )
    by, after = made(box, ("1.BK", "2.BK"), ("1.WH", "2.WH"))
    # Two old, one new and the tail: the device carries nobody else's current any longer.
    assert by["line"].count == by["neutral"].count == 4
    assert by["line"].off == ("O.brass", "O.brass2")
    assert after.devices[0].lands == {}
    by, _ = made(box, ("1.BK", "2.BK"), ("1.WH", "2.WH"), metal=True)
    assert by["ground"].count == 4
    assert "with a tail to the metal box" in by["ground"].words


def test_a_lead_of_a_fitting_is_opened_and_takes_no_tail():
    box = FoundBox(
        "ceiling",
        cables(W),
        (("1.G", "F.g"),),
        (Device("F", "light", {"hot": ("1.BK",), "neutral": ("1.WH",)}),),
    )
    by, after = made(box, ("1.BK",), ("1.WH",))
    assert by["line"].tail == ""
    assert by["line"].words.startswith(
        "Open the joint of 1.BK and “hot lead” of the light; put the new black to it: 3 in it"
    )
    assert ("1.BK", "F.hot", "new.BK") in after.joints


def test_british_terminals_take_it_beside_what_is_on_them():
    device = Device("O", "outlet", {"brass": ("1.BN", "2.BN"), "silver": ("1.BU", "2.BU")})
    box = FoundBox("outlet", cables(B, B, gauge="2.5"), (("1.G", "2.G"),), (device,))
    by, after = made(box, ("1.BN", "2.BN"), ("1.BU", "2.BU"), "gb", "2.5")
    assert (by["line"].onto, by["line"].count) == ("O.brass", 3)
    assert after.devices[0].lands["brass"] == ("1.BN", "2.BN", "new.BN")
    # A fourth does not go under it.
    full = Device("O", "outlet", {"brass": ("1.BN", "2.BN", "3.BN"), "silver": ("1.BU", "2.BU", "3.BU")})
    box = FoundBox("outlet", cables(B, B, B, gauge="2.5"), (("1.G", "2.G", "3.G"),), (full,))
    by, _ = made(box, ("1.BN", "2.BN", "3.BN"), ("1.BU", "2.BU", "3.BU"), "gb", "2.5")
    assert (by["line"].onto, by["line"].tail, by["line"].count) == ("", "O.brass", 5)
    assert by["line"].connectors == ("Lever connector, 5 ports",)


def test_what_is_not_known_is_said():
    box = FoundBox("junction", cables(("BK", "WH"), gauge=""))
    by, _ = made(box, ("1.BK",), ("1.WH",), gauge="")
    assert "stop" in by["ground"].words
    assert by["line"].words.endswith("2 in it; the connector goes by the gauge.")


def test_more_than_a_connector_takes_is_parted_in_two():
    box = FoundBox(
        "junction",
        cables(*[W] * 6),
        (
            tuple(f"{n}.G" for n in range(1, 7)),
            tuple(f"{n}.BK" for n in range(1, 7)),
            tuple(f"{n}.WH" for n in range(1, 7)),
        ),
    )
    by, _ = made(box, box.joints[1], box.joints[2])
    assert len(by["line"].connectors) == 2
    assert "with a link between" in by["line"].words


def test_in_boxes_of_whole_houses_nothing_else_is_parted_or_joined():
    seen = Counter()
    for true in itertools.chain.from_iterable(true_boxes(world(seed), seed) for seed in range(5 * OFTEN)):
        box, practice = true.found, true.plan.practice
        box = type(box)(box.place, box.cables, box.joints, box.devices, tuple(true.take("R4")))
        try:
            into = tie_in(box, practice)
        except NotAsked:
            continue
        if into is None or not into.line or not into.neutral:
            continue
        result = make_up(box, into, "1.5" if practice.unit == "mm" else "14", practice)
        after, before = nets(result.after), nets(box)
        old = [e for ends in before.ends for e in ends]
        together = {frozenset(e for e in ends if not e.startswith("new.")) for ends in after.ends} - {
            frozenset()
        }
        grounds = frozenset(e for e in old if e.endswith(".G"))
        parted = {frozenset(e) for e in before.ends if e and not {*e} <= grounds}
        assert {e for e in together if not e <= grounds} == parted, true.handle
        hot = next(j for j in result.joints if j.what == "line")
        white = next(j for j in result.joints if j.what == "neutral")
        assert {after.of[e] for e in into.line} == {after.of[hot.end]}
        assert {after.of[e] for e in into.neutral} == {after.of[white.end]}
        # No terminal lost what it had: the same nets stand on it, by a screw or a tail.
        for device in box.devices:
            for terminal, ends in device.lands.items():
                assert after.of[f"{device.id}.{terminal}"] == after.of[ends[0]], (true.handle, terminal)
        takes = practice[rules.SCREW_TAKES]
        had = {(d.id, t): len(ends) for d in box.devices for t, ends in d.lands.items()}
        for device in result.after.devices:
            for terminal, ends in device.lands.items():
                assert len(ends) <= max(takes, had.get((device.id, terminal), 0))
        seen["made"] += 1
        # Looked at as a box that somebody else opens, the new cable can be what it is.
        if len(result.after.cables) <= 5 and into.verdict == "works":
            roles = {h.roles[-1] for h in hypotheses(result.after, after, practice.rings)}
            assert {"ON", "SPUR"} & roles, true.handle
            seen["looked at"] += 1
    assert seen["made"] > 20, seen
    assert seen["looked at"] > 8, seen


def test_alarms_are_linked_by_a_third_conductor():
    alarm = Device("A", "alarm", {"hot": ("1.BK",), "neutral": ("1.WH",)})
    box = FoundBox("ceiling", cables(W), (("1.G",),), (alarm,))
    joints = make_up(box, at(("1.BK",), ("1.WH",)), "14", load("na"), linked=True).joints
    assert [j.what for j in joints] == ["ground", "neutral", "link", "line"]
    assert joints[2].words.startswith("Join “link” of the alarm with the new red: 2 in it")
    linked = Device("A", "alarm", {"hot": ("1.BN",), "neutral": ("1.BK",), "link": ("1.GY",)})
    box = FoundBox("ceiling", cables(("BN", "BK", "GY", "G"), gauge="1.5"), (), (linked,))
    result = make_up(box, at(("1.BN",), ("1.BK",)), "1.5", load("gb"), linked=True)
    by = {j.what: j for j in result.joints}
    assert (
        by["link"].words
        == "Put the new grey, sleeved brown, into “link” of the alarm beside 1.GY: 2 under its screw."
    )
    assert "sleeved blue" in by["neutral"].words
    junction = FoundBox("junction", cables(W))
    lone = make_up(junction, at(("1.BK",), ("1.WH",)), "14", load("na"), linked=True).joints[2]
    assert lone.words.startswith("No alarm's link is in this box")


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_every_joint_is_told_in_one_sentence(practice):
    colours = B if practice == "gb" else W
    box = FoundBox("junction", cables(colours, gauge="2.5" if practice == "gb" else "14"))
    by, _ = made(
        box, (f"1.{colours[0]}",), (f"1.{colours[1]}",), practice, "2.5" if practice == "gb" else "14"
    )
    for joint in by.values():
        assert joint.words.count(".") - joint.words.count("1.") == 1, joint.words


def test_short_wires_get_tails_in_levers_one_net_after_another():
    lands = {
        "brass": ("1.BK",),
        "brass2": ("2.BK",),
        "silver": ("1.WH",),
        "silver2": ("2.WH",),
        "g": ("1.G", "2.G"),
    }
    box = FoundBox("outlet", cables(W, W), (), (Device("O", "outlet", lands),))
    found = tails(box, "14", load("na"))
    # Two old conductors and a tail in each: three joints of three.
    assert [(j.count, j.connectors) for j in found.joints] == [(3, ("Lever connector, 3 ports",))] * 3
    assert found.joints[0].with_ == ("1.G", "2.G")
    assert found.joints[1].words.startswith(
        "Take 1.BK and 2.BK off “brass” of the outlet and “second brass” of the outlet; join them with a tail"
        ' of 6" to “brass” of the outlet'
    )
    before, after = nets(box), nets(found.after)
    assert {frozenset(e) for e in before.ends if e} == {frozenset(e) for e in after.ends if e}
    for terminal, ends in lands.items():
        assert after.of[f"O.{terminal}"] == after.of[ends[0]] or terminal in ("brass2", "silver2")
    assert found.after.devices[0].lands == {}
    switch = Device("S", "switch", {"a": ("1.BK",), "b": ("2.BK",)})
    two = tails(FoundBox("switch", cables(W, W), (("1.WH", "2.WH"),), (switch,)), "14", load("na"))
    assert [j.with_ for j in two.joints] == [("1.BK",), ("2.BK",)], "line and switched line stay apart"
    steps = [
        t.id for t in book(Errand("short wires"), load("na"), None, two.joints) if t.id.startswith("change")
    ]
    assert steps == ["change 1", "change"]
    gates = {t.id: t.needs for t in book(Errand("short wires"), load("na"), None, found.joints)}
    assert "change 2" in gates["change"]
    assert "dead" in gates["change 1"]
    light = FoundBox("ceiling", cables(W), (), (Device("F", "light", {"hot": ("1.BK",)}),))
    assert tails(light, "14", load("na")).joints == ()
