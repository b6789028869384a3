"""The same drawing gives the same plan in every process, whatever order its hashes fall in: a card that was
printed yesterday says its joints in today's order.
"""

import os
import subprocess
import sys

import pytest

from fjeld.formats import jobfile
from tests.worlds import world

#: Derives, checks and proves the job files that it is given, and prints all of it.
SCRIPT = """
import sys
from fjeld.cli import main
for name in sys.argv[1:]:
    for command in (["derive"], ["check"], ["prove"], ["export", "--to", "spice"]):
        main([command[0], name, *command[1:]])
"""


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """Drawings in which boxes are shared by circuits, fed from old boxes and divided."""
    folder = tmp_path_factory.mktemp("same")
    names = []
    for seed in (13, 15, 17, 20, 36, 107, 142, 164):
        names.append(str(folder / f"{seed}.json"))
        (folder / f"{seed}.json").write_bytes(jobfile.encode(world(seed)))
    return names


def test_what_is_worked_out_hangs_on_no_hash(files):
    told = {
        subprocess.run(
            [sys.executable, "-c", SCRIPT, *files],
            env={**os.environ, "PYTHONHASHSEED": seed},
            capture_output=True,
            check=True,
        ).stdout
        for seed in ("1", "2", "3")
    }
    assert len(told) == 1


def test_of_readings_that_disagree_the_first_end_is_named():
    told = {
        subprocess.run(
            [sys.executable, "-c", READINGS],
            env={**os.environ, "PYTHONHASHSEED": seed},
            capture_output=True,
            check=True,
        ).stdout
        for seed in ("1", "2", "3", "4", "5", "6")
    }
    assert len(told) == 1
    assert b"1.BK" in told.pop()


#: Two readings of one state that disagree on two ends.
READINGS = """
from fjeld.judge.volts import Volts
from fjeld.drawing.old_box import Device, cable_of
from fjeld.oldbox.found import FoundBox, Reading
from fjeld.oldbox.showed import contradiction
box = FoundBox("switch", (cable_of("1", ("BK", "WH", "G")), cable_of("2", ("BK", "WH", "G"))))
live, dead = Volts(120.0, 120.0), Volts(0.2, 0.1)
one = Reading("R4", to_earth={"1.BK": live, "2.BK": dead}, proven=True)
other = Reading("R4", to_earth={"1.BK": dead, "2.BK": live}, proven=True)
print(contradiction(box, (one, other), 120.0))
"""
