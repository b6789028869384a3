"""Light on a plane: the worked example, flux kept, direct summation on a coarse grid, and what one lamp is
worth.
"""

import math
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld import geometry
from fjeld.derive.house import shape
from fjeld.derive.light import Lamp, direct, exponent, interreflected, light_map, peak
from fjeld.drawing.building import Room, Side
from fjeld.drawing.handles import Handle
from fjeld.quantities import Length
from tests.houses import walls_of
from tests.often import often


def room(w=4000.0, d=3000.0, height=2400.0):
    walls = tuple(Side(b, Length(n)) for b, n in ((90.0, w), (180.0, d), (270.0, w), (0.0, d)))
    return shape(Handle("R1"), Room("Room", walls, height=Length(height)), (), 1.0)


def test_eight_hundred_lumens_at_ninety_degrees():
    assert exponent(90) == pytest.approx(2)
    assert peak(800, 90) == pytest.approx(382, abs=0.5)
    lamp = Lamp(Handle("A1"), (0, 0, 2000), 800, 90)
    below = direct(lamp, np.array([[0.0]]), np.array([[0.0]]), 0)
    assert below[0, 0] == pytest.approx(95.5, abs=0.05)


@pytest.mark.parametrize("beam", [20, 38, 60, 90, 120, 150])
def test_half_the_peak_is_left_at_half_the_beam_and_the_flux_is_kept(beam):
    m = exponent(beam)
    assert math.cos(math.radians(beam / 2)) ** m == pytest.approx(0.5)
    # The flux through the lower half space, ring by ring.
    thetas = np.linspace(0, math.pi / 2, 20001)
    flux = np.trapezoid(peak(1000, beam) * np.cos(thetas) ** m * 2 * math.pi * np.sin(thetas), thetas)
    assert flux == pytest.approx(1000, rel=1e-3)


def test_nothing_falls_on_a_plane_at_the_lamp_or_above():
    lamp = Lamp(Handle("A1"), (0, 0, 2000))
    for plane in (2000, 2400):
        assert direct(lamp, np.array([[0.0]]), np.array([[100.0]]), plane)[0, 0] == 0


@given(
    st.sampled_from(["rectangle", "L", "T", "skew"]),
    st.integers(0, 60),
    st.integers(1, 5),
    st.sampled_from([0.0, 750.0]),
)
@often(12)
def test_the_map_against_summation_point_by_point(kind, seed, count, plane):
    die = random.Random(seed)
    where = shape(Handle("R1"), Room("Room", walls_of(kind, die)), (), 1.0)
    xs, ys = [c[0] for c in where.corners], [c[1] for c in where.corners]
    lamps = [
        Lamp(
            Handle(f"A{n}"),
            (die.uniform(min(xs), max(xs)), die.uniform(min(ys), max(ys)), 2400.0),
            die.uniform(200, 1500),
            die.uniform(30, 140),
        )
        for n in range(1, count + 1)
    ]
    found = light_map(where, lamps, plane, 500)
    seen = []
    for j, row in enumerate(found.rows):
        for i, value in enumerate(row):
            x, y = (
                low + size * (n + 0.5)
                for low, size, n in zip((min(xs), min(ys)), found.step, (i, j), strict=True)
            )
            assert (value is None) == (not geometry.contains(where.corners, (x, y)))
            if value is None:
                continue
            total = 0.0
            for lamp in lamps:
                r = math.dist((x, y, plane), lamp.position) / 1000
                cosine = (lamp.position[2] - plane) / 1000 / r
                m = math.log(0.5) / math.log(math.cos(math.radians(lamp.beam) / 2))
                total += lamp.lumens * (m + 1) / (2 * math.pi) * cosine**m * cosine / r**2
                total += interreflected(lamp.lumens, where)
            assert value == pytest.approx(total, abs=0.06)
            seen.append(total)
    assert found.figures.least == pytest.approx(min(seen))
    assert found.figures.mean == pytest.approx(sum(seen) / len(seen))
    assert 0 < found.figures.uniformity <= 1


def test_the_interreflected_part_by_its_formula():
    where = room()
    area = 2 * 12 + 14 * 2.4
    mean = (0.7 * 12 + 0.2 * 12 + 0.5 * 33.6) / area
    assert interreflected(1000, where) == pytest.approx(1000 * mean / (area * (1 - mean)))


def test_without_a_lamp_it_is_darker_and_one_more_at_the_darkest_spot_is_lighter():
    where = room()
    lamps = [Lamp(Handle("A1"), (1000, 1500, 2400), 800, 90), Lamp(Handle("A2"), (2000, 1500, 2400), 800, 90)]
    found = light_map(where, lamps, 0)
    for lamp in lamps:
        assert found.without[lamp.handle].mean < found.figures.mean
    alone = light_map(where, lamps[:1], 0)
    assert found.without["A2"].mean == pytest.approx(alone.figures.mean)
    assert found.one_more.least > found.figures.least
    x, y = found.darkest
    assert x > 3500, "the far end"
    assert geometry.contains(where.corners, (x, y))


def test_a_map_is_as_symmetrical_as_its_room():
    found = light_map(room(4100, 2950), [Lamp(Handle("A1"), (2050, 1475, 2400))], 0)
    assert max(found.step) <= 150
    for row, mirror in zip(found.rows, found.rows[::-1], strict=True):
        assert row == pytest.approx(mirror, abs=0.11)
        assert row == pytest.approx(row[::-1], abs=0.11)


def test_no_lamp_or_no_room_no_map():
    assert light_map(room(), [], 0) is None
    open_room = shape(Handle("R1"), Room("Room", (Side(90.0, Length(1000)),)), (), 1.0)
    assert light_map(open_room, [Lamp(Handle("A1"), (0, 0, 2000))], 0) is None
