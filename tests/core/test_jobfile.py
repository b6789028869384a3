"""The job file: out and in again, by hand, and every way to be wrong."""

import contextlib
import json

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.drawing.building import Room, Side
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, new_house
from fjeld.formats import document, jobfile
from fjeld.formats.jobfile import JobFileError, decode, encode, parse_side
from fjeld.practice import load
from fjeld.quantities import Length, UnreadableLength
from tests.houses import one_room


@given(st.integers(0, 2000))
def test_import_of_export_is_the_same(seed):
    drawing = one_room(seed)
    assert decode(encode(drawing)) == drawing
    assert encode(decode(encode(drawing))) == encode(drawing)


def test_computed_lengths_survive(boot_room):
    room = msgspec.structs.replace(boot_room.get("R1", Room), sides=(Side(33.5, Length(1234.5678)),) * 4)
    drawing = msgspec.structs.replace(boot_room, items={"house": boot_room.house, "R1": room})
    assert decode(encode(drawing)) == drawing


def base():
    return {
        "fjeld": 1,
        "house": {"name": "Shed"},
        "rooms": {"R1": {"name": "Shed", "walls": ["E 10'", "S 8'", "W 10'", "N 8'"]}},
        "panels": {"P1": {"room": "R1", "wall": 1, "at": "2'"}},
        "circuits": {"Q1": {"name": "Lights"}},
        "points": {
            "A1": {"kind": "light", "room": "R1", "x": "5'", "y": "4'", "circuit": "Q1"},
            "S1": {"kind": "switch", "room": "R1", "wall": 2, "at": "1'"},
        },
        "controls": {"K1": {"positions": ["S1"], "loads": ["A1"]}},
        "cables": {
            "C1": {"from": "P1", "to": "S1", "circuit": "Q1"},
            "C2": {"from": "S1", "to": "A1", "circuit": "Q1"},
        },
    }


def broken(path, value):
    body = base()
    here = body
    *parents, last = path
    for key in parents:
        here = here.setdefault(key, {})
    if value is None:
        del here[last]
    else:
        here[last] = value
    return json.dumps(body).encode()


def test_a_hand_written_file_reads():
    assert decode(json.dumps(base()).encode()).house.name == "Shed"


@pytest.mark.parametrize(
    ("path", "value", "place"),
    [
        (("fjeld",), 3, "newer program"),
        (("fjeld",), None, "format number"),
        (("fjeld",), "x", "format number"),
        (("rooms", "R1", "walls"), ["E ten feet"], "rooms.R1.walls"),
        (("rooms", "R1", "walls"), ["up 10'"], "rooms.R1.walls"),
        (("rooms", "R1", "walls"), [7], "rooms.R1.walls"),
        (("rooms", "R1", "height"), "tall", "rooms.R1.height"),
        (("rooms", "R1", "height"), True, "rooms.R1.height"),
        (("rooms", "R1", "wals"), [], "rooms.R1"),
        (("rooms",), [], "rooms"),
        (("roooms",), {}, "roooms"),
        (("points", "A1", "room"), "R9", "points.A1.room"),
        (("points", "A1", "kind"), "lamp", "points.A1"),
        (("points", "A1", "x"), None, "points.A1.x"),
        (("points", "A1", "va"), -5, "points.A1.va"),
        (("points", "A1", "box"), "huge", "points.A1.box"),
        (("points", "A1", "lumens"), 0, "points.A1.lumens"),
        (("points", "A1", "beam"), 180, "points.A1.beam"),
        (("points", "S1", "wall"), 9, "points.S1.wall"),
        (("points", "S1", "at"), None, "points.S1.at"),
        (("points", "a-1"), {"kind": "light", "room": "R1", "x": 1, "y": 1}, "a-1"),
        (("panels", "P1", "wall"), 0, "panels.P1.wall"),
        (("controls", "K1", "positions"), ["A1"], "controls.K1.positions"),
        (("controls", "K1", "positions"), ["S1", "S1"], "controls.K1.positions"),
        (("controls", "K1", "loads"), ["S1"], "controls.K1.loads"),
        (("controls", "K1", "loads"), ["A1.upper"], "controls.K1.loads"),
        (("controls", "K2"), {"positions": ["S1"], "loads": ["A1"]}, "controls.K2.loads"),
        (("circuits", "Q1", "gauge"), "13", "circuits.Q1.gauge"),
        (("circuits", "Q1", "breaker"), 0, "circuits.Q1.breaker"),
        (("cables", "C1", "to"), "X9", "cables.C1.to"),
        (("cables", "C1", "to"), "P1", "cables.C1"),
        (("cables", "C1", "circuit"), "Q9", "cables.C1.circuit"),
        (("house", "practice"), "xx", "practice"),
        (("house", "amendments"), [{"rule": "no-such-rule", "value": 1, "reason": "x"}], "amendments"),
        (("house", "amendments"), [{"rule": "volt-drop", "value": "x", "reason": "x"}], "amendments"),
        (("house", "amendments"), [{"rule": "volt-drop", "value": 5, "reason": " "}], "amendments"),
        (("openings", "R1"), {"kind": "door", "room": "R1", "wall": 1, "at": 1, "width": 2}, "openings.R1"),
    ],
)
def test_a_malformed_file_is_refused_in_one_line_with_the_place(path, value, place):
    with pytest.raises(JobFileError) as refused:
        decode(broken(path, value))
    assert place in str(refused.value)
    assert "\n" not in str(refused.value)


@pytest.mark.parametrize("data", [b"", b"[]", b"null", b"{", b"\xff\xfe", b'"x"', b"[" * 100_000, b"0"])
def test_what_is_no_job_file_at_all(data):
    with pytest.raises(JobFileError):
        decode(data)


def test_a_file_too_large_is_not_read():
    with pytest.raises(JobFileError, match="larger than"):
        decode(b" " * 4_000_001)


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.text(max_size=5),
        lambda c: (
            st.lists(c, max_size=3)
            | st.dictionaries(st.sampled_from(["R1", "walls", "kind", "A1", "x", "room"]), c, max_size=3)
        ),
        max_leaves=8,
    ),
    st.sampled_from(["house", "rooms", "points", "controls", "cables", "panels", "circuits", "openings"]),
)
def test_any_json_in_any_group_is_read_or_refused(junk, group):
    body = base()
    body[group] = junk
    with contextlib.suppress(JobFileError):
        decode(json.dumps(body).encode())


@pytest.mark.parametrize(
    ("text", "bearing"), [("E 12'4", 90.0), ("n 3 m", 0.0), ("112.5 4'2", 112.5), ("  W   10' ", 270.0)]
)
def test_walls_are_read(text, bearing):
    assert parse_side(text).bearing == bearing


def test_a_wall_needs_direction_and_length():
    for text in ("12'4", "E", "E twelve", ""):
        with pytest.raises(UnreadableLength):
            parse_side(text)


def test_the_published_schema_is_current():
    from pathlib import Path

    published = json.loads(Path("docs/job-file.schema.json").read_text())
    assert published == jobfile.schema(), "run make schema"


def test_the_documented_example_reads_and_is_whole():
    from pathlib import Path

    from fjeld.derive.plan import derive
    from fjeld.prove.proof import prove

    page = Path("docs/job-file.md").read_text()
    example = page.split("```json\n")[1].split("```")[0]
    plan = derive(decode(example.encode()))
    assert all(p.proven for p in prove(plan).values())
    assert plan.circuits


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_a_new_house_is_written_as_it_is_when_it_was_read(practice):
    """What is as usual is left out by both, so that what is equal has the same bytes."""
    new = Drawing({HOUSE: new_house("Any", load(practice))})
    written = document.encode(new)
    assert document.encode(document.decode(written)) == written


def test_old_boxes_of_the_first_format_get_names_by_place():
    """Joints by number, landings by the number of a device, cables counted: all of it is there again under
    names.
    """
    old = {
        "room": "R1",
        "x": "2'",
        "y": "3'",
        "place": "switch",
        "cables": [
            {
                "leads": [
                    {"colour": "black", "device": 1, "terminal": "a"},
                    {"colour": "white", "joint": 2},
                    {"colour": "bare", "joint": 3},
                ]
            },
            {
                "leads": [
                    {"colour": "black", "device": 2, "terminal": "b", "carries": "line"},
                    {"colour": "white", "joint": 2},
                    {"colour": "black", "joint": 9},
                ],
                "gauge": "14",
            },
        ],
        "held": [{"kind": "switch"}, {"kind": "switch", "tails": [{"joint": 3, "terminal": "g"}]}],
    }
    body = {
        "fjeld": 1,
        "house": {"name": "Shed", "errand": {"wants": "replace", "replaces": 2}},
        "rooms": base()["rooms"],
        "old_boxes": {"E1": old},
        "circuits": {"Q1": {"name": "Found", "source": "E1", "found": 2}},
    }
    drawing = decode(json.dumps(body).encode())
    box = drawing.items["E1"]
    assert box.ends == ("1.BK", "1.WH", "1.G", "2.BK", "2.WH", "2.BK2")
    assert box.joints == (("1.WH", "2.WH"), ("1.G", "S2.g")), "what is alone in a joint is in none"
    assert [(d.id, d.lands) for d in box.held] == [("S1", {"a": ("1.BK",)}), ("S2", {"b": ("2.BK",)})]
    assert box.lead("2.BK").carries == "line"
    assert drawing.items["Q1"].found == "2"
    assert drawing.house.errand.replaces == "S2"
    assert decode(encode(drawing)) == drawing, "and so it stays"


@pytest.mark.parametrize(
    ("changed", "place"),
    [
        ({"joints": [["1.BK", "9.WH"]]}, "old_boxes.E1.joints[0]: there is no 9.WH"),
        ({"cables": [{"id": "1"}, {"id": "1"}]}, "old_boxes.E1.cables: two are called 1"),
        ({"cables": [{"id": "a.b"}]}, "is no name"),
        ({"held": [{"id": "S", "kind": "switch", "lands": {"brass": []}}]}, "a switch has no terminal brass"),
        ({"held": [{"id": "S", "kind": "switch", "lands": {"a": ["1.RD"]}}]}, "lands.a: there is no 1.RD"),
        ({"held": [{"kind": "toaster"}]}, "old_boxes.E1.held[0]"),
        ({"cables": "two"}, "old_boxes.E1"),
        ({"cables": [{"leads": [{"colour": 7}]}]}, "old_boxes.E1.cables[0]"),
        ({"held": {"S": 1}}, "old_boxes.E1"),
    ],
)
def test_what_an_old_box_cannot_be_is_refused_with_its_place(changed, place):
    box = {"room": "R1", "x": "2'", "y": "3'", "cables": [{"leads": [{"colour": "black"}]}], **changed}
    body = {"fjeld": 2, "house": {"name": "Shed"}, "rooms": base()["rooms"], "old_boxes": {"E1": box}}
    with pytest.raises(JobFileError) as refused:
        decode(json.dumps(body).encode())
    assert place in str(refused.value)
