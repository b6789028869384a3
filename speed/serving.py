"""The demo, served for a measurement: a process of its own with a store of its own."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def demo_served() -> Iterator[str]:
    """The address where the demo answers, until the block is left."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory() as var:
        env = {**os.environ, "FJELD_DEMO": "1", "PORT": str(port), "FJELD_VAR": var}
        server = subprocess.Popen(
            [sys.executable, "manage.py", "serve", "--demo"], env=env, stdout=subprocess.DEVNULL
        )
        try:
            _until_up(port)
            yield f"http://127.0.0.1:{port}"
        finally:
            server.terminate()
            server.wait(20)


#: A start on a busy machine takes up to so many tenths of a second.
PATIENCE = 1200


def _until_up(port: int) -> None:
    for _ in range(PATIENCE):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/health", timeout=1).read()
            return
        except OSError:
            time.sleep(0.1)
    raise RuntimeError("the server did not start")
