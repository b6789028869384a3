"""Cables of a box that are alike, and conductors of a cable that are: nothing recorded and nothing read tells
one from the other.

Whatever one of them may be the other may be as well, with as much likelihood. Of the wirings that differ only
in which of them is which one is looked at, and counted as often as there are such; what is asked of a cable,
or of a net, is asked of all that it may change places with, since each of those is as likely there. Six
cables of three conductors with their neutrals joined are 240,753 wirings, and 198 to be looked at.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Iterator, Sequence
from functools import lru_cache
from itertools import pairwise, permutations, product
from math import factorial, prod
from typing import TypeVar

import msgspec

from fjeld.oldbox.beyond import Beyond
from fjeld.oldbox.found import BoxNets, FoundBox

#: A conductor by its cable's place among the cables and its own within the cable; a cable by its place and
#: :data:`WHOLE`; what changes places with nothing by :data:`STAYS` and its net.
Place = tuple[int, int]
WHOLE = STAYS = -1
_Said = TypeVar("_Said", bound=Hashable)
_Groups = tuple[tuple[int, ...], ...]


class Alike(msgspec.Struct, frozen=True):
    """The cables of a box in groups of two and more that are alike, and for each cable its conductors that
    are; ``at`` has the nets of each cable's insulated conductors, ``loose`` the nets that are one conductor
    and nothing else.
    """

    cables: _Groups
    leads: tuple[_Groups, ...]
    at: _Groups
    loose: frozenset[int]

    def place(self, net: int) -> Place:
        """Where a net is: a conductor that may change places with another, or what stays."""
        if net in self.loose:
            for n, nets in enumerate(self.at):
                if net in nets:
                    return n, nets.index(net)
        return STAYS, net

    def net(self, place: Place) -> int:
        """The net that is there."""
        cable, lead = place
        return lead if cable == STAYS else self.at[cable][lead]

    def orbit(
        self, places: tuple[Place, ...], still: frozenset[int] = frozenset()
    ) -> Sequence[Sequence[Place]]:
        """Everything that some places may stand for together, each as likely as the others. ``still`` are
        cables whose conductors do not change places in this wiring.
        """
        return _orbit(self.cables, self.leads, places, still)

    def nets(self, net: int, still: frozenset[int] = frozenset()) -> list[int]:
        """The nets that a net may change places with, itself among them."""
        return [self.net(place) for (place,) in self.orbit((self.place(net),), still)]

    def like(self, cable: int) -> tuple[int, ...]:
        """The cables that a cable may change places with, itself the first."""
        group: tuple[int, ...] = next((g for g in self.cables if cable in g), ())
        return (cable, *(n for n in group if n != cable))

    def kind(self, of: Sequence[_Said]) -> tuple[_Said, ...]:
        """What is said of each cable, with that of alike cables in one order: the same for all that one
        wiring stands for.
        """
        told = list(of)
        for group in self.cables:
            for n, one in zip(group, sorted((of[n] for n in group), key=repr), strict=True):
                told[n] = one
        return tuple(told)

    def orders(self, of: Sequence[Hashable]) -> int:
        """In how many ways what is said of each cable can be said of those that are alike."""
        return prod(arrangements([of[n] for n in group]) for group in self.cables)

    def ways_round(self, cable: int, beyond: Beyond) -> list[Beyond]:
        """What a cable may be besides, were its alike conductors changed about: itself the first.

        Two lines of two circuits are told by their order, and stay as they are.
        """
        if stays(beyond) or not self.leads[cable]:
            return [beyond]
        found = {beyond.carries: None}
        for group in self.leads[cable]:
            for carries in list(found):
                for order in permutations(group):
                    turned = list(carries)
                    for to, of in zip(group, order, strict=True):
                        turned[to] = carries[of]
                    found[tuple(turned)] = None
        return [Beyond(beyond.role, carries, beyond.legs) for carries in found]

    def times(self, cables: Sequence[Beyond]) -> int:
        """How many wirings differ from this one only in which of what is alike is which. Each cable is as
        :meth:`ways_round` has it first.
        """
        return self.orders(cables) * prod(len(self.ways_round(n, b)) for n, b in enumerate(cables))

    def images(
        self, cables: tuple[Beyond, ...], about: Collection[int] | None = None
    ) -> Iterator[tuple[tuple[Beyond, ...], int]]:
        """Every wiring that this one stands for, with how many each stands for in its turn: one, unless
        ``about`` says which cables matter. Of the others one way is then given for all.
        """
        alone = [(n,) for n in range(len(cables)) if self.like(n) == (n,)]
        parts = [list(self._placed(group, cables, about)) for group in (*self.cables, *alone)]
        for chosen in product(*parts):
            placed = {n: beyond for some, _ in chosen for n, beyond in some.items()}
            yield tuple(placed[n] for n in range(len(cables))), prod(count for _, count in chosen)

    def _placed(
        self, group: tuple[int, ...], cables: tuple[Beyond, ...], about: Collection[int] | None
    ) -> Iterator[tuple[dict[int, Beyond], int]]:
        """The ways in which the cables of one group may be what they are, with how many each stands for."""
        mine = [n for n in group if about is None or n in about]
        others = [n for n in group if n not in mine]
        all_ = [cables[n] for n in group]
        for drawn in dict.fromkeys(permutations(all_, len(mine))):
            rest = list((Counter(all_) - Counter(drawn)).elements())
            count = arrangements(rest) * prod(
                len(self.ways_round(n, b)) for n, b in zip(others, rest, strict=True)
            )
            for given in product(*(self.ways_round(n, b) for n, b in zip(mine, drawn, strict=True))):
                yield {**dict(zip(mine, given, strict=True)), **dict(zip(others, rest, strict=True))}, count


def stays(beyond: Beyond) -> bool:
    """Whether the conductors of a cable are told by their order, alike or not: those of two circuits."""
    return beyond.role == "TWO"


def arrangements(things: Sequence[Hashable]) -> int:
    """In how many orders some things can lie that are partly the same."""
    return factorial(len(things)) // prod(factorial(n) for n in Counter(things).values())


@lru_cache(8192)
def _orbit(
    cables: _Groups, leads: tuple[_Groups, ...], places: tuple[Place, ...], still: frozenset[int]
) -> tuple[tuple[Place, ...], ...]:
    """All that comes of changing conductors about in their cables, then whole cables: O(found × pairs)."""
    conductors = [
        _Turned(n, pair)
        for n, groups in enumerate(leads)
        if n not in still
        for group in groups
        for pair in pairwise(group)
    ]
    whole = [_Turned(None, pair) for group in cables for pair in pairwise(group)]
    return tuple(_closed(_closed([places], conductors), whole))


class _Turned:
    """Two conductors of a cable that change places, or two whole cables where none is said."""

    def __init__(self, cable: int | None, pair: Sequence[int]) -> None:
        self.cable, (one, two) = cable, pair
        self.of = {one: two, two: one}

    def __call__(self, place: Place) -> Place:
        cable, lead = place
        if self.cable is None:
            return self.of.get(cable, cable), lead
        return (cable, self.of.get(lead, lead)) if cable == self.cable else place


def _closed(found: Sequence[tuple[Place, ...]], moves: Sequence[_Turned]) -> list[tuple[Place, ...]]:
    """Everything that comes of some places by some moves, one after another."""
    seen = dict.fromkeys(found)
    ahead = list(seen)
    while ahead:
        places = ahead.pop()
        for move in moves:
            if (moved := tuple(move(p) for p in places)) not in seen:
                seen[moved] = None
                ahead.append(moved)
    return list(seen)


def nothing_alike(box: FoundBox, where: BoxNets) -> Alike:
    """A box in which every cable is looked at by itself."""
    at = tuple(tuple(where.of[end] for end in cable.insulated) for cable in box.cables)
    return Alike((), tuple(() for _ in at), at, frozenset())
