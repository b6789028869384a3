"""What a house or a circuit comes to, counted once: pieces of cable, their length, staples, holes, steel,
fillers.

Every page, list and step that says so many of them reads it here. A cable that is doubled is two pieces, each
as long and each fastened; a hole is one hole however many cables are in it.
"""

from __future__ import annotations

import msgspec

from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle


class Tally(msgspec.Struct, frozen=True):
    """Counts; ``length`` of all pieces in mm, ``bored`` holes in studs and joists, ``through`` those in
    plates, ``steel`` plates over holes, ``fillers`` of holes that are filled against fire.
    """

    pieces: int
    length: float
    staples: int
    bored: int
    through: int
    steel: int
    fillers: int

    @property
    def holes(self) -> int:
        """All holes."""
        return self.bored + self.through


def tally(plan: Plan, circuit: Handle | None = None) -> Tally:
    """What the house comes to, or one circuit of it: a hole that two circuits share is counted for each."""
    runs = [r for r in plan.runs() if circuit in (None, r.circuit)]
    cables = {r.cable for r in runs}
    holes = [h for h in plan.holes if circuit is None or cables & {*h.cables}]
    laid = [plan.cables[r.cable] for r in runs]
    return Tally(
        pieces=len(runs),
        length=sum(c.length for c in laid),
        staples=sum(len(c.staples) for c in laid),
        bored=sum(h.member != "plate" for h in holes),
        through=sum(h.member == "plate" for h in holes),
        steel=sum(h.plates for h in holes),
        fillers=sum(h.stopped for h in holes),
    )
