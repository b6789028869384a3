"""Pages of photographs: one taken in, one shown, one struck out."""

from __future__ import annotations

import re
import secrets
from urllib.parse import urlencode

from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET, require_POST

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.old_box import OldBox
from fjeld.web.errand.hand import book_drawing, require_hand
from fjeld.web.errand.logbook import written_at
from fjeld.web.errand.step import InHand, answered
from fjeld.web.errand.steps import BOOK
from fjeld.web.http.reading import FileNotTaken, read_photo
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Member, Photo
from fjeld.web.places.planned import tasks_of
from fjeld.web.places.records import kept
from fjeld.web.places.shots import room_for


@require_POST
@for_member
def take(request: HttpRequest, member: Member) -> HttpResponse:
    """Keep a photograph of a step or of a box; what is sent twice is kept once."""
    require_hand(member)
    drawing = book_drawing(member)
    key = str(request.POST.get("key", ""))
    known = {f"step:{t.id}" for t in tasks_of(member.job, drawing)} | {*drawing.of(OldBox)}
    if key not in known:
        raise Http404("there is no such step or box")
    token = str(request.POST.get("token", ""))
    token = token if re.fullmatch(r"[A-Za-z0-9_-]{8,40}", token) else secrets.token_urlsafe(18)
    try:
        sent = request.FILES.get("photo")
        if sent is None:
            raise EditRefused("no photograph was chosen")
        if not Photo.objects.filter(job=member.job, token=token).exists():
            room_for(member.job)
            jpeg, width, height = read_photo(sent)
            when, _, late = written_at(request.POST)
            with transaction.atomic():
                Photo.objects.create(
                    job=member.job,
                    key=key,
                    jpeg=jpeg,
                    width=width,
                    height=height,
                    seq=member.job.head.seq if member.job.head else 0,
                    who=request.user,
                    token=token,
                    written=when if late else None,
                )
    except (EditRefused, FileNotTaken) as refused:
        return answered(BOOK, InHand(request, member, str(refused)))
    except IntegrityError:
        pass
    here = request.path.removesuffix("/photo")
    step = urlencode({"step": key.removeprefix("step:")})
    return kept(request, redirect(f"{here}/steps?{step}" if key.startswith("step:") else f"{here}?box={key}"))


@require_GET
@for_member
def show(request: HttpRequest, member: Member, photo: int) -> HttpResponse:
    """A photograph of this job."""
    found = Photo.objects.filter(job=member.job, pk=photo).first()
    if found is None:
        raise Http404("no such photograph")
    response = HttpResponse(bytes(found.jpeg), content_type="image/jpeg")
    response["Content-Disposition"] = f'inline; filename="{found.key.replace(":", "-")}-{found.pk}.jpg"'
    return response


@require_POST
@for_member
def strike(request: HttpRequest, member: Member, photo: int) -> HttpResponse:
    """Strike a photograph out, or let it count again; it is kept either way."""
    require_hand(member)
    found = Photo.objects.defer("jpeg").filter(job=member.job, pk=photo).first()
    if found is None:
        raise Http404("no such photograph")
    # As it was asked, however often it is pressed.
    found.struck = request.POST.get("struck", "no" if found.struck else "yes") == "yes"
    found.save(update_fields=["struck"])
    return redirect("errand-steps", member.job_id)


@require_POST
@for_editor
def delete(request: HttpRequest, member: Member, photo: int) -> HttpResponse:
    """Delete a photograph for good, once it is struck out: its place is free again."""
    found = Photo.objects.defer("jpeg").filter(job=member.job, pk=photo).first()
    if found is None:
        raise Http404("no such photograph")
    if not found.struck:
        return answered(BOOK, InHand(request, member, "strike the photograph out before it is deleted"))
    found.delete()
    return redirect("errand-steps", member.job_id)
