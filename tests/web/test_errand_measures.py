"""What is measured along a way that was taken: asked, told, drawn, said in the book and on the sheet; odd
answers refused.
"""

import re
from html import unescape

import pytest

from fjeld.concealed.path import path
from fjeld.drawing.errand import Errand, Plate, Spot, Way
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.graphics.both_sides import HIGH, WIDE, both_sides
from fjeld.graphics.svg import svg
from fjeld.practice import load
from fjeld.quantities import Length
from fjeld.web.jobs.models import Job
from tests.web.errands import act, tick, words
from tests.web.test_errand_place import asked, errand, show, tell

FACTS = {
    "na": (("across", "14'"), ("source", '12"'), ("ceiling", "96 5/8"), ("joists", "9")),
    "gb": (("across", "4 m"), ("source", "450"), ("ceiling", "2400"), ("joists", "9")),
}


@pytest.fixture
def over_the_attic(started):
    """An outlet down an insulated outside wall at both ends, the way taken."""

    def begin(practice="na"):
        _, client = started(practice, "outlet")
        client.post("/errand", {"wants": "outlet", "practice": practice, "attic": "on"})
        job = Job.objects.latest("pk")
        act(client, job, "place", place="outlet")
        tell(client, job, "spot", "surface", "wall")
        for ask, value in (("lies", "elsewhere"), ("insulated", "yes"), *FACTS[practice]):
            tell(client, job, "path", ask, value)
        assert "here.met" not in show(client, job, "path"), "nothing of a way is asked before it is taken"
        assert client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P10+P8+P10"}).status_code == 302
        return job, client

    return begin


def test_a_hole_is_found_from_a_pilot_and_said_where_it_is_bored(over_the_attic):
    job, client = over_the_attic()
    html = show(client, job, "path", ask="here.met")
    assert asked(html) == "At the old box: what is met on both sides, to find the wall from?"
    tell(client, job, "path", "here.met", "pilot")
    tell(client, job, "path", "here.pilot", "3/8")
    html = show(client, job, "path")
    assert 'Middle of the plates: 2 5/8" from the pilot' in words(html)
    assert '2 5/8"</text>' in unescape(html), "and it stands in the section beside the hole"
    assert "Taken as usual: 3 1/2" in words(html)
    assert "To the middle of the plate, added up" in words(html)
    assert 'aria-label="Both sides: in the room, and above' in html
    step = client.get(f"/jobs/{job.pk}/errand/steps", {"step": "way 1"}).content.decode()
    assert step.count("Both sides: in the room") == 1, "at the step of that hole alone"
    step = words(step)
    assert 'Middle of the plates: 2 5/8" from the pilot' in step
    sheet = words(client.get(f"/jobs/{job.pk}/errand/sheet").content.decode())
    assert 'Middle of the plates: 2 5/8" from the pilot' in sheet
    tell(client, job, "path", "here.miss", "3/16")
    assert "a steel plate" in words(show(client, job, "path"))
    assert asked(show(client, job, "path", ask="here.missed")).startswith(
        "At the old box: did it come out too far"
    )


@pytest.mark.parametrize("met", ["surface", "middle", "pilot"])
@pytest.mark.parametrize("below", [False, True])
def test_both_sides_are_drawn_within_their_sheet(met, below):
    plate = Plate(met, room=Length(900), back=Length(12), pilot=Length(10))
    way = Way(
        "elsewhere",
        across=Length(3000),
        ceiling=Length(2400),
        joists=3,
        insulated=False,
        here=plate,
        chosen=("P2", "P0", "P2") if below else ("P1", "P8", "P1"),
    )
    errand = Errand("outlet", attic=not below, below=below, spot=Spot("wall", height=Length(300)), way=way)
    found = path(errand, OldBox(Handle("R1"), place="outlet", height=Length(300)), load("gb"))
    first = next(d for d in found.details if d.measure == "transfer")
    drawn = svg(both_sides(first, found.ground, "mm"))
    for name, value in re.findall(r'\b(x|x1|x2|cx|y|y1|y2|cy|width|height)="(-?[\d.]+)"', drawn):
        assert 0 <= float(value) <= (WIDE if name[0] in "xcw" and name != "cy" else max(WIDE, HIGH)), (
            name,
            value,
        )
    assert ("below" if below else "above") in drawn
    assert f"{first.answer.figures[0].value:.0f} mm there" in unescape(drawn)


def test_a_block_that_a_chain_met_shuts_the_way_and_its_step(over_the_attic):
    job, client = over_the_attic()
    tell(client, job, "path", "here.went", "4'")
    html = words(show(client, job, "path"))
    assert "Something stands 4' 3 5/8\" above the floor" in html
    tell(client, job, "path", "here.stops", "all across")
    html = words(show(client, job, "path"))
    assert "Blocked: a block across the bay" in html
    assert "It is, by the measures" in html
    tick(client, job, "look")
    refused = tick(client, job, "way 1", status=422)
    assert "not like this: a block across the bay" in words(refused.content.decode())
    tell(client, job, "path", "here.went", "7' 3 5/8\"")
    assert "nothing stands across this bay" in words(show(client, job, "path"))
    tick(client, job, "way 1")


@pytest.mark.parametrize(
    ("practice", "rise", "kept", "shown"),
    [
        ("na", "6", 6.0, "6 in 12"),
        ("na", "6 in 12", 6.0, "6 in 12"),
        ("gb", "30", 6.928, "30°"),
        ("gb", "30°", 6.928, "30°"),
    ],
)
def test_a_roof_leaves_room_for_a_drill_or_does_not(over_the_attic, practice, rise, kept, shown):
    job, client = over_the_attic(practice)
    metric = practice == "gb"
    tell(client, job, "path", "there.deep", "140" if metric else "5 1/2")
    tell(client, job, "path", "there.heel", "100" if metric else "4")
    tell(client, job, "path", "there.rise", rise)
    assert errand(job).way.there.rise == pytest.approx(kept, abs=0.01)
    html = words(show(client, job, "path"))
    assert shown in html
    assert "Blocked: too little headroom at the eave" in html
    tell(client, job, "path", "there.heel", "?")
    assert errand(job).way.there.heel is None
    assert "Blocked" not in words(show(client, job, "path"))
    tell(client, job, "path", "there.heel", "600" if metric else "24")
    assert "a straight drill and its bit stand there" in words(show(client, job, "path"))


@pytest.mark.parametrize(
    ("ask", "value", "said"),
    [
        ("here.rise", "steep", "no slope of a roof"),
        ("here.rise", "90", "no slope of a roof"),
        ("here.rise", "-2", "no slope of a roof"),
        ("here.rise", "nan", "no slope of a roof"),
        ("here.met", "a ghost", "is none of"),
        ("here.went", "12O", "is not a length"),
        ("here.went", "900 m", "is"),
        ("here.room", "4'", "not asked here"),
        ("here.nothing", "4'", "not asked here"),
        ("there.went.more", "4'", "not asked here"),
    ],
)
def test_odd_answers_of_a_way_are_refused_in_words(over_the_attic, ask, value, said):
    job, client = over_the_attic()
    before = errand(job)
    assert said in words(tell(client, job, "path", ask, value, status=422))
    assert errand(job) == before


def test_the_single_questions_get_what_is_known(over_the_attic):
    job, client = over_the_attic()
    tell(client, job, "path", "here.met", "pilot")
    tell(client, job, "path", "here.pilot", "3/8")
    tell(client, job, "path", "here.deep", "5 1/2")
    html = show(client, job, "path")
    address = next(a for a in html.split('"') if a.startswith("/bench/transfer?") and "pilot" in a).replace(
        "&amp;", "&"
    )
    assert '3 5/8"' in words(client.get(address + "&surface=1/2").content.decode())


@pytest.mark.parametrize(("practice", "above"), [("na", "attic"), ("gb", "loft")])
def test_from_where_it_can_be_reached_is_said_again_later(started, practice, above):
    job, client = started(practice, "outlet")
    tell(client, job, "path", "lies", "elsewhere")
    assert f"no {above} is open above" in words(show(client, job, "path"))
    assert "From above, down one bay" not in show(client, job, "path").split("Routes ruled out")[0]
    sent = {"field": "reached", "attic": "on", "below": "on"}
    assert client.post(f"/jobs/{job.pk}/errand/meant", sent).status_code == 302
    html = show(client, job, "path")
    assert "From above, down one bay" in html.split("Routes ruled out")[0]
    assert f"{above}, open" in html
    assert (errand(job).attic, errand(job).below) == (True, True)
    client.post(f"/jobs/{job.pk}/errand/meant", {"field": "reached"})
    assert (errand(job).attic, errand(job).below) == (False, False)
