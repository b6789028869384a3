"""An old box of a drawing as a box that was found, and back: one record, read by both."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from fjeld.drawing.errand import NEW, Errand, Spot, length_of
from fjeld.drawing.old_box import Held, Lead, OldBox, OldCable, Tail
from fjeld.errand.facts import Facts, Wants
from fjeld.judge.protection import ground_fault_by_water
from fjeld.judge.work import LoadItem
from fjeld.oldbox.found import Cable, Device, FoundBox, Reading
from fjeld.practice import Practice
from fjeld.practice.colours import NAMES, code_of
from fjeld.practice.devices import device as kind_of
from fjeld.practice.devices import screws_of
from fjeld.quantities import Length


def device_names(held: Sequence[Held]) -> list[str]:
    """The names of what a box holds, told apart by numbers where two are of one letter."""
    letters = [kind_of(h.kind).letter for h in held]
    return [
        letter if letters.count(letter) == 1 else f"{letter}{letters[: n + 1].count(letter)}"
        for n, letter in enumerate(letters)
    ]


def names_of(old: OldBox) -> list[list[str]]:
    """The name of every conductor, by cable: ``1.BK``."""
    named = []
    for n, cable in enumerate(old.cables, 1):
        codes: list[str] = []
        for lead in cable.leads:
            code = code_of(lead.colour)
            code = "X" if code == "?" else code
            same = sum(c.rstrip("0123456789") == code for c in codes)
            codes.append(f"{code}{same + 1}" if same else code)
        named.append([f"{n}.{code}" for code in codes])
    return named


def as_found(old: OldBox, readings: Sequence[Reading] = ()) -> FoundBox:
    """An old box as it is reasoned about; what was only said in words joins nothing."""
    names, devices = names_of(old), device_names(old.held)
    joints: dict[int, list[str]] = {}
    lands: list[dict[str, tuple[str, ...]]] = [{} for _ in old.held]
    for cable, of_cable in zip(old.cables, names, strict=True):
        for lead, name in zip(cable.leads, of_cable, strict=True):
            if lead.joint:
                joints.setdefault(lead.joint, []).append(name)
            elif 0 < lead.device <= len(lands) and lead.terminal in _terminals(old.held[lead.device - 1]):
                on = lands[lead.device - 1]
                on[lead.terminal] = (*on.get(lead.terminal, ()), name)
    for held, device in zip(old.held, devices, strict=True):
        for tail in held.tails:
            joints.setdefault(tail.joint, []).append(f"{device}.{tail.terminal}")
    return FoundBox(
        old.place or "junction",
        tuple(
            Cable(str(n), tuple(name.partition(".")[2] for name in of_cable), cable.gauge, cable.sheath, _marks(cable, of_cable))
            for n, (cable, of_cable) in enumerate(zip(old.cables, names, strict=True), 1)
        ),
        tuple(tuple(ends) for _, ends in sorted(joints.items()) if len(ends) > 1),
        tuple(
            Device(device, held.kind, on, held.tab)
            for device, held, on in zip(devices, old.held, lands, strict=True)
        ),
        tuple(readings),
    )  # fmt: skip


def _marks(cable: OldCable, names: Sequence[str]) -> dict[str, str]:
    """The colours that tape or sleeves give the conductors of a cable."""
    marked = zip(cable.leads, names, strict=True)
    return {name.partition(".")[2]: code_of(lead.marked) for lead, name in marked if lead.marked}


def _terminals(held: Held) -> tuple[str, ...]:
    return (*screws_of(held.kind), "g")


def drawn_as(old: OldBox, found: FoundBox) -> OldBox:
    """An old box with its cables, joints and landings as in a found one; all else stays."""
    joint_of = {end: n for n, joint in enumerate(found.joints, 1) for end in joint}
    device_of = {
        end: (n, t) for n, d in enumerate(found.devices, 1) for t, ends in d.lands.items() for end in ends
    }
    cables = []
    for cable in found.cables:
        leads = []
        for colour in cable.colours:
            name = f"{cable.id}.{colour}"
            number, terminal = device_of.get(name, (0, ""))
            plain = colour.rstrip("0123456789")
            leads.append(
                Lead(NAMES.get(plain, plain), joint=joint_of.get(name, 0), device=number, terminal=terminal)
            )
        cables.append(OldCable(tuple(leads), cable.gauge))
    held = tuple(
        Held(
            d.kind, d.tab,
            tuple(Tail(n, e.partition(".")[2]) for n, joint in enumerate(found.joints, 1) for e in joint if e.startswith(f"{d.id}.")),
        )
        for d in found.devices
    )  # fmt: skip
    return replace(old, place=found.place, cables=tuple(cables), held=held)


_WANTS: dict[str, Wants] = {"light": "light", "outlet": "outlet", "alarms": "alarm", "loose splice": ""}


def facts_of(
    old: OldBox,
    errand: Errand,
    practice: Practice,
    use: str = "",
    way: Length | None = None,
    minutes: float = 0.0,
) -> Facts:
    """What is known of an old box beside its wires, for the gates: the ``use`` of its room, the ``way`` and its ``minutes``.

    What is wanted outside is outside, whatever room it is fed from.
    """
    out = errand.wants == "outdoors"
    wants: Wants = (
        "same switch"
        if errand.same_switch
        else errand.spot.outside or "light"
        if out
        else errand.fits
        if errand.wants == "outlet" and errand.fits
        else _WANTS.get(errand.wants, "")
    )
    return Facts(
        wants=wants, room="outdoors" if out else use, near_water=_near_water(errand.spot, practice), circuit=old.serves, breaker=None if old.amps is None else float(old.amps),
        gauges=tuple(c.gauge for c in old.cables), volume=None if old.volume is None else float(old.volume), size=old.size,
        depth=old.depth, clamps=old.clamps, ground=old.ground, condition=old.condition, opening=old.opening,
        reachable=old.accessible, one_circuit=old.alone, va=errand.takes, continuous=errand.hours, ahead=old.ahead, way=way, minutes=minutes,
        changes=errand.wants not in NEW,
        loads=None if old.beside is None else (LoadItem(1, float(old.beside), "what hangs on it"),),
    )  # fmt: skip


def _near_water(spot: Spot, practice: Practice) -> bool:
    """Whether the spot is as near to a basin or a tub as makes an outlet want protection."""
    if not spot.by_water:
        return False
    # Where nobody has measured, it is as near as can be.
    return ground_fault_by_water(length_of(spot.from_water) or 0.0, practice)
