"""Judgements at the very edge of their limits, and figures in their words, reckoned by hand."""

import msgspec
import pytest

from fjeld.judge import devices, fits, rooms, spot, terminals, water, ways, wires, wood, work
from fjeld.judge.answer import NotAsked
from fjeld.judge.figured import BEYOND, Figured, bad, through
from fjeld.judge.fill import Contents, Yoke, fill, with_reserve
from fjeld.judge.volts import (
    DEAD_BELOW,
    LIVE_SHARE,
    SAME_SHARE,
    SAME_WITHIN,
    THROUGH_ABOVE,
    Volts,
    impossible,
    through_a_load,
)
from fjeld.practice import load, rules
from fjeld.quantities import INCH, Length, format_length

NA, GB = load("na"), load("gb")


def inches(value):
    return Length(value * INCH)


def said(answer):
    return " ".join(s.words for s in answer.said)


def tones(answer):
    return [s.tone for s in answer.said]


# --- figures of a test ----------------------------------------------------------------------


def test_beyond_the_range_is_beyond_only_where_more_is_better():
    insulation = Figured("megohms", "insulation", "MΩ", least=1.0)
    assert insulation.read("OL") == insulation.read("ol") == BEYOND
    assert insulation.read(" 12 MΩ ") == 12.0
    assert insulation.read("> 999") == 999.0
    ohms = Figured("ohms", "loop", "Ω", most=2.0)
    with pytest.raises(NotAsked):
        ohms.read("OL")


def test_a_ground_may_read_what_the_way_comes_to_and_what_is_beside_it():
    beside = through().beside
    assert beside > 0
    assert bad("R7", {"ohms": 1.0 + beside, "expected": 1.0}) == ""
    assert "it is none" in bad("R7", {"ohms": 1.0 + beside + 0.01, "expected": 1.0})
    assert "tied together" in bad("R7", {"volts": 0.0})
    assert bad("R7", {"volts": 0.01}) == ""


# --- volume ---------------------------------------------------------------------------------


def test_grounds_over_four_are_said_as_many_as_they_are():
    needed = fill(Contents(grounds=("14",) * 7, ground_school="quarter-beyond-four"), NA)
    rows = {line.what: line for line in needed.lines}
    assert rows["3 more grounds, a quarter each"].count == 0.75
    assert rows["grounds, first 4 as one"].count == 1
    fewer = fill(Contents(grounds=("14",) * 4, ground_school="quarter-beyond-four"), NA)
    assert len(fewer.lines) == len(needed.lines) - 1


# --- terminals ------------------------------------------------------------------------------


def test_a_three_way_put_back_wrongly_is_said_in_how_many_states():
    old = ("black on common", "red on t1", "white on t2")
    swapped = ("red on common", "black on t1", "white on t2")
    wrong = terminals.terminals(terminals.TerminalsAsked("three-way", old, swapped), NA)
    figures = {f.name: f.value for f in wrong.figures}
    assert figures["of"] == 4
    assert figures["meant"] == 2
    assert f"Lit in {figures['states lit']:.0f} of 4 states instead of 2" in said(wrong)
    right = terminals.terminals(terminals.TerminalsAsked("three-way", old, old), NA)
    assert "Lit in 2 of 4 states" in said(right)


# --- ways -----------------------------------------------------------------------------------


def test_at_an_eave_the_drill_stands_where_the_roof_is_high_enough():
    # 4 in of heel and 4 in 12: 16 in of height come after 12 × 12 / 4 = 36 in.
    found = ways.eave(ways.EaveAsked(inches(4), 4.0, inches(5.5), inches(16)), NA)
    figures = {f.name: f.value for f in found.figures}
    assert figures["stands from the outer edge"] == pytest.approx(36 * INCH)


def test_a_box_deeper_than_leaf_and_cavity_is_said_by_how_much():
    asked = ways.MasonryAsked(
        depth=Length(47.0),
        bit=Length(10.0),
        wide=Length(75.0),
        high=Length(75.0),
        leaf=Length(30.0),
        cavity=Length(10.0),
    )
    found = ways.masonry(asked, GB)
    # 47 of depth, 30 of leaf and 10 of void.
    assert "7 mm deeper than the leaf and the void" in said(found)


# --- wires ----------------------------------------------------------------------------------


def test_the_end_goes_along_with_its_box_by_what_slack_there_is():
    """A way that grows by an inch takes an inch of the wire past the face, which slack gives back."""
    past = NA[rules.PAST_FACE]
    long = Length(600.0)
    grown = wires.ReachAsked(
        long, Length(0.0), inches(1), past=Length(past), slack=inches(1), sheath=inches(1)
    )
    assert wires.reach(grown, NA).said[0].tone == "passes"
    short = wires.ReachAsked(
        long, Length(0.0), inches(1.1), past=Length(past), slack=inches(1), sheath=inches(1)
    )
    assert wires.reach(short, NA).said[0].tone != "passes"


def test_a_wire_as_long_as_a_connector_wants_can_be_joined():
    least = NA[rules.CONNECTOR_WIRE][0]
    assert tones(wires.short(wires.ShortAsked(Length(least - 0.5)), NA))[0] == "fails"
    assert "No connector" not in said(wires.short(wires.ShortAsked(Length(least)), NA))


def test_what_a_neutral_drops_is_reckoned_by_its_length():
    gauge = next(g for g in NA.catalogue.gauges if g.id == "14")
    found = wires.ground(wires.GroundAsked(10.0, Length(30_000.0), "14"), NA)
    assert found.workings[0].total == pytest.approx(10.0 * 30.0 * gauge.cold, rel=1e-9)
    drop, (tied, loose) = found.workings[0].total, NA[rules.NEUTRAL_DROP]

    def tone(volts):
        return tones(wires.ground(wires.GroundAsked(10.0, Length(30_000.0), "14", volts), NA))[0]

    assert tone(tied * drop * 0.999) == "danger"
    assert tone(tied * drop) == "passes"
    assert tone(loose * drop) == "passes"
    assert tone(loose * drop * 1.001) == "danger"


# --- wood and walls -------------------------------------------------------------------------


def test_a_stud_as_thin_as_furring_has_no_share_to_keep_and_a_thicker_one_has():
    furring = NA[rules.FURRING]
    assert wood.bored("stud", furring, 10.0, NA).most is None
    assert wood.bored("stud", furring + 0.1, 10.0, NA).most is not None


def test_a_bar_wants_both_its_members():
    barred = next(b for b in NA.catalogue.old_work if b.spans is not None)
    for left, right in ((inches(10), None), (None, inches(24))):
        found = spot.spot(spot.SpotAsked(box=barred.id, left=left, right=right), NA)
        assert "find both members" in said(found)
    both = spot.spot(spot.SpotAsked(box=barred.id, left=inches(10), right=inches(26)), NA)
    assert "find both members" not in said(both)


def test_a_box_that_just_fits_its_cavity_has_no_room_for_a_cable_and_is_not_too_deep():
    box = next(b for b in NA.catalogue.old_work if b.spans is None)
    behind = box.depth - 12.5
    just = spot.SpotAsked(box=box.id, surface=Length(12.5), cavity=Length(behind), left=inches(4))
    assert "no room behind it" in said(spot.spot(just, NA))
    less = spot.SpotAsked(box=box.id, surface=Length(12.5), cavity=Length(behind - 1.0), left=inches(4))
    assert "too deep for the wall" in said(spot.spot(less, NA))


def test_a_loop_may_read_its_share_of_what_the_table_has_and_no_more():
    share = 0.8
    assert bad("R20", {"loop": share * 1.37, "most": 1.37}) == ""
    assert "over 0.8 of the 1.37" in bad("R20", {"loop": share * 1.37 + 0.001, "most": 1.37})
    assert bad("R20", {"loop": 99.0}) == "", "nobody has said what its table has"


def test_the_nearest_place_for_a_middle_is_the_end_that_it_is_beyond():
    box = next(b for b in NA.catalogue.old_work if not b.on_member and b.spans is None)
    asked = spot.SpotAsked(box=box.id, left=inches(10), right=inches(24.5), wished=inches(30))
    figures = {f.name: f.value for f in spot.spot(asked, NA).figures}
    assert figures["nearest"] == pytest.approx(figures["to"])
    asked = spot.SpotAsked(box=box.id, left=inches(10), right=inches(24.5), wished=inches(5))
    assert {f.name: f.value for f in spot.spot(asked, NA).figures}["nearest"] == pytest.approx(
        figures["from"]
    )


def test_a_saw_starts_half_a_bit_inside_the_corners():
    square = next(b for b in NA.catalogue.old_work if not b.round)
    right, up = spot.starting_holes(square, 10.0)
    assert (2 * right + 10.0, 2 * up + 10.0) == pytest.approx(square.cut)
    ring = next(b for b in NA.catalogue.old_work if b.round)
    right, up = spot.starting_holes(ring, 10.0)
    # On the circle that the bit's middle runs along, half way round a quarter.
    assert (right**2 + up**2) ** 0.5 == pytest.approx((ring.cut[0] - 10.0) / 2)


def test_a_four_way_is_tried_in_eight_states_and_asks_for_every_wire():
    old = ("a on a1", "b on a2", "c on b1", "d on b2")
    right = terminals.terminals(terminals.TerminalsAsked("four-way", old, old), NA)
    figures = {f.name: f.value for f in right.figures}
    assert (figures["states lit"], figures["meant"], figures["of"]) == (4, 4, 8)
    assert "Lit in 4 of 8 states" in said(right)
    crossed = ("a on a1", "c on a2", "b on b1", "d on b2")
    wrong = terminals.terminals(terminals.TerminalsAsked("four-way", old, crossed), NA)
    assert "of 8 states instead of 4" in said(wrong)
    for new in (("a on a1", "b on a2", "c on b1", "e on b2"), ("a on a1", "b on a1", "c on b1", "d on b2")):
        with pytest.raises(NotAsked):
            terminals.terminals(terminals.TerminalsAsked("four-way", old, new), NA)


def test_two_circuits_on_one_outlet_stand_twice_the_volts_apart():
    asked = terminals.TerminalsAsked("half outlet", tab="whole", two_circuits=True)
    figures = {f.name: f.value for f in terminals.terminals(asked, NA).figures}
    assert figures["volts between the two"] == 240.0


def test_what_stays_under_a_load_stands_behind_something_only_below_its_share():
    share = LIVE_SHARE
    assert not through_a_load(Volts(THROUGH_ABOVE, THROUGH_ABOVE))
    assert through_a_load(Volts(THROUGH_ABOVE, THROUGH_ABOVE * 0.999))
    assert not through_a_load(Volts(120.0, 120.0 * share))
    assert through_a_load(Volts(120.0, 120.0 * share - 0.01))


def test_over_a_tray_what_is_below_its_rim_is_in_it_and_what_is_above_is_not():
    assert water.bath_zone(-50.0, 300.0, GB, rim=500.0) == 0
    assert water.bath_zone(-50.0, 500.0, GB, rim=500.0) == 1
    assert water.bath_zone(-50.0, 700.0, GB, rim=500.0) == 1


def test_a_patch_is_backed_by_two_strips():
    asked = work.PatchAsked(Length(300.0), Length(200.0))
    figures = {f.name: f.value for f in work.patch(asked, GB).figures}
    less, more = GB[rules.PATCH_PIECE]
    assert figures["strips"] == 2
    assert (figures["piece wide"], figures["piece high"]) == (300.0 - less, 200.0 - less)
    assert figures["backing"] == 200.0 + more


def test_as_many_wires_as_a_conduit_takes_pass_and_one_more_does_not():
    gauge, most = next(iter(NA[rules.CONDUIT_WIRES].items()))

    def tone(wires_):
        asked = devices.ConduitAsked(way=inches(24), amps=15.0, wires=wires_, gauge=gauge)
        words = f"{wires_} wires of {gauge} where half an inch takes {most}"
        return next(s.tone for s in devices.conduit(asked, NA).said if words in s.words)

    assert tone(most) == "passes"
    assert tone(most + 1) == "fails"


def test_a_reserve_is_one_cable_more():
    more = with_reserve(Contents(cables=2, grounds=("14",)), "12", 3)
    assert (more.cables, more.grounds) == (3, ("14", "12"))
    assert fill(more, GB).total == fill(Contents(cables=2), GB).total + 1


def test_only_a_yoke_over_several_gangs_says_so():
    words = [line.what for line in fill(Contents(yokes=(Yoke("14"), Yoke("14", 2))), NA).lines]
    assert words == ["device yoke", "device yoke over 2 gangs"]


def test_what_keeps_its_share_under_a_load_is_hot_at_any_voltage():
    assert Volts(120.0).shows(120.0) == "hot"
    assert Volts(120.0 * LIVE_SHARE).shows(120.0) == "hot"
    assert Volts(120.0 * LIVE_SHARE - 0.1).shows(120.0) == "unsure"
    assert Volts(120.0, 120.0 * LIVE_SHARE).shows(120.0) == "hot"
    assert Volts(120.0, 120.0 * LIVE_SHARE - 0.1).shows(120.0) == "load"
    assert Volts(THROUGH_ABOVE, 10.0).shows(120.0) == "load"
    assert Volts(THROUGH_ABOVE - 0.1, 10.0).shows(120.0) == "unsure"


def test_a_pair_that_still_carries_something_under_a_load_is_live():
    assert work.read_pair("a / b", DEAD_BELOW, DEAD_BELOW).tone == "danger"
    assert work.read_pair("a / b", DEAD_BELOW, DEAD_BELOW - 0.1).tone != "danger"
    assert "through a load" in work.read_pair("a / b", 100.0, 40.0).words
    assert "through a load" not in work.read_pair("a / b", 120.0, 119.0).words


def test_a_load_adds_no_volts_but_for_what_a_meter_is_off_by():
    assert impossible(Volts(0.0, SAME_WITHIN)) == ""
    assert impossible(Volts(0.0, SAME_WITHIN + 0.1))
    assert (SAME_WITHIN, SAME_SHARE) == (2.0, 0.05)
    assert impossible(Volts(120.0, 126.0)) == ""
    assert impossible(Volts(120.0, 126.1))


def test_a_protective_device_is_warned_of_in_a_small_box_and_in_a_full_one():
    room = NA[rules.ELECTRONIC_ROOM]

    def warned(volume, cables):
        asked = fits.FitsAsked(cables=("14/2",) * cables, volume=volume, devices=1, protective=True)
        return "twice the body" in said(fits.fits(asked, NA))

    assert warned(room, 1)
    assert not warned(room + 10.0, 1)
    five = fits.fits(fits.FitsAsked(cables=("14/2",) * 5, volume=60.0, devices=1), NA)
    full = next(f.value for f in five.figures if f.name.startswith("needed after"))
    assert full > room
    assert warned(full, 5)
    assert not warned(full + 1.0, 5)


def test_one_boxs_device_has_eight_cables_at_most():
    wires.short(wires.ShortAsked(inches(4), cables=8), NA)
    for cables in (-1, 9):
        with pytest.raises(NotAsked):
            wires.short(wires.ShortAsked(inches(4), cables=cables), NA)


def test_what_meters_show_is_told_apart_at_set_voltages():
    assert (DEAD_BELOW, THROUGH_ABOVE, LIVE_SHARE) == (5.0, 30.0, 0.9)
    assert Volts(4.99).shows(120.0) == "dead"
    assert Volts(5.0).shows(120.0) == "unsure"


def test_a_weight_is_said_both_ways():
    figures = {f.name: f.value for f in devices.hangs(devices.HangsAsked("light", lb=50.0), NA).figures}
    assert figures["weight, lb"] == pytest.approx(50.0)
    assert figures["weight, kg"] == pytest.approx(22.6796, abs=1e-3)


def test_a_room_that_is_none_is_named_in_forty_letters():
    with pytest.raises(NotAsked) as refused:
        rooms.use_of("x" * 60)
    assert "“" + "x" * 40 + "”" in str(refused.value)


def test_from_a_middle_to_a_member_is_by_whichever_is_wider_and_by_the_body_where_neither_is():
    box = next(b for b in NA.catalogue.old_work if b.spans is None)
    swings = msgspec.structs.replace(box, throw=10.0, body=(60.0, 90.0), cut=(52.0, 80.0))
    assert spot.half(swings, 6.0).lines[0].what == "body"
    assert spot.half(swings, 5.9).lines[0].what == "cut-out"
    assert spot.half(swings, 6.0).total == 36.0


def test_a_bar_says_what_is_clear_between_its_members():
    barred = next(b for b in NA.catalogue.old_work if b.spans is not None)
    clear = sum(barred.spans) / 2
    asked = spot.SpotAsked(box=barred.id, left=Length(200.0), right=Length(200.0 + clear))
    assert f"{format_length(clear, NA.unit)} are clear" in said(spot.spot(asked, NA))


def test_an_old_cable_says_how_much_it_has_to_spare():
    wanted = NA[rules.FREE_CONDUCTOR] + NA[rules.SHEATH_INSIDE]
    asked = wires.ReachAsked(Length(wanted + 2 * INCH), Length(0.0), Length(0.0))
    found = wires.reach(asked, NA)
    assert {f.name: f.value for f in found.figures}["wanted"] == wanted
    assert 'with 2" to spare' in said(found)


def test_a_wire_that_slack_does_not_bring_far_enough_lacks_the_rest():
    past = NA[rules.PAST_FACE]
    asked = wires.ShortAsked(inches(8), past=Length(past - 2 * INCH), slack=inches(0.5))
    assert '1 1/2" too short past the face' in said(wires.short(asked, NA))


def test_an_eave_with_just_enough_room_says_no_other_place():
    head = ways.eave(ways.EaveAsked(inches(10), 6.0, inches(5.5), inches(1)), NA).figures[0].value
    assert len(ways.eave(ways.EaveAsked(inches(10), 6.0, inches(5.5), Length(head)), NA).figures) == 1
    assert len(ways.eave(ways.EaveAsked(inches(10), 6.0, inches(5.5), Length(head + 1)), NA).figures) == 2
