"""A table of dangers in finished rooms: every value that can be told of an old box, of what is wanted, of its
spot and its way, in every kind of errand and both practices, and what it must raise.

Each row is held against errands that nothing stands against. A value that is added to a type fails here until
somebody has said what it raises, or why it raises nothing.
"""

import csv
import random
import types
import typing
from functools import cache
from pathlib import Path

import msgspec
import pytest

from fjeld.drawing.ends import owner
from fjeld.drawing.errand import NEW, REPLACED, Errand, Plate, Spot, Way
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import Device, OldBox, OldCable, joined
from fjeld.drawing.validate import InvalidDrawing, require_valid
from fjeld.practice import load
from fjeld.practice.devices import screws_of
from fjeld.practice.finished import read_table
from fjeld.practice.finished.sources import sources
from fjeld.practice.finished.spots import spots
from fjeld.quantities import Length
from tests.core.errand_bases import BASES, E1, VARIANTS, planned, ready
from tests.core.test_dangers import of_type, said
from tests.often import OFTEN

PRACTICES = ("na", "gb")
#: Things by name, and how one is set in a drawing.
KINDS_OF = {
    "box": OldBox,
    "cable": OldCable,
    "device": Device,
    "errand": Errand,
    "spot": Spot,
    "way": Way,
    "plate": Plate,
}
NEWLY = [k for k in BASES if VARIANTS.get(k, k) in NEW]
INSTEAD = [k for k in BASES if VARIANTS.get(k, k) in REPLACED]
#: Sets of errands by a word.
SETS = {
    "all": {*BASES},
    "new": {*NEWLY},
    "lights": {k for k in NEWLY if k != "alarms"},
    "instead": {*INSTEAD},
    "there": {k for k in BASES if k not in NEWLY},
    "cut": {*NEWLY, "larger box", "move"},
    "cut in a wall": {*NEWLY, "larger box", "move"} - {"alarms"},
    "works": {*NEWLY, *INSTEAD},
    "goes back": {*NEWLY, *INSTEAD, "short wires"},
    "switch's": {k for k in BASES if k not in ("heavy", "alarms", "outlet replaced")},
}


def with_one(drawing, thing, field, value):
    """The drawing with one field of a thing set; None where it has no such thing."""
    replace, old, errand = msgspec.structs.replace, drawing.get(E1, OldBox), drawing.house.errand
    if thing == "box":
        old = replace(old, **{field: value})
    elif thing in ("cable", "device"):
        name = {"cable": "cables", "device": "held"}[thing]
        if not (parts := getattr(old, name)):
            return None
        one = replace(parts[0], **{field: value})
        if (thing, field) == ("device", "kind"):
            # On the terminals that it has; a device is put into a box with nothing on it.
            has = (*screws_of(value), "g")
            one = replace(one, lands={t: ends for t, ends in one.lands.items() if t in has})
            gone = {one.at(t) for t in parts[0].lands} | {
                e for j in old.joints for e in j if owner(e) == one.id
            }
            gone -= {one.at(t) for t in has}
            old = replace(old, joints=joined(tuple(e for e in j if e not in gone) for j in old.joints))
        old = replace(old, **{name: (one, *parts[1:])})
    elif thing == "errand":
        errand = replace(errand, **{field: value})
    elif thing == "plate":
        errand = replace(errand, way=replace(errand.way, here=replace(errand.way.here, **{field: value})))
    else:
        errand = replace(errand, **{thing: replace(getattr(errand, thing), **{field: value})})
    return Drawing({**drawing.items, E1: old, HOUSE: replace(drawing.house, errand=errand)})


def words_of(thing, field, practice):
    """What a field of words can say, where a list is offered."""
    rules = load(practice)
    return {
        ("box", "serves"): list(sources().local(rules).circuits),
        ("box", "fixing"): [f["id"] for f in read_table("comes_out.toml")["fixing"]],
        ("box", "size"): [*load("na").catalogue.unstamped],
        ("spot", "covering"): [c.id for c in spots().covering],
        ("spot", "box"): [b.id for b in load(practice).catalogue.old_work],
        ("cable", "gauge"): ["", *(g.id for g in rules.catalogue.gauges), "9"],
        ("cable", "sheath"): ["", *sheaths(rules)],
    }.get((thing, field), [])


def sheaths(rules):
    """The kinds and ages of cable that are told apart under a practice."""
    return [*sources().local(rules).sheaths]


def settable(thing, practice):
    """Each field of a thing with what it can hold, blank among it, where that can be counted."""
    hints = typing.get_type_hints(KINDS_OF[thing], include_extras=True)
    for name, hint in hints.items():
        values = of_type(hint) + words_of(thing, name, practice)
        union = typing.get_origin(hint) in (typing.Union, types.UnionType)
        if values and union and type(None) in typing.get_args(hint):
            values = [None, *values]
        if values:
            yield name, values


def cells(thing, practice):
    """Each field with each value; what is looked for at a spot or along a way by its name."""
    for name, values in settable(thing, practice):
        yield from ((name, value) for value in values if (thing, name) not in NOT_ONE)
    if thing in ("spot", "way"):
        seen = {look for kind in BASES for look in getattr(ready(kind, practice).house.errand, thing).seen}
        yield from ((f"seen {look}", value) for look in sorted(seen) for value in ("there", "clear", None))


#: What an errand is of is the errand; which of several devices or boxes is meant is tried where there are
#: several.
NOT_ONE = {("errand", "wants"), ("errand", "source"), ("box", "room"), ("errand", "replaces")}


def tokens(known):
    """What a plan says against an errand: gates that shut (with ``?`` where something is not known), changes,
    and what is said of its spot, of what hangs and of what comes in a device's stead.
    """
    facts, found = known.facts, set()
    for task in known.tasks:
        found |= {(b.gate or "trouble") + ("" if b.known else "?") for b in task.blocked_by}
        found |= {f"note {n[:60]}" for n in task.notes}
    found |= {f"+{c.id}" for c in known.changes}
    stead = facts.stead.said if facts.stead else ()
    for where, heard in (("spot", facts.placed.said), ("hung", facts.support.said), ("stead", stead)):
        found |= {f"{where} {s.tone} {s.words[:60]}" for s in heard if s.tone in ("needs", "ask", "advice")}
    if known.proof.verdict not in ("", "works"):
        found.add(f"proof {known.proof.verdict}")
    return found


def raised(bases, before, practice, thing, field, value):
    """By each finding that a value raises the errands in which it does; ``refused`` where it cannot be."""
    found = {}
    for kind, drawing in bases.items():
        if field.startswith("seen "):
            told = getattr(drawing.house.errand, thing)
            look = field.removeprefix("seen ")
            if look not in told.seen:
                continue
            rest = {k: v for k, v in told.seen.items() if k != look}
            changed = with_one(drawing, thing, "seen", rest | ({look: value} if value else {}))
        else:
            changed = with_one(drawing, thing, field, value)
        if changed is None or changed == drawing:
            continue
        try:
            require_valid(changed)
            new = tokens(planned(changed, practice)) - before[kind]
        except InvalidDrawing:
            new = {"refused"}
        for token in new:
            # A gate by its name, what is said by where it is said and how grave it is.
            of = token.split(" ")
            short = (
                " ".join(of[:2])
                if of[0] in ("spot", "hung", "stead")
                else of[0]
                if of[0] in ("note", "proof")
                else token
            )
            found.setdefault(short, set()).add(kind)
    return found


def written(found):
    """What was raised in a line: each finding with its errands, by their word where they have one, or a word
    but for a few.
    """
    parts = []
    for token in sorted(found):
        kinds = found[token]
        word = next((w for w, of in SETS.items() if of == kinds), None)
        near = [
            (w, of - kinds) for w, of in SETS.items() if kinds < of and len(of - kinds) < min(3, len(kinds))
        ]
        if word is None and near:
            name, less = min(near, key=lambda n: len(n[1]))
            word = f"{name} but {' '.join(k.replace(' ', '-') for k in BASES if k in less)}"
        parts.append(f"{token} [{word or ' '.join(k.replace(' ', '-') for k in BASES if k in kinds)}]")
    return "; ".join(parts)


@cache
def base(practice):
    """Every errand that nothing stands against, and what is said of each all the same."""
    drawings = {kind: ready(kind, practice) for kind in BASES}
    return drawings, {kind: tokens(planned(drawing, practice)) for kind, drawing in drawings.items()}


def table():
    """The rows by thing: (field, value) with what it raises in each practice; ``-`` where there is no such
    value.
    """
    with (Path(__file__).parent / "errand_dangers.csv").open(newline="") as file:
        rows = list(csv.DictReader(file))
    return {thing: {(r["field"], r["value"]): r for r in rows if r["thing"] == thing} for thing in KINDS_OF}


#: Why a field, or a value of it that no row has, raises nothing by itself.
NONE = {
    "box": {
        "wall": "where it is drawn",
        "at": "where it is drawn",
        "height": "where it is drawn",
        "x": "where it is drawn",
        "y": "where it is drawn",
        "volume": "large enough, or told by its depth",
        "gangs": "what it holds is told by volume or depth",
        "breaker_read": "its step reads it, whatever was read before",
        "beside": "little",
        "clamps": "room enough for them",
        "place": "as it is",
        "material": "a box, and its metal is a node of the dead test",
        "size": "its volume is told",
        "depth": "told where boxes are told by depth",
        "ground": "there",
        "condition": "sound",
        "serves": "feeds what is wanted",
        "amps": "the least only trips early",
        "opening": "one is free",
        "accessible": "it is",
        "alone": "it is",
        "fixing": "how it comes out",
        "free": "long, or not asked",
        "sheath": "only adds to what is free",
        "past": "tails mend it",
        "setback": "flush, or not measured",
        "marked": "it carries what hangs",
        "ahead": "all that is asked",
        "listed": "no fan hangs there",
        "clear": "only a brace spans it: see the pairs",
        "slack": "only adds to what is free",
    },
    "cable": {
        "gauge": "thick enough for its breaker",
        "sheath": "sound, with a ground, or nobody has looked",
    },
    "device": {
        "kind": "as it is",
        "tab": "its wiring is told by its joints; half outlets have tests of their own",
    },
    "errand": {
        "attic": "another way reaches it",
        "below": "another way reaches it",
        "same_switch": "works both ways from this box",
        "becomes": "as it was, or no device is replaced",
        "weighs": "light, or nothing hangs",
        "takes": "little, or what is usual",
        "hours": "a quarter more of little",
        "fits": "both may be fed",
        "devices": "room for it",
        "farther": "the way is no longer",
        "replaces": "the first",
    },
    "spot": {
        "surface": "as it is",
        "covering": "how it is cut",
        "box": "fits there",
        "left": "the bay is wide",
        "left_by": "sure enough",
        "right": "the bay is wide",
        "right_by": "sure enough",
        "door": "far from it",
        "along": "nowhere in particular",
        "height": "on the wall",
        "thick": "the box grips the usual board",
        "cavity": "deep enough, or the usual",
        "opposite": "nothing behind it",
        "lowest": "nothing is wanted there",
        "needs": "room enough",
        "by_water": "none near: see the pairs",
        "from_water": "none near: see the pairs",
        "outside": "the weather is told by roof and height",
        "roof": "a rating for wet is asked already",
        "above": "a rating for wet is asked already",
        **{
            f"seen {look}": "looked for, and not there"
            for look in ("duct", "header", "old coat", "other side", "pocket door", "water")
        },
    },
    "way": {
        "lies": "so it does",
        "across": "only longer",
        "source": "on its wall",
        "ceiling": "over both, or of no matter",
        "plates": "only longer",
        "insulated": "no way down it",
        "base": "the way is not behind it",
        "pull": "only longer",
        "wood": "deep enough",
        "bearing": "holes are small in it: see the pairs",
        "leaf": "thick enough",
        "studs": "told",
        "joists": "told",
        **{
            f"seen {look}": "looked for, and not there"
            for look in ("block", "closet", "duct", "header", "pipes", "storage floor", "offset walls")
        },
    },
    "plate": {
        name: "a mark, which the step says; what it stops is tried in pairs"
        for name in (
            "met",
            "room",
            "back",
            "pilot",
            "deep",
            "miss",
            "missed",
            "heel",
            "rise",
            "went",
            "stops",
        )
    },
}

#: What meets in one rule: what is told together, and what both raise in which errand; ``-`` before what must
#: not be raised.
TOGETHER = (
    ("na", (("box", "amps", 20), ("cable", "gauge", "14")), "G5", "replace"),
    ("gb", (("box", "amps", 20), ("cable", "gauge", "1.5")), "G5", "replace"),
    (
        "na",
        (("spot", "by_water", "tub"), ("spot", "from_water", Length(0.0)), ("spot", "seen water", "there")),
        "spot",
        "outlet",
    ),
    (
        "gb",
        (("spot", "by_water", "tub"), ("spot", "from_water", Length(0.0)), ("spot", "seen water", "there")),
        "spot",
        "light",
    ),
    (
        "na",
        (
            ("spot", "by_water", "tub"),
            ("spot", "from_water", Length(9000.0)),
            ("spot", "seen water", "there"),
        ),
        "-water?",
        "outlet",
    ),
    ("na", (("errand", "weighs", 60.0), ("box", "clear", Length(1200.0))), "G13", "heavy"),
    ("na", (("errand", "weighs", 60.0), ("box", "clear", None)), "G13?", "heavy"),
    ("na", (("errand", "weighs", 60.0), ("box", "clear", Length(370.0))), "+support", "heavy"),
    ("na", (("errand", "becomes", "fan"), ("box", "listed", None)), "G13?", "heavy"),
    ("na", (("errand", "becomes", "fan"), ("box", "listed", True)), "-+support", "heavy"),
    ("na", (("plate", "went", Length(0.0)), ("plate", "stops", "all across")), "G11", "light by the attic"),
    ("gb", (("plate", "went", Length(0.0)), ("plate", "stops", "all across")), "G11", "light by the attic"),
    ("na", (("errand", "takes", 1200.0), ("box", "beside", 900.0)), "G6", "light"),
    ("na", (("errand", "takes", 1200.0), ("box", "beside", 100.0)), "-G6", "light"),
    (
        "na",
        (("box", "volume", None), ("box", "size", "3 x 2 x 2 1/2"), ("box", "clamps", True)),
        "+larger source",
        "light",
    ),
    ("na", (("spot", "outside", "outlet"), ("spot", "box", "cut-in-round")), "spot", "outdoors"),
    ("na", (("box", "material", "none"), ("box", "setback", Length(60.0))), "-+extender", "light"),
    ("na", (("way", "bearing", True), ("way", "wood", Length(30.0))), "G11", "light"),
    ("na", (("spot", "needs", Length(150.0)), ("spot", "lowest", Length(0.0))), "spot", "alarms"),
    ("gb", (("spot", "needs", Length(150.0)), ("spot", "lowest", Length(0.0))), "spot", "alarms"),
    ("na", (("box", "free", Length(150.0)), ("errand", "farther", Length(20.0))), "G14", "move"),
    (
        "na",
        (("box", "free", Length(150.0)), ("box", "slack", Length(40.0)), ("errand", "farther", Length(20.0))),
        "-G14",
        "move",
    ),
    (
        "gb",
        (
            ("errand", "fits", "outlet"),
            ("box", "serves", "ring"),
            ("box", "amps", 32),
            ("cable", "gauge", "2.5"),
        ),
        "-G4",
        "outlet",
    ),
)


@pytest.mark.parametrize("thing", KINDS_OF)
@pytest.mark.parametrize("practice", PRACTICES)
def test_each_value_that_can_be_told_raises_what_the_table_says_and_nothing_else(practice, thing):
    drawings, before = base(practice)
    rows, wrong, met = table()[thing], {}, set()
    for field, value in cells(thing, practice):
        found = written(raised(drawings, before, practice, thing, field, value))
        row = rows.get((field, said(value)))
        met.add((field, said(value)))
        if found != (row[practice] if row else ""):
            wrong[field, said(value)] = (found, row and row[practice])
    assert wrong == {}
    assert {k for k, row in rows.items() if row[practice] != "-"} <= met, "values that there no longer are"


@pytest.mark.parametrize("thing", KINDS_OF)
@pytest.mark.parametrize("practice", PRACTICES)
def test_no_cell_is_empty(practice, thing):
    """Each value of each field stands in the table, or its field has a reason; what has a reason
    is a field.
    """
    rows, fields = table()[thing], set()
    for field, value in cells(thing, practice):
        fields.add(field)
        assert (field, said(value)) in rows or field in NONE[thing], (field, value)
    assert {f for f in NONE[thing] if not f.startswith("seen ")} <= fields | {
        "replaces",
        "studs",
        "joists",
        "depth",
    }


@pytest.mark.parametrize(("practice", "sets", "finding", "kind"), TOGETHER)
def test_what_meets_in_one_rule_raises_it(practice, sets, finding, kind):
    drawing = ready(kind, practice)
    for thing, field, value in sets:
        if field.startswith("seen "):
            told = {**getattr(drawing.house.errand, thing).seen, field.removeprefix("seen "): value}
            drawing = with_one(drawing, thing, "seen", told)
        elif thing == "cable":
            cables = drawing.get(E1, OldBox).cables
            drawing = with_one(
                drawing, "box", "cables", tuple(msgspec.structs.replace(c, **{field: value}) for c in cables)
            )
        else:
            drawing = with_one(drawing, thing, field, value)
    found = {
        t.partition(" ")[0] if t.startswith("spot") else t
        for t in tokens(planned(require_valid(drawing), practice))
    }
    if finding.startswith("-"):
        assert finding[1:] not in found
    else:
        assert finding in found, found


@pytest.mark.parametrize("practice", PRACTICES)
def test_any_two_things_told_give_a_plan_and_no_answer_opens_what_bad_wires_shut(practice):
    """Pairs at random: none ends in a fault of the program, and what aluminium shuts stays shut whatever else
    is told.
    """
    die = random.Random(f"pairs {practice} {OFTEN}")
    drawings, _ = base(practice)
    every = [
        (thing, field, value)
        for thing in KINDS_OF
        for field, value in cells(thing, practice)
        if not field.startswith("seen ")
    ]
    tried = 0
    for _ in range(250 * OFTEN):
        kind = die.choice(BASES)
        drawing = drawings[kind]
        for thing, field, value in die.sample(every, 2):
            drawing = with_one(drawing, thing, field, value) or drawing
        try:
            require_valid(drawing)
        except InvalidDrawing:
            continue
        planned(drawing, practice)
        bad = with_one(drawing, "box", "condition", "aluminium")
        assert "G1" in tokens(planned(bad, practice)), kind
        tried += 1
    assert tried > 150
