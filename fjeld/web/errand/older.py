"""Entries that a browser kept from pages of an earlier version, in the names of today.

They are taken as long as anything that was written without connection:
:data:`fjeld.web.errand.logbook.KEPT_FOR`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import at_hand, nodes
from fjeld.errand.record import as_found
from fjeld.quantities import whole_number
from fjeld.web.errand.logbook import pairs_of
from fjeld.web.jobs.models import Job

#: A pair of a dead test was a number in the order of that page's nodes.
_NUMBERED = re.compile(r"pair:(\d{1,4})(:loaded)?")


def in_names(form: Mapping[str, Any], job: Job) -> Mapping[str, Any]:
    """A form whose pairs are named; those that are numbered are of the box as it was drawn on the page that
    they come from.
    """
    if not any(_NUMBERED.fullmatch(name) for name in form):
        return form
    pairs = _pairs_then(job, whole_number(str(form.get("base", ""))))
    named: dict[str, Any] = {}
    for name, value in form.items():
        if numbered := _NUMBERED.fullmatch(name):
            n = int(numbered[1])
            name = f"pair:{pairs[n]}{numbered[2] or ''}" if n < len(pairs) else name
        named[name] = value
    return named


def _pairs_then(job: Job, base: int | None) -> list[str]:
    """The pairs of the box in hand at a step of the drawing; at the head where that is not said."""
    revision = job.revisions.filter(seq=base).select_related("document").first() if base else job.head
    drawing = revision.document.drawing if revision else None
    if drawing is None or not drawing.of(OldBox):
        return []
    _, old = at_hand(drawing)
    return pairs_of(nodes(old, as_found(old)))
