"""The book of a house in open framing: its steps follow from the plan, room by room and circuit by
circuit.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Literal

import msgspec

from fjeld.derive.facts.tally import tally
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.judge.figured import figured
from fjeld.practice.finished import read_table
from fjeld.quantities import coarse
from fjeld.work.book import Task
from fjeld.work.carry import with_what_in_house
from fjeld.work.standing import Asks, Power

METRE = 1000.0
#: So many boxes are named in a sentence.
NAMED = 10


class _Step(msgspec.Struct, frozen=True):
    id: str
    words: str
    looks: str
    caution: str
    where: str
    per: Literal["house", "room", "circuit"] = "house"
    needs: tuple[str, ...] = ()
    asks: Asks = "tick"
    visit: bool = False
    time: str = ""
    counts: Literal["", "boxes", "holes", "cables", "circuits", "staples", "plates", "fillers"] = ""
    figures: tuple[str, ...] = ()
    power: Power = ""
    doubt: bool = False


@cache
def _steps() -> tuple[_Step, ...]:
    return msgspec.convert(read_table("house.toml")["step"], tuple[_Step, ...])


def house_book(plan: Plan) -> tuple[Task, ...]:
    """The steps of a house, each with its gates; none while there is nothing to wire."""
    boxes = _boxes(plan)
    circuits = {q: c for q, c in plan.circuits.items() if c.runs}
    if not circuits:
        return ()
    rooms = {room: names for room, names in boxes.items() if names}
    words = _ground(plan) | _of_holes(plan)
    found: list[Task] = []
    for step in _steps():
        subjects: list[Handle | None] = (
            [*rooms] if step.per == "room" else [*circuits] if step.per == "circuit" else [None]
        )
        for subject in subjects:
            told = words | (
                _of_room(plan, subject, rooms)
                if subject in rooms
                else _of_circuit(plan, subject)
                if subject
                else {}
            )
            text = {
                name: getattr(step, name).format(**told) for name in ("words", "looks", "caution", "where")
            }
            needs = tuple(_needs(step, subject, plan, rooms))
            expected = _through(plan, subject) if subject in circuits else None
            found.append(
                Task(
                    _name(step.id, subject),
                    time=step.time,
                    needs=needs,
                    asks=step.asks,
                    visit=step.visit,
                    power=step.power,
                    doubt=step.doubt,
                    tools=with_what_in_house(step.id),
                    count=_count(step, subject, plan, rooms),
                    figures=figured(step.figures, words, expected),
                    **text,
                )
            )
    return tuple(found)


def _name(step: str, subject: Handle | None) -> str:
    return f"{step} {subject}" if subject else step


def _needs(
    step: _Step, subject: Handle | None, plan: Plan, rooms: Mapping[Handle, list[Handle]]
) -> list[str]:
    """The steps before one: of the same room or circuit, of those rooms that a circuit is in and the other
    way round, or of all.
    """
    per = {s.id: s.per for s in _steps()}
    circuits = [q for q, c in plan.circuits.items() if c.runs]
    found: list[str] = []
    for need in step.needs:
        mine: list[Handle | None]
        if per[need] == "house":
            mine = [None]
        elif subject is None:
            mine = [*(rooms if per[need] == "room" else circuits)]
        elif per[need] == step.per:
            mine = [subject]
        elif per[need] == "room":
            mine = [room for room, names in rooms.items() if _touches(plan, subject, names)]
        else:
            mine = [q for q in circuits if _touches(plan, q, rooms[subject])]
        found += [_name(need, m) for m in mine]
    return found


def _count(step: _Step, subject: Handle | None, plan: Plan, rooms: Mapping[Handle, list[Handle]]) -> float:
    """How many times what repeats in a step does: boxes of a room or on a circuit, holes or cables of a
    circuit, circuits.
    """
    if step.counts == "circuits":
        return float(sum(1 for c in plan.circuits.values() if c.runs))
    if step.counts in ("plates", "fillers"):
        whole = tally(plan)
        return float(whole.steel if step.counts == "plates" else whole.fillers)
    if subject is None or not step.counts:
        return 0.0
    if step.counts == "boxes":
        mine = (
            rooms[subject]
            if subject in rooms
            else [h for h, b in plan.boxes.items() if subject in b.circuits]
        )
        return float(len(mine))
    found = tally(plan, subject)
    return float({"cables": found.pieces, "staples": found.staples, "holes": found.holes}[step.counts])


def _through(plan: Plan, circuit: Handle | None) -> float | None:
    """A conductor of a circuit from where it begins to its farthest box by the cables of the plan,
    cold, Ω.
    """
    assert circuit is not None
    here = plan.circuits[circuit]
    ohms = plan.practice.catalogue.gauge(here.circuit.gauge).cold / METRE
    far = {here.tree.root: 0.0}
    for edge in here.tree.edges:
        if edge.up in far and edge.cable in plan.cables:
            far[edge.down] = far[edge.up] + plan.cables[edge.cable].length * ohms
    return max(far.values()) or None


def _touches(plan: Plan, circuit: Handle, names: list[Handle]) -> bool:
    return any(circuit in plan.boxes[name].circuits for name in names)


def _boxes(plan: Plan) -> dict[Handle, list[Handle]]:
    """The boxes of each room that something is made up in, in the order of their names."""
    found: dict[Handle, list[Handle]] = {room: [] for room in plan.drawing.of(Room)}
    for handle in plan.boxes:
        if handle in plan.placed:
            found[plan.placed[handle].room].append(handle)
    return found


def _ground(plan: Plan) -> dict[str, str]:
    earth = plan.practice.word("ground")
    return {"ground": earth, "Ground": earth.capitalize()}


def _of_room(plan: Plan, room: Handle | None, rooms: Mapping[Handle, list[Handle]]) -> dict[str, str]:
    assert room is not None
    return {"room": plan.drawing.get(room, Room).name, "names": _listed(rooms[room])}


def _of_circuit(plan: Plan, circuit: Handle) -> dict[str, str]:
    here = plan.circuits[circuit]
    mine = tally(plan, circuit)
    unit = plan.drawing.house.unit
    names = [h for h, box in plan.boxes.items() if circuit in box.circuits]
    return {
        "circuit": f"{here.circuit.name or 'circuit'} ({circuit})",
        "names": _listed(names),
        "holes": _many(mine.holes, "hole"),
        "cables": _many(mine.pieces, "cable"),
        "staples": _many(mine.staples, plan.practice.word("staple")),
        "length": coarse(mine.length, unit),
    }


def _of_holes(plan: Plan) -> dict[str, str]:
    """What the holes of the house ask for, in words; nothing where none does."""
    whole = tally(plan)
    plates, fillers = whole.steel, whole.fillers
    return {
        "plates": _many(plates, "plate") if plates else "none by the plan, look all the same",
        "fillers": _many(fillers, "hole") if fillers else "none by the plan, look all the same",
    }


def _listed(names: list[Handle]) -> str:
    more = len(names) - NAMED
    return ", ".join(names[:NAMED]) + (f" and {more} more" if more > 0 else "")


def _many(n: int, what: str) -> str:
    return f"{n} {what}{'' if n == 1 else 's'}"
