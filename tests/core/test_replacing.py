"""A device replaced by what each conductor was on: what goes where, what is refused, and that everything else
stays.
"""

import io
import itertools
import json
from collections import Counter
from functools import cache

import pytest
from msgspec.structs import replace

from fjeld.cli import main
from fjeld.drawing.model import Cable as DrawnCable
from fjeld.drawing.old_box import Device, cable_of
from fjeld.judge.answer import NotAsked
from fjeld.judge.volts import Volts
from fjeld.oldbox.found import FoundBox, Reading, nets
from fjeld.oldbox.replacing import may_become, replaced_in
from fjeld.practice import load
from tests.often import OFTEN
from tests.true_boxes import true_boxes
from tests.worlds import world

W = ("BK", "WH", "G")
R = ("BK", "RD", "WH", "G")
SWITCH = FoundBox(
    "switch",
    (cable_of("1", W, "14"), cable_of("2", W, "14")),
    (("1.WH", "2.WH"), ("1.G", "2.G")),
    (Device("S", "switch", {"a": ("1.BK",), "b": ("2.BK",)}),),
)
OUTLET = FoundBox(
    "outlet",
    (cable_of("1", W, "14"), cable_of("2", W, "14")),
    (("1.G", "2.G", "O.g"),),
    (
        Device(
            "O",
            "outlet",
            {"brass": ("1.BK",), "brass2": ("2.BK",), "silver": ("1.WH",), "silver2": ("2.WH",)},
        ),
    ),
)


def light(*cables, **lands):
    return FoundBox("ceiling", cables, (), (Device("F", "light", lands),))


def stays_live(end, other):
    """The reading that tells the feed: with the switch open one stays live."""
    seen = {end: Volts(120.1, 119.8), other: Volts(0.2, 0.1)}
    return Reading("R4", to_earth=seen, state={"S": "open"}, proven=True)


def done(box, becomes, practice="na", gauge="14", name=None):
    return replaced_in(box, name or box.devices[0].id, becomes, load(practice), gauge)


def to(found, mark):
    """What goes to a terminal of the new one, by how it is marked there."""
    return [m.with_ for m in found.moves if f"“{mark}” of the new one" in m.words]


def test_a_single_pole_switch_goes_screw_by_screw_its_ground_first():
    found = done(SWITCH, "same")
    assert [m.words for m in found.moves] == [
        (
            "Open the joint of 1.G and 2.G; put “ground” of the new one to it: 3 in it, twist-on connector,"
            " small."
        ),
        "Take 1.BK off “a” of the old one; put it on “a” of the new one: either of its two.",
        "Take 2.BK off “b” of the old one; put it on “b” of the new one: the other.",
    ]
    assert found.verdict == "works"


def test_two_wires_under_one_screw_were_a_joint_and_get_a_tail():
    three = replace(
        SWITCH,
        cables=(*SWITCH.cables, cable_of("3", W, "14")),
        devices=(Device("S", "switch", {"a": ("1.BK", "3.BK"), "b": ("2.BK",)}),),
    )
    move = done(three, "same").moves[1]
    assert (move.tail, move.count) == ("S.a", 3)
    assert "join them with a tail" in move.words
    # A British terminal takes them both.
    assert "put them on" in done(three, "same", "gb", "").moves[1].words


def test_the_common_goes_to_the_common_wherever_it_stands():
    box = FoundBox(
        "switch",
        (cable_of("1", R, "14"),),
        (),
        (Device("S", "three-way", {"common": ("1.BK",), "t1": ("1.RD",), "t2": ("1.WH",)}),),
    )
    found = done(box, "dimmer")
    assert to(found, "common") == [("1.BK",)]
    assert "its odd screw, wherever that is" in next(m.words for m in found.moves if "common" in m.words)
    assert any("One dimmer only" in s.words for s in found.said)


def test_a_sensor_wants_to_know_which_is_the_line():
    before = done(SWITCH, "sensor")
    assert before.verdict == "unless"
    assert before.excludes == "R4"
    assert any(c.why == "its line and its switched line would have changed places" for c in before.cases)
    for line, back in (("1.BK", "2.BK"), ("2.BK", "1.BK")):
        found = done(replace(SWITCH, readings=(stays_live(line, back),)), "sensor")
        assert found.verdict == "works"
        assert to(found, "line") == [(line,)]
        assert to(found, "switched line") == [(back,)]
        assert to(found, "neutral") == [("1.WH", "2.WH")]


def test_a_sensor_without_a_neutral_is_refused_with_what_to_do_instead():
    loop = FoundBox(
        "switch", (cable_of("1", W, "14"),), (), (Device("S", "switch", {"a": ("1.BK",), "b": ("1.WH",)}),)
    )
    found = done(loop, "sensor")
    assert found.moves == ()
    assert found.said[0].tone == "fails"
    assert len(found.said) == 5


def test_a_protective_outlet_is_fed_at_its_line_side():
    before = done(OUTLET, "protective")
    assert before.verdict == "unless"
    assert any("LOAD side" in c.why for c in before.cases)
    for line, beyond in (("1", "2"), ("2", "1")):
        seen = {f"{line}.BK": Volts(120.0, 119.9), f"{beyond}.BK": Volts(0.4, 0.1)}
        apart = Reading("R8", to_earth=seen, parted=True, every_switch=True, proven=True)
        found = done(replace(OUTLET, readings=(apart,)), "protective")
        assert found.verdict == "works"
        assert to(found, "LINE, brass") == [(f"{line}.BK",)]
        assert to(found, "LOAD, silver") == [(f"{beyond}.WH",)]
    assert "protective" not in may_become("outlet", load("gb"))


def test_one_protective_outlet_never_takes_two_halves():
    halves = FoundBox(
        "outlet",
        (cable_of("1", R, "14"),),
        (),
        (Device("O", "outlet", {"brass": ("1.BK",), "brass2": ("1.RD",), "silver": ("1.WH",)}, "broken"),),
    )
    assert done(halves, "protective").moves == ()
    same = done(halves, "same")
    assert any("tab" in s.words for s in same.said)
    assert to(same, "second brass") == [("1.RD",)]


def test_two_told_on_one_side_of_an_outlet_go_under_its_two_screws():
    lands = {"brass": ("1.BK", "2.BK"), "silver": ("1.WH", "2.WH")}
    found = done(replace(OUTLET, devices=(Device("O", "outlet", lands),)), "same")
    assert to(found, "brass") == [("1.BK",)]
    assert to(found, "second brass") == [("2.BK",)]


def test_a_fan_takes_what_comes_to_its_box():
    one = done(light(cable_of("1", W, "14"), hot=("1.BK",), neutral=("1.WH",)), "fan")
    joint = next(j for j in one.after.joints if "F.light" in j)
    assert {*joint} == {"1.BK", "F.hot", "F.light"}
    assert "One switched line" in one.said[0].words
    two = done(light(cable_of("1", R, "14"), hot=("1.BK",), neutral=("1.WH",)), "fan")
    assert two.verdict in ("works", "unless")
    read = Reading(
        "R4",
        words={"1.BK": "sometimes", "1.RD": "sometimes", "1.WH": "never"},
        every_switch=True,
        proven=True,
    )
    box = replace(light(cable_of("1", R, "14"), hot=("1.BK",), neutral=("1.WH",)), readings=(read,))
    two = done(box, "fan")
    assert any({*j} == {"1.RD", "F.light"} for j in two.after.joints)
    assert "Two switched lines" in two.said[0].words
    british = done(
        light(cable_of("1", ("BN", "BU", "G"), "1.5"), hot=("1.BN",), neutral=("1.BU",)), "fan", "gb", "1.5"
    )
    assert british.moves[2].words == "Put a link from “fan's lead” of the new one to “light's lead”."


def test_what_cannot_be_is_asked_again_in_words():
    with pytest.raises(NotAsked, match="no device"):
        replaced_in(SWITCH, "X", "same", load("na"))
    with pytest.raises(NotAsked, match="not replaced like that"):
        done(SWITCH, "protective")
    odd = replace(SWITCH, readings=(stays_live("1.BK", "2.BK"), stays_live("2.BK", "1.BK")))
    with pytest.raises(NotAsked, match="do not go together"):
        done(odd, "same")


def split(found):
    """The conductors of a box by what is one with what."""
    return {frozenset(ends) for ends in nets(found).ends if ends}


@cache
def opened(worlds=24 * OFTEN):
    """Boxes of drawn houses, each with its practice."""
    found = []
    for seed in range(worlds):
        drawing = world(seed)
        practice = load(drawing.house.practice)
        for made in itertools.islice(true_boxes(drawing, seed), 5):
            found.append((drawing, practice, made))
    return found


def test_in_boxes_of_whole_houses_like_for_like_parts_and_joins_nothing():
    seen = Counter()
    for _, practice, made in opened():
        for device in made.found.devices:
            for becomes in {"same", "dimmer"} & {*may_become(device.kind, practice)}:
                found = replaced_in(
                    made.found, device.id, becomes, practice, "1.5" if practice.unit == "mm" else "14"
                )
                seen[device.kind] += 1
                if device.kind == "protective" and found.verdict == "unless":
                    # Which side feeds it a reading tells: the wrong way round it is never kept.
                    assert any("LOAD side" in c.why for c in found.cases if not c.works)
                    continue
                assert found.verdict == "works", (made.handle, device.kind)
                assert split(found.after) == split(made.found), made.handle
                moved = {e for m in found.moves for e in m.with_}
                assert {e for ends in device.lands.values() for e in ends} <= moved
    assert seen["three-way"] > 3, seen
    assert seen["outlet"] > 20, seen


def test_what_works_once_it_was_read_is_so_in_the_house():
    """Against what the house was drawn with: line is line, the neutral is of the same circuit, and LINE is
    fed.
    """
    seen = Counter()
    for drawing, practice, made in opened():
        true = {made.names[c.key]: c for c in made.box.ends if c.key in made.names}
        circuit_of = {h: c.circuit for h, c in drawing.of(DrawnCable).items()}
        read = replace(made.found, readings=(*made.take("R4"), *made.take("R8")))
        for device in made.found.devices:
            for becomes in {"sensor", "protective"} & {*may_become(device.kind, practice)}:
                found = replaced_in(
                    read, device.id, becomes, practice, "1.5" if practice.unit == "mm" else "14"
                )
                seen[becomes, found.verdict] += 1
                if found.verdict != "works":
                    continue
                said = {m.words.partition("“")[2]: m.with_ for m in found.moves}
                if becomes == "sensor":
                    for mark, role in (
                        ("line", "line"),
                        ("switched line", "switched"),
                        ("neutral", "neutral"),
                    ):
                        ends = [e for ends in to(found, mark) for e in ends if e in true]
                        assert {true[e].net.role for e in ends} == {role}, (made.handle, mark, said)
                    assert (
                        len({circuit_of[true[e].cable] for ends in said.values() for e in ends if e in true})
                        == 1
                    )
                else:
                    fed = [made.roles[e.partition(".")[0]] for ends in to(found, "LINE, brass") for e in ends]
                    beyond = [
                        made.roles[e.partition(".")[0]] for ends in to(found, "LOAD, brass") for e in ends
                    ]
                    assert "FEED" in fed, (made.handle, made.roles)
                    assert "FEED" not in beyond, (made.handle, made.roles)
    assert seen["sensor", "works"] > 5, seen
    assert seen["protective", "works"] > 6, seen


def test_the_same_on_the_command_line(capsys, monkeypatch):
    def run(practice="na", **more):
        body = {
            "place": "switch",
            "cables": [{"id": 1, "cond": list(W), "gauge": "14"}, {"id": 2, "cond": list(W)}],
            "joints": [["1.WH", "2.WH"]],
            "device": {"kind": "switch", "a": "1.BK", "b": "2.BK"},
            **more,
        }
        monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(json.dumps(body).encode())))
        code = main(["instead", "--practice", practice, "-"])
        said = capsys.readouterr()
        return code, json.loads(said.out) if code < 2 else said.err

    code, found = run()
    assert (code, found["verdict"]) == (0, "works")
    assert [m["onto"] for m in found["moves"]][1:] == ["S.a", "S.b"]
    code, found = run(becomes="sensor")
    assert (code, found["verdict"], found["excludes"]) == (0, "unless", "R4")
    loop = {
        "cables": [{"id": 1, "cond": list(W)}],
        "joints": [],
        "device": {"kind": "switch", "a": "1.BK", "b": "1.WH"},
    }
    code, found = run(becomes="sensor", **loop)
    assert (code, found["verdict"], found["moves"]) == (1, "refused", [])
    assert run(becomes="heater") == (
        2,
        "fjeld: becomes: “heater” is none of same, dimmer, sensor, protective, fan\n",
    )
    assert "no device “X”" in run(replaces="X")[1]
    assert "no gauge" in run(gauge="7", cables=[{"id": 1, "cond": list(W)}, {"id": 2, "cond": list(W)}])[1]
