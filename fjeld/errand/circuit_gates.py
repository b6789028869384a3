"""The gates of the circuit that feeds a box: whether it may feed that, by what wire, and whether load is
left.
"""

from __future__ import annotations

from fjeld.errand.facts import WHICH_ROOM, BoxFacts, Gate, Is
from fjeld.judge.answer import Said
from fjeld.judge.rooms import use_of
from fjeld.judge.work import LoadAsked, LoadItem, load_left
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import Inferred
from fjeld.practice import Practice, rules
from fjeld.practice.finished.sources import Feeds, sources
from fjeld.quantities import ROUNDING, at_most


def kind_gate(found: Inferred, facts: BoxFacts, practice: Practice) -> Gate:
    """Whether a circuit of its kind may feed what is wanted, there."""
    asks = "May this circuit feed it?"
    roles = [c.role for c in found.cables if c.word in ("settled", "likely")]
    if "SPUR" in roles and facts.wants != "same switch":
        words = (
            "a spur hangs on the ring here already"
            if "RING" in roles
            else "this is the end of a spur, which feeds no other"
        )
        return Gate(id="G4", asks=asks, is_="no", words=words, settles="R19", basis="BS 7671 Appendix 15")
    if not facts.circuit:
        return Gate("G4", asks, "unknown", "list what goes dead with its breaker", "R2b")
    known = sources().local(practice).circuits
    kind = known.get(facts.circuit)
    if kind is None:
        words = f"“{facts.circuit}” is no kind of circuit that is known here: {', '.join(known)}"
        return Gate("G4", asks, "unknown", words, "R2b")
    if not facts.wants:
        return Gate("G4", asks, "unknown", "say what it is to feed")
    return _of_kind(asks, kind, facts, practice)


def _of_kind(asks: str, kind: Feeds, facts: BoxFacts, practice: Practice) -> Gate:
    """Whether a circuit of a kind that is known may feed what is wanted, by the room that it is in."""
    wants = "light" if facts.wants == "same switch" else facts.wants
    if wants in kind.fused:
        return _fused(asks, wants, kind, facts, practice)
    here = not kind.rooms or (bool(facts.room) and use_of(facts.room) in kind.rooms)
    feeds = wants in kind.feeds
    if wants == "outlet" and feeds and here and (own := _on_its_own(asks, facts, practice)):
        return own
    if here and (feeds or (wants in kind.alone and facts.one_bathroom)):
        words = f"a circuit of this kind ({facts.circuit}) may feed it"
        return Gate("G4", asks, "yes", words, basis=kind.basis)
    if feeds and not facts.room:
        return Gate("G4", asks, "unknown", f"{WHICH_ROOM}: {kind.why}", basis=kind.basis)
    return Gate("G4", asks, "no", _not_from(kind), basis=kind.basis)


def _on_its_own(asks: str, facts: BoxFacts, practice: Practice) -> Gate | None:
    """An outlet in a room whose outlets are on circuits of their own."""
    own = sources().local(practice).own
    if own and not facts.room:
        return Gate("G4", asks, "unknown", f"{WHICH_ROOM}: the outlets of some have circuits of their own")
    mine = own.get(use_of(facts.room)) if facts.room else None
    if mine is None or facts.circuit in mine.circuits:
        return None
    return Gate("G4", asks, "no" if mine.all else "unknown", mine.why, basis=mine.basis)


def _fused(asks: str, wants: str, kind: Feeds, facts: BoxFacts, practice: Practice) -> Gate:
    """What goes through a fused unit: as much as its fuse carries."""
    local = sources().local(practice)
    adds = facts.va if facts.va is not None else local.adds.get(wants, 0.0)
    most = local.fuse * practice.volts
    words = (
        f"by a fused unit of {local.fuse:g} A, {adds:g} of {most:g} VA, {local.after_fuse} mm² or thicker"
        f" after it: {kind.why}"
    )
    if not at_most(adds, most, ROUNDING):
        return Gate("G4", asks, "no", words, basis=kind.basis)
    return Gate("G4", asks, "change", words, basis=kind.basis, minutes=sources().changes.protection)


def _not_from(kind: Feeds) -> str:
    return kind.why or "a circuit of this kind does not feed that"


def gauge_gate(box: FoundBox, found: Inferred, facts: BoxFacts, practice: Practice) -> Gate:
    """Whether its breaker is right for the smallest wire found."""
    asks = "Is the breaker right for the smallest wire?"
    new = facts.add.partition("/")[0].strip()
    there = [g for g in (*facts.gauges, *(c.gauge for c in box.cables)) if g]
    gauges = [*there, new] if new else there
    if facts.breaker is None:
        return Gate(
            "G5", asks, "unknown", "see which breaker it is, by what loses power when it is off", "R2"
        )
    all_read = all(c.gauge for c in box.cables) or len(facts.gauges) >= len(box.cables)
    if not gauges or not all_read:
        return Gate("G5", asks, "unknown", "read the gauge of each cable in it", "R11")
    least = practice[rules.BREAKER_GAUGE]
    if unknown := [g for g in gauges if g not in least]:
        return Gate("G5", asks, "unknown", f"“{unknown[0]}” is no gauge that is known here", "R11")
    smallest = min(gauges, key=lambda g: least[g])
    if facts.breaker <= least[smallest]:
        return Gate("G5", asks, "yes", f"{smallest} on {facts.breaker:g} A")
    ring = _in_ring(asks, smallest, box=box, found=found, facts=facts, practice=practice)
    return ring or _too_large(asks, smallest, smallest in there, facts.breaker, least[smallest])


def _too_large(asks: str, gauge: str, there: bool, breaker: float, takes: float) -> Gate:
    """A breaker that lets through more than a piece of cable takes."""
    what = f"a piece of {gauge}" if there else f"the new {gauge}"
    words = (
        f"{what} on a breaker of {breaker:g} A: it takes {takes:g} A. Stop until the"
        " breaker is changed down or the piece is replaced"
    )
    return Gate(
        id="G5", asks=asks, is_="no", words=words, settles="R11", basis="NEC 2023 240.4(D); BS 7671 433.1"
    )


def _in_ring(
    asks: str, smallest: str, box: FoundBox, found: Inferred, facts: BoxFacts, practice: Practice
) -> Gate | None:
    """A ring carries by both of its legs what one leg does not; whether it is one a reading tells, not a
    label.
    """
    if rules.RING_GAUGE not in practice or facts.circuit not in ("", "ring", "spur") or facts.breaker is None:
        return None
    least = practice[rules.BREAKER_GAUGE]
    if least[smallest] < least[practice[rules.RING_GAUGE]] or facts.breaker > practice[rules.RING_BREAKER]:
        return None
    basis = practice.rule(rules.RING_BREAKER).shown_basis
    of_ring = [c for c in found.cables if {"RING", "SPUR"} & {*c.roles}]
    if any(c.word == "settled" and c.role in ("RING", "SPUR") for c in of_ring):
        words = f"{smallest} in a ring, or its spur, on {facts.breaker:g} A"
        return Gate("G5", asks, "yes", words, basis=basis)
    if not of_ring:
        return None
    buzzed = len(found.cables) < 2 or any(r.id == "R9" and r.proven for r in box.readings)
    words = (
        f"{smallest} alone takes {least[smallest]:g} A; a ring of it stands behind {facts.breaker:g} A:"
        " read whether it is one"
    )
    reading = "R19" if buzzed else "R9"
    return Gate(id="G5", asks=asks, is_="unknown", words=words, settles=reading, basis=basis)


def load_gate(facts: BoxFacts, practice: Practice) -> Gate:
    """Whether its load leaves room for what is new."""
    asks = "Is there load left?"
    if facts.breaker is None or facts.loads is None:
        return Gate("G6", asks, "unknown", "list what hangs on it, or clamp its wire while all runs", "R13")
    adds = facts.va if facts.va is not None else sources().local(practice).adds.get(facts.wants, 0.0)
    new = LoadItem(1, adds, "what is new", facts.va is None, facts.continuous)
    answer = load_left(LoadAsked(facts.breaker, (*facts.loads, new)), practice)
    said = answer.said[0] if answer.said else Said("passes", "")
    by_tone: dict[str, Is] = {"fails": "no", "danger": "no", "ask": "unknown", "advice": "yes"}
    return Gate(
        "G6", asks, by_tone.get(said.tone, "yes"), said.words, "R13" if said.tone in ("ask", "advice") else ""
    )
