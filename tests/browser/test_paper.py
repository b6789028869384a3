"""Sheets: what is on them is what the plan says, they print, and axe finds nothing."""

import io
import re

from playwright.sync_api import expect
from pypdf import PdfReader

from fjeld.graphics.style import DAY, INSULATION, PLAIN_SIZE, TOKENS, style_of
from tests.browser.test_ways import violations


def test_the_mark_out_sheet_prints_every_reading(demo, go, boot_plan):
    page = demo
    go("Layout")
    page.get_by_role("link", name="Mark-out sheet").click()
    page.wait_for_url("**/sheets/mark-out")
    expect(page.get_by_role("heading", level=1)).to_contain_text("mark-out")
    rows = page.get_by_role("row")
    for handle, mark in boot_plan.marks.items():
        row = rows.filter(has=page.get_by_role("cell", name=handle, exact=True)).first
        shown = re.sub(r"\s", "", row.inner_text())
        assert handle in shown
        feet = int(mark.across / 25.4 // 12)
        assert f"{feet}'" in shown or feet == 0
    assert violations(page) == []
    for size in ("A4", "Letter"):
        data = page.pdf(format=size)
        assert data.startswith(b"%PDF")
        assert len(data) > 20_000
    # The sheet as a file says the same as the page.
    link = page.get_by_role("link", name="Open as PDF").get_attribute("href")
    answer = page.request.get(link)
    assert answer.headers["content-type"] == "application/pdf"
    said = "".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(answer.body())).pages)
    for cell in page.get_by_role("cell").all_inner_texts():
        assert re.sub(r"\s", "", cell) in re.sub(r"\s", "", said)
    page.emulate_media(media="print")
    expect(page.get_by_role("button", name="Print")).to_be_hidden()


def test_a_job_without_boxes_says_so(listened):
    page = listened
    page.goto("/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("textbox", name="Name").fill("Empty")
    page.get_by_role("button", name="Start", exact=True).click()
    page.wait_for_url("**/survey/**")
    page.goto(page.url.split("/survey")[0] + "/sheets/mark-out")
    expect(page.get_by_text("nothing to mark out")).to_be_visible()


#: How the browser, by its own reading of the style sheet, would draw every shape of a page.
LOOKS = """() => [...document.querySelectorAll("svg [class]")].map(e => {
  const s = getComputedStyle(e);
  return [e.tagName, e.getAttribute("class"), s.fill, s.stroke, s.strokeWidth, s.strokeDasharray, s.fontSize,
          s.opacity, s.paintOrder];
})"""


def rgb(name):
    colour = {**DAY, **INSULATION}[name]
    return "rgb({}, {}, {})".format(*(int(colour[i : i + 2], 16) for i in (1, 3, 5)))


def test_a_token_looks_on_the_screen_as_the_table_says_that_paper_has_it(demo, go):
    """The table merges tokens by a rule of its own; the browser, by the cascade, comes to the same."""
    seen = 0
    ours = {part for key in TOKENS for part in key.split(".")}
    for place in ("Layout", "Circuits", "Runs", "Boxes", "Proof"):
        go(place)
        for tag, classes, fill, stroke, width, dash, size, opacity, order in demo.evaluate(LOOKS):
            style = style_of(classes)
            if not ours & {*classes.split()} or "is-selected" in classes or "lit-up" in classes:
                continue
            seen += 1
            if style.fill not in (None, "none", "transparent"):
                assert fill == rgb(style.fill), (place, tag, classes)
            if style.stroke not in (None, "none", "transparent"):
                assert stroke == rgb(style.stroke), (place, tag, classes)
            if style.width is not None:
                assert float(width.removesuffix("px")) == style.width, (place, tag, classes)
            if style.dash is not None:
                assert tuple(float(d) for d in re.findall(r"[\d.]+", dash)) == style.dash, (place, classes)
            if tag == "text" and (style.size or style.halo):
                assert float(size.removesuffix("px")) == (style.size or PLAIN_SIZE), (place, classes)
                assert order.startswith("stroke") is (style.halo is not None), (place, classes)
            if style.opacity is not None:
                assert float(opacity) == style.opacity, (place, classes)
    assert seen > 500
