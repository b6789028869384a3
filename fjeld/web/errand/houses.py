"""An errand and the houses: taken into one, begun from an old box of one. Its readings go along."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from fjeld.drawing.adopting import adopted, begun_from
from fjeld.drawing.building import Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.quantities import whole_number
from fjeld.web.errand.hand import drawing_of, errand_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member, Photo, Record
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.ui.forms import need
from fjeld.web.ui.panel import Shown, context

#: Houses that are offered at once, those last worked on first.
MOST = 30


class IntoRoom(Shown, frozen=True):
    """A room of a house."""

    value: str
    name: str


class IntoHouse(Shown, frozen=True):
    """A house that somebody may change, with the rooms that it has."""

    job: Job
    rooms: list[IntoRoom]


class Adopt(Shown, frozen=True):
    """The houses that an errand can be taken into."""

    job: Job
    kind: ErrandCard
    stones: list[Stone]
    houses: list[IntoHouse]
    refused: str


@require_http_methods(["GET", "POST"])
@for_member
def adopt(request: HttpRequest, member: Member) -> HttpResponse:
    """Take an errand into a room of a house: its old boxes with what was read there, and what is new as a
    point.
    """
    drawing = drawing_of(member)
    refused = ""
    if request.method == "POST":
        try:
            house, place = _adopt(request, member.job, drawing)
            return redirect(f"{reverse('waypoint', args=[house, 'survey'])}?sel={place}")
        except (EditRefused, *store.REFUSALS) as wrong:
            refused = in_words(wrong, drawing)
    kind = KINDS[errand_of(drawing).wants]
    shown = Adopt(member.job, kind, stones(kind.name, ""), _houses(request, drawing), refused)
    return render(request, "errand/adopt.html", context(shown), status=422 if refused else 200)


def _houses(request: HttpRequest, errand: Drawing) -> list[IntoHouse]:
    """Houses of the same practice that somebody may change, with the rooms that they have."""
    found = []
    mine = Member.objects.filter(
        user=request.user.pk, role__in=(Member.Role.OWNER, Member.Role.EDITOR), job__archived=False
    )
    for member in mine.select_related("job", "job__head").order_by("-job__head__pk")[: 4 * MOST]:
        head = member.job.head
        if head is None:
            continue
        house = head.document.drawing
        if house.house.errand is None and house.house.practice == errand.house.practice and house.of(Room):
            rooms = [IntoRoom(f"{member.job_id}:{h}", r.name) for h, r in house.of(Room).items()]
            found.append(IntoHouse(member.job, rooms))
        if len(found) == MOST:
            break
    return found


def _adopt(request: HttpRequest, job: Job, errand: Drawing) -> tuple[int, Handle]:
    number, _, room = need(request.POST, "into").partition(":")
    pk, wall = whole_number(number), whole_number(str(request.POST.get("wall") or "0"))
    into = Member.objects.filter(user=request.user.pk, job=pk or 0).select_related("job").first()
    if into is None or not into.may_edit or into.job.head is None:
        raise EditRefused("that house is not yours to change")
    house = into.job.head.document.drawing
    rooms = house.of(Room)
    if room not in rooms or wall is None or wall > len(rooms[Handle(room)].sides):
        raise EditRefused("there is no such room or wall in that house")
    if house.house.practice != errand.house.practice:
        raise EditRefused("that house is wired under another practice")
    things, moved = adopted(errand, house, Handle(room), wall, Mint(house.items, into.job.counters))
    with transaction.atomic():
        store.commit(
            into.job_id,
            request.user,
            Place(things, f"what was found for “{job.name}”"),
            base=into.job.head.seq,
        )
        _along(job, into.job, moved, errand_of(errand).source or next(iter(errand.of(OldBox))))
    return into.job_id, next(iter(moved.values()))


def _along(of: Job, to: Job, moved: dict[Handle, Handle], opened: Handle) -> None:
    """What was read in old boxes goes along with them, by whom and when it was, and photographs of them.

    What was photographed of the work shows the box that was ``opened`` for it.
    """
    to.refresh_from_db()
    seq = to.head.seq if to.head else 0
    for record in of.records.filter(kind="reading", key__in=moved):
        copy = Record.objects.create(
            job=to,
            key=moved[Handle(record.key)],
            kind="reading",
            body=record.body,
            seq=seq,
            who=record.who,
            token=f"of-{record.pk}-{moved[Handle(record.key)]}-{seq}",
            struck=record.struck,
        )
        Record.objects.filter(pk=copy.pk).update(when=record.when)
    for photo in of.photos.filter(Q(key__in=moved) | Q(key__startswith="step:")):
        box = moved.get(Handle(opened if photo.key.startswith("step:") else photo.key))
        if box is not None:
            fields = {
                name: getattr(photo, name) for name in ("jpeg", "width", "height", "who", "struck", "written")
            }
            kept = Photo.objects.create(
                job=to, key=box, seq=seq, token=f"of-{photo.pk}-{box}-{seq}", **fields
            )
            Photo.objects.filter(pk=kept.pk).update(when=photo.when)


@require_POST
@for_member
def begin(request: HttpRequest, member: Member) -> HttpResponse:
    """Begin an errand from an old box of a house, with what was read there."""
    head, wants = member.job.head, str(request.POST.get("wants", ""))
    box = Handle(str(request.POST.get("box", "")))
    if head is None or wants not in KINDS or box not in head.document.drawing.of(OldBox):
        raise Http404("no such box, or nothing that is wanted")
    name = f"{KINDS[wants].words}, {member.job.name}"[:80]
    with transaction.atomic():
        drawing, handle = begun_from(head.document.drawing, box, KINDS[wants].name, name)
        job = store.create(name, drawing, request.user)
        _along(member.job, job, {box: handle}, Handle(""))
    return redirect("errand", job.pk)
