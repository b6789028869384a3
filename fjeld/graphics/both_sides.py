"""Where a hole comes out, drawn from both sides: what is met on both, the wall between, and the two tapes.
Not to scale.
"""

from __future__ import annotations

from fjeld.concealed.along import Detail, is_below
from fjeld.concealed.ground import Ground
from fjeld.concealed.plates import plate_of
from fjeld.drawing.errand import Plate, length_of
from fjeld.graphics.shapes import Shape, circle, line, rect, shape, text
from fjeld.quantities import Unit, format_length

WIDE, HIGH, BETWEEN = 320.0, 168.0, 84.0
#: Where what is met stands, the wall's face, how thick its board and how deep its wood are drawn.
MET, FACE, BOARD, WOOD = 40.0, 226.0, 8.0, 44.0
#: How far a pilot stands from the wall, and how much farther back a surface on the other side, as drawn.
PILOT, BACK = 44.0, 18.0


def both_sides(detail: Detail, ground: Ground, unit: Unit) -> Shape | None:
    """The drawing; nothing while a measure is missing."""
    if detail.measure != "transfer" or detail.answer is None or detail.end is None:
        return None
    plate, below = plate_of(ground, detail.end), is_below(detail.leg)
    # From above the room lies under the line, from below over it.
    room, other = (BETWEEN - 44, BETWEEN + 44) if below else (BETWEEN + 44, BETWEEN - 44)
    middle = FACE + BOARD + WOOD / 2
    start, far = _met(plate)
    parts: list[Shape | None] = [
        line(12, BETWEEN, WIDE - 12, BETWEEN, "cut-line"),
        *_wall(room),
        *_body(plate, room, other, start, far),
        rect(FACE + BOARD, min(BETWEEN, BETWEEN + (other - BETWEEN) / 4), WOOD, 11, "strip-stud"),
        circle(middle, BETWEEN + (5 if other > BETWEEN else -5), 5, "bored"),
        line(middle, BETWEEN, middle, other, "tape"),
    ]
    typed = plate.pilot if plate.met == "pilot" else plate.room
    parts += _tape(start, FACE, room, format_length(length_of(typed) or 0.0, unit), "in the room")
    parts += _tape(far, middle, other, format_length(detail.answer.figures[0].value, unit), "there")
    sides = "below" if below else "above"
    label = f"Both sides: in the room, and {sides}, with what is met on both and the middle of the wood"
    return shape(
        "svg", *parts, cls="patch", viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}", role="img", aria_label=label
    )


def _met(plate: Plate) -> tuple[float, float]:
    """Where the tapes begin, in the room and on the other side."""
    if plate.met == "pilot":
        return FACE - PILOT, FACE - PILOT
    back = BACK if plate.met == "surface" and length_of(plate.back) else 0.0
    return MET, MET - back


def _wall(room: float) -> list[Shape | None]:
    """The wall in the room: its board, and the bay behind it."""
    top, high = min(BETWEEN, room + (room - BETWEEN) * 0.8), abs(room - BETWEEN) * 1.8
    return [
        rect(FACE, top, BOARD, high, "strip-wall"),
        line(FACE, top, FACE, top + high, "cut-line"),
        line(FACE + BOARD, top, FACE + BOARD, top + high, "cut-line"),
    ]


def _body(plate: Plate, room: float, other: float, start: float, far: float) -> list[Shape | None]:
    """What is met on both sides: a surface farther back there, a pipe that goes through, a pilot."""
    if plate.met == "pilot":
        return [line(start, room, start, other, "tape"), circle(start, BETWEEN, 4, "bored")]
    if plate.met == "middle":
        return [rect(start - 7, 6, 14, HIGH - 12, "strip-box")]
    low, high = (room, BETWEEN) if room < BETWEEN else (BETWEEN, room)
    return [
        rect(10, low - (32 if room < BETWEEN else 0), start - 10, high - low + 32, "strip-stud"),
        rect(
            10,
            (BETWEEN if room < BETWEEN else 6),
            max(far - 10, 4),
            HIGH - BETWEEN - 6 if room < BETWEEN else BETWEEN - 6,
            "strip-stud",
        ),
    ]


def _tape(a: float, b: float, y: float, words: str, where: str) -> list[Shape | None]:
    ticks = [line(x, y - 6, x, y + 6, "tape") for x in (a, b)]
    room = b - a > 120
    at = (a + b) / 2 if room else a - 8
    return [
        line(a, y, b, y, "tape"),
        *ticks,
        text(at, y - 8 if room else y + 5, f"{words} {where}", "strip-height", "middle" if room else "end"),
    ]
