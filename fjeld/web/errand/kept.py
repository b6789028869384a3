"""The record of an errand: a page to keep, and the same as JSON, for whoever comes next."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

import msgspec
from django.core.serializers.json import DjangoJSONEncoder
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from fjeld.derive.plan import in_force
from fjeld.drawing.errand import NEW, Errand, length_of
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import ErrandPlan
from fjeld.errand.record import as_found
from fjeld.formats import jobfile
from fjeld.formats.document import plain
from fjeld.graphics.picture import picture, short_words
from fjeld.graphics.shapes import Shape
from fjeld.judge.figured import BEYOND
from fjeld.practice import Practice
from fjeld.quantities import coarse, format_length
from fjeld.web.errand.hand import drawing_of, errand_of
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member, Photo, Record
from fjeld.web.places.gone import Gone, gone_of
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.places.looked import ROLES, ahead_words
from fjeld.web.places.planned import facts_at, plan_of, stands_of
from fjeld.web.places.records import Kept, readings_of
from fjeld.web.places.shots import Shot, shots_of
from fjeld.web.ui.panel import Shown, context
from fjeld.work.book import Task, figures_in
from fjeld.work.records import StepEvent
from fjeld.work.standing import Stands


class KeptBox(Shown, frozen=True, kw_only=True):
    """An old box as it is told to the next person: what each cable is and how sure, and what nobody looked
    at.
    """

    handle: Handle
    old: OldBox
    holds: str
    picture: Shape | None
    cables: Sequence[tuple[str, str, str]]
    readings: list[Kept]
    looked: list[tuple[str, str]]
    not_looked: list[str]
    shots: list[Shot]


class KeptStep(Shown, frozen=True, kw_only=True):
    """Something that was done, by whom and when, and how long it took where it was begun by a tap."""

    words: str
    record: Record
    when: datetime
    took: str
    note: str
    shots: list[Shot]


class KeptRecord(Shown, frozen=True, kw_only=True):
    """The whole record."""

    job: Job
    kind: ErrandCard
    practice: Practice
    where: list[tuple[str, str]]
    boxes: list[KeptBox]
    steps: list[KeptStep]
    left: list[str]
    gone: list[Gone]


@require_GET
@for_member
def kept(request: HttpRequest, member: Member) -> HttpResponse:
    """The record as a page."""
    return render(request, "errand/kept.html", context(_record(member.job, drawing_of(member))))


@require_GET
@for_member
def kept_json(request: HttpRequest, member: Member) -> HttpResponse:
    """The record as JSON."""
    response = HttpResponse(_written(member), content_type="application/json")
    response["Content-Disposition"] = 'attachment; filename="record.json"'
    return response


@require_GET
@for_member
def kept_zip(request: HttpRequest, member: Member) -> HttpResponse:
    """The record as a folder: the JSON of it, the job file, and every photograph by the name that it has
    there.
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as folder:
        folder.writestr("record.json", _written(member))
        folder.writestr("job.json", jobfile.encode(drawing_of(member)))
        for photo in member.job.photos.all():
            folder.writestr(_named(photo), bytes(photo.jpeg), zipfile.ZIP_STORED)
    response = HttpResponse(out.getvalue(), content_type="application/zip")
    response["Content-Disposition"] = 'attachment; filename="record.zip"'
    return response


def _named(photo: Photo) -> str:
    return f"photographs/{re.sub(r'[^A-Za-z0-9]+', '-', photo.key)}-{photo.pk}.jpg"


def _written(member: Member) -> str:
    """The record as text in JSON."""
    found = _record(member.job, drawing_of(member))
    body: dict[str, Any] = {
        "job": found.job.name,
        "errand": found.kind.words,
        "practice": found.practice.id,
        "boxes": {
            box.handle: {
                "as found": msgspec.to_builtins(box.old, enc_hook=plain),
                "cables": {c: {"is": what, "how sure": word} for c, what, word in box.cables},
                "looked at": dict(box.looked),
                "not looked at": box.not_looked,
            }
            for box in found.boxes
        },
        "where": dict(found.where),
        "errand as told": msgspec.to_builtins(errand_of(drawing_of(member)), enc_hook=plain),
        "photographs": [
            {
                "file": _named(p),
                "of": p.key,
                "who": p.who.get_username(),
                "when": (p.written or p.when).isoformat(),
                "px": [p.width, p.height],
                "struck out": p.struck,
            }
            for p in found.job.photos.defer("jpeg").select_related("who")
        ],
        "records": [
            {
                "of": r.key,
                "kind": r.kind,
                "what": r.body,
                "who": r.who.get_username(),
                "when": r.when.isoformat(),
                "step of the drawing": r.seq,
                "struck out": r.struck,
            }
            for r in found.job.records.select_related("who")
        ],
        "steps not done": found.left,
        "of what is no longer drawn": [g.key for g in found.gone],
    }
    return json.dumps(body, indent=2, ensure_ascii=False, cls=DjangoJSONEncoder)


def _record(job: Job, drawing: Drawing) -> KeptRecord:
    practice = in_force(drawing.house)
    errand = drawing.house.errand or Errand("light")
    known, shots = plan_of(job, drawing), shots_of(job)
    tasks = {t.id: t for t in known.tasks}
    done = _done(job, tasks, shots, practice)
    left = [_left(s) for s in stands_of(job, drawing, known) if not s.done]
    boxes = [
        _box(job, h, old=old, drawing=drawing, practice=practice, shots=shots.get(h, []))
        for h, old in drawing.of(OldBox).items()
    ]
    return KeptRecord(
        job=job,
        kind=KINDS[errand.wants],
        practice=practice,
        where=_where(known),
        boxes=boxes,
        steps=done,
        left=left,
        gone=gone_of(job, drawing, tasks),
    )


def _done(
    job: Job, tasks: Mapping[str, Task], shots: Mapping[str, list[Shot]], practice: Practice
) -> list[KeptStep]:
    """What happened in its order, a step that was begun told once it was done."""
    found: list[KeptStep] = []
    begun: dict[str, datetime] = {}
    for record in job.records.filter(kind="step", struck=False).select_related("who").order_by("pk"):
        event, when = record.told, record.happened
        if not isinstance(event, StepEvent):
            continue
        if event.event == "begun":
            begun[record.key] = when
            continue
        since = begun.pop(record.key, None)
        minutes = round((when - since).total_seconds() / 60) if since and event.event == "done" else None
        took = "" if minutes is None else f"{max(1, minutes)} min"
        words = _happened(event, _step_words(record.key.removeprefix("step:"), event, tasks), practice)
        found.append(
            KeptStep(
                words=words,
                record=record,
                when=when,
                took=took,
                note=event.note,
                shots=shots.get(record.key, []),
            )
        )
    return found


def _left(stands: Stands[Task]) -> str:
    """A step that is not done, with why it may not be."""
    why = stands.task.blocked_by
    return (
        f"{stands.task.words} ({'not like this' if why[0].known else 'not known'}: {why[0].why})"
        if why
        else stands.task.words
    )


def _where(known: ErrandPlan) -> list[tuple[str, str]]:
    """Where what is new went, and by which way: for whoever looks for the cable. A way that nobody took is
    not told.
    """
    errand, practice, placed, way = (
        known.facts.errand,
        known.facts.practice,
        known.facts.placed,
        known.facts.decided,
    )
    if errand.wants not in NEW:
        return []
    unit = practice.unit
    told = errand.spot
    found = [
        ("Surface", " of ".join(w for w in (told.surface, told.covering) if w)),
        ("Measured from", told.datum),
    ]
    found.append(
        ("Middle of the box, along", format_length(placed.at, unit) if placed.at is not None else "")
    )
    height = length_of(told.height)
    found.append(
        ("Up", format_length(height, unit) if height is not None and told.surface != "ceiling" else "")
    )
    if way is None:
        found.append(("Way", "nobody has said which"))
    else:
        found.append(("Way", ", then ".join(leg.way.name for leg in way.chosen.made)))
        found.append(("Holes filled again", str(way.chosen.fills) if way.chosen.fills else ""))
        found.append(("Cable cut", coarse(way.pull.figure("cut"), unit) if way.pull else ""))
    return [(name, words) for name, words in found if words]


def _step_words(name: str, event: StepEvent, tasks: Mapping[str, Task]) -> str:
    """A step in words: of one that the work has no longer, as it was said when it was done."""
    if not name or name in tasks:
        return tasks[name].words if name else ""
    return event.words or f"A step that the work has no longer: {name}"


def _happened(event: StepEvent, words: str, practice: Practice) -> str:
    other = {
        "undone": f"Taken back: {words}",
        "away": "Away: what was dead is to be tested again",
        "tripped": "The breaker tripped",
    }
    words = other.get(event.event, words)
    told = figures_in(practice.tables)
    read = [
        f"{told[name].words} {_shown(value)} {told[name].unit}" if name in told else f"{name} {_shown(value)}"
        for name, value in event.figures.items()
    ]
    if event.pairs:
        read.append(_pairs_read(event.pairs))
    return f"{words} {'; '.join(read)}." if read else words


def _pairs_read(pairs: Mapping[str, tuple[float, float]]) -> str:
    """How many pairs were dead, and the highest that stood on any; where a load took some away, both."""
    count = f"{len(pairs)} pair{'s' if len(pairs) > 1 else ''}"
    bare, loaded = (max(map(abs, volts)) for volts in zip(*pairs.values(), strict=True))
    if bare > loaded:
        return f"{count}, none above {loaded:g} V under load; up to {bare:g} V without"
    return f"{count}, none above {bare:g} V"


def _shown(value: float) -> str:
    return "beyond range" if value >= BEYOND else f"{value:g}"


def _of_breaker(old: OldBox, practice: Practice) -> list[tuple[str, str]]:
    """Which breaker it is and how that is known, what goes dead with it, and what protects it."""
    seen = "seen to make it dead" if old.breaker_read else "by what is told, not tried"
    rows = [
        ("Its breaker", f"{old.breaker}, {seen}" if old.breaker else seen if old.breaker_read else ""),
        ("Goes dead with it", old.dies),
        (
            "Protection ahead of it",
            dict(ahead_words(practice)).get(old.ahead, old.ahead) if old.ahead else "",
        ),
    ]
    return [(asks, words) for asks, words in rows if words]


def _box(
    job: Job, handle: Handle, old: OldBox, drawing: Drawing, practice: Practice, shots: list[Shot]
) -> KeptBox:
    readings = readings_of(job, handle, as_found(old))
    facts = facts_at(job, drawing, handle)
    box, found, judged = facts.box, facts.found, facts.judged
    if facts.trouble:
        return KeptBox(
            handle=handle,
            old=old,
            holds=practice.said(old.holds),
            picture=picture(box, {}, practice=practice) if box.cables else None,
            cables=[],
            readings=readings,
            looked=[],
            not_looked=[facts.trouble],
            shots=shots,
        )
    gates = judged.gates if judged else ()
    carried = short_words([(e, n.carries) for n in found.nets if n.word != "open" for e in n.ends])
    cables = [
        (c.id, ROLES[c.role] if c.word != "contradictory" else "not known", c.word) for c in found.cables
    ]
    looked = [
        *((practice.said(g.asks), practice.said(g.words)) for g in gates if g.is_ != "unknown"),
        *(("Danger", practice.said(d)) for d in found.dangers),
        *_of_breaker(old, practice),
    ]
    return KeptBox(
        handle=handle,
        old=old,
        holds=practice.said(old.holds),
        picture=picture(box, carried, practice=practice) if box.cables else None,
        cables=cables,
        readings=readings,
        looked=looked,
        not_looked=[practice.said(g.asks) for g in gates if g.is_ == "unknown"],
        shots=shots,
    )
