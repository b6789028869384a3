"""A box as it was found: its cables, what is joined, what lands on what, and the readings taken there.

Ends that are joined, or stand on the same terminal, are one *net*. A blank stays a blank.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain, pairwise
from typing import Literal

import msgspec

from fjeld.drawing.ends import End
from fjeld.drawing.old_box import Device, HeldKind, OldCable
from fjeld.judge.answer import NotAsked
from fjeld.judge.volts import DEAD_BELOW, Volts
from fjeld.practice.devices import screws_of

Place = Literal["switch", "outlet", "ceiling", "junction"]
DeviceKind = HeldKind
#: More than these are not reckoned with: it would be guessing, and slow.
MOST_CABLES = 6


class Reading(msgspec.Struct, frozen=True):
    """A reading, by its id. One whose tester was not proven before and after is kept and not gone by.

    ``state`` says how switches stood; ``every_switch`` that each that could matter was moved. ``words`` are
    what came of all states together: *always*, *sometimes* or *never* live. ``parted`` says that no two ends
    touched; ``lamps_out`` that every lamp of the circuit was out; ``dies`` are the cables that a pressed test
    button made dead; ``loads`` those that read a load only while its lamp was in; ``ring`` what the ends at
    the board said; ``power`` that something else on the circuit was seen to be live meanwhile; ``off`` are
    ends that the breaker which is off for this reading is known to make dead; ``amps`` what a clamp read
    round neutrals while their own loads were off; ``figures`` are of the circuit, not of its wires.
    """

    id: str
    state: dict[str, str] = {}
    to_earth: dict[End, Volts] = {}
    words: dict[End, Literal["always", "sometimes", "never"]] = {}
    between: tuple[tuple[End, End, Volts], ...] = ()
    ohms: tuple[tuple[End, End, float], ...] = ()
    proven: bool = False
    at: str = ""
    parted: bool = False
    every_switch: bool = False
    lamps_out: bool = False
    lamp: Literal["", "bright", "dim", "dark"] = ""
    dies: tuple[str, ...] | None = None
    ring: bool | None = None
    off: tuple[End, ...] = ()
    amps: dict[End, float] = {}
    loads: tuple[str, ...] = ()
    figures: dict[str, float] = {}
    power: bool = False

    @property
    def live(self) -> bool:
        """Whether something live was found by it."""
        volts = (*self.to_earth.values(), *(v for _, _, v in self.between))
        return any(v.open >= DEAD_BELOW and (v.loaded is None or v.loaded >= DEAD_BELOW) for v in volts)


class FoundBox(msgspec.Struct, frozen=True):
    """A box as it was found: what an old box of a drawing has in it, with the readings taken there."""

    place: Place
    cables: tuple[OldCable, ...]
    joints: tuple[tuple[End, ...], ...] = ()
    devices: tuple[Device, ...] = ()
    readings: tuple[Reading, ...] = ()


class BoxNets(msgspec.Struct, frozen=True):
    """What is one with what: ``of`` gives the net of an end or a terminal, ``ends`` the conductors
    of a net.
    """

    of: dict[End, int]
    ends: tuple[tuple[End, ...], ...]


def nets(box: FoundBox) -> BoxNets:
    """The nets of a box; raises :class:`NotAsked` where an end is named that is not there, or lands twice."""
    there = [e for c in box.cables for e in c.ends]
    terminals = [d.at(t) for d in box.devices for t in (*screws_of(d.kind), "g")]
    known = {*there, *terminals}
    parent = {name: name for name in (*there, *terminals)}

    def root(name: End) -> End:
        if name not in known:
            raise NotAsked(f"there is no “{name}” in this box; there is {', '.join(there)}")
        while parent[name] != name:
            name = parent[name]
        return name

    for together in (*box.joints, *chain.from_iterable(map(_on_screws, box.devices))):
        for a, b in pairwise(together):
            parent[root(a)] = root(b)
    roots = list(dict.fromkeys(root(name) for name in parent))
    of = {name: roots.index(root(name)) for name in parent}
    return BoxNets(of, tuple(tuple(name for name in there if of[name] == n) for n in range(len(roots))))


def _on_screws(device: Device) -> Iterator[tuple[End, ...]]:
    """What is one by a device: all on one screw, and the screws that a tab joins."""
    for terminal, ends in device.lands.items():
        yield device.at(terminal), *ends
    if device.kind == "outlet":
        yield device.at("silver"), device.at("silver2")
        if device.tab == "whole":
            yield device.at("brass"), device.at("brass2")
