"""What is joined to what at the source of an errand, as far as its box is known by now."""

from __future__ import annotations

from fjeld import practice as practices
from fjeld.drawing.errand import Errand
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import NEW
from fjeld.finished.box.found import FoundBox
from fjeld.finished.box.makeup import MakeUp, make_up
from fjeld.finished.box.record import as_found
from fjeld.finished.box.tie_in import TieIn, tie_in
from fjeld.practice import Practice
from fjeld.web.errand.records import counting, readings_of
from fjeld.web.errand.screen import at_hand
from fjeld.web.jobs.models import Job


def joints_of(job: Job, drawing: Drawing) -> MakeUp | None:
    """The make-up of the new cable at the source; none where nothing new comes, or where it may not work there."""
    errand = drawing.house.errand
    if errand is None or errand.wants not in NEW:
        return None
    practice = practices.load(drawing.house.practice)
    handle, old = at_hand(drawing, "")
    box = as_found(old, counting(readings_of(job, handle, as_found(old))))
    try:
        into = tie_in(box, practice, errand.same_switch) if old.cables else None
    except NotAsked:
        return None
    return made_up(box, into, old, errand, practice) if into and into.verdict == "works" else None


def made_up(box: FoundBox, into: TieIn, old: OldBox, errand: Errand, practice: Practice) -> MakeUp:
    """The make-up by where it is tied in; the new cable of the gauge that it goes on from."""
    fed_by = into.line[0].partition(".")[0] if into.line else ""
    gauge = next((c.gauge for c in box.cables if c.id == fed_by), "")
    return make_up(
        box, into, gauge, practice, old.material == "metal" or bool(old.size), errand.wants == "alarms"
    )
