"""Every errand from the page of jobs to its record: by thumb alone on a phone, by keys alone on a desk."""

import os
import re

import pytest
from playwright.sync_api import expect

from fjeld.drawing.errand import NEW
from fjeld.web.errand.stones import STEPS, steps_of
from fjeld.web.places.kinds import KINDS
from tests.browser.meter import read_figures, read_pairs
from tests.web.hand import ANSWERS

#: Answers that any question is given, by what it asks for.
FIGURES = {
    "height": "46",
    "left": "16",
    "right": "31",
    "along": "24",
    "across": "108",
    "ceiling": "96",
    "source": "46",
    "joists": "3",
    "studs": "3",
    "needs": "0",
    "lowest": "6",
}
PLACES = {"heavy": "A light or an alarm", "alarms": "A light or an alarm", "loose splice": "Joints alone"}
USUAL = {
    "A light or an alarm": "Two cables, a light wire of one",
    "Joints alone": "Two cables, dark with dark",
    "An outlet": "Two cables, dark on one side",
}


class Thumb:
    """A thumb on a phone: it taps, and types figures on the pad that the page brings."""

    size = {"width": 390, "height": 844}

    def __init__(self, page):
        self.page = page

    def press(self, found):
        found.tap()

    def go(self, found):
        """Press what leads to another page, or to this one again."""
        # Its scripts have run by then; nobody looks at its fonts here.
        with self.page.expect_navigation(wait_until="domcontentloaded"):
            self.press(found)

    def figure(self, text):
        for digit in text:
            self.page.get_by_role("group", name="Tape pad").get_by_role(
                "button", name=digit, exact=True
            ).tap()


class Keys(Thumb):
    """A keyboard alone: what is pressed has the focus, and is seen to have it."""

    size = {"width": 1280, "height": 800}

    def press(self, found):
        found.focus()
        assert self.page.evaluate("document.activeElement.matches(':focus-visible')")
        self.page.keyboard.press("Space" if found.get_attribute("type") in ("checkbox", "radio") else "Enter")

    def figure(self, text):
        self.page.locator("#typed").focus()
        self.page.keyboard.type(text)


@pytest.fixture
def hand(request, browser, served):
    """A page of its own for the thumb or the keys, in a job of the demo's."""
    hand = {"thumb": Thumb, "keys": Keys}[request.param]
    context = browser.new_context(viewport=hand.size, has_touch=True, base_url=served)
    page = context.new_page()
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
    yield hand(page)
    context.close()


def step(hand, kind, name):
    if name in steps_of(kind):
        hand.go(hand.page.get_by_role("link", name=STEPS[name][0], exact=True))


def answer(hand, most=40):
    """Answer what is asked until nothing is."""
    page = hand.page
    for _ in range(most):
        asked = page.locator("#next input[name=ask]")
        if not asked.count():
            return
        name = asked.get_attribute("value")
        if page.locator("#typed").count():
            if name in FIGURES:
                typed = page.locator("#typed")
                if typed.input_value() or name in ("joists", "studs"):
                    typed.fill(FIGURES[name])
                else:
                    hand.figure(FIGURES[name])
                hand.go(page.get_by_role("button", name="Set", exact=True))
            else:
                hand.go(page.locator("#next button[value='?']"))
        else:
            clear = page.locator("#next button[value=clear]")
            hand.go(clear if clear.count() else page.locator("#next form button").first)
    assert most < 40, "it asks without end"


def settle(hand, kind):
    """Every gate answered on the page of the box as found, and what is live read, so that nothing stands
    against the work.
    """
    page = hand.page
    step(hand, kind, "source")
    for field, (value, _) in ANSWERS.items():
        form = page.locator(f"form:has(input[name=field][value={field}])")
        if not value or not form.count():
            continue
        typed = form.first.locator("input[name=value]")
        if typed.count():
            typed.fill(value)
            hand.go(form.first.get_by_role("button", name="Set"))
        else:
            hand.go(form.first.locator(f"button[value='{value}']"))
    if kind in NEW:
        page.goto(f"{page.url.partition('?')[0].partition('#')[0]}?take=R4#next")
        page.locator("#next input[name^='volts:']").first.fill("120.1")
        hand.press(page.get_by_label("every switch that could matter is named above"))
        write_down(hand)
        page.goto(f"{page.url.partition('?')[0].partition('#')[0]}?take=R5#next")
        pair = page.locator("#next input[name^='between:']")
        pair.first.fill("119.8")
        pair.nth(1).fill("119.5")
        hand.press(page.get_by_label("every lamp of this circuit was out"))
        page.get_by_label("The test lamp burned").select_option("bright")
        write_down(hand)


def write_down(hand):
    """A reading taken with power on: who turned it on, off and locked again, the tester proven."""
    page = hand.page
    page.get_by_label("Who turned the power on").fill("the one at the panel")
    hand.press(page.get_by_label("power is off and locked again"))
    hand.press(page.get_by_label("tester checked on a live source before and after"))
    hand.go(page.get_by_role("button", name="Write it down"))


def read_box(hand, kind):
    """Everything that is read off the box, and what is told of the one that comes in its place."""
    page = hand.page
    step(hand, kind, "box")
    for _ in range(16):
        read = page.locator("#next form button:not([value=''])")
        if not read.count():
            break
        if page.locator("#next input.reading").count():
            page.locator("#next input.reading").fill("20")
        hand.go(read.first)
    expect(page.get_by_role("heading", name="Everything on it is read")).to_be_visible()
    if kind == "larger box":
        page.get_by_label("Devices, 1 to 8").fill("1")
        hand.go(page.locator("form:has(input[value=devices])").get_by_role("button", name="Set"))
        hand.go(page.get_by_role("button", name=re.compile("^Take it: ")).first)


#: Each errand by one hand or the other; by both, and each to its last step, where FJELD_ERRANDS says "both".
#: Else those that differ go to the end, and the rest, whose steps are the same, some way into each.
BOTH = os.environ.get("FJELD_ERRANDS") == "both"
TO_THE_END = ("light", "larger box", "replace")
HANDS = [
    (hand, kind)
    for n, kind in enumerate(KINDS)
    for hand in (("thumb", "keys") if BOTH else (("thumb", "keys")[n % 2],))
]


@pytest.mark.parametrize(("hand", "kind"), HANDS, indirect=["hand"])
def test_an_errand_from_the_first_page_to_its_record(hand, kind):
    page, whole = hand.page, BOTH or kind in TO_THE_END
    hand.go(page.get_by_role("link", name="Add or replace one thing in a finished room"))
    if kind in NEW:
        hand.press(page.get_by_label(re.compile("attic|above", re.IGNORECASE)))
    hand.go(page.get_by_role("button", name=KINDS[kind].words, exact=True))
    place = PLACES.get(kind, "An outlet")
    hand.go(page.get_by_role("button", name=place, exact=True))
    hand.go(page.get_by_role("button", name=USUAL[place]).first)
    if whole:
        settle(hand, kind)
    step(hand, kind, "spot")
    if "spot" in steps_of(kind):
        answer(hand, 40 if whole else 12)
        expect(page.get_by_role("img", name=re.compile("where the middle of the box may be"))).to_be_visible()
        expect(page.get_by_text("2' ", exact=False).first).to_be_visible()
    step(hand, kind, "path")
    if "path" in steps_of(kind):
        answer(hand, 40 if whole else 6)
        if whole:
            expect(page.get_by_text("to cut", exact=True)).to_be_visible()
            hand.go(page.locator("button[name=way]").first)
            answer(hand)
    read_box(hand, kind)
    step(hand, kind, "proof")
    expect(page.get_by_role("img", name=re.compile("pairs read"))).to_be_visible()
    step(hand, kind, "record")
    for _ in range(40 if whole else 5):
        if page.get_by_role("heading", name="All steps are done").count():
            break
        for box in page.locator("#now input[type=checkbox]").all():
            hand.press(box)
        read_pairs(page)
        read_figures(page)
        if "Photograph the open box" in page.locator("#now").inner_text():
            page.get_by_label("Notes").fill("no camera at hand")
        if not page.get_by_role("button", name="Done", exact=True).count():
            assert not whole, page.locator("#now").inner_text()
            break
        hand.go(page.get_by_role("button", name="Done", exact=True))
    if whole:
        expect(page.get_by_role("heading", name="All steps are done")).to_be_visible()
    hand.go(page.get_by_role("link", name="The record to keep"))
    expect(page.get_by_role("heading", name="Done", exact=True)).to_be_visible()
