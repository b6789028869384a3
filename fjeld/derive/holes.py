"""The holes to bore: cables that cross one member at one place share a hole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld.derive.routes import Route, plates_needed
from fjeld.drawing.handles import Handle, order
from fjeld.geometry import Point3
from fjeld.practice import Practice


class Hole(msgspec.Struct, frozen=True):
    """One hole: where, through what, for which cables; ``size`` and member ``depth`` in mm, steel ``plates``."""

    position: Point3
    member: str
    cables: tuple[Handle, ...]
    size: float
    depth: float
    plates: int


def holes(routes: Mapping[Handle, Route], practice: Practice) -> tuple[Hole, ...]:
    """All holes of the house's routes, with their size by the cables in them and the plates they want."""
    through: dict[tuple[str, tuple[int, int, int]], list[Handle]] = defaultdict(list)
    spots: dict[tuple[str, tuple[int, int, int]], tuple[Point3, float]] = {}
    for cable, route in sorted(routes.items(), key=lambda r: order(r[0])):
        for leg in route.legs:
            member = {"plate": "plate", "bored ceiling": "joist"}.get(leg.medium, "stud")
            for bore in leg.bores:
                spot = leg.at(bore)
                key = (member, (round(spot[0] / 10), round(spot[1] / 10), round(spot[2] / 10)))
                through[key].append(cable)
                spots.setdefault(key, (spot, leg.depth))
    small, large = practice.pair("hole-size")
    limit = practice.mm("hole-edge")
    found = []
    for key, cables in through.items():
        member = key[0]
        size = large if len(cables) > 2 else small
        spot, depth = spots[key]
        found.append(Hole(spot, member, tuple(cables), size, depth, plates_needed(depth, size, limit)))
    return tuple(found)
