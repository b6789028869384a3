"""Other ways in: keyboard alone, headlamp, phone, paper, and what a screen reader is told."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

WAYPOINTS = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")
AXE = (Path(__file__).parent / "axe.js").read_text()


def job_address(page):
    return re.match(r"(.*/jobs/\d+)/", page.url)[1]


def violations(page, both=False):
    """What axe finds on the page as it stands; of ``both`` lights, which differ in their colours alone.

    Playwright's own world is not bound by the page's policy.
    """
    page.evaluate(AXE)
    found = page.evaluate("async () => (await axe.run(document, {resultTypes: ['violations']})).violations")
    if both:
        found += page.evaluate("""async () => {
            const html = document.documentElement, mine = html.dataset.theme;
            html.dataset.theme = mine === 'day' ? 'headlamp' : 'day';
            const other = await axe.run(document, {resultTypes: ['violations'], runOnly: ['color-contrast']});
            html.dataset.theme = mine;
            return other.violations;
        }""")
    return [(v["id"], [n["html"][:160] for n in v["nodes"]][:3]) for v in found]


def test_axe_sees_what_cannot_be_read_by_headlamp_alone(listened):
    """That both lights are looked at is itself looked at."""
    page = listened
    page.goto("/bench/")
    page.evaluate("""() => {
        const seen = document.createElement('p');
        seen.textContent = 'dark on dark';
        document.querySelector('main').append(seen);
        const dark = () => document.documentElement.dataset.theme === 'headlamp' && seen.isConnected;
        new MutationObserver(() => {
            seen.style.cssText = dark() ? 'color: #222; background: #111' : '';
        }).observe(document.documentElement, {attributes: true});
    }""")
    assert violations(page) == []
    assert [name for name, _ in violations(page, both=True)] == ["color-contrast"]


def test_axe_finds_nothing_with_things_selected(demo):
    page = demo
    address = job_address(page)
    for there in (
        "layout/?sel=A1",
        "layout/?sel=O4",
        "circuits/?sel=K1",
        "circuits/?sel=Q1",
        "runs/?sel=C2",
        "boxes/?sel=S1&step=3",
        "survey/?sel=D1",
        "survey/?sel=P1",
    ):
        page.goto(f"{address}/{there}")
        assert violations(page) == [], there


def test_axe_finds_nothing_on_the_doors(listened):
    page = listened
    for there in ("/sign-in", "/sign-up"):
        page.goto(there)
        assert violations(page) == [], there
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("link", name="Archived jobs").wait_for()
    assert violations(page) == []


def test_a_light_is_laid_and_moved_by_keyboard_alone(demo):
    page = demo
    (
        page.locator("body").press("2")
        if page.evaluate("document.activeElement.tagName") != "INPUT"
        else page.keyboard.press("Tab")
    )
    page.goto(f"{job_address(page)}/layout/")
    # Tab to the row's fields, type, Enter.
    across = page.get_by_role("textbox", name="Across")
    for _ in range(60):
        if across.evaluate("e => e === document.activeElement"):
            break
        page.keyboard.press("Tab")
    expect(across).to_be_focused()
    page.keyboard.type("1")
    page.keyboard.press("Tab")
    page.keyboard.type("1")
    with page.expect_response(re.compile("/do/rows")) as answered:
        page.keyboard.press("Enter")
    assert answered.value.status == 200
    workings = page.get_by_role("complementary", name="Workings")
    expect(workings.get_by_role("heading", level=2)).to_contain_text("Light A5")
    laid = workings.text_content()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("status").filter(has_text=re.compile("A5 moved .* east"))).to_be_visible()
    expect(workings).not_to_have_text(laid)
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_role("status").filter(has_text=re.compile("A5 moved .* south"))).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=re.compile("^Redo: "))).to_be_enabled()


def test_digits_walk_the_trail_and_space_the_joints(demo):
    page = demo
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("5")
    page.wait_for_url("**/boxes/**")
    workings = page.get_by_role("complementary", name="Workings")
    first = workings.locator(".instruction").inner_text()
    page.keyboard.press(" ")
    expect(workings.locator(".instruction")).not_to_have_text(first)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    expect(page.get_by_role("dialog")).to_contain_text("to a waypoint")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()


def test_links_pressed_while_an_answer_is_under_way_are_not_lost(demo):
    page = demo
    page.goto(job_address(page) + "/boxes/?sel=S1")
    expect(page.locator("#next-step")).to_have_text("First joint")
    page.evaluate("""() => {
      const ask = window.fetch;
      const later = () => new Promise((done) => setTimeout(done, 300));
      window.fetch = async (...of) => { await later(); return ask(...of); };
    }""")
    for _ in range(3):
        page.locator("#next-step").dispatch_event("click")
    expect(page).to_have_url(re.compile("step=3$"))


def test_what_is_pressed_while_an_answer_is_under_way_follows_it(demo):
    page = demo
    page.goto(job_address(page) + "/layout/?sel=O1")
    page.evaluate("document.activeElement.blur()")
    page.evaluate("""() => {
      const ask = window.fetch;
      window.fetch = async (to, ...of) => {
        const answer = await ask(to, ...of);
        if (String(to).includes("/do/nudge")) await new Promise((done) => setTimeout(done, 700));
        return answer;
      };
    }""")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Control+z")
    # Two steps made, one taken back, and the page says so.
    expect(page.get_by_role("button", name=re.compile("^Redo: Move O1"))).to_be_enabled()
    expect(page.get_by_role("button", name=re.compile("^Undo: Move O1"))).to_be_enabled()
    shown = page.get_by_role("complementary", name="Workings").inner_text()
    page.reload()
    assert page.get_by_role("complementary", name="Workings").inner_text() == shown


def test_walking_by_arrow_and_backspace(listened):
    page = listened
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("textbox", name="Name").fill("Arrows")
    page.get_by_role("textbox", name="Name").press("Enter")
    page.get_by_role("textbox", name="Name of the room").fill("Room")
    page.get_by_role("textbox", name="Name of the room").press("Enter")
    tape = page.get_by_role("textbox", name=re.compile("Next wall"))
    expect(tape).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("radio", name="S", exact=True)).to_be_checked()
    page.keyboard.type("8'")
    expect(page.get_by_text("Read as:")).to_contain_text("S 8'")
    page.keyboard.press("Enter")
    expect(page.get_by_role("textbox", name="Length of wall 1")).to_have_value("8'")
    expect(page.get_by_role("radio", name="W", exact=True)).to_be_checked()
    expect(tape).to_be_focused()
    page.keyboard.press("Backspace")
    expect(page.get_by_role("textbox", name="Length of wall 1")).to_have_count(0)


def test_headlamp_is_kept_from_page_to_page(demo, go):
    page = demo
    page.get_by_role("button", name="Dark mode").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "headlamp")
    go("Proof")
    expect(page.locator("html")).to_have_attribute("data-theme", "headlamp")
    dark = page.evaluate(
        "getComputedStyle(document.body).backgroundColor ||"
        " getComputedStyle(document.documentElement).backgroundColor"
    )
    assert dark
    page.get_by_role("button", name="Dark mode").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "day")


@pytest.fixture
def phone(browser, served):
    context = browser.new_context(
        base_url=served, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
    )
    page = context.new_page()
    heard = []
    page.on("console", lambda m: heard.append(m.text) if m.type == "error" else None)
    page.on("pageerror", lambda error: heard.append(str(error)))
    page.goto("/")
    page.get_by_role("button", name="Open the demo").tap()
    page.get_by_role("heading", name="Jobs", exact=True).wait_for()
    page.goto("/?q=boot room&page=999")
    page.get_by_role("button", name="Copy Tarn House · boot room", exact=True).last.tap()
    page.wait_for_url("**/survey/**")
    yield page
    context.close()
    assert not heard, heard


def test_on_a_phone_nothing_is_wider_than_the_screen_and_targets_are_large(phone):
    address = job_address(phone)
    for waypoint in WAYPOINTS:
        phone.goto(f"{address}/{waypoint}/")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 391, waypoint
        small = phone.evaluate(
            """() => [...document.querySelectorAll("button, select, a.button, a.cell, "
              + "input:not([type=hidden]):not([type=radio]):not([type=checkbox])")]
            .filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5)
            .map(e => e.outerHTML.slice(0, 120))"""
        )
        assert small == [], waypoint
        assert violations(phone) == [], waypoint


def test_on_a_phone_a_room_is_walked_on_the_tape_pad(phone):
    phone.goto(f"{job_address(phone)}/survey/")
    tape = phone.get_by_role("textbox", name=re.compile("Next wall"))
    pad = phone.get_by_role("group", name="Tape pad")
    for key in ("7", "ft", "6"):
        pad.get_by_role("button", name=key, exact=True).tap()
    expect(tape).to_have_value("7'6")
    pad.get_by_role("button", name="back").tap()
    expect(tape).to_have_value("7'")


def test_on_a_phone_a_box_is_made_up_with_one_thumb(phone):
    phone.goto(f"{job_address(phone)}/boxes/?sel=S1")
    step = phone.get_by_role("link", name="First joint")
    step.scroll_into_view_if_needed()
    assert step.bounding_box()["height"] >= 63.5
    step.tap()
    expect(phone.get_by_role("link", name="Next joint")).to_be_visible()
    expect(phone.locator(".instruction")).to_contain_text("ground")


def test_on_a_phone_the_trail_is_back_here_and_next(phone):
    trail = phone.get_by_role("navigation", name="Trail, short")
    trail.get_by_role("link", name="On to Layout").tap()
    phone.wait_for_url("**/layout/**")
    trail.get_by_role("link", name="Back to Survey").tap()
    phone.wait_for_url("**/survey/**")


def test_the_cut_list_prints(demo, go, tmp_path):
    page = demo
    go("Site")
    for size in ("A4", "Letter"):
        data = page.pdf(format=size)
        assert data.startswith(b"%PDF")
        assert len(data) > 8000
    page.emulate_media(media="print")
    expect(page.get_by_role("region", name="Pieces to cut")).to_be_visible()
    expect(page.locator("#trail")).to_be_hidden()
    expect(page.get_by_role("button", name="Print")).to_be_hidden()


@pytest.mark.parametrize("waypoint", ["survey", "boxes", "record"])
def test_a_first_page_is_light(demo, browser, served, waypoint):
    """With nothing kept by the browser: page, styles, scripts and letters together, as they travel."""
    fresh = browser.new_context(base_url=served, storage_state=demo.context.storage_state())
    page = fresh.new_page()
    wire = fresh.new_cdp_session(page)
    wire.send("Network.enable")
    travelled: list[float] = []
    wire.on("Network.loadingFinished", lambda told: travelled.append(told["encodedDataLength"]))
    page.goto(f"{job_address(demo)}/{waypoint}/", wait_until="networkidle")
    assert len(travelled) > 5
    assert sum(travelled) < 180_000
    fresh.close()
