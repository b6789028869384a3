"""A new job from the first screen to the last, by role and label, as a newcomer would go."""

import json
import re
from pathlib import Path

from playwright.sync_api import expect


def say(page, *lines):
    """Type lines on the tape, each followed by Enter; each is laid before the next is typed."""
    for line in lines:
        tape = page.get_by_role("textbox", name=re.compile("Next wall"))
        tape.fill(line)
        with page.expect_response(re.compile("/do/say")) as answered:
            tape.press("Enter")
        assert answered.value.status == 200, line
        expect(tape).to_have_value("")


def test_a_new_job_through_all_eight_waypoints(listened, go, served):
    page = listened
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("textbox", name="Name").fill("Ferry shed")
    page.get_by_role("button", name="Start", exact=True).click()

    # Survey: a rectangle walked by keyboard, a door, a panel, framing.
    page.get_by_role("textbox", name="Name of the room").fill("Shed")
    page.get_by_role("combobox", name="Used as").select_option("other")
    page.get_by_role("button", name="Start the room").click()
    say(page, "14'2", "10'", "14'1", "10'", "door 32 at 2' on 3", "panel at 3' on 4", "joists ns 16 first 8")
    workings = page.get_by_role("complementary", name="Workings")
    workings.get_by_role("link", name="Back to the room").click()
    expect(workings).to_contain_text("closing error")
    expect(workings).to_contain_text("corners stay square")

    # Layout: two lights with a preview, a switch beside the door, an outlet.
    go("Layout")
    page.get_by_role("textbox", name="Down").fill("1")
    expect(page.locator("#f-ghost circle")).to_have_count(2)
    page.get_by_role("button", name="Place lights").click()
    expect(page.get_by_role("link", name="light A2", exact=False)).to_be_visible()
    page.get_by_role("button", name="Switch beside D1").click()
    expect(page.get_by_role("status").filter(has_text="Place a switch beside D1")).to_be_visible()
    page.get_by_text("One box …").click()
    page.get_by_role("combobox", name="Kind").select_option("outlet")
    page.get_by_role("combobox", name="On").select_option("wall 2")
    page.get_by_role("textbox", name="From its start").fill("5'")
    page.get_by_role("button", name="Place it").click()
    expect(page.get_by_role("status").filter(has_text="Place outlet O1")).to_be_visible()

    # Circuits: what works what, and the circuits proposed.
    go("Circuits")
    for name in ("Switch S1", "Light A1", "Light A2"):
        page.get_by_role("checkbox", name=name, exact=True).check()
    page.get_by_role("button", name="Create control").click()
    expect(workings).to_contain_text("K1")
    page.get_by_role("button", name=re.compile("Put 3 unassigned loads on circuits")).click()
    dock = page.get_by_role("region", name="Loads against breakers")
    expect(dock).to_contain_text("of 15 A")

    # Runs: a cable's cut length is a written sum.
    go("Runs")
    page.get_by_role("link", name="C1", exact=True).click()
    expect(workings).to_contain_text("slack on the route")
    expect(workings).to_contain_text("staple")

    # Boxes: the switch box made up joint by joint.
    go("Boxes")
    page.get_by_role("link", name=re.compile("^S1")).first.click()
    expect(workings.get_by_role("heading", name="Box S1")).to_be_visible()
    page.get_by_role("link", name="First joint").click()
    expect(workings).to_contain_text("ground")
    expect(page.locator("#f-box .wire-current").first).to_be_attached()

    # Proof: proven, and the lamps follow the plate.
    go("Proof")
    expect(page.get_by_text("proven over 2 states")).to_be_visible()
    expect(page.locator("#f-points .symbol.lit")).to_have_count(0)
    page.get_by_role("switch", name=re.compile("S1 for K1")).click()
    expect(page.locator("#f-points .symbol.lit")).to_have_count(2)

    # Site: materials and cuts.
    go("Site")
    expect(workings).to_contain_text("Coils to buy")
    expect(page.get_by_role("region", name="Pieces to cut")).to_contain_text("P1 to")

    # Record: out as files, and in again.
    go("Record")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Job file, JSON").click()
    data = json.loads(Path(waiting.value.path()).read_text())
    assert len(data["rooms"]["R1"]["walls"]) == 4
    for name, start in (("Materials, CSV", "part,"), ("Network, SPICE", "* Ferry shed")):
        with page.expect_download() as waiting:
            page.get_by_role("link", name=name).click()
        assert Path(waiting.value.path()).read_text().startswith(start)
    page.goto("/")
    page.get_by_label("Job file (JSON)").set_input_files(
        {"name": "job.json", "mimeType": "application/json", "buffer": json.dumps(data).encode()}
    )
    page.get_by_role("button", name="Import").click()
    page.wait_for_url("**/survey/**")
    expect(page.get_by_role("textbox", name="Length of wall 1")).to_have_value("14'2")


def test_undo_and_redo_name_their_step(demo, go):
    page = demo
    go("Layout")
    page.get_by_role("link", name="outlet O1").first.click()
    figure = page.get_by_role("textbox", name="Along the wall")
    was = figure.input_value()
    figure.fill("3' 1\"")
    figure.press("Enter")
    undo = page.get_by_role("button", name=re.compile("Undo: Set O1 at 3' 1"))
    expect(undo).to_be_visible()
    undo.click()
    expect(figure).to_have_value(was)
    page.get_by_role("button", name=re.compile("Redo: Set O1 at 3' 1")).click()
    expect(figure).to_have_value("3' 1\"")


def test_bad_input_is_told_at_the_foot_and_the_words_stay(demo):
    page = demo
    tape = page.get_by_role("textbox", name=re.compile("Next wall"))
    tape.fill("dor 32 at 4")
    tape.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("no word here")
    expect(tape).to_have_value("dor 32 at 4")


def test_a_light_is_dragged_to_a_served_stop_with_live_distances(demo, go):
    page = demo
    go("Layout")
    page.get_by_role("link", name="smoke detector V1").or_(
        page.get_by_role("link", name="alarm V1")
    ).first.click()
    expect(page.locator("#f-drag")).to_have_attribute("data-handle", "V1")
    box = page.locator("#f-V1 circle").last.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y + 30, steps=6)
    live = page.locator("#live-reading")
    expect(live).to_be_visible()
    assert re.search(r"\d", live.inner_text())
    with page.expect_response(re.compile("/do/move")) as answered:
        page.mouse.up()
    assert answered.value.status == 200
    expect(page.get_by_role("status").filter(has_text="V1 moved")).to_be_visible()
    expect(live).to_be_hidden()


def test_a_ghost_is_shown_before_a_tree_is_taken(demo, go):
    page = demo
    go("Runs")
    page.get_by_role("link", name="Show: Feed at the light").click()
    expect(page.locator("#f-ghost .ghost-route").first).to_be_attached()
    page.keyboard.press("Escape")
    expect(page.locator("#f-ghost .ghost-route")).to_have_count(0)
    page.get_by_role("button", name="Take: Feed at the switch").click()
    expect(page.get_by_role("status").filter(has_text="fed at the switch")).to_be_visible()


def test_space_shows_a_fix_escape_leaves_it_enter_takes_it(demo, go):
    page = demo
    go("Layout")
    fix = page.get_by_role("button", name="Move O4", exact=True)
    fix.focus()
    page.keyboard.press(" ")
    expect(page.locator("#f-ghost circle")).to_have_count(1)
    expect(page.locator("#passing")).to_contain_text("in parts")
    page.keyboard.press("Escape")
    expect(page.locator("#f-ghost circle")).to_have_count(0)
    fix.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="O4 moved")).to_be_visible()
    expect(fix).to_have_count(0)


def test_what_is_still_live_follows_the_breaker(demo, go):
    page = demo
    go("Proof")
    table = page.get_by_role("complementary", name="Workings").get_by_role("table").first
    expect(table).to_contain_text("live")
    page.locator("#f-plates").get_by_role("switch", name=re.compile("Breaker of Q1")).click()
    expect(table.get_by_text("live", exact=False)).to_have_count(0)
    expect(page.locator("#f-points .symbol.lit")).to_have_count(0)


def test_the_truth_strip_sets_the_switches(demo, go):
    page = demo
    go("Proof")
    strip = page.get_by_role("list", name="Truth strip of K1")
    cells = strip.get_by_role("link")
    expect(cells).to_have_count(4)
    # The first stands already: pressing it would change nothing that could be waited for.
    for n in (1, 2, 3, 0):
        cells.nth(n).click()
        expect(cells.nth(n)).to_have_class(re.compile("here"))
        lit = "lit" in cells.nth(n).get_attribute("aria-label").split(",")[1]
        expect(page.locator("#f-points .symbol.lit")).to_have_count(4 if lit else 0)


def test_a_press_whose_page_is_put_in_anew_meanwhile_is_not_lost(demo, go):
    page = demo
    go("Proof")
    cells = page.get_by_role("list", name="Truth strip of K1").get_by_role("link")
    cells.nth(1).click()
    expect(cells.nth(1)).to_have_class(re.compile("here"))
    cells.nth(2).hover()
    page.mouse.down()
    old = cells.nth(2).element_handle()
    page.evaluate(
        "htmx.ajax('GET', location.pathname + location.search, {source: document.getElementById('frame'),"
        " swap: 'none', headers: {'X-Fjeld-Again': '1'}})"
    )
    page.wait_for_function("(cell) => !cell.isConnected", arg=old)
    page.mouse.up()
    expect(cells.nth(2)).to_have_class(re.compile("here"))


def test_two_people_see_each_other(demo, browser, served):
    page = demo
    other = browser.new_context(base_url=served).new_page()
    other.goto("/")
    other.get_by_role("button", name="Open the demo").click()
    other.goto(page.url.replace("/survey/", "/record/"))
    other.get_by_label("Name of the job").fill("Renamed by another")
    other.get_by_label("Name of the job").press("Enter")
    expect(other.get_by_role("status").first).to_contain_text("Change name of the job")
    page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    expect(page.locator("#elsewhere")).to_be_visible()
    other.context.close()


def test_the_light_map_is_painted_and_follows_the_lamps(demo, go):
    page = demo
    go("Layout")
    page.get_by_role("link", name="Light map").click()
    light = page.get_by_role("region", name="Light", exact=True)
    expect(light).to_contain_text("on average of 100 wanted")
    painted = """() => { const c = document.querySelector("canvas[data-light]");
        const drawn = [...c.getContext("2d").getImageData(0, 0, c.width, c.height).data];
        return drawn.filter((v, n) => n % 4 === 3 && v > 0).length; }"""
    assert page.evaluate(painted) > 200
    before = light.inner_text()
    page.get_by_role("link", name="light A1").first.click()
    lumens = page.get_by_role("textbox", name="Lumens")
    lumens.fill("1600")
    lumens.press("Enter")
    expect(light).not_to_have_text(before)
    expect(light.get_by_role("row", name=re.compile("without A1"))).to_be_visible()
    assert page.evaluate(painted) > 200, "painted again after the swap"
    page.get_by_role("link", name="Light off").click()
    expect(page.locator("canvas[data-light]")).to_have_count(0)
