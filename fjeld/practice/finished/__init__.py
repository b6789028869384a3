"""Work in rooms that stay closed, as data: questions, steps, minutes."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any

import msgspec


class Step(msgspec.Struct, frozen=True):
    """A step of the work: minutes of skilled hands, the class of hands it takes, and minutes for each of what
    repeats.
    """

    minutes: float
    kind: str
    each: float = 0.0
    of: str = ""
    per: float = 0.0


class Minutes(msgspec.Struct, frozen=True):
    """Steps by name, factors of experience (first, second, from the third time) by class, factors of access,
    minutes for what is ``around``.
    """

    steps: dict[str, Step]
    experience: dict[str, tuple[float, float, float]]
    access: dict[str, float]
    around: dict[str, float]
    spread: tuple[float, float]
    coats: dict[str, float]
    slowly: float
    patching: dict[str, float]


def read_table(name: str) -> dict[str, Any]:
    """A table of this package's data."""
    return tomllib.loads(resources.files(__package__).joinpath(name).read_text(encoding="utf-8"))


@cache
def minutes() -> Minutes:
    """How long each step takes."""
    return msgspec.convert(read_table("minutes.toml"), Minutes)
