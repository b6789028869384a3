"""Parts on sale as data: boxes, cables, connectors, coils and prices, and what follows from them alone."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.practice.kinds import MM
from fjeld.quantities import FOOT

#: Copper at 20 °C against its resistance at 75 °C.
COLD = (234.5 + 20) / (234.5 + 75)


class BoxKind(msgspec.Struct, frozen=True):
    """A box on sale. ``width`` and ``height`` mm of the body (0: as tall as wide); ``cents`` its list price.

    ``volume`` in in³, or the number of cables it takes where the practice counts those; ``with_socket`` how
    many behind a socket, where that is fewer, and ``depth`` by what it is told, mm. ``surface`` says what it
    is fastened in: open framing, a finished surface that it is cut into, or any. ``outline`` is a ceiling
    box's where it is not round. ``fan_kg`` is the fan it is listed to carry, 0 for none; ``brace`` that it
    brings its own; ``outdoor`` that it is made for wet places, with its cover.
    """

    id: str
    name: str
    shape: Literal["device", "ceiling"]
    gangs: int
    volume: float
    width: float
    cents: int
    metal: bool = False
    clamps: bool = False
    end_of_run_only: bool = False
    surface: Literal["open", "finished", "any"] = "open"
    fan_kg: float = 0.0
    brace: bool = False
    height: float = 0.0
    depth: int = 0
    with_socket: float | None = None
    outline: Literal["", "octagon", "square"] = ""
    outdoor: bool = False

    def holds(self, socket: bool) -> float:
        """What it takes, behind a socket or not."""
        return self.with_socket if socket and self.with_socket is not None else self.volume


Grip = Literal["wings", "lugs", "side", "screws", "wood", "springs", "brace"]


class OldWorkBox(msgspec.Struct, frozen=True):
    """A box that is cut in. ``body`` and ``cut``-out wide and high, ``depth`` behind the face; ``throw`` how
    far its grip swings beyond the cut-out sideways; ``board`` the least and the most that it grips;
    ``surface`` where it goes. All in mm, but ``volume``, in³, where it is sold by that. ``spans`` is the
    clear space that its bar bridges, at least and at most, mm; ``round`` that its hole is round.
    """

    id: str
    name: str
    body: tuple[float, float]
    cut: tuple[float, float]
    depth: float
    grip: Grip
    throw: float
    board: tuple[float, float]
    surface: Literal["wall", "ceiling"] = "wall"
    volume: float = 0.0
    spans: tuple[float, float] | None = None
    round: bool = False

    @property
    def on_member(self) -> bool:
        """Whether it is fastened to a stud or a joist itself, and so stands nowhere else."""
        return self.grip in ("side", "wood")


class CableKind(msgspec.Struct, frozen=True):
    """A cable on sale: gauge, insulated conductor colours in order, price a foot or metre, width in mm.

    ``ground`` is the gauge of its protective conductor, where that is another.
    """

    id: str
    gauge: str
    colours: tuple[str, ...]
    cents: int
    width: float
    ground: str = ""

    @property
    def insulated(self) -> int:
        return len(self.colours)


class ConnectorKind(msgspec.Struct, frozen=True):
    """A connector: the copper (mm²) and the number of conductors it takes."""

    id: str
    family: str
    name: str
    least_area: float
    most_area: float
    most_count: int
    cents: int
    least_count: int = 2
    gauges: tuple[str, ...] = ("18", "16", "14", "12", "10")


class Gauge(msgspec.Struct, frozen=True):
    """A conductor size: copper area (mm²), its resistance as its table gives it, breaker it limits to.

    Either solid copper at 75 °C in Ω/1000 ft, or at 20 °C in mΩ/m with the volt drop of a
    cable in mV/A/m there and back.
    """

    id: str
    area: float
    breaker: int
    ohms_per_1000_ft: float = 0.0
    milliohms_per_metre: float = 0.0
    drop_millivolts: float = 0.0

    @property
    def cold(self) -> float:
        """One conductor at 20 °C, Ω/m."""
        if self.milliohms_per_metre:
            return self.milliohms_per_metre / 1000
        return self.ohms_per_1000_ft * COLD / FOOT

    @property
    def there_and_back(self) -> float:
        """Two conductors, loaded and warm, Ω/m."""
        if self.drop_millivolts:
            return self.drop_millivolts / 1000
        return 2 * self.ohms_per_1000_ft / FOOT


class Coil(msgspec.Struct, frozen=True):
    """A coil on offer for every kind of cable: its length in feet or metres, its price as a factor
    on theirs.
    """

    length: int
    factor: float


class Catalogue(msgspec.Struct, frozen=True):
    """Generic parts of the practice; makers' printed data overrule them.

    ``parts`` and ``names`` give each further part its price in cents and its name, ``cable``
    among the names with a place for the kind. Cable is sold by ``cable_unit``; ``breakers``
    are the ratings on sale, A, and ``protections`` what they may
    come with, in words. ``sleeves`` is the sleeving, mm, cut for an end of a bare ground and for a mark.

    ``old_work`` are the boxes that are cut into what is closed, each of them ``gang`` mm wider for a device
    more. What a box in a wall holds is told by the inside size of one that is ``unstamped``, in³, or by its
    depth.
    """

    boxes: tuple[BoxKind, ...]
    cables: tuple[CableKind, ...]
    connectors: tuple[ConnectorKind, ...]
    gauges: tuple[Gauge, ...]
    coils: tuple[Coil, ...]
    parts: dict[str, int]
    names: dict[str, str]
    breakers: tuple[int, ...]
    protections: dict[str, str]
    currency: str = "$"
    plates_apart: bool = True
    cable_unit: Literal["ft", "m"] = "ft"
    box_unit: Literal["in³", "cables"] = "in³"
    sleeves: tuple[float, float] = (0.0, 0.0)
    old_work: tuple[OldWorkBox, ...] = ()
    gang: float = 0.0
    unstamped: dict[str, float] = {}

    @property
    def cable_unit_mm(self) -> float:
        """The unit that cable is sold by, in mm."""
        return MM[self.cable_unit]

    @property
    def hole_length(self) -> float:
        """What a bored hole is worth in mm of the thinnest two-wire cable that circuits are wired in."""
        return self.parts["hole"] / self.price_of_mm(self.wired_gauges()[0], 2)

    def body(self, shape: Literal["device", "ceiling"], gangs: int = 1) -> tuple[float, float]:
        """Width and height, mm, of the body that a box of so many gangs has here, before one is chosen.

        The narrowest on sale that holds them; the widest there is where none does.
        """
        of = [b for b in self.boxes if b.shape == shape and not b.end_of_run_only and not b.brace]
        fitting = [b for b in of if shape == "ceiling" or b.gangs >= gangs]
        box = min(fitting, key=lambda b: (b.gangs, b.width)) if fitting else max(of, key=lambda b: b.width)
        return box.width, box.height or box.width

    def deepest(self, depth: float) -> BoxKind | None:
        """The one-gang box by whose depth one that is ``depth`` mm deep is told; None where all
        are deeper.
        """
        return max((b for b in self.told_by_depth if b.depth <= depth), key=lambda b: b.depth, default=None)

    @property
    def told_by_depth(self) -> list[BoxKind]:
        """The one-gang boxes that are told by their depth, the shallowest first; none where volumes are
        stamped.
        """
        known = {b.depth: b for b in self.boxes if b.depth and b.gangs == 1}
        return [known[depth] for depth in sorted(known)]

    def box_name(self, box: BoxKind) -> str:
        """A box as it stands on a list, with what it holds."""
        return f"{box.name}, {box.volume:g} {self.box_unit}"

    def cable_name(self, kind: str) -> str:
        """A kind of cable as it stands on a list."""
        return self.names["cable"].format(kind)

    def wired_gauges(self) -> list[str]:
        """The gauges that circuits are wired in, least first."""
        return [
            g.id
            for g in sorted(self.gauges, key=lambda g: g.area)
            if any(c.gauge == g.id for c in self.cables)
        ]

    def price_of_mm(self, gauge: str, insulated: int) -> float:
        """Cents for a mm of what carries so many insulated conductors; two cables beyond the largest."""
        kind = self.cable(gauge, max(2, insulated))
        if kind:
            return kind.cents / self.cable_unit_mm
        largest = self.most_insulated(gauge)
        return self.price_of_mm(gauge, largest) + self.price_of_mm(gauge, insulated - largest + 1)

    def gauge(self, gauge: str) -> Gauge:
        """A gauge by its name; raises ``KeyError``."""
        for g in self.gauges:
            if g.id == gauge:
                return g
        raise KeyError(gauge)

    def cable(self, gauge: str, insulated: int) -> CableKind | None:
        """The smallest cable of ``gauge`` with at least ``insulated`` conductors, or none."""
        fitting = [c for c in self.cables if c.gauge == gauge and c.insulated >= insulated]
        return min(fitting, key=lambda c: c.insulated, default=None)

    def most_insulated(self, gauge: str) -> int:
        """Insulated conductors in the largest cable of a gauge; two where there is none."""
        return max((c.insulated for c in self.cables if c.gauge == gauge), default=2)

    def families(self) -> list[str]:
        """The families of connectors on sale."""
        return list(dict.fromkeys(c.family for c in self.connectors))

    def cable_by_id(self, cable: str) -> CableKind:
        return next(c for c in self.cables if c.id == cable)

    def box(self, box: str) -> BoxKind | None:
        return next((b for b in self.boxes if b.id == box), None)
