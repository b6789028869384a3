"""Finding room for words: places near where a label is wanted that nothing covers yet."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec

from fjeld.drawing.handles import Handle
from fjeld.geometry import contains, middle

Px = tuple[float, float]
Rect = tuple[float, float, float, float]


class RoomName(msgspec.Struct, frozen=True):
    """A room's name in lines and its area, written from ``at`` downwards; ``covers`` is what they cover."""

    room: Handle
    lines: tuple[str, ...]
    size: str
    at: Px
    covers: Rect
    small: bool = False


def meets(box: Rect, taken: list[Rect]) -> bool:
    """Whether a rectangle overlaps any of those taken."""
    return any(box[0] < t[2] and t[0] < box[2] and box[1] < t[3] and t[1] < box[3] for t in taken)


def free_place(at: Px, normal: Px, width: float, height: float, taken: list[Rect], scale: float = 1.0) -> Px:
    """A free middle for a thing of that size off a wall, the nearest of a fan of tries; ``taken`` grows.

    ``normal`` points away from the wall. If nothing is free, the first try.
    """
    along = (-normal[1], normal[0])
    tries = [
        (
            at[0] + (normal[0] * out + along[0] * aside) * scale,
            at[1] + (normal[1] * out + along[1] * aside) * scale,
        )
        for out in (40.0, 54.0, 70.0, 90.0)
        for aside in (0.0, 18.0, -18.0, 36.0, -36.0, 54.0, -54.0)
    ]

    def around(spot: Px) -> Rect:
        return (spot[0] - width / 2, spot[1] - height / 2, spot[0] + width / 2, spot[1] + height / 2)

    spot = next((t for t in tries if not meets(around(t), taken)), tries[0])
    taken.append(around(spot))
    return spot


def overlap(a: Rect, b: Rect) -> float:
    """How much of one rectangle another covers, px²."""
    wide, high = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    return wide * high if wide > 0 and high > 0 else 0.0


def clear_place(outline: Sequence[Px], width: float, height: float, taken: list[Rect]) -> Px | None:
    """The free middle nearest an outline's own for a block of words inside it; ``taken`` grows. None if there
    is none.
    """
    xs, ys = [p[0] for p in outline], [p[1] for p in outline]
    left, right = min(xs) + width / 2 + 2, max(xs) - width / 2 - 2
    top, bottom = min(ys) + height / 2 + 2, max(ys) - height / 2 - 2
    if right < left or bottom < top:
        return None
    home = middle(outline)
    near = [t for t in taken if meets((min(xs), min(ys), max(xs), max(ys)), [t])]
    tries = sorted(
        ((x, y) for x in _steps(left, right) for y in _steps(top, bottom)), key=lambda t: math.dist(t, home)
    )
    for x, y in tries:
        box = (x - width / 2, y - height / 2, x + width / 2, y + height / 2)
        corners = [(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]
        if not meets(box, near) and all(contains(outline, corner) for corner in corners):
            taken.append(box)
            return x, y
    return None


def _steps(low: float, high: float) -> list[float]:
    n = max(1, round((high - low) / 3))
    return [low + (high - low) * k / n for k in range(n + 1)]


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
