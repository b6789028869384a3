"""A practice is what it can and what its rules say: no code asks which one it is."""

import ast
import contextlib
from pathlib import Path

import msgspec
import pytest

import fjeld
from fjeld import practice as practices
from fjeld.check import check
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import plan
from fjeld.formats import jobfile
from fjeld.judge.answer import NotAsked
from fjeld.practice import available, load
from fjeld.prove.proof import prove
from tests.core import test_bench_dangers as bench
from tests.core.errand_bases import BASES, E1, ready, taken

CORE = Path(fjeld.__file__).parent
#: Where a practice is made, and where what is stored or sent names one.
OF_PRACTICES = ("practice", "demo")


def asking(tree):
    """Where code asks which practice it has: its old name for metric, its id or title compared, one of them
    by name.
    """
    for node in ast.walk(tree):
        if isinstance(node, ast.Attribute) and node.attr == "metric":
            yield node.lineno, "metric"
        if isinstance(node, ast.Constant) and node.value in available():
            yield node.lineno, node.value
        if isinstance(node, ast.Compare):
            for side in (node.left, *node.comparators):
                if isinstance(side, ast.Attribute) and side.attr in ("id", "title"):
                    whose = (
                        side.value.attr
                        if isinstance(side.value, ast.Attribute)
                        else getattr(side.value, "id", "")
                    )
                    if whose == "practice":
                        yield node.lineno, f"practice.{side.attr}"


def test_no_code_asks_which_practice_it_has():
    met = [
        f"{file.relative_to(CORE)}:{line} {what}"
        for file in CORE.rglob("*.py")
        if file.relative_to(CORE).parts[0] not in OF_PRACTICES
        for line, what in asking(ast.parse(file.read_text()))
    ]
    assert met == []


@pytest.mark.parametrize(
    "code", ["practice.metric", 'x = "gb"', "plan.practice.id == other", "practice.title in names"]
)
def test_who_asks_is_seen(code):
    assert [*asking(ast.parse(code))]


#: Rules whose being there says what a practice can.
BY_RULE = (
    "cable-zones",
    "bath-zones",
    "bath-sealed",
    "zone-rating",
    "outdoor-sealed",
    "ground-fault",
    "ground-fault-water",
    "arc-fault",
    "arc-fault-similar",
    "residual",
    "fan-box",
    "fan-ready",
    "conduit-ground",
    "outlet-reach",
    "tub-outlet",
    "tub-fitting",
    "switch-tub",
    "tub-rating",
    "stud-hole-other",
    "stud-hole-edge",
    "neutral-at-switch",
    "alarm-linked-all",
    "ring-closed",
    "ring-breaker",
    "ring-capacity",
    "kitchen-circuits",
    "support-wide",
    "wall-light-weight",
    "fixture-weight",
)


def without(practice, rule):
    return msgspec.structs.replace(practice, rules={k: v for k, v in practice.rules.items() if k != rule})


def of_parts(practice, **other):
    """The practice with other parts; what the other practice sells besides is on sale too."""
    besides = load("gb" if practice.id == "na" else "na").catalogue
    sleeves = {f"sleeve-{colour}" for colour in (practice.neutral, *practice.plain_line, "G")}
    names = dict.fromkeys(sleeves, "Sleeving") | besides.names | practice.catalogue.names
    sold = msgspec.structs.replace(
        practice.catalogue,
        parts=dict.fromkeys(sleeves, 10) | besides.parts | practice.catalogue.parts,
        names=names,
        **other,
    )
    return msgspec.structs.replace(practice, catalogue=sold)


def counting(practice):
    """With the boxes of the other practice, and the way that they are told by."""
    other = load("gb" if practice.id == "na" else "na")
    boxes = {name: getattr(other.catalogue, name) for name in ("boxes", "old_work", "unstamped", "box_unit")}
    told = {"box-fill", "box-cables", "ground-fill"}
    own = {name: rule for name, rule in practice.rules.items() if name not in told}
    taken_over = {name: rule for name, rule in other.rules.items() if name in told}
    if "box-fill" in taken_over:
        # So much for each conductor, whatever its gauge.
        volumes = {g.id: 2.0 for g in practice.catalogue.gauges}
        taken_over["box-fill"] = msgspec.structs.replace(taken_over["box-fill"], value=volumes)
    return msgspec.structs.replace(of_parts(practice, **boxes), rules=own | taken_over)


def turned(practice):
    """The practice with each of its capabilities turned, one at a time, by the name of what was turned."""
    own = msgspec.structs.replace
    yield "unit", own(practice, unit="ft-in" if practice.unit == "mm" else "mm")
    for name in ("halves", "fitting_leads", "rings", "load_side", "lettered"):
        yield name, own(practice, **{name: not getattr(practice, name)})
    yield "legs", own(practice, legs=3 - practice.legs)
    yield "former", own(practice, former=() if practice.former else ("red", "black"), former_sheath="")
    yield "words", own(practice, words={} if practice.words else {"outlet": "socket", "ground": "earth"})
    yield "codes", own(practice, codes=())
    yield "ahead", own(practice, ahead={"none": "none"})
    yield "sleeves", of_parts(practice, sleeves=(0.0, 0.0) if practice.sleeves_ground else (150.0, 40.0))
    yield "plates", of_parts(practice, plates_apart=not practice.catalogue.plates_apart)
    yield "counts cables", counting(practice)
    for rule in BY_RULE:
        if rule in practice.rules:
            yield f"no {rule}", without(practice, rule)


def cases():
    return [(name, what) for name in available() for what, _ in turned(load(name))]


@pytest.mark.parametrize(("name", "what"), cases())
def test_a_practice_with_one_capability_turned_answers_every_question(name, what):
    practice = dict(turned(load(name)))[what]
    for question, asked in bench.usual(name).items():
        found = bench.QUESTIONS[question]
        # A refusal in words is an answer; anything else that is raised is not.
        with contextlib.suppress(NotAsked):
            assert found.ask(found.asked(**asked), practice)


@pytest.mark.parametrize(("name", "what"), cases())
def test_a_practice_with_one_capability_turned_plans_every_errand(name, what):
    practice = dict(turned(load(name)))[what]
    for kind in BASES:
        drawing = ready(kind, name)
        assert plan(drawing, {E1: taken(drawing.items[E1], name)}, (), practice).stands


@pytest.mark.parametrize(("name", "what"), cases())
def test_a_practice_with_one_capability_turned_plans_a_house(name, what, monkeypatch):
    practice = dict(turned(load(name)))[what]
    monkeypatch.setattr(practices, "load", lambda _: practice)
    drawing = jobfile.decode(job_file({"na": "boot-room", "gb": "chandlers-loft"}[name]))
    found = derive(drawing)
    assert check(found)
    assert prove(found)
    assert found.practice.rules.keys() == practice.rules.keys()


def test_a_practice_that_is_like_another_goes_by_its_words_and_tables():
    """What is written anew for one more practice is its rules and its catalogue."""
    gb = load("gb")
    other = msgspec.structs.replace(gb, id="elsewhere", title="Elsewhere", like="gb")
    for kind in BASES:
        drawing = ready(kind, "gb")
        old = drawing.get(E1, OldBox)
        mine, theirs = (plan(drawing, {E1: taken(old, "gb")}, (), p) for p in (other, gb))
        assert [(t.id, t.words) for t in mine.tasks] == [(t.id, t.words) for t in theirs.tasks], kind
        assert mine.proof == theirs.proof
