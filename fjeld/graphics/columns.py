"""Boxes before and after, side by side: what each needs against what it holds."""

from __future__ import annotations

from collections.abc import Sequence

from fjeld.errand.filled import Filled
from fjeld.graphics.fill_column import column
from fjeld.graphics.shapes import Shape, shape, text

EACH, HIGH, THICK = 130.0, 268.0, 52.0


def columns(boxes: Sequence[Filled]) -> Shape:
    """One column a box, all to one scale."""
    most = max([1.0, *(max(b.needs.total, b.holds or 0.0) for b in boxes)])
    parts: list[Shape | None] = []
    for n, box in enumerate(boxes):
        x = 14 + EACH * n
        over = " over" if box.over else ""
        parts.append(text(x + THICK / 2, 24, f"{box.needs.total:g}", f"figure-text{over}"))
        holds = f"{box.holds:g}" if box.holds is not None else "?"
        parts.append(text(x + THICK / 2, 44, f"of {holds} {box.unit}", "label muted"))
        parts += column(
            box.needs,
            box.holds or 0.0,
            over=box.over,
            x=x,
            thick=THICK,
            top=56,
            bottom=HIGH - 34,
            words=True,
            most=most,
        )
        parts.append(text(x, HIGH - 12, box.title, "label", "start"))
    label = "; ".join(
        f"{b.title}: {b.needs.total:g} of {'?' if b.holds is None else f'{b.holds:g}'} {b.unit}"
        for b in boxes
    )
    return shape(
        "svg",
        *parts,
        cls="patch",
        viewBox=f"0 0 {14 + EACH * max(len(boxes), 3):.0f} {HIGH:.0f}",
        role="img",
        aria_label=label,
    )
