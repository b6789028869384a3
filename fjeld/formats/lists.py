"""Lists for other programs: materials and cuts as CSV (RFC 4180, UTF-8)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from fjeld.derive.plan import Plan

#: A cell that begins with one of these is a formula to a spreadsheet.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def _written(rows: Iterable[Iterable[object]]) -> bytes:
    text = io.StringIO()
    writer = csv.writer(text)
    for row in rows:
        writer.writerow(
            [f"'{cell}" if isinstance(cell, str) and cell.startswith(_FORMULA) else cell for cell in row]
        )
    return text.getvalue().encode()


def materials_csv(plan: Plan) -> bytes:
    """The materials, one line a part, prices in cents."""
    head = ("part", "name", "count", "unit", "cents each", "cents", "for")
    rows = [
        (m.part, m.name, f"{m.count:g}", m.unit, m.cents, m.total_cents, " ".join(m.handles))
        for m in plan.materials
    ]
    return _written([head, *rows])


def cables_csv(plan: Plan) -> bytes:
    """The cables, one line a piece: kind, ends, route and cut length in feet or metres."""
    unit, mm = plan.practice.catalogue.cable_unit, plan.practice.catalogue.cable_unit_mm
    head = ("cable", "kind", "from", "to", "circuit", f"route {unit}", f"cut {unit}", "staples", "holes")
    rows = []
    for run in plan.runs():
        cable = plan.cables[run.cable]
        way = cable.route
        rows.append(
            (
                run.key,
                run.kind.id,
                cable.cable.a,
                cable.cable.b,
                run.circuit,
                f"{way.length / mm:.2f}" if way else "",
                f"{cable.length / mm:.2f}",
                len(cable.staples),
                way.holes if way else "",
            )
        )
    return _written([head, *rows])
