"""The drawing: rooms as measured, points as placed, and what is to work what.

Positions on the floor are millimetres from the first corner of their room, x to the east
and y to the south. Positions on a wall run from the wall's start, walls numbered from 1
in the order they were walked. Heights are above the finished floor of their storey. A
measure that nobody has taken yet is written ``?``, with what is assumed meanwhile after it.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal, TypeAlias, TypeVar, cast

import msgspec

from fjeld.drawing.building import (
    Body,
    Join,
    Opening,
    Panel,
    Room,
    Storey,
    Underlay,
)
from fjeld.drawing.errand import Errand
from fjeld.drawing.extents import (
    AboveFloor,
    AlongWall,
    BeamDegrees,
    BreakerAmps,
    Candela,
    Cents,
    Cords,
    CutLength,
    FittingSize,
    InRoom,
    Kilograms,
    Lumens,
    MeasuredLumens,
    Name,
    Note,
    VerticalAngle,
    VoltAmperes,
    WallNumber,
    Ways,
    at_most,
)
from fjeld.drawing.handles import HOUSE, Handle, order
from fjeld.drawing.old_box import OldBox
from fjeld.practice import USUAL, Amendment, Practice
from fjeld.quantities import Unit, Written

By = Literal["person", "fjeld"]
State = Literal["proposed", "pinned", "built"]
PointKind = Literal["light", "switch", "outlet", "alarm", "fan", "junction", "blank"]
Mount = Literal["", "surface", "recessed", "pendant", "wall", "outdoor"]
Sensing = Literal["", "photoelectric", "ionization", "heat", "carbon monoxide"]
Rating = Literal["", "dry", "damp", "wet"]
Protection = Literal["", "arc-fault", "ground-fault", "both", "residual"]
Edge = Literal["bottom", "center", "top"]
#: What stands behind a switch's lever, beside its contact.
SwitchKind = Literal["", "dimmer", "timer", "sensor"]


class Override(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Why a finding was let rest, by whom, and what it measured then: a worse one is told again."""

    reason: Note
    measure: float | None = None
    severity: Literal["", "danger", "breach", "advice", "ask"] = ""


#: The families that join conductors. As text: so that one that was written out, though usual, stays written
#: out when it is read again (what is left out is known by being the default itself), and equal drawings of
#: one history keep their bytes.
Connectors: TypeAlias = 'Literal["twist-on", "lever", "push-in"]'


class House(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The choices that hold for the whole job. ``errand`` is what it is about, where that is one thing in a
    room that stays closed.
    """

    name: Name = "New job"
    practice: Name = USUAL
    unit: Unit = "ft-in"
    feed: Literal["switch", "light", "cheapest"] = "switch"
    two_position: Literal["chain", "strap"] = "chain"
    joining: Literal["pigtail", "feed-through"] = "pigtail"
    connectors: Connectors = "twist-on"
    neutrals: Literal["rules", "everywhere"] = "rules"
    measure_from: Literal["framing", "finish"] = "framing"
    amendments: Annotated[tuple[Amendment, ...], at_most(200)] = ()
    overrides: dict[str, str | Override] = {}
    prices: dict[str, Cents] = {}
    errand: Errand | None = None


def new_house(name: str, practice: Practice, errand: Errand | None = None) -> House:
    """What a job begins with under a practice: its unit, and the connectors that are usual there."""
    # It is written out, usual or not: whoever reads the job need not know what is usual.
    return House(
        name,
        practice.id,
        practice.unit,
        connectors=cast(Connectors, practice.catalogue.families()[0]),
        errand=errand,
    )


class Fitting(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """What the maker's paper says of a fitting. What is blank is not known, and is asked for.

    ``hole`` across, ``depth`` needed above or behind, ``body`` width and height with
    how far its left edge and its foot lie from the box's center. ``cords`` drop to
    ``clearance`` over what is below. ``blades`` is a fan's sweep, ``downrod`` its rod.
    ``weight`` in kg; ``rating`` and ``ip`` say how it is sealed, by the words or the code of its practice.
    """

    name: Name = ""
    hole: FittingSize | None = None
    depth: FittingSize | None = None
    body_width: FittingSize | None = None
    body_height: FittingSize | None = None
    body_left: FittingSize | None = None
    body_below: FittingSize | None = None
    weight: Kilograms | None = None
    rating: Rating = ""
    ip: Name = ""
    insulation_contact: bool | None = None
    cords: Cords = 1
    clearance: FittingSize | None = None
    shade: FittingSize | None = None
    blades: FittingSize | None = None
    downrod: FittingSize | None = None
    body_drop: FittingSize | None = None
    photometry: str = ""


class Point(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A box and what sits on it.

    On a wall: ``wall``, ``at`` (box center from the wall's start) and ``height`` (to the ``edge`` of the box
    that people measure; empty means by kind). On the ceiling: ``wall`` 0 and ``x``, ``y``. ``circuit`` is
    empty for a switch: it follows its loads. ``lumens`` and ``beam`` (degrees) say what a light throws, where
    someone knows. ``within`` names the switch or outlet in whose box this one sits, on a ``yoke`` with it or
    on its own. ``chain`` gives a light a pull chain of its own. ``leg`` is which line of a circuit of two
    poles it hangs on. ``over`` names the body that a light, pendant or fan belongs to. ``exposure`` is what a
    place by water or outdoors comes to, where someone has looked: damp (out of the spray, under a roof) or
    wet.
    """

    kind: PointKind
    room: Handle
    wall: WallNumber = 0
    at: AlongWall | None = None
    height: AboveFloor | None = None
    edge: Edge | None = None
    x: InRoom | None = None
    y: InRoom | None = None
    circuit: Handle | None = None
    leg: Literal[1, 2] = 1
    row: Name = ""
    va: VoltAmperes | None = None
    lumens: Lumens | None = None
    beam: BeamDegrees | None = None
    mount: Mount = ""
    fitting: Fitting | None = None
    over: Handle | None = None
    within: Handle | None = None
    yoke: bool = False
    sensing: Sensing = ""
    link: Literal["wire", "radio"] = "wire"
    exposure: Literal["", "damp", "wet"] = ""
    protective: bool = False
    chain: bool = False
    continuous: bool = False
    neutral: Literal["rule", "yes", "no"] = "rule"
    line: bool = False
    box: Name = ""
    by: By = "person"
    state: State = "proposed"

    @property
    def shares_yoke(self) -> bool:
        """Whether its device is on one yoke with that whose box it sits in."""
        return self.yoke and self.within is not None


class LoadRef(Written):
    """What a control works: a ``point``, or a ``part`` of one that is worked apart (see :data:`PARTS`).

    In text, as in a job file or an address, it is ``A1``, ``O2.upper`` (the upper half of an outlet) or
    ``F1.fan``.
    """

    __slots__ = ("part", "point")

    def __init__(self, point: Handle, part: str = "") -> None:
        self.point = point
        self.part = part

    def __str__(self) -> str:
        return f"{self.point}.{self.part}" if self.part else self.point

    def __repr__(self) -> str:
        return str(self)

    @classmethod
    def read(cls, text: str) -> LoadRef:
        """A reference out of its text."""
        point, _, part = text.partition(".")
        return cls(Handle(point), part)

    def holds(self, other: LoadRef) -> bool:
        """Whether another is the same, or a part of it."""
        return self.point == other.point and self.part in ("", other.part)

    def meets(self, other: LoadRef) -> bool:
        """Whether two are of the same thing, or one of a part of the other."""
        return self.holds(other) or other.holds(self)


class Control(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Which switch positions work which loads.

    ``device`` is what its first position is, where that is no plain switch.
    """

    positions: Annotated[tuple[Handle, ...], at_most(20)]
    loads: Annotated[tuple[LoadRef, ...], at_most(200)]
    name: Name = ""
    style: Literal["", "chain", "strap"] = ""
    device: SwitchKind = ""


class Circuit(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A breaker and the cable gauge behind it; ``way`` is its place in the panel, where someone has chosen
    it.

    ``source`` is where it begins: another panel than the first, or an old box, of whose cables ``found``, by
    its number, brings its line. With two ``poles`` it has a line on each leg of the supply, and one neutral
    for both. A ``ring`` leaves its breaker by two cables that meet. ``lies`` is the worst way that its cable
    lies along its run, by the method of the tables, where someone has said.
    """

    name: Name
    breaker: BreakerAmps = 15
    gauge: Name = "14"
    protection: Protection = ""
    way: Ways | None = None
    source: Handle | None = None
    found: Name = ""
    poles: Literal[1, 2] = 1
    ring: bool = False
    lies: Literal["", "C", "100", "101", "102", "103", "A"] = ""


class Cable(
    msgspec.Struct,
    frozen=True,
    omit_defaults=True,
    forbid_unknown_fields=True,
    rename={"a": "from", "b": "to"},
):
    """A cable between two boxes of a circuit; ``measured`` is a length held up by a person.

    ``gauge`` is this piece's own where it is not its circuit's. ``load_side`` joins its end nearer
    the panel to the load side of the protective outlet there, which then covers what lies beyond.
    """

    a: Handle
    b: Handle
    circuit: Handle
    measured: CutLength | None = None
    by: By = "fjeld"
    state: State = "proposed"
    gauge: Name = ""
    load_side: bool = False


class Photometry(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Measured light of a fitting: candela by vertical angle from straight down, each a mean around, and
    lumens.
    """

    name: Note
    angles: Annotated[tuple[VerticalAngle, ...], at_most(2_000)]
    candela: Annotated[tuple[Candela, ...], at_most(2_000)]
    lumens: MeasuredLumens


Item = (
    House
    | Storey
    | Room
    | Opening
    | Join
    | Body
    | Panel
    | OldBox
    | Photometry
    | Underlay
    | Point
    | Control
    | Circuit
    | Cable
)
ItemT = TypeVar(
    "ItemT",
    House,
    Storey,
    Room,
    Opening,
    Join,
    Body,
    Panel,
    OldBox,
    Photometry,
    Underlay,
    Point,
    Control,
    Circuit,
    Cable,
)
#: What stands in a room, on one of its walls or free.
Standing = Opening | Body | Panel | OldBox | Point


class Drawing(msgspec.Struct, frozen=True, dict=True):
    """All items of a job by handle. Treat ``items`` as read-only: changes make a new drawing.

    What is looked up of it again and again is looked for once, and kept beside its items.
    """

    items: dict[Handle, Item] = msgspec.field(default_factory=lambda: {HOUSE: House()})

    @property
    def house(self) -> House:
        found = self.items[HOUSE]
        assert isinstance(found, House)
        return found

    def of(self, kind: type[ItemT]) -> Mapping[Handle, ItemT]:
        """The items of one class, in the drawing's order."""
        name = f"of {kind.__name__}"
        if name not in self.__dict__:
            self.__dict__[name] = {h: item for h, item in self.items.items() if isinstance(item, kind)}
        found: Mapping[Handle, ItemT] = self.__dict__[name]
        return found

    def get(self, handle: str, kind: type[ItemT]) -> ItemT:
        """The item of that class; raises ``KeyError`` when there is none."""
        item = self.items.get(Handle(handle))
        if not isinstance(item, kind):
            raise KeyError(handle)
        return item


def home(points: Mapping[Handle, Point], handle: Handle) -> Handle:
    """The box that a point's device is in: its own, or the one it sits within."""
    point = points.get(handle)
    return point.within if point is not None and point.within is not None else handle


def first_panel(drawing: Drawing) -> Handle | None:
    """The panel that circuits begin at where nothing else is said: the first that no circuit feeds."""
    panels = drawing.of(Panel)
    return min(
        (h for h, p in panels.items() if p.circuit is None),
        key=order,
        default=min(panels, key=order, default=None),
    )


#: The parts of a point that can be worked apart from each other.
PARTS: dict[str, tuple[str, ...]] = {"outlet": ("upper", "lower"), "fan": ("fan", "light")}
