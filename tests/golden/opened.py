"""Opens a golden store as the next version does, in a process of its own: ``python -m tests.golden.opened
STORE OUTBOX``.

Migrates a copy, opens every page, sheet and file of every job, takes a step back and does it again, and sends
what a browser of that version still keeps. Prints what was met as JSON; whoever calls judges it.
"""

from __future__ import annotations

import gzip
import json
import os
import sys
import tempfile
from pathlib import Path
from typing import Any

HOUSE = (
    "survey/",
    "layout/",
    "circuits/",
    "runs/",
    "boxes/",
    "proof/",
    "site/",
    "record/",
    "sheets/mark-out",
    "export/job.json",
    "export/materials.csv",
    "export/cables.csv",
    "export/floor.dxf",
    "export/history.json",
)
ERRAND = (
    "errand",
    "errand/spot",
    "errand/path",
    "errand/box",
    "errand/proof",
    "errand/steps",
    "errand/sheet",
    "errand/kept",
    "errand/kept.json",
    "errand/kept.zip",
)


#: So many steps are taken back of each job.
STEPS = 4


def main(store: Path, outbox: Path) -> None:
    """What was met: pages that did not open, what stands in it, and what became of each entry."""
    with tempfile.TemporaryDirectory() as var:
        Path(var, "static").mkdir()
        Path(var, "fjeld.sqlite3").write_bytes(gzip.decompress(store.read_bytes()))
        os.environ |= {"FJELD_VAR": var, "DJANGO_SETTINGS_MODULE": "fjeld.web.settings", "FJELD_HOSTS": "*"}
        import django

        django.setup()
        from django.core.management import call_command

        call_command("migrate", verbosity=0)
        print(json.dumps(_met(json.loads(outbox.read_text(encoding="utf-8")))))


def _met(waiting: list[dict[str, Any]]) -> dict[str, Any]:
    from django.contrib.auth import get_user_model
    from django.test import Client

    from fjeld.web.jobs.models import Job, Member, Photo, Record, Revision

    clients = {}
    for person in get_user_model().objects.all():
        clients[person.username] = Client(raise_request_exception=False)
        clients[person.username].force_login(person)
    stood = {
        "jobs": Job.objects.count(),
        "revisions": Revision.objects.count(),
        "records": Record.objects.count(),
        "photographs": Photo.objects.count(),
    }
    closed, sent = [], []
    for job in Job.objects.order_by("pk"):
        owner = Member.objects.get(job=job, role=Member.Role.OWNER).user.username
        errand = job.head.document.drawing.house.errand is not None
        for page in (*HOUSE, *(ERRAND if errand else ())):
            status = clients[owner].get(f"/jobs/{job.pk}/{page}").status_code
            if status != 200:
                closed.append(f"{job.name}: {page} answered {status}")
        for photo in job.photos.all():
            status = clients[owner].get(f"/jobs/{job.pk}/errand/photo/{photo.pk}").status_code
            if status != 200:
                closed.append(f"{job.name}: photograph {photo.pk} answered {status}")
        closed += _back_and_again(clients[owner], job)
    for entry in waiting:
        answer = clients[entry["user"]].post(entry["url"], dict(entry["fields"]), headers={"X-Kept": "1"})
        sent.append(
            [
                entry["url"].rpartition("/")[2],
                dict(entry["fields"]).get("event", ""),
                dict(entry["fields"]).get("step", ""),
                answer.status_code,
            ]
        )
    return {"stood": stood, "closed": closed, "sent": sent}


def _back_and_again(client: Any, job: Any) -> list[str]:
    """The last steps that stand taken back and done again; what did not come out as it was."""
    said = []
    before = job.head.document.drawing.items
    answers = [client.post(f"/jobs/{job.pk}/survey/undo").status_code for _ in range(STEPS)]
    answers += [client.post(f"/jobs/{job.pk}/survey/redo").status_code for _ in range(answers.count(302))]
    said += [
        f"{job.name}: a step taken back or done again answered {n}" for n in answers if n not in (302, 422)
    ]
    job.refresh_from_db()
    if job.head.document.drawing.items != before:
        said.append(f"{job.name}: taken back and done again it is another drawing")
    return said


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
