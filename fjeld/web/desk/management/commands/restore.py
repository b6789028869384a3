"""Put a back-up in the place of the database; safe while serving: whoever reads sees the old or the new,
whole.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from fjeld.web.desk.management.commands.backup import copy, counts, problems


class Command(BaseCommand):
    help = "Restore the database from FILE; what is there now is backed up first."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        source: Path = options["file"]
        if not source.exists():
            raise CommandError(f"there is no file {source}")
        if wrong := problems(source):
            raise CommandError(f"{source} is no whole back-up of Fjeld ({wrong}); nothing was changed")
        target = Path(settings.DATABASES["default"]["NAME"])
        if target.exists():
            stamp = timezone.now().strftime("%Y%m%d-%H%M%S-%f")
            kept = settings.VAR / "backups" / f"before-restore-{stamp}.sqlite3"
            kept.parent.mkdir(parents=True, exist_ok=True)
            kept.touch(mode=0o600)
            copy(target, kept)
            self.stdout.write(f"What was there is kept in {kept}: {counts(kept)}.")
        target.parent.mkdir(parents=True, exist_ok=True)
        self._into(source, target)
        call_command("migrate", verbosity=0)
        self.stdout.write(f"Restored from {source}: {counts(target)}.")

    def _into(self, source: Path, target: Path) -> None:
        """Page by page through SQLite itself, under its own lock, so that open connections follow."""
        with (
            sqlite3.connect(f"file:{source}?mode=ro", uri=True) as there,
            sqlite3.connect(target, timeout=30) as here,
        ):
            there.backup(here)
            here.execute("PRAGMA journal_mode=WAL")
        there.close()
        here.close()
