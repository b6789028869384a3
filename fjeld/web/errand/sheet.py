"""One sheet an errand, on paper: marks, way, the box as found and after, the order with its gates, parts, readings to fill in."""

from __future__ import annotations

from collections.abc import Sequence

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from fjeld import practice as practices
from fjeld.drawing.handles import Handle
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import Stands, nodes_of, standing
from fjeld.finished.box.filled import Filled
from fjeld.finished.box.infer import infer
from fjeld.finished.box.record import as_found
from fjeld.finished.carry import Carried, carry
from fjeld.finished.cut import place
from fjeld.practice import Practice
from fjeld.quantities import Unit, coarse
from fjeld.web.errand.box import asked_for, before_and_after
from fjeld.web.errand.columns import columns
from fjeld.web.errand.hand import drawing_of
from fjeld.web.errand.joints import made_of
from fjeld.web.errand.kinds import KINDS, Kind
from fjeld.web.errand.logbook import log_of, route_of, tasks_of
from fjeld.web.errand.picture import picture, short_words
from fjeld.web.errand.records import counting, readings_of
from fjeld.web.errand.screen import ROLES, at_hand
from fjeld.web.errand.section import section
from fjeld.web.errand.spot import drawn, errand_of, marks
from fjeld.web.errand.stones import steps_of
from fjeld.web.errand.triangle import triangle
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.panel import Shown, context


class Sheet(Shown, frozen=True):
    """What is printed of an errand."""

    job: Job
    kind: Kind
    practice: Practice
    date: str
    handle: Handle
    spot: str
    marks: list[str]
    path: str
    cut: str
    found: str
    after: str
    cables: list[tuple[str, str, str]]
    boxes: str
    steps: Sequence[Stands]
    carried: Sequence[Carried]
    triangle: str
    refused: str


@require_GET
@for_member
def sheet(request: HttpRequest, member: Member) -> HttpResponse:
    """The sheet."""
    return render(request, "errand/sheet.html", context(_sheet(member)))


def _sheet(member: Member) -> Sheet:
    drawing = drawing_of(member)
    practice, errand = practices.load(drawing.house.practice), errand_of(drawing)
    unit: Unit = "mm" if practice.metric else "ft-in"
    handle, old = at_hand(drawing, "")
    box = as_found(old, counting(readings_of(member.job, handle, as_found(old))))
    placed, way, steps = place(errand, practice), route_of(drawing), steps_of(errand.wants)
    carried_words: dict[str, str] = {}
    cables: list[tuple[str, str, str]] = []
    boxes: list[Filled] = []
    refused = ""
    if old.cables:
        try:
            known = infer(box, practice)
            carried_words = short_words(
                [(e, n.carries) for n in known.nets if n.word != "open" for e in n.ends]
            )
            cables = [
                (c.id, ROLES[c.role] if c.word != "contradictory" else "not known", c.word)
                for c in known.cables
            ]
            boxes = before_and_after(asked_for(old, errand, practice), errand, practice)
        except NotAsked as wrong:
            refused = str(wrong)
    made = made_of(member.job, drawing)
    cut = way.pull.figure("cut") if way and way.pull else None
    return Sheet(
        member.job, KINDS[errand.wants], practice, timezone.localdate().isoformat(), handle,
        drawn(placed, errand.spot, practice, unit) if "spot" in steps else "", marks(placed, errand.spot, practice, unit) if "spot" in steps else [],
        section(way.chosen, way.ground, way.details) if way else "", coarse(cut, unit) if cut else "",
        picture(box, carried_words, metric=practice.metric) if old.cables else "",
        picture(made.after, {}, metric=practice.metric) if made else "", cables, columns(boxes) if boxes else "", standing(tasks_of(member.job, drawing), log_of(member.job)),
        carry(errand, way.chosen, cut, practice) if way else (), triangle(nodes_of(box), {}, practice.metric) if old.cables else "", refused,
    )  # fmt: skip
