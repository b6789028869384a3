"""The table of device kinds: it does not contradict itself, and every stage finds in it what it needs."""

import itertools

import msgspec
import pytest

from fjeld import practice as practices
from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.formats import jobfile
from fjeld.practice.devices import ContactKind, DeviceKind, LoadKind, TerminalSpot, device, devices
from tests.houses import one_room


def test_the_table_holds_together():
    for kind in devices().values():
        assert not kind.problems()
        assert len({t.name for t in kind.terminals}) == len(kind.terminals), kind.id


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"contacts": (ContactKind("line", "nowhere", (1,)),)}, "no terminal “nowhere”"),
        ({"contacts": (ContactKind("line", "load", ()),)}, "never closes"),
        ({"loads": (LoadKind("line", "gone"),)}, "no terminal “gone”"),
        ({"terminals": (TerminalSpot("line", of="upper"), TerminalSpot("load"))}, "no part “upper”"),
    ],
)
def test_an_entry_that_contradicts_itself_is_told(wrong, words):
    assert any(words in told for told in msgspec.structs.replace(device("switch"), **wrong).problems())


@pytest.mark.parametrize("practice", practices.available())
def test_every_kind_is_on_sale_in_every_practice(practice):
    catalogue = practices.load(practice).catalogue
    for kind in devices().values():
        if kind.held and not kind.part:
            continue  # Found in old boxes, and never planned in a house.
        assert kind.part in catalogue.parts, kind.id
        assert kind.part in catalogue.names, kind.id


def joined(kind: DeviceKind, state: int) -> set[frozenset[str]]:
    return {frozenset((c.a, c.b)) for c in kind.contacts if state in c.closed}


def test_switches_by_what_they_join():
    """Flipping once always changes what is joined; a three-way joins its common to one traveller, a four-way
    crosses.
    """
    for kind in devices().values():
        if any(len(c.closed) < 2 for c in kind.contacts):
            assert joined(kind, 0) != joined(kind, 1), kind.id
    three, four = device("three-way switch"), device("four-way switch")
    for state in (0, 1):
        (pair,) = joined(three, state)
        assert "common" in pair
        ends = list(itertools.chain.from_iterable(joined(four, state)))
        assert sorted(ends) == sorted(t.name for t in four.terminals), "each end is joined once"


def test_every_device_of_a_plan_lands_on_the_terminals_of_its_kind():
    plans = [derive(one_room(seed)) for seed in range(12)]
    plans += [derive(jobfile.decode(job_file(n))) for n in ("chandlers-loft", "tarn-house")]
    met = set()
    for plan in plans:
        for box in plan.boxes.values():
            for one in box.devices:
                kind = device(one.kind)
                met.add(kind.id)
                landed = {n.terminal for j in box.joints for n in j.landings if n.device == one.key}
                assert landed <= {t.name for t in kind.terminals} | {kind.ground}, (box.handle, kind.id)
                assert not box.ends or {t.name for t in kind.terminals if t.wants} <= landed, (
                    box.handle,
                    kind.id,
                )
                assert one.gangs == kind.gangs
    assert {"switch", "three-way switch", "four-way switch", "outlet", "light", "fan", "alarm"} <= met
