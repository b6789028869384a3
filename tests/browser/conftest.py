"""The served demo in a real browser: one server a worker, a fresh page a test, and no console error
unnoticed.
"""

from __future__ import annotations

import os
import re
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from html import escape

import pytest
from playwright.sync_api import expect

from fjeld.oldbox.arrangements import arrangements

# A machine with other work on it is slow, not wrong.
expect.set_options(timeout=15_000)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {
        # Without a window's machinery a page is there in two thirds of the time.
        "executable_path": shutil.which("chromium-headless-shell") or shutil.which("chromium"),
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-background-networking",
            "--disable-component-update",
            "--no-first-run",
        ],
    }


@pytest.fixture(scope="session")
def served(tmp_path_factory):
    """The address of a demo server with a database of its own."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    env = {
        **os.environ,
        "FJELD_DEMO": "1",
        "PORT": str(port),
        "FJELD_VAR": str(tmp_path_factory.mktemp("var")),
    }
    env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    server = subprocess.Popen(
        [sys.executable, "manage.py", "serve", "--demo"], env=env, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    until = time.monotonic() + 180
    while True:
        try:
            urllib.request.urlopen(f"{address}/health", timeout=1).read()
            break
        except OSError:
            assert server.poll() is None, "the server stopped"
            assert time.monotonic() < until, "the server did not start"
            time.sleep(0.1)
    yield address
    server.terminate()
    server.wait(10)


@pytest.fixture(scope="session")
def browser_context_args(served):
    return {"base_url": served, "viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}


@pytest.fixture
def listened(page):
    """The page; any error on its console fails the test."""
    heard: list[str] = []
    page.on("console", lambda m: heard.append(m.text) if m.type == "error" and not expected(m.text) else None)
    page.on("pageerror", lambda error: heard.append(str(error)))
    page.set_default_timeout(15_000)
    yield page
    assert not heard, heard


def expected(words: str) -> bool:
    """The browser notes a refused edit's status by itself, and that a test has cut the connection."""
    return any(
        w in words
        for w in (
            "status of 422",
            "status of 409",
            "status of 403",
            "ERR_INTERNET_DISCONNECTED",
            "ERR_FAILED",
        )
    )


@pytest.fixture
def signed(listened):
    """The page, signed in to the demo by request: the door itself is looked at elsewhere. Nothing is
    remembered of tests before.
    """
    sent(listened, "/demo", listed="/sign-in")
    return listened


def sent(page, address, listed="/", **form):
    """What a form of a page would send, by request: for what a test does not look at. Returns
    where it led.
    """
    listed = page.request.get(listed)
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', listed.text())[1]
    answered = page.request.post(
        address, form={"csrfmiddlewaretoken": token, **form}, headers={"Referer": listed.url}
    )
    assert answered.ok, (address, answered.status)
    return answered.url


def begun(page, wants, place, usual, practice="na"):
    """An errand begun from a usual box, by request; the address of its first step."""
    errand = sent(page, "/errand", wants=wants, practice=practice)
    known = arrangements(practice)
    n = next(n for n, a in enumerate(known) if a.words.startswith(usual))
    sent(page, f"{errand}/do/place", box="E1", place=known[n].box.place)
    return sent(page, f"{errand}/do/begin", box="E1", usual=str(n)).partition("?")[0]


def copied(page, name):
    """Open a copy of a demo job, by name, at Survey."""
    # The list of jobs grows with every test: the one that is copied is the oldest, on the last page.
    listed = page.request.get("/", params={"q": name, "page": "999"}).text()
    *_, job = re.findall(
        rf'/jobs/(\d+)/copy"(?:(?!</form>).)*aria-label="Copy {re.escape(escape(name))}"', listed, re.DOTALL
    )
    page.goto(sent(page, f"/jobs/{job}/copy"))
    assert "/survey/" in page.url
    return page


@pytest.fixture
def demo(signed):
    """A copy of the demo job, open at Survey: tests may change it as they like."""
    return copied(signed, "Tarn House · boot room")


@pytest.fixture
def go(listened):
    """Walk the trail of the job that is open."""

    def to(waypoint: str):
        listened.get_by_role("navigation", name="Trail", exact=True).get_by_role(
            "link", name=waypoint
        ).click()
        listened.wait_for_url(f"**/{waypoint.lower()}/**")

    return to
