"""The drawing: rooms as measured, points as placed, and what is to work what.

Positions on the floor are millimetres from the first corner of the room, x to the east
and y to the south. Positions on a wall run from the wall's start, walls numbered from 1
in the order they were walked. Heights are above the finished floor.
"""

from __future__ import annotations

from typing import Any, Literal, TypeVar

import msgspec

from fjeld.drawing.handles import HOUSE, Handle
from fjeld.practice import Amendment
from fjeld.quantities import Length, Unit, Written

By = Literal["person", "fjeld"]
State = Literal["proposed", "pinned", "built"]
RoomUse = Literal[
    "boot", "living", "kitchen", "dining", "bed", "bath", "laundry", "hall", "stairs", "den", "library",
    "recreation", "sun", "family", "closet", "garage", "basement", "outdoors", "other",
]  # fmt: skip
PointKind = Literal["light", "switch", "outlet", "alarm", "fan", "junction"]
Protection = Literal["", "arc-fault", "ground-fault", "both"]
Edge = Literal["bottom", "center", "top"]


class House(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The choices that hold for the whole job."""

    name: str = "New job"
    practice: str = "na"
    unit: Unit = "ft-in"
    feed: Literal["switch", "light", "cheapest"] = "switch"
    two_position: Literal["chain", "strap"] = "chain"
    joining: Literal["pigtail", "feed-through"] = "pigtail"
    connectors: Literal["twist-on", "lever", "push-in"] = "twist-on"
    neutrals: Literal["rules", "everywhere"] = "rules"
    measure_from: Literal["framing", "finish"] = "framing"
    amendments: tuple[Amendment, ...] = ()
    overrides: dict[str, str] = {}


class Side(Written):
    """One wall as walked: compass bearing in degrees and measured length."""

    __slots__ = ("bearing", "length")

    def __init__(self, bearing: float, length: Length) -> None:
        self.bearing = bearing
        self.length = length


def _usual(mm: float, typed: str) -> Any:
    """A length that stands until someone measures."""
    return msgspec.field(default_factory=lambda: Length(mm, typed))


class Studs(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Wall framing of a room: on-center spacing, depth and thickness of a stud, first stud from each wall's start."""

    spacing: Length = _usual(406.4, '16"')
    depth: Length = _usual(88.9, '3 1/2"')
    thick: Length = _usual(38.1, '1 1/2"')
    first: Length = _usual(406.4, '16"')
    board: Length = _usual(12.7, '1/2"')


class Joists(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Ceiling framing of a room; ``first`` is measured from the north or west wall."""

    run: Literal["E-W", "N-S"] = "E-W"
    spacing: Length = _usual(406.4, '16"')
    first: Length = _usual(406.4, '16"')
    depth: Length = _usual(235.0, '9 1/4"')
    thick: Length = _usual(38.1, '1 1/2"')


class Room(
    msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, rename={"sides": "walls"}
):
    """A room walked with a tape, wall after wall."""

    name: str
    sides: tuple[Side, ...] = ()
    use: RoomUse = "other"
    height: Length = _usual(2438.4, "8'")
    studs: Studs = msgspec.field(default_factory=Studs)
    joists: Joists = msgspec.field(default_factory=Joists)


class Opening(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A door, cased opening or window; ``at`` is its near edge from the wall's start.

    ``hinge`` says at which edge the door hangs, as seen walking along the wall.
    """

    kind: Literal["door", "cased", "window"]
    room: Handle
    wall: int
    at: Length
    width: Length
    head: Length = _usual(2032.0, '80"')
    sill: Length = _usual(0.0, '0"')
    hinge: Literal["start", "end"] = "start"


class Panel(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The panel on a wall: center along the wall and above the floor, rating and ways."""

    room: Handle
    wall: int
    at: Length
    height: Length = _usual(1524.0, "5'")
    amps: int = 100
    ways: int = 12


class Point(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A box and what sits on it.

    On a wall: ``wall``, ``at`` (box center from the wall's start) and ``height`` (to the
    ``edge`` of the box that people measure; empty means by kind). On the ceiling:
    ``wall`` 0 and ``x``, ``y``. ``circuit`` is empty for a switch: it follows its loads.
    ``lumens`` and ``beam`` (degrees) say what a light throws, where someone knows.
    """

    kind: PointKind
    room: Handle
    wall: int = 0
    at: Length | None = None
    height: Length | None = None
    edge: Edge | None = None
    x: Length | None = None
    y: Length | None = None
    circuit: Handle | None = None
    row: str = ""
    va: float | None = None
    lumens: float | None = None
    beam: float | None = None
    continuous: bool = False
    neutral: Literal["rule", "yes", "no"] = "rule"
    line: bool = False
    box: str = ""
    by: By = "person"
    state: State = "proposed"


class Control(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Which switch positions work which loads.

    A load is a point's handle, or a part of it: ``O2.upper`` (the upper half of an
    outlet), ``F1.fan``, ``F1.light``.
    """

    positions: tuple[Handle, ...]
    loads: tuple[str, ...]
    name: str = ""
    style: Literal["", "chain", "strap"] = ""


class Circuit(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A breaker and the cable gauge behind it."""

    name: str
    breaker: int = 15
    gauge: str = "14"
    protection: Protection = ""


class Cable(
    msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, rename={"a": "from", "b": "to"}
):
    """A cable between two boxes of a circuit; ``measured`` is a length held up by a person."""

    a: Handle
    b: Handle
    circuit: Handle
    measured: Length | None = None
    by: By = "fjeld"
    state: State = "proposed"


Item = House | Room | Opening | Panel | Point | Control | Circuit | Cable
ItemT = TypeVar("ItemT", House, Room, Opening, Panel, Point, Control, Circuit, Cable)


class Drawing(msgspec.Struct, frozen=True):
    """All items of a job by handle. Treat ``items`` as read-only: changes make a new drawing."""

    items: dict[Handle, Item] = msgspec.field(default_factory=lambda: {HOUSE: House()})

    @property
    def house(self) -> House:
        found = self.items[HOUSE]
        assert isinstance(found, House)
        return found

    def of(self, kind: type[ItemT]) -> dict[Handle, ItemT]:
        """The items of one class, in the drawing's order."""
        return {handle: item for handle, item in self.items.items() if isinstance(item, kind)}

    def get(self, handle: str, kind: type[ItemT]) -> ItemT:
        """The item of that class; raises ``KeyError`` when there is none."""
        item = self.items.get(Handle(handle))
        if not isinstance(item, kind):
            raise KeyError(handle)
        return item


def load_point(load: str) -> Handle:
    """The handle of the point that a load reference names."""
    return Handle(load.partition(".")[0])


def load_part(load: str) -> str:
    """The part a load reference names, empty for the whole point."""
    return load.partition(".")[2]


#: The parts of a point that can be worked apart from each other.
PARTS: dict[str, tuple[str, ...]] = {"outlet": ("upper", "lower"), "fan": ("fan", "light")}
