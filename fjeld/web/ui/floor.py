"""The floor: one room in plan, drawn the same under every waypoint.

Walls, openings, framing and boxes are drawn here; what a waypoint adds goes into layers
above. Everything is in pixels of the sheet, so that line weights and type keep their
size whatever the room measures.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

import msgspec

from fjeld.derive.house import RoomShape, Wall
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.routes import Leg, Route
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Opening, Room
from fjeld.formats.sheet import Shape, circle, group, line, path, shape, text
from fjeld.geometry import spans, to_segment
from fjeld.quantities import format_length

Px = tuple[float, float]

#: How far from the wall's face a box's symbol stands, px.
STAND_OFF = 17.0
MARGIN = 56.0


class Size(msgspec.Struct, frozen=True):
    """The sheet in pixels."""

    width: int
    height: int


DESK = Size(864, 430)
PHONE = Size(390, 372)
SMALL = Size(280, 170)


class Projection(msgspec.Struct, frozen=True):
    """Millimetres of the house to pixels of the sheet."""

    scale: float
    left: float
    top: float
    band: float

    def __call__(self, point: Iterable[float]) -> Px:
        x, y, *_ = point
        return self.left + x * self.scale, self.top + y * self.scale


def projection(where: RoomShape | None, size: Size, margin: float = MARGIN) -> Projection:
    """Fit a room into the sheet; a room without walls gets a sheet 5 m wide."""
    corners = where.corners if where and len(where.corners) > 1 else ((0.0, 0.0), (5000.0, 3000.0))
    xs, ys = [c[0] for c in corners], [c[1] for c in corners]
    width, height = max(max(xs) - min(xs), 600.0), max(max(ys) - min(ys), 600.0)
    scale = min((size.width - 2 * margin) / width, (size.height - 2 * margin) / height)
    left = (size.width - width * scale) / 2 - min(xs) * scale
    top = (size.height - height * scale) / 2 - min(ys) * scale
    return Projection(scale, left, top, max(8.0, min(14.0, 120 * scale)))


class Floor:
    """Draws one room of a plan."""

    def __init__(self, plan: Plan, room: Handle | None, size: Size, margin: float = MARGIN) -> None:
        self.plan = plan
        self.room = room
        self.where = plan.rooms[room] if room else None
        self.size = size
        self.to_px = projection(self.where, size, margin)
        self.unit = plan.drawing.house.unit

    # --- the house ------------------------------------------------------------------

    def walls(self) -> Shape:
        """Walls as bands outside their inner face, with studs."""
        if self.where is None or not self.where.walls:
            return group("f-walls")
        faces = [self.to_px(c) for c in self.where.corners]
        parts: list[Shape | None] = []
        if self.where.closed:
            outer = [self._outward(i) for i in range(len(faces))]
            ring = [*outer, outer[0]]
            hole = [*faces, faces[0]]
            d = " ".join("M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in loop) + " Z" for loop in (ring, hole))
            parts += [
                shape("path", d=d, cls="wall-band", fill_rule="evenodd"),
                path(faces, "room-floor", close=True),
            ]
            parts += [stud for wall in self.where.walls for stud in self._studs(wall)]
            parts += [path(outer, "wall-edge", close=True), path(faces, "wall-face", close=True)]
        else:
            parts += [line(*self.to_px(w.start), *self.to_px(w.end), "wall-face") for w in self.where.walls]
        return group("f-walls", *parts)

    def _outward(self, i: int) -> Px:
        """A corner of the outer face."""
        assert self.where is not None
        n = len(self.where.walls)
        a, b = self.where.walls[i - 1].normal, self.where.walls[i % n].normal
        bisect = max(1 + a[0] * b[0] + a[1] * b[1], 0.2)
        x, y = self.to_px(self.where.corners[i])
        k = self.to_px.band / bisect
        return x - k * (a[0] + b[0]), y - k * (a[1] + b[1])

    def _studs(self, wall: Wall) -> list[Shape]:
        half = 19.05
        found = []
        for stud in wall.studs:
            corners = [wall.at(stud - half), wall.at(stud + half)]
            (x1, y1), (x2, y2) = (self.to_px(c) for c in corners)
            nx, ny = -wall.normal[0] * self.to_px.band, -wall.normal[1] * self.to_px.band
            found.append(path([(x1, y1), (x2, y2), (x2 + nx, y2 + ny), (x1 + nx, y1 + ny)], "stud", close=True))
        return found

    def openings(self) -> Shape:
        """Doors with their swing, windows with their glass."""
        parts: list[Shape] = []
        for handle, opening in self.plan.drawing.of(Opening).items():
            if self.where and opening.room == self.room and opening.wall <= len(self.where.walls):
                parts.append(self._opening(handle, opening, self.where.walls[opening.wall - 1]))
        return group("f-openings", *parts)

    def _opening(self, handle: Handle, opening: Opening, wall: Wall) -> Shape:
        a, b = self.to_px(wall.at(opening.at.mm)), self.to_px(wall.at(opening.at.mm + opening.width.mm))
        nx, ny = wall.normal
        out = self.to_px.band
        gap = path(
            [a, b, (b[0] - nx * out, b[1] - ny * out), (a[0] - nx * out, a[1] - ny * out)],
            "opening-gap",
            close=True,
        )
        parts: list[Shape | None] = [gap]
        if opening.kind == "window":
            for share in (0.35, 0.65):
                d = out * share
                parts.append(line(a[0] - nx * d, a[1] - ny * d, b[0] - nx * d, b[1] - ny * d, "glass"))
        elif opening.kind == "door":
            parts += self._swing(a, b, wall, opening)
        for x, y in (a, b):
            parts.append(line(x, y, x - nx * out, y - ny * out, "jamb"))
        middle = ((a[0] + b[0]) / 2 + nx * 16, (a[1] + b[1]) / 2 + ny * 13 + 4)
        parts.append(text(*middle, handle, "label muted"))
        width = format_length(opening.width.mm, self.unit)
        return _selectable(handle, f"{opening.kind} {handle}, {width} wide", *parts)

    def _swing(self, a: Px, b: Px, wall: Wall, opening: Opening) -> list[Shape]:
        hinge, latch = (a, b) if opening.hinge == "start" else (b, a)
        r = math.dist(a, b)
        leaf = (hinge[0] + wall.normal[0] * r, hinge[1] + wall.normal[1] * r)
        cross = (latch[0] - hinge[0]) * (leaf[1] - hinge[1]) - (latch[1] - hinge[1]) * (leaf[0] - hinge[0])
        sweep = 1 if cross > 0 else 0
        d = f"M{latch[0]:.1f} {latch[1]:.1f} A{r:.1f} {r:.1f} 0 0 {sweep} {leaf[0]:.1f} {leaf[1]:.1f}"
        return [shape("path", d=d, cls="swing"), line(*hinge, *leaf, "leaf")]

    def joists(self) -> Shape:
        """Joists overhead, as pairs of hairlines."""
        if self.where is None or not self.where.closed or self.room is None:
            return group("f-joists")
        axis = self.where.joist_axis
        half = self.plan.drawing.get(self.room, Room).joists.thick.mm / 2
        parts = []
        for joist in self.where.joists:
            for low, high in spans(self.where.corners, axis, joist):
                ends = [(low, joist - half), (high, joist - half), (high, joist + half), (low, joist + half)]
                corners = [self.to_px(e if axis == 1 else (e[1], e[0])) for e in ends]
                parts.append(path(corners, "joist", close=True))
        return group("f-joists", *parts)

    def wall_lengths(self) -> Shape:
        """A dimension line outside each wall, with the length as measured."""
        if self.where is None or self.room is None:
            return group("f-dims")
        sides = self.plan.drawing.get(self.room, Room).sides
        parts: list[Shape | None] = []
        for wall, side in zip(self.where.walls, sides, strict=False):
            words = format_length(side.length.mm, self.unit)
            parts.append(
                self.dimension(
                    wall.start, wall.end, (-wall.normal[0], -wall.normal[1]), 40, words, f"wall:{wall.number}"
                )
            )
        return group("f-dims", *parts)

    def dimension(
        self, start: Px, end: Px, away: Px, off: float, words: str, focus: str = "", cls: str = ""
    ) -> Shape:
        """A dimension line ``off`` px to the side ``away`` of a stretch; ``focus`` names the figure it opens."""
        a, b = self.to_px(start), self.to_px(end)
        a2, b2 = (a[0] + away[0] * off, a[1] + away[1] * off), (b[0] + away[0] * off, b[1] + away[1] * off)
        length = math.dist(a2, b2)
        u = ((b2[0] - a2[0]) / length, (b2[1] - a2[1]) / length) if length else (1.0, 0.0)
        room = len(words) * (5.6 if "figure" in cls else 4.2) + 6
        middle = ((a2[0] + b2[0]) / 2, (a2[1] + b2[1]) / 2)
        parts: list[Shape | None] = []
        upright = abs(u[0]) < 0.5
        gap = (9 if upright else room) if length > 2 * room or upright else length / 2
        for tip, sign in ((a2, 1), (b2, -1)):
            parts.append(
                line(
                    tip[0] - away[0] * 5,
                    tip[1] - away[1] * 5,
                    tip[0] + away[0] * 5,
                    tip[1] + away[1] * 5,
                    "dim",
                )
            )
            reach = max(length / 2 - gap, 0)
            parts.append(
                line(tip[0], tip[1], tip[0] + sign * u[0] * reach, tip[1] + sign * u[1] * reach, "dim")
            )
        shifted = length < 2 * room and not upright
        spot = (middle[0] + away[0] * (12 if shifted else 0), middle[1] + away[1] * (12 if shifted else 0) + 5)
        label = text(*spot, words, f"measure {cls}".strip())
        parts.append(shape("g", label, cls="figure", data_figure=focus) if focus else label)
        return shape("g", *parts, cls="dimension")

    # --- boxes -------------------------------------------------------------------------

    def covered(self) -> list[Rect]:
        """What the boxes of the room and their handles cover."""
        found: list[Rect] = []
        for placed in self.plan.placed.values():
            if placed.room == self.room:
                x, y = self.spot(placed)
                nx, ny = self.where.walls[placed.wall - 1].normal if placed.wall and self.where else (0.0, 1.0)
                lx, ly = x + nx * 22, y + ny * 20
                found.append((min(x, lx) - 13, min(y, ly) - 13, max(x, lx) + 13, max(y, ly) + 13))
        return found

    def named_openings(self) -> list[Rect]:
        """What the names of the openings cover."""
        found: list[Rect] = []
        for opening in self.plan.drawing.of(Opening).values():
            if self.where and opening.room == self.room and opening.wall <= len(self.where.walls):
                wall = self.where.walls[opening.wall - 1]
                x, y = self.to_px(wall.at(opening.at.mm + opening.width.mm / 2))
                x, y = x + wall.normal[0] * 16, y + wall.normal[1] * 13
                found.append((x - 14, y - 10, x + 14, y + 10))
        return found

    def spot(self, placed: Placed) -> Px:
        """Where a box's symbol stands: off its wall, or where it hangs."""
        x, y = self.to_px(placed.position)
        if placed.wall and self.where:
            nx, ny = self.where.walls[placed.wall - 1].normal
            return x + nx * STAND_OFF, y + ny * STAND_OFF
        return x, y

    def points(self, selected: str = "", quiet: bool = False, lit: frozenset[str] = frozenset()) -> Shape:
        """Every box of the room by its trade symbol."""
        drawn = []
        for handle, placed in self.plan.placed.items():
            if placed.room == self.room:
                drawn.append(self.box(handle, placed, handle == selected, handle in lit))
        return group("f-points", *drawn, cls="quiet" if quiet else "")

    def dots(self) -> Shape:
        """Every box of the room as a dot, for a floor too small for symbols: hollow on the ceiling."""
        here = [p for p in self.plan.placed.values() if p.room == self.room]
        return group(
            "f-dots", *(circle(*self.to_px(p.position), 3, "dot" if p.wall else "dot hollow") for p in here)
        )

    def box(self, handle: Handle, placed: Placed, selected: bool, lit: bool) -> Shape:
        """One box: symbol, handle, and what a screen reader says."""
        x, y = self.spot(placed)
        wall = self.where.walls[placed.wall - 1] if placed.wall and self.where else None
        normal = wall.normal if wall else (0.0, -1.0)
        base = self.to_px(placed.position)
        parts: list[Shape | None] = []
        if selected:
            parts.append(circle(x, y, 17, "selected-ring"))
        stem = line(*base, x - normal[0] * 9, y - normal[1] * 9, "stem") if wall else None
        parts += _SYMBOLS[placed.kind](self, handle, x, y, normal, stem, lit)
        if not placed.inside:
            parts.append(path([(x - 8, y + 26), (x + 8, y + 26), (x, y + 12)], "danger-mark", close=True))
        lx, ly = (x + normal[0] * 21, y + normal[1] * 18 + 4.5) if wall else (x, y + 26)
        parts.append(text(lx, ly, handle, "handle"))
        words = f"{placed.kind} {handle}" + (", selected" if selected else "")
        return _selectable(handle, words, *parts, extra="box" + (" is-selected" if selected else ""))

    # --- routes in plan ------------------------------------------------------------------

    def route_points(self, route: Route, n: int) -> list[Px]:
        """A route in plan: in a wall it runs within the wall's band, a little aside of its neighbours."""
        found: list[Px] = []
        for leg in route.legs:
            for point in self._leg_points(leg, n):
                if not found or math.dist(found[-1], point) > 0.8:
                    found.append(point)
        return found if len(found) > 1 else [*found, *found]

    def route_holes(self, route: Route, n: int) -> list[Px]:
        """Where a route's studs and joists are bored."""
        found: list[Px] = []
        for leg in route.legs:
            if leg.medium != "plate" and leg.length:
                a, b = self._leg_points(leg, n)
                shares = [bore / leg.length for bore in leg.bores]
                found += [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for t in shares]
        return found

    def _leg_points(self, leg: Leg, n: int) -> list[Px]:
        share = (0.28, 0.5, 0.72)[n % 3]
        points = []
        for end in (leg.start, leg.end):
            x, y = self.to_px(end)
            if leg.medium in ("bored wall", "stud") and self.where:
                middle = ((leg.start[0] + leg.end[0]) / 2, (leg.start[1] + leg.end[1]) / 2)
                nx, ny = min(self.where.walls, key=lambda w: to_segment(middle, w.start, w.end)).normal
                x, y = x - nx * self.to_px.band * share, y - ny * self.to_px.band * share
            points.append((x, y))
        return points

    def switch_ways(self, handle: Handle) -> list[str]:
        """For each device of a switch box the figure set small beside its S: its ways beyond one position."""
        box = self.plan.boxes.get(handle)
        marks = {"three-way switch": "3", "four-way switch": "4"}
        return [marks.get(d.kind, "") for d in box.devices] if box and box.devices else [""]


def _selectable(handle: str, words: str, *parts: Shape | None, extra: str = "") -> Shape:
    hit = shape("title", text=words)
    # Letters that are part of a symbol stand outside the link: its name is read out instead.
    letters = [
        p for p in parts if p and p.tag == "text" and dict(p.attributes).get("class", "").startswith("symbol-")
    ]
    rest = [p for p in parts if p not in letters]
    anchor = shape("a", hit, *rest, href=f"?sel={handle}", data_live="", aria_label=words)
    return group(f"f-{handle}", anchor, *letters, cls=f"thing {extra}".strip(), data_handle=handle)


def _mute(found: Shape) -> Shape:
    """A letter that is part of a symbol, not read out beside its name."""
    return msgspec.structs.replace(found, attributes=(*found.attributes, ("aria-hidden", "true")))


Parts = list[Shape | None]


def _light(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    parts: Parts = [stem]
    if lit:
        parts += [circle(x, y, 24, "halo"), *(_ray(x, y, k) for k in range(8))]
    return [*parts, circle(x, y, 11, "symbol lit" if lit else "symbol")]


def _ray(x: float, y: float, k: int) -> Shape:
    a = k * math.pi / 4
    return line(x + 14 * math.cos(a), y + 14 * math.sin(a), x + 19 * math.cos(a), y + 19 * math.sin(a), "ray")


def _switch(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    ways = floor.switch_ways(h)
    letters = [shape("tspan", text="S"), shape("tspan", text="".join(ways), dy=5, cls="symbol-ways")]
    if len(ways) > 1:
        letters.insert(0, shape("tspan", text=f"{len(ways)}"))
    return [
        stem,
        circle(x, y, 11, "hit"),
        shape("text", *letters, x=x, y=y + 6, cls="symbol-letter", text_anchor="middle", aria_hidden="true"),
    ]


def _outlet(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    t = (-n[1], n[0])
    lines = [
        line(
            x + t[0] * d - n[0] * 9,
            y + t[1] * d - n[1] * 9,
            x + t[0] * d + n[0] * 9,
            y + t[1] * d + n[1] * 9,
            "symbol-line",
        )
        for d in (-3, 3)
    ]
    return [stem, circle(x, y, 9, "symbol"), *lines]


def _alarm(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    return [stem, circle(x, y, 11, "symbol"), _mute(text(x, y + 4, "SD", "symbol-small"))]


def _fan(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    blades = [
        shape("ellipse", cx=x, cy=y, rx=16.0, ry=4.5, cls="symbol", transform=f"rotate({a} {x:.1f} {y:.1f})")
        for a in (45, 135)
    ]
    return [stem, *blades, circle(x, y, 5, "symbol lit" if lit else "symbol")]


def _junction(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    return [stem, circle(x, y, 10, "symbol"), _mute(text(x, y + 5, "J", "symbol-small"))]


def _panel(floor: Floor, h: Handle, x: float, y: float, n: Px, stem: Shape | None, lit: bool) -> Parts:
    bx, by = x - n[0] * STAND_OFF, y - n[1] * STAND_OFF
    t = (-n[1], n[0])
    half, deep = 16.0, 9.0
    near = [(bx + t[0] * s * half, by + t[1] * s * half) for s in (-1, 1)]
    far = [(px + n[0] * deep, py + n[1] * deep) for px, py in reversed(near)]
    return [
        path([*near, *far], "panel-box", close=True),
        path([near[0], near[1], far[0]], "panel-half", close=True),
    ]


_SYMBOLS = {
    "light": _light, "switch": _switch, "outlet": _outlet, "alarm": _alarm, "fan": _fan, "junction": _junction, "panel": _panel,
}  # fmt: skip


Rect = tuple[float, float, float, float]


def meets(box: Rect, taken: list[Rect]) -> bool:
    """Whether a rectangle overlaps any of those taken."""
    return any(box[0] < t[2] and t[0] < box[2] and box[1] < t[3] and t[1] < box[3] for t in taken)


def free_place(at: Px, normal: Px, width: float, height: float, taken: list[Rect]) -> Px:
    """A free middle for a thing of that size off a wall, the nearest of a fan of tries; ``taken`` grows.

    ``normal`` points away from the wall. If nothing is free, the first try.
    """
    along = (-normal[1], normal[0])
    tries = [
        (at[0] + normal[0] * out + along[0] * aside, at[1] + normal[1] * out + along[1] * aside)
        for out in (40.0, 54.0, 70.0, 90.0)
        for aside in (0.0, 18.0, -18.0, 36.0, -36.0, 54.0, -54.0)
    ]

    def around(spot: Px) -> Rect:
        return (spot[0] - width / 2, spot[1] - height / 2, spot[0] + width / 2, spot[1] + height / 2)

    spot = next((t for t in tries if not meets(around(t), taken)), tries[0])
    taken.append(around(spot))
    return spot


def place_labels(wanted: list[tuple[float, float, str]], taken: list[Rect]) -> list[Px]:
    """A free place for each label near where it is wanted: the nearest of a spiral of tries.

    ``taken`` holds rectangles (x1, y1, x2, y2) already covered, and grows.
    """
    found = []
    for x, y, words in wanted:
        half = 4.2 * len(words) + 3
        tries = [(0.0, 0.0)] + [
            (r * math.cos(a), r * math.sin(a))
            for r in (14, 22, 32, 44)
            for a in (k * math.pi / 4 for k in range(8))
        ]

        def around(dx: float, dy: float, x: float = x, y: float = y, half: float = half) -> Rect:
            return (x + dx - half, y + dy - 12, x + dx + half, y + dy + 4)

        dx, dy = next((t for t in tries if not meets(around(*t), taken)), (0.0, 0.0))
        taken.append(around(dx, dy))
        found.append((x + dx, y + dy))
    return found
