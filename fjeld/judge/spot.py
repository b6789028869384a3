"""Where a box can be cut into a closed wall or ceiling: between which members, how deep, how high, and where
the saw starts.

Members are known as edges, each to within how it was found. The middle of the box must keep its body
and what its grip swings out clear of both, whatever the edges turn out to be: the allowed span is
``left + k + tolerance`` to ``right - k - tolerance`` with ``k = max(body/2 + clearance, cut-out/2 + throw)``.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice, rules
from fjeld.practice.parts import OldWorkBox
from fjeld.quantities import Length, Line, Unit, Working, at_least, at_most, format_length

#: How an edge was found; by looking at it, nothing.
FoundBy = Literal["", "probe", "screws", "detector", "pattern"]


class SpotAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A box in a bay. ``left`` and ``right`` are the faces of the members that look into it, along the wall.

    ``door`` is the face of a jamb instead of the left member; ``wished`` where the middle is wanted;
    ``cavity`` the room behind the surface, ``surface`` its thickness; ``behind`` what another box in the
    same bay takes up from the other side.
    """

    box: str
    left: Length | None = None
    right: Length | None = None
    left_by: FoundBy = ""
    right_by: FoundBy = ""
    door: Length | None = None
    wished: Length | None = None
    clearance: Length | None = None
    cavity: Length | None = None
    surface: Length | None = None
    behind: Length | None = None


def spot(asked: SpotAsked, practice: Practice) -> Answer:
    """The span for the middle of the box, and what its depth asks."""
    box = box_of(practice, asked.box)
    figures: list[Figure] = []
    said: list[Said] = []
    workings: list[Working] = []
    if asked.door is not None or asked.left is not None or asked.right is not None:
        _span(asked, box, practice=practice, figures=figures, said=said, workings=workings)
    if asked.cavity is not None or asked.surface is not None:
        _deep(asked, box, practice=practice, figures=figures, said=said, workings=workings)
    x, y = starting_holes(box, practice[rules.SAW_HOLE])
    figures += [Figure("saw starts right of the middle by", x), Figure("and below it by", y)]
    headline = ("nearest",) if any(f.name == "nearest" for f in figures) else ("from", "to")
    return Answer(tuple(figures), tuple(said), tuple(workings), headline)


def box_of(practice: Practice, name: str) -> OldWorkBox:
    """A box for old work by id; raises :class:`NotAsked` that says which there are."""
    found = next((b for b in practice.catalogue.old_work if b.id == name), None)
    if found is None:
        raise NotAsked(
            f"there is no box “{name}”; there is {', '.join(b.id for b in practice.catalogue.old_work)}"
        )
    return found


def known_to(by: FoundBy, practice: Practice) -> float:
    """To within how much an edge is known that was found so, mm."""
    return practice[rules.EDGE_FOUND].get(by, 0.0)


def reach_of(box: OldWorkBox, clearance: float, practice: Practice) -> Working:
    """From the face of a member to the middle of a box, at least, mm: of one that is fastened to the member
    itself just so much, and of one that is screwed to its underside less than nothing.
    """
    if box.grip == "side":
        return Working("Middle to the member", "mm", (Line(0.5, box.body[0], "body, tight to the stud"),))
    if box.grip == "wood":
        return Working(
            "Middle to the member",
            "mm",
            (Line(-0.5, practice[rules.MEMBER_THICK], "the middle of the member"),),
        )
    return half(box, clearance)


def half(box: OldWorkBox, clearance: float) -> Working:
    """From the middle of a box to the face of a member, at least, mm."""
    by_body = (Line(0.5, box.body[0], "body"), Line(1.0, clearance, "clear of the member"))
    by_grip = (Line(0.5, box.cut[0], "cut-out"), Line(1.0, box.throw, "what its grip swings out"))
    one, other = (Working("Middle to the member", "mm", lines) for lines in (by_body, by_grip))
    return one if one.total >= other.total else other


def _span(
    asked: SpotAsked,
    box: OldWorkBox,
    practice: Practice,
    figures: list[Figure],
    said: list[Said],
    workings: list[Working],
) -> None:
    clearance = asked.clearance.mm if asked.clearance else practice[rules.CUT_IN_CLEAR]
    k = reach_of(box, clearance, practice)
    workings.append(k)
    left = asked.left.mm if asked.left else None
    right = asked.right.mm if asked.right else None
    if asked.door is not None:
        # The wood beside a jamb: jamb, shim, jack and king stud.
        left = asked.door.mm + practice[rules.JAMB_WOOD]
    # What is fastened to a member itself goes by where that is found to be once it is bare.
    unsure = [0.0 if box.on_member else known_to(by, practice) for by in (asked.left_by, asked.right_by)]
    low = None if left is None else left + k.total + unsure[0]
    high = None if right is None else right - k.total - unsure[1]
    figures += [Figure(name, at) for name, at in (("from", low), ("to", high)) if at is not None]
    if left is not None and right is not None and at_most(right, left):
        words = "The right face does not lie to the right of the left one: measure both again, from one place"
        said.append(Said("fails", words))
    elif low is not None and high is not None and not box.on_member and not at_most(low, high):
        short = format_length(low - high, practice.unit)
        finer = "A finer reading of the edges, another bay, a narrower box, or one screwed into the stud"
        said += [Said("fails", f"No place in this bay: the span is {short} short"), Said("advice", finer)]
    said += _bridged(box, left, right, practice.unit)
    if "pattern" in (asked.left_by, asked.right_by):
        words = "The spacing alone says where a member may be: find an edge before anything is cut"
        said.append(Said("ask", words))
    if asked.wished is not None:
        _wish(
            asked.wished.mm, left, low=low, high=high, box=box, practice=practice, figures=figures, said=said
        )


def _bridged(box: OldWorkBox, left: float | None, right: float | None, unit: Unit) -> list[Said]:
    """Whether a bar bridges the clear space between the two members."""
    if box.spans is None:
        return []
    least, most = (format_length(v, unit) for v in box.spans)
    if left is None or right is None:
        return [
            Said("ask", f"Its bar bridges {least} to {most}: find both members, and measure between them")
        ]
    refused = spanned(box, right - left, unit)
    if not refused:
        return [
            Said(
                "passes", f"Its bar bridges {least} to {most}; {format_length(right - left, unit)} are clear"
            )
        ]
    return [
        Said("fails", refused),
        Said("advice", "A pan box on the member itself, or a block between the two"),
    ]


def spanned(box: OldWorkBox, clear: float, unit: Unit) -> str:
    """Why a box on a brace or a bar does not fit a clear space between members, mm; empty where it does."""
    if box.spans is None or (at_least(clear, box.spans[0]) and at_most(clear, box.spans[1])):
        return ""
    least, most = (format_length(v, unit) for v in box.spans)
    return f"Its bar bridges {least} to {most}; the clear space is {format_length(clear, unit)}"


def at_member(wished: float, low: float | None, high: float | None, practice: Practice) -> bool:
    """Whether the middle of a box that is fastened to a member itself stands at one of the two."""
    return any(end is not None and abs(wished - end) <= practice[rules.PENCIL_MARK] for end in (low, high))


def _wish(
    wished: float,
    left: float | None,
    low: float | None,
    high: float | None,
    box: OldWorkBox,
    practice: Practice,
    figures: list[Figure],
    said: list[Said],
) -> None:
    unit = practice.unit
    if box.on_member:
        fits = at_member(wished, low, high, practice)
        where = "is where it is fastened to a member"
    else:
        fits = (low is None or at_least(wished, low)) and (high is None or at_most(wished, high))
        where = "is within the span"
    if fits:
        said.append(Said("passes", f"{format_length(wished, unit)} {where}"))
        return
    ends = [end for end in (low, high) if end is not None]
    if not box.on_member and ends != sorted(ends):
        return
    nearest = min(ends, key=lambda end: abs(wished - end))
    figures.append(Figure("nearest", nearest))
    words = f"{format_length(wished, unit)} is refused; the nearest is {format_length(nearest, unit)}"
    said.append(Said("fails", words))
    if left is not None and wished < (low or 0.0) and not box.on_member:
        beside = left + box.body[0] / 2
        figures.append(Figure("screwed to the stud", beside))
        words = f"A box screwed into the side of that stud stands at {format_length(beside, unit)}"
        said.append(Said("advice", words))


def _deep(
    asked: SpotAsked,
    box: OldWorkBox,
    practice: Practice,
    figures: list[Figure],
    said: list[Said],
    workings: list[Working],
) -> None:
    unit, (back, side) = practice.unit, practice[rules.CABLE_ENTRY]
    surface = asked.surface.mm if asked.surface else 0.0
    least, most = box.board
    if asked.surface and most and not (at_least(surface, least) and at_most(surface, most)):
        said.append(
            Said(
                "fails",
                f"Its grip takes {format_length(least, unit)} to {format_length(most, unit)} of surface",
            )
        )
    taken = Working("Behind the surface", "mm", (Line(1.0, box.depth, "box"), Line(-1.0, surface, "surface")))
    workings.append(taken)
    figures.append(Figure("behind", taken.total))
    if asked.cavity is None:
        return
    left = asked.cavity.mm - taken.total - (asked.behind.mm if asked.behind else 0.0)
    figures.append(Figure("left behind it", left))
    if asked.behind is not None and left < 0:
        aside = box.body[0] + side
        figures.append(Figure("shift sideways", aside))
        said.append(
            Said("fails", f"It meets the box on the other side: shift it {format_length(aside, unit)} along")
        )
    elif left < 0:
        said.append(Said("fails", f"It is {format_length(-left, unit)} too deep for the wall"))
    elif not at_least(left, side):
        said.append(Said("fails", "There is no room behind it for a cable to enter"))
    elif not at_least(left, back):
        said.append(
            Said("passes", "The cable enters at the top, at the bottom or at a side, not at the back")
        )
    else:
        said.append(Said("passes", "The cable can enter anywhere, at the back too"))


def starting_holes(box: OldWorkBox, bit: float) -> tuple[float, float]:
    """From the middle of a cut-out to the two holes that a saw starts in, mm right and up: inside opposite
    corners, ``bit`` mm thick, or where it is round on a line through its middle, inside the circle.
    """
    wide, high = ((side - bit) / 2 for side in box.cut)
    return (wide / math.sqrt(2), high / math.sqrt(2)) if box.round else (wide, high)


class HeightAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A fitting's body and what it is to line up with; ``below`` is from the body's foot to the box, ``left``
    from its left edge.
    """

    high: Length | None = None
    below: Length | None = None
    top: Length | None = None
    foot: Length | None = None
    wide: Length | None = None
    left: Length | None = None
    left_edge: Length | None = None
    middle: Length | None = None


def stands(asked: HeightAsked, practice: Practice) -> Answer:
    """How high and how far along its box goes, for the body to be where it is wanted."""
    found = []
    if asked.top is not None:
        if asked.high is None or asked.below is None:
            raise NotAsked("the height of the body, and of its box above its foot, are wanted")
        found.append(Figure("box height", asked.top.mm - (asked.high.mm - asked.below.mm)))
    elif asked.foot is not None:
        if asked.below is None:
            raise NotAsked("how far its box is above its foot is wanted")
        found.append(Figure("box height", asked.foot.mm + asked.below.mm))
    centered = asked.wide.mm / 2 if asked.wide else 0.0
    inward = asked.left.mm if asked.left is not None else centered
    if asked.left_edge is not None:
        found.append(Figure("box along", asked.left_edge.mm + inward))
    elif asked.middle is not None:
        found.append(Figure("box along", asked.middle.mm + inward - centered))
    if not found:
        raise NotAsked("say what its top, its foot, its left edge or its middle is to be at")
    return Answer(tuple(found))


class VoidAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a fitting needs above a ceiling, and the lowest thing that hangs there."""

    depth: Length
    lowest: Length


def void(asked: VoidAsked, practice: Practice) -> Answer:
    """Whether a recessed fitting has room: the lowest thing above counts, not the joists."""
    unit = practice.unit
    needs = Working(
        "Needed",
        "mm",
        (Line(1.0, asked.depth.mm, "fitting"), Line(1.0, practice[rules.AIR_ABOVE], "air above it")),
    )
    fits = at_most(needs.total, asked.lowest.mm)
    words = f"{format_length(needs.total, unit)} needed, {format_length(asked.lowest.mm, unit)} free"
    return Answer((Figure("needed", needs.total),), (Said("passes" if fits else "fails", words),), (needs,))
