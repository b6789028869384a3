"""For those who run it: a back-up taken and put back while Fjeld serves, a health page that looks, jobs of an
older program.
"""

import json
import subprocess
import sys
import urllib.error
import urllib.request
import zlib

import pytest
from django.core.management import CommandError, call_command

from fjeld import __version__
from fjeld.demo import job_file
from fjeld.derive.memo import LastUsed
from fjeld.formats import document
from fjeld.web.http import store
from fjeld.web.jobs.models import Document, Job, Revision, forget_drawings


def old_document(body):
    """A drawing as the first program stored it: the job file itself."""
    data = json.dumps(body).encode()
    import hashlib

    return Document.objects.create(
        sha256=hashlib.sha256(data).hexdigest(), format=1, body=zlib.compress(data)
    )


def put_head(job, made):
    """Put a document at the head of a job, as an older program left it."""
    job.head = Revision.objects.create(
        job=job, seq=job.head.seq + 1, parent=job.head, document=made, words="older", who=job.head.who
    )
    job.save()


@pytest.mark.parametrize(
    ("walls", "mm"),
    [
        (["E 3352.8", "S 3048.0", "W 3352.8", "N 3048.0"], 3352.8),
        (["E 3352.81", "S 3048.0", "W 3352.81", "N 3048.0"], 3352.81),
        (['E 3352.8"', 'S 3048.0"', 'W 3352.8"', 'N 3048.0"'], 3352.8),
        (["E 12'4", "S 10'", "W 12'4", "N 10'"], 3759.2),
        (['E 144.5"', "S 10'", 'W 144.5"', "N 10'"], 3670.3),
    ],
)
def test_a_room_hurt_by_an_older_program_is_repaired_on_reading(as_, job, walls, mm):
    body = json.loads(job_file("boot-room"))
    body["rooms"]["R1"]["walls"] = walls
    put_head(job, old_document(body))
    forget_drawings()
    job.refresh_from_db()
    assert job.head.document.drawing.items["R1"].sides[0].length.mm == pytest.approx(mm)
    client = as_("owner")
    assert client.get(f"/jobs/{job.pk}/survey/").status_code == 200
    store.commit(
        job.pk, job.head.who, store.ReturnTo(job.revisions.get(seq=1).document.drawing, 1), base=None
    )


@pytest.mark.parametrize(
    "body", [b'{"fjeld": 1, "house": {"name": NaN}}', b"{", b"[]", b'{"document": 2, "rooms": {"R1": {}}}']
)
def test_a_job_that_cannot_be_read_opens_in_a_plain_page_with_the_way_back(as_, job, body):
    import hashlib

    made = Document.objects.create(
        sha256=hashlib.sha256(body).hexdigest(), format=1, body=zlib.compress(body)
    )
    put_head(job, made)
    client = as_("owner")
    for page in ("survey", "proof", "record"):
        response = client.get(f"/jobs/{job.pk}/{page}/")
        assert response.status_code == 500
        assert b"Nothing is lost" in response.content
        assert b"Return here" in response.content
    assert client.get("/").status_code == 200
    assert client.get(f"/jobs/{job.pk}/export/job.json").content == body
    assert client.get(f"/jobs/{job.pk}/export/history.json").status_code == 200
    assert client.post(f"/jobs/{job.pk}/survey/undo").status_code == 302
    assert client.get(f"/jobs/{job.pk}/survey/").status_code == 200
    put_head(Job.objects.get(pk=job.pk), made)
    assert client.post(f"/jobs/{job.pk}/record/do/return", {"seq": "1"}).status_code == 302
    assert client.get(f"/jobs/{job.pk}/survey/").status_code == 200


def test_a_page_that_breaks_takes_neither_the_list_nor_the_other_pages(as_, job, monkeypatch):
    from fjeld.web import frame

    monkeypatch.setattr(frame, "_draw", lambda view: 1 / 0)
    monkeypatch.setattr(frame, "_layers", LastUsed(4))
    client = as_("owner")
    response = client.get(f"/jobs/{job.pk}/layout/")
    assert response.status_code == 500
    assert b"cannot be shown" in response.content
    monkeypatch.undo()
    assert client.get("/").status_code == 200
    assert client.get(f"/jobs/{job.pk}/layout/").status_code == 200


def test_the_list_of_jobs_works_nothing_out(as_, job, monkeypatch):
    from fjeld.web.http import view

    client = as_("owner")
    for name in ("derive", "open_findings"):
        monkeypatch.setattr(view, name, lambda *_: 1 / 0)
    monkeypatch.setattr(Document, "data", property(lambda self: 1 / 0))
    forget_drawings()
    page = client.get("/").content.decode()
    assert "Boot room" in page
    assert "boxes" in page
    assert client.get(f"/jobs/{job.pk}/head").status_code == 200


def test_a_document_of_a_newer_program_is_refused_in_words():
    with pytest.raises(document.DocumentError, match="newer program"):
        document.decode(b"{}", document.FORMAT + 1)


def test_health_reads_and_writes(client, db, monkeypatch):
    from fjeld.web import health

    assert client.get("/health").content == f"ok {__version__}".encode()
    monkeypatch.setattr(health, "LEAST_ROOM", 1 << 62)
    full = client.get("/health")
    assert full.status_code == 503
    assert b"left on the disc" in full.content


@pytest.mark.parametrize("content", [b"", b"no database", None])
def test_what_is_no_back_up_is_not_restored(tmp_path, content):
    file = tmp_path / "x.sqlite3"
    if content is not None:
        file.write_bytes(content)
    with pytest.raises(CommandError):
        call_command("restore", str(file))


@pytest.fixture
def manage(tmp_path):
    """Commands on a database of their own, with the demo in it."""
    import os

    env = {**os.environ, "FJELD_VAR": str(tmp_path / "var"), "FJELD_DEMO": "1", "FJELD_SECRET_KEY": "x" * 60}
    env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    (tmp_path / "var" / "static").mkdir(parents=True)

    def run(*words):
        done = subprocess.run([sys.executable, "manage.py", *words], env=env, capture_output=True, text=True)
        assert done.returncode == 0, done.stderr
        return done.stdout

    run("migrate")
    run("load_demo")
    return run, env, tmp_path


def test_a_back_up_is_restored_while_it_serves(manage):
    """Edits go on while it is copied; what was copied comes back whole, and the server follows."""
    import socket
    import time

    run, env, tmp = manage
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "manage.py", "serve", "--demo"],
        env={**env, "PORT": str(port)},
        stdout=subprocess.DEVNULL,
    )
    address = f"http://127.0.0.1:{port}"
    try:
        until = time.monotonic() + 60
        while time.monotonic() < until:
            try:
                urllib.request.urlopen(f"{address}/health", timeout=2).read()
                break
            except OSError:
                time.sleep(0.1)
        opener = signed_in(address)
        rename(opener, address, "Before the back-up")
        file = tmp / "one.sqlite3"
        assert "7 jobs" in run("backup", str(file))
        rename(opener, address, "After the back-up")
        assert "After the back-up" in opener.open(f"{address}/").read().decode()
        run("restore", str(file))
        page = opener.open(f"{address}/").read().decode()
        assert "Before the back-up" in page
        assert "After the back-up" not in page
        rename(opener, address, "Once more")
        assert "Once more" in opener.open(f"{address}/").read().decode()
        assert (tmp / "var" / "fjeld.sqlite3").stat().st_mode & 0o077 == 0, "for nobody else to read"
        assert list((tmp / "var" / "backups").glob("before-restore-*")), "what was there is kept"
    finally:
        server.terminate()
        server.wait(20)


def signed_in(address):
    from http.cookiejar import CookieJar

    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    send(opener, f"{address}/sign-in", f"{address}/demo", {})
    return opener


def send(opener, page, address, form):
    import re
    from urllib.parse import urlencode

    text = opener.open(page).read().decode()
    token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', text)[1]
    data = urlencode({**form, "csrfmiddlewaretoken": token}).encode()
    return opener.open(urllib.request.Request(address, data, {"Referer": page}))


def rename(opener, address, name):
    form = {"handle": "house", "field": "name", "value": name}
    send(opener, f"{address}/jobs/1/record/", f"{address}/jobs/1/record/do/figure", form)
