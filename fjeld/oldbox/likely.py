"""How likely each hypothesis is before any reading: what is usual, and what the colours say."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence
from math import prod

from fjeld.drawing.ends import owner, part, plain
from fjeld.drawing.old_box import OldCable
from fjeld.oldbox.alike import Alike
from fjeld.oldbox.beyond import Beyond
from fjeld.oldbox.found import BoxNets, FoundBox
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.practice import Practice
from fjeld.practice.finished.roles import Weights


def likelihoods(
    box: FoundBox,
    nets: BoxNets,
    found: Sequence[Hypothesis],
    weights: Weights,
    practice: Practice,
    same: Alike,
) -> list[float]:
    """The share of each hypothesis, with all that it stands for; they sum to one. Those that differ only in
    which conductor is which share one weight.
    """
    roles: tuple[Hashable, ...]
    groups: dict[tuple[tuple[Hashable, ...], bool], list[int]] = defaultdict(list)
    for n, h in enumerate(found):
        roles = same.kind([(b.role, b.inward, b.legs) for b in h.cables])
        groups[roles, h.reversed].append(n)
    shares = [0.0] * len(found)
    for (roles, _), members in groups.items():
        colours = [
            prod(_colours(c, b, weights, practice) for c, b in zip(box.cables, found[n].cables, strict=True))
            for n in members
        ]
        # In each of the orders that the roles can lie in there are as many.
        total = sum(c * found[n].times for n, c in zip(members, colours, strict=True)) / same.orders(roles)
        usual = [_usual(box, nets, found[n], weights, practice) for n in members]
        for n, colour, use in zip(members, colours, usual, strict=True):
            shares[n] = found[n].times * use * max(colours) * colour / total
    total = sum(shares)
    return [share / total for share in shares] if total else shares


def _colours(cable: OldCable, beyond: Beyond, weights: Weights, practice: Practice) -> float:
    """What the colours of a cable say of what its conductors carry."""
    neutral = practice.neutrals
    share = 1.0
    loop = beyond.role == "LOOP"
    for name, way in zip(cable.insulated, beyond.carries, strict=True):
        colour = part(name)
        # Whoever put tape or a sleeve on it said what it carries; in a loop that is what custom says anyway.
        said = colour if loop else cable.marked.get(name, colour)
        light = plain(said) in neutral
        if beyond.role == "DEAD" or way[0] == "x":
            continue
        if loop:
            # The light one takes the line out by custom: it is hot, and no neutral.
            share *= weights.loop_colour if light and way[0] == "s" else 1.0
        elif beyond.role == "TRAV" and way[0] != "n":
            continue
        elif light != (way[0] == "n"):
            share *= weights.colour
    return share


def _usual(box: FoundBox, nets: BoxNets, h: Hypothesis, w: Weights, practice: Practice) -> float:
    share = 1.0
    for beyond in h.cables:
        if beyond.role == "DEAD":
            share *= w.dead
        elif "x-" in beyond.carries:
            share *= w.spare
        if beyond.role == "TWO":
            share *= w.two * (w.two_apart if beyond.legs else w.two_together)
        if beyond.role == "TRAV" and len(beyond.carries) < 4 and {"l>", "s<"} & {*beyond.carries}:
            share *= w.line_in_travellers
    if h.reversed:
        share *= w.fed_at_load
    share *= w.second_circuit ** max(0, len({c.removesuffix("b") for c in h.circuits}) - _rings(h) // 2 - 1)
    share *= w.idle ** _idle(box, nets, h)
    share *= w.spare_joined ** _spares_joined(nets, h)
    if box.place == "switch":
        share *= _at_switch(h, w)
    elif box.place == "ceiling":
        share *= _at_light(box, nets, h, w)
    elif box.place == "outlet":
        share *= _at_socket(h, w) if practice.rings else _at_outlet(h, w)
    return share


def _rings(h: Hypothesis) -> int:
    return sum(b.role == "RING" for b in h.cables)


def _idle(box: FoundBox, nets: BoxNets, h: Hypothesis) -> int:
    """How many live things are brought and go nowhere."""
    stands = {n for d in box.devices for n in (v for name, v in nets.of.items() if owner(name) == d.id)}
    return sum(
        what in ("l", "s", "n") and len(nets.ends[n]) == 1 and n not in stands
        for n, what in h.carries.items()
    )


def _spares_joined(nets: BoxNets, h: Hypothesis) -> int:
    if all(b.role == "DEAD" for b in h.cables):
        return 0
    return sum(what == "x" and len(nets.ends[n]) > 1 for n, what in h.carries.items())


def _at_switch(h: Hypothesis, w: Weights) -> float:
    """More legs than switched lines are legs of one switch: rarer than a line that goes on."""
    switched = sum(what == "s" for what in h.carries.values())
    out = sum(b.role in ("LEG", "LEG2") and not b.inward for b in h.cables)
    inward = sum(b.role in ("LEG", "LEG2", "HALF") and b.inward for b in h.cables)
    return w.second_leg ** max(0, out - max(1, switched)) * w.leg_in_at_switch**inward


def _at_light(box: FoundBox, nets: BoxNets, h: Hypothesis, w: Weights) -> float:
    lights = [nets.of[d.at("hot")] for d in box.devices if d.kind in ("light", "fan")]
    if not any(h.carries.get(n) == "l" for n in lights):
        return 1.0
    return w.light_always_onward if any(b.role == "ON" for b in h.cables) else w.light_always


def _at_outlet(h: Hypothesis, w: Weights) -> float:
    share = 1.0
    if any(b.role == "LEG" and b.inward for b in h.cables):
        share *= w.switched_outlet
        if any(b.role == "LEG" and not b.inward for b in h.cables):
            share *= w.switched_onward
    if any(b.role == "LEG2" and b.inward for b in h.cables):
        share *= w.two_switched
    return share


def _at_socket(h: Hypothesis, w: Weights) -> float:
    """What a socket hangs on: a ring, a radial, a spur; each shared out among the cables that may
    be the one.
    """
    n = len(h.cables)
    rings = _rings(h)
    if any(b.role in ("LEG", "LEG2", "HALF") and b.inward for b in h.cables):
        return w.switched_socket
    if rings:
        return w.broken_ring if rings == 1 else w.ring / (n * (n - 1) / 2)
    spur = any(b.role == "SPUR" and b.inward for b in h.cables)
    if n == 1:
        return w.spur_end if spur else w.radial_end
    return (w.spur_of_spur if spur else w.radial) / n
