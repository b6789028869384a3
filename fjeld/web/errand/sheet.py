"""The sheet of an errand, to look at and as PDF."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET

from fjeld.graphics.errand_sheet import errand_sheet
from fjeld.web.errand.hand import drawing_of
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Member
from fjeld.web.places.kinds import KINDS
from fjeld.web.places.looked import ROLES
from fjeld.web.places.planned import plan_of, stands_of
from fjeld.web.ui.paper import answered


@require_GET
@for_member
def sheet(request: HttpRequest, member: Member, as_pdf: bool = False) -> HttpResponse:
    """The sheet."""
    drawing = drawing_of(member)
    known = plan_of(member.job, drawing)
    facts = known.facts
    cables = [
        (c.id, ROLES[c.role] if c.word != "contradictory" else "not known", c.word)
        for c in facts.found.cables
    ]
    date = timezone.localdate().isoformat()
    page = errand_sheet(
        known,
        stands_of(member.job, drawing, known),
        name=member.job.name,
        told=f"{KINDS[facts.errand.wants].words}, {facts.practice.title}, {date}",
        cables=cables,
    )
    back = reverse("errand-steps", args=[member.job_id])
    return answered(request, page, facts.practice, back=back, back_words="Back to the book", as_pdf=as_pdf)
