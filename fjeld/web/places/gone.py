"""Records whose subject is not drawn any more: never lost, listed apart."""

from __future__ import annotations

from collections.abc import Collection

from fjeld.drawing.model import Drawing
from fjeld.web.jobs.models import Job
from fjeld.web.places.records import name_of, said
from fjeld.web.places.shots import Shot, shots_of
from fjeld.web.ui.panel import Shown


class Gone(Shown, frozen=True):
    """What was read and photographed of something that has gone: each reading by name, in words, by whom, and
    whether it is struck out.
    """

    key: str
    readings: list[tuple[str, str, str, bool]]
    shots: list[Shot]


def gone_of(job: Job, drawing: Drawing, steps: Collection[str]) -> list[Gone]:
    """Readings and photographs of boxes that are not drawn, and of ``steps`` that the book has no longer."""
    shots, there = shots_of(job), {*drawing.items, *(f"step:{name}" for name in steps)}
    read: dict[str, list[tuple[str, str, str, bool]]] = {}
    for record in job.records.filter(kind="reading").select_related("who"):
        if record.key not in there:
            line = (name_of(record.told), said(record.told), record.who.get_username(), record.struck)
            read.setdefault(record.key, []).append(line)
    keys = dict.fromkeys((*read, *(key for key in shots if key not in there)))
    return [Gone(key, read.get(key, []), shots.get(key, [])) for key in keys]
