"""What a person meant: one small frozen struct an edit, each planned into changes.

An edit has words for the history and a plan. The plan is made against the drawing it
meets, so that the same edit can be planned again when someone else was faster. It
raises :class:`EditRefused` with a sentence when it makes no sense there.
"""

from __future__ import annotations

from typing import Protocol

from fjeld.drawing.changes import Change
from fjeld.drawing.model import Drawing


class EditRefused(ValueError):
    """The edit makes no sense on this drawing; the message says why."""


class Edit(Protocol):
    """Anything that can be named in the history and planned on a drawing."""

    def words(self, drawing: Drawing) -> str:
        """What was done, as in “Move A4”."""
        ...

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        """The changes this edit makes; raises :class:`EditRefused`."""
        ...
