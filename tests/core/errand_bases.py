"""Errands that are ready in every respect: all told, read and looked at, so that one answer more shows what
it raises.
"""

from __future__ import annotations

from functools import cache
from typing import get_args

import msgspec

from fjeld.concealed.cut import place
from fjeld.concealed.path import path
from fjeld.derive.memo import Memo
from fjeld.drawing.building import usual_room
from fjeld.drawing.errand import CHANGED, NEW, Errand, ErrandKind, Spot, with_part
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing, House
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import Taken, plan
from fjeld.errand.record import drawn_as
from fjeld.judge.volts import Volts
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.found import Reading
from fjeld.practice import load
from fjeld.quantities import Length, not_measured

#: The kinds of errand, and some of their ways: over an attic, from storey to storey, through brick; of an
#: outlet that is replaced.
BASES = (
    *get_args(ErrandKind),
    "light by the attic",
    "light upstairs",
    "outdoors in brick",
    "outlet replaced",
)
#: Where a box is whose place nobody has measured.
NOWHERE = not_measured(Length(0.0))
R1, E1 = Handle("R1"), Handle("E1")
#: As pages have it: what a stage came to for the same arguments is not worked out again.
MEMO = Memo()
#: What is told of the spot and the way, mm and words; what is looked for is not there.
TOLD = {
    "surface": "wall",
    "covering": "wallboard",
    "outside": "light",
    "lies": "same wall",
    "studs": 2,
    "joists": 3,
    "across": 2700.0,
    "source": 1170.0,
    "ceiling": 2440.0,
    "left": 425.0,
    "right": 794.0,
    "along": 610.0,
    "height": 1170.0,
    "thick": 12.5,
    "cavity": 89.0,
    "opposite": 0.0,
    "needs": 0.0,
    "lowest": 150.0,
    "roof": 0.0,
    "above": 2440.0,
    "insulated": False,
    "base": False,
    "by_water": "",
    "from_water": 3000.0,
    "wood": 89.0,
    "bearing": False,
    "leaf": 100.0,
    "met": "pilot",
    "pilot": 50.0,
    "deep": 89.0,
    "room": 1000.0,
    "back": 0.0,
    "missed": "too far",
    "miss": 0.0,
    "heel": 400.0,
    "rise": 6.0,
    "went": 1308.0,
    "stops": "only here",
    "plates": 38.0,
    "pull": 5000.0,
}
#: Variants of a kind, and what is told of them in another way.
VARIANTS = {
    "light by the attic": "light",
    "light upstairs": "light",
    "outdoors in brick": "outdoors",
    "outlet replaced": "replace",
}
OWN = {
    "alarms": {"surface": "ceiling", "lies": "along the joists", "joists": 0},
    "light upstairs": {"lies": "another storey", "pull": 5000.0},
    "outdoors in brick": {"lies": "other side", "covering": "veneer brick or block", "leaf": 215.0},
}
BOX = {"na": "cut-in-1", "gb": "dry-lining-1"}


def old_box(kind: str, practice: str) -> OldBox:
    """The usual box that a kind of errand begins with, looked at and sound."""
    gb = practice == "gb"
    of = arrangements(practice)
    if kind == "outlet replaced":
        usual = next(a for a in of if a.box.place == "outlet" and len(a.box.cables) == 1)
    elif kind in ("heavy", "alarms"):
        usual = next(a for a in of if a.box.place == "ceiling" and len(a.box.cables) == 1)
    else:
        usual = next(a for a in of if a.words.startswith("A dark wire on each screw"))
    old = drawn_as(OldBox(R1, x=NOWHERE, y=NOWHERE, place=usual.box.place), usual.box)
    cables = tuple(
        msgspec.structs.replace(c, gauge="1.5" if gb else "14", sheath="plastic") for c in old.cables
    )
    return msgspec.structs.replace(
        old,
        cables=cables,
        ground="present",
        condition="sound",
        serves="lighting" if gb else "general",
        amps=6 if gb else 15,
        volume=None if gb else 40.0,
        depth=47 if gb else None,
        clamps=False,
        opening=True,
        alone=True,
        accessible=True,
        beside=100.0,
        ahead="ground-fault" if gb else "both",
        breaker="7",
        breaker_read=True,
        material="plastic",
        free=Length(230.0),
        past=Length(100.0),
        sheath=Length(12.0),
        slack=Length(0.0),
        setback=Length(0.0),
        marked=0.0 if kind != "heavy" else 20.0,
        listed=False,
        fixing="screwed",
        clear=Length(370.0),
    )


def taken(old: OldBox, practice: str) -> tuple[Taken, ...]:
    """What was read of it: what is live, what is the neutral, each with the tester proven."""
    gb = practice == "gb"
    dark, white, full = ("BN", "BU", 231.0) if gb else ("BK", "WH", 120.1)
    lamp = Reading(
        "R5",
        between=((f"1.{dark}", f"1.{white}", Volts(full, full - 0.4)),),
        lamps_out=True,
        lamp="bright",
        proven=True,
    )
    if len(old.cables) < 2:
        always = Reading(
            "R4", to_earth={f"1.{dark}": Volts(full)}, every_switch=True, power=True, proven=True
        )
        return (Taken(always, 1.0, True), Taken(lamp, 2.0, True))
    live = Reading(
        "R4", state={"S": "open"}, to_earth={f"1.{dark}": Volts(full), f"2.{dark}": Volts(0.3)}, proven=True
    )
    return (Taken(live, 1.0, True), Taken(lamp, 2.0, True))


@cache
def ready(kind: str, practice: str) -> Drawing:
    """The drawing of an errand that nothing stands against."""
    rules, old, attic = load(practice), old_box(kind, practice), kind == "light by the attic"
    own, variant, kind = OWN.get(kind, {}), kind, VARIANTS.get(kind, kind)
    errand = Errand(
        kind,
        attic=attic or kind == "alarms",
        takes=12.0,
        fits="switch" if kind == "outlet" and practice == "gb" else "outlet" if kind == "outlet" else "",
        becomes="same" if kind in ("replace", "heavy") else "",
        weighs=9.0 if kind == "heavy" else None,
        farther=Length(0.0) if kind == "move" else None,
        devices=1 if kind == "larger box" else None,
        spot=Spot(box=BOX[practice] if variant != "outdoors in brick" or practice == "na" else "flush-1"),
    )
    if kind == "larger box":
        old = msgspec.structs.replace(
            old, volume=None if practice == "gb" else 12.5, depth=25 if practice == "gb" else None
        )
    if kind in NEW | CHANGED:
        errand = _told(errand, lambda e: place(e, rules), "spot", own)
    if kind in NEW:
        errand = _told(errand, lambda e: path(e, old, rules), "way", own)
        over = (
            [r for r in path(errand, old, rules).routes if any(leg.way.id == "P8" for leg in r.made)]
            if attic
            else []
        )
        way = next(r for r in (*over, *path(errand, old, rules).routes) if not r.blocked)
        errand = msgspec.structs.replace(errand, way=msgspec.structs.replace(errand.way, chosen=way.key))
        errand = _told(errand, lambda e: path(e, old, rules), "way", own)
    room = msgspec.structs.replace(usual_room(rules.unit), use="living")
    return Drawing({HOUSE: House("Any", practice=practice, errand=errand), R1: room, E1: old})


def _told(errand: Errand, found, part: str, own) -> Errand:
    """The errand with each question of its spot or its way answered, one after another."""
    for _ in range(80):
        here = found(errand)
        if not here.open:
            return errand
        ask = next(a for a in here.asks if a.id in here.open)
        told = getattr(errand, part)
        if ask.kind == "seen":
            told = msgspec.structs.replace(told, seen={**told.seen, ask.id: "clear"})
        else:
            name = ask.id.rpartition(".")[2]
            value = own.get(name, TOLD[name])
            told = with_part(told, ask.id, Length(value) if isinstance(value, float) else value)
        errand = msgspec.structs.replace(errand, **{part: told})
    raise AssertionError("the questions go round")


def planned(drawing: Drawing, practice: str):
    """Its plan, by the readings that its box has."""
    return plan(drawing, {E1: taken(drawing.get(E1, OldBox), practice)}, (), remember=MEMO)
