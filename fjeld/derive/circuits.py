"""A circuit's figures: what it carries against its breaker, and how far its volts sag.

Load: other + 1.25 × continuous within the rating. Volt drop: the sum over the path of
2 · length · resistance · current of each stretch, copper at 75 °C.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from itertools import chain

import msgspec

from fjeld.derive.tree import Ring, Tree
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Point, home
from fjeld.judge.load import Hangs, Loaded, loaded
from fjeld.practice import Practice, rules
from fjeld.quantities import Known, Line, Working

_NONE = Known(0.0)


class CircuitFigures(msgspec.Struct, frozen=True):
    """A circuit in figures. ``load`` in A against ``rating``, ``known`` without what is estimated; ``drop``
    in V at box ``far``.

    Of a circuit of two poles the load is that of the leg that carries more. ``drop_basis`` says which current
    the drop was reckoned with, where it is none of the loads'.
    """

    handle: Handle
    load: Working
    known: Working
    rating: int
    va: float
    estimated: int
    drop: Working
    far: Handle | None
    drop_percent: float
    outlets: int
    drop_basis: str = ""

    @property
    def loaded(self) -> Loaded:
        """Its load as it is judged."""
        return Loaded(self.load, self.known, float(self.rating))

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
    rests_on: tuple[str, ...] = ()


def va_of(point: Point, practice: Practice) -> tuple[float, bool]:
    """A point's load in VA, and whether it is an estimate."""
    if point.va is not None:
        return point.va, False
    if point.kind == "outlet":
        return practice[rules.OUTLET_ESTIMATE], True
    if point.kind == "light" and rules.LIGHT_ESTIMATE in practice:
        return practice[rules.LIGHT_ESTIMATE], True
    usual = practice[rules.LOAD_ESTIMATE].get(point.kind)
    return usual or 0.0, usual is not None


def hangs_of(points: Mapping[Handle, Point], practice: Practice) -> list[Hangs]:
    """What points take, each that takes anything once."""
    found = []
    for handle, point in points.items():
        va, guess = va_of(point, practice)
        if va:
            words = (
                f"{handle} {va:g} VA",
                "estimated" if guess else "",
                "continuous" if point.continuous else "",
            )
            what = " ".join(filter(None, words))
            found.append(Hangs(va, what, continuous=point.continuous, estimated=guess, of=(handle,)))
    return found


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
                s.rests_on,
            )
        )
    return Working("Volt drop", "V", tuple(lines), in_proportion=True)


def figures(
    handle: Handle,
    circuit: Circuit,
    own: Mapping[Handle, Point],
    fed: Mapping[Handle, Mapping[Handle, Point]],
    where: Tree,
    lengths: Mapping[Handle, Known],
    gauges: Mapping[Handle, str],
    practice: Practice,
) -> CircuitFigures:
    """All figures of one circuit: its ``own`` points, and those beyond each panel that is ``fed``.

    ``lengths`` are what each cable measures, mm, ``gauges`` what each is of.

    Of a circuit of two poles the leg that carries more is reckoned as if it were alone, its neutral
    full. Nobody draws from every outlet at once. An outlet whose load is not known is reckoned at the
    far end with the design current of the rule ``outlet-design``, a share of the breaker, all the
    way; a light or fan with what is known, and no stretch with more than the breaker lets through.
    """
    beyond = chain.from_iterable(points.items() for points in fed.values())
    points = {**own, **{h: p for h, p in beyond if p.kind != "switch"}}
    drawing = _fuller_leg(points, practice) if circuit.poles == 2 else points
    known = _known_at(points, drawing, fed, practice)
    ways = _Ways(where, lengths, gauges, practice)
    design = practice[rules.OUTLET_DESIGN] * circuit.breaker
    unknown = {home(own, h) for h, p in own.items() if p.kind == "outlet" and p.va is None}
    worst, far, basis = Working("Volt drop", "V", ()), None, ""
    each = [va_of(p, practice) for p in points.values()]
    for box in sorted({e.down for e in where.edges}, key=lambda b: (where.depth[b], b)):
        drawn = design if box in unknown else 0.0
        found = ways.drop_to(box, drawn, known, float(circuit.breaker))
        if far is None or found.total > worst.total + 1e-9:
            worst, far = found, box
            basis = f" with {drawn:g} A drawn there" if drawn else ""
    carried = loaded(hangs_of(drawing, practice), circuit.breaker, practice)
    return CircuitFigures(
        handle=handle,
        load=carried.all,
        known=carried.known,
        rating=circuit.breaker,
        va=sum(va for va, _ in each),
        estimated=sum(guessed for _, guessed in each),
        drop=worst,
        far=far,
        drop_percent=100 * worst.total / practice.volts,
        outlets=sum(p.kind == "outlet" for p in own.values()),
        drop_basis=basis,
    )


def _fuller_leg(points: Mapping[Handle, Point], practice: Practice) -> Mapping[Handle, Point]:
    """The points on that leg of a circuit of two poles which carries more."""
    legs = [{h: p for h, p in points.items() if p.leg == leg} for leg in (1, 2)]
    return max(legs, key=lambda mine: loaded(hangs_of(mine, practice), 0, practice).all.total)


def _known_at(
    points: Mapping[Handle, Point],
    drawing: Mapping[Handle, Point],
    fed: Mapping[Handle, Mapping[Handle, Point]],
    practice: Practice,
) -> dict[Handle, float]:
    """What is known to be drawn at each box, some of which hold several points, and at each panel that is
    fed, A; an outlet whose load is not told counts nothing here.
    """
    amps = {
        h: 0.0 if p.kind == "outlet" and p.va is None else va_of(p, practice)[0] / practice.volts
        for h, p in drawing.items()
    }
    by_box: dict[Handle, list[float]] = defaultdict(list)
    for handle, drawn in amps.items():
        by_box[home(points, handle)].append(drawn)
    known = {box: math.fsum(values) for box, values in by_box.items()}
    return known | {panel: math.fsum(amps.get(h, 0.0) for h in beyond) for panel, beyond in fed.items()}


class _Ways(msgspec.Struct, frozen=True):
    """The cables of a circuit from its source to each of its boxes: ``lengths`` as measured, mm, and
    ``gauges``.
    """

    where: Tree
    lengths: Mapping[Handle, Known]
    gauges: Mapping[Handle, str]
    practice: Practice

    def drop_to(self, box: Handle, drawn: float, known: Mapping[Handle, float], breaker: float) -> Working:
        """The volt drop to a box with ``drawn`` amps taken there and what is ``known`` elsewhere, no stretch
        with more than the breaker lets through.
        """
        above = {e.down: e for e in self.where.edges}
        on_ring = self.where.ring.boxes if self.where.ring else ()
        path: list[Stretch] = []
        here = box
        while here in above and here not in on_ring:
            edge = above[here]
            # Exact: a set has no order, and the sum is not to hang on it.
            beyond = math.fsum(known.get(h, 0.0) for h in self.where.beyond[edge.cable])
            current = max(drawn, min(beyond, breaker))
            piece = self.lengths.get(edge.cable, _NONE)
            path.append(Stretch(piece.value, self.gauges[edge.cable], current, edge.cable, piece.rests_on))
            here = edge.up
        found = drop(path[::-1], self.practice)
        if not self.where.ring or here not in on_ring:
            return found
        extra = max(drawn - known.get(here, 0.0), 0.0)
        around = self._around(self.where.ring, here, extra, known)
        return Working(found.title, found.unit, (*around, *found.lines), in_proportion=True)

    def _around(self, ring: Ring, box: Handle, drawn: float, known: Mapping[Handle, float]) -> list[Line]:
        """The volt drop from the source to a box of a ring, line by line.

        A current drawn at y goes both ways in shares that make the volts agree; at x it drops the
        resistance from the source to the nearer of the two times that from the farther to the
        source the other way, over that of the whole ring.
        """
        ohms = [
            self.lengths.get(c, _NONE).value
            / 1000
            * self.practice.catalogue.gauge(self.gauges[c]).there_and_back
            for c in ring.cables
        ]
        whole = math.fsum(ohms)
        rests_on = tuple(dict.fromkeys(r for c in ring.cables for r in self.lengths.get(c, _NONE).rests_on))
        at = {b: math.fsum(ohms[: n + 1]) for n, b in enumerate(ring.boxes)}
        hung = {b: self._on_spurs(ring, b, known) + (drawn if b == box else 0.0) for b in ring.boxes}
        found = []
        for other, amps in hung.items():
            if amps:
                near, far = sorted((at[box], at[other]))
                words = "drawn there, both ways round" if other == box else f"drawn at {other}"
                # A ring of which no cable finds a way has no length, and drops nothing yet.
                ohm = near * (whole - far) / whole if whole else 0.0
                found.append(Line(amps, ohm, words, (other,), rests_on))
        return found

    def _on_spurs(self, ring: Ring, box: Handle, known: Mapping[Handle, float]) -> float:
        """What is drawn at a box of a ring, and on the spurs that leave it, A."""
        spurs = [e for e in self.where.edges if e.up == box and e.down not in ring.boxes]
        beyond = (known.get(h, 0.0) for e in spurs for h in self.where.beyond[e.cable])
        return known.get(box, 0.0) + math.fsum(beyond)
