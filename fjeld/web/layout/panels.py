"""What the Layout screen shows in its dock and its workings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fjeld.derive.light import LightMap
from fjeld.derive.places import Mark, Placed
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Fitting, Photometry, Point
from fjeld.graphics.shapes import Shape
from fjeld.propose.reach import Bands
from fjeld.propose.rows import Array
from fjeld.quantities import Working
from fjeld.web.http.trial import Trial
from fjeld.web.ui.coverage import Coverage
from fjeld.web.ui.panel import Choices, Shown


class ArrayOffer(Shown, frozen=True):
    """An array that suits the room, with the evenness of its light."""

    across: int
    down: int
    array: Array
    even: float | None


class Dock(Shown, frozen=True, kw_only=True):
    """What can be put in, with what the array being tried would cost; the reach band beneath."""

    array: Array | None
    moved: float
    refused: str
    offered: Trial | None
    params: dict[str, str]
    doors: list[Handle]
    missing: int
    closed: bool
    strip: Shape
    room_name: str
    arrays: list[ArrayOffer]
    evenness: float | None
    usual: str
    schools: Choices
    tables: list[Handle]
    walls: list[int]


class EdgeWords(Shown, frozen=True):
    """The edge of a box that a height is measured to."""

    edge: str
    words: str


class Light(Shown, frozen=True, kw_only=True):
    """What the workings say of the light map: mean, least, evenness, each light left out, one more at the
    darkest spot.
    """

    map: LightMap
    wanted: float | None
    without: list[tuple[str, Any]]
    estimated: list[Handle]
    guess: tuple[float, float]
    surfaces: tuple[float, float, float]
    plane: str
    height: float


class SheetLength(Shown, frozen=True):
    """A length asked of a fitting's sheet, as typed."""

    field: str
    label: str
    value: str


class Blades(Shown, frozen=True):
    """A fan's blades: height above the floor and sweep, mm, and whether they are guessed."""

    height: float
    sweep: float
    guess: bool


class Extent(Shown, frozen=True):
    """Where a fitting's body ends, mm above the floor."""

    foot: float
    top: float


class FittingSheet(Shown, frozen=True, kw_only=True):
    """The sheet of a light or fan with what is computed from it."""

    sheet: Fitting
    mount: str
    lengths: list[SheetLength]
    weight: str
    fan: Blades | None
    cord: Working | None
    body: Extent | None
    files: Mapping[Handle, Photometry]
    over: list[Handle]
    by_code: bool
    recessed: bool
    light: bool


class Setback(Shown, frozen=True):
    """How proud of the framing a device's box stands, mm."""

    proud: float
    closed: bool
    surface: str


class Beside(Shown, frozen=True):
    """A bed or seat in hand: where its reading lights are in reach."""

    kind: str
    bands: Bands | None
    table: bool


class Workings(Shown, frozen=True, kw_only=True):
    """The selected box: its tape readings large, its height, how it meets the framing."""

    point: Point | None
    handle: Handle
    placed: Placed | None
    gap: float | None
    exposures: Choices
    fastening: str
    mark: Mark | None
    height: EdgeWords | None
    row: list[Handle]
    table: list[tuple[Handle, Placed, Mark, Any]]
    light: Light | None
    ways: Choices
    sheet: FittingSheet | Setback | None
    protects: bool
    hosts: Choices
    yes_no: Choices
    covered: Coverage | None
    over_options: list[str]
    file_options: list[str]
    body: Beside | None
    frame_word: str
    from_word: str
