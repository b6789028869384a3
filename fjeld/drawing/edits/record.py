"""Local rules and overrides: a person's word against the program's, with name and reason."""

from __future__ import annotations

from typing import Any

import msgspec

from fjeld.drawing.changes import Change, Set, between
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, Override
from fjeld.practice import Amendment


class AmendRule(msgspec.Struct, frozen=True, tag="amend-rule"):
    """Put a local value in place of a rule's; without a value, the rule's own holds again."""

    rule: str
    value: Any
    reason: str
    who: str
    when: str = ""

    def words(self, drawing: Drawing) -> str:
        return f"Amend {self.rule}" if self.value is not None else f"Drop the amendment of {self.rule}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        old = drawing.house.amendments
        kept = tuple(a for a in old if a.rule != self.rule)
        new = (
            kept
            if self.value is None
            else (*kept, Amendment(self.rule, self.value, self.reason, self.who, self.when))
        )
        return (Set(HOUSE, "amendments", old, new),) if new != old else ()


class ReturnTo(msgspec.Struct, frozen=True, tag="return-to"):
    """Make the drawing what it was at an earlier step."""

    drawing: Drawing
    seq: int

    def words(self, drawing: Drawing) -> str:
        return f"Return to step {self.seq}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        return between(drawing, self.drawing)


class OverrideFinding(msgspec.Struct, frozen=True, tag="override-finding"):
    """Let a finding rest, by name and with a reason."""

    finding: str
    reason: str
    measure: float | None = None
    severity: str = ""

    def words(self, drawing: Drawing) -> str:
        return f"Override {self.finding}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        old = drawing.house.overrides
        given = Override(self.reason, self.measure, self.severity)  # type: ignore[arg-type]
        return (Set(HOUSE, "overrides", old, {**old, self.finding: given}),)


class Reopen(msgspec.Struct, frozen=True, tag="reopen-finding"):
    """Take an override back: the finding is told again."""

    finding: str

    def words(self, drawing: Drawing) -> str:
        return f"Take back the override of {self.finding}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        old = drawing.house.overrides
        kept = {key: why for key, why in old.items() if key != self.finding}
        return (Set(HOUSE, "overrides", old, kept),) if kept != old else ()
