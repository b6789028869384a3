"""The plan of a job's errand out of what is stored: its drawing, the readings that count, and its log; and of
a house its book.

Times in a record are the server's: one that was written without connection carries the time that its page had
agreed with the server, and says whether it was agreed.
"""

from __future__ import annotations

import time
from collections.abc import Sequence

from msgspec.structs import replace

from fjeld.derive.plan import in_force
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.errand.known import ErrandFacts
from fjeld.errand.plan import ErrandPlan, Taken, at_hand, facts_of_errand, plan
from fjeld.errand.record import as_found
from fjeld.web.http.view import MEMO, planned
from fjeld.web.jobs.models import Job, Record
from fjeld.web.places.records import counting, readings_of
from fjeld.work.book import Task
from fjeld.work.house import house_book
from fjeld.work.records import StepEvent
from fjeld.work.standing import Log, Stands, Visit, as_of, standing

#: What shuts is never dated before it came, unless its time was agreed.
_SHUTS = ("away", "tripped", "undone")


def plan_of(job: Job, drawing: Drawing) -> ErrandPlan:
    """The plan of an errand, by all that is told, read and done."""
    handle, _ = at_hand(drawing)
    return plan(drawing, {handle: taken_of(job, drawing, handle)}, log_of(job), remember=MEMO)


def facts_at(job: Job, drawing: Drawing, handle: Handle) -> ErrandFacts:
    """What is known of one old box of a job, whether it is the source or not."""
    readings = [t.reading for t in taken_of(job, drawing, handle)]
    return facts_of_errand(drawing, handle, readings, in_force(drawing.house), MEMO)


def taken_of(job: Job, drawing: Drawing, handle: Handle) -> tuple[Taken, ...]:
    """The readings of an old box that count, with their times."""
    kept = readings_of(job, handle, as_found(drawing.get(handle, OldBox)))
    return tuple(Taken(k.reading, k.at, k.locked) for k in counting(kept) if k.reading is not None)


def log_of(job: Job) -> list[Log]:
    """What happened; what was struck out did not."""
    entries = (log_entry(record) for record in job.records.filter(kind="step", struck=False))
    return [entry for entry in entries if entry is not None]


def log_entry(record: Record) -> Log | None:
    """A record as the log has it; none of what nobody can read."""
    kept = record.told
    if not isinstance(kept, StepEvent):
        return None
    came = record.when.timestamp()
    at, agreed = came, True
    if kept.written is not None:
        at, agreed = kept.written.timestamp(), kept.agreed
        at = at if agreed or kept.event not in _SHUTS else max(at, came)
    return Log(
        event=kept.event,
        task=record.key.removeprefix("step:"),
        at=at,
        agreed=agreed,
        box=kept.box,
        breaker=kept.breaker,
        way=kept.way,
        joint=kept.joint,
    )


def stands_of(job: Job, drawing: Drawing, known: ErrandPlan | None = None) -> tuple[Stands[Task], ...]:
    """Where every step of a job stands at this hour: of its errand, or of its house by the plan."""
    if drawing.house.errand is None:
        return as_of(standing(house_book(planned(drawing)[0]), log_of(job)), time.time())
    return as_of((known or plan_of(job, drawing)).stands, time.time())


def tasks_of(job: Job, drawing: Drawing, known: ErrandPlan | None = None) -> tuple[Task, ...]:
    """The steps of a job's work."""
    if drawing.house.errand is None:
        return house_book(planned(drawing)[0])
    return (known or plan_of(job, drawing)).tasks


def stood_at(
    tasks: Sequence[Task], log: Sequence[Log], visit: Visit | None, when: float
) -> tuple[Stands[Task], ...]:
    """Where the steps stood at an hour, by what had happened until then."""
    then = visit and replace(visit, power=tuple(p for p in visit.power if p.at <= when))
    return as_of(standing(tasks, [entry for entry in log if entry.at <= when], then), when)
