"""Requests to every waypoint: pages, edits, undo, and what they send back."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from fjeld.drawing.building import Room
from fjeld.drawing.changes import StaleChange
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats.words import Misread
from fjeld.propose.fixes import fix
from fjeld.propose.rows import RowsRefused
from fjeld.quantities import UnreadableLength
from fjeld.web.frame import TITLES, fragments, layers, line, sent
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Member
from fjeld.web.ui import wire
from fjeld.web.ui.consequence import consequence
from fjeld.web.ui.search import stop_all
from fjeld.web.ui.timing import Stages
from fjeld.web.ui.view import View, params_of, planned, size_of
from fjeld.web.waypoints import WAYPOINTS

#: The waypoints where what is being typed is shown before it is sent.
PREVIEWED = ("survey", "layout")
REFUSED = (EditRefused, UnreadableLength, RowsRefused, Misread)


def _view(request: HttpRequest, member: Member, waypoint: str, params: dict[str, str] | None = None) -> View:
    head = member.job.head
    if head is None or waypoint not in WAYPOINTS:
        raise Http404("no such waypoint")
    return View(
        member,
        waypoint,
        head.document.drawing,
        head.seq,
        params if params is not None else params_of(request),
        size_of(request),
    )


@require_GET
@for_member
def page(request: HttpRequest, member: Member, waypoint: str) -> HttpResponse:
    """A waypoint, whole or (for a live link) what differs from the page it was followed from."""
    view = _view(request, member, waypoint, {k: str(v)[:200] for k, v in request.GET.items()})
    if request.headers.get("HX-Request") and waypoint in request.headers.get("HX-Current-URL", ""):
        if "X-Fjeld-Again" in request.headers:
            return wire.reply(_whole(request, view))
        before = _view(request, member, waypoint, _current(request))
        if "X-Fjeld-Preview" in request.headers and waypoint in PREVIEWED:
            return _preview(request, before, view)
        address = f"{request.path}?{urlencode(view.params)}" if view.params else request.path
        return _difference(request, before, view, "", address=address)
    found = fragments(request, view)
    context = {
        "view": view, "job": member.job, "waypoint": waypoint, "title": TITLES[waypoint], "layers": list(layers(view).values()),
        "parts": found, "line": line(request, view, []), "house": view.drawing.house,
    }  # fmt: skip
    return render(request, "frame/page.html", context)


def _current(request: HttpRequest) -> dict[str, str]:
    from urllib.parse import parse_qsl, urlsplit

    return dict(parse_qsl(urlsplit(request.headers.get("HX-Current-URL", "")).query))


def _preview(request: HttpRequest, before: View, after: View) -> HttpResponse:
    """While something is typed: the floor, and the line that says how it is read; the form itself stays."""
    said = {
        "passing": render_to_string(
            f"{after.waypoint}/passing.html", {**WAYPOINTS[after.waypoint].dock(after), "unit": after.drawing.house.unit}, request
        )
    }  # fmt: skip
    html = wire.changed({}, said) + wire.changed_layers(layers(before), layers(after))
    return wire.reply(html, address=f"{request.path}?{urlencode(after.params)}", passing=True)


def _whole(request: HttpRequest, view: View) -> str:
    """All that a search may have changed, whatever the page shows now."""
    found = fragments(request, view)
    return wire.changed({}, {n: found[n] for n in ("dock", "workings")}) + wire.changed_layers({}, layers(view))


def _difference(request: HttpRequest, before: View, after: View, said: str, address: str = "") -> HttpResponse:
    html = wire.changed(sent(request, before), fragments(request, after), sent=request.method == "POST")
    html += wire.changed_layers(layers(before), layers(after))
    return wire.reply(html + said, address=address)


@require_POST
@for_editor
def act(request: HttpRequest, member: Member, waypoint: str, action: str) -> HttpResponse:
    """One edit from a waypoint's form."""
    view = _view(request, member, waypoint)
    actions = WAYPOINTS[waypoint].ACTIONS
    if action not in actions and action != "fix":
        raise Http404("no such edit")
    stages = Stages()
    try:
        edit = _fix_of(view, request.POST) if action == "fix" else actions[action](view, request.POST)
        base = request.POST.get("base") or request.headers.get("X-Fjeld-Base")
        stages.lap("edit")
        done = store.commit(member.job_id, request.user, edit, int(base) if base and base.isdigit() else None)
        stages.lap("commit")
    except (*REFUSED, InvalidDrawing, StaleChange, store.Conflict) as refused:
        return _refused(request, view, refused)
    return _committed(request, member, view, done, stages)


def _refused(request: HttpRequest, view: View, refused: Exception) -> HttpResponse:
    if isinstance(refused, InvalidDrawing):
        words = "; ".join(str(p) for p in refused.problems[:2])
    else:
        words = str(refused)
    again = None
    status = 422
    if isinstance(refused, store.Conflict):
        status = 409
        again = {k: str(v) for k, v in request.POST.items() if k not in ("base", "csrfmiddlewaretoken")}
    if not request.headers.get("HX-Request"):
        return render(
            request,
            "frame/refused.html",
            {"words": words, "job": view.job, "waypoint": view.waypoint},
            status=status,
        )
    html = line(request, view, [], words, again).replace('id="line"', 'id="line" hx-swap-oob="outerHTML"', 1)
    return wire.reply(html, status=status)


def _committed(
    request: HttpRequest, member: Member, before: View, done: store.Committed, stages: Stages
) -> HttpResponse:
    member.job.refresh_from_db()
    # What was being tried or typed is done with.
    params = {
        k: v for k, v in before.params.items() if k not in ("try", "typing", "bearing", "show", "finding")
    }
    fresh = [h for h in done.after.items if h not in done.before.items and not h.startswith("C")]
    if fresh:
        params["sel"] = fresh[-1]
    if rooms := [h for h in fresh if h in done.after.of(Room)]:
        # A new room is stepped into: the tape goes on there.
        params = {"at": rooms[-1]}
    base = View(member, before.waypoint, done.before, before.seq, before.params, before.size)
    after = View(member, before.waypoint, done.after, done.seq, params, before.size)
    address = reverse("waypoint", args=[member.job_id, before.waypoint])
    address = f"{address}?{urlencode(params)}" if params else address
    if not request.headers.get("HX-Request"):
        return redirect(address)
    planned(done.after)
    stages.lap("derive")
    said = line(request, after, consequence(base.plan, after.plan, base.findings, after.findings, done.words))
    said = said.replace('id="line"', 'id="line" hx-swap-oob="outerHTML"', 1)
    response = _difference(request, base, after, said, address=address)
    stages.lap("render")
    return stages.told(response)


def _fix_of(view: View, form: QueryDict) -> Edit:
    key = form.get("finding", "")
    finding = next((f for f in view.findings if f.key == key), None)
    edit = fix(view.plan, finding, view.mint()) if finding else None
    if edit is None:
        raise EditRefused("that finding has gone, or only a person can put it right")
    return edit


@require_POST
@for_editor
def take_back(request: HttpRequest, member: Member, waypoint: str, which: str) -> HttpResponse:
    """Undo or redo the person's own last step."""
    view = _view(request, member, waypoint)
    stages = Stages()
    try:
        done = store.take_back(member.job_id, request.user, again=which == "redo")
    except (EditRefused, store.Conflict, InvalidDrawing) as refused:
        return _refused(request, view, refused)
    stages.lap("commit")
    return _committed(request, member, view, done, stages)


@require_GET
@for_member
def head(request: HttpRequest, member: Member) -> HttpResponse:
    """The newest revision's number and words, for pages that watch; 304 while nothing changed."""
    revision = member.job.head
    tag = f'"{revision.seq if revision else 0}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers={"ETag": tag})
    words = f"{revision.who.get_username()}: {revision.words}" if revision else ""
    return HttpResponse(words, content_type="text/plain", headers={"ETag": tag, "X-Fjeld-Seq": tag.strip('"')})


@require_POST
@for_member
def stop_searches(request: HttpRequest, member: Member) -> HttpResponse:
    """Stop looking for anything cheaper; what is found stays found."""
    stop_all(member.job_id)
    if request.headers.get("HX-Request"):
        # The page looks again by itself.
        return HttpResponse(status=204)
    back = request.POST.get("back", "")
    return redirect("waypoint", member.job_id, back if back in WAYPOINTS else "runs")
