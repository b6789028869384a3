"""Rooms as measured: do they close, do openings fit, is the framing of this world?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Opening, Panel, Room
from fjeld.quantities import INCH, Line, NotKnown, Passes, Working, at_least, at_most, format_length


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the survey."""
    for handle, room in plan.drawing.of(Room).items():
        yield from _closes(plan, handle, room)
        yield from _framing(plan, handle, room)
    yield from _openings(plan)
    if plan.drawing.of(Room) and not plan.drawing.of(Panel):
        yield unknown(
            plan,
            "circuit-fed",
            "survey",
            ("house",),
            "No panel is drawn, so nothing can be fed",
            "where the panel is",
        )


def _closes(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    where = plan.rooms[handle]
    unit = plan.drawing.house.unit
    rule = plan.practice.rule("room-closes")
    if where.crossing:
        a, b = where.crossing
        yield failed(
            plan,
            "room-simple",
            "survey",
            (handle,),
            f"Wall {a + 1} and wall {b + 1} of {room.name} cross or touch",
            f"{a + 1}-{b + 1}",
        )
    if not room.sides:
        yield unknown(
            plan,
            "room-closes",
            "survey",
            (handle,),
            f"{room.name} has no walls yet",
            "the length of the first wall",
        )
        return
    share = Working(
        "Misclosure", "%", (Line(100.0, where.misclosure / where.perimeter, "gap over perimeter", (handle,)),)
    )
    gap, around = format_length(where.misclosure, unit), format_length(where.perimeter, unit)
    words = f"{room.name} misses its start by {gap} in {around}"
    closes = len(room.sides) >= 3 and at_most(share.total, float(rule.value), 1e-6)
    verdict = Passes() if closes else NotKnown("a diagonal, or the wall that was read wrong")
    yield Finding(rule, (handle,), words, verdict, "survey", share, float(rule.value))


def _framing(plan: Plan, handle: Handle, room: Room) -> Iterator[Finding]:
    least, most = (float(v) * INCH for v in plan.practice.value("framing-plausible"))
    for name, spacing in (("Studs", room.studs.spacing), ("Joists", room.joists.spacing)):
        if not (at_least(spacing.mm, least) and at_most(spacing.mm, most)):
            shown = format_length(spacing.mm, plan.drawing.house.unit)
            yield unknown(
                plan,
                "framing-plausible",
                "survey",
                (handle,),
                f"{name} at {shown} in {room.name}",
                f"the spacing of the {name.lower()}",
            )


def _openings(plan: Plan) -> Iterator[Finding]:
    openings = plan.drawing.of(Opening)
    unit = plan.drawing.house.unit
    for handle, opening in openings.items():
        where = plan.rooms[opening.room]
        if opening.wall > len(where.walls):
            continue
        wall = where.walls[opening.wall - 1]
        end = opening.at.mm + opening.width.mm
        if not at_most(end, wall.length) or opening.at.mm < 0 or opening.width.mm <= 0:
            reach, length = format_length(end, unit), format_length(wall.length, unit)
            yield failed(
                plan, "opening-fits", "survey", (handle,), f"{handle} reaches to {reach} on a wall of {length}"
            )
        if not at_most(opening.head.mm, where.height) or opening.sill.mm >= opening.head.mm:
            yield failed(
                plan,
                "opening-fits",
                "survey",
                (handle,),
                f"{handle} does not fit the height of the room",
                "height",
            )
        for other, o in openings.items():
            same = o.room == opening.room and o.wall == opening.wall and other > handle
            if same and min(end, o.at.mm + o.width.mm) - max(opening.at.mm, o.at.mm) > 0.5:
                yield failed(plan, "opening-fits", "survey", (handle, other), f"{handle} and {other} overlap")
