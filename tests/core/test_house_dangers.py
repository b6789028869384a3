"""What can hurt in a house, at its limits and one step to either side: grade, doorways, stairs, kitchens,
outdoors, alarms.
"""

import math

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Join, Opening, Storey
from fjeld.drawing.model import Circuit, Control, LoadRef, Point
from fjeld.quantities import FOOT, Length
from tests.core.test_layout_rules import L, found, house, room
from tests.often import often

# --- below the ground outside ---------------------------------------------------------


@pytest.mark.parametrize(
    ("mine", "storeys", "asked"),
    [
        ("", "", False),
        ("below", "", True),
        ("", "below", True),
        ("above", "below", False),
        ("below", "above", True),
        ("above", "above", False),
    ],
)
@pytest.mark.parametrize("use", ["living", "bed", "recreation"])
def test_every_outlet_below_the_ground_is_protected_whatever_its_room_is_for(use, mine, storeys, asked):
    """The room's own word stands before its storey's."""
    below = house(
        use=use,
        room={"grade": mine, "storey": "L1"},
        L1=Storey("Lower", L("0"), storeys),
        Q1=Circuit("All", protection="arc-fault"),
        O1=Point("outlet", "R1", 1, L("5'"), circuit="Q1"),
    )
    assert bool(found(below, "ground-fault")) == asked
    better = msgspec.structs.replace(below, items={**below.items, "Q1": Circuit("All", protection="both")})
    assert not found(better, "ground-fault")


# --- a sink through a doorway ---------------------------------------------------------


def next_door(outlet, sink, kind="door", width=3 * FOOT):
    """A living room west of a galley; an outlet in the wall between them and a sink beyond, a doorway in the
    same wall.

    ``outlet`` is where it is along that wall, ``sink`` how far from it, both mm; the doorway begins 6' along
    it.
    """
    beyond = msgspec.structs.replace(room(use="living"), name="Galley")
    along = Length(12 * FOOT - 6 * FOOT - width)
    return house(
        R2=beyond,
        D1=Opening(kind, "R1", 2, L("6'"), Length(width)),
        G1=Join("D1", "R2", 4, along),
        O1=Point("outlet", "R1", 2, Length(outlet), circuit="Q1"),
        Q1=Circuit("All", protection="arc-fault"),
        B1=Body("sink", "R2", L("20"), L("20"), x=Length(sink), y=Length(3 * FOOT)),
    )


def by_many(plan, of=4000):
    """The shortest way from the outlet to the sink through the doorway, of so many places in it."""
    at, block = plan.placed["O1"].position[:2], plan.blocks["B1"]
    opening = plan.openings["R2"]["D1"]
    wall = plan.rooms["R2"].walls[opening.wall - 1]
    (ax, ay), (bx, by) = wall.at(opening.at.mm), wall.at(opening.at.mm + opening.width.mm)
    spots = [(ax + (bx - ax) * k / of, ay + (by - ay) * k / of) for k in range(of + 1)]
    return min(math.dist(at, spot) + block.off(spot) for spot in spots)


@given(st.floats(300, 1700), st.floats(100, 2500), st.sampled_from(["door", "cased", "window"]))
@often(40)
def test_six_feet_of_a_sink_are_measured_through_a_doorway_as_a_cord_goes(outlet, sink, kind):
    plan = derive(next_door(outlet, sink, kind))
    off, six = by_many(plan), 6 * FOOT
    told = found(plan.drawing, "ground-fault")
    if kind == "window" or off > six + 0.5:
        assert not told
    elif off < six - 0.5:
        assert told
        assert "through D1" in told[0].words


def test_the_doorways_reach_comes_to_both_sides_of_six_feet():
    assert by_many(derive(next_door(1700.0, 100.0))) < 6 * FOOT < by_many(derive(next_door(300.0, 2500.0)))


# --- stairs, kitchens -------------------------------------------------------------------


def stairs(*lights, positions=("S1", "S2"), grade=""):
    """Stairs from a hall to the landing right above it, and a room elsewhere upstairs; lights where they are
    said to be.
    """
    upper = msgspec.structs.replace(room(use="hall"), storey="L1", name="Landing")
    far = msgspec.structs.replace(room(use="bed"), storey="L1", name="Far", x=L("30'"), y=L("0"))
    where = {"hall": ("R1", "7'"), "landing": ("R2", "7'"), "far": ("R3", "7'")}
    points = {
        f"A{n}": Point("light", where[name][0], x=L(where[name][1]), y=L("6'"), circuit="Q1")
        for n, name in enumerate(lights, 1)
    }
    return house(
        B1=Body("stairs", "R1", L("8'"), L("3'"), 1, L("1'"), high=L("9'")),
        L1=Storey("Up", L("9'"), grade),
        R2=upper,
        R3=far,
        **points,
        S1=Point("switch", "R1", 2, L("3'")),
        S2=Point("switch", "R2", 2, L("3'")),
        S3=Point("switch", "R3", 2, L("3'")),
        K1=Control(positions, tuple(LoadRef(h) for h in points)),
    )


@pytest.mark.parametrize(
    ("lights", "positions", "passes"),
    [
        (("hall",), ("S1", "S2"), True),
        (("landing",), ("S1", "S2"), True),
        (("hall", "landing"), ("S1", "S2"), True),
        # A lamp of another room upstairs lights no stairs, and a switch there is not where they arrive.
        (("far",), ("S1", "S2"), False),
        (("hall",), ("S1", "S3"), False),
        (("hall",), ("S1",), False),
        (("hall",), ("S2",), False),
        (("hall", "far"), ("S1", "S2"), True),
    ],
)
def test_stairs_are_lit_from_their_own_ends(lights, positions, passes):
    assert bool(found(stairs(*lights, positions=positions), "stairs-switched")) != passes


def kitchen(*circuits, poles=1, legs=(1, 1)):
    """Two outlets over a counter, on the circuits that are said."""
    counter = Body("counter", "R1", L("8'"), L("25"), 1, L("2'"))
    outlets = {
        f"O{n}": Point("outlet", "R1", 1, L(f"{1 + 2 * n}'"), L("44"), circuit=q, leg=leg)
        for n, (q, leg) in enumerate(zip(circuits, legs, strict=True), 1)
    }
    panel = {q: Circuit(q, 20, "12", "both", poles=poles) for q in {*circuits}}
    return house(use="kitchen", B1=counter, **outlets, **panel)


@pytest.mark.parametrize(
    ("circuits", "poles", "legs", "passes"),
    [
        (("Q2", "Q2"), 1, (1, 1), False),
        (("Q2", "Q3"), 1, (1, 1), True),
        (("Q2", "Q2"), 2, (1, 2), True),
        (("Q2", "Q2"), 2, (1, 1), False),
    ],
)
def test_a_kitchens_two_circuits_may_be_two_legs_of_one(circuits, poles, legs, passes):
    assert bool(found(kitchen(*circuits, poles=poles, legs=legs), "kitchen-circuits")) != passes


# --- breakers, dimmers, outdoors, alarms ------------------------------------------------


@pytest.mark.parametrize("gauge", ["14", "12", "10"])
@pytest.mark.parametrize(("kind", "most"), [("outlet", 20), ("light", 20), ("switch", 20), ("alarm", 20)])
def test_no_gauge_lets_a_breaker_be_larger_than_what_it_feeds(kind, most, gauge):
    place = {"wall": 1, "at": L("5'")} if kind in ("outlet", "switch") else {"x": L("5'"), "y": L("5'")}
    items = {"X1": Point(kind, "R1", circuit="Q1", **place)}
    if kind == "switch":
        items["A1"] = Point("alarm", "R1", x=L("7'"), y=L("7'"), circuit="Q1")

    def at(breaker):
        return found(house(**items, Q1=Circuit("All", breaker, gauge, "both")), "breaker-feeds")

    assert not at(most)
    if kind != "switch":
        assert at(most + 10)
        assert at(most + 10)[0].severity in ("danger", "breach")


@pytest.mark.parametrize(
    ("links", "apart"),
    [
        (("wire", "wire"), False),
        (("radio", "radio"), False),
        (("wire", "radio"), True),
        (("radio", "wire"), True),
        (("wire",), False),
    ],
)
@pytest.mark.parametrize("practice", ["na", "gb"])
def test_alarms_of_two_families_do_not_hear_each_other(practice, links, apart):
    alarms = {
        f"V{n}": Point("alarm", "R1", x=L(f"{2 + 3 * n}'"), y=L("6'"), circuit="Q1", link=link)
        for n, link in enumerate(links, 1)
    }
    assert bool(found(house(practice=practice, **alarms), "alarm-families")) == apart
