"""Who is on a job, and in which role: a page to look at for everyone on it, to change for its owner."""

from __future__ import annotations

from collections.abc import Iterable

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld.web.jobs.access import for_member, for_owner
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.panel import Choices, Shown, context


class People(Shown, frozen=True):
    """Who has a part in a job, whether that is for the person to change, and the roles there are."""

    job: Job
    members: Iterable[Member]
    owner: bool
    roles: Choices


@require_GET
@for_member
def page(request: HttpRequest, member: Member) -> HttpResponse:
    """The people of a job and what each role may do."""
    members = member.job.members.select_related("user").order_by("user__username")
    shown = People(member.job, members, member.role == Member.Role.OWNER, Member.Role.choices)
    return render(request, "jobs/people.html", context(shown))


@require_POST
@for_owner
def role(request: HttpRequest, member: Member) -> HttpResponse:
    """Put a person on the job, or give one another role. A job keeps an owner."""
    wanted, name = str(request.POST.get("role", "")), str(request.POST.get("person", "")).strip()[:150]
    if wanted not in Member.Role.values:
        raise Http404("no such role")
    person = get_user_model().objects.filter(username=name, is_active=True).first()
    if person is None:
        messages.error(request, f"There is no account “{name}”. They make one first, then you add them.")
    elif wanted != Member.Role.OWNER and _last_owner(member, person.pk):
        messages.error(request, "A job needs an owner: make somebody else one first.")
    else:
        Member.objects.update_or_create(job=member.job, user=person, defaults={"role": wanted})
    return redirect("people", member.job_id)


@require_POST
@for_member
def take_off(request: HttpRequest, member: Member) -> HttpResponse:
    """Take a person off the job (its owner), or oneself."""
    name = str(request.POST.get("person", ""))
    there = member.job.members.filter(user__username=name).first()
    mine = there is not None and there.user_id == request.user.pk
    if there is None or not (mine or member.role == Member.Role.OWNER):
        raise Http404("no such person here")
    if _last_owner(member, there.user_id):
        messages.error(request, "A job needs an owner: make somebody else one first, or delete the job.")
        return redirect("people", member.job_id)
    there.delete()
    return redirect("jobs") if mine else redirect("people", member.job_id)


def _last_owner(member: Member, person: int) -> bool:
    owners = list(member.job.members.filter(role=Member.Role.OWNER).values_list("user_id", flat=True))
    return owners == [person]
