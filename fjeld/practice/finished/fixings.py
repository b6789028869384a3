"""How old boxes are held, and how each comes out, as data."""

from __future__ import annotations

from functools import cache

import msgspec

from fjeld.practice.finished import read_table
from fjeld.quantities import Unit


class Fixing(msgspec.Struct, frozen=True):
    """What one sees of it, and the way it comes out; ``metric`` where that has a measure in it."""

    id: str
    seen: str
    way: str
    metric: str = ""

    def out(self, unit: Unit) -> str:
        """How it comes out."""
        return self.metric if unit == "mm" and self.metric else self.way


@cache
def fixings() -> tuple[Fixing, ...]:
    """Every way that a box is held."""
    return msgspec.convert(read_table("comes_out.toml")["fixing"], tuple[Fixing, ...])
