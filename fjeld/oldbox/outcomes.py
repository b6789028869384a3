"""What each reading would show of every wiring that is still possible, and so what it is expected to tell."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Collection, Hashable, Sequence

import msgspec

from fjeld.oldbox.alike import arrangements, stays
from fjeld.oldbox.found import Reading
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.oldbox.shows import Shows
from fjeld.oldbox.weighed import Weighed
from fjeld.practice.finished.roles import role_data

#: Less than this is no reason to take a reading.
LEAST_BITS = 0.02


class Outcome(msgspec.Struct, frozen=True):
    """What a reading shows: of the box as a whole, and of each conductor that may change places with another,
    cable by cable.
    """

    whole: Hashable
    cables: tuple[tuple[Hashable, ...], ...] = ()


Shown = Callable[[Hypothesis, Shows], Outcome]


def outcomes(weighed: Weighed) -> dict[str, Shown]:
    """What each reading would show of a hypothesis, so that two with the same are not told apart by it."""
    box, seen = weighed.box, _Seen(weighed)
    kinds = {d.kind for d in box.devices}
    found: dict[str, Shown] = {"R4": seen.live, "R8": seen.apart, "R3": seen.breaker_off, "R15": seen.legs}
    if kinds & {"three-way", "four-way"}:
        found["R17"] = seen.other_switch
    if "protective" in kinds:
        found["R16"] = lambda h, s: Outcome(h.reversed)
    if weighed.rings:
        found["R9"] = lambda h, s: Outcome(
            len(h.cables) > 1, tuple((b.role == "RING",) * len(b.carries) for b in h.cables)
        )
        found["R19"] = lambda h, s: Outcome(any(r in ("RING", "SPUR") for r in h.roles))
    return found


class _Seen:
    """What is seen at the nets of a group of cables, and at its conductors by themselves."""

    def __init__(self, weighed: Weighed) -> None:
        box, where = weighed.box, weighed.where
        self.loose = weighed.same.loose
        self.local = {d.id for d in box.devices}
        self.fixed = [n for n, ends in enumerate(where.ends) if ends and n not in self.loose]
        self.by_cable = [[(end, where.of[end]) for end in cable.insulated] for cable in box.cables]

    def live(self, h: Hypothesis, show: Shows) -> Outcome:
        """In which states each net is live."""
        return self._by_net(lambda n: self._follows(show, show.live[n]))

    def apart(self, h: Hypothesis, show: Shows) -> Outcome:
        """The same of each conductor by itself."""
        cables = ([self._follows(show, show.alone[end]) for end, _ in ends] for ends in self.by_cable)
        return Outcome(None, tuple(map(tuple, cables)))

    def legs(self, h: Hypothesis, show: Shows) -> Outcome:
        """Which of the nets that are always live are of the second leg."""
        return self._by_net(lambda n: show.second[n] == show.all if show.live[n] == show.all else None)

    def other_switch(self, h: Hypothesis, show: Shows) -> Outcome:
        """Which nets change with a switch elsewhere."""
        return self._by_net(lambda n: not show.moves(show.live[n]) <= self.local)

    def breaker_off(self, h: Hypothesis, show: Shows) -> Outcome:
        """Breaker off: what stays live is of another circuit. Of one circuit alone nothing is seen."""
        if len(h.circuits) < 2:
            return Outcome(False)
        # A circuit is known by what is joined of it, else by its cable, in which it is the first or second.
        known: dict[str, Hashable] = {}
        for n in self.fixed:
            if (circuit := h.circuit.get(n)) in h.circuits:
                known.setdefault(str(circuit), n)

        def label(n: int) -> Hashable:
            circuit = h.circuit.get(n)
            return known.get(circuit, circuit[-1] == "b") if circuit in h.circuits else None

        return self._by_net(label)

    def _follows(self, show: Shows, mask: int) -> Hashable:
        """Never, always, or by which switches, those elsewhere as one."""
        if mask in (0, show.all):
            return mask != 0
        return frozenset(c if c in self.local else "far" for c in show.moves(mask))

    def _by_net(self, label: Callable[[int], Hashable]) -> Outcome:
        cables = ([label(n) if n in self.loose else None for _, n in ends] for ends in self.by_cable)
        return Outcome(tuple(map(label, self.fixed)), tuple(map(tuple, cables)))


def kind_of(outcome: Outcome, weighed: Weighed, k: int) -> tuple[Outcome, int]:
    """An outcome without which of what is alike is which, and how many differ in that alone, each as likely.

    A cable whose conductors keep their places counts once: none that changes its own about shows the same.
    """
    if not outcome.cables:
        return outcome, 1
    same, h = weighed.same, weighed.found[k]
    cables, ways = [], 1
    for n, (labels, beyond) in enumerate(zip(outcome.cables, h.cables, strict=True)):
        told = list(labels)
        for group in same.leads[n] if not stays(beyond) else ():
            mine = sorted((labels[a] for a in group), key=repr)
            ways *= arrangements(mine)
            for a, label in zip(group, mine, strict=True):
                told[a] = label
        cables.append(tuple(told))
    return Outcome(outcome.whole, same.kind(cables)), ways * same.orders(cables)


def can_be_taken(weighed: Weighed, more: Collection[str] = (), lines: int | None = None) -> list[str]:
    """The readings that can be taken now, and would tell something new; or once some ``more`` are, over every
    switch, when so many ``lines`` are known to be that.
    """
    kinds = role_data().readings
    taken = {"R4" if r == "R17" else r for r in (*(r.id for r in weighed.counted), *more)}
    sure = _lines(weighed) if lines is None else lines
    return [
        reading
        for reading in outcomes(weighed)
        if reading not in more
        and not _taken(reading, weighed.counted)
        and not ((first := kinds[reading].after) and first not in taken)
        # Volts between two nets are only read where both are known to be live.
        and (reading != "R15" or sure > 1)
    ]


def told_apart(weighed: Weighed) -> dict[str, float]:
    """For each reading that can be taken now the bits that it is expected to give."""
    shown, found = outcomes(weighed), {}
    for reading in can_be_taken(weighed):
        shares: dict[Outcome, float] = defaultdict(float)
        alike: dict[Outcome, int] = {}
        for k in weighed.standing:
            outcome, ways = kind_of(shown[reading](weighed.found[k], weighed.shows[k]), weighed, k)
            alike[outcome] = ways
            shares[outcome] += weighed.after[k]
        total = sum(shares.values()) or 1.0
        found[reading] = -sum(
            p / total * math.log2(p / total / alike[outcome]) for outcome, p in shares.items() if p > 0
        )
    return found


def _taken(reading: str, counted: Sequence[Reading]) -> bool:
    """Whether a reading would tell nothing new: one over all switches once every switch was moved, any other
    once.
    """
    same = [r for r in counted if r.id == reading]
    return any(r.every_switch for r in same) if reading in ("R4", "R17") else bool(same)


def _lines(weighed: Weighed) -> int:
    """How many nets are line whatever else is so."""
    return sum(weighed.carried(n) == {"l"} for n in range(len(weighed.where.ends)))
