"""What an edit runs again in a house of about 345 points: stages counted, and time as a share of a full
derive.

Five edits: a lamp moved, a room given another name, a door hung the other way, a rule amended (one
that checks read, one that circuits read), and an outlet put on another circuit.
"""

from __future__ import annotations

import gc
import statistics
import time
from collections.abc import Callable
from typing import Any

from fjeld.check import check
from fjeld.derive.memo import Memo
from fjeld.derive.plan import derive
from fjeld.drawing.building import Opening, Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits import Edit
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.edits.record import AmendRule
from fjeld.drawing.model import Circuit, Drawing, Point
from fjeld.quantities import Length
from tests.houses import row_of_rooms

ROOMS = 16


def edits_of(drawing: Drawing) -> dict[str, Callable[[int], Edit]]:
    """The edits by name, each made anew for the n-th time."""
    points = drawing.of(Point)
    lamp = next(h for h, p in points.items() if p.kind == "light" and not p.wall)
    outlet = next(h for h, p in points.items() if p.kind == "outlet")
    room, door = next(iter(drawing.of(Room))), next(iter(drawing.of(Opening)))
    circuits = [q for q in drawing.of(Circuit) if q != points[outlet].circuit]
    x = points[lamp].x
    assert x is not None
    return {
        "a lamp moved": lambda n: MovePoint(lamp, x=Length(x.mm + 6.35 * (n + 1))),
        "a room renamed": lambda n: Revise(room, {"name": f"Hall {n}"}),
        "a door hung the other way": lambda n: Revise(
            door, {"swing": ("out", "in")[n % 2], "hinge": ("end", "start")[n // 2 % 2]}
        ),
        "a rule amended that checks read": lambda n: AmendRule("volt-drop", 2.0 + 0.01 * n, "here", "ada"),
        "a rule amended that circuits read": lambda n: AmendRule(
            "circuit-load", 1.1 + 0.001 * n, "here", "ada"
        ),
        "an outlet on another circuit": lambda n: Revise(outlet, {"circuit": circuits[n % len(circuits)]}),
    }


def stages_run() -> dict[str, Any]:
    """For each edit the stages that it ran (the first time) and its median share of a full derive."""
    drawing = row_of_rooms(7, ROOMS)
    full = statistics.median(_taken(lambda: derive(drawing)) for _ in range(5))
    memo = Memo()
    derive(drawing, memo)
    found: dict[str, Any] = {}
    for name, edit in edits_of(drawing).items():
        taken = []
        for n in range(7):
            after = apply(drawing, edit(n).plan(drawing))
            memo.ran.clear()
            taken.append(_taken(lambda after=after: derive(after, memo)))
            if n == 0:
                found[f"{name}: stages run"] = sum(memo.ran.values())
        found[f"{name}: share of full"] = round(statistics.median(taken[1:]) / full, 3)
    plan = derive(drawing, memo)
    first = statistics.median(_taken(lambda: check(plan, Memo())) for _ in range(3))
    check(plan, memo)
    again = statistics.median(_taken(lambda: check(plan, memo)) for _ in range(3))
    found["looking at every rule the first time: share of full"] = round(first / full, 2)
    found["looking again, nothing changed: share of full"] = round(again / full, 2)
    return found


def _taken(run: Callable[[], Any]) -> float:
    gc.collect()
    start = time.perf_counter()
    run()
    return time.perf_counter() - start
