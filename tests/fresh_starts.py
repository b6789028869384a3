"""Start the server anew and ask it for eight pages at once before it has answered any: each is answered, no
worker dies.

``python -m tests.fresh_starts 50`` starts it so often and counts what was lost.
"""

from __future__ import annotations

import http.client
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

#: Makes the store and a signed-in session; says the session's key and the jobs there are.
PREPARE = """
import django
django.setup()
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY, get_user_model
from django.contrib.sessions.backends.db import SessionStore
from fjeld.web.jobs.models import Job
who = get_user_model().objects.order_by("pk").first()
kept = SessionStore()
kept[SESSION_KEY], kept[HASH_SESSION_KEY] = str(who.pk), who.get_session_auth_hash()
kept[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
kept.create()
jobs = Job.objects.select_related("head__document").order_by("pk")
houses = [j.pk for j in jobs if j.head.document.drawing.house.errand is None]
errands = [j.pk for j in jobs if j.head.document.drawing.house.errand is not None]
print(kept.session_key, *houses[:2], *errands[:2])
"""
#: How long a start may take on a busy machine, s.
PATIENCE = 120.0


def first_requests(starts: int, var: Path) -> tuple[int, int, list[str]]:
    """(requests answered, requests lost, what went wrong) over so many fresh starts."""
    env = {
        **os.environ,
        "FJELD_VAR": str(var),
        "DJANGO_SETTINGS_MODULE": "fjeld.web.settings",
        "FJELD_WORKERS": "2",
        "FJELD_THREADS": "4",
        "FJELD_DEMO": "1",
    }
    env.pop("FJELD_DATABASE", None)
    (var / "static").mkdir(parents=True, exist_ok=True)
    for command in ("migrate", "load_demo"):
        subprocess.run([sys.executable, "manage.py", command], env=env, check=True, capture_output=True)
    made = subprocess.run(
        [sys.executable, "-c", PREPARE], env=env, check=True, capture_output=True, text=True
    )
    session, one, two, three, four = made.stdout.split()
    pages = [
        f"/jobs/{one}/survey/",
        f"/jobs/{two}/runs/",
        f"/jobs/{one}/proof/",
        f"/jobs/{two}/site/",
        f"/jobs/{three}/errand",
        f"/jobs/{four}/errand/steps",
        "/bench/spot",
        f"/jobs/{one}/export/job.json",
    ]
    answered, wrong = 0, list[str]()
    for n in range(starts):
        got, said = _started(env, session, pages)
        answered += got.count(200)
        wrong += [
            f"start {n}: {page} {status}" for page, status in zip(pages, got, strict=True) if status != 200
        ]
        wrong += [f"start {n}: {line}" for line in said]
    return answered, starts * len(pages) - answered, wrong


def _started(env: dict[str, str], session: str, pages: list[str]) -> tuple[list[int], list[str]]:
    """One start: how each page was answered, and what the server said of workers that ended."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "manage.py", "serve"],
        env={**env, "PORT": str(port)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
    )
    got = [0] * len(pages)
    together = threading.Barrier(len(pages))

    def ask(n: int) -> None:
        ends = time.monotonic() + PATIENCE
        connection = _connected(port, ends)
        # All stand connected before the first of them asks.
        together.wait(PATIENCE)
        try:
            connection.request("GET", pages[n], headers={"Cookie": f"sessionid={session}"})
            answer = connection.getresponse()
            answer.read()
            got[n] = answer.status
        except (OSError, http.client.HTTPException):
            got[n] = -1

    threads = [threading.Thread(target=ask, args=(n,)) for n in range(len(pages))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.terminate()
    _, heard = server.communicate(timeout=30)
    return got, [
        line for line in heard.splitlines() if "SIGSEGV" in line or "was sent" in line or "died" in line
    ]


def _connected(port: int, ends: float) -> http.client.HTTPConnection:
    while True:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=PATIENCE)
        try:
            connection.connect()
            return connection
        except OSError:
            if time.monotonic() > ends:
                raise
            time.sleep(0.02)


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        well, lost, what = first_requests(int(sys.argv[1]) if len(sys.argv) > 1 else 50, Path(folder))
    print(f"{well} first requests answered, {lost} lost", *what, sep="\n")
    sys.exit(1 if lost or what else 0)
