"""Where the work stands by its log: what is done, what is shut and why, and until when a dead test holds.

A log is read in the order of the times at which things happened, not of their arrival. Whatever shuts counts
at its time; only a time that was agreed with the server opens. What was tested dead holds for one visit: it
lapses when somebody leaves, after a set time, when another box or another breaker is meant, when a reading
was taken with power on or found something live, and once the power has been turned on. No clock is read here:
a caller compares ``valid_until`` with its own, by :func:`as_of`.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Generic, Literal, TypeVar

import msgspec

Asks = Literal["tick", "dead test", "photo", "figures", "note"]
Event = Literal["begun", "done", "undone", "away", "tripped"]
#: What a task does to the power: turns it off and locks it, or turns it on.
Power = Literal["", "off", "on"]
SECONDS = 60.0


class ShutBy(msgspec.Struct, frozen=True):
    """Why a task may not be done: in words, by which gate, and on which page of the work it is put right.

    ``known`` is whether it is known to be so; else it is not known, and going on could hurt.
    """

    why: str
    gate: str = ""
    page: str = "source"
    known: bool = True


class Log(msgspec.Struct, frozen=True):
    """Something that happened: a step begun, done or taken back, someone away, a breaker that tripped.

    ``at`` is when, in seconds, and ``agreed`` whether that time was agreed with the server; ``box``,
    ``breaker``, ``way`` and ``joint`` are what it was meant of, empty where nobody wrote that down.
    """

    event: Event
    task: str = ""
    at: float = 0.0
    agreed: bool = True
    box: str = ""
    breaker: str = ""
    way: str = ""
    joint: str = ""


class PowerOn(msgspec.Struct, frozen=True):
    """A moment at which something was live: a reading taken with power on, or one that found a conductor
    live.

    ``locked`` is whether the breaker was turned off and locked again after it.
    """

    at: float
    locked: bool = False


class Visit(msgspec.Struct, frozen=True):
    """What a dead test holds for: the box, its breaker, the way in hand, for how long (minutes), and when
    power was on.
    """

    box: str = ""
    breaker: str = ""
    way: str = ""
    lasts: float = 0.0
    power: tuple[PowerOn, ...] = ()


class TaskLike(msgspec.Struct, frozen=True):
    """What of a task decides where it stands; :class:`fjeld.work.book.Task` adds what people read.

    ``needs`` must stand before it; ``visit`` holds for one visit; ``power`` is what it does to it; ``doubt``
    that a trip puts it in doubt; ``where`` it is done, and which ``joint`` is made in it; ``blocked_by`` is
    why it may not be done at all.
    """

    id: str
    words: str
    where: str = ""
    joint: str = ""
    needs: tuple[str, ...] = ()
    visit: bool = False
    power: Power = ""
    doubt: bool = False
    blocked_by: tuple[ShutBy, ...] = ()


T = TypeVar("T", bound=TaskLike)


class Stands(msgspec.Struct, Generic[T], frozen=True):
    """A task as it stands: done, open, or shut by the first gate that is ``wants``-ing; ``valid_until`` where
    it lapses, seconds.

    ``lapsed`` is what was done, no longer holds, and is wanted again.
    """

    task: T
    done: bool
    wants: str = ""
    valid_until: float | None = None
    lapsed: bool = False

    @property
    def open(self) -> bool:
        """Whether it may be done now."""
        return not self.done and not self.wants and not self.task.blocked_by


#: Where things are done that hang on which box is the source.
_OF_THE_SOURCE = frozenset({"source", "panel", "way"})


class _Walk:
    """A log walked in the order of its times."""

    def __init__(self, tasks: Sequence[TaskLike], visit: Visit) -> None:
        self.tasks, self.visit = tasks, visit
        self.by_id = {t.id: t for t in tasks}
        self.done: dict[str, Log] = {}
        self.ended: dict[str, Log] = {}

    def take(self, entry: Log) -> None:
        task = self.by_id.get(entry.task)
        if entry.event == "done" and task is not None:
            self._do(task, entry)
        elif entry.event == "undone" and task is not None:
            self._drop(with_dependents(self.tasks, task.id), for_good=True)
        elif entry.event == "away":
            self._drop({t.id for t in self.tasks if t.visit})
        elif entry.event == "tripped":
            doubtful = {d for t in self.tasks if t.doubt for d in with_dependents(self.tasks, t.id)}
            # What is in doubt is no longer done, whatever stood on it.
            self._drop(doubtful, for_good=True)
            self._drop({t.id for t in self.tasks if t.visit or t.power == "off"})

    def power(self, moment: PowerOn) -> None:
        self._drop({t.id for t in self.tasks if t.visit or (t.power == "off" and not moment.locked)})

    def _do(self, task: TaskLike, entry: Log) -> None:
        if not self._meant(task, entry) or (task.visit and not entry.agreed):
            return
        if not all(self._holds(need, entry.at) for need in task.needs):
            return
        self.done[task.id] = entry
        self.ended.pop(task.id, None)
        if task.power == "on":
            self.power(PowerOn(entry.at))

    def _meant(self, task: TaskLike, entry: Log) -> bool:
        """Whether it was done of the box, the breaker, the way and the joint that are meant now."""
        visit = self.visit
        of_breaker = task.visit or task.power == "off"
        pairs = (
            (True, entry.joint, task.joint),
            (task.where in _OF_THE_SOURCE, entry.box, visit.box),
            (of_breaker, entry.breaker, visit.breaker),
            (task.where == "way", entry.way, visit.way),
        )
        return not any(matters and was and now and was != now for matters, was, now in pairs)

    def _holds(self, need: str, at: float) -> bool:
        """Whether a task that another needs stood at a time."""
        if need not in self.done:
            return False
        until = self.until(need)
        return until is None or at <= until

    def until(self, name: str) -> float | None:
        """Until when a task holds that was done; none where it holds on."""
        task, visit = self.by_id[name], self.visit
        if not task.visit or not visit.lasts or name not in self.done:
            return None
        return self.done[name].at + SECONDS * visit.lasts

    def _drop(self, names: set[str], for_good: bool = False) -> None:
        for name in names & {*self.done}:
            entry = self.done.pop(name)
            if not for_good:
                self.ended[name] = entry
        if for_good:
            for name in names:
                self.ended.pop(name, None)


def standing(tasks: Sequence[T], log: Sequence[Log], visit: Visit | None = None) -> tuple[Stands[T], ...]:
    """Where every task stands after a log, whatever the hour: :func:`as_of` lets it lapse.

    What was logged though its gate was shut has not been done. O(entries · tasks).
    """
    visit = visit or Visit()
    walk = _Walk(tasks, visit)
    for moment in _in_time(log, visit.power):
        walk.power(moment) if isinstance(moment, PowerOn) else walk.take(moment)
    over = _over(tasks, {*walk.done}, walk.ended)
    done = {*walk.done} | over
    return tuple(
        Stands(
            t,
            t.id in done,
            next((n for n in t.needs if n not in done), ""),
            None if t.id in over else walk.until(t.id),
            t.id in walk.ended and t.id not in over,
        )
        for t in tasks
    )


def _in_time(log: Sequence[Log], power: Sequence[PowerOn]) -> Iterator[Log | PowerOn]:
    """All that happened in the order of its times; of one time as it was written, power before
    what was done.
    """
    moments: list[tuple[float, int, Log | PowerOn]] = [(p.at, 0, p) for p in power]
    moments += [(entry.at, 1, entry) for entry in log]
    return (m for _, _, m in sorted(moments, key=lambda m: m[:2]))


def _over(tasks: Sequence[TaskLike], done: set[str], ended: Mapping[str, Log]) -> set[str]:
    """What lapsed and is wanted no more: all that needs it has been done, or is over itself."""
    over = set[str]()
    grown = True
    while grown:
        more = {
            name
            for name in ended
            if name not in over
            and (wanting := [t.id for t in tasks if name in t.needs])
            and all(w in done | over for w in wanting)
        }
        over |= more
        grown = bool(more)
    return over


def as_of(stands: Sequence[Stands[T]], now: float) -> tuple[Stands[T], ...]:
    """The same at an hour: what held until then, and is still wanted, has lapsed."""
    undone = {s.task.id for s in stands if not s.done}
    late = {
        s.task.id
        for s in stands
        if s.valid_until is not None
        and now > s.valid_until
        and any(s.task.id in t.task.needs and t.task.id in undone for t in stands)
    }
    return tuple(
        msgspec.structs.replace(
            s,
            done=s.done and s.task.id not in late,
            lapsed=s.lapsed or s.task.id in late,
            wants=s.wants or next((n for n in s.task.needs if n in late), ""),
        )
        for s in stands
    )


def with_dependents(tasks: Sequence[TaskLike], task: str) -> set[str]:
    """A task and all that stood on it."""
    found = {task}
    grown = True
    while grown:
        more = {t.id for t in tasks if {*t.needs} & found} - found
        found |= more
        grown = bool(more)
    return found


def may(stands: Sequence[Stands[T]], task: str) -> str:
    """Why a task may not be done now, by where all stand; empty where it may. What blocks it is
    said first.
    """
    by_id = {s.task.id: s for s in stands}
    if task not in by_id:
        return "there is no such step in this work"
    mine = by_id[task]
    if mine.task.blocked_by:
        first = mine.task.blocked_by[0]
        return f"{'not like this' if first.known else 'not yet'}: {first.why}"
    return f"first: {by_id[mine.wants].task.words}" if mine.wants else ""
