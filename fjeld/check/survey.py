"""Rooms as measured: do they close, do openings fit, is the framing of this world?"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import combinations

from shapely import Polygon

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.bodies import Block
from fjeld.derive.house import RoomShape
from fjeld.derive.plan import Plan
from fjeld.derive.rests import open_measures
from fjeld.drawing.building import Body, Join, Opening, Panel, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Standing
from fjeld.geometry import distance
from fjeld.practice import rules
from fjeld.quantities import (
    ROUNDING,
    Length,
    Line,
    NotKnown,
    Passes,
    Working,
    at_least,
    at_most,
    format_length,
)


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the survey."""
    for handle, room in plan.drawing.of(Room).items():
        yield from _closes(plan, handle, room)
        yield from _framing(plan, handle, room)
        yield from _diagonals(plan, handle, room)
        yield from _used(plan, handle, room)
        yield from _bathed(plan, handle, room)
    yield from _openings(plan)
    yield from _joined(plan)
    yield from _overlap(plan)
    yield from _bodies(plan)
    yield from _unmeasured(plan)
    yield from _panel(plan)


@looks_at(rules.BATH_DRAWN)
def _bathed(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    """A bath room in which nobody has drawn a bath or a shower: what is measured from it was not
    looked at.
    """
    boxed = any(p.room == handle for p in plan.placed.values())
    if room.use != "bath" or not plan.rooms[handle].closed or not boxed or room.work != "new":
        return
    if not any(block.kind in ("bath", "shower") for block in plan.blocks_in(handle)):
        words = (
            f"No bath and no shower is drawn in {room.name}: how near a box may come to it was not looked at"
        )
        yield unknown(
            plan,
            rules.BATH_DRAWN,
            waypoint="survey",
            handles=(handle,),
            words=words,
            reading="where it stands, or that there is none",
        )


@looks_at(rules.ROOM_USED)
def _used(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    """A room that nobody has said the use of: what hangs on it was not looked at."""
    if room.use == "other" and plan.rooms[handle].closed and plan.drawing.house.errand is None:
        words = f"What {room.name} is used for is not told: what is asked of it by its use was not looked at"
        yield unknown(
            plan, rules.ROOM_USED, waypoint="survey", handles=(handle,), words=words, reading="its use"
        )


@looks_at(rules.CIRCUIT_FED)
def _panel(plan: Plan) -> Iterator[Finding]:
    if plan.drawing.of(Room) and not plan.drawing.of(Panel) and not plan.begun:
        words = "No panel is drawn, so nothing can be fed"
        yield unknown(
            plan,
            rules.CIRCUIT_FED,
            waypoint="survey",
            handles=("house",),
            words=words,
            reading="where the panel is",
        )


@looks_at(rules.ROOM_CLOSES, rules.ROOM_SIMPLE)
def _closes(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    where = plan.rooms[handle]
    unit = plan.drawing.house.unit
    rule = plan.practice.rule(rules.ROOM_CLOSES)
    if where.crossing:
        a, b = where.crossing
        yield failed(
            plan,
            rules.ROOM_SIMPLE,
            waypoint="survey",
            handles=(handle,),
            words=f"Wall {a + 1} and wall {b + 1} of {room.name} cross or touch",
            place=f"{a + 1}-{b + 1}",
        )
    if not room.sides:
        yield unknown(
            plan,
            rules.ROOM_CLOSES,
            waypoint="survey",
            handles=(handle,),
            words=f"{room.name} has no walls yet",
            reading="the length of the first wall",
        )
        return
    share = Working(
        "Misclosure", "%", (Line(1.0, where.share, "gap over perimeter", (handle,), plan.rests.on(handle)),)
    )
    gap, around = format_length(where.misclosure, unit), format_length(where.perimeter, unit)
    words = f"{room.name} misses its start by {gap} in {around}"
    closes = len(room.sides) >= 3 and at_most(share.total, float(rule.value), ROUNDING)
    missing = [n for n in where.unmeasured if where.walls[n - 1].length <= 0]
    reading = (
        f"wall {' and '.join(map(str, missing))}"
        if missing
        else "a diagonal, or the wall that was read wrong"
    )
    verdict = Passes() if closes and not missing else NotKnown(reading)
    yield Finding(
        rule=rule,
        handles=(handle,),
        words=words,
        verdict=verdict,
        waypoint="survey",
        working=share,
        limit=float(rule.value),
    )


@looks_at(rules.FRAMING_PLAUSIBLE)
def _framing(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    least, most = plan.practice[rules.FRAMING_PLAUSIBLE]
    own = [(f"Studs of wall {n}", b.studs.spacing) for n, b in room.builds.items() if b.studs]
    for name, spacing in (("Studs", room.studs.spacing), ("Joists", room.joists.spacing), *own):
        if not (at_least(spacing.mm, least) and at_most(spacing.mm, most)):
            shown = format_length(spacing.mm, plan.drawing.house.unit)
            yield unknown(
                plan,
                rules.FRAMING_PLAUSIBLE,
                waypoint="survey",
                handles=(handle,),
                words=f"{name} at {shown} in {room.name}",
                reading=f"the spacing of the {name.lower()}",
                place=name if name in dict(own) else "",
            )


@looks_at(rules.BODY_FITS)
def _bodies(plan: Plan) -> Iterator[Finding]:
    """Bodies whose measures cannot be: off their wall, or upside down."""
    unit = plan.drawing.house.unit
    for handle, body in plan.drawing.of(Body).items():
        where = plan.rooms[body.room]
        if body.high.mm <= body.low.mm:
            yield failed(
                plan,
                rules.BODY_FITS,
                "survey",
                (handle,),
                f"The {body.kind} {handle} ends below where it begins",
            )
        if body.wall and body.wall <= len(where.walls) and where.closed:
            length, end = where.walls[body.wall - 1].length, (body.at.mm if body.at else 0.0) + body.width.mm
            if not at_most(end, length, 1.0):
                words = (
                    f"The {body.kind} {handle} reaches to {format_length(end, unit)} on a wall of"
                    f" {format_length(length, unit)}"
                )
                yield failed(
                    plan, rules.BODY_FITS, waypoint="survey", handles=(handle,), words=words, place="wall"
                )
                continue
        block = plan.blocks.get(handle)
        if block is not None and where.closed and (odd := _out_of_its_room(block, where)):
            yield failed(
                plan,
                rules.BODY_FITS,
                waypoint="survey",
                handles=(handle,),
                words=f"The {body.kind} {handle} {odd}",
                place="room",
            )


#: What stands in a wall of a room is no farther from its floor than this, mm.
IN_ITS_WALL = 500.0


def _out_of_its_room(block: Block, where: RoomShape) -> str:
    """How a body does not lie in its room: beside it, or for the most part beyond its walls. What runs
    through a house, as a duct or a pipe, may go on, and may stand in a wall of the room.
    """
    plan, room = Polygon(block.corners), Polygon(where.corners)
    if block.in_the_way or block.kind == "stairs":
        return "lies outside its room" if plan.distance(room) > IN_ITS_WALL else ""
    inside = plan.intersection(room).area
    if inside <= 0.0:
        return "lies outside its room"
    return "" if inside >= plan.area / 2 else "is for the most part outside its room"


def _openings(plan: Plan) -> Iterator[Finding]:
    for room, openings in plan.openings.items():
        for handle, opening in openings.items():
            where = plan.rooms[room]
            if opening.wall <= len(where.walls):
                mine = plan.drawing.get(handle, Opening).room == room
                yield from _opening(plan, handle, opening, where, "" if mine else f" in {room}")
                yield from _overlapping(plan, room, handle, opening, openings)


@looks_at(rules.OPENING_FITS)
def _opening(plan: Plan, handle: Handle, opening: Opening, where: RoomShape, seen: str) -> Iterator[Finding]:
    """Whether an opening fits its wall, as seen from a room."""
    unit = plan.drawing.house.unit
    wall = where.walls[opening.wall - 1]
    end = opening.at.mm + opening.width.mm
    if not at_most(end, wall.length) or opening.at.mm < 0 or opening.width.mm <= 0:
        reach, length = format_length(end, unit), format_length(wall.length, unit)
        words = f"{handle}{seen} reaches to {reach} on a wall of {length}"
        yield failed(
            plan, rules.OPENING_FITS, waypoint="survey", handles=(handle,), words=words, place=seen.strip()
        )
    ceiling = min(where.ceiling_at(wall.at(opening.at.mm)), where.ceiling_at(wall.at(end)))
    if not at_most(opening.head.mm, ceiling) or opening.sill.mm >= opening.head.mm:
        words = f"{handle}{seen} does not fit the height of the room"
        yield failed(
            plan, rules.OPENING_FITS, waypoint="survey", handles=(handle,), words=words, place=f"height{seen}"
        )


@looks_at(rules.OPENING_FITS)
def _overlapping(
    plan: Plan, room: Handle, handle: Handle, opening: Opening, openings: Mapping[Handle, Opening]
) -> Iterator[Finding]:
    end = opening.at.mm + opening.width.mm
    for other, o in openings.items():
        apart = min(end, o.at.mm + o.width.mm) - max(opening.at.mm, o.at.mm)
        high = min(opening.head.mm, o.head.mm) - max(opening.sill.mm, o.sill.mm)
        if o.wall == opening.wall and order(other) > order(handle) and apart > 0.5 and high > 0.5:
            yield failed(
                plan,
                rules.OPENING_FITS,
                waypoint="survey",
                handles=(handle, other),
                words=f"{handle} and {other} overlap",
                place=room,
            )


@looks_at(rules.DIAGONAL_AGREES)
def _diagonals(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    """Check measures across a room against the corners as they stand."""
    where, unit = plan.rooms[handle], plan.drawing.house.unit
    rule = plan.practice.rule(rules.DIAGONAL_AGREES)
    for check in room.diagonals:
        if not where.closed or check.length.unknown:
            continue
        stands = distance(where.corners[check.a - 1], where.corners[check.b - 1])
        off = Working(
            "Difference",
            "mm",
            (Line(1.0, abs(stands - check.length.mm), "measured against drawn", (), plan.rests.on(handle)),),
        )
        ok = at_most(off.total, plan.practice[rules.DIAGONAL_AGREES])
        words = (
            f"Corner {check.a} to {check.b} of {room.name} measures {format_length(check.length.mm, unit)}; "
            f"the walls give {format_length(stands, unit)}"
        )
        verdict = Passes() if ok else NotKnown("the same diagonal again, or the other one")
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=verdict,
            waypoint="survey",
            working=off,
            limit=plan.practice[rules.DIAGONAL_AGREES],
            place=f"{check.a}-{check.b}",
        )


@looks_at(rules.ROOMS_FIT, rules.WALLS_FACE)
def _joined(plan: Plan) -> Iterator[Finding]:
    """Rooms around a loop, and whether both sides of an opening face each other."""
    rule, unit = plan.practice.rule(rules.ROOMS_FIT), plan.drawing.house.unit
    limit = plan.practice[rules.ROOMS_FIT]
    for misfit in plan.placement.misfits:
        join = plan.drawing.get(misfit.join, Join)
        here = plan.drawing.get(join.opening, Opening).room
        if not misfit.facing:
            words = (
                f"{join.opening} leads from {here} to wall {join.wall} of {join.room}, which does not face it"
            )
            yield failed(plan, rules.WALLS_FACE, "survey", (misfit.join, join.opening), words)
        if misfit.size > 0.5:
            assumed = plan.rests.on(misfit.join, join.opening, here, join.room)
            off = Working(
                "Misfit", "mm", (Line(1.0, misfit.size, "between the two sides", (join.opening,), assumed),)
            )
            ok = plan.placement.spread
            done = "spread over the loop" if ok else "not spread"
            words = (
                f"{join.opening} between {here} and {join.room} misses by {format_length(misfit.size, unit)},"
                f" {done}"
            )
            verdict = Passes() if ok else NotKnown("the walls of this loop, and where its openings are")
            yield Finding(
                rule=rule,
                handles=(misfit.join, join.opening),
                words=words,
                verdict=verdict,
                waypoint="survey",
                working=off,
                limit=limit,
            )


@looks_at(rules.ROOMS_APART)
def _overlap(plan: Plan) -> Iterator[Finding]:
    """Rooms of one storey that stand in each other."""
    figures = {h: (w.level, Polygon(w.corners)) for h, w in plan.rooms.items() if w.closed}
    for (a, (level, one)), (b, (other, two)) in combinations(figures.items(), 2):
        if abs(level - other) < 1.0 and one.is_valid and two.is_valid and one.intersection(two).area > 2.5e4:
            names = [plan.drawing.get(h, Room).name for h in (a, b)]
            words = f"{names[0]} and {names[1]} overlap"
            yield failed(plan, rules.ROOMS_APART, "survey", (a, b), words)


def to_measure(plan: Plan) -> list[tuple[Handle, str, Length]]:
    """What is still to be measured, room after room in the order walked: thing, words, and what is
    assumed.
    """
    items = plan.drawing.items
    standing = [(h, i) for h, i in items.items() if isinstance(i, Standing)]
    standing.sort(key=lambda s: (s[1].wall, s[1].at.mm if s[1].at else 0.0))
    walked: list[Handle] = []
    for handle in plan.drawing.of(Room):
        walked += [handle, *(h for h, i in standing if i.room == handle)]
    walked += plan.drawing.of(Join)
    return [(h, *found) for h in walked if h in plan.rests.own for found in open_measures(h, items[h])]


@looks_at(rules.MEASURED)
def _unmeasured(plan: Plan) -> Iterator[Finding]:
    unit = plan.drawing.house.unit
    for handle, words, length in to_measure(plan):
        assumed = f"; {format_length(length.mm, unit)} is assumed" if length.mm else ""
        verdict = NotKnown(f"the {words}")
        capital = words[0].upper() + words[1:]
        yield Finding(
            plan.practice.rule(rules.MEASURED),
            (handle,),
            f"{capital} is not measured{assumed}",
            verdict,
            "survey",
            place=words,
        )
