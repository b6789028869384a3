"""The book of an errand: its steps in order, the gates between them, and where the work stands by its log.

Steps can be done in any order that their gates leave. The dead test holds for one visit and one box:
whoever was away takes it again, and so does everyone once a breaker has tripped.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Literal

import msgspec

from fjeld.drawing.model import Errand, ErrandKind
from fjeld.finished.box.found import GROUNDS, FoundBox, nets
from fjeld.finished.work import PatchAsked, TimeAsked, patch, time
from fjeld.practice.finished import read_table
from fjeld.quantities import Length, Line, Working

Asks = Literal["tick", "dead test"]
Event = Literal["done", "undone", "away", "tripped"]
#: Errands that bring a cable to something new.
NEW: frozenset[ErrandKind] = frozenset({"light", "outlet", "outdoors", "alarms"})
#: What a gate asks for where errands differ in it.
_EITHER = {"tie in or change": ("tie in", "change", "change box")}


class Task(msgspec.Struct, frozen=True):
    """A step: one sentence, what it should look like, its caution, where, and the steps that must stand before it."""

    id: str
    words: str
    looks: str
    caution: str
    where: str
    time: str
    needs: tuple[str, ...] = ()
    asks: Asks = "tick"
    visit: bool = False
    of: tuple[str, ...] = ()


class Log(msgspec.Struct, frozen=True):
    """Something that happened: a step done or taken back, someone away, a breaker that tripped."""

    event: Event
    task: str = ""


class Stands(msgspec.Struct, frozen=True):
    """A step as it stands: done, open, or shut by the first gate that is wanting."""

    task: Task
    done: bool
    wants: str = ""


@cache
def _steps() -> tuple[Task, ...]:
    return msgspec.convert(read_table("book.toml")["step"], tuple[Task, ...])


def book(errand: Errand) -> tuple[Task, ...]:
    """The steps of an errand, each with those gates that it has; the way is timed by where it can be reached from."""
    kind = errand.wants
    mine = [t for t in _steps() if not t.of or kind in t.of or ("new" in t.of and kind in NEW)]
    there = {t.id for t in mine}
    way = "P1" if errand.attic else "P2" if errand.below else "P7"
    return tuple(
        msgspec.structs.replace(t, needs=tuple(_gates(t, there)), time=way if t.id == "way" else t.time)
        for t in mine
    )


def _gates(task: Task, there: set[str]) -> list[str]:
    found = []
    for need in task.needs:
        found += [n for n in _EITHER.get(need, (need,)) if n in there]
    return found


def standing(tasks: Sequence[Task], log: Sequence[Log]) -> tuple[Stands, ...]:
    """Where every step stands after a log. What was logged though its gate was shut has not been done."""
    by_id = {t.id: t for t in tasks}
    done: set[str] = set()
    for entry in log:
        task = by_id.get(entry.task)
        if entry.event == "done" and task is not None and {*task.needs} <= done:
            done.add(task.id)
        elif entry.event == "undone" and task is not None:
            done -= _with_dependents(tasks, task.id)
        elif entry.event == "away":
            done -= {t.id for t in tasks if t.visit}
        elif entry.event == "tripped":
            # Back to the gate before the source was opened, not a second try.
            done -= {t.id for t in tasks if t.visit} | _with_dependents(tasks, "dead whole")
    return tuple(Stands(t, t.id in done, next((n for n in t.needs if n not in done), "")) for t in tasks)


def _with_dependents(tasks: Sequence[Task], task: str) -> set[str]:
    """A step and all that stood on it."""
    found = {task}
    grown = True
    while grown:
        more = {t.id for t in tasks if {*t.needs} & found} - found
        found |= more
        grown = bool(more)
    return found


def may(tasks: Sequence[Task], log: Sequence[Log], task: str) -> str:
    """Why a step may not be done now; empty where it may."""
    stands = {s.task.id: s for s in standing(tasks, log)}
    if task not in stands:
        return "there is no such step in this work"
    wants = stands[task].wants
    return f"first: {stands[wants].task.words}" if wants else ""


def nodes_of(box: FoundBox, metal: bool = False) -> tuple[str, ...]:
    """What a dead test measures between: every joint and loose end, the grounds, the metal of the box, an earth that is proven."""
    where = nets(box)
    found = []
    for ends in where.ends:
        live = [e for e in ends if e.partition(".")[2].rstrip("0123456789") not in GROUNDS]
        if live:
            found.append(" with ".join(live))
    if any(c in GROUNDS for cable in box.cables for c in cable.colours):
        found.append("grounds")
    return (*found, *(("the metal box",) if metal else ()), "earth")


class Hours(msgspec.Struct, frozen=True):
    """How long a book takes: ``labour`` in minutes, its range, and the hours that coats take to dry, which are no labour."""

    labour: Working
    least: float
    most: float
    waiting: float


def hours(tasks: Sequence[Task], times: int, cables: int) -> Hours:
    """How long all steps take for who does it the first time, the second, or from the third (1, 2, 3)."""
    lines = []
    least = most = waiting = 0.0
    for task in tasks:
        if task.time == "patch":
            dried = patch(PatchAsked(Length(100.0), Length(100.0)))
            waiting += dried.figure("waiting")
            lines.append(Line(1.0, dried.figure("labour"), task.id))
            least += dried.figure("labour")
            most += dried.figure("labour")
            continue
        answer = time(
            TimeAsked({task.time: float(max(0, cables - 2)) if task.time == "record" else 0.0}, times)
        )
        lines += [msgspec.structs.replace(line, what=task.id) for line in answer.workings[0].lines]
        least += answer.figure("at least")
        most += answer.figure("at most")
    return Hours(Working("Minutes", "min", tuple(lines)), least, most, waiting)
