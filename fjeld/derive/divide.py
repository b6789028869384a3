"""From nets to cables: what each edge of the tree carries, and how an over-full edge is divided.

In a tree with one cable an edge, a cable carries a net if and only if the net has
terminals on both of its sides.

Where an edge would need more conductors than the largest cable has, its controls are
divided over several cables. Each takes its own section of line and neutral, joined to
the others only at the upstream box, so that the currents of every cable still cancel.
A control whose last switch stands upstream can be divided once more: what goes out on
its line or a traveller comes back on a traveller, and what goes out on its switched line
comes back on a neutral, so its switching and its loads may go in two cables. A switch in
the middle of a chain, alone at the end of its cable, has two pairs of travellers there;
ends kept at it for later come in a second cable.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from typing import Literal

import msgspec

from fjeld.derive.terminals import Terminal, control_of, role_of, section_of
from fjeld.derive.tree import Edge, Tree
from fjeld.drawing.handles import Handle, order

#: The most insulated conductors in one cable, where the practice's catalogue does not say.
LARGEST = 4


class Bundle(msgspec.Struct, frozen=True):
    """One physical cable of an edge: its section (empty for the main one) and the nets it carries."""

    section: str
    nets: tuple[str, ...]


class Nets(msgspec.Struct, frozen=True):
    """The solved nets of a circuit.

    ``links`` says, per box and section net, which net it is joined to there;
    ``chains`` holds each control's positions from the line end to the load end.
    """

    terminals: tuple[Terminal, ...]
    bundles: dict[Handle, tuple[Bundle, ...]]
    links: dict[tuple[Handle, str], str]
    chains: dict[Handle, tuple[Handle, ...]]
    overflow: tuple[Handle, ...]


Part = Literal["", "switching", "loads", "kept"]


class _Unit(msgspec.Struct, frozen=True, order=True):
    """What moves to a cable of its own: tied controls, or of one its switching, its loads, or its kept ends."""

    place: tuple[str, int, str]
    controls: tuple[str, ...]
    part: Part

    def takes(self, net: str) -> bool:
        """Whether a net that only these controls use goes with the unit."""
        kind = role_of(net).partition(":")[0]
        return control_of(net) in self.controls and self.part in ("", "loads" if kind == "SL" else "switching")

    def moves(self, terminal: Terminal) -> bool:
        """Whether a line or neutral terminal goes with the unit. Ends kept at a switch go with its switching."""
        at_switch = terminal.kept or ":" in terminal.device
        if terminal.owner not in self.controls:
            return False
        return (
            terminal.kept if self.part == "kept" else self.part in ("", "switching" if at_switch else "loads")
        )


class _Split(msgspec.Struct, frozen=True):
    """A unit that goes in a section of its own to the boxes ``beyond`` an edge."""

    beyond: frozenset[Handle]
    unit: _Unit
    section: str


def divide(
    terminals: list[Terminal], where: Tree, chains: dict[Handle, tuple[Handle, ...]], most: int = LARGEST
) -> Nets:
    """Spread over-full edges over several cables, from the panel outward."""
    splits: list[_Split] = []
    links: dict[tuple[Handle, str], str] = {}
    overflow: list[Handle] = []
    bundles: dict[Handle, tuple[Bundle, ...]] = {}
    for edge in where.edges:
        beyond = where.beyond[edge.cable]
        for attempt in range(8):
            grouped: dict[str, list[str]] = defaultdict(list)
            for net in crossing(terminals, beyond):
                grouped[_travels_in(net, edge, splits)].append(net)
            full = next((s for s, nets in grouped.items() if len(nets) > most), None)
            if full is None:
                break
            section = f"{edge.cable}{'bcdefghi'[attempt]}"
            moved = _split(terminals, edge, beyond, grouped[full], full, section, chains, most)
            if moved is None:
                overflow.append(edge.cable)
                break
            terminals, units = moved
            splits += [_Split(beyond, unit, section) for unit in units]
            for role in ("L", "N"):
                if any(t.net == f"{role}/{section}" for t in terminals):
                    links[edge.up, f"{role}/{section}"] = f"{role}/{full}" if full else role
        bundles[edge.cable] = tuple(
            Bundle(s, tuple(sorted(nets, key=_net_order))) for s, nets in sorted(grouped.items())
        ) or (Bundle("", ()),)
    return Nets(tuple(terminals), bundles, links, chains, tuple(overflow))


def _travels_in(net: str, edge: Edge, splits: list[_Split]) -> str:
    """The section a net travels in on an edge: its own, or its control's latest there."""
    if not control_of(net):
        return section_of(net)
    return next((s.section for s in reversed(splits) if edge.down in s.beyond and s.unit.takes(net)), "")


def _units(
    terminals: list[Terminal],
    nets: list[str],
    beyond: frozenset[Handle],
    chains: Mapping[Handle, tuple[Handle, ...]],
) -> list[_Unit]:
    """The units that an edge's nets can be divided into."""
    tied: dict[str, set[str]] = defaultdict(set)
    for terminal in terminals:
        if control := control_of(terminal.net):
            tied[terminal.owner].add(control)
    found: set[_Unit] = set()
    for controls in tied.values():
        mine = [n for n in nets if control_of(n) in controls]
        chain = chains.get(Handle(min(controls)), ())
        switching = [n for n in mine if role_of(n).startswith("T:")]
        apart = (
            len(controls) == 1 and 0 < len(switching) < len(mine) and bool(chain) and chain[-1] not in beyond
        )
        parts: tuple[Part, ...] = ("switching", "loads") if apart else ("",)
        if mine:
            named = tuple(sorted(controls, key=order))
            found |= {_Unit(order(named[0]), named, part) for part in parts}
    if len(found) == 1:
        (alone,) = found
        if any(t.kept and t.box in beyond and t.owner in alone.controls for t in terminals):
            found.add(msgspec.structs.replace(alone, part="kept"))
    return sorted(found)


def _split(
    terminals: list[Terminal], edge: Edge, beyond: frozenset[Handle], nets: list[str], full: str, section: str,
    chains: Mapping[Handle, tuple[Handle, ...]], most: int,
) -> tuple[list[Terminal], list[_Unit]] | None:  # fmt: skip
    """Move as few units as it takes to a cable of their own; None when that gains nothing."""
    units = _units(terminals, nets, beyond, chains)
    for staying in range(len(units) - 1, -1, -1):
        moved = units[staying:]
        changed = [_moved(t, beyond, moved, full, section) for t in terminals]
        changed += [
            Terminal(edge.up, "", "section", f"{role}/{section}")
            for role in ("L", "N")
            if any(t.net == f"{role}/{section}" for t in changed)
        ]
        left = [n for n in crossing(changed, beyond) if n in nets and not any(u.takes(n) for u in moved)]
        if len(left) <= most and 0 < len(left) < len(nets):
            return changed, moved
    return None


def _moved(t: Terminal, beyond: frozenset[Handle], moved: list[_Unit], full: str, section: str) -> Terminal:
    if (
        t.box in beyond
        and role_of(t.net) in ("L", "N")
        and section_of(t.net) == full
        and any(u.moves(t) for u in moved)
    ):
        return msgspec.structs.replace(t, net=f"{role_of(t.net)}/{section}")
    return t


def crossing(terminals: Iterable[Terminal], beyond: frozenset[Handle]) -> list[str]:
    inside: set[str] = set()
    outside: set[str] = set()
    for terminal in terminals:
        (inside if terminal.box in beyond else outside).add(terminal.net)
    return sorted(inside & outside)


_RANK = {"L": 0, "SL": 1, "T": 2, "C": 3, "IC": 4, "N": 5}


def _net_order(net: str) -> tuple[int, tuple[str, int, str]]:
    return _RANK.get(role_of(net).partition(":")[0], 9), order(role_of(net).partition(":")[2])
