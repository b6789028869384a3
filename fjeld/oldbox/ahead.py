"""The order of readings that is expected to cost least, over everything that each may show.

A decision tree of least expected cost: the cost of what may still be so is that of the best reading and, for
each thing that it may show, the cost of what is then left; nothing, where no reading tells anything more. It
is found by going through all of them, each set of wirings once (Garey 1972, *Optimal binary identification
procedures*, whose recurrence it is, with readings of many outcomes). Sets and orders are exponential in the
readings, of which there are eight at most; wirings that no reading tells apart are one.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence

import msgspec

from fjeld.oldbox.outcomes import LEAST_BITS, Outcome, can_be_taken, outcomes
from fjeld.oldbox.weighed import Weighed
from fjeld.practice.finished.roles import role_data

#: A box of more cables is asked about by the reading that tells most for its minutes.
MOST_CABLES = 3


class _Told(msgspec.Struct, frozen=True):
    """Wirings that every reading shows the same of: their share, what each reading shows, and the nets that
    are line in them.
    """

    share: float
    shown: dict[str, Outcome]
    lines: frozenset[int]


#: For each group of cables the wirings that are still possible, by number.
_Left = tuple[frozenset[int], ...]


class Ahead:
    """Every order of readings of a box whose groups of cables are weighed. O(readings! × wirings) at worst;
    each set of readings taken, with what it leaves, is reckoned once.
    """

    def __init__(self, weighed: Sequence[Weighed]) -> None:
        self.weighed = weighed
        self.kinds = role_data().readings
        self.groups = [_merged(w) for w in weighed]
        self.known: dict[tuple[_Left, frozenset[str]], tuple[float, str]] = {}
        self.can: dict[tuple[int, frozenset[str], int], Sequence[str]] = {}
        self.start: _Left = tuple(frozenset(range(len(told))) for told in self.groups)

    def best(self) -> str:
        """The reading to begin with; none where nothing can be told."""
        return self._cost(self.start, frozenset())[1]

    @property
    def cost(self) -> float:
        """What the best order is expected to cost."""
        return self._cost(self.start, frozenset())[0]

    def _cost(self, left: _Left, taken: frozenset[str]) -> tuple[float, str]:
        if (left, taken) not in self.known:
            bits = self._bits(left, taken)
            found = [
                (round(self.kinds[r].cost + self._beyond(left, taken | {r}, r), 9), -bits[r], r)
                for r in sorted(bits, key=lambda r: -bits[r] / self.kinds[r].cost)
            ]
            cost, _, best = min(found, default=(0.0, 0.0, ""))
            self.known[left, taken] = cost, best
        return self.known[left, taken]

    def _beyond(self, left: _Left, taken: frozenset[str], reading: str) -> float:
        """The cost of what is left after a reading, over all that it may show of the groups together."""
        parts: list[tuple[float, _Left]] = [(1.0, ())]
        for told, alive in zip(self.groups, left, strict=True):
            shown: dict[Outcome | None, list[int]] = defaultdict(list)
            for n in alive:
                shown[told[n].shown.get(reading)].append(n)
            total = sum(told[n].share for n in alive) or 1.0
            parts = [
                (share * sum(told[n].share for n in mine) / total, (*before, frozenset(mine)))
                for share, before in parts
                for mine in shown.values()
            ]
        return sum(share * self._cost(then, taken)[0] for share, then in parts if share > 0)

    def _bits(self, left: _Left, taken: frozenset[str]) -> dict[str, float]:
        """The readings that can be taken then, and the bits that each would give."""
        bits: dict[str, float] = defaultdict(float)
        for n, (told, alive) in enumerate(zip(self.groups, left, strict=True)):
            sure = frozenset.intersection(*(told[n].lines for n in alive)) if alive else frozenset()
            for reading in self._can_be_taken(n, taken, min(2, len(sure))):
                shares: dict[Outcome, float] = defaultdict(float)
                for k in alive:
                    shares[told[k].shown[reading]] += told[k].share
                total = sum(shares.values()) or 1.0
                bits[reading] -= sum(p / total * math.log2(p / total) for p in shares.values() if p > 0)
        return {r: b for r, b in bits.items() if b > LEAST_BITS}

    def _can_be_taken(self, group: int, taken: frozenset[str], lines: int) -> Sequence[str]:
        key = group, taken, lines
        if key not in self.can:
            self.can[key] = can_be_taken(self.weighed[group], taken, lines)
        return self.can[key]


def _merged(weighed: Weighed) -> list[_Told]:
    """What is left of a group, those together that no reading tells apart."""
    shown, shares = outcomes(weighed), defaultdict[tuple[object, ...], float](float)
    told: dict[tuple[object, ...], _Told] = {}
    for one in weighed.each():
        sees = {r: show(one.hypothesis, one.shows) for r, show in shown.items()}
        lines = frozenset(n for n, what in one.hypothesis.carries.items() if what == "l")
        key = (*sees.values(), lines)
        shares[key] += one.share
        told.setdefault(key, _Told(0.0, sees, lines))
    return [_Told(shares[key], one.shown, one.lines) for key, one in told.items()]
