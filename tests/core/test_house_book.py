"""The book of a house: its steps follow from the plan, and their order holds whatever is chosen."""

import random

import pytest

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Room
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.model import Drawing, House
from fjeld.formats import jobfile
from fjeld.work.book import hours
from fjeld.work.house import house_book
from fjeld.work.standing import Log, standing
from tests.core.test_book import may
from tests.worlds import world

HOUSES = ("boot-room", "chandlers-loft", "tarn-house")


@pytest.fixture(scope="module", params=HOUSES)
def plan(request):
    return derive(jobfile.decode(job_file(request.param)))


def test_every_box_and_circuit_has_its_steps(plan):
    tasks = {t.id: t for t in house_book(plan)}
    for q, circuit in plan.circuits.items():
        if circuit.runs:
            for step in ("bore", "pull", "make up", "land", "dead", "live"):
                assert f"{step} {q}" in tasks
    named = " ".join(t.words for t in tasks.values() if t.id.startswith("boxes "))
    for handle in list(plan.boxes)[:20]:
        if handle in plan.placed:
            room = plan.placed[handle].room
            assert f"boxes {room}" in tasks
    assert plan.drawing.get(next(iter(plan.drawing.of(Room))), Room).name in named


def test_a_ground_is_expected_as_the_cables_come_to(plan):
    """Against every way from the panel walked by hand, a cable after the other."""
    tasks = {t.id: t for t in house_book(plan)}
    for q, circuit in plan.circuits.items():
        if not circuit.runs:
            continue
        cables = [c for c in plan.cables.values() if c.cable.circuit == q]
        far, todo = 0.0, [(circuit.tree.root, 0.0, frozenset())]
        while todo:
            at, length, been = todo.pop()
            far = max(far, length)
            for c in cables:
                if at in (c.cable.a, c.cable.b) and c.handle not in been:
                    other = c.cable.b if c.cable.a == at else c.cable.a
                    todo.append((other, length + c.length, been | {c.handle}))
        figures = {f.id: f for f in tasks[f"dead {q}"].figures}
        ohms = plan.practice.catalogue.gauge(circuit.circuit.gauge).cold * far / 1000
        assert figures["through"].expected == pytest.approx(ohms), q
        assert figures["through"].against(ohms + 0.2) == ""
        assert figures["through"].against(ohms * 2 + 5)
        assert figures["insulation"].against(0.99)


def test_every_step_with_hands_in_it_has_its_minutes(plan):
    tasks = house_book(plan)
    taken = hours(tasks, 3, 0)
    assert taken.labour.total > 60 * len(plan.circuits) / 2
    boxes = {t.id: t for t in tasks if t.id.startswith("boxes ")}
    assert sum(t.count for t in boxes.values()) == sum(h in plan.placed for h in plan.boxes)
    assert hours(tasks, 1, 0).labour.total > taken.labour.total


def test_gates_name_steps_that_are_there(plan):
    assert all(t.tools for t in house_book(plan) if t.id != "close")
    tasks = house_book(plan)
    there = {t.id for t in tasks}
    assert len(there) == len(tasks)
    for task in tasks:
        assert {*task.needs} <= there, task.id
        assert len(task.caution) <= 60


def test_nothing_is_closed_before_it_is_seen_and_nothing_energized_before_it_is_tested(plan):
    tasks = house_book(plan)
    for seed in range(8):
        die, log, order = random.Random(seed), [], []
        while len(order) < len(tasks):
            open_ones = [s.task.id for s in standing(tasks, log) if not s.done and not s.wants]
            assert open_ones, "the work comes to a stop"
            order.append(die.choice(open_ones))
            log.append(Log("done", order[-1]))
        at = {step: n for n, step in enumerate(order)}
        for step in order:
            kind = step.split()[0]
            if kind in ("make", "photo"):
                assert at[step] < at["inspect"] < at["close"]
            if kind == "devices":
                assert at["close"] < at[step]
            if kind == "dead":
                assert at[step] < at["energize"]
            if kind == "live":
                assert at["energize"] < at[step] < at["label"]
            if kind == "land":
                assert at["panel"] < at[step]


def test_nobody_lands_a_circuit_after_having_been_away(plan):
    tasks = house_book(plan)
    log = [
        Log("done", t.id)
        for t in tasks
        if t.id.startswith("dead first")
        or t.id.split()[0] not in ("land", "dead", "energize", "live", "label", "hand")
    ]
    land = next(t.id for t in tasks if t.id.startswith("land "))
    assert may(tasks, log, land) == ""
    assert may(tasks, [*log, Log("away")], land).startswith("first: At the panel")


def test_where_there_is_nothing_to_wire_there_is_no_book():
    assert house_book(derive(Drawing({HOUSE: House()}))) == ()


@pytest.mark.parametrize("share", range(2))
def test_of_any_drawing_the_book_can_be_walked_to_its_end(share):
    for seed in range(share, 30, 2):
        tasks = house_book(derive(world(seed)))
        log = []
        for task in tasks:
            assert may(tasks, log, task.id) == "", (seed, task.id)
            log.append(Log("done", task.id))
