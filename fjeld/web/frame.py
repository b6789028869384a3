"""The frame around every waypoint: trail, rooms, floor, dock, workings, and the line at the foot.

What was drawn last is kept, since an edit is answered with what differs from it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any
from urllib.parse import urlencode

import msgspec
from django.conf import settings
from django.http import HttpRequest

from fjeld.check import RANK, Finding
from fjeld.derive.memo import LastUsed
from fjeld.drawing.building import Room, Storey
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import House
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape, group, path, rect, shape, weight
from fjeld.quantities import Unit
from fjeld.web.http import store
from fjeld.web.http.search import heard
from fjeld.web.http.view import View
from fjeld.web.jobs.models import Job, Revision
from fjeld.web.ui.called import with_places
from fjeld.web.ui.consequence import Difference
from fjeld.web.ui.panel import Shown, context
from fjeld.web.ui.wire import Fragment, Fragments, fragment
from fjeld.web.waypoints import WAYPOINTS


class TrailStop(Shown, frozen=True, kw_only=True):
    """A waypoint in the trail, with how many of its findings are dangers, asks and advice."""

    key: int
    name: str
    title: str
    here: bool
    danger: int
    asks: int
    advice: int
    open: int


class StoreyRow(Shown, frozen=True):
    """A storey with its rooms (handle, room, whether one stands in it), to step into one."""

    handle: str
    name: str
    here: bool
    whole: bool
    rooms: list[tuple[Handle, Room, bool]]


class ShownFinding(Shown, frozen=True):
    """An open finding in words, what would put it right, and the address that shows that; ``untried`` where
    what would is still to be looked for.
    """

    f: Finding
    words: str
    fix: str
    show: str
    untried: bool = False


class Around(Shown, frozen=True, kw_only=True):
    """What every part of a screen may need."""

    view: View
    job: Job
    waypoint: str
    title: str
    house: House
    unit: Unit
    selected: str
    stand: str
    said: Mapping[str, str]
    may_edit: bool


class Findings(Shown, frozen=True):
    """The open findings under a screen's workings, and how many more there are; ``later`` is the step
    that the page will be at when it asks what would put them right, none where all is told.
    """

    findings: list[ShownFinding]
    more: int
    later: int | None = None


class Rooms(Shown, frozen=True):
    """The storeys with their rooms."""

    storeys: list[StoreyRow]


class Trail(Shown, frozen=True, kw_only=True):
    """The trail, what lies beside, and the person's own last steps to take back."""

    trail: list[TrailStop]
    previous: TrailStop | None
    next: TrailStop | None
    current: TrailStop
    step: Revision | None
    undone: Revision | None


class ConsequenceLine(Shown, frozen=True, kw_only=True):
    """The consequence line: what an edit changed, or why it was refused and how to send it again."""

    view: View
    job: Job
    parts: list[Difference]
    error: str
    again: dict[str, str] | None
    may_edit: bool


class WaypointPage(Shown, frozen=True, kw_only=True):
    """A waypoint whole: its drawing layer by layer, the parts around it, and the line at its foot."""

    view: View
    job: Job
    waypoint: str
    title: str
    layers: list[Shape]
    parts: Mapping[str, Fragment]
    line: Fragment


class Hurt(Shown, frozen=True, kw_only=True):
    """A page that cannot be shown: the last step of the person, the other pages, and the steps to
    return to.
    """

    job: Job
    waypoint: str
    may_edit: bool
    title: str
    step: Revision | None
    waypoints: Mapping[str, str]
    revisions: Iterable[Revision]


def _trail(view: View) -> list[TrailStop]:
    found = []
    for n, (name, waypoint) in enumerate(WAYPOINTS.items(), 1):
        mine = [f for f in view.findings if f.waypoint == name]
        counts = [sum(RANK[f.severity] == r for f in mine) for r in range(4)]
        found.append(
            TrailStop(
                key=n,
                name=name,
                title=waypoint.title,
                here=name == view.waypoint,
                danger=counts[0],
                asks=counts[1] + counts[2],
                advice=counts[3],
                open=len(mine),
            )
        )
    return found


#: How large the storey in small is at most, px.
KEY_MAP = (96.0, 72.0)
#: So many findings are listed; the fixes of the first are worked out with them.
MOST_SHOWN, FIXED = 80, 12
#: The screens last drawn: an edit's "before" is as a rule what was sent a moment ago.
_layers: LastUsed[tuple[Any, ...]] = LastUsed(
    settings.SCREENS_BYTES // 2, lambda kept: sum(map(weight, kept[1].values()))
)
_fragments: LastUsed[tuple[Any, ...]] = LastUsed(
    settings.SCREENS_BYTES // 2, lambda kept: sum(len(f.html) for f in kept[1].values())
)


def _screen_key(view: View) -> tuple[Any, ...]:
    """All that a screen is drawn from, but who looks and what is in the history."""
    return (
        id(view.drawing),
        view.job.pk,
        view.waypoint,
        view.may_edit,
        (view.size.width, view.size.height),
        tuple(sorted(view.params.items())),
    )


def layers(view: View) -> dict[str, Shape]:
    """The floor's layers under and over a waypoint's own, in drawing order."""
    # What a search finds meanwhile must show.
    key = (*_screen_key(view), heard(view.drawing) if WAYPOINTS[view.waypoint].searches else 0)
    found: tuple[Any, dict[str, Shape]] = _layers.get(key, lambda: (view.drawing, _draw(view)))
    return found[1]


def _draw(view: View) -> dict[str, Shape]:
    floor = Floor(view.plan, view.room, view.size, whole=view.whole)
    found = WAYPOINTS[view.waypoint].layers(view, floor)
    if "f-walls" not in found:
        return found
    if view.size.screen == "phone" and not view.whole and len(view.drawing.of(Room)) > 1:
        found = {**found, "f-key": _key_map(view, floor)}
    drawn: dict[str, Shape] = {}
    for name, layer in found.items():
        if name == "f-openings":
            drawn["f-bodies"] = floor.bodies(view.selected)
        drawn[name] = layer
    return {**drawn, "f-names": floor.names(movable=WAYPOINTS[view.waypoint].names and view.may_edit)}


def _key_map(view: View, floor: Floor) -> Shape:
    """The storey in small at the corner of a room's sheet, to step into another room."""
    corners = [c for where in floor.rooms.values() for c in where.corners]
    if not corners:
        return group("f-key")
    left, top = min(c[0] for c in corners), min(c[1] for c in corners)
    wide, high = max(c[0] for c in corners) - left, max(c[1] for c in corners) - top
    k = min(KEY_MAP[0] / max(wide, 1.0), KEY_MAP[1] / max(high, 1.0))
    x0, y0 = view.size.width - wide * k - 8, view.size.height - high * k - 8
    parts: list[Shape | None] = [
        rect(x0 - 4, y0 - 4, width=wide * k + 8, height=high * k + 8, cls="key-ground", rx=4)
    ]
    for handle, where in floor.rooms.items():
        outline = path(
            [(x0 + (x - left) * k, y0 + (y - top) * k) for x, y in where.corners],
            "key-room is-here" if handle == view.room else "key-room",
            close=True,
        )
        words = f"to {view.drawing.get(handle, Room).name}"
        parts.append(
            shape(
                "a",
                shape("title", text=words),
                outline,
                href=f"?at={handle}",
                data_live="",
                data_drop="1",
                aria_label=words,
            )
        )
    return group("f-key", *parts)


def fragments(request: HttpRequest, view: View, panels: Fragments | None = None) -> dict[str, Fragment]:
    """Every part of the frame that can change, as HTML by id; ``panels`` are those that were :func:`drawn`
    already.
    """
    # Always written for this request: forms carry its own token.
    found = _write(request, view, panels)
    _fragments.keep(_sent_key(request, view), (view.drawing, found))
    return found


def sent(request: HttpRequest, view: View) -> dict[str, Fragment]:
    """The fragments that this person was sent for a screen, to compare with; never to be sent again."""
    found: tuple[Any, dict[str, Fragment]] = _fragments.get(
        _sent_key(request, view), lambda: (view.drawing, _write(request, view))
    )
    return found[1]


def _sent_key(request: HttpRequest, view: View) -> tuple[Any, ...]:
    return (*_screen_key(view), request.user.pk, view.seq)


def drawn(request: HttpRequest, view: View) -> dict[str, Fragment]:
    """The parts of a screen that hang on its drawing alone, to see whether it can be drawn before it is
    taken.
    """
    layers(view)
    return _panels(request, view, _around(view))


def _around(view: View) -> Around:
    house = view.drawing.house
    return Around(
        view=view,
        job=view.job,
        waypoint=view.waypoint,
        title=WAYPOINTS[view.waypoint].title,
        house=house,
        unit=house.unit,
        selected=view.selected,
        stand=_stand(view),
        said=view.plan.practice.words,
        may_edit=view.may_edit,
    )


def _panels(request: HttpRequest, view: View, around: Around) -> dict[str, Fragment]:
    screen = WAYPOINTS[view.waypoint]
    told = told_of(view)
    return {
        "dock": fragment(f"{screen.templates}/dock.html", context(around, screen.dock(view)), request),
        "workings": fragment(
            f"{screen.templates}/workings.html", context(around, screen.workings(view), told), request
        ),
    }


def told_of(view: View) -> Findings:
    """The open findings of a screen."""
    shown = shown_findings(view)
    later = view.seq + 1 if any(row.untried for row in shown) else None
    return Findings(shown, max(0, len(view.here) - MOST_SHOWN), later)


def findings_alone(request: HttpRequest, view: View) -> Fragment:
    """The open findings by themselves, each with what would put it right."""
    return fragment("parts/findings.html", context(_around(view), told_of(view)), request)


def _write(request: HttpRequest, view: View, panels: Fragments | None = None) -> dict[str, Fragment]:
    around, trail = _around(view), _trail(view)
    here = next(n for n, t in enumerate(trail) if t.here)
    beside = Trail(
        trail=trail,
        previous=trail[here - 1] if here else None,
        next=trail[here + 1] if here + 1 < len(trail) else None,
        current=trail[here],
        step=store.last_step(view.job, request.user),
        undone=store.last_undone(view.job, request.user),
    )
    return {
        "rooms": fragment("frame/rooms.html", context(around, Rooms(_storeys(view))), request),
        "trail": fragment("frame/trail.html", context(around, beside), request),
        **(panels or _panels(request, view, around)),
    }


def _stand(view: View) -> str:
    """The part of an address that keeps where one stands: the room or storey, and what is selected."""
    kept = {k: v for k in ("at", "storey", "sel") if (v := view.params.get(k, ""))}
    return f"?{urlencode(kept)}" if kept else ""


def _storeys(view: View) -> list[StoreyRow]:
    """The storeys with their rooms, to step into one; empty while there is a single room."""
    rooms = view.drawing.of(Room)
    if len(rooms) < 2 or not WAYPOINTS[view.waypoint].floor:
        return []
    here = rooms[view.room].storey if view.room else None
    named: dict[Handle | None, str] = {
        None: "Ground floor",
        **{h: s.name for h, s in view.drawing.of(Storey).items()},
    }
    return [
        StoreyRow(
            storey or "ground",
            name,
            storey == here,
            storey == here and view.whole,
            [(h, r, h == view.room and not view.whole) for h, r in rooms.items() if r.storey == storey],
        )
        for storey, name in named.items()
        if any(r.storey == storey for r in rooms.values())
    ]


def shown_findings(view: View) -> list[ShownFinding]:
    """The waypoint's open findings, the selected thing's first, each with whether it can be put right."""
    mine = sorted(
        view.here,
        key=lambda f: (
            view.selected not in f.handles if view.selected else False,
            not view.whole and not any(_in_hand(view, h) for h in f.handles),
            RANK[f.severity],
        ),
    )
    said, practice = view.plan.practice.said, view.plan.practice
    found = []
    for n, f in enumerate(mine[:MOST_SHOWN]):
        untried = n < FIXED and view.at_once and view.untried(f)
        fix = said(_fix_words(view, f)) if n < FIXED and not untried else ""
        words = with_places(said(f.words), view.drawing, practice)
        found.append(ShownFinding(f, words, fix, _show(view, f), untried))
    return found


def _in_hand(view: View, handle: str) -> bool:
    """Whether a thing is the room one stepped into, or stands in it."""
    return handle == view.room or getattr(view.drawing.items.get(Handle(handle)), "room", None) == view.room


def _show(view: View, finding: Finding) -> str:
    """The address that shows a fix as a ghost, on waypoints that can draw it."""
    if not WAYPOINTS[view.waypoint].ghosts:
        return ""
    kept = {"sel": view.selected} if view.selected else {}
    return "?" + urlencode({**kept, "try": "fix", "finding": finding.key})


def _fix_words(view: View, finding: Finding) -> str:
    edit = view.fix(finding)
    return view.named(edit).words(view.drawing) if edit else ""


def line(
    request: HttpRequest,
    view: View,
    parts: list[Difference],
    error: str = "",
    again: dict[str, str] | None = None,
) -> Fragment:
    """The consequence line."""
    told = [msgspec.structs.replace(p, words=view.plan.practice.said(p.words)) for p in parts]
    return fragment(
        "frame/line.html",
        context(
            ConsequenceLine(
                view=view, job=view.job, parts=told, error=error, again=again, may_edit=view.may_edit
            )
        ),
        request,
    )
