"""The way of a cable to a new place: its alternatives, what to ask and to look for next, and what to cut."""

from __future__ import annotations

import msgspec

from fjeld.concealed import along
from fjeld.concealed.along import Detail
from fjeld.concealed.ground import Ground, ground_of
from fjeld.concealed.routes import (
    ON_CEILINGS,
    ON_WALLS,
    ConcealedRoute,
    RefusedWay,
    blocker,
    refused,
    routes,
)
from fjeld.drawing.errand import Errand, Seen, Way, length_of, part_of
from fjeld.drawing.old_box import OldBox
from fjeld.judge.answer import Answer
from fjeld.judge.ways import PullAsked, pull
from fjeld.practice import Practice
from fjeld.practice.finished.spots import Ask
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import Length, Unit


class Path(msgspec.Struct, frozen=True):
    """The ways to a spot. ``chosen`` is the one that was taken, else the best; ``picked`` whether somebody
    took it.

    ``asks`` are the questions that it has, ``open`` those without an answer, ``next`` the first to ask;
    ``pull`` what to cut, where every measure of the chosen way is known; ``details`` what its holes, bays and
    wood come to.
    """

    ground: Ground
    routes: tuple[ConcealedRoute, ...]
    refused: tuple[RefusedWay, ...]
    chosen: ConcealedRoute
    picked: bool
    asks: tuple[Ask, ...]
    open: tuple[str, ...]
    next: Ask | None
    pull: Answer | None
    details: tuple[Detail, ...]
    lost: bool

    @property
    def standing(self) -> tuple[ConcealedRoute, ...]:
        """The ways that nothing known blocks."""
        return tuple(r for r in self.routes if not r.blocked)


def path(errand: Errand, old: OldBox, practice: Practice) -> Path:
    """Every way from an old box to the spot of an errand, as far as is known."""
    ground = ground_of(errand, old, practice)
    found = routes(ground)
    told = errand.way
    taken = next((r for r in found if r.key == told.chosen), None)
    chosen = taken or found[0]
    asks = (
        *_facts(ground, (taken,) if taken else found, practice),
        *_looks(chosen),
        *(along.asks(taken, ground) if taken else ()),
    )
    unanswered = tuple(a.id for a in asks if not answered(told, a, ground, chosen))
    first = next((a for a in asks if a.id in unanswered and a.id not in told.later), None)
    return Path(
        ground=ground,
        routes=found,
        refused=refused(ground, found),
        chosen=chosen,
        picked=taken is not None,
        asks=asks,
        open=unanswered,
        next=first,
        pull=_pull(chosen, ground, practice.unit),
        details=along.details(chosen, ground, practice),
        lost=bool(told.chosen) and taken is None,
    )


def lies_options(ground: Ground) -> dict[str, str]:
    """How the new place may lie to the old box, with its words."""
    return ON_WALLS if ground.walls else ON_CEILINGS


def _facts(ground: Ground, found: tuple[ConcealedRoute, ...], practice: Practice) -> list[Ask]:
    """The questions about the room that some way turns on; of one that was taken, its own."""
    told = ground.errand.way
    legs = [leg for r in found for leg in r.made]
    kinds, counts = {leg.way.id for leg in legs}, {leg.counts for leg in legs}
    lacks = {name for r in found for name in r.lacks}
    measured = {
        "across": length_of(told.across),
        "source": ground.heights[0],
        "ceiling": length_of(told.ceiling),
        "pull": length_of(told.pull),
    }
    asked = {
        "lies": True,
        "insulated": bool(kinds & {"P1", "P10"}),
        "base": "P6" in kinds or told.base is False,
        "closet": len(found) != 1 and told.lies not in ("same bay", "other side", "another storey"),
        "studs": "studs" in counts,
        "joists": "joists" in counts,
        **{name: name in lacks or value is not None for name, value in measured.items()},
    }
    return [_worded(a, ground) for a in way_data().ask if asked[a.id] and practice.of(a.practice)]


def _worded(ask: Ask, ground: Ground) -> Ask:
    return msgspec.structs.replace(ask, options=lies_options(ground)) if ask.id == "lies" else ask


def _looks(chosen: ConcealedRoute) -> list[Ask]:
    """What can block the way in hand, as questions: cheaper to look than to turn back."""
    ids = dict.fromkeys(b for leg in chosen.made for b in leg.way.blockers)
    yes_no = {"clear": "Looked: no", "there": "Yes"}
    return [Ask(id_, f"In the way: {blocker(id_).words}?", "seen", blocker(id_).look, yes_no) for id_ in ids]


def answered(told: Way, ask: Ask, ground: Ground, chosen: ConcealedRoute) -> bool:
    """Whether a question of the way has its answer, told or by what was measured."""
    if ask.kind == "seen":
        return (
            by_measure(ask, chosen) is not None
            or ask.id in told.seen
            or (ask.id == "insulation" and told.insulated is not None)
        )
    if ask.id == "source":
        return ground.heights[0] is not None
    value = part_of(told, ask.id)
    return length_of(value) is not None if isinstance(value, Length) else value not in (None, "")


def by_measure(ask: Ask, chosen: ConcealedRoute) -> Seen | None:
    """What the measures along the way in hand tell of something to be looked for; none where a look is still
    wanted.
    """
    told = [leg.measured.get(ask.id) for leg in chosen.made if ask.id in leg.way.blockers]
    return "there" if "there" in told else "clear" if told and None not in told else None


def _pull(route: ConcealedRoute, ground: Ground, unit: Unit) -> Answer | None:
    """What to cut for a way: from its own measures."""
    legs = route.lengths
    if legs is None or not legs:
        return None
    return pull(PullAsked(legs, blind=route.blind), ground.practice)
