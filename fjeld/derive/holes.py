"""The holes to bore: cables that cross one member at one place share a hole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import msgspec

from fjeld.derive.cables import CablePlan, Crossing
from fjeld.drawing.handles import Handle, order
from fjeld.geometry import Point3
from fjeld.judge.wood import steel
from fjeld.practice import Practice, rules


class Hole(msgspec.Struct, frozen=True):
    """One hole: where, through what, for which cables; ``size`` and member ``depth`` in mm, steel ``plates``;
    ``stopped`` against fire.
    """

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
    plates: dict[tuple[str, float, float], int] = {}
    found = []
    for key, boring in through.items():
        size = large if len(boring) > 2 else small
        met = first[key]
        bore = (met.member, met.depth, size)
        if bore not in plates:
            plates[bore] = steel(*bore, practice)
        stopped = met.member == "plate" and rules.FIRE_STOP in practice
        found.append(
            Hole(
                position=met.spot,
                member=met.member,
                cables=tuple(boring),
                size=size,
                depth=met.depth,
                plates=plates[bore],
                stopped=stopped,
            )
        )
    return tuple(found)


def steel_plates(bored: tuple[Hole, ...]) -> dict[Handle, int]:
    """Steel plates along each cable's holes, each hole counted for its first cable."""
    found: dict[Handle, int] = {}
    for hole in bored:
        found[hole.cables[0]] = found.get(hole.cables[0], 0) + hole.plates
    return found
