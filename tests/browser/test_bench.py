"""The bench by thumb and by keyboard: a question asked and answered, kept in the address, with no account."""

from playwright.sync_api import expect

from fjeld.bench.questions import QUESTIONS
from tests.browser.test_ways import violations

PHONE = {"width": 390, "height": 844}


def test_axe_finds_nothing_on_the_bench_or_on_an_answer(listened):
    page = listened
    for there in (
        "/bench/",
        "/bench/spot?box=cut-in-1&left=16%22&right=31%22&left_by=detector",
        "/bench/pairs?nodes=a,%20b",
    ):
        page.goto(there)
        assert violations(page, both=True) == [], there


def test_axe_finds_nothing_where_a_figure_cannot_be_read(page, served):
    """The page is told as refused, which the console reports of itself."""
    page.goto(f"{served}/bench/spot?box=cut-in-1&left=12O")
    expect(page.get_by_role("alert")).to_contain_text("Left member")
    expect(page.get_by_label("Left member's face, from the left")).to_have_value("12O")
    assert violations(page) == []


def test_every_page_fits_a_narrow_phone_and_its_targets_a_thumb(listened):
    page = listened
    page.set_viewport_size({"width": 360, "height": 780})
    for name in QUESTIONS:
        page.goto(f"/bench/{name}")
        assert page.evaluate("document.documentElement.scrollWidth") <= 360, name
        small = page.eval_on_selector_all(
            "main button, main select, main input:not([type=checkbox]), main textarea",
            "all => all.filter(e => e.getBoundingClientRect().height < 43.5).map(e => e.name ||"
            " e.textContent)",
        )
        assert small == [], name


def test_whether_one_more_cable_fits_in_eight_acts_from_the_first_page(listened):
    """Each press, and each figure typed in a field, is one."""
    page, acts = listened, 0
    page.set_viewport_size(PHONE)
    page.goto("/sign-in")
    page.goto("/bench/")
    page.get_by_role("link", name="Does one more cable fit").click()
    acts += 2
    for label, typed in (
        ("Stamp inside, in³", "18"),
        ("Cables in it, with commas", "14/2, 14/2"),
        ("Cables to be added", "14/2"),
        ("Devices in it", "1"),
    ):
        page.get_by_label(label).fill(typed)
        acts += 1
    page.get_by_role("button", name="Calculate").click()
    acts += 1
    assert acts <= 8
    expect(page.locator(".answer")).to_have_text("18")
    expect(page.get_by_text("After, 18.00 of 18 in³")).to_be_visible()
    assert page.locator(".answer").bounding_box()["y"] < PHONE["height"], "it is seen without scrolling"
    # The address is the answer: another opens it and sees the same.
    kept = page.url
    page.goto("/bench/")
    page.goto(kept)
    expect(page.locator(".answer")).to_have_text("18")


def test_a_question_is_asked_by_keyboard_alone(listened):
    page = listened
    page.goto("/bench/transfer")
    page.get_by_label("In the room: from the reference to the wall's face").focus()
    page.keyboard.type('41 1/4"')
    for typed in ("", "", '1/2"', '3 1/2"'):
        page.keyboard.press("Tab")
        page.keyboard.type(typed)
    page.keyboard.press("Enter")
    expect(page.locator(".answer")).to_have_text("3' 7 1/2\"")


def test_the_bench_is_a_link_from_the_jobs(signed):
    page = signed
    for width in (360, 390, 1280):
        page.set_viewport_size({"width": width, "height": 800})
        page.goto("/")
        assert page.evaluate("document.documentElement.scrollWidth") <= width
        out = page.get_by_role("button", name="Sign out").bounding_box()
        assert out["x"] + out["width"] <= width, "nothing of the bar is cut off"
    page.get_by_role("link", name="Calculators", exact=True).click()
    expect(page.get_by_role("heading", name="Calculators", level=1)).to_be_visible()
