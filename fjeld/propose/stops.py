"""Where a dragged box may come to rest, with the distances a person reads there.

On a wall: beside each stud (nailed to it), mid-bay, and the middle of the wall. On the
ceiling: every whole inch (or 25 mm) that clears the joists, the middle of the room, and
positions already taken by other lights, so that lights line up.
"""

from __future__ import annotations

from bisect import bisect_left

import msgspec

from fjeld.derive.facts.spots import in_its_place
from fjeld.derive.house import Wall
from fjeld.derive.places import Placed, default_edge, edge_above_center, overlap
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Opening, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.practice import rules
from fjeld.quantities import INCH, format_length


class Stop(msgspec.Struct, frozen=True):
    """A place to rest: coordinate (mm), the reading shown there, and why it is a good place."""

    at: float
    label: str
    why: str = ""


def wall_stops(plan: Plan, handle: Handle) -> list[Stop]:
    """Stops along its wall for a box on a wall."""
    placed = plan.placed[handle]
    room, where = plan.drawing.get(placed.room, Room), plan.rooms[placed.room]
    wall = where.walls[placed.wall - 1]
    half, thick = placed.width / 2, room.studs_of(wall.number).thick.mm
    found: dict[float, str] = {wall.length / 2: "middle of the wall"}
    for stud in wall.studs:
        for at in (stud - thick / 2 - half, stud + thick / 2 + half):
            found[at] = "nailed to a stud"
    for a, b in zip(wall.studs, wall.studs[1:], strict=False):
        found.setdefault((a + b) / 2, "between studs")
    openings = [o for o in plan.openings[placed.room].values() if o.wall == placed.wall]
    mark = plan.marks[handle]
    return [
        Stop(round(at, 2), _read(plan, mark.across, mark.rest[0], at - placed.along), why)
        for at, why in sorted(found.items())
        if half - 0.5 <= at <= wall.length - half + 0.5
        and (why == "middle of the wall" or _clear(at, half, thick, wall.studs))
        and not _in_opening(at, placed, openings)
        and not _taken(plan, _moved(plan, placed, at))
    ]


def _read(plan: Plan, near: float, far: float, moved: float) -> str:
    """What the tape reads to both sides of a box that is moved so far."""
    unit = plan.drawing.house.unit
    return f"{format_length(near + moved, unit)} | {format_length(far - moved, unit)}"


def _moved(plan: Plan, placed: Placed, along: float) -> Placed:
    """A box on a wall, elsewhere along it."""
    x, y = plan.rooms[placed.room].walls[placed.wall - 1].at(along)
    return msgspec.structs.replace(placed, along=along, position=(x, y, placed.position[2]))


def _taken(plan: Plan, moved: Placed) -> bool:
    """Whether another box stands where this one would, or something is in the way there."""
    others = (other for handle, other in plan.placed.items() if handle != moved.handle)
    return any(overlap(moved, other) for other in others) or bool(in_its_place(plan, moved))


def _clear(at: float, half: float, thick: float, members: tuple[float, ...]) -> bool:
    """Whether a box ``half`` wide to each side clears the framing; ``members`` in ascending order."""
    after = bisect_left(members, at)
    return all(abs(at - m) >= half + thick / 2 - 0.5 for m in members[max(after - 1, 0) : after + 1])


def _in_opening(at: float, placed: Placed, openings: list[Opening]) -> bool:
    half = placed.width / 2
    return any(
        o.at.mm - half < at < o.at.mm + o.width.mm + half and o.sill.mm < placed.height < o.head.mm
        for o in openings
    )


def ceiling_stops(plan: Plan, handle: Handle, axis: int) -> list[Stop]:
    """Stops along x (axis 0) or y (axis 1) for a box on the ceiling."""
    placed = plan.placed[handle]
    found = {
        at: why
        for at, why in _in_open_ceiling(plan, placed, axis).items()
        if not in_its_place(plan, _shifted(placed, axis, at))
    }
    for other, p in plan.placed.items():
        if other != handle and p.room == placed.room and not p.wall:
            found[p.position[axis]] = f"in line with {other}"
    mark = plan.marks[handle]
    here = (mark.across, mark.down or 0.0)[axis]
    rest = (mark.rest[0], mark.rest[1] or 0.0)[axis]
    return [
        Stop(round(at, 2), _read(plan, here, rest, at - placed.position[axis]), why)
        for at, why in sorted(found.items())
    ]


def _in_open_ceiling(plan: Plan, placed: Placed, axis: int) -> dict[float, str]:
    """Round figures on the tape, clear of the joists, and the middle of the room."""
    where, room = plan.rooms[placed.room], plan.drawing.get(placed.room, Room)
    along = [c[axis] for c in where.corners]
    low, high, half = min(along), max(along), placed.width / 2
    step = INCH if plan.drawing.house.unit == "ft-in" else 25.0
    marks = range(int(half // step) + 1, int((high - low - half) // step) + 1)
    found = {low + k * step: "" for k in marks}
    if where.joist_axis == axis:
        found = {at: why for at, why in found.items() if _clear(at, half, room.joists.thick.mm, where.joists)}
    return {**found, (low + high) / 2: "middle of the room"}


def _shifted(placed: Placed, axis: int, at: float) -> Placed:
    """A box on the ceiling, elsewhere along one axis."""
    x, y, z = placed.position
    return msgspec.structs.replace(placed, position=(at, y, z) if axis == 0 else (x, at, z))


def height_stops(plan: Plan, handle: Handle) -> list[Stop]:
    """Stops up and down a wall, as heights to the edge of the box that is measured: whole inches or 25 mm,
    and neighbours'.
    """
    placed = plan.placed[handle]
    point = plan.drawing.get(handle, Point)
    edge = point.edge or default_edge(point.kind, plan.practice)
    off = edge_above_center(edge, placed.tall)
    unit = plan.drawing.house.unit
    step = INCH if unit == "ft-in" else 25.0
    top = plan.rooms[placed.room].ceiling_at(placed.position[:2]) - placed.tall / 2
    found = {k * step: "" for k in range(1, int(top // step)) if placed.tall / 2 <= k * step - off <= top}
    for other, p in plan.placed.items():
        if other != handle and p.room == placed.room and p.wall and p.kind == placed.kind:
            found[p.height + off] = f"level with {other}"
    # Read from the subfloor while roughing in, as its mark is.
    raised = (plan.marks[handle].height or 0.0) - (placed.height + off)
    return [
        Stop(round(at, 2), f"{edge} {format_length(at + raised, unit)}", why)
        for at, why in sorted(found.items())
    ]


def by_distance(stops: list[Stop], at: float) -> list[Stop]:
    """Stops in order of how far they are from a coordinate."""
    return sorted(stops, key=lambda s: (abs(s.at - at), s.at))


#: Beyond this from the king stud a switch is no longer beside its door, mm.
BESIDE = 400.0


def _clear_from(at: float, way: int, half: float, thick: float, wall: Wall) -> float:
    """The nearest place from ``at`` on, one way along the wall, where a box meets no stud: there, or at a
    stud's side.
    """
    sides = [stud + side * (thick / 2 + half) for stud in wall.studs for side in (-1, 1)]
    beyond = sorted((s for s in sides if 0 <= (s - at) * way <= BESIDE), key=lambda s: abs(s - at))
    fits = (
        s for s in [at, *beyond] if half <= s <= wall.length - half and _clear(s, half, thick, wall.studs)
    )
    return next(fits, at)


def _in_a_bay(
    plan: Plan, room: Handle, opening: Opening, wall: Wall, half: float, latch_at_end: bool, thick: float
) -> tuple[int, float] | None:
    """A switch cut into a finished wall beside a door: clear of jack, king and every stud, within reach of
    the latch.
    """
    near = (
        opening.at.mm + opening.width.mm + 2 * thick + half
        if latch_at_end
        else opening.at.mm - 2 * thick - half
    )
    way = 1 if latch_at_end else -1
    for step in range(0, int(plan.practice[rules.SWITCH_LATCH] / 5.0)):
        at = near + way * 5.0 * step
        if half <= at <= wall.length - half and _clear(at, half, thick, wall.studs):
            return opening.wall, at
    return None


def beside_door(plan: Plan, door: Handle, room: Handle, width: float) -> tuple[int, float] | None:
    """(wall, along) for a switch on a door's latch side: nailed to the king stud, or around the corner."""
    opening = plan.openings[room][door]
    where = plan.rooms[room]
    wall = where.walls[opening.wall - 1]
    thick = plan.drawing.get(room, Room).studs_of(opening.wall).thick.mm
    # Jack and king stand between the opening and the box.
    off = 2 * thick + width / 2
    latch_at_end = opening.hinge == "start"
    at = opening.at.mm + opening.width.mm + off if latch_at_end else opening.at.mm - off
    if plan.drawing.get(room, Room).build(opening.wall).closed:
        # Cut in: beyond the king stud, in the nearest bay that leaves room on both sides.
        gap = plan.practice[rules.CUT_IN_CLEAR] + 1.0
        return _in_a_bay(
            plan,
            room,
            opening=opening,
            wall=wall,
            half=width / 2 + gap,
            latch_at_end=latch_at_end,
            thick=thick,
        )
    if width / 2 <= at <= wall.length - width / 2:
        return opening.wall, _clear_from(at, 1 if latch_at_end else -1, width / 2, thick, wall)
    n = len(where.walls)
    around = opening.wall % n + 1 if latch_at_end else (opening.wall - 2) % n + 1
    length = where.walls[around - 1].length
    along = thick + width / 2 if latch_at_end else length - thick - width / 2
    return (around, along) if length > width + thick else None
