"""Outside, by water and on loose splices: what must be, what may not, and what is still to be asked."""

import itertools

import pytest

from fjeld.concealed.cut import place
from fjeld.drawing.errand import Errand, Spot
from fjeld.judge.answer import NotAsked
from fjeld.practice import load
from fjeld.quantities import FOOT, INCH, Length
from tests.core.test_finished import ask, tones


def words(answer):
    return " | ".join(s.words for s in answer.said)


# --- by water --------------------------------------------------------------------------


def test_no_outlet_hanging_light_or_fan_stands_over_a_tub_or_beside_it():
    """Against the space itself, walked through on a grid: three feet around, eight feet up from the rim."""
    for what, away, up in itertools.product(
        ("outlet", "hanging light", "fan"), range(0, 60, 6), range(0, 120, 12)
    ):
        found = ask("water", what=what, by="tub", away=f'{away}"', up=f'{up}"')
        inside = away < 36 and up < 96
        assert tones(found) == ["fails" if inside else "passes"], (what, away, up)


def test_how_high_it_is_clears_nothing_until_somebody_says_it():
    assert tones(ask("water", what="fan", by="shower", away='24"')) == ["fails"]
    assert tones(ask("water", what="switch", by="tub", away="0")) == ["fails"]
    assert tones(ask("water", what="switch", by="tub", away='2"')) == ["passes"]
    assert tones(ask("water", what="light", by="shower", away="0")) == ["needs"]
    assert tones(ask("water", what="outlet", by="basin", away='12"')) == ["needs"]
    with pytest.raises(NotAsked, match="away: not measured"):
        ask("water", what="fan", away="?")


@pytest.mark.parametrize(
    ("what", "by", "away", "up", "tone", "said"),
    [
        ("outlet", "tub", "2499 mm", None, "fails", "2500 mm from zone 1"),
        ("outlet", "tub", "2500 mm", None, "passes", "2500 mm"),
        ("outlet", "shower without tray", "3699 mm", None, "fails", "zone 1"),
        ("outlet", "shower without tray", "3700 mm", None, "passes", "zone 1"),
        ("light", "tub", "0", None, "needs", "Zone 1: IPX4"),
        ("light", "tub", "599 mm", None, "needs", "Zone 2: IPX4"),
        ("light", "tub", "600 mm", None, "passes", "Outside the zones"),
        ("light", "tub", "0", "2251 mm", "passes", "Outside the zones"),
        ("switch", "shower", "300 mm", None, "fails", "Zone 2"),
        ("light", "shower without tray", "1198 mm", None, "needs", "Zone 1"),
        ("light", "shower without tray", "1200 mm", None, "passes", "Outside"),
        ("light", "shower without tray", "1300 mm", None, "passes", "Outside"),
        ("outlet", "basin", "200 mm", None, "advice", "300 mm"),
    ],
)
def test_british_zones(what, by, away, up, tone, said):
    found = ask("water", "gb", what=what, by=by, away=away, **({"up": up} if up else {}))
    assert tones(found) == [tone]
    assert said in words(found)


def test_water_by_the_spot_shuts_the_cut_or_says_what_it_must_be():
    looked = {
        "other side": "clear",
        "pocket door": "clear",
        "duct": "clear",
        "old coat": "clear",
        "header": "clear",
        "water": "there",
    }
    spot = Spot(surface="wall", seen=looked)
    first = place(Errand("outlet", spot=spot), load("na"))
    assert any("look them up" in s.words for s in first.said)
    assert {"by_water", "from_water"} <= {*first.open}
    near = place(
        Errand("outlet", spot=Spot(surface="wall", seen=looked, by_water="tub", from_water=Length(2 * FOOT))),
        load("na"),
    )
    assert any("3'" in s.words for s in near.stops)
    far = place(
        Errand("outlet", spot=Spot(surface="wall", seen=looked, by_water="tub", from_water=Length(4 * FOOT))),
        load("na"),
    )
    assert not far.stops
    dry = place(Errand("outlet", spot=Spot(surface="wall", seen={**looked, "water": "clear"})), load("na"))
    assert not {"by_water", "from_water"} & {a.id for a in dry.asks}


# --- outside ---------------------------------------------------------------------------


def test_a_roof_as_deep_as_it_is_high_may_keep_rain_off():
    for roof, above in itertools.product((0, 12, 24, 48), (12, 24, 36)):
        found = ask("outdoors", roof=f'{roof}"', above=f'{above}"')
        wet = next(s for s in found.said if "damp" in s.words or "wet places" in s.words)
        assert wet.tone == ("ask" if roof and roof >= above else "needs"), (roof, above)
    assert "how high is it" in words(ask("outdoors", roof='24"'))


def test_an_outlet_outside_is_protected_covered_and_low_enough_to_count():
    found = ask("outdoors", what="outlet", height="6' 7\"")
    assert "weather-resistant" in words(found)
    assert "closes over a plug" in words(found)
    assert "does not count" in words(found)
    assert "does not count" not in words(ask("outdoors", what="outlet", height="6' 6\""))
    assert "weather-resistant" not in words(ask("outdoors", what="light"))


def test_what_feeds_it_is_looked_at():
    assert "fails" in tones(ask("outdoors", circuit="bathroom"))
    assert "what is extended from that room may" in words(ask("outdoors", inside="bed"))
    british = words(ask("outdoors", "gb", circuit="ring"))
    for said in ("IP44", "30 mA", "gland", "fused unit", "drains"):
        assert said in british


def test_the_spot_of_an_outside_errand_says_what_it_must_be():
    asks = {a.id for a in place(Errand("outdoors"), load("na")).asks}
    assert {"outside", "roof", "above"} <= asks
    assert not {"outside", "roof", "above"} & {a.id for a in place(Errand("light"), load("na")).asks}
    told = place(Errand("outdoors", spot=Spot(outside="outlet")), load("na"))
    assert any("weather-resistant" in s.words for s in told.said)


def test_a_chain_says_where_it_stops_and_rods_say_at_what():
    for went in range(0, 97, 8):
        found = ask("sounding", depth='96"', went=f'{went}"')
        assert found.figure("stops above the foot") == pytest.approx((96 - went) * INCH)
        assert tones(found) == ["passes" if went == 96 else "ask"]
    assert tones(ask("sounding", depth='96"', went='95 1/2"')) == ["passes"], "a tape is no better than that"
    assert tones(ask("sounding", depth='96"', went='40"', across="yes")) == ["fails"]
    assert "a wire or a pipe" in words(ask("sounding", depth='96"', went='40"', across="no")).lower()
    with pytest.raises(NotAsked, match="no farther"):
        ask("sounding", depth='96"', went='100"')


# --- joined outside a box, and in conduit ---------------------------------------------------


def test_a_loose_splice_takes_one_box_where_both_ends_reach():
    assert "One box takes both ends" in words(ask("splice", one='6"', other='7"'))
    both = ask("splice", one='3"', other='4"')
    assert both.figure("lacks") == pytest.approx(5 * INCH)
    assert "Both ends are too short: two boxes" in words(both)
    assert "One end is too short" in words(ask("splice", one='3"', other='8"'))
    assert "the slack is pulled in first" in words(ask("splice", one='3"', other='8"', slack='3"'))
    burnt = ask("splice", one='8"', other='8"', burnt=True)
    assert tones(burnt) == ["danger"]
    assert "comes out" in words(burnt)


def test_flexible_conduit_takes_so_many_wires_and_turns_no_further():
    assert tones(ask("conduit", way="5'", amps=20)) == ["passes", "needs"]
    assert tones(ask("conduit", way="8'", amps=20, wires=9, gauge="12")) == ["fails", "passes", "needs"]
    assert tones(ask("conduit", way="5'", amps=20, wires=10, gauge="12", bends=370)) == [
        "passes",
        "fails",
        "fails",
        "needs",
    ]
    assert tones(ask("conduit", "gb", way="1 m", amps=6)) == ["fails"]
