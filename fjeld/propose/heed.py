"""How a long search is stopped: now and then it asks whether to go on.

Whoever starts a search may hand it a ``heed``: called between steps, it returns at once
or raises :class:`SearchStopped`, which ends the search with nothing found.
"""

from __future__ import annotations

from collections.abc import Callable

Heed = Callable[[], None]


class SearchStopped(Exception):
    """Whoever waited for the search has had enough."""


def go_on() -> None:
    """Heeds nothing."""
