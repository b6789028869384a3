"""Photographs from strangers: bounded in sides and pixels before they are decoded, turned upright, made
small, and stripped of what the camera wrote into them.
"""

from __future__ import annotations

import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

#: A photograph is kept so large, px along its longer side.
KEPT, QUALITY = 1600, 82
#: More pixels than this, or a longer side, is no photograph of a phone.
LARGEST, LONGEST = 60_000_000, 16_000
FORMATS = ("JPEG", "PNG", "WEBP")


def shrunk(data: bytes) -> tuple[bytes, int, int]:
    """A photograph as JPEG with its sides in px; raises ``ValueError`` in words for what is none, or too
    large.

    Sides and pixels are read from the head of the file: nothing is decoded of one that is refused.
    """
    try:
        with warnings.catch_warnings():
            # What is too many pixels is told below, in words.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as image:
                _require_bounded(*image.size)
                image.draft("RGB", (2 * KEPT, 2 * KEPT))
                upright = ImageOps.exif_transpose(image).convert("RGB")
    except (Image.DecompressionBombError, MemoryError):
        raise ValueError("that photograph is too large to be opened") from None
    except _TooLarge:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError):
        raise ValueError("that is no photograph that can be read; JPEG, PNG and WebP can") from None
    upright.thumbnail((KEPT, KEPT))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=QUALITY)
    return out.getvalue(), upright.width, upright.height


class _TooLarge(ValueError):
    """A picture whose sides or pixels are beyond any photograph's."""


def _require_bounded(width: int, height: int) -> None:
    if max(width, height) > LONGEST:
        raise _TooLarge(
            f"a photograph with a side of more than {LONGEST:,} pixels is not taken; make it smaller"
        )
    if width * height > LARGEST:
        raise _TooLarge(
            f"a photograph of more than {LARGEST // 1_000_000} megapixels is not taken; make it smaller"
        )
