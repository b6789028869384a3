"""What to buy: every part of the plan counted once, with its price and what it is for.

Cable is listed by the cut lengths; which coils it comes from is a search of its own
(:mod:`fjeld.propose.cuts`). Prices are cents from the catalogue's list.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping

import msgspec

from fjeld.derive.boxes import Box
from fjeld.derive.cables import CablePlan
from fjeld.derive.conductors import Run
from fjeld.derive.holes import Hole
from fjeld.derive.memo import Remember, always
from fjeld.derive.places import Placed
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Circuit
from fjeld.practice.devices import device
from fjeld.practice.parts import Catalogue


class Material(msgspec.Struct, frozen=True):
    """One line of the list: ``count`` in ``unit`` at ``cents`` each, for ``handles``."""

    part: str
    name: str
    count: float
    unit: str
    cents: int
    handles: tuple[str, ...]

    @property
    def total_cents(self) -> int:
        return round(self.count * self.cents)


GANGS = (
    "",
    "one gang",
    "two gang",
    "three gang",
    "four gang",
    "five gang",
    "six gang",
    "seven gang",
    "eight gang",
)
_BREAKERS = {
    "": "breaker",
    "arc-fault": "breaker-arc-fault",
    "ground-fault": "breaker-ground-fault",
    "both": "breaker-dual",
    "residual": "breaker-ground-fault",
}


def materials(
    boxes: Mapping[Handle, Box],
    old: Mapping[Handle, Box],
    runs: Iterable[Run],
    cables: Mapping[Handle, CablePlan],
    holes: Iterable[Hole],
    placed: Mapping[Handle, Placed],
    circuits: Mapping[Handle, Circuit],
    catalogue: Catalogue,
    neutral: str,
    remember: Remember = always,
) -> tuple[Material, ...]:
    """The list, parts in a steady order. In an ``old`` box only what its new joints want is bought."""
    counted: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for handle, box in boxes.items():
        for part, count in remember.same("box's parts", _box_parts, box, placed.get(handle), catalogue):
            counted[part].append((count, handle))
    for handle, box in old.items():
        for connector in (c for joint in box.joints for c in joint.connectors):
            counted[f"connector:{connector}"].append((1.0, handle))
    for run in runs:
        for part, count in _run_parts(run, cables[run.cable], catalogue, neutral):
            counted[part].append((count, run.key))
    for hole in holes:
        counted["nail-plate"].append((hole.plates, hole.cables[0]))
        if hole.stopped:
            counted["fire-stop"].append((1, hole.cables[0]))
    # Where a circuit begins in an old box its breaker is there already.
    for handle, circuit in ((q, c) for q, c in circuits.items() if c.source not in old):
        breaker = _BREAKERS[circuit.protection] + ("-two-pole" if circuit.poles == 2 else "")
        counted[breaker].append((1, handle))
    return tuple(
        _line(part, rows, catalogue) for part, rows in sorted(counted.items()) if sum(c for c, _ in rows)
    )


def _run_parts(run: Run, cable: CablePlan, catalogue: Catalogue, neutral: str) -> Iterator[tuple[str, float]]:
    """What one physical cable wants: its length in units, staples, sleeves."""
    yield f"cable:{run.kind.id}", cable.length / catalogue.cable_unit_mm
    yield "staple", len(cable.staples)
    for part, millimetres in _sleeves(run, catalogue, neutral):
        yield part, millimetres / catalogue.cable_unit_mm


def _sleeves(run: Run, catalogue: Catalogue, neutral: str) -> Iterator[tuple[str, float]]:
    """Sleeving for both ends of each conductor that is bare, or marked as another colour; mm."""
    bare, mark = catalogue.sleeves
    for conductor in run.conductors:
        if not conductor.insulated and bare:
            yield "sleeve-G", 2 * bare
        elif conductor.marked and mark:
            yield f"sleeve-{conductor.marked_as(neutral)}", 2 * mark


def _box_parts(box: Box, placed: Placed | None, catalogue: Catalogue) -> list[tuple[str, float]]:
    parts = [(f"box:{box.kind.id}", 1.0)]
    for joint in box.joints:
        parts += [(f"connector:{c}", 1.0) for c in joint.connectors]
    parts += [(_of_grade(part, box, catalogue), 1.0) for part in _device_parts(box)]
    parts += _closed_with(box, catalogue)
    if box.kind.metal:
        parts.append(("ground-screw", 1.0))
        if not box.kind.clamps:
            parts.append(("cable-clamp", float(len({c.bundle for c in box.ends}))))
    hung = placed is not None and not placed.wall and placed.sits == "clear"
    if hung and placed and not placed.closed and not box.kind.brace:
        parts.append(("joist-bar", 1.0))
    return parts


def _closed_with(box: Box, catalogue: Catalogue) -> list[tuple[str, float]]:
    """What a box is closed with: covers outdoors, a plate over its gangs, a blank where nothing is in it."""
    used = sum(d.gangs for d in box.devices)
    if box.kind.outdoor:
        if used:
            return [("in-use-cover", float(used))]
        return [] if box.devices else [("wet-cover", 1.0)]
    if not (catalogue.plates_apart and box.kind.gangs):
        return [] if box.devices else [("blank-cover", 1.0)]
    if not box.devices:
        return [(f"blank-plate:{box.kind.gangs}", 1.0)]
    # One plate over all gangs of the box, each opening as its device wants; a gang without one is filled.
    plate = (f"plate:{box.kind.gangs}", 1.0)
    left = box.kind.gangs - used
    return [plate, ("blank-filler", float(left))] if left > 0 else [plate]


def _of_grade(part: str, box: Box, catalogue: Catalogue) -> str:
    """The part of a box outside: an outlet that the weather does nothing to, where one is sold."""
    wet = f"{part}-wet"
    return wet if box.kind.outdoor and wet in catalogue.names else part


def _device_parts(box: Box) -> list[str]:
    """What is bought for the devices of a box: those on one yoke are one part."""
    sharing = [d for d in box.devices if d.shares]
    if not sharing:
        return [device(d.kind).part for d in box.devices]
    host = next((d for d in box.devices if d.key.box == box.handle and not d.shares), None)
    apart = [device(d.kind).part for d in box.devices if d is not host and not d.shares]
    return [*apart, "combination-device"] if host else [device(d.kind).part for d in box.devices]


def _line(part: str, rows: list[tuple[float, str]], catalogue: Catalogue) -> Material:
    kind, _, name = part.partition(":")
    handles = tuple(sorted({h for c, h in rows if c}, key=order))
    count = sum(c for c, _ in rows)
    if kind == "box" and (box := catalogue.box(name)):
        return Material(
            part=part,
            name=catalogue.box_name(box),
            count=count,
            unit="pieces",
            cents=box.cents,
            handles=handles,
        )
    if kind == "cable":
        cable = catalogue.cable_by_id(name)
        unit = catalogue.cable_unit
        return Material(
            part=part,
            name=catalogue.cable_name(name),
            count=round(count, 2),
            unit=unit,
            cents=cable.cents,
            handles=handles,
        )
    if kind == "connector":
        connector = next(c for c in catalogue.connectors if c.id == name)
        return Material(
            part=part, name=connector.name, count=count, unit="pieces", cents=connector.cents, handles=handles
        )
    if kind in ("plate", "blank-plate"):
        words = f"{catalogue.names[kind]}, {GANGS[int(name)]}"
        own = catalogue.parts.get(part)
        return Material(
            part=part,
            name=words,
            count=count,
            unit="pieces",
            cents=catalogue.parts[kind] * int(name) if own is None else own,
            handles=handles,
        )
    sold_by = catalogue.cable_unit if part.startswith("sleeve-") else "pieces"
    return Material(
        part=part,
        name=catalogue.names[part],
        count=round(count, 2),
        unit=sold_by,
        cents=catalogue.parts[part],
        handles=handles,
    )
