"""Searches in the background: begun when first looked at, kept with their drawing, stopped on request.

A page waits a moment for what it wants to show; what takes longer goes on in a worker
while the page says so, and looks again by itself. One search runs at a time.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Hashable
from concurrent.futures import CancelledError, Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYet
from threading import Event, Lock
from typing import Generic, Literal, TypeVar

from django.db import connection
from django.utils import timezone

from fjeld.derive.memo import LastUsed
from fjeld.drawing.model import Drawing
from fjeld.propose.heed import Heed, SearchStopped
from fjeld.web.jobs.models import Job

T = TypeVar("T")
State = Literal["running", "found", "stopped"]

#: How long a page waits for its searches together, seconds.
MOMENT = 0.3
#: How often a search asks whether it was stopped by way of another process, seconds.
ASKED_AGAIN = 0.7
log = logging.getLogger("fjeld.searches")

_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="search")
_kept: LastUsed[tuple[Hashable, ...]] = LastUsed(64)
_running: dict[int, list[Search[object]]] = {}
_lock = Lock()
#: Of the drawings that searches are in, each with how much has come of them.
_heard: LastUsed[int] = LastUsed(256)
_hearing = Lock()


class Search(Generic[T]):
    """One search in one drawing."""

    def __init__(
        self,
        drawing: Drawing,
        run: Callable[[Heed], T],
        elsewhere: Callable[[float], bool] = lambda begun: False,
    ) -> None:
        self.drawing = drawing
        self.begun = self._asked = time.monotonic()
        self._begun_at = time.time()
        self._elsewhere = elsewhere
        self._stop = Event()
        self._future: Future[T] = _worker.submit(run, self._heed)
        _tell(drawing)
        self._future.add_done_callback(lambda _: _tell(drawing))

    def _heed(self) -> None:
        if time.monotonic() - self._asked > ASKED_AGAIN:
            self._asked = time.monotonic()
            if self._elsewhere(self._begun_at):
                self._stop.set()
        if self._stop.is_set():
            raise SearchStopped

    def stop(self) -> None:
        """Let it go no further; what is found already stays."""
        self._stop.set()
        self._future.cancel()
        _tell(self.drawing)

    @property
    def state(self) -> State:
        if not self._future.done():
            return "stopped" if self._stop.is_set() else "running"
        stopped = self._future.cancelled() or isinstance(self._future.exception(), SearchStopped)
        return "stopped" if stopped else "found"

    def wait(self, seconds: float | None = None) -> None:
        """Until it has ended, or so many seconds."""
        try:
            self._future.exception(seconds)
        except (NotYet, CancelledError):
            return

    @property
    def found(self) -> T | None:
        """What it found; None while it runs, or if it was stopped. Raises what the search raised."""
        return self._future.result() if self.state == "found" else None


def _tell(drawing: Drawing) -> None:
    """Something came of a search in a drawing: it began, ended, or was stopped."""
    with _hearing:
        _heard.keep(id(drawing), (drawing, heard(drawing) + 1))


def heard(drawing: Drawing) -> int:
    """A number that rises whenever something came of a search in a drawing, for what is drawn shows that."""
    found: tuple[Drawing, int] = _heard.get(id(drawing), lambda: (drawing, 0))
    return found[1]


def search(job: int, drawing: Drawing, name: Hashable, run: Callable[[Heed], T]) -> Search[T]:
    """The search of that name in a drawing, begun if it was not; those in older drawings of the job are
    stopped.
    """
    found: Search[T] = _kept.get(
        (id(drawing), name), lambda: Search(drawing, run, lambda begun: _stopped_since(job, begun))
    )
    with _lock:
        going = [s for s in _running.get(job, []) if s.state == "running"]
        for other in going:
            if other.drawing is not drawing:
                other.stop()
        if found.state == "running" and not any(s is found for s in going):
            going.append(found)  # type: ignore[arg-type]
        _running[job] = going
    return found


def await_all(searches: list[Search[T]]) -> None:
    """Wait for some searches together, no longer than a moment after they were begun."""
    for each in searches:
        each.wait(max(0.0, each.begun + MOMENT - time.monotonic()))


def _stopped_since(job: int, begun: float) -> bool:
    """Whether somebody stopped the searches of a job after a time, by whichever process."""
    try:
        at = Job.objects.filter(pk=job).values_list("searches_stopped", flat=True).first()
    except Exception as error:  # A search is not to end because the database is busy.
        log.warning("could not ask whether the searches of job %s are stopped: %s", job, error)
        return False
    finally:
        connection.close()
    return at is not None and at.timestamp() > begun


def stop_all(job: int) -> None:
    """Stop what runs for a job, here and in other processes."""
    Job.objects.filter(pk=job).update(searches_stopped=timezone.now())
    with _lock:
        for each in _running.pop(job, []):
            each.stop()


def forget_stopped(drawing: Drawing, name: Hashable) -> None:
    """Let a stopped search be begun anew when it is next looked at."""
    _kept.drop((id(drawing), name), lambda s: s.state == "stopped")
