"""What a gate answers "with a change": each change a step of the book with its part, before the steps that
stand on it.

A change is neither a refusal nor a remark: the work goes on once it has been made, and what is proven of the
work is proven on condition of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Literal

import msgspec

from fjeld.practice.finished import read_table
from fjeld.work.book import Task, in_practice

ChangeName = Literal[
    "second breaker",
    "bright copper",
    "first box",
    "larger source",
    "extender",
    "fused unit",
    "line and load",
    "support",
    "in reach",
    "protection",
]


class Change(msgspec.Struct, frozen=True):
    """A change that a gate asks for: which, why in that gate's words, its ``part``, and the gate's name and
    basis.
    """

    id: ChangeName
    why: str
    part: str = ""
    gate: str = ""
    basis: str = ""


class _Row(msgspec.Struct, frozen=True):
    task: Task
    before: tuple[str, ...]


@cache
def _rows(practice: str) -> dict[str, _Row]:
    """Every change as a step, in a practice's own words, its part still to be filled in."""
    return {
        row["id"]: _Row(
            in_practice({k: v for k, v in row.items() if k != "before"}, practice), tuple(row["before"])
        )
        for row in read_table("book.toml")["change"]
    }


def with_changes(tasks: Sequence[Task], changes: Sequence[Change], practice: str) -> tuple[Task, ...]:
    """The book with a step for each change, set before the first of those that stand on it."""
    found = tuple(tasks)
    for change in changes:
        found = _with_change(found, change, _rows(practice)[change.id])
    return found


def _with_change(tasks: tuple[Task, ...], change: Change, row: _Row) -> tuple[Task, ...]:
    standing_on = [t.id for t in tasks if t.id in row.before or t.id.rpartition(" ")[0] in row.before]
    if not standing_on:
        return tasks
    there = {t.id for t in tasks}
    mine = msgspec.structs.replace(
        row.task,
        words=row.task.words.replace("{part}", change.part),
        needs=tuple(n for n in row.task.needs if n in there),
        tools=(change.part,) if change.part else row.task.tools,
        marks=(change.why,) if change.why else (),
    )
    places = {t.id: n for n, t in enumerate(tasks)}
    after = max((places[need] for need in mine.needs), default=-1)
    at = max(after + 1, *(places[t] for t in standing_on[:1]))
    found = [
        msgspec.structs.replace(t, needs=(*t.needs, mine.id)) if t.id in standing_on else t for t in tasks
    ]
    return (*found[:at], mine, *found[at:])
