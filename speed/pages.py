"""Warm pages of Tarn House: each waypoint's GET against Survey's, in one run against one server."""

from __future__ import annotations

import re
import statistics
import time
import urllib.request
from http.cookiejar import CookieJar
from typing import Any
from urllib.parse import urlencode

from speed.serving import demo_served

WAYPOINTS = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")


def warm_pages() -> dict[str, Any]:
    """The median of fifteen GETs of each page after two that are not counted; over Survey's."""
    with demo_served() as address:
        open_ = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar())).open
        token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', open_(address).read().decode())
        assert token
        form = urlencode({"csrfmiddlewaretoken": token[1]}).encode()
        request = urllib.request.Request(f"{address}/demo", form, {"Referer": address})
        listed = open_(request).read().decode()
        job = next(n for n, name in _jobs(listed) if "Tarn" in name)
        medians = {}
        for waypoint in WAYPOINTS:
            taken = []
            for _ in range(17):
                start = time.perf_counter()
                open_(f"{address}/jobs/{job}/{waypoint}/").read()
                taken.append(time.perf_counter() - start)
            medians[waypoint] = statistics.median(taken[2:])
    return {
        "survey of Tarn House, warm, ms": round(medians["survey"] * 1000, 1),
        **{f"{w} over survey, warm": round(medians[w] / medians["survey"], 2) for w in WAYPOINTS[1:]},
    }


def _jobs(html: str) -> list[tuple[str, str]]:
    """Job numbers with the text that follows their link."""
    return [(m[1], m[2]) for m in re.finditer(r'href="/jobs/(\d+)/[^"]*"[^>]*>(.{0,400})', html, re.DOTALL)]
