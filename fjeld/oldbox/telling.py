"""What tells one cable of a box from another, and one conductor from another: where it is joined, whether its
colour is a neutral's, and what was read there.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Hashable, Sequence

from fjeld.drawing.ends import EARTH, End, part, plain
from fjeld.drawing.old_box import OldCable
from fjeld.judge.volts import DEAD_BELOW, LIVE_SHARE, Volts
from fjeld.oldbox.alike import Alike
from fjeld.oldbox.found import BoxNets, FoundBox, Reading
from fjeld.oldbox.taken import TWO_LEGS


def alike(
    box: FoundBox, where: BoxNets, readings: Sequence[Reading], volts: float, neutral: Collection[str]
) -> Alike:
    """What is alike in a box, as it is recorded and after some readings; ``neutral`` are the colours that
    neutrals have.
    """
    at = tuple(tuple(where.of[end] for end in cable.insulated) for cable in box.cables)
    standing = Counter(where.of.values())
    loose = frozenset(net for nets in at for net in nets if standing[net] == 1)

    def sign(cable: OldCable, end: End) -> Hashable:
        net, colour = where.of[end], part(end)
        lights = tuple(plain(c) in neutral for c in (colour, cable.marked.get(end, colour)))
        said = tuple(told_by(r, end, cable.insulated, volts) for r in readings)
        return None if net in loose else net, lights, said

    signs = [tuple(sign(cable, end) for end in cable.insulated) for cable in box.cables]
    whole = [
        (one, tuple((cable.id in (r.dies or ()), cable.id in r.loads) for r in readings))
        for cable, one in zip(box.cables, signs, strict=True)
    ]
    leads = tuple(
        tuple(g for g in _same(one) if nets[g[0]] in loose) for one, nets in zip(signs, at, strict=True)
    )
    return Alike(_same(whole), leads, at, loose)


def _same(signs: Sequence[Hashable]) -> tuple[tuple[int, ...], ...]:
    """The places of two and more that are the same."""
    found: dict[Hashable, list[int]] = defaultdict(list)
    for n, sign in enumerate(signs):
        found[sign].append(n)
    return tuple(tuple(group) for group in found.values() if len(group) > 1)


def told_by(reading: Reading, end: End, cable: Sequence[End], nominal: float) -> Hashable:
    """What a reading says of an end of a ``cable``, in the classes that it is held against a hypothesis in:
    of two ends, of which it says the same, it explains and excludes the same.
    """
    alone = {*reading.off, *(n for a, b, _ in reading.ohms for n in (a, b))}
    within: list[Hashable] = []
    for a, b, volts in reading.between:
        other = b if a == end else a
        if end not in (a, b):
            continue
        if other not in (*cable, EARTH):
            # Two cables are told from all others by it.
            alone.add(end)
        at = cable.index(other) if other in cable else other
        within.append((a == end, at, _classed(volts, nominal)))
    to_earth = reading.to_earth.get(end)
    return (
        end if end in alone else "",
        to_earth and to_earth.shows(nominal),
        reading.words.get(end, ""),
        tuple(within),
    )


def _classed(volts: Volts, nominal: float) -> Hashable:
    """Volts between two ends, in the classes that a hypothesis is held against."""
    share = volts.open / nominal
    return (
        volts.shows(nominal),
        share >= TWO_LEGS,
        share >= LIVE_SHARE,
        volts.open < DEAD_BELOW,
        volts.loaded is not None and volts.loaded < DEAD_BELOW,
    )
