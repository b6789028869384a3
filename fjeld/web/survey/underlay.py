"""A DXF drawing laid under the floor: read, limited, and put into the drawing as one edit."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.handles import Mint
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats import dxf
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_editor
from fjeld.web.jobs.models import Member


@require_POST
@for_editor
def bring_in(request: HttpRequest, member: Member) -> HttpResponse:
    """An uploaded DXF becomes an underlay of the storey in hand, and is selected."""
    job = member.job
    upload = request.FILES.get("file")
    try:
        if upload is None:
            raise dxf.DxfError("choose a DXF file first")
        if (upload.size or 0) > dxf.LARGEST_FILE:
            raise dxf.DxfError(f"the file is larger than {dxf.LARGEST_FILE // 1_000_000} MB")
        assert job.head is not None
        drawing = job.head.document.drawing
        room = next(iter(drawing.of(Room).values()), None)
        found = dxf.read(upload.read(), upload.name or "drawing", room.storey if room else None)
        handle = Mint(drawing.items, job.counters).fresh("underlay")
        store.commit(job.pk, request.user, Place({handle: found}, f"underlay {found.name}"), None)
    except (dxf.DxfError, EditRefused, InvalidDrawing, store.Conflict) as error:
        return render(
            request, "frame/refused.html", {"words": str(error), "job": job, "waypoint": "survey"}, status=422
        )
    return redirect(f"{reverse('waypoint', args=[job.pk, 'survey'])}?{urlencode({'sel': handle})}")
