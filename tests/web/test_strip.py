"""The unrolled walls: what stands left in the room stands left on the strip."""

import re
from importlib import resources

import pytest
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Opening, Panel, Room, Side
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, House, Point
from fjeld.formats.jobfile import decode
from fjeld.graphics.projection import Size
from fjeld.graphics.strip import STRIP, Scale, walls_unrolled
from fjeld.graphics.svg import svg
from tests.houses import inches

CLOCKWISE = ((90, 144), (180, 120), (270, 144), (0, 120))
COUNTER = ((180, 120), (90, 144), (0, 120), (270, 144))


def plan_of(legs, wall):
    room = Room("Room", tuple(Side(float(b), inches(n)) for b, n in legs), "living")
    items = {
        HOUSE: House(),
        "R1": room,
        "P1": Panel("R1", 1, inches(30)),
        "O1": Point("outlet", "R1", wall, inches(20)),
        "O2": Point("outlet", "R1", wall, inches(100)),
        "D1": Opening("door", "R1", wall, inches(50), inches(30)),
    }
    return derive(Drawing(items))


def label_x(html, handle):
    found = re.search(rf"<text([^>]*)>{handle}</text>", html)
    return float(re.search(r' x="([0-9.]+)"', found[1])[1])


@pytest.mark.parametrize(("legs", "wall", "first"), [(CLOCKWISE, 1, "O1"), (COUNTER, 3, "O1")])
def test_seen_from_inside(legs, wall, first):
    """Faced from inside, the nearer a box is to one's left hand, the further left it is drawn."""
    plan = plan_of(legs, wall)
    where = plan.rooms["R1"]
    assert where.closed
    html = svg(walls_unrolled(plan, "R1", "", Size(700, 280), wall))
    xs = {h: label_x(html, h) for h in ("O1", "D1", "O2")}
    nx, ny = where.walls[wall - 1].normal
    # Facing the wall, the right hand points along the inward normal turned a quarter to the left on the
    # sheet.
    right = {h: plan.placed[h].position[0] * ny - plan.placed[h].position[1] * nx for h in ("O1", "O2")}
    assert (xs["O1"] < xs["O2"]) == (right["O1"] < right["O2"])
    assert min(xs["O1"], xs["O2"]) < xs["D1"] < max(xs["O1"], xs["O2"])
    assert (plan.placed[first].along, where.walls[wall - 1].length) == (
        pytest.approx(20 * 25.4),
        pytest.approx(120 * 25.4 if wall == 3 else 144 * 25.4),
    )


def test_heights_and_lengths_are_to_one_scale():
    at = Scale(4000, 2400, Size(832, 168))
    assert at.x(1000) - at.x(0) == pytest.approx(at.y(0) - at.y(1000))
    turned = Scale(4000, 2400, Size(832, 168), True)
    assert turned.x(0) == pytest.approx(at.x(4000))
    assert turned.span(500, 900)[1] == pytest.approx(at.span(500, 900)[1])


def test_what_is_too_far_is_marked_with_how_far():
    html = svg(walls_unrolled(plan_of(CLOCKWISE, 1), "R1", "O1", Size(832, 168)))
    assert "reach-short" in html
    assert "too far" in html
    assert "bottom 1" in html, "the selected box tells its height and edge"


def test_a_room_that_stands_open_has_no_strip():
    room = Room("Room", (Side(90.0, inches(100)),))
    plan = derive(Drawing({HOUSE: House(), "R1": room}))
    assert "strip-wall" not in svg(walls_unrolled(plan, "R1", "", Size(832, 168)))
    assert "strip-wall" in svg(walls_unrolled(plan, "R1", "", Size(832, 168), 1)), "its last wall alone has"


@pytest.mark.parametrize("name", ["tarn-house", "chandlers-loft"])
def test_the_height_of_every_box_lies_on_the_strip_whole(name):
    """Its width is that of the font that the page shows it in, at the size of its style."""
    fonts = resources.files("fjeld.graphics").joinpath("fonts", "text-700.ttf")
    pdfmetrics.registerFont(TTFont("strip", str(fonts)))
    plan = derive(decode(job_file(name)))
    seen = 0
    for handle, placed in plan.placed.items():
        html = svg(walls_unrolled(plan, placed.room, handle, STRIP))
        for x, anchor, words in re.findall(
            r'<text class="strip-height" x="([-0-9.]+)" [^>]*text-anchor="(\w+)">([^<]+)</text>', html
        ):
            seen += 1
            wide = pdfmetrics.stringWidth(words.replace("&quot;", '"'), "strip", 14)
            left = float(x) - (wide if anchor == "end" else 0)
            assert 0 <= left <= STRIP.width - wide, (handle, words)
    assert seen > 20
