"""Records of a job: kept once however often they are sent, struck out but never lost."""

from __future__ import annotations

import re
import secrets
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse

from fjeld.drawing.handles import Handle
from fjeld.formats.found import read_reading
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.practice.finished.roles import role_data
from fjeld.web.jobs.models import Job, Record
from fjeld.web.ui.panel import Shown


class Kept(Shown, frozen=True):
    """A reading as it is listed: ``words`` what was read; ``problem`` where its subject has gone from the record of the box; ``at``
    when it was taken, seconds, and whether the breaker was off and ``locked`` again after it."""

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
    """What is answered once something is kept: to a script that it is, to a form where to go on. A script could
    not tell where a form is sent on to from where somebody is sent who is signed out."""
    return HttpResponse(status=204) if request.headers.get("X-Kept") else there


def keep(job: Job, user: AbstractBaseUser, key: str, kind: str, body: dict[str, Any], token: str) -> bool:
    """Keep a record; false where it was kept already."""
    head = job.head
    assert head is not None
    token = token if re.fullmatch(r"[A-Za-z0-9_-]{8,40}", token) else secrets.token_urlsafe(18)
    try:
        with transaction.atomic():
            Record.objects.create(job=job, key=key, kind=kind, body=body, seq=head.seq, who=user, token=token)
    except IntegrityError:
        return False
    return True


def readings_of(job: Job, handle: Handle, box: FoundBox) -> list[Kept]:
    """The readings of an old box, each as it can be read against the box as it is recorded now."""
    found = []
    for record in job.records.filter(key=handle, kind="reading").select_related("who"):
        try:
            reading, problem = read_reading(record.body, record.body.get("id", ""), box), ""
        except NotAsked as wrong:
            reading, problem = None, str(wrong)
        found.append(
            Kept(record.pk, str(record.body.get("id", "")), said(record.body), record.who.get_username(), record.struck, reading, problem,
                when_of(record).timestamp(), bool(record.body.get("locked")))
        )  # fmt: skip
    return found


def counting(kept: Sequence[Kept]) -> tuple[Kept, ...]:
    """The readings that are gone by."""
    return tuple(k for k in kept if k.reading is not None and not k.struck)


def when_of(record: Record) -> datetime:
    """When it happened: where it was written without connection, when it was written."""
    written = record.body.get("at_time")
    return datetime.fromisoformat(written) if isinstance(written, str) else record.when


def said(body: dict[str, Any]) -> str:
    """A reading in a line, as it was written down."""
    parts = [f"at {body['at']}"] if body.get("at") else []
    parts += [str(body["state"])] if body.get("state") else []
    for name, value in [*dict(body.get("volts", {})).items(), *dict(body.get("between", {})).items()]:
        shown = " / ".join(str(v) for v in value) if isinstance(value, list) else value
        parts.append(f"{name} {shown} V")
    parts += [f"{name} {value} Ω" for name, value in dict(body.get("ohms", {})).items()]
    parts += [f"{name} {value} A" for name, value in dict(body.get("amps", {})).items()]
    named = dict(kind.figures) if (kind := role_data().readings.get(str(body.get("id", "")))) else {}
    parts += [f"{named.get(name, name)} {value}" for name, value in dict(body.get("figures", {})).items()]
    parts += [f"{name} {value}" for name, value in dict(body.get("words", {})).items()]
    if body.get("lamp"):
        parts.append(f"lamp {body['lamp']}")
    if "dies" in body:
        parts.append(f"dies: cable {', '.join(body['dies']) or 'none'}")
    if "loads" in body:
        parts.append(f"a load on cable {', '.join(body['loads']) or 'none'}")
    if "ring" in body:
        parts.append("one ring" if body["ring"] else "no ring")
    return ", ".join(parts) or "nothing read"
