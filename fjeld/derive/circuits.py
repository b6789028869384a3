"""A circuit's figures: what it carries against its breaker, and how far its volts sag.

Load: other + 1.25 × continuous within the rating. Volt drop: the sum over the path of
2 · length · resistance · current of each stretch, copper at 75 °C.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec

from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Point
from fjeld.practice import Practice
from fjeld.quantities import Line, Working

#: Loads where nothing better is known, VA. Outlets are estimated by rule.
ESTIMATES = {"light": 60.0, "fan": 75.0, "alarm": 5.0}


class CircuitFigures(msgspec.Struct, frozen=True):
    """A circuit in figures. ``load`` in A against ``rating``; ``drop`` in V at box ``far``."""

    handle: Handle
    load: Working
    rating: int
    va: float
    estimated: int
    drop: Working
    far: Handle | None
    drop_percent: float
    outlets: int

    @property
    def share(self) -> float:
        """Load as a share of the breaker, %."""
        return 100 * self.load.total / self.rating


class Stretch(msgspec.Struct, frozen=True):
    """One stretch of a circuit, for a drop: length one way (mm), gauge, current (A)."""

    length: float
    gauge: str
    amps: float
    handle: str = ""


def va_of(point: Point, practice: Practice) -> tuple[float, bool]:
    """A point's load in VA, and whether it is an estimate."""
    if point.va is not None:
        return point.va, False
    if point.kind == "outlet":
        return float(practice.value("outlet-estimate")), True
    if point.kind == "light" and practice.holds("light-estimate"):
        return float(practice.value("light-estimate")), True
    return ESTIMATES.get(point.kind, 0.0), point.kind in ESTIMATES


def load(points: Mapping[Handle, Point], practice: Practice) -> Working:
    """Current for the rating test, A: each load once, continuous ones at the rule's factor."""
    factor = float(practice.value("circuit-load"))
    lines = []
    for handle, point in points.items():
        va, guess = va_of(point, practice)
        if va:
            what = (
                f"{handle} {va:g} VA"
                + (" estimated" if guess else "")
                + (" continuous" if point.continuous else "")
            )
            lines.append(Line(factor if point.continuous else 1.0, va / practice.volts, what, (handle,)))
    return Working("Load", "A", tuple(lines))


def drop(stretches: Sequence[Stretch], practice: Practice) -> Working:
    """Volt drop over consecutive stretches, V."""
    lines = []
    for s in stretches:
        ohms = practice.catalogue.gauge(s.gauge).there_and_back
        lines.append(
            Line(
                s.amps,
                s.length / 1000 * ohms,
                f"{s.handle or 'stretch'} there and back",
                (s.handle,) if s.handle else (),
            )
        )
    return Working("Volt drop", "V", tuple(lines))


def figures(
    handle: Handle,
    circuit: Circuit,
    points: Mapping[Handle, Point],
    where: Tree,
    lengths: Mapping[Handle, float],
    practice: Practice,
) -> CircuitFigures:
    """All figures of one circuit. ``lengths`` are the cables' routes, mm."""
    amps = {h: va_of(p, practice)[0] / practice.volts for h, p in points.items()}
    stretch = {
        e.cable: Stretch(
            lengths.get(e.cable, 0.0),
            circuit.gauge,
            sum(amps.get(h, 0.0) for h in where.beyond[e.cable]),
            e.cable,
        )
        for e in where.edges
    }
    above = {e.down: e for e in where.edges}
    worst, far = Working("Volt drop", "V", ()), None
    for box in sorted(above, key=lambda b: (where.depth[b], b)):
        path: list[Stretch] = []
        here = box
        while here in above:
            path.append(stretch[above[here].cable])
            here = above[here].up
        found = drop(path[::-1], practice)
        if far is None or found.total > worst.total + 1e-9:
            worst, far = found, box
    total = load(points, practice)
    return CircuitFigures(
        handle, total, circuit.breaker, sum(va_of(p, practice)[0] for p in points.values()),
        sum(va_of(p, practice)[1] for p in points.values()), worst, far,
        100 * worst.total / practice.volts, sum(p.kind == "outlet" for p in points.values()),
    )  # fmt: skip
