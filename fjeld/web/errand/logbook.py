"""The book of an errand and its log: what happened, what may happen now, and how long steps took."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from itertools import combinations
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.models import AnonymousUser
from django.http import Http404

from fjeld import practice as practices
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.errand import Errand
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import NEW, Log, Task, book, may, nodes_of, reckoned, stopped
from fjeld.finished.box.found import FoundBox
from fjeld.finished.box.record import as_found
from fjeld.finished.carry import fished
from fjeld.finished.cut import place
from fjeld.finished.figured import Figured
from fjeld.finished.house import house_book
from fjeld.finished.learned import Took
from fjeld.finished.path import Path, path
from fjeld.finished.work import PairsAsked, pairs
from fjeld.formats.found import number
from fjeld.quantities import finite_number
from fjeld.web.errand.joints import against, made_of
from fjeld.web.errand.screen import at_hand
from fjeld.web.jobs.models import Job, Member, Record
from fjeld.web.ui.forms import given
from fjeld.web.ui.view import planned

#: What was written without connection comes at most so much later.
KEPT_FOR = timedelta(days=14)
_EVENTS = ("begun", "done", "undone")


def route_of(drawing: Drawing) -> Path | None:
    """The way that a cable goes, where the errand brings one."""
    errand = drawing.house.errand
    if errand is None or errand.wants not in NEW:
        return None
    return path(errand, at_hand(drawing, "")[1], practices.load(drawing.house.practice))


def tasks_of(job: Job, drawing: Drawing) -> tuple[Task, ...]:
    """The book of the work: of an errand, with how its box is made up where that is known, or of a house by its plan."""
    if drawing.house.errand is None:
        return house_book(planned(drawing)[0])
    way, made = route_of(drawing), made_of(job, drawing)
    tasks = book(
        drawing.house.errand,
        drawing.house.practice,
        way.chosen if way else None,
        made.joints if made else (),
        way.details if way else (),
    )
    return stopped(tasks, against(job, drawing))


def log_of(job: Job) -> list[Log]:
    """What happened, in its order; what was struck out did not."""
    kept = job.records.filter(kind="step", struck=False).values_list("key", "body")
    return [Log(body.get("event", "done"), key.removeprefix("step:")) for key, body in kept]


def notes_of(job: Job) -> dict[str, str]:
    """What was to be remembered of each step, as it was last said."""
    kept = job.records.filter(kind="step", struck=False).values_list("key", "body")
    return {key.removeprefix("step:"): body["note"] for key, body in kept if body.get("note")}


def book_drawing(member: Member) -> Drawing:
    """The drawing that a book is of, an errand's or a house's; 404 where there is none."""
    if member.job.head is None:
        raise Http404("this job has no drawing")
    return member.job.head.document.drawing


def pairs_of(box: FoundBox) -> list[str]:
    """Every pair of a dead test of a box."""
    return [" / ".join(pair) for pair in combinations(nodes_of(box), 2)]


def when_of(record: Record) -> datetime:
    """When it happened: where it was written without connection, when it was written."""
    written = record.body.get("at_time")
    return datetime.fromisoformat(written) if isinstance(written, str) else record.when


def begun_at(job: Job) -> dict[str, str]:
    """When each step was begun that was not done since."""
    found: dict[str, str] = {}
    for record in job.records.filter(kind="step", struck=False):
        step = record.key.removeprefix("step:")
        if record.body.get("event") == "begun":
            found[step] = when_of(record).strftime("%H:%M")
        else:
            found.pop(step, None)
    return found


def taken_by(user: AbstractBaseUser | AnonymousUser) -> list[Took]:
    """The times that somebody took of steps, in every job: from begun to done, one after the other."""
    found: list[Took] = []
    begun: dict[tuple[int, str], Record] = {}
    for record in Record.objects.filter(kind="step", who=user.pk, struck=False).order_by("pk"):
        step, event = (record.job_id, record.key), record.body.get("event")
        if event == "begun":
            begun[step] = record
        elif event == "done" and step in begun:
            since = begun.pop(step)
            took = (when_of(record) - when_of(since)).total_seconds() / 60
            if "reckoned" in since.body:
                found.append(Took(str(since.body["class"]), float(since.body["reckoned"]), took))
    return found


def happened(
    form: Mapping[str, Any],
    event: str,
    task: str,
    tasks: Sequence[Task],
    drawing: Drawing,
    log: list[Log],
    photographed: bool,
) -> dict[str, Any]:
    """What is kept of something that happened; raises :class:`EditRefused` where its gate is shut."""
    body: dict[str, Any] = {"event": event, **_written_at(form)}
    if event in ("away", "tripped") and not task:
        return body
    known = {t.id: t for t in tasks}
    if event not in _EVENTS or task not in known:
        raise EditRefused("there is no such step in this work")
    if event == "undone":
        return body
    if why := may(tasks, log, task):
        raise EditRefused(why)
    if event == "begun":
        return body | reckoned_now(known[task], drawing)
    if note := given(form, "note")[:300]:
        body["note"] = note
    # As it was said then: the book follows the drawing, and may have another step in its place later.
    body["words"] = known[task].words[:300]
    if task == "cut" and (stops := _stops(drawing)):
        raise EditRefused(f"not to be cut: {stops[0]}")
    if known[task].asks == "photo" and not photographed and not note:
        raise EditRefused("no photograph is kept yet: take one, or say beside it why there is none")
    if known[task].asks == "dead test":
        handle, old = at_hand(drawing, "")
        body |= {"pairs": _tested(form, old), "box": str(handle)}
    if known[task].figures:
        body |= {"figures": _figures(form, known[task].figures, note)}
    return body


def reckoned_now(task: Task, drawing: Drawing) -> dict[str, Any]:
    """What a step is reckoned to take as it is begun: what it is held against once it is done."""
    if not task.time or task.time == "patch":
        return {}
    way = route_of(drawing)
    cables = len(at_hand(drawing, "")[1].cables) if drawing.house.errand else 0
    kind, skilled = reckoned(task, cables, fished(way.chosen) if way else 0.0)
    return {"class": kind, "reckoned": round(skilled, 2)}


def _figures(form: Mapping[str, Any], wanted: Sequence[Figured], note: str) -> dict[str, float]:
    """The figures of a test by their words; refused where one holds the gate shut, or is missing without a reason beside it."""
    read: dict[str, float] = {}
    try:
        for figure in wanted:
            if typed := given(form, f"figure:{figure.id}"):
                read[f"{figure.words}, {figure.unit}"] = value = figure.read(typed)
                if why := figure.against(value):
                    raise EditRefused(f"the gate stays shut: {why}")
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    if len(read) < len(wanted) and not note:
        missing = next(f for f in wanted if f"{f.words}, {f.unit}" not in read)
        raise EditRefused(f"{missing.words} is not read yet: type it, or say beside it why there is none")
    return read


def _written_at(form: Mapping[str, Any]) -> dict[str, str]:
    """When it was written, where that was some time before it came."""
    seconds = finite_number(given(form, "written"))
    if seconds is None or not 0 < seconds < 1e11:
        return {}
    written, now = datetime.fromtimestamp(seconds, UTC), datetime.now(UTC)
    return {"at_time": written.isoformat()} if now - KEPT_FOR < written < now else {}


def _stops(drawing: Drawing) -> list[str]:
    """What stands against cutting at the spot, by what was looked for."""
    placed = place(drawing.house.errand or Errand("light"), practices.load(drawing.house.practice))
    return [s.words for s in placed.stops]


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
