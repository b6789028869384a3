"""A device replaced terminal by terminal: each wire by what it was on, never by its place or its colour."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import product
from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice

Kind = Literal["single-pole", "three-way", "four-way", "half outlet", "protective", "sensor"]
#: The terminals of each, and other names of them.
_TERMINALS: dict[str, tuple[str, ...]] = {
    "single-pole": ("a", "b"), "three-way": ("common", "t1", "t2"), "four-way": ("in 1", "in 2", "out 1", "out 2"),
}  # fmt: skip
_ALSO = {
    "com": "common",
    "dark": "common",
    "l1": "t1",
    "l2": "t2",
    "brass 1": "t1",
    "brass 2": "t2",
    "screw 1": "a",
    "screw 2": "b",
}


class TerminalsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A device and where each wire was, ``black on common``; ``new`` where each would go, if that is to be tried.

    Of an outlet of which one half is switched, the new one's ``tab``, and whether two circuits feed it; of a
    sensor whether its box has a ``neutral``.
    """

    device: Kind
    old: tuple[str, ...] = ()
    new: tuple[str, ...] = ()
    tab: Literal["", "whole", "broken"] = ""
    two_circuits: bool = False
    neutral: Literal["", "yes", "no"] = ""


def terminals(asked: TerminalsAsked, practice: Practice) -> Answer:
    """Where each wire goes, or what a way of landing them would do."""
    match asked.device:
        case "half outlet":
            return _half(asked, practice)
        case "sensor":
            return _sensor(asked)
        case "protective":
            return _protective(asked)
    old = _landed(asked.old, asked.device)
    if asked.device == "single-pole":
        return _single(old)
    wanted = _TERMINALS[asked.device]
    if sorted(t for t, _ in old) != sorted(wanted):
        raise NotAsked(f"say what was on each of {', '.join(wanted)}, one wire on each")
    if not asked.new:
        return Answer((), (Said("passes", _by_function(asked.device, {t: w for t, w in old})),))
    new = _landed(asked.new, asked.device)
    if sorted(w for _, w in new) != sorted(w for _, w in old) or sorted(t for t, _ in new) != sorted(wanted):
        raise NotAsked("put each of the old wires on one terminal of the new one")
    return _tried(asked.device, dict(old), dict(new))


def _landed(written: Sequence[str], device: str) -> list[tuple[str, str]]:
    found = []
    for line in written:
        said = re.fullmatch(r"\s*(\S.*?)\s+on\s+(\S.*?)\s*", line)
        if not said:
            raise NotAsked(f"“{line[:40]}” is not read; write it like black on common")
        terminal = said[2].lower()
        terminal = _ALSO.get(terminal, terminal)
        if terminal not in _TERMINALS[device]:
            raise NotAsked(f"a {device} switch has no “{said[2][:20]}”; it has {', '.join(_TERMINALS[device])}")
        found.append((terminal, said[1].lower()))
    if not found:
        raise NotAsked("say what was on each terminal, like black on common")
    return found


def _by_function(device: str, old: Mapping[str, str]) -> str:
    if device == "three-way":
        return f"{old['common']} to the common, which is the odd screw wherever it stands; {old['t1']} and {old['t2']} to the other two, either way"
    ins, outs = f"{old['in 1']} and {old['in 2']}", f"{old['out 1']} and {old['out 2']}"
    return (
        f"{ins} to one marked pair, {outs} to the other; pairs may change places as pairs, no wire between them"
    )


def _single(old: Sequence[tuple[str, str]]) -> Answer:
    if {t for t, _ in old} != {"a", "b"}:
        raise NotAsked("a wire is wanted on both screws")
    said = [Said("passes", "The two screws may be taken either way round; the ground goes to the green one")]
    for screw in ("a", "b"):
        wires = [w for t, w in old if t == screw]
        if len(wires) > 1:
            words = f"{' and '.join(wires)} were on one screw: that was a joint. Join them with a tail, and land the tail"
            said.append(Said("needs", words))
    return Answer((), tuple(said))


# --- a switch among others, tried in every state ---------------------------------------------


def _tried(device: str, old: Mapping[str, str], new: Mapping[str, str]) -> Answer:
    """Every state of the switches: in how many the lamp is lit, and whether each switch always turns it."""
    n = 2 if device == "three-way" else 3
    lit = {state: _lit(device, old, new, state) for state in product((0, 1), repeat=n)}
    turns = [all(lit[s] != lit[(*s[:k], 1 - s[k], *s[k + 1 :])] for s in lit) for k in range(n)]
    right = all(turns)
    meant = 2 ** (n - 1)
    figures = (
        Figure("states lit", float(sum(lit.values())), "count"), Figure("meant", float(meant), "count"),
        Figure("of", float(2**n), "count"),
    )  # fmt: skip
    if right:
        return Answer(
            figures,
            (
                Said(
                    "passes",
                    f"Lit in {meant} of {2**n} states: every switch turns it, from wherever the others stand",
                ),
            ),
        )
    words = f"Lit in {sum(lit.values())} of {2**n} states instead of {meant}: a switch seems to kill the other"
    fix = "Find the common: it is the odd screw, and what is on it is always live or leads to the lamp" if device == "three-way" else "Find the pairs by resistance: each pair is joined in one position or the other"  # fmt: skip
    return Answer(figures, (Said("fails", words), Said("needs", fix)))


def _lit(device: str, old: Mapping[str, str], new: Mapping[str, str], state: Sequence[int]) -> bool:
    """Whether line reaches the lamp. Nodes are the wires by what they are: line, two travellers and so on to the lamp."""
    wire_on = {t: next(k for k, w in old.items() if w == wire) for t, wire in new.items()}
    joins: list[tuple[str, str]] = []
    if device == "three-way":
        # The wires are the line on the old common, and a traveller on each of the other two.
        joins.append((wire_on["common"], wire_on["t2" if state[0] else "t1"]))
        joins.append(("lamp", "t2" if state[1] else "t1"))
        return _reaches("common", "lamp", joins)
    joins.append(("line", "in 2" if state[0] else "in 1"))
    crossed = bool(state[1])
    joins.append((wire_on["in 1"], wire_on["out 2" if crossed else "out 1"]))
    joins.append((wire_on["in 2"], wire_on["out 1" if crossed else "out 2"]))
    joins.append(("lamp", "out 2" if state[2] else "out 1"))
    return _reaches("line", "lamp", joins)


def _reaches(start: str, end: str, joins: Sequence[tuple[str, str]]) -> bool:
    seen = {start}
    for _ in joins:
        seen |= {b if a in seen else a for a, b in joins if a in seen or b in seen}
    return end in seen


# --- what is refused, and why -----------------------------------------------------------------


def _half(asked: TerminalsAsked, practice: Practice) -> Answer:
    if not asked.tab:
        raise NotAsked("say whether the new one's tab is whole or broken off")
    volts = (Figure("volts between the two", 2 * practice.volts if asked.two_circuits else 0.0, "count"),)
    if asked.tab == "broken":
        said = [
            Said(
                "passes",
                "The tab between its dark screws is broken off as on the old one; the same half is switched as before",
            )
        ]
        if asked.two_circuits:
            said.append(
                Said(
                    "needs",
                    "Both breakers off, one handle over both; the neutral never goes through its screws",
                    "NEC 2023 210.7",
                )
            )
        return Answer(volts, tuple(said))
    if asked.two_circuits:
        words = f"With its tab whole the two lines are joined: a dead short at {2 * practice.volts:g} V, and both breakers open. Break it off"
        return Answer(volts, (Said("danger", words),))
    return Answer(
        volts,
        (
            Said(
                "fails",
                "With its tab whole both halves are always on, and the switch does nothing. Break it off",
            ),
        ),
    )


def _sensor(asked: TerminalsAsked) -> Answer:
    if asked.neutral == "yes":
        return Answer((), (Said("passes", "Line, switched line, neutral, ground: each to its mark"),))
    if not asked.neutral:
        return Answer((), (Said("ask", "Whether its box has a neutral: a light wire in it may be a line"),))
    return Answer((), tuple(_refused("This box has no neutral, and a ground is never used as one", (
        "A kind that needs no neutral, where the lamps make its least load", "A kind with a battery and radio",
        "A sensor at the light, where the neutral is", "A new cable of three, with a neutral in it",
    ), "NEC 2023 404.22")))  # fmt: skip


def _protective(asked: TerminalsAsked) -> Answer:
    if asked.two_circuits or asked.tab == "broken":
        return Answer((), tuple(_refused("An outlet of two halves, or of two circuits, goes on no one protective outlet", (
            "A protective breaker, of two poles where two circuits share a neutral",
        ), "NEC 2023 210.8")))  # fmt: skip
    return Answer((), (
        Said("passes", "The cable that stays live with the other parted goes to LINE"),
        Said("passes", "What is to be protected beyond it goes to LOAD; what is not, by a joint with tails to LINE"),
        Said("ask", "Which cable is the feed: part both and read each; a place or a colour does not tell"),
    ))  # fmt: skip


def _refused(why: str, instead: Sequence[str], basis: str) -> Iterator[Said]:
    yield Said("fails", why, basis)
    for words in instead:
        yield Said("advice", words)
