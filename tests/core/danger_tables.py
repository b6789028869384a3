"""Writes the tables of dangers of finished rooms and of the bench, and of the numbers of rules, anew:
``python -m tests.core.danger_tables``.

What differs from what was committed is to be read line by line: a table is right because somebody has read
it, not because the program says so.
"""

import csv
import os
from pathlib import Path

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fjeld.web.settings")

from tests.core import test_bench_dangers as bench
from tests.core import test_errand_dangers as errands
from tests.core import test_rule_numbers as numbers

HERE = Path(__file__).parent
PRACTICES = ("na", "gb")


def errand_rows():
    """What each answer of a finished room raises, where it raises anything in either practice."""
    for thing in errands.KINDS_OF:
        found = {}
        for practice in PRACTICES:
            drawings, before = errands.base(practice)
            for field, value in errands.cells(thing, practice):
                raised = errands.raised(drawings, before, practice, thing, field, value)
                found.setdefault((field, errands.said(value)), {})[practice] = errands.written(raised)
        for (field, value), by in found.items():
            if any(by.values()):
                yield thing, field, value, *(by.get(p, "-") for p in PRACTICES)


def bench_rows():
    """How grave the answer to each question is with each value of each of its fields."""
    found = {}
    for practice in PRACTICES:
        for name, field, value in bench.cells(practice):
            told = bench.told(name, practice, **{field: value})
            found.setdefault((name, field, bench.said(value)), {})[practice] = told
    for key, by in found.items():
        yield *key, *(by.get(p, "-") for p in PRACTICES)


def write(name, head, rows):
    with (HERE / name).open("w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow([*head, *PRACTICES])
        writer.writerows(rows)


if __name__ == "__main__":
    write("errand_dangers.csv", ("thing", "field", "value"), errand_rows())
    write("bench_dangers.csv", ("question", "field", "value"), bench_rows())
    write("rule_numbers.csv", ("rule",), numbers.rows())
