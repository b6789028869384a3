"""What is drawn by every way there is reads the same after the server was stopped and started again."""

from __future__ import annotations

import io
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.request

import ezdxf
import pytest
from playwright.sync_api import expect


class Serving:
    """A server on a database of its own that can be stopped and started again."""

    def __init__(self, var):
        self.var, self.process = var, None
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]

    @property
    def address(self):
        return f"http://127.0.0.1:{self.port}"

    def start(self):
        env = {
            **os.environ,
            "FJELD_DEMO": "1",
            "PORT": str(self.port),
            "FJELD_VAR": str(self.var),
            "FJELD_WORKERS": "1",
        }
        env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
        self.process = subprocess.Popen(
            [sys.executable, "manage.py", "serve"],
            env=env,
            stdout=subprocess.DEVNULL,
            start_new_session=True,
        )
        until = time.monotonic() + 60
        while time.monotonic() < until:
            try:
                urllib.request.urlopen(f"{self.address}/health", timeout=2).read()
                return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def stop(self):
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(20)


@pytest.fixture
def serving(tmp_path):
    made = Serving(tmp_path)
    made.start()
    yield made
    made.stop()


def room(page, name):
    page.get_by_text("Another room, another storey").click()
    page.get_by_label("Name of the next room").fill(name)
    page.get_by_role("button", name="Start the room").click()
    expect(
        page.get_by_role("complementary", name="Workings").get_by_role("heading", name=name)
    ).to_be_visible()


def say(page, words):
    seq = page.locator("#line").get_attribute("data-seq")
    page.locator("#words").fill(words)
    page.locator("#words").press("Enter")
    expect(page.locator(f"#line:not([data-seq='{seq}'])")).to_be_attached()


def measures(page, base, handles):
    """Every figure that a room's page shows: area, lengths of its walls, where it stands, what it is built
    of.
    """
    found = {}
    for handle in handles:
        page.goto(f"{base}survey/?at={handle}")
        fields = page.locator(
            "#dock input:not([type=radio]):not([type=hidden]):not([type=file]), #workings"
            " input:not([type=hidden]):not([type=file])"
        )
        found[handle] = [fields.nth(n).input_value() for n in range(fields.count())]
        found[handle].append(page.locator("#workings .text-reading").first.inner_text())
    return found


def test_rooms_by_tape_words_rectangle_drag_and_trace_survive_a_restart(serving, browser, tmp_path):
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.set_default_timeout(15_000)
    page.goto(f"{serving.address}/sign-up")
    page.get_by_label("Name", exact=True).fill("someone")
    for label in ("Password, ten characters or more", "Once more"):
        page.get_by_label(label, exact=True).fill("a long password of words")
    page.get_by_role("button", name="Make it").click()
    page.get_by_label("Name", exact=True).fill("Drawn every way")
    page.get_by_role("button", name="Start", exact=True).click()
    page.wait_for_url("**/survey/**")
    base = re.match(r".*/jobs/\d+/", page.url)[0]

    # Walked with the tape.
    page.get_by_label("Name of the room").fill("Walked")
    page.get_by_role("button", name="Start the room").click()
    expect(page.locator("#words")).to_be_visible()
    for words in ("12'4", "10' 3 1/2\"", "12'4", "10' 3 1/2\"", "door 32 at 2'", "wall 2 brick"):
        say(page, words)
    # Typed as a rectangle, and skew in words.
    room(page, "Typed")
    say(page, "rect 11'7 by 9' 5 3/8")
    room(page, "Skew")
    for words in ("E 12'", "SE 4'", "S 6'", "W 14' 10\"", "N 8' 10\""):
        say(page, words)
    # Dragged, in a job of feet and inches.
    room(page, "Dragged")
    floor = page.locator("#floor")
    box = floor.bounding_box()
    page.mouse.move(box["x"] + 60, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + 190, box["y"] + 160, steps=6)
    seq = page.locator("#line").get_attribute("data-seq")
    page.mouse.up()
    expect(page.locator(f"#line:not([data-seq='{seq}'])")).to_be_attached()
    # Traced from a drawing.
    drawing = ezdxf.new("R2010", units=4)
    drawing.modelspace().add_lwpolyline([(0, 0), (3657.6, 0), (3657.6, 2743.21), (0, 2743.2)], close=True)
    stream = io.StringIO()
    drawing.write(stream)
    (tmp_path / "floor.dxf").write_text(stream.getvalue())
    page.get_by_text("Another room, another storey").click()
    page.locator("input[type=file]").first.set_input_files(tmp_path / "floor.dxf")
    page.get_by_role("button", name=re.compile("[Bb]ring|[Bb]ackground")).first.click()
    page.get_by_placeholder("Name of the room").fill("Traced")
    page.get_by_role("button", name="Make it a room").click()
    expect(page.get_by_role("heading", name="Traced", exact=True)).to_be_visible()

    handles = ["R1", "R2", "R3", "R4", "R5"]
    before = measures(page, base, handles)
    assert all(len(fields) > 12 for fields in before.values())
    serving.stop()
    serving.start()
    assert measures(page, base, handles) == before
    areas = {h: float(re.match(r"[\d.]+", fields[-1])[0]) for h, fields in before.items()}
    assert all(8 < a < 400 for a in areas.values()), areas
