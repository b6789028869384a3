"""A circuit's cables seen from the panel: what lies beyond each, what closes a loop, what is not reached.

A box is *behind* a protective device when the way to it leaves that device's box by a cable
on its load side; behind the nearest, where there are several.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence

import msgspec

from fjeld.drawing.handles import Handle, order


class Edge(msgspec.Struct, frozen=True):
    """A cable of the tree, from the box nearer the panel to the one beyond."""

    cable: Handle
    up: Handle
    down: Handle


class Ring(msgspec.Struct, frozen=True):
    """A ring from the source and back: its boxes in order, the cables before, between and behind them, which
    one closes it.
    """

    boxes: tuple[Handle, ...]
    cables: tuple[Handle, ...]
    closing: Edge


class Tree(msgspec.Struct, frozen=True):
    """A circuit's cables seen from the panel. ``loops`` close a ring; ``unfed`` boxes are not reached.

    ``behind`` says which protective device's load side feeds a box, of those that are fed so.
    A ``ring`` that was meant is no loop.
    """

    root: Handle
    edges: tuple[Edge, ...]
    beyond: dict[Handle, frozenset[Handle]]
    depth: dict[Handle, int]
    loops: tuple[Handle, ...]
    unfed: tuple[Handle, ...]
    behind: dict[Handle, Handle] = {}
    ring: Ring | None = None

    def devices_before(self, box: Handle) -> tuple[Handle, ...]:
        """The protective devices whose load side a box hangs on, the nearest first."""
        found: list[Handle] = []
        while box in self.behind:
            box = self.behind[box]
            found.append(box)
        return tuple(found)


def tree(
    root: Handle,
    boxes: Iterable[Handle],
    cables: Mapping[Handle, tuple[Handle, Handle]],
    on_load: Collection[Handle] = (),
    guards: Collection[Handle] = (),
    ring: bool = False,
) -> Tree:
    """Walk the cables outward from the panel; a cable that meets a reached box closes a loop.

    ``guards`` are the boxes of protective devices, ``on_load`` the cables to be joined to the
    load side of the one at their upper end; where there is none there, they are joined as others.
    In a ``ring`` the one cable that closes it through the source is part of it.
    """
    edges, depth = _walked(root, cables)
    used = {edge.cable for edge in edges}
    beyond: dict[Handle, frozenset[Handle]] = {}
    below: dict[Handle, set[Handle]] = {h: {h} for h in depth}
    for edge in reversed(edges):
        beyond[edge.cable] = frozenset(below[edge.down])
        below[edge.up] |= below[edge.down]
    loops = tuple(c for c, ends in cables.items() if c not in used and {*ends} <= depth.keys())
    around = _ring(root, edges, {c: cables[c] for c in loops}) if ring else None
    return Tree(
        root=root,
        edges=tuple(edges),
        beyond=beyond,
        depth=depth,
        loops=() if around else loops,
        unfed=tuple(b for b in boxes if b not in depth),
        behind=_behind(edges, on_load, guards),
        ring=around,
    )


def _behind(
    edges: Sequence[Edge], on_load: Collection[Handle], guards: Collection[Handle]
) -> dict[Handle, Handle]:
    """The box of the protective device whose load side feeds each box that is fed so."""
    behind: dict[Handle, Handle] = {}
    for edge in edges:
        if edge.cable in on_load and edge.up in guards:
            behind[edge.down] = edge.up
        elif edge.up in behind:
            behind[edge.down] = behind[edge.up]
    return behind


def _walked(
    root: Handle, cables: Mapping[Handle, tuple[Handle, Handle]]
) -> tuple[list[Edge], dict[Handle, int]]:
    """The cables outward from the root, breadth first, and how many lie between it and each box reached."""
    joined: dict[Handle, list[tuple[Handle, Handle]]] = defaultdict(list)
    for cable, (a, b) in sorted(cables.items(), key=lambda c: order(c[0])):
        joined[a].append((cable, b))
        joined[b].append((cable, a))
    depth = {root: 0}
    edges: list[Edge] = []
    queue = [root]
    for here in queue:
        for cable, there in joined[here]:
            if there not in depth:
                depth[there] = depth[here] + 1
                edges.append(Edge(cable, here, there))
                queue.append(there)
    return edges, depth


def _ring(root: Handle, edges: list[Edge], loops: Mapping[Handle, tuple[Handle, Handle]]) -> Ring | None:
    """The ring that a single loop closes through the source; None for any other loops."""
    if len(loops) != 1:
        return None
    above = {e.down: e for e in edges}

    def home(box: Handle) -> list[Edge]:
        found: list[Edge] = []
        while box in above:
            found.append(above[box])
            box = above[box].up
        return found

    closing, (a, b) = next(iter(loops.items()))
    out, back = home(a)[::-1], home(b)
    if {e.down for e in out} & {e.down for e in back}:
        return None
    boxes = [*(e.down for e in out), *(e.down for e in back)]
    return Ring(
        tuple(boxes), (*(e.cable for e in out), closing, *(e.cable for e in back)), Edge(closing, a, b)
    )
