"""Whether an edit mends what it is offered for: it is made on paper, and the whole plan is looked at again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from fjeld.check import Finding, open_findings
from fjeld.derive.memo import Memo, Remember, always
from fjeld.derive.plan import Plan, derive
from fjeld.drawing.changes import StaleChange, apply
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.handles import Mint
from fjeld.drawing.validate import InvalidDrawing
from fjeld.propose.attach import settle


def mends(
    plan: Plan, edit: Edit, finding: Finding, before: Sequence[Finding], memo: Memo | None = None
) -> bool:
    """Whether the finding is gone after an edit, or misses by less, and no danger and no breach came for it.

    ``before`` is what is open without the edit. A question that a new thing brings is no harm; a
    danger or a breach is, however it is named: a rule may have no more of them than before.
    """
    try:
        after = apply(plan.drawing, settle(plan.drawing, edit, Mint(plan.drawing.items)))
    except (EditRefused, StaleChange, InvalidDrawing):
        return False
    remember: Remember = always if memo is None else memo
    left = open_findings(derive(after, memo), remember)
    still = next((f for f in left if f.key == finding.key), None)
    if still is not None and not _less(still, finding):
        return False
    return not _grave(left) - _grave(before)


def _less(now: Finding, before: Finding) -> bool:
    """Whether a finding that stays misses by less than it did."""
    if now.measure is None or before.measure is None:
        return now.words != before.words
    return now.measure < before.measure


def _grave(findings: Sequence[Finding]) -> Counter[str]:
    """How many dangers and breaches there are, by rule."""
    return Counter(f.rule.id for f in findings if f.severity in ("danger", "breach"))
