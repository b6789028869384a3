"""An old box that a circuit begins in: what is joined to what was found there, and how full it gets.

What nobody has said or read stays open. The sum of the fill is made twice, with the least and
with the most that the open things could come to; only where both agree is there a verdict.
Which conductor brings the line, and which takes it home, is told by a reading, never by its
colour or by where it lands: each that still wants one is named with it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

import msgspec

from fjeld.derive.boxes import Box, BoxDevice, Joint, Landing, connectors_for
from fjeld.derive.conductors import Conductor
from fjeld.derive.keys import GROUND, LINE, NEUTRAL, DeviceKey, JointKey, Net
from fjeld.drawing.ends import End, owner
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.old_box import Found, Lead, OldBox
from fjeld.judge.fill import ConductorCount, Contents, Yoke, fill
from fjeld.practice import Practice, rules
from fjeld.practice.colours import code_of
from fjeld.practice.devices import device, held_kinds
from fjeld.practice.parts import BoxKind
from fjeld.quantities import ROUNDING, Fails, NotKnown, Passes, Verdict, Working, at_most

_ROLES: tuple[tuple[Net, Found], ...] = ((GROUND, "ground"), (NEUTRAL, "neutral"), (LINE, "line"))


class Begin(msgspec.Struct, frozen=True):
    """A circuit that begins in an old box: which of its cables brings the line, its gauge, and its new
    conductors there.
    """

    circuit: Handle
    found: str
    gauge: str
    ends: tuple[Conductor, ...]


class OldMade(msgspec.Struct, frozen=True):
    """An old box as it will be. ``box`` is drawn and stepped through like any; ``least`` and ``most`` bound
    its fill.

    ``open`` are the readings that would settle its fill; a box whose volume nobody
    read is drawn as one of no volume.
    """

    handle: Handle
    box: Box
    least: Working
    most: Working
    volume: float | None
    open: tuple[str, ...]

    @property
    def verdict(self) -> Verdict:
        """Whether it all fits: not known while what is open could turn it."""
        if self.volume is None:
            return NotKnown(self.open[0])
        if at_most(self.most.total, self.volume, ROUNDING):
            return Passes()
        if self.open and at_most(self.least.total, self.volume, ROUNDING):
            return NotKnown(self.open[0])
        return Fails()


def colour_code(lead: Lead) -> str:
    """The code of a found conductor's colour; :data:`fjeld.practice.colours.NOT_SEEN` where it is none that
    is drawn.
    """
    return code_of(lead.colour)


def is_ground(lead: Lead) -> bool:
    """Whether a found conductor counts as a ground."""
    return lead.carries == "ground" or (not lead.carries and colour_code(lead) == "G")


def carrying(old: OldBox, found: str, role: Found) -> list[tuple[End, Lead]]:
    """The conductors taken to carry a role, by their ends: of the cable of that number, or while it is open
    of any.
    """
    return [
        (end, lead)
        for cable in old.cables
        for end, lead in zip(cable.ends, cable.leads, strict=True)
        if found in ("", cable.id) and (lead.carries == role or (role == "ground" and is_ground(lead)))
    ]


def make_up(handle: Handle, old: OldBox, begins: Sequence[Begin], practice: Practice) -> OldMade:
    """The old box with what begins there."""
    begins = sorted(begins, key=lambda b: order(b.circuit))
    gauge = begins[0].gauge
    there = _as_found(handle, old, gauge)
    new = [end for begin in begins for end in begin.ends]
    joints = [joint for begin in begins for joint in _joints(handle, old, begin, there, practice)]
    volume = None if old.volume is None else float(old.volume)
    least = fill(_contents(old, there, new, practice, most=False), practice)
    most = fill(_contents(old, there, new, practice, most=True), practice)
    kind = BoxKind(
        id="old",
        name=f"Old box, {old.holds}" if old.holds else "Old box",
        shape="device" if old.wall else "ceiling",
        gangs=old.gangs,
        volume=volume or 0.0,
        width=0.0,
        cents=0,
    )
    box = Box(
        handle=handle,
        kind=kind,
        pinned=True,
        ends=(*there, *new),
        devices=_device(handle, old),
        joints=tuple(sorted(joints, key=_make_up_order)),
        needed=most,
        reserved=most,
        circuits=tuple(b.circuit for b in begins),
    )
    return OldMade(
        handle=handle,
        box=box,
        least=least,
        most=most,
        volume=volume,
        open=tuple(_open(handle, old, practice)),
    )


def _make_up_order(joint: Joint) -> tuple[int, str]:
    return [net for net, _ in _ROLES].index(joint.net), str(joint.key)


def _as_found(handle: Handle, old: OldBox, gauge: str) -> list[Conductor]:
    """The conductors that are there, as those of a box are; a gauge that nobody read as the circuit's."""
    found = []
    for cable in old.cables:
        for k, lead in enumerate(cable.leads, 1):
            colour = "G" if is_ground(lead) else colour_code(lead)
            bundle = f"{_BUNDLE}{cable.id}"
            key = f"{bundle}.{k}"
            net = (
                GROUND
                if is_ground(lead)
                else {"line": LINE, "neutral": NEUTRAL}.get(lead.carries, Net("spare"))
            )
            found.append(
                Conductor(
                    key=key,
                    cable=Handle(""),
                    bundle=bundle,
                    colour=colour,
                    net=net,
                    a=handle,
                    b=handle,
                    gauge=cable.gauge or gauge,
                )
            )
    return found


#: Before the number of a cable that was found, for its name within its box.
_BUNDLE = "cable "


def _joints(
    handle: Handle, old: OldBox, begin: Begin, there: Sequence[Conductor], practice: Practice
) -> Iterable[Joint]:
    """What the new conductors of a circuit are joined to: all that is joined there with what carries the
    same.
    """
    for net, role in _ROLES:
        new = [end for end in begin.ends if end.net.role == net.role and not end.net.control]
        if not new:
            continue
        key = JointKey(handle, net, Handle("") if net == GROUND else begin.circuit)
        met = carrying(old, "" if role == "ground" else begin.found, role)
        if met:
            yield _joined(
                old,
                key,
                new=new,
                carried={end for end, _ in met},
                there=there,
                begin=begin,
                practice=practice,
            )
        else:
            yield Joint(
                key=key,
                net=net,
                how="parked",
                ends=tuple(end.key for end in new),
                landings=(),
                connectors=("cap",),
                reason="what carries it here is not known yet",
            )


def _joined(
    old: OldBox,
    key: JointKey,
    *,
    new: Sequence[Conductor],
    carried: set[End],
    there: Sequence[Conductor],
    begin: Begin,
    practice: Practice,
) -> Joint:
    """New conductors with all that is joined where those that carry the same are, in whatever cable."""
    lands = {place for end in carried if (place := _place(old, end))}
    together = [
        f"{_BUNDLE}{cable.id}.{k}"
        for cable in old.cables
        for k, end in enumerate(cable.ends, 1)
        if end in carried or _place(old, end) in lands
    ]
    terminals = sorted({old.landing(end) for end in carried if _on_device(old, end)})
    gauges = [c.gauge for c in there if c.key in together] + [c.gauge for c in new]
    gauges += [begin.gauge] * len(terminals)
    chosen = connectors_for(gauges, practice.catalogue.families()[0], practice.catalogue)
    return Joint(
        key=key,
        net=key.net,
        how="joint",
        ends=(*together, *(end.key for end in new)),
        landings=tuple(Landing(DeviceKey(key.box), terminal, False) for terminal in terminals),
        connectors=tuple(c.id for c in chosen),
        unlisted=not chosen,
    )


def _place(old: OldBox, end: End) -> str:
    """What a conductor lands on, however it is written."""
    return old.landing(end).strip().lower()


def _on_device(old: OldBox, end: End) -> bool:
    """Whether a conductor lands on the device, not in a joint or nowhere."""
    words = _place(old, end)
    return bool(_yokes(old)) and bool(words) and not words.startswith(_NO_SCREW)


#: How people say that a conductor lands on no screw.
_NO_SCREW = (
    "joint",
    "join",
    "with",
    "cap",
    "twist",
    "splice",
    "spliced",
    "connector",
    "nothing",
    "not ",
    "loose",
)


#: What people call that which is screwed to a box and has no leads.
_ON_YOKES = tuple(
    word for kind in held_kinds().values() if not kind.leads for word in (kind.held, *kind.also)
)


def _yokes(old: OldBox) -> int:
    if old.held:
        return sum(not device(h.kind).leads for h in old.held)
    return int(any(word in old.holds.lower() for word in _ON_YOKES))


def _device(handle: Handle, old: OldBox) -> tuple[BoxDevice, ...]:
    return (BoxDevice(DeviceKey(handle), "outlet", old.gangs),) if _yokes(old) else ()


def _contents(
    old: OldBox, there: Sequence[Conductor], new: Sequence[Conductor], practice: Practice, most: bool
) -> Contents:
    """What is in it: an unread gauge as the thinnest or the thickest there is, clamps that nobody looked for
    not there or there.
    """
    gauges = sorted(practice.catalogue.gauges, key=lambda g: g.area)
    usable = (
        [g.id for g in gauges if g.id in practice[rules.BOX_FILL]]
        if rules.BOX_FILL in practice
        else [gauges[0].id]
    )
    open_gauge = usable[-1 if most else 0]
    unread = {f"{_BUNDLE}{cable.id}" for cable in old.cables if not cable.gauge}
    counted: dict[str, list[str]] = defaultdict(list)
    grounds = []
    for conductor in (*there, *new):
        gauge = open_gauge if conductor.bundle in unread else conductor.gauge
        if conductor.insulated:
            counted[gauge].append(conductor.key)
        else:
            grounds.append(gauge)
    largest = (
        max((*counted, *grounds), key=usable.index, default=usable[0])
        if rules.BOX_FILL in practice
        else usable[0]
    )
    return Contents(
        tuple(ConductorCount(gauge, len(keys), tuple(keys)) for gauge, keys in counted.items()),
        tuple(grounds),
        (Yoke(largest, old.gangs, "what it holds"),) if _yokes(old) else (),
        old.clamps if old.clamps is not None else most,
        cables=len(old.cables) + len({c.bundle for c in new}),
    )


def _open(handle: Handle, old: OldBox, practice: Practice) -> Iterable[str]:
    """The readings that would settle how full it is, the first that matters first."""
    if old.volume is None:
        yield f"the volume stamped in {handle}, or its size inside"
    if not old.cables or any(not cable.leads for cable in old.cables):
        yield f"every cable in {handle}, with the conductors it has"
    if rules.BOX_FILL not in practice:
        return
    if any(not cable.gauge for cable in old.cables):
        yield f"the gauge of each cable in {handle}: its sheath's print, or the bare copper measured across"
    if old.clamps is None:
        yield f"whether clamps stand inside {handle}"


def taken_for_granted(handle: Handle, old: OldBox, found: str) -> tuple[str, ...]:
    """What a circuit that begins there rests on and no reading has settled, in words."""
    wanted: tuple[tuple[Found, str], ...] = (
        ("line", "is live in every state of every switch"),
        ("neutral", "is the neutral of the same circuit"),
    )
    open_ones = []
    for role, words in wanted:
        met = carrying(old, found, role)
        if not met:
            open_ones.append(f"some conductor in {handle} {words}")
        open_ones += [
            f"{lead.colour} of cable {owner(end)} in {handle} {words}" for end, lead in met if not lead.read
        ]
    return tuple(open_ones)
