"""What an old box holds, as found and after, and what the box at the new place does."""

from __future__ import annotations

import msgspec

from fjeld.concealed.cut import hand_box
from fjeld.drawing.errand import CHANGED, NEW, REPLACED, Errand
from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import as_found
from fjeld.judge.answer import Said
from fjeld.judge.fits import FitsAsked, fits
from fjeld.judge.fits import holds as box_holds
from fjeld.oldbox.found import FoundBox
from fjeld.practice import Practice
from fjeld.practice.devices import device as kind_of
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import ROUNDING, Working, at_most

#: Cables are not told from each other by gauge where nobody has read one: the usual for the smallest breaker.
USUAL_GAUGE = "14"


#: What takes up as much as a protective outlet does.
BULKY = ("protective", "sensor", "dimmer")


class Filled(msgspec.Struct, frozen=True):
    """A box as it stands: what it ``needs`` of what it ``holds`` (None where nobody has read it), in
    ``unit``, and what is said.
    """

    title: str
    needs: Working
    holds: float | None
    unit: str
    said: tuple[Said, ...] = ()

    @property
    def over(self) -> bool:
        """Whether it holds less than it needs, by what is known."""
        return self.holds is not None and not at_most(self.needs.total, self.holds, ROUNDING)


def asked_of(
    box: FoundBox,
    gauges: tuple[str, ...],
    volume: float | None,
    size: str,
    depth: int | None,
    clamps: bool | None,
    add: tuple[str, ...],
) -> FitsAsked:
    """The question whether a box takes ``add`` besides what is in it."""
    gauge = next((g for g in (*gauges, *(c.gauge for c in box.cables)) if g), USUAL_GAUGE)
    cables = tuple(f"{c.gauge or gauge}/{len(c.insulated)}" for c in box.cables)
    held = sum(not kind_of(d.kind).leads for d in box.devices)
    return FitsAsked(
        cables=cables,
        add=tuple(a or f"{gauge}/2" for a in add),
        volume=volume,
        size=size,
        depth=depth,
        devices=held,
        clamps=bool(clamps),
        socket=any(d.kind == "outlet" for d in box.devices),
        protective=any(d.kind == "protective" for d in box.devices),
    )


def old_box(asked: FitsAsked, practice: Practice) -> tuple[Filled, Filled]:
    """It as found, and after; what is said of the change stands with the second."""
    answer = fits(asked, practice)
    after, now = answer.workings
    unit = now.unit
    holds = box_holds(asked, practice)
    found = tuple(s for s in answer.said if s.tone == "danger")
    return (
        Filled("as found", now, holds, unit, found),
        Filled("after", after, holds, unit, tuple(s for s in answer.said if s not in found)),
    )


def new_box(box: OldWorkBox, gauge: str, devices: int, practice: Practice) -> Filled:
    """The box at the new place, with one cable of two and its device."""
    mine = FitsAsked(
        cables=(),
        add=(f"{gauge or USUAL_GAUGE}/2",),
        volume=box.volume or None,
        size="",
        depth=_depth(box),
        devices=devices,
    )
    return msgspec.structs.replace(old_box(mine, practice)[1], title="the new box")


def _depth(box: OldWorkBox) -> int:
    return round(box.depth)


def larger(asked: FitsAsked, practice: Practice) -> tuple[OldWorkBox, ...]:
    """Boxes for old work that take what is in it and what is added, the smallest first."""
    walls = [
        b
        for b in practice.catalogue.old_work
        if b.surface == "wall" and gangs_of(b, practice) >= asked.devices and is_larger(b, asked, practice)
    ]
    fit = (b for b in walls if not _after(asked, practice, b.volume or None, _depth(b)).over)
    # What grips the board by itself goes anywhere in a bay; one that is screwed to a stud only beside it.
    return tuple(sorted(fit, key=lambda b: (b.on_member, b.volume)))


def _after(
    asked: FitsAsked, practice: Practice, volume: float | None = None, depth: int | None = None
) -> Filled:
    """What is in it, in another box without clamps inside."""
    other = msgspec.structs.replace(asked, volume=volume, size="", depth=depth, clamps=False)
    return old_box(other, practice)[1]


def asked_for(old: OldBox, errand: Errand) -> FitsAsked:
    """Whether the old box takes what is added to it; nothing is, where only what is there changes."""
    add = ("",) if errand.wants in NEW else ()
    gauges = tuple(c.gauge for c in old.cables)
    volume = None if old.volume is None else float(old.volume)
    asked = asked_of(
        as_found(old), gauges, volume=volume, size=old.size, depth=old.depth, clamps=old.clamps, add=add
    )
    return (
        msgspec.structs.replace(asked, protective=True)
        if errand.wants in REPLACED and errand.becomes in BULKY
        else asked
    )


def in_its_place(asked: FitsAsked, errand: Errand) -> FitsAsked:
    """What the box in its stead is to hold: what is in it, with as many devices as are told to be
    in it then.
    """
    devices = asked.devices if errand.devices is None else errand.devices
    return msgspec.structs.replace(asked, devices=devices)


def before_and_after(asked: FitsAsked, errand: Errand, practice: Practice) -> list[Filled]:
    """The old box as found and after, and the box at the new place or in its stead; raises
    :class:`NotAsked`.
    """
    found = list(old_box(asked, practice))
    hand = hand_box(errand.spot, practice)
    if errand.wants in NEW:
        gauge = next((c.partition("/")[0] for c in asked.cables), "")
        on_it = 0 if errand.wants in ("light", "alarms") else 1
        return [*found, new_box(hand, gauge, on_it, practice)]
    if errand.wants in CHANGED:
        then = _after(in_its_place(asked, errand), practice, hand.volume or None, _depth(hand))
        return [found[0], msgspec.structs.replace(then, title="in the new one")]
    return found[:1] if not asked.add else found


def gangs_of(box: OldWorkBox, practice: Practice) -> int:
    """How many devices stand side by side in a box for old work, by how much wider it is than the narrowest;
    of a round one, one.
    """
    if box.surface == "ceiling":
        return 1
    narrowest = min(b.body[0] for b in practice.catalogue.old_work if b.surface == "wall")
    return 1 + round((box.body[0] - narrowest) / practice.catalogue.gang)


def is_larger(box: OldWorkBox, asked: FitsAsked, practice: Practice) -> bool:
    """Whether a box for old work holds more than the one that is there, or nobody knows what that holds."""
    holds = box_holds(asked, practice)
    if holds is None:
        return True
    mine = msgspec.structs.replace(asked, volume=box.volume or None, size="", depth=_depth(box))
    other = box_holds(mine, practice)
    return other is not None and not at_most(other, holds, ROUNDING)
