"""From intent to terminals: which device terminals of a circuit must be one conductor.

Ground is in every cable and has no terminals here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import msgspec

from fjeld.derive import keys
from fjeld.derive.keys import LINE, LINE_2, LINK, NEUTRAL, DeviceKey, Net
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, LoadRef, PointKind
from fjeld.practice.devices import TerminalSpot, device


class Terminal(msgspec.Struct, frozen=True):
    """One place where a net lands. ``lead`` for a fitting's own wire; ``kept`` for a capped end wanted there.

    ``device`` is None for an end kept for later. ``owner`` is the control it belongs to, for those
    tied by a shared neutral the first of them, ``kind`` what device it is on.
    """

    box: Handle
    device: DeviceKey | None
    name: str
    net: Net
    owner: str = ""
    lead: bool = False
    kept: bool = False
    kind: str = ""


class BoxIntent(msgspec.Struct, frozen=True):
    """What a circuit's point is for: its kind, and what is wanted there beyond its loads.

    ``within`` is the box that it sits in, where that is another's.
    """

    handle: Handle
    kind: PointKind
    neutral: bool = False
    line: bool = False
    protective: bool = False
    leg: int = 1
    chain: bool = False
    within: Handle | None = None

    @property
    def at(self) -> Handle:
        """The box that its device is in."""
        return self.within or self.handle


class CircuitIntent(msgspec.Struct, frozen=True):
    """What a circuit must do: its boxes and the controls over its loads.

    ``most`` is how many insulated conductors its largest cable has; ``panels`` are those that it feeds,
    ``homes`` the boxes of points that sit in another's.
    """

    circuit: Handle
    boxes: tuple[BoxIntent, ...]
    controls: dict[Handle, Control]
    strap: frozenset[Handle] = frozenset()
    most: int = 4
    panels: tuple[Handle, ...] = ()
    poles: int = 1
    homes: dict[Handle, Handle] = {}

    def home(self, point: Handle) -> Handle:
        """The box that a point of it is in."""
        return self.homes.get(point, point)

    def line(self, leg: int) -> Net:
        """The line of a leg: of a circuit of one pole its only one."""
        return LINE_2 if self.poles == 2 and leg == 2 else LINE

    def leg_of(self, control: Handle) -> int:
        """The leg that a control takes its line from: that of the first thing it works."""
        legs = {box.handle: box.leg for box in self.boxes}
        return next((legs.get(load.point, 1) for load in self.controls[control].loads), 1)


def terminals_of(
    intent: CircuitIntent,
    root: Handle,
    chains: Mapping[Handle, tuple[Handle, ...]],
    behind: Mapping[Handle, Handle] | None = None,
) -> list[Terminal]:
    """Every terminal of a circuit, its controls chained as given from the line end to the load end.

    ``behind`` names the protective device whose load side feeds a box, of those that are fed so.
    """
    found = [Terminal(at, DeviceKey(at), "neutral bar", NEUTRAL) for at in (root, *intent.panels)]
    for at in (root, *intent.panels):
        name = "breaker" if at == root else "lugs"
        found += [Terminal(at, DeviceKey(at), name, intent.line(leg)) for leg in range(1, intent.poles + 1)]
    worked = {load: handle for handle, control in intent.controls.items() for load in control.loads}
    tied = _tied(intent, worked)
    for handle, control in intent.controls.items():
        if control.loads and chains[handle]:
            found += _of_control(intent, handle, chains[handle], tied[handle])
    for box in intent.boxes:
        found += _load_terminals(box, worked, tied, intent.line(box.leg))
        found += _kept(intent, box, tied)
    return _in_sections(found, intent, behind) if behind else found


def _of_control(
    intent: CircuitIntent, handle: Handle, chain: tuple[Handle, ...], owner: Handle
) -> Iterator[Terminal]:
    """The terminals of a control's switches, in the boxes that hold them."""
    line, strap = intent.line(intent.leg_of(handle)), handle in intent.strap
    control = intent.controls[handle]
    for t in _switches(handle, control, chain=chain, strap=strap, owner=owner, line=line):
        yield msgspec.structs.replace(t, box=intent.home(t.box))


def _kept(intent: CircuitIntent, box: BoxIntent, tied: Mapping[Handle, Handle]) -> Iterator[Terminal]:
    """The neutral and the line that a switch box is to have for what may come into it one day."""
    owner = next((tied[h] for h, c in intent.controls.items() if box.handle in c.positions), Handle(""))
    if box.neutral:
        yield Terminal(box.at, None, "kept neutral", NEUTRAL, owner, kept=True)
    if box.line:
        line = intent.line(intent.leg_of(owner) if owner else box.leg)
        yield Terminal(box.at, None, "kept line", line, owner, kept=True)


def _in_sections(
    terminals: list[Terminal], intent: CircuitIntent, behind: Mapping[Handle, Handle]
) -> list[Terminal]:
    """Line and neutral taken from the load side of the device that each terminal is behind.

    A load takes both where its box is fed. A switch takes line where its loads take neutral:
    what goes out through a device is to come back through it. Loads on both sides of one
    leave the switch on the line ahead of all; that such a control trips, the proof shows.
    """
    of_control: dict[str, Handle] = {}
    for handle, control in intent.controls.items():
        sides = {behind.get(intent.home(load.point), Handle("")) for load in control.loads}
        of_control[handle] = sides.pop() if len(sides) == 1 else Handle("")

    def section(t: Terminal) -> Handle:
        control = t.device.control if t.device else t.owner
        return of_control.get(control, Handle("")) if control else behind.get(t.box, Handle(""))

    found = [
        msgspec.structs.replace(t, net=t.net.behind(section(t))) if t.net.feeds and section(t) else t
        for t in terminals
    ]
    for guard in sorted(set(behind.values()), key=order):
        nets = {"line": LINE.behind(guard), "neutral": NEUTRAL.behind(guard)}
        found += [
            Terminal(guard, DeviceKey(guard), spot.name, nets[spot.wants])
            for spot in device("protective outlet").terminals
            if spot.side == "load"
        ]
    return found


def _tied(intent: CircuitIntent, worked: Mapping[LoadRef, Handle]) -> dict[Handle, Handle]:
    """For each control the first of those it is tied to.

    Parts of one fitting share its one neutral terminal, so whatever works them must come
    in the same cable: else the current that goes out in one would come back in another.
    """
    first = {handle: handle for handle in intent.controls}
    for box in intent.boxes:
        sharing = sorted({first[c] for load, c in worked.items() if load.point == box.handle}, key=order)
        for handle, of in first.items():
            if of in sharing:
                first[handle] = sharing[0]
    return first


def _switches(
    handle: Handle, control: Control, chain: tuple[Handle, ...], strap: bool, owner: Handle, line: Net
) -> list[Terminal]:
    """The terminals of the switches of one control, from the line end to the load end."""
    own = {control.positions[0]: control.device} if control.device else {}

    def at(box: Handle, name: str, net: Net) -> Terminal:
        kind = own.get(box, "") or "switch"
        if len(chain) > 1:
            middle = not strap and box not in (chain[0], chain[-1])
            kind = "four-way switch" if middle else f"three-way {kind}"
        return Terminal(box, DeviceKey(box, handle), name, net, owner, kind=kind)

    load = keys.switched(handle)
    if len(chain) == 1:
        spots = device(control.device or "switch").terminals
        ends = [("line", line), ("load", load)]
        ends += [(spot.name, NEUTRAL) for spot in spots if spot.wants == "neutral"]
        return [at(chain[0], name, net) for name, net in ends]
    if strap and len(chain) == 2:
        ends = [("common", keys.strap(handle)), ("traveller 1", line), ("traveller 2", load)]
        return [at(box, name, net) for box in chain for name, net in ends]
    return [
        at(box, name, net)
        for n, box in enumerate(chain)
        for name, net in _of_chain(handle, n, last=n == len(chain) - 1, line=line, load=load)
    ]


def _of_chain(handle: Handle, n: int, last: bool, line: Net, load: Net) -> Iterator[tuple[str, Net]]:
    """The terminals of the n-th switch of a chain: travellers from the one before, and to the one after."""

    def pair(n: int) -> list[Net]:
        return [keys.traveller(handle, n, "a"), keys.traveller(handle, n, "b")]

    before, after = pair(n) if n else [], [] if last else pair(n + 1)
    if before and after:
        yield from ((f"in {k}", net) for k, net in enumerate(before, 1))
        yield from ((f"out {k}", net) for k, net in enumerate(after, 1))
    else:
        yield "common", load if before else line
        yield from ((f"traveller {k}", net) for k, net in enumerate(before or after, 1))


def _load_terminals(
    box: BoxIntent, worked: Mapping[LoadRef, Handle], tied: Mapping[Handle, Handle], line: Net
) -> list[Terminal]:
    """The terminals of a load; all of them belong to whatever works any part of it."""
    h = box.handle
    owner = next((tied[c] for load, c in worked.items() if load.point == h), "")

    def hot(part: str) -> Net:
        control = worked.get(LoadRef(h, part)) or worked.get(LoadRef(h))
        return keys.switched(control) if control else line

    if box.kind in ("switch", "junction", "blank"):
        return []
    whole = device(box.kind)
    halves = [load.part for load in whole.loads if load.part]
    # Halves that something different works are halves of an outlet whose tab is broken.
    if box.protective:
        whole = device("protective outlet")
    if box.chain:
        whole = device("light with chain")
    kind = (
        device("split outlet") if box.kind == "outlet" and len({hot(part) for part in halves}) > 1 else whole
    )
    return [
        Terminal(
            box=box.at,
            device=DeviceKey(h),
            name=spot.name,
            net=_wanted(spot, hot, halves),
            owner=owner,
            lead=kind.leads,
            kind=kind.id,
        )
        for spot in kind.terminals
        if spot.side != "load"
    ]


def _wanted(spot: TerminalSpot, hot: Callable[[str], Net], halves: list[str]) -> Net:
    """The net that a load's terminal wants; one for all its parts takes what works the first."""
    if spot.wants == "line":
        return hot(spot.of or (halves[0] if halves else ""))
    return {"neutral": NEUTRAL, "link": LINK}[spot.wants]
