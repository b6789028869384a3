"""Sheets: what is on them is what the plan says, they print, and axe finds nothing."""

import re

from playwright.sync_api import expect

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
