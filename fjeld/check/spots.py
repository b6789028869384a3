"""Whether each box can be where it is: in its room, clear of framing, of what is in the way, and of water."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from itertools import combinations

from shapely.geometry import Polygon

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.bodies import Block
from fjeld.derive.facts.spots import in_its_place, stands
from fjeld.derive.house import Wall
from fjeld.derive.places import Placed, overlap
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Point
from fjeld.geometry import to_segment
from fjeld.judge.water import near_tub
from fjeld.practice import rules
from fjeld.quantities import at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about spots."""
    yield from _inside(plan)
    for placed in plan.placed.values():
        if stands(plan, placed):
            yield from _framing(plan, placed)
            yield from _reach(plan, placed)
            yield from _in_the_way(plan, placed)
            yield from _water(plan, placed)
    yield from _apart(plan)
    yield from _level(plan)
    yield from _behind_doors(plan)
    yield from _panels(plan)


@looks_at(rules.INSIDE_ROOM)
def _inside(plan: Plan) -> Iterator[Finding]:
    for handle, placed in plan.placed.items():
        if not stands(plan, placed):
            words = f"{handle} lies outside its room or wall, or in an opening"
            yield failed(plan, rules.INSIDE_ROOM, "layout", (handle,), words)


@looks_at(rules.CLEAR_OF_FRAMING, rules.CUT_IN_CLEAR, rules.NAIL_ON_FACE)
def _framing(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """Against the framing: a clash, a box cut in beside a stud, a box in open framing with no stud to nail it
    to.
    """
    handle, unit = placed.handle, plan.drawing.house.unit
    closed = placed.closed
    if placed.gap is None or plan.home(handle) != handle:
        # What sits in another's box is told of with it.
        return
    if placed.sits == "clash":
        member = "stud" if placed.wall else "joist"
        words = (
            f"{handle} meets a {member}: {format_length(-placed.gap, unit)} of the box is where the {member}"
            " stands"
        )
        yield failed(plan, rules.CLEAR_OF_FRAMING, "layout", (handle,), words)
    elif closed and placed.gap < plan.practice[rules.CUT_IN_CLEAR] and placed.kind != "panel":
        surface, member = ("wall", "stud") if placed.wall else ("ceiling", "joist")
        words = (
            f"{handle} is cut into a finished {surface} {format_length(max(placed.gap, 0.0), unit)} from a"
            f" {member}"
        )
        yield failed(plan, rules.CUT_IN_CLEAR, "layout", (handle,), words)
    elif (
        placed.kind in ("switch", "outlet") and not closed and placed.gap > plan.practice[rules.NAIL_ON_FACE]
    ):
        words = (
            f"{handle} stands {format_length(placed.gap, unit)} off the nearest stud: it wants a bar or a"
            " block"
        )
        yield failed(plan, rules.NAIL_ON_FACE, "layout", (handle,), words)


@looks_at(rules.ACCESSIBLE_HEIGHT, rules.ROW_CLEARANCE, rules.SWITCH_HANDLE)
def _reach(plan: Plan, placed: Placed) -> Iterator[Finding]:
    handle, unit = placed.handle, plan.drawing.house.unit
    high = placed.kind == "switch" and rules.SWITCH_HANDLE in plan.practice
    if high and not at_most(placed.height, plan.practice[rules.SWITCH_HANDLE]):
        words = f"{handle} is out of reach at {format_length(placed.height, unit)}"
        yield failed(plan, rules.SWITCH_HANDLE, "layout", (handle,), words)
    if placed.kind in ("switch", "outlet") and rules.ACCESSIBLE_HEIGHT in plan.practice:
        low, most = plan.practice[rules.ACCESSIBLE_HEIGHT]
        if placed.wall and not (at_least(placed.height, low) and at_most(placed.height, most)):
            words = f"The middle of {handle} is {format_length(placed.height, unit)} above the floor"
            yield failed(plan, rules.ACCESSIBLE_HEIGHT, "layout", (handle,), words)
    if placed.kind == "light" and not placed.wall:
        off = min(to_segment(placed.position[:2], w.start, w.end) for w in plan.rooms[placed.room].walls)
        if not at_least(off, plan.practice[rules.ROW_CLEARANCE]):
            words = f"{handle} is {format_length(off, unit)} from a wall"
            yield failed(plan, rules.ROW_CLEARANCE, "layout", (handle,), words)


@looks_at(rules.CLEAR_OF_BODIES)
def _in_the_way(plan: Plan, placed: Placed) -> Iterator[Finding]:
    for block, behind in in_its_place(plan, placed):
        how = "stands behind" if behind else "meets"
        words = f"{placed.handle} {how} the {block.kind} {block.handle}"
        yield failed(plan, rules.CLEAR_OF_BODIES, "layout", (placed.handle, block.handle), words)


@looks_at(rules.SWITCH_TUB, rules.TUB_FITTING, rules.TUB_OUTLET)
def _water(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """Tubs and showers: no outlet, switch, cord-hung fitting or fan over or beside them."""
    handle, practice = placed.handle, plan.practice
    point = plan.drawing.items.get(handle)
    if not isinstance(point, Point):
        return
    for block in plan.blocks_in(placed.room):
        if block.kind not in ("bath", "shower"):
            continue
        off, floor = block.off(placed.position[:2]), plan.rooms[placed.room].level
        height = placed.height - plan.pendant_drop(handle)
        pair, above = (handle, block.handle), height - (block.high - floor)
        outlet = rules.TUB_OUTLET in practice and placed.kind == "outlet"
        if outlet and near_tub(off, above, rules.TUB_OUTLET, practice):
            yield _beside_tub(plan, placed, block, practice[rules.TUB_OUTLET][0])
        hung = placed.kind == "fan" or point.mount == "pendant"
        if rules.TUB_FITTING in practice and hung and near_tub(off, above, rules.TUB_FITTING, practice):
            yield failed(
                plan,
                rules.TUB_FITTING,
                "layout",
                pair,
                f"{handle} hangs beside or over the {block.kind} {block.handle}",
            )
        if rules.SWITCH_TUB in practice and placed.kind == "switch" and at_most(off, 0.0):
            yield failed(
                plan, rules.SWITCH_TUB, "layout", pair, f"{handle} is within the {block.kind} {block.handle}"
            )


def _beside_tub(plan: Plan, placed: Placed, block: Block, around: float) -> Finding:
    """An outlet in the zone of a tub; in a bath room smaller than the zone the farthest wall may do."""
    pair, words = (
        (placed.handle, block.handle),
        f"{placed.handle} is beside or over the {block.kind} {block.handle}",
    )
    corners = plan.rooms[placed.room].corners
    if all(block.off(corner) < around for corner in corners):
        reading = (
            "whether it is opposite the rim on the farthest wall, as a bath room smaller than the zone allows"
        )
        return unknown(plan, rules.TUB_OUTLET, waypoint="layout", handles=pair, words=words, reading=reading)
    return failed(plan, rules.TUB_OUTLET, "layout", pair, words)


@looks_at(rules.BOXES_APART)
def _apart(plan: Plan) -> Iterator[Finding]:
    together: dict[tuple[Handle, int], list[Placed]] = defaultdict(list)
    for placed in plan.placed.values():
        if placed.kind != "panel":
            together[placed.room, placed.wall].append(placed)
    for a, b in (pair for boxes in together.values() for pair in combinations(boxes, 2)):
        if overlap(a, b) and plan.home(a.handle) != plan.home(b.handle):
            pair = sorted((a.handle, b.handle), key=order)
            words = f"{pair[0]} and {pair[1]} overlap"
            yield failed(plan, rules.BOXES_APART, "layout", pair, words)


@looks_at(rules.HEIGHTS_MATCH)
def _level(plan: Plan) -> Iterator[Finding]:
    """In a room, the few boxes of a kind that are not at the height of most; those over counters apart."""
    limit, unit = plan.practice[rules.HEIGHTS_MATCH], plan.drawing.house.unit
    for room in plan.rooms:
        for kind, many in (("switch", "switches"), ("outlet", "outlets")):
            heights = _heights(plan, room, kind)
            if len(heights) < 3:
                continue
            (usual, count), *_ = Counter(round(v, 1) for v in heights.values()).most_common(1)
            for handle, height in heights.items():
                if abs(height - usual) > limit and count > len(heights) / 2:
                    off = format_length(abs(height - usual), unit)
                    way = "above" if height > usual else "below"
                    words = f"{handle} stands {off} {way} the other {many}"
                    yield failed(plan, rules.HEIGHTS_MATCH, "layout", (handle,), words)


def _heights(plan: Plan, room: Handle, kind: str) -> dict[Handle, float]:
    """How high the boxes of a kind stand on the walls of a room, mm, but for those over counters."""
    tops = [b for b in plan.blocks_in(room) if b.kind in ("counter", "basin")]
    return {
        h: p.height
        for h, p in plan.placed.items()
        if p.room == room
        and p.kind == kind
        and p.wall
        and plan.home(h) == h
        and not any(b.wall == p.wall and b.start <= p.along <= b.end for b in tops)
    }


@looks_at(rules.BEHIND_DOOR)
def _behind_doors(plan: Plan) -> Iterator[Finding]:
    """Switches on the stretch of wall that an open door leaf covers: beyond its hinge, as long as
    it is wide.
    """
    for room, openings in plan.openings.items():
        where = plan.rooms[room]
        for door, opening in openings.items():
            if opening.kind != "door" or opening.swing != "in" or opening.wall > len(where.walls):
                continue
            at, width = opening.at.mm, opening.width.mm
            low, high = (at - width, at) if opening.hinge == "start" else (at + width, at + 2 * width)
            for handle, placed in plan.placed.items():
                behind = placed.room == room and placed.wall == opening.wall and low < placed.along < high
                if placed.kind == "switch" and behind:
                    words = f"{handle} is behind {door} when it stands open"
                    yield failed(plan, rules.BEHIND_DOOR, "layout", (handle, door), words)


def _before(at: tuple[float, float], wall: Wall, wide: float, deep: float) -> Polygon:
    """The floor in front of a panel that is kept clear: so wide along its wall, so deep from it."""
    run = wall.run
    sides = [(-wide / 2, 0.0), (wide / 2, 0.0), (wide / 2, deep), (-wide / 2, deep)]
    return Polygon(
        [(at[0] + run[0] * u + wall.normal[0] * v, at[1] + run[1] * u + wall.normal[1] * v) for u, v in sides]
    )


@looks_at(rules.PANEL_CLEAR, rules.PANEL_PLACE)
def _panels(plan: Plan) -> Iterator[Finding]:
    if rules.PANEL_PLACE not in plan.practice:
        return
    for handle, panel in plan.drawing.of(Panel).items():
        room, placed = plan.drawing.get(panel.room, Room), plan.placed.get(handle)
        if room.use in plan.practice[rules.PANEL_PLACE]:
            yield failed(
                plan, rules.PANEL_PLACE, "layout", (handle,), f"The panel is in {room.name}, a {room.use}"
            )
        if placed is None or rules.PANEL_CLEAR not in plan.practice:
            continue
        wide, deep = plan.practice[rules.PANEL_CLEAR]
        wall = plan.rooms[panel.room].walls[placed.wall - 1]
        clear = _before(placed.position[:2], wall, wide, deep)
        for block in plan.blocks_in(panel.room):
            if not block.in_the_way and clear.intersection(Polygon(block.corners)).area > 100.0:
                words = f"The {block.kind} {block.handle} stands in the clear space before the panel"
                yield failed(plan, rules.PANEL_CLEAR, "layout", (handle, block.handle), words)
