"""What the ways to a new place stand on."""

from __future__ import annotations

import msgspec

from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.old_box import OldBox
from fjeld.practice import Practice


class Ground(msgspec.Struct, frozen=True):
    """What the ways stand on: the errand, whether its two ends are in walls, and the practice in force."""

    errand: Errand
    on_wall: tuple[bool, bool]
    heights: tuple[float | None, float | None]
    practice: Practice

    @property
    def walls(self) -> bool:
        return all(self.on_wall)

    @property
    def ceilings(self) -> bool:
        return not any(self.on_wall)

    def lies(self, *ways: str) -> tuple[str, ...] | None:
        """Nothing more to be told where it lies so; ``lies`` where nobody has said; None where it lies
        otherwise.
        """
        told = self.errand.way.lies
        return () if told in ways else None if told else ("lies",)


def ground_of(errand: Errand, old: OldBox, practice: Practice) -> Ground:
    """What is known of both ends. Where nobody has said, a light is over one's head and an outlet is in a
    wall.
    """
    surface = errand.spot.surface or ("ceiling" if errand.wants in ("light", "alarms") else "wall")
    source = length_of(errand.way.source)
    heights = (length_of(old.height) if source is None else source, length_of(errand.spot.height))
    return Ground(errand, (old.place != "ceiling", surface == "wall"), heights, practice)
