"""Pages of an errand: what is wanted, and the old box that it begins from."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import Any, get_args

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.derive.plan import in_force
from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import retold
from fjeld.drawing.errand import Becomes, Errand
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, new_house
from fjeld.drawing.old_box import OldBox
from fjeld.errand.gates import may_part_neutral
from fjeld.errand.plan import at_hand
from fjeld.judge.answer import NotAsked
from fjeld.quantities import Length, finite_number, whole_number
from fjeld.web.errand.actions import ACTS, another, away, read_length, unplaced
from fjeld.web.errand.box import box_page
from fjeld.web.errand.hand import base_of, drawing_of, require_hand
from fjeld.web.errand.panels import Start
from fjeld.web.errand.screen import source_page
from fjeld.web.errand.taking import taking, written
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.begun_in import offered, remember
from fjeld.web.jobs.models import Member, Record
from fjeld.web.places import records
from fjeld.web.places.kinds import KINDS
from fjeld.web.places.planned import facts_at
from fjeld.web.ui.forms import given, weight
from fjeld.web.ui.panel import context


@require_http_methods(["GET", "POST"])
def start(request: HttpRequest) -> HttpResponse:
    """One screen: what is wanted, under which practice, and from where it can be reached."""
    if request.method == "POST":
        wants, practice = (
            str(request.POST.get("wants", "")),
            str(request.POST.get("practice", practices.USUAL)),
        )
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
    known = practices.load(practice)
    errand = Errand(KINDS[wants].name, bool(request.POST.get("attic")), bool(request.POST.get("below")))
    house = new_house(KINDS[wants].words, known, errand)
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
        member,
        drawing,
        handle=handle,
        old=old,
        params=request.GET,
        refused=refused,
        token=secrets.token_urlsafe(18),
        typed=request.POST,
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
            edit = ACTS[action](old, handle, in_force(drawing.house), request.POST)
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
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
        seen = whole_number(str(request.POST.get(f"{which}_step", "")))
        store.take_back(
            member.job_id, request.user, which == "redo", step_seen=seen, base=base_of(request, member)
        )
    except store.REFUSALS as refused:
        return _page(request, member, in_words(refused, drawing_of(member)))
    back = str(request.POST.get("back", ""))
    return redirect(back if back == pages or back.startswith(f"{pages}/") else pages)


def _back(member: Member, handle: Handle, part: str = "") -> HttpResponse:
    return redirect(f"{reverse('errand', args=[member.job_id])}?box={handle}{part}")


#: What can be told of an errand beside its spot and its way, by the field that a page sends; each is refused
#: on its own page.
Telling = Callable[[HttpRequest, Drawing, Errand], tuple[dict[str, Any], str]]


@require_POST
@for_editor
def meant(request: HttpRequest, member: Member) -> HttpResponse:
    """One thing told of what is wanted; refused on the page that asks for it."""
    drawing = drawing_of(member)
    errand = drawing.house.errand or Errand("light")
    form = request.POST
    named = next(
        (n for n in ("weighs", "becomes", "replaces", "source", "same_switch") if n in form),
        str(form.get("field", "")),
    )
    if named not in _TOLD:
        raise Http404("nothing of that name is told of an errand")
    telling, there = _TOLD[named]
    refusing = box_page if there == "errand-box" else _page
    try:
        fields, words = telling(request, drawing, errand)
        edit = retold(HOUSE, "errand", drawing.house.errand, replace(errand, **fields), words)
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
    except (EditRefused, *store.REFUSALS) as refused:
        return refusing(request, member, in_words(refused, drawing))
    if there == "errand":
        return _back(member, Handle(str(form.get("source", form.get("box", "")))))
    return redirect(there, member.job_id)


def _source(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    """Which old box is the source: what was tested dead, and the way from there, is of the one before."""
    box = str(request.POST.get("source", ""))
    if box not in drawing.of(OldBox):
        raise Http404("no such box")
    return {"source": Handle(box)}, f"{box} is the source"


def _follows(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    follows = request.POST.get("same_switch") == "yes"
    words = "It follows the switch that is there" if follows else "It is always live at the old box"
    return {"same_switch": follows}, words


def _weighs(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    typed = given(request.POST, "weighs")
    kg = weight(typed, drawing.house.unit) if typed else None
    return {"weighs": kg}, f"What hangs there weighs {typed[:40] or 'what nobody has said'}"


def _reached(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    attic, below = bool(request.POST.get("attic")), bool(request.POST.get("below"))
    reached = " and ".join(w for w, open_ in (("above", attic), ("below", below)) if open_) or "neither"
    return {"attic": attic, "below": below}, f"It can be reached from {reached}"


def _takes(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    takes = finite_number(value) if value else None
    if value and (takes is None or takes < 0):
        raise EditRefused(f"“{value[:20]}” is no load; it is a figure in VA")
    return {"takes": takes}, f"What is new takes {value or 'what nobody has said'}"


def _hours(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    if value not in ("yes", "no"):
        raise EditRefused("it is on for hours on end, or it is not")
    return {"hours": value == "yes"}, f"On for hours on end: {value}"


def _in_its_place(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    handle, old = at_hand(drawing)
    device = str(request.POST.get("replaces", errand.replaces))
    becomes = str(request.POST.get("becomes", ""))
    if becomes not in (*get_args(Becomes), "") or device not in ("", *(d.id for d in old.held)):
        raise Http404("no such device, or nothing of that kind")
    words = f"In the place of a device of {handle}: {becomes or 'not said'}"
    return {"replaces": device, "becomes": becomes}, words


def _fits(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    if value not in ("outlet", "switch", ""):
        raise EditRefused("it is an outlet or a switch")
    return {"fits": value}, f"What is new is {value or 'not said'}"


def _devices(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    devices = whole_number(value) if value else None
    if value and (devices is None or not 1 <= devices <= 8):
        raise EditRefused(f"“{value[:20]}” is no number of devices; a box holds one to eight")
    return {"devices": devices}, f"Devices in the new box: {value or 'not said'}"


def _farther(request: HttpRequest, drawing: Drawing, errand: Errand) -> tuple[dict[str, Any], str]:
    value = given(request.POST, "value")
    nearer = value.startswith(("-", "−"))
    length = read_length(value.lstrip("-− "), in_force(drawing.house)) if value else None
    if nearer and length is not None:
        length = Length(-length.mm, value)
    return {"farther": length}, f"Its cable goes farther by {value or 'what nobody has said'}"


_TOLD: dict[str, tuple[Telling, str]] = {
    "source": (_source, "errand"),
    "same_switch": (_follows, "errand-proof"),
    "weighs": (_weighs, "errand-box"),
    "reached": (_reached, "errand-path"),
    "takes": (_takes, "errand"),
    "hours": (_hours, "errand"),
    "becomes": (_in_its_place, "errand-box"),
    "replaces": (_in_its_place, "errand-box"),
    "fits": (_fits, "errand"),
    "devices": (_devices, "errand-box"),
    "farther": (_farther, "errand-box"),
}


@require_POST
@for_member
def record(request: HttpRequest, member: Member) -> HttpResponse:
    """Keep a reading; what is sent twice is kept once."""
    require_hand(member)
    drawing = drawing_of(member)
    handle, _ = at_hand(drawing, str(request.POST.get("box", "")))
    reading = str(request.POST.get("reading", ""))
    try:
        facts = facts_at(member.job, drawing, handle)
        if reading == "R6b" and (why := may_part_neutral(facts.box)):
            raise NotAsked(why)
        taken = written(request.POST, taking(reading, facts.box, facts.found), facts.box)
    except (EditRefused, NotAsked) as refused:
        return _page(
            request, member, in_words(refused, drawing) if isinstance(refused, EditRefused) else str(refused)
        )
    except KeyError:
        raise Http404("no such reading") from None
    records.keep(member.job, request.user, handle, taken, str(request.POST.get("token", "")))
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
    # As it was asked, however often it is pressed.
    found.struck = request.POST.get("struck", "no" if found.struck else "yes") == "yes"
    found.save(update_fields=["struck"])
    return _back(member, Handle(found.key))
