"""An old box as a network reads as the inference says, in every hypothesis and every state of its
switches.
"""

import json
import shutil
import subprocess
from itertools import product

import pytest

from fjeld.cli import main
from fjeld.derive.keys import DeviceKey
from fjeld.derive.network import EARTH
from fjeld.drawing.ends import is_ground
from fjeld.formats.spice import lamp_volts, netlist
from fjeld.judge.volts import Volts
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.found import Reading, nets
from fjeld.oldbox.hypotheses import hypotheses
from fjeld.oldbox.network import network_of
from fjeld.oldbox.shows import shows
from fjeld.oldbox.taken import Held, explains
from fjeld.oldbox.weighed import groups
from fjeld.practice import load
from fjeld.prove.reach import reach
from fjeld.prove.solve import Solver

BOXES = [(p, n) for p in ("na", "gb") for n in range(len(arrangements(p)))]


def cases(practice, n):
    """Every hypothesis of every group of a usual box, with its network and what it shows."""
    for group in groups(arrangements(practice)[n].box):
        where = nets(group)
        for found in hypotheses(group, where, load(practice).rings):
            yield group, where, found, shows(group, where, found), network_of(group, found, load(practice))


def states(shown):
    for bits in product((0, 1), repeat=len(shown.controls)):
        yield (
            sum(b << i for i, b in enumerate(bits)),
            {DeviceKey("E1", c): b for c, b in zip(shown.controls, bits, strict=True)},
        )


@pytest.mark.parametrize(("practice", "n"), BOXES)
def test_what_is_joined_to_line_and_neutral_is_as_the_inference_shows(practice, n):
    met = 0
    for group, where, _, shown, network in cases(practice, n):
        reached = reach(network, [DeviceKey("E1", c) for c in shown.controls])
        for net, ends in enumerate(where.ends):
            # Grounds are joined to neutral where the supply is, and the inference leaves them out.
            if ends and not is_ground(ends[0]):
                assert reached.line.get(ends[0], 0) == shown.live[net], (ends, shown.controls)
                at_rest = reached.neutral.get(ends[0], 0)
                assert (at_rest != 0) == (net in shown.home), ends
        met += bool(group.cables)
    assert met


@pytest.mark.parametrize(("practice", "n"), BOXES)
def test_a_meter_on_it_shows_what_the_inference_takes_for_explained(practice, n):
    """Readings solved from the network, with a meter's two inputs, exclude no hypothesis that they are of."""
    for group, where, found, shown, network in cases(practice, n):
        solver = Solver(network)
        ends = [e for cable in group.cables for e in cable.insulated]
        taken = []
        for _, state in states(shown):
            row = solver.readings(ends, EARTH, [state])[0]
            volts = {e: Volts(round(a, 1), round(b, 1)) for e, (a, b) in zip(ends, row, strict=True)}
            stand = {
                d.id: (
                    ("open", "closed")[state[DeviceKey("E1", d.id)]]
                    if d.kind == "switch"
                    else ("down", "up")[state[DeviceKey("E1", d.id)]]
                )
                for d in group.devices
                if DeviceKey("E1", d.id) in state
            }
            beyond = {str(k.control): ("down", "up")[at] for k, at in state.items() if k.control not in stand}
            taken.append(Reading("R4", stand | beyond, volts, proven=True, every_switch=True, power=True))
        held = Held(group, where, load(practice).volts, found, shown)
        assert explains(held, taken), (found, taken)


@pytest.mark.skipif(shutil.which("ngspice") is None, reason="no circuit simulator here")
@pytest.mark.parametrize("practice", ["na", "gb"])
def test_a_stock_simulator_finds_the_same_volts_at_its_lamps(practice, tmp_path):
    tried = 0
    for n in range(len(arrangements(practice))):
        for _, _, _, shown, network in list(cases(practice, n))[:2]:
            if not network.loads:
                continue
            solver, (_, state) = Solver(network), list(states(shown))[-1]
            path = tmp_path / "box.cir"
            path.write_text(netlist(network, state))
            done = subprocess.run(["ngspice", "-b", path], capture_output=True, text=True, check=True)
            row = solver.voltages([state])[0]
            for lamp, volts in zip(network.loads, lamp_volts(done.stdout, network).values(), strict=True):
                assert solver.across(row, lamp.a, lamp.b) == pytest.approx(volts, rel=1e-4, abs=1e-3)
            tried += 1
    assert tried > 5


def test_the_command_writes_the_likeliest_as_a_netlist(capsys, monkeypatch, tmp_path):
    box = {
        "place": "switch",
        "cables": [{"id": 1, "cond": ["BK", "WH", "G"]}, {"id": 2, "cond": ["BK", "WH", "G"]}],
        "joints": [["1.WH", "2.WH"]],
        "device": {"kind": "switch", "a": "1.BK", "b": "2.BK"},
        "readings": [
            {
                "id": "R4",
                "state": "S open",
                "1.BK": 120.1,
                "2.BK": 0.3,
                "proven": True,
                "every_switch": True,
                "power": True,
            }
        ],
    }
    path = tmp_path / "box.json"
    path.write_text(json.dumps(box))
    for up, said in (([], "* open E1:S "), (["--up", "S"], "; closed E1:S ")):
        assert main(["source", str(path), "--to", "spice", *up]) == 0
        out = capsys.readouterr().out
        assert "lamp beyond 2.BK" in out
        assert said in out
    assert main(["source", str(path), "--to", "spice", "--up", "S9"]) == 2
    assert "there is no switch “S9”; there is S" in capsys.readouterr().err
