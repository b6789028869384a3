"""The cut list of a plan: its pieces by kind of cable, and the coils they come from."""

from __future__ import annotations

from collections import defaultdict

import msgspec

from fjeld.derive.plan import Plan
from fjeld.propose.cuts import CoilOffer, CutPlan, CutRequest, CutsRefused, plan_cuts
from fjeld.propose.heed import Heed, go_on


class Piece(msgspec.Struct, frozen=True):
    """A piece to cut: which cable, how long in mm and in the unit it is sold by, between which boxes."""

    run: str
    length: float
    sold: float
    a: str
    b: str


class CableCuts(msgspec.Struct, frozen=True):
    """All pieces of one kind of cable. ``plan`` is None, with ``problem``, when they cannot be cut."""

    kind: str
    pieces: tuple[Piece, ...]
    plan: CutPlan | None
    problem: str = ""


def cut_lists(plan: Plan, search: bool = True, heed: Heed = go_on) -> list[CableCuts]:
    """Pieces and coils by kind of cable; prices in cents, lengths in the unit cable is sold by."""
    catalogue = plan.practice.catalogue
    unit = catalogue.cable_unit_mm
    pieces: dict[str, list[Piece]] = defaultdict(list)
    for run in plan.runs():
        cable = plan.cables[run.cable]
        if cable.length > 0:
            pieces[run.kind.id].append(
                Piece(run.key, cable.length, round(cable.length / unit, 4), cable.cable.a, cable.cable.b)
            )
    found = []
    for kind, mine in sorted(pieces.items()):
        heed()
        price = catalogue.cable_by_id(kind).cents
        offers = tuple(
            CoilOffer(float(c.length), round(c.length * price * c.factor)) for c in catalogue.coils
        )
        ordered = tuple(sorted(mine, key=lambda p: (-p.length, p.run)))
        try:
            found.append(
                CableCuts(kind, ordered, plan_cuts(CutRequest(tuple(p.sold for p in mine), offers), search))
            )
        except CutsRefused as refused:
            found.append(CableCuts(kind, ordered, None, str(refused)))
    return found
