"""A table of what each answer on the bench raises: every value of each choice, blank, nothing, too much and
less than nothing for each figure, on a question that is otherwise answered as usual, in both practices.

The same functions answer the command line. Each cell stands in ``bench_dangers.csv`` by how grave what is
said is; ``not asked`` is refused in words. None ends in a fault of the program.
"""

import csv
import types
import typing
from pathlib import Path

import pytest

from fjeld.bench.open_framing import DropStretchAsked
from fjeld.bench.questions import QUESTIONS
from fjeld.drawing.building import RoomUse
from fjeld.judge.answer import NotAsked
from fjeld.judge.work import LoadItem
from fjeld.practice import load
from fjeld.practice.finished import minutes
from fjeld.practice.finished.sources import sources
from fjeld.quantities import Length

PRACTICES = ("na", "gb")


def mm(value):
    return Length(float(value))


def usual(practice):
    """Each question as one would ask it, in a practice's own sizes."""
    gb = practice == "gb"
    gauge, box = ("2.5", "dry-lining-1") if gb else ("14", "cut-in-1")
    return {
        "fits": {
            "cables": (f"{gauge}/2",),
            "add": (f"{gauge}/2",),
            **({"depth": 35} if gb else {"volume": 20.0}),
            "breaker": 16.0 if gb else 15.0,
        },
        "spot": {
            "box": box,
            "left": mm(425),
            "right": mm(800),
            "wished": mm(600),
            "cavity": mm(89),
            "surface": mm(12.5),
        },
        "height": {"high": mm(350), "below": mm(200), "top": mm(2000)},
        "void": {"depth": mm(140), "lowest": mm(160)},
        "ways": {
            "lies": "same wall",
            "studs": 2,
            "across": mm(2700),
            "source_height": mm(1170),
            "spot_height": mm(1170),
            "ceiling": mm(2440),
            "cavity": mm(89),
        },
        "transfer": {"surface": mm(12.5), "plate": mm(89), "room": mm(1000), "hole": mm(19)},
        "sounding": {"depth": mm(1300), "went": mm(1300)},
        "eave": {"heel": mm(400), "rise": 6.0, "plate": mm(89), "needs": mm(300)},
        "pull": {"legs": (mm(1000), mm(2000)), "blind": 1},
        "wood": {"start": mm(500), "end": mm(2500), "spacing": mm(400), "depth": mm(89)},
        "masonry": {"depth": mm(30), "bit": mm(10), "wide": mm(75), "high": mm(75), "leaf": mm(100)},
        "short": {"free": mm(120)},
        "reach": {"free": mm(300), "before": mm(1000), "after": mm(1000)},
        "cutout": {"face": mm(450), "old": mm(57), "box": box},
        "ground": {"amps": 10.0, "way": mm(15000), "gauge": gauge, "volts": 1.0},
        "hangs": {"what": "light", "kg": 5.0, "marked": 0.0, "listed": False},
        "link": {"smoke": 3, "heat": 1, "gas": 0},
        "extends": {"room": "living", "way": mm(3000), "new": "outlet", "ahead": "both"},
        "replace": {"what": "outlet", "room": "living", "ground": "yes", "ahead": "both"},
        "fan": {"cable": "three-wire", "wish": "two switches"},
        "downrod": {"ceiling": mm(2700), "body": mm(300), "blades": mm(1300), "wall": mm(2000)},
        "outdoors": {"what": "light", "roof": mm(0), "above": mm(2400)},
        "water": {"what": "outlet", "by": "tub", "away": mm(3000)},
        "splice": {"one": mm(200), "other": mm(200)},
        "shaft": {"bare": 2.0, "single": 1.0, "insulated": 1.0, "watts": 10.0},
        "terminals": {
            "device": "three-way",
            "old": ("black on common", "red on t1", "white on t2"),
            "new": ("black on common", "red on t1", "white on t2"),
        },
        "dimmer": {"load": 60.0, "most": 150.0, "least": 10.0},
        "conduit": {"way": mm(10000), "amps": 10.0, "wires": 4},
        "load": {"breaker": 16.0 if gb else 15.0, "loads": (LoadItem(6, 9.0),)},
        "outlets": {"wall": mm(7000)},
        "rows": {"width": mm(4000), "count": 3},
        "cord": {"ceiling": mm(2700), "top": mm(750)},
        "drop": {"stretches": (DropStretchAsked(mm(20_000), gauge, 8.0),)},
        "patch": {"wide": mm(100), "high": mm(100)},
        "time": {"steps": {"look": 1.0}},
        "pairs": {
            "nodes": ("a", "b"),
            "readings": {"a / b": (0.2, 0.1)},
            "proven_before": True,
            "proven_after": True,
            "volts": 230.0 if gb else 120.0,
        },
    }


def values(question, field, hint, practice):
    """What is tried of a field: each choice; of a figure nothing, much and less than nothing; blank where it
    may be.
    """
    rules = load(practice)
    named = {
        "box": [b.id for b in load(practice).catalogue.old_work],
        "gauge": [*rules.catalogue.wired_gauges(), "9"],
        "size": ["", *load("na").catalogue.unstamped, "shoe"],
        "room": [*typing.get_args(RoomUse), "attic"],
        "circuit": ["", *sources().local(rules).circuits, "none"],
        "inside": ["", *typing.get_args(RoomUse)],
        "compound": ["", *minutes().coats, "glue"],
    }
    if field in named and hint is str:
        return named[field]
    if typing.get_origin(hint) is typing.Literal:
        return [*typing.get_args(hint)]
    if typing.get_origin(hint) in (typing.Union, types.UnionType):
        arms = [a for a in typing.get_args(hint) if a is not type(None)]
        return [None, *(v for arm in arms for v in values(question, field, arm, practice))]
    return {
        bool: [False, True],
        int: [0, 1, 99, -1],
        float: [0.0, 1e6, -1.0],
        Length: [mm(0), mm(50_000), mm(-100)],
    }.get(hint, [])


def cells(practice):
    """Each question with each of its fields and what is tried of it."""
    for name, question in QUESTIONS.items():
        for field, hint in typing.get_type_hints(question.asked).items():
            yield from ((name, field, value) for value in values(name, field, hint, practice))


def told(name, practice, **other):
    """How grave what is said is, gravest first, each once; ``not asked`` where the question is refused in
    words.
    """
    question, rules = QUESTIONS[name], load(practice)
    given = {k: v for k, v in (usual(practice)[name] | other).items()}
    try:
        answer = question.ask(question.asked(**given), rules)
    except NotAsked as wrong:
        return "not asked" if str(wrong) else "refused without a word"
    for figure in answer.figures:
        assert figure.value == figure.value, (name, other, figure.name)
    order = ("danger", "fails", "needs", "ask", "advice", "passes")
    return " ".join(t for t in order if any(s.tone == t for s in answer.said)) or "figures"


def said(value):
    return f"{value.mm:g} mm" if isinstance(value, Length) else str(value)


def table():
    with (Path(__file__).parent / "bench_dangers.csv").open(newline="") as file:
        return {(r["question"], r["field"], r["value"]): r for r in csv.DictReader(file)}


@pytest.mark.parametrize("practice", PRACTICES)
def test_each_answer_raises_what_the_table_says(practice):
    rows, wrong, met = table(), {}, set()
    for name, field, value in cells(practice):
        key = (name, field, said(value))
        met.add(key)
        found = told(name, practice, **{field: value})
        if key not in rows or rows[key][practice] != found:
            wrong[key] = (found, rows.get(key, {}).get(practice))
    assert wrong == {}
    assert {k for k, row in rows.items() if row[practice] != "-"} == met


@pytest.mark.parametrize("practice", PRACTICES)
def test_every_question_is_asked_as_usual_and_refuses_nothing_of_it(practice):
    assert usual(practice).keys() == QUESTIONS.keys()
    assert [
        name
        for name in QUESTIONS
        if told(name, practice).startswith(("not asked", "danger"))
        and name != "splice"
        # No rule of Britain says how far apart outlets stand.
        and (name, practice) != ("outlets", "gb")
    ] == []
