"""What the Site screen shows in its dock and its workings."""

from __future__ import annotations

from fjeld.derive.materials import Material
from fjeld.propose.buying import CableCuts
from fjeld.quantities import Unit
from fjeld.web.ui.panel import Shown


class Dock(Shown, frozen=True):
    """The pieces by kind, each with its ends for the tag."""

    cuts: tuple[CableCuts, ...]
    searching: bool
    stopped: bool
    unit: Unit


class Workings(Shown, frozen=True, kw_only=True):
    """The next step of the book with how many are done of all ``steps``; the materials with their prices,
    money in cents.
    """

    next_step: str
    where: str
    caution: str
    done: int
    steps: int
    materials: list[Material]
    cables: list[Material]
    coils: float
    total: float
