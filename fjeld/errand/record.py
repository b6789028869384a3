"""An old box of a drawing as a box that was found, and back: one record, read by both."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from fjeld.drawing.ends import End, end, owner, part
from fjeld.drawing.errand import NEW, Errand, Spot, length_of
from fjeld.drawing.old_box import Device, OldBox
from fjeld.errand.facts import BoxFacts, Wants
from fjeld.judge.protection import ground_fault_by_water
from fjeld.judge.work import LoadItem
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.practice import Practice
from fjeld.practice.devices import device as kind_of
from fjeld.quantities import Length


def as_found(old: OldBox, readings: Sequence[Reading] = ()) -> FoundBox:
    """An old box as it is reasoned about; what was only said in words joins nothing."""
    return FoundBox(old.place or "junction", old.cables, old.joints, old.held, tuple(readings))


def drawn_as(old: OldBox, found: FoundBox) -> OldBox:
    """An old box with its cables, joints and devices as in a found one, under names that nothing had in it
    before; all else stays.
    """
    for name in (*(c.id for c in old.cables), *(d.id for d in old.held)):
        old = old.without(name)
    drawn, names = old, dict[str, str]()
    for cable in found.cables:
        names[cable.id] = drawn.next_cable()
        drawn = replace(drawn, cables=(*drawn.cables, replace(cable, id=names[cable.id])))
    for device in found.devices:
        names[device.id] = drawn.next_device(kind_of(device.kind).letter)
        drawn = replace(drawn, held=(*drawn.held, Device(names[device.id], device.kind, tab=device.tab)))

    def named(ends: Sequence[End]) -> tuple[End, ...]:
        return tuple(end(names[owner(e)], part(e)) for e in ends)

    lands = ({t: named(ends) for t, ends in device.lands.items()} for device in found.devices)
    held = tuple(replace(d, lands=on) for d, on in zip(drawn.held, lands, strict=True))
    return replace(drawn, place=found.place, joints=tuple(map(named, found.joints)), held=held)


_WANTS: dict[str, Wants] = {"light": "light", "outlet": "outlet", "alarms": "alarm", "loose splice": ""}


def facts_of(
    old: OldBox,
    errand: Errand,
    practice: Practice,
    use: str = "",
    way: Length | None = None,
    minutes: float = 0.0,
) -> BoxFacts:
    """What is known of an old box beside its wires, for the gates: the ``use`` of its room, the ``way`` and
    its ``minutes``.

    What is wanted outside is outside, whatever room it is fed from.
    """
    out = errand.wants == "outdoors"
    wants: Wants = (
        "same switch"
        if errand.same_switch
        else (
            errand.spot.outside or "light"
            if out
            else errand.fits
            if errand.wants == "outlet" and errand.fits
            else _WANTS.get(errand.wants, "")
        )
    )
    return BoxFacts(
        wants=wants,
        room="outdoors" if out else use,
        near_water=_near_water(errand.spot, practice),
        circuit=old.serves,
        breaker=None if old.amps is None else float(old.amps),
        gauges=tuple(c.gauge for c in old.cables),
        volume=None if old.volume is None else float(old.volume),
        size=old.size,
        depth=old.depth,
        clamps=old.clamps,
        ground=old.ground,
        condition=old.condition,
        opening=old.opening,
        reachable=old.accessible,
        one_circuit=old.alone,
        va=errand.takes,
        continuous=errand.hours,
        ahead=old.ahead,
        way=way,
        minutes=minutes,
        changes=errand.wants not in NEW,
        loads=None if old.beside is None else (LoadItem(1, float(old.beside), "what hangs on it"),),
    )


def _near_water(spot: Spot, practice: Practice) -> bool:
    """Whether the spot is as near to a basin or a tub as makes an outlet want protection."""
    if not spot.by_water:
        return False
    # Where nobody has measured, it is as near as can be.
    return ground_fault_by_water(length_of(spot.from_water) or 0.0, practice)
