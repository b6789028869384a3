"""Single questions as JSON, read with the same care as a job file."""

from __future__ import annotations

from typing import Any

from fjeld.formats.jobfile import convert, json_object
from fjeld.quantities import Unit


def read(data: bytes, kind: type[Any], unit: Unit = "ft-in") -> Any:
    """Read a question; raises :class:`fjeld.formats.jobfile.JobFileError` with the place."""
    return convert(json_object(data), kind, "$", unit)
