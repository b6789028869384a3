"""What a person reads of each question, out of ``questions.toml``: title, group, the words of its fields.

Apart from what answers them, so that a list of all questions needs none of the engines.
"""

from __future__ import annotations

from functools import cache
from importlib import resources

import msgspec

Choice = tuple[str, str]


class Field(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One field of a question: the words beside it, an ``example`` of what is typed, and the ``options`` that
    it has, or the list that it is ``chosen_from``. One that is ``told_by`` a unit is of use where boxes are
    told by that; one of ``lines`` takes several.
    """

    label: str
    example: str = ""
    options: tuple[Choice, ...] = ()
    chosen_from: str = ""
    told_by: str = ""
    lines: bool = False

    def wanted(self, box_unit: str) -> bool:
        """Whether it is of use where boxes are told by a unit."""
        return self.told_by in ("", box_unit)


class Told(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a person reads of a question: its title, its group, and its fields in their order."""

    title: str
    group: str
    fields: dict[str, Field]


@cache
def told() -> dict[str, Told]:
    """Every question that has a page, by its name, in the order of the work."""
    data = resources.files(__package__).joinpath("questions.toml").read_bytes()
    return msgspec.toml.decode(data, type=dict[str, Told])


#: What the command line alone asks, or asks in another form than a page.
COMMAND_WORDS = {
    "fill": "volume that a box's contents need",
    "spacing": "wall spaces of a room and the fewest outlets",
    "rows": "positions of rows of lights",
    "supports": "staples on a stretch of cable",
    "drop": "volt drop along a circuit",
    "cuts": "pieces from coils at least cost",
}
