"""An edit's round trip in the browser on Tarn House, against asking for the same page again in the same run.

The edit moves a light of a row. Both are timed from sending to the swapped page, and both have to be answered
as done: what is refused is no edit, and its time is no figure.
"""

from __future__ import annotations

import re
import shutil
import statistics
from collections import defaultdict
from typing import Any

from playwright.sync_api import Page, Response, sync_playwright

from speed.serving import demo_served

TIMES = 30
TIMED = """([verb, path, values]) => new Promise((done) => {
  const began = performance.now();
  document.addEventListener("htmx:after:swap", () => done(performance.now() - began), { once: true });
  htmx.ajax(verb, path, { source: document.getElementById("frame"), swap: "none", values });
})"""


def round_trips() -> dict[str, Any]:
    """Milliseconds of both edits, and the ratio of their 95th percentiles; raises ``RuntimeError`` where one
    was refused.
    """
    with demo_served() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"),
            args=["--no-sandbox"],
        )
        return _measured(browser.new_page(), address)


def _measured(page: Page, address: str) -> dict[str, Any]:
    page.goto(address)
    page.get_by_role("button", name="Open the demo").click()
    job = page.locator("a[href*='/jobs/']", has_text="Tarn House").first.get_attribute("href").split("/")[2]  # type: ignore[union-attr]
    here = f"/jobs/{job}/layout/"
    stages: dict[str, list[float]] = defaultdict(list)
    answers: list[int] = []

    def note(response: Response) -> None:
        # What would put the rest right is asked for between the edits, and answered only after the last one.
        if f"/jobs/{job}/" in response.url and "x-fjeld-fixes" not in response.request.headers:
            answers.append(response.status)
        for stage, took in re.findall(r"(\w+);dur=([\d.]+)", response.headers.get("server-timing", "")):
            stages[stage].append(float(took))

    def timed(verb: str, path: str, values: list[dict[str, str]]) -> list[float]:
        page.goto(f"{address}{here}")
        stages.clear()
        answers.clear()
        taken = [page.evaluate(TIMED, [verb, path, v]) for v in values]
        if {*answers} != {200} or len(answers) < len(values):
            raise RuntimeError(f"{verb} {path} was not done each time: answered {answers}")
        return sorted(taken[3:])

    page.on("response", note)
    moves = [{"handle": "A2", "y": str(3000 + 12.7 * (n % 20))} for n in range(TIMES)]
    moved = timed("POST", f"{here}do/move", moves)
    within = {
        f"of it {stage}, median ms": round(statistics.median(took), 1) for stage, took in stages.items()
    }
    again = timed("GET", here, [{} for _ in range(TIMES)])

    def p95(values: list[float]) -> float:
        return values[int(0.95 * (len(values) - 1))]

    return {
        "move in the browser, median ms": round(statistics.median(moved), 1),
        **within,
        "move in the browser, p95 ms": round(p95(moved), 1),
        "the same page asked for again, p95 ms": round(p95(again), 1),
        "move over the page alone, p95": round(p95(moved) / p95(again), 2),
    }
