"""Old boxes: what is there already, as it was found. What is blank nobody has looked at."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.extents import (
    AboveFloor,
    AlongWall,
    Amps,
    CubicInches,
    FittingSize,
    FoundNumber,
    Gangs,
    InRoom,
    Kilograms,
    Name,
    Note,
    VoltAmperes,
    WallNumber,
)
from fjeld.drawing.handles import Handle

Found = Literal["", "line", "neutral", "ground", "switched", "other"]


HeldKind = Literal[
    "switch", "three-way", "four-way", "outlet", "protective", "fused unit", "light", "fan", "alarm"
]
OldPlace = Literal["", "switch", "outlet", "ceiling", "junction"]
Material = Literal["", "metal", "plastic", "none"]
Condition = Literal["", "sound", "aluminium", "cracked", "cloth", "knob and tube", "scorched"]


class Lead(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A conductor found in an old box: its colour, and what it lands on.

    ``lands`` is that in words; as drawn it is in the ``joint`` of that number, or on a ``terminal`` of
    the ``device`` of that number, both counted from 1. ``carries`` is what it is taken for, empty while
    nobody says; ``read`` that a reading settled it, not its colour or where it lands. ``marked`` is
    the colour that tape or a sleeve gives it in place of its own.
    """

    colour: Name
    lands: Name = ""
    carries: Found = ""
    read: bool = False
    joint: FoundNumber = 0
    device: FoundNumber = 0
    terminal: Name = ""
    marked: Name = ""

    @property
    def landing(self) -> str:
        """What it lands on, in words: as said, else as drawn."""
        if self.lands or not (self.joint or self.device):
            return self.lands
        return f"joint {self.joint}" if self.joint else self.terminal


#: Protection ahead of a box; empty where nobody has looked.
Ahead = Literal["", "none", "arc-fault", "ground-fault", "both"]


class Tail(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A tail from a joint, by its number, to a terminal."""

    joint: FoundNumber
    terminal: Name


class Held(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A device found in an old box. A broken ``tab`` makes two sides of one outlet."""

    kind: HeldKind
    tab: Literal["whole", "broken"] = "whole"
    tails: tuple[Tail, ...] = ()


class OldCable(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A cable found in an old box. ``gauge``, ``guess`` and ``sheath`` (its kind and age) stay empty until someone reads them."""

    leads: tuple[Lead, ...] = ()
    gauge: Name = ""
    guess: Name = ""
    sheath: Name = ""


class OldBox(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A box that is there already, and what was found in it; placed like a :class:`Point`.

    ``breaker_read`` says that switching its breaker off was seen to make it dead. ``beside`` is what else hangs on what feeds it, VA, once someone has listed what goes dark with its breaker.
    ``place`` and ``held`` are what it is and what is in it, as drawn; ``material`` what it is made of (or no box at all), ``size`` of a metal one inside. ``ground``,
    ``condition``, ``opening`` for one more cable, ``accessible`` afterwards and ``alone`` (one circuit in it) are as
    looked at; ``serves`` is the kind of its circuit, ``amps`` its breaker's, ``fixing`` how it is held. Of its
    conductors ``free`` is what is beyond the ``sheath`` in the box and ``past`` what comes past the face, at the least; ``setback`` how far it stands behind the surface. ``marked`` is the weight that its mark
    says it carries, 0 where none was found. ``dies`` is what else goes dead with its breaker, in words, ``ahead`` the
    protection that stands before it (a residual-current device counts as ground-fault). ``listed`` says whether its mark lists
    it for a fan, ``clear`` is the clear space between the joists beside it, ``slack`` what can be pulled into it. What is blank
    nobody has looked at.
    """

    room: Handle
    wall: WallNumber = 0
    at: AlongWall | None = None
    height: AboveFloor | None = None
    x: InRoom | None = None
    y: InRoom | None = None
    holds: Name = ""
    volume: CubicInches | None = None
    gangs: Gangs = 1
    cables: tuple[OldCable, ...] = ()
    breaker: Note = ""
    breaker_read: bool = False
    beside: VoltAmperes | None = None
    clamps: bool | None = None
    place: OldPlace = ""
    held: tuple[Held, ...] = ()
    material: Material = ""
    size: Name = ""
    depth: FoundNumber | None = None
    ground: Literal["", "present", "none"] = ""
    condition: Condition = ""
    serves: Name = ""
    amps: Amps | None = None
    opening: bool | None = None
    accessible: bool | None = None
    alone: bool | None = None
    fixing: Name = ""
    free: FittingSize | None = None
    sheath: FittingSize | None = None
    past: FittingSize | None = None
    setback: FittingSize | None = None
    marked: Kilograms | None = None
    dies: Note = ""
    ahead: Ahead = ""
    listed: bool | None = None
    clear: AlongWall | None = None
    slack: FittingSize | None = None
