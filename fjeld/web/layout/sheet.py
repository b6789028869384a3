"""The mark-out sheet: what to carry to the room with a tape and a pencil.

For each wall the strip with a tape laid along it, read from one datum so that errors do
not add up; for the ceiling two distances; and a schedule of the boxes to bring.
"""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from fjeld.derive.house import Wall
from fjeld.derive.places import Mark, Placed, fastening
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Point
from fjeld.formats.sheet import Shape, circle, line, shape, still, svg, text
from fjeld.practice.parts import BoxKind
from fjeld.quantities import Unit, format_length
from fjeld.web.http.view import planned
from fjeld.web.jobs.access import for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.panel import Shown, context
from fjeld.web.ui.projection import Size
from fjeld.web.ui.strip import Scale, walked_left, walls_unrolled


class BoxLine(Shown, frozen=True, kw_only=True):
    """A box to bring: how it is fastened, its marks, its kind, the cables in it."""

    placed: Placed
    fastening: str
    mark: Mark
    kind: str
    box: BoxKind | None
    cables: int


class WallSheet(Shown, frozen=True):
    """A wall that carries boxes, with the tape laid along it; drawings as SVG."""

    wall: Wall
    strip: str
    tape: str
    rows: list[BoxLine]


class RoomSheet(Shown, frozen=True, kw_only=True):
    """One room: its walls that carry boxes, its ceiling, and the boxes to bring."""

    handle: Handle
    room: Room
    walls: list[WallSheet]
    start: str
    ceiling: str
    overhead: list[BoxLine]
    boxes: list[BoxLine]


class MarkOut(Shown, frozen=True):
    """The sheets of every room that has boxes, as of one step of the job."""

    job: Job
    seq: int
    rooms: list[RoomSheet]
    unit: Unit
    from_words: str


STRIP = Size(700, 280)
CEILING = Size(700, 420)
_TAPE_TOP, _LEVEL = 18.0, 22.0


@require_GET
@for_member
def mark_out(request: HttpRequest, member: Member) -> HttpResponse:
    """The sheet of every room that closes."""
    head = member.job.head
    if head is None:
        raise Http404("no drawing yet")
    plan = planned(head.document.drawing)[0]
    rooms = [_room(plan, h) for h, where in plan.rooms.items() if where.closed]
    measured = "rough framing" if plan.drawing.house.measure_from == "framing" else "the finished face"
    shown = MarkOut(member.job, head.seq, [r for r in rooms if r.boxes], plan.drawing.house.unit, measured)
    return render(request, "layout/mark-out.html", context(shown))


def _room(plan: Plan, handle: Handle) -> RoomSheet:
    """One room: its walls that carry boxes, its ceiling, and the boxes to bring."""
    here = sorted(
        (p for h, p in plan.placed.items() if p.room == handle and plan.home(h) == h),
        key=lambda p: order(p.handle),
    )
    walls = []
    for wall in plan.rooms[handle].walls:
        mine = sorted((p for p in here if p.wall == wall.number), key=lambda p: p.along)
        if mine:
            strip = svg(still(walls_unrolled(plan, handle, "", STRIP, wall.number)))
            walls.append(
                WallSheet(
                    wall=wall,
                    strip=strip,
                    tape=svg(_tape(plan, wall.length, mine)),
                    rows=[_row(plan, p) for p in mine],
                )
            )
    overhead = [p for p in here if not p.wall]
    return RoomSheet(
        handle=handle,
        room=plan.drawing.get(handle, Room),
        walls=walls,
        start="right" if walked_left(plan.rooms[handle]) else "left",
        ceiling=svg(_ceiling(plan, handle)) if overhead else "",
        overhead=[_row(plan, p) for p in overhead],
        boxes=[_row(plan, p) for p in here if p.kind != "panel"],
    )


def _row(plan: Plan, placed: Placed) -> BoxLine:
    point = plan.drawing.items[placed.handle]
    box = plan.boxes.get(placed.handle)
    return BoxLine(
        placed=placed,
        fastening=fastening(placed),
        mark=plan.marks[placed.handle],
        kind=point.kind if isinstance(point, Point) else "panel",
        box=box.kind if box else None,
        cables=len({end.bundle for end in box.ends}) if box else 0,
    )


def _tape(plan: Plan, length: float, boxes: list[Placed]) -> Shape:
    """A tape laid along a wall on the strip's own scale, its readings on as many levels as keep
    them apart.
    """
    where = plan.rooms[boxes[0].room]
    at = Scale(length, where.height, STRIP, walked_left(where))
    unit = plan.drawing.house.unit
    parts = [
        line(at.x(0), _TAPE_TOP, at.x(length), _TAPE_TOP, "tape"),
        circle(at.x(0), _TAPE_TOP, 4, "tape-datum"),
    ]
    ends: list[float] = []
    for placed in sorted(boxes, key=lambda p: at.x(p.along)):
        reading = format_length(plan.marks[placed.handle].across, unit)
        words = f"{placed.handle} {reading}"
        x, half = at.x(placed.along), 4.6 * len(words)
        level = next((n for n, end in enumerate(ends) if end < x - half - 8), len(ends))
        ends[level : level + 1] = [x + half]
        y = _TAPE_TOP + 20 + level * _LEVEL
        parts += [line(x, _TAPE_TOP - 7, x, y - 13, "tape"), text(x, y, words, "tape-reading")]
    height = _TAPE_TOP + 28 + max(len(ends) - 1, 0) * _LEVEL
    return shape("svg", *parts, cls="strip", viewBox=f"0 0 {STRIP.width} {height:.0f}", aria_hidden="true")


def _ceiling(plan: Plan, room: Handle) -> Shape:
    """The ceiling with its joists, and each box's two distances."""
    floor = Floor(plan, room, CEILING)
    parts = [still(layer) for layer in (floor.walls(), floor.joists(), floor.openings(), floor.points())]
    words = f"Ceiling of {plan.drawing.get(room, Room).name}"
    return shape(
        "svg",
        *parts,
        cls="block w-full",
        viewBox=f"0 0 {CEILING.width} {CEILING.height}",
        role="img",
        aria_label=words,
    )
