"""How much light falls on a plane of a room: from lumens and beam, lamp by lamp, and what the walls give
back.

A lamp aimed down throws I(θ) = I₀ cosᵐθ with m = ln ½ / ln cos(beam/2) and
I₀ = Φ (m + 1) / 2π, so that half the peak is left at half the beam and Φ is the flux over
the lower half space. On a horizontal plane E = I cosθ / r². The interreflected part is
even: Φ ρ / (A (1 − ρ)), ρ being the mean reflectance by area and A all surfaces.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import msgspec
import numpy as np

from fjeld import geometry
from fjeld.derive.house import RoomShape
from fjeld.drawing.handles import Handle
from fjeld.geometry import Point3

#: Reflectance of ceiling, walls and floor where nobody says otherwise.
CEILING, WALLS, FLOOR = 0.7, 0.5, 0.2
#: A fitting nobody described.
LUMENS, BEAM = 800.0, 100.0
#: The cells of a map are at most this wide, mm.
CELL = 150.0

Grid = np.ndarray[tuple[int, ...], np.dtype[np.float64]]


class Lamp(msgspec.Struct, frozen=True):
    """A lamp in the room: where, lumens, beam in degrees; ``estimated`` when nobody gave them.

    ``curve`` is measured light instead of the beam: angles from straight down (degrees, rising)
    and candela at each.
    """

    handle: Handle
    position: Point3
    lumens: float = LUMENS
    beam: float = BEAM
    estimated: bool = False
    curve: tuple[tuple[float, ...], tuple[float, ...]] | None = None


class Figures(msgspec.Struct, frozen=True):
    """Light over a plane, lx: least, mean, and their ratio."""

    least: float
    mean: float

    @property
    def uniformity(self) -> float:
        return self.least / self.mean if self.mean else 0.0


class LightMap(msgspec.Struct, frozen=True):
    """Illuminance on a plane. ``rows`` run south, each value lx at the middle of a cell, None outside the
    room.

    ``step`` is a cell's width and depth: the room is divided evenly, so that a map is as
    symmetrical as its room.
    """

    plane: float
    step: tuple[float, float]
    origin: geometry.Point
    rows: tuple[tuple[float | None, ...], ...]
    figures: Figures
    darkest: geometry.Point
    without: dict[Handle, Figures]
    one_more: Figures


def exponent(beam: float) -> float:
    """The power m of the cosine for a beam in degrees (where half the peak is left)."""
    return math.log(0.5) / math.log(math.cos(math.radians(beam) / 2))


def peak(lumens: float, beam: float) -> float:
    """Intensity straight down, cd."""
    return lumens * (exponent(beam) + 1) / (2 * math.pi)


def direct(lamp: Lamp, x: Grid, y: Grid, plane: float) -> Grid:
    """Illuminance on a horizontal plane ``plane`` mm above the floor, lx; nought at and above the lamp."""
    down = (lamp.position[2] - plane) / 1000
    if down <= 0:
        return np.zeros_like(x)
    square = ((x - lamp.position[0]) / 1000) ** 2 + ((y - lamp.position[1]) / 1000) ** 2 + down**2
    cosine = down / np.sqrt(square)
    if lamp.curve is not None:
        angles, candela = lamp.curve
        measured: Grid = (
            np.interp(np.degrees(np.arccos(cosine)), angles, candela, right=0.0) * cosine / square
        )
        return measured
    found: Grid = peak(lamp.lumens, lamp.beam) * cosine ** (exponent(lamp.beam) + 1) / square
    return found


def interreflected(lumens: float, where: RoomShape) -> float:
    """The even part that the surfaces give back, lx."""
    floor = where.area
    walls = math.fsum(w.length for w in where.walls) / 1000 * where.height / 1000
    surface = 2 * floor + walls
    mean = (CEILING * floor + WALLS * walls + FLOOR * floor) / surface
    return lumens * mean / (surface * (1 - mean))


def light_map(where: RoomShape, lamps: Sequence[Lamp], plane: float, step: float = CELL) -> LightMap | None:
    """The map of a closed room with at least one lamp, in cells of at most ``step``; None otherwise. Lengths
    in mm.
    """
    return _mapped(where, tuple(lamps), plane, step)


def _rows(
    total: Grid, inside: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]
) -> tuple[tuple[float | None, ...], ...]:
    """The lux of each cell, none outside the room."""
    return tuple(
        tuple(round(float(v), 1) if there else None for v, there in zip(row, mask, strict=True))
        for row, mask in zip(total, inside, strict=True)
    )


@lru_cache(maxsize=256)
def _mapped(where: RoomShape, lamps: tuple[Lamp, ...], plane: float, step: float) -> LightMap | None:
    """The map, worked out once for each room and its lamps."""
    if not where.closed or not lamps:
        return None
    xs, ys = ([c[axis] for c in where.corners] for axis in (0, 1))
    (across, wide), (down, deep) = (_cells(min(c), max(c), step) for c in (xs, ys))
    x, y = np.meshgrid(across, down)
    inside = np.array(
        [[geometry.contains(where.corners, (float(a), float(b))) for a in across] for b in down]
    )
    if not inside.any():
        return None
    each = {lamp.handle: direct(lamp, x, y, plane) + interreflected(lamp.lumens, where) for lamp in lamps}
    total: Grid = np.sum(list(each.values()), axis=0)
    figures = _figures(total, inside)
    dark = np.unravel_index(np.argmin(np.where(inside, total, np.inf)), total.shape)
    darkest = float(x[dark]), float(y[dark])
    mean_lumens = math.fsum(lamp.lumens for lamp in lamps) / len(lamps)
    height = max(lamp.position[2] for lamp in lamps)
    another = Lamp(Handle("A0"), (*darkest, height), mean_lumens, lamps[0].beam)
    more = total + direct(another, x, y, plane) + interreflected(mean_lumens, where)
    return LightMap(
        plane=plane,
        step=(wide, deep),
        origin=(min(xs), min(ys)),
        rows=_rows(total, inside),
        figures=figures,
        darkest=darkest,
        without={h: _figures(total - part, inside) for h, part in each.items()},
        one_more=_figures(more, inside),
    )


def _cells(low: float, high: float, step: float) -> tuple[Grid, float]:
    """The middles of even cells of at most ``step`` between two ends, and their size."""
    count = max(1, math.ceil((high - low) / step - 1e-9))
    size = (high - low) / count
    middles: Grid = low + size * (np.arange(count, dtype=np.float64) + 0.5)
    return middles, size


def _figures(values: Grid, inside: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]) -> Figures:
    seen = values[inside]
    return Figures(max(0.0, float(seen.min())), max(0.0, float(seen.mean())))
