"""The frame around every waypoint: pages, edits, undo, and what they send back."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

import msgspec
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from fjeld.check import RANK, Finding
from fjeld.derive.memo import Kept
from fjeld.drawing.building import Room, Storey
from fjeld.drawing.changes import StaleChange
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats.sheet import Shape
from fjeld.formats.words import Misread
from fjeld.propose.fixes import fix
from fjeld.propose.rows import RowsRefused
from fjeld.quantities import UnreadableLength
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Member
from fjeld.web.ui import wire
from fjeld.web.ui.consequence import Part, consequence
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.search import stop_all
from fjeld.web.ui.timing import Stages
from fjeld.web.ui.view import View, params_of, planned, size_of
from fjeld.web.waypoints import WAYPOINTS

TITLES = {
    "survey": "Survey",
    "layout": "Layout",
    "circuits": "Circuits",
    "runs": "Runs",
    "boxes": "Boxes",
    "proof": "Proof",
    "site": "Site",
    "record": "Record",
}
#: The waypoints where what is being typed is shown before it is sent.
PREVIEWED = ("survey", "layout")
REFUSED = (EditRefused, UnreadableLength, RowsRefused, Misread)


class BadForm(EditRefused):
    """A form without a field it needs."""


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


def _trail(view: View) -> list[dict[str, Any]]:
    found = []
    names = list(WAYPOINTS)
    for n, name in enumerate(names, 1):
        mine = [f for f in view.findings if f.waypoint == name]
        counts = [sum(RANK[f.rule.severity] == r for f in mine) for r in range(4)]
        found.append(
            {"key": n, "name": name, "title": TITLES[name], "here": name == view.waypoint, "danger": counts[0],
             "asks": counts[1] + counts[2], "advice": counts[3], "open": len(mine)}
        )  # fmt: skip
    return found


#: The screens last drawn: an edit's "before" is as a rule what was sent a moment ago.
_layers: Kept[tuple[Any, ...]] = Kept(48)
_fragments: Kept[tuple[Any, ...]] = Kept(48)


def _screen_key(view: View) -> tuple[Any, ...]:
    """All that a screen is drawn from, but who looks and what is in the history."""
    return (
        id(view.drawing), view.job.pk, view.waypoint, view.may_edit, (view.size.width, view.size.height),
        tuple(sorted(view.params.items())),
    )  # fmt: skip


def layers(view: View) -> dict[str, Shape]:
    """The floor's layers under and over a waypoint's own, in drawing order."""
    if WAYPOINTS[view.waypoint].SEARCHES:
        # What a search finds meanwhile must show.
        return _draw(view)
    found: tuple[Any, dict[str, Shape]] = _layers.get(_screen_key(view), lambda: (view.drawing, _draw(view)))
    return found[1]


def _draw(view: View) -> dict[str, Shape]:
    floor = Floor(view.plan, view.room, view.size, whole=view.whole)
    found = WAYPOINTS[view.waypoint].layers(view, floor)
    if "f-walls" not in found:
        return found
    drawn: dict[str, Shape] = {}
    for name, layer in found.items():
        if name == "f-openings":
            drawn["f-bodies"] = floor.bodies(view.selected)
        drawn[name] = layer
    return {**drawn, "f-names": floor.names()}


def fragments(request: HttpRequest, view: View) -> dict[str, str]:
    """Every part of the frame that can change, as HTML by id."""
    # Always written for this request: forms carry its own token.
    found = _write(request, view)
    _fragments.keep(_sent_key(request, view), (view.drawing, found))
    return found


def _sent(request: HttpRequest, view: View) -> dict[str, str]:
    """The fragments that this person was sent for a screen, to compare with; never to be sent again."""
    found: tuple[Any, dict[str, str]] = _fragments.get(
        _sent_key(request, view), lambda: (view.drawing, _write(request, view))
    )
    return found[1]


def _sent_key(request: HttpRequest, view: View) -> tuple[Any, ...]:
    return (*_screen_key(view), request.user.pk, view.seq)


def _write(request: HttpRequest, view: View) -> dict[str, str]:
    screen = WAYPOINTS[view.waypoint]
    around = {
        "view": view, "job": view.job, "waypoint": view.waypoint, "title": TITLES[view.waypoint], "house": view.drawing.house,
        "unit": view.drawing.house.unit, "selected": view.selected, "stand": _stand(view), "said": view.plan.practice.words, "may_edit": view.may_edit,
    }  # fmt: skip
    trail = _trail(view)
    here = next(n for n, t in enumerate(trail) if t["here"])
    beside = {
        "previous": trail[here - 1] if here else None,
        "next": trail[here + 1] if here < 7 else None,
        "current": trail[here],
    }
    step, undone = store.last_step(view.job, request.user), store.last_undone(view.job, request.user)
    folder = {"site": "onsite"}.get(view.waypoint, view.waypoint)
    return {
        "rooms": render_to_string("frame/rooms.html", {**around, "storeys": _storeys(view)}, request),
        "trail": render_to_string("frame/trail.html", {**around, "trail": trail, **beside, "step": step, "undone": undone}, request),
        "dock": render_to_string(f"{folder}/dock.html", {**around, **screen.dock(view)}, request),
        "workings": render_to_string(
            f"{folder}/workings.html", {**around, **screen.workings(view), "findings": shown_findings(view)}, request
        ),
    }  # fmt: skip


def _stand(view: View) -> str:
    """The part of an address that keeps where one stands: the room or storey, and what is selected."""
    kept = {k: v for k in ("at", "storey", "sel") if (v := view.params.get(k, ""))}
    return f"?{urlencode(kept)}" if kept else ""


def _storeys(view: View) -> list[dict[str, Any]]:
    """The storeys with their rooms, to step into one; empty while there is a single room."""
    rooms = view.drawing.of(Room)
    if len(rooms) < 2 or view.waypoint in ("boxes", "site"):
        # These two show no floor.
        return []
    here = rooms[view.room].storey if view.room else None
    named: dict[Handle | None, str] = {
        None: "Ground floor",
        **{h: s.name for h, s in view.drawing.of(Storey).items()},
    }
    return [
        {
            "handle": storey or "ground", "name": name, "here": storey == here, "whole": storey == here and view.whole,
            "rooms": [(h, r, h == view.room and not view.whole) for h, r in rooms.items() if r.storey == storey],
        }
        for storey, name in named.items()
        if any(r.storey == storey for r in rooms.values())
    ]  # fmt: skip


def shown_findings(view: View) -> list[dict[str, Any]]:
    """The waypoint's open findings, the selected thing's first, each with whether it can be put right."""
    mine = sorted(
        view.here,
        key=lambda f: (
            view.selected not in f.handles if view.selected else False,
            not view.whole and not any(_in_hand(view, h) for h in f.handles),
            RANK[f.rule.severity],
        ),
    )
    said = view.plan.practice.said
    return [
        {"f": f, "words": said(f.words), "fix": said(_fix_words(view, f)), "show": _show(view, f)}
        for f in mine[:12]
    ]


def _in_hand(view: View, handle: str) -> bool:
    """Whether a thing is the room one stepped into, or stands in it."""
    return handle == view.room or getattr(view.drawing.items.get(Handle(handle)), "room", None) == view.room


def _show(view: View, finding: Finding) -> str:
    """The address that shows a fix as a ghost, on waypoints that can draw it."""
    if view.waypoint != "layout":
        return ""
    kept = {"sel": view.selected} if view.selected else {}
    return "?" + urlencode({**kept, "try": "fix", "finding": finding.key})


def _fix_words(view: View, finding: Finding) -> str:
    edit = fix(view.plan, finding, view.mint())
    return edit.words(view.drawing) if edit else ""


def line(
    request: HttpRequest, view: View, parts: list[Part], error: str = "", again: dict[str, str] | None = None
) -> str:
    """The consequence line."""
    return render_to_string(
        "frame/line.html",
        {
            "view": view,
            "job": view.job,
            "parts": [msgspec.structs.replace(p, words=view.plan.practice.said(p.words)) for p in parts],
            "error": error,
            "again": again,
            "may_edit": view.may_edit,
        },
        request,
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
    html = wire.changed(_sent(request, before), fragments(request, after), sent=request.method == "POST")
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
