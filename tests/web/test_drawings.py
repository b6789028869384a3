"""What is drawn: every box once, labels apart, the fill to scale, the consequence in words."""

import itertools
import re
from collections import Counter

import pytest

from fjeld.check import open_findings
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Remove, Revise
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.handles import Mint
from fjeld.formats.jobfile import decode
from fjeld.geometry import contains
from fjeld.graphics.dimension import dimension
from fjeld.graphics.floor import Floor
from fjeld.graphics.labels import clear_place, free_place, meets, overlap, place_labels
from fjeld.graphics.opened import fill_column, opened
from fjeld.graphics.projection import DESK, PHONE
from fjeld.graphics.shapes import Shape, still
from fjeld.graphics.svg import svg
from fjeld.propose.attach import settle
from fjeld.web.ui.consequence import consequence
from fjeld.web.ui.templatetags.figures import figures
from tests.houses import inches, one_room


def walk(found: Shape):
    yield found
    for child in found.children:
        yield from walk(child)


def at(found, name):
    return float(dict(found.attributes)[name])


@pytest.mark.parametrize("size", [DESK, PHONE])
@pytest.mark.parametrize("seed", [0, 1, 2, 3, 5, 10])
def test_every_box_is_drawn_once_on_the_sheet(seed, size):
    plan = derive(one_room(seed))
    floor = Floor(plan, "R1", size)
    ids = [dict(s.attributes).get("id") for s in walk(floor.points())]
    assert sorted(i[2:] for i in ids if i and i != "f-points") == sorted(plan.placed)
    for shape in walk(floor.points()):
        if shape.tag == "circle":
            assert 0 <= at(shape, "cx") <= size.width
            assert 0 <= at(shape, "cy") <= size.height


def test_the_labels_of_the_demo_do_not_collide(boot_plan):
    floor = Floor(boot_plan, "R1", DESK)
    labels = [
        s for s in walk(floor.points()) if s.tag == "text" and dict(s.attributes).get("class") == "handle"
    ]
    assert len(labels) == len(boot_plan.placed)
    boxes = [
        (at(s, "x") - 4.2 * len(s.text), at(s, "y") - 11, at(s, "x") + 4.2 * len(s.text), at(s, "y") + 2)
        for s in labels
    ]
    for a, b in itertools.combinations(boxes, 2):
        assert not (a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3])


def test_free_places_do_not_overlap():
    taken = []
    spots = [free_place((100.0, 100.0), (0.0, 1.0), 30, 50, taken) for _ in range(5)]
    assert len(set(spots)) == 5
    for a, b in itertools.combinations(taken, 2):
        assert not (a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3])
    labels = place_labels([(50.0, 50.0, "C1")] * 4, [])
    assert len(set(labels)) == 4


def test_words_find_the_place_nearest_the_middle_that_is_free_and_inside():
    bent = [(0.0, 0.0), (200.0, 0.0), (200.0, 60.0), (100.0, 60.0), (100.0, 200.0), (0.0, 200.0)]
    taken = [(80.0, 10.0, 110.0, 40.0)]
    x, y = clear_place(bent, 60, 30, taken)
    box = (x - 30, y - 15, x + 30, y + 15)
    assert taken[-1] == box
    assert not meets(box, taken[:1])
    assert all(contains(bent, (px, py)) for px in box[::2] for py in box[1::2])
    assert clear_place(bent, 210, 30, []) is None, "too wide"
    assert clear_place(bent, 60, 30, [(0.0, 0.0, 200.0, 200.0)]) is None, "nothing free"


def test_room_names_keep_clear_of_boxes_where_there_is_room():
    drawing = decode(job_file("tarn-house"))
    floor = Floor(derive(drawing), next(iter(drawing.of(Room))), DESK, whole=True)
    symbols = floor.small_symbols()
    written = [
        s for s in walk(floor.names()) if s.tag == "text" and "room-name" in dict(s.attributes)["class"]
    ]
    covered = set()
    for s in written:
        half = 4 * len(s.text)
        if meets((at(s, "x") - half, at(s, "y") - 12, at(s, "x") + half, at(s, "y") + 2), symbols):
            covered.add(s.text)
    assert covered <= {"Woodshed"}, "only the porch is too narrow for both"
    assert len(written) > 5


@pytest.mark.parametrize(
    ("start", "end", "away"),
    [((0.0, 0.0), (300.0, 0.0), (0.0, -1.0)), ((0.0, 0.0), (0.0, 90.0), (-1.0, 0.0))],
)
def test_a_figure_keeps_clear_of_what_is_drawn_where_it_can(start, end, away):
    """In the middle of its line; nearer to an end, beside it or across if something is there."""
    plain = dimension(start, end, away, 18, "9' 1 1/2\"", cls="figure-text", taken=[])
    room = 5.6 * 8 + 6

    def covers(found):
        label = next(s for s in walk(found) if s.tag == "text")
        x, y = at(label, "x"), at(label, "y")
        return x - room, y - 17, x + room, y + 5

    there = covers(plain)
    moved = covers(dimension(start, end, away, 18, "9' 1 1/2\"", cls="figure-text", taken=[there]))
    assert moved != there
    assert not meets(moved, [there])
    everywhere = [(-999.0, -999.0, 999.0, 999.0)]
    assert covers(dimension(start, end, away, 18, "9' 1 1/2\"", cls="figure-text", taken=everywhere)) == there
    # Where all about it is taken it goes farther out, and covers what it covers least of.
    x1, y1, x2, y2 = there
    about = [(x1 - 70, y1 - 30, x2 + 30, y2 + 75)]
    out = covers(dimension(start, end, away, 18, "9' 1 1/2\"", cls="figure-text", taken=list(about)))
    assert overlap(out, about[0]) < overlap(there, about[0])


@pytest.mark.parametrize(
    ("words", "kept"),
    [
        ("moved 3' 2 1/8\" east", ["3' 2 1/8\""]),
        ("12' 4\" and 1/2\" and 8'", ["12' 4\"", '1/2"', "8'"]),
        ("18.50 in³ of 20 in³, 1350 mm, 77 ft²", ["18.50 in³", "20 in³", "1350 mm", "77 ft²"]),
        ("Chandler's loft, room 3, S1 to A4", []),
        ("3.3 % of 120 V at 15 A; 172 lx", ["3.3 %", "120 V", "15 A", "172 lx"]),
    ],
)
def test_figures_in_a_sentence_keep_with_their_units(words, kept):
    made = figures(words)
    spans = re.findall(
        r'<span class="len">(.*?)</span>(?!")',
        made.replace('<span class="frac">', "").replace('</span>"', '"'),
    )
    assert spans == kept
    assert re.sub("<[^>]*>", "", made) == words, "nothing else is touched"


def test_figures_let_no_markup_through():
    assert "<b>" not in figures("<b>3' 2\"</b> & 5 mm")


@pytest.mark.parametrize("seed", range(0, 40, 4))
@pytest.mark.parametrize("width", [714.0, 328.0])
def test_a_box_shows_every_conductor_with_its_letters(seed, width):
    plan = derive(one_room(seed))
    for box in plan.boxes.values():
        if not box.ends:
            continue
        shapes = list(walk(opened(box, plan.practice, -1, width, 430.0)))
        codes = [s.text for s in shapes if dict(s.attributes).get("class") == "conductor-code"]
        assert sorted(codes) == sorted(c.colour for c in box.ends)
        wires = [s for s in shapes if dict(s.attributes).get("class", "").startswith("wire wire-")]
        assert len(wires) >= len(box.ends)
        outlines = [s for s in shapes if dict(s.attributes).get("class") == "wire-outline"]
        assert len(outlines) == len(wires), "each in two tones, so that white shows on paper"
        marks = [s for s in shapes if dict(s.attributes).get("class", "").startswith("wire-mark ")]
        assert len(marks) == sum(c.marked for c in box.ends)
        names = {s.text for s in shapes if s.tag == "text"}
        assert {c.bundle for c in box.ends} <= names


@pytest.mark.parametrize("house", ["tarn-house", "chandlers-loft"])
def test_a_mark_has_its_own_colour_and_words_of_joints_stay_apart(house):
    plan = derive(decode(job_file(house)))
    sleeved = 0
    for box in plan.boxes.values():
        shapes = list(walk(opened(box, plan.practice, -1, 860.0, 430.0)))
        classes = [dict(s.attributes).get("class", "") for s in shapes]
        for before, mark in itertools.pairwise(classes):
            if mark.startswith("wire-mark "):
                sleeved += 1
                assert mark.split()[1] != before.split()[1], "a sleeve is seen on what it is put over"
        words = sorted(
            (at(s, "y"), at(s, "x"), s.text)
            for s, c in zip(shapes, classes, strict=True)
            if "joint-words" in c
        )
        for (y, x, text), (below, beside, other) in itertools.pairwise(words):
            assert y != below or beside - x > 2.9 * (len(text) + len(other)), (
                f"{box.handle}: {text} meets {other}"
            )
    assert sleeved


def test_the_joint_in_hand_alone_is_in_colour(boot_plan):
    box = boot_plan.boxes["A4"]
    for step, joint in enumerate(box.joints):
        shapes = list(walk(opened(box, boot_plan.practice, step, 714.0, 430.0)))
        current = [s for s in shapes if dict(s.attributes).get("class") == "wire-current"]
        tails = len(joint.landings) if joint.how != "direct" else 0
        assert len(current) == len(joint.ends) + tails
        coloured = [s for s in shapes if re.match(r"wire wire-(?!off)", dict(s.attributes).get("class", ""))]
        assert len(coloured) == len(current)


@pytest.mark.parametrize("seed", range(0, 30, 3))
def test_the_fill_column_is_to_scale(seed):
    plan = derive(one_room(seed))
    for box in plan.boxes.values():
        if not box.ends:
            continue
        shapes = list(walk(fill_column(box, 700, 150, 430)))
        blocks = [s for s in shapes if dict(s.attributes).get("class", "").startswith("allowance")]
        filled = sum(at(s, "height") for s in blocks)
        line = next(s for s in shapes if dict(s.attributes).get("class", "").startswith("volume-line"))
        volume = (430 - 16.0) - at(line, "y1")
        assert filled / volume == pytest.approx(box.needed.total / box.kind.volume, rel=0.02)
        assert ("over" in dict(line.attributes)["class"]) is not box.passes


def test_a_still_picture_has_no_links_or_names(boot_plan):
    html = svg(still(Floor(boot_plan, "R1", DESK).points()))
    assert not re.search(r"<a |href=|id=|aria-label|<title", html)
    assert "<text" in html
    assert "<text" not in svg(still(Floor(boot_plan, "R1", DESK).points(), words=False))


def told(drawing, edit):
    before = derive(drawing)
    after = derive(apply(drawing, settle(drawing, edit, Mint(drawing.items))))
    parts = consequence(before, after, open_findings(before), open_findings(after), edit.words(drawing))
    return before, after, [p.words for p in parts]


def test_the_consequence_line_says_how_far_and_how_much(boot_room):
    before, after, words = told(boot_room, MovePoint("V1", x=inches(60)))
    assert words[0] == "Move V1"
    assert any(re.match(r"V1 moved .+ (east|west)", w) for w in words)

    def by_kind(plan):
        found = Counter()
        for run in plan.runs():
            found[run.kind.id] += plan.cables[run.cable].length
        return found

    old, new = by_kind(before), by_kind(after)
    for kind in {*old, *new}:
        said = [w for w in words if w.endswith(f" {kind}")]
        assert bool(said) == (abs(new[kind] - old[kind]) > 12.5), (kind, words)
        assert all(("more" in w) == (new[kind] > old[kind]) for w in said)


def test_the_consequence_line_warns_and_settles(boot_room):
    _, _, worse = told(boot_room, Revise("Q1", {"breaker": 30}))
    assert any("30 A breaker on gauge 14" in w for w in worse)
    _, _, better = told(boot_room, MovePoint("O4", at=inches(108)))
    assert any("settled" in w for w in better)
    _, _, gone = told(boot_room, Remove("A1"))
    assert any("less" in w for w in gone)
