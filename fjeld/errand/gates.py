"""Whether a box may be the source of something new: gate after gate, each yes, with a change,
unknown, or no.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec

from fjeld.errand.circuit_gates import gauge_gate, kind_gate, load_gate
from fjeld.errand.facts import BoxFacts, Gate, Is
from fjeld.errand.filled import asked_of
from fjeld.judge import fits as fitting
from fjeld.judge.devices import THERE, ExtendsAsked, extends
from fjeld.judge.figured import bad
from fjeld.judge.volts import DEAD_BELOW
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import EndIs, Inferred
from fjeld.oldbox.weighed import LOOKS_FOR_LIVE
from fjeld.practice import Practice
from fjeld.practice.finished.sources import Sheath, sources


def gates(box: FoundBox, found: Inferred, facts: BoxFacts, practice: Practice) -> tuple[Gate, ...]:
    """Every gate of a box, in their order."""
    every = (
        _state(box, facts, practice),
        _line(box, found, facts),
        _neutral(box, found, facts),
        kind_gate(found, facts, practice),
        gauge_gate(box, found, facts, practice),
        load_gate(facts, practice),
        _volume(box, facts, practice),
        _way_in(facts),
        _protection(facts, practice),
        _one_circuit(box, found, facts),
        _path(facts),
        _reach(facts),
    )
    return tuple(msgspec.structs.replace(g, basis=practice.clauses(g.basis)) for g in every)


def looked_at(box: FoundBox, facts: BoxFacts, practice: Practice) -> tuple[Gate, ...]:
    """What is told of a box and its circuit by looking, whatever a reading says of its wires; of its
    circuit's kind where something is wanted of it.
    """
    unread = Inferred((), (), None)
    seen = (
        _state(box, facts, practice),
        *([kind_gate(unread, facts, practice)] if facts.wants else []),
        _way_in(facts),
        _one_circuit(box, unread, facts),
        _reach(facts),
    )
    return tuple(msgspec.structs.replace(g, basis=practice.clauses(g.basis)) for g in seen)


# --- what the wires are --------------------------------------------------------------------


_STOP = {
    "aluminium": "aluminium: stop and call someone trained for it",
    "cracked": "insulation cracks when it is moved: stop and call",
    "cloth": "cloth or rubber insulation: stop and call",
    "knob and tube": "knob and tube: nothing is added to it",
    "scorched": "scorched: find why first",
}


def stops(condition: str) -> str:
    """Why nothing in a box in such a condition is touched; empty where it is not so."""
    return _STOP.get(condition, "")


_SOUND = "Are its wires copper, with a ground, in good condition?"


def _state(box: FoundBox, facts: BoxFacts, practice: Practice) -> Gate:
    known = sources().local(practice).sheaths
    sheaths = [known[c.sheath] for c in box.cables if c.sheath in known]
    all_bare = len(sheaths) == len(box.cables) > 0 and all(s.bare for s in sheaths)
    bare = facts.ground == "none" or all_bare
    read = {r.id: r.figures for r in box.readings if r.proven and r.figures}
    if unfit := _unfit(sheaths, bare, facts, read):
        return unfit
    notes = "".join(f"; {n}" for n in dict.fromkeys(s.note for s in sheaths if s.note))
    if facts.condition != "sound" or not (bare or facts.ground == "present"):
        return Gate("G1", _SOUND, "unknown", f"look at the wires, and whether there is a ground{notes}", "R1")
    if bare:
        words = "copper, sound as looked at, and no ground: only what may do without one goes in its place"
        return Gate("G1", _SOUND, "yes", f"{words}{notes}")
    if "ohms" in read.get("R7", {}):
        words = f"copper, sound as looked at; its ground reads {read['R7']['ohms']:g} Ω{notes}"
        return Gate("G1", _SOUND, "yes", words)
    words = f"copper, a ground, sound as looked at; that the ground is one is R7's to say{notes}"
    return Gate("G1", _SOUND, "yes", words, "R7")


def _unfit(
    sheaths: Sequence[Sheath], bare: bool, facts: BoxFacts, read: Mapping[str, Mapping[str, float]]
) -> Gate | None:
    """Why nothing goes on from wires in such a state, or not before it is mended; None where nothing is
    known against them.
    """
    stop = next((s.stop for s in sheaths if s.stop), "")
    if stop:
        return Gate("G1", _SOUND, "no", stop, basis="NEC 2023 394.12; BS 7671 132.16")
    if facts.condition == "scorched" and facts.changes:
        words = "scorched: cut back to bright copper under sound insulation, once what burned it is found"
        return Gate("G1", _SOUND, "change", words, basis="NEC 2023 110.14; BS 7671 132.16")
    if facts.condition in _STOP:
        return Gate("G1", _SOUND, "no", _STOP[facts.condition], basis="NEC 2023 394.12; BS 7671 132.16")
    if bare and not facts.changes:
        words = "there is no ground in it: nothing new goes on from here"
        return Gate("G1", _SOUND, "no", words, basis="NEC 2023 250.130(C); BS 7671 411.3.1")
    if wrong := [why for reading, figures in read.items() if (why := bad(reading, figures))]:
        return Gate("G1", _SOUND, "no", wrong[-1], basis="NEC 2023 250.4(A)(5), 110.7; BS 7671 132.16")
    return None


def _line(box: FoundBox, found: Inferred, facts: BoxFacts) -> Gate:
    asks = "A line that is always live?"
    if found.contradiction:
        return Gate("G2", asks, "no", found.contradiction, "R4")
    lines, switched = found.carrying("l"), found.carrying("s")
    unsure = [n for n in found.nets if n.carries == "?"]
    if facts.wants == "same switch" and switched:
        words = f"{_names(switched[0])} is live with its switch, which is what is wanted"
        return _by_word("G2", asks, switched[0], words)
    if facts.wants == "same switch" and not lines and not unsure:
        return Gate("G2", asks, "no", "no line that a switch works is in it")
    if lines:
        return _by_word("G2", asks, lines[0], f"{_names(lines[0])} is live whatever the switches do")
    if unsure:
        return Gate("G2", asks, "unknown", f"what {_names(unsure[0])} carries is open", "R4")
    return _no_line(asks, box, switched)


def _no_line(asks: str, box: FoundBox, switched: Sequence[EndIs]) -> Gate:
    """Nothing is always live in it: it is switched, or nothing comes, as far as that was looked for."""
    if switched:
        words = (
            "all that is live in it is dead when its switch is off: only more on the same switch can go on"
            " from here"
        )
        is_: Is = "no" if switched[0].word == "settled" else "unknown"
        return Gate(id="G2", asks=asks, is_=is_, words=words, settles="R4", basis="NEC 2023 404.2")
    if any(r.id in LOOKS_FOR_LIVE and r.proven and r.power and r.every_switch for r in box.readings):
        words = "nothing live comes here, with power known to be on and every switch tried"
        return Gate("G2", asks, "no", words, "R2")
    words = "nothing live was found; with power known to be on, and every switch tried?"
    return Gate("G2", asks, "unknown", words, "R4")


def _by_word(gate: str, asks: str, net: EndIs, words: str, reading: str = "R4") -> Gate:
    if net.word == "settled":
        return Gate(gate, asks, "yes", words)
    return Gate(gate, asks, "unknown", f"{words}, as far as one can say", reading)


#: So many amperes in a neutral whose own loads are off are another circuit's.
BORROWED = 0.05


def may_part_neutral(box: FoundBox) -> str:
    """Why the neutral joint of a box may not be parted for a reading yet; empty where the clamp showed
    nothing in it.
    """
    clamped = [r for r in box.readings if r.proven and r.id == "R6" and r.amps]
    if not clamped:
        return (
            "Clamp each neutral first (R6), this circuit's loads off: one that carries current is never"
            " parted"
        )
    if any(a >= BORROWED for r in clamped for a in r.amps.values()):
        return "The clamp found current in it: a neutral that carries current is never parted. Stop"
    return ""


def _parted(box: FoundBox) -> Gate | None:
    """What the ends of a parted neutral showed, this circuit's breaker off: volts that a load holds are
    another circuit's.
    """
    asks, law = "A neutral of the same circuit?", "NEC 2023 300.3(B), 200.4; BS 7671 314.4"
    read = [(n, v) for r in box.readings if r.proven and r.id == "R6b" for n, v in r.to_earth.items()]
    for name, volts in read:
        if volts.open < DEAD_BELOW:
            continue
        if volts.loaded is None:
            return Gate(
                "G3",
                asks,
                "unknown",
                f"{name} reads {volts.open:g} V with its breaker off: take it under load as well",
                "R6b",
            )
        if volts.loaded >= DEAD_BELOW:
            words = (
                f"{name} is fed through another circuit's load while its own breaker is off: a borrowed"
                " neutral. Danger: stop"
            )
            return Gate(id="G3", asks=asks, is_="no", words=words, settles="R6b", basis=law)
    return None


def _names(net: EndIs) -> str:
    return " with ".join(net.ends)


def _no_neutral(asks: str, box: FoundBox) -> Gate | None:
    """What was read of a neutral and says that it is none, or not this circuit's."""
    proven = [r for r in box.readings if r.proven]
    if any(amps >= BORROWED for r in proven for amps in r.amps.values()):
        return Gate(
            id="G3",
            asks=asks,
            is_="no",
            words="the neutral carries what is not its own: borrowed or shared. Danger: stop",
            settles="R6",
            basis="NEC 2023 300.3(B), 200.4; BS 7671 314.4",
        )
    if parted := _parted(box):
        return parted
    if lamp := next((r.lamp for r in proven if r.id == "R5" and r.lamp in ("dim", "dark")), ""):
        return Gate("G3", asks, "no", f"the test lamp burned {lamp} on it: that is no neutral")
    return None


def _neutral(box: FoundBox, found: Inferred, facts: BoxFacts) -> Gate:
    asks = "A neutral of the same circuit?"
    if no := _no_neutral(asks, box):
        return no
    if neutrals := found.carrying("n"):
        words = f"{_names(neutrals[0])} is the neutral"
        return _by_word("G3", asks, neutrals[0], words, "R5")
    unsure = found.contradiction or any(n.carries == "?" for n in found.nets)
    if unsure and [c.role for c in found.cables] != ["LOOP"]:
        return Gate("G3", asks, "unknown", "what its joints carry is open", "R4")
    return _loop(asks, found)


def _loop(asks: str, found: Inferred) -> Gate:
    settled = all(c.word == "settled" for c in found.cables)
    words = (
        "a switch loop: line out and switched line back, and no neutral. A light conductor that reads nothing"
        " to ground is the way back through the lamp"
    )
    return Gate(
        id="G3",
        asks=asks,
        is_="no",
        words=words if settled or found.cables else "no neutral comes here",
        settles="",
        basis="NEC 2023 404.2(C)",
    )


# --- the box itself ----------------------------------------------------------------------------


def _volume(box: FoundBox, facts: BoxFacts, practice: Practice) -> Gate:
    asks = "Does one more cable fit?"
    asked = asked_of(
        box,
        facts.gauges,
        volume=facts.volume,
        size=facts.size,
        depth=facts.depth,
        clamps=facts.clamps,
        add=(facts.add,),
    )
    said = fitting.fits(asked, practice).said
    over = [s for s in said if s.tone in ("fails", "danger")]
    if over:
        return Gate(
            id="G7",
            asks=asks,
            is_="change",
            words=over[-1].words,
            settles="R12",
            basis="NEC 2023 314.16",
            minutes=sources().changes.box,
        )
    if any(s.tone == "ask" for s in said) or (facts.clamps is None and not practice.counts_cables):
        words = next((s.words for s in said if s.tone == "ask"), "see whether clamps stand inside it")
        return Gate("G7", asks, "unknown", words, "R12")
    return Gate("G7", asks, "yes", said[0].words)


def _way_in(facts: BoxFacts) -> Gate:
    asks = "A way in for the cable?"
    if facts.opening is None:
        return Gate(
            "G8", asks, "unknown", "look for a free knockout or opening, and what will grip the cable", "R1"
        )
    if not facts.opening:
        return Gate("G8", asks, "change", "no opening is free: another box", minutes=sources().changes.box)
    return Gate("G8", asks, "yes", "an opening is free")


def _protection(facts: BoxFacts, practice: Practice) -> Gate:
    asks = "What does it set off?"
    if not facts.room or facts.way is None or not facts.wants:
        return Gate("G9", asks, "unknown", "say the room, the length of the new cable and what is new")
    new = {"outlet": "outlet", "switch": "switch", "light": "light", "fan": "light", "alarm": "light"}.get(
        facts.wants, ""
    )
    answer = extends(ExtendsAsked(facts.room, facts.way, new, facts.near_water, facts.ahead), practice)  # type: ignore[arg-type]
    needs = [s for s in answer.said if s.tone == "needs"]
    if needs:
        return Gate(
            id="G9",
            asks=asks,
            is_="change",
            words="; ".join(s.words for s in needs),
            settles="R2",
            basis=needs[0].basis,
            minutes=sources().changes.protection,
        )
    there = [s.words for s in answer.said if THERE in s.words]
    return Gate("G9", asks, "yes", "; ".join(there) or "nothing further by the rules that were looked at")


def _one_circuit(box: FoundBox, found: Inferred, facts: BoxFacts) -> Gate:
    asks = "Is there only one circuit in this box?"
    if shared := _neutral_shared(asks, found):
        return shared
    circuits = {n.circuit.removesuffix("b") for n in found.nets if n.carries == "l" and n.circuit}
    tested = any(r.id == "R3" and r.proven for r in box.readings) and len(circuits) < 2
    alone = tested or None if facts.one_circuit is None else facts.one_circuit
    if alone:
        return Gate("G10", asks, "yes", "nothing else was found live with its breaker off")
    neutrals = {n.ends for n in found.carrying("n")}
    if alone is False or len(circuits) > 1 or len(neutrals) > 1:
        return Gate(
            id="G10",
            asks=asks,
            is_="change",
            words="two circuits: both off, locked, tagged, and both tested; their neutrals are kept apart",
            settles="R3",
            basis="NEC 2023 210.7; BS 7671 314.4",
        )
    return Gate("G10", asks, "unknown", "test all pairs with every suspected breaker off", "R3")


def _neutral_shared(asks: str, found: Inferred) -> Gate | None:
    """Two lines on one neutral: of one leg, which is a danger, or of two circuits."""
    lines = {n.circuit for n in found.nets if n.carries == "l"}
    two = next((c for c in found.cables if c.role == "TWO"), None)
    if two is None and any(c + "b" in lines for c in lines):
        words = (
            "two lines of one leg share one neutral, which carries the sum of both: danger where they are of"
            " two breakers. Stop"
        )
        return Gate(
            id="G10", asks=asks, is_="no", words=words, settles="R15", basis="NEC 2023 210.4, 310.15(E)"
        )
    if two is None or two.word != "settled":
        return None
    return Gate(
        id="G10",
        asks=asks,
        is_="change",
        words="two circuits share one neutral: both breakers off and locked, both tested; the neutral"
        " joint is never opened and never goes through a device",
        settles="R15",
        basis="NEC 2023 210.4, 210.7, 300.13(B)",
    )


def _path(facts: BoxFacts) -> Gate:
    asks = "Is there a way for the cable?"
    if facts.blocked is None and not facts.minutes:
        return Gate("G11", asks, "unknown", "look which way it can go")
    if facts.blocked:
        return Gate("G11", asks, "no", "no way was found")
    return Gate(
        "G11",
        asks,
        "yes",
        f"a way of about {facts.minutes:g} minutes" if facts.minutes else "a way was found",
    )


def _reach(facts: BoxFacts) -> Gate:
    asks = "Will the box stay within reach?"
    if facts.reachable is None:
        return Gate("G12", asks, "unknown", "look whether anything will stand or hang before it")
    if not facts.reachable and facts.changes:
        words = "its cover is to come where a hand reaches it: a box that is covered over may hold no joint"
        return Gate("G12", asks, "change", words, basis="NEC 2023 314.29; BS 7671 526.3")
    if not facts.reachable:
        return Gate(
            "G12",
            asks,
            "no",
            "a box that is covered over may hold no joint",
            basis="NEC 2023 314.29; BS 7671 526.3",
        )
    return Gate("G12", asks, "yes", "it stays within reach")
