"""Pages of an errand: what is wanted, and the old box that it begins from."""

from __future__ import annotations

import secrets
from typing import get_args

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.errand import Becomes, Errand
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, House
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked
from fjeld.quantities import finite_number, whole_number
from fjeld.web.errand import records
from fjeld.web.errand.actions import ACTS, another, away, unplaced
from fjeld.web.errand.box import box_page
from fjeld.web.errand.hand import drawing_of, require_hand
from fjeld.web.errand.kinds import KINDS
from fjeld.web.errand.panels import Start
from fjeld.web.errand.screen import at_hand, source_page
from fjeld.web.errand.taking import taking, written
from fjeld.web.jobs import store
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.begun_in import offered, remember
from fjeld.web.jobs.models import Member, Record
from fjeld.web.ui.forms import weight
from fjeld.web.ui.panel import context
from fjeld.web.ui.refusals import in_words


@require_http_methods(["GET", "POST"])
def start(request: HttpRequest) -> HttpResponse:
    """One screen: what is wanted, under which practice, and from where it can be reached."""
    if request.method == "POST":
        wants, practice = str(request.POST.get("wants", "")), str(request.POST.get("practice", "na"))
        if wants in KINDS and practice in practices.available():
            job = store.create(KINDS[wants].words, _drawing(request, wants, practice), request.user)
            remember(request, practice)
            return redirect("errand", job.pk)
    choices = [(p.id, p.title) for p in offered(request)]
    refused = {"refused": "Say what is wanted."} if request.method == "POST" else {"refused": ""}
    status = 422 if request.method == "POST" else 200
    return render(
        request, "errand/start.html", context(Start(list(KINDS.values()), choices)) | refused, status=status
    )


def _drawing(request: HttpRequest, wants: str, practice: str) -> Drawing:
    """A job with an open figure of a room and the first old box, nothing measured."""
    metric = practices.load(practice).metric
    errand = Errand(KINDS[wants].name, bool(request.POST.get("attic")), bool(request.POST.get("below")))
    house = House(
        KINDS[wants].words, practice, "mm" if metric else "ft-in", connectors="lever" if metric else "twist-on", errand=errand
    )  # fmt: skip
    mint = Mint({})
    room, box = mint.fresh("room"), mint.fresh("old box")
    return Drawing({HOUSE: house, room: Room("The room"), box: unplaced(room)})


@require_GET
@for_member
def source(request: HttpRequest, member: Member) -> HttpResponse:
    """The old box: what is in it, and what to read next."""
    return _page(request, member, "")


def _page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    drawing = drawing_of(member)
    handle, old = at_hand(drawing, str(request.GET.get("box", request.POST.get("box", ""))))
    shown = source_page(
        member, drawing, handle, old, request.GET, refused, secrets.token_urlsafe(18), request.POST
    )
    return render(request, "errand/source.html", context(shown), status=422 if refused else 200)


@require_POST
@for_editor
def act(request: HttpRequest, member: Member, action: str) -> HttpResponse:
    """One edit of the box in hand; refused in words on the page it came from."""
    drawing = drawing_of(member)
    handle, old = at_hand(drawing, str(request.POST.get("box", "")))
    if action not in (*ACTS, "another", "away"):
        raise Http404("no such edit")
    try:
        if action == "away":
            edit, handle = away(drawing, handle), Handle("")
        elif action == "another":
            handle = Mint(drawing.items, member.job.counters).fresh("old box")
            edit = another(drawing, handle)
        else:
            edit = ACTS[action](old, handle, practices.load(drawing.house.practice), request.POST)
        store.commit(member.job_id, request.user, edit)
    except (EditRefused, *store.REFUSALS) as refused:
        page = box_page if str(request.POST.get("back", "")) == "errand-box" else _page
        return page(request, member, in_words(refused, drawing))
    if str(request.POST.get("back", "")) == "errand-box":
        return redirect("errand-box", member.job_id)
    return _back(member, handle, "#box" if action in ("join", "device", "cable", "strike") else "")


@require_POST
@for_editor
def take_back(request: HttpRequest, member: Member) -> HttpResponse:
    """The person's own last step undone, or done again; then the page that it was asked on."""
    which, pages = str(request.POST.get("which", "")), f"/jobs/{member.job_id}/errand"
    if which not in ("undo", "redo"):
        raise Http404("no such word")
    try:
        store.take_back(member.job_id, request.user, which == "redo")
    except store.REFUSALS as refused:
        return _page(request, member, in_words(refused, drawing_of(member)))
    back = str(request.POST.get("back", ""))
    return redirect(back if back == pages or back.startswith(f"{pages}/") else pages)


def _back(member: Member, handle: Handle, part: str = "") -> HttpResponse:
    return redirect(f"{reverse('errand', args=[member.job_id])}?box={handle}{part}")


@require_POST
@for_editor
def meant(request: HttpRequest, member: Member) -> HttpResponse:
    """Whether what is new follows the switch that is there; which old box is its source; or what stands in a device's place."""
    drawing = drawing_of(member)
    errand = drawing.house.errand or Errand("light")
    if "weighs" in request.POST:
        return _weighs(request, member, drawing, errand)
    if request.POST.get("field") == "reached":
        return _reached(request, member, errand)
    if request.POST.get("field") in ("takes", "hours"):
        return _new_load(request, member, drawing, errand)
    if "becomes" in request.POST or "replaces" in request.POST:
        return _in_its_place(request, member, drawing, errand)
    if box := str(request.POST.get("source", "")):
        if box not in drawing.of(OldBox):
            raise Http404("no such box")
        edit = Revise(HOUSE, {"errand": replace(errand, source=Handle(box))}, f"{box} is the source")
        store.commit(member.job_id, request.user, edit)
        # What was tested dead is another box.
        records.keep(member.job, request.user, "step:", "step", {"event": "away"}, "")
        return _back(member, Handle(box))
    follows = request.POST.get("same_switch") == "yes"
    words = "It follows the switch that is there" if follows else "It is always live at the old box"
    store.commit(
        member.job_id, request.user, Revise(HOUSE, {"errand": replace(errand, same_switch=follows)}, words)
    )
    return redirect("errand-proof", member.job_id)


def _weighs(request: HttpRequest, member: Member, drawing: Drawing, errand: Errand) -> HttpResponse:
    """What hangs there, by its weight; refused on the box's page."""
    typed = str(request.POST.get("weighs", "")).strip()
    try:
        kg = weight(typed, drawing.house.unit) if typed else None
        told = replace(errand, weighs=kg)
        words = f"What hangs there weighs {typed[:40] or 'what nobody has said'}"
        store.commit(member.job_id, request.user, Revise(HOUSE, {"errand": told}, words))
    except (EditRefused, *store.REFUSALS) as refused:
        return box_page(request, member, in_words(refused, drawing))
    return redirect("errand-box", member.job_id)


def _reached(request: HttpRequest, member: Member, errand: Errand) -> HttpResponse:
    """From where the work can be reached, said again."""
    attic, below = bool(request.POST.get("attic")), bool(request.POST.get("below"))
    reached = " and ".join(w for w, open_ in (("above", attic), ("below", below)) if open_) or "neither"
    told = replace(errand, attic=attic, below=below)
    store.commit(
        member.job_id, request.user, Revise(HOUSE, {"errand": told}, f"It can be reached from {reached}")
    )
    return redirect("errand-path", member.job_id)


def _new_load(request: HttpRequest, member: Member, drawing: Drawing, errand: Errand) -> HttpResponse:
    """What is new takes, or that it is on for hours on end; refused on the page of the box as found."""
    field, value = str(request.POST["field"]), str(request.POST.get("value", "")).strip()
    try:
        if field == "hours":
            if value not in ("yes", "no"):
                raise EditRefused("it is on for hours on end, or it is not")
            edit = Revise(
                HOUSE, {"errand": replace(errand, hours=value == "yes")}, f"On for hours on end: {value}"
            )
        else:
            takes = finite_number(value) if value else None
            if value and (takes is None or takes < 0):
                raise EditRefused(f"“{value[:20]}” is no load; it is a figure in VA")
            edit = Revise(
                HOUSE,
                {"errand": replace(errand, takes=takes)},
                f"What is new takes {value or 'what nobody has said'}",
            )
        store.commit(member.job_id, request.user, edit)
    except (EditRefused, *store.REFUSALS) as refused:
        return _page(request, member, in_words(refused, drawing))
    return _back(member, Handle(str(request.POST.get("box", ""))))


def _in_its_place(request: HttpRequest, member: Member, drawing: Drawing, errand: Errand) -> HttpResponse:
    """Which device of the box is replaced, or by what."""
    handle, old = at_hand(drawing, "")
    n = whole_number(str(request.POST.get("replaces", errand.replaces)))
    becomes = str(request.POST.get("becomes", ""))
    if becomes not in (*get_args(Becomes), "") or n is None or not 1 <= n <= max(len(old.held), 1):
        raise Http404("no such device, or nothing of that kind")
    told = replace(errand, replaces=n, becomes=becomes)
    words = f"In the place of a device of {handle}: {becomes or 'not said'}"
    store.commit(member.job_id, request.user, Revise(HOUSE, {"errand": told}, words))
    return redirect("errand-box", member.job_id)


@require_POST
@for_member
def record(request: HttpRequest, member: Member) -> HttpResponse:
    """Keep a reading; what is sent twice is kept once."""
    require_hand(member)
    drawing = drawing_of(member)
    handle, old = at_hand(drawing, str(request.POST.get("box", "")))
    reading = str(request.POST.get("reading", ""))
    try:
        box, found = records.seen(member.job, handle, old, practices.load(drawing.house.practice))
        body = written(request.POST, taking(reading, box, found))
    except (EditRefused, NotAsked) as refused:
        return _page(
            request, member, in_words(refused, drawing) if isinstance(refused, EditRefused) else str(refused)
        )
    except KeyError:
        raise Http404("no such reading") from None
    records.keep(member.job, request.user, handle, "reading", body, str(request.POST.get("token", "")))
    return records.kept(request, _back(member, handle))


@require_POST
@for_member
def strike(request: HttpRequest, member: Member) -> HttpResponse:
    """Strike a record out, or let it count again; it is kept either way."""
    require_hand(member)
    number = str(request.POST.get("record", ""))
    found = (
        Record.objects.filter(job=member.job, pk=int(number)).first()
        if number.isdecimal() and len(number) < 18
        else None
    )
    if found is None:
        raise Http404("no such record")
    found.struck = not found.struck
    found.save(update_fields=["struck"])
    return _back(member, Handle(found.key))
