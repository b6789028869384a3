"""Old boxes: what is there already, as it was found. What is blank nobody has looked at."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

import msgspec
from msgspec.structs import replace

from fjeld.drawing.ends import GROUNDS, End, end, owner, plain
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
from fjeld.practice.colours import NAMES, code_of

Found = Literal["", "line", "neutral", "ground", "switched", "other"]


HeldKind = Literal[
    "switch", "three-way", "four-way", "outlet", "protective", "fused unit", "light", "fan", "alarm"
]
OldPlace = Literal["", "switch", "outlet", "ceiling", "junction"]
Material = Literal["", "metal", "plastic", "none"]
Condition = Literal["", "sound", "aluminium", "cracked", "cloth", "knob and tube", "scorched"]


class Lead(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A conductor found in an old box. ``id`` is the code of its colour (``BK``, the second of one colour
    ``BK2``), by which its end is named; ``colour`` that in words.

    ``lands`` is what it lands on in words, where no joint or device is drawn. ``carries`` is what it is taken
    for, empty while nobody says; ``read`` that a reading settled it, not its colour or where it lands.
    ``marked`` is the colour that tape or a sleeve gives it in place of its own.
    """

    id: Name
    colour: Name
    lands: Name = ""
    carries: Found = ""
    read: bool = False
    marked: Name = ""

    @property
    def ground(self) -> bool:
        """Whether it is a ground by its colour."""
        return plain(self.id) in GROUNDS


#: Protection ahead of a box; empty where nobody has looked.
Ahead = Literal["", "none", "arc-fault", "ground-fault", "both"]


class Device(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A device found in an old box: its own name, and the ends on each of its terminals. A broken ``tab``
    makes two sides of one outlet.
    """

    id: Name
    kind: HeldKind
    lands: dict[Name, tuple[End, ...]] = {}
    tab: Literal["whole", "broken"] = "whole"

    def at(self, terminal: str) -> End:
        """The end that one of its terminals is."""
        return end(self.id, terminal)


class OldCable(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A cable found in an old box, by the number that it got there. ``gauge``, ``guess`` and ``sheath`` (its
    kind and age) stay empty until someone reads them.
    """

    id: Name
    leads: tuple[Lead, ...] = ()
    gauge: Name = ""
    guess: Name = ""
    sheath: Name = ""

    def at(self, lead: str) -> End:
        """The end of one of its conductors."""
        return end(self.id, lead)

    @property
    def ends(self) -> tuple[End, ...]:
        """The ends of its conductors, in their order."""
        return tuple([end(self.id, lead.id) for lead in self.leads])

    @property
    def insulated(self) -> tuple[End, ...]:
        """The ends of its conductors without the ground's."""
        return tuple([end(self.id, lead.id) for lead in self.leads if not lead.ground])

    @property
    def grounds(self) -> tuple[End, ...]:
        """The ends of its grounds."""
        return tuple([end(self.id, lead.id) for lead in self.leads if lead.ground])

    @property
    def marked(self) -> dict[End, str]:
        """The codes of the colours that tape or sleeves give its conductors, by their ends."""
        return {end(self.id, lead.id): code_of(lead.marked) for lead in self.leads if lead.marked}


def cable_of(
    number: str, named: Sequence[str], gauge: str = "", sheath: str = "", marked: Mapping[str, str] = {}
) -> OldCable:
    """A cable by the codes of its conductors, with the codes of those that are ``marked`` as
    another colour.
    """
    leads = [Lead(c, _words(c), marked=_words(marked.get(c, ""))) for c in named]
    return OldCable(number, tuple(leads), gauge, sheath=sheath)


def _words(code: str) -> str:
    return NAMES.get(plain(code), plain(code))


class OldBox(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """A box that is there already, and what was found in it; placed like a :class:`Point`.

    ``breaker_read`` says that switching its breaker off was seen to make it dead. ``beside`` is what else
    hangs on what feeds it, VA, once someone has listed what goes dark with its breaker. ``place``, ``joints``
    and ``held`` are what it is, what is joined in it and the devices in it, as drawn; ``given`` the highest
    numbers of cables and devices that were struck out (by ``cable``, or a device's letter), which none gets
    again; ``material`` what it is made of (or no box at all), ``size`` of a metal one inside. ``ground``,
    ``condition``, ``opening`` for one more cable, ``accessible`` afterwards and ``alone`` (one circuit in it)
    are as looked at; ``serves`` is the kind of its circuit, ``amps`` its breaker's, ``fixing`` how it is
    held. Of its conductors ``free`` is what is beyond the ``sheath`` in the box and ``past`` what comes past
    the face, at the least; ``setback`` how far it stands behind the surface. ``marked`` is the weight that
    its mark says it carries, 0 where none was found. ``dies`` is what else goes dead with its breaker, in
    words, ``ahead`` the protection that stands before it (a residual-current device counts as ground-fault).
    ``listed`` says whether its mark lists it for a fan, ``clear`` is the clear space between the joists
    beside it, ``slack`` what can be pulled into it. What is blank nobody has looked at.
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
    joints: tuple[tuple[End, ...], ...] = ()
    held: tuple[Device, ...] = ()
    given: dict[Name, FoundNumber] = {}
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

    def landing(self, of: End) -> str:
        """What a conductor lands on, in words: as said, else as drawn."""
        if (lead := self.lead(of)) is not None and lead.lands:
            return lead.lands
        joint = next((n for n, joint in enumerate(self.joints, 1) if of in joint), 0)
        terminals = (t for d in self.held for t, ends in d.lands.items() if of in ends)
        return f"joint {joint}" if joint else next(terminals, "")

    @property
    def ends(self) -> tuple[End, ...]:
        """The ends of all conductors in it."""
        return tuple(e for cable in self.cables for e in cable.ends)

    def lead(self, of: End) -> Lead | None:
        """The conductor of an end; None where it is none of this box."""
        found = (lead for c in self.cables for lead, e in zip(c.leads, c.ends, strict=True) if e == of)
        return next(found, None)

    def cable(self, number: str) -> OldCable | None:
        """The cable of a number."""
        return next((c for c in self.cables if c.id == number), None)

    def next_cable(self) -> str:
        """The number of the next cable that is found: one that no other had."""
        taken = [int(c.id) for c in self.cables if c.id.isdecimal()]
        return str(max([self.given.get(_CABLE, 0), *taken]) + 1)

    def next_device(self, letter: str) -> str:
        """The name of the next device of a letter, which no other had: the letter alone for the first, then
        with a number.
        """
        n = max([self.given.get(letter, 0), *(_number(d.id, letter) for d in self.held)]) + 1
        return f"{letter}{n}" if n > 1 else letter

    def without(self, name: str) -> OldBox:
        """The box without a cable or a device, and without its ends wherever they were; its name is not given
        again.
        """
        letter = _CABLE if self.cable(name) else name.rstrip("0123456789")
        n = _number(name, "" if letter == _CABLE else letter)
        return replace(
            self,
            cables=tuple(c for c in self.cables if c.id != name),
            held=tuple(
                parted(d, (e for e in self.ends if owner(e) == name)) for d in self.held if d.id != name
            ),
            joints=joined(tuple(e for e in joint if owner(e) != name) for joint in self.joints),
            given={**self.given, letter: max(n, self.given.get(letter, 0))},
        )


#: Under which the highest number of a cable is kept that was struck out.
_CABLE = "cable"


def _number(name: str, letter: str) -> int:
    """The number of a name that begins with a letter, one where it is the letter alone; none of another
    letter's.
    """
    rest = name.removeprefix(letter)
    return int(rest) if rest.isdecimal() else int(name == letter)


def joined(joints: Iterable[tuple[End, ...]]) -> tuple[tuple[End, ...], ...]:
    """Joints that join something: of two ends at the least."""
    return tuple(joint for joint in joints if len(joint) > 1)


def parted(device: Device, ends: Iterable[End]) -> Device:
    """A device with some ends off its terminals."""
    off = {*ends}
    lands = {t: left for t, on in device.lands.items() if (left := tuple(e for e in on if e not in off))}
    return replace(device, lands=lands)
