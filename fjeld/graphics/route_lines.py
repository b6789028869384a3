"""A route in plan: within a wall's band where it runs in one, a little aside of its neighbours."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fjeld.derive.house import Wall
from fjeld.derive.routes import Leg
from fjeld.geometry import to_segment
from fjeld.graphics.labels import Px
from fjeld.graphics.projection import Projection

#: How far into a wall's band a route is drawn, in turn, so that those side by side are told apart.
_LANES = (0.28, 0.5, 0.72)


def route_points(to_px: Projection, legs: Sequence[Leg], walls: Sequence[Wall], n: int) -> list[Px]:
    """The corners of a route's line, px; none where nothing of it is in sight."""
    found: list[Px] = []
    for leg in legs:
        for point in _leg_points(to_px, leg, walls, n):
            if not found or math.dist(found[-1], point) > 0.8:
                found.append(point)
    return found if len(found) != 1 else [*found, *found]


def route_holes(to_px: Projection, legs: Sequence[Leg], walls: Sequence[Wall], n: int) -> list[Px]:
    """Where a route's studs and joists are bored, px."""
    found: list[Px] = []
    for leg in legs:
        if leg.medium != "plate" and leg.length:
            a, b = _leg_points(to_px, leg, walls, n)
            shares = [bore / leg.length for bore in leg.bores]
            found += [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for t in shares]
    return found


def _leg_points(to_px: Projection, leg: Leg, walls: Sequence[Wall], n: int) -> list[Px]:
    points = []
    for end in (leg.start, leg.end):
        x, y = to_px(end)
        if leg.medium in ("bored wall", "stud") and walls:
            half = ((leg.start[0] + leg.end[0]) / 2, (leg.start[1] + leg.end[1]) / 2)
            nx, ny = min(walls, key=lambda w: to_segment(half, w.start, w.end)).normal
            share = _LANES[n % len(_LANES)]
            x, y = x - nx * to_px.band * share, y - ny * to_px.band * share
        points.append((x, y))
    return points
