"""IES LM-63 photometric files: candela by angle, as a lamp in the light map uses them.

Read per LM-63-1986 to -2019, type C photometry. Candela is averaged around the vertical
axis, since the map does not know how a fitting is turned; only light below the horizon
counts. Limited in size and counts; anything else wrong is said with its place.
"""

from __future__ import annotations

import math
import re

import numpy as np
from numpy.typing import NDArray

from fjeld.drawing.model import Photometry

LARGEST_FILE = 500_000
MOST_ANGLES = 400
#: More than any fitting of a house: the photometry would swallow every other figure.
MOST_CANDELA = 1e6


class IesError(ValueError):
    """A file that is no IES photometry; the message is one line with the place."""


def read(data: bytes, name: str) -> Photometry:
    """The file as photometry of one fitting; raises :class:`IesError`."""
    if len(data) > LARGEST_FILE:
        raise IesError(f"the file is larger than {LARGEST_FILE // 1000} kB")
    text = data.decode("latin-1")
    head, found, rest = text.partition("TILT=")
    if not found or not head.lstrip().upper().startswith("IES"):
        raise IesError("this is no IES file: it has no IESNA line and no TILT")
    tilt, _, body = rest.partition("\n")
    numbers = _numbers(body)
    if tilt.strip().upper() == "INCLUDE":
        numbers = _after_tilt(numbers)
    elif tilt.strip().upper() != "NONE":
        raise IesError("TILT refers to another file; only NONE and INCLUDE can be read")
    return _photometry(numbers, name)


def _numbers(body: str) -> list[float]:
    words = re.split(r"[\s,]+", body.strip())
    try:
        found = [float(word) for word in words if word]
    except ValueError as error:
        raise IesError(f"not a number: {str(error).rpartition(':')[2].strip()[:40]}") from None
    if not all(abs(v) < 1e12 for v in found):
        raise IesError("a number is not finite, or larger than any in such a file")
    return found


def _after_tilt(numbers: list[float]) -> list[float]:
    """What follows the tilt table: its geometry, the count of pairs, the angles and the factors."""
    if len(numbers) < 2 or not 0 < numbers[1] <= MOST_ANGLES:
        raise IesError("the tilt table is damaged")
    return numbers[2 + 2 * int(numbers[1]) :]


def _photometry(numbers: list[float], name: str) -> Photometry:
    angles, around, table = _table(numbers)
    if (np.diff(angles) <= 0).any() or (np.diff(around) <= 0).any() or table.min() < 0:
        raise IesError("angles must rise, and candela not be below nothing")
    if angles[-1] > 180 or not table.max() <= MOST_CANDELA:
        raise IesError(f"no fitting of a house throws more than {MOST_CANDELA:g} cd, or above straight up")
    below = angles <= 90.0
    if below.sum() < 2 or angles[0] > 0.5:
        raise IesError("the table does not begin straight down, so it throws no light on the floor")
    mean = _around(around, table)[below]
    lumens = _flux(angles[below], mean)
    if lumens > 1e6:
        raise IesError(f"{lumens:.3g} lm is not the light of a fitting in a house")
    return Photometry(
        name[:80],
        tuple(float(a) for a in angles[below]),
        tuple(round(float(c), 3) for c in mean),
        round(lumens, 1),
    )


def _table(numbers: list[float]) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """The angles up from straight down and those around, and the candela, shape (around, up)."""
    if len(numbers) < 13:
        raise IesError(
            f"the file ends after {len(numbers)} numbers; ten of lamp and luminaire and three of ballast are"
            " wanted"
        )
    _, _, factor, vertical, horizontal, kind = numbers[:6]
    ballast = numbers[10]
    if kind != 1:
        raise IesError("only type C photometry (1) can be read")
    if not (2 <= vertical <= MOST_ANGLES and 1 <= horizontal <= MOST_ANGLES):
        raise IesError(f"{vertical:g} by {horizontal:g} angles are not a table")
    v, h = int(vertical), int(horizontal)
    wanted = 13 + v + h + v * h
    if len(numbers) < wanted:
        raise IesError(f"the table ends early: {wanted} numbers are wanted, {len(numbers)} are there")
    candela = np.array(numbers[13 + v + h : wanted]).reshape(h, v) * factor * ballast
    return np.array(numbers[13 : 13 + v]), np.array(numbers[13 + v : 13 + v + h]), candela


def _around(around: np.ndarray, table: np.ndarray) -> np.ndarray:
    """The mean candela around the axis, each half-plane weighing by the angle it stands for."""
    if len(around) == 1:
        return np.asarray(table[0])
    weights = np.gradient(around)
    weights[0], weights[-1] = (around[1] - around[0]) / 2, (around[-1] - around[-2]) / 2
    return np.asarray((table * weights[:, None]).sum(axis=0) / weights.sum())


def _flux(angles: np.ndarray, candela: np.ndarray) -> float:
    """Lumens below the horizon: 2π times the integral of I sinθ, by the trapezoid on a fine grid of the same
    curve.
    """
    fine = np.radians(np.linspace(angles[0], angles[-1], 2001))
    curve = np.interp(np.degrees(fine), angles, candela)
    return float(2 * math.pi * np.trapezoid(curve * np.sin(fine), fine))
