"""British zones: where a hidden cable may be expected in a wall, and what may be near a bath or shower."""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.house import Wall
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.routes import Leg
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.geometry import distance, to_segment
from fjeld.quantities import Fails, Line, Working, at_least, format_length

#: A leg belongs to a wall's cavity when it runs this near to its face, mm.
_IN_WALL = 80.0


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about zones."""
    if plan.practice.holds("cable-zones"):
        for handle, cable in plan.cables.items():
            outside = [leg for leg in (cable.route.legs if cable.route else ()) if not in_zone(plan, leg)]
            if outside:
                length = sum(leg.length for leg in outside)
                sum_ = Working("Outside the zones", "mm", tuple(Line(1.0, leg.length, leg.medium, (handle,)) for leg in outside))  # fmt: skip
                words = f"{handle} runs {format_length(length, plan.drawing.house.unit)} in a wall where nobody expects a cable"
                yield Finding(plan.practice.rule("cable-zones"), (handle,), words, Fails(), "runs", sum_, 0.0)
    if plan.practice.holds("bath-zones"):
        for placed in plan.placed.values():
            yield from _bath(plan, placed)


def in_zone(plan: Plan, leg: Leg) -> bool:
    """Whether a straight stretch in a wall lies in a zone; what is in no wall is not asked."""
    if leg.medium not in ("stud", "bored wall"):
        return True
    found = _wall_of(plan, leg)
    if found is None:
        return True
    room, wall = found
    where, edge = plan.rooms[room], plan.practice.mm("cable-zones")
    ends = [_along(wall, p) for p in (leg.start[:2], leg.end[:2])]
    heights = [p[2] - where.level for p in (leg.start, leg.end)]
    accessories = [p for p in plan.placed.values() if p.room == room and p.wall == wall.number]
    if abs(heights[0] - heights[1]) < 1.0:
        top = where.ceiling_at(wall.at(min(ends)))
        along_accessory = any(abs(p.height - heights[0]) <= 50.0 for p in accessories)
        return heights[0] >= top - edge - 0.5 or along_accessory
    angle = all(e <= edge + 0.5 or e >= wall.length - edge - 0.5 for e in ends)
    return angle or any(abs(p.along - ends[0]) <= p.width / 2 + 0.5 for p in accessories)


def _wall_of(plan: Plan, leg: Leg) -> tuple[Handle, Wall] | None:
    middle = ((leg.start[0] + leg.end[0]) / 2, (leg.start[1] + leg.end[1]) / 2)
    z = (leg.start[2] + leg.end[2]) / 2
    near = [
        (to_segment(middle, w.start, w.end), h, w)
        for h, where in plan.rooms.items()
        if where.level - 1.0 <= z <= where.level + where.height + 1.0
        for w in where.walls
    ]
    best = min(near, key=lambda n: n[0], default=None)
    return (best[1], best[2]) if best and best[0] <= _IN_WALL else None


def _along(wall: Wall, spot: tuple[float, float]) -> float:
    return distance(wall.start, spot)


def _bath(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """Zone 1 over the footprint, zone 2 so far around it, sockets so far from zone 1."""
    high, around, sockets = (float(v) for v in plan.practice.value("bath-zones"))
    point = plan.drawing.items.get(placed.handle)
    if not isinstance(point, Point):
        return
    for block in plan.blocks_in(placed.room):
        if block.kind not in ("bath", "shower"):
            continue
        off = block.off(placed.position[:2])
        height = placed.height - plan.pendant_drop(placed.handle)
        unit, pair = plan.drawing.house.unit, (placed.handle, block.handle)
        zone = 0 if height > high else 1 if off < 0.5 else 2 if off < around else 0
        if placed.kind == "outlet" and not at_least(off, sockets):
            words = f"Socket {placed.handle} is {format_length(off, unit)} from zone 1 of the {block.kind}"
            yield failed(plan, "bath-zones", "layout", pair, words)
        elif placed.kind == "switch" and zone:
            words = f"Switch {placed.handle} is in zone {zone} of the {block.kind} {block.handle}; a cord pull or a switch outside the room does"
            yield failed(plan, "bath-zones", "layout", pair, words)
        elif placed.kind in ("light", "fan") and zone:
            rating = point.fitting.rating if point.fitting else ""
            words = f"{placed.handle} is in zone {zone} of the {block.kind} {block.handle}"
            if not rating:
                yield unknown(plan, "zone-rating", "layout", pair, f"{words}; its sealing is not known", "the IP rating on its sheet")  # fmt: skip
            elif rating == "dry":
                yield failed(plan, "zone-rating", "layout", pair, f"{words}; it is made for dry places")
