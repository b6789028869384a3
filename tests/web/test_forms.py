"""Every form of every waypoint with anything in its fields: an answer in words, never a fault, and the job
still opens.

``FJELD_FORMS=10000`` sends so many.
"""

import os
import random
import time
from collections import Counter

import pytest

from fjeld.demo import job_file
from fjeld.formats import document, jobfile
from fjeld.web.http import store
from fjeld.web.jobs.models import Job, forget_drawings
from fjeld.web.waypoints import WAYPOINTS
from tests.walker import Forms
from tests.web.errands import folded

SENT = int(os.environ.get("FJELD_FORMS", "55"))
RUBBISH = (
    "",
    " ",
    "0",
    "-1",
    "1",
    "7",
    "9" * 400,
    "1e309",
    "nan",
    "inf",
    "∞",
    "½",
    "12'4 1/2",
    "-3'",
    "0.0001 mm",
    "1000 km",
    "3,5",
    "5'13\"",
    "?",
    "? 8'",
    "٣",
    "１２",
    "true",
    "null",
    "[]",
    "{}",
    "a" * 5000,
    "<b>x</b>",
    "'; --",
    "=1+1",
    "\x00",
    "\u202eabc",
    "\ud7ff",
    "R1",
    "R99",
    "A1",
    "A2",
    "S1",
    "S1:K1",
    "O1.upper",
    "O1.",
    "P1",
    "K1",
    "Q1",
    "Q99",
    "C1",
    "D1",
    "L1",
    "house",
    "ground",
    "N",
    "112.5",
)


def forms_of(client, job, die):
    """The forms of one waypoint with something selected."""
    job.refresh_from_db()
    things = list(job.head.document.drawing.items)
    page = die.choice(list(WAYPOINTS))
    html = folded(client.get(f"/jobs/{job.pk}/{page}/?sel={die.choice(things)}"))
    return [f for f in Forms(html).found if f"/jobs/{job.pk}/" in f["action"] and "/do/" in f["action"]]


def filled(fields, die):
    """Each field with what it holds, what it may hold, something else altogether, or left out."""
    form = {}
    for field in fields:
        name, roll = field["name"], die.random()
        if name == "csrfmiddlewaretoken" or roll < 0.08:
            continue
        values = field["choices"] if field["kind"] == "select" else [field["value"]]
        form[name] = die.choice(values) if roll < 0.55 and values else die.choice(RUBBISH)
        if roll > 0.97:
            form[name] = [die.choice(RUBBISH), die.choice(RUBBISH)]
    if die.random() < 0.05:
        form[die.choice(("handle", "value", "room", "wall", "field"))] = die.choice(RUBBISH)
    return form


@pytest.mark.parametrize(("house", "share"), [("boot-room", 0.6), ("chandlers-loft", 0.4)])
def test_any_form_with_anything_in_it(as_, people, house, share):
    die = random.Random(f"{house} {os.environ.get('FJELD_FORMS_SEED', '1')}")
    client = as_("owner")
    answered = Counter()
    slowest = 0.0
    job = None
    for n in range(round(SENT * share)):
        if n % 60 == 0:
            job = store.create(house, jobfile.decode(job_file(house)), people["owner"])
        offered = forms_of(client, job, die)
        if not offered:
            continue
        chosen = die.choice(offered)
        to, fields = chosen["action"], chosen["fields"]
        here = f"http://testserver/jobs/{job.pk}/{to.split('/')[3]}/"
        begun = time.monotonic()
        response = client.post(
            to, filled(fields, die), headers={"HX-Request": "true", "HX-Current-URL": here}
        )
        slowest = max(slowest, time.monotonic() - begun)
        answered[response.status_code] += 1
        assert response.status_code in (200, 302, 400, 404, 409, 422), (to, response.status_code)
        if n % 20 == 19:
            still_opens(client, job)
    still_opens(client, job)
    assert answered[200] > 0.05 * sum(answered.values()), answered
    assert answered[422] > 0.05 * sum(answered.values()), answered
    print(house, dict(answered), f"slowest {slowest:.2f} s")


def still_opens(client, job):
    forget_drawings()
    job = Job.objects.select_related("head__document").get(pk=job.pk)
    document.require_same(job.head.document.drawing)
    for page in WAYPOINTS:
        assert client.get(f"/jobs/{job.pk}/{page}/").status_code == 200, page
    assert client.get("/").status_code == 200


def test_a_line_that_cannot_be_read_is_not_called_a_reading(as_, job):
    client = as_("owner")
    page = folded(client.get(f"/jobs/{job.pk}/survey/", {"typing": "door 32 at 4'2"}))
    assert "Read as:" in page
    assert "Not read yet:" not in page
    page = folded(client.get(f"/jobs/{job.pk}/survey/", {"typing": "counter on Upper"}))
    assert "Not read yet:" in page
    assert "Read as:" not in page
