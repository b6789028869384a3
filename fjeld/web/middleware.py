"""What holds for every request: nothing too large is taken in, nothing private is kept by others, all is
logged.
"""

from __future__ import annotations

import logging
import time
import zoneinfo
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

log = logging.getLogger("fjeld.requests")
Handler = Callable[[HttpRequest], HttpResponse]


class TooLarge:
    """Refuse a body that is too large by what it says of itself, before any of it is read."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = str(request.META.get("CONTENT_LENGTH") or "0")
        # A photograph as a camera writes it; it is made small before it is kept.
        most = settings.LARGEST_PHOTO if request.path.endswith("/errand/photo") else settings.LARGEST_BODY
        if not told.isascii() or not told.isdigit() or int(told[:15]) > most:
            words = f"That is larger than {most // 1_000_000} MB; nothing was taken."
            response = HttpResponse(words, status=413, content_type="text/plain")
            response["Connection"] = "close"
            return response
        return self.get_response(request)


class Private:
    """A page that was made for one person is asked for again each time."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if not response.has_header("Cache-Control"):
            response["Cache-Control"] = "private, no-cache"
        return response


class LocalTime:
    """Times are told as the clock on the wall of whoever reads them: the zone that their browser names."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            zone = zoneinfo.ZoneInfo(request.COOKIES.get("fjeld-zone", "")[:64])
        except (ValueError, OSError, zoneinfo.ZoneInfoNotFoundError):
            # None is named, or one that there is not: the host's own.
            return self.get_response(request)
        with timezone.override(zone):
            return self.get_response(request)


class Logged:
    """A line a request: when, who by number, what, how it ended, how long it took. No names, no content."""

    def __init__(self, get_response: Handler) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        begun = time.monotonic()
        response = self.get_response(request)
        user = getattr(request, "user", None)
        who = getattr(user, "pk", None) or "-"
        took = 1000 * (time.monotonic() - begun)
        level = logging.WARNING if response.status_code >= 500 else logging.INFO
        log.log(
            level, "person %s %s %s %s %.0f ms", who, request.method, request.path, response.status_code, took
        )
        return response
