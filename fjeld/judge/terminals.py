"""A device replaced terminal by terminal: each wire by what it was on, never by its place or its colour."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

import msgspec

from fjeld.judge.answer import Answer, Figure, NotAsked, Said
from fjeld.practice import Practice
from fjeld.practice.devices import contacts_of, device
from fjeld.states import Contacts, every, standing

Kind = Literal["single-pole", "three-way", "four-way", "half outlet", "protective", "sensor"]
#: What a screw of each is called: of a four-way switch by its terminals, which are marked in and out.
_OF = {
    "single-pole": {s.id: s for s in device("switch").screws if s.at},
    "three-way": {s.id: s for s in device("three-way").screws},
    "four-way": {s.at: s for s in device("four-way").screws},
}
_TERMINALS = {kind: tuple(screws) for kind, screws in _OF.items()}
_ALSO = {
    kind: {word: name for name, s in screws.items() for word in (s.id, *s.also)}
    for kind, screws in _OF.items()
}


class TerminalsAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A device and where each wire was, ``black on common``; ``new`` where each would go, if that is to be
    tried.

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


def _landed(written: Sequence[str], kind: str) -> list[tuple[str, str]]:
    found = []
    for line in written:
        said = re.fullmatch(r"\s*(\S.*?)\s+on\s+(\S.*?)\s*", line)
        if not said:
            raise NotAsked(f"“{line[:40]}” is not read; write it like black on common")
        terminal = said[2].lower()
        terminal = _ALSO[kind].get(terminal, terminal)
        if terminal not in _TERMINALS[kind]:
            raise NotAsked(f"a {kind} switch has no “{said[2][:20]}”; it has {', '.join(_TERMINALS[kind])}")
        found.append((terminal, said[1].lower()))
    if not found:
        raise NotAsked("say what was on each terminal, like black on common")
    return found


def _by_function(device: str, old: Mapping[str, str]) -> str:
    if device == "three-way":
        return (
            f"{old['common']} to the common, which is the odd screw wherever it stands; {old['t1']} and"
            f" {old['t2']} to the other two, either way"
        )
    ins, outs = f"{old['in 1']} and {old['in 2']}", f"{old['out 1']} and {old['out 2']}"
    return (
        f"{ins} to one marked pair, {outs} to the other; pairs may change places as pairs, no wire between"
        " them"
    )


def _single(old: Sequence[tuple[str, str]]) -> Answer:
    if {t for t, _ in old} != {"a", "b"}:
        raise NotAsked("a wire is wanted on both screws")
    said = [Said("passes", "The two screws may be taken either way round; the ground goes to the green one")]
    for screw in ("a", "b"):
        wires = [w for t, w in old if t == screw]
        if len(wires) > 1:
            words = (
                f"{' and '.join(wires)} were on one screw: that was a joint. Join them with a tail, and land"
                " the tail"
            )
            said.append(Said("needs", words))
    return Answer((), tuple(said))


# --- a switch among others, tried in every state ---------------------------------------------


def _tried(device: str, old: Mapping[str, str], new: Mapping[str, str]) -> Answer:
    """Every state of the switches: in how many the lamp is lit, and whether each switch always turns it."""
    n = 2 if device == "three-way" else 3
    lit = _lit(device, old, new)
    # Each state against the one in which that switch alone stands the other way.
    right = all((lit ^ lit >> (1 << k)) & standing(k, n, 0) == standing(k, n, 0) for k in range(n))
    meant, count = 2 ** (n - 1), lit.bit_count()
    figures = (
        Figure("states lit", float(count), "count"),
        Figure("meant", float(meant), "count"),
        Figure("of", float(2**n), "count"),
    )
    if right:
        words = f"Lit in {meant} of {2**n} states: every switch turns it, from wherever the others stand"
        return Answer(figures, (Said("passes", words),))
    words = f"Lit in {count} of {2**n} states instead of {meant}: a switch seems to kill the other"
    fix = (
        "Find the common: it is the odd screw, and what is on it is always live or leads to the lamp"
        if device == "three-way"
        else "Find the pairs by resistance: each pair is joined in one position or the other"
    )
    return Answer(figures, (Said("fails", words), Said("needs", fix)))


def _lit(device: str, old: Mapping[str, str], new: Mapping[str, str]) -> int:
    """The states in which line reaches the lamp. Nodes are the wires by what they were on: the line, the
    travellers. The switch on trial stands between a switch at the line, or the line itself, and one at the
    lamp.
    """
    wire_on = {t: next(k for k, w in old.items() if w == wire) for t, wire in new.items()}
    n = 2 if device == "three-way" else 3
    contacts: Contacts[str] = Contacts()
    if device == "three-way":
        own, last, pair, start = 0, 1, ("t1", "t2"), "common"
    else:
        own, last, pair, start = 1, 2, ("out 1", "out 2"), "line"
        for at, traveller in enumerate(("in 1", "in 2")):
            contacts.join(start, traveller, standing(0, n, at))
    names = {s.id: name for name, s in _OF[device].items()}
    for a, b, closed in contacts_of(device):
        contacts.join(wire_on[names[a]], wire_on[names[b]], standing(own, n, int(closed or 0)))
    for at, traveller in enumerate(pair):
        contacts.join("lamp", traveller, standing(last, n, at))
    return contacts.reach((start,), every(n)).get("lamp", 0)


# --- what is refused, and why -----------------------------------------------------------------


def _half(asked: TerminalsAsked, practice: Practice) -> Answer:
    if not asked.tab:
        raise NotAsked("say whether the new one's tab is whole or broken off")
    volts = (Figure("volts between the two", 2 * practice.volts if asked.two_circuits else 0.0, "count"),)
    if asked.tab == "broken":
        said = [
            Said(
                "passes",
                "The tab between its dark screws is broken off as on the old one; the same half is switched"
                " as before",
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
        words = (
            f"With its tab whole the two lines are joined: a dead short at {2 * practice.volts:g} V, and both"
            " breakers open. Break it off"
        )
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
    return Answer(
        (),
        tuple(
            _refused(
                "This box has no neutral, and a ground is never used as one",
                (
                    "A kind that needs no neutral, where the lamps make its least load",
                    "A kind with a battery and radio",
                    "A sensor at the light, where the neutral is",
                    "A new cable of three, with a neutral in it",
                ),
                "NEC 2023 404.22",
            )
        ),
    )


def _protective(asked: TerminalsAsked) -> Answer:
    if asked.two_circuits or asked.tab == "broken":
        return Answer(
            (),
            tuple(
                _refused(
                    "An outlet of two halves, or of two circuits, goes on no one protective outlet",
                    ("A protective breaker, of two poles where two circuits share a neutral",),
                    "NEC 2023 210.8",
                )
            ),
        )
    return Answer(
        (),
        (
            Said("passes", "The cable that stays live with the other parted goes to LINE"),
            Said(
                "passes",
                "What is to be protected beyond it goes to LOAD; what is not, by a joint with tails to LINE",
            ),
            Said(
                "ask", "Which cable is the feed: part both and read each; a place or a colour does not tell"
            ),
        ),
    )


def _refused(why: str, instead: Sequence[str], basis: str) -> Iterator[Said]:
    yield Said("fails", why, basis)
    for words in instead:
        yield Said("advice", words)
