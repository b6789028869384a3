"""Two people on every kind of errand, in both practices, with old pages, restarts and time that goes by.

``FJELD_WALK=5000`` walks further.
"""

import os
from collections import Counter

import pytest
from django.test import Client

from fjeld.oldbox.arrangements import arrangements
from fjeld.web.places.kinds import KINDS
from tests.errand_walker import ErrandWalk, Person
from tests.web.errands import SWITCH
from tests.web.hand import Hand

#: Steps for each kind: few in the suite, forty at least in a walk of its own.
STEPS = max(40, int(os.environ["FJELD_WALK"]) // (2 * len(KINDS))) if "FJELD_WALK" in os.environ else 16
SEED = os.environ.get("FJELD_WALK_SEED", "7")
#: What the walks of a practice together must have come to, or they tried nothing.
REACHED = (
    "/step",
    "/record",
    "/do/look",
    "/meant",
    "/spot/told",
    "/path/told",
    "/photo",
    "done",
    "conflict",
    "refused",
    "restart",
)

#: And a short one.
SOON = ("/step", "/record", "/do/look", "/spot/told", "done", "refused")


def begun(started, people, kind, practice, answered):
    """An errand with two people at it; ``answered`` where all that it asks is told already."""
    usual = SWITCH
    if kind in ("heavy", "alarms"):
        usual = next(
            a.words for a in arrangements(practice) if a.box.place == "ceiling" and len(a.box.cables) == 1
        )
    job, client = started(practice, kind, usual)
    if answered:
        Hand(client, job).ready(kind)
    both = []
    for name in ("owner", "editor"):
        own = Client()
        own.force_login(people[name])
        both.append(Person(name, own))
    return both, job


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_two_people_on_every_kind_of_errand_lose_nothing_and_pass_no_step_that_is_shut(
    started, people, practice
):
    count = Counter()
    for n, kind in enumerate(KINDS):
        left, seed = STEPS, 0
        while left > 0:
            ready = (n + seed) % 2 == 0 and kind != "alarms"
            both, job = begun(started, people, kind, practice, ready)
            walk = ErrandWalk(both, job, f"{SEED} {kind} {practice} {seed}")
            for _ in range(min(left, 60)):
                walk.step()
            count += walk.count
            left, seed = left - 60, seed + 1
    missing = [what for what in (REACHED if STEPS >= 40 else SOON) if not count[what]]
    assert missing == [], dict(count)
