"""Finding room for words: places near where a label is wanted that nothing covers yet."""

from __future__ import annotations

import math
from collections.abc import Sequence

Px = tuple[float, float]
Rect = tuple[float, float, float, float]


def meets(box: Rect, taken: list[Rect]) -> bool:
    """Whether a rectangle overlaps any of those taken."""
    return any(box[0] < t[2] and t[0] < box[2] and box[1] < t[3] and t[1] < box[3] for t in taken)


def free_place(at: Px, normal: Px, width: float, height: float, taken: list[Rect]) -> Px:
    """A free middle for a thing of that size off a wall, the nearest of a fan of tries; ``taken`` grows.

    ``normal`` points away from the wall. If nothing is free, the first try.
    """
    along = (-normal[1], normal[0])
    tries = [
        (at[0] + normal[0] * out + along[0] * aside, at[1] + normal[1] * out + along[1] * aside)
        for out in (40.0, 54.0, 70.0, 90.0)
        for aside in (0.0, 18.0, -18.0, 36.0, -36.0, 54.0, -54.0)
    ]

    def around(spot: Px) -> Rect:
        return (spot[0] - width / 2, spot[1] - height / 2, spot[0] + width / 2, spot[1] + height / 2)

    spot = next((t for t in tries if not meets(around(t), taken)), tries[0])
    taken.append(around(spot))
    return spot


def place_labels(wanted: Sequence[tuple[float, float, str]], taken: list[Rect]) -> list[Px]:
    """A free place for each label near where it is wanted: the nearest of a spiral of tries.

    ``taken`` holds rectangles (x1, y1, x2, y2) already covered, and grows.
    """
    found = []
    for x, y, words in wanted:
        half = 4.2 * len(words) + 3
        tries = [(0.0, 0.0)] + [
            (r * math.cos(a), r * math.sin(a))
            for r in (14, 22, 32, 44)
            for a in (k * math.pi / 4 for k in range(8))
        ]

        def around(dx: float, dy: float, x: float = x, y: float = y, half: float = half) -> Rect:
            return (x + dx - half, y + dy - 12, x + dx + half, y + dy + 4)

        dx, dy = next((t for t in tries if not meets(around(*t), taken)), (0.0, 0.0))
        taken.append(around(dx, dy))
        found.append((x + dx, y + dy))
    return found
