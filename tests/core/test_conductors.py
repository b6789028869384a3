"""Colours and counts: what each cable carries, checked over every pattern the generator reaches."""

from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.conductors import SPARE, _colours
from fjeld.derive.keys import parse_net
from fjeld.derive.plan import derive
from fjeld.drawing.model import Circuit
from tests.houses import one_room

seeds = st.integers(0, 600)


@given(seeds)
def test_each_cable_carries_exactly_the_nets_with_terminals_on_both_sides(seed):
    """Cut the tree at a cable and look at both halves, terminal by terminal."""
    plan = derive(one_room(seed))
    for circuit in plan.circuits.values():
        for edge in circuit.tree.edges:
            beyond, stack = {edge.down}, [edge.down]
            while stack:
                here = stack.pop()
                for other in circuit.tree.edges:
                    if other.up == here:
                        beyond.add(other.down)
                        stack.append(other.down)
            # A section is joined to its parent at the box where it begins.
            spots = [(t.box, t.net) for t in circuit.nets.terminals]
            spots += [(box, parent) for (box, _), parent in circuit.nets.links.items()]
            inside = {net for box, net in spots if box in beyond}
            outside = {net for box, net in spots if box not in beyond}
            carried = [n for b in circuit.nets.bundles[edge.cable] for n in b.nets]
            assert sorted(carried, key=str) == sorted(inside & outside, key=str)


@given(seeds)
def test_colours_keep_the_rules(seed):
    plan = derive(one_room(seed))
    for run in plan.runs():
        assert not run.too_few
        insulated = [c for c in run.conductors if c.insulated]
        assert sorted(c.colour for c in insulated) == sorted(run.kind.colours)
        assert sum(not c.insulated for c in run.conductors) == 1, "a ground in every cable"
        for c in insulated:
            if c.net.role == "neutral":
                assert c.colour == "WH"
                assert not c.marked
            elif c.colour == "WH" and c.net != SPARE:
                assert c.marked, "white that is not neutral is re-identified"
                assert c.net.role in (
                    "line",
                    "traveller",
                    "strap",
                ), "white may feed a switch, never return from it"
        assert sum(c.net.role == "neutral" for c in insulated) <= 1, "one neutral in a cable"


@given(seeds)
def test_the_kind_is_the_least_that_carries_its_nets(seed):
    plan = derive(one_room(seed))
    for run in plan.runs():
        needed = max(2, len(run.nets))
        assert run.kind.insulated == needed
        assert run.kind.gauge == plan.drawing.get(run.circuit, Circuit).gauge


def colours(nets, on, before=None):
    """Colour → text of the net, under North American practice; nets by their texts."""
    worn = {parse_net(text): colour for text, colour in (before or {}).items()}
    return {c: str(n) for c, n in _colours(tuple(map(parse_net, nets)), on, worn, "WH").items()}


def test_a_switched_line_takes_black_where_no_line_travels_along():
    assert colours(("SL:K1", "N"), ("BK", "WH")) == {"BK": "SL:K1", "WH": "N"}
    assert colours(("L", "SL:K1", "N"), ("BK", "RD", "WH"))["BK"] == "L"


def test_a_switch_loop_without_neutral_feeds_on_white():
    found = colours(("L", "SL:K1"), ("BK", "WH"))
    assert found == {"WH": "L", "BK": "SL:K1"}


def test_travellers_keep_their_pair_and_their_colour():
    first = colours(("L", "T:K1.1a", "T:K1.1b", "N"), ("BK", "RD", "BU", "WH"))
    assert {first["RD"], first["BU"]} == {"T:K1.1a", "T:K1.1b"}
    before = {net: colour for colour, net in first.items()}
    again = colours(("T:K1.1a", "T:K1.1b", "N"), ("BK", "RD", "WH"), before)
    assert again["RD"] == first["RD"]
