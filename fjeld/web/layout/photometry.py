"""An IES file read for a light: its photometry goes into the drawing, and the light uses it."""

from __future__ import annotations

from urllib.parse import urlencode

import msgspec
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place, Revise, Together
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Point
from fjeld.drawing.naming import Drafts
from fjeld.web.http import store
from fjeld.web.http.reading import FileNotTaken, read_ies
from fjeld.web.http.refusals import RefusedPage
from fjeld.web.jobs.access import for_editor
from fjeld.web.jobs.models import Member
from fjeld.web.ui.panel import context


@require_POST
@for_editor
def read_in(request: HttpRequest, member: Member) -> HttpResponse:
    """An uploaded IES file, for the light named in the form."""
    job = member.job
    upload, handle = request.FILES.get("file"), Handle(str(request.POST.get("handle", "")))
    try:
        assert job.head is not None
        drawing = job.head.document.drawing
        point = drawing.items.get(handle)
        if not isinstance(point, Point) or point.kind != "light":
            raise EditRefused(f"{handle or 'that'} is no light")
        found = read_ies(upload)
        fresh = Drafts().fresh("photometry")
        sheet = msgspec.structs.replace(point.fitting or Fitting(), photometry=str(fresh))
        put = Place({fresh: found}, found.name)
        store.commit(
            job.pk,
            request.user,
            Together((put, Revise(handle, {"fitting": sheet})), f"Read the light of {handle}"),
            base=job.head.seq,
        )
    except (FileNotTaken, *store.REFUSALS) as error:
        return render(
            request, "frame/refused.html", context(RefusedPage(str(error), job, "layout")), status=422
        )
    query = urlencode({"sel": handle, "light": "floor"})
    return redirect(f"{reverse('waypoint', args=[job.pk, 'layout'])}?{query}")
