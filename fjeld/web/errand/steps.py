"""The book on a ladder: one step at a time, ticked as it is done; a gate is a gate whatever is sent."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from hashlib import sha256
from typing import Any

import msgspec
from django.core.cache import cache
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST
from msgspec.structs import replace

from fjeld.drawing.edits import EditRefused
from fjeld.errand.plan import ErrandPlan, kit
from fjeld.graphics.both_sides import both_sides
from fjeld.graphics.picture import picture
from fjeld.graphics.shapes import Shape
from fjeld.graphics.triangle import node_words, triangle
from fjeld.judge.figured import Figured
from fjeld.practice import Practice
from fjeld.quantities import finite_number
from fjeld.web.errand.hand import book_drawing, require_hand
from fjeld.web.errand.logbook import begun_at, happened, meant_by, notes_of, pairs_of, taken_by
from fjeld.web.errand.older import in_names
from fjeld.web.errand.step import ErrandStep, InHand, answered
from fjeld.web.errand.stones import STEPS
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.places.planned import log_of, plan_of, stands_of, tasks_of
from fjeld.web.places.records import keep, kept
from fjeld.web.places.shots import Shot, shots_of
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Choices, Shown
from fjeld.work.book import Hours, Task, hours, joint_steps, leg_steps
from fjeld.work.carry import Carried, fished
from fjeld.work.learned import learned
from fjeld.work.standing import ShutBy, Stands

#: Classes of work in words.
CLASSES = {
    "survey": "looking and marking",
    "test": "testing",
    "cut": "cutting and making up",
    "fish": "ways and pulling",
    "clean": "cleaning",
}
EXPERIENCE = (("1", "the first time"), ("2", "the second time"), ("3", "a later time"))
#: What makes it harder, in words by practice.
ACCESS = {
    "low attic": ("an attic under 36 inches high", "a loft under 900 mm high"),
    "summer attic": ("an attic in summer", "a loft in summer"),
    "long ladder": ("a ladder over 8 feet", "a ladder over 2.4 m"),
    "furnished room": ("a furnished room", "a furnished room"),
}


class PairRow(Shown, frozen=True):
    """A pair of the dead test by its name, with what was typed where the test was refused."""

    name: str
    words: str
    value: str
    under_load: str


class StepCard(Shown, frozen=True, kw_only=True):
    """A step as it stands, with what it asks and what comes ``first`` where its gate is shut, what was to be
    remembered of it, its photographs, and the box as it is then ``made`` up, or its hole from both sides.
    """

    stands: Stands[Task]
    number: int
    of: int
    here: bool
    first: str
    note: str
    begun: str
    pairs: list[PairRow]
    triangle: Shape | None
    figures: list[tuple[Figured, str]]
    made: Sequence[Shape]
    shots: list[Shot]
    token: str
    typed: Mapping[str, str]
    until: datetime | None
    blocks: list[tuple[ShutBy, str]]


class Steps(Shown, frozen=True, kw_only=True):
    """The step in hand, largest; every other as it stands; how long all of it takes, and what goes along."""

    now: StepCard | None
    cards: list[StepCard]
    spares: list[tuple[str, str]]
    stops: list[tuple[ShutBy, str, str]]
    unknown: int
    hours: Hours
    labour: str
    range: str
    times: str
    experience: Choices
    access: list[tuple[str, str, bool]]
    own: list[tuple[str, str]]
    carried: Sequence[Carried]
    token: str


def _page(hand: InHand) -> Steps:
    """The book: of an errand, or of a house."""
    request, member, drawing = hand.request, hand.member, hand.drawing
    known = hand.known if drawing.house.errand else None
    stands = hand.stands if known else stands_of(member.job, drawing)
    cards, stops = _cards(request, member.job, known, stands), _first_stops(stands)
    way = known.facts.decided if known else None
    times = str(request.GET.get("times", "1"))
    times = times if times in dict(EXPERIENCE) else "1"
    own = learned(taken_by(request.user))
    access = [a for a in request.GET.getlist("access") if a in ACCESS]
    cables = len(known.facts.old.cables) if known else 0
    taken = hours(
        [s.task for s in stands],
        int(times),
        cables=cables,
        fished=fished(way.chosen) if way else 0.0,
        own=own,
        access=access,
    )
    factors = [(CLASSES[k], f"{f:.2f}".rstrip("0").rstrip(".")) for k, f in sorted(own.items())]
    return Steps(
        now=next((c for c in cards if c.here), None),
        cards=cards,
        spares=[(c.stands.task.id, spare(c, hand)) for c in cards if not c.here],
        stops=stops,
        unknown=sum(not b.known for b, _, _ in stops),
        hours=taken,
        labour=_clock(taken.labour.total),
        range=f"{_clock(taken.least)} to {_clock(taken.most)}",
        times=times,
        experience=EXPERIENCE,
        access=_harder(access, known.facts.practice) if known else [],
        own=factors,
        carried=kit(known) if known else (),
        token=_token(),
    )


def spare(card: StepCard, hand: InHand) -> SafeString:
    """A card that is not in hand, for the page to put in hand by itself: written once for as long as nothing
    on it changes. What is only of one answer, its tokens, the page gives it then.
    """
    member = hand.member
    around = (member.job_id, hand.job.head.seq if hand.job.head else 0, member.role, member.job.archived)
    plain = replace(card, token="")
    told = msgspec.json.encode((around, timezone.get_current_timezone_name(), plain), enc_hook=str)
    key = f"card:{sha256(told).hexdigest()}"
    written: SafeString | None = cache.get(key)
    if written is None:
        given = {
            "card": plain,
            "job": hand.job,
            "may_record": hand.may_record,
            "may_edit": member.may_edit,
            "book": reverse("errand-steps", args=[member.job_id]),
            "tell": reverse("errand-step", args=[member.job_id]),
        }
        written = render_to_string("errand/step.html", given)
        cache.set(key, written)
    return written


def _first_stops(stands: Sequence[Stands[Task]]) -> list[tuple[ShutBy, str, str]]:
    """What shuts steps that are not done, each once with the first of them and where it is put right; what is
    known first.
    """
    found: dict[ShutBy, str] = {}
    for s in stands:
        for block in () if s.done else s.task.blocked_by:
            found.setdefault(block, s.task.id)
    return [(b, task, STEPS[b.page][1]) for b, task in sorted(found.items(), key=lambda e: not e[0].known)]


def _harder(chosen: Sequence[str], practice: Practice) -> list[tuple[str, str, bool]]:
    """What may make an errand harder, and whether it is said to."""
    return [(a, words[practice.unit == "mm"], a in chosen) for a, words in ACCESS.items()]


def _token() -> str:
    return secrets.token_urlsafe(18)


def _cards(
    request: HttpRequest, job: Job, known: ErrandPlan | None, all_steps: Sequence[Stands[Task]]
) -> list[StepCard]:
    now = _now(request, all_steps)
    notes, begun, shots = notes_of(job), begun_at(job), shots_of(job)
    typed = {k: str(v)[:300] for k, v in request.POST.items()}
    words = {s.task.id: s.task.words for s in all_steps}
    cards = []
    for n, s in enumerate(all_steps, 1):
        mine = typed if s == now else {}
        tests = known if s.task.asks == "dead test" else None
        cards.append(
            StepCard(
                stands=s,
                number=n,
                of=len(all_steps),
                here=s == now,
                first=words.get(s.wants, ""),
                note=notes.get(s.task.id, ""),
                begun=begun.get(s.task.id, ""),
                pairs=_pair_rows(tests.nodes, mine, tests.facts.practice) if tests else [],
                triangle=_triangle(tests, mine) if tests else None,
                figures=[(f, given(mine, f"figure:{f.id}")) for f in s.task.figures],
                made=_made(known, s.task.id) or _bored(known, s.task.id),
                shots=shots.get(f"step:{s.task.id}", []),
                token=_token(),
                typed=mine,
                until=_until(s),
                blocks=[(b, STEPS[b.page][1]) for b in s.task.blocked_by],
            )
        )
    return cards


def _now(request: HttpRequest, all_steps: Sequence[Stands[Task]]) -> Stands[Task] | None:
    """The step in hand: the one asked for, else the first that is open, else the first that is not done."""
    asked = request.GET.get("step", request.POST.get("step", ""))
    ordered = sorted(all_steps, key=lambda s: (s.task.id != asked, not s.open))
    return next((s for s in ordered if s.task.id == asked or not s.done), None)


def _until(stands: Stands[Task]) -> datetime | None:
    """Until when what was tested holds, as its page shows it."""
    return (
        None
        if stands.valid_until is None or not stands.done
        else datetime.fromtimestamp(stands.valid_until, UTC)
    )


def _made(known: ErrandPlan | None, task: str) -> list[Shape]:
    """The box made up, its new conductor of this step taken in hand."""
    made = known.made if known else None
    mine = joint_steps(made.joints).get(task) if made else None
    if known is None or made is None or mine is None:
        return []
    return [picture(made.after, {}, held=mine.end, practice=known.facts.practice)]


def _bored(known: ErrandPlan | None, task: str) -> list[Shape]:
    """Where the hole of a leg of the way comes out, from both sides."""
    way = known.facts.decided if known else None
    leg = leg_steps(way.chosen).get(task) if way else None
    if way is None or leg is None:
        return []
    unit = way.ground.practice.unit
    seen = (both_sides(d, way.ground, unit) for d in way.details if d.leg == leg)
    return [s for s in seen if s is not None]


def _pair_rows(nodes: Sequence[str], form: Mapping[str, Any], practice: Practice) -> list[PairRow]:
    return [
        PairRow(
            pair, node_words(pair, practice), given(form, f"pair:{pair}"), given(form, f"pair:{pair}:loaded")
        )
        for pair in pairs_of(nodes)
    ]


def _triangle(known: ErrandPlan, form: Mapping[str, Any]) -> Shape | None:
    """The pairs as a triangle, with what was typed of them so far."""
    read: dict[str, tuple[float, float]] = {}
    for pair, row in zip(
        pairs_of(known.nodes), _pair_rows(known.nodes, form, known.facts.practice), strict=True
    ):
        plain = finite_number(row.value)
        if plain is not None:
            read[pair] = (plain, plain if (loaded := finite_number(row.under_load)) is None else loaded)
    return triangle(known.nodes, read, known.facts.practice) if known.facts.box.cables else None


def _clock(minutes: float) -> str:
    """Minutes as one says them."""
    whole, rest = divmod(round(minutes), 60)
    return f"{whole} h {rest} min" if whole and rest else f"{whole} h" if whole else f"{rest} min"


BOOK = ErrandStep(name="record", template="steps", page=_page, of_houses=True)


@require_POST
@for_member
def step(request: HttpRequest, member: Member) -> HttpResponse:
    """A step begun, done or taken back, someone away, a breaker that tripped: kept, or refused by its gate in
    words.
    """
    require_hand(member)
    drawing = book_drawing(member)
    token = str(request.POST.get("token", ""))
    try:
        with transaction.atomic():
            # One after another: two ticks at once each see the other's.
            job = Job.objects.select_for_update().get(pk=member.job_id)
            if not job.records.filter(token=token).exists():
                known = plan_of(job, drawing) if drawing.house.errand else None
                meant = meant_by(
                    in_names(request.POST, job), lambda task: bool(shots_of(job).get(f"step:{task}"))
                )
                event = happened(meant, known, tasks_of(job, drawing, known), log_of(job), drawing)
                keep(job, request.user, f"step:{meant.task}", event, token)
    except EditRefused as refused:
        return answered(BOOK, InHand(request, member, in_words(refused, drawing)))
    return kept(request, redirect("errand-steps", member.job_id))
