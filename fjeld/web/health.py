"""Whether Fjeld is fit to serve: the database is read and written, and there is room on the disc."""

from __future__ import annotations

import shutil

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, connection, transaction
from django.http import HttpRequest, HttpResponse

from fjeld import __version__

#: With less than this left on the disc, edits may soon be refused, bytes.
LEAST_ROOM = 50_000_000


@login_not_required
def health(request: HttpRequest) -> HttpResponse:
    """``ok`` and the version, or 503 with what is wrong, in a line."""
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM jobs_job")
            # A write that is taken back: it needs the same lock and the same room as an edit.
            cursor.execute("CREATE TABLE IF NOT EXISTS health_check (at INTEGER)")
            cursor.execute("INSERT INTO health_check VALUES (1)")
            transaction.set_rollback(True)
    except DatabaseError as error:
        return HttpResponse(f"the database does not answer: {error}", status=503, content_type="text/plain")
    room = shutil.disk_usage(settings.VAR).free
    if room < LEAST_ROOM:
        return HttpResponse(
            f"only {room // 1_000_000} MB are left on the disc", status=503, content_type="text/plain"
        )
    return HttpResponse(f"ok {__version__}", content_type="text/plain")
