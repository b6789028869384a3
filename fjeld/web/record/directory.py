"""The directory of each panel, and what begins in an old box: a line a way, in full words."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from fjeld.derive.plan import Plan
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Panel, PanelWay, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Circuit, Point
from fjeld.drawing.old_box import OldBox


class DirectoryLine(msgspec.Struct, frozen=True):
    """One circuit: its ``way``, which is empty where its breaker is not in a panel of the drawing."""

    way: str
    handle: Handle
    circuit: Circuit
    protection: str
    words: str


class Directory(msgspec.Struct, frozen=True):
    """What begins in one panel or old box, and the ways that were taken already."""

    source: Handle
    title: str
    lines: tuple[DirectoryLine, ...]
    taken: tuple[PanelWay, ...] = ()


def directories(plan: Plan) -> list[Directory]:
    """One for each panel, the first first, then one for each old box that something begins in."""
    found = []
    for handle, panel in sorted(
        plan.drawing.of(Panel).items(), key=lambda p: (p[0] != plan.panel, order(p[0]))
    ):
        mine = [c for c in plan.circuits.values() if c.source == handle]
        at = _ways(panel, mine)
        lines = [_line(plan, c, str(at[c.handle])) for c in sorted(mine, key=lambda c: at[c.handle])]
        fed = f", fed by {panel.circuit}" if panel.circuit else ""
        found.append(
            Directory(
                handle, f"{plan.practice.word('panel').capitalize()} {handle}{fed}", tuple(lines), panel.taken
            )
        )
    for handle, old in plan.drawing.of(OldBox).items():
        mine = [c for c in plan.circuits.values() if c.source == handle]
        if mine:
            breaker = f", breaker {old.breaker}" if old.breaker.strip() else ", breaker not found yet"
            found.append(
                Directory(handle, f"Old box {handle}{breaker}", tuple(_line(plan, c, "") for c in mine))
            )
    return found


def _ways(panel: Panel, mine: Sequence[CircuitPlan]) -> dict[Handle, int]:
    """Each circuit's way: the one chosen, else the next that is free.

    Circuits beyond the last free way still have a line; that there is no way for them is a finding.
    """
    numbers = [*panel.free(), *range(panel.ways + 1, 999)]
    chosen = {c.handle: c.circuit.way for c in mine if c.circuit.way is not None}
    left = (n for n in numbers if n not in chosen.values())
    return {c.handle: chosen[c.handle] if c.handle in chosen else next(left) for c in mine}


def _line(plan: Plan, circuit: CircuitPlan, way: str) -> DirectoryLine:
    protections = plan.practice.catalogue.protections
    protection = circuit.circuit.protection and protections.get(circuit.circuit.protection, "")
    return DirectoryLine(way, circuit.handle, circuit.circuit, protection, _serves(plan, circuit))


def _serves(plan: Plan, circuit: CircuitPlan) -> str:
    members = [plan.drawing.get(b, Point) for b in circuit.boxes]
    words = [f"panel {panel}" for panel in circuit.panels]
    named = (
        ("light", "light"),
        ("outlet", plan.practice.word("outlet")),
        ("fan", "fan"),
        ("alarm", "smoke alarm"),
    )
    for kind, name in named:
        count = sum(p.kind == kind for p in members)
        if count:
            words.append(f"{count} {name}{'s' if count > 1 else ''}")
    rooms = sorted({plan.drawing.get(p.room, Room).name for p in members})
    return ": ".join(filter(None, (", ".join(rooms), ", ".join(words)))) or "nothing yet"
