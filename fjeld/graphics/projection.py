"""From millimetres of the house to pixels of a sheet."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from fjeld.geometry import Point
from fjeld.graphics.labels import Px

MARGIN = 56.0


class Size(msgspec.Struct, frozen=True):
    """The sheet in pixels, and the kind of screen it is for."""

    width: int
    height: int
    screen: str = ""


DESK = Size(864, 430, "desk")
#: A tablet upright; on its side it has the desk's.
TABLET = Size(480, 640, "tablet")
PHONE = Size(390, 372, "phone")
SMALL = Size(280, 170)


class Projection(msgspec.Struct, frozen=True):
    """Millimetres of the house to pixels of the sheet."""

    scale: float
    left: float
    top: float
    band: float

    def __call__(self, point: Iterable[float]) -> Px:
        x, y, *_ = point
        return self.left + x * self.scale, self.top + y * self.scale


def projection(
    corners: Iterable[Point], size: Size, margin: float = MARGIN, header: float = 0.0
) -> Projection:
    """Fit what is to be seen into the sheet, below its header; without corners a sheet 5 m wide."""
    seen = list(corners)
    seen = seen if len(seen) > 1 else [(0.0, 0.0), (5000.0, 3000.0)]
    xs, ys = [c[0] for c in seen], [c[1] for c in seen]
    width, height = max(max(xs) - min(xs), 600.0), max(max(ys) - min(ys), 600.0)
    scale = min((size.width - 2 * margin) / width, (size.height - header - 2 * margin) / height)
    left = (size.width - width * scale) / 2 - min(xs) * scale
    top = header + (size.height - header - height * scale) / 2 - min(ys) * scale
    return Projection(scale, left, top, max(4.0, min(14.0, 120 * scale)))
