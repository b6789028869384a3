"""The book on a ladder: one step at a time, ticked as it is done; a gate is a gate whatever is sent."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from itertools import combinations
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld.drawing.building import OldBox
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.model import Drawing, Errand
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import Hours, Log, Stands, Task, book, hours, may, nodes_of, standing
from fjeld.finished.box.found import FoundBox
from fjeld.finished.box.record import as_found
from fjeld.finished.work import PairsAsked, pairs
from fjeld.formats.found import number
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.records import keep
from fjeld.web.errand.screen import at_hand
from fjeld.web.errand.views import drawing_of, require_hand
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Choices, Shown, context
from fjeld.web.ui.refusals import in_words

EXPERIENCE = (("1", "the first time"), ("2", "the second time"), ("3", "a later time"))


class PairRow(Shown, frozen=True):
    """A pair of the dead test, with what was typed where the test was refused."""

    words: str
    value: str
    under_load: str


class StepRow(Shown, frozen=True):
    """A step as it stands, with what was to be remembered of it."""

    stands: Stands
    note: str


class Steps(Shown, frozen=True):
    """The step in hand, largest; every step as it stands; the pairs of the dead test; how long it takes."""

    job: Job
    kind: Kind
    now: Stands | None
    number: int
    all: list[StepRow]
    pairs: list[PairRow]
    typed: dict[str, str]
    hours: Hours
    labour: str
    range: str
    times: str
    experience: Choices
    token: str
    may_record: bool
    refused: str


def _tasks(drawing: Drawing) -> tuple[Task, ...]:
    return book(drawing.house.errand or Errand("light"))


def log_of(job: Job) -> list[Log]:
    """What happened, in its order; what was struck out did not."""
    kept = job.records.filter(kind="step", struck=False).values_list("key", "body")
    return [Log(body.get("event", "done"), key.removeprefix("step:")) for key, body in kept]


def notes_of(job: Job) -> dict[str, str]:
    """What was to be remembered of each step, as it was last said."""
    kept = job.records.filter(kind="step", struck=False).values_list("key", "body")
    return {key.removeprefix("step:"): body["note"] for key, body in kept if body.get("note")}


def _pair_rows(box: FoundBox, form: Mapping[str, Any]) -> list[PairRow]:
    return [
        PairRow(pair, given(form, f"pair:{n}"), given(form, f"pair:{n}:loaded"))
        for n, pair in enumerate(pairs_of(box))
    ]


def pairs_of(box: FoundBox) -> list[str]:
    """Every pair of a dead test of a box."""
    return [" / ".join(pair) for pair in combinations(nodes_of(box), 2)]


@require_GET
@for_member
def steps(request: HttpRequest, member: Member) -> HttpResponse:
    """The book."""
    return _page(request, member, "")


def _page(request: HttpRequest, member: Member, refused: str) -> HttpResponse:
    drawing = drawing_of(member)
    tasks, log = _tasks(drawing), log_of(member.job)
    all_steps = standing(tasks, log)
    asked = request.GET.get("step", request.POST.get("step", ""))
    chosen = next((s for s in all_steps if s.task.id == asked), None)
    now = chosen or next((s for s in all_steps if not s.done and not s.wants), None)
    _, old = at_hand(drawing, "")
    times = str(request.GET.get("times", "1"))
    times = times if times in dict(EXPERIENCE) else "1"
    notes = notes_of(member.job)
    taken = hours(tasks, int(times), len(old.cables))
    shown = Steps(
        member.job, KINDS[(drawing.house.errand or Errand("light")).wants], now, 1 + all_steps.index(now) if now else 0, [StepRow(s, notes.get(s.task.id, "")) for s in all_steps],
        _pair_rows(as_found(old), request.POST) if now and now.task.asks == "dead test" and not now.done else [], {k: str(v)[:300] for k, v in request.POST.items()}, taken, _clock(taken.labour.total), f"{_clock(taken.least)} to {_clock(taken.most)}", times,
        EXPERIENCE, secrets.token_urlsafe(18), not member.job.archived and member.role != Member.Role.READER, refused,
    )  # fmt: skip
    return render(request, "errand/steps.html", context(shown), status=422 if refused else 200)


def _clock(minutes: float) -> str:
    """Minutes as one says them."""
    whole, rest = divmod(round(minutes), 60)
    return f"{whole} h {rest} min" if whole and rest else f"{whole} h" if whole else f"{rest} min"


@require_POST
@for_member
def step(request: HttpRequest, member: Member) -> HttpResponse:
    """A step done or taken back, someone away, a breaker that tripped: kept, or refused by its gate in words."""
    require_hand(member)
    drawing = drawing_of(member)
    event, task = str(request.POST.get("event", "")), str(request.POST.get("step", ""))
    try:
        with transaction.atomic():
            # One after another: two ticks at once each see the other's.
            job = Job.objects.select_for_update().get(pk=member.job_id)
            body = _happened(request.POST, event, task, drawing, log_of(job))
            keep(job, request.user, f"step:{task}", "step", body, str(request.POST.get("token", "")))
    except EditRefused as refused:
        return _page(request, member, in_words(refused, drawing))
    return redirect("errand-steps", member.job_id)


def _happened(
    form: Mapping[str, Any], event: str, task: str, drawing: Drawing, log: list[Log]
) -> dict[str, Any]:
    tasks = _tasks(drawing)
    if event in ("away", "tripped") and not task:
        return {"event": event}
    known = {t.id: t for t in tasks}
    if event not in ("done", "undone") or task not in known:
        raise EditRefused("there is no such step in this work")
    if event == "undone":
        return {"event": event}
    if why := may(tasks, log, task):
        raise EditRefused(why)
    body: dict[str, Any] = {"event": event}
    if note := given(form, "note")[:300]:
        body["note"] = note
    if known[task].asks == "dead test":
        body["pairs"] = _tested(form, at_hand(drawing, "")[1])
    return body


def _tested(form: Mapping[str, Any], old: OldBox) -> dict[str, tuple[float, float]]:
    """The readings of a dead test; refused unless every pair is dead and the tester was proven before and after."""
    every = pairs_of(as_found(old))
    read: dict[str, tuple[float, float]] = {}
    try:
        for n, pair in enumerate(every):
            typed, loaded = given(form, f"pair:{n}"), given(form, f"pair:{n}:loaded")
            if typed:
                plain = number(typed, pair)
                read[pair] = (plain, number(loaded, pair) if loaded else plain)
        asked = PairsAsked(nodes_of(as_found(old)), 0, read, bool(form.get("before")), bool(form.get("after")))
        said = pairs(asked).said
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    if not read:
        raise EditRefused("nothing was tested yet: type what each pair reads")
    wrong_ones = [s.words for s in said if s.tone in ("danger", "fails", "ask")]
    if wrong_ones:
        raise EditRefused(f"the gate stays shut: {wrong_ones[0]}")
    return read
