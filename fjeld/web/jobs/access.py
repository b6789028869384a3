"""Who may look and who may change: asked by every view of a job."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse

from fjeld.web.jobs.models import Member

View = Callable[..., HttpResponse]


def member_of(request: HttpRequest, job_id: int) -> Member:
    """The person's membership of a job; 404 for a job that is not theirs, so that numbers tell nothing."""
    try:
        return Member.objects.select_related("job__head__document").get(job_id=job_id, user_id=request.user.pk)
    except Member.DoesNotExist:
        raise Http404("no such job") from None


def for_member(view: View) -> View:
    """Give the view a :class:`Member` in place of the job's number."""

    @wraps(view)
    def wrapped(request: HttpRequest, job_id: int, *args: Any, **kwargs: Any) -> HttpResponse:
        return view(request, member_of(request, job_id), *args, **kwargs)

    return wrapped


def for_editor(view: View) -> View:
    """As :func:`for_member`, and only for who may change the drawing."""

    @wraps(view)
    def wrapped(request: HttpRequest, job_id: int, *args: Any, **kwargs: Any) -> HttpResponse:
        member = member_of(request, job_id)
        if not member.may_edit:
            raise PermissionDenied("your role in this job is to read")
        return view(request, member, *args, **kwargs)

    return wrapped
