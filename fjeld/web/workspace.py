"""Requests to every waypoint: pages, edits, undo, and what they send back."""

from __future__ import annotations

import logging
import re
from urllib.parse import urlencode

from django.db.models import F
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.model import Drawing
from fjeld.formats.document import DocumentError
from fjeld.formats.words import Misread
from fjeld.propose.rows import RowsRefused
from fjeld.quantities import UnreadableLength
from fjeld.web.frame import Hurt, WaypointPage, drawn, findings_alone, fragments, layers, line, sent
from fjeld.web.http import store
from fjeld.web.http.refusals import RefusedPage, in_words
from fjeld.web.http.search import stop_all
from fjeld.web.http.view import View, params_of, planned, size_of
from fjeld.web.jobs.access import for_editor, for_member, require_editor
from fjeld.web.jobs.models import Job, Member, Revision
from fjeld.web.ui import wire
from fjeld.web.ui.consequence import consequence
from fjeld.web.ui.panel import context as names
from fjeld.web.ui.timing import Stages
from fjeld.web.waypoints import WAYPOINTS

REFUSED = (UnreadableLength, RowsRefused, Misread, *store.REFUSALS)
log = logging.getLogger("fjeld.pages")


def _view(request: HttpRequest, member: Member, waypoint: str, params: dict[str, str] | None = None) -> View:
    head = member.job.head
    if head is None or waypoint not in WAYPOINTS:
        raise Http404("no such waypoint")
    return View(
        member,
        waypoint,
        drawing=head.document.drawing,
        seq=head.seq,
        params=params if params is not None else params_of(request),
        size=size_of(request),
    )


@require_GET
@for_member
def page(request: HttpRequest, member: Member, waypoint: str) -> HttpResponse:
    """A waypoint; where it cannot be drawn, a plain page with the history and the way back."""
    try:
        return _page(request, member, waypoint)
    except Http404:
        raise
    except Exception:
        log.exception("job %s cannot be shown at %s", member.job_id, waypoint)
        return hurt(request, member, waypoint)


def hurt(request: HttpRequest, member: Member, waypoint: str) -> HttpResponse:
    """A job that cannot be shown: what was done last, undoing it, going back, and the file."""
    shown = Hurt(
        job=member.job,
        waypoint=waypoint,
        may_edit=member.may_edit,
        title=WAYPOINTS[waypoint].title if waypoint in WAYPOINTS else "Survey",
        step=store.last_step(member.job, request.user),
        waypoints={name: w.title for name, w in WAYPOINTS.items()},
        revisions=member.job.revisions.select_related("who").defer("edit", "changes").order_by("-seq")[:40],
    )
    response = render(request, "frame/hurt.html", names(shown), status=500)
    if request.htmx:
        response["HX-Redirect"] = reverse("waypoint", args=[member.job_id, waypoint])
    return response


def _page(request: HttpRequest, member: Member, waypoint: str) -> HttpResponse:
    """Whole, or (for a live link) what differs from the page it was followed from."""
    view = _view(request, member, waypoint, {k: str(v)[:200] for k, v in request.GET.items()})
    if "X-Fjeld-Fixes" in request.headers:
        return _fixes(request, view)
    if request.htmx and waypoint in (request.htmx.current_url or ""):
        if "X-Fjeld-Again" in request.headers:
            return wire.reply(_whole(request, view))
        before = _view(request, member, waypoint, _current(request))
        if "X-Fjeld-Preview" in request.headers and WAYPOINTS[waypoint].previews:
            return _preview(request, before, view)
        address = f"{request.path}?{urlencode(view.params)}" if view.params else request.path
        return _difference(request, before, view, "", address=address)
    found = fragments(request, view)
    shown = WaypointPage(
        view=view,
        job=member.job,
        waypoint=waypoint,
        title=WAYPOINTS[waypoint].title,
        layers=list(layers(view).values()),
        parts=found,
        line=line(request, view, []),
    )
    if Job.objects.filter(pk=member.job_id, card=None).exists():
        Job.objects.filter(pk=member.job_id, head=member.job.head).update(
            card=store.standing.card_of(view.plan, view.findings)
        )
    return render(request, "frame/page.html", names(shown))


def _fixes(request: HttpRequest, view: View) -> HttpResponse:
    """What would put right what is open, once the edit that the page shows is the last one still."""
    if request.headers["X-Fjeld-Fixes"] != str(view.seq):
        return HttpResponse(status=204)
    return HttpResponse(str(findings_alone(request, view)))


def _current(request: HttpRequest) -> dict[str, str]:
    from urllib.parse import parse_qsl, urlsplit

    return dict(parse_qsl(urlsplit(request.htmx.current_url or "").query))


def _preview(request: HttpRequest, before: View, after: View) -> HttpResponse:
    """While something is typed: the floor, and the line that says how it is read; the form itself stays."""
    said = {
        "passing": wire.fragment(
            f"{after.waypoint}/passing.html",
            {**names(WAYPOINTS[after.waypoint].dock(after)), "unit": after.drawing.house.unit},
            request,
        )
    }
    html = wire.changed({}, said) + wire.changed_layers(layers(before), layers(after))
    return wire.reply(html, address=f"{request.path}?{urlencode(after.params)}", passing=True)


def _whole(request: HttpRequest, view: View) -> str:
    """All that a search may have changed, whatever the page shows now."""
    found = fragments(request, view)
    return wire.changed({}, {n: found[n] for n in ("dock", "workings")}) + wire.changed_layers(
        {}, layers(view)
    )


def _difference(
    request: HttpRequest,
    before: View,
    after: View,
    said: str,
    address: str = "",
    panels: wire.Fragments | None = None,
) -> HttpResponse:
    html = wire.changed(
        sent(request, before), fragments(request, after, panels), sent=request.method == "POST"
    )
    html += wire.changed_layers(layers(before), layers(after))
    return wire.reply(html + said, address=address)


@require_POST
@for_member
def act(request: HttpRequest, member: Member, waypoint: str, action: str) -> HttpResponse:
    """One edit from a waypoint's form."""
    on_site = WAYPOINTS[waypoint].on_site if waypoint in WAYPOINTS else frozenset()
    if action not in on_site or member.role != Member.Role.SITE or member.job.archived:
        require_editor(member)
    if action == "return" and waypoint == "record":
        return _go_back(request, member)
    view = _view(request, member, waypoint)
    actions = WAYPOINTS[waypoint].actions
    if action not in actions and action != "fix":
        raise Http404("no such edit")
    stages = Stages()
    try:
        with store.standing.guarded(UnreadableLength, RowsRefused, Misread):
            edit = _fix_of(view, request.POST) if action == "fix" else actions[action](view, request.POST)
        stages.lap("edit")
        trial = _Drawn(request, member, view)
        done = store.commit(
            member.job_id, request.user, edit, base=_base(request), client=_client(request), draw=trial
        )
        stages.lap("commit")
    except REFUSED as refused:
        return _refused(request, view, refused)
    return _committed(request, member, before=view, done=done, stages=stages, panels=trial.panels)


class _Drawn:
    """Draws the page that an edit will be answered with, while the edit can still be refused."""

    def __init__(self, request: HttpRequest, member: Member, view: View) -> None:
        self.request, self.member, self.view = request, member, view
        self.panels: wire.Fragments | None = None

    def __call__(self, before: Drawing, after: Drawing) -> None:
        if not self.request.htmx:
            return
        params = _params_after(self.view, before, after)
        page = View(
            self.member,
            self.view.waypoint,
            drawing=after,
            seq=self.view.seq,
            params=params,
            size=self.view.size,
        )
        page.at_once = True
        panels = drawn(self.request, page)
        # The record shows the history, which has not got this step yet.
        self.panels = None if page.waypoint == "record" else panels


def _base(request: HttpRequest) -> int | None:
    """The step that the person saw."""
    base = request.POST.get("base") or request.headers.get("X-Fjeld-Base") or ""
    return int(base) if re.fullmatch(r"[0-9]{1,9}", base) else None


def _client(request: HttpRequest) -> str:
    """Which of a person's pages this came from; a page without scripts is a new one every time."""
    name = request.headers.get("X-Fjeld-Page", "")
    return name if re.fullmatch(r"[A-Za-z0-9-]{8,40}", name) else ""


def _go_back(request: HttpRequest, member: Member) -> HttpResponse:
    """Return to an earlier step, from the record or from the page of a job that cannot be shown."""
    seq = str(request.POST.get("seq", ""))
    try:
        if not re.fullmatch(r"[0-9]{1,9}", seq):
            raise EditRefused(f"there is no step {seq[:20] or 'without a number'}")
        done = store.go_back(member.job_id, request.user, int(seq), base=_base(request))
    except (DocumentError, *store.REFUSALS) as refused:
        if isinstance(refused, DocumentError) or not request.htmx:
            return _told(request, member, "record", refused)
        return _refused(request, _view(request, member, "record"), refused)
    if not request.htmx:
        return redirect("waypoint", member.job_id, "record")
    member.job.refresh_from_db()
    view = View(
        member,
        "record",
        drawing=done.before,
        seq=done.seq - 1,
        params=params_of(request),
        size=size_of(request),
    )
    return _committed(request, member, view, done, Stages())


def _told(request: HttpRequest, member: Member, waypoint: str, refused: Exception) -> HttpResponse:
    """A refusal on a page of its own."""
    shown = RefusedPage(in_words(refused, None), member.job, waypoint)
    response = render(request, "frame/refused.html", names(shown), status=422)
    if request.htmx:
        response["HX-Refresh"] = "true"
    return response


def _refused(request: HttpRequest, view: View, refused: Exception) -> HttpResponse:
    words = in_words(refused, view.drawing)
    again = None
    status = 422
    if isinstance(refused, store.Conflict):
        status = 409
        again = {k: str(v) for k, v in request.POST.items() if k not in ("base", "csrfmiddlewaretoken")}
    if not request.htmx:
        shown = RefusedPage(words, view.job, view.waypoint)
        return render(request, "frame/refused.html", names(shown), status=status)
    return wire.reply(line(request, view, [], words, again).swapped, status=status)


def _committed(
    request: HttpRequest,
    member: Member,
    before: View,
    done: store.Committed,
    stages: Stages,
    panels: wire.Fragments | None = None,
) -> HttpResponse:
    member.job.refresh_from_db()
    params = _params_after(before, done.before, done.after)
    base = View(
        member, before.waypoint, drawing=done.before, seq=before.seq, params=before.params, size=before.size
    )
    after = View(member, before.waypoint, drawing=done.after, seq=done.seq, params=params, size=before.size)
    address = reverse("waypoint", args=[member.job_id, before.waypoint])
    address = f"{address}?{urlencode(params)}" if params else address
    if not request.htmx:
        return redirect(address)
    planned(done.after)
    stages.lap("derive")
    panels = panels and wire.at_step(panels, before.seq + 1, done.seq)
    said = line(request, after, consequence(base.plan, after.plan, base.findings, after.findings, done.words))
    response = _difference(request, base, after, said.swapped, address=address, panels=panels)
    stages.lap("render")
    return stages.told(response)


def _params_after(view: View, before: Drawing, after: Drawing) -> dict[str, str]:
    """Where one stands after an edit: what was being tried or typed is done with, what came in new is
    selected.
    """
    params = {
        k: v for k, v in view.params.items() if k not in ("try", "typing", "bearing", "show", "finding")
    }
    fresh = [h for h in after.items if h not in before.items and not h.startswith("C")]
    if fresh:
        # Of several circuits made at once the first is taken up.
        params["sel"] = next((h for h in fresh if h.startswith("Q")), fresh[-1])
    if rooms := [h for h in fresh if h in after.of(Room)]:
        # A new room is stepped into: the tape goes on there.
        params = {"at": rooms[-1]}
    return params


def _fix_of(view: View, form: QueryDict) -> Edit:
    key = form.get("finding", "")
    finding = next((f for f in view.findings if f.key == key), None)
    edit = view.fix(finding) if finding else None
    if edit is None:
        raise EditRefused("that finding has gone, or only a person can put it right")
    return edit


@require_POST
@for_editor
def take_back(request: HttpRequest, member: Member, waypoint: str, which: str) -> HttpResponse:
    """Undo or redo the person's own last step."""
    if which not in ("undo", "redo") or waypoint not in WAYPOINTS:
        raise Http404("no such word")
    stages = Stages()
    seen = member.job.head.seq if member.job.head else 0
    try:
        done = store.take_back(
            member.job_id, request.user, which == "redo", _client(request), base=_base(request)
        )
    except (DocumentError, *store.REFUSALS) as refused:
        if isinstance(refused, DocumentError) or not request.htmx:
            return _told(request, member, waypoint, refused)
        return _refused(request, _view(request, member, waypoint), refused)
    stages.lap("commit")
    if not request.htmx:
        return redirect("waypoint", member.job_id, waypoint)
    view = View(
        member, waypoint, drawing=done.before, seq=seen, params=params_of(request), size=size_of(request)
    )
    return _committed(request, member, view, done, stages)


@require_GET
def head(request: HttpRequest, job_id: int) -> HttpResponse:
    """The newest revision's number and words, for pages that watch; 304 while nothing changed."""
    asked = Revision.objects.filter(
        job_id=job_id, job__members__user_id=request.user.pk, pk=F("job__head_id")
    )
    found = asked.values_list("seq", "words", "who__username").first() if job_id < 2**63 else None
    if found is None:
        raise Http404("no such job")
    seq, words, who = found
    tag = f'"{seq}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers={"ETag": tag})
    said = f"{who}: {words}"
    return HttpResponse(said, content_type="text/plain", headers={"ETag": tag, "X-Fjeld-Seq": str(seq)})


@require_POST
@for_editor
def stop_searches(request: HttpRequest, member: Member) -> HttpResponse:
    """Stop looking for anything cheaper; what is found stays found."""
    stop_all(member.job_id)
    if request.htmx:
        # The page looks again by itself.
        return HttpResponse(status=204)
    back = request.POST.get("back", "")
    return redirect("waypoint", member.job_id, back if back in WAYPOINTS else "runs")
