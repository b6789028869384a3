"""Whether each box can be where it is: in its room, clear of framing, of what is in the way, and of water."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from itertools import combinations

from shapely.geometry import Polygon

from fjeld.check import Finding, failed, unknown
from fjeld.derive.bodies import Block
from fjeld.derive.house import Wall
from fjeld.derive.places import Placed, overlap
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Panel, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Point
from fjeld.geometry import to_segment
from fjeld.quantities import at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about spots."""
    for handle, placed in plan.placed.items():
        if not placed.inside or _in_opening(plan, handle):
            words = f"{handle} lies outside its room or wall, or in an opening"
            yield failed(plan, "inside-room", "layout", (handle,), words)
            continue
        yield from _framing(plan, placed)
        yield from _reach(plan, placed)
        yield from _in_the_way(plan, placed)
        yield from _water(plan, placed)
    yield from _apart(plan)
    yield from _level(plan)
    yield from _behind_doors(plan)
    yield from _panels(plan)


def _framing(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """Against the framing: a clash, a box cut in beside a stud, a box in open framing with no stud to nail it to."""
    handle, unit = placed.handle, plan.drawing.house.unit
    closed = placed.closed
    if placed.gap is None or plan.home(handle) != handle:
        # What sits in another's box is told of with it.
        return
    if placed.sits == "clash":
        member = "stud" if placed.wall else "joist"
        words = f"{handle} meets a {member}: {format_length(-placed.gap, unit)} of the box is where the {member} stands"
        yield failed(plan, "clear-of-framing", "layout", (handle,), words)
    elif closed and placed.gap < plan.practice.mm("cut-in-clear") and placed.kind != "panel":
        surface, member = ("wall", "stud") if placed.wall else ("ceiling", "joist")
        words = f"{handle} is cut into a finished {surface} {format_length(max(placed.gap, 0.0), unit)} from a {member}"
        yield failed(plan, "cut-in-clear", "layout", (handle,), words)
    elif placed.kind in ("switch", "outlet") and not closed and placed.gap > plan.practice.mm("nail-on-face"):
        words = (
            f"{handle} stands {format_length(placed.gap, unit)} off the nearest stud: it wants a bar or a block"
        )
        yield failed(plan, "nail-on-face", "layout", (handle,), words)


def _reach(plan: Plan, placed: Placed) -> Iterator[Finding]:
    handle, unit = placed.handle, plan.drawing.house.unit
    high = placed.kind == "switch" and plan.practice.holds("switch-handle")
    if high and not at_most(placed.height, plan.practice.mm("switch-handle")):
        words = f"{handle} is out of reach at {format_length(placed.height, unit)}"
        yield failed(plan, "switch-handle", "layout", (handle,), words)
    if placed.kind in ("switch", "outlet") and plan.practice.holds("accessible-height"):
        low, most = plan.practice.pair("accessible-height")
        if placed.wall and not (at_least(placed.height, low) and at_most(placed.height, most)):
            words = f"The middle of {handle} is {format_length(placed.height, unit)} above the floor"
            yield failed(plan, "accessible-height", "layout", (handle,), words)
    if placed.kind == "light" and not placed.wall:
        off = min(to_segment(placed.position[:2], w.start, w.end) for w in plan.rooms[placed.room].walls)
        if off < plan.practice.mm("row-clearance") - 0.5:
            words = f"{handle} is {format_length(off, unit)} from a wall"
            yield failed(plan, "row-clearance", "layout", (handle,), words)


def _in_opening(plan: Plan, handle: Handle) -> bool:
    placed = plan.placed[handle]
    for opening in plan.openings[placed.room].values():
        if placed.wall and opening.wall == placed.wall:
            half = placed.width / 2
            across = opening.at.mm - half < placed.along < opening.at.mm + opening.width.mm + half
            if across and opening.sill.mm < placed.height < opening.head.mm:
                return True
    return False


def _in_the_way(plan: Plan, placed: Placed) -> Iterator[Finding]:
    for block, behind in in_its_place(plan, placed):
        how = "stands behind" if behind else "meets"
        words = f"{placed.handle} {how} the {block.kind} {block.handle}"
        yield failed(plan, "clear-of-bodies", "layout", (placed.handle, block.handle), words)


def in_its_place(plan: Plan, placed: Placed) -> list[tuple[Block, bool]]:
    """What is where the box and its depth would be, and (True) what covers it: a fireplace, a tall cabinet."""
    where = plan.rooms[placed.room]
    x, y, z = placed.position
    if placed.wall:
        nx, ny = where.walls[placed.wall - 1].normal
        inner, outer = (x + nx * 20, y + ny * 20, z), (x - nx * 70, y - ny * 70, z)
    else:
        inner, outer = (x, y, z - 20), (x, y, z + _depth(plan, placed.handle))
    clear = plan.practice.mm("clear-of-bodies") + min(placed.width, placed.tall) / 2
    found = []
    for block in plan.blocks_in(placed.room):
        covers = block.kind in ("fireplace", "tall cabinet") and placed.wall and block.wall == placed.wall
        if block.in_the_way and block.met(inner, outer, clear):
            found.append((block, False))
        elif covers and block.start < placed.along < block.end and block.low < z < block.high:
            found.append((block, True))
    return found


def _depth(plan: Plan, handle: Handle) -> float:
    """What a ceiling box needs above the ceiling, mm: its fitting's depth, else a usual box."""
    point = plan.drawing.items.get(handle)
    sheet = point.fitting if isinstance(point, Point) else None
    return sheet.depth.mm if sheet and sheet.depth else 60.0


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
        pair = (handle, block.handle)
        if practice.holds("tub-outlet") and placed.kind == "outlet":
            around, up = practice.pair("tub-outlet")
            if off < around - 0.5 and height < block.high - floor + up - 0.5:
                yield _beside_tub(plan, placed, block, around)
        hung = placed.kind == "fan" or point.mount == "pendant"
        if practice.holds("tub-fitting") and hung:
            around, up = practice.pair("tub-fitting")
            if off < around - 0.5 and height < block.high - floor + up:
                yield failed(plan, "tub-fitting", "layout", pair, f"{handle} hangs beside or over the {block.kind} {block.handle}")  # fmt: skip
        if practice.holds("switch-tub") and placed.kind == "switch" and off < 0.5:
            yield failed(
                plan, "switch-tub", "layout", pair, f"{handle} is within the {block.kind} {block.handle}"
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
        return unknown(plan, "tub-outlet", "layout", pair, words, reading)
    return failed(plan, "tub-outlet", "layout", pair, words)


def _apart(plan: Plan) -> Iterator[Finding]:
    boxes = [p for p in plan.placed.values() if p.kind != "panel"]
    for a, b in combinations(boxes, 2):
        if overlap(a, b) and plan.home(a.handle) != plan.home(b.handle):
            pair = sorted((a.handle, b.handle), key=order)
            words = f"{pair[0]} and {pair[1]} stand in each other's place"
            yield failed(plan, "boxes-apart", "layout", pair, words)


def _level(plan: Plan) -> Iterator[Finding]:
    """In a room, the few boxes of a kind that are not at the height of most; those over counters apart."""
    limit, unit = plan.practice.mm("heights-match"), plan.drawing.house.unit
    for room in plan.rooms:
        for kind in ("switch", "outlet"):
            mine = {
                h: p.height
                for h, p in plan.placed.items()
                if p.room == room and p.kind == kind and p.wall and plan.home(h) == h
            }
            tops = [b for b in plan.blocks_in(room) if b.kind in ("counter", "basin")]
            plain = {
                h: v for h, v in mine.items()
                if not any(b.wall == plan.placed[h].wall and b.start <= plan.placed[h].along <= b.end for b in tops)
            }  # fmt: skip
            if len(plain) < 3:
                continue
            (usual, count), *_ = Counter(round(v, 1) for v in plain.values()).most_common(1)
            for handle, height in plain.items():
                if abs(height - usual) > limit and count > len(plain) / 2:
                    off = format_length(abs(height - usual), unit)
                    way = "above" if height > usual else "below"
                    words = (
                        f"{handle} stands {off} {way} the other {'switches' if kind == 'switch' else 'outlets'}"
                    )
                    yield failed(plan, "heights-match", "layout", (handle,), words)


def _behind_doors(plan: Plan) -> Iterator[Finding]:
    """Switches on the stretch of wall that an open door leaf covers: beyond its hinge, as long as it is wide."""
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
                    yield failed(plan, "behind-door", "layout", (handle, door), words)


def _before(at: tuple[float, float], wall: Wall, wide: float, deep: float) -> Polygon:
    """The floor in front of a panel that is kept clear: so wide along its wall, so deep from it."""
    run = ((wall.end[0] - wall.start[0]) / wall.length, (wall.end[1] - wall.start[1]) / wall.length)
    sides = [(-wide / 2, 0.0), (wide / 2, 0.0), (wide / 2, deep), (-wide / 2, deep)]
    return Polygon(
        [(at[0] + run[0] * u + wall.normal[0] * v, at[1] + run[1] * u + wall.normal[1] * v) for u, v in sides]
    )


def _panels(plan: Plan) -> Iterator[Finding]:
    if not plan.practice.holds("panel-place"):
        return
    for handle, panel in plan.drawing.of(Panel).items():
        room, placed = plan.drawing.get(panel.room, Room), plan.placed.get(handle)
        if room.use in plan.practice.value("panel-place"):
            yield failed(plan, "panel-place", "layout", (handle,), f"The panel is in {room.name}, a {room.use}")
        if placed is None:
            continue
        wide, deep = plan.practice.pair("panel-clear")
        wall = plan.rooms[panel.room].walls[placed.wall - 1]
        clear = _before(placed.position[:2], wall, wide, deep)
        for block in plan.blocks_in(panel.room):
            if not block.in_the_way and clear.intersection(Polygon(block.corners)).area > 100.0:
                words = f"The {block.kind} {block.handle} stands in the clear space before the panel"
                yield failed(plan, "panel-clear", "layout", (handle, block.handle), words)
