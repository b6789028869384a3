"""Files from strangers, read in a process of their own: what takes too long or too much ends there."""

from __future__ import annotations

import os
import subprocess
import sys
from typing import Any, Literal

import msgspec
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from fjeld.drawing.building import Underlay
from fjeld.drawing.extents import clean
from fjeld.drawing.model import Drawing, Photometry
from fjeld.formats import document

Kind = Literal["job", "dxf", "ies", "photo"]
#: The largest file of each kind, bytes.
LARGEST: dict[Kind, int] = {
    "job": 4_000_000,
    "dxf": 8_000_000,
    "ies": 500_000,
    "photo": settings.LARGEST_PHOTO,
}


class FileNotTaken(ValueError):
    """A file that was not taken; the message says why, in one line."""


def read_job(upload: UploadedFile | None) -> Drawing:
    """A job file as a drawing that stands; raises :class:`FileNotTaken`."""
    return document.decode(_read("job", upload))


def read_dxf(upload: UploadedFile | None, storey: str | None) -> Underlay:
    """A DXF drawing as an underlay; raises :class:`FileNotTaken`."""
    found: Underlay = document.convert(
        msgspec.json.decode(_read("dxf", upload, storey or "")), Underlay, "underlay"
    )
    return found


def read_ies(upload: UploadedFile | None) -> Photometry:
    """An IES file as photometry; raises :class:`FileNotTaken`."""
    found: Photometry = document.convert(msgspec.json.decode(_read("ies", upload)), Photometry, "photometry")
    return found


def read_photo(upload: UploadedFile | None) -> tuple[bytes, int, int]:
    """A photograph as a small JPEG with its sides in px; raises :class:`FileNotTaken`."""
    head, _, jpeg = _read("photo", upload).partition(b"\n")
    width, height = head.split()
    return jpeg, int(width), int(height)


def _read(kind: Kind, upload: UploadedFile | None, *further: str) -> bytes:
    if upload is None:
        raise FileNotTaken("choose a file first")
    if (upload.size or 0) > LARGEST[kind]:
        raise FileNotTaken(f"the file is larger than {LARGEST[kind] / 1e6:g} MB")
    name = clean(upload.name or kind)[:80] or kind
    seconds, size = settings.READER_SECONDS, settings.READER_BYTES
    command = [sys.executable, "-m", "fjeld.formats.reader", kind, str(seconds), str(size), name, *further]
    # One thread of arithmetic: its stacks count against the memory that it may use.
    quiet: dict[str, Any] = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    try:
        done = subprocess.run(
            command, input=upload.read(), capture_output=True, timeout=seconds + 10, env=quiet, check=False
        )
    except subprocess.TimeoutExpired:
        raise FileNotTaken(f"reading it took longer than {seconds} seconds") from None
    head, _, body = done.stdout.partition(b"\n")
    if head == b"ok" and done.returncode == 0:
        return body
    if head.startswith(b"refused "):
        raise FileNotTaken(head.decode(errors="replace").removeprefix("refused "))
    raise FileNotTaken(
        f"it asks for more than {seconds} seconds or {size // 1_000_000} MB to be read, or is damaged beyond"
        " reading"
    )
