"""Files out of a job: itself, its lists, its floor, its network in any state of its switches, its history."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.formats import dxf, history, jobfile, lists, spice
from fjeld.formats.document import DocumentError
from fjeld.web.http.view import planned
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Member, Revision
from fjeld.web.ui.switches import Switches

TEXT = "text/plain; charset=utf-8"


def _floor(plan: Plan, switches: Switches) -> bytes:
    """The storey with the most rooms."""
    storeys = [r.storey for r in plan.drawing.of(Room).values()]
    return dxf.write(plan, max(storeys, key=storeys.count, default=None))


def _netlist(plan: Plan, switches: Switches) -> bytes:
    """As the proof solves it: circuits that share no box apart from each other."""
    if plan.network is None:
        raise Http404("there is no panel, so there is no network")
    return spice.of_plan(plan, switches.state(plan.network), switches.off).encode()


def _whole_netlist(plan: Plan, switches: Switches) -> bytes:
    """The whole house behind one source: what one circuit draws sags the others."""
    if plan.network is None:
        raise Http404("there is no panel, so there is no network")
    state, off = switches.state(plan.network), switches.off
    return spice.netlist(plan.network, state, off, plan.drawing.house.name).encode()


EXPORTS: dict[str, tuple[str, Callable[[Plan, Switches], bytes]]] = {
    "materials.csv": ("text/csv; charset=utf-8", lambda plan, _: lists.materials_csv(plan)),
    "cables.csv": ("text/csv; charset=utf-8", lambda plan, _: lists.cables_csv(plan)),
    "floor.dxf": (dxf.MEDIA_TYPE, _floor),
    "network.cir": (TEXT, _netlist),
    "house.cir": (TEXT, _whole_netlist),
}


@require_GET
@for_member
def export(request: HttpRequest, member: Member, name: str) -> HttpResponse:
    """A file of the job as it stands; the job file and the history also of one that cannot be worked out."""
    head = member.job.head
    if head is None or name not in ("job.json", "history.json", *EXPORTS):
        raise Http404("no such file")
    if name == "job.json":
        kind, data = jobfile.MEDIA_TYPE, _job_file(head)
    elif name == "history.json":
        kind, data = jobfile.MEDIA_TYPE, _history(member)
    else:
        kind, write = EXPORTS[name]
        plan = planned(head.document.drawing)[0]
        data = write(plan, Switches.of(plan, request.GET))
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(member.job.name)[:60] or "job"}-{name}"'
    )
    return response


def _job_file(head: Revision) -> bytes:
    try:
        return jobfile.encode(head.document.drawing)
    except DocumentError:
        # What cannot be read is given out as it lies in the store: nothing is lost.
        return head.document.data


def _history(member: Member) -> bytes:
    """Every step: when, who, what was meant and what it changed."""
    steps = member.job.revisions.select_related("who")
    return msgspec.json.encode(
        [
            {
                "step": r.seq,
                "when": r.when.isoformat(),
                "who": r.who.get_username(),
                "words": r.words,
                "edit": history.read(r.edit),
                "changes": history.read(r.changes),
                "document": r.document_id,
            }
            for r in steps.iterator(chunk_size=100)
        ]
    )
