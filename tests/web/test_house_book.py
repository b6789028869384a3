"""A house's Site opens on its book: ticked, photographed and kept like an errand's."""

import re
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from fjeld.web.jobs.models import Job, Record
from tests.web.errands import tick, words
from tests.web.test_access import ROLES
from tests.web.test_photos import photograph


def site(client, job):
    return words(client.get(f"/jobs/{job.pk}/site/").content.decode())


def test_site_says_what_is_next_and_the_book_is_walked(job, as_):
    client = as_("owner")
    said = site(client, job)
    assert "0 of" in said
    assert "Set the boxes of" in said
    page = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "Set the boxes of" in page
    first = "boxes R1"
    tick(client, job, first)
    said = site(client, job)
    assert "1 of" in said
    refused = tick(client, job, "close", status=422)
    assert "first: Have what will be hidden inspected" in words(refused.content.decode())
    assert Record.objects.count() == 1


def test_a_rooms_photograph_is_asked_for_before_it_is_closed(job, as_):
    client = as_("owner")
    html = client.get(f"/jobs/{job.pk}/errand/steps").content.decode()
    steps = [part.split('"')[0] for part in html.split('<li class="mt-2" data-step="')[1:]]
    for step in steps:
        if step.startswith("photo "):
            refused = tick(client, job, step, status=422)
            assert "no photograph is kept yet" in words(refused.content.decode())
            sent = {"key": f"step:{step}", "photo": SimpleUploadedFile("x.jpg", photograph())}
            assert client.post(f"/jobs/{job.pk}/errand/photo", sent).status_code == 302
        tick(client, job, step)
        if step == "close":
            break
    assert "Fit the devices" in site(client, job)


def test_a_circuit_is_tested_by_figures_before_anything_is_energized(job, as_):
    client = as_("owner")
    html = client.get(f"/jobs/{job.pk}/errand/steps").content.decode()
    steps = [part.split('"')[0] for part in html.split('<li class="mt-2" data-step="')[1:]]
    test = next(s for s in steps if s.startswith("dead "))
    for step in steps[: steps.index(test)]:
        tick(client, job, step, note="by hand")
    asked = words(client.get(f"/jobs/{job.pk}/errand/steps", {"step": test}).content.decode())
    assert "by the cables of the plan" in asked
    for bad, said in (
        ({"figure:insulation": "0.4"}, "0.4 MΩ, at least 1 is asked"),
        ({"figure:insulation": "wet"}, "is not a reading"),
        ({"figure:insulation": "300 mΩ"}, "is not a reading"),
        ({"figure:insulation": "500 Ω"}, "is not a reading"),
        ({"figure:through": ""}, "Ground from end to end is not read yet"),
        ({"figure:through": "40"}, "the cables alone come to"),
    ):
        refused = tick(client, job, test, status=422, **bad)
        assert said in words(refused.content.decode()), bad
    tick(client, job, test, **{"figure:through": "0,31", "figure:insulation": "OL"})
    assert Record.objects.latest("pk").told.figures == {"through": 0.31, "insulation": 1e6}
    other = next((s for s in steps if s.startswith("dead ") and s != test), None)
    if other:
        tick(client, job, other, note="no meter here", **{"figure:through": "", "figure:insulation": ""})


def test_a_house_says_how_long_it_takes_and_learns_from_its_log(job, as_):
    client = as_("owner")
    page = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert re.search(r"\d+ h( \d+ min)? of work", page)
    tick(client, job, "boxes R1", event="begun")
    begun = Record.objects.latest("pk")
    assert begun.told.work == "cut"
    twice = timedelta(minutes=2 * begun.told.reckoned)
    Record.objects.filter(pk=begun.pk).update(when=begun.when - twice)
    tick(client, job, "boxes R1")
    page = words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())
    assert "By your own log: cutting and making up × 2 for an experienced installer" in page.replace(
        "  ", " "
    )


def test_what_goes_from_the_plan_goes_from_the_book_and_its_records_stay(job, as_):
    client = as_("owner")
    tick(client, job, "boxes R1")
    for handle in ("O1", "O2"):
        client.post(f"/jobs/{job.pk}/layout/do/remove", {"handle": handle})
    assert Record.objects.count() == 1
    assert client.get(f"/jobs/{job.pk}/errand/steps").status_code == 200


def test_a_new_house_has_no_book_yet(as_, people):
    client = as_("owner")
    client.post("/jobs/new", {"name": "New", "practice": "na"})
    job = Job.objects.latest("pk")
    assert "The steps follow from the plan" in site(client, job)
    assert "There is nothing to wire yet" in words(
        client.get(f"/jobs/{job.pk}/errand/steps").content.decode()
    )


@pytest.mark.parametrize("role", ROLES)
def test_whoever_is_on_site_ticks_and_a_reader_does_not(job, as_, role):
    client = as_(role)
    client.post(f"/jobs/{job.pk}/errand/step", {"step": "boxes R1", "event": "done"})
    assert Record.objects.count() == (role in ("owner", "editor", "site"))


def cards_of(client, job):
    """The cards that a book holds ready, by their steps."""
    html = client.get(f"/jobs/{job.pk}/errand/steps").content.decode()
    return dict(re.findall(r'<template data-card="([^"]+)">(.*?)</template>', html, re.S))


def test_cards_held_ready_are_as_they_stand_now_and_of_nobody_else(started, as_):
    """They are kept from one page to the next, by all that is on them."""
    job, client = started()
    first = cards_of(client, job)
    assert len(first) > 15
    assert cards_of(client, job) == first, "nothing has changed"
    assert "csrfmiddlewaretoken" not in "".join(first.values()), "a token is of one person and one answer"
    assert 'name="event" value="done"' in "".join(first.values())
    tick(client, job, "look")
    after = cards_of(client, job)
    assert "Take it back" in after["look"]
    # The step of the job that a page saw goes with each of its forms.
    reader = cards_of(as_("reader"), job)
    assert "<form" not in "".join(reader.values()), "a reader records nothing"
    assert "Take it back" in cards_of(as_("owner"), job)["look"]
    other, _ = started()
    assert f"/jobs/{other.pk}/" in "".join(cards_of(client, other).values())
    assert f"/jobs/{job.pk}/" not in "".join(cards_of(client, other).values())
