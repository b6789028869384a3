"""Doors with their swing, windows with their glass, sliding leaves: an opening in plan."""

from __future__ import annotations

import math

from fjeld.derive.house import Wall
from fjeld.drawing.building import Opening
from fjeld.drawing.handles import Handle
from fjeld.graphics.labels import Px
from fjeld.graphics.projection import Projection
from fjeld.graphics.shapes import Shape, line, path, shape, text
from fjeld.graphics.symbols import selectable
from fjeld.quantities import Unit, format_length


def opening_in(
    to_px: Projection, handle: Handle, opening: Opening, wall: Wall, unit: Unit, named: bool
) -> Shape:
    """One opening in its wall, to be chosen; ``named`` where there is room for its handle."""
    a, b = to_px(wall.at(opening.at.mm)), to_px(wall.at(opening.at.mm + opening.width.mm))
    nx, ny = wall.normal
    out = to_px.band
    gap = path(
        [a, b, (b[0] - nx * out, b[1] - ny * out), (a[0] - nx * out, a[1] - ny * out)],
        "opening-gap",
        close=True,
    )
    parts: list[Shape | None] = [gap]
    if opening.kind == "window":
        for share in (0.35, 0.65):
            d = out * share
            parts.append(line(a[0] - nx * d, a[1] - ny * d, b[0] - nx * d, b[1] - ny * d, "glass"))
    elif opening.kind == "door":
        parts += _swing(a, b, wall, opening)
    elif opening.kind == "sliding":
        half = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for (p, q), share in (((a, half), 0.35), ((half, b), 0.65)):
            d = out * share
            parts.append(line(p[0] - nx * d, p[1] - ny * d, q[0] - nx * d, q[1] - ny * d, "leaf"))
    for x, y in (a, b):
        parts.append(line(x, y, x - nx * out, y - ny * out, "jamb"))
    label = ((a[0] + b[0]) / 2 + nx * 16, (a[1] + b[1]) / 2 + ny * 13 + 4)
    if named:
        parts.append(text(*label, handle, "label on-floor"))
    width = format_length(opening.width.mm, unit)
    return selectable(handle, f"{opening.kind} {handle}, {width} wide", *parts)


def _swing(a: Px, b: Px, wall: Wall, opening: Opening) -> list[Shape]:
    hinge, latch = (a, b) if opening.hinge == "start" else (b, a)
    r = math.dist(a, b)
    way = 1.0 if opening.swing == "in" else -1.0
    leaf = (hinge[0] + way * wall.normal[0] * r, hinge[1] + way * wall.normal[1] * r)
    cross = (latch[0] - hinge[0]) * (leaf[1] - hinge[1]) - (latch[1] - hinge[1]) * (leaf[0] - hinge[0])
    sweep = 1 if cross > 0 else 0
    d = f"M{latch[0]:.1f} {latch[1]:.1f} A{r:.1f} {r:.1f} 0 0 {sweep} {leaf[0]:.1f} {leaf[1]:.1f}"
    return [shape("path", d=d, cls="swing"), line(*hinge, *leaf, "leaf")]
