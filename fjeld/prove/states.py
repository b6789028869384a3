"""Which settings of switches are looked at: all of a few, and of many so many as a die draws."""

from __future__ import annotations

import random
from collections.abc import Sequence

from fjeld.derive.keys import Movable

#: How many settings of the other switches a die draws for each of a control's own.
DRAWN = 16


def gray(n: int) -> list[tuple[int, ...]]:
    """All settings of ``n`` positions, one switch moved at a time."""
    return [tuple((s ^ s >> 1) >> i & 1 for i in range(n)) for s in range(1 << n)]


def chosen_states(own: Sequence[Movable], others: Sequence[Movable]) -> list[dict[Movable, int]]:
    """All settings of a control with the others all down, all up, and as drawn by a seeded die."""
    die = random.Random(1)
    backgrounds: list[dict[Movable, int]] = [dict.fromkeys(others, 0)]
    if others:
        backgrounds.append(dict.fromkeys(others, 1))
        backgrounds += (
            [{p: die.getrandbits(1) for p in others} for _ in range(DRAWN)] if len(others) > 1 else []
        )
    return [
        {**back, **dict(zip(own, setting, strict=True))} for back in backgrounds for setting in gray(len(own))
    ]
