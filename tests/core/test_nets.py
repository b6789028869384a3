"""The conductor count of every cable, for the patterns people wire."""

import pytest

from fjeld.derive.nets import solve
from fjeld.derive.terminals import BoxIntent, CircuitIntent
from fjeld.derive.tree import tree
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Control, LoadRef

KINDS = {"S": "switch", "A": "light", "B": "light", "O": "outlet", "V": "alarm", "F": "fan", "J": "junction"}


def counts(cables, controls, neutral=(), line=(), strap=False):
    """Insulated conductors on each cable of ``cables`` (pairs of box names, P the panel)."""
    joined = {Handle(f"C{n}"): tuple(Handle(e) for e in pair.split("-")) for n, pair in enumerate(cables, 1)}
    boxes = sorted({e for pair in joined.values() for e in pair} - {"P1"})
    named = {
        Handle(f"K{n}"): Control(tuple(p), tuple(map(LoadRef.read, loads)))
        for n, (p, loads) in enumerate(controls, 1)
    }
    intent = CircuitIntent(
        Handle("Q1"),
        tuple(BoxIntent(b, KINDS[b[0]], b in neutral, b in line) for b in boxes),
        named,
        frozenset(named) if strap else frozenset(),
    )
    where = tree(Handle("P1"), boxes, joined)
    price = {2: 1.0, 3: 1.5, 4: 2.2}
    nets = solve(intent, where, lambda cable, n: price.get(max(n, 2), 1.1 * n))
    return [sum(len(b.nets) for b in nets.bundles[c]) for c in joined]


ONE = [(["S1"], ["A1"])]
THREE_WAY = [(["S1", "S2"], ["A1"])]


@pytest.mark.parametrize(
    ("cables", "controls", "options", "expected"),
    [
        (["P1-S1", "S1-A1"], ONE, {}, [2, 2]),
        (["P1-A1", "A1-S1"], ONE, {"neutral": ["S1"]}, [2, 3]),
        (["P1-A1", "A1-S1"], ONE, {}, [2, 2]),
        (["P1-S1", "S1-A1", "A1-A2", "A2-A3"], [(["S1"], ["A1", "A2", "A3"])], {}, [2, 2, 2, 2]),
        (["P1-S1", "S1-S2", "S2-A1"], THREE_WAY, {}, [2, 3, 2]),
        (["P1-S1", "S1-A1", "A1-S2"], THREE_WAY, {}, [2, 3, 3]),
        (["P1-S1", "S1-A1", "A1-S2"], THREE_WAY, {"neutral": ["S2"]}, [2, 3, 4]),
        (["P1-S1", "S1-S2", "S2-A1"], THREE_WAY, {"neutral": ["S1", "S2"], "line": ["S1", "S2"]}, [2, 4, 2]),
        (["P1-A1", "A1-S1", "S1-S2"], THREE_WAY, {"neutral": ["S1"]}, [2, 3, 3]),
        (["P1-A1", "A1-S1", "S1-S2"], THREE_WAY, {}, [2, 2, 3]),
        (["P1-A1", "A1-S1", "S1-S2"], THREE_WAY, {"neutral": ["S1", "S2"]}, [2, 3, 4]),
        (["P1-S1", "S1-S2", "S1-A1"], THREE_WAY, {"strap": True}, [2, 3, 2]),
        (["P1-S1", "S1-S2", "S2-A1"], THREE_WAY, {"strap": True}, [2, 4, 2]),
        (["P1-S1", "S1-S2", "S2-S3", "S3-A1"], [(["S1", "S2", "S3"], ["A1"])], {}, [2, 3, 3, 2]),
        (["P1-S1", "S1-F1"], [(["S1"], ["F1.fan"]), (["S1"], ["F1.light"])], {}, [2, 3]),
        (["P1-S1", "S1-O1"], [(["S1"], ["O1.upper"])], {}, [2, 3]),
        (["P1-V1", "V1-V2", "V2-V3"], [], {}, [2, 3, 3]),
        (["P1-S1", "S1-A1", "A1-O1"], ONE, {}, [2, 3, 2]),
    ],
)
def test_conductors_on_each_cable(cables, controls, options, expected):
    assert counts(cables, controls, **options) == expected


def test_five_controls_are_divided_over_two_cables_with_a_neutral_each():
    controls = [(["S1"], [f"A{n}"]) for n in range(1, 6)]
    cables = ["P1-S1", "S1-A1", "A1-A2", "A2-A3", "A3-A4", "A4-A5"]
    joined = counts(cables, controls)
    assert joined[0] == 2
    assert joined[1] == 5 + 2, "five switched lines and two neutrals"
    assert joined[-1] == 2


def test_a_loop_and_an_unfed_box_are_told():
    where = tree(
        Handle("P1"),
        [Handle(h) for h in ("A1", "A2", "A3")],
        {Handle("C1"): ("P1", "A1"), Handle("C2"): ("A1", "A2"), Handle("C3"): ("A2", "P1")},
    )
    assert len(where.loops) == 1
    assert where.unfed == ("A3",)
