"""Whether a drawing stands: it is worked out, checked and drawn before anything says that it was taken.

What comes of it is kept for the list of jobs as the job's *card*, so that the list itself
works out nothing.
"""

from __future__ import annotations

import logging
from collections.abc import Collection, Iterator
from contextlib import contextmanager

from django.http import Http404

from fjeld.check import Finding
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.changes import Built, StaleChange
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Cable, Drawing, Standing
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import InvalidDrawing
from fjeld.errand.record import as_found
from fjeld.graphics.floor import Floor
from fjeld.graphics.picture import picture
from fjeld.graphics.projection import DESK, SMALL
from fjeld.graphics.shapes import still
from fjeld.graphics.strip import STRIP, walls_unrolled
from fjeld.graphics.svg import svg
from fjeld.web.http.view import planned

log = logging.getLogger("fjeld.jobs")
#: The waypoints that a job can be opened at by what is pressing in them.
ORDER = ("survey", "layout", "circuits", "runs", "boxes", "proof")
#: What the list of jobs shows: words, counts, where to go on, and the floor in small.
Card = dict[str, str | int]


class DoesNotStand(ValueError):
    """A drawing that cannot be worked out or drawn. The message is for the person; the cause is in
    the log.
    """


@contextmanager
def guarded(*besides: type[Exception]) -> Iterator[None]:
    """Turn a fault of the program into a refusal in words, with its cause in the log.

    What is meant for the person passes as it is: the refusals of edits, and ``besides``.
    """
    try:
        yield
    except (EditRefused, InvalidDrawing, StaleChange, Built, DoesNotStand, Http404, *besides):
        raise
    except Exception:
        log.exception("an edit could not be worked out")
        raise DoesNotStand(
            "Fjeld could not work out what would come of this, so nothing was changed. The cause is in its"
            " log."
        ) from None


def stand(drawing: Drawing, before: Drawing | None = None) -> Card:
    """The card of a drawing that is worked out, checked and drawn; raises :class:`DoesNotStand`. Where it
    stood ``before``, no more is drawn than what may look otherwise now.
    """
    with guarded():
        plan, findings = planned(drawing)
        _draw(plan, plan.drawing.of(Room) if before is None else _touched(before, drawing))
        return card_of(plan, findings)


def _touched(before: Drawing, after: Drawing) -> Collection[Handle]:
    """The rooms that something was changed in; all of them, where it is of no one room."""
    found: set[Handle] = set()
    for handle in before.items.keys() | after.items.keys():
        was, now = before.items.get(handle), after.items.get(handle)
        for item in (was, now) if was != now else ():
            if isinstance(item, Standing):
                found.add(item.room)
            elif not isinstance(item, Cable | None):
                return after.of(Room)
    return [h for h in after.of(Room) if h in found]


def _draw(plan: Plan, touched: Collection[Handle]) -> None:
    """The walls of some rooms, and every storey that has one of them, as a page would show them."""
    rooms = plan.drawing.of(Room)
    first = {rooms[handle].storey: handle for handle in reversed([*touched])}
    for handle in first.values():
        floor = Floor(plan, handle, DESK, whole=True)
        for layer in (
            floor.walls,
            floor.bodies,
            floor.openings,
            floor.joists,
            floor.wall_lengths,
            floor.points,
            floor.names,
        ):
            layer()
    for handle in touched:
        walls_unrolled(plan, handle, "", STRIP)


def card_of(plan: Plan, findings: list[Finding]) -> Card:
    """What the list of jobs shows of a plan."""
    if plan.drawing.house.errand is not None and plan.drawing.of(OldBox):
        return _of_errand(plan, findings)
    rooms = plan.drawing.of(Room)
    storeys = [r.storey for r in rooms.values()]
    # The picture is of the storey with the most rooms.
    largest = max(rooms, key=lambda h: storeys.count(rooms[h].storey), default=None)
    floor = Floor(plan, largest, SMALL, 26, whole=True)
    layers = [floor.walls(), floor.openings(), floor.dots()]
    points = len(plan.placed)
    named = f"{len(rooms)} rooms" if len(rooms) > 1 else next((r.name for r in rooms.values()), "")
    words = f"{named}: {points} box{'es' if points != 1 else ''}, {len(plan.cables)} cables"
    return {
        "words": words if named else "Nothing measured yet",
        "open": len(findings),
        "danger": sum(f.severity == "danger" for f in findings),
        "next": _next(plan, findings),
        "svg": "".join(svg(still(layer, words=False)) for layer in layers),
    }


def _of_errand(plan: Plan, findings: list[Finding]) -> Card:
    """Of an errand: its first old box, drawn as far as it is recorded."""
    old = next(iter(plan.drawing.of(OldBox).values()))
    n = len(old.cables)
    words = (
        f"Its old box: {old.holds or old.place}, {n} cable{'s' if n != 1 else ''}"
        if n
        else "Its old box is not opened yet"
    )
    return {
        "words": plan.practice.said(words),
        "open": len(findings),
        "danger": sum(f.severity == "danger" for f in findings),
        "next": "survey",
        "errand": True,
        "svg": svg(picture(as_found(old), {}, within=(280, 170), practice=plan.practice)) if n else "",
    }


def _next(plan: Plan, findings: list[Finding]) -> str:
    """The first waypoint with something pressing open, else proof."""
    if not plan.placed:
        return "layout" if any(w.closed for w in plan.rooms.values()) else "survey"
    pressing = {f.waypoint for f in findings if f.severity not in ("advice", "ask")}
    return next((w for w in ORDER if w in pressing), "proof" if plan.circuits else "circuits")
