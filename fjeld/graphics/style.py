"""How each kind of thing in a drawing looks: its token, and the colours that tokens name.

A shape carries tokens as its class. The style sheet of the pages is written from this table
(:func:`style_sheet`), and the PDF writer reads it as it stands, so that a line is as wide and as
dashed on paper as on a screen. Widths, dashes and sizes are in pixels of the drawing.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import msgspec

Palette = dict[str, str]

#: Insulation in its true colours, the same on any ground.
INSULATION: Palette = {
    "insulation-black": "#16191B",
    "insulation-white": "#FBFAF6",
    "insulation-red": "#C6282B",
    "insulation-brown": "#7A4A24",
    "insulation-grey": "#8C9297",
    "insulation-orange": "#E07B1A",
    "insulation-blue": "#2357B4",
    "insulation-bare": "#B87333",
}

DAY: Palette = {
    "paper": "#F6F4EE",
    "panel": "#FFFFFF",
    "sunk": "#ECE8DD",
    "ink": "#1B2A30",
    "ink2": "#47565B",
    "ink3": "#57656B",
    "line": "#78847F",
    "hair": "#D9D5C8",
    "rowan": "#A0142A",
    "lichen": "#00746E",
    "fjord": "#163F8F",
    "glow": "#FFC35C",
    "on-lichen": "#FFFFFF",
    "halo": "#FFC35C",
    "wood": "#D8CDB4",
}

HEADLAMP: Palette = {
    "paper": "#17120D",
    "panel": "#211A13",
    "sunk": "#100C08",
    "ink": "#EADCC4",
    "ink2": "#BFAF95",
    "ink3": "#9A8B74",
    "line": "#7A6C58",
    "hair": "#352C22",
    "rowan": "#E8686A",
    "lichen": "#82CDD4",
    "fjord": "#5389DC",
    "glow": "#FFBE3C",
    "on-lichen": "#17120D",
    "halo": "#FFBE3C",
    "wood": "#4A3D2C",
}

#: On paper, by whatever printer: black lines, grounds in light grey.
PRINT: Palette = DAY | {
    "paper": "#FFFFFF",
    "panel": "#FFFFFF",
    "sunk": "#F1F1F1",
    "ink": "#000000",
    "ink2": "#333333",
    "ink3": "#444444",
    "line": "#666666",
    "hair": "#BBBBBB",
    "wood": "#DDDDDD",
}

#: Names that are no colour of a palette.
NO_COLOUR = ("none", "transparent")

#: The sizes of type of a drawing where its token says none, px.
PLAIN_SIZE = 16.0


class Style(msgspec.Struct, frozen=True, kw_only=True):
    """What a token says of a shape; what it leaves open, another of the shape's tokens may say.

    ``fill`` and ``stroke`` name a colour; ``halo`` is the width of a ground laid under letters, so that they
    can be read over lines.
    """

    fill: str | None = None
    stroke: str | None = None
    width: float | None = None
    dash: tuple[float, ...] | None = None
    cap: Literal["round", "square"] | None = None
    join: Literal["round"] | None = None
    opacity: float | None = None
    fill_opacity: float | None = None
    stroke_opacity: float | None = None
    size: float | None = None
    bold: bool | None = None
    title: bool | None = None
    anchor: Literal["start", "middle", "end"] | None = None
    halo: float | None = None


#: The tokens, by the classes that a shape must carry: ``symbol.lit`` is said of what is both.
TOKENS: dict[str, Style] = {
    "room-floor": Style(fill="panel"),
    "room-floor.beyond": Style(fill="paper"),
    "room-name.small": Style(size=12),
    "room-name": Style(title=True, size=16, fill="ink", halo=4),
    "on-floor": Style(fill="ink2", halo=4, join="round"),
    "strip-slope": Style(stroke="ink", width=2, fill="none"),
    "strip-body": Style(fill="sunk", fill_opacity=0.75, stroke="line", width=1),
    "strip-body.in-the-way": Style(dash=(4, 3), stroke="ink2"),
    "wall-asked": Style(stroke="lichen", width=2.5, dash=(7, 5)),
    "ghost-room": Style(fill="none", stroke="lichen", width=2.5, dash=(8, 5)),
    "key-ground": Style(fill="panel", stroke="line"),
    "key-room": Style(fill="sunk", stroke="ink2", width=1.25),
    "key-room.is-here": Style(fill="fjord"),
    "below": Style(fill="none", stroke="ink3", width=1.5, dash=(7, 5), opacity=0.8),
    "underlay": Style(fill="none", stroke="ink3", width=1, opacity=0.7),
    "underlay-hit": Style(stroke="transparent", width=12),
    "old-box": Style(fill="paper", stroke="ink", width=1.75, dash=(4, 2.5)),
    "old-box.is-selected": Style(stroke="fjord"),
    "body": Style(fill="paper", fill_opacity=0.4, stroke="line", width=1.25),
    "body.in-the-way": Style(fill="sunk", dash=(5, 3), stroke="ink2"),
    "body.is-selected": Style(stroke="fjord", width=3),
    "body-cross": Style(stroke="line", width=0.75, dash=(5, 3)),
    "wall-band": Style(fill="sunk"),
    "face-hit": Style(stroke="transparent", width=12),
    "face-hit.is-selected": Style(stroke="fjord", width=5),
    "wall-face": Style(fill="none", stroke="ink", width=2.25, cap="square"),
    "stud": Style(fill="wood", stroke="line", width=0.6),
    "joist": Style(fill="sunk", stroke="hair", width=1, opacity=0.75),
    "opening-gap": Style(fill="panel"),
    "glass": Style(stroke="ink", width=1.25),
    "jamb": Style(stroke="ink", width=2),
    "swing": Style(fill="none", stroke="line", width=1, dash=(4, 3)),
    "leaf": Style(stroke="ink", width=2),
    "dim": Style(stroke="ink3", width=1),
    "measure": Style(fill="ink2", size=14),
    "figure-text": Style(fill="ink", size=20, bold=True, halo=5, join="round"),
    "label": Style(size=13, fill="ink"),
    "label.muted": Style(fill="ink2"),
    "danger-text": Style(fill="rowan", bold=True),
    "handle": Style(size=14, bold=True, fill="ink", halo=4, join="round"),
    "cable-label": Style(size=13, bold=True, fill="ink2", halo=4, join="round"),
    "cable-label.chosen": Style(fill="fjord"),
    "symbol": Style(fill="panel", stroke="ink", width=2.5),
    "symbol.lit": Style(fill="glow"),
    "symbol-line": Style(stroke="ink", width=2.25, cap="round"),
    "symbol-letter": Style(size=17, bold=True, fill="ink", halo=3),
    "symbol-ways": Style(size=12),
    "symbol-small": Style(size=11, bold=True, fill="ink"),
    "stem": Style(stroke="ink", width=2),
    "hit": Style(fill="transparent"),
    "panel-box": Style(fill="panel", stroke="ink", width=2.5),
    "panel-half": Style(fill="ink"),
    "halo": Style(fill="halo", opacity=0.35),
    "ray": Style(stroke="ink", width=2, cap="round"),
    "selected-ring": Style(fill="none", stroke="fjord", width=3),
    "dot": Style(fill="ink"),
    "dot.hollow": Style(fill="panel", stroke="ink", width=1.5),
    "quiet": Style(opacity=0.8),
    "danger-mark": Style(fill="none", stroke="rowan", width=2.5),
    "ghost": Style(fill="none", stroke="lichen", width=2.5, dash=(5, 4)),
    "ghost-name": Style(size=14, bold=True, fill="lichen", halo=4, join="round"),
    "ghost-wall": Style(fill="none", stroke="lichen", width=3, dash=(7, 5)),
    "ghost-route": Style(fill="none", stroke="lichen", width=3, dash=(7, 5)),
    "pen": Style(fill="lichen"),
    "pen-start": Style(fill="none", stroke="ink", width=2),
    "way-back": Style(stroke="ink3", width=1.5, dash=(3, 5)),
    "link": Style(fill="none", stroke="ink", width=1.75, dash=(7, 4)),
    "link.faint": Style(opacity=0.25),
    "route": Style(fill="none", stroke="ink", width=2.5, join="round"),
    "route.chosen": Style(stroke="fjord", width=4),
    "route.hairline": Style(stroke="line", width=1.1),
    "route-edge": Style(fill="none", stroke="panel", width=5.5, join="round"),
    "hole": Style(fill="panel", stroke="ink", width=1.25),
    "glow": Style(fill="none", stroke="glow", width=9, cap="round", join="round", opacity=0.9),
    "chevron": Style(fill="none", stroke="ink", width=1.75),
    "plate": Style(fill="panel", stroke="ink", width=2),
    "leader": Style(stroke="ink3", width=1, dash=(2, 2)),
    "breaker-name": Style(size=13, bold=True, fill="ink", anchor="middle"),
    "rocker": Style(fill="sunk", stroke="line", width=1),
    "rocker-in": Style(fill="ink2"),
    "rocker-bar": Style(stroke="panel", width=2),
    "drag-line": Style(stroke="fjord", width=1.5, dash=(4, 3)),
    "unsure": Style(fill="wood", opacity=0.35),
    "span": Style(fill="fjord"),
    "old-joint": Style(stroke="ink", width=6, cap="round"),
    "old-tail": Style(stroke="ink", width=3),
    "strip-box.wished": Style(dash=(5, 4)),
    "pair-cell": Style(fill="panel", stroke="line", width=1.25),
    "pair-cell.in-hand": Style(stroke="fjord", width=3),
    "pair-cell.is-read": Style(fill="paper"),
    "pair-dead": Style(stroke="ink", width=3),
    "pair-live": Style(fill="rowan"),
    "pair-ghost": Style(fill="none", stroke="ink2", width=2.5, dash=(3, 2)),
    "lamp-lit": Style(fill="glow", stroke="ink", width=2),
    "lamp-dark": Style(fill="panel", stroke="ink", width=2),
    "cut-line": Style(stroke="ink2", width=2, fill="none"),
    "cable-way": Style(fill="none", stroke="fjord", width=4, join="round"),
    "bored": Style(fill="panel", stroke="ink", width=2.5),
    "opened": Style(fill="none", stroke="ink", width=2, dash=(4, 3)),
    "not-found": Style(stroke="ink3", width=2, dash=(5, 4)),
    "strip-wall": Style(fill="panel"),
    "strip-stud": Style(fill="wood", opacity=0.8),
    "strip-edge": Style(fill="none", stroke="ink2", width=1.25),
    "strip-door": Style(fill="paper", stroke="ink2", width=1.25),
    "strip-cased": Style(fill="paper", stroke="ink2", width=1.25),
    "strip-window": Style(fill="paper", stroke="ink2", width=1.25),
    "strip-sliding": Style(fill="paper", stroke="ink2", width=1.25),
    "strip-box": Style(fill="panel", stroke="ink", width=2),
    "strip-box.clash": Style(stroke="rowan", dash=(3, 2)),
    "strip-box.is-selected": Style(stroke="fjord", width=3),
    "strip-height": Style(size=14, bold=True, fill="fjord", halo=4, join="round"),
    "lux": Style(size=12, fill="ink", anchor="middle", halo=3, stroke_opacity=0.7),
    "darkest": Style(fill="none", stroke="ink", width=2, dash=(3, 2)),
    "lux-dark": Style(halo=4),
    "tape": Style(stroke="ink", width=1.25),
    "tape-datum": Style(fill="ink"),
    "tape-reading": Style(size=15, bold=True, fill="ink", anchor="middle"),
    "reach-outlet": Style(fill="panel", stroke="ink", width=2),
    "reach-solid": Style(stroke="ink", width=4, fill="none"),
    "reach-short": Style(stroke="rowan", width=6, dash=(7, 5), fill="none"),
    "box-body": Style(fill="panel", stroke="ink", width=2.5),
    "sheath": Style(fill="wood", stroke="ink", width=1.75),
    "shelf": Style(stroke="hair", width=2),
    "shelf-name": Style(size=12, fill="ink2", halo=4, join="round"),
    "wire-outline": Style(fill="none", stroke="ink", width=7),
    "wire": Style(fill="none", width=4.5),
    "wire-black": Style(stroke="insulation-black"),
    "wire-white": Style(stroke="insulation-white"),
    "wire-red": Style(stroke="insulation-red"),
    "wire-brown": Style(stroke="insulation-brown"),
    "wire-grey": Style(stroke="insulation-grey"),
    "wire-orange": Style(stroke="insulation-orange"),
    "wire-blue": Style(stroke="insulation-blue"),
    "wire-bare": Style(stroke="insulation-bare"),
    "wire-off": Style(stroke="hair"),
    "wire-unseen": Style(stroke="hair", dash=(3, 4)),
    "wire-mark": Style(fill="none", width=4.5, dash=(7, 9)),
    "wire-current": Style(fill="none", stroke="fjord", width=13, opacity=0.55),
    "connector": Style(fill="sunk", stroke="ink", width=2),
    "terminal": Style(fill="sunk", stroke="ink", width=2),
    "cap": Style(fill="sunk", stroke="ink", width=2, dash=(3, 2)),
    "connector.current": Style(stroke="fjord", width=3.5),
    "terminal.current": Style(stroke="fjord", width=3.5),
    "cap.current": Style(stroke="fjord", width=3.5),
    "code-ground": Style(fill="panel", stroke="hair", width=1),
    "device": Style(fill="paper", stroke="ink", width=2),
    "slot": Style(stroke="ink", width=1.5),
    "lead-end": Style(fill="panel", stroke="ink", width=1.75),
    "joint-words": Style(halo=4, join="round"),
    "allowance.a3": Style(fill="sunk"),
    "conductor-code": Style(size=11, bold=True, fill="ink"),
    "allowance": Style(stroke="ink", width=1.25, fill="ink3"),
    "allowance.a1": Style(fill="line"),
    "allowance.a2": Style(fill="hair"),
    "reserve": Style(fill="none", stroke="ink2", width=1.5, dash=(4, 4)),
    "volume-line": Style(stroke="lichen", width=3.5),
    "volume-line.over": Style(stroke="rowan", dash=(8, 4)),
    "figure-text.over": Style(fill="rowan"),
    "cut-piece": Style(fill="sunk", stroke="ink", width=1.5),
    "cut-left": Style(fill="none", stroke="line", width=1.5, dash=(5, 4)),
    "elsewhere": Style(halo=4),
}


def style_of(classes: str) -> Style:
    """What the tokens of a shape say together: of more classes over fewer, later over earlier."""
    mine = set(classes.split())
    said = [
        (key.count("."), n, s) for n, (key, s) in enumerate(TOKENS.items()) if mine.issuperset(key.split("."))
    ]
    merged: dict[str, object] = {}
    for _, _, style in sorted(said, key=lambda found: found[:2]):
        merged |= {name: v for name, v in msgspec.structs.asdict(style).items() if v is not None}
    return msgspec.convert(merged, Style)


def style_sheet() -> str:
    """The palettes and the tokens as CSS, colours by their names."""
    parts = ["/* Written from fjeld/graphics/style.py. */"]
    parts.append(_block(":root", {**DAY, **INSULATION}, "color-scheme: light;"))
    parts.append(_block('[data-theme="headlamp"]', HEADLAMP, "color-scheme: dark;"))
    printed = {name: colour for name, colour in PRINT.items() if DAY[name] != colour}
    parts.append("@media print {\n" + _block(':root, [data-theme="headlamp"]', printed) + "\n}")
    rules = "\n".join(f"  .{key} {{ {' '.join(_declared(style))} }}" for key, style in TOKENS.items())
    parts.append("@layer components {\n" + rules + "\n}")
    return "\n".join(parts) + "\n"


def _block(selector: str, palette: Palette, more: str = "") -> str:
    names = " ".join(f"--{name}: {colour};" for name, colour in palette.items())
    return f"{selector} {{ {names} {more} }}".replace("  }", " }")


def _declared(style: Style) -> Iterator[str]:
    """A token's declarations."""
    for name in ("fill", "stroke"):
        colour = getattr(style, name)
        if colour is not None:
            yield f"{name}: {colour if colour in NO_COLOUR else f'var(--{colour})'};"
    if style.halo is not None:
        yield f"paint-order: stroke; stroke: var(--panel); stroke-width: {style.halo:g}px;"
    if style.title:
        yield "font-family: var(--font-title); font-weight: 600;"
    elif style.bold:
        yield "font-weight: 700;"
    if style.size is not None:
        yield f"font-size: {style.size:g}px;"
    if style.dash is not None:
        yield f"stroke-dasharray: {' '.join(f'{d:g}' for d in style.dash)};"
    plain = {
        "stroke-width": style.width,
        "stroke-linecap": style.cap,
        "stroke-linejoin": style.join,
        "opacity": style.opacity,
        "fill-opacity": style.fill_opacity,
        "stroke-opacity": style.stroke_opacity,
        "text-anchor": style.anchor,
    }
    for name, value in plain.items():
        if value is not None:
            yield f"{name}: {value if isinstance(value, str) else f'{value:g}'};"


if __name__ == "__main__":
    print(style_sheet(), end="")
