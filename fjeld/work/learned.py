"""What a log of times teaches: by how much someone is faster or slower than reckoned, by class of work."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable

import msgspec

#: A time shorter or longer than this many minutes was not one sitting.
SHORTEST, LONGEST = 0.5, 600.0


class Took(msgspec.Struct, frozen=True):
    """A step that was timed: its class, what was reckoned for it and what it took, both in minutes."""

    kind: str
    reckoned: float
    took: float


def learned(log: Iterable[Took]) -> dict[str, float]:
    """By class, the factor that times are multiplied with: the mean of the logarithms of what they were out
    by.
    """
    ratios: dict[str, list[float]] = defaultdict(list)
    for entry in log:
        if entry.reckoned > 0 and SHORTEST <= entry.took <= LONGEST:
            ratios[entry.kind].append(math.log(entry.took / entry.reckoned))
    return {kind: math.exp(math.fsum(found) / len(found)) for kind, found in ratios.items()}
