"""A DXF drawing laid under the floor: read, limited, and put into the drawing as one edit."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from fjeld.drawing.building import Room
from fjeld.drawing.edits.common import Place
from fjeld.drawing.naming import Drafts
from fjeld.web.http import store
from fjeld.web.http.reading import FileNotTaken, read_dxf
from fjeld.web.http.refusals import RefusedPage
from fjeld.web.jobs.access import for_editor
from fjeld.web.jobs.models import Member
from fjeld.web.ui.panel import context


@require_POST
@for_editor
def bring_in(request: HttpRequest, member: Member) -> HttpResponse:
    """An uploaded DXF becomes an underlay of the storey in hand, and is selected."""
    job = member.job
    upload = request.FILES.get("file")
    try:
        assert job.head is not None
        drawing = job.head.document.drawing
        room = next(iter(drawing.of(Room).values()), None)
        found = read_dxf(upload, room.storey if room else None)
        put = Place({Drafts().fresh("underlay"): found}, f"underlay {found.name}")
        done = store.commit(job.pk, request.user, put, base=job.head.seq)
    except (FileNotTaken, *store.REFUSALS) as error:
        return render(
            request, "frame/refused.html", context(RefusedPage(str(error), job, "survey")), status=422
        )
    return redirect(f"{reverse('waypoint', args=[job.pk, 'survey'])}?{urlencode({'sel': done.fresh[0]})}")
