"""Taking jobs and people away for good, with the documents that nothing points at any more."""

from __future__ import annotations

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from fjeld.web.jobs.models import Document, Job, Member, Photo, Record, Revision

#: Who stands in the history of other people's jobs for one who has gone.
GONE = "someone who has left"


def delete_job(job: Job) -> None:
    """The job with its history; what other jobs share with it stays."""
    with transaction.atomic():
        held = set(job.revisions.values_list("document_id", flat=True))
        Job.objects.filter(pk=job.pk).update(head=None)
        job.revisions.update(parent=None, undoes=None)
        job.revisions.all().delete()
        job.delete()
        used = set(Revision.objects.filter(document_id__in=held).values_list("document_id", flat=True))
        Document.objects.filter(sha256__in=held - used).delete()


def delete_account(user: AbstractBaseUser) -> None:
    """The person, and the jobs that nobody else owns; in what remains their steps stay without a name."""
    with transaction.atomic():
        for member in Member.objects.filter(user_id=user.pk, role=Member.Role.OWNER).select_related("job"):
            if not member.job.members.filter(role=Member.Role.OWNER).exclude(pk=member.pk).exists():
                delete_job(member.job)
        gone, made = get_user_model().objects.get_or_create(username=GONE, defaults={"is_active": False})
        if made:
            gone.set_unusable_password()
            gone.save()
        for left in (Revision, Record, Photo):
            left.objects.filter(who_id=user.pk).update(who=gone)
        user.delete()
