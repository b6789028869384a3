"""What the Runs screen shows in its dock and its workings."""

from __future__ import annotations

from fjeld.derive.cables import CablePlan
from fjeld.derive.facts.tally import Tally
from fjeld.drawing.handles import Handle
from fjeld.propose.offers import Offer
from fjeld.web.ui.panel import Shown


class Offered(Shown, frozen=True, kw_only=True):
    """A tree that is looked for, by how it feeds: its state, what was found, whether it is the standing one,
    and by how much it may be dearer than the cheapest there is, where that says something.
    """

    feed: str
    words: str
    state: str
    offer: Offer | None
    same: bool
    shown: bool
    above: str


class CableRow(Shown, frozen=True):
    """A line a cable, with the kinds of cable that it takes: each a piece as long, and fastened on
    its own.
    """

    handle: Handle
    cable: CablePlan
    kinds: str
    pieces: int
    staples: int


class Ends(Shown, frozen=True):
    """Where a cable of a circuit can end: the panel and its own boxes, and those of others that it can pass
    through.
    """

    own: list[Handle]
    others: list[Handle]


class Dock(Shown, frozen=True, kw_only=True):
    """The trees on offer against the standing one, and every cable of the circuit in hand."""

    circuit: Handle | None
    circuits: list[Handle]
    offers: list[Offered]
    searching: bool
    stopped: bool
    rings: bool
    ringed: bool
    cables: list[CableRow]
    ends: Ends


class Sides(Shown, frozen=True):
    """The protective outlet that a cable comes from, what lies beyond, and whether it hangs on the
    load side.
    """

    device: Handle
    load: bool
    beyond: list[Handle]


class Workings(Shown, frozen=True, kw_only=True):
    """The selected cable: its cut length written out, and what it asks of the framing."""

    cable: CablePlan | None
    handle: str
    kinds: str
    pieces: int
    staples: int
    ends: Ends | None
    through: list[Handle]
    gauges: list[str]
    gauge: str
    sides: Sides | None
    plates: int
    totals: Tally
