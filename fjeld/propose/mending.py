"""Whether an edit mends what it is offered for: it is made on paper, and the whole plan is looked
at again.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from fjeld.check import RANK, Finding, open_findings
from fjeld.derive.memo import Memo, Remember, always
from fjeld.derive.plan import Plan, derive
from fjeld.drawing.changes import StaleChange, apply
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable
from fjeld.drawing.validate import InvalidDrawing
from fjeld.practice import Severity
from fjeld.propose.attach import settle


def mends(
    plan: Plan, edit: Edit, finding: Finding, before: Sequence[Finding], memo: Memo | None = None
) -> bool:
    """Whether the finding is gone after an edit, or misses by less, and nothing is worse for it.

    ``before`` is what is open without the edit. A question that a new thing brings is no harm. A danger or a
    breach that is graver than the finding is, however it is named: a rule may have no more of them than
    before. One that is as grave is where it is of what the edit itself puts or moves; elsewhere it may have
    been there and hidden by the finding.
    """
    try:
        changes = settle(plan.drawing, edit, Mint(plan.drawing.items))
        after = apply(plan.drawing, changes)
    except (EditRefused, StaleChange, InvalidDrawing):
        return False
    remember: Remember = always if memo is None else memo
    left = open_findings(derive(after, memo), remember)
    still = next((f for f in left if f.key == finding.key), None)
    if still is not None and not _less(still, finding):
        return False
    if _graver(left, finding.severity) - _graver(before, finding.severity):
        return False
    known = {f.key for f in before}
    touched = {c.handle for c in changes if not isinstance(after.items.get(c.handle), Cable)}
    return not any(
        f.key not in known
        and f.severity in GRAVE
        and RANK[f.severity] <= RANK[finding.severity]
        and touched & {*f.handles}
        for f in left
    )


def _less(now: Finding, before: Finding) -> bool:
    """Whether a finding that stays misses by less than it did."""
    if now.measure is None or before.measure is None:
        return now.words != before.words
    return now.measure < before.measure


#: What nobody offers to bring about.
GRAVE = ("danger", "breach")


def _graver(findings: Sequence[Finding], than: Severity) -> Counter[str]:
    """How many dangers and breaches graver than a severity there are, by rule."""
    return Counter(f.rule.id for f in findings if f.severity in GRAVE and RANK[f.severity] < RANK[than])
