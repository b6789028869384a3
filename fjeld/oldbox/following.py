"""Which reading to take next, and why."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

import msgspec

from fjeld.oldbox.ahead import MOST_CABLES, Ahead
from fjeld.oldbox.outcomes import LEAST_BITS, told_apart
from fjeld.oldbox.weighed import Weighed
from fjeld.practice.finished.roles import role_data


class Next(msgspec.Struct, frozen=True):
    """A reading to take next: what it tells apart, in bits of what is open, and for how many minutes."""

    id: str
    why: str
    bits: float
    minutes: float


def following(weighed: Sequence[Weighed], neutrals: Sequence[Sequence[str]]) -> Next | None:
    """The reading to begin with, so that all is told soonest; then whether what looks like a neutral is one;
    none when all is told.

    ``neutrals`` are the joints that are taken for neutrals and that no lamp has proven.
    """
    kinds = role_data().readings
    if any(not w.found for w in weighed):
        words = "what was recorded cannot be as it is: look again at what is joined to what"
        return Next("R1", words, 0.0, kinds["R1"].minutes)
    bits: dict[str, float] = defaultdict(float)
    for w in weighed:
        for reading, told in told_apart(w).items():
            bits[reading] += told
    best = _best(weighed, bits)
    if best:
        return Next(best, _why(weighed, best), bits[best], kinds[best].minutes)
    if any(not w.deciding and _carried(w) & {"l", "s"} for w in weighed):
        return Next("R4", "that something comes here at all", 0.0, kinds["R4"].minutes)
    if neutrals and any("l" in _carried(w) for w in weighed):
        words = f"whether {', '.join(neutrals[0])} is the neutral: a colour does not tell"
        return Next("R5", words, 0.0, kinds["R5"].minutes)
    return None


def _best(weighed: Sequence[Weighed], bits: Mapping[str, float]) -> str:
    """The first of the order that is expected to cost least, or, where there are too many, the reading that
    tells most for its minutes.
    """
    useful = {r: told for r, told in bits.items() if told > LEAST_BITS}
    if not useful or sum(len(w.box.cables) for w in weighed) <= MOST_CABLES:
        return Ahead(weighed).best() if useful else ""
    if useful.get("R4", 0.0) > useful.get("R17", 0.0) + LEAST_BITS:
        # It is taken from the same place, and the other would be wanted after it.
        useful.pop("R17", None)
    return max(useful, key=lambda r: (round(useful[r] / role_data().readings[r].cost, 9), r))


def _carried(weighed: Weighed) -> set[str]:
    return {what for n in weighed.standing for what in weighed.found[n].carries.values()}


def _why(weighed: Sequence[Weighed], reading: str) -> str:
    """What a reading tells apart, by the ends that show it."""
    differ, cables = [], []
    for w in weighed:
        differ += [e for n, e in enumerate(w.where.ends) if e and len(w.carried(n)) > 1]
        cables += [
            c.id
            for n, c in enumerate(w.box.cables)
            if len({b.role for k in w.standing for b in w.roles(n, k)}) > 1
        ]
    if not differ:
        return f"which of cable {' or '.join(cables)} comes from the source"
    names = ", ".join(" with ".join(ends) for ends in differ)
    if reading == "R4" and any(d.kind == "switch" for w in weighed for d in w.box.devices):
        return f"of {names}, what stays live with the switch open is the line, and its cable the feed"
    return f"what {names} carries"
