"""Whether a box may be the source of something new: gate after gate, each yes, with a change, unknown, or no."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.old_box import Ahead
from fjeld.finished import fits as fitting
from fjeld.finished.answer import Said
from fjeld.finished.box.filled import asked_of
from fjeld.finished.box.found import FoundBox
from fjeld.finished.box.infer import EndIs, Inferred
from fjeld.finished.devices import THERE, ExtendsAsked, extends
from fjeld.finished.figured import bad
from fjeld.finished.rooms import use_of
from fjeld.finished.work import LoadAsked, LoadItem, load_left
from fjeld.practice import Practice, rules
from fjeld.practice.finished.sources import Feeds, sources
from fjeld.quantities import Length

Is = Literal["yes", "change", "unknown", "no"]
Wants = Literal["", "light", "outlet", "alarm", "fan", "switch", "heater", "same switch"]


#: How a gate begins that waits for the room.
WHICH_ROOM = "say which room it is in"


class Facts(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is wanted, and what else is known of a box and its circuit. A blank is not known.

    ``minutes`` and ``metres`` are those of the way to it; ``way`` the new cable's length.
    """

    wants: Wants = ""
    room: str = ""
    va: float | None = None
    continuous: bool = False
    circuit: str = ""
    one_bathroom: bool = False
    breaker: float | None = None
    gauges: tuple[str, ...] = ()
    volume: float | None = None
    size: str = ""
    depth: int | None = None
    clamps: bool | None = None
    add: str = ""
    ground: Literal["", "present", "none"] = ""
    condition: Literal["", "sound", "aluminium", "cracked", "cloth", "knob and tube", "scorched"] = ""
    year: int | None = None
    loads: tuple[LoadItem, ...] | None = None
    opening: bool | None = None
    reachable: bool | None = None
    blocked: bool | None = None
    one_circuit: bool | None = None
    near_water: bool = False
    ahead: Ahead = ""
    way: Length | None = None
    minutes: float = 0.0
    metres: float = 0.0


class Gate(msgspec.Struct, frozen=True):
    """A gate: what it asks, whether it is open, why, the reading that settles it, and the minutes that a change takes."""

    id: str
    asks: str
    is_: Is
    words: str
    settles: str = ""
    basis: str = ""
    minutes: float = 0.0


def gates(box: FoundBox, found: Inferred, facts: Facts, practice: Practice) -> tuple[Gate, ...]:
    """Every gate of a box, in their order."""
    every = (
        _state(box, facts, practice), _line(found, facts), _neutral(box, found, facts), _kind(found, facts, practice), _gauge(box, facts, practice),
        _load(facts, practice), _volume(box, facts, practice), _way_in(facts), _protection(facts, practice),
        _one_circuit(box, found, facts), _path(facts), _reach(facts),
    )  # fmt: skip
    return tuple(msgspec.structs.replace(g, basis=_here(g.basis, practice)) for g in every)


def _here(basis: str, practice: Practice) -> str:
    """The clauses of a basis that hold under a practice."""
    others = ("NEC", "NFPA") if practice.metric else ("BS",)
    return "; ".join(part for part in basis.split("; ") if not part.startswith(others))


# --- what the wires are --------------------------------------------------------------------


_STOP = {
    "aluminium": "aluminium: stop and call someone trained for it", "cracked": "insulation cracks when it is moved: stop and call",
    "cloth": "cloth or rubber insulation: stop and call", "knob and tube": "knob and tube: nothing is added to it",
    "scorched": "scorched: find why first",
}  # fmt: skip


def _state(box: FoundBox, facts: Facts, practice: Practice) -> Gate:
    asks = "Copper, with a ground, sound?"
    known = sources().local(practice.metric).sheaths
    sheaths = [known[c.sheath] for c in box.cables if c.sheath in known]
    if stops := [s.stop for s in sheaths if s.stop]:
        return Gate("G1", asks, "no", stops[0], basis="NEC 2023 394.12; BS 7671 132.16")
    if facts.condition in _STOP:
        return Gate("G1", asks, "no", _STOP[facts.condition], basis="NEC 2023 394.12; BS 7671 132.16")
    if facts.ground == "none" or (sheaths and len(sheaths) == len(box.cables) and all(s.bare for s in sheaths)):
        return Gate("G1", asks, "no", "there is no ground in it: nothing new goes on from here", basis="NEC 2023 250.130(C); BS 7671 411.3.1")  # fmt: skip
    read = {r.id: r.figures for r in box.readings if r.proven and r.figures}
    if wrong := [(r, why) for r, figures in read.items() if (why := bad(r, figures))]:
        return Gate(
            "G1",
            asks,
            "no",
            wrong[-1][1],
            basis="BS 7671 132.16" if practice.metric else "NEC 2023 250.4(A)(5), 110.7",
        )
    notes = "".join(f"; {n}" for n in dict.fromkeys(s.note for s in sheaths if s.note))
    if facts.ground == "present" and facts.condition == "sound":
        if "ohms" in read.get("R7", {}):
            words = f"copper, sound as looked at; its ground reads {read['R7']['ohms']:g} Ω{notes}"
            return Gate("G1", asks, "yes", words)
        words = f"copper, a ground, sound as looked at; that the ground is one is R7's to say{notes}"
        return Gate("G1", asks, "yes", words, "R7")
    words = f"look at the wires, and whether there is a ground{notes}"
    return Gate("G1", asks, "unknown", words, "R1")


def _line(found: Inferred, facts: Facts) -> Gate:
    asks = "A line that is always live?"
    if found.contradiction:
        return Gate("G2", asks, "no", found.contradiction, "R4")
    lines, switched = found.carrying("l"), found.carrying("s")
    unsure = [n for n in found.nets if n.carries == "?"]
    if facts.wants == "same switch":
        if switched:
            return _by_word("G2", asks, switched[0], f"{_names(switched[0])} is live with its switch, which is what is wanted")  # fmt: skip
        if not lines and not unsure:
            return Gate("G2", asks, "no", "no line that a switch works is in it")
    if lines:
        return _by_word("G2", asks, lines[0], f"{_names(lines[0])} is live whatever the switches do")
    if unsure:
        return Gate("G2", asks, "unknown", f"what {_names(unsure[0])} carries is open", "R4")
    if switched:
        words = "all that is live in it is dead when its switch is off: only more on the same switch can go on from here"
        return Gate(
            "G2", asks, "unknown" if switched[0].word != "settled" else "no", words, "R4", "NEC 2023 404.2"
        )
    return Gate("G2", asks, "no", "nothing live comes here", "R2")


def _by_word(gate: str, asks: str, net: EndIs, words: str, reading: str = "R4") -> Gate:
    if net.word == "settled":
        return Gate(gate, asks, "yes", words)
    return Gate(gate, asks, "unknown", f"{words}, as far as one can say", reading)


def _names(net: EndIs) -> str:
    return " with ".join(net.ends)


def _neutral(box: FoundBox, found: Inferred, facts: Facts) -> Gate:
    asks = "A neutral of the same circuit?"
    borrowed = [r for r in box.readings if r.proven and any(a >= 0.05 for a in r.amps.values())]
    if borrowed:
        return Gate("G3", asks, "no", "the neutral carries what is not its own: borrowed or shared. Danger: stop", "R6", "NEC 2023 300.3(B), 200.4; BS 7671 314.4")  # fmt: skip
    failed = [r for r in box.readings if r.proven and r.id == "R5" and r.lamp in ("dim", "dark")]
    if failed:
        return Gate("G3", asks, "no", f"the test lamp burned {failed[0].lamp} on it: that is no neutral")
    neutrals = found.carrying("n")
    if neutrals:
        words = f"{_names(neutrals[0])} is the neutral"
        return _by_word("G3", asks, neutrals[0], words, "R5")
    if found.contradiction or any(n.carries == "?" for n in found.nets):
        if any(c.role == "LOOP" for c in found.cables) and len(found.cables) == 1:
            return _loop(asks, found)
        return Gate("G3", asks, "unknown", "what its joints carry is open", "R4")
    return _loop(asks, found)


def _loop(asks: str, found: Inferred) -> Gate:
    settled = all(c.word == "settled" for c in found.cables)
    words = "a switch loop: line out and switched line back, and no neutral. A light conductor that reads nothing to ground is the way back through the lamp"
    return Gate(
        "G3", asks, "no", words if settled or found.cables else "no neutral comes here", "", "NEC 2023 404.2(C)"
    )


# --- what the circuit is ---------------------------------------------------------------------


def _kind(found: Inferred, facts: Facts, practice: Practice) -> Gate:
    asks = "May this circuit feed it?"
    roles = [c.role for c in found.cables if c.word in ("settled", "likely")]
    if "SPUR" in roles and facts.wants != "same switch":
        words = (
            "a spur hangs on the ring here already"
            if "RING" in roles
            else "this is the end of a spur, which feeds no other"
        )
        return Gate("G4", asks, "no", words, "R19", "BS 7671 Appendix 15")
    if not facts.circuit:
        return Gate("G4", asks, "unknown", "list what goes dead with its breaker", "R2b")
    known = sources().local(practice.metric).circuits
    kind = known.get(facts.circuit)
    if kind is None:
        return Gate("G4", asks, "unknown", f"“{facts.circuit}” is no kind of circuit that is known here: {', '.join(known)}", "R2b")  # fmt: skip
    if not facts.wants:
        return Gate("G4", asks, "unknown", "say what it is to feed")
    wants = "light" if facts.wants == "same switch" else facts.wants
    if wants in kind.fused:
        return _fused(asks, wants, kind, facts, practice)
    here = not kind.rooms or (bool(facts.room) and use_of(facts.room) in kind.rooms)
    if wants == "outlet" and wants in kind.feeds and here and (own := _on_its_own(asks, facts, practice)):
        return own
    if (wants in kind.feeds and here) or (wants in kind.alone and facts.one_bathroom and here):
        return Gate(
            "G4", asks, "yes", f"a circuit of this kind ({facts.circuit}) may feed it", basis=kind.basis
        )
    if wants in kind.feeds and not facts.room:
        return Gate("G4", asks, "unknown", f"{WHICH_ROOM}: {kind.why}", basis=kind.basis)
    return Gate("G4", asks, "no", _not_from(kind), basis=kind.basis)


def _on_its_own(asks: str, facts: Facts, practice: Practice) -> Gate | None:
    """An outlet in a room whose outlets are on circuits of their own."""
    own = sources().local(practice.metric).own
    if own and not facts.room:
        return Gate("G4", asks, "unknown", f"{WHICH_ROOM}: the outlets of some have circuits of their own")
    mine = own.get(use_of(facts.room)) if facts.room else None
    if mine is None or facts.circuit in mine.circuits:
        return None
    return Gate("G4", asks, "no" if mine.all else "unknown", mine.why, basis=mine.basis)


def _fused(asks: str, wants: str, kind: Feeds, facts: Facts, practice: Practice) -> Gate:
    """What goes through a fused unit: as much as its fuse carries."""
    local = sources().local(practice.metric)
    adds = facts.va if facts.va is not None else local.adds.get(wants, 0.0)
    most = local.fuse * practice.volts
    words = f"by a fused unit of {local.fuse:g} A, {adds:g} of {most:g} VA, {local.after_fuse} mm² or thicker after it: {kind.why}"
    if adds > most + 1e-9:
        return Gate("G4", asks, "no", words, basis=kind.basis)
    return Gate("G4", asks, "change", words, basis=kind.basis, minutes=sources().changes.protection)


def _not_from(kind: Feeds) -> str:
    return kind.why or "a circuit of this kind does not feed that"


def _gauge(box: FoundBox, facts: Facts, practice: Practice) -> Gate:
    asks = "Is the breaker right for the smallest wire?"
    gauges = [g for g in (*facts.gauges, *(c.gauge for c in box.cables)) if g]
    if facts.breaker is None:
        return Gate("G5", asks, "unknown", "see the breaker, found by what it makes dead", "R2")
    if not gauges or (any(not c.gauge for c in box.cables) and len(facts.gauges) < len(box.cables)):
        return Gate("G5", asks, "unknown", "read the gauge of each cable in it", "R11")
    least = practice[rules.BREAKER_GAUGE]
    unknown = [g for g in gauges if g not in least]
    if unknown:
        return Gate("G5", asks, "unknown", f"“{unknown[0]}” is no gauge that is known here", "R11")
    smallest = min(gauges, key=lambda g: least[g])
    if facts.breaker > least[smallest]:
        words = f"a piece of {smallest} on a breaker of {facts.breaker:g} A: it takes {least[smallest]:g} A. Stop until the breaker is changed down or the piece is replaced"
        return Gate("G5", asks, "no", words, "R11", "NEC 2023 240.4(D); BS 7671 433.1")
    return Gate("G5", asks, "yes", f"{smallest} on {facts.breaker:g} A")


def _load(facts: Facts, practice: Practice) -> Gate:
    asks = "Is there load left?"
    if facts.breaker is None or facts.loads is None:
        return Gate("G6", asks, "unknown", "list what hangs on it, or clamp its wire while all runs", "R13")
    adds = facts.va if facts.va is not None else sources().local(practice.metric).adds.get(facts.wants, 0.0)
    new = LoadItem(1, adds, "what is new", facts.va is None, facts.continuous)
    answer = load_left(
        LoadAsked(facts.breaker, (*facts.loads, new)), practice.volts, practice[rules.CIRCUIT_LOAD]
    )
    said = answer.said[0] if answer.said else Said("passes", "")
    by_tone: dict[str, Is] = {"fails": "no", "danger": "no", "ask": "unknown", "advice": "yes"}
    return Gate(
        "G6", asks, by_tone.get(said.tone, "yes"), said.words, "R13" if said.tone in ("ask", "advice") else ""
    )


# --- the box itself ----------------------------------------------------------------------------


def _volume(box: FoundBox, facts: Facts, practice: Practice) -> Gate:
    asks = "Does one more cable fit?"
    asked = asked_of(box, facts.gauges, facts.volume, facts.size, facts.depth, facts.clamps, (facts.add,))
    said = fitting.fits(asked, practice).said
    over = [s for s in said if s.tone in ("fails", "danger")]
    if over:
        return Gate("G7", asks, "change", over[-1].words, "R12", "NEC 2023 314.16", sources().changes.box)
    if any(s.tone == "ask" for s in said) or (facts.clamps is None and not practice.metric):
        words = next((s.words for s in said if s.tone == "ask"), "see whether clamps stand inside it")
        return Gate("G7", asks, "unknown", words, "R12")
    return Gate("G7", asks, "yes", said[0].words)


def _way_in(facts: Facts) -> Gate:
    asks = "A way in for the cable?"
    if facts.opening is None:
        return Gate(
            "G8", asks, "unknown", "look for a free knockout or opening, and what will grip the cable", "R1"
        )
    if not facts.opening:
        return Gate("G8", asks, "change", "no opening is free: another box", minutes=sources().changes.box)
    return Gate("G8", asks, "yes", "an opening is free")


def _protection(facts: Facts, practice: Practice) -> Gate:
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
            "G9",
            asks,
            "change",
            "; ".join(s.words for s in needs),
            "R2",
            needs[0].basis,
            sources().changes.protection,
        )
    there = [s.words for s in answer.said if THERE in s.words]
    return Gate("G9", asks, "yes", "; ".join(there) or "nothing further by the rules that were looked at")


def _one_circuit(box: FoundBox, found: Inferred, facts: Facts) -> Gate:
    asks = "Is one circuit alone in it?"
    circuits = {n.circuit.removesuffix("b") for n in found.nets if n.carries == "l" and n.circuit}
    neutrals = len({n.ends for n in found.carrying("n")})
    two = [c for c in found.cables if c.role == "TWO"]
    lines = {n.circuit for n in found.nets if n.carries == "l"}
    if not two and any(c + "b" in lines for c in lines):
        words = "two lines of one leg share one neutral, which carries the sum of both: danger where they are of two breakers. Stop"
        return Gate("G10", asks, "no", words, "R15", "NEC 2023 210.4, 310.15(E)")
    if two and two[0].word == "settled":
        return Gate("G10", asks, "change", "two circuits share one neutral: both breakers off and locked, both tested; the neutral joint is never opened and never goes through a device", "R15", "NEC 2023 210.4, 210.7, 300.13(B)")  # fmt: skip
    if facts.one_circuit or (facts.one_circuit is None and any(r.id == "R3" and r.proven for r in box.readings) and len(circuits) < 2):  # fmt: skip
        return Gate("G10", asks, "yes", "nothing else was found live with its breaker off")
    if facts.one_circuit is False or len(circuits) > 1 or neutrals > 1:
        return Gate("G10", asks, "change", "two circuits: both off, locked, tagged, and both tested; their neutrals are kept apart", "R3", "NEC 2023 210.7; BS 7671 314.4")  # fmt: skip
    return Gate("G10", asks, "unknown", "test all pairs with every suspected breaker off", "R3")


def _path(facts: Facts) -> Gate:
    asks = "Is there a way for the cable?"
    if facts.blocked is None and not facts.minutes:
        return Gate("G11", asks, "unknown", "look which way it can go")
    if facts.blocked:
        return Gate("G11", asks, "no", "no way was found")
    return Gate(
        "G11", asks, "yes", f"a way of about {facts.minutes:g} minutes" if facts.minutes else "a way was found"
    )


def _reach(facts: Facts) -> Gate:
    asks = "Will the box stay within reach?"
    if facts.reachable is None:
        return Gate("G12", asks, "unknown", "look whether anything will stand or hang before it")
    if not facts.reachable:
        return Gate(
            "G12",
            asks,
            "no",
            "a box that is covered over may hold no joint",
            basis="NEC 2023 314.29; BS 7671 526.3",
        )
    return Gate("G12", asks, "yes", "it stays within reach")
