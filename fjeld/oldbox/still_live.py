"""What may still be live in a box once the breaker that was found is off: of another circuit, or on another
leg.

A breaker opens one circuit. What else comes into the box is reckoned from every wiring that is still
possible; cables that nothing in the box brings together may be of any circuit until a reading has shown them
dead.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

import msgspec

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import End
from fjeld.drawing.old_box import Device
from fjeld.oldbox.found import FoundBox, nets
from fjeld.oldbox.weighed import Weighed, weigh
from fjeld.practice import Practice
from fjeld.practice.devices import screws_of

#: Less likely than this is not told by itself.
LEAST = 0.005


class StillLive(msgspec.Struct, frozen=True):
    """Conductors that are one, how likely they stay live, and of what."""

    ends: tuple[End, ...]
    share: float
    why: str


def fed_at(box: FoundBox, device: Device) -> tuple[End, ...]:
    """The conductors that the breaker of a device is known by: those of its first terminal alone, for the
    second side of an outlet may be of another circuit.
    """
    where = nets(box)
    found = (where.ends[where.of[device.at(t)]] for t in screws_of(device.kind))
    return next((ends for ends in found if ends), ())


def still_live(
    box: FoundBox, off: Collection[End], practice: Practice, remember: Remember = always
) -> tuple[StillLive, ...]:
    """What may stay live, the likeliest first, with the breaker off that makes the ends of ``off`` dead.
    Raises :class:`NotAsked`.
    """
    dead = _read_dead(box, off, practice.volts)
    found: list[StillLive] = []
    for weighed in weigh(box, practice, remember):
        mine = {weighed.where.of[e] for e in off if e in weighed.where.of}
        found += _of_group(weighed, mine, dead)
    return tuple(sorted(found, key=lambda s: -s.share))


def _of_group(weighed: Weighed, mine: Collection[int], dead: Collection[str]) -> list[StillLive]:
    if not weighed.standing:
        # What cannot be told is not dead.
        insulated = {e for cable in weighed.box.cables for e in cable.insulated}
        ends_of = [tuple(e for e in ends if e in insulated) for ends in weighed.where.ends]
        return [
            StillLive(ends, 1.0, "what it is cannot be told")
            for ends in ends_of
            if ends and not {*ends} & {*dead}
        ]
    why = (
        "of another circuit, or on another leg" if mine else "nobody has seen that this breaker makes it dead"
    )
    return [
        StillLive(ends, share, why)
        for net, ends in enumerate(weighed.where.ends)
        if ends and not {*ends} & {*dead} and (share := _share(weighed, net, sorted(mine))) >= LEAST
    ]


def _share(weighed: Weighed, net: int, mine: Sequence[int]) -> float:
    """How likely a net is live, and of another circuit than those that are ``mine``."""
    found = 0.0
    for k in weighed.standing:
        h, may = weighed.found[k], weighed.together((net, *mine), k)
        live = sum(
            h.carries.get(n, "x") in "lst"
            and h.circuit.get(n, "?") not in {h.circuit.get(m, "") for m in off}
            for n, *off in may
        )
        found += weighed.after[k] * live / len(may)
    return found / (sum(weighed.after[k] for k in weighed.standing) or 1.0)


def _read_dead(box: FoundBox, off: Collection[End], volts: float) -> set[End]:
    """What a proven reading with that breaker off has shown dead."""
    of = nets(box).of
    mine = {of[e] for e in off}
    return {
        end
        for reading in box.readings
        if reading.id == "R3" and reading.proven and {of[e] for e in reading.off if e in of} & mine
        for end, read in reading.to_earth.items()
        if read.shows(volts) in ("dead", "ghost")
    }
