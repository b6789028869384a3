"""The mark-out sheet: what to carry to the room with a tape and a pencil.

For each wall the strip with a tape laid along it, read from one datum so that errors do not add up; for the
ceiling two distances; and a schedule of the boxes to bring.
"""

from __future__ import annotations

from collections.abc import Sequence

from fjeld.derive.places import Placed, fastening
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Point
from fjeld.graphics.floor import Floor
from fjeld.graphics.page import (
    Block,
    Column,
    Flat,
    Heading,
    KeptTogether,
    Page,
    Paragraph,
    Picture,
    Span,
    Table,
    plain,
)
from fjeld.graphics.projection import Size
from fjeld.graphics.shapes import Shape, circle, line, shape, still, text
from fjeld.graphics.strip import Scale, walked_left, walls_unrolled
from fjeld.quantities import format_length

STRIP = Size(700, 280)
CEILING = Size(700, 420)
_TAPE_TOP, _LEVEL = 18.0, 22.0
#: The tape lies so much nearer the floor line than a strip ends below it, px.
_NEARER = 20.0
_DEFERS = "Look at the far side before drilling. Local codes and a licensed electrician have the last word."


def mark_out(plan: Plan, name: str, revision: int) -> Page:
    """The sheet of every room that closes and holds a box, as of a revision of the job."""
    framing = plan.drawing.house.measure_from == "framing"
    rooms = [h for h, where in plan.rooms.items() if where.closed and _boxes(plan, h)]
    face, floor = ("rough framing", "subfloor") if framing else ("the finished face", "finished floor")
    told = Span(
        f"Revision {revision} · read from {face}, every reading from the wall's own start · heights above the"
        f" {floor}",
        quiet=True,
    )
    empty = Paragraph(plain("No room closes and holds a box yet, so there is nothing to mark out."))
    return Page(
        title=f"{name}: mark-out",
        head=(Heading(f"{name}: mark-out", 1), Paragraph((told,))),
        blocks=tuple(b for h in rooms for b in _room(plan, h)) if rooms else (empty,),
        foot=_DEFERS,
    )


def _boxes(plan: Plan, room: Handle) -> list[Placed]:
    """The boxes of a room in the order of their handles; what sits in another's box is not one of its own."""
    here = (p for h, p in plan.placed.items() if p.room == room and plan.home(h) == h)
    return sorted(here, key=lambda p: order(p.handle))


def _room(plan: Plan, handle: Handle) -> list[Block]:
    """One room: its walls that carry boxes, its ceiling, and the boxes to bring."""
    room, where, unit = plan.drawing.get(handle, Room), plan.rooms[handle], plan.drawing.house.unit
    here = _boxes(plan, handle)
    start = "right" if walked_left(where) else "left"
    # The room's name keeps with the first of what is in it.
    title: list[Flat] = [Heading(room.name, 2, f"ceiling at {format_length(room.height.mm, unit)}")]
    found: list[Block] = []
    for wall in where.walls:
        mine = sorted((p for p in here if p.wall == wall.number), key=lambda p: p.along)
        if mine:
            beside = f"{format_length(wall.length, unit)}, from its {start} end as you face it"
            found.append(
                KeptTogether(
                    (
                        *title,
                        Heading(f"Wall {wall.number}", 3, beside),
                        Picture(_with_tape(plan, handle, wall.number, mine), high=88.0),
                        _on_wall(plan, mine),
                    )
                )
            )
            title = []
    if overhead := [p for p in here if not p.wall]:
        beside = "two distances at right angles, from the west wall and from the north wall"
        drawn = Picture(_ceiling(plan, handle), high=105.0)
        found.append(KeptTogether((*title, Heading("Ceiling", 3, beside), drawn, _overhead(plan, overhead))))
    brought = [p for p in here if p.kind != "panel"]
    if brought:
        found.append(KeptTogether((Heading("Boxes to bring", 3), _to_bring(plan, brought))))
    return found


def _on_wall(plan: Plan, boxes: Sequence[Placed]) -> Table:
    """The boxes of a wall: along the tape, up, and to which edge."""
    rows = []
    for placed in boxes:
        mark = plan.marks[placed.handle]
        read = _read(plan, placed, mark.across, mark.height)
        rows.append((*read, Span(mark.edge or ""), _framing(placed, "stud")))
    titles = (Column("Tape at", figures=True), Column("Height", figures=True), Column("To its"))
    return Table((Column("Box"), Column("What"), *titles, Column("Framing")), tuple(rows))


def _overhead(plan: Plan, boxes: Sequence[Placed]) -> Table:
    """The boxes of a ceiling: from its west wall, and from its north wall."""
    rows = []
    for placed in boxes:
        mark = plan.marks[placed.handle]
        rows.append((*_read(plan, placed, mark.across, mark.down), _framing(placed, "joist")))
    titles = (Column("From west", figures=True), Column("From north", figures=True))
    return Table((Column("Box"), Column("What"), *titles, Column("Framing")), tuple(rows))


def _read(plan: Plan, placed: Placed, *figures: float | None) -> tuple[Span, ...]:
    """A box, what it is, and the figures that are read for it, large."""
    unit = plan.drawing.house.unit
    large = (Span("" if mm is None else format_length(mm, unit), large=True) for mm in figures)
    return (Span(placed.handle, strong=True), Span(_kind(plan, placed)), *large)


def _framing(placed: Placed, member: str) -> Span:
    words = fastening(placed)
    return Span(words) if words else Span(f"△ meets a {member}", strong=True)


def _kind(plan: Plan, placed: Placed) -> str:
    point = plan.drawing.items[placed.handle]
    return point.kind if isinstance(point, Point) else "panel"


def _to_bring(plan: Plan, boxes: Sequence[Placed]) -> Table:
    """Each box with its kind, what it holds and the cables that come to it."""
    holds = "Cables it takes" if plan.practice.counts_cables else "in³"
    rows = []
    for placed in boxes:
        box = plan.boxes.get(placed.handle)
        rows.append(
            (
                Span(placed.handle, strong=True),
                Span(_kind(plan, placed)),
                Span(box.kind.name if box else ""),
                Span(f"{box.kind.volume:.1f}".removesuffix(".0") if box else ""),
                Span(f"{len({end.bundle for end in box.ends}) if box else 0}"),
            )
        )
    return Table(
        (
            Column("Box"),
            Column("For"),
            Column("Kind"),
            Column(holds, figures=True),
            Column("Cables", figures=True),
        ),
        tuple(rows),
    )


def _with_tape(plan: Plan, room: Handle, wall: int, boxes: Sequence[Placed]) -> Shape:
    """A wall unrolled with the tape laid under it: one drawing, so that they keep one scale."""
    strip = still(walls_unrolled(plan, room, "", STRIP, wall))
    low = float(dict(strip.attributes)["viewBox"].split()[3]) - _NEARER
    tape, high = _tape(plan, plan.rooms[room].walls[wall - 1].length, boxes)
    return shape(
        "svg",
        *strip.children,
        shape("g", *tape, transform=f"translate(0 {low:.1f})"),
        cls="strip",
        viewBox=f"0 0 {STRIP.width} {low + high:.0f}",
        role="img",
        aria_label=f"Wall {wall} with the tape along it",
    )


def _tape(plan: Plan, length: float, boxes: Sequence[Placed]) -> tuple[list[Shape], float]:
    """A tape laid along a wall on the strip's own scale, its readings on levels that keep them apart, and how
    high it is, px.
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
        words = f"{placed.handle} {format_length(plan.marks[placed.handle].across, unit)}"
        x, half = at.x(placed.along), 4.6 * len(words)
        level = next((n for n, end in enumerate(ends) if end < x - half - 8), len(ends))
        ends[level : level + 1] = [x + half]
        y = _TAPE_TOP + 20 + level * _LEVEL
        parts += [line(x, _TAPE_TOP - 7, x, y - 13, "tape"), text(x, y, words, "tape-reading")]
    return parts, _TAPE_TOP + 28 + max(len(ends) - 1, 0) * _LEVEL


def _ceiling(plan: Plan, room: Handle) -> Shape:
    """The ceiling with its joists and boxes."""
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
