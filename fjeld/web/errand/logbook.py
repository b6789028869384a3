"""The book of an errand and its log: what happened, what may happen now, and how long steps took."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import UTC, datetime, timedelta
from itertools import combinations
from typing import Any

import msgspec
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.models import AnonymousUser
from django.utils import timezone
from msgspec.structs import replace

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.model import Drawing
from fjeld.errand.plan import ErrandPlan
from fjeld.formats.found import volts_of
from fjeld.judge.answer import NotAsked
from fjeld.judge.figured import Figured
from fjeld.judge.work import PairsAsked, pairs
from fjeld.quantities import finite_number
from fjeld.web.jobs.models import Job, Record
from fjeld.web.places.planned import stood_at
from fjeld.web.ui.forms import given
from fjeld.work.book import Task, reckoned
from fjeld.work.carry import fished
from fjeld.work.learned import Took
from fjeld.work.records import StepEvent
from fjeld.work.standing import Log, may

#: What was written without connection comes at most so much later.
KEPT_FOR = timedelta(days=30)
_EVENTS = ("begun", "done", "undone")


def notes_of(job: Job) -> dict[str, str]:
    """What was to be remembered of each step, as it was last said."""
    return {step: event.note for step, event, _ in steps_of(job) if event.note}


def steps_of(job: Job) -> Iterator[tuple[str, StepEvent, Record]]:
    """What happened to steps and was not struck out, by the step (none of the whole work), in the order in
    which it came.
    """
    for record in job.records.filter(kind="step", struck=False):
        event = record.told
        if isinstance(event, StepEvent):
            yield record.key.removeprefix("step:"), event, record


def pairs_of(nodes: Sequence[str]) -> list[str]:
    """Every pair of a dead test between some nodes."""
    return [" / ".join(pair) for pair in combinations(nodes, 2)]


def begun_at(job: Job) -> dict[str, str]:
    """When each step was begun that was not done since."""
    found: dict[str, str] = {}
    for step, event, record in steps_of(job):
        if event.event == "begun":
            found[step] = timezone.localtime(record.happened).strftime("%H:%M")
        else:
            found.pop(step, None)
    return found


def taken_by(user: AbstractBaseUser | AnonymousUser) -> list[Took]:
    """The times that somebody took of steps, in every job: from begun to done, one after the other."""
    found: list[Took] = []
    begun: dict[tuple[int, str], tuple[StepEvent, datetime]] = {}
    for record in Record.objects.filter(kind="step", who=user.pk, struck=False).order_by("pk"):
        step, event = (record.job_id, record.key), record.told
        if not isinstance(event, StepEvent):
            continue
        if event.event == "begun":
            begun[step] = event, record.happened
        elif event.event == "done" and step in begun:
            first, since = begun.pop(step)
            if first.reckoned is not None:
                minutes = (record.happened - since).total_seconds() / 60
                found.append(Took(first.work, first.reckoned, minutes))
    return found


class Meant(msgspec.Struct, frozen=True):
    """What somebody says happened: an event of a step (none where it is of the whole work), when, and what
    was told with it.

    ``agreed`` is whether that time was agreed with the server; ``photographed`` whether a photograph of the
    step is kept.
    """

    event: str
    task: str
    form: Mapping[str, Any]
    when: datetime
    agreed: bool
    late: bool
    photographed: bool = False


def meant_by(form: Mapping[str, Any], photographed: Callable[[str], bool]) -> Meant:
    """What a form says happened."""
    event, task = given(form, "event"), given(form, "step")
    when, agreed, late = written_at(form)
    return Meant(
        event=event,
        task=task,
        form=form,
        when=when,
        agreed=agreed,
        late=late,
        photographed=photographed(task),
    )


def happened(
    meant: Meant, known: ErrandPlan | None, tasks: Sequence[Task], log: Sequence[Log], drawing: Drawing
) -> StepEvent:
    """What is kept of something that happened; raises :class:`EditRefused` where its gate was shut at that
    time.
    """
    by_id = {t.id: t for t in tasks}
    of_the_whole = meant.event in ("away", "tripped") and not meant.task
    if not of_the_whole and (meant.event not in _EVENTS or meant.task not in by_id):
        raise EditRefused("there is no such step in this work")
    late = {"written": meant.when, "agreed": meant.agreed} if meant.late else {}
    event = StepEvent(event=meant.event, **late)  # type: ignore[arg-type]
    if of_the_whole or meant.event == "undone":
        return event
    task = by_id[meant.task]
    if why := may(stood_at(tasks, log, known.visit if known else None, meant.when.timestamp()), task.id):
        raise EditRefused(why)
    if meant.event == "begun":
        return replace(event, **reckoned_now(task, known))
    return replace(event, **_done(meant, task, known))


def _done(meant: Meant, task: Task, known: ErrandPlan | None) -> dict[str, Any]:
    """What is told with a step that was done: what it was done of, its note, its readings."""
    # As it was said then: the book follows the drawing, and may have another step in its place later.
    told: dict[str, Any] = {"words": task.words[:300], "joint": task.joint}
    if known is not None:
        way = known.visit.way if task.where == "way" else ""
        told |= {"box": str(known.facts.handle), "breaker": known.visit.breaker, "way": way}
    told["note"] = note = given(meant.form, "note")[:300]
    if task.asks == "photo" and not meant.photographed and not note:
        raise EditRefused("no photograph is kept yet: take one, or say beside it why there is none")
    if task.asks == "note" and not note:
        raise EditRefused("write beside it what was found")
    if task.asks == "dead test" and known is not None:
        told["pairs"] = _tested(meant.form, known)
    if task.figures:
        told["figures"] = _figures(meant.form, task.figures, note)
    return told


def reckoned_now(task: Task, known: ErrandPlan | None) -> dict[str, Any]:
    """What a step is reckoned to take as it is begun: what it is held against once it is done."""
    if not task.time or task.time == "patch":
        return {}
    way = known.facts.decided if known else None
    cables = len(known.facts.old.cables) if known else 0
    kind, skilled = reckoned(task, cables, fished(way.chosen) if way else 0.0)
    return {"work": kind, "reckoned": round(skilled, 2)}


def _figures(form: Mapping[str, Any], wanted: Sequence[Figured], note: str) -> dict[str, float]:
    """The figures of a test by their ids; refused where one holds the gate shut, or is missing without a
    reason beside it.
    """
    read: dict[str, float] = {}
    try:
        for figure in wanted:
            if typed := given(form, f"figure:{figure.id}"):
                read[figure.id] = value = figure.read(typed)
                if why := figure.against(value):
                    raise EditRefused(f"the gate stays shut: {why}")
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    if len(read) < len(wanted) and not note:
        missing = next(f for f in wanted if f.id not in read)
        raise EditRefused(f"{missing.words} is not read yet: type it, or say beside it why there is none")
    return read


#: A clock is off that is so much before the server's, or after it.
OFF_BY = timedelta(minutes=2)


def written_at(form: Mapping[str, Any]) -> tuple[datetime, bool, bool]:
    """When it was written, whether that time was agreed with the server, and whether it came later than it
    was written.

    A page says ``agreed`` where the clock that it got from the server has run on evenly since. What an
    earlier version kept says nothing of it: it is agreed only where it came at once.
    """
    now, seconds = datetime.now(UTC), finite_number(given(form, "written"))
    if seconds is None or not 0 < seconds < 1e11:
        return now, True, False
    written = datetime.fromtimestamp(seconds, UTC)
    if not now - KEPT_FOR < written < now + OFF_BY:
        return now, False, True
    written = min(written, now)
    agreed = given(form, "agreed") == "yes" if "agreed" in form else now - written < OFF_BY
    return written, agreed, True


def _tested(form: Mapping[str, Any], known: ErrandPlan) -> dict[str, tuple[float, float]]:
    """The readings of a dead test; refused unless every pair is dead and the tester was proven before and
    after.
    """
    every = pairs_of(known.nodes)
    read: dict[str, tuple[float, float]] = {}
    try:
        for pair in every:
            typed, loaded = given(form, f"pair:{pair}"), given(form, f"pair:{pair}:loaded")
            if typed:
                volts = volts_of([typed, loaded] if loaded else typed, pair)
                read[pair] = (volts.open, volts.open if volts.loaded is None else volts.loaded)
        asked = PairsAsked(
            nodes=known.nodes,
            switches=0,
            readings=read,
            proven_before=bool(form.get("before")),
            proven_after=bool(form.get("after")),
            volts=known.facts.practice.volts,
        )
        said = pairs(asked).said
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    if not read:
        raise EditRefused("nothing was tested yet: type what each pair reads")
    wrong_ones = [s.words for s in said if s.tone in ("danger", "fails", "ask")]
    if wrong_ones:
        raise EditRefused(f"the gate stays shut: {wrong_ones[0]}")
    return read
