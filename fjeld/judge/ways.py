"""Ways through closed construction: a point found from the other side, a hole in a plate, headroom, a pull,
wood and masonry.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.wood import beside, deepest_notch, steel_edge, widest_in_stud
from fjeld.practice import Practice, rules
from fjeld.quantities import Length, Line, Unit, Working, at_least, at_most, format_length


class TransferAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A plate to be found from an attic or a cellar.

    ``room`` is measured from something met on both sides to the wall's finished face, ``back`` how much
    farther back that stands on the other side; or ``pilot``, from a pilot tight to the wall to its face.
    ``surface`` is the wall's, ``plate`` the depth of its plate, ``hole`` what is bored, ``error`` by how much
    it may miss.
    """

    surface: Length
    plate: Length
    room: Length | None = None
    back: Length | None = None
    pilot: Length | None = None
    hole: Length | None = None
    error: Length | None = None


def transfer(asked: TransferAsked, practice: Practice) -> Answer:
    """Where the middle of the plate is on the other side, and whether the hole then asks for steel."""
    unit = practice.unit
    if asked.error is not None and asked.error.mm and asked.hole is None:
        raise NotAsked("say how large the hole is: what it may be off by hangs on that")
    inward = (Line(1.0, asked.surface.mm, "surface"), Line(0.5, asked.plate.mm, "plate, to its middle"))
    if asked.pilot is not None:
        name = "from the pilot"
        lines: tuple[Line, ...] = (Line(1.0, asked.pilot.mm, "pilot to the wall's face"), *inward)
    elif asked.room is not None:
        back = asked.back.mm if asked.back else 0.0
        first = Line(1.0, asked.room.mm, "measured in the room")
        name = "from the reference"
        lines = (first, Line(1.0, back, "farther back on the other side"), *inward)
    else:
        raise NotAsked("measure from something met on both sides, or from a pilot")
    sum_ = Working("To the middle of the plate", "mm", lines)
    figures, said = [Figure(name, sum_.total)], []
    if asked.hole is not None:
        inside, _ = beside(asked.plate.mm, asked.hole.mm)
        asks = steel_edge("plate", practice)
        free = inside - (asks or 0.0)
        figures += [Figure("no steel within", free), Figure("in the wall within", inside)]
        error = asked.error.mm if asked.error else 0.0
        edge = inside - error
        figures.append(Figure("wood left", edge))
        if edge < 0:
            said.append(Said("fails", "That much off, the hole comes out of the plate"))
        elif asks is None or at_least(edge, asks):
            where = "" if asks is not None else " where the cable lies in its prescribed zone"
            left = f"{format_length(edge, unit)} of wood is left at its face"
            said.append(Said("passes", f"{left}: no steel plate{where}"))
        else:
            said.append(
                Said("advice", f"Only {format_length(edge, unit)} of wood is left at its face: a steel plate")
            )
    return Answer(tuple(figures), tuple(said), (sum_,))


class EaveAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Headroom over a plate under a roof: the room at its outer edge (its ``heel``), the roof's ``rise`` in
    12, the plate, and what drill and bit need.
    """

    heel: Length
    rise: float
    plate: Length
    needs: Length


def eave(asked: EaveAsked, practice: Practice) -> Answer:
    """Whether a drill stands over the plate, as far in as a hole may be."""
    unit = practice.unit
    head = headroom(asked.heel.mm, asked.rise, asked.plate.mm, practice)
    if at_least(head.total, asked.needs.mm):
        said = Said("passes", f"{format_length(head.total, unit)} of headroom: the drill stands there")
    else:
        said = from_inside(format_length(head.total, unit))
    figures = [Figure("headroom", head.total)]
    if asked.rise > 0 and head.total < asked.needs.mm:
        # How far in from the outer edge the roof is high enough: over the plate, or only beyond it.
        figures.append(
            Figure("stands from the outer edge", 12 * (asked.needs.mm - asked.heel.mm) / asked.rise)
        )
    return Answer(tuple(figures), (said,), (head,))


def drill_over_plate(head: float, practice: Practice) -> Said:
    """What drill stands in so much headroom over a plate, mm."""
    straight, angled = practice[rules.ATTIC_DRILL]
    room = format_length(head, practice.unit)
    if at_least(head, straight):
        return Said("passes", f"{room} of headroom: a straight drill and its bit stand there")
    if at_least(head, angled):
        return Said("needs", f"{room} of headroom: an angle drill with a short bit")
    return from_inside(room)


def from_inside(room: str) -> Said:
    """What is left where no drill stands over a plate, with so much ``room``."""
    words = f"{room} of headroom: from inside, by a flexible bit or a small opening at the top of the wall"
    return Said("fails", words)


def headroom(heel: float, rise: float, plate: float, practice: Practice) -> Working:
    """The room over the hole that stands farthest in, mm: in the middle of the plate, or as near to its inner
    edge as a hole may be.
    """
    inward = max(plate - practice[rules.PLATE_HOLE], plate / 2)
    lines = (Line(1.0, heel, "heel"), Line(rise / 12, inward, "rise, from the outer edge to the hole"))
    return Working("Headroom", "mm", lines)


class PullAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A cable to be pulled: the straight ``legs`` of its way, what is left at each end, and how many legs are
    fished blind.
    """

    legs: tuple[Length, ...]
    first: Length | None = None
    last: Length | None = None
    blind: int = 0


def pull(asked: PullAsked, practice: Practice) -> Answer:
    """What to cut: the way and a twentieth more, both ends, and something for each leg fished blind, rounded
    up.
    """
    if not asked.legs:
        raise NotAsked("say the legs of its way")
    if any(end is not None and end.mm < 0 for end in (asked.first, asked.last)):
        raise NotAsked("what is left at an end is at least nothing")
    way = math.fsum(leg.mm for leg in asked.legs)
    ends = [e.mm if e else practice[rules.PULL_END] for e in (asked.first, asked.last)]
    lines = (
        Line(1.0, way, "along the way"),
        Line(practice[rules.CABLE_SLACK], way, "slack"),
        Line(1.0, ends[0], "left at one end"),
        Line(1.0, ends[1], "left at the other"),
        Line(float(asked.blind), practice[rules.PULL_BLIND], "for each leg fished blind"),
    )
    cut = Working("To cut", "mm", lines, practice[rules.PULL_STEP])
    said = [Said("advice", "Cut it only once the far end is in your hand; until then pull from the coil")]
    return Answer(
        (Figure("cut", cut.total), Figure("way", way), Figure("exact", cut.exact)), tuple(said), (cut,)
    )


class WoodAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Members crossed by a level run between two places along a wall, their first and spacing, depth, and
    whether they bear.
    """

    start: Length
    end: Length
    spacing: Length
    first: Length | None = None
    depth: Length | None = None
    bearing: bool = False


def wood(asked: WoodAsked, practice: Practice) -> Answer:
    """How many members stand between, and how deep each may be notched or bored."""
    spacing = asked.spacing.mm
    if spacing <= 0:
        raise NotAsked("members stand some way apart")
    first = asked.first.mm if asked.first else 0.0
    low, high = sorted((asked.start.mm, asked.end.mm))
    count = math.ceil((high - first) / spacing - 1e-9) - 1 - math.floor((low - first) / spacing + 1e-9)
    figures = [Figure("members", float(max(count, 0)), "count")]
    if asked.depth is not None:
        figures += [
            Figure("notch at most", deepest_notch(asked.bearing, asked.depth.mm, practice)),
            Figure("bore at most", widest_in_stud(asked.bearing, asked.depth.mm, practice)),
        ]
    return Answer(tuple(figures), (Said("advice", "Every notch is covered by steel"),))


class MasonryAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A box in masonry: its opening, ``wide`` and ``high`` or ``round``, the bit, how far apart holes are,
    how deep the box; the leaf, and the ``cavity`` behind it, or that it is chased into the leaf and goes no
    farther.
    """

    depth: Length
    bit: Length
    wide: Length | None = None
    high: Length | None = None
    round: Length | None = None
    pitch: Length | None = None
    leaf: Length | None = None
    cavity: Length | None = None
    chase: Literal["", "vertical", "horizontal"] = ""


def masonry(asked: MasonryAsked, practice: Practice) -> Answer:
    """A ring of holes around the opening; how deep a leaf may be chased: a third upright, a sixth level; or
    what is behind it.
    """
    unit = practice.unit
    farthest = practice[rules.CORE_PITCH] * asked.bit.mm
    pitch = asked.pitch.mm if asked.pitch else farthest
    if pitch <= 0:
        raise NotAsked("holes stand some way apart")
    figures = [
        Figure("holes", float(math.ceil(_around(asked) / pitch - 1e-9)), "count"),
        Figure("drill", _drilled(asked, practice)),
    ]
    said = []
    if not at_most(pitch, farthest):
        said.append(Said("fails", "The holes stand too far apart for the core to break out"))
    if asked.leaf is not None:
        if asked.chase:
            limit = asked.leaf.mm / practice[rules.CHASE_PARTS][asked.chase == "horizontal"]
            figures.append(Figure("chase at most", limit))
            fits = at_most(asked.depth.mm, limit)
            words = f"{format_length(asked.depth.mm, unit)} deep of {format_length(limit, unit)}"
            said.append(Said("passes" if fits else "fails", words))
        else:
            said.append(_behind(asked, asked.leaf.mm, unit))
    return Answer(tuple(figures), tuple(said))


def _around(asked: MasonryAsked) -> float:
    """The way round the opening, mm: its four sides, or its circle."""
    if asked.round is not None and asked.wide is None and asked.high is None:
        return math.pi * asked.round.mm
    if asked.round is not None or asked.wide is None or asked.high is None:
        raise NotAsked("say how wide and how high the opening is, or across what it is round")
    return 2 * (asked.wide.mm + asked.high.mm)


def _drilled(asked: MasonryAsked, practice: Practice) -> float:
    """How deep each hole is, mm: a little beyond the box, or to the void where the box reaches into it."""
    beyond = asked.depth.mm + practice[rules.CORE_DRILL]
    through = asked.leaf is not None and not asked.chase and asked.cavity is not None and asked.cavity.mm > 0
    return min(beyond, asked.leaf.mm) if through and asked.leaf is not None else beyond


def _behind(asked: MasonryAsked, leaf: float, unit: Unit) -> Said:
    """Whether a box that is not chased has its depth: within the leaf, or in the void behind it."""
    over = asked.depth.mm - leaf
    if over < -0.05:
        return Said("passes", f"It ends within the leaf, {format_length(-over, unit)} before its back")
    if asked.cavity is None:
        return Said("ask", "It comes through the leaf: how deep is the void behind it?")
    if at_most(asked.depth.mm, leaf + asked.cavity.mm):
        return Said(
            "passes",
            f"It reaches {format_length(max(over, 0.0), unit)} into the void behind the leaf: sealed, and"
            " nothing bridges it",
        )
    return Said(
        "fails", f"{format_length(over - asked.cavity.mm, unit)} deeper than the leaf and the void behind it"
    )


class SoundingAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A chain or a weight let down a bay from above: how deep the bay is, how far it ``went``, and, with rods
    to both sides, whether it stops there ``across`` the whole bay or only here.
    """

    depth: Length
    went: Length
    across: Literal["", "yes", "no"] = ""


def sounding(asked: SoundingAsked, practice: Practice) -> Answer:
    """Whether a bay is open to its foot, and where and what it is that stands in it."""
    unit = practice.unit
    unit, error = practice.unit, practice[rules.SOUNDING_ERROR]
    if asked.depth.unknown or asked.went.unknown or asked.went.mm > asked.depth.mm + error:
        raise NotAsked("say how deep the bay is, and how far it went: no farther than that")
    short = max(0.0, asked.depth.mm - asked.went.mm)
    figures = (Figure("stops above the foot", short), Figure("below the top", asked.went.mm))
    if short <= error:
        return Answer(figures, (Said("passes", "It went to the foot: nothing stands across this bay here"),))
    return Answer(figures, (stopped(f"{format_length(short, unit)} above the foot", asked.across),))


def stopped(at: str, across: Literal["", "yes", "no"]) -> Said:
    """What it means that a chain or a rod stops ``at`` a place in a bay: a block ``across`` all of it, or
    something only there.
    """
    if across == "yes":
        return Said("fails", f"A block stands across the bay {at}: another bay, or an opening there")
    if across == "no":
        words = (
            f"A wire or a pipe is {at}, not the whole way across: go by it with a look first, never with"
            " a bit"
        )
        return Said("ask", words)
    return Said(
        "ask", f"Something stands {at}: tap to both sides with rods, a block stops them all the way across"
    )
