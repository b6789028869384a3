"""The practice that somebody begins a job in: remembered, and offered first the next time."""

from __future__ import annotations

from django.http import HttpRequest

from fjeld import practice as practices
from fjeld.practice import Practice

_REMEMBERED = "practice"


def offered(request: HttpRequest) -> list[Practice]:
    """Every practice, the one that the last job was begun in first."""
    last = request.session.get(_REMEMBERED)
    known = [practices.load(p) for p in reversed(practices.available())]
    return sorted(known, key=lambda p: p.id != last)


def remember(request: HttpRequest, practice: str) -> None:
    """A job was begun in a practice."""
    request.session[_REMEMBERED] = practice
