"""Back up the database while it serves: SQLite's own copy of one moment, checked before it counts."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone


class Command(BaseCommand):
    help = "Write a back-up of the database to FILE, or to a new file in var/backups; safe while serving."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", nargs="?", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        source = Path(settings.DATABASES["default"]["NAME"])
        if not source.exists():
            raise CommandError(f"there is no database at {source}")
        stamp = timezone.now().strftime("%Y%m%d-%H%M%S")
        target: Path = options["file"] or settings.VAR / "backups" / f"fjeld-{stamp}.sqlite3"
        if target.exists():
            raise CommandError(f"{target} is there already; nothing was written over")
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(target.name + ".part")
        part.unlink(missing_ok=True)
        part.touch(mode=0o600)
        copy(source, part)
        wrong = problems(part)
        if wrong:
            part.unlink()
            raise CommandError(f"the copy is not whole ({wrong}); nothing was kept")
        part.rename(target)
        self.stdout.write(f"Backed up to {target}: {counts(target)}.")


def copy(source: Path, target: Path) -> None:
    """Copy a database as it is at one moment, whoever writes to it meanwhile."""
    with sqlite3.connect(f"file:{source}?mode=ro", uri=True) as there, sqlite3.connect(target) as here:
        there.backup(here)
        # One file is a back-up; a write-ahead log beside it is not.
        here.execute("PRAGMA journal_mode=DELETE")
    there.close()
    here.close()


def problems(file: Path) -> str:
    """What is wrong with a database file; empty when it is whole and Fjeld's."""
    try:
        with sqlite3.connect(f"file:{file}?mode=ro", uri=True) as found:
            said = found.execute("PRAGMA integrity_check").fetchone()[0]
            found.execute("SELECT count(*) FROM jobs_revision").fetchone()
        found.close()
    except sqlite3.DatabaseError as error:
        return str(error)
    return "" if said == "ok" else str(said)


def counts(file: Path) -> str:
    """How much a database file holds, in words."""
    with sqlite3.connect(f"file:{file}?mode=ro", uri=True) as found:
        jobs = found.execute("SELECT count(*) FROM jobs_job").fetchone()[0]
        steps = found.execute("SELECT count(*) FROM jobs_revision").fetchone()[0]
    found.close()
    return f"{jobs} job{'s' if jobs != 1 else ''}, {steps} step{'s' if steps != 1 else ''}"
