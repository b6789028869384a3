"""The building as surveyed: storeys, rooms, openings, what stands in them, the panel, old boxes, underlays.

Positions on a wall run from the wall's start, walls numbered from 1 in the order they
were walked. Heights are above the finished floor of their storey. A measure that nobody
has taken yet is written ``?``, with what is assumed meanwhile after it.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import msgspec

from fjeld.drawing.extents import (
    AboveFloor,
    AlongWall,
    Amps,
    BoardThickness,
    BodySize,
    CeilingHeight,
    DrawingUnits,
    FirstMember,
    InRoom,
    Level,
    MemberDepth,
    MemberThickness,
    Name,
    Note,
    OnStorey,
    OpeningWidth,
    Poles,
    Scale,
    Spacing,
    WallLength,
    WallNumber,
    WallThickness,
    Ways,
    at_most,
)
from fjeld.drawing.handles import Handle
from fjeld.quantities import Length, Unit, Written

RoomUse = Literal[
    "boot",
    "living",
    "kitchen",
    "dining",
    "bed",
    "bath",
    "laundry",
    "hall",
    "stairs",
    "den",
    "library",
    "recreation",
    "sun",
    "family",
    "closet",
    "foyer",
    "garage",
    "basement",
    "outdoors",
    "other",
]
OpeningKind = Literal["door", "cased", "sliding", "window"]
Surface = Literal["wallboard", "plaster", "boards", "brick", "bare"]
Access = Literal["closed", "open", "storey"]
BodyKind = Literal[
    "stairs",
    "fireplace",
    "cabinet",
    "tall cabinet",
    "counter",
    "bath",
    "shower",
    "basin",
    "sink",
    "cooker",
    "bed",
    "table",
    "duct",
    "pipe",
    "gas",
    "flue",
    "beam",
]
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
    """Wall framing of a room: on-center spacing, depth and thickness of a stud, first stud from each wall's
    start.
    """

    spacing: Spacing = usual(406.4, '16"')
    depth: MemberDepth = usual(88.9, '3 1/2"')
    thick: MemberThickness = usual(38.1, '1 1/2"')
    first: FirstMember = usual(406.4, '16"')
    board: BoardThickness = usual(12.7, '1/2"')


class Build(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """How one wall differs from the room's usual: its own ``studs``, what it faces, what covers it."""

    studs: Studs | None = None
    exterior: bool = False
    insulated: bool = False
    bearing: bool = False
    closed: bool = False
    surface: Surface = "wallboard"


class Slope(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A sloped ceiling: as low as ``low`` along ``wall``, rising evenly to the room's height farthest from
    it.
    """

    wall: WallNumber
    low: CeilingHeight


class Diagonal(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"a": "from", "b": "to"}):
    """A check measure between two corners; corner 1 is the start of wall 1."""

    a: WallNumber
    b: WallNumber
    length: WallLength


class Joists(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Ceiling framing of a room; ``first`` is measured from the north or west wall."""

    run: Literal["E-W", "N-S"] = "E-W"
    spacing: Spacing = usual(406.4, '16"')
    first: FirstMember = usual(406.4, '16"')
    depth: MemberDepth = usual(235.0, '9 1/4"')
    thick: MemberThickness = usual(38.1, '1 1/2"')
    kind: Literal["sawn", "engineered", "truss"] = "sawn"


Grade = Literal["", "below", "above"]


class Storey(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A floor of the house; ``level`` is its finished floor above that of the lowest storey drawn, ``grade``
    whether that lies below the ground outside.
    """

    name: Name
    level: Level = usual(0.0, '0"')
    grade: Grade = ""


class Room(
    msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, rename={"sides": "walls"}
):
    """A room walked with a tape, wall after wall.

    ``x`` and ``y`` say where its first corner lies on its storey while no :class:`Join` does. ``builds``
    holds the walls that differ from ``studs``, by number. ``floor`` and ``ceiling`` are the thicknesses of
    the finishes still to come over the subfloor and under the joists. ``ceiling_closed`` says that the
    ceiling's finish is on already, ``work`` whether the room is new work or left as it stands but for what is
    added, ``seen`` whether the whole floor is seen from each of its switches. ``joists`` carry the ceiling,
    ``floor_joists`` the floor; what lies beyond them is ``above`` and ``below``. ``grade`` is whether its
    floor lies below the ground outside, where it is not as its storey's.
    """

    name: Name
    sides: tuple[Side, ...] = ()
    use: RoomUse = "other"
    storey: Handle | None = None
    x: OnStorey = usual(0.0, '0"')
    y: OnStorey = usual(0.0, '0"')
    height: CeilingHeight = usual(2438.4, "8'")
    slope: Slope | None = None
    studs: Studs = msgspec.field(default_factory=Studs)
    builds: dict[int, Build] = {}
    joists: Joists = msgspec.field(default_factory=Joists)
    floor_joists: Joists = msgspec.field(default_factory=Joists)
    floor: BoardThickness = usual(0.0, '0"')
    ceiling: BoardThickness = usual(12.7, '1/2"')
    above: Access = "closed"
    below: Access = "closed"
    ceiling_closed: bool = False
    work: Literal["new", "as it stands"] = "new"
    seen: Literal["", "yes", "no"] = ""
    grade: Grade = ""
    diagonals: tuple[Diagonal, ...] = ()

    def build(self, wall: int) -> Build:
        """How a wall is built, by number."""
        return self.builds.get(wall, _PLAIN_BUILD)

    def studs_of(self, wall: int) -> Studs:
        """The framing of a wall, by number."""
        return self.build(wall).studs or self.studs


_PLAIN_BUILD = Build()


def usual_room(unit: Unit) -> Room:
    """A room as rooms are usually built, until somebody measures: in feet and inches, or metric."""
    if unit == "ft-in":
        return Room("")

    def mm(value: float) -> Length:
        return Length(value, f"{value:g} mm")

    studs = Studs(mm(600), mm(89), mm(38), mm(600), mm(12.5))
    joists = Joists("E-W", mm(400), mm(400), mm(195), mm(47))
    return Room(
        "",
        height=mm(2400),
        studs=studs,
        joists=joists,
        floor_joists=joists,
        floor=mm(0),
        ceiling=mm(12.5),
        x=mm(0),
        y=mm(0),
    )


class Opening(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A door, cased opening, sliding door or window; ``at`` is its near edge from the wall's start.

    ``hinge`` says at which edge the door hangs, as seen walking along the wall, ``swing``
    whether it opens into this room.
    """

    kind: OpeningKind
    room: Handle
    wall: WallNumber
    at: AlongWall
    width: OpeningWidth
    head: AboveFloor = usual(2032.0, '80"')
    sill: AboveFloor = usual(0.0, '0"')
    hinge: Literal["start", "end"] = "start"
    swing: Literal["in", "out"] = "in"


class Join(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """One opening seen from the room beyond it: its near edge from the start of that room's wall.

    ``thick`` is the wall from face to face, as measured in the opening.
    """

    opening: Handle
    room: Handle
    wall: WallNumber
    at: AlongWall
    thick: WallThickness = usual(114.3, '4 1/2"')


class Body(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Something that takes up space: a counter, a bath, a bed, or a duct, pipe or beam in the way.

    Against a ``wall``: ``at`` is its near edge from the wall's start, ``sunk`` how far
    it reaches into the wall. Wall 0: ``x``, ``y`` are its north-west corner and
    ``width``, ``depth`` run east and south. ``low`` and ``high`` are above the floor.
    """

    kind: BodyKind
    room: Handle
    width: BodySize
    depth: BodySize
    wall: WallNumber = 0
    at: AlongWall | None = None
    x: InRoom | None = None
    y: InRoom | None = None
    sunk: BoardThickness = usual(0.0, '0"')
    low: AboveFloor = usual(0.0, '0"')
    high: AboveFloor = usual(914.4, '36"')
    name: Name = ""


class PanelWay(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A way of the panel that is taken already: its number, its breaker, and what it feeds in words."""

    number: Ways
    amps: Amps
    feeds: Name
    poles: Poles = 1


class Panel(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A panel on a wall: center along the wall and above the floor, rating and ways.

    ``circuit`` is what feeds it, where that is not the service.
    """

    room: Handle
    wall: WallNumber
    at: AlongWall
    height: AboveFloor = usual(1524.0, "5'")
    amps: Amps = 100
    ways: Ways = 12
    taken: tuple[PanelWay, ...] = ()
    circuit: Handle | None = None

    def free(self) -> list[int]:
        """The ways not taken, in order. A breaker of two poles takes every second way: 1 and 3, 2 and 4."""
        held = {way.number + 2 * pole for way in self.taken for pole in range(way.poles)}
        return [n for n in range(1, self.ways + 1) if n not in held]


class Polyline(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A line of an imported drawing, in the drawing's own units with y already to the south."""

    layer: Note
    points: Annotated[tuple[tuple[DrawingUnits, DrawingUnits], ...], at_most(20_000)]
    closed: bool = False


class Underlay(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Lines of an imported drawing to trace: ``scale`` mm to one of its units, layers ``off`` hidden."""

    name: Note
    lines: Annotated[tuple[Polyline, ...], at_most(20_000)]
    scale: Scale = 1.0
    off: tuple[str, ...] = ()
    storey: Handle | None = None

    def placed(self, n: int) -> tuple[tuple[float, float], ...]:
        """The points of a line on the storey, mm."""
        return tuple((x * self.scale, y * self.scale) for x, y in self.lines[n].points)

    def stretch(self, n: int, k: int) -> float:
        """How long the ``k``-th stretch of a line is, mm."""
        a, b = self.placed(n)[k : k + 2]
        return math.dist(a, b)
