"""What an old box holds, as found and after, and what the box at the new place does."""

from __future__ import annotations

import msgspec

from fjeld.finished.answer import Answer, Said
from fjeld.finished.box.found import FoundBox
from fjeld.finished.fits import BY_DEPTH, METAL, FitsAsked, fits
from fjeld.practice import Practice
from fjeld.practice.finished import OldWorkBox, habits
from fjeld.quantities import Line, Working

#: What takes a yoke's allowance.
YOKES = ("switch", "three-way", "four-way", "outlet", "protective", "fused unit")
#: Cables are not told from each other by gauge where nobody has read one: the usual for the smallest breaker.
USUAL_GAUGE = "14"


class Filled(msgspec.Struct, frozen=True):
    """A box as it stands: what it ``needs`` of what it ``holds`` (None where nobody has read it), in ``unit``, and what is said."""

    title: str
    needs: Working
    holds: float | None
    unit: str
    said: tuple[Said, ...] = ()

    @property
    def over(self) -> bool:
        """Whether it holds less than it needs, by what is known."""
        return self.holds is not None and self.needs.total > self.holds + 1e-6


def asked_of(
    box: FoundBox, gauges: tuple[str, ...], volume: float | None, size: str, depth: int | None, clamps: bool | None, add: tuple[str, ...]
) -> FitsAsked:  # fmt: skip
    """The question whether a box takes ``add`` besides what is in it."""
    gauge = next((g for g in (*gauges, *(c.gauge for c in box.cables)) if g), USUAL_GAUGE)
    cables = tuple(f"{c.gauge or gauge}/{len(c.insulated)}" for c in box.cables)
    held = sum(d.kind in YOKES for d in box.devices)
    return FitsAsked(
        cables, tuple(a or f"{gauge}/2" for a in add), volume, size, depth, held, bool(clamps),
        any(d.kind == "outlet" for d in box.devices), any(d.kind == "protective" for d in box.devices),
    )  # fmt: skip


def old_box(asked: FitsAsked, practice: Practice) -> tuple[Filled, Filled]:
    """It as found, and after; what is said of the change stands with the second."""
    answer = fits(asked, practice)
    now, after = _sums(asked, answer, practice)
    unit = now.unit
    holds = _holds(asked, practice)
    found = tuple(s for s in answer.said if s.tone == "danger")
    return (
        Filled("as found", now, holds, unit, found),
        Filled("after", after, holds, unit, tuple(s for s in answer.said if s not in found)),
    )


def _sums(asked: FitsAsked, answer: Answer, practice: Practice) -> tuple[Working, Working]:
    if not practice.metric:
        return answer.workings[1], answer.workings[0]
    counted = [
        Working("Cables in the box", "cables", (Line(float(n), 1.0, "cables"),))
        for n in (len(asked.cables), len(asked.cables) + len(asked.add))
    ]
    return counted[0], counted[1]


def _holds(asked: FitsAsked, practice: Practice) -> float | None:
    if not practice.metric:
        return asked.volume if asked.volume is not None else METAL.get(asked.size)
    known = [d for d in BY_DEPTH if asked.depth is not None and d <= asked.depth]
    return float(BY_DEPTH[max(known)][1 if asked.socket else 0]) if known else None


def new_box(box: OldWorkBox, gauge: str, devices: int, practice: Practice) -> Filled:
    """The box at the new place, with one cable of two and its device."""
    mine = FitsAsked((), (f"{gauge or USUAL_GAUGE}/2",), box.volume or None, "", _depth(box), devices)
    return msgspec.structs.replace(old_box(mine, practice)[1], title="the new box")


def _depth(box: OldWorkBox) -> int:
    return round(box.depth)


def larger(asked: FitsAsked, practice: Practice) -> tuple[OldWorkBox, ...]:
    """Boxes for old work that take what is in it and what is added, the smallest first."""
    mine = habits(practice.id)
    walls = [b for b in mine.boxes if b.surface == "wall"]
    if practice.metric:
        return tuple(b for b in walls if not _after(asked, practice, depth=_depth(b)).over)
    return tuple(
        sorted((b for b in walls if not _after(asked, practice, volume=b.volume).over), key=lambda b: b.volume)
    )


def _after(
    asked: FitsAsked, practice: Practice, volume: float | None = None, depth: int | None = None
) -> Filled:
    """What is in it, in another box without clamps inside."""
    other = msgspec.structs.replace(asked, volume=volume, size="", depth=depth, clamps=False)
    return old_box(other, practice)[1]
