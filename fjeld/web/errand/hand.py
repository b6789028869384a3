"""The job in hand: the drawing of an errand, and who may write in its log."""

from __future__ import annotations

import re

from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest

from fjeld.drawing.errand import Errand
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.web.jobs.models import Member


def drawing_of(member: Member) -> Drawing:
    """The drawing of an errand; 404 where it has no old box."""
    head = member.job.head
    if head is None or not head.document.drawing.of(OldBox):
        raise Http404("this job has no old box")
    return head.document.drawing


def book_drawing(member: Member) -> Drawing:
    """The drawing that a book is of, an errand's or a house's; 404 where there is none."""
    if member.job.head is None:
        raise Http404("this job has no drawing")
    return member.job.head.document.drawing


def errand_of(drawing: Drawing) -> Errand:
    """What the job is about; a light to be added where it does not say."""
    return drawing.house.errand or Errand("light")


def base_of(request: HttpRequest, member: Member) -> int:
    """The step that the person saw: as their page says, else the one that this request was read with."""
    said = str(request.POST.get("base", ""))
    seen = member.job.head.seq if member.job.head else 0
    return min(int(said), seen) if re.fullmatch(r"[0-9]{1,9}", said) else seen


def require_hand(member: Member) -> None:
    """A reader takes no readings; a site hand does."""
    if member.job.archived or member.role == Member.Role.READER:
        raise PermissionDenied("a reader takes no readings")
