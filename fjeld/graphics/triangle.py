"""A dead test as a triangle of pairs: every node against every other, each cell what was read there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

from fjeld.graphics.shapes import Shape, line, path, shape, text
from fjeld.judge.work import read_pair
from fjeld.practice import Practice

CELL = 44.0
#: Letters that a node's name has room for.
ROOM = 26


def node_words(name: str, practice: Practice) -> str:
    """A node, or a pair of them, in the words of the practice."""
    return name.replace("grounds", f"{practice.word('ground')}s")


def triangle(nodes: Sequence[str], read: Mapping[str, Sequence[float]], practice: Practice) -> Shape:
    """The triangle: a stroke for dead, a wave for induced, a filled mark for live, nothing where nobody has
    read.
    """
    n = len(nodes)
    names = 7.4 * min(max(len(name) for name in nodes), ROOM) + 16
    wide, high = names + CELL * (n - 1) + 10, CELL * n + 10
    parts: list[Shape | None] = []
    number = {pair: k for k, pair in enumerate(combinations(range(n), 2))}
    done = 0
    for row, name in enumerate(nodes):
        y = 5 + CELL * row
        parts.append(
            text(
                names + CELL * row + (8 if row else 0),
                y + CELL / 2 + 5,
                _short(node_words(name, practice)),
                "label",
                "start",
            )
            if row == 0
            else text(names - 8, y + CELL / 2 + 5, _short(node_words(name, practice)), "label", "end")
        )
        for column in range(row):
            x = names + CELL * column
            value = _read(read, nodes[column], name)
            pair = number[column, row]
            parts.append(shape("rect", x=x, y=y, width=CELL, height=CELL, cls="pair-cell", data_pair=pair))
            if value is not None:
                done += 1
                parts += _mark(x, y, value)
            else:
                parts.append(
                    shape(
                        "text",
                        x=x + CELL / 2,
                        y=y + CELL / 2 + 5,
                        cls="label",
                        text_anchor="middle",
                        data_written=pair,
                    )
                )
        if 0 < row < n - 1:
            parts.append(
                text(
                    names + CELL * row + 8,
                    y + CELL / 2 + 5,
                    _short(node_words(name, practice)),
                    "label muted",
                    "start",
                )
            )
    total = n * (n - 1) // 2
    label = f"{done} of {total} pairs read"
    return shape(
        "svg",
        *parts,
        cls="patch",
        viewBox=f"0 0 {max(wide, names + CELL * (n - 1) + 60):.0f} {high:.0f}",
        role="img",
        aria_label=label,
    )


def _short(name: str) -> str:
    return name if len(name) <= ROOM else f"{name[: ROOM - 1]}…"


def _read(read: Mapping[str, Sequence[float]], a: str, b: str) -> tuple[float, float] | None:
    value = read.get(f"{a} / {b}") or read.get(f"{b} / {a}")
    return (float(value[0]), float(value[1])) if value else None


def _mark(x: float, y: float, value: tuple[float, float]) -> list[Shape | None]:
    """What was read, as a shape and not as a colour."""
    tone = read_pair("", *value).tone
    cx, cy = x + CELL / 2, y + CELL / 2
    if tone == "passes":
        return [line(cx - 9, cy, cx + 9, cy, "pair-dead")]
    if tone == "danger":
        return [path([(cx, cy - 10), (cx + 11, cy + 9), (cx - 11, cy + 9)], "pair-live", close=True)]
    return [path([(cx - 12, cy), (cx - 6, cy - 6), (cx, cy), (cx + 6, cy + 6), (cx + 12, cy)], "pair-ghost")]
