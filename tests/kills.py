"""Kill a worker with no warning while it commits: everything it said was kept is kept.

``python -m tests.kills 200`` kills so many, each at a random moment, and counts what was lost.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

#: What is killed: commits one edit after another, and says each one's step once it is acknowledged.
WORKER = """
import sys, django
django.setup()
from fjeld.drawing.edits.layout import MovePoint
from fjeld.quantities import Length
from fjeld.web.http import store
from fjeld.web.jobs.models import Job
job = Job.objects.order_by("pk").first()
who = job.head.who
at = int(sys.argv[1])
while True:
    at += 1
    done = store.commit(job.pk, who, MovePoint("A1", x=Length(1000.0 + at % 700)), base=None)
    print(done.seq, done.after.items["A1"].x.mm, flush=True)
"""
LOOK = """
import django
django.setup()
from django.db import connection
from fjeld.web.jobs.models import Job
job = Job.objects.select_related("head__document").order_by("pk").first()
with connection.cursor() as cursor:
    cursor.execute("PRAGMA integrity_check")
    whole = cursor.fetchone()[0]
steps = dict(job.revisions.values_list("seq", "document_id"))
every = sorted(steps) == list(range(1, job.head.seq + 1))
print(whole, job.head.seq, job.head.document.drawing.items["A1"].x.mm, every)
"""


def killed(times: int, seed: int, var: Path) -> tuple[int, int]:
    """(edits acknowledged, edits lost) over so many kills of a worker on one database."""
    env = {
        **os.environ,
        "FJELD_VAR": str(var),
        "DJANGO_SETTINGS_MODULE": "fjeld.web.settings",
        "FJELD_SECRET_KEY": "k" * 60,
    }
    env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    (var / "static").mkdir(parents=True, exist_ok=True)
    for command in ("migrate", "load_demo"):
        subprocess.run([sys.executable, "manage.py", command], env=env, check=True, capture_output=True)
    die, acknowledged, lost = random.Random(seed), 0, 0
    for n in range(times):
        worker = subprocess.Popen(
            [sys.executable, "-c", WORKER, str(n * 37)], env=env, stdout=subprocess.PIPE, text=True
        )
        assert worker.stdout is not None
        said: list[str] = []
        for _ in range(die.randint(1, 6)):
            said.append(worker.stdout.readline())
        try:
            # At any moment of the next commit.
            worker.wait(die.uniform(0.0, 0.12))
        except subprocess.TimeoutExpired:
            worker.send_signal(signal.SIGKILL)
        rest, _ = worker.communicate()
        said += [line for line in rest.splitlines() if len(line.split()) == 2]
        seq, at = said[-1].split()
        looked = subprocess.run(
            [sys.executable, "-c", LOOK], env=env, capture_output=True, text=True, check=True
        ).stdout.split()
        acknowledged += len(said)
        kept = looked[0] == "ok" and looked[3] == "True" and int(looked[1]) >= int(seq)
        if not kept or (int(looked[1]) == int(seq) and float(looked[2]) != float(at)):
            lost += 1
    return acknowledged, lost


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        count, gone = killed(int(sys.argv[1]) if len(sys.argv) > 1 else 20, 3, Path(folder))
    print(f"{count} edits acknowledged, {gone} lost")
