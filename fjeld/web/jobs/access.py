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
    # The body of the document stays where it is: a drawing in memory is known by its digest.
    found = Member.objects.select_related("job__head__document", "user").defer(
        "job__head__document__body", "job__card"
    )
    try:
        if job_id < 2**63:
            return found.get(job_id=job_id, user_id=request.user.pk)
    except Member.DoesNotExist:
        pass
    raise Http404("no such job")


def for_member(view: View) -> View:
    """Give the view a :class:`Member` in place of the job's number."""

    @wraps(view)
    def wrapped(request: HttpRequest, job_id: int, *args: Any, **kwargs: Any) -> HttpResponse:
        return view(request, member_of(request, job_id), *args, **kwargs)

    return wrapped


def require_editor(member: Member) -> None:
    """Refuse who may not change the drawing; raises ``PermissionDenied``."""
    if not member.may_edit:
        closed = member.job.archived
        raise PermissionDenied(
            "this job is archived" if closed else f"a {member.get_role_display()} does not change the drawing"
        )


def for_editor(view: View) -> View:
    """As :func:`for_member`, and only for who may change the drawing."""

    @wraps(view)
    def wrapped(request: HttpRequest, job_id: int, *args: Any, **kwargs: Any) -> HttpResponse:
        member = member_of(request, job_id)
        require_editor(member)
        return view(request, member, *args, **kwargs)

    return wrapped


def for_owner(view: View) -> View:
    """As :func:`for_member`, and only for the job's owner; to others there is no such page."""

    @wraps(view)
    def wrapped(request: HttpRequest, job_id: int, *args: Any, **kwargs: Any) -> HttpResponse:
        member = member_of(request, job_id)
        if member.role != Member.Role.OWNER:
            raise Http404("no such page")
        return view(request, member, *args, **kwargs)

    return wrapped
