"""What to carry for one climb: built from the way, the surface and the errand; nothing else goes up."""

from __future__ import annotations

import math
from functools import cache

import msgspec

from fjeld.concealed.cut import hand_box
from fjeld.concealed.routes import ConcealedLeg, ConcealedRoute, bits
from fjeld.derive.routes import supports_needed
from fjeld.drawing.errand import Errand
from fjeld.practice import Practice, rules
from fjeld.practice.finished import read_table
from fjeld.quantities import coarse

#: Staples and connectors are dropped and bent: so much more of them goes up.
SPARE = 1.2


class Carried(msgspec.Struct, frozen=True):
    """A thing, how many of it, and what it is for."""

    what: str
    count: int = 0
    whose: str = ""


class _Lists(msgspec.Struct, frozen=True):
    always: tuple[str, ...]
    ends: tuple[str, ...]
    ways: dict[str, tuple[str, ...]]
    surfaces: dict[str, tuple[str, ...]]
    errands: dict[str, tuple[str, ...]]
    steps: dict[str, tuple[str, ...]]
    house: dict[str, tuple[str, ...]]


@cache
def _lists() -> _Lists:
    return msgspec.convert(read_table("carry.toml"), _Lists)


def carry(
    errand: Errand, route: ConcealedRoute, cut: float | None, practice: Practice, cable: str = ""
) -> tuple[Carried, ...]:
    """Everything for one climb, each thing once; ``cut`` is the cable's length in mm, where it is known, and
    ``cable`` its name by kind and gauge.
    """
    lists, unit = _lists(), practice.unit
    found = [Carried(what, whose="whoever goes") for what in lists.always]
    for leg in route.made:
        found += [
            Carried(what.format(**bits(route, practice)), whose=leg.way.name)
            for what in lists.ways.get(leg.way.id, ())
        ]
    found.append(
        Carried(
            f"{cable or 'cable'}, {f'{coarse(cut, unit)} or ' if cut else ''}the coil, tagged",
            whose="the pull",
        )
    )
    if staples := _staples(route, practice):
        found.append(Carried("staples", staples, "where the cable lies open"))
    if route.steel:
        found.append(Carried("steel plates", math.ceil(route.steel * SPARE), "notches"))
    found += [
        Carried(what, whose=errand.spot.covering) for what in lists.surfaces.get(errand.spot.covering, ())
    ]
    found += [Carried(what, whose="the errand") for what in lists.errands.get(errand.wants, ())]
    box = hand_box(errand.spot, practice)
    found.append(Carried(box.name[:1].lower() + box.name[1:], 1, "the new place"))
    found.append(
        Carried(
            "connectors",
            math.ceil(3 * SPARE),
            f"{practice.word('ground')}, neutral and line at the source",
        )
    )
    found += [Carried(what, whose="the ends") for what in lists.ends]
    own = [msgspec.structs.replace(c, what=practice.said(c.what)) for c in found]
    return _once(own)


def with_what(
    step: str, errand: Errand, route: ConcealedRoute | None, leg: ConcealedLeg | None, practice: Practice
) -> tuple[str, ...]:
    """The tools and parts of a step of an errand's book, by its name; of the way, those of its ``leg``."""
    lists = _lists()
    # One of several changes is done with what all of them are.
    found = lists.steps.get(step) or lists.steps.get(step.rpartition(" ")[0], ())
    match step:
        case _ if leg is not None and route is not None:
            found = tuple(what.format(**bits(route, practice)) for what in lists.ways.get(leg.way.id, ()))
        case "cut":
            found = (*lists.surfaces.get(errand.spot.covering, ("saw for the surface",)), *found)
        case "box":
            box = hand_box(errand.spot, practice).name
            found = (f"{box[:1].lower()}{box[1:]}", *found)
        case "make up":
            found = (*lists.errands.get(errand.wants, ()), *found)
    return tuple(map(practice.said, found))


def with_what_in_house(step: str) -> tuple[str, ...]:
    """The tools and parts of a step of a house's book."""
    return _lists().house.get(step, ())


def _once(found: list[Carried]) -> tuple[Carried, ...]:
    """Each thing once, with the most of it that is asked."""
    kept: dict[str, Carried] = {}
    for item in found:
        known = kept.get(item.what)
        kept[item.what] = item if known is None or item.count > known.count else known
    return tuple(kept.values())


def _staples(route: ConcealedRoute, practice: Practice) -> int:
    """For cable that lies open along attic and cellar, fastened near both its ends as at a box."""
    open_ = [leg for leg in route.made if leg.way.id in ("P0", "P8")]
    if not open_ or any(leg.length is None for leg in open_):
        return 0
    first, interval = practice[rules.FIRST_SUPPORT], practice[rules.SUPPORT_INTERVAL]
    needed = sum(supports_needed(leg.length or 0.0, first, first, interval, "box-box") for leg in open_)
    return math.ceil(needed * SPARE)


def fished(route: ConcealedRoute) -> float:
    """How much of the way is fished blind, mm, as far as it is known."""
    return math.fsum(leg.length or 0.0 for leg in route.made if leg.way.blind)
