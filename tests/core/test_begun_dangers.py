"""A table of dangers beside the first: what begins in an old box, two rooms that one opening joins, a drawing
that is traced, and what holds for the whole house. Each value that can be set, and the finding that it must
raise.
"""

import typing

import msgspec
import pytest

from fjeld.check import check
from fjeld.derive.plan import derive
from fjeld.drawing.building import Join, Polyline, Room, Side, Underlay
from fjeld.drawing.handles import HOUSE, Mint
from fjeld.drawing.model import Circuit, Control, Drawing, House, LoadRef, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import InvalidDrawing, require_valid
from fjeld.propose.attach import attached
from tests.core.test_dangers import PRACTICES, H, base, mm, raised, said, settable, told, with_fields
from tests.core.test_errand_dangers import words_of
from tests.old_boxes import found_cable


def begun(practice):
    """The living room with a second room behind its door, whose light and outlet begin in an old box that was
    read and looked at.
    """
    gb = practice == "gb"
    dark, light = ("brown", "blue") if gb else ("black", "white")
    found = found_cable(
        1,
        (dark, "joint 1", "line", True),
        (light, "joint 2", "neutral", True),
        ("bare", "joint 3", "ground", True),
        gauge="2.5" if gb else "12",
    )
    first = base(practice)
    items = {
        **first.items,
        H("R2"): Room(
            "Den",
            tuple(Side(float(b), mm(s)) for b, s in ((90, 3000), (180, 3000), (270, 3000), (0, 3000))),
            "hall",
            H("Y1"),
        ),
        H("J1"): Join(H("D1"), H("R2"), 4, mm(1200)),
        H("E1"): OldBox(
            H("R2"),
            1,
            mm(1500),
            mm(450),
            holds="outlet",
            volume=None if gb else 40.0,
            depth=47 if gb else None,
            cables=(found,),
            breaker="7",
            breaker_read=True,
            beside=100.0,
            clamps=False,
            place="outlet",
            material="plastic",
            ground="present",
            condition="sound",
            serves="lighting" if gb else "general",
            amps=16 if gb else 20,
            opening=True,
            accessible=True,
            alone=True,
            fixing="screwed",
            free=mm(230),
            sheath=mm(12),
            past=mm(100),
            setback=mm(0),
            marked=0.0,
            dies="the den",
            ahead="ground-fault" if gb else "both",
            listed=False,
            clear=mm(370),
            slack=mm(0),
        ),
        H("Q3"): Circuit(
            "Den",
            16 if gb else 20,
            "2.5" if gb else "12",
            "residual" if gb else "both",
            source=H("E1"),
            found="1",
            lies="C" if gb else "",
        ),
        H("A8"): Point("light", H("R2"), x=mm(1500), y=mm(1500), va=12, circuit=H("Q3")),
        H("S8"): Point("switch", H("R2"), 4, mm(900), mm(1200 if gb else 1168)),
        H("K8"): Control((H("S8"),), (LoadRef(H("A8")),)),
        H("U1"): Underlay("plan.dxf", (Polyline("WALLS", ((0.0, 0.0), (3000.0, 0.0), (3000.0, 3000.0))),)),
    }
    return attached(require_valid(Drawing(items)), Mint(items))


KINDS = {"J1": Join, "E1": OldBox, "U1": Underlay, HOUSE: House}


def cells(handle, practice):
    """Each field with each value that it can have, and with none where it can be left open."""
    hints = typing.get_type_hints(KINDS[handle], include_extras=True)
    for name, values in settable(KINDS[handle]).items():
        yield from ((name, v) for v in values)
        if type(None) in typing.get_args(hints[name]):
            yield name, None
    if handle == "E1":
        for name in ("serves", "fixing", "size"):
            yield from ((name, v) for v in words_of("box", name, practice))


#: On what, which field, its value, and what it raises in North America's practice, and in Britain's;
#: ``refused`` is not to be had.
SINGLE = (
    ("J1", "wall", "0", "refused", "refused"),
    ("J1", "wall", "200", "refused", "refused"),
    ("J1", "at", "-1000 mm", "opening-fits switch-latch", "opening-fits switch-latch"),
    ("J1", "at", "60000 mm", "opening-fits switch-latch", "opening-fits switch-latch"),
    ("E1", "wall", "0", "refused", "refused"),
    ("E1", "wall", "200", "refused", "refused"),
    ("E1", "at", "-1000 mm", "reachable", "reachable"),
    ("E1", "at", "60000 mm", "reachable", "reachable"),
    ("E1", "at", "None", "refused", "refused"),
    ("E1", "height", "-3000 mm", "reachable", "reachable"),
    ("E1", "height", "12000 mm", "reachable", "reachable"),
    ("E1", "volume", "0.0", "box-fill", ""),
    ("E1", "volume", "None", "box-fill", ""),
    ("E1", "gangs", "8", "box-fill", ""),
    ("E1", "breaker_read", "False", "source-breaker", "source-breaker"),
    ("E1", "beside", "20000.0", "source-load", "source-load"),
    ("E1", "beside", "None", "source-load", "source-load"),
    ("E1", "material", "none", "source-state", "source-state"),
    ("E1", "ground", "", "source-state", "source-state"),
    ("E1", "ground", "none", "source-state", "source-state"),
    ("E1", "condition", "", "source-state", "source-state"),
    ("E1", "condition", "aluminium", "source-state", "source-state"),
    ("E1", "condition", "cracked", "source-state", "source-state"),
    ("E1", "condition", "cloth", "source-state", "source-state"),
    ("E1", "condition", "knob and tube", "source-state", "source-state"),
    ("E1", "condition", "scorched", "source-state", "source-state"),
    ("E1", "amps", "1", "source-breaker", "source-breaker"),
    ("E1", "amps", "600", "breaker-gauge source-breaker", "breaker-gauge source-breaker"),
    ("E1", "opening", "False", "source-state", "source-state"),
    ("E1", "opening", "None", "source-state", "source-state"),
    ("E1", "accessible", "False", "source-state", "source-state"),
    ("E1", "accessible", "None", "source-state", "source-state"),
    ("E1", "alone", "False", "source-state", "source-state"),
    ("E1", "alone", "None", "source-state", "source-state"),
    ("E1", "setback", "5000 mm", "source-state", "source-state"),
    ("E1", "ahead", "", "source-protected", "source-protected"),
    ("E1", "ahead", "none", "source-protected", "source-protected"),
    ("E1", "ahead", "arc-fault", "source-protected", "source-protected"),
    ("E1", "ahead", "ground-fault", "source-protected", ""),
    ("E1", "serves", "small appliance", "source-state", ""),
    ("E1", "serves", "laundry", "source-state", ""),
    ("E1", "serves", "bathroom", "source-state", ""),
    ("E1", "serves", "one bathroom", "source-state", ""),
    ("E1", "serves", "garage", "source-state", ""),
    ("E1", "serves", "individual", "source-state", ""),
    ("E1", "serves", "alarms", "source-state", "source-state"),
    ("E1", "serves", "ring", "", "source-state"),
    ("E1", "serves", "radial 20", "", "source-state"),
    ("E1", "serves", "spur", "", "source-state"),
    ("E1", "serves", "cooker", "", "source-state"),
    ("E1", "serves", "shower", "", "source-state"),
    ("E1", "serves", "immersion", "", "source-state"),
)

#: Why a field, or a value of it that is not listed, raises nothing by itself.
NONE = {
    Join: {
        "wall": "one that faces the other",
        "at": "one at which the two sides meet",
        "thick": "how far the rooms stand apart: the one is put where it must be",
    },
    OldBox: {
        "wall": "one of the room's",
        "at": "",
        "x": "it is on a wall",
        "y": "it is on a wall",
        "height": "",
        "gangs": "as many as it has",
        "volume": "enough",
        "breaker_read": "it was seen",
        "beside": "little",
        "clamps": "a count more, which the sum of the box has",
        "place": "what it is, which nothing hangs on here",
        "material": "one that is bonded, or plastic",
        "ground": "there",
        "condition": "sound",
        "serves": "one that may feed lights",
        "amps": "as drawn",
        "opening": "there",
        "accessible": "it does",
        "alone": "it is",
        "setback": "flush",
        "ahead": "as drawn",
        "size": "of a metal one, whose count its sum has",
        "fixing": "it stays where it is",
        "free": "what its wires are long is asked where one works at them",
        "past": "the same",
        "sheath": "the same",
        "slack": "the same",
        "marked": "nothing is hung on it",
        "listed": "nothing is hung on it",
        "clear": "nothing is hung on it",
    },
    Underlay: {"scale": "how large it is drawn: no room is made by it"},
    House: {
        "unit": "in what is shown",
        "feed": "the order in which things are fed, which the proof tries",
        "two_position": "how two switches are wired, which the proof tries",
        "joining": "tails or terminals",
        "connectors": "what joins",
        "neutrals": "more of them",
        "measure_from": "from where the person measures",
    },
}


@pytest.mark.parametrize("practice", PRACTICES)
@pytest.mark.parametrize("handle", KINDS)
def test_each_value_raises_what_the_table_says_and_nothing_else(handle, practice):
    drawing = begun(practice)
    before = told(drawing)
    assert not [rule for rule, h in before if h == "E1" and rule.startswith("source")]
    table = {(f, v): row[PRACTICES.index(practice)].split() for h, f, v, *row in SINGLE if h == handle}
    wrong = {}
    for field, value in cells(handle, practice):
        found = raised(drawing, before, [(handle, field, value)])
        if found != (wanted := set(table.pop((field, said(value)), ()))):
            wrong[field, said(value)] = (sorted(found), sorted(wanted))
    assert wrong == {}
    assert not any(table.values()), "values that the types no longer have"


def test_no_cell_is_empty():
    for handle, kind in KINDS.items():
        listed = {f for h, f, *_ in SINGLE if h == handle}
        for name, _ in cells(handle, "na"):
            assert name in NONE[kind] or name in listed, (kind.__name__, name)
        assert set(NONE[kind]) <= {n for p in PRACTICES for n, _ in cells(handle, p)} | listed


@pytest.mark.parametrize(
    ("field", "value", "grade"),
    [
        ("condition", "aluminium", "danger"),
        ("ground", "none", "danger"),
        ("material", "none", "danger"),
        ("accessible", False, "danger"),
        ("serves", "alarms", "danger"),
        ("opening", False, "breach"),
        ("setback", mm(30), "breach"),
        ("alone", False, "advice"),
        ("alone", None, "ask"),
        ("condition", "", "ask"),
    ],
)
@pytest.mark.parametrize("practice", PRACTICES)
def test_how_grave_what_is_seen_in_an_old_box_is(practice, field, value, grade):
    drawing = with_fields(begun(practice), H("E1"), {field: value})
    found = [f for f in check(derive(drawing)) if f.rule.id == "source-state" and f.open]
    assert [f.severity for f in found] == [grade]


def test_what_is_wanted_of_a_circuit_is_asked_for_each_thing_that_hangs_on_it():
    """A circuit of alarms may feed an alarm and no light: the light is told, whatever else is on it."""
    drawing = begun("na")
    alarm = Point("alarm", H("R2"), x=mm(800), y=mm(800), circuit=H("Q3"))
    items = {
        **drawing.items,
        H("V9"): alarm,
        H("E1"): msgspec.structs.replace(drawing.items[H("E1")], serves="alarms"),
    }
    both = attached(require_valid(Drawing(items)), Mint(items))
    words = [f.words for f in check(derive(both)) if f.rule.id == "source-state" and f.open]
    assert len(words) == 1
    assert "alarm" in words[0]


@pytest.mark.parametrize("practice", PRACTICES)
def test_a_circuit_begins_with_a_cable_that_its_old_box_has(practice):
    """A name that no cable of the box bears is refused, and so is any where a circuit begins in a panel."""
    drawing = begun(practice)
    (old,) = (h for h, c in drawing.of(Circuit).items() if c.source == "E1")
    panel = next(h for h, c in drawing.of(Circuit).items() if not c.source)
    for circuit, name in ((old, "9"), (panel, "1")):
        with pytest.raises(InvalidDrawing, match=f"no cable {name} where {circuit} begins"):
            with_fields(drawing, circuit, {"found": name})
    assert with_fields(drawing, old, {"found": "1"}) == drawing
