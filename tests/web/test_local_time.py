"""Times are told as on the clock of whoever reads them; a zone that there is not is no zone."""

import zoneinfo
from datetime import UTC, datetime

import pytest
from django.utils import timezone

from fjeld.web.jobs.models import Record

#: Ten at night in summer, as the host has it.
TAKEN = datetime(2026, 7, 4, 22, 15, tzinfo=UTC)


def taken_then(started):
    """An errand whose dead test was taken at that hour, with its page of steps and what is kept of it."""
    job, client = started("na", "replace")
    owner = job.head.who
    record = Record.objects.create(
        job=job,
        key="step:breaker",
        kind="step",
        body={"record": "step", "event": "done"},
        who=owner,
        seq=job.head.seq,
        token="t" * 24,
    )
    Record.objects.filter(pk=record.pk).update(when=TAKEN)
    return job, client


@pytest.mark.parametrize("zone", ["America/Denver", "Asia/Kathmandu", "Pacific/Auckland"])
def test_what_was_done_is_dated_by_the_readers_clock(started, zone):
    job, client = taken_then(started)
    client.cookies["fjeld-zone"] = zone
    here = TAKEN.astimezone(zoneinfo.ZoneInfo(zone))
    assert f"{here.day} {here:%b %Y %H:%M}" in client.get(f"/jobs/{job.pk}/errand/kept").content.decode()
    assert timezone.get_current_timezone_name() == "UTC", "and nobody else's is"


@pytest.mark.parametrize(
    "zone", ["", "Mars/Olympus", "../../etc/passwd", "/etc/passwd", "a" * 5000, "\x00", "America"]
)
def test_a_zone_that_there_is_not_leaves_the_hosts(started, zone):
    job, client = taken_then(started)
    client.cookies["fjeld-zone"] = zone
    assert "4 Jul 2026 22:15" in client.get(f"/jobs/{job.pk}/errand/kept").content.decode()
