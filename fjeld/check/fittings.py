"""What hangs and what is sunk in: fans, pendants, recessed lights, and what carries them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from fjeld.check import Finding, failed, unknown
from fjeld.derive.places import USUAL_DROP, USUAL_SWEEP, Placed, carries
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Body, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Point
from fjeld.geometry import to_segment
from fjeld.practice import Severity
from fjeld.quantities import Fails, Line, NotKnown, Passes, Verdict, Working, at_least, at_most, format_length

KG_PER_LB = 0.45359237


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
        if plan.practice.holds("fan-box") and handle in plan.boxes:
            yield from _fan_box(plan, placed, point)
        if point.kind in ("fan", "light"):
            yield from _weight(plan, handle, point)
            yield from _rating(plan, placed, point)
            yield from _closet(plan, handle, point)


def blades(plan: Plan, handle: Handle) -> tuple[float, float, bool]:
    """(drop of the blades below the ceiling, sweep, whether estimated), mm."""
    sheet = plan.drawing.get(handle, Point).fitting or Fitting()
    drop = (sheet.downrod.mm if sheet.downrod else 0.0) + (
        sheet.body_drop.mm if sheet.body_drop else USUAL_DROP
    )
    sweep = sheet.blades.mm if sheet.blades else USUAL_SWEEP
    return drop, sweep, sheet.blades is None or sheet.body_drop is None


def _fan(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Blades over the floor; tips from walls, from the slope of the ceiling, and from door arcs."""
    handle, where, unit = placed.handle, plan.rooms[placed.room], plan.drawing.house.unit
    drop, sweep, guess = blades(plan, handle)
    note = ", blades estimated" if guess else ""
    lines = (Line(1.0, placed.height, "ceiling", (handle,)), Line(-1.0, drop, "rod and motor", (handle,)))
    height = Working("Blades above floor", "mm", lines)
    low = plan.practice.mm("fan-blades")
    words = f"The blades of {handle} turn {format_length(height.total, unit)} above the floor{note}"
    verdict = Passes() if at_least(height.total, low) else Fails()
    yield Finding(plan.practice.rule("fan-blades"), (handle,), words, verdict, "layout", height, low)
    x, y, _ = placed.position
    gaps = [(to_segment((x, y), w.start, w.end) - sweep / 2, f"wall {w.number}") for w in where.walls]
    gaps += (
        [(slope_gap(where.ceiling_at, (x, y), placed.height - drop, sweep / 2), "the slope")]
        if where.slope
        else []
    )
    gaps += _doors(plan, placed, sweep)
    limit = plan.practice.mm("fan-clear")
    # A door's arc is only to be missed; a wall or a slope is to be well clear.
    judged = [(gap, what, 0.0 if what.startswith("the arc") else limit) for gap, what in gaps]
    worst = min(judged, key=lambda j: j[0] - j[2])
    failing = [j for j in judged if not at_least(j[0], j[2])]
    for least, what, wanted in failing or [worst]:
        gap = Working("Tip to " + what, "mm", (Line(1.0, least, what, (handle,)),))
        said = f"The blade tips of {handle} come within {format_length(max(least, 0.0), unit)} of {what}{note}"
        passes = Fails() if failing else Passes()
        yield Finding(plan.practice.rule("fan-clear"), (handle,), said, passes, "layout", gap, wanted, what)


def slope_gap(
    ceiling: Callable[[tuple[float, float]], float], at: tuple[float, float], z: float, radius: float
) -> float:
    """From the blade tips to a sloped ceiling, mm: the least vertical gap around the sweep, taken as a distance."""
    return min(
        ceiling((at[0] + radius * math.cos(a), at[1] + radius * math.sin(a))) - z
        for a in (k * math.pi / 36 for k in range(72))
    )


def _doors(plan: Plan, placed: Placed, sweep: float) -> list[tuple[float, str]]:
    """Gaps between the sweep and the arcs of doors tall enough to be met."""
    drop, _, _ = blades(plan, placed.handle)
    found = []
    for door, opening in plan.openings[placed.room].items():
        where = plan.rooms[placed.room]
        if opening.kind != "door" or opening.swing != "in" or opening.wall > len(where.walls):
            continue
        if opening.head.mm < placed.height - drop - 50.0:
            continue
        wall = where.walls[opening.wall - 1]
        hinge = wall.at(opening.at.mm if opening.hinge == "start" else opening.at.mm + opening.width.mm)
        found.append(
            (math.dist(hinge, placed.position[:2]) - opening.width.mm - sweep / 2, f"the arc of {door}")
        )
    return found


def _pendant(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    if point.over is None:
        words = f"{placed.handle} hangs over nothing that is drawn, so its cord cannot be worked out"
        yield unknown(plan, "pendant-clear", "layout", (placed.handle,), words, "what it hangs over")
        return
    below = plan.drawing.get(point.over, Body)
    gap = plan.pendant_clearance(placed.handle)
    line = Line(1.0, gap, f"above the {below.kind}", (placed.handle, point.over))
    wanted = plan.practice.mm("pendant-clear")
    words = f"{placed.handle} hangs {format_length(gap, plan.drawing.house.unit)} above the {below.kind} {point.over}"
    verdict = Passes() if at_least(gap, wanted) else Fails()
    yield Finding(plan.practice.rule("pendant-clear"), (placed.handle,), words, verdict, "layout", Working("Clear", "mm", (line,)), wanted)  # fmt: skip


def _recessed(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Depth above the ceiling, and contact with insulation where an attic or a roof lies above."""
    room, sheet = plan.drawing.get(point.room, Room), point.fitting or Fitting()
    handle, unit = placed.handle, plan.drawing.house.unit
    if sheet.depth is None:
        words = f"The depth {handle} needs above the ceiling is not known"
        yield unknown(plan, "void-depth", "layout", (handle,), words, "the fitting's sheet")
    else:
        void = Working("Depth above", "mm", (Line(1.0, room.joists.depth.mm, "joists", (point.room,)),))
        words = (
            f"{handle} needs {format_length(sheet.depth.mm, unit)} of {format_length(void.total, unit)} above"
        )
        verdict = Passes() if at_most(sheet.depth.mm, void.total) else Fails()
        yield Finding(
            plan.practice.rule("void-depth"), (handle,), words, verdict, "layout", void, sheet.depth.mm
        )
    if plan.practice.holds("recessed-insulated") and room.above != "storey" and not placed.wall:
        words = f"{handle} is sunk into the ceiling of {room.name}, where insulation may lie"
        if sheet.insulation_contact is None:
            yield unknown(
                plan, "recessed-insulated", "layout", (handle,), words, "its rating for insulation contact"
            )
        elif not sheet.insulation_contact:
            yield failed(plan, "recessed-insulated", "layout", (handle,), f"{words}; it is not rated for that")


def _fan_box(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """What a fan hangs from, and what is put up where one could hang later."""
    handle, box = placed.handle, plan.boxes[placed.handle].kind
    room = plan.drawing.get(point.room, Room)
    wanted = carries(point, placed, room, plan.rooms[point.room], plan.practice)
    if wanted == "fan-ready" and not box.fan_kg and placed.sits != "fastened":
        words = f"A fan could hang where {handle} is; its {box.name.lower()} carries none and gives no access to framing that does"
        yield failed(plan, "fan-ready", "boxes", (handle,), words)
    if wanted != "fan":
        return
    rule, weight = plan.practice.rule("fan-box"), point.fitting.weight if point.fitting else None
    usual, marked = (float(v) * KG_PER_LB for v in plan.practice.value("fan-box"))
    if not box.fan_kg:
        words = f"{handle} hangs from a {box.name.lower()}, which is not listed for a fan"
        yield failed(plan, "fan-box", "boxes", (handle,), words)
        return
    if weight is None:
        return
    sum_ = Working("Weight", "kg", (Line(1.0, weight, "fan", (handle,)),))
    shown = _weighs(plan, weight)
    if at_most(weight, usual, 1e-6):
        words = f"{handle} weighs {shown}, and hangs from a box listed for a fan"
        yield Finding(rule, (handle,), words, Passes(), "boxes", sum_, usual)
    elif at_most(weight, marked, 1e-6):
        words = f"{handle} weighs {shown}: its box must be marked for that"
        yield Finding(
            rule, (handle,), words, NotKnown("the weight marked on the box"), "boxes", sum_, usual, grade="ask"
        )
    else:
        words = f"{handle} weighs {shown}, more than any box carries: it hangs from the structure"
        yield Finding(rule, (handle,), words, Fails(), "boxes", sum_, marked)


def _weighs(plan: Plan, kg: float) -> str:
    return f"{kg:.1f} kg" if plan.practice.metric else f"{kg / KG_PER_LB:.0f} lb"


def _weight(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    """A light's weight against what a box carries; a fan's own rule looks at its box."""
    sheet = point.fitting
    if not plan.practice.holds("fixture-weight") or (sheet is None and point.kind != "fan"):
        return
    if sheet is None or sheet.weight is None:
        words = f"The weight of {handle} is not known"
        yield unknown(plan, "sheet-blank", "layout", (handle,), words, "the weight on its sheet", "weight")
        return
    if point.kind == "fan":
        return
    limit = float(plan.practice.value("fixture-weight")) * KG_PER_LB
    weight = Working("Weight", "kg", (Line(1.0, sheet.weight, "fitting", (handle,)),))
    rule = plan.practice.rule("fixture-weight")
    shown = f"{handle} weighs {_weighs(plan, sheet.weight)}; a box carries {_weighs(plan, limit)}"
    if at_most(sheet.weight, limit, 1e-6):
        yield Finding(rule, (handle,), shown, Passes(), "layout", weight, limit)
    else:
        words = f"{shown}: it hangs from the structure, or from a box listed for the weight"
        reading = NotKnown("what it hangs from, and the weight marked there")
        yield Finding(rule, (handle,), words, reading, "layout", weight, limit, grade="ask")


def _rating(plan: Plan, placed: Placed, point: Point) -> Iterator[Finding]:
    """Damp and wet places: over a tub damp, over a shower wet unless out of the spray, outdoors by what is above."""
    room = plan.drawing.get(point.room, Room)
    if plan.practice.holds("tub-rating"):
        reach = plan.practice.mm("tub-rating")
        for block in plan.blocks_in(point.room):
            rim = block.high - plan.rooms[point.room].level
            over = block.kind in ("bath", "shower") and block.off(placed.position[:2]) < 0.5
            if over and at_most(placed.height - plan.pendant_drop(placed.handle), rim + reach):
                place = point.exposure or ("wet" if block.kind == "shower" else "damp")
                asked = "" if point.exposure or block.kind == "bath" else "whether the spray reaches it"
                yield from _sealed(
                    plan,
                    placed.handle,
                    point,
                    "tub-rating",
                    f"over the {block.kind} {block.handle}",
                    place,
                    asked,
                )
                break
    if plan.practice.holds("wet-rating") and (room.use == "outdoors" or point.mount == "outdoor"):
        asked = "" if point.exposure else "whether a roof keeps the rain off"
        yield from _sealed(plan, placed.handle, point, "wet-rating", "outdoors", point.exposure or "wet", asked)


def _sealed(
    plan: Plan, handle: Handle, point: Point, rule: str, where: str, place: str, asked: str
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


def _closet(plan: Plan, handle: Handle, point: Point) -> Iterator[Finding]:
    if plan.drawing.get(point.room, Room).use != "closet" or not plan.practice.holds("closet-light"):
        return
    if point.mount == "pendant":
        yield failed(plan, "closet-light", "layout", (handle,), f"{handle} hangs in a closet")
    surface, recessed = plan.practice.pair("closet-light")
    limit = recessed if point.mount == "recessed" else surface
    for block in plan.blocks_in(point.room):
        off = block.off(plan.placed[handle].position[:2])
        if block.kind in ("cabinet", "tall cabinet") and not at_least(off, limit):
            gap = format_length(off, plan.drawing.house.unit)
            words = f"{handle} is {gap} from the storage {block.handle}"
            yield failed(plan, "closet-light", "layout", (handle, block.handle), words)
