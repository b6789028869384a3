"""What a voltage shows that was taken with and without a load: live, dead, induced, through a load, or
nothing yet.
"""

from __future__ import annotations

from typing import Literal

import msgspec

Showing = Literal["hot", "dead", "ghost", "load", "unsure"]

#: Less than this is dead or induced, V; less than that comes through a load; a line that is whole keeps this
#: share of its volts under one. By how meters and their small load are made, and no practice's own.
DEAD_BELOW, THROUGH_ABOVE, LIVE_SHARE = 5.0, 30.0, 0.9


class Volts(msgspec.Struct, frozen=True):
    """A voltage with the 10 MΩ input and, where it was taken, with 3 kΩ."""

    open: float
    loaded: float | None = None

    def shows(self, nominal: float) -> Showing:
        """Hot, dead, a ghost, or through a load: never rounded to hot or dead.

        ``unsure`` where the loaded reading is wanted, or where it is a few volts that say nothing.
        """
        if self.open < DEAD_BELOW:
            return "dead"
        if self.loaded is None:
            return "hot" if self.open >= LIVE_SHARE * nominal else "unsure"
        if self.loaded < DEAD_BELOW:
            return "ghost"
        if self.loaded >= LIVE_SHARE * nominal:
            return "hot"
        # A few volts stand at the far end of any long neutral.
        return "load" if self.open >= THROUGH_ABOVE else "unsure"


def through_a_load(volts: Volts) -> bool:
    """Whether what stays under a load stands behind something: little of it, or much less than without."""
    return volts.loaded is not None and (
        volts.loaded < THROUGH_ABOVE or volts.loaded < LIVE_SHARE * volts.open
    )


#: A load takes volts away and adds none: what two readings of one place may differ by all the same, V and a
#: share.
SAME_WITHIN, SAME_SHARE = 2.0, 0.05


def impossible(volts: Volts) -> str:
    """Why two voltages of one place cannot both be so; empty where they can."""
    if volts.loaded is None or volts.loaded <= volts.open + max(SAME_WITHIN, SAME_SHARE * volts.open):
        return ""
    return (
        f"{volts.open:g} V without a load and {volts.loaded:g} V under one cannot be: a load takes volts"
        " away. Take both again"
    )
