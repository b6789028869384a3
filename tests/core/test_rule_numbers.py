"""Every number of every rule, entered twice: one that moves in a practice's data is seen here before anybody
goes by it.

``rule_numbers.csv`` is written by hand or by ``python -m tests.core.danger_tables``, and read against the
basis of each rule. That a number is gone by is held apart from that: moved, it changes an answer.
"""

import csv
from pathlib import Path

from fjeld.practice import load
from fjeld.practice.rules import DECLARED

PRACTICES = ("na", "gb")
TABLE = Path(__file__).parent / "rule_numbers.csv"


def written(practice, rule):
    """A rule's value and unit as its data say them; a dash where the practice has no such rule."""
    found = practice.rules.get(rule)
    if found is None:
        return "-"
    if found.value is None:
        return "holds"
    parts = found.value if isinstance(found.value, dict) else {"": found.value}
    said = "; ".join(f"{name} {_one(value)}".strip() for name, value in parts.items())
    return f"{said} {found.unit}".strip()


def _one(value):
    return (
        ", ".join(map(_one, value))
        if isinstance(value, list | tuple)
        else f"{value:.10g}"
        if isinstance(value, float)
        else str(value)
    )


def rows():
    """Every rule that is declared, with its value in each practice."""
    known = {p: load(p) for p in PRACTICES}
    for rule in sorted(DECLARED):
        yield rule, *(written(known[p], rule) for p in PRACTICES)


def test_each_number_is_as_it_was_entered():
    with TABLE.open(newline="") as file:
        entered = {r["rule"]: (r["na"], r["gb"]) for r in csv.DictReader(file)}
    found = {rule: values for rule, *values in rows()}
    assert {*entered} == {*found}
    assert {r: (entered[r], tuple(v)) for r, v in found.items() if entered[r] != tuple(v)} == {}
