"""Which points share a circuit: a room's lights apart from its outlets, filled up by load.

Points that have a circuit keep it. The rest go to a standing circuit of their kind while
its load and, for outlets, its count allow; then to new ones. A circuit's kind is what it
feeds (lights, outlets), whether its outlets want it to themselves (a laundry's, a bath
room's), and the protection that its rooms ask. The outlets over a kitchen's counters are
spread over as many circuits as the rule asks. Lights and alarms take the smallest gauge with
its breaker, outlets the next.
"""

from __future__ import annotations

from collections.abc import Sequence
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
    loose = [h for h, p in plan.drawing.of(Point).items() if p.kind != "switch" and p.circuit is None]
    if not loose:
        return None
    groups = _Groups(plan, mint)
    for unit in _units(plan, sorted(loose, key=order)):
        groups.take(unit)
    return TakeGroups(groups.fresh, {q: tuple(handles) for q, handles in groups.members.items()})


class _Groups:
    """The circuits of a plan as loads are put on them: what each carries, A, and how many outlets."""

    def __init__(self, plan: Plan, mint: Fresh) -> None:
        self.plan, self.mint = plan, mint
        self.carried = {q: c.figures.load.total for q, c in plan.circuits.items()}
        self.counts = {q: c.figures.outlets for q, c in plan.circuits.items()}
        self.kinds = {q: _kind_of(plan, q) for q in plan.drawing.of(Circuit)}
        self.fresh: dict[Handle, Circuit] = {}
        self.members: dict[Handle, list[Handle]] = {}

    def take(self, unit: Sequence[Handle]) -> None:
        """Put what goes together on a circuit that has room for it, else on a new one."""
        mine = [self.plan.drawing.get(h, Point) for h in unit]
        kind = _kind(self.plan, mine)
        amps = sum(va_of(p, self.plan.practice)[0] for p in mine) / self.plan.practice.volts
        at = self._room_on(kind, amps, len(unit)) or self._anew(kind, unit)
        self.carried[at] = self.carried.get(at, 0) + amps
        self.counts[at] = self.counts.get(at, 0) + (len(unit) if kind.feeds == "outlets" else 0)
        self.members.setdefault(at, []).extend(unit)

    def _room_on(self, kind: CircuitKind, amps: float, count: int) -> Handle | None:
        """A circuit of a kind that takes so much more."""
        practice = self.plan.practice
        wanted = practice.get(rules.KITCHEN_CIRCUITS, 1)
        # Over counters: a circuit more until there are as many as the rule asks, then the emptiest.
        if kind.own == SMALL_APPLIANCE and sum(k == kind for k in self.kinds.values()) < wanted:
            return None
        usual = practice.circuits[kind.feeds]
        most = practice[rules.OUTLETS_PER_CIRCUIT].get(str(usual.breaker), 99)
        open_ = [
            q
            for q in self.kinds
            if self.kinds[q] == kind
            and self.carried.get(q, 0) + amps <= practice[rules.PLAN_SHARE] * usual.breaker
            and self.counts.get(q, 0) + count <= most
        ]
        if kind.own:
            return min(open_, key=lambda q: self.carried.get(q, 0), default=None)
        return next(iter(open_), None)

    def _anew(self, kind: CircuitKind, unit: Sequence[Handle]) -> Handle:
        """A new circuit of a kind, named by where the first of what it takes stands."""
        usual, drawing = self.plan.practice.circuits[kind.feeds], self.plan.drawing
        at = self.mint.fresh("circuit")
        room = drawing.get(drawing.get(unit[0], Point).room, Room).name
        name = f"{kind.own.capitalize()} {usual.name}" if kind.own else f"{room} {usual.name}"
        self.fresh[at] = Circuit(name[:80], usual.breaker, usual.gauge, kind.protection)
        self.kinds[at] = kind
        return at


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
