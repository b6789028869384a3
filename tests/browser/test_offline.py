"""Without connection: the book is walked on, and what was written is sent once when the connection
is back.
"""

import http.client
import re
import time
from urllib.parse import urlsplit

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.conftest import begun, sent
from tests.browser.meter import read_pairs
from tests.browser.test_errand import PHONE, begin


@pytest.fixture
def book(signed):
    """An errand's book, all told that shuts a step, its first step ticked with connection."""
    page = signed
    page.set_viewport_size(PHONE)
    errand = begun(page, "replace", "outlet", "One cable on the outlet")
    sent(page, f"{errand}/do/look", box="E1", field="condition", value="sound")
    sent(page, f"{errand}/meant", becomes="same")
    sent(page, f"{errand}/step", event="done", step="look", token="the-first-step")
    page.goto(f"{errand}/steps")
    return page


def job_of(page):
    return re.search(r"/jobs/(\d+)/", page.url)[1]


def records(page):
    return page.request.get(f"/jobs/{job_of(page)}/errand/kept.json").json()["records"]


def done(page, heading):
    expect(page.locator("#now").get_by_role("heading", name=heading)).to_be_visible()
    page.get_by_role("button", name="Done", exact=True).click()


def walk(page):
    """Four steps, with what each asks."""
    done(page, "Find the breaker")
    expect(page.locator("#now").get_by_role("heading", name="At the source: prove")).to_be_visible()
    expect(page.locator("#now")).not_to_contain_text("First:")
    page.get_by_label("the tester was proven on live before").check()
    read_pairs(page)
    page.get_by_label("and proven on live again after").check()
    done(page, "At the source: prove")
    expect(page.locator("#now").get_by_role("heading", name="Open the source")).to_be_visible()
    page.get_by_label("Notes").fill("two blacks on one screw")
    done(page, "Open the source")
    done(page, "Join 1.G with")


def test_from_the_second_step_on_without_connection_nothing_is_lost_or_doubled(book, listened):
    page = book
    page.context.set_offline(True)
    walk(page)
    expect(page.get_by_role("status")).to_contain_text("4 kept on this phone")
    expect(page.locator("#now")).to_contain_text("Step 6 of")
    rows = page.locator("[data-book] li")
    expect(rows.filter(has_text="Open the source").locator(".tag")).to_have_text("done")
    page.context.set_offline(False)
    expect(page.get_by_role("status")).to_be_hidden(timeout=20_000)
    expect(page.locator("#now")).to_contain_text("Step 6 of")
    kept = records(page)
    assert [r["of"] for r in kept] == ["step:look", "step:breaker", "step:dead", "step:open", "step:change 1"]
    assert kept[3]["what"]["note"] == "two blacks on one screw"
    assert kept[2]["what"]["written"] < kept[3]["what"]["written"], "each says when it was written"
    page.reload()
    assert len(records(page)) == 5


def test_an_answer_that_is_lost_on_the_way_back_doubles_nothing(book):
    page = book
    lost = {"count": 0}

    def lose(route):
        route.fetch(max_redirects=0)
        lost["count"] += 1
        route.abort()

    page.route("**/errand/step", lose)
    done(page, "Find the breaker")
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    assert lost["count"] >= 1
    assert len(records(page)) == 2, "the server has it already"
    page.unroute("**/errand/step")
    page.evaluate("dispatchEvent(new Event('online'))")
    expect(page.get_by_role("status")).to_be_hidden(timeout=20_000)
    assert len(records(page)) == 2


def another(page):
    """Another page of the same person, elsewhere."""
    return page.context.browser.new_context(
        base_url=page.url.split("/jobs")[0], storage_state=page.context.storage_state()
    )


def read_dead(page):
    page.get_by_label("the tester was proven on live before").check()
    read_pairs(page)
    page.get_by_label("and proven on live again after").check()
    done(page, "At the source: prove")


def connected(page):
    page.context.set_offline(False)
    page.evaluate("dispatchEvent(new Event('online'))")


def test_what_the_server_refuses_later_is_said_holds_no_other_and_can_be_let_go(book):
    page = book
    with page.expect_navigation():
        done(page, "Find the breaker")
    page.context.set_offline(True)
    read_dead(page)
    expect(page.locator("#now").get_by_role("heading", name="Open the source")).to_be_visible()
    page.get_by_label("Notes").fill("two blacks on one screw")
    done(page, "Open the source")
    expect(page.get_by_role("status")).to_contain_text("2 kept on this phone")
    # Meanwhile another hand finds what shuts the box, and nothing of what was done before it.
    other = another(page)
    sent(
        other.new_page(),
        f"/jobs/{job_of(page)}/errand/do/look",
        box="E1",
        field="condition",
        value="aluminium",
    )
    other.close()
    connected(page)
    status = page.get_by_role("status")
    expect(status).to_contain_text("Not taken: Open the source", timeout=20_000)
    expect(status).to_contain_text("luminium")
    status.get_by_text("What was written").click()
    expect(status).to_contain_text("two blacks on one screw")
    assert [r["of"] for r in records(page)] == [
        "step:look",
        "step:breaker",
        "step:dead",
    ], "the other was taken"
    page.reload()
    expect(status).to_contain_text("Not taken: Open the source")
    status.get_by_role("button", name="Let it go").click()
    expect(status).to_be_hidden()
    assert len(records(page)) == 3


def test_what_was_done_before_another_took_its_ground_away_is_kept_and_no_longer_holds(book):
    page = book
    with page.expect_navigation():
        done(page, "Find the breaker")
    page.context.set_offline(True)
    read_dead(page)
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    other = another(page)
    their = other.new_page()
    their.goto(f"/jobs/{job_of(page)}/errand/steps?step=breaker")
    with their.expect_navigation():
        their.get_by_role("button", name="Take it back").click()
    other.close()
    connected(page)
    expect(page.get_by_role("status")).to_be_hidden(timeout=20_000)
    expect(page.locator("#now").get_by_role("heading", name="Find the breaker")).to_be_visible()
    assert len(records(page)) == 4, "what was read was read"
    rows = page.locator("[data-book] li")
    expect(rows.filter(has_text="Open the source").locator(".tag")).to_have_text("shut")


def test_what_is_refused_at_once_leaves_what_was_typed(book):
    page = book
    done(page, "Find the breaker")
    expect(page.locator("#now").get_by_role("heading", name="At the source: prove")).to_be_visible()
    page.get_by_label("the tester was proven on live before").check()
    page.get_by_label("and proven on live again after").check()
    field = page.get_by_label("V at worst").first
    field.fill("12O V")
    page.get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_role("alert")).to_be_visible()
    expect(field).to_have_value("12O V")
    page.reload()
    assert len(records(page)) == 2


def test_a_photograph_taken_without_connection_is_made_small_and_sent(book, tmp_path):
    picture = tmp_path / "open box.jpg"
    Image.new("RGB", (3000, 2000), (90, 120, 160)).save(picture)
    page = book
    page.context.set_offline(True)
    page.get_by_label("Photograph", exact=True).set_input_files(picture)
    page.get_by_role("button", name="Save photo").click()
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    page.context.set_offline(False)
    page.evaluate("dispatchEvent(new Event('online'))")
    expect(page.get_by_role("status")).to_be_hidden(timeout=20_000)
    shot = page.get_by_role("img", name=re.compile("Photograph by"))
    expect(shot).to_be_visible()
    assert shot.evaluate("i => i.decode().then(() => i.naturalWidth)") == 1600


def test_a_reading_written_without_connection_is_sent_later(signed):
    page = signed
    page.set_viewport_size(PHONE)
    begin(page)
    page.context.set_offline(True)
    page.get_by_label("1.BK to ground, V", exact=True).fill("120.1")
    page.get_by_label("2.BK to ground, V", exact=True).fill("0.3")
    page.get_by_label("tester checked on a live source before and after").check()
    page.get_by_role("button", name="Write it down").click()
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    page.context.set_offline(False)
    page.evaluate("dispatchEvent(new Event('online'))")
    expect(page.get_by_role("region", name="The cables")).to_contain_text(
        "1: the feed settled", timeout=20_000
    )


def test_a_step_is_read_out_on_wish_and_the_screen_stays_on(book):
    page = book
    page.add_init_script("""window.said = []; window.awake = 0;
        speechSynthesis.speak = (words) => said.push(words.text);
        navigator.wakeLock.request = async () => { awake += 1; };""")
    page.reload()
    expect(page.locator("#now").get_by_role("heading", name="Find the breaker")).to_be_visible()
    page.get_by_role("button", name="Read it out").click()
    said = page.evaluate("said.join(' ')")
    assert "Find the breaker" in said
    assert "Main off leaves the top lugs live" in said
    assert page.evaluate("awake") == 1


def test_what_waits_is_not_lost_where_somebody_is_signed_out_meanwhile(book):
    page = book
    there = page.url
    page.context.set_offline(True)
    done(page, "Find the breaker")
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    page.context.clear_cookies()
    page.context.set_offline(False)
    page.evaluate("dispatchEvent(new Event('online'))")
    page.wait_for_timeout(500)
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("heading", name="Jobs", exact=True).wait_for()
    page.goto(there)
    expect(page.locator("#now").get_by_role("heading", name="At the source: prove")).to_be_visible(
        timeout=20_000
    )
    assert [r["of"] for r in records(page)] == ["step:look", "step:breaker"]


def test_what_another_person_wrote_in_this_browser_is_not_sent_by_me(book):
    page = book
    page.context.set_offline(True)
    done(page, "Find the breaker")
    expect(page.get_by_role("status")).to_contain_text("1 kept on this phone")
    page.evaluate("""async () => {
            const of = (asked) => new Promise((done) => { asked.onsuccess = () => done(asked.result); });
            const base = await of(indexedDB.open("fjeld"));
            const kept = base.transaction("kept", "readwrite").objectStore("kept");
            const all = await of(kept.getAll());
            for (const entry of all) kept.put({ ...entry, user: "another" });
            await new Promise((done) => { kept.transaction.oncomplete = done; });
        }""")
    page.context.set_offline(False)
    page.reload()
    expect(page.get_by_role("status")).to_be_hidden()
    assert len(records(page)) == 1


def test_a_connection_that_rests_is_not_cut_under_the_next_request(served):
    """A proxy or an agent keeps its connections, and sends on one that the server must not be closing just
    then.
    """
    kept = http.client.HTTPConnection(urlsplit(served).netloc, timeout=30)
    for rest in (0, 4):
        time.sleep(rest)
        # No connection is opened anew by itself: one that was cut is an error here.
        kept.auto_open = kept.sock is None
        kept.request("GET", "/health")
        assert kept.getresponse().read()
    kept.close()
