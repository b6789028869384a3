"""Where the things of a room are in space: counters and baths, ducts and beams.

Each is a block standing square to its wall, or to the compass when it stands free. A
block answers whether a straight line passes through it and how far a place is from it.
"""

from __future__ import annotations

import math

import msgspec

from fjeld.derive.house import RoomShape
from fjeld.drawing.building import IN_THE_WAY, Body
from fjeld.drawing.handles import Handle
from fjeld.geometry import Point, Point3


class Block(msgspec.Struct, frozen=True):
    """A body in the house: one corner of its plan, two unit axes with their lengths, and from where to where
    in height.

    ``low`` and ``high`` are heights in the house, mm; ``start`` and ``end`` where it stands along its wall.
    """

    handle: Handle
    kind: str
    room: Handle
    wall: int
    corner: Point
    u: Point
    v: Point
    width: float
    depth: float
    low: float
    high: float
    start: float = 0.0
    end: float = 0.0

    @property
    def in_the_way(self) -> bool:
        """Whether no box and no cable may be where it is."""
        return self.kind in IN_THE_WAY

    @property
    def corners(self) -> tuple[Point, Point, Point, Point]:
        """Its plan, around."""
        (x, y), (ux, uy), (vx, vy) = self.corner, self.u, self.v
        a, b = self.width, self.depth
        return (
            (x, y),
            (x + ux * a, y + uy * a),
            (x + ux * a + vx * b, y + uy * a + vy * b),
            (x + vx * b, y + vy * b),
        )

    @property
    def middle(self) -> Point:
        """The middle of its plan."""
        xs, ys = [c[0] for c in self.corners], [c[1] for c in self.corners]
        return sum(xs) / 4, sum(ys) / 4

    def local(self, spot: Point) -> Point:
        """A place in plan, in the block's own axes from its corner."""
        dx, dy = spot[0] - self.corner[0], spot[1] - self.corner[1]
        return dx * self.u[0] + dy * self.u[1], dx * self.v[0] + dy * self.v[1]

    def off(self, spot: Point) -> float:
        """How far a place in plan lies from the block, mm; nought over it."""
        a, b = self.local(spot)
        return math.hypot(max(-a, a - self.width, 0.0), max(-b, b - self.depth, 0.0))

    def met(self, start: Point3, end: Point3, clear: float = 0.0) -> bool:
        """Whether the straight way passes through the block grown by ``clear`` on all sides (slab method)."""
        a, b = (*self.local(start[:2]), start[2]), (*self.local(end[:2]), end[2])
        low = (-clear, -clear, self.low - clear)
        high = (self.width + clear, self.depth + clear, self.high + clear)
        enter, leave = 0.0, 1.0
        for p, q, least, most in zip(a, b, low, high, strict=True):
            if abs(q - p) < 1e-9:
                if not least + 1e-6 < p < most - 1e-6:
                    return False
                continue
            first, second = sorted(((least - p) / (q - p), (most - p) / (q - p)))
            enter, leave = max(enter, first), min(leave, second)
        return leave - enter > 1e-9


def block(handle: Handle, body: Body, where: RoomShape) -> Block | None:
    """The body in space, or None while its wall is missing."""
    low, high = where.level + body.low.mm, where.level + body.high.mm
    if not body.wall:
        x, y = (body.x.mm if body.x else 0.0), (body.y.mm if body.y else 0.0)
        corner = (where.origin[0] + x, where.origin[1] + y)
        return Block(
            handle=handle,
            kind=body.kind,
            room=body.room,
            wall=0,
            corner=corner,
            u=(1.0, 0.0),
            v=(0.0, 1.0),
            width=body.width.mm,
            depth=body.depth.mm,
            low=low,
            high=high,
        )
    if body.wall > len(where.walls) or where.walls[body.wall - 1].length <= 0:
        return None
    wall = where.walls[body.wall - 1]
    at = body.at.mm if body.at else 0.0
    x, y = wall.at(at)
    corner = (x - wall.normal[0] * body.sunk.mm, y - wall.normal[1] * body.sunk.mm)
    return Block(
        handle=handle,
        kind=body.kind,
        room=body.room,
        wall=body.wall,
        corner=corner,
        u=wall.run,
        v=wall.normal,
        width=body.width.mm,
        depth=body.depth.mm,
        low=low,
        high=high,
        start=at,
        end=at + body.width.mm,
    )
