"""The holes to bore: cables that cross one member at one place share a hole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld.derive.routes import Route, plates_needed, point_along
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Room
from fjeld.geometry import Point3
from fjeld.practice import Practice
from fjeld.quantities import INCH


class Hole(msgspec.Struct, frozen=True):
    """One hole: where, through what, for which cables; ``size`` and member ``depth`` in mm, steel ``plates``."""

    position: Point3
    member: str
    cables: tuple[Handle, ...]
    size: float
    depth: float
    plates: int


def holes(routes: Mapping[Handle, Route], room: Room, practice: Practice) -> tuple[Hole, ...]:
    """All holes of a room's routes, with their size by the cables in them and the plates they want."""
    through: dict[tuple[str, tuple[int, int, int]], list[Handle]] = defaultdict(list)
    spots: dict[tuple[str, tuple[int, int, int]], Point3] = {}
    for cable, route in sorted(routes.items(), key=lambda r: order(r[0])):
        here = 0.0
        for leg in route.legs:
            for bore in leg.bores:
                spot = point_along(route, here + bore)
                member = {"plate": "plate", "bored ceiling": "joist"}.get(leg.medium, "stud")
                key = (member, (round(spot[0] / 10), round(spot[1] / 10), round(spot[2] / 10)))
                through[key].append(cable)
                spots.setdefault(key, spot)
            here += leg.length
    small, large = (float(v) * INCH for v in practice.value("hole-size"))
    limit = practice.mm("hole-edge")
    found = []
    for key, cables in through.items():
        member = key[0]
        size = large if len(cables) > 2 else small
        depth = room.joists.depth.mm if member == "joist" else room.studs.depth.mm
        found.append(Hole(spots[key], member, tuple(cables), size, depth, plates_needed(depth, size, limit)))
    return tuple(found)
