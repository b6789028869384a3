"""Which points share a circuit: a room's lights apart from its outlets, filled up by load.

Points that have a circuit keep it. The rest go to a standing circuit of their kind while
its load and, for outlets, its count allow; then to new ones. A circuit's kind is what it
feeds (lights, outlets), whether its outlets want it to themselves (a laundry's, a bath
room's), and the protection that its rooms ask. The outlets over a kitchen's counters are
spread over as many circuits as the rule asks. Lights and alarms take the smallest gauge with
its breaker, outlets the next.
"""

from __future__ import annotations

from typing import NamedTuple

from fjeld.check.circuits import own_kind
from fjeld.check.protection import wants_ground_fault
from fjeld.derive.circuits import va_of
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.edits.circuits import TakeGroups
from fjeld.drawing.handles import Fresh, Handle, order
from fjeld.drawing.model import Circuit, Control, Point, Protection
from fjeld.practice import rules

SMALL_APPLIANCE = "small appliance"


def propose(plan: Plan, mint: Fresh) -> TakeGroups | None:
    """Circuits for every load that has none; None when all have one."""
    loose = [h for h, p in plan.drawing.of(Point).items() if p.kind not in ("switch",) and p.circuit is None]
    if not loose:
        return None
    carried = {q: c.figures.load.total for q, c in plan.circuits.items()}
    counts = {q: c.figures.outlets for q, c in plan.circuits.items()}
    kinds = {q: _kind_of(plan, q) for q in plan.drawing.of(Circuit)}
    wanted = plan.practice.get(rules.KITCHEN_CIRCUITS, 1)
    share = plan.practice[rules.PLAN_SHARE]
    fresh: dict[Handle, Circuit] = {}
    members: dict[Handle, list[Handle]] = {}
    for unit in _units(plan, sorted(loose, key=order)):
        mine = [plan.drawing.get(h, Point) for h in unit]
        kind = _kind(plan, mine)
        usual = plan.practice.circuits[kind.feeds]
        amps = sum(va_of(p, plan.practice)[0] for p in mine) / plan.practice.volts
        most = plan.practice[rules.OUTLETS_PER_CIRCUIT].get(str(usual.breaker), 99)
        open_ = [
            q
            for q in kinds
            if kinds[q] == kind
            and carried.get(q, 0) + amps <= share * usual.breaker
            and counts.get(q, 0) + len(unit) <= most
        ]
        # Over counters: a circuit more until there are as many as the rule asks, then the emptiest.
        spread = kind.own == SMALL_APPLIANCE and sum(k == kind for k in kinds.values()) < wanted
        at = (
            None
            if spread
            else (
                min(open_, key=lambda q: carried.get(q, 0), default=None)
                if kind.own
                else next(iter(open_), None)
            )
        )
        if at is None:
            at = mint.fresh("circuit")
            room = plan.drawing.get(plan.drawing.get(unit[0], Point).room, Room).name
            name = f"{kind.own.capitalize()} {usual.name}" if kind.own else f"{room} {usual.name}"
            fresh[at] = Circuit(name[:80], usual.breaker, usual.gauge, kind.protection)
            kinds[at] = kind
        carried[at] = carried.get(at, 0) + amps
        counts[at] = counts.get(at, 0) + (len(unit) if kind.feeds == "outlets" else 0)
        members.setdefault(at, []).extend(unit)
    return TakeGroups(fresh, {q: tuple(handles) for q, handles in members.items()})


def _units(plan: Plan, loose: list[Handle]) -> list[list[Handle]]:
    """Loads of one control stay together, alarms too; everything else is alone."""
    left = dict.fromkeys(loose)
    units: list[list[Handle]] = []
    together = [[load.point for load in c.loads] for c in plan.drawing.of(Control).values()]
    together.append([h for h in loose if plan.drawing.get(h, Point).kind == "alarm"])
    for group in together:
        unit = [h for h in dict.fromkeys(group) if h in left]
        for handle in unit:
            del left[handle]
        if unit:
            units.append(unit)
    return units + [[h] for h in left]


class CircuitKind(NamedTuple):
    """What a circuit is for: what it feeds, the kind of outlets it keeps to, and how it is protected."""

    feeds: str
    own: str
    protection: Protection


def _kind(plan: Plan, points: list[Point]) -> CircuitKind:
    outlets = all(p.kind == "outlet" for p in points)
    own = {own_kind(plan, p) for p in points} if outlets else {""}
    return CircuitKind(
        "outlets" if outlets else "lights", own.pop() if len(own) == 1 else "", protection(plan, points)
    )


def _kind_of(plan: Plan, circuit: Handle) -> CircuitKind:
    item = plan.drawing.get(circuit, Circuit)
    mine = [p for p in plan.drawing.of(Point).values() if p.circuit == circuit]
    if not mine:
        outlets = plan.practice.circuits["outlets"].gauge
        return CircuitKind("outlets" if item.gauge == outlets else "lights", "", item.protection)
    return _kind(plan, mine)._replace(protection=item.protection)


def protection(plan: Plan, points: list[Point]) -> Protection:
    """The protection that points want by the rooms they are in and what they are near."""
    if rules.RESIDUAL in plan.practice:
        return "residual"
    uses = {plan.drawing.get(p.room, Room).use for p in points}
    arc = bool(uses & set(plan.practice[rules.ARC_FAULT]))
    drawn = {id(p): h for h, p in plan.drawing.of(Point).items()}
    ground = any(
        p.kind == "outlet"
        and (
            plan.drawing.get(p.room, Room).use in plan.practice[rules.GROUND_FAULT]
            or (id(p) in drawn and wants_ground_fault(plan, drawn[id(p)]) != "")
        )
        for p in points
    )
    return "both" if arc and ground else "arc-fault" if arc else "ground-fault" if ground else ""
