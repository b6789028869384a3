"""What the Boxes screen shows in its dock and its workings."""

from __future__ import annotations

from fjeld.derive.boxes import Box, Joint
from fjeld.derive.old import OldMade
from fjeld.practice.parts import BoxKind
from fjeld.web.ui.coverage import Coverage
from fjeld.web.ui.panel import Shown


class BoxRow(Shown, frozen=True):
    """A box in the list: ``share`` of its volume taken up, %, and how many findings are ``open``."""

    box: Box
    share: float
    open: int


class Dock(Shown, frozen=True):
    """Every box, to be opened."""

    rows: list[BoxRow]
    in_hand: str


class JointStep(Shown, frozen=True):
    """A joint to make, by number."""

    n: int
    words: str


class Workings(Shown, frozen=True, kw_only=True):
    """The box in hand, if there is one: the step in hand, its connector, its fill, the box it wants."""

    box: Box | None = None
    step: int = 0
    next: int = 0
    last: int = 0
    instruction: str = ""
    joint: Joint | None = None
    connectors: list[str] = []
    kinds: list[BoxKind] = []
    steps: list[JointStep] = []
    two: bool = False
    old: OldMade | None = None
    holds: float | None = None
    open: list[str] = []
    covered: Coverage | None = None
