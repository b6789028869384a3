"""The mark-out sheet of a job, to look at and as PDF."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_GET

from fjeld.graphics.mark_out import mark_out as marked_out
from fjeld.web.http.view import planned
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Member
from fjeld.web.ui.paper import answered


@require_GET
@for_member
def mark_out(request: HttpRequest, member: Member, as_pdf: bool = False) -> HttpResponse:
    """The sheet of every room that closes."""
    head = member.job.head
    if head is None:
        raise Http404("no drawing yet")
    plan = planned(head.document.drawing)[0]
    page = marked_out(plan, member.job.name, head.seq)
    back = reverse("waypoint", args=[member.job_id, "layout"])
    return answered(request, page, plan.practice, back=back, back_words="Back to Layout", as_pdf=as_pdf)
