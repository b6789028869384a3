"""What is alike in a box is looked at once and counted: all that is told is as if each had been looked at."""

import random
from collections import Counter

import pytest

from fjeld.formats.found import read_box
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.alike import arrangements, nothing_alike
from fjeld.oldbox.found import nets
from fjeld.oldbox.hypotheses import hypotheses
from fjeld.oldbox.infer import ends_of, infer
from fjeld.oldbox.outcomes import kind_of, outcomes, told_apart
from fjeld.oldbox.still_live import still_live
from fjeld.oldbox.tie_in import tie_in
from fjeld.oldbox.weighed import MOST_APART, groups, weigh, weigh_group
from fjeld.practice import load
from tests.often import OFTEN
from tests.random_boxes import random_box, with_reading


def random_groups(seeds):
    """Groups of cables of random boxes of both practices, without and with a reading."""
    for seed in seeds:
        die = random.Random(seed)
        practice = die.choice(("na", "gb"))
        box = random_box(die, practice, most=4 if seed % 5 == 0 else 3)
        for found in (box, with_reading(die, box, practice)):
            for group in groups(found) if found else ():
                yield group, load(practice)


def looked_at(group, practice):
    """A group as it is weighed, and with every wiring by itself."""
    return weigh_group(group, practice), weigh_group(group, practice, nothing_alike(group, nets(group)))


def by_itself(h):
    return h.cables, h.reversed, tuple(sorted(h.carries.items()))


def test_each_wiring_is_one_of_those_that_another_stands_for():
    counted = Counter()
    for group, practice in random_groups(range(60 * OFTEN)):
        weighed, apart = looked_at(group, practice)
        each = [
            (cables, h.reversed, k)
            for k, h in enumerate(weighed.found)
            for cables, times in weighed.same.images(h.cables)
            if times == 1
        ]
        assert len(each) == sum(h.times for h in weighed.found) == len(apart.found)
        assert Counter(e[:2] for e in each) == Counter((h.cables, h.reversed) for h in apart.found)
        # Each of them has the share of one, and explains the readings or not as the one does.
        share = {(h.cables, h.reversed): [] for h in apart.found}
        for n, h in enumerate(apart.found):
            share[h.cables, h.reversed].append((apart.before[n], apart.after[n], apart.explained[n]))
        for cables, turned, k in each:
            h = weighed.found[k]
            mine = (weighed.before[k] / h.times, weighed.after[k] / h.times, weighed.explained[k])
            assert any(mine == pytest.approx(other, rel=1e-9) for other in share[cables, turned]), group
        counted["alike" if weighed.same.cables or any(weighed.same.leads) else "apart"] += 1
    assert min(counted.values()) > 10, counted


def test_what_is_told_is_as_if_each_had_been_looked_at():
    read = 0
    for group, practice in random_groups(range(1000, 1000 + 60 * OFTEN)):
        weighed, apart = looked_at(group, practice)
        if not apart.found:
            continue
        read += 1
        assert weighed.left == len(apart.standing)
        for n in range(len(group.cables)):
            mine, others = Counter(), Counter()
            for k, share in enumerate(weighed.after):
                for beyond in weighed.roles(n, k):
                    mine[beyond.role] += share / len(weighed.roles(n, k))
            for h, share in zip(apart.found, apart.after, strict=True):
                others[h.cables[n].role] += share
            assert mine == pytest.approx(others, abs=1e-9)
        if weighed.standing:
            assert ends_of(weighed, practice.volts) == ends_of(apart, practice.volts), group
            assert told_apart(weighed) == pytest.approx(told_apart(apart), abs=1e-9), group
    assert read > 60


def test_as_many_outcomes_are_alike_as_there_are():
    for group, practice in random_groups(range(2000, 2000 + 30 * OFTEN)):
        weighed, apart = looked_at(group, practice)
        mine, others = outcomes(weighed), outcomes(apart)
        for reading in mine:
            alike = {
                kind_of(mine[reading](h, weighed.shows[k]), weighed, k) for k, h in enumerate(weighed.found)
            }
            # What two wirings show alike they show in as many ways.
            assert len({kind for kind, _ in alike}) == len(alike)
            assert sum(ways for _, ways in alike) == len(
                {others[reading](h, s) for h, s in zip(apart.found, apart.shows, strict=True)}
            ), (reading, group)


def test_what_is_joined_and_what_stays_live_does_not_hang_on_the_order_of_alike_cables():
    told = 0
    for seed in range(3000, 3000 + 25 * OFTEN):
        die = random.Random(seed)
        box = random_box(die, "na")
        practice, end = load("na"), box.cables[0].insulated[0]
        if not all(weigh_group(group, practice).standing for group in groups(box)):
            continue
        told += 1
        live = {s.ends: s.share for s in still_live(box, [end], practice)}
        apart = {}
        for group in groups(box):
            weighed = weigh_group(group, practice, nothing_alike(group, nets(group)))
            total = sum(weighed.after[k] for k in weighed.standing)
            off = weighed.where.of.get(end)
            for k in weighed.standing:
                h = weighed.found[k]
                for net, what in h.carries.items():
                    mine = h.circuit.get(off, "") if off is not None else None
                    if what in "lst" and (off is None or h.circuit.get(net, "?") != mine):
                        ends = weighed.where.ends[net]
                        apart[ends] = apart.get(ends, 0) + weighed.after[k] / total
        assert live == pytest.approx({e: s for e, s in apart.items() if s >= 0.005 and e}, abs=1e-9)
    assert told > 15


def bundle(count, conductors=("BK", "RD", "WH", "G")):
    """As many cables, their neutrals joined and all else loose."""
    return read_box(
        {
            "place": "junction",
            "cables": [{"id": n, "cond": list(conductors)} for n in range(1, count + 1)],
            "device": None,
            "joints": [[f"{n}.WH" for n in range(1, count + 1)]],
        }
    )


def test_six_cables_alike_are_few_to_look_at():
    practice = load("na")
    four = bundle(4)
    weighed, apart = looked_at(four, practice)
    assert sum(h.times for h in weighed.found) == len(apart.found)
    assert len(apart.found) > 30 * len(weighed.found)
    six = weigh_group(bundle(6), practice)
    assert len(six.found) < 250
    assert sum(h.times for h in six.found) > 100_000
    assert six.same.cables == ((0, 1, 2, 3, 4, 5),)


def test_a_place_is_found_where_there_are_more_wirings_than_are_looked_at_one_by_one():
    practice = load("na")
    (weighed,) = weigh(bundle(6), practice)
    found = tie_in(bundle(6), practice)
    assert found is not None
    assert found.line == tuple(f"{n}.WH" for n in range(1, 7))
    assert sum(c.share for c in found.cases) == pytest.approx(1.0)
    assert weighed.left > MOST_APART
    assert len(found.cases) < 200
    assert found.verdict == "unless"


def test_many_that_are_negligible_one_by_one_are_not_so_together():
    practice = load("na")
    (weighed,) = weigh(bundle(6), practice)
    kept = sum(weighed.before[k] for k in weighed.standing)
    small = [k for k in weighed.standing if weighed.before[k] / weighed.found[k].times < 0.005]
    assert kept >= 0.9
    assert sum(weighed.before[k] for k in small) > 0.2
    assert len(infer(bundle(6), practice).cables[0].roles) > 4


def test_a_record_that_leaves_too_much_is_refused_in_words():
    box = read_box(
        {
            "place": "junction",
            "cables": [{"id": n, "cond": ["BK", "RD", "BU", "WH", "G"]} for n in range(1, 7)],
            "device": None,
            "joints": [[f"{n}.BK" for n in range(1, 7)]],
        }
    )
    with pytest.raises(NotAsked, match="record what each conductor is joined to"):
        infer(box, load("na"))


def test_hypotheses_of_a_box_are_the_same_whatever_its_cables_are_called():
    for seed in range(4000, 4000 + 40 * OFTEN):
        die = random.Random(seed)
        practice = die.choice(("na", "gb"))
        box = random_box(die, practice, most=2 + seed % 2)
        if sum(len(c.insulated) for c in box.cables) > 8:
            continue
        where = nets(box)
        turned = box.cables[::-1]
        again = type(box)(box.place, turned, box.joints, box.devices)
        mine = hypotheses(box, where, load(practice).rings)
        others = hypotheses(again, nets(again), load(practice).rings)
        assert Counter((h.cables, h.reversed) for h in mine) == Counter(
            (h.cables[::-1], h.reversed) for h in others
        ), box


def test_in_how_many_orders_things_lie():
    assert [arrangements(x) for x in ("", "a", "ab", "aab", "aabb")] == [1, 1, 2, 3, 6]
