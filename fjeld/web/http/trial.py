"""What an edit would do if it were taken: the plan after it, the differences in words, and in price."""

from __future__ import annotations

from typing import NamedTuple

from fjeld.derive.plan import Plan
from fjeld.drawing.changes import apply
from fjeld.drawing.edits import Edit
from fjeld.drawing.handles import Mint
from fjeld.drawing.naming import named
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape, circle, group, text
from fjeld.propose.attach import settle
from fjeld.web.http.view import View, planned
from fjeld.web.ui.consequence import Difference, consequence


class Trial(NamedTuple):
    """An edit tried on the drawing. ``cents`` is what the parts would cost more, below nought less."""

    words: str
    plan: Plan
    parts: list[Difference]
    cents: int


def tried(view: View, edit: Edit) -> Trial:
    """Try an edit without making it; raises what making it would raise."""
    mint = Mint(view.drawing.items, view.job.counters)
    meant: Edit = named(edit, mint)
    after = apply(view.drawing, settle(view.drawing, meant, mint))
    plan, findings = planned(after)
    cost = sum(m.total_cents for m in plan.materials) - sum(m.total_cents for m in view.plan.materials)
    return Trial(
        meant.words(view.drawing), plan, consequence(view.plan, plan, view.findings, findings, ""), cost
    )


def ghosts(view: View, floor: Floor, trial: Trial) -> Shape:
    """The boxes that would be new or elsewhere, in outline where they would be."""
    parts: list[Shape | None] = []
    for handle, placed in trial.plan.placed.items():
        standing = view.plan.placed.get(handle)
        if placed.room in floor.shown and (standing is None or standing.position != placed.position):
            x, y = floor.spot(placed)
            parts += [circle(x, y, 12, "ghost"), text(x + 16, y - 12, handle, "ghost-name", "start")]
    return group("f-ghost", *parts)
