"""What is measured along a way once it is taken: where its holes come out, how far its bays are open, what
its wood bears.

Each leg has its measures, and each measure is a single question answered from what is known of this wall.
What nobody has measured is taken as it usually is only where it is one of a few sizes, and is said to be.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import msgspec

from fjeld.concealed.cut import hand_box
from fjeld.concealed.ground import Ground
from fjeld.concealed.plates import deep_of, depth_of_bay, plate_of, surface_of
from fjeld.concealed.routes import OVER, UNDER, ConcealedLeg, ConcealedRoute
from fjeld.drawing.errand import length_of
from fjeld.judge import ways, work
from fjeld.judge.answer import Answer, Figure, Said
from fjeld.judge.wood import Bored, Member, bored, deepest_notch, steel
from fjeld.practice import Practice, rules
from fjeld.practice.finished.spots import Ask
from fjeld.practice.finished.ways import MeasureName, way_data
from fjeld.quantities import Length, Unit, at_most, format_length

#: The ends of a way, by the names under which their measures are kept.
ENDS = ("here", "there")
AT = ("At the old box", "At the new place")
#: The name of the figure how high what a chain stops at is.
STOPS = "stops above the floor"
MET = {
    "surface": "the face of what is met on both sides",
    "middle": "the middle of what is met on both sides",
    "pilot": "the pilot",
}


class Detail(msgspec.Struct, frozen=True):
    """A measure of a leg: at which ``end`` (0 the old box, 1 the new place, none between), what it still
    ``lacks`` (ids of its questions), else its ``answer``; ``marks`` are sentences for whoever stands there,
    ``usual`` what nobody measured.
    """

    leg: ConcealedLeg
    measure: MeasureName
    end: int | None
    lacks: tuple[str, ...] = ()
    answer: Answer | None = None
    marks: tuple[str, ...] = ()
    usual: tuple[str, ...] = ()


def details(route: ConcealedRoute, ground: Ground, practice: Practice) -> tuple[Detail, ...]:
    """Every measure of a way, as far as it is known, in the order of its legs."""
    return tuple(_detail(leg, m, ground, practice) for leg in route.made for m in leg.way.measures)


def _detail(leg: ConcealedLeg, measure: MeasureName, ground: Ground, practice: Practice) -> Detail:
    unit = practice.unit
    match measure:
        case "transfer":
            return _transfer(leg, ground, unit)
        case "sounding":
            return _sounding(leg, ground, unit)
        case "eave":
            return _eave(leg, ground, unit)
        case "wood":
            return _wood(leg, ground, practice, unit)
        case "patch":
            return _patch(leg, ground)
        case "masonry":
            return _masonry(leg, ground, unit)


def end_of(leg: ConcealedLeg) -> int:
    """Which end of the way a leg leads up or down at: from storey to storey, the new one."""
    nodes = {leg.a, leg.b}
    return 0 if nodes & {OVER[0], UNDER[0]} else 1


def is_below(leg: ConcealedLeg) -> bool:
    """Whether a leg leads down, under the floor."""
    return bool({leg.a, leg.b} & {*UNDER})


def asks(route: ConcealedRoute, ground: Ground) -> tuple[Ask, ...]:
    """The questions of a way's measures, those that its answers so far make needless left out."""
    found: dict[str, Ask] = {}
    for leg in route.made:
        for ask in way_data().measure:
            if {*ask.of} & {*leg.way.measures} and ground.practice.of(ask.practice):
                if not ask.end:
                    # What stands on top of a wall is met from above alone.
                    if ask.id != "plates" or not is_below(leg):
                        found[ask.id] = ask
                elif _wanted(ask.id, leg, ground):
                    end = end_of(leg)
                    found[f"{ENDS[end]}.{ask.id}"] = _at(ask, end)
    return tuple(found.values())


def _at(ask: Ask, end: int) -> Ask:
    words = f"{AT[end]}: {ask.words[:1].lower()}{ask.words[1:]}"
    return msgspec.structs.replace(ask, id=f"{ENDS[end]}.{ask.id}", words=words)


def _wanted(name: str, leg: ConcealedLeg, ground: Ground) -> bool:
    """Whether a measure of an end is worth asking for, by what is known of it."""
    end, below = end_of(leg), is_below(leg)
    plate, depth, went = plate_of(ground, end), depth_of_bay(ground, end, below), None
    match name:
        case "room":
            return plate.met in ("surface", "middle")
        case "back" | "pilot":
            return plate.met == {"back": "surface", "pilot": "pilot"}[name]
        case "deep":
            return plate.deep is not None or deep_of(ground, end) is None
        case "stops":
            went = length_of(plate.went)
            return (
                depth is not None
                and went is not None
                and went < depth - ground.practice[rules.SOUNDING_ERROR]
            )
        case "missed":
            return bool(length_of(plate.miss))
        case "miss":
            return not _transfer(leg, ground, "mm").lacks
        case _:
            return True


def _transfer(leg: ConcealedLeg, ground: Ground, unit: Unit) -> Detail:
    """Where the middle of the wood is, and what a hole that came out elsewhere asks for."""
    end = end_of(leg)
    plate, practice, name = plate_of(ground, end), ground.practice, ENDS[end]
    measured = (
        {"room": plate.room, "back": plate.back}
        if plate.met == "surface"
        else {"room": plate.room}
        if plate.met == "middle"
        else {"pilot": plate.pilot}
    )
    lacks = (
        [f"{name}.met"]
        if not plate.met
        else [f"{name}.{k}" for k, v in measured.items() if length_of(v) is None]
    )
    deep, thick = deep_of(ground, end), surface_of(ground, end)
    usual = tuple(
        f"{format_length(v, unit)} of {what}"
        for known, v, what in (
            (deep, practice[rules.PLATE_DEEP], "wood"),
            (thick, practice[rules.BOARD_THICK], "board"),
        )
        if known is None
    )
    if lacks:
        return Detail(leg, "transfer", end, tuple(lacks), usual=usual)
    miss = length_of(plate.miss)
    asked = ways.TransferAsked(
        Length(thick if thick is not None else practice[rules.BOARD_THICK]),
        Length(deep if deep is not None else practice[rules.PLATE_DEEP]),
        **measured,
        hole=Length(practice[rules.FISHED_HOLE]),
        error=None if miss is None else Length(abs(miss)),
    )
    answer = ways.transfer(asked, practice)
    if miss is None:
        # What the wood bears is told of the hole that is there, not of one that comes out just where it
        # should.
        free, inside = answer.figure("no steel within"), answer.figure("in the wall within")
        steel = (
            "It needs no steel plate where the cable lies in its prescribed zone"
            if free == inside
            else (
                f"Off by up to {format_length(free, unit)} it needs no steel plate"
                if free > 0
                else "It needs a steel plate wherever it comes out"
            )
        )
        said = Said("advice", f"{steel}; by more than {format_length(inside, unit)} it misses the wall")
        answer = msgspec.structs.replace(answer, figures=answer.figures[:3], said=(said,))
    wood = "the floor and the plate" if is_below(leg) else "the plates"
    to = answer.figures[0].value
    marks = [
        f"Middle of {wood}: {format_length(to, unit)} from {MET[plate.met]}, toward the wall and into it"
    ]
    marks += _mended(ground, end, to, unit) if miss is None else [s.words for s in answer.said]
    return Detail(leg, "transfer", end, answer=answer, marks=tuple(marks), usual=usual)


def _mended(ground: Ground, end: int, to: float, unit: Unit) -> Iterator[str]:
    """The mark as the other hole of this house mends it: what was wrong with the tape there is wrong here."""
    plate, other = plate_of(ground, end), plate_of(ground, 1 - end)
    off = length_of(other.miss)
    if not off or other.met != plate.met:
        return
    if not other.missed:
        yield f"The other hole came out {format_length(off, unit)} off: measure this one twice"
    else:
        mended = to - off if other.missed == "too far" else to + off
        yield (
            f"The other hole came out {format_length(off, unit)} {other.missed}: mark"
            f" {format_length(mended, unit)}"
        )


#: What was felt of what stops it, with rods to both sides.
_ACROSS: dict[str, Literal["yes", "no"]] = {"all across": "yes", "only here": "no"}


def _sounding(leg: ConcealedLeg, ground: Ground, unit: Unit) -> Detail:
    """How far the bay is open, and where what stands in it is."""
    end, below = end_of(leg), is_below(leg)
    plate, depth = plate_of(ground, end), depth_of_bay(ground, end, below)
    went = length_of(plate.went)
    if depth is None or went is None:
        lacks = (
            *(() if depth is not None else leg.lacks),
            *(() if went is not None else (f"{ENDS[end]}.went",)),
        )
        how = "A rod goes {} up to the box" if below else "A chain goes {} down to the box"
        marks = (how.format(format_length(depth, unit)),) if depth is not None else ()
        return Detail(leg, "sounding", end, lacks, marks=marks)
    if went >= depth - ground.practice[rules.SOUNDING_ERROR]:
        said = Said("passes", "It went to the box: nothing stands across this bay here")
        return Detail(
            leg, "sounding", end, answer=Answer((Figure("to the box", depth),), (said,)), marks=(said.words,)
        )
    height = ground.heights[end] or 0.0
    up = height - (depth - went) if below else height + (depth - went)
    at = f"{format_length(up, unit)} above the floor"
    said = ways.stopped(at, _ACROSS.get(plate.stops, ""))
    figures = (Figure(STOPS, up), Figure("to the box", depth))
    return Detail(leg, "sounding", end, answer=Answer(figures, (said,)), marks=(said.words,))


def _eave(leg: ConcealedLeg, ground: Ground, unit: Unit) -> Detail:
    """What drill stands over the plate under the roof."""
    end = end_of(leg)
    plate, practice = plate_of(ground, end), ground.practice
    heel, deep = length_of(plate.heel), deep_of(ground, end)
    usual = () if deep is not None else (f"{format_length(practice[rules.PLATE_DEEP], unit)} of wood",)
    lacks = [f"{ENDS[end]}.{k}" for k, v in (("heel", heel), ("rise", plate.rise)) if v is None]
    if heel is None or plate.rise is None:
        return Detail(leg, "eave", end, tuple(lacks), usual=usual)
    head = ways.headroom(heel, plate.rise, practice[rules.PLATE_DEEP] if deep is None else deep, practice)
    said = ways.drill_over_plate(head.total, practice)
    return Detail(
        leg,
        "eave",
        end,
        answer=Answer((Figure("headroom", head.total),), (said,), (head,)),
        marks=(said.words,),
        usual=usual,
    )


def _wood(leg: ConcealedLeg, ground: Ground, practice: Practice, unit: Unit) -> Detail:
    """How deep the members may be notched or bored, and whether this way does it."""
    told = ground.errand.way
    deep, joists = length_of(told.wood), leg.counts == "joists"
    lacks = [
        k
        for k, v in (("wood", deep), ("bearing", told.bearing))
        if v is None and not (joists and k == "bearing")
    ]
    if deep is None or lacks:
        return Detail(leg, "wood", None, tuple(lacks))
    member: Member = "joist" if joists else "bearing stud" if told.bearing else "stud"
    hole = bored(member, deep, practice[rules.FISHED_HOLE], practice)
    most = hole.most if hole.most is not None else deep
    if leg.way.each_plate:
        most = most if joists else deepest_notch(bool(told.bearing), deep, practice)
        what, said = "notch", _of_notch(most, hole.size, unit)
    else:
        what, said = "bore", _of_bore(hole, most, steel(member, deep, hole.size, practice) > 0, unit)
    figures = (Figure(f"{what} at most", most), Figure("members", float(leg.count or 0), "count"))
    return Detail(leg, "wood", None, answer=Answer(figures, (said,)), marks=(said.words,))


def _of_notch(most: float, size: float, unit: Unit) -> Said:
    """What a notch of a cable's width comes to in a stud that may be cut so deep."""
    limit = f"{format_length(most, unit)} deep at most"
    if not at_most(size, most):
        return Said("fails", f"A notch of {format_length(size, unit)} is too much here: {limit}")
    return Said("needs", f"Each notch {limit}, a steel plate over it")


def _of_bore(hole: Bored, most: float, steel: bool, unit: Unit) -> Said:
    """What a hole of a cable's width comes to in the middle of a member."""
    limit, wood = f"{format_length(most, unit)} wide at most", format_length(hole.wood, unit)
    if hole.too_wide:
        return Said("fails", f"A bore of {format_length(hole.size, unit)} is too much here: {limit}")
    if hole.too_near:
        return Said("fails", f"{limit.capitalize()}; only {wood} of wood stays beside a hole in the middle")
    if steel:
        return Said(
            "needs",
            f"{limit.capitalize()}; only {wood} of wood stays beside a hole in the middle: a steel plate",
        )
    return Said("passes", f"Each hole {limit}, in the middle; {wood} of wood stays beside it")


def _patch(leg: ConcealedLeg, ground: Ground) -> Detail:
    """What is opened for a way and closed again: one strip over all members, or an opening to each side of a
    corner.
    """
    strip, across = ground.practice[rules.WALL_STRIP], length_of(ground.errand.way.across)
    if leg.way.patches > 1:
        across = strip
    if across is None:
        return Detail(leg, "patch", None, ("across",))
    answer = work.patch(work.PatchAsked(Length(across), Length(strip)), ground.practice)
    kept = tuple(f for f in answer.figures if f.name in ("piece wide", "piece high", "waiting", "labour"))
    return Detail(leg, "patch", None, answer=msgspec.structs.replace(answer, figures=kept))


def _masonry(leg: ConcealedLeg, ground: Ground, unit: Unit) -> Detail:
    """The ring of holes for the box in hand, and what the leaf bears."""
    box, practice = hand_box(ground.errand.spot, ground.practice), ground.practice
    leaf = length_of(ground.errand.way.leaf)
    wide, high = (Length(v) for v in box.cut)
    asked = ways.MasonryAsked(
        Length(box.depth),
        Length(practice[rules.RING_BIT]),
        wide=None if box.round else wide,
        high=None if box.round else high,
        round=wide if box.round else None,
        leaf=None if leaf is None else Length(leaf),
        chase="vertical" if practice.chases else "",
    )
    answer = ways.masonry(asked, practice)
    if not practice.chases:
        answer = msgspec.structs.replace(
            answer, figures=tuple(f for f in answer.figures if f.name != "chase at most")
        )
    mark = (
        f"{answer.figure('holes'):.0f} holes round it, each {format_length(answer.figure('drill'), unit)}"
        " deep"
    )
    lacks = ("leaf",) if leaf is None and practice.chases else ()
    return Detail(
        leg=leg,
        measure="masonry",
        end=None,
        lacks=lacks,
        answer=answer,
        marks=(mark, *(s.words for s in answer.said)),
    )
