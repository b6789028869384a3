"""Dimension lines: a stretch with its figure, which keeps clear of what is drawn there."""

from __future__ import annotations

import math

import msgspec

from fjeld.graphics.labels import Px, Rect, meets, overlap
from fjeld.graphics.shapes import Shape, line, shape, text

#: How much farther out a line may stand where its figure covers something, px.
FURTHER = (22.0, 44.0)


class Dimension(msgspec.Struct, frozen=True):
    """Where a dimension line and its figure go: ``room`` px half the figure's width, ``share`` of the way
    along.
    """

    start: Px
    end: Px
    away: Px
    off: float
    room: float
    share: float = 0.5
    beside: bool = False

    @property
    def tips(self) -> tuple[Px, Px]:
        ox, oy = self.away[0] * self.off, self.away[1] * self.off
        return (self.start[0] + ox, self.start[1] + oy), (self.end[0] + ox, self.end[1] + oy)

    @property
    def along(self) -> tuple[Px, float]:
        """Its direction and its length."""
        a, b = self.tips
        length = math.dist(a, b)
        return ((b[0] - a[0]) / length, (b[1] - a[1]) / length) if length else (1.0, 0.0), length

    @property
    def upright(self) -> bool:
        return abs(self.along[0][0]) < 0.5

    @property
    def spot(self) -> Px:
        """The middle of the figure's base line."""
        (ux, uy), length = self.along
        x, y = self.tips[0][0] + ux * length * self.share, self.tips[0][1] + uy * length * self.share
        # Beside a line that is too short to hold it.
        aside = 12.0 if length < 2 * self.room and not self.upright else 0.0
        aside = self.room + 6 if self.beside else aside
        return x + self.away[0] * aside, y + self.away[1] * aside + 5

    @property
    def covers(self) -> Rect:
        x, y = self.spot
        return x - self.room, y - 17, x + self.room, y + 5

    def elsewhere(self) -> list[Dimension]:
        """The same line with its figure elsewhere, the least far first."""
        shares = (0.36, 0.64, 0.24, 0.76) if self.along[1] > 2 * self.room or self.upright else ()
        besides = (False, True) if self.upright else (False,)
        places = [(share, beside) for beside in besides for share in (0.5, *shares)][1:]
        return [msgspec.structs.replace(self, share=share, beside=beside) for share, beside in places]

    def lines(self) -> list[Shape]:
        """Its two ends and what of the line the figure leaves."""
        (ux, uy), length = self.along
        gap = (9 if self.upright else self.room) if length > 2 * self.room or self.upright else length / 2
        gap = 0.0 if self.beside else gap
        a, b = self.tips
        found = []
        for tip, sign, reach in ((a, 1, self.share * length - gap), (b, -1, (1 - self.share) * length - gap)):
            ox, oy = self.away[0] * 5, self.away[1] * 5
            found.append(line(tip[0] - ox, tip[1] - oy, tip[0] + ox, tip[1] + oy, "dim"))
            reach = max(reach, 0.0)
            found.append(line(*tip, tip[0] + sign * ux * reach, tip[1] + sign * uy * reach, "dim"))
        return found


def dimension(
    start: Px,
    end: Px,
    away: Px,
    off: float,
    words: str,
    focus: str = "",
    cls: str = "",
    taken: list[Rect] | None = None,
) -> Shape:
    """A dimension line ``off`` px to the side ``away`` of a stretch; ``focus`` names the figure it opens.

    The figure stands in the middle. If it would cover what is ``taken``, it stands nearer to an end, beside
    the line, or the line on the other side or farther out, wherever it covers least; ``taken`` grows by it.
    """
    room = len(words) * (5.6 if "figure" in cls else 4.2) + 6
    best = Dimension(start, end, away, off, room)
    if taken is not None:
        tried = [
            place
            for out in (off, *(off + further for further in FURTHER))
            for side in (away, (-away[0], -away[1]))
            for there in [Dimension(start, end, side, out, room)]
            for place in (there, *there.elsewhere())
        ]
        free = (d for d in tried if not meets(d.covers, taken))
        least = min(tried, key=lambda d: round(sum(overlap(d.covers, t) for t in taken), 3))
        best = next(free, least)
        taken.append(best.covers)
    label = text(*best.spot, words, f"measure {cls}".strip())
    parts: list[Shape | None] = [*best.lines()]
    parts.append(shape("g", label, cls="figure", data_figure=focus) if focus else label)
    return shape("g", *parts)
