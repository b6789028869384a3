"""The book on a ladder: one step at a time, ticked as it is done; a gate is a gate whatever is sent."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld import practice as practices
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.model import Drawing
from fjeld.finished.book import Hours, Stands, hours, joint_steps, leg_steps, nodes_of, standing
from fjeld.finished.box.found import FoundBox
from fjeld.finished.box.makeup import MakeUp
from fjeld.finished.box.record import as_found
from fjeld.finished.carry import Carried, carry, fished
from fjeld.finished.figured import Figured
from fjeld.finished.learned import learned
from fjeld.finished.path import Path
from fjeld.quantities import finite_number
from fjeld.web.errand.both_sides import both_sides
from fjeld.web.errand.hand import require_hand
from fjeld.web.errand.joints import made_of
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.logbook import (
    begun_at,
    book_drawing,
    happened,
    log_of,
    notes_of,
    pairs_of,
    route_of,
    taken_by,
    tasks_of,
)
from fjeld.web.errand.picture import picture
from fjeld.web.errand.records import keep, kept
from fjeld.web.errand.screen import at_hand
from fjeld.web.errand.shots import Shot, shots_of
from fjeld.web.errand.stones import Stone, stones
from fjeld.web.errand.triangle import node_words, triangle
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Choices, Shown, context
from fjeld.web.ui.refusals import in_words

#: Classes of work in words.
CLASSES = {"survey": "looking and marking", "test": "testing", "cut": "cutting and making up", "fish": "ways and pulling", "clean": "cleaning"}  # fmt: skip
EXPERIENCE = (("1", "the first time"), ("2", "the second time"), ("3", "a later time"))
#: What makes it harder, in words by practice.
ACCESS = {
    "low attic": ("an attic under 36 inches high", "a loft under 900 mm high"), "summer attic": ("an attic in summer", "a loft in summer"),
    "long ladder": ("a ladder over 8 feet", "a ladder over 2.4 m"), "furnished room": ("a furnished room", "a furnished room"),
}  # fmt: skip


class PairRow(Shown, frozen=True):
    """A pair of the dead test, with what was typed where the test was refused."""

    words: str
    value: str
    under_load: str


class StepCard(Shown, frozen=True):
    """A step as it stands, with what it asks and what comes ``first`` where its gate is shut, what was to be remembered of it, its photographs, and the box as it is then ``made`` up, or its hole from both sides."""

    stands: Stands
    number: int
    of: int
    here: bool
    first: str
    note: str
    begun: str
    pairs: list[PairRow]
    triangle: str
    figures: list[tuple[Figured, str]]
    made: str
    shots: list[Shot]
    token: str
    typed: Mapping[str, str]


class Steps(Shown, frozen=True):
    """The step in hand, largest; every other as it stands; how long all of it takes, and what goes along."""

    job: Job
    kind: Kind | None
    stones: list[Stone]
    now: StepCard | None
    cards: list[StepCard]
    hours: Hours
    labour: str
    range: str
    times: str
    experience: Choices
    access: list[tuple[str, str, bool]]
    own: list[tuple[str, str]]
    carried: Sequence[Carried]
    token: str
    may_record: bool
    refused: str


@require_GET
@for_member
def steps(request: HttpRequest, member: Member) -> HttpResponse:
    """The book."""
    return page(request, member, "")


def page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    """The book, with what was refused of it."""
    drawing = book_drawing(member)
    errand = drawing.house.errand
    kind = KINDS[errand.wants] if errand else None
    way = route_of(drawing)
    cards = _cards(request, member.job, drawing, way)
    cables = len(at_hand(drawing, "")[1].cables) if errand else 0
    times = str(request.GET.get("times", "1"))
    times = times if times in dict(EXPERIENCE) else "1"
    own = learned(taken_by(request.user))
    access = [a for a in request.GET.getlist("access") if a in ACCESS]
    taken = hours(
        tasks_of(member.job, drawing), int(times), cables, fished(way.chosen) if way else 0.0, own, access
    )
    factors = [(CLASSES[k], f"{f:.2f}".rstrip("0").rstrip(".")) for k, f in sorted(own.items())]
    shown = Steps(
        member.job, kind, stones(kind.name, "record") if kind else [], next((c for c in cards if c.here), None), cards, taken, _clock(taken.labour.total),
        f"{_clock(taken.least)} to {_clock(taken.most)}", times, EXPERIENCE, _harder(access, drawing.house.practice) if errand else [], factors, _carried(drawing, way), _token(),
        not member.job.archived and member.role != Member.Role.READER, refused,
    )  # fmt: skip
    return render(request, "errand/steps.html", context(shown), status=422 if refused else 200)


def _harder(chosen: Sequence[str], practice: str) -> list[tuple[str, str, bool]]:
    """What may make an errand harder, and whether it is said to."""
    metric = practices.load(practice).metric
    return [(a, words[metric], a in chosen) for a, words in ACCESS.items()]


def _token() -> str:
    return secrets.token_urlsafe(18)


def _cards(request: HttpRequest, job: Job, drawing: Drawing, way: Path | None) -> list[StepCard]:
    made = made_of(job, drawing)
    all_steps = standing(tasks_of(job, drawing), log_of(job))
    asked = request.GET.get("step", request.POST.get("step", ""))
    chosen = next((s for s in all_steps if s.task.id == asked), None)
    now = chosen or next((s for s in all_steps if not s.done and not s.wants), None)
    box = as_found(at_hand(drawing, "")[1]) if drawing.house.errand else FoundBox("junction", ())
    metric = practices.load(drawing.house.practice).metric
    notes, begun, shots = notes_of(job), begun_at(job), shots_of(job)
    typed = {k: str(v)[:300] for k, v in request.POST.items()}
    words = {s.task.id: s.task.words for s in all_steps}
    cards = []
    for n, s in enumerate(all_steps, 1):
        mine = typed if s == now else {}
        tests = s.task.asks == "dead test"
        cards.append(
            StepCard(
                s, n, len(all_steps), s == now, words.get(s.wants, ""), notes.get(s.task.id, ""), begun.get(s.task.id, ""), _pair_rows(box, mine, metric) if tests else [],
                _triangle(box, mine, metric) if tests else "", [(f, given(mine, f"figure:{f.id}")) for f in s.task.figures], _made(made, s.task.id, metric) or _bored(way, s.task.id, metric), shots.get(f"step:{s.task.id}", []), _token(), mine,
            )
        )  # fmt: skip
    return cards


def _made(made: MakeUp | None, task: str, metric: bool) -> str:
    """The box made up, its new conductor of this step taken in hand."""
    mine = joint_steps(made.joints).get(task) if made else None
    return picture(made.after, {}, held=mine.end, metric=metric) if made and mine else ""


def _bored(way: Path | None, task: str, metric: bool) -> str:
    """Where the hole of a leg of the way comes out, from both sides."""
    leg = leg_steps(way.chosen).get(task) if way else None
    if way is None or leg is None:
        return ""
    return "".join(both_sides(d, way.ground, "mm" if metric else "ft-in") for d in way.details if d.leg == leg)


def _pair_rows(box: FoundBox, form: Mapping[str, Any], metric: bool) -> list[PairRow]:
    return [
        PairRow(node_words(pair, metric), given(form, f"pair:{n}"), given(form, f"pair:{n}:loaded"))
        for n, pair in enumerate(pairs_of(box))
    ]


def _triangle(box: FoundBox, form: Mapping[str, Any], metric: bool) -> str:
    """The pairs as a triangle, with what was typed of them so far."""
    read: dict[str, tuple[float, float]] = {}
    for pair, row in zip(pairs_of(box), _pair_rows(box, form, metric), strict=True):
        plain = finite_number(row.value)
        if plain is not None:
            read[pair] = (plain, plain if (loaded := finite_number(row.under_load)) is None else loaded)
    return triangle(nodes_of(box), read, metric) if box.cables else ""


def _carried(drawing: Drawing, way: Path | None) -> Sequence[Carried]:
    """What goes along in one climb, for an errand that brings a cable."""
    if way is None or drawing.house.errand is None:
        return ()
    cut = way.pull.figure("cut") if way.pull else None
    return carry(drawing.house.errand, way.chosen, cut, practices.load(drawing.house.practice))


def _clock(minutes: float) -> str:
    """Minutes as one says them."""
    whole, rest = divmod(round(minutes), 60)
    return f"{whole} h {rest} min" if whole and rest else f"{whole} h" if whole else f"{rest} min"


@require_POST
@for_member
def step(request: HttpRequest, member: Member) -> HttpResponse:
    """A step begun, done or taken back, someone away, a breaker that tripped: kept, or refused by its gate in words."""
    require_hand(member)
    drawing = book_drawing(member)
    event, task = str(request.POST.get("event", "")), str(request.POST.get("step", ""))
    token = str(request.POST.get("token", ""))
    try:
        with transaction.atomic():
            # One after another: two ticks at once each see the other's.
            job = Job.objects.select_for_update().get(pk=member.job_id)
            if not job.records.filter(token=token).exists():
                photographed = bool(shots_of(job).get(f"step:{task}"))
                body = happened(
                    request.POST, event, task, tasks_of(member.job, drawing), drawing, log_of(job), photographed
                )
                keep(job, request.user, f"step:{task}", "step", body, token)
    except EditRefused as refused:
        return page(request, member, in_words(refused, drawing))
    return kept(request, redirect("errand-steps", member.job_id))
