"""Where boxes go: the rules of layout, one module a group."""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import alarms, fittings, lights, outlets, spots
from fjeld.check.finding import Finding
from fjeld.derive.plan import Plan


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the layout."""
    for group in (spots, outlets, lights, alarms, fittings):
        yield from group.check(plan)
