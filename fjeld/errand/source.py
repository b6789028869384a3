"""Is this box a source, and of several which: gates, what is due to be read, and minutes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

import msgspec

from fjeld.derive.memo import Remember, always
from fjeld.errand.facts import BoxFacts, Gate
from fjeld.errand.gates import gates
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import Inferred, infer
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources

Standing = Literal["ready", "worth a reading", "unknown", "refused"]

#: Minutes of readings that are looks at things rather than at conductors.
_LOOKS = {"R1": 5.0, "R2": 6.0, "R2b": 10.0, "R11": 2.0, "R12": 2.0, "R13": 10.0, "R7": 10.0}
#: Gates that are of the plan, not of the box: they refuse it, but a box without them can still be told ready.
_OF_THE_PLAN = frozenset({"G4", "G9", "G11", "G12"})


class Source(msgspec.Struct, frozen=True):
    """A box as a source. ``minutes`` are those of the way and of changes, ``due`` those of readings still
    due.
    """

    found: Inferred
    gates: tuple[Gate, ...]
    minutes: float
    due: float
    chance: float
    metres: float

    @property
    def refused(self) -> list[Gate]:
        """The gates that are shut."""
        return [g for g in self.gates if g.is_ == "no"]

    @property
    def open(self) -> list[Gate]:
        """The gates that nobody knows of yet."""
        return [g for g in self.gates if g.is_ == "unknown"]

    @property
    def standing(self) -> Standing:
        """Refused at one gate, ready at all, or not known."""
        return "refused" if self.refused else "unknown" if self.open else "ready"


def source(box: FoundBox, facts: BoxFacts, practice: Practice, remember: Remember = always) -> Source:
    """A box as a source of what is wanted; raises :class:`NotAsked`."""
    found = remember("inferred", lambda box: infer(box, practice, remember), box, practice=practice.version)
    all_gates = gates(box, found, facts, practice)
    minutes = facts.minutes + sum(g.minutes for g in all_gates if g.is_ == "change")
    readings = {g.settles for g in all_gates if g.is_ == "unknown" and g.settles}
    due = sum(_minutes_of(r) for r in readings)
    return Source(
        found=found,
        gates=all_gates,
        minutes=minutes,
        due=due,
        chance=_chance(box, facts, all_gates, practice),
        metres=facts.metres,
    )


def _minutes_of(reading: str) -> float:
    kinds = role_data().readings
    return kinds[reading].minutes if reading in kinds else _LOOKS.get(reading, 5.0)


def _chance(box: FoundBox, facts: BoxFacts, all_gates: tuple[Gate, ...], practice: Practice) -> float:
    """How likely what is not known of line, neutral and ground turns out well."""
    usual = sources().chances
    unknown = {g.id for g in all_gates if g.is_ == "unknown"}
    n = len(box.cables)
    line = {"outlet": usual.line_outlet, "switch": usual.line_switch if n > 1 else 0.0}.get(
        box.place, usual.line_light[min(max(n, 1), 3) - 1]
    )
    year, since, before = usual.of_earth(practice)
    chances = {
        "G1": since if facts.year is None or facts.year > year else before,
        "G2": line,
        "G3": usual.neutral,
    }
    chance = 1.0
    for gate in unknown:
        chance *= chances.get(gate, 1.0)
    return chance


class Ranked(msgspec.Struct, frozen=True):
    """A box among others: ``place`` in the order, and what its readings are worth in minutes spared."""

    name: str
    standing: Standing
    minutes: float
    due: float
    worth: float
    words: str


def rank(boxes: Mapping[str, Source]) -> tuple[Ranked, ...]:
    """All boxes, the ready ones first by minutes, then those worth a reading, then the rest; a refused one
    with its reason.
    """
    ready = [s.minutes for s in boxes.values() if s.standing == "ready"]
    best = min(ready, default=None)
    ranked = [_ranked(name, s, best) for name, s in boxes.items()]
    if best is None:
        # Nothing is ready: the likeliest box has its cheapest reading first.
        likeliest = max(
            (n for n, s in boxes.items() if s.standing == "unknown"),
            key=lambda n: (boxes[n].chance, -boxes[n].due),
            default=None,
        )
        ranked = [
            msgspec.structs.replace(r, standing="worth a reading") if r.name == likeliest else r
            for r in ranked
        ]
    order = {"ready": 0, "worth a reading": 1, "unknown": 2, "refused": 3}
    return tuple(
        sorted(
            ranked,
            key=lambda r: (
                order[r.standing],
                -r.worth if r.standing == "worth a reading" else r.minutes + r.due,
                boxes[r.name].metres,
                r.name,
            ),
        )
    )


def _ranked(name: str, found: Source, best: float | None) -> Ranked:
    standing = found.standing
    if standing == "refused":
        return Ranked(
            name=name,
            standing=standing,
            minutes=found.minutes,
            due=found.due,
            worth=0.0,
            words=f"{found.refused[0].id}: {found.refused[0].words}",
        )
    if standing == "ready":
        changes = [g.words for g in found.gates if g.is_ == "change"]
        return Ranked(
            name=name,
            standing=standing,
            minutes=found.minutes,
            due=0.0,
            worth=0.0,
            words="; ".join(changes) or "every gate is open",
        )
    spared = 0.0 if best is None else found.chance * max(0.0, best - found.minutes) - found.due
    if spared > sources().chances.worth:
        standing = "worth a reading"
    return Ranked(
        name=name,
        standing=standing,
        minutes=found.minutes,
        due=found.due,
        worth=round(spared, 1),
        words=f"{found.open[0].id}: {found.open[0].words}",
    )


def next_due(found: Source) -> str:
    """The reading to take next for this box: what the wires are, then the cheapest that a gate waits for."""
    if found.found.contradiction or found.refused:
        return ""
    if found.found.next is not None:
        return found.found.next.id
    due = sorted((_minutes_of(g.settles), g.settles) for g in found.open if g.settles)
    return due[0][1] if due else ""
