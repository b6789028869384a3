"""Warm pages in one run against one server.

Each waypoint of Tarn House against Survey, each page of an errand against the middle one of those waypoints.
"""

from __future__ import annotations

import re
import statistics
import time
import urllib.request
from http.cookiejar import CookieJar
from typing import Any
from urllib.parse import urlencode

from speed.serving import demo_served

#: The pages of an errand that brings a light into a finished room.
ERRAND = ("", "/spot", "/path", "/box", "/proof", "/steps", "/sheet", "/kept")
WAYPOINTS = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")


def warm_pages() -> dict[str, Any]:
    """The median of fifteen GETs of each page, after two that are not counted, over its measure."""
    with demo_served() as address:
        open_ = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar())).open
        token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', open_(address).read().decode())
        assert token
        form = urlencode({"csrfmiddlewaretoken": token[1]}).encode()
        request = urllib.request.Request(f"{address}/demo", form, {"Referer": address})
        listed = open_(request).read().decode()
        job = next(n for n, name in _jobs(listed) if "Tarn" in name)
        errand = next(n for n, name in _jobs(listed) if "Head of the stair" in name)

        def warm(page: str) -> float:
            taken = []
            for _ in range(17):
                start = time.perf_counter()
                open_(f"{address}/jobs/{page}").read()
                taken.append(time.perf_counter() - start)
            return statistics.median(taken[2:])

        medians = {waypoint: warm(f"{job}/{waypoint}/") for waypoint in WAYPOINTS}
        errands = {page: warm(f"{errand}/errand{page}") for page in ERRAND}
    middle = statistics.median(medians.values())
    return {
        "survey of Tarn House, warm, ms": round(medians["survey"] * 1000, 1),
        **{f"{w} over survey, warm": round(medians[w] / medians["survey"], 2) for w in WAYPOINTS[1:]},
        **{f"errand{p} over the middle waypoint, warm": round(errands[p] / middle, 2) for p in ERRAND},
    }


def _jobs(html: str) -> list[tuple[str, str]]:
    """Job numbers with the text that follows their link."""
    return [(m[1], m[2]) for m in re.finditer(r'href="/jobs/(\d+)/[^"]*"[^>]*>(.{0,400})', html, re.DOTALL)]
