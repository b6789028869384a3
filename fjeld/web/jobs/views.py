"""The jobs page: start, copy, archive, find, import; and files out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from django.contrib import messages
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from fjeld import practice as practices
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, House
from fjeld.formats import dxf, jobfile, lists, spice
from fjeld.formats.sheet import still
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Member
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.projection import SMALL
from fjeld.web.ui.view import View, planned

ORDER = ("survey", "layout", "circuits", "runs", "boxes", "proof")


@require_GET
def index(request: HttpRequest) -> HttpResponse:
    """Every job of the person, each with its floor in small and what comes next."""
    query = str(request.GET.get("q", ""))[:80]
    archived = request.GET.get("archived") == "1"
    mine = Member.objects.filter(user_id=request.user.pk, job__archived=archived).select_related(
        "job__head__document"
    )
    if query:
        mine = mine.filter(Q(job__name__icontains=query))
    jobs = [_described(member) for member in mine.order_by("-job_id")]
    known = [practices.load(p) for p in reversed(practices.available())]
    return render(
        request, "jobs/list.html", {"practices": known, "jobs": jobs, "q": query, "archived": archived}
    )


def _described(member: Member) -> dict[str, Any]:
    head = member.job.head
    assert head is not None
    view = View(member, "survey", head.document.drawing, head.seq, {}, SMALL)
    rooms = view.drawing.of(Room)
    storeys = [r.storey for r in rooms.values()]
    # The picture is of the storey with the most rooms.
    largest = max(rooms, key=lambda h: storeys.count(rooms[h].storey), default=None)
    floor = Floor(view.plan, largest, SMALL, 26, whole=True)
    waypoint = _next(view)
    layers = [floor.walls(), floor.openings(), floor.dots()]
    points = len(view.plan.placed)
    room = (
        f"{len(rooms)} rooms" if len(rooms) > 1 else view.drawing.get(view.room, Room).name if view.room else ""
    )
    return {
        "job": member.job, "layers": [still(layer, words=False) for layer in layers], "open": len(view.findings),
        "danger": sum(f.rule.severity == "danger" for f in view.findings), "next": waypoint, "owner": member.role == Member.Role.OWNER,
        "words": f"{room}: {points} box{'es' if points != 1 else ''}, {len(view.plan.cables)} cables" if room else "Nothing measured yet",
    }  # fmt: skip


def _next(view: View) -> str:
    """The first waypoint with something pressing open, else proof."""
    if not view.plan.placed:
        return "survey" if not any(w.closed for w in view.plan.rooms.values()) else "layout"
    pressing = {f.waypoint for f in view.findings if f.rule.severity != "advice"}
    return next((w for w in ORDER if w in pressing), "proof" if view.plan.circuits else "circuits")


@require_POST
def new(request: HttpRequest) -> HttpResponse:
    """A new job from nothing."""
    name = str(request.POST.get("name", "")).strip()[:80]
    if not name:
        messages.error(request, "A job needs a name.")
        return redirect("jobs")
    practice = str(request.POST.get("practice", "na"))
    if practice not in practices.available():
        messages.error(request, f"There is no practice “{practice[:20]}”.")
        return redirect("jobs")
    metric = practices.load(practice).metric
    house = House(
        name=name,
        practice=practice,
        unit="mm" if metric else "ft-in",
        connectors="lever" if metric else "twist-on",
    )
    job = store.create(name, Drawing({HOUSE: house}), request.user)
    return redirect("waypoint", job.pk, "survey")


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """A job from a job file; a malformed one is refused in words."""
    file = request.FILES.get("file")
    if file is None or file.size is None or file.size > jobfile.LARGEST_FILE:
        messages.error(request, "Choose a job file of up to 4 MB.")
        return redirect("jobs")
    try:
        drawing = jobfile.decode(file.read())
    except jobfile.JobFileError as error:
        messages.error(request, f"That file was not taken. {error}")
        return redirect("jobs")
    job = store.create(drawing.house.name, drawing, request.user, "Import")
    return redirect("waypoint", job.pk, "survey")


@require_POST
@for_member
def copy(request: HttpRequest, member: Member) -> HttpResponse:
    """A job of one's own with the same drawing."""
    head = member.job.head
    assert head is not None
    drawing = head.document.drawing
    house = msgspec.structs.replace(drawing.house, name=f"{drawing.house.name}, copy"[:80])
    job = store.create(
        house.name, Drawing({**drawing.items, HOUSE: house}), request.user, f"Copy of {member.job.name}"
    )
    return redirect("waypoint", job.pk, "survey")


@require_POST
@for_member
def archive(request: HttpRequest, member: Member) -> HttpResponse:
    """Put a job away, or bring it back; its owner only."""
    if member.role != Member.Role.OWNER:
        raise Http404("no such job")
    member.job.archived = not member.job.archived
    member.job.save(update_fields=["archived"])
    return redirect("jobs")


def _netlist(plan: Plan) -> bytes:
    if plan.network is None:
        raise Http404("there is no panel, so there is no network")
    return spice.netlist(plan.network, {}, title=plan.drawing.house.name).encode()


def _floor(plan: Plan) -> bytes:
    """The storey with the most rooms."""
    storeys = [r.storey for r in plan.drawing.of(Room).values()]
    return dxf.write(plan, max(storeys, key=storeys.count, default=None))


EXPORTS: dict[str, tuple[str, Callable[[Plan], bytes]]] = {
    "job.json": (jobfile.MEDIA_TYPE, lambda plan: jobfile.encode(plan.drawing)),
    "materials.csv": ("text/csv; charset=utf-8", lists.materials_csv),
    "cables.csv": ("text/csv; charset=utf-8", lists.cables_csv),
    "floor.dxf": (dxf.MEDIA_TYPE, _floor),
    "network.cir": ("text/plain; charset=utf-8", _netlist),
}


@require_GET
@for_member
def export(request: HttpRequest, member: Member, name: str) -> HttpResponse:
    """A file of the job as it stands."""
    head = member.job.head
    if name not in EXPORTS or head is None:
        raise Http404("no such file")
    kind, write = EXPORTS[name]
    data = write(planned(head.document.drawing)[0])
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{slugify(member.job.name) or "job"}-{name}"'
    return response


@require_GET
def schema(request: HttpRequest) -> HttpResponse:
    """The published schema of the job file."""
    return JsonResponse(jobfile.schema())
