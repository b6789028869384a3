"""What the Proof screen shows in its dock and its workings."""

from __future__ import annotations

from fjeld.derive.boxes import Box
from fjeld.derive.conductors import Conductor
from fjeld.drawing.handles import Handle
from fjeld.prove.proof import ControlProof, LiveConductor, StateRow
from fjeld.web.ui.panel import Shown


class StateCell(Shown, frozen=True):
    """One state of a control's switches, and the address that stands them so."""

    row: StateRow
    lit: bool
    here: bool
    href: str
    words: str


class ControlStrip(Shown, frozen=True):
    """A control over all its states."""

    control: Handle
    name: str
    proof: ControlProof
    cells: list[StateCell]


class BreakerCell(Shown, frozen=True):
    """A breaker, whether it is off, and the address that throws it."""

    handle: Handle
    name: str
    off: bool
    href: str


class Dock(Shown, frozen=True, kw_only=True):
    """The truth strip of each control, and the breakers; ``circuits`` are those that can be looked
    at alone.
    """

    strips: list[ControlStrip]
    focus: Handle | None
    circuits: list[tuple[Handle, str, str]]
    every: str
    elsewhere: list[Handle]
    breakers: list[BreakerCell]
    unfed: list[str]
    fed: int
    unread: bool
    wired: bool


class Condition(Shown, frozen=True):
    """A conductor in a box, with what stays live of it by its switch and by its breaker."""

    c: Conductor
    circuit: Handle
    switch: LiveConductor
    breaker: LiveConductor


class LampVolts(Shown, frozen=True):
    """What a load reads as the switches stand."""

    key: str
    volts: float
    band: str


class Watching(Shown, frozen=True):
    """What a protective device sees go missing, mA, and at how much it opens."""

    name: str
    missing: float
    trips: float
    opens: bool


class Workings(Shown, frozen=True, kw_only=True):
    """What is still live in the selected box, conductor by conductor; what each lamp reads."""

    box: Box | None
    near_old: str
    begins: str
    rows: list[Condition]
    dark: list[str]
    lamps: list[LampVolts]
    watching: list[Watching]
    netlist: str
