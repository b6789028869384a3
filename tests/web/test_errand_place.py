"""Spot, path, box and proof of an errand: one answer at a time, each kept or refused in words."""

import itertools
import re
from datetime import timedelta

import pytest

from fjeld.concealed.cut import place
from fjeld.concealed.path import path
from fjeld.drawing.old_box import OldBox
from fjeld.formats import jobfile
from fjeld.oldbox.arrangements import arrangements
from fjeld.practice import load
from fjeld.web.errand.stones import STEPS, steps_of
from fjeld.web.jobs.models import Job
from fjeld.web.places.kinds import KINDS
from tests.web.errands import ALLOWED, DEAD, PAIRS, act, read, tick, words
from tests.web.hand import Hand
from tests.web.test_access import ROLES

PARTS = ("spot", "path", "box", "proof")


def show(client, job, part, status=200, **query):
    response = client.get(f"/jobs/{job.pk}/errand/{part}", query)
    assert response.status_code == status, response.content[:2000]
    return response.content.decode()


def tell(client, job, part, ask, value, status=302, **more):
    response = client.post(f"/jobs/{job.pk}/errand/{part}/told", {"ask": ask, "value": value, **more})
    assert response.status_code == status, response.content[:3000]
    job.refresh_from_db()
    return response.content.decode()


def errand(job):
    return Job.objects.get(pk=job.pk).head.document.drawing.house.errand


def asked(html):
    found = re.search(r'<h2 id="next-title"[^>]*>(.*?)</h2>', html, re.S)
    return words(found[1]).strip()


@pytest.mark.parametrize("part", PARTS)
@pytest.mark.parametrize("kind", list(KINDS))
def test_every_step_of_every_errand_opens(started, kind, part):
    job, client = started("gb" if kind in ("light", "move") else "na", kind)
    html = show(client, job, part)
    assert 'aria-current="step"' in html or STEPS[part][0] not in [STEPS[s][0] for s in steps_of(kind)]
    for step in steps_of(kind):
        assert f">{STEPS[step][0]}</a>" in html


def test_a_spot_is_told_one_question_at_a_time(started):
    job, client = started(wants="outlet")
    assert asked(show(client, job, "spot")) == "Does it go into a wall or a ceiling?"
    tell(client, job, "spot", "surface", "wall")
    tell(client, job, "spot", "covering", "wallboard")
    assert asked(show(client, job, "spot")) == "Did you look at the other side?"
    tell(client, job, "spot", "left", "16 3/4", by="probe")
    tell(client, job, "spot", "right", '31 1/4"', by="")
    said = words(show(client, job, "spot"))
    # An eighth of an inch for the wire on the left, nothing for the stud that is seen.
    assert "its middle, from 1' 6 1/4\"" in said
    assert "to 2' 5 7/8\"" in said
    assert "usual" in said, "until the box in hand is named"
    tell(client, job, "spot", "box", "cut-in-1")
    tell(client, job, "spot", "along", "4", status=302)
    html = show(client, job, "spot")
    assert "is refused; the nearest is" in words(html)
    tell(client, job, "spot", "along", "2'")
    tell(client, job, "spot", "height", '15"')
    said = words(show(client, job, "spot"))
    assert "Mark it; the cut waits" in said
    for look in place(errand(job), load("na")).looks:
        tell(client, job, "spot", look, "clear")
    said = words(show(client, job, "spot"))
    assert "Mark, then cut" in said
    assert "Jab saw" in said
    assert errand(job).spot.left_by == "probe"


def test_any_answer_may_stay_open_and_is_listed(started):
    job, client = started(wants="outlet")
    tell(client, job, "spot", "surface", "?")
    assert asked(show(client, job, "spot")) == "What is the surface?"
    tell(client, job, "spot", "covering", "later")
    tell(client, job, "spot", "left", "?")
    assert errand(job).spot.later == ("surface", "covering", "left")
    html = show(client, job, "spot", ask="surface")
    assert asked(html) == "Does it go into a wall or a ceiling?"
    tell(client, job, "spot", "surface", "ceiling")
    assert errand(job).spot.later == ("covering", "left")
    tell(client, job, "spot", "left", '3"', by="screws")
    tell(client, job, "spot", "left", "?")
    assert errand(job).spot.left is None
    assert errand(job).spot.left_by == ""


@pytest.mark.parametrize(
    ("part", "ask", "value", "said"),
    [
        ("spot", "left", "12O", "is not a length"),
        ("spot", "left", "", "left empty"),
        ("spot", "left", "1,200 mm", "thousands mark"),
        ("spot", "surface", "floor", "is none of"),
        ("spot", "box", "a bucket", "is none of"),
        ("spot", "other side", "maybe", "is none of"),
        ("spot", "no such", "x", "not asked here"),
        ("spot", "height", "900 m", "is"),
        ("path", "joists", "many", "no number of members"),
        ("path", "joists", "9999", "no number of members"),
        ("path", "base", "perhaps", "is none of"),
        ("path", "lies", "under the sea", "is none of"),
    ],
)
def test_what_cannot_be_read_is_refused_where_it_was_typed(started, part, ask, value, said):
    job, client = started(wants="outlet")
    act(client, job, "place", place="outlet")
    before = errand(job)
    form = {"by": "probe"} if ask == "left" else {}
    if ask == "joists":
        tell(client, job, "spot", "surface", "ceiling")
        before = errand(job)
    html = tell(client, job, part, ask, value, status=422, **form)
    assert said in words(html)
    assert errand(job) == before
    if value and ask in ("left", "height", "joists"):
        assert f'value="{value}"' in html, "what was typed stands there still"


def test_a_stop_at_the_spot_keeps_the_cut_from_being_ticked(started):
    job, client = started(wants="outlet")
    tell(client, job, "spot", "surface", "wall")
    Hand(client, job).spot()
    tell(client, job, "spot", "pocket door", "there")
    assert "no cutting into this wall" in words(show(client, job, "spot"))
    for step in ("look", "mark", "probe"):
        tick(client, job, step)
    refused = tick(client, job, "cut", status=422)
    assert "no cutting into this wall" in words(refused.content.decode())
    tell(client, job, "spot", "pocket door", "clear")
    tick(client, job, "cut")


def test_a_way_is_taken_and_its_length_is_told(started):
    job, client = started(wants="light")
    client.post("/errand", {"wants": "light", "practice": "na", "attic": "on"})
    job = Job.objects.latest("pk")
    act(client, job, "place", place="switch")
    tell(client, job, "spot", "surface", "ceiling")
    html = show(client, job, "path")
    assert asked(html) == "How does the new place lie to the old box?"
    tell(client, job, "path", "lies", "across the joists")
    for ask, value in (
        ("joists", "4"),
        ("across", "14'"),
        ("source", '46"'),
        ("ceiling", "96 5/8"),
        ("insulated", "no"),
    ):
        tell(client, job, "path", ask, value)
    html = words(show(client, job, "path"))
    assert "23' 6" in html
    assert "67 min for an experienced installer, 1 hole, two people" in html
    response = client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P7+P9"})
    assert response.status_code == 302
    assert errand(job).way.chosen == ("P7", "P9")
    book = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "Over the corner of wall and ceiling" in book
    assert "Patch, coat after coat" in book, "this way leaves openings"
    client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P1+P8"})
    book = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "Patch, coat after coat" not in book
    assert "Parts and tools to take along" in book
    assert "chain and a magnet" in book
    tell(client, job, "path", "duct", "there")
    refused = client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P1+P8"})
    assert refused.status_code == 422
    assert "blocked: a duct in the way" in words(refused.content.decode())
    assert client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P99"}).status_code == 422


def test_the_boxes_are_read_and_told_before_and_after(started):
    job, client = started(wants="outlet", usual="Two cables, dark on one side")
    assert asked(show(client, job, "box")) == "What gauge are its cables?"
    act(client, job, "look", field="gauge", value="14", back="errand-box")
    act(client, job, "look", field="size", value="3 x 2 x 2 3/4", back="errand-box")
    act(client, job, "look", field="clamps", value="yes", back="errand-box")
    html = words(show(client, job, "box"))
    assert "20 of 14 in³" in html
    assert "does not fit" in html
    assert "As found it is over already, by 2.00 in³" in html
    assert "a ring that adds 6.00 in³" in html.replace("  ", " ")
    assert "Boxes that take it all" in html
    assert act(client, job, "look", field="size", value="huge", status=422)


def test_a_larger_box_is_chosen_and_how_the_old_one_comes_out(started):
    job, client = started(wants="larger box")
    for field, value in (("gauge", "12"), ("volume", "14"), ("clamps", "no")):
        act(client, job, "look", field=field, value=value, back="errand-box")
    assert asked(show(client, job, "box")) == "How is it held?"
    act(client, job, "look", field="fixing", value="cut in", back="errand-box")
    html = show(client, job, "box")
    assert "Back the screws out four turns" in words(html)
    response = client.post(
        f"/jobs/{job.pk}/errand/spot/told", {"ask": "box", "value": "cut-in-2", "back": "errand-box"}
    )
    assert response.status_code == 302
    assert response.url.endswith("/errand/box")
    assert "Taken" in words(show(client, job, "box"))
    assert act(client, job, "look", field="fixing", value="with tape", status=422)


def test_the_proof_says_in_which_case_it_fails_and_which_reading_tells(started):
    job, client = started(wants="light")
    html = words(show(client, job, "proof"))
    assert "Works in some cases, fails in others" in html
    assert "it would be dead when a switch is off" in html.lower()
    assert "10 pairs, in every position of every switch" in html
    read(client, job, "R4", **{"stands:S": "open", "volts:1.BK": "120.1", "volts:2.BK": "0.3"})
    html = words(show(client, job, "proof"))
    assert "Works in every case that is left" in html
    client.post(f"/jobs/{job.pk}/errand/meant", {"same_switch": "yes"})
    assert errand(job).same_switch
    html = words(show(client, job, "proof"))
    assert "Works in every case that is left" in html
    assert "S off" in html
    assert "dead" in html


def test_a_dead_test_fills_its_triangle_and_absence_empties_it_of_meaning(started):
    job, client = started(wants="light")
    tick(client, job, "breaker")
    tick(client, job, "dead", **DEAD)
    html = show(client, job, "proof")
    assert html.count('class="pair-dead"') == len(PAIRS)
    assert "All dead, by owner" in words(html)
    tick(client, job, "", event="away")
    assert "it holds no longer: somebody was away" in words(show(client, job, "proof"))


def test_a_step_is_timed_from_begun_to_done(started):
    job, client = started(wants="light")
    tick(client, job, "look", event="begun")
    html = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "Begun at" in html
    kept = job.records.get(body__event="begun")
    type(kept).objects.filter(pk=kept.pk).update(when=kept.when - timedelta(minutes=40))
    tick(client, job, "look")
    html = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "By your own log: looking and marking × 2 for an experienced installer" in html.replace("  ", " ")


@pytest.mark.parametrize("role", ROLES)
def test_every_role_at_the_new_addresses(started, as_, role):
    job, _ = started()
    client = as_(role)
    for part in PARTS:
        seen = client.get(f"/jobs/{job.pk}/errand/{part}").status_code
        assert seen == (404 if role == "stranger" else 302 if role is None else 200), part
    before = Job.objects.get(pk=job.pk).head_id
    sent = [
        client.post(f"/jobs/{job.pk}/errand/spot/told", {"ask": "surface", "value": "wall"}),
        client.post(f"/jobs/{job.pk}/errand/path/told", {"ask": "lies", "value": "elsewhere"}),
        client.post(f"/jobs/{job.pk}/errand/meant", {"same_switch": "yes"}),
    ]
    assert {r.status_code for r in sent} == {ALLOWED[role]}
    assert (Job.objects.get(pk=job.pk).head_id != before) == (role in ("owner", "editor"))


def test_no_sequence_of_odd_answers_breaks_a_page(started):
    job, client = started(wants="outlet")
    odd = (
        "",
        "?",
        "later",
        "0",
        "-1",
        "wall",
        "<b>x</b>",
        "\x00",
        "inf",
        "1e9",
        "clear",
        "yes",
        "12'",
    )
    asks = [a.id for a in place(errand(job), load("na")).asks]
    old = next(iter(Job.objects.get(pk=job.pk).head.document.drawing.of(OldBox).values()))
    asks_way = [a.id for a in path(errand(job), old, load("na")).asks]
    for part, names in (("spot", asks), ("path", [*asks_way, "joists"])):
        for ask, value in itertools.product([*names, "", "later", "seen"], odd):
            form = {"ask": ask, "value": value, "by": value}
            assert client.post(f"/jobs/{job.pk}/errand/{part}/told", form).status_code in (302, 404, 422), (
                part,
                ask,
                value,
            )
        for shown in (*PARTS, "steps", "kept", "kept.json"):
            assert client.get(f"/jobs/{job.pk}/errand/{shown}").status_code == 200, (part, shown)


def test_spot_and_way_travel_in_a_job_file(started):
    job, client = started(wants="outlet")
    for part, ask, value in (
        ("spot", "surface", "wall"),
        ("spot", "left", "16 3/4"),
        ("spot", "duct", "clear"),
        ("path", "across", "9' 2\""),
        ("path", "base", "yes"),
    ):
        tell(client, job, part, ask, value, **({"by": "probe"} if ask == "left" else {}))
    told = errand(job)
    drawing = Job.objects.get(pk=job.pk).head.document.drawing
    back = jobfile.decode(jobfile.encode(drawing))
    assert back.house.errand == told
    assert back.house.errand.spot.left.typed == '16 3/4"'


def test_boxes_are_named_by_what_they_are():
    for practice in ("na", "gb"):
        names = [b.name for b in load(practice).catalogue.old_work]
        assert len(names) == len(set(names))


def test_before_it_is_opened_what_may_be_in_it_and_whether_that_feeds_anything(started):
    job, client = started(wants="light", usual="")
    act(client, job, "place", place="switch")
    said = words(client.get(f"/jobs/{job.pk}/errand").content.decode())
    assert "Not opened yet? Any of these may be in it." in said
    assert "75% hold a line that stays live with the switch off; with one cable, none" in said
    assert "no source: no line and neutral of one circuit in it" in said, "a switch loop"
    assert re.search(r"a source in \d+% of what it may be", said)
    job, client = started(wants="replace", usual="")
    act(client, job, "place", place="switch")
    said = words(client.get(f"/jobs/{job.pk}/errand").content.decode())
    assert "a source in" not in said, "nothing new is fed from what is replaced"


def test_any_reading_can_be_taken_in_any_order(started):
    job, client = started(wants="light")
    html = client.get(f"/jobs/{job.pk}/errand").content.decode()
    offered = set(re.findall(r"take=(R\d+)", html))
    assert {"R3", "R5", "R6", "R8", "R16", "R17"} <= offered
    for reading in offered:
        assert client.get(f"/jobs/{job.pk}/errand?take={reading}").status_code == 200, reading


def test_wires_too_short_and_a_box_too_far_back(started):
    job, client = started(wants="short wires", usual="Two cables, dark on one side")
    for field, value in (
        ("gauge", "14"),
        ("volume", "18"),
        ("clamps", "no"),
        ("free", "2"),
        ("sheath", '1/4"'),
        ("past", '3"'),
    ):
        act(client, job, "look", field=field, value=value, back="errand-box")
    said = words(show(client, job, "box"))
    assert "with lever connectors" in said, "under three inches"
    act(client, job, "look", field="free", value='1"', back="errand-box")
    assert "No connector can be put on so short a wire" in words(show(client, job, "box"))
    act(client, job, "look", field="free", value='7"', back="errand-box")
    assert "Long enough as it is" in words(show(client, job, "box"))
    act(client, job, "look", field="setback", value='1/4"', back="errand-box")
    assert "an extender" not in words(show(client, job, "box"))
    act(client, job, "look", field="setback", value='3/8"', back="errand-box")
    assert "a box extender of" in words(show(client, job, "box"))
    refused = act(client, job, "look", field="free", value="short", status=422)
    assert "is not a length" in words(refused.content.decode())
    act(client, job, "look", field="free", value="", back="errand-box")
    assert "Long enough" not in words(show(client, job, "box"))


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_no_clause_of_the_other_practice_is_cited(started, practice):
    job, client = started(practice, "light")
    other = "NEC" if practice == "gb" else "BS 7671"
    act(client, job, "look", field="alone", value="no")
    act(client, job, "look", field="condition", value="aluminium")
    for part in ("", "/spot", "/path", "/box", "/proof", "/steps", "/sheet", "/kept"):
        # What is read, not the tokens of its forms: those may hold any letters.
        html = client.get(f"/jobs/{job.pk}/errand{part}").content.decode()
        assert other not in words(html), part
    if practice == "gb":
        for part in ("/steps", "/sheet"):
            said = words(client.get(f"/jobs/{job.pk}/errand{part}").content.decode())
            assert not re.search(r"\binch(es)?\b|\bground\b|\bgrounds\b", said), part


def test_an_edge_is_not_taken_as_seen_in_the_open_unless_somebody_says_so(started):
    job, client = started(wants="outlet")
    html = show(client, job, "spot", ask="left")
    chosen = re.findall(r'name="by" value="(\w*)" checked', html)
    assert chosen == ["probe"]
    tell(client, job, "spot", "left", "3", by="")
    assert re.findall(r'name="by" value="(\w*)" checked', show(client, job, "spot", ask="left")) == [""]


def test_the_box_that_is_taken_as_the_source_is_the_one_that_all_else_is_of(started):
    job, client = started(wants="light")
    tick(client, job, "breaker")
    tick(client, job, "dead", **DEAD)
    act(client, job, "another")
    job.refresh_from_db()
    act(client, job, "place", box="E2", place="outlet")
    n = next(n for n, a in enumerate(arrangements("na")) if a.words.startswith("One cable on the outlet"))
    act(client, job, "begin", box="E2", usual=n)
    assert 'aria-label="10 of 10 pairs read"' in show(client, job, "proof"), (
        "the first, as long as nothing is said"
    )
    assert client.post(f"/jobs/{job.pk}/errand/meant", {"source": "E2"}).status_code == 302
    assert errand(job).source == "E2"
    assert 'aria-label="0 of 6 pairs read"' in show(client, job, "proof")
    assert "E2 outlet" in words(client.get(f"/jobs/{job.pk}/errand").content.decode())
    refused = tick(client, job, "open", status=422)
    assert "prove the tester" in words(refused.content.decode()), "another box was tested"
    assert client.post(f"/jobs/{job.pk}/errand/meant", {"source": "E9"}).status_code == 404


def test_a_box_goes_where_its_fittings_body_lines_up(started):
    job, client = started()
    here = f"/jobs/{job.pk}/errand/spot"
    client.post(f"{here}/told", {"ask": "surface", "value": "wall"})
    assert "Or by the fitting’s body" in client.get(here, {"ask": "height"}).content.decode()
    assert "fitting’s body" not in client.get(here, {"ask": "left"}).content.decode()
    lantern = {"ask": "height", "body:high": "14", "body:below": "9", "body:top": "82"}
    assert client.post(f"{here}/told", lantern).status_code == 302
    job.refresh_from_db()
    assert job.head.document.drawing.house.errand.spot.height.mm == pytest.approx(77 * 25.4)
    edge = {"ask": "along", "body:wide": "7", "body:left_edge": "6"}
    assert client.post(f"{here}/told", edge).status_code == 302
    job.refresh_from_db()
    assert job.head.document.drawing.house.errand.spot.along.mm == pytest.approx(9.5 * 25.4)
    for form, said in (
        ({"ask": "height", "body:top": "82"}, "height of the body"),
        ({"ask": "height", "body:high": "tall", "body:top": "82"}, "Body, how tall"),
        ({"ask": "height", "body:high": "90", "body:below": "2", "body:top": "10"}, "below the floor"),
    ):
        refused = client.post(f"{here}/told", form)
        assert refused.status_code == 422
        assert said in words(refused.content.decode()), form
