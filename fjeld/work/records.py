"""What is kept of the work on site: readings that were taken, and steps begun, done and taken back.

A record is exact and stays, whatever becomes of its subject: ends, devices, tasks and figures stand in it
under the names that they keep. It is told apart by its ``record``, in the store as in files.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any

import msgspec

from fjeld.drawing.ends import EARTH, End
from fjeld.oldbox.found import Reading
from fjeld.work.standing import Event


class ReadingTaken(
    msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True, tag_field="record", tag="reading"
):
    """A reading of an old box. ``locked`` is whether the breaker was off and locked again after it, ``by``
    who turned the power on for it; ``written`` when it was written, where it came later, and whether that
    time was ``agreed`` with the server.
    """

    reading: Reading
    locked: bool = False
    by: str = ""
    written: datetime | None = None
    agreed: bool = False


class StepEvent(
    msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True, tag_field="record", tag="step"
):
    """Something that happened to a step, or to the whole work: ``note`` is what was to be remembered of it,
    ``words`` the step as it was said then.

    What was done was of this ``box``, ``breaker``, ``way`` and ``joint``. ``pairs`` are the volts of a dead
    test without a load and under one, by two nodes; ``figures`` those of a test, by their ids. One that is
    begun has the class of its ``work`` and the minutes that it is ``reckoned`` to take.
    """

    event: Event
    note: str = ""
    words: str = ""
    box: str = ""
    breaker: str = ""
    way: str = ""
    joint: str = ""
    pairs: dict[str, tuple[float, float]] = {}
    figures: dict[str, float] = {}
    work: str = ""
    reckoned: float | None = None
    written: datetime | None = None
    agreed: bool = False


class Unread(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=True, tag_field="record", tag="unread"):
    """What an earlier version kept and no later one can read: as it ``was``, and ``why``. It is listed, and
    gone by nowhere.
    """

    was: dict[str, Any]
    why: str
    written: datetime | None = None


Told = ReadingTaken | StepEvent | Unread


def told(body: Any) -> Told:
    """A record out of what is stored; what is none is :class:`Unread`."""
    try:
        found: Told = msgspec.convert(body, Told)
    except (msgspec.ValidationError, TypeError) as wrong:
        return Unread(was=body if isinstance(body, dict) else {"was": body}, why=str(wrong).splitlines()[0])
    return found


def stored(record: Told) -> dict[str, Any]:
    """A record as it is stored: builtins of JSON."""
    found: dict[str, Any] = msgspec.to_builtins(record, str_keys=True)
    return found


def ends_of(reading: Reading) -> list[End]:
    """Every end that a reading names, earth left out, in the order of its parts."""
    named = [*reading.to_earth, *reading.words, *reading.amps, *reading.off]
    named += [e for a, b, *_ in (*reading.between, *reading.ohms) for e in (a, b)]
    return [e for e in dict.fromkeys(named) if e != EARTH]
