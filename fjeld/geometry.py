"""Plane figures: polygons walked side by side, points inside them, lines cut by them.

Nothing here knows of walls or cables. Coordinates are millimetres, x to the east and
y to the south, so that a figure looks on a screen as it lies on the floor.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from shapely import Polygon, maximum_inscribed_circle

Point = tuple[float, float]
Point3 = tuple[float, float, float]

BEARINGS = {"N": 0.0, "E": 90.0, "S": 180.0, "W": 270.0}


def step(bearing: float, length: float) -> Point:
    """The displacement of ``length`` mm along a compass ``bearing`` (degrees, clockwise from north)."""
    quarter, rest = divmod(bearing % 360, 90)
    if abs(rest) < 1e-9:
        # Exact on the four main directions: a square room must stay square.
        return ((0.0, -length), (length, 0.0), (0.0, length), (-length, 0.0))[int(quarter) % 4]
    angle = math.radians(bearing)
    return length * math.sin(angle), -length * math.cos(angle)


def walk(sides: Sequence[tuple[float, float]], start: Point = (0.0, 0.0)) -> list[Point]:
    """The corners reached by walking ``(bearing, length)`` sides: one more than sides."""
    points = [start]
    for bearing, length in sides:
        dx, dy = step(bearing, length)
        points.append((points[-1][0] + dx, points[-1][1] + dy))
    return points


def closed_corners(sides: Sequence[tuple[float, float]]) -> list[Point]:
    """The corners of the figure walked as ``(bearing, length)`` sides, its misclosure spread.

    On a right-angled figure the error along each axis is spread over the sides along
    that axis by their length, so corners stay square. A figure with a skew side takes
    the compass (Bowditch) rule: each side takes a share of the error by its length.
    """
    vectors = [step(bearing, length) for bearing, length in sides]
    error = [math.fsum(v[axis] for v in vectors) for axis in (0, 1)]
    square = all(abs(bearing % 90) < 1e-9 for bearing, _ in sides)
    perimeter = math.fsum(length for _, length in sides)
    along = [math.fsum(abs(v[axis]) for v in vectors) if square else perimeter for axis in (0, 1)]
    corners: list[Point] = [(0.0, 0.0)]
    for vector, (_, length) in zip(vectors[:-1], sides[:-1], strict=True):
        moved = [
            corners[-1][axis]
            + vector[axis]
            - (error[axis] * (abs(vector[axis]) if square else length) / along[axis] if along[axis] else 0.0)
            for axis in (0, 1)
        ]
        corners.append((moved[0], moved[1]))
    return corners


def distance(a: Sequence[float], b: Sequence[float]) -> float:
    """Straight distance in the plane or in space."""
    return math.dist(a, b)


def area(polygon: Sequence[Point]) -> float:
    """Signed area, mm²: positive when walked clockwise as seen on the screen."""
    return 0.5 * math.fsum(
        a[0] * b[1] - b[0] * a[1] for a, b in zip(polygon, [*polygon[1:], polygon[0]], strict=True)
    )


def contains(polygon: Sequence[Point], point: Point, tolerance: float = 1e-6) -> bool:
    """Whether ``point`` lies in the polygon or within ``tolerance`` of its edge (even–odd rule)."""
    x, y = point
    inside = False
    for a, b in zip(polygon, [*polygon[1:], polygon[0]], strict=True):
        if to_segment(point, a, b) <= tolerance:
            return True
        if (a[1] > y) != (b[1] > y) and x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0]:
            inside = not inside
    return inside


def to_segment(p: Point, a: Point, b: Point) -> float:
    """Distance from ``p`` to the segment ``a b``; a segment of no length is a point."""
    t = project(p, a, b)
    return math.dist(p, (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])))


def project(p: Point, a: Point, b: Point) -> float:
    """The share of the way from ``a`` to ``b`` nearest to ``p``, clamped to 0…1."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    square = dx * dx + dy * dy
    if square == 0:
        return 0.0
    return min(1.0, max(0.0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / square))


def segments_cross(a: Point, b: Point, c: Point, d: Point) -> bool:
    """Whether the open segments ``a b`` and ``c d`` cross or overlap."""

    def side(p: Point, q: Point, r: Point) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    s1, s2, s3, s4 = side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
    if max(abs(s1), abs(s2), abs(s3), abs(s4)) < 1e-6:
        return _overlap(a, b, c, d)
    return s1 * s2 < -1e-9 and s3 * s4 < -1e-9


def _overlap(a: Point, b: Point, c: Point, d: Point) -> bool:
    axis = 0 if abs(b[0] - a[0]) >= abs(b[1] - a[1]) else 1
    low, high = sorted((a[axis], b[axis]))
    other = sorted((c[axis], d[axis]))
    return min(high, other[1]) - max(low, other[0]) > 1e-6


def crossing_sides(polygon: Sequence[Point]) -> tuple[int, int] | None:
    """The first two sides of the polygon that cross each other, or touch where they should not."""
    n = len(polygon)
    for i in range(n):
        for j in range(i + 1, n):
            a, b = polygon[i], polygon[(i + 1) % n]
            c, d = polygon[j], polygon[(j + 1) % n]
            if segments_cross(a, b, c, d):
                return i, j
            apart = j - i not in (1, n - 1)
            if apart and min(to_segment(a, c, d), to_segment(c, a, b)) < 1e-6:
                return i, j
    return None


def middle(polygon: Sequence[Point]) -> Point:
    """The centroid, or where that lies outside (an L, a U) the point farthest from every side.

    A figure with fewer than three corners gives the mean of its corners.
    """
    if len(polygon) < 3 or abs(area(polygon)) < 1e-6:
        return _mean(polygon)
    figure = Polygon(polygon)
    centroid = (float(figure.centroid.x), float(figure.centroid.y))
    if contains(polygon, centroid, 0.0):
        return centroid
    inner = maximum_inscribed_circle(figure).coords[0]
    return float(inner[0]), float(inner[1])


def _mean(points: Sequence[Point]) -> Point:
    n = max(len(points), 1)
    return math.fsum(p[0] for p in points) / n, math.fsum(p[1] for p in points) / n


def spans(polygon: Sequence[Point], axis: int, at: float) -> list[tuple[float, float]]:
    """Where the line ``coordinate[axis] = at`` lies inside the polygon, as intervals of the other coordinate.

    A line that runs along a side counts as just beyond it (half-open corner rule).
    """
    cuts: list[float] = []
    for a, b in zip(polygon, [*polygon[1:], polygon[0]], strict=True):
        if (a[axis] > at) != (b[axis] > at):
            t = (at - a[axis]) / (b[axis] - a[axis])
            cuts.append(a[1 - axis] + t * (b[1 - axis] - a[1 - axis]))
    cuts.sort()
    return list(zip(cuts[0::2], cuts[1::2], strict=True))


def inset(polygon: Sequence[Point], by: float) -> list[Point]:
    """Each side of a clockwise polygon moved inward by ``by`` and joined again at the corners.

    Collinear neighbours keep their shared corner, moved straight in. The result may
    cross itself when ``by`` exceeds half the narrowest part; the caller asks.
    """
    n = len(polygon)
    result = []
    for i in range(n):
        before, here, after = polygon[i - 1], polygon[i], polygon[(i + 1) % n]
        u = _unit(before, here)
        v = _unit(here, after)
        normal_u, normal_v = (-u[1], u[0]), (-v[1], v[0])
        bisect = 1 + normal_u[0] * normal_v[0] + normal_u[1] * normal_v[1]
        k = by / bisect if bisect > 1e-3 else 0.0
        result.append((here[0] + k * (normal_u[0] + normal_v[0]), here[1] + k * (normal_u[1] + normal_v[1])))
    return result


def _unit(a: Point, b: Point) -> Point:
    length = math.dist(a, b) or 1.0
    return (b[0] - a[0]) / length, (b[1] - a[1]) / length


def along(a: Point, b: Point, offset: float) -> Point:
    """The point ``offset`` mm from ``a`` towards ``b``."""
    u = _unit(a, b)
    return a[0] + u[0] * offset, a[1] + u[1] * offset


def inward(a: Point, b: Point) -> Point:
    """The unit normal that points into a clockwise polygon from its side ``a b``."""
    u = _unit(a, b)
    return -u[1], u[0]
