"""From nets to cables: what each edge of the tree carries, and how an over-full edge is divided.

In a tree with one cable an edge, a cable carries a net if and only if the net has
terminals on both of its sides.

Where an edge would need more conductors than the largest cable has, its controls are
divided over several cables. Each takes its own branch of line and neutral, joined to
the others only at the upstream box, so that the currents of every cable still cancel.
A control whose last switch stands upstream can be divided once more: what goes out on
its line or a traveller comes back on a traveller, and what goes out on its switched line
comes back on a neutral, so its switching and its loads may go in two cables. A switch in
the middle of a chain, alone at the end of its cable, has two pairs of travellers there;
ends kept at it for later come in a second cable. Controls that are fed back from the load side
of a protective device beyond an edge go together, with the line that comes back for them.
"""

from __future__ import annotations

import functools
import itertools
import operator
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import combinations
from typing import Literal

import msgspec

from fjeld.derive import keys
from fjeld.derive.keys import Net
from fjeld.derive.terminals import Terminal
from fjeld.derive.tree import Edge, Tree
from fjeld.drawing.handles import Handle, order

#: The most insulated conductors in one cable, where the practice's catalogue does not say.
LARGEST = 4


class Bundle(msgspec.Struct, frozen=True):
    """One physical cable of an edge: its branch (empty for the main one) and the nets it carries."""

    branch: str
    nets: tuple[Net, ...]


class Nets(msgspec.Struct, frozen=True):
    """The solved nets of a circuit.

    ``links`` says, per box and branch of a net, which net it is joined to there;
    ``chains`` holds each control's positions from the line end to the load end.
    """

    terminals: tuple[Terminal, ...]
    bundles: dict[Handle, tuple[Bundle, ...]]
    links: dict[tuple[Handle, Net], Net]
    chains: dict[Handle, tuple[Handle, ...]]
    overflow: tuple[Handle, ...]


Part = Literal["", "switching", "loads", "kept"]


class _Unit(msgspec.Struct, frozen=True, order=True):
    """What moves to a cable of its own: controls whole, or of them their switching, their loads, or ends kept
    for later.

    ``device`` is the protective device beyond, whose load side they take line from: what comes
    back from there for their switches goes with them.
    """

    place: tuple[str, int, str]
    controls: tuple[str, ...]
    part: Part
    device: str = ""

    def takes(self, net: Net) -> bool:
        """Whether a net that only these controls use goes with the unit."""
        if self.device and net.feeds and net.beyond == self.device:
            return True
        return net.control in self.controls and self.part in (
            "",
            "loads" if net.role == "switched" else "switching",
        )

    def moves(self, terminal: Terminal) -> bool:
        """Whether a line or neutral terminal goes with the unit. A switch is its own control's, a load that
        of its fitting.
        """
        control = terminal.device.control if terminal.device else ""
        if self.device or (control or terminal.owner) not in self.controls:
            return False
        if terminal.kept:
            return self.part == "kept"
        return self.part in ("", "switching" if control else "loads")


class _Split(msgspec.Struct, frozen=True):
    """A unit that goes in a branch of its own to the boxes ``beyond`` an edge."""

    beyond: frozenset[Handle]
    unit: _Unit
    branch: str


def divide(
    terminals: list[Terminal], where: Tree, chains: dict[Handle, tuple[Handle, ...]], most: int = LARGEST
) -> Nets:
    """Spread over-full edges over several cables, from the panel outward."""
    splits: list[_Split] = []
    links: dict[tuple[Handle, Net], Net] = {}
    overflow: list[Handle] = []
    bundles: dict[Handle, tuple[Bundle, ...]] = {}
    for edge in where.edges:
        beyond = where.beyond[edge.cable]
        for attempt in range(8):
            grouped: dict[str, list[Net]] = defaultdict(list)
            for net in crossing(terminals, beyond):
                grouped[_travels_in(net, edge, beyond, splits)].append(net)
            full = next((s for s, nets in grouped.items() if len(nets) > most), None)
            if full is None:
                break
            branch = keys.branch_key(edge.cable, attempt)
            moved = _split(
                terminals,
                edge,
                beyond=beyond,
                nets=grouped[full],
                full=full,
                branch=branch,
                chains=chains,
                most=most,
            )
            if moved is None:
                overflow.append(edge.cable)
                break
            terminals, units = moved
            splits += [_Split(beyond, unit, branch) for unit in units]
            links |= {(edge.up, net): net.in_branch(full) for net in _branched(terminals, branch)}
        bundles[edge.cable] = tuple(
            Bundle(branch, tuple(sorted(nets, key=_net_order))) for branch, nets in sorted(grouped.items())
        ) or (Bundle("", ()),)
    return Nets(tuple(terminals), bundles, links, chains, tuple(overflow))


def _branched(terminals: Iterable[Terminal], branch: str) -> list[Net]:
    """The nets that travel in a branch, in order."""
    return sorted({t.net for t in terminals if t.net.branch == branch}, key=str)


def _travels_in(net: Net, edge: Edge, beyond: frozenset[Handle], splits: list[_Split]) -> str:
    """The branch a net travels in on an edge: its own, or its control's latest there.

    What went apart for a device that lies beyond is together again past that device.
    """
    if not net.control and net.beyond not in beyond:
        return net.branch
    standing = (
        s.branch
        for s in reversed(splits)
        if edge.down in s.beyond and s.unit.takes(net) and (not s.unit.device or s.unit.device in beyond)
    )
    return next(standing, "")


def _units(
    terminals: list[Terminal],
    nets: list[Net],
    beyond: frozenset[Handle],
    chains: Mapping[Handle, tuple[Handle, ...]],
) -> list[_Unit]:
    """The units that an edge's nets can be divided into.

    Controls over parts of one fitting share its neutral terminal: where the fitting lies
    beyond, their loads go together. Where only their switches do, each control stands alone,
    since what goes out on its line comes back on its own travellers or switched line.
    """
    tied, fitted = _tied(terminals, beyond)
    found, fed_back = _switched_beyond(terminals, nets, beyond)
    for owner, tied_to in tied.items():
        controls = tied_to - fed_back
        mine = [n for n in nets if n.control in controls]
        if owner not in fitted:
            found |= {_Unit(order(c), (c,), "") for c in {n.control for n in mine}}
        elif mine:
            found |= _of_fitting(terminals, controls, mine, beyond, chains)
    owners = {t.owner for t in terminals if t.kept and t.box in beyond and t.owner}
    return sorted(found | {_Unit(order(owner), (owner,), "kept") for owner in owners})


def _switched_beyond(
    terminals: list[Terminal], nets: list[Net], beyond: frozenset[Handle]
) -> tuple[set[_Unit], set[str]]:
    """A unit for each device that controls are fed back from, and those controls."""
    back = _fed_back(terminals, beyond)
    units = {
        _Unit(order(device), tuple(sorted(controls, key=order)), "", device)
        for device, controls in back.items()
        if any(n.control in controls or n.beyond == device for n in nets)
    }
    return units, {control for controls in back.values() for control in controls}


def _tied(terminals: Sequence[Terminal], beyond: frozenset[Handle]) -> tuple[dict[str, set[str]], set[str]]:
    """The controls of each owner of terminals, and the owners whose fitting itself lies beyond."""
    tied: dict[str, set[str]] = defaultdict(set)
    fitted: set[str] = set()
    for terminal in terminals:
        if control := terminal.net.control:
            tied[terminal.owner].add(control)
        if terminal.box in beyond and terminal.device and not terminal.device.control:
            fitted.add(terminal.owner)
    return tied, fitted


def _fed_back(terminals: list[Terminal], beyond: frozenset[Handle]) -> dict[Handle, set[str]]:
    """The controls that take line from the load side of a device beyond an edge, by device.

    What they switch goes out from there, up to their switches and down again to their loads:
    it balances among their own nets, and only when all of them are together.
    """
    found: dict[Handle, set[str]] = defaultdict(set)
    for terminal in terminals:
        if (
            terminal.device
            and terminal.device.control
            and terminal.net.feeds
            and terminal.net.beyond in beyond
        ):
            found[terminal.net.beyond].add(terminal.device.control)
    return found


def _of_fitting(
    terminals: list[Terminal],
    controls: set[str],
    mine: list[Net],
    beyond: frozenset[Handle],
    chains: Mapping[Handle, tuple[Handle, ...]],
) -> set[_Unit]:
    """The units of the controls of a fitting beyond an edge, of which ``mine`` are the nets to divide."""
    across = [n for n in crossing(terminals, beyond) if n.control in controls]
    if len(mine) < len(across):
        # Divided once already: what is left here is its switching or its loads, never both.
        return _left_here(controls, mine)
    working = {t.device.control for t in terminals if t.box in beyond and t.device and t.device.control}
    return _with_fitting(controls, mine, working, beyond, chains)


def _left_here(controls: set[str], mine: list[Net]) -> set[_Unit]:
    """The units of controls of which some nets went to another cable of the edge before."""
    named = tuple(sorted(controls, key=order))
    switched = {n.control for n in mine if n.role != "switched"}
    found = {_Unit(order(c), (c,), "switching") for c in switched}
    if any(n.role == "switched" for n in mine):
        found.add(_Unit(order(named[0]), named, "loads"))
    return found


def _with_fitting(
    controls: set[str],
    mine: list[Net],
    working: set[str],
    beyond: frozenset[Handle],
    chains: Mapping[Handle, tuple[Handle, ...]],
) -> set[_Unit]:
    """The units of controls whose fitting lies beyond an edge: all together, or each one's switching apart
    from the loads.

    Apart only where every switch beyond (``working`` are the controls with one there) has its
    travellers back: one that takes line there and hands it on to the load needs the load's neutral.
    """
    named = tuple(sorted(controls, key=order))
    switched = {c for c in controls if any(n.role == "traveller" and n.control == c for n in mine)}
    ends_here = all((chain := chains.get(Handle(c), ())) and chain[-1] not in beyond for c in switched)
    loads = any(n.role == "switched" for n in mine)
    if not switched or not loads or not ends_here or (controls & working) - switched:
        return {_Unit(order(named[0]), named, "")}
    return {_Unit(order(c), (c,), "switching") for c in switched} | {_Unit(order(named[0]), named, "loads")}


#: With more units than this on one edge not every way of dividing them is tried.
_EXHAUSTIVE = 10


def _split(
    terminals: list[Terminal],
    edge: Edge,
    beyond: frozenset[Handle],
    nets: list[Net],
    full: str,
    branch: str,
    chains: Mapping[Handle, tuple[Handle, ...]],
    most: int,
) -> tuple[list[Terminal], list[_Unit]] | None:
    """Move units to a cable of their own, the way that needs fewest conductors; None when no way gains
    anything.

    Every set of units is tried while they are few: best is what leaves two cables that hold
    all, then what comes to fewest conductors, then what moves least.
    """
    units = _units(terminals, nets, beyond, chains)
    weighed = _Weighing(terminals, units, beyond, nets, full)
    best: tuple[tuple[int, ...], list[_Unit]] | None = None
    for moved in _ways(len(units)):
        left, own = weighed.conductors(moved)
        if left > most or not 0 < left < len(nets) or not own:
            continue
        found = (max(0, own - most), left + own, len(moved), own), [units[n] for n in moved]
        if best is None or found[0] < best[0]:
            best = found
    if best is None:
        return None
    changed = [_moved(t, beyond, best[1], full, branch) for t in terminals]
    changed += [Terminal(edge.up, None, "branch", net) for net in _branched(changed, branch)]
    return changed, best[1]


class _Weighing:
    """How many conductors stay and go when units move: counted on bits, since every set of units is weighed.

    The nets of controls go with their units. Line and neutral stay as long as a terminal
    beyond still wants them, and go along as soon as one that moved does.
    """

    def __init__(
        self,
        terminals: list[Terminal],
        units: list[_Unit],
        beyond: frozenset[Handle],
        nets: list[Net],
        full: str,
    ) -> None:
        feeds = {t.net for t in terminals if _brought(t, beyond, full)}
        self._rest = [n for n in nets if n not in feeds]
        self._taken = [_bits(unit.takes(n) for n in self._rest) for unit in units]
        self._feeds: list[tuple[bool, int, list[int]]] = []
        for feed in feeds:
            wanting = [t for t in terminals if t.box in beyond and t.net == feed]
            moving = [_bits(unit.moves(t) for t in wanting) for unit in units]
            self._feeds.append((feed in nets, _bits(True for _ in wanting), moving))

    def conductors(self, moved: Sequence[int]) -> tuple[int, int]:
        """Conductors that stay in the cable, and that the moved units (by their numbers) take to another."""
        taken = 0
        for unit in moved:
            taken |= self._taken[unit]
        own = taken.bit_count()
        left = len(self._rest) - own
        for crosses, wanting, moving in self._feeds:
            gone = 0
            for unit in moved:
                gone |= moving[unit]
            own += gone > 0
            left += crosses and gone != wanting
        return left, own


def _bits(values: Iterable[bool]) -> int:
    return sum(1 << n for n, value in enumerate(values) if value)


def _ways(units: int) -> Iterator[Sequence[int]]:
    """The sets of so many units to move, smaller ones first; of very many units only those at the end of
    their order.
    """
    if units > _EXHAUSTIVE:
        yield from (range(staying, units) for staying in range(units - 1, -1, -1))
        return
    for size in range(1, units + 1):
        for chosen in combinations(range(units - 1, -1, -1), size):
            yield sorted(chosen)


def _brought(t: Terminal, beyond: frozenset[Handle], full: str) -> bool:
    """Whether a terminal beyond an edge takes line or neutral that this cable brings, not a device that lies
    beyond too.
    """
    return t.box in beyond and t.net.feeds and t.net.branch == full and t.net.beyond not in beyond


def _moved(t: Terminal, beyond: frozenset[Handle], moved: list[_Unit], full: str, branch: str) -> Terminal:
    if _brought(t, beyond, full) and any(u.moves(t) for u in moved):
        return msgspec.structs.replace(t, net=t.net.in_branch(branch))
    return t


def crossing(terminals: Iterable[Terminal], beyond: frozenset[Handle]) -> list[Net]:
    """The nets with terminals on both sides of an edge, in order."""
    inside: set[Net] = set()
    outside: set[Net] = set()
    for terminal in terminals:
        (inside if terminal.box in beyond else outside).add(terminal.net)
    return sorted(inside & outside, key=str)


def crossings(terminals: Iterable[Terminal], where: Tree) -> dict[Handle, int]:
    """How many nets have terminals on both sides of each edge of a tree: as :func:`crossing` has it of one.

    Each net is a bit, and each box has those of its terminals; what lies beyond an edge is gathered from the
    outermost inward, what does not from the source outward. O(terminals + boxes).
    """
    bits: dict[Net, int] = {}
    at: dict[Handle, int] = defaultdict(int)
    for terminal in terminals:
        at[terminal.box] |= bits.setdefault(terminal.net, 1 << len(bits))
    inside = {box: at.get(box, 0) for box in where.depth}
    below: dict[Handle, list[Handle]] = defaultdict(list)
    for edge in reversed(where.edges):
        inside[edge.up] |= inside[edge.down]
        below[edge.up].append(edge.down)
    # What no cable reaches is beyond none.
    outside = {where.root: functools.reduce(operator.or_, (m for b, m in at.items() if b not in inside), 0)}
    for box in where.depth:
        around = outside[box] | at.get(box, 0)
        branches = below[box]
        before = list(itertools.accumulate((inside[b] for b in branches), operator.or_, initial=0))
        after = list(itertools.accumulate((inside[b] for b in branches[::-1]), operator.or_, initial=0))[::-1]
        for n, branch in enumerate(branches):
            outside[branch] = around | before[n] | after[n + 1]
    return {e.cable: (inside[e.down] & outside[e.down]).bit_count() for e in where.edges}


_RANK = {"line": 0, "switched": 1, "traveller": 2, "strap": 3, "link": 4, "neutral": 5}


def _net_order(net: Net) -> tuple[int, tuple[str, int, str], int, str, str]:
    return _RANK.get(net.role, 9), order(net.control), net.pair, net.strand, str(net)
