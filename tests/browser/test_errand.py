"""An errand by thumb and by keyboard: from the page of jobs to what an old box is."""

import io
import re

import pytest
from playwright.sync_api import expect
from pypdf import PdfReader

from fjeld.web.errand.screen import NOTHING_LIVE
from fjeld.web.places.kinds import KINDS
from tests.browser.conftest import begun
from tests.browser.meter import read_pairs
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
    hand.tap(page.get_by_role("link", name="Add or replace one thing in a finished room"))
    hand.tap(page.get_by_role("button", name=KINDS[kind].words, exact=True))
    hand.tap(page.get_by_role("button", name=place, exact=True))
    hand.tap(page.get_by_role("button", name=usual))
    return hand


@pytest.mark.parametrize("kind", list(KINDS))
def test_the_first_useful_answer_is_a_minute_away(signed, kind):
    page = signed
    page.set_viewport_size(PHONE)
    hand = begin(page, kind)
    expect(page.get_by_role("region", name="The cables")).to_contain_text("1: the feed")
    # What only goes back to what it was on asks for no reading with power on.
    following = page.get_by_role(
        "heading",
        name="Are its wires copper, with a ground, in good condition?"
        if kind in NOTHING_LIVE
        else "Voltage to ground at each terminal, every switch position",
    ).first
    expect(following).to_be_visible()
    assert following.bounding_box()["y"] < PHONE["height"], "what to do next is seen without scrolling"
    assert hand.acts <= 12
    assert hand.seconds <= 60


def test_two_readings_settle_a_box_by_thumb(signed):
    page = signed
    page.set_viewport_size(PHONE)
    hand = begin(page)
    hand.type("1.BK to ground, V", "120.1")
    hand.type("2.BK to ground, V", "0.3")
    hand.tap(page.get_by_label("tester checked on a live source before and after"))
    hand.tap(page.get_by_role("button", name="Write it down"))
    cables = page.get_by_role("region", name="The cables")
    expect(cables).to_contain_text("1: the feed settled")
    expect(page.get_by_role("heading", name="Is it a neutral")).to_be_visible()
    hand.type("1.BK to 1.WH, V", "119.8")
    page.get_by_label("under load").fill("119.5")
    hand.tap(page.get_by_label("every lamp of this circuit was out"))
    page.get_by_label("The test lamp burned").select_option("bright")
    hand.tap(page.get_by_label("tester checked on a live source before and after"))
    hand.tap(page.get_by_role("button", name="Write it down"))
    # What it says of the neutral stood there before, as likely: only the reading tells that it was kept.
    expect(page.get_by_role("region", name="Readings")).to_contain_text("lamp bright")
    expect(page.get_by_text("1.WH with 2.WH is the neutral")).to_be_visible()
    # Nothing is lost where the page is fetched anew.
    page.reload()
    expect(page.get_by_role("region", name="Readings")).to_contain_text("lamp bright")


def test_a_box_is_drawn_by_taking_ends_in_hand(signed):
    page = signed
    page.set_viewport_size(PHONE)
    begin(page, usual="Both wires of the one cable")
    page.get_by_text("Correct the wiring shown").click()
    page.get_by_role("button", name="Add a cable of two conductors").click()
    page.get_by_text("Correct the wiring shown").click()
    page.get_by_role("link", name="2.WH", exact=True).click()
    page.get_by_role("button", name="with 1.WH").click()
    expect(page.get_by_role("img", name="The box opened: 2 cables")).to_be_visible()
    page.get_by_role("link", name="The job’s drawing").click()
    page.locator("#undo").click()
    page.goto("/")
    page.get_by_role("link", name="Add a light").first.click()
    expect(page.get_by_role("region", name="The cables")).to_be_visible()


def test_an_errand_by_keyboard_alone(signed):
    page = signed
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto("/")

    def press(found):
        found.focus()
        assert page.evaluate("document.activeElement.matches(':focus-visible')")
        page.keyboard.press("Enter")

    press(page.get_by_role("link", name="Add or replace one thing in a finished room"))
    press(page.get_by_role("button", name="Add a light", exact=True))
    press(page.get_by_role("button", name="A light or an alarm", exact=True))
    press(page.get_by_role("button", name="Two cables, a light wire of one"))
    expect(page.get_by_role("region", name="The cables")).to_contain_text("a switch loop, no neutral")
    page.get_by_label("1.WH with 2.BK to ground, V").focus()
    page.keyboard.type("120")
    page.get_by_label("tester checked on a live source before and after").focus()
    page.keyboard.press("Space")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="The cables")).to_contain_text("2: the feed settled")


def test_axe_finds_nothing_from_the_first_page_to_a_contradiction(signed):
    page = signed
    page.goto("/errand")
    assert violations(page, both=True) == []
    begin(page)
    assert violations(page, both=True) == []
    for first, second in (("120", "0"), ("0", "120")):
        page.get_by_label("1.BK to ground, V").fill(first)
        page.get_by_label("2.BK to ground, V").fill(second)
        page.get_by_label("tester checked on a live source before and after").check()
        with page.expect_navigation():
            page.get_by_role("button", name="Write it down").click()
        if first == "120":
            page.goto(f"{page.url}&take=R4")
    expect(page.get_by_role("heading", name="Stop")).to_be_visible()
    assert violations(page, both=True) == []
    page.goto(f"{page.url}&end=1.BK")
    assert violations(page, both=True) == []
    for part in (
        "/spot",
        "/spot?ask=left",
        "/path",
        "/path?ask=across",
        "/box",
        "/proof",
        "/steps",
        "/steps?step=breaker",
        "/steps?step=dead",
        "/kept",
    ):
        page.goto(page.url.split("?")[0].split("/errand")[0] + "/errand" + part)
        assert violations(page, both=True) == [], part


def test_it_fits_a_narrow_phone_and_its_targets_a_thumb(signed):
    page = signed
    page.set_viewport_size({"width": 360, "height": 780})
    page.goto("/errand")
    begin(page)
    box = page.url.split("#")[0]
    parts = (
        "/steps",
        "/steps?step=dead",
        "/kept",
        "/spot",
        "/spot?ask=left",
        "/path",
        "/path?ask=across",
        "/box",
        "/proof",
    )
    for there in ("/errand", box, f"{box}&end=1.BK", *(box.split("?")[0] + part for part in parts)):
        page.goto(there)
        assert page.evaluate("document.documentElement.scrollWidth") <= 360, there
        small = page.eval_on_selector_all(
            "main button, main select, main input:not([type=checkbox]):not([type=radio]):not([type=hidden]),"
            " main a.chip, main a.bench-link, main a.stone",
            "all => all.filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5).map(e =>"
            " e.name || e.textContent)",
        )
        assert small == [], there


def test_the_book_is_walked_by_thumb_and_its_gate_opens_on_a_whole_dead_test(signed):
    page = signed
    page.set_viewport_size(PHONE)
    begin(page, "replace", "An outlet", "One cable on the outlet")
    page.get_by_role("link", name="Record", exact=True).click()
    expect(page.get_by_role("region", name="The step in hand")).to_contain_text("Look at the box, its plate")
    assert page.get_by_role("button", name="Done").bounding_box()["y"] < PHONE["height"]
    for _ in ("look", "breaker"):
        with page.expect_navigation():
            page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    # A tick that was forgotten is asked for before anything is sent: nothing typed is lost by it.
    expect(page.locator("#now input[name=before]:invalid")).to_have_count(1)
    page.get_by_label("the tester was proven on live before").check()
    # By the pad, and the others as the page asks for them.
    pad = page.get_by_role("group", name="Reading pad")
    for key in ("0.", "4", "back", "1"):
        pad.get_by_role("button", name=key, exact=True).click()
    expect(page.locator("[data-written='0']")).to_have_text("0.1")
    page.get_by_role("button", name="The next pair").click()
    expect(page.locator("#pair-0")).to_be_hidden()
    # A cell of the triangle is tapped for its pair.
    page.locator("[data-pair='0']").click()
    expect(page.locator("#pair-0")).to_be_visible()
    page.locator("[data-pair='1']").click()
    read_pairs(page)
    page.get_by_role("button", name="Done").click()
    expect(page.locator("#now input[name=after]:invalid")).to_have_count(1)
    # What was typed is still there.
    expect(page.get_by_label("V at worst").first).to_have_value("0.1")
    page.get_by_label("and proven on live again after").check()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("heading", name="Open the source")).to_be_visible()
    page.get_by_role("button", name="I was away").click()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="At the source: prove the tester")).to_be_visible()


def test_an_errand_is_one_sheet_of_paper_in_both_sizes(signed):
    page = signed
    for name in ("Sleeping loft", "Head of the stair", "Window bench: one", "Galley: a worn"):
        page.goto(f"/?q={name}&page=999")
        page.get_by_role("link", name=re.compile(name)).first.click()
        page.goto(re.sub(r"/errand.*", "/errand/sheet", page.url))
        expect(page.get_by_role("heading", name="Order")).to_be_visible()
        for paper in ("A4", "Letter"):
            printed = page.pdf(format=paper)
            assert len(re.findall(rb"/Type\s*/Page\b", printed)) == 1, (name, paper)
            link = page.get_by_role("link", name="Open as PDF").get_attribute("href")
            sheet = PdfReader(io.BytesIO(page.request.get(f"{link}?paper={paper}").body()))
            assert len(sheet.pages) == 1, (name, paper)
            assert float(sheet.pages[0].mediabox[3]) == pytest.approx(842 if paper == "A4" else 792, abs=1)
        # In black and white each conductor still has its letters.
        assert (
            page.locator(".box-found text").filter(has_text=re.compile("^(BK|WH|G|BN|BU|G/Y)$")).count() >= 3
        )


@pytest.mark.parametrize(
    ("practice", "edges", "said"),
    [("na", ("16", "31"), r"1' \d+( \d+/\d+)?\""), ("gb", ("400", "800"), r"\d{3} mm")],
)
def test_the_box_is_slid_along_its_span_and_the_line_says_where(signed, practice, edges, said):
    page = signed
    page.set_viewport_size(PHONE)
    page.goto("/errand")
    page.get_by_label("Electrical code").select_option(practice)
    page.get_by_role("button", name=KINDS["outlet"].words, exact=True).click()
    job = re.search(r"/jobs/(\d+)/", page.url)[1]
    for ask, at in zip(("left", "right"), edges, strict=True):
        page.goto(f"/jobs/{job}/errand/spot?ask={ask}")
        page.locator("#typed").fill(at)
        page.get_by_role("button", name="Set", exact=True).click()
    page.goto(f"/jobs/{job}/errand/spot?ask=along")
    slider = page.get_by_label("Or slide it along the span")
    box = page.locator(".patch .slides")
    before = box.bounding_box()["x"]
    slider.focus()
    for _ in range(7):
        page.keyboard.press("ArrowRight")
    typed = page.locator("#typed").input_value()
    assert re.fullmatch(said, typed), typed
    assert box.bounding_box()["x"] > before
    page.keyboard.press("End")
    page.get_by_role("button", name="Set", exact=True).click()
    expect(page.get_by_text("is within the span")).to_be_visible()
    # The pad types over the figure that stands there.
    page.goto(f"/jobs/{job}/errand/spot?ask=along")
    pad = page.get_by_role("group", name="Tape pad")
    for key in ("2", "3"):
        pad.get_by_role("button", name=key, exact=True).click()
    expect(page.locator("#typed")).to_have_value("23")


def test_the_plates_of_a_case_are_flipped_and_its_state_stands_out(signed):
    page = signed
    page.set_viewport_size(PHONE)
    errand = begun(page, "light", "switch", "Two dark wires joined with a tail")
    page.goto(f"{errand}/proof")
    card = page.locator(".card").filter(has_text="It would be dead when a switch is off")
    plate, then = card.get_by_role("switch"), card.get_by_role("status")
    expect(then).to_have_text("It is dead, not as meant.")
    expect(card.locator(".cell.here")).to_contain_text("S off")
    plate.click()
    expect(plate).to_be_checked()
    expect(then).to_have_text("It is live.")
    expect(card.locator(".cell.here")).to_contain_text("S on")
    plate.focus()
    page.keyboard.press("Space")
    expect(then).to_have_text("It is dead, not as meant.")
    assert violations(page) == []
