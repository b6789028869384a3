"""A bay drawn from the front: its members with what is uncertain of their edges, and where the middle of a box may be."""

from __future__ import annotations

from fjeld.finished.answer import Answer
from fjeld.finished.spot import FOUND_BY, SpotAsked, box_of
from fjeld.formats.sheet import Shape, line, rect, shape, svg, text
from fjeld.practice import Practice
from fjeld.practice.finished import habits
from fjeld.quantities import Unit, format_length

WIDE, HIGH, SIDE = 420.0, 190.0, 44.0


def bay(asked: SpotAsked, answer: Answer, practice: Practice) -> str:
    """The drawing as SVG; empty where no edge is known."""
    known = {f.name: f.value for f in answer.figures}
    left = asked.left.mm if asked.left else asked.door.mm if asked.door else None
    right = asked.right.mm if asked.right else None
    edges = [
        e
        for e in (left, right, known.get("from"), known.get("to"), asked.wished.mm if asked.wished else None)
        if e is not None
    ]
    if left is None and right is None:
        return ""
    box = box_of(habits(practice.id), asked.box)
    low, high = min(edges) - box.body[0] / 2, max(edges) + box.body[0] / 2
    k = (WIDE - 2 * SIDE) / max(high - low, 1.0)

    def x(at: float) -> float:
        return SIDE + (at - low) * k

    unit: Unit = "mm" if practice.metric else "ft-in"
    parts: list[Shape | None] = [rect(0, 20, WIDE, 120, "strip-wall")]
    if left is not None:
        face = left + (habits(practice.id).jamb_wood if asked.door else 0.0)
        parts.append(rect(max(x(face) - 40, 0), 20, min(40.0, x(face)), 120, "strip-stud"))
        parts.append(rect(x(face), 20, FOUND_BY[asked.left_by] * k, 120, "unsure"))
    if right is not None:
        parts.append(rect(x(right), 20, 40, 120, "strip-stud"))
        parts.append(
            rect(x(right) - FOUND_BY[asked.right_by] * k, 20, FOUND_BY[asked.right_by] * k, 120, "unsure")
        )
    first, last = known.get("from"), known.get("to")
    if first is not None and last is not None and first <= last:
        parts.append(rect(x(first), 74, max((last - first) * k, 2.0), 12, "span"))
    for at, level in ((first, 162.0), (last, 182.0)):
        if at is not None:
            parts += [
                line(x(at), 68, x(at), level - 14, "tape"),
                text(x(at), level, format_length(at, unit, 32), "strip-height"),
            ]
    at = asked.wished.mm if asked.wished and not answer.fails else first
    if at is not None:
        wide, tall = box.body[0] * k, box.body[1] * k
        parts.append(rect(x(at) - wide / 2, max(80 - tall / 2, 24), wide, min(tall, 112), "strip-box"))
    return svg(
        shape(
            "svg",
            *parts,
            cls="block w-full",
            viewBox=f"0 0 {WIDE:.0f} {HIGH:.0f}",
            role="img",
            aria_label="The bay, with the span for the middle of the box",
        )
    )
