"""What a box needs as a column: one block an allowance, its volume a line across, the reserve in outline."""

from __future__ import annotations

from fjeld.graphics.shapes import Shape, line, rect, text
from fjeld.quantities import Working

#: Words of a sum, as short as a column takes.
SHORT = (("conductors", "wires"), ("grounds", "grounds"), ("yoke", "device"), ("clamps", "clamps"))


def column(
    needs: Working,
    holds: float,
    over: bool,
    x: float,
    thick: float,
    top: float,
    bottom: float,
    *,
    words: bool,
    reserved: float = 0.0,
    most: float = 0.0,
) -> list[Shape | None]:
    """The column between ``top`` and ``bottom``; ``most`` is what its height stands for, ``holds`` 0 where
    nobody has read it.
    """
    scale = (most or max(holds, reserved, needs.total)) * 1.04 or 1.0

    def px(volume: float) -> float:
        return bottom - (bottom - top) * volume / scale

    parts: list[Shape | None] = []
    at = 0.0
    for n, row in enumerate(needs.lines):
        start = at
        blocks = max(1, round(row.count))
        for _ in range(blocks):
            each = row.amount / blocks
            parts.append(rect(x, px(at + each), thick, px(at) - px(at + each), f"allowance a{n % 4}"))
            at += each
        if words:
            word = next((short for long, short in SHORT if long in row.what), row.what)
            parts.append(text(x + thick + 8, (px(start) + px(at)) / 2 + 4.5, word, "label muted", "start"))
    if reserved > at:
        parts.append(rect(x, px(reserved), thick, px(at) - px(reserved), "reserve"))
    if holds:
        # A box whose volume nobody has read has no line to stay below.
        parts.append(
            line(x - 7, px(holds), x + thick + 7, px(holds), f"volume-line{' over' if over else ''}")
        )
    return parts
