"""A house's Site opens on its book: ticked, photographed and kept like an errand's."""

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
    assert "There is nothing to wire yet" in words(client.get(f"/jobs/{job.pk}/errand/steps").content.decode())


@pytest.mark.parametrize("role", ROLES)
def test_whoever_is_on_site_ticks_and_a_reader_does_not(job, as_, role):
    client = as_(role)
    client.post(f"/jobs/{job.pk}/errand/step", {"step": "boxes R1", "event": "done"})
    assert Record.objects.count() == (role in ("owner", "editor", "site"))
