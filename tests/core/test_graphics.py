"""Drawings and sheets: every token has its look, every shape is written, and what a PDF says reads back."""

import io
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader
from reportlab.pdfgen.canvas import Canvas

import fjeld
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Room
from fjeld.drawing.errand import CHANGED, NEW
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, House
from fjeld.formats.jobfile import decode
from fjeld.graphics import pdf
from fjeld.graphics.errand_sheet import errand_sheet
from fjeld.graphics.floor import Floor
from fjeld.graphics.mark_out import mark_out
from fjeld.graphics.opened import fill_column, opened
from fjeld.graphics.page import (
    PAPERS,
    Column,
    Heading,
    KeptTogether,
    List,
    Listed,
    Page,
    Paragraph,
    Picture,
    Span,
    Table,
    paper_of,
    plain,
)
from fjeld.graphics.projection import DESK
from fjeld.graphics.shapes import path, rect, shape, text
from fjeld.graphics.strip import STRIP, walls_unrolled
from fjeld.graphics.style import (
    DAY,
    HEADLAMP,
    INSULATION,
    NO_COLOUR,
    PRINT,
    TOKENS,
    Style,
    style_of,
    style_sheet,
)
from fjeld.practice import load
from fjeld.quantities import format_length
from tests.core.errand_bases import BASES, planned, ready
from tests.houses import one_room
from tests.often import often

HOUSES = ("boot-room", "tarn-house", "chandlers-loft")


@pytest.fixture(scope="module", params=HOUSES)
def house(request):
    return derive(decode(job_file(request.param)))


def read(data):
    return PdfReader(io.BytesIO(data))


def words(reader):
    """What a PDF says, white space folded away: figures keep together by spaces of their own."""
    return re.sub(r"\s+", "", "".join(page.extract_text() for page in reader.pages))


def folded(said):
    return re.sub(r"\s+", "", said)


def fonts(reader):
    return {
        str(font.get_object()["/BaseFont"]).partition("+")[2]
        for page in reader.pages
        for font in page["/Resources"]["/Font"].values()
    }


# --- tokens ---------------------------------------------------------------------------------


def test_the_style_sheet_of_the_pages_is_written_from_the_tokens():
    kept = Path(fjeld.__file__).parent / "web" / "assets" / "drawings.css"
    assert kept.read_text() == style_sheet(), "make assets"


def test_every_colour_that_a_token_names_is_in_every_palette():
    named = {c for s in TOKENS.values() for c in (s.fill, s.stroke) if c} - {*NO_COLOUR}
    for palette in (DAY, HEADLAMP, PRINT):
        assert named <= {*palette, *INSULATION}
        assert {*palette} == {*DAY}
    assert {c for s in TOKENS.values() for c in (s.fill, s.stroke) if c in INSULATION}


def test_a_token_of_more_classes_is_over_one_of_fewer_and_a_later_over_an_earlier():
    assert style_of("symbol") == TOKENS["symbol"]
    assert style_of("symbol lit").fill == "glow"
    assert style_of("lit symbol") == style_of("symbol lit")
    assert style_of("lit") == Style()
    assert style_of("label on-floor").fill == TOKENS["label"].fill, "the later of two alike"
    assert style_of("label on-floor").halo == TOKENS["on-floor"].halo
    assert style_of("nothing of ours") == Style()


# --- drawings -------------------------------------------------------------------------------


def at(data):
    """Each word of a one-page PDF with where it is written, points."""
    found = []

    def visit(said, cm, tm, font, size):
        if said.strip():
            x, y = tm[4] * cm[0] + tm[5] * cm[2] + cm[4], tm[4] * cm[1] + tm[5] * cm[3] + cm[5]
            found.append((said.strip(), round(x, 2), round(y, 2)))

    read(data).pages[0].extract_text(visitor_text=visit)
    return found


def canvas_of(shape_, k=0.5):
    pdf._fonts()
    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=(400, 400), invariant=True)
    pdf.draw(canvas, shape_, k)
    canvas.showPage()
    canvas.save()
    return stream.getvalue()


def framed(*parts):
    return shape("svg", *parts, viewBox="0 0 600 400")


def test_words_stand_where_the_drawing_has_them():
    """Pixels run down from the top, points up from the foot; groups move, turn and shrink what they hold."""
    drawn = framed(
        text(100, 40, "plain", "label", "start"),
        shape("g", text(100, 40, "moved", "label", "start"), transform="translate(30 50)"),
        shape("g", text(100, 40, "shrunk", "label", "start"), transform="translate(10 20) scale(0.5)"),
        shape("g", text(100, 40, "turned", "label", "start"), transform="rotate(90 100 140)"),
    )
    places = {said: (x, y) for said, x, y in at(canvas_of(drawn))}
    assert places["plain"] == (50.0, (400 - 40) / 2)
    assert places["moved"] == (65.0, (400 - 90) / 2)
    assert places["shrunk"] == ((10 + 50) / 2, (400 - 20 - 20) / 2)
    # A quarter turn about (100, 140) takes (100, 40), a hundred above it, to a hundred right of it.
    assert places["turned"] == (100.0, (400 - 140) / 2)


def test_words_end_or_stand_in_the_middle_of_where_they_are_put():
    drawn = framed(
        *(text(300, 40 * n, "wide", "label", a) for n, a in ((1, "start"), (2, "middle"), (3, "end")))
    )
    xs = [x for said, x, _ in at(canvas_of(drawn)) if said == "wide"]
    assert xs[0] == 150.0
    assert xs[0] - xs[1] == pytest.approx(xs[1] - xs[2], abs=0.02)
    assert 8 < xs[0] - xs[2] < 20


def test_an_outline_that_nobody_can_draw_is_an_error_and_what_is_for_ears_is_left_out():
    with pytest.raises(KeyError):
        canvas_of(framed(shape("marquee", cls="label")))
    data = canvas_of(framed(shape("g", shape("title", text="read out"), rect(1, 1, 5, 5, "plate"))))
    assert "read out" not in read(data).pages[0].extract_text()


def test_an_opening_is_cut_out_of_a_wall_band():
    """Where the inner outline runs as the outer does, only the even-odd rule leaves the room free."""
    loops = "M0 0 L90 0 L90 90 L0 90 Z M10 10 L80 10 L80 80 L10 80 Z"
    content = read(canvas_of(framed(shape("path", d=loops, cls="wall-band", fill_rule="evenodd"))))
    assert re.search(rb"\bf\*", content.pages[0].get_contents().get_data())
    content = read(canvas_of(framed(path([(0, 0), (90, 0), (90, 90)], "wall-band", close=True))))
    assert not re.search(rb"\bf\*", content.pages[0].get_contents().get_data())


def test_everything_drawn_of_a_house_can_be_written(house):
    for room in house.drawing.of(Room):
        floor = Floor(house, room, DESK, whole=True)
        near = Floor(house, room, DESK)
        layers = [
            f() for f in (floor.walls, floor.names, floor.bodies, floor.openings, floor.points, floor.dots)
        ]
        layers += [f() for f in (near.walls, near.joists, near.wall_lengths, near.bodies, near.points)]
        whole = shape("svg", *layers, viewBox=f"0 0 {DESK.width} {DESK.height}")
        assert len(canvas_of(whole)) > 2000
        canvas_of(walls_unrolled(house, room, "", STRIP))
    for box in house.boxes.values():
        parts = [opened(box, house.practice, -1, 714.0, 430.0), *fill_column(box, 560, 150, 430).children]
        said = read(canvas_of(shape("svg", *parts, viewBox="0 0 714 430"))).pages[0].extract_text()
        for conductor in box.ends:
            assert conductor.colour in said


# --- sheets ---------------------------------------------------------------------------------


@pytest.mark.parametrize("paper", PAPERS)
def test_a_mark_out_says_every_reading_on_the_paper_that_is_asked_for(house, paper):
    page = mark_out(house, "A house with Ω, ⅛, ≤ and Łódź", 7)
    data = pdf.write(page, PAPERS[paper])
    reader = read(data)
    size = PAPERS[paper]
    for sheet in reader.pages:
        wide, high = (float(v) * 25.4 / 72 for v in sheet.mediabox[2:])
        assert (wide, high) == pytest.approx((size.wide, size.high), abs=0.1)
    said, unit = words(reader), house.drawing.house.unit
    for handle, mark in house.marks.items():
        if house.home(handle) != handle or not house.rooms[house.placed[handle].room].closed:
            continue
        assert folded(f"{handle}") in said
        assert folded(format_length(mark.across, unit)) in said
    assert folded("A house with Ω, ⅛, ≤ and Łódź: mark-out") in said
    assert folded(page.foot) in said
    assert fonts(reader) <= {
        "AtkinsonHyperlegibleNext-Regular",
        "AtkinsonHyperlegibleNext-Bold",
        "NationalPark-SemiBold",
    }
    assert all("/FontFile2" in f for f in _descriptors(reader)), "every font travels with the file"
    assert pdf.write(page, PAPERS[paper]) == data, "the same page is the same file"


def _descriptors(reader):
    for page in reader.pages:
        for font in page["/Resources"]["/Font"].values():
            yield font.get_object()["/FontDescriptor"].get_object()


def test_a_house_without_a_room_and_one_of_a_single_box():
    empty = mark_out(derive(Drawing({HOUSE: House()})), "Empty", 0)
    assert "nothing to mark out" in " ".join(
        read(pdf.write(empty, PAPERS["A4"])).pages[0].extract_text().split()
    )
    one = derive(one_room(3, points=1))
    assert len(one.placed) <= 4
    for handle in one.placed:
        assert handle in words(read(pdf.write(mark_out(one, "One", 1), PAPERS["Letter"])))


@pytest.mark.parametrize("practice", ["na", "gb"])
@pytest.mark.parametrize("kind", BASES)
def test_the_sheet_of_an_errand_says_its_book_and_first_of_all_what_shuts_it(kind, practice):
    known = planned(ready(kind, practice), practice)
    stands = known.stands
    cables = [(c.id, f"role {c.id}", c.word) for c in known.facts.found.cables]
    page = errand_sheet(known, stands, name="An errand", told="today", cables=cables)
    reader = read(pdf.write(page, paper_of(load(practice))))
    said = words(reader)
    for s in stands:
        assert folded(s.task.words) in said
        for mark in s.task.marks:
            assert folded(mark) in said
    order = said.index("Order")
    for s in stands:
        for block in s.task.blocked_by:
            assert said.index(folded(known.facts.practice.said(block.why))) < order
    assert ("Marks" in said) is (known.facts.errand.wants in {*NEW, *CHANGED})
    for id_, what, _ in cables:
        assert folded(f"Cable {id_}: {what}") in said
    assert len(reader.pages) <= 2
    assert float(reader.pages[0].mediabox[3]) == pytest.approx(842 if practice == "gb" else 792, abs=1)


def test_a_sheet_that_is_to_be_one_stays_one_where_smaller_drawings_allow_it():
    square = framed(rect(0, 0, 600, 400, "plate"))
    blocks = tuple(Picture(square, high=62.0) for _ in range(4))
    page = Page(title="One", head=(), blocks=blocks, foot="", one=True)
    assert len(read(pdf.write(page, PAPERS["A4"])).pages) == 1
    loose = Page(title="One", head=(), blocks=blocks, foot="")
    assert len(read(pdf.write(loose, PAPERS["A4"])).pages) == 1
    more = tuple(Picture(square, high=78.0) for _ in range(4))
    assert len(read(pdf.write(Page(title="One", head=(), blocks=more, foot=""), PAPERS["A4"])).pages) == 2
    assert (
        len(read(pdf.write(Page(title="One", head=(), blocks=more, foot="", one=True), PAPERS["A4"])).pages)
        == 1
    )
    far = tuple(Picture(square, high=150.0) for _ in range(4))
    assert (
        len(read(pdf.write(Page(title="One", head=(), blocks=far, foot="", one=True), PAPERS["A4"])).pages)
        > 1
    )


def test_a_table_longer_than_a_sheet_says_its_head_again_and_what_keeps_together_is_not_parted():
    rows = tuple((Span(f"row {n}"), Span(f"{n} mm", large=True)) for n in range(90))
    table = Table((Column("Whose"), Column("Figure", figures=True)), rows)
    kept = KeptTogether(
        (Heading("Kept"), List(tuple(Listed(plain(f"line {n}"), done=n % 2 == 0) for n in range(12))))
    )
    reader = read(pdf.write(Page(title="Long", head=(), blocks=(table, kept), foot="foot"), PAPERS["Letter"]))
    sheets = [page.extract_text() for page in reader.pages]
    assert len(sheets) >= 3
    assert all("Whose" in s for s in sheets if "row " in s)
    [(n, _)] = [(n, s) for n, s in enumerate(sheets) if "Kept" in s]
    assert "line 0" in sheets[n]
    assert "line 11" in sheets[n]


#: What people may call a thing: letters of several alphabets, figures, and what markup is made of.
NAMES = st.text(st.sampled_from("abcÅßžЖкΔλ0123456789 <>&\"'/½Ω≤-_.()"), min_size=1, max_size=60)


@often(40)
@given(name=NAMES, said=NAMES)
def test_whatever_is_written_reads_back_and_nothing_is_taken_for_markup(name, said):
    page = Page(
        title="t", head=(Heading(name, 1, said),), blocks=(Paragraph(plain(said), caution=True),), foot=name
    )
    found = words(read(pdf.write(page, PAPERS["A4"])))
    assert found.count(folded(said)) >= 2
    assert found.count(folded(name)) >= 2
