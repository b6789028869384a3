"""Searches in the background: the page says so, can stop them, begins them anew, and shows what they find."""

import time
from threading import Event

import pytest

from fjeld.derive.memo import LastUsed
from fjeld.drawing.edits.common import Revise
from fjeld.propose.heed import SearchStopped
from fjeld.propose.offers import offer
from fjeld.propose.trees import best_tree, problem_of
from fjeld.web.http import search as searches
from fjeld.web.http import store
from fjeld.web.onsite import screen as site
from fjeld.web.runs import screen as runs


@pytest.fixture(autouse=True)
def nothing_known(monkeypatch):
    """No search of another test is remembered, and no page waits."""
    monkeypatch.setattr(searches, "_kept", LastUsed(64))
    monkeypatch.setattr(searches, "MOMENT", 0.0)


@pytest.fixture
def slow(monkeypatch):
    """Trees are found only once the gate is opened; until then the search heeds and heeds."""
    gate, begun = Event(), Event()

    def waiting(plan, circuit, feed, mint, heed):
        begun.set()
        while not gate.wait(0.005):
            heed()
        return offer(plan, circuit, feed, mint, heed)

    monkeypatch.setattr(runs, "offer", waiting)
    gate.begun = begun
    yield gate
    gate.set()


def runs_page(client, job, again="", **headers):
    response = client.get(f"/jobs/{job.pk}/runs/{again}", **headers)
    assert response.status_code == 200
    return response.content.decode()


def until(shown, what):
    """Ask again until the page shows it; searches run beside the test."""
    for _ in range(2000):
        if what in (html := shown()):
            return html
        time.sleep(0.01)
    raise AssertionError(f"{what} never came")


AGAIN = {
    "HTTP_HX_REQUEST": "true",
    "HTTP_X_FJELD_AGAIN": "1",
    "HTTP_HX_CURRENT_URL": "http://localhost/jobs/1/runs/",
}


def test_what_is_still_looked_for_is_said_and_shown_when_found(as_, job, slow):
    client = as_("owner")
    html = runs_page(client, job)
    assert "data-again" in html
    assert html.count("looking …") == 3
    assert "Look again" not in html
    slow.set()
    found = until(lambda: runs_page(client, job, **AGAIN), 'id="show-cheapest"')
    assert "looking …" not in found
    assert "data-again" not in found
    assert 'id="dock" hx-swap-oob' in found


def test_a_search_is_stopped_and_begun_anew(as_, job, slow):
    client = as_("editor")
    runs_page(client, job)
    slow.begun.wait(2)
    assert client.post(f"/jobs/{job.pk}/searches/stop", HTTP_HX_REQUEST="true").status_code == 204
    html = until(lambda: runs_page(client, job), "Look again")
    assert html.count(">stopped<") == 3
    assert "data-again" not in html
    html = runs_page(client, job, "?again=1")
    assert html.count("looking …") == 3
    slow.set()
    until(lambda: runs_page(client, job), 'id="show-cheapest"')


def test_an_edit_stops_what_is_searched_in_the_older_drawing(as_, job, people, slow):
    client = as_("owner")
    runs_page(client, job)
    older = list(searches._running[job.pk])
    assert len(older) == 3
    store.commit(job.pk, people["owner"], Revise("A1", {"va": 40.0}, "Set the load"), base=None)
    runs_page(client, job)
    assert all(s.state == "stopped" for s in older)
    assert len(searches._running[job.pk]) == 3


def test_cuts_are_shown_at_once_and_cheaper_ones_when_found(as_, job, monkeypatch):
    gate = Event()

    def waiting(plan, search=True, **heeding):
        if search:
            gate.wait(5)
        return real(plan, search, **heeding)

    real = site.cut_lists
    monkeypatch.setattr(site, "cut_lists", waiting)
    client = as_("owner")
    html = client.get(f"/jobs/{job.pk}/site/").content.decode()
    assert "data-again" in html
    assert "coil of" in html, "first fit meanwhile"
    assert "no cheaper way" not in html
    gate.set()
    until(lambda: client.get(f"/jobs/{job.pk}/site/").content.decode(), "no cheaper way")


def test_a_tree_search_heeds(boot_plan):
    asked = []

    def enough():
        asked.append(1)
        if len(asked) == 3:
            raise SearchStopped

    circuit = max(boot_plan.circuits, key=lambda q: len(boot_plan.circuits[q].boxes))
    with pytest.raises(SearchStopped):
        best_tree(problem_of(boot_plan, circuit, "cheapest"), enough)
    assert len(asked) == 3


def test_the_floor_is_drawn_once_for_all_that_its_searches_have_said(as_, job, slow, monkeypatch):
    from fjeld.web import frame

    drawn = []
    plain = frame._draw
    monkeypatch.setattr(frame, "_draw", lambda view: drawn.append(view.waypoint) or plain(view))
    client = as_("owner")
    runs_page(client, job)
    assert slow.begun.wait(20)
    runs_page(client, job)
    before = len(drawn)
    for _ in range(3):
        runs_page(client, job)
    assert len(drawn) == before
    # What is found shows: it is drawn again, and kept again.
    slow.set()
    until(lambda: runs_page(client, job, **AGAIN), 'id="show-cheapest"')
    runs_page(client, job)
    seen = len(drawn)
    assert seen > before
    runs_page(client, job)
    assert len(drawn) == seen
