"""The lamps of a room as its light is reckoned with them, and the blades of its fans."""

from __future__ import annotations

from fjeld.derive.light import BEAM, LUMENS, Lamp
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Photometry, Point
from fjeld.practice import rules


def lamps_of(plan: Plan, room: Handle) -> list[Lamp]:
    """The lights of a room as lamps, heights above its floor; what nobody said is estimated."""
    measured = plan.drawing.of(Photometry)
    found = []
    for handle, point in plan.drawing.of(Point).items():
        placed = plan.placed.get(handle)
        if point.kind != "light" or point.room != room or placed is None or not placed.inside:
            continue
        if placed.wall and not point.mount:
            continue
        file = measured.get(Handle(point.fitting.photometry)) if point.fitting else None
        curve = (file.angles, file.candela) if file else None
        lumens = file.lumens if file else point.lumens or LUMENS
        drop = plan.pendant_drop(handle)
        at = (placed.position[0], placed.position[1], placed.height - drop)
        beam = point.beam or (170.0 if placed.wall else BEAM)
        found.append(
            Lamp(
                handle=handle,
                position=at,
                lumens=lumens,
                beam=beam,
                estimated=point.lumens is None and file is None,
                curve=curve,
            )
        )
    return found


def blades(plan: Plan, handle: Handle) -> tuple[float, float, bool]:
    """(drop of the blades below the ceiling, sweep, whether estimated), mm."""
    sheet = plan.drawing.get(handle, Point).fitting or Fitting()
    usual_drop, usual_sweep = plan.practice[rules.USUAL_FAN]
    drop = (sheet.downrod.mm if sheet.downrod else 0.0) + (
        sheet.body_drop.mm if sheet.body_drop else usual_drop
    )
    sweep = sheet.blades.mm if sheet.blades else usual_sweep
    return drop, sweep, sheet.blades is None or sheet.body_drop is None
