"""Ways of a cable: every chain against a brute force, worked lengths, what blocks them, what goes along."""

from itertools import pairwise, permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.concealed import routes as ways
from fjeld.concealed.between import WaysAsked
from fjeld.concealed.between import ways as ways_between
from fjeld.concealed.ground import ground_of
from fjeld.concealed.path import path
from fjeld.concealed.polyline import polyline
from fjeld.drawing.errand import Errand, Spot, Way
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.judge.answer import NotAsked
from fjeld.practice import Amendment, load, rules
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import INCH, Length, parse_length
from fjeld.work.carry import carry
from tests.often import often

NA, GB = load("na"), load("gb")


def box(place="switch", **more):
    return OldBox(Handle("R1"), place=place, **more)


def ground(errand, place="switch", practice="na"):
    return ground_of(errand, box(place), load(practice))


def keys(errand, place="switch", practice="na"):
    return {r.key for r in ways.routes(ground(errand, place, practice))}


MEASURED = Way(
    lies="across the joists",
    joists=4,
    across=parse_length("14'"),
    source=parse_length('46"'),
    ceiling=parse_length('96 5/8"'),
)


def test_up_one_bay_and_over_the_attic_to_a_light():
    found = path(Errand("light", attic=True, spot=Spot("ceiling"), way=MEASURED), box(), NA)
    assert found.chosen.key == ("P1", "P8")
    assert sum(length.mm for length in found.chosen.lengths) == pytest.approx(221.625 * INCH)
    assert found.pull.figure("exact") == pytest.approx(276.70625 * INCH)
    assert found.pull.figure("cut") == pytest.approx(282 * INCH)
    assert (found.chosen.holes, found.chosen.patches, found.chosen.hands, found.chosen.fills) == (1, 0, 2, 1)
    assert found.chosen.minutes.total == 35 + 20 + 3 * 4


def test_the_same_in_millimetres():
    way = Way(
        lies="across the joists", joists=5, across=Length(3600), source=Length(1100), ceiling=Length(2400)
    )
    found = path(Errand("light", attic=True, spot=Spot("ceiling"), way=way), box(), GB)
    assert found.pull.figure("way") == pytest.approx(5000)
    assert found.pull.figure("cut") == pytest.approx(6300)


def test_along_the_foot_of_a_wall_here_and_not_there():
    way = Way(lies="same wall", studs=5, across=parse_length('80"'), source=parse_length('15"'), base=True)
    errand = Errand("outlet", spot=Spot("wall", height=parse_length('15"')), way=way)
    here = next(r for r in ways.routes(ground(errand, "outlet")) if r.key == ("P6",))
    assert (here.steel, here.holes, here.patches) == (5, 0, 0)
    assert here.minutes.total == 25 + 6 * 5
    assert ("P6",) not in keys(errand, "outlet", "gb")
    refused = ways.refused(ground(errand, "outlet", "gb"), ways.routes(ground(errand, "outlet", "gb")))
    assert (
        next(r.why for r in refused if r.way.id == "P6")
        == "along the foot of a wall is no zone for a hidden cable"
    )


FACTS = st.builds(
    Errand,
    st.sampled_from(["light", "outlet", "outdoors"]),
    st.booleans(),
    st.booleans(),
    spot=st.builds(
        Spot,
        st.sampled_from(["", "wall", "ceiling"]),
        st.sampled_from(["", "wallboard", ways.MASONRY]),
        height=st.sampled_from([None, Length(300), Length(1200)]),
        cavity=st.sampled_from([None, Length(90)]),
    ),
    way=st.builds(
        Way,
        st.sampled_from(["", *ways.ON_WALLS, *ways.ON_CEILINGS]),
        st.sampled_from([None, 0, 3]),
        st.sampled_from([None, 0, 4]),
        st.sampled_from([None, Length(2000)]),
        st.sampled_from([None, Length(1100)]),
        st.sampled_from([None, Length(2400)]),
        insulated=st.sampled_from([None, True, False]),
        base=st.sampled_from([None, True, False]),
        seen=st.dictionaries(
            st.sampled_from([*(b.id for b in way_data().blocker), "closet"]),
            st.sampled_from(["clear", "there"]),
        ),
    ),
)
PLACES = st.sampled_from(["switch", "outlet", "ceiling", "junction"])
PRACTICES = st.sampled_from(["na", "gb"])


@often(150)
@given(FACTS, PLACES, PRACTICES)
def test_every_chain_is_found_and_no_other(errand, place, practice):
    """Against every order of the places between, with every way that joins each two."""
    here = ground(errand, place, practice)
    legs = [*ways._from_outside(here), *ways._within(here), *ways._surface(here), *ways._last(here)]
    between = {n for leg in legs for n in (leg.a, leg.b)} - {ways.SOURCE, ways.SPOT}
    wanted = []
    for n in range(len(between) + 1):
        for middle in permutations(sorted(between), n):
            chains = [()]
            for a, b in pairwise((ways.SOURCE, *middle, ways.SPOT)):
                chains = [(*c, leg.way.id) for c in chains for leg in legs if {leg.a, leg.b} == {a, b}]
            wanted += [tuple(w for w in c if w) for c in chains]
    assert sorted(r.key for r in ways.routes(here)) == sorted(wanted)


@often(150)
@given(FACTS, PLACES, PRACTICES)
def test_a_length_is_that_of_the_line_it_is_drawn_as(errand, place, practice):
    here = ground(errand, place, practice)
    for route in ways.routes(here):
        # What goes through a wall goes into the page.
        if route.lengths is None or {"P4", "P14"} & {*route.key}:
            continue
        points = polyline(route, here)
        drawn = sum(abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in pairwise(points))
        across = errand.way.across
        if across is None:
            drawn -= max(x for x, _ in points)
        assert sum(length.mm for length in route.lengths) == pytest.approx(drawn, abs=0.01), route.key


@often(100)
@given(FACTS, PLACES, PRACTICES)
def test_there_is_always_a_way_and_each_that_is_not_has_its_reason(errand, place, practice):
    here = ground(errand, place, practice)
    found = ways.routes(here)
    assert ("P13",) in {r.key for r in found}, "on the surface one can always go"
    used = {w for r in found for w in r.key}
    said = {r.way.id for r in ways.refused(here, found)}
    assert used | said == {w.id for w in way_data().way}
    assert not used & said
    ranked = [
        (bool(r.blocked), any(leg.way.in_sight for leg in r.legs), bool(r.wants), r.minutes.total)
        for r in found
    ]
    assert ranked == sorted(ranked)


@often(60)
@given(FACTS, PLACES, PRACTICES)
def test_what_is_looked_for_and_found_blocks_every_way_that_minds_it(errand, place, practice):
    before = ways.routes(ground(errand, place, practice))
    for blocker in way_data().blocker:
        there = replace(errand, way=replace(errand.way, seen={**errand.way.seen, blocker.id: "there"}))
        for route in ways.routes(ground(there, place, practice)):
            minds = any(blocker.id in leg.way.blockers for leg in route.made)
            assert not minds or route.blocked
    assert {r.key for r in before} == {r.key for r in ways.routes(ground(errand, place, practice))}


def test_questions_come_until_the_way_is_known_and_then_stop():
    errand = Errand("outlet", below=True, spot=Spot("wall", height=parse_length('15"')))
    told, asked = errand.way, []
    answers = {
        "lies": "elsewhere",
        "across": parse_length("9'"),
        "source": parse_length('15"'),
        "ceiling": parse_length("8'"),
        "insulated": False,
        "base": True,
        "studs": 3,
        "joists": 4,
    }
    while (ask := path(replace(errand, way=told), box("outlet"), NA).next) is not None:
        assert ask.id not in asked
        asked.append(ask.id)
        told = (
            replace(told, seen={**told.seen, ask.id: "clear"})
            if ask.kind == "seen"
            else replace(told, **{ask.id: answers[ask.id]})
        )
    found = path(replace(errand, way=told), box("outlet"), NA)
    assert found.open == ()
    assert found.chosen.key == ("P2", "P0", "P2")
    assert not found.chosen.wants
    assert not found.chosen.looks
    assert found.pull is not None


def test_a_way_that_was_taken_and_is_blocked_since_is_said_to_be_lost():
    taken = replace(MEASURED, chosen=("P1", "P8"))
    errand = Errand("light", attic=True, spot=Spot("ceiling"), way=taken)
    assert path(errand, box(), NA).picked
    blocked = path(replace(errand, way=replace(taken, seen={"block": "there"})), box(), NA)
    assert blocked.chosen.blocked == "a block across the bay"
    gone = path(replace(errand, attic=False), box(), NA)
    assert gone.lost
    assert gone.chosen.key != ("P1", "P8")


def test_what_goes_up_comes_from_the_way_and_each_thing_once():
    errand = Errand("light", attic=True, spot=Spot("ceiling", "plaster on wood lath"), way=MEASURED)
    found = path(errand, box(), NA)
    things = carry(errand, found.chosen, found.pull.figure("cut"), NA)
    names = [c.what for c in things]
    assert len(names) == len(set(names))
    assert 'a 3/4" bit, 5" long or more' in names, "double plate, and two inches"
    assert any("chain" in n for n in names)
    assert any("carbide" in n for n in names)
    staples = next(c for c in things if c.what == "staples")
    # 14 ft, a foot from each end and at every 4 1/2 ft between: at 1, 5, 9 and 13 ft; and a fifth over.
    assert staples.count == 5
    closer = carry(errand, found.chosen, None, NA.amended((Amendment("support-interval", 24.0, "here"),)))
    assert next(c.count for c in closer if c.what == "staples") > staples.count, "the rule's own interval"
    below = Errand("outlet", below=True, spot=Spot("wall"))
    assert not any("chain" in c.what for c in carry(below, path(below, box("outlet"), NA).chosen, None, NA))
    metric = carry(errand, path(errand, box(), GB).chosen, None, GB)
    assert any("18 mm bit, 150 mm long" in c.what for c in metric)
    assert not any('"' in c.what for c in metric)


def test_the_same_as_a_single_question():
    looked = ("block", "insulation", "header", "duct", "storage floor", "blocking")
    asked = WaysAsked(
        "wall",
        "ceiling",
        attic=True,
        lies="across the joists",
        joists=4,
        across=parse_length("14'"),
        source_height=parse_length('46"'),
        ceiling=parse_length('96 5/8"'),
        clear=looked,
    )
    found = ways_between(asked, NA)
    assert found.figure("minutes") == 67
    assert found.figure("cut") == pytest.approx(282 * INCH)
    assert found.said[0].tone == "passes"
    assert "1 hole, 0 patches" in found.said[0].words
    blocked = ways_between(replace(asked, there=("duct",), clear=()), NA)
    assert any(s.tone == "fails" and "a duct in the way" in s.words for s in blocked.said)
    with pytest.raises(NotAsked, match="nothing that is looked for"):
        ways_between(replace(asked, there=("a ghost",)), NA)


@often(60)
@given(FACTS, PLACES, PRACTICES)
def test_what_becomes_known_takes_no_open_way_its_price(errand, place, practice):
    """Told that nothing stands in the way, each route keeps its minutes and has no more to look for."""
    before = {r.key: r for r in ways.routes(ground(errand, place, practice))}
    clear = {b.id: "clear" for b in way_data().blocker}
    after = ways.routes(
        ground(replace(errand, way=replace(errand.way, seen={**errand.way.seen, **clear})), place, practice)
    )
    for route in after:
        assert not route.looks
        assert not route.blocked
        assert route.minutes.total == before[route.key].minutes.total


def test_a_hidden_way_says_what_keeps_it_in_a_zone_where_there_are_zones():
    seen = {w.id: w for w in way_data().way}
    hidden = {"P1", "P2", "P3", "P5", "P7", "P10", "P11"}
    assert {i for i, w in seen.items() if w.zone} == hidden
    for practice in (load("na"), GB):
        zoned = rules.CABLE_ZONES in practice
        assert all(("zone" in seen[i].told(practice)) == zoned for i in hidden)
