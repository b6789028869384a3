"""Which circuit may feed what, where: rooms by any of their names, circuits of their own, what is refused and
what is asked.
"""

import json

import pytest

from fjeld.bench.questions import QUESTIONS
from fjeld.cli import main
from fjeld.drawing.errand import Errand, Spot
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import facts_of
from fjeld.errand.source import source
from fjeld.formats.found import read_box
from fjeld.formats.sources import answer
from fjeld.judge.answer import NotAsked
from fjeld.judge.devices import ExtendsAsked
from fjeld.judge.rooms import CALLED, USES, use_of
from fjeld.practice import load
from fjeld.practice.finished.sources import sources
from fjeld.quantities import parse_length

W = ["BK", "WH", "G"]
OUTLET = {
    "place": "outlet",
    "cables": [{"id": 1, "cond": W}, {"id": 2, "cond": W}],
    "device": {"kind": "outlet", "brass": ["1.BK", "2.BK"], "silver": ["1.WH", "2.WH"]},
}


def kind_gate(practice="na", **asked):
    unit = "mm" if practice == "gb" else "ft-in"
    return answer({**OUTLET, **asked}, load(practice), unit)[0]["gates"]["G4"]


@pytest.mark.parametrize(
    ("circuit", "room", "wants", "is_"),
    [
        ("small appliance", "dining room", "light", "no"),
        ("small appliance", "dining room", "outlet", "yes"),
        ("small appliance", "bed", "outlet", "no"),
        ("general", "kitchen", "outlet", "no"),
        ("general", "kitchen", "light", "yes"),
        ("general", "bathroom", "outlet", "unknown"),
        ("general", "laundry room", "outlet", "unknown"),
        ("general", "garage", "outlet", "unknown"),
        ("general", "bedroom", "outlet", "yes"),
        ("general", "", "outlet", "unknown"),
        ("general", "", "light", "yes"),
        ("bathroom", "bath", "outlet", "yes"),
        ("bathroom", "bathroom", "outlet", "yes"),
        ("bathroom", "bathroom", "light", "no"),
        ("bathroom", "bed", "outlet", "no"),
        ("laundry", "bathroom", "outlet", "no"),
        ("laundry", "utility room", "outlet", "yes"),
        ("garage", "outside", "outlet", "yes"),
        ("garage", "outside", "light", "no"),
        ("individual", "hall", "light", "no"),
        ("alarms", "hall", "alarm", "yes"),
        ("one bathroom", "bathroom", "light", "yes"),
        ("one bathroom", "bathroom", "outlet", "yes"),
        ("one bathroom", "hall", "light", "no"),
    ],
)
def test_a_circuit_feeds_what_its_kind_lets_it_in_that_room(circuit, room, wants, is_):
    gate = kind_gate(circuit=circuit, wants=wants, **({"room": room} if room else {}))
    assert gate["is"] == is_, gate
    if is_ == "no":
        assert gate["basis"]


def test_one_bathroom_alone_is_fed_whole():
    assert kind_gate(circuit="bathroom", room="bathroom", wants="light", one_bathroom=True)["is"] == "yes"
    assert kind_gate(circuit="bathroom", room="hall", wants="light", one_bathroom=True)["is"] == "no"


def test_in_britain_no_room_has_outlets_on_a_circuit_of_its_own():
    assert sources().gb.own == {}
    assert kind_gate("gb", circuit="radial 20", wants="outlet")["is"] == "yes"


@pytest.mark.parametrize("called", [*USES, *CALLED, "Bedroom", "  living   ROOM "])
def test_a_room_is_known_by_what_it_is_called(called):
    assert use_of(called) in USES


def test_a_room_of_no_such_name_is_refused_with_those_there_are():
    with pytest.raises(NotAsked, match="none of: boot, living, kitchen"):
        use_of("spaceship")
    with pytest.raises(NotAsked, match="spaceship"):
        kind_gate(circuit="small appliance", room="spaceship", wants="outlet")


def told(tmp_path, capsys, command, practice="na", **asked):
    file = tmp_path / "asked.json"
    file.write_text(json.dumps(asked))
    done = main([command, str(file), "--practice", practice])
    out = capsys.readouterr()
    return done, json.loads(out.out) if out.out else out.err


@pytest.mark.parametrize(
    ("way", "new", "needs"),
    [("5'", "", False), ("6'", "", False), ("7'", "", True), ("3'", "outlet", True), ("3'", "switch", True)],
)
def test_a_bedroom_taken_further_says_its_clause(tmp_path, capsys, way, new, needs):
    _, found = told(tmp_path, capsys, "extends", room="bedroom", way=way, **({"new": new} if new else {}))
    arc = next(s for s in found["said"] if "arc-fault" in s["words"].lower())
    assert (arc["tone"] == "needs") is needs
    assert arc["basis"].startswith("NEC")


@pytest.mark.parametrize(
    ("command", "asked", "words"),
    [
        ("fan", {"cable": "twine", "wish": "remote"}, "it is one of: loop, three-wire, two-wire"),
        (
            "spot",
            {"box": "cut-in-1", "left": "16", "left_by": "xray"},
            "it is one of: detector, pattern, probe, screws",
        ),
        ("source", {**OUTLET, "condition": "good"}, "aluminium, cloth, cracked"),
        ("load", {"breaker": 15, "loads": [{"count": "many", "va": 9}]}, "$.loads[0].count"),
        ("extends", {"room": "spaceship", "way": "3'"}, "none of: boot"),
        ("outdoors", {"what": "outlet", "circuit": "moon"}, "none of: general"),
        ("outdoors", {"what": "outlet", "inside": "moon"}, "none of: boot"),
    ],
)
def test_what_is_none_of_a_few_is_refused_with_those_few(tmp_path, capsys, command, asked, words):
    done, said = told(tmp_path, capsys, command, **asked)
    assert done == 2
    assert words in said


@pytest.mark.parametrize(
    ("circuit", "what", "fed"),
    [
        ("small appliance", "outlet", False),
        ("bathroom", "outlet", False),
        ("garage", "outlet", True),
        ("garage", "light", False),
        ("general", "light", True),
        ("", "light", True),
    ],
)
def test_what_is_outside_is_fed_by_a_circuit_that_may(tmp_path, capsys, circuit, what, fed):
    done, found = told(tmp_path, capsys, "outdoors", what=what, circuit=circuit)
    assert (done == 0) is fed
    assert any("Not from it" in s["words"] for s in found["said"]) is not fed


def test_an_outlet_replaced_outside_keeps_weather_out(tmp_path, capsys):
    _, found = told(tmp_path, capsys, "replace", what="outlet", room="outside", ground="yes")
    assert any("weather-resistant" in s["words"] for s in found["said"])


@pytest.mark.parametrize(
    ("outside", "serves", "is_"),
    [
        ("outlet", "bathroom", "no"),
        ("outlet", "garage", "yes"),
        ("light", "garage", "no"),
        ("", "general", "yes"),
        ("outlet", "general", "yes"),
    ],
)
def test_what_goes_outside_is_outside_whatever_room_it_is_fed_from(outside, serves, is_):
    """The room of the old box is a bedroom; what is wanted stands outside."""
    old = OldBox(Handle("R1"), place="outlet", serves=serves)
    facts = facts_of(
        old, Errand("outdoors", spot=Spot(outside=outside)), load("na"), "bed", parse_length("3'")
    )
    box = read_box(OUTLET)
    gates = {g.id: g for g in source(box, facts, load("na")).gates}
    assert gates["G4"].is_ == is_
    assert ("Ground-fault" in gates["G9"].words) is (outside == "outlet")


@pytest.mark.parametrize(("away", "near"), [(None, True), ("5'", True), ("6'", True), ("6' 1\"", False)])
def test_an_outlet_near_water_is_told_by_its_spot(away, near):
    spot = Spot(by_water="basin", from_water=parse_length(away) if away else None)
    facts = facts_of(
        OldBox(Handle("R1"), place="outlet"),
        Errand("outlet", spot=spot),
        load("na"),
        "bed",
        parse_length("3'"),
    )
    assert facts.near_water is near
    gate = next(g for g in source(read_box(OUTLET), facts, load("na")).gates if g.id == "G9")
    assert ("Ground-fault" in gate.words) is near


def test_the_rooms_that_circuits_are_of_are_uses_of_a_room():
    local = sources().na
    named = {room for kind in local.circuits.values() for room in kind.rooms} | {*local.own}
    assert named <= {*USES}
    assert {circuit for own in local.own.values() for circuit in own.circuits} <= {*local.circuits}


@pytest.mark.parametrize(
    ("what", "lb", "fits"),
    [
        ("wall light", 6, True),
        ("wall light", 6.1, True),
        ("wall light", 51, False),
        ("light", 50, True),
        ("light", 50.1, False),
    ],
)
def test_a_light_on_a_wall_hangs_by_two_screws_up_to_its_weight(tmp_path, capsys, what, lb, fits):
    done, found = told(tmp_path, capsys, "hangs", what=what, lb=lb)
    assert (done == 0) is fits
    assert ("two No. 6 screws" in found["said"][0]["words"]) is (what == "wall light" and lb <= 6)


@pytest.mark.parametrize(
    ("command", "asked", "words"),
    [
        ("pull", {"legs": ["5'", -3]}, "legs 2: it is not below nothing"),
        ("pull", {"legs": ["5'", "?"]}, "legs 2: not measured yet"),
        ("transfer", {"surface": "?", "plate": "3 1/2", "pilot": "1"}, "surface: not measured yet"),
        ("transfer", {"surface": "1/2", "plate": -89, "pilot": "1"}, "plate: it is not below nothing"),
        ("hangs", {"what": "fan", "lb": -3}, "lb: it is not below nothing"),
        ("load", {"breaker": 15, "loads": [{"count": -6, "va": 9}]}, "count: it is not below nothing"),
        ("void", {"depth": "5 1/2", "lowest": -4}, "lowest: it is not below nothing"),
        ("eave", {"heel": "4", "rise": -2, "plate": "3 1/2", "needs": "12"}, "rise: it is not below nothing"),
    ],
)
def test_what_is_not_measured_or_below_nothing_is_not_reckoned_with(tmp_path, capsys, command, asked, words):
    done, said = told(tmp_path, capsys, command, **asked)
    assert done == 2
    assert words in said


def test_a_place_may_lie_to_either_side_of_where_one_measures_from(tmp_path, capsys):
    done, found = told(tmp_path, capsys, "spot", box="cut-in-1", left=-100, right="14 1/2")
    assert done == 0
    _, blank = told(tmp_path, capsys, "spot", box="cut-in-1", left="0", right="?")
    _, open_ = told(tmp_path, capsys, "spot", box="cut-in-1", left="0")
    assert blank == open_, "what is not measured is as though it were not there"
    assert "to" not in open_["figures"]
    assert found["figures"]["from"]


@pytest.mark.parametrize(
    ("practice", "room", "new", "ahead", "needs"),
    [
        ("na", "bed", "outlet", "", {"Arc-fault"}),
        ("na", "bed", "outlet", "none", {"Arc-fault"}),
        ("na", "bed", "outlet", "ground-fault", {"Arc-fault"}),
        ("na", "bed", "outlet", "arc-fault", set()),
        ("na", "bath", "outlet", "arc-fault", {"Ground-fault"}),
        ("na", "kitchen", "outlet", "arc-fault", {"Ground-fault"}),
        ("na", "kitchen", "outlet", "ground-fault", {"Arc-fault"}),
        ("na", "kitchen", "outlet", "both", set()),
        ("gb", "bed", "outlet", "none", {"A 30 mA"}),
        ("gb", "bed", "outlet", "ground-fault", set()),
    ],
)
def test_what_protects_it_already_is_not_asked_for_again(practice, room, new, ahead, needs):
    question = QUESTIONS["extends"]
    asked = ExtendsAsked(room, parse_length("9'"), new, ahead=ahead)
    said = question.ask(asked, load(practice)).said
    assert {
        s.words.partition(" protection")[0][: 7 if practice == "gb" else None]
        for s in said
        if s.tone == "needs"
    } == needs
    facts = facts_of(
        OldBox(Handle("R1"), place="outlet", ahead=ahead),
        Errand("outlet"),
        load(practice),
        room,
        parse_length("9'"),
    )
    gate = next(g for g in source(read_box(OUTLET), facts, load(practice)).gates if g.id == "G9")
    assert gate.is_ == ("change" if needs else "yes")
    assert needs or "already" in gate.words


TWIN = ["BN", "BU", "G"]
SOCKET = {
    "place": "socket",
    "cables": [{"id": 1, "cond": TWIN, "gauge": "2.5"}, {"id": 2, "cond": TWIN, "gauge": "2.5"}],
    "device": {"kind": "socket", "L": ["1.BN", "2.BN"], "N": ["1.BU", "2.BU"]},
}
ONE_RING = {"id": "R9", "ohms": {"1.BN-2.BN": 0.40, "1.BU-2.BU": 0.40}, "tester": "proven before and after"}
APART = {"id": "R9", "ohms": {"1.BN-2.BN": 9e6, "1.BU-2.BU": 9e6}, "tester": "proven before and after"}


@pytest.mark.parametrize(
    ("breaker", "gauge", "circuit", "reading", "is_"),
    [
        (32, "2.5", "ring", ONE_RING, "yes"),
        (30, "2.5", "", ONE_RING, "yes"),
        (32, "2.5", "ring", None, "unknown"),
        (32, "2.5", "", None, "unknown"),
        (32, "2.5", "ring", APART, "unknown"),
        (32, "2.5", "radial 20", None, "no"),
        (40, "2.5", "ring", ONE_RING, "no"),
        (32, "1.5", "ring", ONE_RING, "no"),
        (20, "2.5", "radial 20", None, "yes"),
    ],
)
def test_a_ring_stands_behind_what_one_of_its_legs_does_not(breaker, gauge, circuit, reading, is_):
    """A label makes no ring: until it is read the gate waits, and wires that are apart may be a
    spur of one.
    """
    cables = [{**cable, "gauge": gauge} for cable in SOCKET["cables"]]
    body = {
        **SOCKET,
        "cables": cables,
        "breaker": breaker,
        "readings": [reading] if reading else [],
        "wants": "outlet",
    }
    gates = answer({**body, **({"circuit": circuit} if circuit else {})}, load("gb"), "mm")[0]["gates"]
    assert gates["G5"]["is"] == is_, gates["G5"]
    if is_ == "unknown":
        assert gates["G5"]["settles"] == ("R19" if reading else "R9")
