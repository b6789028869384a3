"""What may be taken out of wood: how wide a hole and how deep a notch may be, what has to stay beside them,
and where steel covers what does not.
"""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from fjeld.practice import Practice, rules
from fjeld.practice.rules import RuleKey
from fjeld.quantities import at_least, at_most

Member = Literal["joist", "stud", "bearing stud", "plate", "truss"]
#: Members of a wall: a cable goes on in the wall on both sides of one.
OF_WALLS = ("stud", "bearing stud", "plate")


class Bored(msgspec.Struct, frozen=True):
    """A hole through a member: of ``size``, ``most`` as wide as it may be and ``wood`` what stays on its
    nearer side where ``least`` has to, all in mm; ``rule`` and ``edge_rule`` say by what. Without a rule
    there is no limit.
    """

    size: float
    wood: float
    most: float | None
    rule: RuleKey[Any] | None
    least: float | None
    edge_rule: RuleKey[Any] | None

    @property
    def too_wide(self) -> bool:
        """Whether it takes more of the member than it may."""
        return self.most is not None and not at_most(self.size, self.most)

    @property
    def too_near(self) -> bool:
        """Whether less wood stays beside it than has to."""
        return self.least is not None and not at_least(self.wood, self.least)


def bored(member: Member, depth: float, size: float, practice: Practice, offset: float = 0.0) -> Bored:
    """A hole of ``size`` through a member of ``depth``, ``offset`` from its middle, mm. Furring and plates
    carry nothing that a hole takes from them.
    """
    wood = min(beside(depth, size, offset))
    if member == "joist":
        share, edge = practice[rules.JOIST_HOLE]
        return Bored(
            size=size,
            wood=wood,
            most=share * depth,
            rule=rules.JOIST_HOLE,
            least=edge,
            edge_rule=rules.JOIST_HOLE,
        )
    if member == "plate" or (member == "stud" and depth <= practice[rules.FURRING]):
        # It stays within the wood all the same.
        return Bored(size=size, wood=wood, most=None, rule=None, least=0.0, edge_rule=None)
    rule = _stud_rule(member, practice)
    edged = rules.STUD_HOLE_EDGE in practice
    return Bored(
        size=size,
        wood=wood,
        most=practice[rule] * depth,
        rule=rule,
        least=practice[rules.STUD_HOLE_EDGE] if edged else None,
        edge_rule=rules.STUD_HOLE_EDGE if edged else None,
    )


def widest_in_stud(bearing: bool, depth: float, practice: Practice) -> float:
    """How wide a hole in a stud may be, mm."""
    return practice[_stud_rule("bearing stud" if bearing else "stud", practice)] * depth


def _stud_rule(member: Member, practice: Practice) -> RuleKey[float]:
    other = member == "stud" and rules.STUD_HOLE_OTHER in practice
    return rules.STUD_HOLE_OTHER if other else rules.STUD_HOLE


def deepest_notch(bearing: bool, depth: float, practice: Practice) -> float:
    """How deep a notch in a stud may be, mm."""
    return practice[rules.NOTCH_BEARING if bearing else rules.NOTCH_OTHER] * depth


def beside(depth: float, hole: float, offset: float = 0.0) -> tuple[float, float]:
    """Wood left from a hole's edge to the nearer and the farther face, mm; ``offset`` is its distance off the
    middle.
    """
    rest = (depth - hole) / 2
    return rest - abs(offset), rest + abs(offset)


def steel_edge(member: str, practice: Practice) -> float | None:
    """The wood that has to stay at a face for a hole to ask no steel, mm; None where none is asked of that
    member.

    Where cables lie in zones, depth, a zone or protection keeps a wall's cable from nails, and zones are
    looked at.
    """
    spared = rules.CABLE_ZONES in practice and member in OF_WALLS
    return None if spared else practice[rules.HOLE_EDGE]


def steel(member: str, depth: float, hole: float, practice: Practice, offset: float = 0.0) -> int:
    """Steel plates that a hole wants: one for each face that it comes too near to; exactly at the limit
    passes.
    """
    limit = steel_edge(member, practice)
    return 0 if limit is None else sum(not at_least(edge, limit) for edge in beside(depth, hole, offset))
