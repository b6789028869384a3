"""Typing ahead of slow answers: nothing typed is lost, and walls are laid in the order in which they were
entered.
"""

import pytest
from playwright.sync_api import expect

from fjeld.drawing.building import Room
from fjeld.formats import jobfile
from fjeld.quantities import FOOT
from tests.browser.conftest import sent

#: Every request is held so long, and every answer again.
SLOW = (
    "const real = window.fetch; const hold = () => new Promise((go) => setTimeout(go, %d)); window.fetch ="
    " async (...of) => { await hold(); const answer = await real(...of); await hold(); return answer; };"
)

#: Whatever the line holds between any two turns of the page, each change once.
WATCHED = (
    "() => { window.held = []; const turn = new MessageChannel(); turn.port1.onmessage = () => { const line ="
    " document.getElementById('words'); if (line && line.value !== held.at(-1)) held.push(line.value);"
    " turn.port2.postMessage(0); }; turn.port2.postMessage(0); }"
)


def walked(page, latency):
    """A new room, open at its first wall, with every answer held up."""
    page.add_init_script(SLOW % latency)
    page.goto(sent(page, "/jobs/new", name="Typed ahead", practice="na"))
    page.get_by_label("Name of the room").fill("Hall")
    page.get_by_role("button", name="Start the room").click()
    line = page.locator("#words")
    expect(line).to_be_visible()
    line.focus()
    return line


def sides(page):
    """The walls of the room as the job's own file has them, ft."""
    answer = page.request.get(f"{page.url.partition('/survey/')[0]}/export/job.json")
    room = next(iter(jobfile.decode(answer.body()).of(Room).values()))
    return [(round(side.length.mm / FOOT, 3), side.bearing) for side in room.sides]


@pytest.mark.parametrize("latency", [150, 700])
def test_walls_typed_faster_than_the_answers_are_all_laid_in_order(signed, latency):
    page = signed
    walked(page, latency)
    for wall in ("12'", "10'", "12'", "10'"):
        page.keyboard.type(wall, delay=20)
        page.keyboard.press("Enter")
    page.keyboard.type("door 3", delay=20)
    page.evaluate(WATCHED)
    for _ in range(80):
        if len(sides(page)) == 4 and not page.evaluate("tape.laying"):
            break
        page.wait_for_timeout(250)
    assert sides(page) == [(12, 90), (10, 180), (12, 270), (10, 0)], "each turns on from the one before it"
    # No moment in which a key, or the eye, finds the line empty.
    assert page.evaluate("held") == ["door 3"], "what is being typed stays in the line"


def test_a_line_that_is_refused_comes_back_and_those_behind_it_wait(signed):
    page = signed
    line = walked(page, 300)
    for wall in ("12'", "1O'", "12'"):
        page.keyboard.type(wall, delay=20)
        page.keyboard.press("Enter")
    expect(page.locator("#waits")).to_contain_text("Held until that is put right: 12'")
    assert line.input_value() == "1O'"
    assert sides(page) == [(12, 90)]
    line.fill("10'")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Next wall 4 of Hall")).to_be_visible()
    assert sides(page) == [(12, 90), (10, 180), (12, 270)]
