"""What readings showed, in words: ways back through a lamp, ghosts, loads between, and why nothing explains
them.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from fjeld.drawing.ends import End
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.oldbox.weighed import OF_OTHERS, Weighed, tells
from fjeld.practice import Practice


def notes(weighed: Weighed, practice: Practice) -> Sequence[str]:
    """What the readings of a group showed that has to be said."""
    box = weighed.box
    said = []
    for reading in box.readings:
        if not reading.proven:
            said.append(
                f"{reading.id}: the tester was not proven before and after, so it is kept and not gone by"
            )
            continue
        if not tells(reading):
            said.append(
                f"{reading.id}: nothing live was found, which tells nothing until power is known to be on and"
                " every switch that could matter is named"
            )
        if reading.id in OF_OTHERS:
            # Its gate says what it showed.
            continue
        if reading.id == "R5" and (why := _settles_not(reading)):
            said.append(f"R5 settles nothing: {why}. Take it again")
        said += _shown(weighed, reading, practice)
        if reading.lamps_out and reading.lamp in ("dim", "dark"):
            said.append(f"{reading.id}: the lamp burned {reading.lamp}: that is no neutral to be used")
        for name, amps in reading.amps.items():
            if amps >= 0.05:
                said.append(
                    f"{amps:g} A in {name} while its own loads are off: it is shared or borrowed. Danger:"
                    " stop"
                )
    return said


def _shown(weighed: Weighed, reading: Reading, practice: Practice) -> Sequence[str]:
    """What voltages to ground showed that are neither hot nor dead, each by its end."""
    said = []
    for name, volts in reading.to_earth.items():
        shown = volts.shows(practice.volts)
        ways = _ways(weighed, name)
        if (
            shown == "dead"
            and ways == {"s>"}
            and {b.role for k in weighed.standing for b in weighed.roles(0, k)} == {"LOOP"}
        ):
            said.append(
                f"{name} reads {volts.open:g} V to ground by way of the lamp: it is the way back through it,"
                " and no neutral"
            )
        elif shown == "ghost":
            said.append(
                f"{name} reads {volts.open:g} V and {volts.loaded:g} V under load: induced, and named so"
            )
        elif shown == "load":
            said.append(
                f"{name} reads {volts.open:g} V and {volts.loaded:g} V under load: live through a load,"
                " neither dead nor line"
            )
        elif shown == "unsure" and volts.loaded is not None:
            said.append(
                f"{name} reads {volts.open:g} V and {volts.loaded:g} V under load: neither dead nor line, and"
                " not gone by"
            )
        elif shown == "unsure":
            said.append(f"{name} reads {volts.open:g} V: take it under load as well, it may be induced")
    return said


def _settles_not(reading: Reading) -> str:
    """Why a test lamp between line and a joint does not prove it the neutral."""
    if not reading.lamps_out:
        return "other lamps of the circuit were on, and bring a way back of their own"
    if not reading.lamp:
        return "how the test lamp burned is not said"
    return (
        ""
        if all(v.loaded is not None for _, _, v in reading.between)
        else "the volts under load are not told"
    )


def _ways(weighed: Weighed, name: End) -> set[str]:
    """What a conductor carries, and which way, in the wirings that are left."""
    for n, cable in enumerate(weighed.box.cables):
        if name in cable.insulated:
            at = cable.insulated.index(name)
            return {
                b.carries[at]
                for k in weighed.standing
                for beyond in weighed.roles(n, k)
                for b in weighed.same.ways_round(n, beyond)
            }
    return {""} if weighed.standing else set()


def contradiction(box: FoundBox, counted: Sequence[Reading], volts: float) -> str:
    """Why nothing explains the readings: two that disagree by name, else the record or a joint that nobody
    has seen.
    """
    for first, second in combinations(counted, 2):
        if name := _disagree(first, second, volts):
            return (
                f"{_when(first)} and {_when(second)} disagree on {name}: a three-way switch, a second"
                " feed, or cables swapped in the record. Take both again"
            )
    for reading in counted:
        for name, v in reading.to_earth.items():
            if v.shows(volts) == "load":
                return (
                    f"{name} is live through a load ({_when(reading)}): a neutral is open, borrowed or"
                    " shared. Stop; look for the other circuit"
                )
    return (
        f"no wiring of this box explains {', '.join(_when(r) for r in counted)}: a reading or the record is"
        " wrong, or there is a joint or a source that nobody has seen. Take the readings again"
    )


def _disagree(first: Reading, second: Reading, volts: float) -> str:
    """An end of which two readings of one kind, taken alike, say different things."""

    def taken(reading: Reading) -> tuple[object, ...]:
        return reading.id, reading.off, reading.state, reading.parted

    if taken(first) != taken(second):
        return ""
    both = (end for end in first.to_earth if end in second.to_earth)
    return next((e for e in both if first.to_earth[e].shows(volts) != second.to_earth[e].shows(volts)), "")


def _when(reading: Reading) -> str:
    return f"{reading.id} at {reading.at}" if reading.at else reading.id
