"""What the Survey screen shows in its dock and its workings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fjeld.check import Finding
from fjeld.derive.house import RoomShape
from fjeld.derive.joins import Misfit
from fjeld.drawing.building import Body, Build, Join, Opening, Panel, Polyline, Room, Storey, Underlay
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import Lead, OldBox, OldCable
from fjeld.graphics.shapes import Shape
from fjeld.quantities import Length
from fjeld.web.places.records import Kept
from fjeld.web.places.shots import Shot
from fjeld.web.ui.panel import Choices, Shown


class SideRow(Shown, frozen=True):
    """A wall as walked: its way in words, its length as typed and as it stands, mm."""

    n: int
    way: str
    length: Length
    typed: str
    shown: float


class Dock(Shown, frozen=True, kw_only=True):
    """The tape line and the notebook of walls; with no room, only what a room can be used for."""

    uses: tuple[str, ...]
    room: Room | None = None
    storeys: Mapping[Handle, Storey] = {}
    sides: list[SideRow] = []
    bearing: str = ""
    bearings: list[str] = []
    reading: str = ""
    misread: bool = False
    tape_ready: bool = False
    asked: list[tuple[Handle, str, Length]] = []
    strip: Shape | None = None


class TracedLine(Shown, frozen=True):
    """A stretch of an underlay, chosen to scale by."""

    line: int
    part: int
    length: float


class Traced(Shown, frozen=True):
    """An underlay's layers, the stretch chosen to scale by, and the closed lines that could be rooms (number,
    line, m²).
    """

    item: Underlay
    layers: dict[str, int]
    chosen: TracedLine | None
    rooms: list[tuple[int, Polyline, float]]


class Workings(Shown, frozen=True, kw_only=True):
    """The selected thing, or the room: how it closes and what it is built of."""

    room: Room | None
    square: bool
    room_handle: Handle | None
    where: RoomShape | None
    uses: tuple[str, ...]
    surfaces: tuple[str, ...]
    wall: int
    build: Build | None
    wall_flags: list[tuple[str, str, Any]]
    wall_measures: list[tuple[str, str, str]]
    opening: Opening | None
    join: tuple[Handle, Join] | None
    misfit: Misfit | None
    panel: Panel | None
    body: Body | None
    old: OldBox | None
    wires: list[tuple[OldCable, list[tuple[Lead, str]]]]
    read_there: list[Kept]
    cables_are: list[tuple[str, str, str]]
    shots: list[Shot]
    carries: Choices
    errands: Choices
    true_false: Choices
    yes_no_open: Choices
    ahead: Choices
    conditions: Choices
    grounds: Choices
    materials: Choices
    serves: Choices
    feeders: Choices
    underlay: Traced | None
    underlays: Mapping[Handle, Underlay]
    limit: float
    closing: Finding | None
    open_or_finished: Choices
    yes_no: Choices
    grades: Choices
    held: list[Handle]
    storey: Storey | None
    storey_rooms: list[Handle]
    storeys: Choices
    way: str
    things: list[tuple[Handle, str, Opening | Panel | Body | OldBox]]
