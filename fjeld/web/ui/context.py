"""What every template may need to know of the request."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest


def frame(request: HttpRequest) -> dict[str, Any]:
    """Demo mode, and day or headlamp as the reader left it."""
    return {
        "demo_mode": settings.DEMO,
        "theme": "headlamp" if request.COOKIES.get("fjeld-theme") == "headlamp" else "day",
    }
