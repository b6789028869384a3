"""The holes to bore: cables that cross one member at one place share a hole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld.derive.cables import CablePlan, Crossing
from fjeld.derive.routes import plates_needed
from fjeld.drawing.handles import Handle, order
from fjeld.geometry import Point3
from fjeld.practice import Practice, rules

#: Members of a wall, as crossings name them: a cable goes on in the wall on both sides of one.
OF_WALLS = ("stud", "bearing stud", "plate")


class Hole(msgspec.Struct, frozen=True):
    """One hole: where, through what, for which cables; ``size`` and member ``depth`` in mm, steel ``plates``; ``stopped`` against fire."""

    position: Point3
    member: str
    cables: tuple[Handle, ...]
    size: float
    depth: float
    plates: int
    stopped: bool


def holes(cables: Mapping[Handle, CablePlan], practice: Practice) -> tuple[Hole, ...]:
    """All holes of the house's cables, with their size by the cables in them and the plates they want."""
    through: dict[tuple[str, tuple[int, int, int]], list[Handle]] = defaultdict(list)
    first: dict[tuple[str, tuple[int, int, int]], Crossing] = {}
    for handle in sorted(cables, key=order):
        for crossing in cables[handle].crossings:
            key = (crossing.member, crossing.cell)
            through[key].append(handle)
            first.setdefault(key, crossing)
    small, large = practice[rules.HOLE_SIZE]
    limit = practice[rules.HOLE_EDGE]
    in_zones = rules.CABLE_ZONES in practice
    plates: dict[tuple[float, float], int] = {}
    found = []
    for key, boring in through.items():
        size = large if len(boring) > 2 else small
        met = first[key]
        if (met.depth, size) not in plates:
            plates[met.depth, size] = plates_needed(met.depth, size, limit)
        # Where zones hold, a wall's wood asks no steel: depth, a zone or protection does, and zones are looked at.
        spared = in_zones and met.member in OF_WALLS
        steel = 0 if spared else plates[met.depth, size]
        stopped = met.member == "plate" and rules.FIRE_STOP in practice
        found.append(Hole(met.spot, met.member, tuple(boring), size, met.depth, steel, stopped))
    return tuple(found)


def steel_plates(bored: tuple[Hole, ...]) -> dict[Handle, int]:
    """Steel plates along each cable's holes, each hole counted for its first cable."""
    found: dict[Handle, int] = {}
    for hole in bored:
        found[hole.cables[0]] = found.get(hole.cables[0], 0) + hole.plates
    return found
