"""IES files: the flux and the floor light they give, and what is wrong with the broken ones."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.light import Lamp, direct
from fjeld.formats import ies
from tests.often import often


def file(angles, rows, around=(0.0,), factor=1.0, tilt="NONE", kind=1, ballast=1.0) -> bytes:
    numbers = [1, 1000, factor, len(angles), len(around), kind, 1, 0, 0, 0, ballast, 1, 20, *angles, *around]
    body = "\n".join(f"{n:g}" for n in [*numbers, *(c for row in rows for c in row)])
    return f"IESNA:LM-63-2002\n[TEST] one\nTILT={tilt}\n{body}\n".encode()


ANGLES = [float(a) for a in range(0, 91, 5)]


def lambertian(peak=100.0):
    return [peak * math.cos(math.radians(a)) for a in ANGLES]


def test_the_flux_of_a_lambertian_source():
    found = ies.read(file(ANGLES, [lambertian(100.0)]), "flat")
    # Half a sphere of I cosθ holds πI lumens.
    assert found.lumens == pytest.approx(math.pi * 100, rel=0.005)


@given(st.floats(1.0, 3.0), st.floats(0, 2500), st.floats(0, 2500))
@often(20)
def test_light_on_the_floor_from_a_file_is_candela_over_square_distance(down, x, y):
    found = ies.read(file(ANGLES, [lambertian()]), "flat")
    lamp = Lamp("A1", (0.0, 0.0, down * 1000), found.lumens, curve=(found.angles, found.candela))
    got = direct(lamp, np.array([[x]]), np.array([[y]]), 0.0)[0, 0]
    r = math.sqrt((x / 1000) ** 2 + (y / 1000) ** 2 + down**2)
    theta = math.degrees(math.acos(down / r))
    low = int(theta // 5)
    share = theta / 5 - low
    curve = [*lambertian(), 0.0, 0.0]
    candela = curve[low] * (1 - share) + curve[low + 1] * share
    assert got == pytest.approx(candela * (down / r) / r**2, rel=1e-3, abs=1e-6)


def test_the_mean_around_and_the_factors():
    rows = [[100.0] * len(ANGLES), [200.0] * len(ANGLES), [300.0] * len(ANGLES)]
    found = ies.read(file(ANGLES, rows, around=(0.0, 45.0, 90.0), factor=2.0, ballast=0.5), "three")
    assert set(found.candela) == {200.0}


def test_a_tilt_table_is_stepped_over():
    text = file(ANGLES, [lambertian()], tilt="INCLUDE").decode()
    head, _, body = text.partition("TILT=INCLUDE\n")
    found = ies.read(f"{head}TILT=INCLUDE\n1\n2\n0 90\n1 1\n{body}".encode(), "tilted")
    assert found.candela[0] == pytest.approx(100.0)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "no IES file"),
        (b"IESNA\nTILT=lamp.tlt\n", "another file"),
        (b"IESNA\nTILT=NONE\n1 2 three\n", "not a number"),
        (b"IESNA\nTILT=NONE\n1 2 3\n", "ends after 3"),
        (file(ANGLES, [lambertian()[:-3]]), "ends early"),
        (file(ANGLES[::-1], [lambertian()]), "must rise"),
        (file(ANGLES, [lambertian()], kind=3), "type C"),
        (file([90.0, 120.0, 180.0], [[1.0, 1.0, 1.0]]), "straight down"),
        (file(ANGLES, [[-1.0] * len(ANGLES)]), "below nothing"),
        (b"IESNA\nTILT=NONE\n" + b"1 " * 300_000, "larger than"),
        (b"IESNA\nTILT=NONE\n1 2 3 1e9 1 1 1 0 0 0 1 1 20", "not a table"),
    ],
)
def test_what_is_wrong_is_said(data, words):
    with pytest.raises(ies.IesError, match=words):
        ies.read(data, "bad")
