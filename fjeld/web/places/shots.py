"""Photographs of the work, as they are listed, and how many a job keeps."""

from __future__ import annotations

from datetime import datetime

from fjeld.drawing.edits import EditRefused
from fjeld.web.jobs.models import Job, Photo
from fjeld.web.ui.panel import Shown

#: A job keeps so many.
MOST = 120


class Shot(Shown, frozen=True):
    """A photograph as it is listed."""

    pk: int
    who: str
    when: datetime
    struck: bool


def shots_of(job: Job) -> dict[str, list[Shot]]:
    """The photographs of a job, by what they are of."""
    found: dict[str, list[Shot]] = {}
    for photo in job.photos.defer("jpeg").select_related("who"):
        shot = Shot(photo.pk, photo.who.get_username(), photo.written or photo.when, photo.struck)
        found.setdefault(photo.key, []).append(shot)
    return found


def room_for(job: Job) -> None:
    """Raises :class:`EditRefused` where a job has as many photographs as it keeps."""
    if Photo.objects.filter(job=job).count() >= MOST:
        raise EditRefused(
            f"a job keeps {MOST} photographs: delete one that is struck out, and there is room again"
        )
