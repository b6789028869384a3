"""Which circuit may feed what, where: rooms by any of their names, circuits of their own, what is refused and what is asked."""

import json

import pytest

from fjeld.cli import main
from fjeld.drawing.errand import Errand, Spot
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked
from fjeld.finished.box.record import facts_of
from fjeld.finished.box.source import source
from fjeld.finished.rooms import CALLED, USES, use_of
from fjeld.formats.found import read_box
from fjeld.formats.sources import answer
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


@pytest.mark.parametrize(("way", "new", "needs"), [("5'", "", False), ("6'", "", False), ("7'", "", True), ("3'", "outlet", True), ("3'", "switch", True)])  # fmt: skip
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


@pytest.mark.parametrize(("circuit", "what", "fed"), [("small appliance", "outlet", False), ("bathroom", "outlet", False), ("garage", "outlet", True), ("garage", "light", False), ("general", "light", True), ("", "light", True)])  # fmt: skip
def test_what_is_outside_is_fed_by_a_circuit_that_may(tmp_path, capsys, circuit, what, fed):
    done, found = told(tmp_path, capsys, "outdoors", what=what, circuit=circuit)
    assert (done == 0) is fed
    assert any("Not from it" in s["words"] for s in found["said"]) is not fed


def test_an_outlet_replaced_outside_keeps_weather_out(tmp_path, capsys):
    _, found = told(tmp_path, capsys, "replace", what="outlet", room="outside", ground="yes")
    assert any("weather-resistant" in s["words"] for s in found["said"])


@pytest.mark.parametrize(("outside", "serves", "is_"), [("outlet", "bathroom", "no"), ("outlet", "garage", "yes"), ("light", "garage", "no"), ("", "general", "yes"), ("outlet", "general", "yes")])  # fmt: skip
def test_what_goes_outside_is_outside_whatever_room_it_is_fed_from(outside, serves, is_):
    """The room of the old box is a bedroom; what is wanted stands outside."""
    old = OldBox(Handle("R1"), place="outlet", serves=serves)
    facts = facts_of(old, Errand("outdoors", spot=Spot(outside=outside)), load("na"), "bed", parse_length("3'"))
    box = read_box(OUTLET)
    gates = {g.id: g for g in source(box, facts, load("na")).gates}
    assert gates["G4"].is_ == is_
    assert ("Ground-fault" in gates["G9"].words) is (outside == "outlet")


@pytest.mark.parametrize(("away", "near"), [(None, True), ("5'", True), ("6'", True), ("6' 1\"", False)])
def test_an_outlet_near_water_is_told_by_its_spot(away, near):
    spot = Spot(by_water="basin", from_water=parse_length(away) if away else None)
    facts = facts_of(
        OldBox(Handle("R1"), place="outlet"), Errand("outlet", spot=spot), load("na"), "bed", parse_length("3'")
    )
    assert facts.near_water is near
    gate = next(g for g in source(read_box(OUTLET), facts, load("na")).gates if g.id == "G9")
    assert ("Ground-fault" in gate.words) is near


def test_the_rooms_that_circuits_are_of_are_uses_of_a_room():
    local = sources().na
    named = {room for kind in local.circuits.values() for room in kind.rooms} | {*local.own}
    assert named <= {*USES}
    assert {circuit for own in local.own.values() for circuit in own.circuits} <= {*local.circuits}
