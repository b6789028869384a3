"""What a cable can be, seen from the box: what each of its conductors carries, which way, and what is beyond.

A way of carrying is two letters. The first is what it is: ``l`` line, ``s`` switched line, ``t``
traveller, ``n`` neutral, ``k`` an alarm's link, ``c`` what ties two commons, ``x`` nothing. The
second is ``<`` where the cable brings it here and ``>`` where the cable takes it on. Travellers
bring the line here where the switch beyond them has it on its common.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from itertools import permutations
from typing import Literal

import msgspec

Role = Literal[
    "FEED", "ON", "LEG", "LEG2", "LOOP", "LOOPN", "TRAV", "HALF", "TWO", "LINK", "DEAD", "RING", "SPUR"
]


class Beyond(msgspec.Struct, frozen=True):
    """A role and what each conductor carries in it, in the order of the conductors.

    ``legs`` says that two lines of it are of two legs; else of one.
    """

    role: Role
    carries: tuple[str, ...]
    legs: bool = False

    def brings(self, what: str) -> list[int]:
        """The conductors that bring something here."""
        return [k for k, way in enumerate(self.carries) if way == f"{what}<"]

    def takes(self, what: str) -> list[int]:
        """The conductors that take something on."""
        return [k for k, way in enumerate(self.carries) if way == f"{what}>"]

    @property
    def inward(self) -> bool:
        """Whether it brings a line, switched or not, and is no loop."""
        return not self.takes("s") and bool(self.brings("l") or self.brings("s"))


#: Every role by how many insulated conductors it has, ways parted by blanks.
_ROLES: dict[int, tuple[tuple[Role, str], ...]] = {
    1: (("DEAD", "x-"),),
    2: (
        ("FEED", "l< n<"),
        ("ON", "l> n>"),
        ("LEG", "s< n<"),
        ("LEG", "s> n>"),
        ("LOOP", "l< s>"),
        ("LOOP", "l> s<"),
        ("DEAD", "x- x-"),
    ),
    3: (
        ("FEED", "l< n< x-"),
        ("ON", "l> n> x-"),
        ("LEG", "s< n< x-"),
        ("LEG", "s> n> x-"),
        ("LEG2", "s< s< n<"),
        ("LEG2", "s> s> n>"),
        ("HALF", "l< s< n<"),
        ("HALF", "l> s> n>"),
        ("TWO", "l< l< n<"),
        ("TWO", "l> l> n>"),
        ("LOOPN", "l< s> n<"),
        ("LOOPN", "l> s< n>"),
        ("LOOP", "l< s> s>"),
        ("LOOP", "l> s< s<"),
        ("LOOP", "l< s> x-"),
        ("LOOP", "l> s< x-"),
        ("TRAV", "t> t> n>"),
        ("TRAV", "t< t< n<"),
        ("TRAV", "t> t> l<"),
        ("TRAV", "t< t< l>"),
        ("TRAV", "t> t> s<"),
        ("TRAV", "t< t< s>"),
        ("TRAV", "t> t> x-"),
        ("TRAV", "t< t< x-"),
        ("TRAV", "c l> s-"),
        ("TRAV", "c l< s-"),
        ("LINK", "l< n< k"),
        ("LINK", "l> n> k"),
        ("DEAD", "x- x- x-"),
    ),
}
#: Of four, what goes beside two travellers, and the rest.
_BESIDE = (
    "l< n<",
    "l> n>",
    "l> n<",
    "s> n<",
    "s< n<",
    "s< n>",
    "s> n>",
    "l> s<",
    "l< s>",
    "n< x-",
    "n> x-",
    "l< x-",
    "l> x-",
    "s< x-",
    "s> x-",
)
_ROLES[4] = (
    *(("TRAV", f"{ways} {beside}") for ways in ("t> t>", "t< t<") for beside in _BESIDE),
    *(("TRAV", f"c {tied}") for tied in ("l> s- n>", "l> s- n<", "l> s- x-", "l< s- n<", "l< s- x-")),
    ("LEG2", "s< s< s< n<"),
    ("LEG2", "s> s> s> n>"),
    ("HALF", "l< s< s< n<"),
    ("HALF", "l> s> s> n>"),
    ("TWO", "l< l< s< n<"),
    ("TWO", "l> l> s> n>"),
    ("TWO", "l< l< s> n<"),
    ("TWO", "l> l> s< n>"),
    ("LINK", "l< k s< n<"),
    ("LINK", "l> k s> n>"),
    ("LOOPN", "l< s> s> n<"),
    ("LOOPN", "l> s< s< n>"),
    *((role, f"{ways} x-") for role, ways in _ROLES[3] if role in ("LEG2", "HALF", "LOOPN", "LINK", "TWO")),
    ("FEED", "l< n< x- x-"),
    ("ON", "l> n> x- x-"),
    ("DEAD", "x- x- x- x-"),
)
_BRITISH: tuple[tuple[Role, str], ...] = (("RING", "l< n<"), ("SPUR", "l< n<"), ("SPUR", "l> n>"))


@cache
def beyonds(insulated: int, rings: bool) -> tuple[Beyond, ...]:
    """Every role, and every way round that its conductors can lie; none for a cable of more conductors than
    are known.
    """
    rows = [*_ROLES.get(insulated, ()), *(_BRITISH if rings and insulated == 2 else ())]
    found: list[Beyond] = []
    for role, written in rows:
        for order in dict.fromkeys(permutations(written.split())):
            found += [Beyond(role, order, legs) for legs in ((True, False) if role == "TWO" else (False,))]
    return tuple(found)


class FarEdge(msgspec.Struct, frozen=True):
    """What joins two things at the far end of a cable: conductors by number, ``L``, ``L2``, ``N``.

    ``control`` is the switch there that joins them, ``closed`` how it must stand; none for what is always
    joined.
    """

    a: int | str
    b: int | str
    control: str = ""
    closed: int = 1


def far_edges(beyond: Beyond) -> Iterator[FarEdge]:
    """What is joined at the far end. A load there joins nothing: it is what a reading goes through."""
    lines = beyond.brings("l")
    for n, k in enumerate(lines):
        yield FarEdge(k, "L2" if n and beyond.legs else "L")
    for k in beyond.brings("n"):
        yield FarEdge(k, "N")
    if "c" in beyond.carries:
        yield from _tied(beyond)
    elif beyond.role == "TRAV":
        yield from _three_way(beyond)
    else:
        out = beyond.takes("l")
        for n, k in enumerate(beyond.brings("s")):
            loop = beyond.role in ("LOOP", "LOOPN")
            yield FarEdge(k, out[0] if loop else "L", f"far{n or ''}")


def _three_way(beyond: Beyond) -> Iterator[FarEdge]:
    """The three-way switch at the far end: on its common is the line there, what goes back from there, or a
    load.
    """
    common: int | str | None = None
    if beyond.brings("t"):
        common = next(iter(beyond.takes("l")), "L")
    elif back := beyond.brings("s"):
        common = back[0]
    if common is not None:
        for stands, k in enumerate([*beyond.brings("t"), *beyond.takes("t")]):
            yield FarEdge(common, k, "far", stands)


def _tied(beyond: Beyond) -> Iterator[FarEdge]:
    """The second of two switches whose commons are tied, and whose throws are line and switched
    line on both.
    """
    common = beyond.carries.index("c")
    for closed, what in enumerate("ls"):
        (throw,) = (k for k, way in enumerate(beyond.carries) if way[0] == what)
        yield FarEdge(common, throw, "far", closed)
