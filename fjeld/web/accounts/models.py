"""What is kept of wrong tries, so that no name and no address can be tried without end.

Kept in the database: it holds for every worker process and outlives a restart.
"""

from __future__ import annotations

import unicodedata
from datetime import timedelta

from django.db import models
from django.utils import timezone


class Attempt(models.Model):
    """One try of something that is counted: a wrong password, an account made."""

    what = models.CharField(max_length=20)
    key = models.CharField(max_length=200)
    when = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["what", "key", "when"], name="attempts_by_key")]

    def __str__(self) -> str:
        return f"{self.what} {self.key}"

    @classmethod
    def count(cls, what: str, key: str, seconds: int) -> int:
        """How many there were within the last ``seconds``."""
        return cls.objects.filter(
            what=what, key=key, when__gt=timezone.now() - timedelta(seconds=seconds)
        ).count()

    @classmethod
    def note(cls, what: str, *keys: str, keep: int = 86_400) -> None:
        """Write one down under each key; those older than ``keep`` seconds go."""
        cls.objects.filter(when__lt=timezone.now() - timedelta(seconds=keep)).delete()
        cls.objects.bulk_create(cls(what=what, key=key[:200]) for key in keys)


def bare_name(name: str) -> str:
    """A name as it is told apart: one form of each letter, no blanks around, no case."""
    return unicodedata.normalize("NFKC", name).strip().casefold()[:80]
