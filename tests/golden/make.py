"""Makes a golden store with the program as it stands: ``python -m tests.golden.make NAME``, once for each
version that is let go.

What it writes is never made anew: ``NAME.sqlite3.gz`` is a database with houses of both practices and their
history, an errand of every kind of both practices with readings, a log, photographs and struck records;
``NAME.outbox.json`` is what a browser keeps that wrote without connection.
"""

from __future__ import annotations

import gzip
import io
import json
import os
import sqlite3
import sys
import tempfile
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent


def main(name: str) -> None:
    """A store and an outbox of this name beside this module; refuses to write over one."""
    store, outbox = HERE / f"{name}.sqlite3.gz", HERE / f"{name}.outbox.json"
    if store.exists() or outbox.exists():
        raise SystemExit(f"{name} is there already: a golden store is made once")
    with tempfile.TemporaryDirectory() as var:
        os.environ |= {"FJELD_VAR": var, "DJANGO_SETTINGS_MODULE": "fjeld.web.settings", "FJELD_HOSTS": "*"}
        Path(var, "static").mkdir()
        import django

        django.setup()
        waiting = _filled()
        out = Path(var, "out.sqlite3")
        with sqlite3.connect(Path(var, "fjeld.sqlite3")) as base:
            base.execute("DELETE FROM django_session")
            base.commit()
            base.execute("VACUUM INTO ?", (str(out),))
        store.write_bytes(gzip.compress(out.read_bytes(), 9, mtime=0))
        outbox.write_text(json.dumps(waiting, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"{store.name}: {store.stat().st_size:,} bytes; {len(waiting)} entries wait")


def _filled() -> list[dict[str, Any]]:
    """Fills the database; what a browser still keeps."""
    from django.contrib.auth import get_user_model
    from django.core.management import call_command
    from django.test import Client

    from fjeld.web.jobs.models import Job, Member
    from fjeld.web.places.kinds import KINDS

    call_command("migrate", verbosity=0)
    call_command("load_demo")
    people = get_user_model().objects
    owner, second = (people.create_user(n, password="a long password") for n in ("owner", "second"))
    client, other = Client(), Client()
    client.force_login(owner)
    other.force_login(second)
    _house(client)
    waiting: list[dict[str, Any]] = []
    for practice in ("na", "gb"):
        for kind in KINDS:
            client.post(
                "/errand", {"wants": kind, "practice": practice, "attic": "on", "name": f"{kind} {practice}"}
            )
            job = Job.objects.latest("pk")
            Member.objects.create(job=job, user=second, role=Member.Role.SITE)
            waiting += _errand(client, other, job, kind, practice)
    return waiting


def _house(client: Any) -> None:
    """A house begun by words, with undone and done again, an amendment and a conflict's worth of history."""
    from fjeld.web.jobs.models import Job

    client.post("/jobs/new", {"name": "A house by words", "practice": "na"})
    job = Job.objects.latest("pk")
    here = {"HX-Request": "true", "HX-Current-URL": f"http://testserver/jobs/{job.pk}/survey/"}
    said = ("rect 12' by 10'", "door 2'8 at 1' on 1", "panel at 3' on 2", "window 3' at 4' on 3 sill 3'")
    for action, form in (
        ("start", {"name": "Bedroom", "use": "bed"}),
        *(("say", {"words": words}) for words in said),
    ):
        answer = client.post(f"/jobs/{job.pk}/survey/do/{action}", form, headers=here)
        if answer.status_code != 200:
            raise SystemExit(f"{action} {form} answered {answer.status_code}")
    for word in ("undo", "redo", "undo"):
        _post(client, f"/jobs/{job.pk}/survey/{word}", {})


def _post(client: Any, address: str, form: dict[str, Any], fine: tuple[int, ...] = (302,)) -> None:
    answer = client.post(address, form)
    if answer.status_code not in fine:
        raise SystemExit(f"{address} {form} answered {answer.status_code}")


def _errand(client: Any, other: Any, job: Any, kind: str, practice: str) -> list[dict[str, Any]]:
    """An errand recorded, read, told and begun, as far as its kind goes; what is still to be sent of it."""
    from fjeld.oldbox.arrangements import arrangements
    from fjeld.work.book import NEW

    at = f"/jobs/{job.pk}/errand"
    switch, known = kind not in ("heavy", "alarms", "loose splice"), arrangements(practice)
    places = {
        "heavy": "ceiling",
        "alarms": "ceiling",
        "loose splice": "junction",
        "outlet": "outlet",
        "outdoors": "outlet",
    }
    place = places.get(kind, "switch")
    usual = next(n for n, a in enumerate(known) if a.box.place == place and len(a.box.cables) == 2)
    _post(client, f"{at}/do/place", {"box": "E1", "place": place})
    _post(client, f"{at}/do/begin", {"box": "E1", "usual": usual})
    looks = {
        "ground": "present",
        "condition": "sound",
        "gauge": "14" if practice == "na" else "1.5",
        "amps": "15" if practice == "na" else "6",
        "serves": "general" if practice == "na" else "lighting",
        "opening": "yes",
        "accessible": "yes",
        "alone": "yes",
        "beside": "300",
        "breaker": "the third from above",
        "breaker_read": "yes",
    }
    looks |= {"volume": "18", "clamps": "no"} if practice == "na" else {"depth": "35"}
    for field, value in looks.items():
        _post(client, f"{at}/do/look", {"box": "E1", "field": field, "value": value})
    _readings(client, at, place, practice)
    if kind in NEW:
        for ask, value in (("surface", "wall"), ("covering", "wallboard"), ("other side", "clear")):
            _post(client, f"{at}/spot/told", {"ask": ask, "value": value}, (302, 422))
        for ask, value in (("lies", "along the joists"), ("across", "9'")):
            _post(client, f"{at}/path/told", {"ask": ask, "value": value}, (302, 422))
    _post(client, f"{at}/take-back", {"which": "undo"})
    for n, (event, step) in enumerate(
        (("begun", "look"), ("done", "look"), ("done", "breaker"), ("away", ""), ("tripped", ""))
    ):
        form = {"event": event, "step": step, "token": f"golden-{job.pk}-{n}", "note": "as it stood"}
        _post(client if n % 2 else other, f"{at}/step", form)
    _photographed(client, at, job)
    if not switch:
        return []
    return [
        _entry("owner", job, "step", {"event": "done", "step": "look", "note": "looked again"}, 1),
        _entry(
            "owner", job, "record", {"box": "E1", "reading": "R7", "proven": "on", "figures:ohms": "0.2"}, 2
        ),
        _entry("second", job, "step", {"event": "away", "step": ""}, 3),
        _entry("owner", job, "step", {"event": "done", "step": "no such step"}, 4),
    ]


def _readings(client: Any, at: str, place: str, practice: str) -> None:
    """Two readings, one of them struck out."""
    volts = (
        {"volts:1.BK": "120.1", "volts:2.BK": "0.3"}
        if practice == "na"
        else {"volts:1.BN": "230.1", "volts:2.BN": "0.3"}
    )
    stands = {"stands:S": "open"} if place == "switch" else {}
    for n in range(2):
        _post(
            client,
            f"{at}/record",
            {
                "box": "E1",
                "reading": "R4",
                "proven": "on",
                "token": f"reading-{at}-{n}".replace("/", "-"),
                **stands,
                **volts,
            },
            (302, 422),
        )
    from fjeld.web.jobs.models import Record

    last = Record.objects.filter(kind="reading").latest("pk")
    _post(client, f"{at}/strike", {"record": last.pk})


def _photographed(client: Any, at: str, job: Any) -> None:
    """A photograph of a step and one of the box, struck out."""
    from PIL import Image

    from fjeld.web.jobs.models import Photo

    for key, tint in (("step:look", (120, 90, 60)), ("E1", (60, 90, 120))):
        data = io.BytesIO()
        Image.new("RGB", (64, 48), tint).save(data, "JPEG")
        data.seek(0)
        data.name = "photo.jpg"
        _post(
            client,
            f"{at}/photo",
            {"key": key, "photo": data, "token": f"photo-{job.pk}-{key.replace(':', '-')}"},
        )
    _post(client, f"{at}/photo/{Photo.objects.latest('pk').pk}/strike", {})


def _entry(user: str, job: Any, page: str, form: dict[str, str], n: int) -> dict[str, Any]:
    """An entry as a browser of this version keeps it."""
    fields = [*form.items(), ("token", f"outbox{job.pk:04d}{n:02d}"), ("written", "1793000000.25")]
    return {
        "user": user,
        "job": str(job.pk),
        "url": f"/jobs/{job.pk}/errand/{page}",
        "words": "",
        "fields": fields,
        "refused": "",
    }


if __name__ == "__main__":
    main(sys.argv[1])
