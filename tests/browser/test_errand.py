"""An errand by thumb and by keyboard: from the page of jobs to what an old box is."""

import pytest
from playwright.sync_api import expect

from fjeld.web.errand.kinds import KINDS
from tests.browser.test_ways import violations

PHONE = {"width": 390, "height": 844}
#: A keystroke-level model, s: to think before an act, to point and tap, to type a key.
THINK, TAP, KEY = 1.35, 1.1, 0.28


class Hand:
    """A thumb whose acts are counted, and how long they would take."""

    def __init__(self, page):
        self.page, self.acts, self.seconds = page, 0, 0.0

    def tap(self, found):
        found.click()
        self.acts += 1
        self.seconds += THINK + TAP

    def type(self, label, text):
        field = self.page.get_by_label(label, exact=True)
        field.fill(text)
        self.acts += 1
        self.seconds += THINK + TAP + KEY * len(text)


def begin(page, kind="light", place="A switch", usual="A dark wire on each screw", hand=None):
    hand = hand or Hand(page)
    page.goto("/")
    hand.tap(page.get_by_role("link", name="One thing in a finished room"))
    hand.tap(page.get_by_role("button", name=KINDS[kind].words, exact=True))
    hand.tap(page.get_by_role("button", name=place, exact=True))
    hand.tap(page.get_by_role("button", name=usual))
    return hand


@pytest.mark.parametrize("kind", list(KINDS))
def test_the_first_useful_answer_is_a_minute_away(demo, kind):
    page = demo
    page.set_viewport_size(PHONE)
    hand = begin(page, kind)
    expect(page.get_by_role("region", name="The cables")).to_contain_text("1: the feed")
    following = page.get_by_role("heading", name="Always, sometimes, never")
    expect(following).to_be_visible()
    assert following.bounding_box()["y"] < PHONE["height"], "what to do next is seen without scrolling"
    assert hand.acts <= 12
    assert hand.seconds <= 60


def test_two_readings_settle_a_box_by_thumb(demo):
    page = demo
    page.set_viewport_size(PHONE)
    hand = begin(page)
    hand.type("1.BK to earth, V", "120.1")
    hand.type("2.BK to earth, V", "0.3")
    hand.tap(page.get_by_label("the tester was proven before and after"))
    hand.tap(page.get_by_role("button", name="Write it down"))
    cables = page.get_by_role("region", name="The cables")
    expect(cables).to_contain_text("1: the feed settled")
    expect(page.get_by_role("heading", name="Is it a neutral")).to_be_visible()
    hand.type("1.BK to 1.WH, V", "119.8")
    page.get_by_label("under load").fill("119.5")
    hand.tap(page.get_by_label("every lamp of this circuit was out"))
    page.get_by_label("The test lamp burned").select_option("bright")
    hand.tap(page.get_by_label("the tester was proven before and after"))
    hand.tap(page.get_by_role("button", name="Write it down"))
    expect(page.get_by_text("1.WH with 2.WH is the neutral")).to_be_visible()
    # Nothing is lost where the page is fetched anew.
    page.reload()
    expect(page.get_by_role("region", name="Readings")).to_contain_text("lamp bright")


def test_a_box_is_drawn_by_taking_ends_in_hand(demo):
    page = demo
    page.set_viewport_size(PHONE)
    begin(page, usual="Both wires of the one cable")
    page.get_by_text("Put right what is different").click()
    page.get_by_role("button", name="One more cable of two").click()
    page.get_by_text("Put right what is different").click()
    page.get_by_role("link", name="2.WH", exact=True).click()
    page.get_by_role("button", name="with 1.WH").click()
    expect(page.get_by_role("img", name="The box opened: 2 cables")).to_be_visible()
    page.get_by_role("link", name="The job’s drawing").click()
    page.locator("#undo").click()
    page.goto("/")
    page.get_by_role("link", name="Add a light").first.click()
    expect(page.get_by_role("region", name="The cables")).to_be_visible()


def test_an_errand_by_keyboard_alone(demo):
    page = demo
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto("/")

    def press(found):
        found.focus()
        assert page.evaluate("document.activeElement.matches(':focus-visible')")
        page.keyboard.press("Enter")

    press(page.get_by_role("link", name="One thing in a finished room"))
    press(page.get_by_role("button", name="Add a light", exact=True))
    press(page.get_by_role("button", name="A light or an alarm", exact=True))
    press(page.get_by_role("button", name="Two cables, a light wire of one"))
    expect(page.get_by_role("region", name="The cables")).to_contain_text("a switch loop, no neutral")
    page.get_by_label("1.WH with 2.BK to earth, V").focus()
    page.keyboard.type("120")
    page.get_by_label("the tester was proven before and after").focus()
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="The cables")).to_contain_text("2: the feed settled")


@pytest.mark.parametrize("theme", ["day", "headlamp"])
def test_axe_finds_nothing_from_the_first_page_to_a_contradiction(demo, theme, served):
    page = demo
    page.context.add_cookies([{"name": "fjeld-theme", "value": theme, "url": served}])
    page.goto("/errand")
    assert violations(page) == []
    begin(page)
    assert violations(page) == []
    for first, second in (("120", "0"), ("0", "120")):
        page.get_by_label("1.BK to earth, V").fill(first)
        page.get_by_label("2.BK to earth, V").fill(second)
        page.get_by_label("the tester was proven before and after").check()
        page.get_by_role("button", name="Write it down").click()
        if first == "120":
            page.goto(f"{page.url}&take=R4")
    expect(page.get_by_role("heading", name="Stop")).to_be_visible()
    assert violations(page) == []
    page.goto(f"{page.url}&end=1.BK")
    assert violations(page) == []
    for part in ("/steps", "/steps?step=breaker", "/kept"):
        page.goto(page.url.split("?")[0].split("/errand")[0] + "/errand" + part)
        assert violations(page) == [], part


def test_it_fits_a_narrow_phone_and_its_targets_a_thumb(demo):
    page = demo
    page.set_viewport_size({"width": 360, "height": 780})
    page.goto("/errand")
    begin(page)
    box = page.url.split("#")[0]
    book, kept = (box.split("?")[0] + part for part in ("/steps", "/kept"))
    for there in ("/errand", box, f"{box}&end=1.BK", book, f"{book}?step=dead", kept):
        page.goto(there)
        assert page.evaluate("document.documentElement.scrollWidth") <= 360, there
        small = page.eval_on_selector_all(
            "main button, main select, main input:not([type=checkbox]):not([type=hidden]), main a.chip, main a.bench-link",
            "all => all.filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5).map(e => e.name || e.textContent)",
        )
        assert small == [], there


def test_the_book_is_walked_by_thumb_and_its_gate_opens_on_a_whole_dead_test(demo):
    page = demo
    page.set_viewport_size(PHONE)
    begin(page, "replace", "An outlet", "One cable on the outlet")
    page.get_by_role("link", name="Step by step").click()
    step = page.get_by_role("region", name="Look at both sides")
    expect(step).to_be_visible()
    assert page.get_by_role("button", name="Done").bounding_box()["y"] < PHONE["height"]
    for _ in ("look", "breaker"):
        page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("alert")).to_contain_text("nothing was tested")
    page.get_by_label("the tester was proven on live before").check()
    for field in page.get_by_label("V at worst").all():
        field.fill("0.1")
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("alert")).to_contain_text("the gate stays shut")
    # What was typed is still there.
    expect(page.get_by_label("V at worst").first).to_have_value("0.1")
    page.get_by_label("and proven on live again after").check()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("heading", name="Open the source")).to_be_visible()
    page.get_by_role("button", name="I was away").click()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()
