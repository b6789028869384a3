"""What the Circuits screen shows in its dock and its workings."""

from __future__ import annotations

from collections.abc import Mapping

from fjeld.derive.circuits import CircuitFigures
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Circuit, Control, Point
from fjeld.web.ui.panel import Choices, Shown


class PanelRow(Shown, frozen=True):
    """A panel's ways: all, taken and free."""

    handle: Handle
    ways: int
    used: int
    free: int


class LoadBar(Shown, frozen=True):
    """A circuit's load against its breaker; ``width`` in % of the bar."""

    handle: Handle
    plan: CircuitPlan
    figures: CircuitFigures
    width: float
    over: bool


class Dock(Shown, frozen=True):
    """Load bars against each breaker, what the panels will hold, and what is on no circuit."""

    bars: list[LoadBar]
    panels: list[PanelRow]
    loose: list[Handle]


#: Switches or loads under a room's name: reference and name.
ByRoom = list[tuple[str, list[tuple[str, str]]]]


class Workings(Shown, frozen=True, kw_only=True):
    """The selected control, circuit or point, and the form that makes a control."""

    control: Control | None
    worked: list[str]
    circuit: Circuit | None
    point: Point | None
    handle: str
    switches: ByRoom
    loads: ByRoom
    controls: list[tuple[Handle, str, str, str, int]]
    chosen: str
    circuits: Mapping[Handle, Circuit]
    figures: CircuitFigures | None
    drop_limit: float | None
    va: tuple[float, bool] | None
    members: list[Handle]
    breakers: list[int]
    gauges: list[str]
    sources: Choices
    switch_kinds: Choices
    switch_kind: str
    legs: int
    poles: tuple[tuple[int, str], ...]
    lies: tuple[tuple[str, str], ...]
    leg_names: tuple[tuple[int, str], ...]
    two_legs: bool
    begins: str
    begins_old: bool
    protections: Choices
    chain: tuple[Handle, ...]
