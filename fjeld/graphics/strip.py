"""A room's walls unrolled flat to scale: studs, openings, boxes at their true heights, the reach band.

Walls follow one another in the order they were walked, seen from inside, so that what
stands left on the strip stands left in the room. Along the floor line runs the reach of
the outlets: solid where an outlet of the same wall space is near enough, broken where not.
"""

from __future__ import annotations

import itertools

from fjeld import geometry
from fjeld.derive.facts.spaces import outlet_offsets, reached, wanted_in
from fjeld.derive.house import RoomShape, Wall
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.wall_spaces import wall_starts
from fjeld.drawing.building import Opening, Room
from fjeld.drawing.handles import Handle
from fjeld.graphics.projection import Size
from fjeld.graphics.shapes import Shape, circle, line, path, rect, shape, text
from fjeld.quantities import format_length

STRIP = Size(832, 168)
_TOP, _FOOT, _SIDE = 22.0, 30.0, 8.0
#: What a letter of a height takes at most, px.
_LETTER = 8.4


class Scale:
    """Millimetres along the unrolled walls and above the floor, to pixels.

    A room walked the other way round is unrolled from right to left: the strip is always
    what one sees standing inside.
    """

    def __init__(self, around: float, height: float, size: Size, mirrored: bool = False) -> None:
        self.around, self.mirrored = around, mirrored
        self.k = min((size.width - 2 * _SIDE) / around, (size.height - _TOP - _FOOT) / height)
        self.left = (size.width - around * self.k) / 2
        self.floor = _TOP + height * self.k
        self.top = _TOP
        self.right = size.width

    def x(self, along: float) -> float:
        return self.left + (self.around - along if self.mirrored else along) * self.k

    def span(self, start: float, end: float) -> tuple[float, float]:
        """Left edge and width of a stretch."""
        return min(self.x(start), self.x(end)), abs(end - start) * self.k

    def y(self, height: float) -> float:
        return self.floor - height * self.k


def walked_left(where: RoomShape) -> bool:
    """Whether the walls were walked counter-clockwise, so that each starts at its right end seen
    from inside.
    """
    return len(where.corners) > 2 and geometry.area(where.corners) < 0


def strip_scale(plan: Plan, room: Handle, size: Size) -> Scale | None:
    """The scale of a room's whole strip; None while its walls do not close."""
    where = plan.rooms[room]
    around = sum(w.length for w in where.walls)
    return Scale(around, where.height, size, walked_left(where)) if where.closed and around else None


def walls_unrolled(
    plan: Plan, room: Handle | None, selected: str, size: Size, only: int = 0, extra: Shape | None = None
) -> Shape:
    """The strip of a room as an SVG; empty while its walls do not close. ``only`` shows one wall,
    by number.
    """
    where = plan.rooms[room] if room else None
    if room is None or where is None or not _can_be_unrolled(where, only):
        return shape("svg", cls="strip", viewBox=f"0 0 {size.width} 8", aria_hidden="true")
    walls = [w for w in where.walls if not only or w.number == only]
    starts = list(itertools.accumulate((w.length for w in walls), initial=0.0))
    scale = Scale(starts[-1], where.height, size, walked_left(where))
    measured = plan.drawing.get(room, Room)
    parts: list[Shape] = []
    for wall, start in zip(walls, starts, strict=False):
        openings = {h: o for h, o in plan.openings[room].items() if o.wall == wall.number}
        parts += _wall(wall, start, openings=openings, room=measured, at=scale, plan=plan)
    for wall, start in zip(walls, starts, strict=False):
        parts += _boxes(_on_wall(plan, room, wall), start, selected, scale, plan)
    if not only:
        parts += _reach(plan, room, where, scale)
    words = f"Walls of {measured.name} unrolled"
    height = scale.floor + _FOOT
    return shape(
        "svg",
        *parts,
        extra,
        cls="strip",
        viewBox=f"0 0 {size.width} {height:.0f}",
        role="group",
        aria_label=words,
    )


def _can_be_unrolled(where: RoomShape, only: int) -> bool:
    """Whether the walls close, or one is asked for; one still to be measured may have no length yet."""
    return bool(where.closed or only) and any(w.length > 0 and only in (0, w.number) for w in where.walls)


def _on_wall(plan: Plan, room: Handle, wall: Wall) -> list[Placed]:
    """The boxes of a wall; what sits in another's box is not drawn apart from it."""
    here = (p for h, p in plan.placed.items() if p.room == room and plan.home(h) == h)
    return [p for p in here if p.wall == wall.number]


def _wall(
    wall: Wall, start: float, openings: dict[Handle, Opening], room: Room, at: Scale, plan: Plan
) -> list[Shape]:
    thick = room.studs_of(wall.number).thick.mm
    left, width = at.span(start, start + wall.length)
    top, height = at.top, at.floor - at.top
    parts = [rect(left, top, width, height, "strip-wall")]
    for stud in wall.studs:
        x, w = at.span(start + stud - thick / 2, start + stud + thick / 2)
        parts.append(rect(x, top, max(w, 1.2), height, "strip-stud"))
    for y in (top, at.floor - thick * at.k):
        parts.append(rect(left, y, width, max(thick * at.k, 1.2), "strip-stud"))
    for handle, o in openings.items():
        x, w = at.span(start + o.at.mm, start + o.at.mm + o.width.mm)
        y1, y2 = at.y(min(o.head.mm, room.height.mm)), at.y(o.sill.mm)
        parts.append(rect(x, y1, w, y2 - y1, f"strip-{o.kind}"))
        if o.kind == "window":
            parts.append(line(x, (y1 + y2) / 2, x + w, (y1 + y2) / 2, "glass"))
        # Above the glass, which would strike it out.
        aside = -8 if o.kind == "window" else 5
        parts.append(text(x + w / 2, (y1 + y2) / 2 + aside, handle, "label muted"))
    for block in plan.blocks_in(Handle(wall.key.partition(".")[0])):
        if block.wall == wall.number:
            x, w = at.span(start + max(block.start, 0.0), start + min(block.end, wall.length))
            level = plan.rooms[block.room].level
            y1, y2 = at.y(min(block.high - level, room.height.mm)), at.y(max(block.low - level, 0.0))
            cls = "strip-body in-the-way" if block.in_the_way else "strip-body"
            parts.append(rect(x, y1, w, max(y2 - y1, 2.0), cls))
            if w > 26:
                parts.append(text(x + w / 2, (y1 + y2) / 2 + 5, block.handle, "label muted"))
    parts += _slope(plan, wall, start, at)
    parts.append(rect(left, top, width, height, "strip-edge"))
    length = format_length(wall.length, plan.drawing.house.unit)
    parts.append(
        text(
            left + width / 2,
            top - 7,
            f"wall {wall.number} · {length}" if width > 110 else f"{wall.number}",
            "label muted",
        )
    )
    return parts


def _slope(plan: Plan, wall: Wall, start: float, at: Scale) -> list[Shape]:
    """Where the ceiling slopes, its line along the wall."""
    where = plan.rooms[Handle(wall.key.partition(".")[0])]
    if where.slope is None:
        return []
    ends = [
        (at.x(start), at.y(where.ceiling_at(wall.start))),
        (at.x(start + wall.length), at.y(where.ceiling_at(wall.end))),
    ]
    return [path(ends, "strip-slope")]


def _boxes(mine: list[Placed], start: float, selected: str, at: Scale, plan: Plan) -> list[Shape]:
    """The boxes of a wall; close neighbours take their labels in turn, one above the other."""
    parts: list[Shape] = []
    before = -1e9
    for placed in sorted(mine, key=lambda p: p.along):
        here = placed.along * at.k
        raised = 13.0 if here - before < 24 else 0.0
        before = -1e9 if raised else here
        parts += _box(placed, start, selected=placed.handle == selected, at=at, plan=plan, raised=raised)
    return parts


def _beside(x: float, y: float, words: str, at: Scale) -> Shape:
    """The height of a box beside it: to its right, or to its left where the strip ends too soon."""
    if x + 14 + _LETTER * len(words) > at.right:
        return text(x - 14, y, words, "strip-height", "end")
    return text(x + 14, y, words, "strip-height", "start")


def _box(placed: Placed, start: float, selected: bool, at: Scale, plan: Plan, raised: float) -> list[Shape]:
    """One box at its true height; ``raised`` lifts its label (px)."""
    x, y = at.x(start + placed.along), at.y(placed.height)
    w, h = max(placed.width * at.k, 6.0), max(placed.tall * at.k, 8.0)
    cls = "strip-box" + (" is-selected" if selected else "") + (" clash" if placed.sits == "clash" else "")
    parts: list[Shape] = []
    reading: list[Shape] = []
    mark = plan.marks.get(placed.handle)
    if selected and mark and mark.height is not None:
        level = at.y(mark.height)
        reading += [line(x, at.floor, x, level, "drag-line"), line(x - 12, level, x + 12, level, "drag-line")]
        words = f"{mark.edge} {format_length(mark.height, plan.drawing.house.unit)}"
        reading.append(_beside(x, (level + at.floor) / 2 + 5, words, at))
    parts.append(rect(x - w / 2, y - h / 2, width=w, height=h, cls=cls, rx=1.5))
    parts.append(text(x, y - h / 2 - 4 - raised, placed.handle, "handle"))
    words = f"{plan.practice.word(placed.kind)} {placed.handle} on wall {placed.wall}"
    address = f"?sel={placed.handle}"
    link = shape(
        "a",
        shape("title", text=words),
        *parts,
        id=f"s-{placed.handle}",
        href=address,
        data_live="",
        aria_label=words,
    )
    return [*reading, link]


def _reach(plan: Plan, room: Handle, where: RoomShape, at: Scale) -> list[Shape]:
    """The floor line of every wall space, and what of it is too far from an outlet."""
    around = wall_starts(where)[-1]
    if not wanted_in(plan, room):
        return []
    outlets, unit = outlet_offsets(plan, room), plan.drawing.house.unit
    y = at.floor + 6
    parts: list[Shape] = []
    for found in reached(plan, room):
        space = found.space
        parts += _stretch(
            space.start, space.start + space.length, around=around, at=at, y=y, cls="reach-solid"
        )
        for t in found.beyond:
            parts += _stretch(
                space.start + t.start, space.start + t.end, around=around, at=at, y=y, cls="reach-short"
            )
            middle = (space.start + (t.start + t.end) / 2) % around
            x = min(max(at.x(middle), at.left + 60), at.left + around * at.k - 60)
            parts.append(text(x, y + 20, f"{format_length(t.by, unit)} too far", "label danger-text"))
    parts += [circle(at.x(a), y, 4, "reach-outlet") for a in outlets.values()]
    return parts


def _stretch(start: float, end: float, around: float, at: Scale, y: float, cls: str) -> list[Shape]:
    """A stretch of the floor line, in two when it runs past the start of wall 1."""
    a, b = start % around, start % around + (end - start)
    pieces = [(a, b)] if b <= around + 1 else [(a, around), (0.0, b - around)]
    return [path([(at.x(p), y), (at.x(q), y)], cls) for p, q in pieces]
