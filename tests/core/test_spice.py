"""The voltage engine against a stock circuit simulator, run on the exported netlist."""

import shutil
import subprocess

import pytest

from fjeld.derive.keys import LINE
from fjeld.derive.plan import derive
from fjeld.formats.spice import lamp_volts, netlist, node_names
from fjeld.prove.faults import Bridge, Crossed, LooseJoint, NoSuchPlace, OpenConductor, with_fault
from fjeld.prove.proof import prove_network
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver, band
from fjeld.prove.states import gray
from tests.houses import one_room


def simulated(network, state, tmp_path, off=()):
    assert shutil.which("ngspice"), "ngspice is a test dependency: see tests/tools.sh"
    file = tmp_path / "network.cir"
    file.write_text(netlist(network, state, off))
    run = subprocess.run(
        ["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=60, check=False
    )
    assert run.returncode == 0, run.stderr
    return lamp_volts(run.stdout, network)


def agree(network, states, tmp_path, off=()):
    """The lamps' volts by both, in each state; and which of them the logic engine lights."""
    solver = Solver(network)
    for state in states:
        outside = simulated(network, state, tmp_path, off)
        row = solver.voltages([state], off)[0]
        for load in network.loads:
            assert solver.across(row, load.a, load.b) == pytest.approx(outside[load.key], abs=0.1), (
                load.key,
                state,
            )


def states_of(network):
    return [dict(zip(network.positions, setting, strict=True)) for setting in gray(len(network.positions))]


def test_every_switch_combination_of_the_demo(boot_plan, tmp_path):
    network = boot_plan.network
    states = states_of(network)
    assert len(states) >= 4
    agree(network, states, tmp_path)
    found = reach(network, network.positions)
    for state in states:
        number = sum(state[p] << i for i, p in enumerate(network.positions))
        outside = simulated(network, state, tmp_path)
        for load in network.loads:
            assert (band(outside[load.key], 120) == "lit") == bool(found.lit(load.a, load.b) >> number & 1)


def test_with_a_breaker_off_its_lamps_are_dark(boot_plan, tmp_path):
    agree(boot_plan.network, states_of(boot_plan.network)[:2], tmp_path, off=("Q1",))


def end_of(plan, box, role):
    return next(c for c in plan.boxes[box].ends if c.net.role == role)


def five_faults(plan):
    """An open neutral, a loose feed, a traveller on the common, a bootleg ground, and a traveller shorted to
    its twin.
    """
    lamp = min(h for h in plan.boxes if h.startswith("A"))
    neutral = end_of(plan, lamp, "neutral")
    switch = next(
        h for h in plan.boxes if h.startswith("S") and any(str(c.net) == "SL:K1" for c in plan.boxes[h].ends)
    )
    travellers = [c for c in plan.boxes[switch].ends if c.net.role == "traveller"]
    feed = next(c for r in plan.runs() for c in r.conductors if c.net == LINE and c.a == plan.panel)
    landing = f"{feed.key}@{plan.panel} landing"
    return {
        "open neutral": OpenConductor(neutral.key),
        "loose joint": LooseJoint(landing, 25.0),
        "traveller on the common": Crossed(travellers[0].key, end_of(plan, switch, "switched").key, switch),
        "bootleg ground": Bridge(f"{neutral.key}@{lamp}", f"{lamp}.ground"),
        "shorted travellers": Bridge(*(f"{c.key}@{switch}" for c in travellers[:2])),
    }


@pytest.mark.parametrize(
    "name", ["open neutral", "loose joint", "traveller on the common", "bootleg ground", "shorted travellers"]
)
def test_five_faults(boot_plan, tmp_path, name):
    network = with_fault(boot_plan.network, five_faults(boot_plan)[name])
    assert network != boot_plan.network
    agree(network, states_of(network), tmp_path)


@pytest.mark.parametrize("name", ["open neutral", "traveller on the common", "shorted travellers"])
def test_a_fault_that_shows_fails_its_control(boot_plan, name):
    network = with_fault(boot_plan.network, five_faults(boot_plan)[name])
    assert not all(p.proven for p in prove_network(boot_plan, network).values())


def test_a_fault_nowhere_is_refused(boot_plan):
    for fault in (
        OpenConductor("C99.bk"),
        LooseJoint("nothing"),
        Bridge("x", "y"),
        Crossed("C1.bk", "C1.wh", "A99"),
    ):
        with pytest.raises(NoSuchPlace):
            with_fault(boot_plan.network, fault)


@pytest.mark.parametrize("seed", [2, 3, 11])
def test_other_rooms_too(seed, tmp_path):
    network = derive(one_room(seed)).network
    agree(network, states_of(network)[:2], tmp_path)


def test_names_are_unique_whatever_their_case(boot_plan):
    names = node_names(boot_plan.network)
    assert len({n.lower() for n in names.values()}) == len(names)
    text = netlist(boot_plan.network, {})
    assert text.endswith(".end\n")
    elements = [line.split()[0].lower() for line in text.splitlines() if line and line[0] in "RVC"]
    assert len(elements) == len(set(elements))
    assert sum(line.startswith("Rleak") for line in text.splitlines()) == len(names) - 1


def test_other_output_is_not_taken_for_figures(boot_plan):
    with pytest.raises(ValueError, match="other figures"):
        lamp_volts("nothing of the kind", boot_plan.network)
