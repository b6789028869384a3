"""Boxes set by what the eye compares them with, held to the geometry they promise."""

import itertools
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.plan import derive
from fjeld.drawing.building import Opening
from fjeld.drawing.changes import apply
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Point
from fjeld.propose.align import centered, even_up, in_line, level_with, mirrored
from fjeld.propose.attach import settle
from fjeld.quantities import INCH
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
