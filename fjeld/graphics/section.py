"""The house cut open from the old box to the new place: floor, walls, ceiling, and the cable with its holes.
Not to one scale.
"""

from __future__ import annotations

from collections.abc import Sequence

from fjeld.concealed.along import STOPS, Detail, is_below
from fjeld.concealed.ground import Ground
from fjeld.concealed.polyline import polyline
from fjeld.concealed.routes import CORNER, OVER, UNDER, ConcealedLeg, ConcealedRoute
from fjeld.drawing.errand import length_of
from fjeld.graphics.shapes import Shape, circle, line, path, rect, shape, text
from fjeld.quantities import format_length

WIDE, HIGH, LEFT, RIGHT, CEILING, FLOOR = 420.0, 268.0, 84.0, 336.0, 84.0, 214.0
#: Members are drawn up to so many; more would run together.
MOST = 24


class _Scale:
    """Millimetres of the section, to pixels."""

    def __init__(self, route: ConcealedRoute, ground: Ground) -> None:
        self.points = polyline(route, ground)
        told = ground.errand.way
        self.ceiling = length_of(told.ceiling) or 2400.0
        self.across = max(x for x, _ in self.points) or 3000.0

    def x(self, at: float) -> float:
        return LEFT + (RIGHT - LEFT) * at / self.across

    def y(self, up: float) -> float:
        if up > self.ceiling + 1:
            return CEILING - 26.0
        return FLOOR + 22.0 if up < 0 else FLOOR - (FLOOR - CEILING) * up / self.ceiling


def section(route: ConcealedRoute, ground: Ground, measured: Sequence[Detail] = ()) -> Shape:
    """The section, with what was ``measured`` along the way."""
    at = _Scale(route, ground)
    errand = ground.errand
    parts: list[Shape | None] = [rect(24, CEILING, WIDE - 48, FLOOR - CEILING, "strip-wall")]
    parts += [
        line(24, FLOOR, WIDE - 24, FLOOR, "cut-line"),
        line(24, CEILING, WIDE - 24, CEILING, "cut-line"),
    ]
    parts.append(
        text(
            WIDE / 2,
            46,
            f"{ground.practice.word('attic')}, open" if errand.attic else "closed above",
            "label muted",
        )
    )
    parts.append(
        text(30, FLOOR + 44, "open below" if errand.below else "closed below", "label muted", "start")
    )
    if errand.attic:
        parts.append(path([(24, CEILING - 18), (WIDE / 2, 12), (WIDE - 24, CEILING - 18)], "cut-line"))
    for end, x in enumerate((at.x(0), at.x(at.across))):
        if ground.on_wall[end]:
            parts.append(rect(x - 6, CEILING, 12, FLOOR - CEILING, "strip-stud"))
    parts += _members(route, at)
    points = [(at.x(x), at.y(y)) for x, y in at.points]
    if not ground.on_wall[0]:
        points = [(points[0][0], CEILING), *points]
    if not ground.on_wall[1]:
        points = [*points, (points[-1][0], CEILING)]
    parts.append(path(points, "cable-way"))
    parts += [*_holes(route, at), *_figures(measured, at, ground)]
    for (x, y), words, above in (
        (points[0], "old box", ground.on_wall[0]),
        (points[-1], "new", ground.on_wall[1]),
    ):
        parts.append(rect(x - 9, y - 9, 18, 18, "strip-box"))
        parts.append(text(x, y + 26 if above else y + 24, words, "label"))
    label = f"The way in section: {', '.join(leg.way.name for leg in route.made) or 'nothing to be made'}"
    return shape(
        "svg", *parts, cls="patch", viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", aria_label=label
    )


def _members(route: ConcealedRoute, at: _Scale) -> list[Shape | None]:
    """The members that the way crosses, as many as were counted."""
    parts: list[Shape | None] = []
    for leg in route.made:
        if leg.counts not in ("studs", "joists") or not leg.count:
            continue
        n = min(leg.count, MOST)
        for k in range(n):
            x = at.x(at.across * (k + 1) / (n + 1))
            parts.append(
                rect(x - 3, CEILING - 14, 6, 14, "strip-stud")
                if leg.counts == "joists"
                else rect(x - 3, CEILING, 6, FLOOR - CEILING, "strip-stud")
            )
    return parts


def _holes(route: ConcealedRoute, at: _Scale) -> list[Shape | None]:
    """A ring where wood is bored, an open square where the surface is opened and patched."""
    parts: list[Shape | None] = []
    for leg in route.made:
        for x, y in _bored(leg, at):
            parts.append(circle(x, y, 6, "bored"))
        if leg.way.patches and leg.way.id not in ("P14",):
            x = at.x(at.across / 2) if leg.counts else at.x(0 if leg.a == "source" else at.across)
            parts.append(
                rect(x - 12, CEILING - 2 if leg.way.id != "P5" else (CEILING + FLOOR) / 2, 24, 12, "opened")
            )
    return parts


def _figures(measured: Sequence[Detail], at: _Scale, ground: Ground) -> list[Shape | None]:
    """Beside each hole where it comes out, from what it was measured from; and in a bay what a chain stopped
    at.
    """
    unit = ground.practice.unit
    parts: list[Shape | None] = []
    for d in measured:
        if d.end is None or d.answer is None:
            continue
        x, beside, anchor = (at.x(at.across), -12.0, "end") if d.end else (at.x(0), 12.0, "start")
        below = is_below(d.leg)
        up = next((f.value for f in d.answer.figures if f.name == STOPS), None)
        if d.measure == "transfer":
            y = FLOOR + 15 if below else CEILING - 7
            parts.append(text(x + beside, y, format_length(d.answer.figures[0].value, unit), "label", anchor))
        elif up is not None:
            parts.append(rect(x - 9, at.y(up) - 3, 18, 6, "strip-stud"))
            parts.append(
                text(x + beside, at.y(up) + 4, f"stops at {format_length(up, unit)}", "label", anchor)
            )
    return parts


def _bored(leg: ConcealedLeg, at: _Scale) -> list[tuple[float, float]]:
    if not leg.way.holes:
        return []
    nodes = {leg.a, leg.b}
    far = nodes & {OVER[1], UNDER[1]} or (CORNER in nodes and "source" not in nodes)
    x = at.x(at.across if far else 0.0)
    return [(x, FLOOR if nodes & {*UNDER} else CEILING)]
