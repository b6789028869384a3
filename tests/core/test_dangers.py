"""A table of dangers in a house: every value that can be set, on what it is set, and the finding that it must
raise.

The table is held against the types of the drawing: each value of each choice and both ends of each figure
stand in it, with the rule that tells of it or the reason why nothing does. A value that is added to a type
fails here until somebody has said which.
"""

import random
import types
import typing

import msgspec
import pytest

from fjeld.check import check
from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Joists, Opening, Panel, Room, Side, Storey, Studs
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Fitting, House, LoadRef, Point
from fjeld.drawing.validate import InvalidDrawing, require_valid
from fjeld.propose.attach import attached
from fjeld.quantities import Length
from tests.often import OFTEN

H = Handle


def mm(value):
    return Length(float(value), f"{value:g} mm")


def base(practice):
    """A living room with one of each: lights, a switch of each, outlets, a fan, an alarm; and a
    panel in it.
    """
    gb = practice == "gb"
    room = Room(
        "Snug",
        tuple(Side(float(b), mm(s)) for b, s in ((90, 4200), (180, 5100), (270, 4200), (0, 5100))),
        "living",
        H("Y1"),
        studs=Studs(mm(400), mm(89), mm(38), mm(400), mm(12.7)),
        joists=Joists("E-W", mm(400), mm(400), mm(235), mm(38)),
    )
    low, tall = (450, 1200) if gb else (406, 1168)
    lights = Circuit("Lights", 6 if gb else 15, "1.5" if gb else "14", "residual" if gb else "arc-fault")
    outlets = Circuit(
        "Outlets",
        16 if gb else 20,
        "2.5" if gb else "12",
        "residual" if gb else "both",
        lies="C" if gb else "",
    )
    items = {
        HOUSE: House("Table", practice=practice),
        H("Y1"): Storey("Ground", mm(0)),
        H("R1"): room,
        H("P1"): Panel(H("R1"), 1, mm(500), ways=24),
        H("D1"): Opening("door", H("R1"), 2, mm(600), mm(800)),
        H("Q1"): lights,
        H("Q2"): outlets,
        H("A1"): Point(
            "light", H("R1"), x=mm(1450), y=mm(1750), va=12, circuit=H("Q1"), fitting=Fitting("Disc")
        ),
        H("A2"): Point("light", H("R1"), x=mm(2750), y=mm(3350), va=12, circuit=H("Q1")),
        H("S1"): Point("switch", H("R1"), 2, mm(1700), mm(tall)),
        H("S2"): Point("switch", H("R1"), 4, mm(1000), mm(tall)),
        H("S3"): Point("switch", H("R1"), 4, mm(1250), mm(tall)),
        H("O1"): Point("outlet", H("R1"), 1, mm(2100), mm(low), circuit=H("Q2")),
        H("O2"): Point("outlet", H("R1"), 3, mm(2100), mm(low), circuit=H("Q2")),
        H("F1"): Point("fan", H("R1"), x=mm(2050), y=mm(2550), va=60, circuit=H("Q1")),
        H("V1"): Point("alarm", H("R1"), x=mm(1250), y=mm(4350), circuit=H("Q1")),
        H("B1"): Body("bed", H("R1"), mm(900), mm(1900), x=mm(3150), y=mm(1500), high=mm(600)),
        H("K1"): Control((H("S1"),), (LoadRef(H("A1")),)),
        H("K2"): Control((H("S2"),), (LoadRef(H("A2")),)),
        H("K3"): Control((H("S3"),), (LoadRef(H("F1"), "fan"),)),
    }
    return attached(require_valid(Drawing(items)), Mint(items))


def with_fields(drawing, handle, fields):
    """The drawing with fields of a thing set; of its fitting where they are named ``fitting.…``."""
    item = drawing.items[handle]
    for name, value in fields.items():
        if name.startswith("fitting."):
            fitting = msgspec.structs.replace(item.fitting or Fitting(), **{name.partition(".")[2]: value})
            item = msgspec.structs.replace(item, fitting=fitting)
        else:
            item = msgspec.structs.replace(item, **{name: value})
    items = {**drawing.items, handle: item}
    return attached(require_valid(Drawing(items)), Mint(items))


def told(drawing):
    """What is found in a drawing and is no pass: each rule with what it is of."""
    return {(f.rule.id, h) for f in check(derive(drawing)) if f.open for h in f.handles}


def of_type(hint):
    """What a type can hold: each value of its choices, both ends of its figures; nothing of names and of
    other things.
    """
    if typing.get_origin(hint) is typing.Annotated:
        inner, *metas = typing.get_args(hint)
        ends = next((m.extra for m in metas if getattr(m, "extra", None)), {})
        if "mm" in ends:
            return [mm(v) for v in ends["mm"]]
        if "from" in ends:
            return [inner(ends["from"]), inner(ends["to"])]
        return of_type(inner)
    if typing.get_origin(hint) is typing.Literal:
        return list(typing.get_args(hint))
    if hint is bool:
        return [False, True]
    if typing.get_origin(hint) in (typing.Union, types.UnionType):
        return [v for arm in typing.get_args(hint) for v in of_type(arm)]
    return []


def settable(kind):
    """Each field of a type of thing with what it can hold, where that can be counted."""
    hints = typing.get_type_hints(kind, include_extras=True)
    return {name: values for name, hint in hints.items() if (values := of_type(hint))}


def said(value):
    return value.typed if isinstance(value, Length) else str(value)


#: On what, which field, its value, and what it raises where North America's habits hold, and Britain's.
#: ``refused`` is not to be had at all. What is not listed raises nothing, and :data:`NONE` says why of each
#: field.
SINGLE = (
    ("A1", "kind", "switch", "refused", "refused"),
    ("A1", "kind", "outlet", "nail-on-face", ""),
    ("A1", "kind", "alarm", "refused", "refused"),
    ("A1", "kind", "fan", "fan-blades fan-clear", "fan-blades fan-clear"),
    ("A1", "kind", "junction", "refused", "refused"),
    ("A1", "kind", "blank", "refused", "refused"),
    ("A1", "wall", "200", "refused", "refused"),
    ("A1", "x", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("A1", "x", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("A1", "y", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("A1", "y", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("A1", "va", "20000.0", "circuit-load control-proven volt-drop", "circuit-load control-proven"),
    ("A1", "mount", "recessed", "recessed-insulated void-depth", "void-depth"),
    ("A1", "mount", "pendant", "pendant-clear", "pendant-clear"),
    ("A1", "mount", "outdoor", "box-reserve wet-rating", "outdoor-sealed"),
    ("A1", "exposure", "damp", "wet-rating", "outdoor-sealed"),
    ("A1", "exposure", "wet", "wet-rating", "outdoor-sealed"),
    ("O1", "kind", "light", "control-complete", "control-complete"),
    ("O1", "kind", "switch", "control-complete heights-match", "control-complete heights-match"),
    ("O1", "kind", "alarm", "alarm-linked alarm-wall", "alarm-linked"),
    ("O1", "kind", "fan", "fan-blades fan-clear sheet-blank", "fan-blades fan-clear sheet-blank"),
    ("O1", "wall", "0", "refused", "refused"),
    ("O1", "wall", "200", "refused", "refused"),
    ("O1", "at", "-1000 mm", "inside-room reachable", "inside-room reachable"),
    ("O1", "at", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("O1", "height", "-3000 mm", "inside-room reachable", "inside-room reachable"),
    ("O1", "height", "12000 mm", "inside-room reachable", "inside-room reachable"),
    ("O1", "edge", "top", "", "accessible-height"),
    ("O1", "va", "20000.0", "circuit-load", "circuit-load"),
    ("O1", "mount", "recessed", "void-depth", "void-depth"),
    ("O1", "mount", "pendant", "pendant-clear", "pendant-clear"),
    ("O1", "mount", "outdoor", "box-reserve", ""),
    ("S1", "kind", "light", "refused", "refused"),
    ("S1", "kind", "outlet", "refused", "refused"),
    ("S1", "kind", "alarm", "refused", "refused"),
    ("S1", "kind", "fan", "refused", "refused"),
    ("S1", "kind", "junction", "refused", "refused"),
    ("S1", "kind", "blank", "refused", "refused"),
    ("S1", "wall", "0", "refused", "refused"),
    ("S1", "wall", "200", "refused", "refused"),
    ("S1", "at", "-1000 mm", "inside-room reachable switch-latch", "inside-room reachable switch-latch"),
    ("S1", "at", "60000 mm", "inside-room reachable switch-latch", "inside-room reachable switch-latch"),
    (
        "S1",
        "height",
        "-3000 mm",
        "heights-match inside-room reachable",
        "heights-match inside-room reachable",
    ),
    (
        "S1",
        "height",
        "12000 mm",
        "heights-match inside-room reachable",
        "heights-match inside-room reachable",
    ),
    ("S1", "edge", "bottom", "heights-match", "accessible-height heights-match"),
    ("S1", "edge", "center", "heights-match", ""),
    ("S1", "edge", "top", "", "heights-match"),
    ("S1", "mount", "recessed", "void-depth", "void-depth"),
    ("S1", "mount", "pendant", "pendant-clear", "pendant-clear"),
    ("S1", "neutral", "no", "neutral-at-switch", ""),
    ("F1", "kind", "light", "refused", "refused"),
    ("F1", "kind", "switch", "refused", "refused"),
    ("F1", "kind", "outlet", "refused", "refused"),
    ("F1", "kind", "alarm", "refused", "refused"),
    ("F1", "kind", "junction", "refused", "refused"),
    ("F1", "kind", "blank", "refused", "refused"),
    ("F1", "wall", "200", "refused", "refused"),
    ("F1", "x", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("F1", "x", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("F1", "y", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("F1", "y", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("F1", "va", "20000.0", "circuit-load control-proven volt-drop", "circuit-load control-proven"),
    ("F1", "mount", "recessed", "recessed-insulated void-depth", "void-depth"),
    ("F1", "mount", "pendant", "pendant-clear", "pendant-clear"),
    ("F1", "mount", "outdoor", "fan-box wet-rating", "outdoor-sealed"),
    ("F1", "exposure", "damp", "wet-rating", "outdoor-sealed"),
    ("F1", "exposure", "wet", "wet-rating", "outdoor-sealed"),
    ("V1", "kind", "light", "control-complete", "alarm-rooms control-complete"),
    ("V1", "kind", "switch", "control-complete switch-handle", "alarm-rooms control-complete"),
    ("V1", "kind", "outlet", "volt-drop", "alarm-rooms"),
    ("V1", "kind", "fan", "fan-blades fan-clear sheet-blank", "alarm-rooms fan-blades fan-clear sheet-blank"),
    ("V1", "kind", "junction", "", "alarm-rooms"),
    ("V1", "kind", "blank", "", "alarm-rooms"),
    ("V1", "wall", "200", "refused", "refused"),
    ("V1", "x", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("V1", "x", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("V1", "y", "-20000 mm", "inside-room reachable", "inside-room reachable"),
    ("V1", "y", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("V1", "va", "20000.0", "circuit-load control-proven volt-drop", "circuit-load control-proven"),
    ("V1", "mount", "recessed", "recessed-insulated void-depth", "void-depth"),
    ("V1", "mount", "pendant", "pendant-clear", "pendant-clear"),
    ("V1", "sensing", "heat", "", "alarm-rooms"),
    ("V1", "sensing", "carbon monoxide", "", "alarm-rooms"),
    ("A1", "fitting.weight", "500.0", "fixture-weight", "fixture-weight"),
    ("F1", "fitting.weight", "500.0", "fan-box", "fixture-weight"),
    ("Q1", "breaker", "200", "breaker-feeds breaker-gauge", "breaker-feeds breaker-gauge"),
    ("Q1", "protection", "", "arc-fault", "residual"),
    ("Q1", "protection", "arc-fault", "", "residual"),
    ("Q1", "protection", "ground-fault", "arc-fault", "residual"),
    ("Q1", "protection", "both", "", "residual"),
    ("Q1", "protection", "residual", "arc-fault", ""),
    ("Q1", "way", "84", "panel-ways", "panel-ways"),
    ("Q1", "poles", "2", "", "refused"),
    ("Q1", "ring", "True", "refused", "ring-closed"),
    ("Q2", "breaker", "1", "circuit-load", "circuit-load"),
    (
        "Q2",
        "breaker",
        "200",
        "breaker-feeds breaker-gauge volt-drop",
        "breaker-feeds breaker-gauge volt-drop-other",
    ),
    ("Q2", "protection", "", "arc-fault", "residual"),
    ("Q2", "protection", "arc-fault", "", "residual"),
    ("Q2", "protection", "ground-fault", "arc-fault", "residual"),
    ("Q2", "protection", "both", "", "residual"),
    ("Q2", "protection", "residual", "arc-fault", ""),
    ("Q2", "way", "84", "panel-ways", "panel-ways"),
    ("Q2", "poles", "2", "", "refused"),
    ("Q2", "ring", "True", "refused", "ring-closed"),
    ("Q2", "lies", "", "", "breaker-gauge"),
    ("Q2", "lies", "103", "", "breaker-gauge"),
    ("K3", "device", "dimmer", "dimmer-loads", "dimmer-loads"),
    ("R1", "use", "kitchen", "", "alarm-heat"),
    ("R1", "use", "bath", "bath-drawn panel-place", "bath-drawn panel-place"),
    ("R1", "use", "stairs", "panel-place", ""),
    ("R1", "use", "closet", "panel-place", ""),
    ("R1", "use", "foyer", "foyer-outlet", ""),
    ("R1", "use", "outdoors", "box-reserve fan-box wet-rating", "outdoor-sealed"),
    ("R1", "use", "other", "room-used", "room-used"),
    ("R1", "height", "300 mm", "inside-room opening-fits reachable", "inside-room opening-fits reachable"),
    ("R1", "ceiling_closed", "True", "finished-surface", "finished-surface"),
    ("P1", "wall", "0", "refused", "refused"),
    ("P1", "wall", "200", "refused", "refused"),
    ("P1", "at", "-1000 mm", "inside-room reachable", "inside-room reachable"),
    ("P1", "at", "60000 mm", "inside-room reachable", "inside-room reachable"),
    ("P1", "height", "-3000 mm", "inside-room reachable", "inside-room reachable"),
    ("P1", "height", "12000 mm", "inside-room reachable", "inside-room reachable"),
    ("P1", "ways", "1", "panel-ways", "panel-ways"),
    ("D1", "wall", "0", "refused", "refused"),
    ("D1", "wall", "200", "refused", "refused"),
    ("D1", "at", "-1000 mm", "opening-fits switch-latch", "opening-fits switch-latch"),
    ("D1", "at", "60000 mm", "opening-fits switch-latch", "opening-fits switch-latch"),
    ("D1", "width", "100 mm", "switch-latch", "switch-latch"),
    ("D1", "width", "20000 mm", "inside-room opening-fits reachable", "inside-room opening-fits reachable"),
    ("D1", "head", "-3000 mm", "opening-fits", "opening-fits"),
    ("D1", "head", "12000 mm", "opening-fits", "opening-fits"),
    ("D1", "sill", "12000 mm", "opening-fits", "opening-fits"),
    ("D1", "hinge", "end", "behind-door switch-latch", "behind-door switch-latch"),
    ("B1", "kind", "fireplace", "", "alarm-gas-room"),
    ("B1", "kind", "bath", "", "bath-zones"),
    ("B1", "kind", "shower", "", "bath-zones"),
    ("B1", "kind", "cooker", "alarm-cooking", "alarm-cooking"),
    ("B1", "kind", "flue", "", "alarm-gas-room"),
    ("B1", "width", "60000 mm", "body-fits", "body-fits"),
    ("B1", "depth", "60000 mm", "body-fits", "body-fits"),
    ("B1", "wall", "200", "refused", "refused"),
    ("B1", "x", "-20000 mm", "body-fits", "body-fits"),
    ("B1", "x", "60000 mm", "body-fits", "body-fits"),
    ("B1", "y", "-20000 mm", "body-fits", "body-fits"),
    ("B1", "y", "60000 mm", "body-fits", "body-fits"),
    ("B1", "low", "12000 mm", "body-fits", "body-fits"),
    ("B1", "high", "-3000 mm", "body-fits", "body-fits"),
    ("C1", "measured", "10 mm", "free-conductor", "free-conductor"),
    ("C1", "measured", "500000 mm", "volt-drop", ""),
    ("C1", "load_side", "True", "load-side-there", "load-side-there"),
    ("C1", "gauge", "14", "", "refused"),
    ("C1", "gauge", "12", "", "refused"),
    ("C1", "gauge", "10", "", "refused"),
    ("C1", "gauge", "1.0", "refused", ""),
    ("C1", "gauge", "1.5", "refused", ""),
    ("C1", "gauge", "2.5", "refused", ""),
)

#: What meets in one rule: fields set together, and what both raise that neither does alone, by practice.
#: ``-`` is nothing.
TOGETHER = (
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "kitchen")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "bath")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "laundry")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "garage")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "basement")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "use", "outdoors")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("R1", "grade", "below")), "ground-fault", "-"),
    ((("Q2", "protection", "arc-fault"), ("Y1", "grade", "below")), "ground-fault", "-"),
    ((("O1", "kind", "alarm"), ("O1", "link", "radio")), "alarm-families", "alarm-families"),
    ((("Q2", "breaker", 20), ("Q2", "gauge", "14")), "breaker-gauge", "refused"),
    ((("Q2", "breaker", 32), ("Q2", "gauge", "2.5")), "refused", "breaker-gauge"),
    ((("Q1", "breaker", 30), ("Q1", "gauge", "10")), "breaker-feeds", "refused"),
    ((("Q1", "gauge", "2.5"), ("Q1", "breaker", 20)), "refused", "breaker-feeds"),
    ((("A1", "exposure", "wet"), ("A1", "fitting.rating", "damp")), "wet-rating", "outdoor-sealed"),
    ((("A1", "exposure", "wet"), ("A1", "fitting.ip", "IP20")), "wet-rating", "outdoor-sealed"),
    ((("A1", "mount", "outdoor"), ("A1", "fitting.ip", "IP33")), "wet-rating", "outdoor-sealed"),
    ((("A1", "exposure", "wet"), ("A1", "fitting.rating", "wet"), ("A1", "fitting.ip", "IP44")), "-", "-"),
    ((("A1", "exposure", "damp"), ("A1", "fitting.rating", "damp"), ("A1", "fitting.ip", "IP21")), "-", "-"),
    (
        (("A1", "mount", "recessed"), ("A1", "fitting.insulation_contact", False)),
        "recessed-insulated",
        "void-depth",
    ),
    ((("K1", "device", "sensor"), ("S1", "neutral", "no")), "neutral-at-switch", "-"),
    ((("R1", "use", "kitchen"), ("V1", "sensing", "heat")), "-", "-"),
    ((("R1", "use", "bed"), ("V1", "sensing", "heat")), "alarm-rooms", "alarm-storey"),
    ((("R1", "use", "bed"), ("V1", "sensing", "carbon monoxide")), "alarm-rooms", "alarm-storey"),
    ((("R1", "use", "bed"), ("V1", "kind", "blank")), "alarm-rooms", "alarm-storey"),
    ((("Q1", "gauge", "12"), ("Q1", "breaker", 20), ("C1", "gauge", "14")), "breaker-gauge", "refused"),
    ((("Q1", "breaker", 32), ("C1", "gauge", "1.0")), "refused", "breaker-gauge"),
    ((("B1", "kind", "sink"), ("Q2", "protection", "arc-fault"), ("B1", "y", mm(200))), "ground-fault", "-"),
    ((("B1", "kind", "bath"), ("B1", "x", mm(1100)), ("B1", "y", mm(1000))), "tub-rating", "bath-zones"),
    ((("B1", "kind", "flue"), ("R1", "use", "bed")), "alarm-gas", "alarm-gas-room"),
    (
        (("B1", "kind", "beam"), ("B1", "x", mm(1200)), ("B1", "y", mm(1000)), ("B1", "high", mm(2700))),
        "clear-of-bodies",
        "clear-of-bodies",
    ),
)

#: Why a field, or a value of it that is not listed, raises nothing by itself.
NONE = {
    Point: {
        "leg": "a circuit of one pole has one line; of two, both stand behind one handle",
        "lumens": "how bright it is, not what it takes",
        "beam": "where its light falls",
        "yoke": "told only of what sits in another's box",
        "link": "one family alone hears itself: the pairs have two",
        "protective": "more protection than is asked takes none away",
        "chain": "a chain on the light is no switch of the room",
        "continuous": "a quarter more of twelve VA; the load's own rule adds it up",
        "line": "where its outlet is joined, which its own rule follows",
        "by": "who put it there",
        "state": "how far it is",
        "kind": "as the room wants each",
        "wall": "the ceiling",
        "x": "",
        "y": "",
        "va": "nothing",
        "mount": "as its kind is usually mounted",
        "exposure": "only fittings hang in the wet; a box there is chosen for it",
        "at": "",
        "height": "",
        "edge": "to which edge of its box it was measured",
        "sensing": "what wakes whom is asked where people sleep",
        "neutral": "a neutral more is no danger",
    },
    Fitting: (
        {
            name: (
                "a measure of its body, which the rule of its mounting uses: see the pairs and the rules of"
                " layout"
            )
            for name in (
                "hole",
                "depth",
                "body_width",
                "body_height",
                "body_left",
                "body_below",
                "cords",
                "clearance",
                "shade",
                "blades",
                "downrod",
                "body_drop",
            )
        }
        | {
            "rating": "in the dry any will do",
            "insulation_contact": "asked where it is recessed",
            "weight": "light",
        }
    ),
    Circuit: {
        "breaker": "the least only trips early",
        "protection": "as this practice asks",
        "way": "one that is there",
        "poles": "both lines stand behind one handle",
        "ring": "no ring, and none said",
        "lies": "enough by this way",
    },
    Control: {
        "device": "lights alone hang on it, or a motor behind a contact",
        "style": "how it is wired, which the proof tries",
    },
    Room: {
        "x": "where it is drawn",
        "y": "where it is drawn",
        "floor": "a finish",
        "ceiling": "a finish",
        "above": "who can reach the ceiling's back",
        "below": "who can reach the floor's back",
        "work": "asks less of what stands already",
        "seen": "what a motion sensor sees",
        "grade": "all is protected: see the pairs",
        "use": "what this use asks is there",
        "height": "high",
        "ceiling_closed": "open",
    },
    Storey: {"level": "one storey is where it is", "grade": "all is protected: see the pairs"},
    Panel: {
        "amps": "the service is not this program's to size",
        "wall": "",
        "at": "",
        "height": "",
        "ways": "enough",
    },
    Cable: {
        "measured": "long enough, and not far",
        "load_side": "it has none",
        "by": "who laid it",
        "state": "how far it is",
    },
    Body: {
        "kind": "asks something only of what is near: see the pairs",
        "width": "wide",
        "depth": "deep",
        "wall": "on the floor",
        "at": "no wall",
        "x": "",
        "y": "",
        "sunk": "no wall",
        "low": "on the floor, or lower",
        "high": "as high as it is, or higher",
    },
    Opening: {
        "kind": "a way through, of any kind",
        "swing": "out of the room",
        "hinge": "as it hangs",
        "wall": "",
        "at": "",
        "width": "wide",
        "head": "",
        "sill": "",
    },
}
KINDS = {
    "A1": Point,
    "O1": Point,
    "S1": Point,
    "F1": Point,
    "V1": Point,
    "Q1": Circuit,
    "Q2": Circuit,
    "K1": Control,
    "K3": Control,
    "R1": Room,
    "Y1": Storey,
    "P1": Panel,
    "D1": Opening,
    "B1": Body,
    "C1": Cable,
}
PRACTICES = ("na", "gb")


@pytest.fixture(scope="module", params=PRACTICES)
def laid(request):
    drawing = base(request.param)
    return request.param, drawing, told(drawing)


def raised(drawing, before, sets):
    """The rules that are told of once the fields are set, and were not before; ``refused`` where they cannot
    be.
    """
    try:
        for handle, field, value in sets:
            drawing = with_fields(drawing, H(handle), {field: value})
    except (InvalidDrawing, KeyError):
        return {"refused"}
    return {rule for rule, _ in told(drawing) - before}


def cells(handle):
    """Each field of a thing, and of its fitting, with each value that it can have."""
    for name, values in settable(KINDS[handle]).items():
        yield from ((name, v) for v in values if name not in ("by", "state"))
    if handle == "C1":
        # Gauges are words, of whichever practice.
        yield from (("gauge", gauge) for gauge in ("14", "12", "10", "1.0", "1.5", "2.5"))
    if handle in ("A1", "F1"):
        for name, values in settable(Fitting).items():
            yield from ((f"fitting.{name}", v) for v in values)


@pytest.mark.parametrize("handle", KINDS)
def test_each_value_that_can_be_set_raises_what_the_table_says_and_nothing_else(laid, handle):
    practice, drawing, before = laid
    table = {(f, v): row[PRACTICES.index(practice)].split() for h, f, v, *row in SINGLE if h == handle}
    wrong = {}
    for field, value in cells(handle):
        found = raised(drawing, before, [(handle, field, value)])
        wanted = set(table.pop((field, said(value)), ()))
        if found != wanted:
            wrong[field, said(value)] = (sorted(found), sorted(wanted))
    assert wrong == {}
    assert table == {}, "values that the types no longer have"


@pytest.mark.parametrize(("sets", "na", "gb"), TOGETHER)
def test_what_meets_in_one_rule_raises_it(laid, sets, na, gb):
    practice, drawing, before = laid
    wanted = na if practice == "na" else gb
    found = raised(drawing, before, sets)
    if wanted != "-":
        assert wanted in found
        return
    alone = set().union(*(raised(drawing, before, [one]) for one in sets))
    assert found - alone <= {"volt-drop"}


def test_no_cell_is_empty():
    """Each field of each type stands in the table, or has its reason; what has a reason is a field."""
    for kind, reasons in NONE.items():
        fields = settable(kind)
        of_kind = {h for h, k in KINDS.items() if k is kind}
        listed = {
            f.removeprefix("fitting.")
            for h, f, *_ in SINGLE
            if (f.startswith("fitting.") if kind is Fitting else h in of_kind)
        }
        assert set(fields) <= listed | set(reasons), kind.__name__
        assert set(reasons) <= set(fields), kind.__name__
        for name, values in fields.items():
            told_of = {v for h, f, v, *_ in SINGLE if f.removeprefix("fitting.") == name}
            assert {said(v) for v in values} <= told_of or name in reasons, (kind.__name__, name)


@pytest.mark.parametrize("practice", PRACTICES)
def test_what_one_thing_raises_no_other_takes_away(practice):
    """Pairs at random: a danger or a breach that one value raises is still told when any other is set as
    well.
    """
    die, drawing = random.Random(f"pairs {practice} {OFTEN}"), base(practice)
    every = [(handle, field, value) for handle in KINDS for field, value in cells(handle)]

    def grave(*sets):
        found = drawing
        try:
            for handle, field, value in sets:
                found = with_fields(found, H(handle), {field: value})
        except (InvalidDrawing, KeyError):
            return None
        return {f.rule.id for f in check(derive(found)) if f.open and f.severity in ("danger", "breach")}

    tried, before = 0, grave()
    for _ in range(60 * OFTEN):
        # What stands already is excused by its room being left as it stands, and by nothing else.
        one, other = (s for s in die.sample([s for s in every if s[1] != "work"], 2))
        both = grave(one, other)
        if both is None or one[:2] == other[:2]:
            continue
        for alone in (one, other):
            assert (grave(alone) or set()) - before <= both, (one, other)
        tried += 1
    assert tried > 20
