"""What would put right what is open is looked for after the edit is shown, and never instead of another
page's.
"""

import re

import pytest

from fjeld.demo import job_file
from fjeld.drawing.building import Room
from fjeld.drawing.edits.common import Revise
from fjeld.formats import jobfile
from fjeld.web.http import standing, store
from fjeld.web.jobs.models import Job, Member


@pytest.fixture
def tarn(people):
    """Tarn House, with its owner; a lamp of its bedroom is moved in these tests."""
    return store.create("Tarn House", jobfile.decode(job_file("tarn-house")), people["owner"])


def moved(client, job, y):
    response = client.post(
        f"/jobs/{job.pk}/layout/do/move", {"handle": "A2", "y": str(y)}, HTTP_HX_REQUEST="true"
    )
    assert response.status_code == 200
    return response.content.decode()


def asked(client, job, step):
    return client.get(f"/jobs/{job.pk}/layout/", HTTP_X_FJELD_FIXES=str(step))


def later(html):
    return [int(n) for n in re.findall(r'data-later="(\d+)"', html)]


def test_an_edit_is_shown_before_what_would_put_the_rest_right(as_, tarn):
    client = as_("owner")
    whole = client.get(f"/jobs/{tarn.pk}/layout/").content.decode()
    assert later(whole) == []
    assert 'id="fix-' in whole
    html = moved(client, tarn, 3000)
    seq = Job.objects.get(pk=tarn.pk).head.seq
    assert later(html) == [seq]
    assert "Looking for what would put it right" in html
    answer = asked(client, tarn, seq)
    told = answer.content.decode()
    assert answer.status_code == 200
    assert told.lstrip().startswith("<section")
    assert 'id="findings"' in told
    assert "hx-swap-oob" not in told
    assert 'id="fix-' in told
    assert later(told) == []
    # It is the same as the whole page says then, and taking it does what it says.
    again = client.get(f"/jobs/{tarn.pk}/layout/").content.decode()
    words = re.search(r'id="fix-\d+"[^>]*>([^<]+)<', told)[1]
    assert words in again
    key = re.search(r'name="finding" value="([^"]+)"', told)[1].replace("&#x27;", "'")
    taken = client.post(
        f"/jobs/{tarn.pk}/layout/do/fix", {"finding": key, "base": seq}, HTTP_HX_REQUEST="true"
    )
    assert taken.status_code == 200
    assert Job.objects.get(pk=tarn.pk).head.seq == seq + 1


def test_nothing_is_told_of_a_step_that_is_not_the_last(as_, tarn):
    client = as_("owner")
    moved(client, tarn, 3000)
    seq = Job.objects.get(pk=tarn.pk).head.seq
    moved(client, tarn, 3012.7)
    for step in (seq, seq + 2, "", "none"):
        answer = asked(client, tarn, step)
        assert (answer.status_code, answer.content) == (204, b"")
    assert asked(client, tarn, seq + 1).status_code == 200


def test_the_step_is_the_one_that_an_edit_became_and_not_the_one_it_was_drawn_for(as_, tarn, people):
    """Someone else is faster by one step, after the page was drawn and before it was stored."""
    client = as_("owner")
    Member.objects.create(job=tarn, user=people["editor"], role="editor")
    plain = standing.stand

    def while_another_writes(drawing, before=None):
        standing.stand = plain
        room = next(iter(drawing.of(Room)))
        head = Job.objects.get(pk=tarn.pk).head.seq
        store.commit(tarn.pk, people["editor"], Revise(room, {"name": "Hall"}), base=head)
        return plain(drawing, before)

    standing.stand = while_another_writes
    try:
        html = moved(client, tarn, 3000)
    finally:
        standing.stand = plain
    seq = Job.objects.get(pk=tarn.pk).head.seq
    assert later(html) == [seq]
    assert asked(client, tarn, seq).status_code == 200


def test_no_more_is_drawn_for_an_edit_than_what_may_look_otherwise(monkeypatch, tarn, people):
    drawn = []
    plain = standing.walls_unrolled

    def unrolled(plan, room, *rest):
        drawn.append(room)
        return plain(plan, room, *rest)

    monkeypatch.setattr(standing, "walls_unrolled", unrolled)
    drawing = tarn.head.document.drawing
    room = drawing.items["A2"].room

    def commit(edit):
        drawn.clear()
        store.commit(tarn.pk, people["owner"], edit, base=None)
        return drawn

    assert commit(Revise("A2", {"va": 41.0})) == [room]
    # A room's own measures, and what is of no room, may move or name all of them.
    assert len(commit(Revise(room, {"name": "Back room"}))) == len(drawing.of(Room))
    circuit = drawing.items["A2"].circuit
    assert len(commit(Revise(circuit, {"name": "Upper lights"}))) == len(drawing.of(Room))
