"""What every test shares: a steady profile for properties, and the demo's drawing and plan."""

from __future__ import annotations

import gc
import os
import tempfile

import pytest
from hypothesis import HealthCheck, settings

from tests.often import OFTEN

# Browser tests keep an event loop running in the worker that also runs database tests.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
os.environ.setdefault("FJELD_VAR", tempfile.mkdtemp(prefix="fjeld-test-"))
os.makedirs(os.path.join(os.environ["FJELD_VAR"], "static"), exist_ok=True)

# A plan makes a great many small things that live: looking for cycles among them costs a tenth.
gc.set_threshold(200_000, 20, 50)

settings.register_profile(
    "fjeld", deadline=None, max_examples=40 * OFTEN, suppress_health_check=list(HealthCheck), derandomize=True
)
settings.load_profile("fjeld")


@pytest.fixture(scope="session")
def na():
    from fjeld import practice

    return practice.load("na")


@pytest.fixture(scope="session")
def boot_room():
    """The demo's boot room as a drawing."""
    from fjeld.demo import job_file
    from fjeld.formats import jobfile

    return jobfile.decode(job_file("boot-room"))


@pytest.fixture(scope="session")
def boot_plan(boot_room):
    from fjeld.derive.plan import derive

    return derive(boot_room)


#: Files that take longest, the longest first: two workers end together only if the short ones come last.
LONG = (
    "test_shut",
    "test_errand_whole",
    "test_house",
    "test_errand_walk",
    "test_worlds",
    "test_whole_houses",
    "test_errand",
    "test_ways",
    "test_lockouts",
    "test_pages",
    "test_offline",
    "test_ordinary_use",
    "test_found_boxes",
    "test_tarn_house",
    "test_dangers",
    "test_one_figure",
    "test_walk",
    "test_golden",
    "test_any_drawing",
    "test_photos",
    "test_access",
    "test_errand_place",
    "test_keeping",
    "test_served_twice",
    "test_fresh_start",
    "test_stages",
    "test_forms",
)


def pytest_collection_modifyitems(items):
    """Long files first; within a file, and among the others, as they stand."""
    order = {name: n for n, name in enumerate(LONG)}
    items.sort(key=lambda item: order.get(item.path.stem, len(LONG)))
