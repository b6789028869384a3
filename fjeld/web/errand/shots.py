"""Photographs of the work: read, turned upright, made small, and kept without what the camera wrote into them."""

from __future__ import annotations

import io
import warnings
from typing import IO

from PIL import Image, ImageOps, UnidentifiedImageError

from fjeld.drawing.edits import EditRefused
from fjeld.web.jobs.models import Job, Photo
from fjeld.web.ui.panel import Shown

#: A photograph is kept so large, px along its longer side.
KEPT, QUALITY = 1600, 82
#: More than this many pixels is no photograph of a phone.
LARGEST = 60_000_000
#: A job keeps so many.
MOST = 120
FORMATS = ("JPEG", "PNG", "WEBP")


class Shot(Shown, frozen=True):
    """A photograph as it is listed."""

    pk: int
    who: str
    when: str
    struck: bool


def shots_of(job: Job) -> dict[str, list[Shot]]:
    """The photographs of a job, by what they are of."""
    found: dict[str, list[Shot]] = {}
    for photo in job.photos.defer("jpeg").select_related("who"):
        shot = Shot(photo.pk, photo.who.get_username(), photo.when.strftime("%H:%M"), photo.struck)
        found.setdefault(photo.key, []).append(shot)
    return found


def shrunk(data: IO[bytes]) -> tuple[bytes, int, int]:
    """A photograph as JPEG with its sides in px; raises :class:`EditRefused` for what is none, or too large."""
    try:
        with warnings.catch_warnings():
            # What is too many pixels is told below, in words.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(data, formats=FORMATS) as image:
                if image.width * image.height > LARGEST:
                    raise EditRefused(
                        f"a photograph of more than {LARGEST // 1_000_000} megapixels is not taken; make it smaller"
                    )
                image.draft("RGB", (2 * KEPT, 2 * KEPT))
                upright = ImageOps.exif_transpose(image).convert("RGB")
    except EditRefused:
        raise
    except Image.DecompressionBombError:
        raise EditRefused("that photograph is too large to be opened") from None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError):
        raise EditRefused("that is no photograph that can be read; JPEG, PNG and WebP can") from None
    upright.thumbnail((KEPT, KEPT))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=QUALITY)
    return out.getvalue(), upright.width, upright.height


def room_for(job: Job) -> None:
    """Raises :class:`EditRefused` where a job has as many photographs as it keeps."""
    if Photo.objects.filter(job=job).count() >= MOST:
        raise EditRefused(f"a job keeps {MOST} photographs; strike some out and take them off first")
