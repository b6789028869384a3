"""Pages of an errand: what is wanted, and the old box that it begins from."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST
from msgspec.structs import replace

from fjeld import practice as practices
from fjeld.derive.plan import in_force
from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import retold
from fjeld.drawing.errand import Errand
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, new_house
from fjeld.errand.gates import may_part_neutral
from fjeld.errand.plan import at_hand
from fjeld.judge.answer import NotAsked
from fjeld.quantities import whole_number
from fjeld.web.errand.actions import ACTS, another, away, unplaced
from fjeld.web.errand.declared import ERRAND_STEPS, step_that_tells
from fjeld.web.errand.hand import base_of, drawing_of, require_hand
from fjeld.web.errand.panels import Start
from fjeld.web.errand.screen import SOURCE
from fjeld.web.errand.step import InHand, answered
from fjeld.web.errand.taking import taking, written
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.begun_in import offered, remember
from fjeld.web.jobs.models import Member, Record
from fjeld.web.places import records
from fjeld.web.places.kinds import KINDS
from fjeld.web.places.planned import facts_at
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
        back = "box" if str(request.POST.get("back", "")) == "errand-box" else "source"
        return answered(ERRAND_STEPS[back], InHand(request, member, in_words(refused, drawing)))
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
        return answered(SOURCE, InHand(request, member, in_words(refused, drawing_of(member))))
    back = str(request.POST.get("back", ""))
    return redirect(back if back == pages or back.startswith(f"{pages}/") else pages)


def _back(member: Member, handle: Handle, part: str = "") -> HttpResponse:
    return redirect(f"{reverse('errand', args=[member.job_id])}?box={handle}{part}")


@require_POST
@for_editor
def meant(request: HttpRequest, member: Member) -> HttpResponse:
    """One thing told of what is wanted; refused on the page that asks for it."""
    hand, form = InHand(request, member), request.POST
    named = next((n for n in ("weighs", "becomes", "replaces", "source", "same_switch") if n in form), "")
    step = step_that_tells(named := named or str(form.get("field", "")))
    if step is None:
        raise Http404("nothing of that name is told of an errand")
    drawing, errand = drawing_of(member), hand.errand
    try:
        fields, words = step.tells[named](request, drawing, errand)
        edit = retold(HOUSE, "errand", drawing.house.errand, replace(errand, **fields), words)
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
    except (EditRefused, *store.REFUSALS) as refused:
        return answered(step, hand.refusing(in_words(refused, drawing)))
    if step.name == "source":
        return _back(member, Handle(str(form.get("source", form.get("box", "")))))
    return redirect(step.address, member.job_id)


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
        words = in_words(refused, drawing) if isinstance(refused, EditRefused) else str(refused)
        return answered(SOURCE, InHand(request, member, words))
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
