"""Which points share a circuit: a room's lights apart from its outlets, filled up by load.

Points that have a circuit keep it. The rest go to a standing circuit of their kind while
its load and, for outlets, its count allow; then to new ones. Lights and alarms take the
smallest gauge with its breaker, outlets the next.
"""

from __future__ import annotations

from fjeld.derive.circuits import va_of
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.edits.circuits import TakeGroups
from fjeld.drawing.handles import Fresh, Handle, order
from fjeld.drawing.model import Circuit, Control, Point, Protection, load_point

#: Practice and kind of circuit → (gauge, breaker, word in its name).
KINDS = {
    "na": {"lights": ("14", 15, "lights"), "outlets": ("12", 20, "outlets")},
    "gb": {"lights": ("1.5", 6, "lights"), "outlets": ("2.5", 20, "sockets")},
}
#: A proposal leaves a fifth of the breaker free.
FILL = 0.8


def propose(plan: Plan, mint: Fresh) -> TakeGroups | None:
    """Circuits for every load that has none; None when all have one."""
    loose = [h for h, p in plan.drawing.of(Point).items() if p.kind not in ("switch",) and p.circuit is None]
    if not loose:
        return None
    carried = {q: c.figures.load.total for q, c in plan.circuits.items()}
    counts = {q: c.figures.outlets for q, c in plan.circuits.items()}
    kinds = {q: _kind_of(plan, q) for q in plan.drawing.of(Circuit)}
    fresh: dict[Handle, Circuit] = {}
    members: dict[Handle, list[Handle]] = {}
    for unit in _units(plan, sorted(loose, key=order)):
        kind = "outlets" if plan.drawing.get(unit[0], Point).kind == "outlet" else "lights"
        gauge, breaker, word = KINDS[plan.practice.id][kind]
        amps = sum(va_of(plan.drawing.get(h, Point), plan.practice)[0] for h in unit) / plan.practice.volts
        most = plan.practice.value("outlets-per-circuit").get(str(breaker), 99)
        at = next(
            (
                q
                for q in kinds
                if kinds[q] == kind
                and carried.get(q, 0) + amps <= FILL * breaker
                and counts.get(q, 0) + len(unit) <= most
            ),
            None,
        )
        if at is None:
            at = mint.fresh("circuit")
            room = plan.drawing.get(plan.drawing.get(unit[0], Point).room, Room).name
            fresh[at] = Circuit(
                f"{room} {word}", breaker, gauge, protection(plan, [plan.drawing.get(h, Point) for h in unit])
            )
            kinds[at] = kind
        carried[at] = carried.get(at, 0) + amps
        counts[at] = counts.get(at, 0) + (len(unit) if kind == "outlets" else 0)
        members.setdefault(at, []).extend(unit)
    return TakeGroups(fresh, {q: tuple(handles) for q, handles in members.items()})


def _units(plan: Plan, loose: list[Handle]) -> list[list[Handle]]:
    """Loads of one control stay together, alarms too; everything else is alone."""
    left = dict.fromkeys(loose)
    units: list[list[Handle]] = []
    together = [[load_point(load) for load in c.loads] for c in plan.drawing.of(Control).values()]
    together.append([h for h in loose if plan.drawing.get(h, Point).kind == "alarm"])
    for group in together:
        unit = [h for h in dict.fromkeys(group) if h in left]
        for handle in unit:
            del left[handle]
        if unit:
            units.append(unit)
    return units + [[h] for h in left]


def _kind_of(plan: Plan, circuit: Handle) -> str:
    kinds = {p.kind for p in plan.drawing.of(Point).values() if p.circuit == circuit}
    if not kinds:
        outlets = KINDS[plan.practice.id]["outlets"][0]
        return "outlets" if plan.drawing.get(circuit, Circuit).gauge == outlets else "lights"
    return "outlets" if kinds == {"outlet"} else "lights"


def protection(plan: Plan, points: list[Point]) -> Protection:
    """The protection that points want by the rooms they are in."""
    if plan.practice.holds("residual"):
        return "residual"
    uses = {plan.drawing.get(p.room, Room).use for p in points}
    arc = bool(uses & set(plan.practice.value("arc-fault")))
    ground = any(p.kind == "outlet" for p in points) and bool(uses & set(plan.practice.value("ground-fault")))
    return "both" if arc and ground else "arc-fault" if arc else "ground-fault" if ground else ""
