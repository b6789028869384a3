"""The cut list of a plan: its pieces by kind of cable, and the coils they come from."""

from __future__ import annotations

from collections import defaultdict

import msgspec

from fjeld.derive.plan import Plan
from fjeld.propose.cuts import CoilOffer, CutPlan, CutRequest, CutsRefused, plan_cuts
from fjeld.quantities import FOOT


class Piece(msgspec.Struct, frozen=True):
    """A piece to cut: which cable, how long in feet, and between which boxes."""

    run: str
    feet: float
    a: str
    b: str


class CableCuts(msgspec.Struct, frozen=True):
    """All pieces of one kind of cable. ``plan`` is None, with ``problem``, when they cannot be cut."""

    kind: str
    pieces: tuple[Piece, ...]
    plan: CutPlan | None
    problem: str = ""


def cut_lists(plan: Plan, seconds: float = 2.0) -> list[CableCuts]:
    """Pieces and coils by kind of cable; prices in cents, lengths in feet."""
    pieces: dict[str, list[Piece]] = defaultdict(list)
    for run in plan.runs():
        cable = plan.cables[run.cable]
        if cable.length > 0:
            pieces[run.kind.id].append(
                Piece(run.key, round(cable.length / FOOT, 4), cable.cable.a, cable.cable.b)
            )
    found = []
    for kind, mine in sorted(pieces.items()):
        price = plan.practice.catalogue.cable_by_id(kind).cents_per_foot
        offers = tuple(
            CoilOffer(float(c.feet), round(c.feet * price * c.factor)) for c in plan.practice.catalogue.coils
        )
        ordered = tuple(sorted(mine, key=lambda p: (-p.feet, p.run)))
        try:
            found.append(
                CableCuts(kind, ordered, plan_cuts(CutRequest(tuple(p.feet for p in mine), offers), seconds))
            )
        except CutsRefused as refused:
            found.append(CableCuts(kind, ordered, None, str(refused)))
    return found
