"""Single questions of finished rooms: worked answers, and each against another way of finding it."""

import itertools
import json
import math
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.bench.questions import QUESTIONS
from fjeld.formats.questions import read
from fjeld.judge import spot, ways, wires, work
from fjeld.judge.answer import NotAsked
from fjeld.practice import available, load, rules
from fjeld.practice.finished import minutes
from fjeld.quantities import INCH, Length


def ask(name, practice="na", **asked):
    question, rules = QUESTIONS[name], load(practice)
    return question.ask(read(json.dumps(asked).encode(), question.asked, rules.unit), rules)


def inches(answer, name):
    return answer.figure(name) / INCH


def tones(answer):
    return [s.tone for s in answer.said]


# --- where a box may be ---------------------------------------------------------------


def test_between_two_studs():
    found = ask("spot", box="cut-in-1", left='16 3/4"', right='31 1/4"')
    assert inches(found, "from") == pytest.approx(18.125)
    assert inches(found, "to") == pytest.approx(29.875)


def test_a_dry_lining_box_swings_its_lugs_sideways():
    found = ask("spot", "gb", box="dry-lining-1", left="619 mm", right="1181 mm")
    assert found.figure("from") == pytest.approx(668.5)
    assert found.figure("to") == pytest.approx(1131.5)


def test_beside_a_door_the_wood_comes_first():
    found = ask("spot", box="cut-in-1", door='0"', wished='4"')
    assert inches(found, "from") == pytest.approx(5.625)
    assert inches(found, "nearest") == pytest.approx(5.625)
    assert inches(found, "screwed to the stud") == pytest.approx(5.375)
    assert found.fails


def test_the_saw_starts_inside_opposite_corners():
    x, y = spot.starting_holes(spot.box_of(load("na"), "cut-in-1"), load("na")[rules.SAW_HOLE])
    assert (x / INCH, y / INCH) == pytest.approx((0.969, 1.656), abs=0.001)


@pytest.mark.parametrize("practice", available())
def test_every_starting_hole_lies_inside_what_is_cut(practice):
    bit = 3 * INCH / 8
    for box in load(practice).catalogue.old_work:
        x, y = spot.starting_holes(box, bit)
        if box.round:
            assert math.hypot(x, y) + bit / 2 <= box.cut[0] / 2 + 1e-6
        else:
            assert x + bit / 2 <= box.cut[0] / 2 + 1e-6
            assert y + bit / 2 <= box.cut[1] / 2 + 1e-6


def test_the_back_of_a_box_that_leaves_no_room_for_a_cable_behind_it():
    found = ask("spot", box="cut-in-1", cavity='3 1/2"', surface='1/2"')
    assert inches(found, "left behind it") == pytest.approx(1.25)
    assert "not at the back" in found.said[0].words


def test_two_boxes_back_to_back_are_shifted_by_their_widths():
    found = ask("spot", box="cut-in-1", cavity='3 1/2"', surface='1/2"', behind='2 1/4"')
    assert inches(found, "shift sideways") == pytest.approx(2.75)
    assert found.fails


def test_a_surface_that_its_wings_do_not_grip_is_told():
    assert "fails" in tones(ask("spot", box="cut-in-1", surface='1 3/8"', cavity='4"'))
    assert "fails" not in tones(ask("spot", box="cut-in-1", surface='1 1/4"', cavity='4"'))


@given(
    st.integers(0, 40),
    st.integers(4, 120),
    st.sampled_from(["cut-in-1", "cut-in-2", "cut-in-3", "dry-lining-1"]),
    st.sampled_from(["", "probe", "screws", "detector"]),
    st.sampled_from(["", "probe", "screws", "detector"]),
)
def test_the_span_is_where_a_box_tried_every_thirty_second_clears_both_members(left, bay, box, one, other):
    """By brute force: its body with the clearance, and what its grip swings out, meet no member wherever that
    may be.
    """
    practice = load("gb" if box.startswith("dry") else "na")
    kind = spot.box_of(practice, box)
    right = left * INCH / 4 + bay * INCH / 4
    asked = spot.SpotAsked(box, Length(left * INCH / 4), Length(right), one, other)
    found = spot.spot(asked, practice)
    low, high = left * INCH / 4 + spot.known_to(one, practice), right - spot.known_to(other, practice)

    def clears(middle):
        body = kind.body[0] / 2 + practice[rules.CUT_IN_CLEAR]
        grip = kind.cut[0] / 2 + kind.throw
        return all(middle - r >= low - 1e-9 and middle + r <= high + 1e-9 for r in (body, grip))

    for n in range(int((right - left * INCH / 4) / INCH * 32) + 2):
        middle = left * INCH / 4 + n * INCH / 32
        assert clears(middle) == (found.figure("from") - 1e-6 <= middle <= found.figure("to") + 1e-6)
    assert found.fails == (found.figure("from") > found.figure("to") + 1e-6)


def test_a_pattern_alone_is_a_question():
    assert "ask" in tones(ask("spot", box="cut-in-1", left='16"', right='40"', left_by="pattern"))


def test_a_lanterns_box_is_found_from_its_body():
    assert inches(ask("height", high='14"', below='9"', top='82"'), "box height") == pytest.approx(77)
    assert inches(ask("height", below='9"', foot='60"'), "box height") == pytest.approx(69)
    assert inches(ask("height", wide='7"', left_edge='6"'), "box along") == pytest.approx(9.5)
    assert inches(ask("height", wide='7"', left='2"', middle='40"'), "box along") == pytest.approx(38.5)


def test_the_lowest_thing_above_a_ceiling_counts():
    assert ask("void", depth='5 1/2"', lowest='4"').fails
    assert not ask("void", depth='2 1/2"', lowest='4"').fails


# --- what is there already --------------------------------------------------------------


@pytest.mark.parametrize(
    ("asked", "now", "after", "tone"),
    [
        ({"volume": 18, "cables": ["14/2", "14/2"], "devices": 1}, 14, 18, "passes"),
        (
            {"size": "3 x 2 x 2 3/4", "clamps": True, "cables": ["14/2", "14/2"], "devices": 1},
            16,
            20,
            "danger",
        ),
        ({"volume": 32, "cables": ["14/2", "14/2", "14/2", "14/3"], "devices": 2}, 28, 32.5, "fails"),
        ({"volume": 15.5, "clamps": True, "cables": ["14/2", "14/2"]}, 12, 16, "fails"),
        ({"size": "octagon 2 1/8", "clamps": True, "cables": ["14/2", "14/2"]}, 12, 16, "passes"),
        ({"cables": ["14/2"], "devices": 1}, 10, 14, "ask"),
    ],
)
def test_one_more_cable(asked, now, after, tone):
    found = ask("fits", add=["14/2"], **asked)
    assert found.figure("needed as found, in³") == pytest.approx(now)
    assert found.figure("needed after, in³") == pytest.approx(after)
    assert found.said[0].tone == tone


def test_the_other_way_to_count_grounds_and_a_box_without_clamps_are_told():
    both = ask("fits", volume=32, cables=["14/2", "14/2", "14/2", "14/3"], devices=2, add=["14/2"])
    assert any("32.00" in s.words for s in both.said)
    clamps = ask("fits", size="3 x 2 x 2 3/4", clamps=True, cables=["14/2", "14/2"], devices=1, add=["14/2"])
    assert any("18.00" in s.words for s in clamps.said)
    assert any("6.00" in s.words for s in clamps.said)
    folds = ask("fits", volume=18, cables=["14/2", "14/2"], devices=1, add=["14/2"], protective=True)
    assert any("fold" in s.words for s in folds.said)


@given(
    st.lists(st.sampled_from(["14/2", "14/3", "12/2", "12/3"]), max_size=5), st.integers(0, 3), st.booleans()
)
def test_a_box_needs_what_counting_by_hand_gives(cables, devices, clamps):
    each = {"14": 2.0, "12": 2.25}
    wires = [c.split("/") for c in cables]
    grounds = [each[g] for g, _ in wires]
    largest = max(grounds, default=2.0)
    by_hand = sum(each[g] * int(n) for g, n in wires) + 2 * devices * largest + (largest if clamps else 0)
    by_hand += (largest if grounds else 0) + 0.25 * largest * max(0, len(grounds) - 4)
    found = ask("fits", cables=cables, devices=devices, clamps=clamps)
    assert found.figure("needed as found, in³") == pytest.approx(by_hand)


@pytest.mark.parametrize(
    ("depth", "cables", "socket", "fails"),
    [
        (25, 3, False, False),
        (25, 3, True, True),
        (35, 4, False, False),
        (47, 5, True, False),
        (40, 5, False, True),
    ],
)
def test_british_boxes_count_their_cables(depth, cables, socket, fails):
    assert ask("fits", "gb", depth=depth, cables=["1.5"] * cables, socket=socket).fails is fails


# --- ways ------------------------------------------------------------------------------


def test_a_plate_is_found_from_a_pipe_and_from_a_pilot():
    from_pipe = ask("transfer", room='41 1/4"', surface='1/2"', plate='3 1/2"')
    assert inches(from_pipe, "from the reference") == pytest.approx(43.5)
    assert inches(
        ask("transfer", pilot='3/8"', surface='1/2"', plate='3 1/2"'), "from the pilot"
    ) == pytest.approx(2.625)
    behind = ask("transfer", room='41 1/4"', back='1/2"', surface='1/2"', plate='3 1/2"')
    assert inches(behind, "from the reference") == pytest.approx(44)


@given(st.floats(100, 5000), st.floats(0, 40), st.floats(5, 40), st.floats(60, 200), st.floats(-500, 500))
def test_a_transfer_is_what_coordinates_give(room, back, surface, plate, reference):
    """The wall's face, its plate and the reference set out on one axis; the distance read off on the other
    side.
    """
    face = reference + room
    middle = face + surface + plate / 2
    seen = reference - back
    asked = ways.TransferAsked(Length(surface), Length(plate), Length(room), Length(back))
    found = ways.transfer(asked, load("na"))
    assert found.figure("from the reference") == pytest.approx(middle - seen)


@pytest.mark.parametrize(("error", "tone"), [('3/16"', "advice"), ('1/8"', "passes"), ('1 1/2"', "fails")])
def test_a_hole_that_misses_asks_for_steel(error, tone):
    found = ask("transfer", pilot='3/8"', surface='1/2"', plate='3 1/2"', hole='3/4"', error=error)
    assert tones(found) == [tone]
    assert inches(found, "no steel within") == pytest.approx(0.125)
    assert inches(found, "in the wall within") == pytest.approx(1.375)


def test_headroom_at_an_eave():
    tight = ask("eave", heel='3 1/2"', rise=5, plate='3 1/2"', needs='12"')
    assert inches(tight, "headroom") == pytest.approx(3.5 + 1.75 * 5 / 12)
    assert tight.fails
    assert not ask("eave", heel='20"', rise=8, plate='3 1/2"', needs='18"').fails


def test_what_to_cut_for_a_pull():
    found = ask("pull", legs=['50 5/8"', '3"', "14'"], blind=1)
    assert inches(found, "way") == pytest.approx(221.625)
    assert inches(found, "exact") == pytest.approx(276.706, abs=0.001)
    assert inches(found, "cut") == pytest.approx(282)
    assert ask("pull", "gb", legs=["1300 mm", "100 mm", "3600 mm"], blind=1).figure("cut") == pytest.approx(
        6300
    )


@given(
    st.lists(st.tuples(st.floats(0, 4000), st.floats(0, 4000), st.floats(0, 4000)), min_size=2, max_size=8)
)
def test_a_pull_is_never_shorter_than_its_own_polyline(corners):
    legs = tuple(Length(math.dist(a, b)) for a, b in itertools.pairwise(corners))
    found = ways.pull(ways.PullAsked(legs), load("na"))
    along = sum(math.dist(a, b) for a, b in itertools.pairwise(corners))
    assert found.figure("way") == pytest.approx(along)
    rest = found.figure("cut") - along
    assert 2 * 10 * INCH - 1e-6 <= rest <= 0.05 * along + 2 * 10 * INCH + 6 * INCH + 1e-6


def test_members_between_two_places_and_how_deep_each_may_be_cut():
    found = ask("wood", start='20"', end='100"', spacing='16"', depth='3 1/2"', bearing=True)
    assert found.figure("members") == 5
    assert inches(found, "notch at most") == pytest.approx(0.875)
    assert inches(found, "bore at most") == pytest.approx(1.40)
    assert inches(
        ask("wood", start='20"', end='100"', spacing='16"', depth='3 1/2"'), "notch at most"
    ) == pytest.approx(1.40)


@given(st.integers(0, 500), st.integers(0, 500), st.integers(1, 60), st.integers(0, 60))
def test_members_are_counted_as_they_are_met(start, end, spacing, first):
    low, high = sorted((start, end))
    met = sum(low < first + n * spacing < high for n in range(-700, 700))
    asked = ways.WoodAsked(
        Length(float(start)), Length(float(end)), Length(float(spacing)), Length(float(first))
    )
    assert ways.wood(asked, load("na")).figure("members") == met


def test_a_chase_is_a_third_upright_and_a_sixth_level():
    upright = ask(
        "masonry", "gb", wide="75", high="75", depth="29", bit="8", pitch="12", leaf="100", chase="vertical"
    )
    assert upright.figure("chase at most") == pytest.approx(33.33, abs=0.01)
    assert upright.figure("holes") == math.ceil(300 / 12)
    assert not upright.fails
    assert ask(
        "masonry", "gb", wide="75", high="75", depth="20", bit="8", leaf="100", chase="horizontal"
    ).fails
    assert "fails" in tones(ask("masonry", wide='3"', high='3"', depth='2"', bit='1/2"', pitch='1"'))


@given(st.floats(20, 300), st.floats(4, 20))
def test_a_round_ring_of_holes_stands_as_close_as_one_along_a_polygon_of_chords(across, bit):
    """The holes laid out on the circle: neighbours no farther apart than a ring may be, and one fewer would
    be.
    """
    found = ask("masonry", round=f"{across} mm", depth="50 mm", bit=f"{bit} mm")
    holes = round(found.figure("holes"))
    arc = math.pi * across / holes
    assert arc <= 1.5 * bit + 1e-6
    assert holes == 1 or math.pi * across / (holes - 1) > 1.5 * bit - 1e-6


@pytest.mark.parametrize(
    ("asked", "tone", "drill"),
    [
        # A box in a veneer of brick: into the air behind it, and as deep as the leaf is the hole.
        ({"depth": '2 3/4"', "leaf": '1 3/16"', "cavity": '2"'}, "passes", 1.1875),
        ({"depth": '2 3/4"', "leaf": '1 3/16"', "cavity": '1"'}, "fails", 1.1875),
        ({"depth": '2 3/4"', "leaf": '1 3/16"'}, "ask", 3),
        ({"depth": '2 3/4"', "leaf": '3 5/8"'}, "passes", 3),
        ({"depth": '2 3/4"', "leaf": '1 3/16"', "chase": "vertical"}, "fails", 3),
    ],
)
def test_a_box_in_a_leaf_is_held_by_what_is_behind_it_unless_it_is_chased(asked, tone, drill):
    found = ask("masonry", wide='3"', high='3"', bit='1/2"', **asked)
    assert tones(found) == [tone]
    assert found.figure("drill") == pytest.approx(drill * INCH)


def test_an_opening_is_round_or_has_two_sides():
    for sides in ({"wide": '3"'}, {}, {"wide": '3"', "high": '3"', "round": '4"'}):
        with pytest.raises(NotAsked, match="round"):
            ask("masonry", depth='2"', bit='1/2"', **sides)


# --- wires that are there ----------------------------------------------------------------


@pytest.mark.parametrize(
    ("asked", "tone", "words"),
    [
        ({"free": '6"', "past": '3"'}, ["passes"], "as it is"),
        ({"free": '5"', "sheath": '1 1/4"', "past": '4"'}, ["passes"], "once the sheath is stripped back"),
        ({"free": '6"', "past": '2"', "slack": '1"'}, ["passes"], "once slack is pulled in"),
        (
            {"free": '5"', "past": '2 1/2"', "slack": '1/2"', "sheath": '3/4"'},
            ["passes"],
            "pulled in and the sheath",
        ),
        ({"free": '4"', "sheath": '1/2"'}, ["needs", "advice"], "with connectors"),
        ({"free": '2"'}, ["needs", "advice"], "lever"),
        ({"free": '1"'}, ["fails"], "No connector"),
        ({"free": '8"', "past": '2"'}, ["needs", "advice"], '1" too short past the face'),
        ({"free": '8"', "past": '2"', "opening": '8"'}, ["passes"], "as it is"),
        ({"free": '8"', "past": '2"', "opening": '7 15/16"'}, ["needs", "advice"], "Tails"),
        ({"free": '5"', "past": '2"'}, ["needs", "needs", "advice"], '1" too short beyond the sheath'),
    ],
)
def test_wires_that_are_too_short(asked, tone, words):
    found = ask("short", **asked)
    assert tones(found) == tone
    assert any(words in said.words for said in found.said)


def test_what_the_way_grows_by_comes_off_what_stands_past_the_face_too():
    assert not ask("reach", free='12"', past='4"', before='40"', after='41"').fails
    assert ask("reach", free='12"', past='4"', before='40"', after='42"').fails
    assert not ask("reach", free='12"', past='4"', before='40"', after='42"', slack='1"').fails


def test_an_old_cable_reaches_or_does_not():
    assert not ask("reach", free='8"', before='40"', after='41"').fails
    short = ask("reach", free='6"', before='40"', after='44"', slack='2"')
    assert short.fails
    assert inches(short, "left") == pytest.approx(4)
    toward = ask("reach", free='4"', before='40"', after='36"')
    assert inches(toward, "left") == pytest.approx(8), "a box moved toward its cable gains"


@given(st.floats(0, 3000), st.floats(0, 3000), st.floats(20, 400), st.floats(-1500, 1500))
def test_a_reach_is_what_coordinates_give(x, y, free, moved):
    """The last staple at the origin, the box before and after; the end of the wire stays where it is on the
    cable.
    """
    before, after = math.hypot(x, y), math.hypot(x + moved, y)
    asked = wires.ReachAsked(Length(free), Length(before), Length(after))
    end = before + free
    assert wires.reach(asked, load("na")).figure("left") == pytest.approx(end - after)


def test_one_gang_becomes_two():
    beside = ask("cutout", face='17 3/4"', old='2 1/4"', box="side-screw-2")
    assert (inches(beside, "from"), inches(beside, "to")) == pytest.approx((17.75, 21.8125))
    assert inches(beside, "widen") == pytest.approx(1.8125)
    winged = ask("cutout", face='17 3/4"', old='2 1/4"', box="cut-in-2", clearance='1/4"')
    assert (inches(winged, "from"), inches(winged, "to")) == pytest.approx((18, 22.0625))
    assert "filled" in winged.said[0].words
    assert ask("cutout", face='17 3/4"', old='2 1/4"', box="side-screw-2", next='21"').fails


@pytest.mark.parametrize(("volts", "tone"), [(1.5, "passes"), (0.0, "danger"), (9.0, "danger")])
def test_a_ground_is_told_from_a_neutral_under_load(volts, tone):
    found = ask("ground", amps=10, way="60'", gauge="14", volts=volts)
    assert found.figure("expected volts") == pytest.approx(1.51, abs=0.03)
    assert tones(found) == [tone]


# --- the work ----------------------------------------------------------------------------

BY_THE_ATTIC = {
    "look": 0,
    "breaker": 0,
    "record": 0,
    "cut board": 0,
    "P1": 0,
    "pull": 2,
    "box in": 0,
    "make up": 0,
    "tie in": 0,
    "dead tests": 0,
    "energize": 0,
    "label": 0,
    "clean": 0,
}


@pytest.mark.parametrize(("times", "minutes"), [(1, 369.5), (2, 258.4), (3, 192.9)])
def test_a_new_outlet_by_the_attic_takes_so_long(times, minutes):
    found = ask("time", steps=BY_THE_ATTIC, times=times)
    assert found.figure("base") == pytest.approx(165)
    assert found.figure("minutes") == pytest.approx(minutes)
    if times == 1:
        assert (found.figure("at least"), found.figure("at most")) == pytest.approx((295.6, 554.25))


def test_each_step_is_of_a_class_of_hands_and_a_low_attic_makes_the_fishing_harder():
    known = minutes()
    assert {s.kind for s in known.steps.values()} == set(known.experience)
    easy, hard = (
        ask("time", steps={"P1": 0, "label": 0}),
        ask("time", steps={"P1": 0, "label": 0}, access=["low attic"]),
    )
    assert hard.figure("minutes") - easy.figure("minutes") == pytest.approx(35 * 3.0 * 0.5)


@pytest.mark.parametrize(("compound", "hours"), [("ready-mixed", 72), ("setting 45", 4.5), ("setting 90", 9)])
def test_waiting_is_no_labour(compound, hours):
    found = ask("patch", wide='4"', high='6"', compound=compound)
    assert found.figure("waiting for coats") == pytest.approx(hours)
    assert found.figure("waiting") == pytest.approx(hours + 2)
    assert found.figure("labour") == pytest.approx(84)
    assert inches(found, "backing") == pytest.approx(10)
    assert ask("patch", wide='4"', high='6"', compound=compound, cold=True).figure(
        "waiting"
    ) == pytest.approx(2 * hours + 4)


def test_what_a_circuit_has_left():
    found = ask(
        "load",
        breaker=15,
        loads=[
            {"count": 6, "va": 9},
            {"count": 8, "va": 180, "estimated": True},
            {"count": 1, "va": 12, "continuous": True},
        ],
    )
    assert found.figure("load") == pytest.approx(12.575)
    assert found.figure("left") == pytest.approx(2.425)
    assert found.figure("estimated") == pytest.approx(12)
    over = ask("load", breaker=15, loads=[{"count": 11, "va": 180, "estimated": True}])
    assert tones(over) == ["advice"]
    assert ask("load", breaker=15, loads=[{"count": 11, "va": 180}]).fails


def test_every_pair_of_a_box_is_tested_in_every_position_of_its_switches():
    nodes = ["black 1", "black 2", "whites", "grounds", "earth"]
    found = ask("pairs", nodes=nodes, switches=1)
    assert (found.figure("pairs"), found.figure("tests")) == (10, 20)
    assert len({s.words for s in found.said}) == 10


@pytest.mark.parametrize(
    ("plain", "loaded", "words", "tone"),
    [
        (0.2, 0.0, "dead", "passes"),
        (59.8, 0.2, "induced", "advice"),
        (120.0, 119.0, "live, 119", "danger"),
        (120.0, 78.0, "through a load", "danger"),
        (40.0, 20.0, "through a load", "danger"),
        (4.9, 4.9, "dead", "passes"),
    ],
)
def test_what_two_readings_of_a_pair_say(plain, loaded, words, tone):
    said = work.read_pair("a / b", plain, loaded)
    assert words in said.words
    assert said.tone == tone


def test_readings_of_a_tester_that_was_not_proven_count_as_not_taken():
    asked = {"nodes": ["a", "b", "c"], "readings": {"b / a": [0, 0]}}
    assert "fails" in tones(ask("pairs", **asked))
    proven = ask("pairs", **asked, proven_before=True, proven_after=True)
    assert "fails" not in tones(proven)
    assert any("2 pairs" in s.words for s in proven.said)


# --- what may be put there ---------------------------------------------------------------


@pytest.mark.parametrize(
    ("asked", "tone"),
    [
        ({"what": "fan", "kg": 16, "marked": 31.75, "listed": True}, "passes"),
        ({"what": "fan", "kg": 16, "listed": True}, "ask"),
        ({"what": "fan", "kg": 16, "marked": 31.75}, "ask"),
        ({"what": "fan", "kg": 16, "marked": 31.75, "listed": False}, "fails"),
        ({"what": "fan", "kg": 16}, "ask"),
        ({"what": "fan", "kg": 16, "marked": 0}, "fails"),
        ({"what": "fan", "kg": 33, "marked": 40}, "fails"),
        ({"what": "fan", "lb": 35, "listed": True}, "passes"),
        ({"what": "fan", "lb": 36, "marked": 35}, "fails"),
        ({"lb": 50}, "passes"),
        ({"lb": 51}, "fails"),
        ({"lb": 80, "marked": 100}, "passes"),
    ],
)
def test_what_a_box_carries(asked, tone):
    assert tones(ask("hangs", **asked)) == [tone]


def test_a_fan_of_seventy_pounds_at_most_hangs_from_a_box():
    limit = load("na")[rules.FAN_BOX][1]
    assert not ask("hangs", what="fan", kg=limit, marked=limit).fails
    assert ask("hangs", what="fan", kg=limit + 0.01, marked=limit + 1).fails


@pytest.mark.parametrize(
    ("smoke", "heat", "fails"), [(12, 6, False), (13, 0, True), (12, 7, True), (1, 0, False)]
)
def test_alarms_on_one_link(smoke, heat, fails):
    assert ask("link", smoke=smoke, heat=heat).fails is fails


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"room": "bed", "way": "5'"}, "No arc-fault"),
        ({"room": "bed", "way": "7'"}, "Arc-fault protection of"),
        ({"room": "bed", "way": "3'", "new": "outlet"}, "Arc-fault protection of"),
        ({"room": "bath", "way": "3'", "new": "outlet"}, "Ground-fault"),
        ({"room": "outdoors", "way": "3'", "new": "outlet"}, "weather"),
        ({"room": "other", "way": "9'", "new": "light"}, "Nothing further"),
    ],
)
def test_what_an_extension_sets_off(asked, words):
    assert any(words in s.words for s in ask("extends", **asked).said)
    assert any("residual" in s.words for s in ask("extends", "gb", **{**asked, "way": "900"}).said)


def test_an_outlet_without_a_ground_in_a_kitchen():
    said = " ".join(s.words for s in ask("replace", what="outlet", room="kitchen", ground="no").said)
    assert all(words in said for words in ("no equipment ground", "Arc-fault", "Ground-fault", "tamper"))
    assert "needs" in tones(ask("replace", what="outlet", room="kitchen", ground="yes")), (
        "protection is wanted, not refused"
    )
    assert not ask("replace", what="outlet", room="kitchen", ground="yes").fails
    assert tones(ask("replace", what="switch", ground="yes")) == ["passes"]
    assert tones(ask("replace", what="light", ground="yes", aluminium=True)) == ["danger"]
    assert "class II" in ask("replace", "gb", what="light", ground="no").said[0].words


@pytest.mark.parametrize(
    ("asked", "tone"),
    [
        ({"load": 100, "most": 150}, "passes"),
        ({"load": 120, "most": 150, "sides": 1}, "fails"),
        ({"load": 112, "most": 150, "sides": 1}, "passes"),
        ({"load": 8, "most": 150, "least": 10}, "fails"),
        ({"load": 60, "most": 150, "of": "fan"}, "danger"),
    ],
)
def test_a_dimmer_and_its_load(asked, tone):
    assert tones(ask("dimmer", **asked)) == [tone]


@pytest.mark.parametrize("practice", ["na", "gb"])
@given(
    ceiling=st.integers(84, 160),
    body=st.integers(8, 20),
    blades=st.integers(30, 72),
    falls=st.integers(0, 12),
)
def test_a_rod_leaves_the_blades_over_heads_and_clear_of_a_slope(practice, ceiling, body, blades, falls):
    """Against where the tips are: so high over the floor, and as far from the ceiling that falls beside them
    as from a wall.
    """
    rules_ = load(practice)
    asked = {k: f'{v}"' for k, v in (("ceiling", ceiling), ("body", body), ("blades", blades))}
    found = ask("downrod", practice, **asked, falls=falls)
    low = rules_[rules.FAN_BLADES]
    for rod in range(0, 80, 4):
        height = (ceiling - body - rod) * INCH
        meets = (body + rod) * INCH * 12 / falls if falls else 1e9
        may = height >= low - 0.1 and meets - blades / 2 * INCH >= rules_[rules.FAN_CLEAR] - 0.1
        answer = ask("downrod", practice, **asked, falls=falls, rod=f'{rod}"')
        assert answer.fails != may, (rod, [s.words for s in answer.said])
    assert found.figure("from walls") == pytest.approx(blades / 2 * INCH + rules_[rules.FAN_CLEAR])


@pytest.mark.parametrize(
    ("way", "amps", "tone"),
    [("5'", 20, "passes"), ("6'", 20, "passes"), ("8'", 20, "fails"), ("5'", 30, "fails")],
)
def test_flexible_conduit_as_a_ground(way, amps, tone):
    assert tones(ask("conduit", way=way, amps=amps))[0] == tone
    assert ask("conduit", "gb", way="900", amps=amps).fails


# --- what cannot be asked, and the command line -------------------------------------------


@pytest.mark.parametrize(
    ("name", "asked", "words"),
    [
        ("spot", {"box": "barrel"}, "there is no box"),
        ("cutout", {"face": '1"', "old": '2"', "box": "barrel"}, "there is no box"),
        ("fits", {"cables": ["thick"]}, "is no cable"),
        ("fits", {"size": "barrel"}, "there is no box"),
        ("hangs", {}, "say its weight"),
        ("link", {"smoke": -1}, "below nothing"),
        ("dimmer", {"load": 1, "most": 2, "sides": 3}, "at none of its sides"),
        ("height", {}, "say what its top"),
        ("height", {"top": '80"'}, "are wanted"),
        ("transfer", {"surface": '1/2"', "plate": '3"'}, "on both sides"),
        ("pull", {"legs": []}, "the legs"),
        ("wood", {"start": '1"', "end": '9"', "spacing": '0"'}, "some way apart"),
        ("time", {"steps": {"sing": 1}}, "no step or access"),
        ("time", {"steps": {"look": 1}, "times": 4}, "1, 2 or 3"),
        ("patch", {"wide": '4"', "high": '4"', "compound": "butter"}, "no compound"),
        ("pairs", {"nodes": ["a", "a"]}, "each once"),
        ("pairs", {"nodes": ["a", "b"], "readings": {"a / x": [0, 0]}}, "no pair"),
        ("ground", {"amps": 1, "way": "1'", "gauge": "thick"}, "no gauge"),
    ],
)
def test_a_question_that_cannot_be_answered_says_why(name, asked, words):
    with pytest.raises(NotAsked, match=words):
        ask(name, **asked)


def run(*args, given=""):
    return subprocess.run(
        [sys.executable, "-m", "fjeld.cli", *args], input=given, capture_output=True, text=True
    )


def test_the_command_line_answers_in_both_practices():
    found = run("spot", "-", given='{"box": "cut-in-1", "left": "16 3/4\\"", "right": "31 1/4\\""}')
    assert found.returncode == 0
    assert json.loads(found.stdout)["figures"]["from"] == {"mm": 460.375, "in": 18.125, "words": "1' 6 1/8\""}
    metric = run(
        "spot", "-", "--practice", "gb", given='{"box": "dry-lining-1", "left": "619", "right": "1181"}'
    )
    assert json.loads(metric.stdout)["figures"]["to"]["words"] == "1132 mm"
    assert run("void", "-", given='{"depth": "5 1/2\\"", "lowest": "4\\""}').returncode == 1
    wrong = run("spot", "-", given='{"box": "barrel"}')
    assert wrong.returncode == 2
    assert "there is no box" in wrong.stderr
    assert run("pull", "-", given='{"legs": ["12O\\""]}').returncode == 2


@pytest.mark.parametrize("practice", available())
def test_every_box_for_old_work_is_smaller_than_its_cut_out(practice):
    for box in load(practice).catalogue.old_work:
        if box.grip == "wood":
            # It stands on the surface: only its cable goes through.
            continue
        assert box.body[0] <= box.cut[0]
        assert box.body[1] <= box.cut[1]
        assert box.board[0] <= box.board[1]
        assert box.depth > 0


# --- terminals --------------------------------------------------------------------------

OLD3 = ["black on common", "red on t1", "white on t2"]
OLD4 = ["black on in 1", "red on in 2", "blue on out 1", "white on out 2"]


def test_a_three_way_goes_by_its_common_wherever_that_stands():
    said = ask("terminals", device="three-way", old=OLD3).said[0].words
    assert "black to the common" in said
    assert "either way" in said
    right = ask("terminals", device="three-way", old=OLD3, new=["black on dark", "white on t1", "red on t2"])
    assert (right.figure("states lit"), right.fails) == (2, False)
    wrong = ask(
        "terminals", device="three-way", old=OLD3, new=["red on common", "black on t1", "white on t2"]
    )
    assert (wrong.figure("states lit"), wrong.figure("of"), wrong.fails) == (1, 4, True)


def test_com_and_l1_changed_over_on_a_two_way_plate():
    old = ["brown on COM", "black on L1", "grey on L2"]
    found = ask(
        "terminals", "gb", device="three-way", old=old, new=["black on COM", "brown on L1", "grey on L2"]
    )
    assert found.figure("states lit") == 1
    assert any("Find the common" in s.words for s in found.said)


def test_only_a_common_on_the_common_works_of_all_ways_to_land_three_wires():
    wires = [line.split(" on ")[0] for line in OLD3]
    for order in itertools.permutations(("common", "t1", "t2")):
        found = ask(
            "terminals",
            device="three-way",
            old=OLD3,
            new=[f"{w} on {t}" for w, t in zip(wires, order, strict=True)],
        )
        assert found.fails == (order[0] != "common"), order


def test_pairs_of_a_four_way_change_places_only_as_pairs():
    wires = [line.split(" on ")[0] for line in OLD4]
    for order in itertools.permutations(("in 1", "in 2", "out 1", "out 2")):
        found = ask(
            "terminals",
            device="four-way",
            old=OLD4,
            new=[f"{w} on {t}" for w, t in zip(wires, order, strict=True)],
        )
        together = {order[0][:2], order[1][:2]}
        assert found.fails == (len(together) == 2), order


def test_a_tab_left_whole_and_a_sensor_without_a_neutral():
    assert "both halves are always on" in ask("terminals", device="half outlet", tab="whole").said[0].words
    short = ask("terminals", device="half outlet", tab="whole", two_circuits=True)
    assert tones(short) == ["danger"]
    assert "240 V" in short.said[0].words
    sensor = ask("terminals", device="sensor", neutral="no")
    assert sensor.fails
    assert not any("ground" in s.words for s in sensor.said if s.tone == "advice")
    assert ask("terminals", device="protective", tab="broken").fails
    assert (
        "a joint"
        in ask("terminals", device="single-pole", old=["black on a", "red on b", "blue on a"]).said[1].words
    )


@pytest.mark.parametrize(
    "bad",
    [
        [],
        ["black"],
        ["black on top"],
        ["black on common"],
        ["black on common", "red on common", "white on t1"],
    ],
)
def test_wires_that_are_not_all_told_are_asked_for(bad):
    with pytest.raises(NotAsked):
        ask("terminals", device="three-way", old=bad)


# --- a fitting in its place -------------------------------------------------------------


def test_a_fan_on_a_cable_of_two_takes_no_plain_speed_control_and_dimmer():
    found = ask("fan", cable="two-wire", wish="speed and dimmer")
    assert found.fails
    assert any("receiver" in s.words for s in found.said)
    assert any("new cable of three" in s.words for s in found.said)
    three = ask("fan", cable="three-wire", wish="speed and dimmer")
    assert not three.fails
    assert "black to the fan" in three.said[0].words
    assert "brown to the fan" in ask("fan", "gb", cable="three-wire", wish="two switches").said[0].words
    assert not ask("fan", cable="loop", wish="remote").fails


@given(st.floats(0, 5), st.floats(0, 5), st.floats(0.1, 5), st.floats(26, 90))
def test_the_heat_that_leaves_a_shaft_is_that_of_its_walls_one_by_one(bare, single, insulated, limit):
    found = ask("shaft", "gb", bare=bare, single=single, insulated=insulated, limit=limit)
    alone = sum(
        ask("shaft", "gb", **{name: area}, limit=limit).figure("watts at most")
        for name, area in (("bare", bare), ("single", single), ("insulated", insulated))
        if area
    )
    assert found.figure("watts at most") == pytest.approx(alone)
    feet = ask(
        "shaft",
        bare=bare / 0.09290304,
        single=single / 0.09290304,
        insulated=insulated / 0.09290304,
        limit=limit,
    )
    assert feet.figure("watts at most") == pytest.approx(alone)


def test_a_shaft_is_an_estimate_and_the_maker_decides():
    found = ask("shaft", "gb", bare=1.0, watts=40)
    assert found.figure("watts at most") == pytest.approx(37.5)
    assert tones(found) == ["advice", "ask"]
    assert "more than" in found.said[0].words
    for bad in ({}, {"bare": 1.0, "limit": 20.0}, {"bare": -1.0}):
        with pytest.raises(NotAsked):
            ask("shaft", **bad)


def test_two_short_cables_on_an_outlet_make_three_joints_of_three_and_take_no_volume():
    found = ask("short", free='4"', sheath='1/4"', cables=2)
    assert (found.figure("joints"), found.figure("ends in each")) == (3, 3)
    assert "take no volume" in found.said[-1].words
    fill = ask("fits", volume=18.0, devices=1, cables=["14/2", "14/2"])
    assert fill.figure("needed as found, in³") == pytest.approx(14.0)
    with pytest.raises(NotAsked):
        ask("short", free='4"', cables=99)
