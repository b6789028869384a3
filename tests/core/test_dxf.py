"""DXF: what is written reads back, what others draw is read with its units, and nothing broken gets in."""

import io

import ezdxf
import pytest
from ezdxf import units
from hypothesis import given
from hypothesis import strategies as st

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Opening, Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Place
from fjeld.drawing.edits.survey import TraceRoom
from fjeld.drawing.model import Drawing, House
from fjeld.formats import dxf
from fjeld.formats.jobfile import decode
from fjeld.geometry import area
from tests.often import often


def drawn(make, unit=units.MM) -> bytes:
    document = ezdxf.new("R2010", units=unit)
    make(document)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


@pytest.fixture(scope="module")
def tarn():
    return derive(decode(job_file("tarn-house")))


def test_round_trip_of_rooms_and_openings(tarn):
    found = dxf.read(dxf.write(tarn, None), "floor.dxf")
    assert found.scale == 1.0
    walls = [line for line in found.lines if line.layer == "WALLS"]
    ground = [w for h, w in tarn.rooms.items() if tarn.drawing.items[h].storey is None]
    assert all(line.closed for line in walls)
    # The file is moved to its own north-west corner: compare shapes from each first corner.
    for line, where in zip(walls, ground, strict=True):
        origin, first = line.points[0], where.corners[0]
        for (x, y), (cx, cy) in zip(line.points, where.corners, strict=True):
            assert x - origin[0] == pytest.approx(cx - first[0], abs=0.01)
            assert y - origin[1] == pytest.approx(cy - first[1], abs=0.01)
    openings = [line for line in found.lines if line.layer == "OPENINGS"]
    widths = sorted(
        round(o.width.mm, 1)
        for h, o in tarn.drawing.of(Opening).items()
        if tarn.drawing.items[o.room].storey is None
    )
    lengths = sorted(
        round(abs(a[0] - b[0]) + abs(a[1] - b[1]), 1) for a, b in (line.points for line in openings)
    )
    for width in widths:
        assert width in lengths


def test_a_traced_line_is_the_room(tarn):
    underlay = dxf.read(dxf.write(tarn, None), "floor.dxf")
    n = next(i for i, line in enumerate(underlay.lines) if line.layer == "WALLS" and len(line.points) == 8)
    start = Drawing({"house": House(), "R1": Room("Traced")})
    plan = derive(apply(start, TraceRoom("R1", underlay.placed(n)).plan(start)))
    assert plan.rooms["R1"].closed
    assert plan.rooms["R1"].area == pytest.approx(abs(area(underlay.placed(n))) / 1e6, rel=1e-6)
    assert plan.rooms["R1"].area == pytest.approx(tarn.rooms["R2"].area, rel=1e-4)


@pytest.mark.parametrize(
    ("unit", "scale"),
    [(units.MM, 1.0), (units.CM, 10.0), (units.M, 1000.0), (units.IN, 25.4), (units.FT, 304.8)],
)
def test_units_of_the_file(unit, scale):
    data = drawn(lambda d: d.modelspace().add_line((0, 0), (2, 0)), unit)
    assert dxf.read(data, "a").scale == pytest.approx(scale)


def test_two_points_scale_a_file_without_units():
    from fjeld.drawing.building import Underlay

    found = dxf.read(drawn(lambda d: d.modelspace().add_lwpolyline([(0, 0), (7, 0), (7, 3)]), 0), "a")
    scaled = Underlay(found.name, found.lines, found.scale * 3500.0 / found.stretch(0, 0))
    assert scaled.stretch(0, 0) == pytest.approx(3500.0)
    assert scaled.stretch(0, 1) == pytest.approx(1500.0)


def test_blocks_are_opened_curves_flattened_and_layers_kept():
    def make(document):
        block = document.blocks.new("DESK")
        block.add_lwpolyline([(0, 0), (10, 0), (10, 5), (0, 5)], close=True)
        space = document.modelspace()
        space.add_blockref("DESK", (100, 100), dxfattribs={"layer": "FURNITURE"})
        space.add_circle((0, 0), 50, dxfattribs={"layer": "ROUND"})

    found = dxf.read(drawn(make), "a")
    round_one = next(line for line in found.lines if line.layer == "ROUND")
    assert round_one.closed
    assert abs(area(round_one.points)) == pytest.approx(3.14159 * 2500, rel=0.03)
    assert any(len(line.points) == 4 and line.closed for line in found.lines)


@pytest.mark.parametrize("radius", [0.02, 50.0, 3e6])
def test_a_closed_curve_takes_as_many_points_whatever_its_size(radius):
    """Its ends lie on each other: a curve is straightened by the size of the whole."""

    def make(document):
        document.modelspace().add_circle((0, 0), radius)
        document.modelspace().add_spline([(0, 0, 0), (radius, radius, 0), (-radius, radius, 0), (0, 0, 0)])

    found = dxf.read(drawn(make), "round")
    assert len(found.lines) == 2
    assert all(4 < len(line.points) < 200 for line in found.lines)


def test_what_stands_beyond_any_house_is_passed_over():
    def make(document):
        document.modelspace().add_spline([(0, 0, 0), (1, 1, 1e200), (2, 0, 0), (3, 1, 0)])
        document.modelspace().add_line((0, 0), (1, 0))

    assert len(dxf.read(drawn(make), "far").lines) == 1


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "does not begin with a section"),
        (b"hello", "no DXF"),
        (b"\x00\x01binary", "binary"),
        (b"0\nSECTION\n2\nENTITIES\n0\nLINE\n", "damaged|no lines"),
        (b"0\nSECTION\nnonsense", "damaged"),
    ],
)
def test_malformed_files_are_refused_in_words(data, words):
    with pytest.raises(dxf.DxfError, match=words):
        dxf.read(data, "bad.dxf")


def test_too_much_is_refused_in_words():
    with pytest.raises(dxf.DxfError, match="larger than 8 MB"):
        dxf.read(b"0\nSECTION\n" + b" " * 8_000_001, "big")

    def many(document):
        for n in range(dxf.MOST_LINES + 1):
            document.modelspace().add_line((n, 0), (n, 1))

    with pytest.raises(dxf.DxfError, match="more than 4000 lines"):
        dxf.read(drawn(many), "many")


@given(st.binary(max_size=400), st.integers(0, 3000), st.integers(1, 40))
@often(30)
def test_any_damage_gives_lines_or_a_sentence(noise, at, cut):
    good = drawn(lambda d: d.modelspace().add_lwpolyline([(0, 0), (5, 0), (5, 5)], close=True))
    at %= len(good)
    said = ""
    try:
        found = dxf.read(good[:at] + noise + good[at + cut :], "damaged")
    except dxf.DxfError as error:
        said = str(error)
    if not said:
        start = Drawing({"house": House()})
        assert apply(start, Place({"U1": found}, "u").plan(start)).items["U1"].lines
