"""What a check says: a rule looked at for some things, with its sum and its verdict.

Every check is registered for the rules that it looks at, so that a rule which none looks at
is told when the program starts, and a finding of another rule when it is made.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import wraps
from typing import Any, Concatenate, Literal, ParamSpec

import msgspec

from fjeld.derive.plan import Plan
from fjeld.practice import Rule, Severity
from fjeld.practice.rules import DECLARED, RuleKey
from fjeld.quantities import Fails, NotKnown, Passes, Verdict, Working

P = ParamSpec("P")

Waypoint = Literal["survey", "layout", "circuits", "runs", "boxes", "proof"]
RANK: dict[Severity, int] = {"danger": 0, "breach": 1, "ask": 2, "advice": 3}


class Finding(msgspec.Struct, frozen=True):
    """One rule looked at for some things. ``key`` stays the same from edit to edit.

    ``limit`` is in the working's unit. Findings that pass are kept too: they say what
    was checked. ``grade`` stands in place of the rule's own severity where less is known: an
    estimate never raises more than advice. ``count`` is how many things it is about, where
    there is nothing to add up; ``assumed`` the readings that a plain yes rests on.
    """

    rule: Rule
    handles: tuple[str, ...]
    words: str
    verdict: Verdict
    waypoint: Waypoint
    working: Working | None = None
    limit: float | None = None
    place: str = ""
    grade: Severity | None = None
    count: int = 0
    assumed: tuple[str, ...] = ()

    @property
    def severity(self) -> Severity:
        """How grave it is, were it so."""
        return self.grade or self.rule.severity

    @property
    def measure(self) -> float | None:
        """By how much it misses its limit, or how many things it is about; None where it is yes or no."""
        if self.working is not None and self.limit is not None:
            return abs(self.working.total - self.limit)
        return float(self.count) if self.count else None

    @property
    def rests_on(self) -> tuple[str, ...]:
        """The readings that it waits for, in its sum or beside it."""
        return self.assumed or (self.working.rests_on if self.working else ())

    @property
    def key(self) -> str:
        return ":".join((self.rule.id, *self.handles, *([self.place] if self.place else [])))

    @property
    def open(self) -> bool:
        """Whether it still asks for something: failed, or not known."""
        return not isinstance(self.verdict, Passes)


def failed(
    plan: Plan,
    rule: RuleKey[Any],
    waypoint: Waypoint,
    handles: Iterable[str],
    words: str,
    place: str = "",
    count: int = 0,
) -> Finding:
    """A rule not met, with nothing to add up; ``count`` says of how many things."""
    return Finding(
        plan.practice.rule(rule), tuple(handles), words, Fails(), waypoint, place=place, count=count
    )


def unknown(
    plan: Plan,
    rule: RuleKey[Any],
    waypoint: Waypoint,
    handles: Iterable[str],
    words: str,
    reading: str,
    place: str = "",
) -> Finding:
    """A rule that waits for ``reading``: a question, whatever the rule would make of the answer."""
    return Finding(
        plan.practice.rule(rule), tuple(handles), words, NotKnown(reading), waypoint, place=place, grade="ask"
    )


#: The checks that look at each rule, by the rule's name.
LOOKED_AT: dict[str, list[str]] = {}

Look = Callable[Concatenate[Plan, P], Iterator[Finding]]


def looks_at(*keys: RuleKey[Any]) -> Callable[[Look[P]], Look[P]]:
    """Register a check for its rules. It is not run where the practice has none of them, and may find no
    other.
    """

    if astray := [key for key in keys if not key.looked_at]:
        raise ValueError(f"{astray} is only gone by: no check looks at it")
    mine = {key.id for key in keys}

    def register(look: Look[P]) -> Look[P]:
        for key in keys:
            LOOKED_AT.setdefault(key.id, []).append(f"{look.__module__}.{look.__qualname__}")

        @wraps(look)
        def looking(plan: Plan, /, *args: P.args, **named: P.kwargs) -> Iterator[Finding]:
            if mine.isdisjoint(plan.practice.rules):
                return
            for finding in look(plan, *args, **named):
                if finding.rule.id not in mine:
                    raise ValueError(f"{look.__qualname__} does not look at “{finding.rule.id}”")
                yield finding

        return looking

    return register


def require_all_looked_at() -> None:
    """Raise ``ValueError`` for a rule that is declared to be looked at, and that no check looks at."""
    if missed := sorted(key.id for key in DECLARED.values() if key.looked_at and key.id not in LOOKED_AT):
        raise ValueError(f"no check looks at {', '.join(missed)}")
