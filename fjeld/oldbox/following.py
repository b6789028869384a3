"""Which reading to take next: what each would show of every hypothesis, and so how much it is expected to
tell.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Sequence

import msgspec

from fjeld.oldbox.found import Reading
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.oldbox.shows import Shows
from fjeld.oldbox.weighed import Weighed
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data

#: Less than this is no reason to take a reading.
LEAST_BITS = 0.02
Outcome = Callable[[Hypothesis, Shows], Hashable]


class Next(msgspec.Struct, frozen=True):
    """A reading to take next: what it tells apart, in bits of what is open, and for how many minutes."""

    id: str
    why: str
    bits: float
    minutes: float


def outcomes(weighed: Weighed, rings: bool) -> dict[str, Outcome]:
    """What each reading would show of a hypothesis, so that two with the same are not told apart by it."""
    box, where = weighed.box, weighed.where
    local = {d.id for d in box.devices}
    seen = [n for n, ends in enumerate(where.ends) if ends]

    def follows(show: Shows, mask: int) -> Hashable:
        if mask in (0, show.all):
            return mask != 0
        return frozenset(c if c in local else "far" for c in show.moves(mask))

    def parted(h: Hypothesis, show: Shows) -> Hashable:
        """Breaker off: what stays live is of another circuit. Of one circuit alone nothing is seen."""
        return len(h.circuits) > 1 and frozenset(
            frozenset(n for n in seen if h.circuit.get(n) == c) for c in h.circuits
        )

    found: dict[str, Outcome] = {
        "R4": lambda h, s: tuple(follows(s, s.live[n]) for n in seen),
        "R8": lambda h, s: tuple(follows(s, m) for m in s.alone.values()),
        "R3": parted,
        "R15": lambda h, s: tuple(s.second[n] == s.all for n in seen if s.live[n] == s.all),
    }
    if any(d.kind in ("three-way", "four-way") for d in box.devices):
        found["R17"] = lambda h, s: tuple(any(c not in local for c in s.moves(s.live[n])) for n in seen)
    if any(d.kind == "protective" for d in box.devices):
        found["R16"] = lambda h, s: h.reversed
    if rings:
        found["R9"] = lambda h, s: len(h.cables) > 1 and tuple(b.role == "RING" for b in h.cables)
        found["R19"] = lambda h, s: any(r in ("RING", "SPUR") for r in h.roles)
    return found


def told_apart(weighed: Weighed, rings: bool) -> dict[str, float]:
    """For each reading that can be taken now the bits that it is expected to give."""
    kinds, taken = role_data().readings, {"R4" if r.id == "R17" else r.id for r in weighed.counted}
    found = {}
    for reading, outcome in outcomes(weighed, rings).items():
        first = kinds[reading].after
        if _taken(reading, weighed.counted) or (first and first not in taken):
            continue
        if reading == "R15" and not _two_lines(weighed):
            continue
        shares: dict[Hashable, float] = defaultdict(float)
        for n in weighed.standing:
            shares[outcome(weighed.found[n], weighed.shows[n])] += weighed.after[n]
        total = sum(shares.values()) or 1.0
        found[reading] = -sum(p / total * math.log2(p / total) for p in shares.values() if p > 0)
    return found


def following(
    weighed: Sequence[Weighed], neutrals: Sequence[Sequence[str]], practice: Practice
) -> Next | None:
    """The reading that tells most for its minutes; then whether what looks like a neutral is one; none when
    all is told.

    ``neutrals`` are the joints that are taken for neutrals and that no lamp has proven.
    """
    kinds = role_data().readings
    if any(not w.found for w in weighed):
        words = "what was recorded cannot be as it is: look again at what is joined to what"
        return Next("R1", words, 0.0, kinds["R1"].minutes)
    bits: dict[str, float] = defaultdict(float)
    for w in weighed:
        for reading, told in told_apart(w, practice.rings).items():
            bits[reading] += told
    if bits.get("R4", 0.0) > bits.get("R17", 0.0) + LEAST_BITS:
        # It is taken from the same place, and the other would be wanted after it.
        bits.pop("R17", None)
    useful = [(told / kinds[r].cost, r) for r, told in bits.items() if told > LEAST_BITS]
    if useful:
        _, best = max(useful)
        return Next(best, _why(weighed, best), bits[best], kinds[best].minutes)
    if any(not w.deciding and _carried(w) & {"l", "s"} for w in weighed):
        return Next("R4", "that something comes here at all", 0.0, kinds["R4"].minutes)
    if neutrals and any("l" in _carried(w) for w in weighed):
        words = f"whether {', '.join(neutrals[0])} is the neutral: a colour does not tell"
        return Next("R5", words, 0.0, kinds["R5"].minutes)
    return None


def _carried(weighed: Weighed) -> set[str]:
    return {what for n in weighed.standing for what in weighed.found[n].carries.values()}


def _taken(reading: str, counted: Sequence[Reading]) -> bool:
    """Whether a reading would tell nothing new: one over all switches once every switch was moved, any other
    once.
    """
    same = [r for r in counted if r.id == reading]
    return any(r.every_switch for r in same) if reading in ("R4", "R17") else bool(same)


def _two_lines(weighed: Weighed) -> bool:
    """Whether two nets are line whatever else is so: volts between them are only read where both are known to
    be live.
    """
    nets = range(len(weighed.where.ends))
    return sum(all(weighed.found[k].carries.get(n) == "l" for k in weighed.standing) for n in nets) > 1


def _why(weighed: Sequence[Weighed], reading: str) -> str:
    """What a reading tells apart, by the ends that show it."""
    differ, cables = [], []
    for w in weighed:
        standing = [w.found[k] for k in w.standing]
        differ += [
            e for n, e in enumerate(w.where.ends) if e and len({h.carries.get(n) for h in standing}) > 1
        ]
        cables += [c.id for n, c in enumerate(w.box.cables) if len({h.roles[n] for h in standing}) > 1]
    if not differ:
        return f"which of cable {' or '.join(cables)} comes from the source"
    names = ", ".join(" with ".join(ends) for ends in differ)
    if reading == "R4" and any(d.kind == "switch" for w in weighed for d in w.box.devices):
        return f"of {names}, what stays live with the switch open is the line, and its cable the feed"
    return f"what {names} carries"
