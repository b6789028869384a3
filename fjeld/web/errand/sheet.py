"""One sheet an errand, on paper: marks, way, the box as found and after, the order with its gates, parts,
readings to fill in.
"""

from __future__ import annotations

from collections.abc import Sequence

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from fjeld.drawing.handles import Handle
from fjeld.errand.plan import ErrandPlan, kit
from fjeld.practice import Practice
from fjeld.quantities import coarse
from fjeld.web.errand.columns import columns
from fjeld.web.errand.hand import drawing_of
from fjeld.web.errand.section import section
from fjeld.web.errand.spot import drawn, marks
from fjeld.web.errand.stones import steps_of
from fjeld.web.errand.triangle import triangle
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.places.looked import ROLES
from fjeld.web.places.planned import plan_of, stands_of
from fjeld.web.ui.panel import Shown, context
from fjeld.web.ui.picture import picture, short_words
from fjeld.work.book import Task
from fjeld.work.carry import Carried
from fjeld.work.standing import Stands


class Sheet(Shown, frozen=True, kw_only=True):
    """What is printed of an errand."""

    job: Job
    kind: ErrandCard
    practice: Practice
    date: str
    handle: Handle
    stops: list[tuple[bool, str]]
    unknown: str
    spot: str
    marks: list[str]
    path: str
    cut: str
    found: str
    after: str
    cables: Sequence[tuple[str, str, str]]
    boxes: str
    steps: Sequence[Stands[Task]]
    carried: Sequence[Carried]
    triangle: str
    refused: str


@require_GET
@for_member
def sheet(request: HttpRequest, member: Member) -> HttpResponse:
    """The sheet."""
    return render(request, "errand/sheet.html", context(_sheet(member)))


def _sheet(member: Member) -> Sheet:
    drawing = drawing_of(member)
    known = plan_of(member.job, drawing)
    facts = known.facts
    practice, errand, old, placed = facts.practice, facts.errand, facts.old, facts.placed
    unit = practice.unit
    way, steps, found = facts.decided, steps_of(errand.wants), facts.found
    carried_words = short_words([(e, n.carries) for n in found.nets if n.word != "open" for e in n.ends])
    cables = [
        (c.id, ROLES[c.role] if c.word != "contradictory" else "not known", c.word) for c in found.cables
    ]
    cut = way.pull.figure("cut") if way and way.pull else None
    stands = stands_of(member.job, drawing, known)
    stops = _stops(stands, known)
    return Sheet(
        job=member.job,
        kind=KINDS[errand.wants],
        practice=practice,
        date=timezone.localdate().isoformat(),
        handle=facts.handle,
        stops=stops,
        unknown="; ".join(why for known_, why in stops if not known_),
        spot=drawn(placed, errand.spot, practice, unit) if "spot" in steps else "",
        marks=marks(placed, errand.spot, practice, unit) if "spot" in steps else [],
        path=section(way.chosen, way.ground, way.details) if way else "",
        cut=coarse(cut, unit) if cut else "",
        found=picture(facts.box, carried_words, practice=practice) if old.cables else "",
        after=picture(known.made.after, {}, practice=practice) if known.made else "",
        cables=cables,
        boxes=columns([*facts.filled]) if facts.filled else "",
        steps=stands,
        carried=kit(known),
        triangle=triangle(known.nodes, {}, practice) if old.cables else "",
        refused=facts.trouble,
    )


def _stops(stands: Sequence[Stands[Task]], known: ErrandPlan) -> list[tuple[bool, str]]:
    """What shuts a step, said before anything else, what is known first: whether it is known, and why."""
    why = dict.fromkeys(
        (b.known, known.facts.practice.said(b.why)) for s in stands if not s.done for b in s.task.blocked_by
    )
    return sorted(why, key=lambda b: not b[0])
