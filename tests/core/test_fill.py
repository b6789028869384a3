"""Box fill: the worked sums, each allowance on its own, and the limit."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.judge.fill import ConductorCount, Contents, NoVolume, Yoke, fill, with_reserve
from fjeld.quantities import verdict_at_most


def cables(gauge, *counts):
    """Contents of cables with these insulated counts, a ground each."""
    return (ConductorCount(gauge, sum(counts)),), (gauge,) * len(counts)


def contents(*groups, **more):
    found = [cables(g, *counts) for g, counts in groups]
    return Contents(
        tuple(c for counts, _ in found for c in counts),
        tuple(g for _, grounds in found for g in grounds),
        **more,
    )


@pytest.mark.parametrize(
    ("found", "volume"),
    [
        (contents(("14", (2, 2)), yokes=(Yoke("14"),)), 14.00),
        (contents(("14", (2, 2, 2)), yokes=(Yoke("14"),)), 18.00),
        (contents(("14", (3, 3, 3, 2)), yokes=(Yoke("14"),)), 28.00),
        (contents(("12", (2, 2)), ("14", (2,)), yokes=(Yoke("12"),), internal_clamps=True), 22.00),
        (contents(("12", (2,) * 6), yokes=(Yoke("12"), Yoke("12"))), 39.375),
        (contents(("12", (2,) * 6), yokes=(Yoke("12"), Yoke("12")), ground_school="all-as-one"), 38.25),
        (contents(("14", (2, 2)), internal_clamps=True), 12.00),
    ],
)
def test_worked_sums(na, found, volume):
    assert fill(found, na).total == pytest.approx(volume)


def test_three_cables_and_an_outlet_exactly_fill_eighteen(na):
    total = fill(contents(("14", (2, 2, 2)), yokes=(Yoke("14"),)), na).total
    assert type(verdict_at_most(total, 18.0)).__name__ == "Passes"
    assert type(verdict_at_most(total, 17.999)).__name__ == "Fails"


def test_each_allowance_on_its_own(na):
    assert fill(Contents((ConductorCount("14", 1, looped=True),)), na).total == 4.0
    assert fill(Contents((ConductorCount("14", 1),), support_fittings=2), na).total == 6.0
    assert fill(Contents((ConductorCount("14", 1),), terminal_blocks=1), na).total == 4.0
    assert fill(Contents(yokes=(Yoke("14", gangs=2),)), na).total == 8.0, "two for each gang"
    assert fill(Contents(grounds=("14", "12")), na).total == 2.25, "one of the largest"
    assert fill(Contents(), na).total == 0.0


def test_the_fifth_ground_counts_a_quarter(na):
    four, five, six = (fill(Contents(grounds=("14",) * n), na).total for n in (4, 5, 6))
    assert (four, five, six) == (2.0, 2.5, 3.0)


def test_a_gauge_without_a_volume_is_refused(na):
    with pytest.raises(NoVolume, match="gauge 4"):
        fill(Contents((ConductorCount("4", 1),)), na)


gauges = st.sampled_from(["14", "12", "10"])


@given(
    st.lists(st.tuples(gauges, st.integers(0, 9)), max_size=4),
    st.lists(gauges, max_size=8),
    st.lists(st.tuples(gauges, st.integers(1, 3)), max_size=3),
    st.booleans(),
)
def test_the_sum_against_counting_one_by_one(counts, grounds, yokes, clamps):
    """Allowances dealt out one at a time, as with beans."""
    from fjeld import practice

    volume = {"14": 2.0, "12": 2.25, "10": 2.5}
    beans = [volume[g] for g, n in counts for _ in range(n)]
    beans += [volume[g] for g, n in yokes for _ in range(2 * n)]
    largest_ground = max((volume[g] for g in grounds), default=0.0)
    beans += [largest_ground] * bool(grounds) + [largest_ground / 4] * max(0, len(grounds) - 4)
    inside = [volume[g] for g, n in counts if n] + [volume[g] for g in grounds]
    if clamps:
        beans.append(max(inside, default=2.0))
    found = fill(
        Contents(
            tuple(ConductorCount(g, n) for g, n in counts),
            tuple(grounds),
            tuple(Yoke(g, n) for g, n in yokes),
            clamps,
        ),
        practice.load("na"),
    )
    assert found.total == pytest.approx(sum(beans))


def test_the_reserve_is_one_cable_more(na):
    before = contents(("14", (2, 2)))
    assert fill(with_reserve(before, "14"), na).total - fill(before, na).total == pytest.approx(4.0)
