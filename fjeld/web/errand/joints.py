"""What is joined to what in the box of an errand, as far as it is known by now."""

from __future__ import annotations

from fjeld import practice as practices
from fjeld.drawing.errand import Errand
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.finished.answer import NotAsked
from fjeld.finished.book import NEW
from fjeld.finished.box.found import Device, FoundBox
from fjeld.finished.box.makeup import MakeUp, make_up, tails
from fjeld.finished.box.record import as_found
from fjeld.finished.box.replacing import Replaced, may_become, replaced_in
from fjeld.finished.box.tie_in import TieIn, tie_in
from fjeld.practice import Practice
from fjeld.web.errand.records import counting, readings_of
from fjeld.web.errand.screen import at_hand
from fjeld.web.jobs.models import Job

#: Errands in which one device stands in the place of another.
REPLACED = ("replace", "heavy")


def made_of(job: Job, drawing: Drawing) -> MakeUp | None:
    """How the box is made up: the joints of a new cable, tails on short wires, a device replaced.

    None where nothing of the kind is wanted, and where it may not work by what is known.
    """
    errand = drawing.house.errand
    if errand is None:
        return None
    handle, old = at_hand(drawing, "")
    practice = practices.load(drawing.house.practice)
    box = as_found(old, counting(readings_of(job, handle, as_found(old))))
    try:
        if errand.wants in NEW:
            into = tie_in(box, practice, errand.same_switch) if old.cables else None
            return made_up(box, into, old, errand, practice) if into and into.verdict == "works" else None
        if errand.wants == "short wires":
            return tails(box, gauge_of(box), practice)
        told = stead(box, errand, practice)
    except NotAsked:
        return None
    return MakeUp(told.moves, told.after) if told and told.moves and told.verdict == "works" else None


def made_up(box: FoundBox, into: TieIn, old: OldBox, errand: Errand, practice: Practice) -> MakeUp:
    """The make-up by where it is tied in; the new cable of the gauge that it goes on from."""
    fed_by = into.line[0].partition(".")[0] if into.line else ""
    gauge = next((c.gauge for c in box.cables if c.id == fed_by), "")
    return make_up(
        box, into, gauge, practice, old.material == "metal" or bool(old.size), errand.wants == "alarms"
    )


def stead(box: FoundBox, errand: Errand, practice: Practice) -> Replaced | None:
    """What stands in the place of a device of the box, tried; none where nothing is replaced, or nobody has said by what.

    Raises :class:`NotAsked`.
    """
    device = replaced_device(box, errand)
    if device is None or not errand.becomes or errand.becomes not in may_become(device.kind, practice):
        return None
    return replaced_in(box, device.id, errand.becomes, practice, gauge_of(box))


def against(job: Job, drawing: Drawing) -> str:
    """Why what is to stand in the place of a device cannot; empty where it may, and where nobody has said what."""
    errand = drawing.house.errand
    if errand is None or errand.wants not in REPLACED:
        return ""
    handle, old = at_hand(drawing, "")
    practice = practices.load(drawing.house.practice)
    try:
        told = stead(as_found(old, counting(readings_of(job, handle, as_found(old)))), errand, practice)
    except NotAsked:
        return ""
    if told is None:
        return ""
    refused = next((s.words for s in told.said if s.tone in ("fails", "danger")), "")
    failing = told.cases[0].why if told.verdict == "fails" else ""
    return practice.said(refused or failing)


def replaced_device(box: FoundBox, errand: Errand) -> Device | None:
    """The device that is replaced: the one that was named, else the first."""
    if errand.wants not in REPLACED or not box.devices:
        return None
    return box.devices[errand.replaces - 1 if 0 < errand.replaces <= len(box.devices) else 0]


def gauge_of(box: FoundBox) -> str:
    """The gauge of its cables, as far as one of them was read."""
    return next((c.gauge for c in box.cables if c.gauge), "")
