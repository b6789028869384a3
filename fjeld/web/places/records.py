"""Records of a job: kept once however often they are sent, struck out but never lost."""

from __future__ import annotations

import re
import secrets
from collections.abc import Iterator, Sequence

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse

from fjeld.drawing.handles import Handle
from fjeld.judge.volts import Volts
from fjeld.oldbox.found import FoundBox, Reading, nets
from fjeld.practice.finished.roles import role_data
from fjeld.web.jobs.models import Job, Record
from fjeld.web.ui.panel import Shown
from fjeld.work.records import ReadingTaken, Told, Unread, ends_of, stored


class Kept(Shown, frozen=True, kw_only=True):
    """A reading as it is listed: ``words`` what was read; ``problem`` where its subject has gone from the
    record of the box; ``at`` when it was taken, seconds, and whether the breaker was off and ``locked`` again
    after it.
    """

    pk: int
    name: str
    words: str
    who: str
    struck: bool
    reading: Reading | None
    problem: str = ""
    at: float = 0.0
    locked: bool = False


def kept(request: HttpRequest, there: HttpResponse) -> HttpResponse:
    """What is answered once something is kept: to a script that it is, to a form where to go on. A script
    could not tell where a form is sent on to from where somebody is sent who is signed out.
    """
    return HttpResponse(status=204) if request.headers.get("X-Kept") else there


def keep(job: Job, user: AbstractBaseUser, key: str, record: Told, token: str) -> bool:
    """Keep a record; false where it was kept already."""
    head = job.head
    assert head is not None
    token = token if re.fullmatch(r"[A-Za-z0-9_-]{8,40}", token) else secrets.token_urlsafe(18)
    body = stored(record)
    try:
        with transaction.atomic():
            Record.objects.create(
                job=job, key=key, kind=body["record"], body=body, seq=head.seq, who=user, token=token
            )
    except IntegrityError:
        return False
    return True


def readings_of(job: Job, handle: Handle, box: FoundBox) -> list[Kept]:
    """The readings of an old box, each as it can be read against the box as it is recorded now."""
    there, found = nets(box).of, []
    for record in job.records.filter(key=handle, kind="reading").select_related("who"):
        kept = record.told
        reading, problem = (kept.reading, "") if isinstance(kept, ReadingTaken) else (None, _unread(kept))
        if reading is not None and (gone := [e for e in ends_of(reading) if e not in there]):
            ends = ", ".join(e for cable in box.cables for e in cable.ends)
            reading, problem = None, f"there is no “{gone[0]}” in this box; there is {ends}"
        found.append(
            Kept(
                pk=record.pk,
                name=name_of(kept),
                words=said(kept),
                who=record.who.get_username(),
                struck=record.struck,
                reading=reading,
                problem=problem,
                at=record.happened.timestamp(),
                locked=isinstance(kept, ReadingTaken) and kept.locked,
            )
        )
    return found


def _unread(kept: Told) -> str:
    return kept.why if isinstance(kept, Unread) else "this is no reading"


def counting(kept: Sequence[Kept]) -> tuple[Kept, ...]:
    """The readings that are gone by."""
    return tuple(k for k in kept if k.reading is not None and not k.struck)


def name_of(kept: Told) -> str:
    """The id of a reading, as far as one can be read."""
    return kept.reading.id if isinstance(kept, ReadingTaken) else ""


def said(kept: Told) -> str:
    """A reading in a line, as it was written down."""
    if not isinstance(kept, ReadingTaken):
        return f"cannot be read: {kept.was}"[:300] if isinstance(kept, Unread) else ""
    return ", ".join((*_figures_of(kept.reading), *_words_of(kept.reading))) or "nothing read"


def _figures_of(read: Reading) -> Iterator[str]:
    """Where a reading was taken, how switches stood, and its figures."""
    if read.at:
        yield f"at {read.at}"
    if read.state:
        yield ", ".join(f"{name} {how}" for name, how in read.state.items())
    yield from (f"{end} {_volts(v)}" for end, v in read.to_earth.items())
    yield from (f"{a}-{b} {_volts(v)}" for a, b, v in read.between)
    yield from (f"{a}-{b} {ohms:g} Ω" for a, b, ohms in read.ohms)
    yield from (f"{end} {amps:g} A" for end, amps in read.amps.items())
    named = dict(kind.figures) if (kind := role_data().readings.get(read.id)) else {}
    yield from (f"{named.get(name, name)} {value:g}" for name, value in read.figures.items())


def _words_of(read: Reading) -> Iterator[str]:
    """What a reading said without a figure."""
    yield from (f"{end} {word}" for end, word in read.words.items())
    if read.lamp:
        yield f"lamp {read.lamp}"
    if read.dies is not None:
        yield f"dies: cable {', '.join(read.dies) or 'none'}"
    if read.id == "R10":
        yield f"a load on cable {', '.join(read.loads) or 'none'}"
    if read.ring is not None:
        yield "one ring" if read.ring else "no ring"


def _volts(volts: Volts) -> str:
    return f"{volts.open:g} V" if volts.loaded is None else f"{volts.open:g} / {volts.loaded:g} V"
