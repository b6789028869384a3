"""Boxes set by what the eye compares them with, held to the geometry they promise."""

import itertools
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.plan import derive
from fjeld.drawing.building import Build, Opening, Room, Side, Studs
from fjeld.drawing.changes import apply
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, House, Point
from fjeld.propose.align import centered, even_up, in_line, level_with, mirrored
from fjeld.propose.attach import settle
from fjeld.quantities import INCH, Length
from tests.houses import inches, one_room

#: A tape is read to the nearest sixteenth.
READ = INCH / 32 + 0.01


def after(drawing, edit):
    return derive(apply(drawing, settle(drawing, edit, Mint(drawing.items))))


@given(st.integers(0, 300))
def test_in_line_shares_a_coordinate_and_keeps_the_other(seed):
    plan = derive(one_room(seed))
    ceiling = [h for h, p in plan.placed.items() if not p.wall]
    if len(ceiling) < 2:
        return
    a, b = random.Random(seed).sample(ceiling, 2)
    moved = after(plan.drawing, in_line(plan, a, b))
    (x, y, _), (u, v, _) = moved.placed[a].position, plan.placed[b].position
    old = plan.placed[a].position
    assert (abs(x - u) < 0.01 and y == old[1]) or (abs(y - v) < 0.01 and x == old[0])
    assert moved.placed[b].position == plan.placed[b].position


def test_a_row_is_spaced_evenly_between_its_ends(boot_room):
    lights = {
        f"A{20 + n}": Point("light", "R1", x=inches(x), y=inches(60), row="r", circuit="Q1")
        for n, x in enumerate((20, 31, 77, 120))
    }
    drawing = apply(boot_room, Place(lights, "a row").plan(boot_room))
    moved = after(drawing, even_up(derive(drawing), "A21"))
    xs = [moved.placed[h].position[0] / INCH for h in lights]
    steps = [b - a for a, b in itertools.pairwise(xs)]
    assert (xs[0], xs[-1]) == pytest.approx((20, 120))
    assert max(steps) - min(steps) < 4 * READ / INCH
    assert {round(moved.placed[h].position[1] / INCH, 3) for h in lights} == {60.0}


def test_level_with_takes_height_and_edge(boot_plan):
    moved = after(boot_plan.drawing, level_with(boot_plan, "O1", "S1"))
    assert moved.placed["O1"].position[2] == pytest.approx(boot_plan.placed["S1"].position[2], abs=READ)
    assert moved.marks["O1"].edge == boot_plan.marks["S1"].edge
    assert moved.placed["O1"].along == boot_plan.placed["O1"].along


def test_centered_on_wall_ceiling_and_opening(boot_plan):
    wall = boot_plan.rooms["R1"].walls[0]
    moved = after(boot_plan.drawing, centered(boot_plan, "O1"))
    assert moved.placed["O1"].along == pytest.approx(wall.length / 2, abs=READ)
    moved = after(boot_plan.drawing, centered(boot_plan, "V1"))
    assert moved.placed["V1"].position[:2] == pytest.approx((wall.length / 2, 60 * INCH), abs=READ)
    window = boot_plan.drawing.get("W1", Opening)
    moved = after(boot_plan.drawing, centered(boot_plan, "V1", "W1"))
    assert moved.placed["V1"].position[1] == pytest.approx(window.at.mm + window.width.mm / 2, abs=READ)
    assert moved.placed["V1"].position[0] == boot_plan.placed["V1"].position[0]


def test_a_mirror_stands_as_far_on_the_other_side(boot_plan):
    edit = mirrored(boot_plan, "O1", Mint(boot_plan.drawing.items))
    (fresh,) = edit.things
    moved = after(boot_plan.drawing, edit)
    wall = boot_plan.rooms["R1"].walls[0]
    assert moved.placed["O1"].along + moved.placed[fresh].along == pytest.approx(wall.length, abs=READ)
    assert moved.placed[fresh].position[2] == moved.placed["O1"].position[2]
    about = mirrored(boot_plan, "O2", Mint(boot_plan.drawing.items), "W1")
    window = boot_plan.drawing.get("W1", Opening)
    (twin,) = about.things.values()
    middle = window.at.mm + window.width.mm / 2
    assert twin.at.mm + boot_plan.placed["O2"].along == pytest.approx(2 * middle, abs=READ)


@pytest.mark.parametrize(
    "attempt",
    [
        lambda p: in_line(p, "A1", "O1"),
        lambda p: in_line(p, "A1", "A1"),
        lambda p: in_line(p, "Z9", "A1"),
        lambda p: even_up(p, "A1"),
        lambda p: even_up(p, "O1"),
        lambda p: level_with(p, "A1", "O1"),
        lambda p: level_with(p, "O1", "O1"),
        lambda p: centered(p, "P1"),
        lambda p: centered(p, "O1", "W1"),
        lambda p: centered(p, "O1", "A1"),
        lambda p: mirrored(p, "A1", Mint(())),
        lambda p: mirrored(p, "O1", Mint(()), "W1"),
        lambda p: mirrored(p, "O5", Mint(()), "D1"),
    ],
)
def test_what_makes_no_sense_is_refused_in_words(boot_plan, attempt):
    with pytest.raises(EditRefused):
        attempt(boot_plan)


#: A room with a bay, walked clockwise: bearing and inches.
BAY = ((90, 144), (180, 108), (270, 36), (180, 24), (270, 72), (0, 24), (270, 36), (0, 108))


@pytest.mark.parametrize("boards", [(12.7,) * 8, (12.7, 15.9, 19.0, 9.5, 25.4, 12.7, 0.0, 15.9)])
def test_readings_from_framing_are_those_to_the_framings_own_corners(boards):
    """Each wall's board pushed back behind its face; the corners where those planes meet; the tape from
    there.
    """
    walls = {n: Build(Studs(board=Length(b))) for n, b in enumerate(boards, 1)}
    room = Room("Bay", sides=tuple(Side(float(b), inches(n)) for b, n in BAY), builds=walls)
    points = {f"O{n}": Point("outlet", "R1", wall=n, at=inches(11)) for n in range(1, 9)}
    lamp = {"A1": Point("light", "R1", x=inches(50), y=inches(40))}
    plan = derive(Drawing({HOUSE: House(), Handle("R1"): room, **points, **lamp}))
    where = plan.rooms["R1"]
    lines = []
    for wall, board in zip(where.walls, boards, strict=True):
        back = [
            (p[0] - wall.normal[0] * board, p[1] - wall.normal[1] * board) for p in (wall.start, wall.end)
        ]
        (x1, y1), (x2, y2) = back
        lines.append((y2 - y1, x1 - x2, (y2 - y1) * x1 + (x1 - x2) * y1))
    for n, wall in enumerate(where.walls):
        corners = [meeting(lines[n - 1], lines[n]), meeting(lines[n], lines[(n + 1) % 8])]
        spot = plan.placed[f"O{n + 1}"].position[:2]
        along = ((wall.end[0] - wall.start[0]) / wall.length, (wall.end[1] - wall.start[1]) / wall.length)
        read = [abs((spot[0] - c[0]) * along[0] + (spot[1] - c[1]) * along[1]) for c in corners]
        mark = plan.marks[f"O{n + 1}"]
        assert (mark.across, mark.rest[0]) == pytest.approx(read)
    mark = plan.marks["A1"]
    assert mark.across == pytest.approx(inches(50).mm + boards[7])
    assert mark.down == pytest.approx(inches(40).mm + boards[0])


def meeting(one, other):
    """Where two lines a x + b y = c meet."""
    (a, b, c), (d, e, f) = one, other
    under = a * e - b * d
    return (c * e - b * f) / under, (a * f - c * d) / under


def test_level_with_another_stays_so_where_a_floor_is_still_to_come(boot_room):
    """A mark is read from the subfloor while roughing in; a height is kept from the finished floor."""
    switches = [h for h, p in boot_room.of(Point).items() if p.kind == "switch"]
    floored = apply(boot_room, Revise("R1", {"floor": inches(0.75)}).plan(boot_room))
    floored = apply(floored, Revise(switches[1], {"height": None, "edge": None}).plan(floored))
    done = apply(floored, level_with(derive(floored), switches[0], switches[1]).plan(floored))
    placed = derive(done).placed
    assert placed[switches[0]].height == pytest.approx(placed[switches[1]].height)
