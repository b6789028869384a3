"""The work itself: how long it takes, a patch and its waiting, what is left of a circuit, and the pairs of a
dead test.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.judge.load import Hangs, loaded
from fjeld.judge.volts import DEAD_BELOW, LIVE_SHARE, Volts, impossible, through_a_load
from fjeld.practice import Practice, rules
from fjeld.practice.finished import minutes
from fjeld.quantities import Length, Line, Passes, Working


class TimeAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The steps of a piece of work, each with how many times what repeats in it does; experience 1, 2 or 3;
    what makes it harder.
    """

    steps: dict[str, float]
    times: int = 1
    access: tuple[str, ...] = ()


def harder_by(access: Sequence[str]) -> tuple[float, tuple[Line, ...]]:
    """What is fished takes so many times as long by how it can be reached; and minutes for what is around."""
    known = minutes()
    factor = math.prod(known.access[a] for a in access if a in known.access)
    return factor, tuple(Line(1.0, known.around[a], a) for a in access if a in known.around)


def by_hands(
    kind: str, skilled: float, times: int, harder: float, what: str, own: float | None = None
) -> Line:
    """The minutes of a step for who does it for the first time, the second, or from the third: ``skilled``
    those of practised hands. ``own`` is a factor learned from times that were taken; what is fished is so
    many times ``harder``.
    """
    factor = minutes().experience[kind][times - 1] if own is None else own
    return Line(factor * (harder if kind == "fish" else 1.0), skilled, what)


def time(asked: TimeAsked) -> Answer:
    """Minutes by class of hands, and the range that they may come to."""
    known = minutes()
    if asked.times not in (1, 2, 3):
        raise NotAsked("say whether it is the first time, the second, or a later one: 1, 2 or 3")
    unknown = [s for s in asked.steps if s not in known.steps] + [
        a for a in asked.access if a not in (*known.access, *known.around)
    ]
    if unknown:
        raise NotAsked(
            f"there is no step or access “{unknown[0]}”; there is"
            f" {', '.join([*known.steps, *known.access, *known.around])}"
        )
    harder, around = harder_by(asked.access)
    lines, base = [], []
    for name, count in asked.steps.items():
        step = known.steps[name]
        skilled = step.minutes + step.each * count
        base.append(skilled)
        lines.append(by_hands(step.kind, skilled, asked.times, harder, name))
    sum_ = Working("Minutes", "min", (*lines, *around))
    base += [line.amount for line in around]
    low, high = known.spread
    figures = (
        Figure("minutes", sum_.total, "minutes"),
        Figure("base", math.fsum(base), "minutes"),
        Figure("at least", low * sum_.total, "minutes"),
        Figure("at most", high * sum_.total, "minutes"),
    )
    return Answer(figures, (), (sum_,))


class PatchAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A hole squared up, what it is filled with, and whether the room is cold or damp."""

    wide: Length
    high: Length
    compound: str = "ready-mixed"
    coats: int = 3
    cold: bool = False


def patch(asked: PatchAsked, practice: Practice) -> Answer:
    """The piece and its backing, labour, and the waiting that is no labour."""
    waiting, labour = drying(asked.compound, asked.coats, asked.cold)
    longer = minutes().slowly if asked.cold else 1.0
    less, more = practice[rules.PATCH_PIECE]
    figures = (
        Figure("piece wide", asked.wide.mm - less),
        Figure("piece high", asked.high.mm - less),
        Figure("backing", asked.high.mm + more),
        Figure("strips", 2.0, "count"),
        Figure("waiting for coats", asked.coats * longer * minutes().coats[asked.compound], "hours"),
        Figure("waiting", waiting.total, "hours"),
        Figure("labour", labour.total, "minutes"),
    )
    return Answer(figures, (), (waiting, labour))


def drying(compound: str = "ready-mixed", coats: int = 3, cold: bool = False) -> tuple[Working, Working]:
    """The hours that a patch waits for its coats, and the minutes of its labour, which hang on no size;
    raises :class:`NotAsked`.
    """
    known = minutes()
    if compound not in known.coats:
        raise NotAsked(f"there is no compound “{compound}”; there is {', '.join(known.coats)}")
    if not 1 <= coats <= 6:
        raise NotAsked("a patch has one to six coats")
    longer = known.slowly if cold else 1.0
    lines = (
        Line(coats * longer, known.coats[compound], "coats"),
        Line(longer, known.coats["primer"], "primer"),
    )
    labour = tuple(Line(1.0, m, step) for step, m in known.patching.items())
    return Working("Waiting", "h", lines), Working("Labour", "min", labour)


class LoadItem(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """So many loads of so many watts or volt-amperes, estimated or known, on for hours or not."""

    count: float
    va: float
    what: str = ""
    estimated: bool = False
    continuous: bool = False


class LoadAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A breaker and what hangs on it, the new thing among it."""

    breaker: float
    loads: tuple[LoadItem, ...]


def load_left(asked: LoadAsked, practice: Practice) -> Answer:
    """What is left of a circuit's rating; known and estimated apart."""
    hangs = [Hangs(i.va, i.what or f"{i.va:g} VA", i.count, i.continuous, i.estimated) for i in asked.loads]
    found = loaded(hangs, asked.breaker, practice)
    figures = (
        Figure("left", found.left, "amperes"),
        Figure("load", found.all.total, "amperes"),
        Figure("known", found.known.total, "amperes"),
        Figure("estimated", found.guessed, "amperes"),
    )
    if not isinstance(found.verdict, Passes) and not found.by_estimates_alone:
        said = Said("fails", f"What is known alone is over {asked.breaker:g} A")
    elif not isinstance(found.verdict, Passes):
        said = Said(
            "advice",
            "Over only by what is estimated: add up what really hangs on it, or clamp the breaker's wire"
            " while all of it runs",
        )
    else:
        estimated = (
            f", {found.guessed:.2f} A of the load estimated" if any(h.estimated for h in hangs) else ""
        )
        said = Said("passes", f"{found.left:.2f} A left{estimated}")
    estimates = (line for line, h in zip(found.all.lines, hangs, strict=True) if h.estimated)
    guessed = Working("Estimated", "A", tuple(estimates))
    return Answer(figures, (said,), (found.known, guessed))


class PairsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The nodes of a box: every joint and loose end, its ground, its metal, an earth that is proven; switches
    to try both ways.

    ``readings`` are of pairs, ``"black 1 / white"``, each without a load and under one, V; ``volts`` those of
    the supply, where they are told: what stands at all of them and falls to nothing under a load is a line
    with a bad joint in it, not induced.
    """

    nodes: tuple[str, ...]
    switches: int = 0
    readings: dict[str, tuple[float, float]] = {}
    proven_before: bool = False
    proven_after: bool = False
    volts: float | None = None


def pairs(asked: PairsAsked) -> Answer:
    """Every pair that is tested before anything is touched, and what the readings taken say."""
    if len(set(asked.nodes)) != len(asked.nodes) or len(asked.nodes) < 2:
        raise NotAsked("name two nodes or more, each once")
    every = [" / ".join(pair) for pair in combinations(asked.nodes, 2)]
    # A pair may be named from either end.
    named = {
        name: f"{a} / {b}" for a, b in combinations(asked.nodes, 2) for name in (f"{a} / {b}", f"{b} / {a}")
    }
    if strange := [p for p in asked.readings if p not in named]:
        raise NotAsked(f"“{strange[0]}” is no pair of these nodes")
    taken = {named[p] for p in asked.readings}
    positions = 2**asked.switches if asked.switches <= 10 else 0
    if not positions:
        raise NotAsked("more than ten switches are no one box's")
    said = [read_pair(pair, *values, asked.volts) for pair, values in asked.readings.items()]
    said = [*_first(asked, len(every) - len(taken)), *said]
    figures = (
        Figure("pairs", float(len(every)), "count"),
        Figure("tests", float(len(every) * positions), "count"),
    )
    return Answer(figures, (*said, *(Said("ask", p) for p in every if p not in taken)))


def _first(asked: PairsAsked, left: int) -> list[Said]:
    """What is said before any pair: that nothing counts, or how many are left."""
    if not asked.readings:
        return []
    if not (asked.proven_before and asked.proven_after):
        words = (
            "The tester was not proven on a live source before and after: these readings count as not taken"
        )
        return [Said("fails", words)]
    if not left:
        return []
    words = "1 pair is still to be tested" if left == 1 else f"{left} pairs are still to be tested"
    return [Said("ask", words)]


def read_pair(pair: str, plain: float, loaded: float, volts: float | None = None) -> Said:
    """What two readings of a pair say: dead, induced, through a load, or live; two that cannot both be so are
    taken again.
    """
    if why := impossible(Volts(plain, loaded)):
        return Said("fails", f"{pair}: {why}")
    if abs(loaded) >= DEAD_BELOW:
        if through_a_load(Volts(abs(plain), abs(loaded))):
            return Said("danger", f"{pair}: live through a load, {loaded:g} V")
        return Said("danger", f"{pair}: live, {loaded:g} V")
    if volts is not None and abs(plain) >= LIVE_SHARE * volts:
        words = (
            f"{pair}: {plain:g} V that a load takes to {loaded:g} V: as much as a live line has, behind a bad"
            " joint. Find it"
        )
        return Said("fails", words)
    if abs(plain) >= DEAD_BELOW:
        return Said("advice", f"{pair}: induced, {plain:g} V without a load and {loaded:g} V under one")
    return Said("passes", f"{pair}: dead")
