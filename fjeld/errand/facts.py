"""What is known of a box and its circuit beside its wires, and a gate that it passes or does not."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.old_box import Ahead
from fjeld.judge.work import LoadItem
from fjeld.quantities import Length

Is = Literal["yes", "change", "unknown", "no"]
Wants = Literal["", "light", "outlet", "alarm", "fan", "switch", "heater", "same switch"]


#: How a gate begins that waits for the room.
WHICH_ROOM = "say which room it is in"


class BoxFacts(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is wanted, and what else is known of a box and its circuit. A blank is not known.

    ``minutes`` and ``metres`` are those of the way to it; ``way`` the new cable's length. ``changes`` where
    nothing new is fed and only what is there changes.
    """

    wants: Wants = ""
    room: str = ""
    va: float | None = None
    continuous: bool = False
    circuit: str = ""
    one_bathroom: bool = False
    breaker: float | None = None
    gauges: tuple[str, ...] = ()
    volume: float | None = None
    size: str = ""
    depth: int | None = None
    clamps: bool | None = None
    add: str = ""
    ground: Literal["", "present", "none"] = ""
    condition: Literal["", "sound", "aluminium", "cracked", "cloth", "knob and tube", "scorched"] = ""
    year: int | None = None
    loads: tuple[LoadItem, ...] | None = None
    opening: bool | None = None
    reachable: bool | None = None
    blocked: bool | None = None
    one_circuit: bool | None = None
    near_water: bool = False
    ahead: Ahead = ""
    way: Length | None = None
    minutes: float = 0.0
    metres: float = 0.0
    changes: bool = False


class Gate(msgspec.Struct, frozen=True):
    """A gate: what it asks, whether it is open, why, the reading that settles it, and the minutes that a
    change takes.
    """

    id: str
    asks: str
    is_: Is
    words: str
    settles: str = ""
    basis: str = ""
    minutes: float = 0.0
