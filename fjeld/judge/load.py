"""What hangs on a breaker: the current of it all, of what is known alone, and whether that goes over its
rating.
"""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from fjeld.practice import Practice, rules
from fjeld.quantities import ROUNDING, Line, Verdict, Working, at_most, verdict_at_most


class Hangs(msgspec.Struct, frozen=True):
    """So many loads of so many VA, on for hours or not, known or ``estimated``; ``of`` are the handles that
    they are of.
    """

    va: float
    what: str
    count: float = 1.0
    continuous: bool = False
    estimated: bool = False
    of: tuple[str, ...] = ()


class Loaded(msgspec.Struct, frozen=True):
    """A breaker's load, A: ``all`` of it and what is ``known``, against its ``rating``."""

    all: Working
    known: Working
    rating: float

    @property
    def left(self) -> float:
        """What is left of the rating, A; less than nothing where it is over."""
        return self.rating - self.all.total

    @property
    def guessed(self) -> float:
        """What of it is estimated, A."""
        return self.all.total - self.known.total

    @property
    def verdict(self) -> Verdict:
        """Whether all of it stays within the rating."""
        return verdict_at_most(self.all.total, self.rating, ROUNDING)

    @property
    def by_estimates_alone(self) -> bool:
        """Whether nothing but estimates could bring it over: a reason to look, not a breach."""
        return self.guessed > ROUNDING and at_most(self.known.total, self.rating, ROUNDING)

    def beside(self, there: Loaded) -> Loaded:
        """With what hangs there already, before it."""
        all_ = Working(self.all.title, self.all.unit, (*there.all.lines, *self.all.lines))
        known = Working(self.known.title, self.known.unit, (*there.known.lines, *self.known.lines))
        return Loaded(all_, known, self.rating)


def loaded(hangs: Iterable[Hangs], rating: float, practice: Practice) -> Loaded:
    """The current of what hangs on a breaker, each load once, one that is on for hours at the
    rule's factor.
    """
    factor = practice[rules.CIRCUIT_LOAD]
    lines = [
        (Line((factor if h.continuous else 1.0) * h.count, h.va / practice.volts, h.what, h.of), h.estimated)
        for h in hangs
    ]
    known = tuple(line for line, estimated in lines if not estimated)
    return Loaded(
        Working("Load", "A", tuple(line for line, _ in lines)), Working("Known", "A", known), float(rating)
    )
