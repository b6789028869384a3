"""The jobs page: start, copy, archive, find, import; and files out."""

from __future__ import annotations

import msgspec
from django.contrib import messages
from django.core.paginator import Page, Paginator
from django.db.models import Q
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld import practice as practices
from fjeld.drawing.extents import clean
from fjeld.drawing.handles import HOUSE, Mint
from fjeld.drawing.model import Drawing, new_house
from fjeld.formats import jobfile
from fjeld.formats.document import DocumentError
from fjeld.practice import Practice
from fjeld.propose.attach import attached
from fjeld.web.http import store
from fjeld.web.http.reading import FileNotTaken, read_job
from fjeld.web.jobs import deletion
from fjeld.web.jobs.access import for_member, for_owner
from fjeld.web.jobs.begun_in import offered, remember
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.panel import Shown, context
from fjeld.web.waypoints import WAYPOINTS


class JobCard(Shown, frozen=True, kw_only=True):
    """A job in the list; what its head's card says, if it has one (``known``)."""

    job: Job
    next: str
    title: str
    role: str
    owner: bool
    known: bool
    words: str
    open: int
    danger: int
    svg: str
    errand: bool


class Jobs(Shown, frozen=True):
    """The practices that a job may be begun in, and the jobs of a page with what was looked for."""

    practices: list[Practice]
    page: Page[Member]
    jobs: list[JobCard]
    q: str
    archived: bool


@require_GET
def index(request: HttpRequest) -> HttpResponse:
    """Every job of the person, each with its card as it was when its head was made: nothing is worked out
    here.
    """
    query = str(request.GET.get("q", ""))[:80]
    archived = request.GET.get("archived") == "1"
    mine = Member.objects.filter(user_id=request.user.pk, job__archived=archived).select_related("job")
    if query:
        mine = mine.filter(Q(job__name__icontains=query))
    page = Paginator(mine.order_by("-job_id"), 48).get_page(request.GET.get("page"))
    shown = Jobs(offered(request), page, [_card(m) for m in page], query, archived)
    return render(request, "jobs/list.html", context(shown))


def _card(member: Member) -> JobCard:
    """What is shown of a job; one without a card, from an older program, says to open it."""
    card = member.job.card if isinstance(member.job.card, dict) else {}
    asked = str(card.get("next", ""))
    next_ = asked if asked in WAYPOINTS else "survey"
    return JobCard(
        job=member.job,
        next=next_,
        title=WAYPOINTS[next_].title,
        role=member.get_role_display(),
        owner=member.role == Member.Role.OWNER,
        known=bool(card),
        words=str(card.get("words", "")),
        open=int(card.get("open", 0)),
        danger=int(card.get("danger", 0)),
        svg=str(card.get("svg", "")),
        errand=bool(card.get("errand")),
    )


@require_POST
def new(request: HttpRequest) -> HttpResponse:
    """A new job from nothing."""
    name = clean(str(request.POST.get("name", "")))[:80]
    if not name:
        messages.error(request, "A job needs a name.")
        return redirect("jobs")
    practice = str(request.POST.get("practice", practices.USUAL))
    if practice not in practices.available():
        messages.error(request, f"There is no practice “{practice[:20]}”.")
        return redirect("jobs")
    house = new_house(name, practices.load(practice))
    job = store.create(name, Drawing({HOUSE: house}), request.user)
    remember(request, practice)
    return redirect("waypoint", job.pk, "survey")


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """A job from a job file; a malformed one is refused in words."""
    try:
        drawing = joined(read_job(request.FILES.get("file")))
        job = store.create(drawing.house.name, drawing, request.user, "Import")
    except (FileNotTaken, *store.REFUSALS) as error:
        messages.error(request, f"That file was not taken: {error}")
        return redirect("jobs")
    return redirect("waypoint", job.pk, "survey")


def joined(drawing: Drawing) -> Drawing:
    """The drawing with every box of every circuit on a cable, as an edit would leave it."""
    with store.standing.guarded():
        return attached(drawing, Mint(drawing.items))


@require_POST
@for_member
def copy(request: HttpRequest, member: Member) -> HttpResponse:
    """A job of one's own with the same drawing."""
    head = member.job.head
    assert head is not None
    try:
        drawing = head.document.drawing
        house = msgspec.structs.replace(drawing.house, name=f"{drawing.house.name[:72]}, copy")
        made = Drawing({**drawing.items, HOUSE: house})
        job = store.create(house.name, made, request.user, f"Copy of {member.job.name}")
    except (DocumentError, *store.REFUSALS) as error:
        messages.error(request, f"{member.job.name} was not copied: {error}")
        return redirect("jobs")
    return redirect("waypoint", job.pk, "survey")


@require_POST
@for_owner
def archive(request: HttpRequest, member: Member) -> HttpResponse:
    """Put a job away, or bring it back; its owner only. While it is away nobody changes it."""
    member.job.archived = not member.job.archived
    member.job.save(update_fields=["archived"])
    return redirect("jobs")


@require_POST
@for_owner
def delete(request: HttpRequest, member: Member) -> HttpResponse:
    """Delete a job for good: its owner only, and only with its name typed out."""
    if clean(str(request.POST.get("name", ""))) != member.job.name.strip():
        messages.error(request, "That is not the job’s name; nothing was deleted.")
        return redirect("people", member.job.pk)
    deletion.delete_job(member.job)
    messages.success(request, f"{member.job.name} is deleted.")
    return redirect("jobs")


@require_GET
def schema(request: HttpRequest) -> HttpResponse:
    """The published schema of the job file."""
    return JsonResponse(jobfile.schema())
