"""What a house and a single question both judge, they judge alike: each idea stands in one place."""

import ast
import itertools
import json
import math
from pathlib import Path
from typing import get_args

import pytest

import fjeld
from fjeld.bench.questions import QUESTIONS
from fjeld.check import check
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.old_box import HeldKind
from fjeld.formats import jobfile
from fjeld.formats.questions import read
from fjeld.judge.fits import FitsAsked, holds
from fjeld.judge.rooms import least_outlets
from fjeld.judge.water import bath_zone
from fjeld.practice import load, rules
from fjeld.practice.devices import contacts_of, device, held_kinds, screw_marks, screws_of, worked

GB = load("gb")


def answer(name, practice, **asked):
    question, known = QUESTIONS[name], load(practice)
    return question.ask(read(json.dumps(asked).encode(), question.asked, known.unit), known)


def zone_by_hand(off, height, tray):
    """The zones as they are drawn in every book: a box over the tub, and a band around it."""
    if height > 2250:
        return 3
    if not tray:
        return 1 if off < 1200 else 3
    return 1 if off <= 0 else 2 if off < 600 else 3


@pytest.mark.parametrize("tray", [True, False])
def test_a_zone_is_one_in_a_house_and_on_the_bench(tray):
    """Every place of a grid, and each limit to either side by more and by less than a tape reads."""
    limits = [0, 600, 1200]
    offs = sorted({*range(0, 1500, 75), *(x + d for x in limits for d in (-2, 2) if x + d >= 0)})
    for off, height in itertools.product(offs, (0, 1000, 2248, 2252, 3000)):
        zone = bath_zone(off, height, GB, tray=tray)
        assert zone == zone_by_hand(off, height, tray), (off, height)
        told = answer(
            "water",
            "gb",
            what="light",
            by="tub" if tray else "shower without tray",
            away=f"{off} mm",
            up=f"{height} mm",
        )
        said = told.said[0]
        assert (said.tone == "passes") == (zone == 3), (off, height)
        assert zone == 3 or f"Zone {zone}" in said.words


@pytest.mark.parametrize("depth", [25, 30, 35, 40, 47, 60])
@pytest.mark.parametrize("socket", [False, True])
def test_a_british_box_takes_as_many_cables_in_a_house_as_on_the_bench(depth, socket):
    found = holds(FitsAsked(depth=depth, socket=socket), GB)
    known = [b for b in GB.catalogue.boxes if b.gangs == 1 and b.depth and b.depth <= depth]
    deepest = max(b.depth for b in known)
    assert {b.holds(socket) for b in known if b.depth == deepest} == {found}
    assert found == {25: (3, 2), 35: (4, 3), 47: (5, 5)}[deepest][socket]


def test_a_socket_takes_the_room_of_a_cable_in_a_house():
    """The box that is drawn says what it holds as it is used, and the finding goes by that."""
    loft_plan, met = derive(jobfile.decode(job_file("chandlers-loft"))), 0
    for box in loft_plan.boxes.values():
        sold = loft_plan.practice.catalogue.box(box.kind.id)
        socket = any(d.kind in ("outlet", "split outlet", "protective outlet") for d in box.devices)
        assert box.kind.volume == sold.holds(socket)
        met += sold.with_socket is not None and socket and sold.with_socket < sold.volume
    assert met
    fill = {f.handles[0]: f for f in check(loft_plan) if f.rule.id == rules.BOX_CABLES.id}
    assert all(fill[h].limit == b.kind.volume for h, b in loft_plan.boxes.items() if h in fill)


@pytest.mark.parametrize("feet", [2, 12, 24, 24.001, 25, 36, 37])
def test_the_outlets_of_a_wall_are_as_many_wherever_they_are_asked_for(feet):
    reach, length = load("na")[rules.OUTLET_REACH], feet * 304.8
    by_hand = next(n for n in range(100) if n * 2 * reach >= length - 0.5)
    assert least_outlets(length, reach) == by_hand == math.ceil((length - 0.5) / (2 * reach))


def test_what_is_found_in_old_boxes_is_in_the_table_and_nothing_else():
    assert set(held_kinds()) == set(get_args(HeldKind))
    for name, kind in held_kinds().items():
        assert device(name) is kind
        assert {s.at for s in kind.screws if s.at} <= {t.name for t in kind.terminals}
        assert kind.letter
        assert set(kind.becomes) <= {"same", "dimmer", "sensor", *held_kinds()}
        for a, b, _ in contacts_of(name):
            assert {a, b} <= set(screws_of(name))
        for practice in ("na", "gb"):
            assert [*screw_marks(name, practice)] == [*screws_of(name)]
    assert [k for k in held_kinds() if worked(k)] == ["switch", "three-way", "four-way"]


def test_a_contact_of_the_table_is_one_of_the_old_box():
    """By what a switch joins: a three-way its common to one of two, a four-way its pairs straight
    or crossed.
    """
    assert contacts_of("switch") == (("a", "b", 1),)
    assert set(contacts_of("three-way")) == {("common", "t1", 0), ("common", "t2", 1)}
    straight, crossed = ({(a, b) for a, b, at in contacts_of("four-way") if at == n} for n in (0, 1))
    assert straight == {("a1", "b1"), ("a2", "b2")}
    assert crossed == {("a1", "b2"), ("a2", "b1")}
    assert {at for _, _, at in contacts_of("protective")} == {None}


#: What takes as many as there are, one after another; and the symbols of the floor, a table of one form.
BY_PLACE = {
    "looks_at",
    "remember",
    "remember.same",
    "self._remember.same",
    "clauses",
    "TypeVar",
    "shape",
    "log.log",
    "Count",
    "SYMBOLS[placed.kind]",
}
CORE = Path(fjeld.__file__).parent


def test_more_than_five_arguments_are_given_by_name():
    """What is handed over by its place alone is soon handed over in another's."""
    wide = []
    for file in sorted(CORE.rglob("*.py")):
        for call in ast.walk(ast.parse(file.read_text())):
            if isinstance(call, ast.Call) and len(call.args) > 5 and ast.unparse(call.func) not in BY_PLACE:
                wide.append(f"{file.relative_to(CORE)}:{call.lineno} {ast.unparse(call.func)}")
    assert wide == []


#: What each waypoint has of its own under the same name, and what the framework names.
EACH_HAS = {"Dock", "Workings", "Migration", "Command", "Meta"}


def test_a_class_has_its_name_to_itself():
    """One name, one thing: a reader who meets a name knows which is meant."""
    where = {}
    for path in sorted(Path(fjeld.__file__).parent.rglob("*.py")):
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef) and node.name not in EACH_HAS:
                where.setdefault(node.name, []).append(path.name)
    assert len(where) > 400
    assert {name: paths for name, paths in where.items() if len(paths) > 1} == {}


#: What asks and goes one way or another, each once; a chain of and or or as often as it may turn.
DECIDES = (ast.If, ast.IfExp, ast.For, ast.While, ast.ExceptHandler, ast.comprehension, ast.match_case)


def within(node):
    """The parts of a function, without those of functions that it holds, which are counted by themselves."""
    for child in ast.iter_child_nodes(node):
        yield child
        if not isinstance(child, ast.FunctionDef | ast.AsyncFunctionDef):
            yield from within(child)


def decisions(function):
    """One, and one for each place where a function goes one way or another."""
    found = 1
    for node in within(function):
        found += isinstance(node, DECIDES)
        found += len(node.values) - 1 if isinstance(node, ast.BoolOp) else 0
        found += len(node.ifs) if isinstance(node, ast.comprehension) else 0
    return found


def test_no_function_decides_more_than_a_screen_holds():
    counted = {
        f"{file.relative_to(CORE)}:{node.lineno} {node.name}": decisions(node)
        for file in sorted(CORE.rglob("*.py"))
        for node in ast.walk(ast.parse(file.read_text()))
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
    }
    assert len(counted) > 2000
    assert {name: n for name, n in counted.items() if n > 20} == {}
    assert len([name for name, n in counted.items() if n > 15]) <= 20


def test_decisions_are_counted_as_they_are_met():
    (function,) = ast.parse(
        "def f(a, b):\n"
        "    if a and b or not a:\n"
        "        return [x for x in a if x if b]\n"
        "    return 1 if a else 2\n"
    ).body
    assert decisions(function) == 1 + 1 + 2 + 3 + 1
