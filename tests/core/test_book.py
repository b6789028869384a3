"""The book of an errand: its order under every choice, gates that no log passes, visits that end, times."""

import random
from itertools import combinations
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.concealed.path import path
from fjeld.drawing.errand import NEW, Errand, ErrandKind, Spot, Way
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.oldbox.arrangements import arrangements
from fjeld.practice import load
from fjeld.work.book import BREATH, book, hours, leg_steps, nodes_of
from fjeld.work.standing import Log, PowerOn, Visit, as_of, standing
from fjeld.work.standing import may as may_by

KINDS = get_args(ErrandKind)
#: What must never stand without what, whatever else is so: pairs of step and gate.
NEVER = (
    ("cut", "look"),
    ("tie in", "dead new"),
    ("make up", "dead new"),
    ("tie in ground", "inspect"),
    ("tie in", "dead"),
    ("tie in ground", "dead"),
    ("tie in neutral", "tie in ground"),
    ("tie in", "tie in neutral"),
    ("tie in", "tie in link"),
    ("open", "dead"),
    ("dead", "breaker"),
    ("energize", "dead whole"),
    ("plates", "photo"),
    ("patch", "inspect"),
    ("change", "dead"),
    ("change box", "dead"),
    ("live", "energize"),
)


def may(tasks, log, task):
    """Why a step may not be done after a log."""
    return may_by(standing(tasks, log), task)


def done(tasks, log):
    return {s.task.id for s in standing(tasks, log) if s.done}


@pytest.mark.parametrize("kind", KINDS)
def test_in_the_books_own_order_every_step_can_be_done(kind):
    tasks = book(Errand(kind), load("na"))
    log = []
    for task in tasks:
        assert may(tasks, log, task.id) == "", task.id
        log.append(Log("done", task.id))
    assert done(tasks, log) == {t.id for t in tasks}


@pytest.mark.parametrize("kind", KINDS)
def test_whatever_is_chosen_next_the_order_holds_and_the_work_ends(kind):
    tasks = book(Errand(kind, attic=True), load("na"))
    there = {t.id for t in tasks}
    for seed in range(60):
        die = random.Random(seed)
        log, order = [], []
        while len(order) < len(tasks):
            open_ones = [t.id for t in tasks if t.id not in order and not may(tasks, log, t.id)]
            assert open_ones, "the work comes to a stop"
            order.append(die.choice(open_ones))
            log.append(Log("done", order[-1]))
        for step, gate in NEVER:
            if {step, gate} <= there:
                assert order.index(gate) < order.index(step), (step, gate)
        # The source is opened last of all that is done with wires.
        if "make up" in there:
            assert order.index("make up") < order.index("tie in")


events = st.lists(
    st.tuples(st.sampled_from(["done", "done", "done", "undone", "away", "tripped"]), st.integers(0, 30)),
    max_size=80,
)


@given(st.sampled_from(KINDS), events)
def test_no_log_passes_a_gate(kind, written):
    tasks = book(Errand(kind), load("na"))
    there = {t.id for t in tasks}
    log = [Log(event, tasks[n % len(tasks)].id) for event, n in written]
    for cut in range(len(log) + 1):
        before = done(tasks, log[:cut])
        if cut < len(log) and log[cut].event == "done":
            added = done(tasks, log[: cut + 1]) - before
            for step in added:
                for gate in (g for s, g in NEVER if s == step and g in there):
                    assert gate in before, (step, gate)
    for entry in log:
        assert entry.task in there


@pytest.mark.parametrize("practice", ["na", "gb"])
@pytest.mark.parametrize("kind", KINDS)
def test_every_word_of_the_book_is_filled_in(kind, practice):
    for task in book(Errand(kind), load(practice)):
        assert not {*"{}"} & {*(task.words + task.looks + task.caution)}, task
        assert all((task.words, task.looks, task.caution)), task.id


def test_whoever_was_away_tests_dead_again():
    tasks = book(Errand("light"), load("na"))
    log = [Log("done", t.id) for t in tasks if t.id in ("look", "breaker", "dead")]
    assert may(tasks, log, "open") == ""
    log.append(Log("away"))
    assert "prove the tester" in may(tasks, log, "open")
    assert "dead" not in done(tasks, log)
    log.append(Log("done", "dead"))
    assert may(tasks, log, "open") == ""


def test_a_breaker_that_trips_leads_back_to_the_gate_and_not_to_a_second_try():
    tasks = book(Errand("replace"), load("na"))
    log = [Log("done", t.id) for t in tasks if t.id not in ("live", "plates", "hand over")]
    assert "energize" in done(tasks, log)
    log.append(Log("tripped"))
    assert not {"dead", "dead whole", "energize"} & done(tasks, log)
    assert may(tasks, log, "energize") != ""
    log += [Log("done", "energize"), Log("done", "dead whole")]
    # The tests of the whole are taken anew; the source's joints still stand.
    assert "open" in done(tasks, log)


HOUR = 3600.0
VISIT = Visit("E1", "way 3", "P1", 180.0)


def opened(log, visit=VISIT, now=None):
    """Whether the source may be opened after a log."""
    stands = standing(book(Errand("light"), load("na")), log, visit)
    return may_by(as_of(stands, now) if now is not None else stands, "open") == ""


def a_test(at=0.0, **told):
    return [Log("done", "look", at), Log("done", "breaker", at, **told), Log("done", "dead", at, **told)]


def test_a_dead_test_lapses_after_a_set_time_and_not_before():
    log = a_test()
    assert opened(log, now=3 * HOUR)
    assert not opened(log, now=3 * HOUR + 1)
    assert not opened(log, now=3 * 24 * HOUR)
    late = standing(book(Errand("light"), load("na")), [*log, Log("done", "open", 3 * HOUR + 1)], VISIT)
    assert "open" not in {s.task.id for s in late if s.done}, (
        "what was logged after it had lapsed was not done"
    )


def test_a_dead_test_is_of_one_box_and_one_breaker():
    log = a_test(box="E1", breaker="way 3")
    assert opened(log)
    assert not opened(log, Visit("E2", "way 3", "P1", 180.0))
    assert not opened(log, Visit("E1", "way 5", "P1", 180.0))


def test_what_was_live_since_opens_nothing():
    log = a_test(at=10.0)
    assert not opened(log, Visit("E1", "way 3", "P1", 180.0, (PowerOn(20.0, locked=True),)))
    assert opened(log, Visit("E1", "way 3", "P1", 180.0, (PowerOn(5.0, locked=True),)))
    # With the breaker locked again only the test is taken anew; else the breaker is found again too.
    for locked in (True, False):
        stands = standing(
            book(Errand("light"), load("na")),
            log,
            Visit("E1", "way 3", "P1", 180.0, (PowerOn(20.0, locked),)),
        )
        assert ("breaker" in {s.task.id for s in stands if s.done}) is locked


def test_power_that_was_turned_on_ends_a_dead_test():
    tasks = book(Errand("replace"), load("na"))
    log = [Log("done", t.id) for t in tasks if t.id not in ("live", "plates", "hand over", "clean")]
    assert "energize" in done(tasks, log)
    again = [*log, Log("undone", "fold")]
    assert may(tasks, again, "fold").startswith("first: "), "the box is not opened again without a test"


@pytest.mark.parametrize("event", ["away", "tripped"])
def test_order_is_by_the_time_of_what_happened_and_not_of_its_arrival(event):
    """A tests dead at 54 without connection; B leaves at 64 and says so at once; A's telephone
    sends later.
    """
    log = [Log("done", "look", 1), Log(event, "", 64), Log("done", "breaker", 53), Log("done", "dead", 54)]
    assert not opened(log)
    assert opened([*log, Log("done", "breaker", 70), Log("done", "dead", 71)])


def test_a_time_that_was_not_agreed_opens_nothing():
    log = [Log("done", "look"), Log("done", "breaker"), Log("done", "dead", 10.0, agreed=False)]
    assert not opened(log)
    assert opened([*log, Log("done", "dead", 11.0)])


def test_another_source_or_another_way_is_walked_anew():
    tasks = book(Errand("light"), load("na"))
    log = [
        Log("done", t.id, box="E1", way="P1" if t.where == "way" else "")
        for t in tasks
        if t.id in ("look", "breaker", "mark", "probe", "cut", "way", "pull")
    ]
    assert {"way", "pull", "breaker"} <= {s.task.id for s in standing(tasks, log, VISIT) if s.done}
    elsewhere = {s.task.id for s in standing(tasks, log, Visit("E2", "", "P1", 180.0)) if s.done}
    assert elsewhere == {"look", "mark", "probe", "cut"}
    otherwise = {s.task.id for s in standing(tasks, log, Visit("E1", "", "P8", 180.0)) if s.done}
    assert "way" not in otherwise
    assert "breaker" in otherwise


def test_a_trip_puts_the_insulation_of_the_new_cable_in_doubt():
    tasks = book(Errand("light"), load("na"))
    log = [Log("done", t.id) for t in tasks if t.id not in ("live", "plates", "hand over", "clean", "patch")]
    assert "energize" in done(tasks, log)
    left = done(tasks, [*log, Log("tripped")])
    assert not {"dead new", "tie in", "dead whole", "energize", "breaker", "dead"} & left
    assert {"cut", "pull", "box", "open"} <= left


def test_the_pairs_are_those_of_every_joint_and_loose_end():
    by_words = {a.words: a.box for a in arrangements("na")}
    two = next(box for words, box in by_words.items() if words.startswith("A dark wire on each screw"))
    assert nodes_of(two) == ("1.BK", "1.WH with 2.WH", "2.BK", "grounds", "earth")
    assert len([*combinations(nodes_of(two), 2)]) == 10
    assert nodes_of(two, metal=True)[-2:] == ("the metal box", "earth")


def test_times_of_a_book_are_those_of_its_steps_and_shrink_with_practice():
    tasks = book(Errand("outlet", attic=True), load("na"))
    first, second, third = (hours(tasks, n, 2) for n in (1, 2, 3))
    assert first.labour.total > second.labour.total > third.labour.total
    assert first.least < first.labour.total < first.most
    assert first.waiting == pytest.approx(74.0)
    assert hours(book(Errand("replace"), load("na")), 1, 2).waiting == 0
    assert hours(tasks, 1, 4).labour.total == pytest.approx(first.labour.total + 2 * 3 * 1.5)


@pytest.mark.parametrize("practice", ["na", "gb"])
@pytest.mark.parametrize("kind", KINDS)
def test_a_step_is_parted_where_one_draws_breath_and_says_what_it_is_done_with(practice, kind):
    metric = practice == "gb"
    way = Way("elsewhere", joists=3, studs=2, insulated=False)
    errand = Errand(kind, attic=True, below=True, spot=Spot("wall", covering="wallboard"), way=way)
    found = path(errand, OldBox(Handle("R1"), place="outlet"), load(practice))
    for route in found.routes[:6] if kind in NEW else [None]:
        for task in book(errand, load(practice), route):
            assert task.words.startswith(task.first)
            assert not task.then or task.words.endswith(task.then)
            assert len(task.words) - len(task.first) - len(task.then) in (0, 2)
            assert len(task.first) >= min(BREATH, len(task.words))
            assert task.tools or task.id.startswith("way"), task.id
            assert not any("{" in tool for tool in task.tools)
            assert not metric or not any('"' in tool for tool in task.tools), task.tools
            assert (task.hands > 1) == any(
                leg.way.hands > 1
                for name, leg in (leg_steps(route) if route else {}).items()
                if name == task.id
            )
