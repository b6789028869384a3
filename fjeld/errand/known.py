"""What is known of an errand before anything is shut by it, one value for all that decide upon it."""

from __future__ import annotations

import msgspec

from fjeld.concealed.cut import PlacedSpot
from fjeld.concealed.path import Path
from fjeld.drawing.errand import Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import Device, OldBox
from fjeld.errand.filled import Filled
from fjeld.errand.source import Source
from fjeld.errand.support import Support
from fjeld.judge.answer import Answer, Said
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import Inferred
from fjeld.oldbox.replacing import Replaced
from fjeld.oldbox.tie_in import TieIn
from fjeld.practice import Practice


class Stead(msgspec.Struct, frozen=True):
    """What stands in the place of a device: which, tried, what is said of it, and why it cannot be
    reckoned.
    """

    device: Device
    tried: Replaced | None
    said: tuple[Said, ...] = ()
    trouble: str = ""


class ErrandFacts(msgspec.Struct, frozen=True):
    """What is known of an errand before anything is shut by it: one value for all that decide upon it.

    ``judged`` is the box as a source of what is wanted, ``trouble`` why that cannot be reckoned; ``filled``
    the box as found, after, and the new one; ``into`` where the new cable goes, ``stead`` what stands in a
    device's place, ``support`` what carries what is hung, ``ends`` whether wires that are short can be made
    longer (none where nobody said how short).
    """

    errand: Errand
    handle: Handle
    old: OldBox
    practice: Practice
    box: FoundBox
    judged: Source | None
    trouble: str
    placed: PlacedSpot
    path: Path | None
    filled: tuple[Filled, ...]
    into: TieIn | None
    stead: Stead | None
    support: Support
    ends: Answer | None

    @property
    def found(self) -> Inferred:
        """What the box holds, as far as one can say."""
        return self.judged.found if self.judged else Inferred((), (), None)

    @property
    def decided(self) -> Path | None:
        """The way, where somebody has taken one; nobody's choice is told as fact."""
        return self.path if self.path is not None and self.path.picked else None
