"""What hangs and what is sunk in: fans, pendants, recessed lights, and what carries them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

from fjeld.check.finding import Finding, failed, looks_at, unknown
from fjeld.derive.bodies import Block
from fjeld.derive.facts.lamps import blades
from fjeld.derive.places import Placed, carries, outdoors
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Body, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Point
from fjeld.geometry import to_segment
from fjeld.practice import Severity, rules
from fjeld.practice.kinds import KG_PER_LB
from fjeld.practice.rules import RuleKey
from fjeld.quantities import (
    ROUNDING,
    Fails,
    Line,
    NotKnown,
    Passes,
    Verdict,
    Working,
    at_least,
    at_most,
    format_length,
)


def check(plan: Plan) -> Iterator[Finding]:
    """All findings about fittings."""
    for handle, point in plan.drawing.of(Point).items():
        placed = plan.placed.get(handle)
        if placed is None or not placed.inside or not plan.rooms[point.room].closed:
            continue
        if point.kind == "fan":
            yield from _fan(plan, placed, point)
        if point.mount == "pendant":
            yield from _pendant(plan, placed, point)
        if point.mount == "recessed":
            yield from _recessed(plan, placed, point)
        if rules.FAN_BOX in plan.practice and handle in plan.boxes:
            yield from _fan_box(plan, placed, point)
        if point.kind in ("fan", "light"):
            yield from _weight(plan, handle, point)
            yield from _rating(plan, placed, point)
            yield from _closet(plan, handle, point)


@looks_at(rules.FAN_BLADES, rules.FAN_CLEAR)
def _fan(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Blades over the floor; tips from walls, from the slope of the ceiling, and from door arcs."""
    handle, where, unit = placed.handle, plan.rooms[placed.room], plan.drawing.house.unit
    drop, sweep, guess = blades(plan, handle)
    note = ", blades estimated" if guess else ""
    sheet = (f"the sheet of {handle}",) if guess else ()
    high = plan.rests.on(handle, sides=("up",))
    lines = (
        Line(1.0, placed.height, "ceiling", (handle,), high),
        Line(-1.0, drop, "rod and motor", (handle,), sheet),
    )
    height = Working("Blades above floor", "mm", lines)
    low = plan.practice[rules.FAN_BLADES]
    words = f"The blades of {handle} turn {format_length(height.total, unit)} above the floor{note}"
    verdict = Passes() if at_least(height.total, low) else Fails()
    yield Finding(
        rule=plan.practice.rule(rules.FAN_BLADES),
        handles=(handle,),
        words=words,
        verdict=verdict,
        waypoint="layout",
        working=height,
        limit=low,
    )
    x, y, _ = placed.position
    gaps = [(to_segment((x, y), w.start, w.end) - sweep / 2, f"wall {w.number}") for w in where.walls]
    gaps += (
        [(slope_gap(where.ceiling_at, (x, y), placed.height - drop, sweep / 2), "the slope")]
        if where.slope
        else []
    )
    gaps += _doors(plan, placed, sweep)
    limit = plan.practice[rules.FAN_CLEAR]
    # A door's arc is only to be missed; a wall or a slope is to be well clear.
    judged = [(gap, what, 0.0 if what.startswith("the arc") else limit) for gap, what in gaps]
    worst = min(judged, key=lambda j: j[0] - j[2])
    failing = [j for j in judged if not at_least(j[0], j[2])]
    assumed = (*plan.rests.on(handle, *plan.openings[placed.room], sides=("flat", "up")), *sheet)
    if failing and guess:
        # A sweep that nobody has read off its sheet fails nothing: it is asked for.
        least, what, wanted = worst
        gap = Working("Tip to " + what, "mm", (Line(1.0, least, what, (handle,), assumed),))
        said = f"The blade tips of {handle} may come within {format_length(wanted, unit)} of {what}{note}"
        rule = plan.practice.rule(rules.FAN_CLEAR)
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=said,
            verdict=NotKnown(f"how wide the blades of {handle} sweep, off its sheet"),
            waypoint="layout",
            working=gap,
            limit=wanted,
            place=what,
            grade="ask",
        )
        return
    for least, what, wanted in failing or [worst]:
        gap = Working("Tip to " + what, "mm", (Line(1.0, least, what, (handle,), assumed),))
        said = (
            f"The blade tips of {handle} come within {format_length(max(least, 0.0), unit)} of {what}{note}"
        )
        passes = Fails() if failing else Passes()
        yield Finding(
            rule=plan.practice.rule(rules.FAN_CLEAR),
            handles=(handle,),
            words=said,
            verdict=passes,
            waypoint="layout",
            working=gap,
            limit=wanted,
            place=what,
        )


#: How many directions the tips are looked at in.
_AROUND = 72
#: A door that ends this far below the blades does not meet them, mm.
_UNDER = 50.0


def slope_gap(
    ceiling: Callable[[tuple[float, float]], float], at: tuple[float, float], z: float, radius: float
) -> float:
    """From the blade tips to a sloped ceiling, mm: the least vertical gap around the sweep, taken as a
    distance.
    """
    return min(
        ceiling((at[0] + radius * math.cos(a), at[1] + radius * math.sin(a))) - z
        for a in (math.tau * k / _AROUND for k in range(_AROUND))
    )


def _doors(plan: Plan, placed: Placed, sweep: float) -> list[tuple[float, str]]:
    """Gaps between the sweep and the arcs of doors tall enough to be met."""
    drop, _, _ = blades(plan, placed.handle)
    found = []
    for door, opening in plan.openings[placed.room].items():
        where = plan.rooms[placed.room]
        if opening.kind != "door" or opening.swing != "in" or opening.wall > len(where.walls):
            continue
        if opening.head.mm < placed.height - drop - _UNDER:
            continue
        wall = where.walls[opening.wall - 1]
        hinge = wall.at(opening.at.mm if opening.hinge == "start" else opening.at.mm + opening.width.mm)
        found.append(
            (math.dist(hinge, placed.position[:2]) - opening.width.mm - sweep / 2, f"the arc of {door}")
        )
    return found


@looks_at(rules.PENDANT_CLEAR)
def _pendant(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    if point.over is None:
        words = f"{placed.handle} hangs over nothing that is drawn, so its cord cannot be worked out"
        yield unknown(
            plan,
            rules.PENDANT_CLEAR,
            waypoint="layout",
            handles=(placed.handle,),
            words=words,
            reading="what it hangs over",
        )
        return
    below = plan.drawing.get(point.over, Body)
    gap = plan.pendant_clearance(placed.handle)
    assumed = plan.rests.on(placed.handle, point.over, sides=("up",))
    line = Line(1.0, gap, f"above the {below.kind}", (placed.handle, point.over), assumed)
    wanted = plan.practice[rules.PENDANT_CLEAR]
    words = (
        f"{placed.handle} hangs {format_length(gap, plan.drawing.house.unit)} above the {below.kind}"
        f" {point.over}"
    )
    verdict = Passes() if at_least(gap, wanted) else Fails()
    yield Finding(
        rule=plan.practice.rule(rules.PENDANT_CLEAR),
        handles=(placed.handle,),
        words=words,
        verdict=verdict,
        waypoint="layout",
        working=Working("Clear", "mm", (line,)),
        limit=wanted,
    )


@looks_at(rules.RECESSED_INSULATED, rules.VOID_DEPTH)
def _recessed(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Depth above the ceiling, and contact with insulation where an attic or a roof lies above."""
    room, sheet = plan.drawing.get(point.room, Room), point.fitting or Fitting()
    handle, unit = placed.handle, plan.drawing.house.unit
    if sheet.depth is None:
        words = f"The depth {handle} needs above the ceiling is not known"
        yield unknown(
            plan,
            rules.VOID_DEPTH,
            waypoint="layout",
            handles=(handle,),
            words=words,
            reading="the fitting's sheet",
        )
    else:
        assumed = plan.rests.on(handle, sides=("framing", "up"))
        void = Working(
            "Depth above", "mm", (Line(1.0, room.joists.depth.mm, "joists", (point.room,), assumed),)
        )
        words = (
            f"{handle} needs {format_length(sheet.depth.mm, unit)} of {format_length(void.total, unit)} above"
        )
        verdict = Passes() if at_most(sheet.depth.mm, void.total) else Fails()
        yield Finding(
            rule=plan.practice.rule(rules.VOID_DEPTH),
            handles=(handle,),
            words=words,
            verdict=verdict,
            waypoint="layout",
            working=void,
            limit=sheet.depth.mm,
        )
    if rules.RECESSED_INSULATED in plan.practice and room.above != "storey" and not placed.wall:
        words = f"{handle} is sunk into the ceiling of {room.name}, where insulation may lie"
        if sheet.insulation_contact is None:
            yield unknown(
                plan,
                rules.RECESSED_INSULATED,
                waypoint="layout",
                handles=(handle,),
                words=words,
                reading="its rating for insulation contact",
            )
        elif not sheet.insulation_contact:
            yield failed(
                plan, rules.RECESSED_INSULATED, "layout", (handle,), f"{words}; it is not rated for that"
            )


@looks_at(rules.FAN_BOX, rules.FAN_READY)
def _fan_box(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """What a fan hangs from, and what is put up where one could hang later."""
    handle, box = placed.handle, plan.boxes[placed.handle].kind
    room = plan.drawing.get(point.room, Room)
    wanted = carries(point, placed, room, plan.rooms[point.room], plan.practice)
    if wanted == "fan-ready" and not box.fan_kg and placed.sits != "fastened":
        words = (
            f"A fan could hang where {handle} is; its {box.name.lower()} carries none and gives no access to"
            " framing that does"
        )
        yield failed(plan, rules.FAN_READY, "boxes", (handle,), words)
    if wanted != "fan":
        return
    rule, weight = plan.practice.rule(rules.FAN_BOX), point.fitting.weight if point.fitting else None
    usual, marked = plan.practice[rules.FAN_BOX]
    if not box.fan_kg:
        words = f"{handle} hangs from a {box.name.lower()}, which is not listed for a fan"
        yield failed(plan, rules.FAN_BOX, "boxes", (handle,), words)
        return
    if weight is None:
        return
    sum_ = Working("Weight", "kg", (Line(1.0, weight, "fan", (handle,)),))
    shown = _weighs(plan, weight)
    if at_most(weight, usual, ROUNDING):
        words = f"{handle} weighs {shown}, and hangs from a box listed for a fan"
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=Passes(),
            waypoint="boxes",
            working=sum_,
            limit=usual,
        )
    elif at_most(weight, marked, ROUNDING):
        words = f"{handle} weighs {shown}: its box must be marked for that"
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=NotKnown("the weight marked on the box"),
            waypoint="boxes",
            working=sum_,
            limit=usual,
            grade="ask",
        )
    else:
        words = f"{handle} weighs {shown}, more than any box carries: it hangs from the structure"
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=Fails(),
            waypoint="boxes",
            working=sum_,
            limit=marked,
        )


def _weighs(plan: Plan, kg: float) -> str:
    return f"{kg:.1f} kg" if plan.practice.unit == "mm" else f"{kg / KG_PER_LB:.0f} lb"


@looks_at(rules.FIXTURE_WEIGHT, rules.SHEET_BLANK)
def _weight(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    """A light's weight against what a box carries; a fan's own rule looks at its box."""
    sheet = point.fitting
    if rules.FIXTURE_WEIGHT not in plan.practice or (sheet is None and point.kind != "fan"):
        return
    if sheet is None or sheet.weight is None:
        words = f"The weight of {handle} is not known"
        yield unknown(
            plan,
            rules.SHEET_BLANK,
            waypoint="layout",
            handles=(handle,),
            words=words,
            reading="the weight on its sheet",
            place="weight",
        )
        return
    if point.kind == "fan" and rules.FAN_BOX in plan.practice:
        return
    limit = plan.practice[rules.FIXTURE_WEIGHT]
    weight = Working("Weight", "kg", (Line(1.0, sheet.weight, "fitting", (handle,)),))
    rule = plan.practice.rule(rules.FIXTURE_WEIGHT)
    shown = f"{handle} weighs {_weighs(plan, sheet.weight)}; a box carries {_weighs(plan, limit)}"
    if at_most(sheet.weight, limit, ROUNDING):
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=shown,
            verdict=Passes(),
            waypoint="layout",
            working=weight,
            limit=limit,
        )
    else:
        words = f"{shown}: it hangs from the structure, or from a box listed for the weight"
        reading = NotKnown("what it hangs from, and the weight marked there")
        yield Finding(
            rule=rule,
            handles=(handle,),
            words=words,
            verdict=reading,
            waypoint="layout",
            working=weight,
            limit=limit,
            grade="ask",
        )


@looks_at(rules.TUB_RATING, rules.WET_RATING)
def _rating(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Damp and wet places: over a tub damp, over a shower wet unless out of the spray, outdoors by what is
    above.
    """
    block = _tub_under(plan, placed) if rules.TUB_RATING in plan.practice else None
    outside = outdoors(point, plan.drawing.get(point.room, Room))
    if block is not None:
        yield from _sealed(
            plan,
            placed.handle,
            point=point,
            rule=rules.TUB_RATING,
            where=f"over the {block.kind} {block.handle}",
            place=point.exposure or ("wet" if block.kind == "shower" else "damp"),
            asked="" if point.exposure or block.kind == "bath" else "whether the spray reaches it",
        )
    elif rules.WET_RATING in plan.practice and (outside or point.exposure):
        yield from _sealed(
            plan,
            placed.handle,
            point=point,
            rule=rules.WET_RATING,
            where="outdoors" if outside else f"where it is {point.exposure}",
            place=point.exposure or "wet",
            asked="" if point.exposure else "whether a roof keeps the rain off",
        )


def _tub_under(plan: Plan, placed: Placed) -> Block | None:
    """The bath or shower that a fitting is over, within reach of its rim."""
    foot = placed.height - plan.pendant_drop(placed.handle)
    for block in plan.blocks_in(placed.room):
        rim = block.high - plan.rooms[placed.room].level
        over = block.kind in ("bath", "shower") and block.off(placed.position[:2]) < 0.5
        if over and at_most(foot, rim + plan.practice[rules.TUB_RATING]):
            return block
    return None


def _sealed(
    plan: Plan, handle: Handle, point: Point, rule: RuleKey[Any], where: str, place: str, asked: str
) -> Iterator[Finding]:
    """A fitting's marking against a damp or wet place; ``asked`` is what would make the place damp only."""
    rating = point.fitting.rating if point.fitting else ""
    if rating == "wet" or (rating == "damp" and place == "damp"):
        return
    verdict: Verdict = Fails()
    words = f"{handle} is marked for {rating} places, and is {where}, a {place} place"
    if not rating:
        verdict, words = NotKnown("the rating on its sheet"), f"{handle} is {where}; its rating is not known"
    elif rating == "damp" and asked:
        verdict = NotKnown(asked)
        words = f"{handle} is {where} and marked for damp places, which is enough only out of the wet"
    grade: Severity | None = "ask" if isinstance(verdict, NotKnown) else None
    yield Finding(plan.practice.rule(rule), (handle,), words, verdict, "layout", grade=grade)


@looks_at(rules.CLOSET_LIGHT)
def _closet(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    if plan.drawing.get(point.room, Room).use != "closet" or rules.CLOSET_LIGHT not in plan.practice:
        return
    if point.mount == "pendant":
        yield failed(plan, rules.CLOSET_LIGHT, "layout", (handle,), f"{handle} hangs in a closet")
    surface, recessed = plan.practice[rules.CLOSET_LIGHT]
    limit = recessed if point.mount == "recessed" else surface
    for block in plan.blocks_in(point.room):
        off = block.off(plan.placed[handle].position[:2])
        if block.kind in ("cabinet", "tall cabinet") and not at_least(off, limit):
            gap = format_length(off, plan.drawing.house.unit)
            words = f"{handle} is {gap} from the storage {block.handle}"
            yield failed(plan, rules.CLOSET_LIGHT, "layout", (handle, block.handle), words)
