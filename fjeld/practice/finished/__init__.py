"""Work in rooms that stay closed, as data: habits with their measures, boxes for old work, minutes."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any, Literal

import msgspec

from fjeld.practice import Practice, rules
from fjeld.practice.kinds import LENGTH

Grip = Literal["wings", "lugs", "side", "screws", "wood", "springs", "brace"]


class OldWorkBox(msgspec.Struct, frozen=True):
    """A box that is cut in. ``body`` and ``cut``-out wide and high, ``depth`` behind the face; ``throw`` how far its grip
    swings beyond the cut-out sideways; ``board`` the least and the most that it grips; ``surface`` where it goes. All in mm,
    but ``volume``, in³, where it is sold by that. ``spans`` is the clear space that its bar bridges, at least and at most, mm; ``round``
    that its hole is round."""

    id: str
    name: str
    body: tuple[float, float]
    cut: tuple[float, float]
    depth: float
    grip: Grip
    throw: float
    board: tuple[float, float]
    surface: Literal["wall", "ceiling"] = "wall"
    volume: float = 0.0
    spans: tuple[float, float] | None = None
    round: bool = False

    @property
    def on_member(self) -> bool:
        """Whether it is fastened to a stud or a joist itself, and so stands nowhere else."""
        return self.grip in ("side", "wood")


class Habits(msgspec.Struct, frozen=True):
    """What work in finished rooms goes by under a practice; lengths in mm, heat through a wall in W/m²K, the rest shares of a member's depth.

    ``on_screw`` is how many conductors a terminal takes by most makers' words; ``leads`` are devices with leads in place of screws.
    """

    plate_notch_bearing: float
    plate_notch_other: float
    bore_bearing: float
    bore_other: float
    steel_within: float
    pull_end: float
    pull_blind: float
    pull_step: float
    free: float
    past_face: float
    wide_opening: float
    sheath_inside: float
    clearance: float
    plate: float
    gang: float
    trim_clear: float
    jamb_wood: float
    joint_gap: float
    plates: float
    plate_inner: float
    plate_deep: float
    board: float
    bore: float
    drill_straight: float
    drill_angle: float
    strip: float
    ring_bit: float
    floor_plate: float
    bit_beyond: float
    fold_gap: float
    setback: float
    on_screw: int
    member: float
    leads: tuple[str, ...]
    heat_through: dict[str, float]
    boxes: tuple[OldWorkBox, ...]


class Step(msgspec.Struct, frozen=True):
    """A step of the work: minutes of skilled hands, the class of hands it takes, and minutes for each of what repeats."""

    minutes: float
    kind: str
    each: float = 0.0
    of: str = ""


class Minutes(msgspec.Struct, frozen=True):
    """Steps by name, factors of experience (first, second, from the third time) by class, factors of access, minutes for what is ``around``."""

    steps: dict[str, Step]
    experience: dict[str, tuple[float, float, float]]
    access: dict[str, float]
    around: dict[str, float]
    spread: tuple[float, float]
    coats: dict[str, float]
    patching: dict[str, float]


def _measured(value: Any) -> Any:
    """Lengths written with their unit, in mm; whatever else, as it is."""
    if isinstance(value, dict):
        return {
            name: v if name in ("id", "name", "grip", "surface", "leads") else _measured(v)
            for name, v in value.items()
        }
    if isinstance(value, list):
        return [_measured(v) for v in value]
    return LENGTH.read(*LENGTH.split(value)) if isinstance(value, str) else value


def read_table(name: str) -> dict[str, Any]:
    """A table of this package's data."""
    return tomllib.loads(resources.files(__package__).joinpath(name).read_text(encoding="utf-8"))


def habits(practice: Practice) -> Habits:
    """The habits of a practice; what is a rule of wood is the rule's value, as it is in force."""
    other = rules.STUD_HOLE_OTHER if rules.STUD_HOLE_OTHER in practice else rules.STUD_HOLE
    return _habits(practice.id, practice[rules.STUD_HOLE], practice[other], practice[rules.HOLE_EDGE])


@cache
def _habits(practice: str, bore_bearing: float, bore_other: float, steel_within: float) -> Habits:
    """The habits in the data of a practice by its id, with what its rules say; raises ``FileNotFoundError``."""
    of_rules = {"bore_bearing": bore_bearing, "bore_other": bore_other, "steel_within": steel_within}
    return msgspec.convert(_measured(read_table(f"{practice}.toml")) | of_rules, Habits)


@cache
def minutes() -> Minutes:
    """How long each step takes."""
    return msgspec.convert(read_table("minutes.toml"), Minutes)
