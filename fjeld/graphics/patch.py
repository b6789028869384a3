"""A patch of wall or ceiling before it is cut: a tape along its edge, members as wide as they are uncertain,
and where the middle may be.
"""

from __future__ import annotations

import math

import msgspec

from fjeld.graphics.shapes import Shape, line, rect, shape, text
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import FOOT, INCH, Unit, format_length

WIDE, HIGH, TOP, FOOT_LINE, SIDE = 420.0, 268.0, 44.0, 206.0, 30.0
#: A stud's face is so wide, mm.
STUD = 1.5 * INCH


class Patch(msgspec.Struct, frozen=True):
    """What is known of a place, mm along one tape: faces of its members, to within how much each is known,
    the span, and where the middle goes.
    """

    box: OldWorkBox
    unit: Unit
    left: float | None = None
    left_sure: float = 0.0
    right: float | None = None
    right_sure: float = 0.0
    low: float | None = None
    high: float | None = None
    at: float | None = None
    up: str = ""
    ceiling: bool = False


class _Along:
    """Millimetres along the tape, to pixels."""

    def __init__(self, patch: Patch) -> None:
        bay = 14.5 * INCH
        known = [v for v in (patch.left, patch.right, patch.low, patch.high, patch.at) if v is not None]
        low = (
            patch.left
            if patch.left is not None
            else min([*known, *([patch.right - bay] if patch.right is not None else [])], default=0.0)
        )
        high = patch.right if patch.right is not None else max([*known, low + bay])
        margin = STUD + 4 * INCH
        self.low, self.high = low - margin, max(high, low + patch.box.cut[0]) + margin
        self.k = (WIDE - 2 * SIDE) / (self.high - self.low)

    def x(self, at: float) -> float:
        return SIDE + (at - self.low) * self.k


def patch(known: Patch, cls: str = "patch") -> Shape:
    """The drawing."""
    along = _Along(known)
    parts: list[Shape | None] = [rect(SIDE, TOP, WIDE - 2 * SIDE, FOOT_LINE - TOP, "strip-wall")]
    parts += _tape(along, known.unit)
    parts += _member(along, known.left, known.left_sure, True)
    parts += _member(along, known.right, known.right_sure, False)
    middle = (TOP + FOOT_LINE) / 2
    if known.low is not None and known.high is not None:
        wide = max((known.high - known.low) * along.k, 3.0)
        parts.append(rect(along.x(known.low), middle - 3, wide, 6, "span"))
    parts += _limits(along, known)
    parts.append(_box(along, known, middle))
    words = "The ceiling from below" if known.ceiling else "The wall"
    label = f"{words}, with its members and where the middle of the box may be"
    return shape("svg", *parts, cls=cls, viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", aria_label=label)


def _box(along: _Along, known: Patch, middle: float) -> Shape | None:
    """The cut-out where its middle goes; in broken outline in the middle of the span while nobody has said.
    It can be slid.
    """
    told, both = known.at, known.low is not None and known.high is not None
    if told is None and not both:
        return None
    at = told if told is not None else ((known.low or 0.0) + (known.high or 0.0)) / 2
    w, h = known.box.cut[0] * along.k, min(known.box.cut[1] * along.k, FOOT_LINE - TOP - 12)
    x = along.x(at)
    return shape(
        "g",
        rect(
            x - w / 2,
            middle - h / 2,
            width=w,
            height=h,
            cls="strip-box" if told is not None else "strip-box wished",
            rx=w / 2 if known.ceiling else 2.0,
        ),
        line(x - 6, middle, x + 6, middle, "tape"),
        line(x, middle - 6, x, middle + 6, "tape"),
        line(x, TOP, x, middle - h / 2, "tape"),
        text(x, middle + h / 2 + 18, known.up, "strip-height") if known.up else None,
        cls="slides",
        data_k=f"{along.k:.6f}",
        data_at=f"{at:.3f}",
    )


def _tape(along: _Along, unit: Unit) -> list[Shape | None]:
    """A tape along the top edge, with a mark at each foot or each 100 mm and a smaller one between."""
    step, small = (100.0, 50.0) if unit == "mm" else (FOOT, FOOT / 4)
    if (along.high - along.low) / step > 14:
        step, small = step * 5, step
    parts: list[Shape | None] = [line(SIDE, TOP, WIDE - SIDE, TOP, "tape")]
    for n in range(math.ceil(along.low / small), math.floor(along.high / small) + 1):
        at, long = n * small, abs(n * small / step - round(n * small / step)) < 1e-6
        parts.append(line(along.x(at), TOP, along.x(at), TOP - (10 if long else 5), "tape"))
        if long and SIDE + 8 < along.x(at) < WIDE - SIDE - 8:
            words = f"{at:g}" if unit == "mm" else format_length(at, unit)
            parts.append(text(along.x(at), TOP - 14, words, "label muted"))
    return parts


def _member(along: _Along, face: float | None, sure: float, left: bool) -> list[Shape | None]:
    """A member with the band that its face may stand in, or a question where none is known."""
    if face is None:
        x = SIDE + 14 if left else WIDE - SIDE - 14
        return [
            line(x, TOP, x, FOOT_LINE, "not-found"),
            text(x + (12 if left else -12), (TOP + FOOT_LINE) / 2 + 5, "?", "lead"),
        ]
    start = face - STUD if left else face
    parts: list[Shape | None] = [rect(along.x(start), TOP, STUD * along.k, FOOT_LINE - TOP, "strip-stud")]
    if sure:
        parts.append(rect(along.x(face - sure), TOP, 2 * sure * along.k, FOOT_LINE - TOP, "unsure"))
    return parts


def _limits(along: _Along, known: Patch) -> list[Shape | None]:
    """The two ends of the span below the surface, on two lines where they would run into each other."""
    ends = [(v, words) for v, words in ((known.low, "from"), (known.high, "to")) if v is not None]
    close = len(ends) == 2 and (ends[1][0] - ends[0][0]) * along.k < 110
    parts: list[Shape | None] = []
    for n, (at, words) in enumerate(ends):
        x, y = along.x(at), FOOT_LINE + 22 + (22 if close and n else 0)
        parts.append(line(x, (TOP + FOOT_LINE) / 2, x, y - 14, "tape"))
        parts.append(
            text(
                min(max(x, SIDE + 24), WIDE - SIDE - 24),
                y,
                f"{words} {format_length(at, known.unit, 32)}",
                "strip-height",
            )
        )
    return parts
