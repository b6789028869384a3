"""What is kept of the work: exact, under names that stay, and brought over once from what earlier versions
kept.
"""

from datetime import UTC, datetime
from importlib import import_module

import pytest
from django.apps import apps
from hypothesis import given
from hypothesis import strategies as st

from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import as_found
from fjeld.formats.found import read_reading
from fjeld.formats.older import record_as_told
from fjeld.judge.volts import Volts
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.found import Reading
from fjeld.web.jobs.models import Record
from fjeld.web.places.planned import plan_of
from fjeld.web.places.records import keep, readings_of
from fjeld.work.records import ReadingTaken, StepEvent, Unread, stored, told
from tests.web.errands import DEAD, PAIRS, R4, SWITCH, act, page, tick, words

BOX = next(a.box for a in arrangements("na") if a.words.startswith(SWITCH))
VOLTS = st.builds(Volts, st.floats(0, 500), st.none() | st.floats(0, 500))
ENDS = st.sampled_from([e for c in BOX.cables for e in c.ends])
READINGS = st.builds(
    Reading,
    id=st.sampled_from(["R4", "R5", "R9", "R16"]),
    state=st.dictionaries(st.sampled_from(["S", "the one by the door"]), st.sampled_from(["open", "closed"])),
    to_earth=st.dictionaries(ENDS, VOLTS, max_size=4),
    between=st.lists(st.tuples(ENDS, ENDS, VOLTS), max_size=3).map(tuple),
    ohms=st.lists(st.tuples(ENDS, ENDS, st.floats(0, 1e6)), max_size=3).map(tuple),
    proven=st.booleans(),
    dies=st.none() | st.just(("2",)),
    ring=st.none() | st.booleans(),
    figures=st.dictionaries(st.sampled_from(["ohms", "volts"]), st.floats(0, 900)),
)


@given(READINGS, st.booleans(), st.none() | st.datetimes(timezones=st.just(UTC)))
def test_a_reading_comes_back_as_it_was_kept(reading, agreed, written):
    kept = ReadingTaken(reading=reading, agreed=agreed, written=written, locked=True, by="Bo")
    assert told(stored(kept)) == kept


@pytest.mark.parametrize(
    "body", [None, 7, [], {}, {"record": "reading"}, {"record": "step", "event": "flew"}, {"record": "x"}]
)
def test_what_is_no_record_is_kept_as_it_is_and_gone_by_nowhere(body):
    found = told(body)
    assert isinstance(found, Unread)
    assert found.why
    assert told(stored(found)) == found


@pytest.mark.parametrize(
    "body",
    [
        {
            "id": "R4",
            "state": "S open",
            "volts": {"1.BK": 120.1, "2.BK": [40, 0.3]},
            "proven": True,
            "at": "10:12",
        },
        {
            "id": "R5",
            "between": {"1.BK-1.WH": [119.0, 118.0]},
            "lamps_out": True,
            "lamp": "bright",
            "proven": True,
        },
        {"id": "R16", "dies": ["2"], "proven": False, "every_switch": True},
        {"id": "R7", "figures": {"ohms": 0.3}, "proven": True},
    ],
)
def test_a_reading_of_an_earlier_version_says_what_it_said(body):
    late = {**body, "locked": True, "by": "Bo", "at_time": "2026-10-03T12:40:00+00:00", "agreed": True}
    found = record_as_told("reading", late, BOX)
    assert found.reading == read_reading(body, "R", BOX)
    assert (found.locked, found.by, found.agreed) == (True, "Bo", True)
    assert found.written == datetime(2026, 10, 3, 12, 40, tzinfo=UTC)
    assert told(stored(found)) == found


def test_a_step_of_an_earlier_version_keeps_its_figures_under_their_ids():
    body = {
        "event": "done",
        "note": "n",
        "words": "Test it",
        "class": "test",
        "reckoned": 14.0,
        "pairs": {"1.BK / earth": [0.2, 0.2]},
        "figures": {"Ground from end to end, Ω": 0.31, "Insulation, line with neutral to ground, MΩ": 999.0},
    }
    found = record_as_told("step", body, None)
    assert isinstance(found, StepEvent)
    assert found.figures == {"through": 0.31, "insulation": 999.0}
    assert (found.work, found.reckoned, found.pairs) == ("test", 14.0, {"1.BK / earth": (0.2, 0.2)})
    british = record_as_told("step", {"event": "done", "figures": {"Earth from end to end, Ω": 0.2}}, None)
    assert british.figures == {"through": 0.2}


def test_every_record_is_brought_over_once_and_none_is_lost(started):
    job, client = started()
    keep(job, job.head.who, "E1", ReadingTaken(reading=Reading("R4")), "first-token")
    new = Record.objects.latest("pk")
    old = {"id": "R4", "volts": {"1.BK": 120.1, "2.BK": 0.2}, "proven": True}
    gone = {"id": "R4", "volts": {"9.BK": 120.1}, "proven": True}
    steps = {"event": "done", "words": "Look"}
    for n, (kind, key, body) in enumerate(
        (("reading", "E1", old), ("reading", "E1", gone), ("step", "step:look", steps))
    ):
        Record.objects.create(
            job=job, key=key, kind=kind, body=body, seq=job.head.seq, who=job.head.who, token=f"old-{n}"
        )
    tell = import_module("fjeld.web.jobs.migrations.0006_records_told").tell
    for _ in range(2):
        tell(apps, None)
        kept = [r.told for r in Record.objects.order_by("pk")]
        assert kept[0] == new.told
        assert kept[1].reading.to_earth == {"1.BK": Volts(120.1), "2.BK": Volts(0.2)}
        assert (type(kept[2]), kept[2].was) == (Unread, gone)
        assert kept[3].event == "done"
    shown = words(page(client, job))
    assert "120.1 V" in shown
    assert "cannot be read" in shown
    assert words(client.get(f"/jobs/{job.pk}/errand/kept").content.decode())
    assert client.get(f"/jobs/{job.pk}/errand/kept.json").status_code == 200


def test_pairs_of_a_page_of_an_earlier_version_are_those_of_the_box_that_it_showed(started):
    """A browser kept a dead test by numbers; a cable more has come since, and stands between nothing that was
    tested.
    """
    job, client = started()
    tick(client, job, "breaker")
    base = job.head.seq
    numbered = {"before": "on", "after": "on", **{f"pair:{n}": "0.2" for n in range(len(PAIRS))}}
    act(client, job, "cable", cores=2)
    refused = tick(client, job, "dead", status=422, base=str(base), **numbered)
    assert "still to be tested" in words(refused.content.decode())
    assert f'name="pair:{PAIRS[0]}" value' in refused.content.decode()
    act(client, job, "strike", cable="3")
    tick(client, job, "dead", base=str(base), **numbered)
    assert Record.objects.latest("pk").told.pairs == {pair: (0.2, 0.2) for pair in PAIRS}


def test_a_joint_that_is_another_by_now_is_not_done(started):
    """What was done of one joint says nothing of the joint that stands in its place."""
    job, client = started(wants="replace")
    assert client.post(f"/jobs/{job.pk}/errand/meant", {"becomes": "same"}).status_code == 302
    act(client, job, "look", field="condition", value="sound")
    for task, form in (("breaker", {}), ("dead", DEAD), ("open", {})):
        tick(client, job, task, **form)

    def joints():
        known = plan_of(job, job.head.document.drawing)
        return {s.task.joint: s.done for s in known.stands if s.task.joint}

    tick(client, job, "change 1")
    assert joints() == {"1.G 2.G": True, "1.BK S.a": False, "2.BK S.b": False}
    act(client, job, "cable", cores=2)
    act(client, job, "join", end="3.BK", to="S.a")
    assert joints() == {"1.G 2.G 3.G": False, "1.BK 3.BK S.a": False, "2.BK S.b": False}
    act(client, job, "strike", cable="3")
    assert joints() == {
        "1.G 2.G": True,
        "1.BK S.a": False,
        "2.BK S.b": False,
    }, "it is the one again that was made"


def test_a_reading_names_what_is_in_the_box(started):
    job, client = started()
    response = client.post(
        f"/jobs/{job.pk}/errand/record",
        {"box": "E1", "reading": "R4", "proven": "on", **{k.replace("__", ":"): v for k, v in R4.items()}},
    )
    assert response.status_code == 302
    (kept,) = readings_of(job, "E1", as_found(job.head.document.drawing.get("E1", OldBox)))
    assert kept.words == "S open, 1.BK 120.1 V, 2.BK 0.3 V"
