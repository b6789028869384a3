"""The floor: the rooms of a storey in plan, drawn the same under every waypoint.

Walls, openings, framing and boxes are drawn here; what a waypoint adds goes into layers
above. The sheet shows the whole storey, or comes near to the room in hand with its
neighbours around it. Everything is in pixels of the sheet, so that line weights and type
keep their size whatever the house measures.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from functools import cached_property

import msgspec

from fjeld.derive.house import RoomShape, Wall
from fjeld.derive.places import Placed
from fjeld.derive.plan import Plan
from fjeld.derive.routes import Leg, Route
from fjeld.drawing.building import Body, Opening, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.geometry import Point, middle, spans
from fjeld.graphics.dimension import dimension
from fjeld.graphics.labels import Px, Rect, RoomName, clear_place, place_labels
from fjeld.graphics.openings import opening_in
from fjeld.graphics.projection import MARGIN, SMALL, Size, projection
from fjeld.graphics.route_lines import route_holes, route_points
from fjeld.graphics.shapes import Shape, circle, group, line, path, rect, shape, text
from fjeld.graphics.symbols import STAND_OFF, SYMBOLS, selectable
from fjeld.graphics.wall_bands import studs, wall_band
from fjeld.practice.devices import device
from fjeld.quantities import format_area, format_length

#: Symbols on a whole storey, as a share of their size in a room.
SMALL_SYMBOL = 0.6
#: Room left at the top of the sheet for the names of the rooms, where there are several.
HEADER = 30.0


class Floor:
    """Draws the storey of a room; ``whole`` shows all of it, else the room in hand fills the sheet."""

    def __init__(
        self, plan: Plan, room: Handle | None, size: Size, margin: float = MARGIN, whole: bool = False
    ) -> None:
        self.plan = plan
        self.room = room
        self.where = plan.rooms[room] if room else None
        self.size = size
        self.rooms = self._storey()
        self.whole = whole and len(self.rooms) > 1
        near = list(self.rooms.values()) if self.whole else [self.where] if self.where else []
        corners = [c for where in near for c in where.corners]
        header = (
            0.0
            if len(plan.rooms) < 2 or size.width <= SMALL.width
            else HEADER
            if size.width > 500
            else 2 * HEADER
        )
        self.to_px = projection(corners, size, margin * 0.6 if self.whole else margin, header)
        self.unit = plan.drawing.house.unit

    def _storey(self) -> dict[Handle, RoomShape]:
        """The rooms on the storey of the room in hand."""
        if self.where is None or self.room is None:
            return {}
        rooms = self.plan.drawing.of(Room)
        storey = rooms[self.room].storey
        return {h: where for h, where in self.plan.rooms.items() if rooms[h].storey == storey}

    @property
    def shown(self) -> dict[Handle, RoomShape]:
        """The rooms whose boxes are drawn: all of the storey, or the one in hand."""
        if self.whole:
            return self.rooms
        return {self.room: self.where} if self.room and self.where else {}

    def on_storey(self, z: float) -> bool:
        """Whether a height in the house lies on this storey."""
        if self.where is None:
            return True
        above = [w.level for w in self.plan.rooms.values() if w.level > self.where.level + 1.0]
        return self.where.level - 1.0 <= z < min(above, default=math.inf) - 1.0

    # --- the house ------------------------------------------------------------------

    def walls(self) -> Shape:
        """Walls as bands outside their inner face; studs in those of the room in hand."""
        closed = {h: w for h, w in self.rooms.items() if w.closed}
        parts: list[Shape | None] = [wall_band(self.to_px, where) for where in closed.values()]
        for handle, where in closed.items():
            beyond = "" if handle in self.shown else " beyond"
            faces = [self.to_px(c) for c in where.corners]
            parts.append(path(faces, f"room-floor{beyond}", close=True))
        for handle, where in self.rooms.items():
            parts += self._faces(handle, where)
        return group("f-walls", *parts)

    def _faces(self, handle: Handle, where: RoomShape) -> Iterator[Shape | None]:
        """The inner faces of a room, those nobody has measured marked; its studs where it is in hand."""
        if where.closed:
            if handle in self.shown and not self.whole:
                room = self.plan.drawing.get(handle, Room)
                for wall in where.walls:
                    yield from studs(self.to_px, room, wall)
            yield path([self.to_px(c) for c in where.corners], "wall-face", close=True)
        for wall in where.walls:
            if not (where.closed and wall.measured):
                cls = "wall-face" if wall.measured else "wall-asked"
                yield line(*self.to_px(wall.start), *self.to_px(wall.end), cls)

    def names(self, movable: bool = False) -> Shape:
        """On the whole storey, each room's name and area, which lead into it; clear of boxes where there is
        room.

        ``movable`` lets a room be taken by its name and put elsewhere, at whole inches or 5 cm.
        """
        parts: list[Shape | None] = []
        for named in self.named:
            x, first = named.at
            drop, cls = (13, "room-name small") if named.small else (17, "room-name")
            words = [text(x, first + drop * n, w, cls) for n, w in enumerate(named.lines)]
            if named.size:
                # The space keeps name and area apart for those who hear them.
                words.append(text(x, first + 17 * len(named.lines), f" {named.size}", "label on-floor"))
            held = named.room if movable else None
            parts.append(
                shape("a", *words, href=f"?at={named.room}", data_live="", data_drop="1", data_room=held)
            )
        if not movable:
            return group("f-names", *parts)
        step = 50.0 if self.unit == "mm" else 25.4
        return group(
            "f-names", *parts, data_step=step, data_scale=repr(self.to_px.scale), data_unit=self.unit
        )

    @cached_property
    def named(self) -> list[RoomName]:
        """The names of the rooms of a whole storey, each in its place."""
        if not self.whole:
            return []
        found = []
        taken = [*self.small_symbols(), *self._swings()]
        for handle, where in self.rooms.items():
            room = self.plan.drawing.get(handle, Room)
            size = format_area(where.area, self.unit) if where.closed else "not closed yet"
            outline = [self.to_px(c) for c in where.corners] or [self.to_px(where.origin)]
            found.append(self._named(handle, room.name, size, outline, taken))
        return found

    def _named(self, handle: Handle, name: str, size: str, outline: list[Px], taken: list[Rect]) -> RoomName:
        """A room's name where nothing is built: with its area, else without, else small, which is at worst
        over things.
        """
        wide = max(p[0] for p in outline) - min(p[0] for p in outline)
        ways: tuple[tuple[float, float, str], ...] = ((8.5, 17.0, size), (8.5, 17.0, ""), (6.3, 13.0, ""))
        for letter, line_height, shown in ways:
            lines = name.split(" ", 1) if letter * len(name) > wide else [name]
            broad = max(letter * len(w) for w in (*lines, shown))
            high = line_height * len(lines) + (16.0 if shown else 0.0)
            spot = clear_place(outline, broad, high, taken)
            if spot is not None or line_height < 17.0:
                x, y = spot or middle(outline)
                covers = (x - broad / 2, y - high / 2, x + broad / 2, y + high / 2)
                return RoomName(
                    room=handle,
                    lines=tuple(lines),
                    size=shown,
                    at=(x, y - high / 2 + line_height - 3),
                    covers=covers,
                    small=line_height < 17.0,
                )
        raise AssertionError("the last way of writing a name always has a place")

    def _swings(self) -> list[Rect]:
        """Where doors open over the floor: no name lies there."""
        found: list[Rect] = []
        for room, where in self.rooms.items():
            for opening in self.plan.openings[room].values():
                if opening.kind != "door" or opening.swing != "in" or opening.wall > len(where.walls):
                    continue
                wall, width = where.walls[opening.wall - 1], opening.width.mm
                ends = [wall.at(opening.at.mm), wall.at(opening.at.mm + width)]
                ends += [(x + wall.normal[0] * width, y + wall.normal[1] * width) for x, y in ends]
                xs, ys = zip(*(self.to_px(e) for e in ends), strict=True)
                found.append((min(xs), min(ys), max(xs), max(ys)))
        return found

    def small_symbols(self) -> list[Rect]:
        """What the boxes cover on a whole storey."""
        found: list[Rect] = []
        for placed in self.plan.placed.values():
            if placed.room in self.shown:
                x, y = self.to_px(placed.position)
                nx, ny = self._normal(placed) or (0.0, 0.0)
                x, y = x + nx * STAND_OFF * SMALL_SYMBOL, y + ny * STAND_OFF * SMALL_SYMBOL
                found.append((x - 9, y - 8, x + 9, y + 8))
        return found

    def bodies(self, selected: str = "") -> Shape:
        """What stands in the rooms: counters, baths and beds in outline, what is in the way hatched over."""
        parts: list[Shape | None] = []
        taken = self.covered() + self.named_openings()
        for handle, block in self.plan.blocks.items():
            if block.room not in self.shown:
                continue
            cls = "body in-the-way" if block.in_the_way else "body"
            corners = [self.to_px(c) for c in block.corners]
            name = self.plan.drawing.get(handle, Body).name or block.kind
            words: list[Shape] = []
            if not self.whole or handle == selected:
                # The name where the body has room for it, else its handle, else none: it is read out all the
                # same.
                for label in (name, str(handle)):
                    if spot := clear_place(corners, 7.0 * len(label), 16.0, taken):
                        words = [text(spot[0], spot[1] + 4, label, "label on-floor")]
                        break
            chosen = " is-selected" if handle == selected else ""
            outline = path(corners, cls + chosen, close=True)
            cross = (
                [line(*corners[0], *corners[2], "body-cross"), line(*corners[1], *corners[3], "body-cross")]
                if block.in_the_way
                else []
            )
            parts.append(selectable(handle, f"{name} {handle}", outline, *cross, *words))
        return group("f-bodies", *parts)

    def openings(self) -> Shape:
        """Doors with their swing, windows with their glass; each drawn once, from the room it was measured
        in.
        """
        parts: list[Shape] = []
        for handle, opening in self.plan.drawing.of(Opening).items():
            where = self.rooms.get(opening.room)
            if where and opening.wall <= len(where.walls):
                parts.append(
                    opening_in(
                        self.to_px,
                        handle,
                        opening=opening,
                        wall=where.walls[opening.wall - 1],
                        unit=self.unit,
                        named=not self.whole,
                    )
                )
        return group("f-openings", *parts)

    def joists(self) -> Shape:
        """Joists overhead, as pairs of hairlines."""
        if self.where is None or not self.where.closed or self.room is None or self.whole:
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
        if self.where is None or self.room is None or self.whole:
            return group("f-dims")
        sides = self.plan.drawing.get(self.room, Room).sides
        parts: list[Shape | None] = []
        for wall, side in zip(self.where.walls, sides, strict=False):
            words = "?" if side.length.unknown else format_length(side.length.mm, self.unit)
            # Short walls, as of a bay, keep theirs near, inside those of their neighbours.
            off = 40 if wall.length * self.to_px.scale > 70 else 22
            away = (-wall.normal[0], -wall.normal[1])
            parts.append(self.dimension(wall.start, wall.end, away, off, words, focus=f"wall:{wall.number}"))
        return group("f-dims", *parts)

    def dimension(
        self,
        start: Point,
        end: Point,
        away: Px,
        off: float,
        words: str,
        focus: str = "",
        cls: str = "",
        taken: list[Rect] | None = None,
    ) -> Shape:
        """A dimension line between two places of the house; see :mod:`fjeld.graphics.dimension`."""
        return dimension(
            self.to_px(start),
            self.to_px(end),
            away=away,
            off=off,
            words=words,
            focus=focus,
            cls=cls,
            taken=taken,
        )

    # --- boxes -------------------------------------------------------------------------

    def covered(self) -> list[Rect]:
        """What the boxes shown and their handles cover."""
        found: list[Rect] = []
        for placed in self.plan.placed.values():
            if placed.room in self.shown:
                x, y = self.spot(placed)
                nx, ny = self._normal(placed) or (0.0, 1.0)
                lx, ly = x + nx * 22, y + ny * 20
                found.append((min(x, lx) - 13, min(y, ly) - 13, max(x, lx) + 13, max(y, ly) + 13))
        return found

    def named_openings(self) -> list[Rect]:
        """What the names of the openings cover."""
        found: list[Rect] = []
        for opening in self.plan.drawing.of(Opening).values():
            where = self.shown.get(opening.room)
            if where and opening.wall <= len(where.walls):
                wall = where.walls[opening.wall - 1]
                x, y = self.to_px(wall.at(opening.at.mm + opening.width.mm / 2))
                x, y = x + wall.normal[0] * 16, y + wall.normal[1] * 13
                found.append((x - 14, y - 10, x + 14, y + 10))
        return found

    def _normal(self, placed: Placed) -> Px | None:
        """Into the room from a box's wall; None for a box on the ceiling."""
        where = self.plan.rooms[placed.room]
        return where.walls[placed.wall - 1].normal if placed.wall else None

    def spot(self, placed: Placed) -> Px:
        """Where a box's symbol stands: off its wall, or where it hangs."""
        x, y = self.to_px(placed.position)
        nx, ny = self._normal(placed) or (0.0, 0.0)
        # What sits in another's box stands beside it along the wall.
        aside = 26.0 * self._beside(placed.handle)
        return x + nx * STAND_OFF - ny * aside, y + ny * STAND_OFF + nx * aside

    def _beside(self, handle: Handle) -> int:
        """Which of those in another's box a point is, from 1; 0 for one in its own."""
        box = self.plan.home(handle)
        if box == handle:
            return 0
        return 1 + [h for h in self.plan.placed if h != box and self.plan.home(h) == box].index(handle)

    def points(self, selected: str = "", quiet: bool = False, lit: frozenset[str] = frozenset()) -> Shape:
        """Every box by its trade symbol; on a whole storey too small for symbols, as a dot."""
        here = {h: p for h, p in self.plan.placed.items() if p.room in self.shown}
        labels = self._labels(here)
        drawn = [self.box(h, p, h == selected, h in lit, labels[h]) for h, p in here.items()]
        # Where the survey draws them itself, all of them, it asks for the points quietly.
        begun = [] if quiet else [self.old_box(h, self.spot(p), h == selected) for h, p in self._begun()]
        return group("f-points", *begun, *drawn, cls="quiet" if quiet else "")

    def _begun(self) -> list[tuple[Handle, Placed]]:
        """The old boxes in sight that something begins in."""
        return [(h, p) for h, p in self.plan.old.items() if p.room in self.shown]

    def old_box(self, handle: Handle, at: Px, selected: bool) -> Shape:
        """A box that is there already: in broken outline."""
        old = self.plan.drawing.get(handle, OldBox)
        x, y = at
        box = rect(
            x - 9, y - 9, width=18, height=18, cls="old-box" + (" is-selected" if selected else ""), rx=2
        )
        return selectable(handle, f"old box {handle}, {old.holds}", box, text(x, y + 24, handle, "handle"))

    def _labels(self, here: Mapping[Handle, Placed]) -> dict[Handle, Px]:
        """Where each box's handle is written: beside its symbol, clear of other symbols and handles."""
        spots = {h: self.spot(p) for h, p in here.items()}
        taken: list[Rect] = [(x - 9, y - 9, x + 9, y + 9) for x, y in spots.values()]
        if not self.whole:
            taken += self.named_openings()
        wanted = []
        for handle, placed in here.items():
            (x, y), wall = spots[handle], self._normal(placed)
            lx, ly = (x + wall[0] * 21, y + wall[1] * 18 + 4.5) if wall else (x, y + 26)
            wanted.append((lx, ly, handle))
        return dict(zip(here, place_labels(wanted, taken), strict=True))

    def dots(self) -> Shape:
        """Every box as a dot, for a floor too small for symbols: hollow on the ceiling."""
        here = [p for p in self.plan.placed.values() if p.room in self.shown]
        return group(
            "f-dots", *(circle(*self.to_px(p.position), 3, "dot" if p.wall else "dot hollow") for p in here)
        )

    def box(self, handle: Handle, placed: Placed, selected: bool, lit: bool, label: Px) -> Shape:
        """One box: symbol, handle at ``label``, and what a screen reader says. Small on a whole storey."""
        x, y = self.spot(placed)
        wall = self._normal(placed)
        normal = wall or (0.0, -1.0)
        base = self.to_px(placed.position)
        parts: list[Shape | None] = []
        if selected:
            parts.append(circle(x, y, 17, "selected-ring"))
        stem = line(*base, x - normal[0] * 9, y - normal[1] * 9, "stem") if wall else None
        ways = self.marks(handle)
        parts += SYMBOLS[placed.kind](ways, x, y, normal, stem, lit)
        if not placed.inside:
            parts.append(path([(x - 8, y + 26), (x + 8, y + 26), (x, y + 12)], "danger-mark", close=True))
        if not self.whole or selected:
            parts.append(text(*label, handle, "handle"))
        words = f"{self.plan.practice.word(placed.kind)} {handle}" + (", selected" if selected else "")
        made = selectable(handle, words, *parts, extra="box" + (" is-selected" if selected else ""))
        if not self.whole or selected:
            return made
        k = SMALL_SYMBOL
        x, y = base
        shrunk = f"translate({x * (1 - k):.1f} {y * (1 - k):.1f}) scale({k})"
        return msgspec.structs.replace(made, attributes=(*made.attributes, ("transform", shrunk)))

    # --- routes in plan ------------------------------------------------------------------

    def route_points(self, route: Route, n: int) -> list[Px]:
        """A route in plan, the ``n``-th of its kind: a little aside of its neighbours."""
        return route_points(self.to_px, self._legs(route), self._walls(), n)

    def route_holes(self, route: Route, n: int) -> list[Px]:
        """Where a route's studs and joists are bored."""
        return route_holes(self.to_px, self._legs(route), self._walls(), n)

    def _legs(self, route: Route) -> list[Leg]:
        """The legs of a route that are in sight on this storey."""
        return [leg for leg in route.legs if self.on_storey((leg.start[2] + leg.end[2]) / 2)]

    def _walls(self) -> list[Wall]:
        return [wall for where in self.rooms.values() for wall in where.walls]

    def marks(self, handle: Handle) -> list[str]:
        """For each device of a box what is set small beside its symbol, as a switch's ways beyond one
        position.
        """
        box = self.plan.boxes.get(self.plan.home(handle))
        mine = [device(d.kind).mark for d in box.devices if d.key.box == handle] if box else []
        return mine or [""]
