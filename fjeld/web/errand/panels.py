"""What the errand's pages are written from."""

from __future__ import annotations

from typing import Literal

from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.errand.facts import Gate
from fjeld.graphics.shapes import Shape
from fjeld.oldbox.infer import CableIs
from fjeld.practice.finished.roles import ReadingKind
from fjeld.web.errand.taking import Taking
from fjeld.web.places.kinds import ErrandCard
from fjeld.web.places.records import Kept
from fjeld.web.places.shots import Shot
from fjeld.web.ui.panel import Choices, Shown


class Start(Shown, frozen=True):
    """What is wanted, and from where the work can be reached."""

    kinds: list[ErrandCard]
    practices: Choices


class OldCableRow(Shown, frozen=True):
    """A cable of the box: what it is, in words, and how sure that is."""

    cable: CableIs
    words: str
    share: str
    others: str


class GateRow(Shown, frozen=True, kw_only=True):
    """A gate with how it is answered: a field with its choices, a figure or a ``text``; whether it is of the
    box, or of what is ``meant``; and the ``readings`` that tell of it.
    """

    gate: Gate
    field: str
    label: str
    value: str
    options: Choices
    figure: str
    readings: Choices = ()
    text: bool = False
    to: Literal["look", "meant"] = "look"


class End(Shown, frozen=True):
    """A conductor that can be taken in hand."""

    name: str
    colour: str
    landing: str
    here: bool


class OldBoxRow(Shown, frozen=True):
    """A box among those looked at, as it stands."""

    handle: Handle
    here: bool
    taken: bool
    words: str
    standing: str


class NextStep(Shown, frozen=True):
    """What to do next: the largest thing on the screen. ``kind`` where it is a reading."""

    title: str
    why: str
    reading: str = ""
    kind: ReadingKind | None = None


class Joined(Shown, frozen=True):
    """Where a new cable is joined, and whether that works in every case left; ``failing`` those in which it
    does not.
    """

    line: str
    neutral: str
    verdict: str
    failing: list[str]
    excludes: str


class Usual(Shown, frozen=True):
    """A box to begin from."""

    number: int
    words: str
    picture: Shape | None
    means: str


class CableLook(Shown, frozen=True):
    """A cable of the box as it is looked at: its number, with what its sheath and its gauge may be."""

    number: str
    sheath: str
    gauge: str
    sheaths: Choices
    gauges: Choices


class SourcePanel(Shown, frozen=True, kw_only=True):
    """The old box in hand: its picture, what its cables are, what to read next, and its gates."""

    brings: bool
    earth: str
    handle: Handle
    old: OldBox
    begun: bool
    picture: Shape | None
    next: NextStep
    cables: list[OldCableRow]
    contradiction: str
    notes: tuple[str, ...]
    dangers: tuple[str, ...]
    gates: list[GateRow]
    verdict: str
    joined: Joined | None
    boxes: list[OldBoxRow]
    kept: list[Kept]
    usual: list[Usual]
    places: Choices
    ends: list[End]
    targets: Choices
    in_hand: str
    devices: Choices
    held: Choices
    looked_at: list[CableLook]
    marks: Choices
    marked: str
    old_colours: bool
    questions: Choices
    taking: Taking | None
    others: Choices
    unopened: str
    shots: list[Shot]
    token: str
