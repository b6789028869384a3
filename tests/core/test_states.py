"""Sets of the states of switches: against one state after another, walked by hand."""

import random

import pytest

from fjeld.states import Contacts, every, first_state, pattern, standing


@pytest.mark.parametrize("n", range(1, 7))
def test_a_set_has_the_states_in_which_a_switch_stands_so(n):
    for i in range(n):
        for at in (0, 1):
            assert standing(i, n, at) == sum(1 << s for s in range(1 << n) if (s >> i & 1) == at)
        assert pattern(i, n) == standing(i, n, 1)
    assert every(n) == sum(1 << s for s in range(1 << n))


def test_the_first_state_of_a_set():
    assert first_state(0) is None
    assert [first_state(s) for s in (1, 2, 0b1100)] == [0, 1, 2]


def walked(joins, start, state):
    """The nodes that are joined to a start in one state, found by walking."""
    met, waiting = {start}, [start]
    while waiting:
        here = waiting.pop()
        for a, b, states in joins:
            for one, two in ((a, b), (b, a)):
                if one == here and two not in met and states >> state & 1:
                    met.add(two)
                    waiting.append(two)
    return met


@pytest.mark.parametrize("seed", range(60))
def test_what_is_reached_in_all_states_at_once_is_reached_in_each(seed):
    die = random.Random(seed)
    n, nodes = die.randrange(1, 5), die.randrange(2, 9)
    joins = []
    for _ in range(die.randrange(1, 14)):
        states = die.choice((every(n), 0, standing(die.randrange(n), n, die.randrange(2))))
        joins.append((die.randrange(nodes), die.randrange(nodes), states))
    contacts = Contacts()
    for join in joins:
        contacts.join(*join)
    reached = contacts.reach((0,), every(n))
    for state in range(1 << n):
        assert {v for v, states in reached.items() if states >> state & 1} == walked(joins, 0, state)
