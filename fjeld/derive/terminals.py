"""From intent to terminals: which device terminals of a circuit must be one conductor.

A net is (role, section) within a circuit: ``L`` line, ``N`` neutral, ``SL:K1`` the
switched line of control K1, ``T:K1.1a`` the first traveller of its first pair, ``C:K1``
commons joined through a strap, ``IC`` the alarms' interconnect; a section follows a
slash. ``PE`` is in every cable.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache

import msgspec

from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Control, PointKind, load_point
from fjeld.practice.devices import Spot, device


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


class BoxIntent(msgspec.Struct, frozen=True):
    """What a circuit's box is for: its kind, and what is wanted there beyond its loads."""

    handle: Handle
    kind: PointKind
    neutral: bool = False
    line: bool = False


class CircuitIntent(msgspec.Struct, frozen=True):
    """What a circuit must do: its boxes and the controls over its loads.

    ``most`` is how many insulated conductors its largest cable has.
    """

    circuit: Handle
    boxes: tuple[BoxIntent, ...]
    controls: dict[Handle, Control]
    strap: frozenset[Handle] = frozenset()
    most: int = 4


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

    if box.kind in ("switch", "junction", "blank"):
        return []
    whole = device(box.kind)
    halves = [load.part for load in whole.loads if load.part]
    # Halves that something different works are halves of an outlet whose tab is broken.
    kind = device("split outlet") if box.kind == "outlet" and len({hot(part) for part in halves}) > 1 else whole
    return [Terminal(h, h, spot.name, _wanted(spot, hot, halves), owner, kind.leads) for spot in kind.terminals]


def _wanted(spot: Spot, hot: Callable[[str], str], halves: list[str]) -> str:
    """The net that a load's terminal wants; one for all its parts takes what works the first."""
    if spot.wants == "line":
        return hot(spot.of or (halves[0] if halves else ""))
    return {"neutral": "N", "link": "IC"}[spot.wants]


def role_of(net: str) -> str:
    return net.partition("/")[0]


def section_of(net: str) -> str:
    return net.partition("/")[2]


@lru_cache(4096)
def control_of(net: str) -> str:
    """The control that a switched line, traveller or strap belongs to."""
    kind, _, rest = role_of(net).partition(":")
    return rest.partition(".")[0] if kind in ("SL", "T", "C") else ""


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
