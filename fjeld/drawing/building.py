"""The building as surveyed: storeys, rooms, openings, what stands in them, the panel, old boxes, underlays.

Positions on a wall run from the wall's start, walls numbered from 1 in the order they
were walked. Heights are above the finished floor of their storey. A measure that nobody
has taken yet is written ``?``, with what is assumed meanwhile after it.
"""

from __future__ import annotations

import math
from typing import Any, Literal

import msgspec

from fjeld.drawing.handles import Handle
from fjeld.quantities import Length, Written

RoomUse = Literal[
    "boot", "living", "kitchen", "dining", "bed", "bath", "laundry", "hall", "stairs", "den", "library",
    "recreation", "sun", "family", "closet", "foyer", "garage", "basement", "outdoors", "other",
]  # fmt: skip
OpeningKind = Literal["door", "cased", "sliding", "window"]
Surface = Literal["wallboard", "plaster", "boards", "brick", "bare"]
Access = Literal["closed", "open", "storey"]
BodyKind = Literal[
    "stairs", "fireplace", "cabinet", "tall cabinet", "counter", "bath", "shower", "basin", "sink", "cooker",
    "bed", "table", "duct", "pipe", "gas", "flue", "beam",
]  # fmt: skip
#: Bodies that no box and no cable may stand in; the others only keep boxes from behind them or out of reach.
IN_THE_WAY: frozenset[str] = frozenset({"duct", "pipe", "gas", "flue", "beam"})


class Side(Written):
    """One wall as walked: compass bearing in degrees and measured length."""

    __slots__ = ("bearing", "length")

    def __init__(self, bearing: float, length: Length) -> None:
        self.bearing = bearing
        self.length = length


def usual(mm: float, typed: str) -> Any:
    """A length that stands until someone measures."""
    return msgspec.field(default_factory=lambda: Length(mm, typed))


class Studs(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Wall framing of a room: on-center spacing, depth and thickness of a stud, first stud from each wall's start."""

    spacing: Length = usual(406.4, '16"')
    depth: Length = usual(88.9, '3 1/2"')
    thick: Length = usual(38.1, '1 1/2"')
    first: Length = usual(406.4, '16"')
    board: Length = usual(12.7, '1/2"')


class Build(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """How one wall differs from the room's usual: its own ``studs``, what it faces, what covers it."""

    studs: Studs | None = None
    exterior: bool = False
    insulated: bool = False
    bearing: bool = False
    closed: bool = False
    surface: Surface = "wallboard"


class Slope(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A sloped ceiling: as low as ``low`` along ``wall``, rising evenly to the room's height farthest from it."""

    wall: int
    low: Length


class Diagonal(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"a": "from", "b": "to"}):
    """A check measure between two corners; corner 1 is the start of wall 1."""

    a: int
    b: int
    length: Length


class Joists(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Ceiling framing of a room; ``first`` is measured from the north or west wall."""

    run: Literal["E-W", "N-S"] = "E-W"
    spacing: Length = usual(406.4, '16"')
    first: Length = usual(406.4, '16"')
    depth: Length = usual(235.0, '9 1/4"')
    thick: Length = usual(38.1, '1 1/2"')
    kind: Literal["sawn", "engineered", "truss"] = "sawn"


class Storey(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A floor of the house; ``level`` is its finished floor above that of the lowest storey drawn."""

    name: str
    level: Length = usual(0.0, '0"')


class Room(
    msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, rename={"sides": "walls"}
):
    """A room walked with a tape, wall after wall.

    ``x`` and ``y`` say where its first corner lies on its storey while no :class:`Join`
    does. ``builds`` holds the walls that differ from ``studs``, by number. ``floor`` and
    ``ceiling`` are the thicknesses of the finishes still to come over the subfloor and
    under the joists. ``joists`` carry the ceiling, ``floor_joists`` the floor; what lies
    beyond them is ``above`` and ``below``.
    """

    name: str
    sides: tuple[Side, ...] = ()
    use: RoomUse = "other"
    storey: Handle | None = None
    x: Length = usual(0.0, '0"')
    y: Length = usual(0.0, '0"')
    height: Length = usual(2438.4, "8'")
    slope: Slope | None = None
    studs: Studs = msgspec.field(default_factory=Studs)
    builds: dict[int, Build] = {}
    joists: Joists = msgspec.field(default_factory=Joists)
    floor_joists: Joists = msgspec.field(default_factory=Joists)
    floor: Length = usual(0.0, '0"')
    ceiling: Length = usual(12.7, '1/2"')
    above: Access = "closed"
    below: Access = "closed"
    diagonals: tuple[Diagonal, ...] = ()

    def build(self, wall: int) -> Build:
        """How a wall is built, by number."""
        return self.builds.get(wall, _PLAIN_BUILD)

    def studs_of(self, wall: int) -> Studs:
        """The framing of a wall, by number."""
        return self.build(wall).studs or self.studs


_PLAIN_BUILD = Build()


def usual_room(metric: bool) -> Room:
    """A room as rooms are usually built, until somebody measures: in feet and inches, or metric."""
    if not metric:
        return Room("")

    def mm(value: float) -> Length:
        return Length(value, f"{value:g} mm")

    studs = Studs(mm(600), mm(89), mm(38), mm(600), mm(12.5))
    joists = Joists("E-W", mm(400), mm(400), mm(195), mm(47))
    return Room(
        "", height=mm(2400), studs=studs, joists=joists, floor_joists=joists, floor=mm(0), ceiling=mm(12.5), x=mm(0), y=mm(0)
    )  # fmt: skip


class Opening(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A door, cased opening, sliding door or window; ``at`` is its near edge from the wall's start.

    ``hinge`` says at which edge the door hangs, as seen walking along the wall, ``swing``
    whether it opens into this room.
    """

    kind: OpeningKind
    room: Handle
    wall: int
    at: Length
    width: Length
    head: Length = usual(2032.0, '80"')
    sill: Length = usual(0.0, '0"')
    hinge: Literal["start", "end"] = "start"
    swing: Literal["in", "out"] = "in"


class Join(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """One opening seen from the room beyond it: its near edge from the start of that room's wall.

    ``thick`` is the wall from face to face, as measured in the opening.
    """

    opening: Handle
    room: Handle
    wall: int
    at: Length
    thick: Length = usual(114.3, '4 1/2"')


class Body(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Something that takes up space: a counter, a bath, a bed, or a duct, pipe or beam in the way.

    Against a ``wall``: ``at`` is its near edge from the wall's start, ``sunk`` how far
    it reaches into the wall. Wall 0: ``x``, ``y`` are its north-west corner and
    ``width``, ``depth`` run east and south. ``low`` and ``high`` are above the floor.
    """

    kind: BodyKind
    room: Handle
    width: Length
    depth: Length
    wall: int = 0
    at: Length | None = None
    x: Length | None = None
    y: Length | None = None
    sunk: Length = usual(0.0, '0"')
    low: Length = usual(0.0, '0"')
    high: Length = usual(914.4, '36"')
    name: str = ""


class Way(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A way of the panel that is taken already: its number, its breaker, and what it feeds in words."""

    number: int
    amps: int
    feeds: str
    poles: int = 1


class Panel(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The panel on a wall: center along the wall and above the floor, rating and ways."""

    room: Handle
    wall: int
    at: Length
    height: Length = usual(1524.0, "5'")
    amps: int = 100
    ways: int = 12
    taken: tuple[Way, ...] = ()

    def free(self) -> list[int]:
        """The ways not taken, in order. A breaker of two poles takes every second way: 1 and 3, 2 and 4."""
        held = {way.number + 2 * pole for way in self.taken for pole in range(way.poles)}
        return [n for n in range(1, self.ways + 1) if n not in held]


class Lead(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A conductor found in an old box: its colour, and what it lands on."""

    colour: str
    lands: str = ""


class OldCable(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A cable found in an old box. ``gauge`` and ``guess`` stay empty until someone reads them."""

    leads: tuple[Lead, ...] = ()
    gauge: str = ""
    guess: str = ""


class OldBox(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A box that is there already, and what was found in it; placed like a :class:`Point`."""

    room: Handle
    wall: int = 0
    at: Length | None = None
    height: Length | None = None
    x: Length | None = None
    y: Length | None = None
    holds: str = ""
    volume: float | None = None
    gangs: int = 1
    cables: tuple[OldCable, ...] = ()
    breaker: str = ""


class Polyline(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A line of an imported drawing, in the drawing's own units with y already to the south."""

    layer: str
    points: tuple[tuple[float, float], ...]
    closed: bool = False


class Underlay(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Lines of an imported drawing to trace: ``scale`` mm to one of its units, layers ``off`` hidden."""

    name: str
    lines: tuple[Polyline, ...]
    scale: float = 1.0
    off: tuple[str, ...] = ()
    storey: Handle | None = None

    def placed(self, n: int) -> tuple[tuple[float, float], ...]:
        """The points of a line on the storey, mm."""
        return tuple((x * self.scale, y * self.scale) for x, y in self.lines[n].points)

    def stretch(self, n: int, k: int) -> float:
        """How long the ``k``-th stretch of a line is, mm."""
        a, b = self.placed(n)[k : k + 2]
        return math.dist(a, b)
