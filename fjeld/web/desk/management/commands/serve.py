"""Serve with gunicorn threads: collect and compress what is static, migrate, load the demo where asked, print
the address.
"""

from __future__ import annotations

import os
import sys
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from gunicorn.app.base import BaseApplication

from fjeld.web.warm import warm

#: A thread that computes lets others go on this often, s: a page that asks for news waits for no drawing.
TURN = 0.001

#: A connection without a request is kept this long, s: longer than browsers' agents and proxies keep theirs
#: (60 s and less), so that they close it. Where the server does, it may do so under a request that is on its
#: way.
KEPT = 75


def _ready(worker: Any) -> None:
    """Before a worker's threads start: what they share is read once, by one of them."""
    sys.setswitchinterval(TURN)
    warm()


class _Server(BaseApplication):
    def __init__(self, bind: str) -> None:
        self.bind = bind
        super().__init__()

    def load_config(self) -> None:
        for name, value in {
            "bind": self.bind,
            "worker_class": "gthread",
            "workers": settings.WORKERS,
            "threads": settings.THREADS,
            "keepalive": KEPT,
            "loglevel": "warning",
            "post_worker_init": _ready,
        }.items():
            self.cfg.set(name, value)

    def load(self) -> Any:
        from fjeld.web.wsgi import application

        return application


class Command(BaseCommand):
    help = "Migrate and serve; with --demo also load the demo and print how to sign in."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        settings.STATIC_ROOT.mkdir(parents=True, exist_ok=True)
        call_command("collectstatic", interactive=False, verbosity=0)
        settings.WHITENOISE_USE_FINDERS = False
        call_command("migrate", verbosity=0)
        port = os.environ.get("PORT", "8000")
        if options["demo"]:
            call_command("load_demo")
        self.stdout.write(f"Fjeld is at http://127.0.0.1:{port}/")
        if options["demo"]:
            self.stdout.write("Open it and press “Open the demo”: that signs you in. Stop with Ctrl-C.")
        self.stdout.flush()
        _Server(f"{os.environ.get('HOST', '127.0.0.1')}:{port}").run()
