"""The names of what is wired: nets, devices, breakers, conductors, joints, and the nodes of the network.

A key is a value that says what it names by its fields. Its text, which files, addresses,
the command line and netlists carry, is written and read here and nowhere else.

======================  ==========================================================
``L`` ``N`` ``PE``      line, neutral, ground of a circuit; ``L2`` its line on the second leg
``SL:K1``               the switched line of control K1
``T:K1.1a``             traveller a of the first pair of control K1
``C:K1`` ``IC``         commons of K1 joined through a strap; the alarms' link
``L/C3b`` ``N>O3``      its branch in a divided cable; what hangs beyond the load side of O3
``S1:K1`` ``O3``        the device for control K1 in box S1; the device of box O3
``S1:K1.dimmer``        a contact of that device's own
``breaker:Q1``          the breaker of circuit Q1
``C3b.bk``              the black conductor of the second cable of C3
``S1:Q1:N``             the joint of circuit Q1's neutral in box S1
``C3.bk@S1``            a node: that conductor's end in box S1
======================  ==========================================================
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from functools import lru_cache
from typing import Literal

import msgspec

from fjeld.drawing.handles import Handle

Role = Literal["line", "switched", "traveller", "strap", "link", "neutral", "ground", "spare"]
Strand = Literal["", "a", "b"]
BarName = Literal["bus", "bus 2", "neutral", "ground"]

_LETTERS: dict[Role, str] = {
    "line": "L",
    "switched": "SL",
    "traveller": "T",
    "strap": "C",
    "link": "IC",
    "neutral": "N",
    "ground": "PE",
    "spare": "spare",
}
_ROLES = {letters: role for role, letters in _LETTERS.items()}
_NET = re.compile(
    r"(?=(?:L2?(?=[>/]|$)|N(?=[>/]|$)|SL:|T:K\d+\.|C:|(?:IC|PE|spare)$))"  # what each role has
    r"([A-Za-z]+)(2)?(?::(K\d+)(?:\.(\d+)([ab]))?)?(?:>([A-Z]\d+))?(?:/(C\d+[b-i]))?"
)


class NoSuchKey(ValueError):
    """A text that is no key of the kind asked for."""


class Net(msgspec.Struct, frozen=True, cache_hash=True):
    """What must be one conductor within a circuit. ``control`` is whose switched line, traveller or strap it
    is.

    Of a traveller ``pair`` counts from the line end of the chain, ``strand`` is a or b. Line and
    neutral have sections: ``beyond`` the load side of a protective device, and the ``branch``
    that travels in a cable of its own where an edge is divided. ``leg`` tells the two lines of
    a circuit that shares one neutral between them.
    """

    role: Role
    control: str = ""
    pair: int = 0
    strand: Strand = ""
    beyond: Handle = Handle("")
    branch: str = ""
    leg: Literal[1, 2] = 1

    def __str__(self) -> str:
        return _net_text(self)

    @property
    def feeds(self) -> bool:
        """Whether it brings current to devices or takes it home: line or neutral."""
        return self.role in ("line", "neutral")

    def in_branch(self, branch: str) -> Net:
        """The same net where it travels in a cable of its own."""
        return msgspec.structs.replace(self, branch=branch)

    def behind(self, device: Handle) -> Net:
        """The same net on the load side of a protective device."""
        return msgspec.structs.replace(self, beyond=device)

    @property
    def words(self) -> str:
        """In plain words."""
        where = f" beyond {self.beyond}" if self.beyond else ""
        if self.role == "switched":
            return f"switched line of {self.control}"
        if self.role == "traveller":
            return f"traveller {self.strand} of {self.control}"
        if self.role == "strap":
            return f"strap of {self.control}"
        leg = ", second leg" if self.leg == 2 else ""
        return {"link": "interconnect"}.get(self.role, self.role) + leg + where


#: The line on the second leg of a two-leg supply.
LINE_2 = Net("line", leg=2)
LINE, NEUTRAL, GROUND, LINK, SPARE = Net("line"), Net("neutral"), Net("ground"), Net("link"), Net("spare")


@lru_cache(4096)
def switched(control: str) -> Net:
    """The switched line of a control."""
    return Net("switched", control)


@lru_cache(4096)
def strap(control: str) -> Net:
    """The commons of a control joined through a strap."""
    return Net("strap", control)


@lru_cache(4096)
def traveller(control: str, pair: int, strand: Strand) -> Net:
    """One of a pair of travellers."""
    return Net("traveller", control, pair, strand)


@lru_cache(65536)
def _net_text(net: Net) -> str:
    text = _LETTERS[net.role] + ("2" if net.leg == 2 else "")
    if net.control:
        text += f":{net.control}"
    if net.pair:
        text += f".{net.pair}{net.strand}"
    if net.beyond:
        text += f">{net.beyond}"
    if net.branch:
        text += f"/{net.branch}"
    return text


def parse_net(text: str) -> Net:
    """The net of a text; raises :class:`NoSuchKey`."""
    found = _NET.fullmatch(text)
    if not found:
        raise NoSuchKey(f"“{text}” is not the name of a net")
    letters, second, control, pair, strand, beyond, branch = found.groups()
    strands: dict[str | None, Strand] = {None: "", "a": "a", "b": "b"}
    return Net(
        role=_ROLES[letters],
        control=control or "",
        pair=int(pair or 0),
        strand=strands[strand],
        beyond=Handle(beyond or ""),
        branch=branch or "",
        leg=2 if second else 1,
    )


class DeviceKey(msgspec.Struct, frozen=True, cache_hash=True, order=True):
    """A device of a box; of several in one box, which control it works."""

    box: Handle
    control: str = ""

    def __str__(self) -> str:
        return f"{self.box}:{self.control}" if self.control else self.box

    @property
    def words(self) -> str:
        """In plain words, told from others in its box."""
        return f"{self.box} for {self.control}" if self.control else self.box


class OwnContact(msgspec.Struct, frozen=True, cache_hash=True, order=True):
    """A contact of a device that its switch does not work: a dimmer's, a timer's, a sensor's, a
    pull chain's.
    """

    device: DeviceKey
    what: str

    def __str__(self) -> str:
        return f"{self.device}.{self.what}"

    @property
    def box(self) -> Handle:
        """The box that it is in."""
        return self.device.box

    @property
    def control(self) -> str:
        """The control that its device works; empty for a load's own."""
        return self.device.control

    @property
    def words(self) -> str:
        """In plain words."""
        return f"{self.what} of {self.device.words}"


class BreakerOf(msgspec.Struct, frozen=True, cache_hash=True, order=True):
    """The breaker of a circuit."""

    circuit: Handle

    def __str__(self) -> str:
        return f"breaker:{self.circuit}"


#: What a hand, a clock or a passer-by can move: a switch, or a contact of a device's own.
Movable = DeviceKey | OwnContact
#: What stands in one of several states, and closes contacts in some.
Position = Movable | BreakerOf
#: Where each of what can be moved stands; one that is not named is at rest.
State = Mapping[Movable, int]


#: How a contact of a device's own stands at 0 and at 1, in words.
_STANDS: dict[str, tuple[str, str]] = {
    "dimmer": ("down", "up"),
    "timer": ("run out", "running"),
    "sensor": ("empty", "occupied"),
    "chain": ("off", "on"),
}


def stands(position: Movable, at: int, alone: bool = False) -> str:
    """Where it stands, in words; ``alone`` leaves out which control, where its box holds no other."""
    if isinstance(position, OwnContact):
        return (
            f"{position.what} of {position.box if alone else position.device.words}"
            f" {_STANDS[position.what][at]}"
        )
    return f"{position.box if alone else position.words} {'up' if at else 'down'}"


def rest(position: Movable) -> int:
    """Where it stands while nobody moves it: a switch down, a contact of a device's own closed."""
    return 1 if isinstance(position, OwnContact) else 0


def position_order(position: Movable) -> tuple[DeviceKey, str]:
    """A sort key: each switch before what its device has of its own."""
    return (position.device, position.what) if isinstance(position, OwnContact) else (position, "")


def parse_device(text: str) -> DeviceKey:
    """The device of a text, as ``S1:K1``; raises :class:`NoSuchKey`."""
    box, _, control = text.partition(":")
    if not re.fullmatch(r"[A-Z]\d+", box) or (":" in text and not re.fullmatch(r"K\d+", control)):
        raise NoSuchKey(f"“{text}” is not the name of a device")
    return DeviceKey(Handle(box), control)


def standing(position: Position, state: State, off: Collection[Handle] = ()) -> int:
    """Where a position stands: as in ``state``, else at rest; breakers on (1) but those of the circuits
    ``off``.
    """
    if isinstance(position, BreakerOf):
        return 0 if position.circuit in off else 1
    return state.get(position, rest(position))


class JointKey(msgspec.Struct, frozen=True, cache_hash=True):
    """A joint in a box: a circuit's net there. Grounds of all circuits are one; a spare is told by its
    ``conductor``.
    """

    box: Handle
    net: Net
    circuit: Handle = Handle("")
    conductor: str = ""

    def __str__(self) -> str:
        return ":".join(filter(None, (self.box, self.circuit, self.conductor or str(self.net))))


def run_key(cable: Handle, n: int) -> str:
    """The name of a cable's ``n``-th physical cable: C3, C3b, C3c: short, and the same on the tags at both
    ends.
    """
    return f"{cable}{' bcdefghi'[n].strip()}"


def branch_key(cable: Handle, n: int) -> str:
    """The name of the ``n``-th branch that a cable's edge is divided into."""
    return f"{cable}{'bcdefghi'[n]}"


def conductor_key(run: str, colour: str) -> str:
    """A conductor of a physical cable, by its colour."""
    return f"{run}.{colour.lower()}"


def end_node(conductor: str, box: Handle) -> str:
    """The node of a conductor's end in a box."""
    return f"{conductor}@{box}"


def terminal_node(device: DeviceKey, terminal: str) -> str:
    """The node of a device's terminal; its ground lead and ground screw are one with its metal."""
    return f"{device}.{'ground' if terminal == 'ground lead' else terminal}"


def shell_node(box: Handle) -> str:
    """The node of a metal box."""
    return f"{box}.shell"


def bar_node(panel: Handle, bar: BarName) -> str:
    """The node of a panel's bar."""
    return f"{panel}.{bar}"


def way_node(panel: Handle, circuit: Handle, leg: int = 1) -> str:
    """The node of a breaker's outgoing terminal, of its pole on that leg."""
    return f"{panel}.{circuit}" + (" 2" if leg == 2 else "")
