"""How long the stages of a request took, told to the browser in its Server-Timing header."""

from __future__ import annotations

import time

from django.http import HttpResponse


class Stages:
    """Laps of one request, from its beginning."""

    def __init__(self) -> None:
        self._from = time.perf_counter()
        self._laps: list[tuple[str, float]] = []

    def lap(self, stage: str) -> None:
        """The time since the last lap was spent on this stage."""
        now = time.perf_counter()
        self._laps.append((stage, now - self._from))
        self._from = now

    def told(self, response: HttpResponse) -> HttpResponse:
        """The response with the laps in its header, in milliseconds."""
        response["Server-Timing"] = ", ".join(f"{stage};dur={1000 * took:.1f}" for stage, took in self._laps)
        return response
