"""Every golden store opens: houses, errands, history, records, photographs, and what a browser
still keeps.
"""

import json
import subprocess
import sys
from pathlib import Path

import pytest

import tests.golden

HERE = Path(tests.golden.__file__).parent
STORES = sorted(HERE.glob("*.sqlite3.gz"))
#: What stood in each when it was made: nothing of it may go.
STOOD = {"c99bb9e": {"jobs": 28, "revisions": 380, "records": 179, "photographs": 40}}


@pytest.mark.parametrize("store", STORES, ids=lambda p: p.name.partition(".")[0])
def test_a_store_of_an_earlier_version_opens_with_all_that_is_in_it(store):
    name = store.name.partition(".")[0]
    done = subprocess.run(
        [sys.executable, "-m", "tests.golden.opened", store, HERE / f"{name}.outbox.json"],
        capture_output=True,
        text=True,
        timeout=220,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-3000:]
    met = json.loads(done.stdout)
    assert met["closed"] == [], done.stderr[-3000:]
    assert met["stood"] == STOOD[name]
    # Whatever a browser still keeps is kept, or refused in words: never lost, never a fault.
    assert {status for *_, status in met["sent"]} <= {204, 422}
    assert all(status == (422 if step == "no such step" else 204) for _, _, step, status in met["sent"])


def test_there_is_one():
    assert [p.name for p in STORES if p.name.startswith("c99bb9e")]
