"""Sets of the states of switches, each the bits of one integer, and what is joined to what in which of them.

``n`` switches stand in ``2**n`` states; switch ``i`` stands at ``(s >> i) & 1`` in state ``s``, which is bit
``s`` of a set. What is reached through contacts is the least fixed point of

    R(v) = start(v) ∪ ⋃ over contacts (u, v, c) of R(u) ∩ c,

reachability in every state at once: each bit of an integer runs its own breadth-first search.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Hashable, Iterable
from functools import cache
from typing import Generic, TypeVar

NodeT = TypeVar("NodeT", bound=Hashable)


def every(n: int) -> int:
    """The set of all states of so many switches."""
    return (1 << (1 << n)) - 1


@cache
def pattern(i: int, n: int) -> int:
    """The set of the states, of ``2**n``, in which switch ``i`` stands at 1."""
    width = 2 << i
    bits = ((1 << (1 << i)) - 1) << (1 << i)
    while width < 1 << n:
        bits |= bits << width
        width *= 2
    return bits


def standing(i: int, n: int, at: int) -> int:
    """The set of the states, of ``2**n``, in which switch ``i`` stands ``at`` 0 or 1."""
    return pattern(i, n) if at else every(n) & ~pattern(i, n)


def first_state(states: int) -> int | None:
    """The number of the lowest state in a set, or None if the set is empty."""
    return (states & -states).bit_length() - 1 if states else None


class Contacts(Generic[NodeT]):
    """Contacts between nodes, each closed in a set of states."""

    def __init__(self) -> None:
        self._joined: dict[NodeT, list[tuple[NodeT, int]]] = defaultdict(list)

    def join(self, a: NodeT, b: NodeT, states: int) -> None:
        """Join two nodes in a set of states."""
        if states:
            self._joined[a].append((b, states))
            self._joined[b].append((a, states))

    def reach(self, starts: Iterable[NodeT], states: int) -> dict[NodeT, int]:
        """The states, of a set, in which each node that is reached at all is joined to one of ``starts``.

        O(E · words of 2ⁿ bits · depth).
        """
        reached: dict[NodeT, int] = dict.fromkeys(starts, states)
        queue = deque(reached)
        while queue:
            here = queue.popleft()
            from_here = reached[here]
            for there, closed in self._joined.get(here, ()):
                known = reached.get(there, 0)
                if gained := from_here & closed & ~known:
                    reached[there] = known | gained
                    queue.append(there)
        return reached
