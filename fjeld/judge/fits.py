"""Does one more cable fit: what a box holds as found, and after; what would make it fit."""

from __future__ import annotations

import re

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.fill import ConductorCount, Contents, Yoke, fill
from fjeld.practice import Practice, rules
from fjeld.quantities import ROUNDING, Working, at_least, at_most


class FitsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A box as it is found: its stamp in in³, or its inside size, or its depth in mm; what is in it, and what
    is added.

    ``cables`` and ``add`` are written as they are sold, ``14/2``; ``breaker`` is that of its circuit, A,
    where it is told.
    """

    cables: tuple[str, ...] = ()
    add: tuple[str, ...] = ()
    volume: float | None = None
    size: str = ""
    depth: int | None = None
    devices: int = 0
    clamps: bool = False
    socket: bool = False
    protective: bool = False
    breaker: float | None = None


def fits(asked: FitsAsked, practice: Practice) -> Answer:
    """What it needs as found and after, of what it holds; and whether what is added is thick enough for its
    breaker.
    """
    found = _counted(asked, practice) if practice.catalogue.box_unit == "cables" else _summed(asked, practice)
    return msgspec.structs.replace(found, said=(*_thin(asked, practice), *found.said))


def holds(asked: FitsAsked, practice: Practice) -> float | None:
    """What a box takes as it is found: in³ by its stamp or its inside size, or cables by its depth; None
    where that is not known.
    """
    catalogue = practice.catalogue
    if catalogue.box_unit != "cables":
        return asked.volume if asked.volume is not None else catalogue.unstamped.get(asked.size)
    box = None if asked.depth is None else catalogue.deepest(asked.depth)
    return None if box is None else box.holds(asked.socket)


def _thin(asked: FitsAsked, practice: Practice) -> list[Said]:
    """Cables among what is there and what is added that their breaker does not protect."""
    if asked.breaker is None:
        return []
    least, rule = practice[rules.BREAKER_GAUGE], practice.rule(rules.BREAKER_GAUGE)
    gauges = dict.fromkeys(c.partition("/")[0].strip() for c in (*asked.cables, *asked.add))
    return [
        Said(
            "danger",
            f"{g} on a breaker of {asked.breaker:g} A, which it takes up to {least[g]:g} A: a thicker cable,"
            " or a smaller breaker",
            rule.shown_basis,
        )
        for g in gauges
        if g in least and not at_most(asked.breaker, least[g], ROUNDING)
    ]


def _summed(asked: FitsAsked, practice: Practice) -> Answer:
    """By volume, conductor by conductor."""
    volume, sizes = holds(asked, practice), practice.catalogue.unstamped
    if asked.size and asked.size not in sizes:
        raise NotAsked(f"there is no box “{asked.size}”; there is {', '.join(sizes)}")
    now, after = (_needed(asked, cables, practice) for cables in (asked.cables, (*asked.cables, *asked.add)))
    old = _needed(asked, (*asked.cables, *asked.add), practice, "all-as-one")
    bare = _needed(msgspec.structs.replace(asked, clamps=False), (*asked.cables, *asked.add), practice)
    figures = [
        Figure("needed after, in³", after.total, "count"),
        Figure("needed as found, in³", now.total, "count"),
    ]
    said = []
    if volume is None:
        said.append(Said("ask", "Not known whether it fits: read the stamp inside, or measure a metal box"))
    else:
        figures += [
            Figure("holds, in³", volume, "count"),
            Figure("left after, in³", volume - after.total, "count"),
        ]
        said += _judged(asked, volume, now=now.total, after=after.total, old=old.total, clampless=bare.total)
        if asked.protective and (
            at_most(volume, practice[rules.ELECTRONIC_ROOM], ROUNDING)
            or at_least(after.total, volume, ROUNDING)
        ):
            words = "A protective or electronic device has twice the body: it will hardly fold in there"
            said.append(Said("advice", words))
    return Answer(tuple(figures), tuple(said), (after, now))


def _judged(
    asked: FitsAsked, volume: float, now: float, after: float, old: float, clampless: float
) -> list[Said]:
    said = []
    if not at_most(now, volume, ROUNDING):
        said.append(Said("danger", f"As found it is over already, by {now - volume:.2f} in³"))
    if not at_most(after, volume, ROUNDING):
        over = after - volume
        said.append(
            Said(
                "fails",
                f"After, it is over by {over:.2f} in³: a box of {after:g} in³ or more, or a ring that adds"
                f" {over:.2f}",
            )
        )
        if asked.clamps:
            said.append(Said("advice", f"One without clamps inside needs {clampless:.2f} in³"))
        if at_most(old, volume, ROUNDING):
            said.append(
                Said(
                    "advice",
                    f"Where all grounds count as one it is {old:.2f} in³, and fits: whose edition holds is"
                    " for your inspector",
                )
            )
    else:
        said.append(Said("passes", f"After, {after:.2f} of {volume:g} in³"))
    return said


def _needed(
    asked: FitsAsked, cables: tuple[str, ...], practice: Practice, school: str | None = None
) -> Working:
    wires: dict[str, int] = {}
    grounds = []
    for cable in cables:
        found = re.fullmatch(r"\s*(\d+)\s*/\s*(\d)\s*", cable)
        if not found or found[1] not in practice.catalogue.wired_gauges():
            raise NotAsked(f"“{cable[:20]}” is no cable; write it like 14/2")
        wires[found[1]] = wires.get(found[1], 0) + int(found[2])
        grounds.append(found[1])
    largest = min(wires, key=int, default="14")
    contents = Contents(
        conductors=tuple(ConductorCount(gauge, count) for gauge, count in wires.items()),
        grounds=tuple(grounds),
        yokes=tuple(Yoke(largest) for _ in range(asked.devices)),
        internal_clamps=asked.clamps,
        ground_school=school,  # type: ignore[arg-type]
    )
    return fill(contents, practice)


def _counted(asked: FitsAsked, practice: Practice) -> Answer:
    """By the number of cables behind the plate."""
    now, after = (
        fill(Contents(cables=n), practice) for n in (len(asked.cables), len(asked.cables) + len(asked.add))
    )
    figures = [Figure("cables after", after.total, "count")]
    sums = (after, now)
    if asked.depth is None:
        open_ = Said("ask", "Not known whether they fit: measure how deep the box is")
        return Answer(tuple(figures), (open_,), sums)
    most = holds(asked, practice)
    if most is None:
        depths = ", ".join(str(b.depth) for b in practice.catalogue.told_by_depth)
        raise NotAsked(f"a box {asked.depth} mm deep takes no cables; there are boxes of {depths} mm")
    figures.append(Figure("takes", most, "count"))
    said = []
    if not at_most(now.total, most, ROUNDING):
        said.append(Said("danger", f"As found it is over already: {now.total:g} cables of {most:g}"))
    words = f"{after.total:g} of {most:g} cables in a box {asked.depth} mm deep"
    said.append(Said("passes" if at_most(after.total, most, ROUNDING) else "fails", words))
    return Answer(tuple(figures), tuple(said), sums)
