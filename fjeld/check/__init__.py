"""Rules looked at. A finding says what was checked, by which rule, with its sum and verdict."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Literal

import msgspec

from fjeld.derive.memo import Remember, always
from fjeld.derive.plan import Plan
from fjeld.practice import Rule, Severity
from fjeld.quantities import Fails, NotKnown, Passes, Verdict, Working

Waypoint = Literal["survey", "layout", "circuits", "runs", "boxes", "proof"]
RANK: dict[Severity, int] = {"danger": 0, "breach": 1, "ask": 2, "advice": 3}


class Finding(msgspec.Struct, frozen=True):
    """One rule looked at for some things. ``key`` stays the same from edit to edit.

    ``limit`` is in the working's unit. Findings that pass are kept too: they say what
    was checked.
    """

    rule: Rule
    handles: tuple[str, ...]
    words: str
    verdict: Verdict
    waypoint: Waypoint
    working: Working | None = None
    limit: float | None = None
    place: str = ""

    @property
    def key(self) -> str:
        return ":".join((self.rule.id, *self.handles, *([self.place] if self.place else [])))

    @property
    def open(self) -> bool:
        """Whether it still asks for something: failed, or not known."""
        return not isinstance(self.verdict, Passes)


def failed(
    plan: Plan, rule: str, waypoint: Waypoint, handles: Iterable[str], words: str, place: str = ""
) -> Finding:
    """A rule not met, with nothing to add up."""
    return Finding(plan.practice.rule(rule), tuple(handles), words, Fails(), waypoint, place=place)


def unknown(
    plan: Plan, rule: str, waypoint: Waypoint, handles: Iterable[str], words: str, reading: str, place: str = ""
) -> Finding:
    """A rule that waits for ``reading``."""
    return Finding(plan.practice.rule(rule), tuple(handles), words, NotKnown(reading), waypoint, place=place)


def check(plan: Plan, remember: Remember = always) -> list[Finding]:
    """Every rule looked at on a plan, the worst first, each kind together."""
    from fjeld.check import boxes, circuits, layout, proof, runs, survey, zones

    def all_of() -> Iterator[Finding]:
        for module in (survey, layout, circuits, runs, zones, boxes):
            yield from module.check(plan)
        yield from proof.check(plan, remember)

    return sorted(all_of(), key=lambda f: (not f.open, RANK[f.rule.severity], f.rule.id, f.handles))


def open_findings(plan: Plan, remember: Remember = always) -> list[Finding]:
    """The findings that still ask for something, overridden ones left out."""
    overridden = plan.drawing.house.overrides
    return [f for f in check(plan, remember) if f.open and f.key not in overridden]
