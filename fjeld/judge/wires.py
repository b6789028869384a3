"""Conductors that are there already: too short, moved with their box, or in a box that gives way to a larger
one.
"""

from __future__ import annotations

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.spot import box_of
from fjeld.practice import Practice, rules
from fjeld.quantities import Length, Line, Working, at_least, at_most, format_length


class ShortAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A cable's end in a box: free wire beyond its sheath, sheath inside, slack to be pulled in, wire past
    the face.

    ``opening`` is the box's, where it is least across: a large one asks no wire past the face. ``cables`` of
    two conductors and a ground are on the device, all of them short: for the joints that tails make.
    """

    free: Length
    sheath: Length | None = None
    slack: Length | None = None
    past: Length | None = None
    opening: Length | None = None
    cables: int = 0


def short(asked: ShortAsked, practice: Practice) -> Answer:
    """What makes it long enough: as it is, stripped further, with tails, or not at all."""
    unit = practice.unit
    sheath = asked.sheath.mm if asked.sheath else 0.0
    slack = asked.slack.mm if asked.slack else 0.0
    lines = (
        Line(1.0, asked.free.mm, "free beyond the sheath"),
        Line(1.0, slack, "slack pulled in"),
        Line(1.0, max(sheath - practice[rules.SHEATH_INSIDE], 0.0), "sheath stripped back"),
    )
    after = Working("Free after stripping", "mm", lines)
    if not 0 <= asked.cables <= 8:
        raise NotAsked("one box's device has one to eight cables on it")
    large = asked.opening is not None and at_least(asked.opening.mm, practice[rules.WIDE_OPENING])
    past = None if large or asked.past is None else asked.past.mm
    figures: tuple[Figure, ...] = (
        Figure("free", after.total),
        Figure("wanted", practice[rules.FREE_CONDUCTOR]),
    )
    if _long_enough(asked.free.mm, past, practice):
        said = [Said("passes", "Long enough as it is")]
    elif _long_enough(after.total, None if past is None else past + slack, practice):
        said = [Said("passes", f"Long enough once {_done_to(asked.free.mm, slack, after.total)}")]
    elif after.total < practice[rules.CONNECTOR_WIRE][0]:
        said = [Said("fails", "No connector can be put on so short a wire: a new cable, or the box is moved")]
    else:
        kind = "lever connectors" if after.total < practice[rules.CONNECTOR_WIRE][1] else "connectors"
        said = [
            *_lacking(after.total, None if past is None else past + slack, practice),
            Said(
                "advice",
                f"Tails of the same gauge, {format_length(practice[rules.FREE_CONDUCTOR], unit)} or longer,"
                f" with {kind}; they take no volume, but see that they fold",
            ),
        ]
        if asked.cables:
            # Ground, neutral and line, each with its tail.
            figures = (
                *figures,
                Figure("joints", 3.0, "count"),
                Figure("ends in each", asked.cables + 1.0, "count"),
            )
    return Answer(figures, tuple(said), (after,))


def _long_enough(free: float, past: float | None, practice: Practice) -> bool:
    """Whether an end is long enough by both its lengths; ``past`` None where the face asks nothing, or is not
    measured.
    """
    return at_least(free, practice[rules.FREE_CONDUCTOR]) and (
        past is None or at_least(past, practice[rules.PAST_FACE])
    )


def _done_to(free: float, slack: float, after: float) -> str:
    """What makes an end long enough, of what can be done to it."""
    stripped = not at_most(after, free + slack)
    if slack and stripped:
        return "slack is pulled in and the sheath stripped back"
    return "slack is pulled in" if slack else "the sheath is stripped back"


def _lacking(free: float, past: float | None, practice: Practice) -> list[Said]:
    """Each of the two lengths that is too short, with by how much."""
    unit = practice.unit
    of = [(free, practice[rules.FREE_CONDUCTOR], "beyond the sheath")]
    if past is not None:
        of.append((past, practice[rules.PAST_FACE], "past the face"))
    return [
        Said("needs", f"{format_length(wanted - has, unit)} too short {where}")
        for has, wanted, where in of
        if not at_least(has, wanted)
    ]


class ReachAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A box that moves: its cable's way from where it is last fixed, before and after; free wire, sheath and
    slack.
    """

    free: Length
    before: Length
    after: Length
    sheath: Length | None = None
    slack: Length | None = None
    past: Length | None = None


def reach(asked: ReachAsked, practice: Practice) -> Answer:
    """Whether the old cable still reaches: what is free, less what the way grows by."""
    unit = practice.unit
    lines = (
        Line(1.0, asked.free.mm, "free beyond the sheath"),
        Line(1.0, asked.sheath.mm if asked.sheath else 0.0, "sheath inside"),
        Line(1.0, asked.slack.mm if asked.slack else 0.0, "slack to be had"),
        Line(-1.0, asked.after.mm - asked.before.mm, "way grows by"),
    )
    left = Working("Left in the box", "mm", lines)
    wanted = practice[rules.FREE_CONDUCTOR] + practice[rules.SHEATH_INSIDE]
    # The end goes along with its box: what the way grows by comes off what stands past the face, too.
    outside = None if asked.past is None else asked.past.mm + lines[2].amount + lines[3].amount
    past = outside is None or at_least(outside, practice[rules.PAST_FACE])
    figures = (Figure("left", left.total), Figure("wanted", wanted))
    if at_least(left.total, wanted) and past:
        said: tuple[Said, ...] = (
            Said(
                "passes", f"The old cable reaches, with {format_length(left.total - wanted, unit)} to spare"
            ),
        )
    else:
        said = (
            Said(
                "fails",
                (
                    f"The old cable is {format_length(max(wanted - left.total, 0.0), unit)} short"
                    if left.total < wanted
                    else "Too little wire comes past the face"
                ),
            ),
            Said(
                "advice",
                "The old box stays as a junction under a blank cover and a new cable goes on; or another"
                " cable comes from the far side; or the box stands nearer. Never a splice that is buried",
            ),
        )
    return Answer(figures, said, (left,))


class CutoutAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """An old box tight to the ``face`` of a stud, and the one that takes its place; ``next`` is the face of
    the next member.
    """

    face: Length
    old: Length
    box: str
    clearance: Length | None = None
    next: Length | None = None


def cutout(asked: CutoutAsked, practice: Practice) -> Answer:
    """The new opening along the wall, how much is cut away, and what gap is left at the stud."""
    unit = practice.unit
    box = box_of(practice, asked.box)
    clear = (
        0.0
        if box.grip == "side"
        else (asked.clearance.mm if asked.clearance else practice[rules.CUT_IN_CLEAR])
    )
    start, end = asked.face.mm + clear, asked.face.mm + clear + box.body[0]
    widen = Working(
        "To cut away",
        "mm",
        (Line(1.0, end, "new far edge"), Line(-1.0, asked.face.mm + asked.old.mm, "old far edge")),
    )
    figures = [
        Figure("from", start),
        Figure("to", end),
        Figure("widen", widen.total),
        Figure("gap at the stud", clear),
    ]
    said = [_gap(clear, practice)] if clear else []
    if asked.next is not None and not at_most(end, asked.next.mm):
        said.append(
            Said(
                "fails", f"The next member stands in it: {format_length(end - asked.next.mm, unit)} too wide"
            )
        )
    return Answer(tuple(figures), tuple(said), (widen,))


def _gap(gap: float, practice: Practice) -> Said:
    unit = practice.unit
    if at_most(gap, practice[rules.GAP_CLOSED][0]):
        return Said("passes", f"A gap of {format_length(gap, unit)} may stay")
    if at_most(gap, practice[rules.GAP_CLOSED][1]):
        return Said(
            "advice",
            f"The gap of {format_length(gap, unit)} at the stud is filled with setting compound and mesh",
        )
    return Said(
        "fails",
        f"A gap of {format_length(gap, unit)} wants a patch; a larger plate hides it and does not cure it",
    )


class GroundAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A ground on trial: known amperes drawn, feet or metres of cable to the panel, its gauge, and what was
    read.
    """

    amps: float
    way: Length
    gauge: str
    volts: float | None = None


def ground(asked: GroundAsked, practice: Practice) -> Answer:
    """The neutral's drop between neutral and ground under a known load; nothing at all says that the two are
    tied.
    """
    gauges = {g.id: g for g in practice.catalogue.gauges}
    if asked.gauge not in gauges:
        raise NotAsked(f"there is no gauge “{asked.gauge}”; there is {', '.join(gauges)}")
    ohms = asked.way.mm / 1000 * gauges[asked.gauge].cold
    tied, loose = practice[rules.NEUTRAL_DROP]
    expected = Working("Neutral to ground", "V", (Line(asked.amps, ohms, "amperes through the neutral"),))
    said = []
    if asked.volts is not None:
        if asked.volts < tied * expected.total:
            said.append(
                Said(
                    "danger", "Nothing between neutral and ground under load: the two are tied together here"
                )
            )
        elif asked.volts > loose * expected.total:
            said.append(Said("danger", "Far more than the neutral can drop: a joint in it is loose"))
        else:
            said.append(Said("passes", "About what the neutral drops: the ground is a conductor of its own"))
    return Answer(
        (Figure("expected volts", expected.total, "count"), Figure("ohms", ohms, "count")),
        tuple(said),
        (expected,),
    )


class SpliceAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Wires that were found joined without a box: what is free of each end beyond its sheath, and whether it
    was warm or burnt.
    """

    one: Length
    other: Length
    slack: Length | None = None
    burnt: bool = False


def splice(asked: SpliceAsked, practice: Practice) -> Answer:
    """One box where both ends reach into it, else two with a new piece between; none over what was burnt."""
    unit = practice.unit
    slack = 0.0 if asked.slack is None or asked.slack.unknown else asked.slack.mm
    if asked.burnt:
        return Answer(
            (),
            (Said("danger", "Warm or burnt: the whole piece comes out, and its cause is looked for first"),),
        )
    short = [v for v in (asked.one, asked.other) if not at_least(v.mm, practice[rules.FREE_CONDUCTOR])]
    lacks = sum(max(0.0, practice[rules.FREE_CONDUCTOR] - v.mm) for v in (asked.one, asked.other))
    figures = (Figure("wanted in the box", practice[rules.FREE_CONDUCTOR]), Figure("lacks", lacks))
    said = [Said("danger", "Wires joined outside a box: dead first, and boxed before it is live again")]
    if not short or at_most(lacks, slack):
        said.append(
            Said(
                "passes",
                "One box takes both ends, with a cover, in a place that stays within reach"
                + ("; the slack is pulled in first" if short else ""),
            )
        )
    else:
        said.append(
            Said(
                "needs",
                f"{'Both ends are' if len(short) > 1 else 'One end is'} too short: two boxes, and a new piece"
                f" of {format_length(practice[rules.LEAST_PIECE], unit)} or more between",
            )
        )
    said.append(Said("needs", "A box whose volume takes both cables, with its clamps; told on the drawing"))
    return Answer(figures, tuple(said))
