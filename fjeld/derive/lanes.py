"""Where cable can go in a room: a graph of lanes through its framing.

Up and down along studs (stapled), along walls at drill height (bored, under windows and over doors), through
the top plate, and over the ceiling along joists (stapled) or across them (bored). Where a surface is finished
already, cable is fished along a bay, and each member that it must cross costs an opening; over a finished
ceiling with an open attic above it lies as in open framing. Trusses are never bored: cable goes through their
webs. Nodes stand at junctions only; the members bored are counted along an edge. A box is a leaf: no cable
passes through one on its way elsewhere. A portal is where a lane goes on into the next room; no lane passes
through a duct, pipe, flue or beam.
"""

from __future__ import annotations

import itertools
import math
from typing import Literal

import msgspec

from fjeld import geometry
from fjeld.derive.bodies import Block
from fjeld.derive.house import RoomShape, Wall, crossings
from fjeld.derive.places import Placed
from fjeld.drawing.building import Build, Opening, Room
from fjeld.geometry import Point3
from fjeld.practice import Practice, rules

Medium = Literal[
    "box", "stud", "bored wall", "plate", "joist", "bored ceiling", "through", "fished", "opened"
]

#: What a crossing weighs, in bored holes: a plate is filled again, a finished surface opened and mended.
PLATE_HOLES = 2
OPENED_HOLES = 10
#: Clear of an opening's rough frame: jack and king stud, and a finger.
FRAME = 120.0
#: The ceiling lanes keep this far inside the walls.
MARGIN = 75.0
#: Cables stay this far off whatever is in the way.
CLEAR = 25.0
#: What is in the way counts for a wall that it comes this near, and a sill lower than that leaves no way
#: below it.
NEAR_WALL = 300.0
#: Below a sill a cable goes this far under it; above a head there must be room for a header.
UNDER_SILL = 150.0
OVER_HEAD = 120.0
#: Under a low ceiling cable runs no higher than this share of it.
LOW_CEILING = 0.6
_CELL = 0.1


class Portal(msgspec.Struct, frozen=True):
    """Where lanes leave a room: in a ``wall`` at drill height, over it (``over``), or up from ``spot`` (wall
    0).
    """

    key: str
    wall: int
    along: float
    over: bool = False
    spot: geometry.Point = (0.0, 0.0)


class LaneEdge(msgspec.Struct, frozen=True):
    """A lane between two nodes; ``bores`` are distances (mm) from ``a`` of the members crossed.

    ``depth`` is theirs and ``member`` what they are; under ``opened`` each is an opening in a finished
    surface.
    """

    a: int
    b: int
    length: float
    medium: Medium
    bores: tuple[float, ...] = ()
    depth: float = 0.0
    member: str = ""

    @property
    def weight(self) -> int:
        """Its crossings, in bored holes."""
        return len(self.bores) * {"plate": PLATE_HOLES, "opened": OPENED_HOLES}.get(self.medium, 1)

    def cost(self, hole: float) -> float:
        """Length and crossings in mm, a bored hole being worth ``hole`` mm of cable."""
        return self.length + self.weight * hole


class Lanes(msgspec.Struct, frozen=True):
    """The lanes of a room: node positions, edges, the node of each box, and what a ``hole`` is worth in mm of
    cable.
    """

    nodes: tuple[Point3, ...]
    edges: tuple[LaneEdge, ...]
    boxes: dict[str, int]
    hole: float


class _Graph:
    """Collects nodes, merging those that coincide, and keeps the cheapest edge between two."""

    def __init__(self, blocks: tuple[Block, ...], hole: float) -> None:
        self.blocks = blocks
        self.hole = hole
        self.nodes: list[Point3] = []
        self.edges: dict[tuple[int, int], LaneEdge] = {}
        self._cells: dict[tuple[int, int, int], int] = {}

    def node(self, point: Point3) -> int:
        i, j, k = (round(c / _CELL) for c in point)
        for di in (0, -1, 1):
            for dj in (0, -1, 1):
                found = self._cells.get((i + di, j + dj, k))
                if found is not None:
                    return found
        self._cells[i, j, k] = len(self.nodes)
        self.nodes.append(point)
        return len(self.nodes) - 1

    def leaf(self, point: Point3) -> int:
        self.nodes.append(point)
        return len(self.nodes) - 1

    def join(
        self,
        a: int,
        b: int,
        medium: Medium,
        bores: tuple[float, ...] = (),
        depth: float = 0.0,
        member: str = "",
    ) -> None:
        if a == b or any(block.met(self.nodes[a], self.nodes[b], CLEAR) for block in self.blocks):
            return
        edge = LaneEdge(
            a=a,
            b=b,
            length=geometry.distance(self.nodes[a], self.nodes[b]),
            medium=medium,
            bores=bores,
            depth=depth,
            member=member,
        )
        key = (min(a, b), max(a, b))
        if key not in self.edges or edge.cost(self.hole) < self.edges[key].cost(self.hole):
            self.edges[key] = edge


def lanes(
    where: RoomShape,
    room: Room,
    openings: tuple[Opening, ...],
    placed: tuple[Placed, ...],
    drill: float,
    hole: float,
    portals: tuple[Portal, ...] = (),
    blocks: tuple[Block, ...] = (),
) -> Lanes:
    """The lanes of one closed room for the boxes ``placed`` in it; none if the room is not closed.

    ``hole`` is what a bored one is worth in mm of cable, ``blocks`` are what is in the way, ``portals`` the
    ways out; both become nodes by key.
    """
    if not where.closed:
        return Lanes((), (), {}, hole)
    graph = _Graph(blocks, hole)
    usable = [p for p in placed if p.inside]
    boxes: dict[str, int] = {}
    drill += where.level
    for wall in where.walls:
        _wall_lanes(
            graph,
            wall,
            where=where,
            holes=[_frame(o, where, drill) for o in openings if o.wall == wall.number],
            placed=[p for p in usable if p.wall == wall.number],
            through=[p for p in portals if p.wall == wall.number and not p.over],
            drill=drill,
            boxes=boxes,
            side=_side_of(room.build(wall.number)),
        )
    # An open attic gives hands to a ceiling that is finished from below.
    overhead = _Side(room.ceiling_closed and room.above != "open", _JOISTS[room.joists.kind])
    _ceiling_lanes(
        graph,
        where,
        placed=usable,
        portals=tuple(p for p in portals if p.over),
        over=where.level + where.height + room.joists.depth.mm / 2,
        boxes=boxes,
        side=overhead,
    )
    return Lanes(tuple(graph.nodes), tuple(graph.edges.values()), boxes, hole)


def _side_of(build: Build) -> _Side:
    """How a wall is closed, and what its studs are when bored."""
    return _Side(build.closed, "bearing stud" if build.bearing or build.exterior else "stud")


class _Side(msgspec.Struct, frozen=True):
    """A wall or ceiling as cable meets it: finished already or open, and what its members are."""

    closed: bool
    member: str


_JOISTS = {"sawn": "joist", "engineered": "engineered joist", "truss": "truss"}


def drill_height(where: RoomShape, practice: Practice) -> float:
    """At what height above the floor cable runs along a room's walls, mm: as ruled, or so far below the
    ceiling.
    """
    lowest = (
        min([where.height, *(where.ceiling_at(w.start) for w in where.walls)])
        if where.walls
        else where.height
    )
    if rules.DRILL_BELOW in practice:
        return max(lowest - practice[rules.DRILL_BELOW], lowest * 0.5)
    return min(practice[rules.DRILL_HEIGHT], lowest * LOW_CEILING)


def _wall_lanes(
    graph: _Graph,
    wall: Wall,
    where: RoomShape,
    holes: list[_Framed],
    placed: list[Placed],
    through: list[Portal],
    drill: float,
    boxes: dict[str, int],
    side: _Side,
) -> None:
    stations = {0.0, wall.length, *(p.along for p in placed), *(p.along for p in through)}
    edges = itertools.chain(_around_blocks(graph, wall), *((left, right) for left, right, *_ in holes))
    ordered = sorted(stations.union(s for s in edges if 0 <= s <= wall.length))
    in_the_way = [hole for hole in holes if hole[2] < drill < hole[3]]
    for start, end in itertools.pairwise(ordered):
        if not any(left < (start + end) / 2 < right for left, right, *_ in in_the_way):
            _bored(graph, wall, start=start, end=end, z=drill, side=side)
    for left, right, _, _, way in in_the_way:
        if way is not None and left >= 0 and right <= wall.length:
            between = [p.along for p in placed if left < p.along < right]
            _around(graph, wall, stations=[left, *sorted(between), right], drill=drill, way=way, side=side)
    for portal in through:
        boxes[portal.key] = graph.node((*wall.at(portal.along), drill))
    top = where.level + where.height
    for p in placed:
        _upright(graph, wall, p=p, drill=drill, top=top, holes=holes, boxes=boxes, side=side)


def _around_blocks(graph: _Graph, wall: Wall) -> list[float]:
    """Stations beside what is in the way of a wall, so that lanes end there and not at the next box."""
    found = []
    for block in graph.blocks:
        spots = [
            geometry.distance(wall.start, wall.end) * geometry.project(c, wall.start, wall.end)
            for c in block.corners
            if geometry.to_segment(c, wall.start, wall.end) < NEAR_WALL
        ]
        if spots:
            found += [min(spots) - 2 * CLEAR, max(spots) + 2 * CLEAR]
    return found


#: An opening with its framing: from, to, bottom, top, and the height of the way around it, if any.
_Framed = tuple[float, float, float, float, float | None]


def _frame(opening: Opening, where: RoomShape, drill: float) -> _Framed:
    level, height = where.level, where.height
    sill = level + (opening.sill.mm if opening.kind == "window" else 0.0)
    head = level + opening.head.mm
    under = sill - UNDER_SILL if sill - level > NEAR_WALL else None
    above = (head + level + height) / 2 if level + height - head > OVER_HEAD else None
    way = min((w for w in (under, above) if w is not None), key=lambda w: abs(w - drill), default=None)
    return opening.at.mm - FRAME, opening.at.mm + opening.width.mm + FRAME, sill, head, way


def _bored(graph: _Graph, wall: Wall, start: float, end: float, z: float, side: _Side) -> None:
    bores = tuple(abs(c - start) for c in crossings(wall.studs, start, end))
    medium: Medium = "bored wall" if not side.closed else "opened" if bores else "fished"
    a, b = graph.node((*wall.at(start), z)), graph.node((*wall.at(end), z))
    graph.join(a, b, medium, bores=bores, depth=wall.depth, member=side.member)


def _around(graph: _Graph, wall: Wall, stations: list[float], drill: float, way: float, side: _Side) -> None:
    """Under a window or over a door: down or up beside its frame, and along, past the boxes there."""
    for along in (stations[0], stations[-1]):
        a, b = graph.node((*wall.at(along), drill)), graph.node((*wall.at(along), way))
        graph.join(a, b, "fished" if side.closed else "stud")
    for start, end in itertools.pairwise(stations):
        _bored(graph, wall, start=start, end=end, z=way, side=side)


def _upright(
    graph: _Graph,
    wall: Wall,
    p: Placed,
    drill: float,
    top: float,
    holes: list[_Framed],
    boxes: dict[str, int],
    side: _Side,
) -> None:
    z = p.position[2]
    upright: Medium = "fished" if side.closed else "stud"
    here = graph.node((*wall.at(p.along), z))
    boxes[p.handle] = graph.leaf(p.position)
    graph.join(boxes[p.handle], here, "box")

    def clear(low: float, high: float) -> bool:
        return not any(
            left + FRAME < p.along < right - FRAME and max(low, sill) < min(high, head)
            for left, right, sill, head, _ in holes
        )

    if clear(min(z, drill), max(z, drill)):
        graph.join(here, graph.node((*wall.at(p.along), drill)), upright)
    for left, right, sill, head, way in holes:
        # A box under a window reaches the lane that goes under it.
        if (
            way is not None
            and left < p.along < right
            and sill < drill < head
            and clear(min(z, way), max(z, way))
        ):
            graph.join(here, graph.node((*wall.at(p.along), way)), upright)
    for start in {z, drill}:
        if clear(min(start, top), max(start, top)) and start < top:
            graph.join(graph.node((*wall.at(p.along), start)), graph.node((*wall.at(p.along), top)), upright)


def _ceiling_lanes(
    graph: _Graph,
    where: RoomShape,
    placed: list[Placed],
    portals: tuple[Portal, ...],
    over: float,
    boxes: dict[str, int],
    side: _Side,
) -> None:
    clockwise = where.corners if geometry.area(where.corners) > 0 else where.corners[::-1]
    ring = geometry.inset(clockwise, MARGIN)
    if geometry.crossing_sides(ring) or geometry.area(ring) <= 0:
        return
    met = _Overhead(graph, where, ring=ring, over=over, boxes=boxes)
    for p in placed:
        met.box(p)
    for portal in portals:
        met.portal(portal)
    for block in graph.blocks:
        met.block(block)
    kept = _distinct(met.lines)
    for leaf, at in met.hanging:
        # Of lines that all but coincide one was kept: what hangs from another hangs from that.
        x, y = (min((c for a, c in kept if a == axis), key=lambda c: abs(c - at[axis])) for axis in (0, 1))
        graph.join(leaf, graph.node((x, y, over)), "box")
    _grid(graph, where, ring=ring, lines=kept, entries=met.entries, over=over, side=side)


class _Overhead:
    """What the lanes over a ceiling are laid by: ``lines`` by their axis and where they cross it, mm,
    ``entries`` where cables come up at the ring, and the leaves that are ``hanging`` from a spot inside it.
    """

    def __init__(
        self,
        graph: _Graph,
        where: RoomShape,
        *,
        ring: list[geometry.Point],
        over: float,
        boxes: dict[str, int],
    ) -> None:
        self.graph, self.where, self.ring, self.over, self.boxes = graph, where, ring, over, boxes
        self.lines: list[tuple[int, float]] = []
        self.entries: list[geometry.Point] = []
        self.hanging: list[tuple[int, geometry.Point]] = []

    def box(self, p: Placed) -> None:
        """A box of the room: it is come to from the wall it is on, or hangs from the ceiling."""
        if not p.wall:
            x, y, z = p.position
            self.boxes[p.handle] = self.graph.leaf((x, y, z))
            self.lines += [(0, x), (1, y)]
            if geometry.contains(self.ring, (x, y)):
                self.hanging.append((self.boxes[p.handle], (x, y)))
            return
        where, wall = self.where, self.where.walls[p.wall - 1]
        top = where.level + where.height
        entry = _entry(self.graph, wall, along=p.along, top=top, over=self.over, ring=self.ring)
        self.entries.append(entry)
        # A line along the wall's normal keeps one coordinate; a skew wall gives both.
        axes = [axis for axis in (0, 1) if abs(wall.normal[axis]) < 1 - 1e-6]
        self.lines += [(axis, entry[axis]) for axis in axes]

    def portal(self, portal: Portal) -> None:
        """Where cables go on into another room or storey."""
        at = self.where.walls[portal.wall - 1].at(portal.along) if portal.wall else portal.spot
        inside = not portal.wall and geometry.contains(self.ring, at)
        spot = at if inside else _nearest(at, self.ring)
        self.lines += [(0, spot[0]), (1, spot[1])]
        if inside:
            self.boxes[portal.key] = self.graph.leaf((*spot, self.over))
            self.hanging.append((self.boxes[portal.key], spot))
        else:
            self.entries.append(spot)
            self.boxes[portal.key] = self.graph.node((*spot, self.over))

    def block(self, block: Block) -> None:
        """What stands up through the ceiling: a line clear of it on each side."""
        if block.high > self.where.level + self.where.height:
            for axis in (0, 1):
                at = [corner[axis] for corner in block.corners]
                self.lines += [(axis, min(at) - 2 * CLEAR), (axis, max(at) + 2 * CLEAR)]


def _nearest(at: geometry.Point, ring: list[geometry.Point]) -> geometry.Point:
    """The point of the ceiling ring nearest to a place in plan."""
    sides = list(zip(ring, [*ring[1:], ring[0]], strict=True))
    a, b = min(sides, key=lambda s: geometry.to_segment(at, *s))
    t = geometry.project(at, a, b)
    return a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])


def _entry(
    graph: _Graph, wall: Wall, along: float, top: float, over: float, ring: list[geometry.Point]
) -> geometry.Point:
    """Join the top of a box's stud through the plate to the nearest point of the ceiling ring."""
    at = wall.at(along)
    entry = _nearest(at, ring)
    plate, inner = graph.node((*at, top)), graph.node((*entry, over))
    graph.join(plate, inner, "plate", (0.0,), wall.depth)
    return entry


def _distinct(lines: list[tuple[int, float]]) -> list[tuple[int, float]]:
    kept: list[tuple[int, float]] = []
    for axis, at in sorted(lines):
        if not kept or kept[-1][0] != axis or at - kept[-1][1] > 1.0:
            kept.append((axis, at))
    return kept


def _grid(
    graph: _Graph,
    where: RoomShape,
    ring: list[geometry.Point],
    lines: list[tuple[int, float]],
    entries: list[geometry.Point],
    over: float,
    side: _Side,
) -> None:
    across: dict[int, list[float]] = {axis: [at for a, at in lines if a == axis] for axis in (0, 1)}
    on_ring: list[geometry.Point] = [*ring, *entries]
    for axis, at in lines:
        for low, high in geometry.spans(ring, axis, at):
            stops = [low, *(c for c in across[1 - axis] if low < c < high), high]
            ends = [(at, stop) if axis == 0 else (stop, at) for stop in stops]
            on_ring += [ends[0], ends[-1]]
            for p, q in itertools.pairwise(ends):
                _over(graph, where, p=p, q=q, over=over, side=side)
    for a, b in zip(ring, [*ring[1:], ring[0]], strict=True):
        here = sorted(
            {(round(geometry.distance(a, p), 1), p) for p in on_ring if geometry.to_segment(p, a, b) < 0.5}
        )
        for (_, p), (_, q) in itertools.pairwise(here):
            _over(graph, where, p=p, q=q, over=over, side=side)


def _over(
    graph: _Graph, where: RoomShape, p: geometry.Point, q: geometry.Point, over: float, side: _Side
) -> None:
    axis = where.joist_axis
    reach = abs(q[axis] - p[axis])
    length = math.dist(p, q)
    met = crossings(where.joists, p[axis], q[axis])
    bores = tuple(abs(m - p[axis]) / reach * length for m in met) if reach > 1e-6 else ()
    if side.closed:
        medium: Medium = "opened" if bores else "fished"
    else:
        # Through the webs of a truss: its chords and webs are never bored.
        bores = () if side.member == "truss" else bores
        medium = "bored ceiling" if bores else "joist"
    a, b = graph.node((*p, over)), graph.node((*q, over))
    graph.join(a, b, medium, bores=bores, depth=where.joist_depth, member=side.member)
