"""What the Record screen shows in its dock and its workings."""

from __future__ import annotations

from collections.abc import Iterable

from fjeld.check import Finding
from fjeld.practice import Amendment, Rule
from fjeld.web.jobs.models import Revision
from fjeld.web.places.gone import Gone
from fjeld.web.record.directory import Directory
from fjeld.web.ui.panel import Choices, Shown


class Dock(Shown, frozen=True):
    """The directory, what was kept of things that have gone, and the steps that led here."""

    directories: list[Directory]
    revisions: Iterable[Revision]
    gone: list[Gone]


class Workings(Shown, frozen=True, kw_only=True):
    """Files out and in, local rules, overrides (finding, reason, whether it still asks), and how much was
    looked at.
    """

    passed: int
    open: int
    units: Choices
    practice_title: str
    rules: list[Rule]
    amendments: list[tuple[Amendment, Rule]]
    overrides: list[tuple[str, str, bool]]
    open_findings: list[Finding]
