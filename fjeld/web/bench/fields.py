"""What a question's page asks: a field for each measure, in a person's words, and how what is
typed is read.
"""

from __future__ import annotations

import re
from typing import Any, get_args, get_origin, get_type_hints

import msgspec
from django.http import QueryDict

from fjeld.bench.questions import Question
from fjeld.concealed.routes import ON_CEILINGS, ON_WALLS
from fjeld.drawing.building import RoomUse
from fjeld.formats.jobfile import JobFileError, convert
from fjeld.judge.answer import NotAsked
from fjeld.practice import Practice
from fjeld.practice.finished import minutes
from fjeld.practice.finished.sources import sources
from fjeld.quantities import Length, UnreadableLength, finite_number
from fjeld.web.bench.open_framing import stretch_of
from fjeld.web.ui.panel import Choices, Shown

#: Question and field → the words beside it, and what may be typed there.
LABELS: dict[str, dict[str, tuple[str, str]]] = {
    "hangs": {
        "what": ("What is to hang", ""),
        "lb": ("Its weight, lb", "35"),
        "kg": ("Or kg", ""),
        "marked": ("Its box is marked for, in the same", ""),
        "listed": ("Its mark says that it is for a fan", ""),
    },
    "link": {
        "smoke": ("Smoke alarms, all on the link", "12"),
        "heat": ("Heat alarms", "0"),
        "gas": ("Carbon monoxide alarms", "0"),
    },
    "extends": {
        "room": ("Room", ""),
        "way": ("New cable", ""),
        "new": ("New at its end", ""),
        "near_water": ("A sink, basin or tub is in reach of a cord", ""),
        "ahead": ("What protects it already", ""),
    },
    "replace": {
        "what": ("What is replaced", ""),
        "room": ("Room", ""),
        "ground": ("A ground is there", ""),
        "aluminium": ("Its conductors are aluminium", ""),
        "near_water": ("A sink, basin or tub is in reach of a cord", ""),
        "protective": ("A ground-fault device comes in its place", ""),
        "ahead": ("What protects it already", ""),
    },
    "outdoors": {
        "what": ("What goes outside", ""),
        "roof": ("A roof stands out over it by", "0 where there is none"),
        "above": ("The roof is above it by", ""),
        "height": ("Above the ground", ""),
        "circuit": ("Circuit that feeds it", ""),
        "inside": ("Room that it is fed from", ""),
    },
    "water": {
        "by": ("By", ""),
        "what": ("What goes there", ""),
        "away": ("Sideways from its edge", ""),
        "up": ("How high: above the rim, in Britain above the floor", ""),
    },
    "splice": {
        "one": ("Free wire of one end, beyond its sheath", ""),
        "other": ("Of the other end", ""),
        "slack": ("Slack that can be pulled in", ""),
        "burnt": ("It was warm, or burnt", ""),
    },
    "dimmer": {
        "load": ("Load, W", "60"),
        "least": ("Least that it needs, W", "0"),
        "most": ("Most that it carries, W", "150"),
        "of": ("It works", ""),
        "sides": ("Sides with their fins broken off", "0"),
    },
    "conduit": {
        "way": ("Piece of conduit", ""),
        "amps": ("Breaker, A", "20"),
        "wires": ("Wires through it", ""),
        "gauge": ("Their gauge", ""),
        "bends": ("Its bends together, degrees", ""),
    },
    "outlets": {"wall": ("Wall between doors and fixed things", "")},
    "rows": {
        "width": ("Room, how wide", ""),
        "count": ("Lights across it", "3"),
        "school": ("Spaced", ""),
        "offset": ("Kept off the walls", ""),
    },
    "drop": {
        "stretches": ("Stretches from the panel, one a line: length, gauge, amperes", "80' 14 8"),
        "feeds": ("They feed", ""),
    },
    "cord": {
        "ceiling": ("Ceiling above the floor", ""),
        "top": ("Top of what it hangs over", ""),
        "clear": ("Clear above that", ""),
        "shade": ("Shade, how tall", ""),
    },
    "fits": {
        "volume": ("Stamp inside, in³", "18"),
        "size": ("Or metal, measured inside", ""),
        "depth": ("Depth of the box, mm", "35"),
        "cables": ("Cables in it, with commas", "14/2, 14/2"),
        "add": ("Cables to be added", "14/2"),
        "devices": ("Devices in it", "1"),
        "clamps": ("Clamps inside", ""),
        "socket": ("A socket goes on it", ""),
        "protective": ("Its device is protective or electronic", ""),
        "breaker": ("Breaker of its circuit, A", "15"),
    },
    "spot": {
        "box": ("Box", ""),
        "left": ("Left member's face, from the left", ""),
        "left_by": ("Found by", ""),
        "right": ("Right member's face, from the left", ""),
        "right_by": ("Found by", ""),
        "door": ("Or a jamb's face, instead of the left member", ""),
        "wished": ("Middle wished at", ""),
        "clearance": ("Kept clear of a member", ""),
        "surface": ("Thickness of the surface", ""),
        "cavity": ("Cavity behind it", ""),
        "behind": ("Taken up from the other side", ""),
    },
    "height": {
        "high": ("Body, how tall", ""),
        "below": ("Box above its foot", ""),
        "top": ("Top to be at", ""),
        "foot": ("Or foot at", ""),
        "wide": ("Body, how wide", ""),
        "left": ("Box from its left edge", "in the middle if empty"),
        "left_edge": ("Left edge to be at", ""),
        "middle": ("Or middle at", ""),
    },
    "void": {
        "depth": ("What the fitting needs above the ceiling", ""),
        "lowest": ("Lowest thing above the ceiling, over its top", "duct, pipe, blocking"),
    },
    "ways": {
        "source": ("The old box is in", ""),
        "spot": ("The new one goes into", ""),
        "attic": ("An attic is open above", ""),
        "below": ("It is open below", ""),
        "lies": ("The new place lies", ""),
        "studs": ("Studs between", ""),
        "joists": ("Joists crossed", ""),
        "across": ("Level part of the way", ""),
        "source_height": ("Old box above the floor", ""),
        "spot_height": ("New one above the floor", ""),
        "ceiling": ("Ceiling, to the plate's underside", ""),
        "cavity": ("Depth of the wall's cavity", ""),
        "insulated": ("In an insulated outside wall", ""),
        "base": ("The base comes off", ""),
        "masonry": ("Through brick or block", ""),
        "there": ("Found in the way, with commas", "block, duct"),
        "clear": ("Looked for and not there", "insulation, header"),
    },
    "transfer": {
        "room": ("In the room: from the reference to the wall's face", ""),
        "back": ("Reference stands farther back on the other side by", ""),
        "pilot": ("Or: from a pilot to the wall's face", ""),
        "surface": ("Surface of the wall", ""),
        "plate": ("Plate, how deep", ""),
        "hole": ("Hole to be bored", ""),
        "error": ("It may miss by", ""),
    },
    "sounding": {
        "depth": ("Bay, from where it was let down to its foot", ""),
        "went": ("The chain went down by", ""),
        "across": ("It stops all the way across", ""),
    },
    "eave": {
        "heel": ("Heel above the plate", ""),
        "rise": ("Roof rises in 12", "5"),
        "plate": ("Plate, how deep", ""),
        "needs": ("Drill and bit need", ""),
    },
    "pull": {
        "legs": ("Legs of its way, with commas", ""),
        "first": ("Left at one end", ""),
        "last": ("Left at the other", ""),
        "blind": ("Legs fished blind", "0"),
    },
    "fan": {"cable": ("What comes to it from the switch", ""), "wish": ("Wished for on the wall", "")},
    "downrod": {
        "ceiling": ("Ceiling above the floor", ""),
        "body": ("Blades below the ceiling, without a rod", ""),
        "blades": ("Blades, how wide they sweep", ""),
        "rod": ("Its rod", ""),
        "wall": ("Its middle from the nearest wall", ""),
        "room": ("Room, where it is narrowest", ""),
        "falls": ("A slope falls in 12", "0"),
    },
    "shaft": {
        "bare": ("Walls of bare board between two rooms, area", ""),
        "single": ("Walls of one board, open behind", ""),
        "insulated": ("Walls with insulation behind", ""),
        "watts": ("Light, W", ""),
        "limit": ("What the fitting may stand, °C", "40"),
        "room": ("The room, °C", "25"),
    },
    "terminals": {
        "device": ("What is replaced", ""),
        "old": ("What was on each terminal, with commas", "black on common, red on t1, white on t2"),
        "new": ("Where each would go, if that is to be tried", "black on t1, red on common, white on t2"),
        "tab": ("Tab of the new outlet", ""),
        "two_circuits": ("Two circuits feed it", ""),
        "neutral": ("A neutral in the box", ""),
    },
    "wood": {
        "start": ("From, along the wall", ""),
        "end": ("To", ""),
        "spacing": ("Members on centers", ""),
        "first": ("First member at", ""),
        "depth": ("Members, how deep", ""),
        "bearing": ("They bear", ""),
    },
    "masonry": {
        "wide": ("Opening, how wide", ""),
        "high": ("How high", ""),
        "round": ("Or round, across", ""),
        "depth": ("Box, how deep", ""),
        "bit": ("Bit", ""),
        "pitch": ("Holes apart", ""),
        "leaf": ("Leaf, how thick", ""),
        "cavity": ("Void behind the leaf, how deep", ""),
        "chase": ("Chased", ""),
    },
    "short": {
        "free": ("Free wire beyond the sheath", ""),
        "sheath": ("Sheath inside the box", ""),
        "slack": ("Slack that can be pulled in", ""),
        "past": ("Wire past the face", ""),
        "opening": ("Opening of the box, where it is least across", ""),
        "cables": ("Cables of two on the device, all short", "2"),
    },
    "reach": {
        "free": ("Free wire beyond the sheath", ""),
        "before": ("Way from the last staple, now", ""),
        "after": ("Way after the move", ""),
        "sheath": ("Sheath inside the box", ""),
        "slack": ("Slack to be had", ""),
        "past": ("Wire past the face", ""),
    },
    "cutout": {
        "face": ("Stud's face that the old box is tight to", ""),
        "old": ("Old box, how wide", ""),
        "box": ("New box", ""),
        "clearance": ("Kept clear of the stud", ""),
        "next": ("Next member's face", ""),
    },
    "ground": {
        "amps": ("Known load, A", "10"),
        "way": ("Cable to the panel", ""),
        "gauge": ("Gauge", ""),
        "volts": ("Read between neutral and ground, V", ""),
    },
    "load": {
        "breaker": ("Breaker, A", "15"),
        "loads": ("What hangs on it, one a line", "6 x 9 known\n8 x 180 estimated\n1 x 12 continuous"),
    },
    "patch": {
        "wide": ("Hole, how wide", ""),
        "high": ("How high", ""),
        "compound": ("Filled with", ""),
        "coats": ("Coats", "3"),
        "cold": ("Cold or damp", ""),
    },
    "time": {
        "steps": ("Steps, one a line, with how many", "look\nbreaker\nP1\npull 2"),
        "times": ("Done before", ""),
        "access": ("What makes it harder", ""),
    },
    "pairs": {
        "nodes": ("Joints and loose ends, with commas", "black 1, black 2, whites, grounds, earth"),
        "switches": ("Switches to try both ways", "0"),
        "proven_before": ("Tester proven before", ""),
        "volts": ("Volts of the supply", "120"),
        "proven_after": ("Tester proven after", ""),
        "readings": ("Readings, one a line: pair, without a load, under one", "black 1 / whites 0.2 0"),
    },
}
_OPEN: Choices = (("", "not known"), ("yes", "yes"), ("no", "no"))
_CHOICES: dict[tuple[str, str], Choices] = {
    ("extends", "ahead"): (
        ("", "not known"),
        ("none", "nothing"),
        ("ground-fault", "ground-fault, or residual-current"),
        ("arc-fault", "arc-fault"),
        ("both", "both"),
    ),
    ("drop", "feeds"): (("lights", "lights"), ("outlets", "outlets, or anything else")),
    ("hangs", "what"): (("light", "a light"), ("wall light", "a light on a wall"), ("fan", "a fan")),
    ("extends", "new"): (
        ("", "nothing, only cable"),
        ("outlet", "an outlet"),
        ("switch", "a switch"),
        ("light", "a light"),
    ),
    ("outdoors", "what"): (("light", "a light"), ("outlet", "an outlet")),
    ("water", "what"): (
        ("outlet", "an outlet"),
        ("light", "a light, fixed close"),
        ("hanging light", "a light that hangs"),
        ("fan", "a fan"),
        ("switch", "a switch"),
    ),
    ("water", "by"): (
        ("tub", "a tub"),
        ("shower", "a shower"),
        ("shower without tray", "a shower without a tray"),
        ("basin", "a basin"),
    ),
    ("sounding", "across"): _OPEN,
    ("fan", "cable"): (
        ("two-wire", "a cable of two"),
        ("three-wire", "a cable of three"),
        ("loop", "a line always on, and a loop to the switch"),
    ),
    ("fan", "wish"): (
        ("one switch", "one switch"),
        ("two switches", "two switches"),
        ("speed and dimmer", "a speed control and a dimmer"),
        ("remote", "a remote"),
    ),
    ("terminals", "device"): (
        ("three-way", "a three-way or two-way switch"),
        ("four-way", "a four-way or intermediate switch"),
        ("single-pole", "a switch alone"),
        ("half outlet", "an outlet with one half switched"),
        ("protective", "a protective outlet"),
        ("sensor", "a sensor or timer with a neutral"),
    ),
    ("ways", "source"): (("wall", "a wall"), ("ceiling", "a ceiling")),
    ("ways", "spot"): (("wall", "a wall"), ("ceiling", "a ceiling")),
    ("ways", "lies"): (
        ("", "not told"),
        *ON_WALLS.items(),
        *((k, w) for k, w in ON_CEILINGS.items() if k not in ON_WALLS),
    ),
    ("ways", "insulated"): _OPEN,
    ("ways", "base"): _OPEN,
    ("terminals", "tab"): (("", "not one of two halves"), ("broken", "broken off"), ("whole", "whole")),
    ("terminals", "neutral"): (("", "not known"), ("yes", "yes"), ("no", "no")),
    ("replace", "what"): (("outlet", "an outlet"), ("switch", "a switch"), ("light", "a light")),
    ("replace", "ground"): (("not known", "not known"), ("yes", "yes"), ("no", "no")),
    ("dimmer", "of"): (("lamps", "lamps"), ("fan", "a fan"), ("motor", "a motor"), ("outlet", "an outlet")),
}
_FOUND_BY = (
    ("", "seen in the open"),
    ("probe", "a bent wire"),
    ("screws", "a row of screws"),
    ("detector", "a detector"),
    ("pattern", "the spacing only"),
)
_TIMES = (("1", "never"), ("2", "once"), ("3", "more often"))


#: Fields of a box that are of no use where it is told in that unit.
_ELSEWHERE = {
    "in³": {("fits", "depth"), ("fits", "socket")},
    "cables": {
        ("fits", "volume"),
        ("fits", "size"),
        ("fits", "clamps"),
        ("fits", "devices"),
        ("fits", "protective"),
    },
}


class Asking(Shown, frozen=True):
    """One field of a question: ``kind`` is ``text``, ``number``, ``choice``, ``tick`` or ``lines``."""

    name: str
    label: str
    kind: str
    value: str
    hint: str = ""
    options: Choices = ()
    needed: bool = False


def asking(question: Question, practice: Practice, given: QueryDict) -> list[Asking]:
    """The fields of a question as its page shows them, with what was typed."""
    hints = get_type_hints(question.asked)
    needed = {f.name for f in msgspec.structs.fields(question.asked) if f.required}
    found = []
    for name, (label, hint) in LABELS[question.name].items():
        if (question.name, name) in _ELSEWHERE[practice.catalogue.box_unit]:
            continue
        options = _options(question.name, name, practice)
        kind = "choice" if options else _kind(hints[name], name)
        value = given.get(name, "")
        found.append(
            Asking(name, label, kind, value, hint or _example(hints[name], practice), options, name in needed)
        )
    return found


#: Answers that are the same under every practice.
_FIXED: dict[tuple[str, str], Choices] = {
    ("hangs", "listed"): (("", "not looked at"), ("yes", "yes"), ("no", "no")),
    ("conduit", "gauge"): (("14", "14"), ("12", "12")),
}


def _options(question: str, name: str, practice: Practice) -> Choices:
    if question == "fits" and name == "size":
        return [("", "no, or it has a stamp"), *((s, s) for s in practice.catalogue.unstamped)]
    if name == "room" and question in ("extends", "replace"):
        return [(use, use) for use in get_args(RoomUse)]
    if (question, name) in _CHOICES:
        return _CHOICES[question, name]
    if name == "box":
        return [(b.id, b.name) for b in practice.catalogue.old_work]
    if name == "school":
        return (
            ("half-spacing", "half a spacing at the walls"),
            ("offset", "at a fixed distance from the walls"),
        )
    if name in ("left_by", "right_by"):
        return _FOUND_BY
    if (question, name) == ("outdoors", "circuit"):
        return [("", "not known"), *((c, c) for c in sources().local(practice).circuits)]
    if (question, name) == ("outdoors", "inside"):
        return [("", "not known"), *((use, use) for use in get_args(RoomUse))]
    if name == "chase":
        return (("", "not chased: into what is behind"), ("vertical", "upright"), ("horizontal", "level"))
    if name == "compound":
        return [(c, c) for c in minutes().coats if c not in ("primer", "paint")]
    if name == "times":
        return _TIMES
    if (question, name) in _FIXED:
        return _FIXED[question, name]
    if name == "gauge":
        return [(g.id, g.id) for g in practice.catalogue.gauges]
    return ()


def _kind(wanted: Any, name: str) -> str:
    if wanted is bool:
        return "tick"
    if name in ("loads", "steps", "readings", "stretches"):
        return "lines"
    return "number" if wanted in (int, float) or wanted in (int | None, float | None) else "text"


def _example(wanted: Any, practice: Practice) -> str:
    lengths = wanted is Length or Length in get_args(wanted)
    return ("460 mm" if practice.unit == "mm" else '18 1/8"') if lengths else ""


def read(question: Question, practice: Practice, given: QueryDict) -> Any:
    """What was typed, as the question's struct; raises :class:`NotAsked` with the field's own words."""
    unit, hints = practice.unit, get_type_hints(question.asked)
    body: dict[str, Any] = {}
    for name, (label, _) in LABELS[question.name].items():
        typed = given.get(name, "").strip()
        if not typed:
            continue
        try:
            body[name] = _value(name, typed, hints[name])
        except NotAsked as wrong:
            raise NotAsked(f"{label}: {wrong}") from None
    if missing := [
        f.name for f in msgspec.structs.fields(question.asked) if f.required and f.name not in body
    ]:
        raise NotAsked(f"{LABELS[question.name][missing[0]][0]}: still wanted")
    try:
        return convert(body, question.asked, "", unit)
    except (JobFileError, UnreadableLength) as wrong:
        field, _, words = str(wrong).lstrip(".").partition(": ")
        known = LABELS[question.name].get(re.split(r"[.\[]", field)[0])
        raise NotAsked(f"{known[0]}: {words}" if known else str(wrong)) from None


def _value(name: str, typed: str, wanted: Any) -> Any:
    if name == "loads":
        return [_load(line) for line in typed.splitlines() if line.strip()]
    if name == "stretches":
        return [_stretch(line) for line in typed.splitlines() if line.strip()]
    if name == "steps":
        return dict(_step(line) for line in typed.splitlines() if line.strip())
    if name == "readings":
        return dict(_reading(line) for line in typed.splitlines() if line.strip())
    if wanted in (bool, bool | None):
        return typed in ("on", "1", "true", "yes")
    if get_origin(wanted) is tuple:
        # Among lengths a comma within a figure is no end of it: it is asked what it means. Names have none.
        ends = r"[;\n]|,\s" if get_args(wanted)[0] is Length else r"[;\n,]"
        return [part.strip() for part in re.split(ends, typed) if part.strip()]
    if wanted in (int, float) or wanted in (int | None, float | None):
        return _number(typed, wanted in (int, int | None))
    return typed


def _number(typed: str, whole: bool = False) -> float | int:
    found = finite_number(typed)
    if found is None or (whole and found != int(found)):
        raise NotAsked(f"“{typed[:30]}” is not a {'whole ' if whole else ''}number")
    return int(found) if whole else found


def _load(line: str) -> dict[str, Any]:
    """``6 x 9``, with ``estimated`` or ``continuous`` after it."""
    found = re.fullmatch(r"\s*(\S+)\s*[x×*]\s*(\S+)\s*(?:W|VA)?\s*(.*)", line)
    if not found:
        raise NotAsked(f"“{line.strip()[:30]}” is no load; write it like 6 x 9 known")
    said = found[3].lower()
    return {
        "count": _number(found[1]),
        "va": _number(found[2]),
        "what": found[3].strip()[:40],
        "estimated": "estimated" in said,
        "continuous": "continuous" in said,
    }


def _stretch(line: str) -> dict[str, Any]:
    found = stretch_of(line)
    return {**found, "amps": _number(found["amps"])}


def _step(line: str) -> tuple[str, float]:
    """``pull 2``: a step, with how many times what repeats in it does."""
    plain = " ".join(line.split())
    if plain in minutes().steps:
        return plain, 0.0
    name, _, count = plain.rpartition(" ")
    if name not in minutes().steps:
        raise NotAsked(f"there is no step “{plain[:30]}”; there is {', '.join(minutes().steps)}")
    return name, float(_number(count))


def _reading(line: str) -> tuple[str, list[float]]:
    """``black 1 / whites 119.8 119.5``: a pair, without a load and under one."""
    pair, *values = line.rsplit(None, 2) if len(line.split()) > 2 else ("",)
    if len(values) != 2:
        raise NotAsked(f"“{line.strip()[:30]}” is no reading; write the pair, and both figures")
    return pair.strip(), [float(_number(v)) for v in values]
