"""``make speed``: derive by size, the stages an edit runs, warm pages, an edit's round trip in the browser,
proof against a circuit simulator.

Prints a table and writes ``var/speed.json``. Every figure is the median of several runs,
and each is given beside what it is compared with in the same run.
"""

from __future__ import annotations

import json
import math
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fjeld.check import check
from fjeld.demo import job_file
from fjeld.derive.memo import Memo
from fjeld.derive.network import Network
from fjeld.derive.plan import derive
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.model import Point
from fjeld.formats import jobfile
from fjeld.prove.proof import gray
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver
from speed.browser import round_trips
from speed.pages import warm_pages
from speed.simulator import every_state
from speed.simulator import run as simulated
from speed.stages import stages_run
from tests.houses import inches, row_of_rooms

#: Rooms of a house, of 25 points each.
SIZES = (1, 2, 4, 8, 16)


def median(run: Callable[[], Any], times: int = 5) -> float:
    """Median seconds of ``times`` runs, after one that is not counted."""
    run()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def derive_by_size() -> dict[str, Any]:
    """Derive in full at each size, the slope of time over points (log–log), and moving one lamp
    with a memo.
    """
    found: dict[str, Any] = {}
    seconds = []
    counts: list[int] = []
    for size in SIZES:
        drawing = row_of_rooms(7, size)
        points = len(drawing.of(Point))
        counts.append(points)
        full = median(lambda drawing=drawing: derive(drawing, Memo()))
        plan = derive(drawing)
        checked = median(lambda plan=plan: check(plan, Memo()), 3)
        seconds.append(full)
        memo = Memo()
        derive(drawing, memo)
        lamp = next(h for h, p in drawing.of(Point).items() if p.kind == "light")
        steps = iter(range(1000))

        def moved(drawing: Any = drawing, lamp: Any = lamp, steps: Any = steps, memo: Memo = memo) -> None:
            edit = MovePoint(lamp, x=inches(60 + next(steps) * 0.25))
            derive(apply(drawing, edit.plan(drawing)), memo)

        found[f"derive {points} points in {size} rooms, ms"] = round(full * 1000, 1)
        found[f"check of it the first time, share of derive, {points} points"] = round(checked / full, 2)
        found[f"move a lamp at {points} points, share of full"] = round(median(moved) / full, 2)
    xs, ys = [math.log(n) for n in counts], [math.log(s) for s in seconds]
    mean_x, mean_y = statistics.fmean(xs), statistics.fmean(ys)
    slope = sum((x - mean_x) * (y - mean_y) for x, y in zip(xs, ys, strict=True)) / sum(
        (x - mean_x) ** 2 for x in xs
    )
    found["growth of derive with points, exponent"] = round(slope, 2)
    return found


def proof_against_simulator() -> dict[str, Any]:
    """Every state of two houses: by logic, by voltages, and by a stock simulator in one process that alters
    its contacts.

    Raises ``AssertionError`` where the two do not come to the same volts: a figure of unequal work is none.
    """
    found: dict[str, Any] = {}
    for name, network in (
        ("boot room", _network("boot-room")),
        ("the widest of Tarn House", _widest("tarn-house")),
    ):
        every = [dict(zip(network.positions, s, strict=True)) for s in gray(len(network.positions))][:ALL]
        states = every[:MOST_STATES]
        lamps = [(load.a, load.b) for load in network.loads]
        times = 5 if len(states) < 100 else 3
        logic = median(lambda network=network: reach(network, network.positions), times)
        solved = median(
            lambda network=network, every=every, lamps=lamps: Solver(network).solved(every).apart(lamps),
            times,
        )
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "network.cir"
            file.write_text(every_state(network, states))
            outside = median(lambda file=file: simulated(file), 3)
            _same(network, states, simulated(file))
        found |= {
            f"{name}: states": len(every),
            f"{name}: states that the simulator goes through": len(states),
            f"{name}: proof by logic, ms": round(logic * 1000, 2),
            f"{name}: proof by voltages, ms": round(solved * 1000, 2),
            f"{name}: simulator over logic, times a state": round(
                outside / len(states) / (logic / 2 ** len(network.positions))
            ),
            f"{name}: simulator over voltages, times a state": round(
                outside / len(states) / (solved / len(every)), 1
            ),
        }
    return found


#: So many states are worked out at the most, and the simulator goes through so many of them: it takes long.
ALL, MOST_STATES = 4096, 64


def _network(name: str) -> Network:
    network = derive(jobfile.decode(job_file(name))).network
    assert network is not None
    return network


def _widest(name: str) -> Network:
    """Of a house's groups of circuits that are proven apart, the one with the most switches."""
    plan = derive(jobfile.decode(job_file(name)))
    groups = [found for circuits in plan.together() if (found := plan.network_of(circuits)) is not None]
    return max(groups, key=lambda network: len(network.positions))


def _same(network: Network, states: list[dict[Any, int]], volts: list[float]) -> None:
    solver = Solver(network)
    found = solver.voltages(states)
    mine = [
        abs(row[solver.index[load.a]] - row[solver.index[load.b]]) for row in found for load in network.loads
    ]
    assert max(abs(a - b) for a, b in zip(mine, volts, strict=True)) < 1e-3


def main() -> None:
    """Measure, print, write."""
    found = {**derive_by_size(), **stages_run(), **proof_against_simulator(), **warm_pages(), **round_trips()}
    width = max(map(len, found))
    for name, value in found.items():
        print(f"{name:<{width}}  {value:>10}")
    Path("var").mkdir(exist_ok=True)
    Path("var/speed.json").write_text(json.dumps(found, indent=2) + "\n")


if __name__ == "__main__":
    main()
