"""Readings that were taken, held against what a hypothesis shows: whether it explains them all."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from itertools import product

import msgspec

from fjeld.drawing.ends import EARTH, End, owner
from fjeld.judge.volts import DEAD_BELOW, LIVE_SHARE, Showing, Volts
from fjeld.oldbox.found import BoxNets, FoundBox, Reading
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.oldbox.shows import Shows

#: Ohms: below, two ends are one wire; above, they are apart. Between, there is a load.
_ONE_WIRE, _APART = 5.0, 10_000.0
#: Shares of the nominal volts between two lines of one leg, of a line and neutral, of two legs.
TWO_LEGS = 1.5
#: How people say that a single-pole switch stands.
_STANDS = {"open": 0, "off": 0, "closed": 1, "on": 1}
#: Words for one of two positions of a switch; any other is the other one.
_UP = frozenset({"up", "on", "closed", "1", "b"})


class Held(msgspec.Struct, frozen=True):
    """A box, its nets, its volts, and the hypothesis that readings are held against, with what it shows."""

    box: FoundBox
    nets: BoxNets
    volts: float
    hypothesis: Hypothesis
    shows: Shows


def explains(held: Held, readings: Sequence[Reading]) -> bool:
    """Whether some way for the switches to stand, and to be the ones that were named, explains
    every reading.
    """
    if not all(_whole(held, reading) for reading in readings):
        return False
    electric = [r for r in readings if r.to_earth or r.between]
    return all(_part(held, electric, nodes, controls) for nodes, controls in _parts(held, electric))


def _whole(held: Held, reading: Reading) -> bool:
    """What a reading says without volts."""
    if not all(_word(held, name, word) for name, word in reading.words.items()):
        return False
    if not all(_ohms(held, a, b, ohms) for a, b, ohms in reading.ohms):
        return False
    if reading.ring is not None and reading.ring != any(r in ("RING", "SPUR") for r in held.hypothesis.roles):
        return False
    return reading.dies is None or _dies(held, reading.dies)


# --- volts ---------------------------------------------------------------------------------

#: A net as it is; a conductor by itself, with nothing in the box joined; a net with a breaker off.
_Node = tuple[End, bool, tuple[End, ...]]


def _node(reading: Reading, name: End) -> _Node:
    return name, reading.parted, () if reading.parted else reading.off


def _mask(held: Held, node: _Node) -> int:
    name, parted, off = node
    if parted and name in held.shows.alone:
        return held.shows.alone[name]
    net = held.nets.of.get(name, -1)
    circuits = held.hypothesis.circuit
    if (
        not parted
        and net in circuits
        and circuits[net] in {circuits.get(held.nets.of[o]) for o in off if o in held.nets.of}
    ):
        return 0
    return held.shows.live.get(net, 0)


def _perhaps_off(held: Held, reading: Reading, name: End) -> bool:
    """Whether a net is the other line of a circuit that is off: nobody has said that one breaker
    opens both.
    """
    circuits, of = held.hypothesis.circuit, held.nets.of
    mine = circuits.get(of.get(name, -1), "")
    off = {circuits.get(of[o], "") for o in reading.off if o in of}
    return mine not in off and mine.removesuffix("b") in {q.removesuffix("b") for q in off}


def _elsewhere(held: Held, reading: Reading) -> bool:
    """Whether the breaker that is off is known by an end that nothing here is joined to: what is dead may be
    of its circuit.
    """
    return any(o not in held.nets.of for o in reading.off)


def _parts(held: Held, readings: Sequence[Reading]) -> list[tuple[set[_Node], list[str]]]:
    """What was read, in parts that share no switch: each can be explained by itself."""
    parts: list[tuple[set[_Node], set[str]]] = []
    wanted = [{_node(r, name)} for r in readings for name in r.to_earth]
    wanted += [
        {_node(r, name) for name in (a, b) if name != EARTH} for r in readings for a, b, _ in r.between
    ]
    for nodes in wanted:
        moves = {c for node in nodes for c in held.shows.moves(_mask(held, node))}
        for part in [p for p in parts if p[0] & nodes or p[1] & moves]:
            nodes |= part[0]
            moves |= part[1]
            parts.remove(part)
        parts.append((nodes, moves))
    return [(nodes, sorted(moves)) for nodes, moves in parts]


def _part(held: Held, readings: Sequence[Reading], nodes: set[_Node], controls: Sequence[str]) -> bool:
    """Whether some way for the switches to stand explains what was read of these nodes.

    A switch in the box is one of those named, its positions perhaps the other way round. What is
    switched beyond the box follows, in a way that nobody knows, how the switches elsewhere stood: the
    same where they stood the same, and not always the same once every one of them was moved.
    """
    ours = [r for r in readings if any(_node(r, n) in nodes for n in _names(r))]
    local = [c for c in controls if c in _local(held)]
    far = [c for c in controls if c not in _local(held)]
    groups = _taken_together(held, ours)
    moved = any(r.every_switch for r in ours)
    ways = list(product((0, 1), repeat=len(far)))

    def explained(standing: Mapping[str, int]) -> bool:
        allowed = [
            [
                bits
                for bits in ways
                if all(_stands(held, r, nodes, standing, dict(zip(far, bits, strict=True))) for r in group)
            ]
            for group in groups
        ]
        return all(allowed) and (not moved or _varies(allowed, len(far)))

    return any(
        explained(dict(zip(local, turned, strict=True))) for turned in product((0, 1), repeat=len(local))
    )


def _taken_together(held: Held, readings: Sequence[Reading]) -> list[list[Reading]]:
    """Readings that were taken while all switches elsewhere stood the same; one by itself, where nobody says
    how they stood and not every one was moved.
    """
    groups: dict[tuple[object, ...], list[Reading]] = defaultdict(list)
    for n, reading in enumerate(readings):
        elsewhere = tuple(sorted((k, v) for k, v in reading.state.items() if k not in _local(held)))
        groups[elsewhere or (n if not reading.every_switch else "nothing elsewhere",)].append(reading)
    return list(groups.values())


def _varies(allowed: Sequence[Sequence[tuple[int, ...]]], far: int) -> bool:
    """Whether each switch beyond may have stood both ways over what was read."""
    return all(
        {bits[k] for group in allowed for bits in group} == {0, 1} and len(allowed) > 1 for k in range(far)
    )


def _stands(
    held: Held, reading: Reading, nodes: set[_Node], turned: Mapping[str, int], far: Mapping[str, int]
) -> bool:
    """Whether a reading is explained in one of the states that it may have been taken in."""
    fixed = sum(bit << held.shows.controls.index(c) for c, bit in far.items())
    open_ones: list[int] = []
    for control, other_way in turned.items():
        place = held.shows.controls.index(control)
        word = reading.state.get(control, "")
        if not word:
            open_ones.append(place)
        elif _local(held)[control] == "switch" and word in _STANDS:
            fixed |= _STANDS[word] << place
        else:
            fixed |= ((word in _UP) ^ other_way) << place
    return any(
        _state(
            held,
            reading,
            nodes,
            fixed | sum(bit << place for bit, place in zip(bits, open_ones, strict=True)),
        )
        for bits in product((0, 1), repeat=len(open_ones))
    )


def _local(held: Held) -> dict[str, str]:
    return {d.id: d.kind for d in held.box.devices}


def _names(reading: Reading) -> Iterator[End]:
    yield from reading.to_earth
    for a, b, _ in reading.between:
        yield from (a, b)


def _state(held: Held, reading: Reading, nodes: set[_Node], state: int) -> bool:
    for name, volts in reading.to_earth.items():
        if _node(reading, name) in nodes:
            shown = volts.shows(held.volts)
            if (
                shown == "unsure"
                or _perhaps_off(held, reading, name)
                or (shown != "hot" and _elsewhere(held, reading))
            ):
                continue
            if not _to_earth(held, reading, name, shown, state):
                return False
    return all(
        _between(held, reading, a=a, b=b, volts=volts, state=state)
        for a, b, volts in reading.between
        if {_node(reading, a), _node(reading, b)} & nodes
    )


def _home(held: Held, reading: Reading, name: End) -> bool:
    """Whether a conductor is joined to neutral by metal alone."""
    for cable, beyond in zip(held.box.cables, held.hypothesis.cables, strict=True):
        if reading.parted and name in cable.insulated:
            return beyond.carries[cable.insulated.index(name)] == "n<"
    return held.nets.of.get(name) in held.shows.home


def _to_earth(held: Held, reading: Reading, name: End, shown: Showing, state: int) -> bool:
    hot = bool(_mask(held, _node(reading, name)) >> state & 1)
    if shown == "hot":
        return hot
    if shown == "ghost":
        return not hot and not _home(held, reading, name)
    return shown == "dead" and not hot


def _between(held: Held, reading: Reading, a: End, b: End, volts: Volts, state: int) -> bool:
    if EARTH in (a, b):
        name = b if a == EARTH else a
        shown = volts.shows(held.volts)
        return shown == "unsure" or _to_earth(held, reading, name, shown, state)
    one, two = (bool(_mask(held, _node(reading, name)) >> state & 1) for name in (a, b))
    if one and two:
        legs = [held.shows.second.get(held.nets.of.get(name, -1), 0) >> state & 1 for name in (a, b)]
        return volts.open / held.volts >= TWO_LEGS if legs[0] != legs[1] else volts.open < DEAD_BELOW
    if one == two:
        return volts.open / held.volts < LIVE_SHARE
    return _to_cold(held, reading, b if one else a, volts)


def _to_cold(held: Held, reading: Reading, cold: End, volts: Volts) -> bool:
    """From a line to what is not live."""
    home, share = _home(held, reading, cold), volts.open / held.volts
    if reading.lamps_out and not home:
        # Nothing but air leads home from it: no lamp would burn on that.
        return volts.loaded is not None and volts.loaded < DEAD_BELOW and reading.lamp != "bright"
    # Through a lamp, less under load; with nothing behind it, a ghost.
    return share < TWO_LEGS and (share >= LIVE_SHARE or not home)


def _word(held: Held, name: End, word: str) -> bool:
    live = held.shows.live.get(held.nets.of.get(name, -1), 0)
    return word == ("always" if live == held.shows.all else "sometimes" if live else "never")


def _ohms(held: Held, a: End, b: End, ohms: float) -> bool:
    """Two ends of two cables that are one wire are so through the board: a ring."""
    if _ONE_WIRE <= ohms <= _APART:
        return True
    tabs = {d.at("brass"): d.tab for d in held.box.devices if d.kind == "outlet"}
    if a in tabs and b == f"{a}2":
        return (ohms < _ONE_WIRE) == (tabs[a] == "whole")
    if owner(a) == owner(b):
        return True
    where = {
        name: (beyond, way)
        for cable, beyond in zip(held.box.cables, held.hypothesis.cables, strict=True)
        for name, way in zip(cable.insulated, beyond.carries, strict=True)
    }
    if a not in where or b not in where:
        return True
    (one, way_one), (two, way_two) = where[a], where[b]
    ring = one.role == two.role == "RING" and way_one == way_two
    return ring == (ohms < _ONE_WIRE)


def leans(held: Held, readings: Sequence[Reading]) -> int:
    """How many readings lean against a hypothesis without excluding it: a load was seen on a cable that takes
    nothing to one.
    """
    takes = {
        cable.id: any(way[:1] in "lst" and way[1:] == ">" for way in beyond.carries)
        for cable, beyond in zip(held.box.cables, held.hypothesis.cables, strict=True)
    }
    return sum(any(not takes.get(c, True) for c in reading.loads) for reading in readings)


def _dies(held: Held, dies: Sequence[str]) -> bool:
    """Whether the cables that die with the button are those that go on from the load side."""
    if not any(d.kind == "protective" for d in held.box.devices) or held.hypothesis.reversed:
        return False
    loads = {held.nets.of.get(d.at("load")) for d in held.box.devices if d.kind == "protective"}
    wanted = {
        cable.id
        for cable, beyond in zip(held.box.cables, held.hypothesis.cables, strict=True)
        if any(
            held.nets.of[n] in loads and way[0] in "ls"
            for n, way in zip(cable.insulated, beyond.carries, strict=True)
        )
    }
    return wanted == {d for d in dies if d in {c.id for c in held.box.cables}}
