"""How likely what a cable may be is, and what each reading costs, as data."""

from __future__ import annotations

from functools import cache

import msgspec

from fjeld.practice.finished import read_table


class Weights(msgspec.Struct, frozen=True):
    """Shares of what may be against each other, before any reading."""

    dead: float
    spare: float
    second_leg: float
    switched_outlet: float
    switched_socket: float
    line_in_travellers: float
    switched_onward: float
    light_always: float
    light_always_onward: float
    leg_in_at_switch: float
    two: float
    two_apart: float
    two_together: float
    two_switched: float
    fed_at_load: float
    second_circuit: float
    colour: float
    loop_colour: float
    spare_joined: float
    idle: float
    ring: float
    radial: float
    spur_of_spur: float
    spur_end: float
    radial_end: float
    broken_ring: float


class Certainty(msgspec.Struct, frozen=True):
    """What no colour makes surer (``cap``), what is called likely, what is too little to stand in the way of
    settling, what is too far-fetched to be settled, and how often a proven meter is read wrongly, and a load
    seen where there is none.
    """

    cap: float
    likely: float
    negligible: float
    negligible_together: float
    far_fetched: float
    wrong_meter: float
    against_load: float


class ReadingKind(msgspec.Struct, frozen=True):
    """A reading that can be taken: ``minutes``, whether on live parts, how, its caution, and ``after`` which
    other.

    ``figures`` by name, in words, where it is of the circuit and not of its wires; ``practice`` where it is
    of one only.
    """

    name: str
    minutes: float
    live: bool
    how: str
    caution: str
    after: str = ""
    figures: tuple[tuple[str, str], ...] = ()
    practice: str = ""

    @property
    def cost(self) -> float:
        """Minutes, twice for what is live."""
        return self.minutes * (2 if self.live else 1)


class RoleData(msgspec.Struct, frozen=True):
    """All of it; ``other`` by place and number of cables."""

    weights: Weights
    other: dict[str, tuple[float, ...]]
    certainty: Certainty
    readings: dict[str, ReadingKind]


@cache
def role_data() -> RoleData:
    """The data of what cables may be."""
    return msgspec.convert(read_table("roles.toml"), RoleData)
