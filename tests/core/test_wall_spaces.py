"""Wall spaces and outlets: the example, the limits, and brute force beside both."""

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.bodies import block
from fjeld.derive.house import shape
from fjeld.derive.wall_spaces import WallSpace, breaks, offset_in, spaces, too_far, wall_starts
from fjeld.drawing.building import Body, Opening, Room, Side, Studs
from fjeld.drawing.handles import Handle
from fjeld.propose.outlets import _fewest, allowed, propose
from fjeld.quantities import FOOT, INCH, Length
from tests.houses import walls_of

R1 = Handle("R1")
REACH = 6 * FOOT
BODY = (58.0, 95.25)


def rectangle(w, d, *openings, studs=None):
    walls = ((90, w), (180, d), (270, w), (0, d))
    room = Room("Room", tuple(Side(b, Length(mm)) for b, mm in walls), studs=studs or Studs())
    return shape(R1, room, openings, 1.0)


def door(wall, at, width=32 * INCH, kind="door"):
    return Opening(kind, R1, wall, Length(at), Length(width))


def test_fourteen_by_eleven_with_one_door():
    opening = door(1, 24 * INCH)
    where = rectangle(14 * FOOT, 11 * FOOT, opening)
    (space,) = spaces(where, breaks(where, [opening]), 24 * INCH)
    assert space.length == pytest.approx((47 * 12 + 4) * INCH)
    found = propose(where, (opening,), (), [], Room(""), 12 * INCH, BODY, REACH, 24 * INCH)
    assert not found.short
    assert len(found.added) in (4, 5)
    assert len(found.added) >= math.ceil(space.length / (12 * FOOT))


def test_a_window_does_not_break_a_space_and_a_cased_opening_does():
    assert (
        len(spaces(rectangle(5000, 4000), breaks(rectangle(5000, 4000), [door(1, 1000, kind="window")]), 600))
        == 1
    )
    two = [door(1, 1000), door(3, 1000, kind="cased")]
    assert len(spaces(rectangle(5000, 4000), breaks(rectangle(5000, 4000), two), 600)) == 2


@pytest.mark.parametrize(("width", "counts"), [(23.9, False), (24.0, True), (24.1, True)])
def test_a_space_of_two_feet_counts(width, counts):
    openings = [door(1, 500), door(1, 500 + 32 * INCH + width * INCH)]
    found = spaces(rectangle(6000, 4000), breaks(rectangle(6000, 4000), openings), 24 * INCH)
    assert any(abs(s.length - width * INCH) < 1 for s in found) is counts


@pytest.mark.parametrize(("inches", "passes"), [(71.9, True), (72.0, True), (72.1, False)])
def test_six_feet_from_the_end_passes(inches, passes):
    space = WallSpace(0, 120 * INCH)
    assert (not too_far(space, [inches * INCH, 119 * INCH], REACH)) is passes


def test_a_stretch_too_far_is_told_with_its_length_and_by_how_much():
    (stretch,) = too_far(WallSpace(0, 20 * FOOT), [2 * FOOT, 18 * FOOT], REACH)
    assert (stretch.start, stretch.end) == pytest.approx((8 * FOOT, 12 * FOOT))
    assert stretch.by == pytest.approx(2 * FOOT)


@given(st.floats(700, 16000), st.booleans(), st.lists(st.floats(0, 1), max_size=6, unique=True))
def test_the_checker_agrees_with_sampling_every_half_inch(length, ring, shares):
    space = WallSpace(0, length, ring)
    outlets = [s * length for s in shares]

    def away(x):
        direct = [abs(x - o) for o in outlets]
        around = [length - d for d in direct] if ring else []
        return min([*direct, *around], default=math.inf)

    found = too_far(space, outlets, REACH)

    def told(x, slack):
        spots = (x, x + length) if ring else (x,)
        return any(t.start - slack <= s <= t.end + slack for t in found for s in spots)

    for n in range(int(length / (INCH / 2)) + 1):
        x = min(n * INCH / 2, length)
        if away(x) > REACH + 1:
            assert told(x, 1)
        elif away(x) < REACH - 1:
            assert not told(x, -1)


@given(st.integers(0, 200), st.sampled_from(["rectangle", "L", "T", "skew"]))
def test_proposed_outlets_leave_nothing_out_of_reach(seed, kind):
    die = random.Random(seed)
    opening = door(2, 500, 28 * INCH)
    where = shape(R1, Room("Room", walls_of(kind, die)), (opening,), 1.0)
    found = propose(where, (opening,), (), [], Room(""), 12 * INCH, BODY, REACH, 24 * INCH)
    starts = wall_starts(where)
    around = starts[-1]
    at = [starts[w - 1] + along for w, along in found.added]
    short = False
    for space in spaces(where, breaks(where, [opening]), 24 * INCH):
        inside = [o for a in at if (o := offset_in(space, a, around)) is not None]
        short |= bool(too_far(space, inside, REACH))
        assert len(inside) >= math.ceil(space.length / (2 * REACH) - 1e-9)
    assert short == found.short
    for wall, along in found.added:
        studs = where.walls[wall - 1].studs
        assert min(abs(along - s) for s in studs) >= 19.05 + 29 - 2.1, "clear of every stud"


@given(st.lists(st.integers(0, 60), min_size=1, max_size=9, unique=True), st.integers(10, 60), st.booleans())
def test_the_fewest_is_the_fewest(spots, length, ring):
    """Against every subset of the positions."""
    space = WallSpace(0, float(length * 100), ring)
    here = sorted({float(min(s, length) * 100) for s in spots})
    reach = 1300.0
    chosen = _fewest(space, here, [], reach)
    enough = [
        n
        for n in range(1, len(here) + 1)
        if any(not too_far(space, list(some), reach) for some in itertools.combinations(here, n))
    ]
    if enough:
        assert not too_far(space, chosen, reach)
        assert len(chosen) == enough[0]


def test_an_outlet_serves_only_its_own_space():
    openings = [door(1, 1500), door(3, 1500)]
    where = rectangle(4000, 3000, *openings)
    first, second = spaces(where, breaks(where, openings), 600)
    around = wall_starts(where)[-1]
    assert offset_in(first, first.start + 100, around) == pytest.approx(100)
    assert offset_in(second, first.start + 100, around) is None


def test_allowed_positions_avoid_openings_at_their_height():
    window = Opening("window", R1, 1, Length(1000), Length(1000), sill=Length(900), head=Length(2000))
    low = [
        a for _, wall, a in allowed(rectangle(4000, 3000), (window,), (), Room(""), 300, BODY) if wall == 1
    ]
    high = [
        a for _, wall, a in allowed(rectangle(4000, 3000), (window,), (), Room(""), 1000, BODY) if wall == 1
    ]
    assert any(1000 < a < 2000 for a in low)
    assert not any(1000 < a < 2000 for a in high)


@given(
    st.integers(0, 400),
    st.sampled_from(["rectangle", "L", "T", "skew"]),
    st.lists(
        st.tuples(
            st.sampled_from(["door", "cased", "sliding", "window"]), st.floats(0, 1), st.floats(300, 1500)
        ),
        max_size=4,
    ),
    st.lists(
        st.tuples(
            st.sampled_from(["fireplace", "cabinet", "tall cabinet", "stairs", "counter", "bed"]),
            st.floats(0, 1),
            st.floats(200, 2500),
        ),
        max_size=4,
    ),
    st.lists(st.floats(0, 1), max_size=6),
)
def test_the_whole_perimeter_agrees_with_walking_it_in_half_inches(seed, kind, opens, things, shares):
    """Step around the room half an inch at a time: what breaks the wall, how far it runs, and to which
    outlet.
    """
    where = shape(R1, Room("Room", walls_of(kind, random.Random(seed))), (), 1.0)
    starts = wall_starts(where)
    around = starts[-1]

    def on_wall(share, width):
        wall = max((w for w in where.walls if starts[w.number - 1] <= share * around), key=lambda w: w.number)
        return (
            wall.number,
            min(share * around - starts[wall.number - 1], max(wall.length - width, 0.0)),
            min(width, wall.length),
        )

    openings, blocks = [], []
    for what, share, width in opens:
        wall, at, width = on_wall(share, width)
        openings.append(door(wall, at, width, kind=what))
    for what, share, width in things:
        wall, at, width = on_wall(share, width)
        body = Body(what, R1, Length(width), Length(400.0), wall, Length(at))
        blocks.append(block(Handle("B1"), body, where))

    step = INCH / 2
    count = int(around / step)
    broken = [
        any(
            starts[o.wall - 1] + o.at.mm < x < starts[o.wall - 1] + o.at.mm + o.width.mm
            for o in openings
            if o.kind != "window"
        )
        or any(
            starts[b.wall - 1] + b.start < x < starts[b.wall - 1] + b.end
            for b in blocks
            if b.kind in ("fireplace", "cabinet", "tall cabinet", "stairs")
        )
        for x in (n * step for n in range(count))
    ]
    found = spaces(where, breaks(where, openings, blocks), 24 * INCH)
    outlets = [s * around for s in shares]
    if not any(broken):
        return
    # Runs of unbroken steps, once around from a broken one.
    first = broken.index(True)
    runs, here = [], []
    for n in (*range(first, count), *range(first)):
        if broken[n]:
            runs, here = ([*runs, here] if here else runs), []
        else:
            here.append(n)
    runs = [*runs, here] if here else runs
    for run in runs:
        length = len(run) * step
        middle = run[len(run) // 2] * step
        mine = [s for s in found if (o := offset_in(s, middle, around)) is not None and 0 < o < s.length]
        if length > 24 * INCH + 2 * step:
            assert len(mine) == 1, (length, middle)
            assert abs(mine[0].length - length) <= 2 * step
        elif length < 24 * INCH - 2 * step:
            assert not mine
            continue
        else:
            continue
        inside = [o for a in outlets if (o := offset_in(mine[0], a, around)) is not None]
        worst = max(
            (
                min(
                    (
                        abs(offset_in(mine[0], n * step, around) - o)
                        for o in inside
                        if offset_in(mine[0], n * step, around) is not None
                    ),
                    default=math.inf,
                )
                for n in run
                if offset_in(mine[0], n * step, around) is not None
            ),
            default=0.0,
        )
        told = max((t.by for t in too_far(mine[0], inside, REACH)), default=0.0)
        if inside:
            assert abs(max(worst - REACH, 0.0) - told) <= 2 * step
        else:
            assert told == pytest.approx(mine[0].length)
