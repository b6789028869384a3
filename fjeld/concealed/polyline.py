"""A way as a line in a section of the house."""

from __future__ import annotations

from fjeld.concealed.ground import Ground
from fjeld.concealed.routes import BEHIND, CORNER, OVER, SOURCE, SPOT, UNDER, ConcealedRoute
from fjeld.drawing.errand import length_of
from fjeld.practice import rules

#: What is drawn where nothing was measured: from place to place, to the ceiling, a box on a wall, mm.
LIKELY_ACROSS, LIKELY_CEILING, LIKELY_HEIGHT = 3000.0, 2400.0, 1200.0


def polyline(route: ConcealedRoute, ground: Ground) -> tuple[tuple[float, float], ...]:
    """The route in a section, mm along and up from the floor at the source, turning square; what is not
    measured as it usually is.

    A box in a ceiling stands at the top of the plates, where its cable comes down to it.
    """
    across, ceiling = (
        length_of(ground.errand.way.across) or LIKELY_ACROSS,
        length_of(ground.errand.way.ceiling) or LIKELY_CEILING,
    )
    plates = length_of(ground.errand.way.plates) or ground.practice[rules.TOP_PLATES]
    up, down = ceiling + plates, -ground.practice[rules.FLOOR_PLATE]
    ends = [_end(ground, end, ceiling, up, route) for end in (0, 1)]
    corner = (0.0 if ground.on_wall[0] else across, up)
    at = {SOURCE: (0.0, ends[0]), BEHIND: (across, ends[1]), SPOT: (across, ends[1]), CORNER: corner}
    at |= {OVER[0]: (0.0, up), OVER[1]: (across, up), UNDER[0]: (0.0, down), UNDER[1]: (across, down)}
    here, points = SOURCE, [at[SOURCE]]
    for leg in route.legs:
        there = leg.b if leg.a == here else leg.a
        points += [*_turns(leg.way.id, at[here], at[there], ground, up), at[there]]
        here = there
    return tuple(p for n, p in enumerate(points) if n == 0 or p != points[n - 1])


def _end(ground: Ground, end: int, ceiling: float, up: float, route: ConcealedRoute) -> float:
    if ground.on_wall[end]:
        height = ground.heights[end]
        return LIKELY_HEIGHT if height is None else height
    # On the surface it comes to the ceiling itself.
    return ceiling if any(leg.way.id in ("P12", "P13") for leg in route.legs) else up


def _turns(
    way: str, a: tuple[float, float], b: tuple[float, float], ground: Ground, up: float
) -> list[tuple[float, float]]:
    """Where a way turns between two places: at the foot of the wall, over its corner, or level and then up or
    down.
    """
    if way == "P6":
        return [(a[0], 0.0), (b[0], 0.0)]
    if way == "P7":
        return [(a[0] if ground.on_wall[0] else b[0], up)]
    return [(b[0], a[1])] if a[0] != b[0] and a[1] != b[1] else []
