"""British zones: where a hidden cable may be expected in a wall, and what may be near a bath or shower."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.house import Wall
from fjeld.derive.places import Placed, outdoors
from fjeld.derive.plan import Plan
from fjeld.derive.routes import Leg
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.geometry import distance, to_segment
from fjeld.judge.water import bath_zone
from fjeld.practice import rules
from fjeld.practice.rules import RuleKey
from fjeld.quantities import Fails, Line, Working, at_least, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about zones."""
    yield from _hidden(plan)
    for placed in plan.placed.values():
        yield from _bath(plan, placed)
        yield from _outdoors(plan, placed)


@looks_at(rules.CABLE_ZONES)
def _hidden(plan: Plan) -> Iterator[Finding]:
    """Cables in walls where nobody expects one."""
    for handle, cable in plan.cables.items():
        outside = [leg for leg in (cable.route.legs if cable.route else ()) if not in_zone(plan, leg)]
        if outside:
            length = sum(leg.length for leg in outside)
            lines = tuple(Line(1.0, leg.length, leg.medium, (handle,)) for leg in outside)
            sum_ = Working("Outside the zones", "mm", lines)
            words = (
                f"{handle} runs {format_length(length, plan.drawing.house.unit)} in a wall where nobody"
                " expects a cable"
            )
            yield Finding(
                rule=plan.practice.rule(rules.CABLE_ZONES),
                handles=(handle,),
                words=words,
                verdict=Fails(),
                waypoint="runs",
                working=sum_,
                limit=0.0,
            )


def in_zone(plan: Plan, leg: Leg) -> bool:
    """Whether a straight stretch in a wall lies in a zone; what is in no wall is not asked."""
    if leg.medium not in ("stud", "bored wall", "fished", "opened"):
        return True
    found = _wall_of(plan, leg)
    if found is None:
        return True
    room, wall = found
    where, edge = plan.rooms[room], plan.practice[rules.CABLE_ZONES]
    ends = [_along(wall, p) for p in (leg.start[:2], leg.end[:2])]
    heights = [p[2] - where.level for p in (leg.start, leg.end)]
    accessories = _behind(plan, room, wall)
    if abs(heights[0] - heights[1]) < 1.0:
        top = where.ceiling_at(wall.at(min(ends)))
        along_accessory = any(
            abs(p.height - heights[0]) <= plan.practice[rules.ZONE_ALONG] for p in accessories
        )
        return heights[0] >= top - edge - 0.5 or along_accessory
    angle = all(e <= edge + 0.5 or e >= wall.length - edge - 0.5 for e in ends)
    return angle or any(abs(_along(wall, p.position[:2]) - ends[0]) <= p.width / 2 + 0.5 for p in accessories)


def _behind(plan: Plan, room: Handle, wall: Wall) -> list[Placed]:
    """The accessories on a wall, and on the other face of it where it is thin."""
    found = []
    for p in plan.placed.values():
        if not p.wall or abs(plan.rooms[p.room].level - plan.rooms[room].level) > 1.0:
            continue
        mine = p.room == room and p.wall == wall.number
        if mine or (
            p.room != room
            and to_segment(p.position[:2], wall.start, wall.end) <= plan.practice[rules.ZONE_THROUGH] + 0.5
        ):
            found.append(p)
    return found


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
    return (best[1], best[2]) if best and best[0] <= plan.practice[rules.IN_WALL] else None


def _along(wall: Wall, spot: tuple[float, float]) -> float:
    return distance(wall.start, spot)


@looks_at(rules.BATH_ZONES, rules.ZONE_RATING)
def _bath(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """What may be in which zone, and how it is sealed; sockets so far from zone 1."""
    if rules.BATH_ZONES not in plan.practice:
        return
    sockets = plan.practice[rules.BATH_ZONES][2]
    point = plan.drawing.items.get(placed.handle)
    if not isinstance(point, Point):
        return
    for block in plan.blocks_in(placed.room):
        if block.kind not in ("bath", "shower"):
            continue
        level, spot = plan.rooms[placed.room].level, placed.position[:2]
        tray = block.kind == "bath" or block.high - level > plan.practice[rules.SHOWER_TRAY]
        # Without a tray zone 1 itself reaches out from the outlet.
        off = block.off(spot) - (0.0 if tray else plan.practice[rules.SHOWER_WITHOUT_TRAY])
        height = placed.height - plan.pendant_drop(placed.handle)
        unit, pair = plan.drawing.house.unit, (placed.handle, block.handle)
        zone = bath_zone(block.off(spot), height, plan.practice, block.high - level, tray)
        if placed.kind == "outlet" and not at_least(off, sockets):
            words = (
                f"Socket {placed.handle} is {format_length(max(off, 0.0), unit)} from zone 1 of the"
                f" {block.kind}"
            )
            yield failed(plan, rules.BATH_ZONES, "layout", pair, words)
        elif placed.kind == "switch" and zone < 3:
            words = (
                f"Switch {placed.handle} is in zone {zone} of the {block.kind} {block.handle}; a cord pull or"
                " a switch outside the room does"
            )
            yield failed(plan, rules.BATH_ZONES, "layout", pair, words)
        elif placed.kind in ("light", "fan") and zone < 3:
            yield from _sealed(
                plan,
                point,
                pair,
                f"{placed.handle} is in zone {zone} of the {block.kind} {block.handle}",
                zone,
            )


@looks_at(rules.OUTDOOR_SEALED)
def _outdoors(plan: Plan, placed: Placed) -> Iterator[Finding]:
    """What hangs outdoors, or where it is damp or wet, is sealed against water; without a roof over it, as in
    the wet.
    """
    point = plan.drawing.items.get(placed.handle)
    if not isinstance(point, Point) or point.kind not in ("light", "fan"):
        return
    outside = outdoors(point, plan.drawing.get(point.room, Room))
    if outside or point.exposure:
        damp, wet = plan.practice[rules.OUTDOOR_SEALED]
        words = f"{placed.handle} is {'outdoors' if outside else f'where it is {point.exposure}'}"
        yield from _seal(
            plan,
            point,
            of=(placed.handle,),
            words=words,
            wanted=damp if point.exposure == "damp" else wet,
            rule=rules.OUTDOOR_SEALED,
        )


def _sealed(
    plan: Plan, point: Point, pair: tuple[Handle, Handle], words: str, zone: int
) -> Iterator[Finding]:
    """A fitting's IP code against its zone."""
    yield from _seal(
        plan,
        point,
        of=pair,
        words=words,
        wanted=plan.practice[rules.BATH_SEALED][zone],
        rule=rules.ZONE_RATING,
    )


def _seal(
    plan: Plan, point: Point, of: tuple[Handle, ...], words: str, wanted: int, rule: RuleKey[Any]
) -> Iterator[Finding]:
    """A fitting's IP code against what is wanted of it: its second figure is for water."""
    code = (
        re.fullmatch(r"IP[0-9X]([0-9X])[A-Z]{0,2}", point.fitting.ip.strip().upper())
        if point.fitting
        else None
    )
    if code is None or code[1] == "X":
        said = f"{words}, where IPX{wanted} is wanted; its code is not known"
        yield unknown(
            plan, rule, waypoint="layout", handles=of, words=said, reading="the IP code on its sheet"
        )
    elif int(code[1]) < wanted:
        yield failed(plan, rule, "layout", of, f"{words}, where IPX{wanted} is wanted; it is {code[0]}")
