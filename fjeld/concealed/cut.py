"""Before a box is cut in: what is asked of its place, what stops the cut, and how the surface is cut.

A spot is told one answer at a time, in any order. What is not told is not known: the span is given as
soon as both edges are, and the cut stays shut until everything that could be behind has been looked for.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.errand import Errand, Spot, length_of
from fjeld.judge.answer import Answer, NotAsked, Said
from fjeld.judge.outdoors import OutdoorsAsked, outdoors
from fjeld.judge.spot import SpotAsked, VoidAsked, at_member, box_of, spot, starting_holes, void
from fjeld.judge.water import WaterAsked, water
from fjeld.practice import Practice, rules
from fjeld.practice.finished.spots import MASONRY, Ask, Covering, spots
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import Length, at_least, at_most


class Rest(msgspec.Struct, frozen=True):
    """A place along the span that the box may rest at."""

    words: str
    at: float


class PlacedSpot(msgspec.Struct, frozen=True):
    """A spot as it stands. ``asks`` are the questions that it has, ``open`` those without an answer, ``next``
    the first to ask.

    ``low`` and ``high`` bound the middle of the box where both edges are known, ``at`` is where it goes;
    ``stops`` are what forbids the cut, ``looks`` what is still to be looked for before one; ``word`` how sure
    the span is.
    """

    box: OldWorkBox
    asks: tuple[Ask, ...]
    open: tuple[str, ...]
    next: Ask | None
    answer: Answer | None
    said: tuple[Said, ...]
    low: float | None
    high: float | None
    at: float | None
    rests: tuple[Rest, ...]
    stops: tuple[Said, ...]
    looks: tuple[str, ...]
    covering: Covering | None
    start: tuple[float, float]
    word: Literal["measured", "usual", "open"]

    @property
    def may_cut(self) -> bool:
        """Whether nothing that is known stops the cut and nothing is left to look for."""
        return not self.stops and not self.looks and self.at is not None


def place(errand: Errand, practice: Practice) -> PlacedSpot:
    """What is known of the spot of an errand, what stops the cut, and what to ask next."""
    told = errand.spot
    box = hand_box(told, practice)
    asks = tuple(a for a in spots().ask if asked_of(a, errand, practice))
    unanswered = tuple(a.id for a in asks if not answered(told, a))
    answer = _answer(told, box, practice)
    low, high = _bounds(answer, box.on_member)
    at = _at(told, box, low, high, practice)
    found = (*_there(told, asks, practice), *_wet(errand, practice), *_wrong_box(errand, box, practice))
    stops = tuple(s for s in (*found, *_failing(answer)) if s.tone in ("danger", "fails"))
    said = tuple(s for s in (*found, *(answer.said if answer else ())) if s not in stops)
    return PlacedSpot(
        box=box,
        asks=asks,
        open=unanswered,
        next=_next(asks, unanswered, told.later),
        answer=answer,
        said=(*said, *_counts(errand, practice)),
        low=low,
        high=high,
        at=at,
        rests=_rests(box, low, high),
        stops=stops,
        looks=tuple(a.id for a in asks if a.kind == "seen" and a.id in unanswered),
        covering=next((c for c in spots().covering if c.id == told.covering), None),
        start=starting_holes(box, practice[rules.SAW_HOLE]),
        word=_word(told, low, high),
    )


def hand_box(told: Spot, practice: Practice) -> OldWorkBox:
    """The box in hand, or the usual one for its surface."""
    if told.box:
        try:
            return box_of(practice, told.box)
        except NotAsked:
            # One that another practice has, or a file names: the usual one stands in, and is said to be
            # usual.
            pass
    return next(
        (b for b in practice.catalogue.old_work if b.surface == (told.surface or "wall")),
        practice.catalogue.old_work[0],
    )


def asked_of(ask: Ask, errand: Errand, practice: Practice) -> bool:
    """Whether a question is asked of this spot at all."""
    surface = errand.spot.surface
    return (
        (not ask.surface or not surface or ask.surface == surface)
        and (not ask.of or errand.wants in ask.of)
        and practice.of(ask.practice)
        and (not ask.after or errand.spot.seen.get(ask.after) == "there")
    )


def answered(told: Spot, ask: Ask) -> bool:
    """Whether a question has its answer. A jamb stands for the member to the left."""
    if ask.kind == "seen":
        return ask.id in told.seen
    if ask.id == "left" and length_of(told.door) is not None:
        return True
    value = getattr(told, ask.id)
    return length_of(value) is not None if isinstance(value, Length) else value not in (None, "")


def _next(asks: tuple[Ask, ...], unanswered: tuple[str, ...], later: tuple[str, ...]) -> Ask | None:
    """The first without an answer, those that were left open once after the rest."""
    waiting = [a for a in asks if a.id in unanswered]
    return next((a for a in waiting if a.id not in later), None)


def _answer(told: Spot, box: OldWorkBox, practice: Practice) -> Answer | None:
    known = {
        name: value
        for name in ("left", "right", "door")
        if (value := getattr(told, name)) is not None and not value.unknown
    }
    extra: dict[str, Length] = {}
    for name, of in (
        ("wished", told.along),
        ("cavity", told.cavity),
        ("surface", told.thick),
        ("behind", told.opposite),
    ):
        if of is not None and not of.unknown and (of.mm or name != "behind"):
            extra[name] = of
    if not known and not extra:
        return None
    asked = SpotAsked(box.id, left_by=told.left_by, right_by=told.right_by, **known, **extra)
    found = spot(asked, practice)
    needs, lowest = length_of(told.needs), length_of(told.lowest)
    if needs and lowest is not None:
        above = void(VoidAsked(Length(needs), Length(lowest)), practice)
        found = msgspec.structs.replace(
            found, said=(*found.said, *above.said), workings=(*found.workings, *above.workings)
        )
    return found


def _bounds(answer: Answer | None, on_member: bool) -> tuple[float | None, float | None]:
    known = {f.name: f.value for f in answer.figures} if answer else {}
    low, high = known.get("from"), known.get("to")
    backward = low is not None and high is not None and not at_most(low, high)
    return (None, None) if backward and not on_member else (low, high)


def _at(
    told: Spot, box: OldWorkBox, low: float | None, high: float | None, practice: Practice
) -> float | None:
    """Where the middle goes: as wished where that is within the span, or at a member that it is
    fastened to.
    """
    wished = length_of(told.along)
    if box.on_member:
        return wished if wished is not None and at_member(wished, low, high, practice) else None
    at = wished or 0.0
    inside = (low is None or at_least(at, low)) and (high is None or at_most(at, high))
    return wished if wished is not None and inside and (low is not None or high is not None) else None


def _rests(box: OldWorkBox, low: float | None, high: float | None) -> tuple[Rest, ...]:
    if low is None or high is None:
        return ()
    if box.on_member:
        return (Rest("at the left member", low), Rest("at the right member", high))
    return (
        Rest("close to the left member", low),
        Rest("in the middle of the bay", (low + high) / 2),
        Rest("close to the right member", high),
    )


def _there(told: Spot, asks: tuple[Ask, ...], practice: Practice) -> list[Said]:
    """What was looked for and is there."""
    return [
        Said(a.there.tone, a.there.words, a.there.basis(practice))
        for a in asks
        if a.there is not None
        and told.seen.get(a.id) == "there"
        and not (a.id == "water" and _by_water(told))
    ]


def _failing(answer: Answer | None) -> list[Said]:
    return [s for s in answer.said if s.tone in ("fails", "danger")] if answer else []


def _counts(errand: Errand, practice: Practice) -> list[Said]:
    """An outlet high on a wall is one that does not count."""
    height = length_of(errand.spot.height)
    if errand.wants != "outlet" or height is None or rules.OUTLET_HEIGHT_LIMIT not in practice:
        return []
    if at_most(height, practice[rules.OUTLET_HEIGHT_LIMIT]):
        return []
    basis = practice.rule(rules.OUTLET_HEIGHT_LIMIT).shown_basis
    return [Said("advice", "That high it does not count where outlets must be so far apart", basis)]


def _wrong_box(errand: Errand, box: OldWorkBox, practice: Practice) -> list[Said]:
    """A box chosen for a surface that does not hold it, or for a device that does not go in it."""
    told = errand.spot
    if not told.box or box.id != told.box:
        return []
    outlet = errand.wants == "outlet" or (errand.wants == "outdoors" and told.outside == "outlet")
    if box.round and outlet:
        return [Said("fails", f"{box.name}: it takes a light, and no outlet or switch")]
    hung = box.grip in ("brace", "springs")
    if told.surface == "wall" and hung:
        return [Said("fails", f"{box.name}: it goes between joists, or through a ceiling; no wall holds it")]
    if told.covering == MASONRY and not hung and box.grip != "screws":
        return [_into_masonry(box, practice)]
    if told.covering not in ("", MASONRY) and box.grip == "screws":
        return [Said("fails", f"{box.name}: it is screwed into masonry, and board or lath does not hold it")]
    return []


def _into_masonry(box: OldWorkBox, practice: Practice) -> Said:
    """Behind brick or block nothing grips: a box that is screwed there, where the practice has one."""
    chased = next((b.name for b in practice.catalogue.old_work if b.grip == "screws"), "")
    if not chased:
        return Said("needs", "Brick or block gives wings and screws no hold: plugs, or bedded in mortar")
    instead = f"{chased[:1].lower()}{chased[1:]}"
    return Said("fails", f"{box.name}: nothing behind brick or block that it grips; {instead}")


def _by_water(told: Spot) -> bool:
    """Whether it is known what is by it, and how far."""
    return bool(told.by_water) and length_of(told.from_water) is not None


def _goes(errand: Errand) -> Literal["outlet", "light", "hanging light", "fan", "switch"]:
    """What stands by water, for what is wanted: a switch is judged as one, and what hangs as what it is."""
    if errand.wants in ("outlet", "move"):
        return errand.fits or "outlet"
    if errand.wants == "heavy":
        return "fan" if errand.becomes == "fan" else "hanging light"
    return "light"


def _wet(errand: Errand, practice: Practice) -> list[Said]:
    """What water by it, or the weather, makes of it."""
    told = errand.spot
    if errand.wants == "outdoors" and told.outside:
        asked = OutdoorsAsked(told.outside, told.roof, told.above, told.height)
        return list(outdoors(asked, practice).said)
    if (
        told.seen.get("water") != "there"
        or not told.by_water
        or told.from_water is None
        or told.from_water.unknown
    ):
        return []
    by = WaterAsked(what=_goes(errand), by=told.by_water, away=told.from_water)
    return list(water(by, practice).said)


def _word(told: Spot, low: float | None, high: float | None) -> Literal["measured", "usual", "open"]:
    if low is None or high is None:
        return "open"
    return "usual" if "pattern" in (told.left_by, told.right_by) or not told.box else "measured"
