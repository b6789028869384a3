"""Errands: one thing in a finished room, from the first page to what the box is."""

import itertools
import json
import random
import re

import pytest

from fjeld.drawing.edits.common import Revise
from fjeld.drawing.errand import Errand
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import as_found, drawn_as
from fjeld.formats import document, jobfile
from fjeld.graphics.picture import picture
from fjeld.graphics.svg import svg
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.infer import infer
from fjeld.practice import load
from fjeld.practice.devices import screws_of
from fjeld.web.errand import demo as errand_demo
from fjeld.web.http import store
from fjeld.web.jobs.models import Job, Member, Record
from fjeld.web.places.kinds import KINDS
from fjeld.web.places.planned import log_of
from fjeld.work.book import book
from fjeld.work.standing import standing
from tests.core.test_book import NEVER
from tests.often import OFTEN
from tests.web.errands import ALLOWED, DEAD, PAIRS, R4, SWITCH, act, page, read, tick, words
from tests.web.hand import Hand
from tests.web.test_access import ROLES


@pytest.mark.parametrize("practice", ["na", "gb"])
@pytest.mark.parametrize("kind", list(KINDS))
def test_each_errand_begins_with_what_is_in_front_of_you(as_, people, kind, practice):
    client = as_("owner")
    client.post("/errand", {"wants": kind, "practice": practice, "attic": "on"})
    job = Job.objects.latest("pk")
    said = words(page(client, job))
    assert "What is in front of you?" in said
    assert KINDS[kind].words.replace("’", "&#x27;") in said or KINDS[kind].words in said
    house = job.head.document.drawing.house
    assert (house.errand.wants, house.errand.attic, house.errand.below) == (kind, True, False)


def test_nothing_wanted_is_asked_again(as_, people):
    response = as_("owner").post("/errand", {"practice": "na"})
    assert response.status_code == 422
    assert "Say what is wanted" in response.content.decode()


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_every_usual_box_is_recorded_as_it_is_drawn(practice):
    for usual in arrangements(practice):
        old = drawn_as(OldBox("R1"), usual.box)
        assert as_found(old) == usual.box
        assert infer(as_found(old), load(practice)).left, usual.words


def test_a_feed_is_told_by_one_reading_and_its_neutral_by_another(started):
    job, client = started()
    assert "Voltage to ground at each terminal, every switch position" in words(page(client, job))
    assert (
        "works unless Cable 1 is switched line and neutral, cable 2 is the feed: it would be dead"
        in words(page(client, job))
    )
    read(client, job, "R4", **R4)
    said = words(page(client, job))
    assert "1: the feed settled" in said
    assert "works in every case left" in said
    assert "2: switched line and neutral settled" in said
    assert "Is it a neutral" in said
    read(
        client,
        job,
        "R5",
        **{
            "between:1.BK-1.WH": "119.8",
            "between:1.BK-1.WH:loaded": "119.5",
            "lamps_out": "on",
            "lamp": "bright",
        },
    )
    said = words(page(client, job))
    assert "1.WH with 2.WH is the neutral" in said
    assert said.count("Is it a neutral") == 1, "among the other readings only"


def test_readings_that_contradict_stop_the_work_and_can_be_struck_out(started):
    job, client = started()
    read(client, job, "R4", **R4)
    read(client, job, "R4", **{"stands:S": "open", "volts:1.BK": "0.2", "volts:2.BK": "119.9"})
    assert "disagree on" in words(page(client, job))
    last = job.records.latest("pk")
    assert client.post(f"/jobs/{job.pk}/errand/strike", {"record": last.pk}).status_code == 302
    assert "settled" in words(page(client, job))
    client.post(f"/jobs/{job.pk}/errand/strike", {"record": last.pk})
    assert "disagree on" in words(page(client, job))


def test_what_is_sent_twice_is_kept_once(started):
    job, client = started()
    for _ in range(3):
        read(client, job, "R4", token="made-in-the-page-1", **R4)
    assert job.records.count() == 1
    read(client, job, "R4", token="made-in-the-page-2", **R4)
    assert job.records.count() == 2


def test_an_unproven_tester_settles_nothing(started):
    job, client = started()
    read(client, job, "R4", proven="", **R4)
    said = words(page(client, job))
    assert "not proven before and after" in said
    assert "the feed open" in said


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"volts:1.BK": "12O V"}, "is not a reading"),
        ({}, "nothing was read"),
        ({"volts:1.BK:loaded": "3"}, "without a load is wanted"),
        ({"volts:1.BK": "-5"}, "is not a reading"),
        ({"volts:1.BK": "9" * 30}, "no meter shows"),
    ],
)
def test_a_reading_that_cannot_be_read_is_refused_at_its_place(started, form, said):
    job, client = started()
    html = read(client, job, "R4", status=422, **form).content.decode()
    assert said in words(html)
    assert job.records.count() == 0
    # What was typed stands as it was typed.
    for value in form.values():
        assert f'value="{value}"' in html
    assert re.search(r'name="proven"\s+checked', html)


def test_a_reading_of_what_has_gone_is_listed_and_not_gone_by(started):
    job, client = started()
    read(client, job, "R4", **R4)
    act(client, job, "strike", cable=2)
    said = words(page(client, job))
    assert "there is no “2.BK” in this box" in said
    assert job.records.count() == 1
    assert client.post(f"/jobs/{job.pk}/survey/undo").status_code == 302
    assert "1: the feed settled" in words(page(client, job))


def test_ends_are_joined_landed_and_left_loose(started):
    job, client = started(usual="")
    act(client, job, "place", place="switch")
    act(client, job, "cable", cores=2)
    act(client, job, "cable", cores=2)
    act(client, job, "device", kind="switch")
    act(client, job, "join", end="1.BK", to="S.a")
    act(client, job, "join", end="2.BK", to="S.b")
    act(client, job, "join", end="1.WH", to="2.WH")
    act(client, job, "join", end="1.G", to="2.G")
    old = job.head.document.drawing.get("E1", OldBox)
    wanted = next(a for a in arrangements("na") if a.words.startswith(SWITCH))
    assert as_found(old).cables == wanted.box.cables
    assert {frozenset(j) for j in as_found(old).joints} == {frozenset(j) for j in wanted.box.joints}
    assert as_found(old).devices == wanted.box.devices
    # What stood on a screw is joined: a tail goes to the screw.
    act(client, job, "cable", cores=2)
    act(client, job, "join", end="3.BK", to="1.BK")
    old = job.head.document.drawing.get("E1", OldBox)
    assert {"1.BK", "3.BK", "S.a"} in [{*j} for j in as_found(old).joints]
    act(client, job, "join", end="3.BK", to="")
    act(client, job, "device", off="S")
    old = job.head.document.drawing.get("E1", OldBox)
    assert not old.held
    assert not any(end.startswith("S.") for joint in old.joints for end in joint)


def test_what_is_struck_out_gives_its_name_to_nothing_else(started):
    """Readings go by names: that of a cable beside the one struck out stays its own, and a new cable has none
    of them.
    """
    job, client = started()
    act(client, job, "cable", cores=2)
    read(client, job, "R4", **{"volts:2.BK": "0.3", "volts:3.BK": "119.8", "every_switch": "on"})
    act(client, job, "strike", cable="1")
    old = job.head.document.drawing.get("E1", OldBox)
    assert [c.id for c in old.cables] == ["2", "3"]
    assert not any(e.startswith("1.") for j in old.joints for e in j)
    said = words(page(client, job))
    assert "119.8" in said
    assert "there is no" not in said, "both of its ends are there still"
    act(client, job, "strike", cable="3")
    act(client, job, "cable", cores=2)
    old = job.head.document.drawing.get("E1", OldBox)
    assert [c.id for c in old.cables] == ["2", "4"]
    assert "there is no “3.BK” in this box" in words(page(client, job)), (
        "it counts for none that came after it"
    )
    act(client, job, "device", off="S")
    act(client, job, "device", kind="switch")
    old = job.head.document.drawing.get("E1", OldBox)
    assert [d.id for d in old.held] == ["S2"]
    for number in ("2", "4"):
        act(client, job, "strike", cable=number)
    act(client, job, "begin", usual=0)
    old = job.head.document.drawing.get("E1", OldBox)
    assert {c.id for c in old.cables}.isdisjoint({"1", "2", "3", "4"})
    assert {d.id for d in old.held}.isdisjoint({"S", "S2"})
    known = {*old.ends, *(d.at(t) for d in old.held for t in (*screws_of(d.kind), "g"))}
    assert {e for j in old.joints for e in j} | {
        e for d in old.held for on in d.lands.values() for e in on
    } <= known


@pytest.mark.parametrize(
    ("action", "form", "said"),
    [
        ("join", {"end": "9.BK", "to": "1.WH"}, "there is no 9.BK"),
        ("join", {"end": "1.BK", "to": "1.BK"}, "the same end"),
        ("join", {"end": "1.BK", "to": "S.zz"}, "has no zz"),
        ("begin", {"usual": "99"}, "no such box"),
        ("place", {"place": "attic"}, "no place"),
        ("cable", {"cores": "7"}, "two conductors or three"),
        ("device", {"kind": "toaster"}, "no device"),
        ("strike", {"cable": "9"}, "no such cable"),
        ("look", {"field": "volume", "value": "much"}, "is no volume"),
        ("look", {"field": "name", "value": "x"}, "is asked of a box"),
        ("look", {"field": "gauge", "value": "7"}, "is no gauge"),
    ],
)
def test_what_cannot_be_is_refused_in_words_and_changes_nothing(started, action, form, said):
    job, client = started()
    before = job.head_id
    assert said in words(act(client, job, action, status=422, **form).content.decode())
    assert job.head_id == before


def test_a_box_of_nine_cables_is_told_and_kept(started):
    job, client = started()
    for _ in range(7):
        act(client, job, "cable", cores=2)
    for n in range(2, 10):
        act(client, job, "join", end=f"{n}.WH", to="1.WH")
    said = words(page(client, job))
    assert "9 cables are more than can be told apart" in said
    assert len(job.head.document.drawing.get("E1", OldBox).cables) == 9


def test_gates_are_answered_one_by_one(started):
    job, client = started()
    for field, value in (
        ("ground", "present"),
        ("condition", "sound"),
        ("serves", "general"),
        ("amps", "15"),
        ("gauge", "14"),
        ("volume", "18"),
        ("clamps", "no"),
        ("opening", "yes"),
        ("accessible", "yes"),
        ("alone", "yes"),
        ("beside", "300"),
    ):
        act(client, job, "look", field=field, value=value)
    read(client, job, "R4", **R4)
    read(
        client,
        job,
        "R5",
        **{
            "between:1.BK-1.WH": "119.8",
            "between:1.BK-1.WH:loaded": "119.5",
            "lamps_out": "on",
            "lamp": "bright",
        },
    )
    said = words(page(client, job))
    assert "2 things still to find out" in said, "the way, and what it sets off"
    act(client, job, "look", field="use", value="living")
    for ask, value in (("lies", "along the joists"), ("across", "9'"), ("source", '46"'), ("ceiling", "8'")):
        told = client.post(f"/jobs/{job.pk}/errand/path/told", {"ask": ask, "value": value})
        assert told.status_code == 302
    assert client.post(f"/jobs/{job.pk}/errand/path/told", {"way": "P7"}).status_code == 302
    job.refresh_from_db()
    assert "A way of about 45 minutes" in words(page(client, job))
    assert "Arc-fault protection of that circuit" in words(page(client, job))
    assert "This box can be the source" in words(page(client, job))
    act(client, job, "look", field="amps", value="20")
    assert "Not from this box" in words(page(client, job))
    act(client, job, "look", field="amps", value="")
    assert "Is the breaker right" in words(page(client, job))


def test_a_reading_with_the_breaker_off_says_which_and_contradicts_nothing(started):
    job, client = started()
    read(client, job, "R4", **R4)
    assert "The breaker is off that makes this dead" in words(page(client, job, take="R3"))
    dead = {"stands:S": "open", "volts:1.BK": "0.1", "volts:2.BK": "0.1"}
    assert "known to make dead" in words(read(client, job, "R3", status=422, **dead).content.decode())
    read(client, job, "R3", off="1.BK", **dead)
    said = words(page(client, job))
    assert "1: the feed settled" in said
    assert "disagree" not in said


def test_several_boxes_stand_side_by_side(started):
    job, client = started()
    assert client.post(f"/jobs/{job.pk}/errand/do/another", {"box": "E1"}).status_code == 302
    said = words(page(client, job, box="E2"))
    assert "What is in front of you?" in said
    assert "E1 switch" in said
    assert "E2" in said


def test_an_errand_goes_out_as_a_job_file_and_comes_back(started):
    job, _client = started()
    drawing = job.head.document.drawing
    assert document.decode(document.encode(drawing)) == drawing
    assert jobfile.decode(jobfile.encode(drawing)).get("E1", OldBox) == drawing.get("E1", OldBox)
    assert json.loads(jobfile.encode(drawing))["house"]["errand"]["wants"] == "light"


def test_the_house_shows_what_the_errand_recorded(started):
    job, client = started()
    for waypoint in ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record"):
        assert client.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200
    said = words(client.get(f"/jobs/{job.pk}/survey/?sel=E1").content.decode())
    assert "joint 1" in said
    listed = client.get("/").content.decode()
    assert f'href="/jobs/{job.pk}/errand"' in listed


@pytest.mark.parametrize("role", ROLES)
def test_every_role_at_every_address(started, as_, role):
    job, _ = started()
    client = as_(role)
    seen = client.get(f"/jobs/{job.pk}/errand").status_code
    assert seen == (404 if role == "stranger" else 302 if role is None else 200)
    before = Job.objects.get(pk=job.pk).head_id
    asked = client.post(f"/jobs/{job.pk}/errand/do/cable", {"box": "E1", "cores": "2"})
    assert asked.status_code == ALLOWED[role]
    assert (Job.objects.get(pk=job.pk).head_id != before) == (role in ("owner", "editor"))
    kept = client.post(f"/jobs/{job.pk}/errand/record", {"box": "E1", "reading": "R4", "proven": "on", **R4})
    # Whoever is on site takes readings; a reader does not.
    assert Record.objects.count() == (role in ("owner", "editor", "site")), kept.status_code
    struck = client.post(f"/jobs/{job.pk}/errand/strike", {"record": "1"})
    assert struck.status_code in (302, 403, 404)
    assert client.get(f"/jobs/{job.pk}/errand/record").status_code in (302, 404, 405)


def test_no_sequence_of_odd_requests_breaks_a_page(started):
    job, client = started()
    odd = ("", "0", "-1", "9" * 30, "1.BK", "S.a", "E9", "<b>x</b>", "\x00", "½")
    for action, value in itertools.product(
        ("begin", "place", "cable", "strike", "device", "join", "look", "nothing"), odd
    ):
        form = dict.fromkeys(
            ("usual", "place", "cores", "cable", "kind", "off", "end", "to", "field", "value", "box"), value
        )
        response = client.post(f"/jobs/{job.pk}/errand/do/{action}", form)
        assert response.status_code in (302, 404, 422), (action, value)
    for value in odd:
        assert client.post(f"/jobs/{job.pk}/errand/record", {"reading": value}).status_code in (302, 404, 422)
        assert client.post(f"/jobs/{job.pk}/errand/strike", {"record": value}).status_code == 404
        assert (
            client.get(f"/jobs/{job.pk}/errand", {"box": value, "end": value, "take": value}).status_code
            == 200
        )


# --- step by step ---------------------------------------------------------------------------


def stands(client, job):
    html = client.get(f"/jobs/{job.pk}/errand/steps").content.decode()
    return {
        m[0]: m[1]
        for m in re.findall(
            r'href="\?step=([^"]+)".*?<span\s+class="tag[^"]*"\s*>(\w+)</span>', html, re.DOTALL
        )
    }


def test_each_cable_is_looked_at_by_itself_and_a_mark_is_kept(started):
    job, client = started()

    def old():
        return Job.objects.get(pk=job.pk).head.document.drawing.of(OldBox)["E1"]

    act(client, job, "inside", cable="2", sheath="woven", gauge="12")
    assert [(c.sheath, c.gauge) for c in old().cables] == [("", ""), ("woven", "12")]
    page = words(client.get(f"/jobs/{job.pk}/errand").content.decode())
    assert "cloth or rubber insulation: stop and call" in page
    act(client, job, "mark", end="2.WH", colour="black")
    assert "=BK" in words(client.get(f"/jobs/{job.pk}/errand?end=2.WH").content.decode())
    act(client, job, "mark", end="2.WH", colour="")
    assert {lead.marked for c in old().cables for lead in c.leads} == {""}
    for bad in ({"cable": "9"}, {"cable": "1", "sheath": "velvet"}, {"cable": "1", "gauge": "3"}):
        act(client, job, "inside", status=422, **bad)
    act(client, job, "mark", end="2.WH", colour="pink", status=422)
    act(client, job, "look", field="material", value="metal")
    assert old().material == "metal"


def test_a_reading_of_the_circuit_is_taken_on_the_screen_and_shuts_its_gate(started):
    job, client = started()
    asked = page(client, job, take="R7")
    assert "Neutral to ground under load, V" in asked
    assert "R20" not in asked, "of the other practice"
    read(client, job, "R7", **{"figures:ohms": "3.4", "figures:expected": "0.3"})
    said = words(page(client, job))
    assert "its ground reads 3.4 Ω where the way comes to 0.3" in said
    assert "From the panel's ground to this one, Ω 3.4" in said
    read(client, job, "R7", status=422)
    read(client, job, "R18", status=422, **{"figures:megohms": "500 Ω"})


def settled(job, client):
    """Everything told and read that the errand asks, but for protection that is there already."""
    hand = Hand(client, job)
    hand.gates()
    hand.answer("ahead", "none")
    hand.spot()
    hand.path()


def test_the_book_is_walked_and_its_gates_hold(started):
    job, client = started()
    settled(job, client)
    assert "Look at both sides" in words(tick(client, job, "cut", status=422).content.decode())
    for task in (
        "look",
        "breaker",
        "mark",
        "probe",
        "cut",
        "way",
        "pull",
        "box",
        "dead new",
        "make up",
        "inspect",
    ):
        tick(client, job, task)
    assert "prove the tester" in words(tick(client, job, "open", status=422).content.decode())
    tick(client, job, "dead", **DEAD)
    tick(client, job, "open")
    tick(client, job, "", event="away")
    assert stands(client, job)["dead"] == "open"
    tick(client, job, "tie%20in".replace("%20", " "), status=422)
    tick(client, job, "dead", **DEAD)
    assert "Fit arc-fault protection" in words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    for task in (
        "tie in ground",
        "tie in neutral",
        "tie in",
        "fold",
        "photo",
        "protection",
        "dead whole",
        "energize",
    ):
        tick(client, job, task)
    tick(client, job, "", event="tripped")
    assert stands(client, job)["energize"] == "shut"
    tick(client, job, "energize", status=422)


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({}, "nothing was tested"),
        ({**DEAD, "before": ""}, "not proven on a live source"),
        ({**DEAD, "after": ""}, "not proven on a live source"),
        ({**DEAD, f"pair:{PAIRS[3]}": ""}, "1 pair is still to be tested"),
        ({**DEAD, f"pair:{PAIRS[3]}": "118"}, "live"),
        ({**DEAD, f"pair:{PAIRS[3]}": "40", f"pair:{PAIRS[3]}:loaded": "12"}, "live through a load"),
        ({**DEAD, f"pair:{PAIRS[3]}": "12O"}, "is not a reading"),
    ],
)
def test_a_dead_test_that_is_not_whole_leaves_its_gate_shut(started, form, said):
    job, client = started()
    tick(client, job, "breaker")
    html = tick(client, job, "dead", status=422, **form).content.decode()
    assert said in words(html)
    for name, value in form.items():
        if value and name.startswith("pair"):
            assert f'name="{name}" value="{value}"' in html, name
    assert stands(client, job)["dead"] == "open"


def test_what_is_induced_passes_by_its_reading_under_load(started):
    job, client = started()
    tick(client, job, "breaker")
    tick(client, job, "dead", **{**DEAD, f"pair:{PAIRS[3]}": "40", f"pair:{PAIRS[3]}:loaded": "0.4"})
    # The record says what was read: of a stray voltage what stood under load as well.
    kept = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert f"{len(PAIRS)} pairs, none above 0.4 V under load; up to 40 V without" in kept
    assert stands(client, job)["dead"] == "done"


def test_no_sequence_of_requests_passes_a_gate(started):
    """A die sends anything to the book; what is then done is held against the gates that must never be
    passed.
    """
    tasks = book(Errand("light"), load("na"))
    names = [t.id for t in tasks]
    for seed in range(2 * OFTEN):
        job, client = started(wants="light")
        die = random.Random(seed)
        passed = set()
        for n in range(60):
            event = die.choice(("done",) * 8 + ("undone", "away", "tripped", "x"))
            task = die.choice([*names, "", "nothing"])
            good = task == "dead" and die.random() < 0.6
            form = {"event": event, "step": task, "token": die.choice(("", "same-token-always")), "note": "x"}
            response = client.post(f"/jobs/{job.pk}/errand/step", {**form, **(DEAD if good else {})})
            assert response.status_code in (302, 422)
            now = {s.task.id for s in standing(tasks, log_of(job)) if s.done}
            if event == "done" and response.status_code == 302 and task in now - passed:
                for step, gate in NEVER:
                    if step == task and gate in names:
                        assert gate in passed, (seed, step, gate)
            if task == "dead" and task in now - passed:
                assert good
            if n % 15 == 0:
                shown = {t.replace("%20", " ") for t, s in stands(client, job).items() if s == "done"}
                assert shown == now, "the page says what the log comes to"
            passed = now


def test_steps_are_taken_by_whoever_is_on_site_and_not_by_a_reader(started, as_):
    job, _ = started()
    for role, status in (("site", 302), ("editor", 302), ("reader", 403), ("stranger", 404)):
        client = as_(role)
        assert (
            client.post(f"/jobs/{job.pk}/errand/step", {"step": "look", "event": "done"}).status_code
            == status
        )
        assert client.get(f"/jobs/{job.pk}/errand/steps").status_code == (404 if role == "stranger" else 200)


def test_the_source_is_made_up_joint_by_joint_once_its_case_is_told(started):
    job, client = started()
    act(client, job, "look", field="gauge", value="14")

    def told():
        return words(client.get(f"/jobs/{job.pk}/errand/steps", {"step": "tie in"}).content.decode())

    # While it may still be another case, no joint is told.
    assert "Tie the new line in where it is fed" in told()
    read(client, job, "R4", **R4)
    proof = words(client.get(f"/jobs/{job.pk}/errand/proof").content.decode())
    assert "Works in every case that is left" in proof
    said = (
        'Take 1.BK off “a” of the switch; join it with the new black and a tail of 6" to the same screw: 3 in'
        " it, twist-on connector, small."
    )
    assert said in proof
    assert said in told()
    ground = words(client.get(f"/jobs/{job.pk}/errand/steps", {"step": "tie in ground"}).content.decode())
    assert "put the new bare one to it: 3 in it" in ground
    assert "the new cable" in ground, "it is drawn"
    assert said in words(client.get(f"/jobs/{job.pk}/errand/sheet").content.decode())


def test_short_wires_are_told_and_drawn_with_their_tails(started):
    job, client = started(wants="short wires", usual="Two cables, dark on one side")
    html = client.get(f"/jobs/{job.pk}/errand/steps", {"step": "change 1"}).content.decode()
    assert "with a tail of 6" in words(html)
    assert "The box opened" in html
    for field, value in (("ground", "present"), ("condition", "sound")):
        act(client, job, "look", field=field, value=value)
    refused = tick(client, job, "change", status=422)
    assert "how much free wire the shortest has is not told" in words(refused.content.decode()).lower()
    act(client, job, "look", field="free", value='1"', back="errand-box")
    refused = tick(client, job, "change", status=422)
    assert "No connector can be put on so short a wire" in words(refused.content.decode())
    act(client, job, "look", field="free", value='4"', back="errand-box")
    refused = tick(client, job, "change", status=422)
    assert "first:" in words(refused.content.decode())


# --- the record -----------------------------------------------------------------------------


def test_the_record_tells_the_next_person_what_was_read_done_and_not_looked_at(started):
    job, client = started()
    act(client, job, "look", field="volume", value="18")
    read(client, job, "R4", **R4)
    tick(client, job, "look", note="a duct to the left")
    said = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert "Cable 1: the feed , settled" in said
    assert "a duct to the left" in said
    assert "Not looked at" in said
    assert "Is there load left?" in said.partition("Not looked at")[2]
    assert "Turn the breaker" not in said.partition("Done")[0]
    told = json.loads(client.get(f"/jobs/{job.pk}/errand/kept.json").content)
    assert told["boxes"]["E1"]["cables"]["1"] == {"is": "the feed", "how sure": "settled"}
    assert told["boxes"]["E1"]["as found"]["volume"] == 18
    assert [r["kind"] for r in told["records"]] == ["reading", "step"]
    assert told["records"][0]["who"] == "owner"
    assert len(told["steps not done"]) == 24


def test_the_demos_errands_stand_each_at_another_stage(db, client):
    from django.core.management import call_command

    call_command("load_demo")
    jobs = {j.name: j for j in Job.objects.all()}
    client.force_login(Member.objects.first().user)
    errands = [j for j in jobs.values() if j.head.document.drawing.house.errand]
    assert len(errands) == 4
    assert {j.head.document.drawing.house.practice for j in errands} == {"na", "gb"}
    said = {j.name: words(client.get(f"/jobs/{j.pk}/errand").content.decode()) for j in errands}
    assert "disagree on" in said["Window bench: one more outlet"]
    assert "1: a switch loop, no neutral settled" in said["Head of the stair: a light"]
    assert "one side of a ring settled" in said["Galley: a worn socket replaced"]
    done = client.get(f"/jobs/{jobs['Galley: a worn socket replaced'].pk}/errand/steps").content.decode()
    assert re.search(r'id="now"[^>]*data-step=""', done), "no step is in hand"
    for job in errands:
        for page_ in ("", "/steps", "/kept", "/kept.json", "/kept.zip"):
            assert client.get(f"/jobs/{job.pk}/errand{page_}").status_code == 200


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_no_screw_of_a_drawn_box_stands_under_a_conductor(practice):
    """What comes down to a screw would be taken for the conductor that it runs beside."""
    for usual in arrangements(practice):
        drawn = svg(picture(usual.box, {}, practice=load(practice)))
        assert practice == "na" or not {">outlet<", ">three-way<", ">four-way<"} & {
            *re.findall(r">[^<]*<", drawn)
        }
        conductors = {float(x) for x in re.findall(r'd="M(\d+) 30 ', drawn)}
        screws = {float(x) + 7 for x in re.findall(r'class="terminal" x="([\d.]+)"', drawn)}
        assert len(conductors) == sum(len(c.leads) for c in usual.box.cables), usual.words
        for device in usual.box.devices:
            assert screws, device
        assert all(abs(s - c) >= 8 for s in screws for c in conductors), usual.words


def test_a_load_and_a_tab_are_read_on_the_screen(started):
    job, client = started()
    assert "cable 2 reads a load only while the lamp is in" in words(page(client, job, take="R10"))
    read(client, job, "R10", loads__2="on")
    assert "a load on cable 2" in words(page(client, job))
    outlet, client = started(usual="Two cables, dark on one side")
    assert "O, brass to brass" in words(page(client, outlet, take="R14"))
    read(client, outlet, "R14", ohms__="", **{"ohms:O.brass-O.brass2": "0.2"})
    assert "O.brass-O.brass2 0.2 Ω" in words(page(client, outlet))


def test_the_practice_of_the_last_job_is_offered_first(as_):
    client = as_("owner")

    def offered(page):
        return re.findall(r'<option value="(na|gb)"', client.get(page).content.decode())

    assert offered("/errand") == offered("/") == ["na", "gb"]
    client.post("/errand", {"wants": "light", "practice": "gb"})
    assert offered("/errand") == offered("/") == ["gb", "na"]
    client.post("/jobs/new", {"name": "Hut", "practice": "na"})
    assert offered("/errand")[0] == "na"


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_its_breaker_what_dies_with_it_and_what_protects_it_are_written_down(started, practice):
    job, client = started(practice, "outlet", "Two cables, dark on one side")
    device = "a residual-current device" if practice == "gb" else "ground-fault"
    assert device in words(page(client, job))
    for field, value in (
        ("breaker", "way 7, “hall”"),
        ("breaker_read", "yes"),
        ("dies", "the hall lights and the bell"),
        ("ahead", "ground-fault"),
    ):
        act(client, job, "look", field=field, value=value)
    old = head_box(job)
    assert (old.breaker, old.breaker_read, old.dies, old.ahead) == (
        "way 7, “hall”",
        True,
        "the hall lights and the bell",
        "ground-fault",
    )
    kept = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert "Way 7, “hall”, seen to make it dead" in kept
    assert "The hall lights and the bell" in kept
    assert device in kept.lower()
    for field, value in (("ahead", "a dog"), ("breaker_read", "perhaps")):
        assert act(client, job, "look", 422, field=field, value=value)
    act(client, job, "look", field="ahead", value="")
    act(client, job, "look", field="dies", value=" \x00 ")
    assert (head_box(job).ahead, head_box(job).dies) == ("", "")


def head_box(job):
    return Job.objects.get(pk=job.pk).head.document.drawing.items["E1"]


def test_a_box_is_taken_off_the_list_and_its_readings_are_kept_without_it(started):
    job, client = started("na", "light")
    read(client, job, "R4", **R4)
    assert act(client, job, "away", 422), "the only one stays"
    act(client, job, "another")
    client.post(f"/jobs/{job.pk}/errand/meant", {"source": "E2"})
    act(client, job, "away", box="E2")
    drawing = Job.objects.get(pk=job.pk).head.document.drawing
    assert [*drawing.of(OldBox)] == ["E1"]
    assert drawing.house.errand.source is None
    act(client, job, "another")
    act(client, job, "away", box="E1")
    kept = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert "E1 no longer drawn" in kept
    assert "120.1" in kept, "what was read there is not lost"
    assert client.get(f"/jobs/{job.pk}/errand/kept.json").json()["of what is no longer drawn"] == ["E1"]


def test_a_step_that_the_work_has_no_longer_is_told_as_it_was_said(started):
    job, client = started("na", "outlet")
    Hand(client, job).spot()
    for step in ("look", "mark", "probe", "cut"):
        tick(client, job, step)
    store.commit(
        job.pk, job.members.get(role="owner").user, Revise(HOUSE, {"errand": Errand("replace")}), base=None
    )
    kept = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert "Drill an eighth-inch hole in the middle of the mark" in kept


def test_the_last_step_is_taken_back_from_any_page_by_its_words(started, as_):
    job, client = started("na", "light")
    act(client, job, "look", field="breaker", value="way 9")
    for part in ("", "/spot", "/path", "/box", "/proof"):
        html = client.get(f"/jobs/{job.pk}/errand{part}").content.decode()
        assert "Undo: E1: breaker way 9" in words(html), part
    assert "Redo" not in words(html)

    def back(which, page="/box"):
        return client.post(
            f"/jobs/{job.pk}/errand/take-back", {"which": which, "back": f"/jobs/{job.pk}/errand{page}"}
        )

    assert back("undo").headers["Location"] == f"/jobs/{job.pk}/errand/box"
    assert head_box(job).breaker == ""
    assert "Redo: E1: breaker way 9" in words(page(client, job))
    assert back("redo", "/../../../elsewhere").headers["Location"].startswith(f"/jobs/{job.pk}/errand")
    assert head_box(job).breaker == "way 9"
    assert back("sideways").status_code == 404
    client.post(f"/jobs/{job.pk}/errand/take-back", {"which": "undo", "back": "https://elsewhere.example/"})
    for _ in range(30):
        response = back("undo")
    assert response.status_code == 422, "nothing is left to be undone, in words"
    client = as_("reader")
    assert client.post(f"/jobs/{job.pk}/errand/take-back", {"which": "redo"}).status_code == 403
    assert "Undo" not in words(client.get(f"/jobs/{job.pk}/errand").content.decode())


def test_what_is_new_takes_what_is_said_of_it_and_for_how_long(started):
    job, client = started("na", "light")
    for field, value in (("amps", "15"), ("beside", "1700")):
        act(client, job, "look", field=field, value=value)

    def told(field, value, status=302):
        response = client.post(f"/jobs/{job.pk}/errand/meant", {"box": "E1", "field": field, "value": value})
        assert response.status_code == status
        return words(response.content.decode())

    # 1,800 VA in all: 60 of them nobody has said.
    assert "A left, 0.50 A of the load estimated" in words(page(client, job))
    told("takes", "12")
    assert "0.73 A left" in words(page(client, job))
    told("takes", "110")
    assert "What is known alone is over 15 A" in words(page(client, job))
    told("takes", "90")
    assert "over 15 A" not in words(page(client, job))
    told("hours", "yes")
    assert "over 15 A" in words(page(client, job)), "what is on for hours counts a quarter more"
    for field, value in (
        ("takes", "1kW"),
        ("takes", "-5"),
        ("takes", "nan"),
        ("takes", "1e9"),
        ("hours", "perhaps"),
    ):
        told(field, value, 422)
    told("takes", "")
    assert Job.objects.get(pk=job.pk).head.document.drawing.house.errand.takes is None


def test_the_finished_errand_of_the_demo_has_its_times(as_, people):
    errand_demo.load(people["owner"])
    client, job = as_("owner"), Job.objects.get(name="Galley: a worn socket replaced")
    kept = words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert "3 Oct 2026" in kept
    for took in ("14 min", "8 min", "18 min"):
        assert took in kept
    assert "I begin" not in kept
    assert "Old box E1 socket" in kept
    assert "Copper, an earth, sound" in kept
    assert "2.5 in a ring, or its spur, on 32 A" in kept
    own = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "By your own log" in own, "times that were taken teach"
