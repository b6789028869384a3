"""The trade symbols on the floor: lights, switches, outlets, fans, alarms, junctions, the panel."""

from __future__ import annotations

import math
from collections.abc import Callable

import msgspec

from fjeld.graphics.shapes import Shape, circle, group, line, path, shape, text

Px = tuple[float, float]

#: How far from the wall's face a box's symbol stands, px.
STAND_OFF = 17.0


def selectable(handle: str, words: str, *parts: Shape | None, extra: str = "") -> Shape:
    """A thing that can be chosen; its letters stand outside the link, whose name is read out instead."""
    hit = shape("title", text=words)
    letters = [
        p
        for p in parts
        if p and p.tag == "text" and dict(p.attributes).get("class", "").startswith("symbol-")
    ]
    rest = [p for p in parts if p not in letters]
    anchor = shape("a", hit, *rest, href=f"?sel={handle}", data_live="", aria_label=words)
    return group(f"f-{handle}", anchor, *letters, cls=f"thing {extra}".strip(), data_handle=handle)


def _mute(found: Shape) -> Shape:
    """A letter that is part of a symbol, not read out beside its name."""
    return msgspec.structs.replace(found, attributes=(*found.attributes, ("aria-hidden", "true")))


Parts = list[Shape | None]
#: Draws a symbol: the marks of its devices (ways of a switch), where, the wall's normal, the stem to the
#: wall, whether it is lit.
Symbol = Callable[[list[str], float, float, Px, Shape | None, bool], Parts]


def _light(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    parts: Parts = [stem]
    if lit:
        parts += [circle(x, y, 24, "halo"), *(_ray(x, y, k) for k in range(8))]
    return [*parts, circle(x, y, 11, "symbol lit" if lit else "symbol")]


def _ray(x: float, y: float, k: int) -> Shape:
    a = k * math.pi / 4
    return line(x + 14 * math.cos(a), y + 14 * math.sin(a), x + 19 * math.cos(a), y + 19 * math.sin(a), "ray")


def _switch(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    letters = [shape("tspan", text="S"), shape("tspan", text="".join(ways), dy=5, cls="symbol-ways")]
    if len(ways) > 1:
        letters.insert(0, shape("tspan", text=f"{len(ways)}"))
    return [
        stem,
        circle(x, y, 11, "hit"),
        shape("text", *letters, x=x, y=y + 6, cls="symbol-letter", text_anchor="middle", aria_hidden="true"),
    ]


def _outlet(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    t = (-n[1], n[0])
    lines = [
        line(
            x + t[0] * d - n[0] * 9,
            y + t[1] * d - n[1] * 9,
            x + t[0] * d + n[0] * 9,
            y + t[1] * d + n[1] * 9,
            "symbol-line",
        )
        for d in (-3, 3)
    ]
    # Beside it along the wall, what kind of outlet it is.
    marks = [_mute(text(x - t[0] * 19, y - t[1] * 19 + 4, mark, "symbol-small")) for mark in ways if mark]
    return [stem, circle(x, y, 9, "symbol"), *lines, *marks]


def _alarm(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    return [stem, circle(x, y, 11, "symbol"), _mute(text(x, y + 4, "SD", "symbol-small"))]


def _fan(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    blades = [
        shape("ellipse", cx=x, cy=y, rx=16.0, ry=4.5, cls="symbol", transform=f"rotate({a} {x:.1f} {y:.1f})")
        for a in (45, 135)
    ]
    return [stem, *blades, circle(x, y, 5, "symbol lit" if lit else "symbol")]


def _junction(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    return [stem, circle(x, y, 10, "symbol"), _mute(text(x, y + 5, "J", "symbol-small"))]


def _panel(ways: list[str], x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    bx, by = x - n[0] * STAND_OFF, y - n[1] * STAND_OFF
    t = (-n[1], n[0])
    half, deep = 16.0, 9.0
    near = [(bx + t[0] * s * half, by + t[1] * s * half) for s in (-1, 1)]
    far = [(px + n[0] * deep, py + n[1] * deep) for px, py in reversed(near)]
    return [
        path([*near, *far], "panel-box", close=True),
        path([near[0], near[1], far[0]], "panel-half", close=True),
    ]


SYMBOLS: dict[str, Symbol] = {
    "light": _light,
    "switch": _switch,
    "outlet": _outlet,
    "alarm": _alarm,
    "fan": _fan,
    "junction": _junction,
    "blank": _junction,
    "panel": _panel,
}
