"""One cable worked out: its way, what to cut, its staples, and the members it crosses."""

from __future__ import annotations

import msgspec

from fjeld.derive import routes
from fjeld.derive.places import Placed
from fjeld.derive.routes import Route, Staple
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Cable
from fjeld.geometry import Point3
from fjeld.practice import Practice, rules
from fjeld.quantities import Known, Working

#: Bores nearer to each other than this are one hole, mm.
ONE_HOLE = 10.0


class Crossing(msgspec.Struct, frozen=True):
    """A member that a cable crosses: which kind, where, how deep it is (mm), and the spot rounded to one
    hole.
    """

    member: str
    spot: Point3
    depth: float
    cell: tuple[int, int, int]


class CablePlan(msgspec.Struct, frozen=True):
    """One cable worked out. ``route`` is None where no way was found; then ``cut`` is None too.

    ``length`` is what to cut, mm: as measured by a person if it was, else as computed; ``rests_on``
    are the measures still to be taken that its way hangs on.
    """

    handle: Handle
    cable: Cable
    length: float
    route: Route | None = None
    cut: Working | None = None
    staples: tuple[Staple, ...] = ()
    crossings: tuple[Crossing, ...] = ()
    rests_on: tuple[str, ...] = ()

    @property
    def known(self) -> Known:
        """Its length, mm: what a person held up is known, whatever its way hangs on."""
        return Known(self.length, () if self.cable.measured is not None else self.rests_on)


def work_out(
    handle: Handle,
    cable: Cable,
    route: Route | None,
    ends: tuple[Placed, ...],
    width: float,
    practice: Practice,
    rests_on: tuple[str, ...] = (),
) -> CablePlan:
    """The cable along its way between the two boxes ``ends``; ``width`` mm is the least it can have."""
    measured = cable.measured.mm if cable.measured is not None else None
    if route is None:
        return CablePlan(handle, cable, measured or 0.0)
    at_panel = sum(end.kind == "panel" for end in ends)
    cut = routes.cut_length(route.length, at_panel, practice, (handle,), rests_on)
    first, last = (_first_support(end, practice) for end in ends)
    pinned = tuple(routes.staples(route, width, first, last, practice))
    length = cut.total if measured is None else measured
    return CablePlan(
        handle=handle,
        cable=cable,
        length=length,
        route=route,
        cut=cut,
        staples=pinned,
        crossings=tuple(_crossings(route)),
        rests_on=rests_on,
    )


def _first_support(placed: Placed, practice: Practice) -> float:
    single = placed.kind in ("switch", "outlet") and placed.width <= practice.catalogue.body("device")[0]
    return practice[rules.FIRST_SUPPORT_UNCLAMPED if single else rules.FIRST_SUPPORT]


def _crossings(route: Route) -> list[Crossing]:
    found = []
    for leg in route.legs:
        if leg.medium == "opened":
            continue
        member = "plate" if leg.medium == "plate" else leg.member or "stud"
        for bore in leg.bores:
            x, y, z = spot = leg.at(bore)
            cell = (round(x / ONE_HOLE), round(y / ONE_HOLE), round(z / ONE_HOLE))
            found.append(Crossing(member, spot, leg.depth, cell))
    return found
