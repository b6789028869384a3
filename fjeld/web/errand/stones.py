"""The steps of an errand, in the order of the work; any may be taken first."""

from __future__ import annotations

from fjeld.drawing.errand import CHANGED, NEW, ErrandKind
from fjeld.web.ui.panel import Shown

#: Step → its name, and the name of its address.
STEPS = {
    "source": ("Source", "errand"),
    "spot": ("Spot", "errand-spot"),
    "path": ("Path", "errand-path"),
    "box": ("Box", "errand-box"),
    "proof": ("Proof", "errand-proof"),
    "record": ("Record", "errand-steps"),
}


class Stone(Shown, frozen=True):
    """A step with its name and the name of its address."""

    name: str
    route: str
    here: bool


def steps_of(wants: ErrandKind) -> tuple[str, ...]:
    """The steps that an errand has: only what is new goes to a place of its own, by a way of its own."""
    if wants in NEW:
        return tuple(STEPS)
    return (
        ("source", "spot", "box", "proof", "record")
        if wants in CHANGED
        else ("source", "box", "proof", "record")
    )


def stones(wants: ErrandKind, here: str) -> list[Stone]:
    """The steps of an errand, the one in hand marked."""
    return [Stone(*STEPS[step], step == here) for step in steps_of(wants)]
