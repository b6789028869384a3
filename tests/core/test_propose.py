"""Stops, groups, cables for new points, materials, and the words typed while walking."""

import contextlib
import itertools
import math
from collections import Counter

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.check import check
from fjeld.derive.intents import circuit_boxes
from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Opening, Panel, Room
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Place, Revise
from fjeld.drawing.edits.survey import WalkSide
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Cable, Circuit, Control, Drawing, Point
from fjeld.formats.words import Misread, Walk, next_bearing, read
from fjeld.propose import groups
from fjeld.propose.attach import attached, settle
from fjeld.propose.fixes import fix
from fjeld.propose.stops import beside_door, by_distance, ceiling_stops, wall_stops
from fjeld.quantities import FOOT, Length, UnreadableLength
from tests.houses import inches, one_room
from tests.often import often

seeds = st.integers(0, 300)


# --- stops ------------------------------------------------------------------------


@given(seeds)
@often(15)
def test_every_stop_on_a_wall_is_clear_and_says_both_distances(seed):
    plan = derive(one_room(seed))
    for handle, placed in plan.placed.items():
        if not placed.wall or placed.kind == "panel":
            continue
        wall = plan.rooms[placed.room].walls[placed.wall - 1]
        found = wall_stops(plan, handle)
        assert [s.at for s in found] == sorted(s.at for s in found)
        for stop in found:
            assert placed.width / 2 - 0.6 <= stop.at <= wall.length - placed.width / 2 + 0.6
            if stop.why != "middle of the wall":
                assert min(abs(stop.at - s) for s in wall.studs) >= placed.width / 2 + 19.05 - 0.6
            assert stop.label.count("|") == 1
            for opening in plan.drawing.of(Opening).values():
                if opening.wall == placed.wall and opening.sill.mm < placed.position[2] < opening.head.mm:
                    assert not opening.at.mm < stop.at < opening.at.mm + opening.width.mm


@given(seeds, st.sampled_from([0, 1]))
@often(15)
def test_stops_on_the_ceiling_clear_the_joists_unless_they_line_up(seed, axis):
    plan = derive(one_room(seed))
    handle = next(h for h, p in plan.placed.items() if not p.wall)
    where = plan.rooms["R1"]
    for stop in ceiling_stops(plan, handle, axis):
        if not stop.why and where.joist_axis == axis:
            assert min(abs(stop.at - j) for j in where.joists) >= 50.8 + 19.05 - 0.6


def test_stops_come_by_distance(boot_plan):
    found = wall_stops(boot_plan, "O1")
    away = [abs(stop.at - 1000) for stop in by_distance(found, 1000)]
    assert len(away) == len(found)
    assert away[0] == min(abs(s.at - 1000) for s in found)
    assert all(a <= b for a, b in itertools.pairwise(away))
    assert by_distance([], 5) == []


@pytest.mark.parametrize("hinge", ["start", "end"])
def test_a_switch_goes_on_the_latch_side(boot_room, hinge):
    drawing = apply(boot_room, Revise("D1", {"hinge": hinge}).plan(boot_room))
    plan = derive(drawing)
    wall, at = beside_door(plan, "D1", "R1", 58)
    door = drawing.get("D1", Opening)
    latch = door.at.mm + (door.width.mm if hinge == "start" else 0)
    if wall == door.wall:
        assert abs(at - latch) <= 150
        assert (at > latch) == (hinge == "start")


@pytest.mark.parametrize("inches_along", range(20, 52))
def test_a_switch_beside_a_door_meets_no_stud_wherever_the_door_stands(boot_room, inches_along):
    """The king stud falls anywhere between the common studs; the box then stands at the next one's side."""
    drawing = apply(boot_room, Revise("D1", {"at": inches(inches_along), "hinge": "start"}).plan(boot_room))
    plan = derive(drawing)
    wall, at = beside_door(plan, "D1", "R1", 58)
    door = drawing.get("D1", Opening)
    assert wall == door.wall
    studs = plan.rooms["R1"].walls[wall - 1].studs
    assert all(abs(at - stud) >= 29 + 19.05 - 0.6 for stud in studs)
    assert 0 < at - (door.at.mm + door.width.mm) <= 105 + 400


# --- circuits and cables ---------------------------------------------------------------


def without_circuits(drawing):
    items = {}
    for handle, item in drawing.items.items():
        if isinstance(item, Circuit | Cable):
            continue
        items[handle] = (
            item
            if not isinstance(item, Point)
            else Point(**{**{f: getattr(item, f) for f in item.__struct_fields__}, "circuit": None})
        )
    return Drawing(items)


@given(seeds)
@often(15)
def test_proposed_circuits_take_every_load_within_their_breaker(seed):
    bare = without_circuits(one_room(seed))
    edit = groups.propose(derive(bare), Mint(bare.items))
    after = derive(apply(bare, settle(bare, edit, Mint(bare.items))))
    assert all(p.circuit for p in after.drawing.of(Point).values() if p.kind != "switch")
    for circuit in after.circuits.values():
        assert circuit.figures.load.total <= 0.8 * circuit.circuit.breaker + 1e-6 or len(circuit.boxes) <= 8
        assert circuit.figures.outlets <= 13
    for control in after.drawing.of(Control).values():
        assert len({after.drawing.get(load.point, Point).circuit for load in control.loads}) == 1, (
            "a control stays whole"
        )
    alarms = {p.circuit for p in after.drawing.of(Point).values() if p.kind == "alarm"}
    assert len(alarms) <= 1, "alarms stay together"
    assert groups.propose(after, Mint(after.drawing.items)) is None


@given(seeds)
@often(15)
def test_a_new_light_is_joined_at_once_and_no_other_cable_is_touched_but_the_one_it_splits(seed):
    drawing = one_room(seed)
    circuit = next(q for q in drawing.of(Circuit))
    fresh = Mint(drawing.items).fresh("light")
    light = Point("light", "R1", x=inches(50), y=inches(50), circuit=circuit)
    after = apply(drawing, settle(drawing, Place({fresh: light}, "a light"), Mint(drawing.items)))
    joined = [c for c in after.of(Cable).values() if fresh in (c.a, c.b)]
    assert joined
    changed = [h for h, c in drawing.of(Cable).items() if after.items.get(h) != c]
    assert len(changed) <= 1
    assert not derive(after).circuits[circuit].tree.unfed


@given(seeds)
@often(15)
def test_fed_at_the_switch_the_first_box_of_a_control_is_a_switch(seed):
    drawing = one_room(seed)
    if drawing.house.feed != "switch":
        return
    plan = derive(drawing)
    for control in drawing.of(Control).values():
        circuit = plan.circuits[plan.drawing.get(control.loads[0].point, Point).circuit]
        above = {e.down: e.up for e in circuit.tree.edges}
        for load in control.loads:
            box, way = load.point, []
            while box in above:
                box = above[box]
                way.append(box)
            assert set(way) & set(control.positions), (control, way)


def test_without_a_panel_nothing_is_laid(boot_room):
    items = {h: i for h, i in boot_room.items.items() if not isinstance(i, Panel | Cable)}
    assert not attached(Drawing(items), Mint(items)).of(Cable)


# --- materials -----------------------------------------------------------------------------


@given(seeds)
@often(15)
def test_the_list_counts_every_part_once(seed):
    plan = derive(one_room(seed))
    listed = {m.part: m.count for m in plan.materials}
    points = plan.drawing.of(Point)
    assert sum(n for part, n in listed.items() if part.startswith("box:")) == len(points)
    for kind in ("light", "fan", "alarm", "outlet"):
        assert listed.get(kind, 0) == sum(p.kind == kind for p in points.values())
    switches = sum(len(c.positions) for c in plan.drawing.of(Control).values())
    assert sum(listed.get(k, 0) for k in ("switch", "switch-three-way", "switch-four-way")) == switches
    feet = Counter()
    for run in plan.runs():
        feet[f"cable:{run.kind.id}"] += plan.cables[run.cable].length / FOOT
    assert {p: n for p, n in listed.items() if p.startswith("cable:")} == pytest.approx(dict(feet), abs=0.01)
    # Two cables of one edge are stapled each on its own.
    assert listed.get("staple", 0) == sum(len(plan.cables[r.cable].staples) for r in plan.runs())
    caps = sum(len(j.connectors) for b in plan.boxes.values() for j in b.joints)
    assert sum(n for part, n in listed.items() if part.startswith("connector:")) == caps
    assert sum(n for part, n in listed.items() if part.startswith("breaker")) == len(plan.drawing.of(Circuit))
    assert listed.get("fire-stop", 0) == sum(h.member == "plate" for h in plan.holes)
    for material in plan.materials:
        assert material.total_cents == round(material.count * material.cents)
        assert material.handles


def test_each_box_belongs_to_the_circuits_of_its_loads(boot_room):
    members = circuit_boxes(boot_room)
    assert {"S1", "S2", "A1"} <= set(members["Q1"])
    assert {"S3", "O5"} <= set(members["Q2"])


# --- words ----------------------------------------------------------------------------------


def walk(drawing, bearing=90.0):
    return Walk(drawing, Handle("R1"), bearing)


@pytest.mark.parametrize(
    ("words", "kind"),
    [
        ("12'4", WalkSide),
        ("/12'4", WalkSide),
        ("S 10'", WalkSide),
        ("n 3 m", WalkSide),
        ("door 32 at 4'2", Place),
        ("WINDOW 36 at 3' sill 30 head 80 on 2", Place),
        ("cased 36 at 3' on 1", Place),
        ("panel at 2' on 4 amps 200 ways 40", Place),
        ("height 8'2", Revise),
        ("joists ew 24 first 10 deep 11 1/4", Revise),
        ("studs 24 first 5 deep 5 1/2", Revise),
    ],
)
def test_words_are_edits(boot_room, words, kind):
    edit = read(words, walk(boot_room), Mint(boot_room.items))
    assert isinstance(edit, kind)
    after = apply(boot_room, edit.plan(boot_room))
    assert after != boot_room or kind is Revise


@pytest.mark.parametrize(
    ("words", "high"),
    [
        ("duct 8 by 9' east 3' south 0 low 7'", "ceiling"),
        ("duct 8 by 9' east 3' south 0 low 9'", "above"),
        ("duct 8 by 9' east 3' south 0 low 7' high 7'6", inches(90).mm),
        ("counter 6' by 25 at 0 on 2", inches(36).mm),
    ],
)
def test_what_hangs_reaches_the_ceiling_unless_it_is_said_how_high(boot_room, words, high):
    edit = read(words, walk(boot_room), Mint(boot_room.items))
    (made,) = (change.value for change in edit.plan(boot_room))
    ceiling = boot_room.get("R1", Room).height.mm
    assert made.high.mm > made.low.mm
    if high == "above":
        assert made.low.mm > ceiling
    else:
        assert made.high.mm == pytest.approx(ceiling if high == "ceiling" else high)


@given(st.text(max_size=24))
def test_any_words_are_read_or_refused(boot_room, words):
    with contextlib.suppress(Misread, UnreadableLength):
        assert read(words, walk(boot_room), Mint(boot_room.items)).plan(boot_room) is not None


def test_each_wall_turns_right_of_the_last(boot_room):
    room = boot_room.get("R1", Room)
    assert next_bearing(room) == math.fmod(room.sides[-1].bearing + 90, 360)
    assert next_bearing(Room("x")) == 90


def test_a_pair_beside_a_bed_is_moved_clear_as_a_pair(boot_room):
    """Wherever a mirrored pair meets the studs, the fix takes both, clears both, and leaves them mirrored."""
    bed = Body("bed", "R1", Length(900.0), Length(2200.0), wall=1, at=Length(600.0), high=Length(500.0))
    with_bed = apply(boot_room, Place({"B9": bed}, "a bed").plan(boot_room))
    block = derive(with_bed).blocks["B9"]
    middle = (block.start + block.end) / 2
    mended = 0
    for off in range(310, 720, 50):
        lights = {
            f"A{80 + n}": Point(
                "light",
                "R1",
                1,
                Length(middle + side * off),
                Length(1060.0),
                "center",
                mount="wall",
                over="B9",
            )
            for n, side in enumerate((-1, 1))
        }
        drawing = apply(with_bed, Place(lights, "a pair").plan(with_bed))
        plan = derive(drawing)
        for finding in _clashes(plan, lights):
            moved = derive(apply(drawing, fix(plan, finding, Mint(drawing.items)).plan(drawing)))
            left, right = (moved.placed[h].along - middle for h in lights)
            assert left == pytest.approx(-right, abs=0.1)
            assert not _clashes(moved, lights)
            mended += 1
    assert mended > 2


def _clashes(plan, lights):
    return [f for f in check(plan) if f.open and f.rule.id == "clear-of-framing" and f.handles[0] in lights]


# --- a switch for the light of a room -------------------------------------------------


def unswitched(seed, *, switch, light):
    """A bed room whose light nothing works; with or without a switch that works nothing, and with no light at
    all.
    """
    drawing = one_room(seed)
    items = {
        h: item
        for h, item in drawing.items.items()
        if not isinstance(item, Control | Cable)
        and not (isinstance(item, Point) and item.kind in ("switch", "light", "fan"))
    }
    room = min(drawing.of(Room))
    items[room] = msgspec.structs.replace(drawing.get(room, Room), use="bed")
    if light:
        items[Handle("A9")] = Point(
            "light", room, x=inches(60), y=inches(60), va=9.0, circuit=min(drawing.of(Circuit))
        )
    plan = derive(Drawing(items))
    if switch:
        door = next(h for h, o in plan.openings[room].items() if o.kind == "door")
        wall, along = beside_door(plan, door, room, 60.0)
        items[Handle("S9")] = Point("switch", room, wall, Length(along))
    return Drawing(attached(Drawing(items), Mint(items)).items), room


@pytest.mark.parametrize("light", [True, False])
@pytest.mark.parametrize("switch", [True, False])
def test_a_switch_that_works_nothing_is_the_one_that_is_offered(switch, light):
    drawing, room = unswitched(4, switch=switch, light=light)
    plan = derive(drawing)
    finding = next(f for f in check(plan) if f.open and f.rule.id == "switched-light" and room in f.handles)
    edit = fix(plan, finding, Mint(drawing.items))
    assert edit is not None
    after = apply(drawing, settle(drawing, edit, Mint(drawing.items)))
    switches = [h for h, p in after.of(Point).items() if p.kind == "switch"]
    assert len(switches) == 1, "no second one in its place"
    assert len([p for p in after.of(Point).values() if p.kind == "light"]) == 1
    assert [c.positions for c in after.of(Control).values()] == [(switches[0],)]
    assert ("Let S9 work" in edit.words(drawing)) == switch
    assert not [f for f in check(derive(after)) if f.open and f.rule.id == "boxes-apart"]
