"""An edit's round trip in the browser on the demo, against an empty edit in the same run.

The real edit moves a row of lights; the empty one renames the job, which touches no stage of
the plan: it commits and draws. Both are timed from sending to the swapped page.
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
TIMED = """([path, values]) => new Promise((done) => {
  const began = performance.now();
  document.addEventListener("htmx:after:swap", () => done(performance.now() - began), { once: true });
  htmx.ajax("POST", path, { source: document.getElementById("frame"), swap: "none", values });
})"""


def round_trips() -> dict[str, Any]:
    """Milliseconds of both edits, and the ratio of their 95th percentiles."""
    with demo_served() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"),
            args=["--no-sandbox"],
        )
        return _measured(browser.new_page(), address)


def _measured(page: Page, address: str) -> dict[str, Any]:
    page.goto(address)
    page.get_by_role("button", name="Open the demo").click()
    job = page.locator("a[href*='/jobs/']").first.get_attribute("href").split("/")[2]  # type: ignore[union-attr]
    base = f"/jobs/{job}"

    stages: dict[str, list[float]] = defaultdict(list)

    def note(response: Response) -> None:
        for stage, took in re.findall(r"(\w+);dur=([\d.]+)", response.headers.get("server-timing", "")):
            stages[stage].append(float(took))

    def timed(waypoint: str, action: str, values: list[dict[str, str]]) -> list[float]:
        page.goto(f"{address}{base}/{waypoint}/")
        stages.clear()
        taken = [page.evaluate(TIMED, [f"{base}/{waypoint}/do/{action}", v]) for v in values]
        return sorted(taken[3:])

    # A row of lights of the main room, against the job's name.
    moves = [{"handle": "A2", "y": str(3000 + 12.7 * (n % 20))} for n in range(TIMES)]
    names = [{"handle": "house", "field": "name", "value": f"Tarn House {n}"} for n in range(TIMES)]
    page.on("response", note)
    moved = timed("layout", "move", moves)
    within = {f"of it {stage}, median ms": round(statistics.median(took), 1) for stage, took in stages.items()}
    renamed = timed("survey", "figure", names)

    def p95(values: list[float]) -> float:
        return values[int(0.95 * (len(values) - 1))]

    return {
        "move in the browser, median ms": round(statistics.median(moved), 1),
        **within,
        "move in the browser, p95 ms": round(p95(moved), 1),
        "empty edit in the browser, p95 ms": round(p95(renamed), 1),
        "move over empty edit, p95": round(p95(moved) / p95(renamed), 2),
    }
