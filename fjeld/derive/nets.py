"""From intent to nets: which device terminals of a circuit must be one conductor.

A net is (role, section) within a circuit: ``L`` line, ``N`` neutral, ``SL:K1`` the
switched line of control K1, ``T:K1.1a`` the first traveller of its first pair, ``C:K1``
commons joined through a strap, ``IC`` the alarms' interconnect. ``PE`` is in every
cable. In a tree with one cable an edge, a cable carries a net if and only if the net
has terminals on both of its sides.

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
from collections.abc import Callable, Iterable, Mapping
from itertools import permutations
from typing import Literal

import msgspec

from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, PointKind, load_part, load_point

#: The most insulated conductors in one cable.
LARGEST = 4


class Terminal(msgspec.Struct, frozen=True):
    """One place where a net lands. ``lead`` for a fitting's own wire; ``kept`` for a capped end wanted there.

    ``owner`` is the control it belongs to, for those tied by a shared neutral the first of them.
    """

    box: Handle
    device: str
    name: str
    net: str
    owner: str = ""
    lead: bool = False
    kept: bool = False


class Edge(msgspec.Struct, frozen=True):
    """A cable of the tree, from the box nearer the panel to the one beyond."""

    cable: Handle
    up: Handle
    down: Handle


class Tree(msgspec.Struct, frozen=True):
    """A circuit's cables seen from the panel. ``loops`` close a ring; ``unfed`` boxes are not reached."""

    root: Handle
    edges: tuple[Edge, ...]
    beyond: dict[Handle, frozenset[Handle]]
    depth: dict[Handle, int]
    loops: tuple[Handle, ...]
    unfed: tuple[Handle, ...]


class BoxIntent(msgspec.Struct, frozen=True):
    """What a circuit's box is for: its kind, and what is wanted there beyond its loads."""

    handle: Handle
    kind: PointKind
    neutral: bool = False
    line: bool = False


class CircuitIntent(msgspec.Struct, frozen=True):
    """What a circuit must do: its boxes and the controls over its loads."""

    circuit: Handle
    boxes: tuple[BoxIntent, ...]
    controls: dict[Handle, Control]
    strap: frozenset[Handle] = frozenset()


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


def tree(root: Handle, boxes: Iterable[Handle], cables: Mapping[Handle, tuple[Handle, Handle]]) -> Tree:
    """Walk the cables outward from the panel; a cable that meets a reached box closes a loop."""
    wanted = list(boxes)
    joined: dict[Handle, list[tuple[Handle, Handle]]] = defaultdict(list)
    for cable, (a, b) in sorted(cables.items(), key=lambda c: order(c[0])):
        joined[a].append((cable, b))
        joined[b].append((cable, a))
    depth = {root: 0}
    edges: list[Edge] = []
    used: set[Handle] = set()
    queue = [root]
    for here in queue:
        for cable, there in joined[here]:
            if there not in depth and cable not in used:
                used.add(cable)
                depth[there] = depth[here] + 1
                edges.append(Edge(cable, here, there))
                queue.append(there)
    beyond: dict[Handle, frozenset[Handle]] = {}
    below: dict[Handle, set[Handle]] = {h: {h} for h in depth}
    for edge in reversed(edges):
        beyond[edge.cable] = frozenset(below[edge.down])
        below[edge.up] |= below[edge.down]
    reached_loops = tuple(c for c, (a, b) in cables.items() if c not in used and a in depth and b in depth)
    return Tree(root, tuple(edges), beyond, depth, reached_loops, tuple(b for b in wanted if b not in depth))


def solve(intent: CircuitIntent, where: Tree, price: Callable[[Handle, int], float]) -> Nets:
    """The nets of a circuit, its chains running the way that costs least.

    ``price(cable, n)`` is what the edge costs with ``n`` insulated conductors. Of equal
    ways, the line ends at the position fewest cables from the panel, then at the lower
    handle. Chains are settled one control after the other, which is exact for one
    control of several positions and for controls that share no cable.
    """
    chains: dict[Handle, tuple[Handle, ...]] = {}
    for handle, control in sorted(intent.controls.items(), key=lambda c: order(c[0])):
        chains[handle] = _by_depth(control.positions, where)
    several = [h for h in chains if len(chains[h]) > 1 and h not in intent.strap]
    for handle in several * (2 if len(several) > 1 else 1):
        ways = permutations(chains[handle]) if len(chains[handle]) <= 4 else [chains[handle]]

        def cost(way: tuple[Handle, ...], handle: Handle = handle) -> tuple[object, ...]:
            tried = {**chains, handle: way}
            terminals = terminals_of(intent, where.root, tried)
            counts = {e.cable: len(_crossing(terminals, where.beyond[e.cable])) for e in where.edges}
            full = max(counts.values(), default=0) > LARGEST
            undivided = len(_divide(terminals, where, tried).overflow) if full else 0
            total = sum(price(cable, n) for cable, n in counts.items())
            return undivided, round(total, 3), [(where.depth.get(p, 99), order(p)) for p in way]

        chains[handle] = min(ways, key=cost)
    return _divide(terminals_of(intent, where.root, chains), where, chains)


def _by_depth(positions: Iterable[Handle], where: Tree) -> tuple[Handle, ...]:
    return tuple(sorted(positions, key=lambda p: (where.depth.get(p, 99), order(p))))


def terminals_of(
    intent: CircuitIntent, root: Handle, chains: Mapping[Handle, tuple[Handle, ...]]
) -> list[Terminal]:
    """Every terminal of a circuit, its controls chained as given from the line end to the load end."""
    found = [Terminal(root, root, "breaker", "L"), Terminal(root, root, "neutral bar", "N")]
    worked = {load: handle for handle, control in intent.controls.items() for load in control.loads}
    tied = _tied(intent, worked)
    for handle, control in intent.controls.items():
        chain = chains[handle]
        if control.loads and chain:
            found += _switches(handle, chain, handle in intent.strap, tied[handle])
    for box in intent.boxes:
        found += _load_terminals(box, worked, tied)
        owner = next((tied[h] for h, c in intent.controls.items() if box.handle in c.positions), "")
        if box.neutral:
            found.append(Terminal(box.handle, "", "kept neutral", "N", owner, kept=True))
        if box.line:
            found.append(Terminal(box.handle, "", "kept line", "L", owner, kept=True))
    return found


def _tied(intent: CircuitIntent, worked: Mapping[str, Handle]) -> dict[Handle, Handle]:
    """For each control the first of those it is tied to.

    Parts of one fitting share its one neutral terminal, so whatever works them must come
    in the same cable: else the current that goes out in one would come back in another.
    """
    first = {handle: handle for handle in intent.controls}
    for box in intent.boxes:
        sharing = sorted({first[c] for load, c in worked.items() if load_point(load) == box.handle}, key=order)
        for handle, of in first.items():
            if of in sharing:
                first[handle] = sharing[0]
    return first


def _switches(control: Handle, chain: tuple[Handle, ...], strap: bool, owner: Handle) -> list[Terminal]:
    """The terminals of the switches of one control, from the line end to the load end."""

    def at(box: Handle, name: str, net: str) -> Terminal:
        return Terminal(box, f"{box}:{control}", name, net, owner)

    load = f"SL:{control}"
    if len(chain) == 1:
        return [at(chain[0], "line", "L"), at(chain[0], "load", load)]
    if strap and len(chain) == 2:
        ends = [("common", f"C:{control}"), ("traveller 1", "L"), ("traveller 2", load)]
        return [at(box, name, net) for box in chain for name, net in ends]
    found: list[Terminal] = []
    for n, box in enumerate(chain):
        before = [(f"T:{control}.{n}{x}", x) for x in "ab"] if n else []
        after = [(f"T:{control}.{n + 1}{x}", x) for x in "ab"] if n < len(chain) - 1 else []
        if before and after:
            found += [at(box, f"in {k}", net) for k, (net, _) in enumerate(before, 1)]
            found += [at(box, f"out {k}", net) for k, (net, _) in enumerate(after, 1)]
        else:
            found.append(at(box, "common", load if before else "L"))
            found += [at(box, f"traveller {k}", net) for k, (net, _) in enumerate(before or after, 1)]
    return found


def _load_terminals(
    box: BoxIntent, worked: Mapping[str, Handle], tied: Mapping[Handle, Handle]
) -> list[Terminal]:
    """The terminals of a load; all of them belong to whatever works any part of it."""
    h = box.handle
    owner = next((tied[c] for load, c in worked.items() if load_point(load) == h), "")

    def hot(part: str) -> str:
        control = worked.get(f"{h}.{part}" if part else h) or worked.get(h)
        return f"SL:{control}" if control else "L"

    def at(name: str, net: str, lead: bool = True) -> Terminal:
        return Terminal(h, h, name, net, owner, lead)

    if box.kind == "light":
        return [at("black lead", hot("")), at("white lead", "N")]
    if box.kind == "fan":
        return [at("black lead", hot("fan")), at("blue lead", hot("light")), at("white lead", "N")]
    if box.kind == "outlet":
        upper, lower = hot("upper"), hot("lower")
        silver = at("silver", "N", lead=False)
        if upper == lower:
            return [at("brass", upper, lead=False), silver]
        return [at("brass upper", upper, lead=False), at("brass lower", lower, lead=False), silver]
    if box.kind == "alarm":
        return [at("black lead", "L"), at("white lead", "N"), at("interconnect lead", "IC")]
    return []


def _crossing(terminals: Iterable[Terminal], beyond: frozenset[Handle]) -> list[str]:
    inside: set[str] = set()
    outside: set[str] = set()
    for terminal in terminals:
        (inside if terminal.box in beyond else outside).add(terminal.net)
    return sorted(inside & outside)


def role_of(net: str) -> str:
    return net.partition("/")[0]


def _section(net: str) -> str:
    return net.partition("/")[2]


def _control_of(net: str) -> str:
    """The control that a switched line, traveller or strap belongs to."""
    kind, _, rest = role_of(net).partition(":")
    return rest.partition(".")[0] if kind in ("SL", "T", "C") else ""


Part = Literal["", "switching", "loads", "kept"]


class _Unit(msgspec.Struct, frozen=True, order=True):
    """What moves to a cable of its own: tied controls, or of one its switching, its loads, or its kept ends."""

    place: tuple[str, int, str]
    controls: tuple[str, ...]
    part: Part

    def takes(self, net: str) -> bool:
        """Whether a net that only these controls use goes with the unit."""
        kind = role_of(net).partition(":")[0]
        return _control_of(net) in self.controls and self.part in ("", "loads" if kind == "SL" else "switching")

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


def _divide(terminals: list[Terminal], where: Tree, chains: dict[Handle, tuple[Handle, ...]]) -> Nets:
    """Spread over-full edges over several cables, from the panel outward."""
    splits: list[_Split] = []
    links: dict[tuple[Handle, str], str] = {}
    overflow: list[Handle] = []
    bundles: dict[Handle, tuple[Bundle, ...]] = {}
    for edge in where.edges:
        beyond = where.beyond[edge.cable]
        for attempt in range(8):
            grouped: dict[str, list[str]] = defaultdict(list)
            for net in _crossing(terminals, beyond):
                grouped[_section_of(net, edge, splits)].append(net)
            full = next((s for s, nets in grouped.items() if len(nets) > LARGEST), None)
            if full is None:
                break
            section = f"{edge.cable}{'bcdefghi'[attempt]}"
            moved = _split(terminals, edge, beyond, grouped[full], full, section, chains)
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


def _section_of(net: str, edge: Edge, splits: list[_Split]) -> str:
    """The section a net travels in on an edge: its own, or its control's latest there."""
    if not _control_of(net):
        return _section(net)
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
        if control := _control_of(terminal.net):
            tied[terminal.owner].add(control)
    found: set[_Unit] = set()
    for controls in tied.values():
        mine = [n for n in nets if _control_of(n) in controls]
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
    chains: Mapping[Handle, tuple[Handle, ...]],
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
        left = [n for n in _crossing(changed, beyond) if n in nets and not any(u.takes(n) for u in moved)]
        if len(left) <= LARGEST and 0 < len(left) < len(nets):
            return changed, moved
    return None


def _moved(t: Terminal, beyond: frozenset[Handle], moved: list[_Unit], full: str, section: str) -> Terminal:
    if (
        t.box in beyond
        and role_of(t.net) in ("L", "N")
        and _section(t.net) == full
        and any(u.moves(t) for u in moved)
    ):
        return msgspec.structs.replace(t, net=f"{role_of(t.net)}/{section}")
    return t


_RANK = {"L": 0, "SL": 1, "T": 2, "C": 3, "IC": 4, "N": 5}


def _net_order(net: str) -> tuple[int, tuple[str, int, str]]:
    return _RANK.get(role_of(net).partition(":")[0], 9), order(role_of(net).partition(":")[2])


def net_words(net: str) -> str:
    """A net in plain words."""
    role = role_of(net)
    kind, _, rest = role.partition(":")
    if kind == "SL":
        return f"switched line of {rest}"
    if kind == "T":
        return f"traveller {rest[-1]} of {rest.partition('.')[0]}"
    return {"L": "line", "N": "neutral", "PE": "ground", "IC": "interconnect", "C": f"strap of {rest}"}.get(
        kind, net
    )


def loads_of(control: Control) -> list[tuple[Handle, str]]:
    """A control's loads as (point, part)."""
    return [(load_point(load), load_part(load)) for load in control.loads]
