"""The stages in their order, each given exactly the values it reads.

``derive(drawing)`` is the whole plan. With a memo, a stage whose arguments are what they
were before is not run again; the result is the same either way. Nothing is chosen here:
what the drawing leaves open (a room not closed, a point on no circuit) stays open.
"""

from __future__ import annotations

from collections import defaultdict

import msgspec

from fjeld import practice as practices
from fjeld.derive import (
    cords,
    holes,
    joins,
    materials,
    network,
    reads,
    rests,
    standing,
    wired,
)
from fjeld.derive.bodies import Block
from fjeld.derive.boxes import Box
from fjeld.derive.cables import CablePlan
from fjeld.derive.conductors import Conductor, Run
from fjeld.derive.holes import Hole
from fjeld.derive.house import RoomShape
from fjeld.derive.intents import control_circuit
from fjeld.derive.joins import Placement
from fjeld.derive.materials import Material
from fjeld.derive.memo import Memo, Remember, always
from fjeld.derive.network import Network, NetworkPart
from fjeld.derive.old import OldMade
from fjeld.derive.places import Mark, Placed
from fjeld.derive.rests import Rests
from fjeld.derive.ways import Ways
from fjeld.derive.wiring import CircuitPlan
from fjeld.drawing.building import Body, Join, Opening, Room
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Circuit, Control, Drawing, House, Point, first_panel
from fjeld.practice import Amendment, Practice


class Plan(msgspec.Struct, frozen=True, dict=True):
    """All that follows from a drawing. ``old`` are the old boxes that circuits begin in, as they stand;
    ``begun`` what they become.

    It is a value: two of one drawing are equal, and it can be written down and read back. The ways
    between boxes that are not joined are asked of :attr:`ways`, which stands beside it.
    """

    drawing: Drawing
    practice: Practice
    panel: Handle | None
    rests: Rests
    rooms: dict[Handle, RoomShape]
    openings: dict[Handle, dict[Handle, Opening]]
    placement: Placement
    blocks: dict[Handle, Block]
    placed: dict[Handle, Placed]
    marks: dict[Handle, Mark]
    old: dict[Handle, Placed]
    circuits: dict[Handle, CircuitPlan]
    cables: dict[Handle, CablePlan]
    holes: tuple[Hole, ...]
    boxes: dict[Handle, Box]
    begun: dict[Handle, OldMade]
    parts: dict[Handle, tuple[NetworkPart, ...]]
    network: Network | None
    materials: tuple[Material, ...]

    @property
    def ways(self) -> Ways:
        """The ways between any two boxes; found again where the plan was read from elsewhere."""
        if "ways" not in self.__dict__:
            laid = standing.lay(self.drawing, self.practice)
            boxes = {**self.placed, **self.old}
            self.__dict__["ways"] = standing.ways_of(
                self.drawing, laid, blocks=self.blocks, placed=boxes, practice=self.practice, remember=always
            )
        found: Ways = self.__dict__["ways"]
        return found

    def blocks_in(self, room: Handle) -> list[Block]:
        """What stands in a room."""
        if "blocks by room" not in self.__dict__:
            by_room = defaultdict[Handle, list[Block]](list)
            for block in self.blocks.values():
                by_room[block.room].append(block)
            self.__dict__["blocks by room"] = by_room
        found: list[Block] = self.__dict__["blocks by room"].get(room, [])
        return found

    def pendant_drop(self, handle: Handle) -> float:
        """How far below its ceiling a pendant's lower edge hangs, mm; nought for what does not hang."""
        point = self.drawing.items.get(handle)
        if not isinstance(point, Point) or point.mount != "pendant" or point.over is None:
            return 0.0
        return cords.drop(
            self.placed[handle].height, self.drawing.get(point.over, Body), point.fitting, self.practice
        )

    def pendant_clearance(self, handle: Handle) -> float:
        """From a pendant's lower edge to the top of what it hangs over, mm."""
        over = self.drawing.get(handle, Point).over
        top = self.drawing.get(over, Body).high.mm if over else 0.0
        return self.placed[handle].height - self.pendant_drop(handle) - top

    def home(self, handle: Handle) -> Handle:
        """The box that a point is in: its own, or another's that it sits within."""
        point = self.drawing.items.get(handle)
        return point.within if isinstance(point, Point) and point.within is not None else handle

    def runs(self) -> list[Run]:
        """Every physical cable of the job."""
        return [run for circuit in self.circuits.values() for run in circuit.runs]

    def conductor(self, key: str) -> Conductor:
        """A conductor by key; raises ``KeyError``."""
        for run in self.runs():
            for conductor in run.conductors:
                if conductor.key == key:
                    return conductor
        raise KeyError(key)

    def together(self) -> list[tuple[Handle, ...]]:
        """The circuits in groups that share no box: nothing in one group can join anything in another."""
        groups: list[set[Handle]] = []
        fed = [
            {feeder, *(q for q, c in self.circuits.items() if c.source == panel)}
            for feeder, plan in self.circuits.items()
            for panel in plan.panels
        ]
        for shared in [{q} for q in self.circuits] + [set(box.circuits) for box in self.boxes.values()] + fed:
            met = [g for g in groups if g & shared]
            groups = [g for g in groups if not g & shared] + [shared.union(*met)] if shared else groups
        return sorted((tuple(sorted(g, key=order)) for g in groups), key=lambda g: order(g[0]))

    def network_of(self, circuits: tuple[Handle, ...], remember: Remember = always) -> Network | None:
        """The network of some circuits alone, with where they begin."""
        mine = {q: c for q, c in self.circuits.items() if q in circuits}
        if not mine:
            return None
        made = [h for h, b in self.boxes.items() if set(b.circuits) & set(circuits)]
        parts = [part for h in (*mine, *made) for part in self.parts[h]]
        found: Network = remember.same(
            "network",
            network.build,
            wired.supplies(mine),
            parts,
            reads.of(self.practice, reads.NETWORK, remember),
        )
        return found

    def control_circuit(self, control: Handle) -> Handle | None:
        """The circuit that a control's switches are on."""
        return control_circuit(self.drawing, self.drawing.get(control, Control))


def derive(drawing: Drawing, memo: Memo | None = None) -> Plan:
    """The whole plan of a valid drawing (see :mod:`fjeld.drawing.validate`)."""
    remember: Remember = always if memo is None else memo
    # By value: a job that is renamed, or an override, leaves the practice and the way of wiring what they
    # were.
    house = drawing.house
    practice: Practice = remember("practice", _in_force, house.practice, house.amendments, house.prices)
    choices = remember.known("choices", _choices(house))
    panel = first_panel(drawing)
    laid = standing.lay(drawing, practice, remember)
    seen = joins.openings_by_room(drawing.of(Room), drawing.of(Opening), drawing.of(Join))
    blocks = standing.blocks_of(drawing, laid.rooms, remember)
    placed, marks = standing.places_of(drawing, laid.rooms, practice, remember)
    there = standing.old_places_of(drawing, laid.rooms, practice, remember)
    through = standing.ways_of(
        drawing, laid, blocks=blocks, placed={**placed, **there}, practice=practice, remember=remember
    )
    assumed = rests.rests(drawing, remember)
    laid_cables = standing.cables_of(
        drawing,
        {**placed, **there},
        through=through,
        rooms=laid.rooms,
        assumed=assumed,
        practice=practice,
        remember=remember,
    )
    bored = remember.same("holes", holes.holes, laid_cables, reads.of(practice, reads.BORING, remember))
    circuits = wired.circuits_of(drawing, choices, laid_cables, practice, remember)
    made = wired.boxes_of(
        drawing,
        choices,
        circuits=circuits,
        placed=placed,
        shapes=laid.rooms,
        practice=practice,
        remember=remember,
    )
    begun_in = wired.begun_in(drawing, circuits, practice, remember)
    parts = wired.parts_of(
        drawing, circuits, made=made, laid=laid_cables, practice=practice, remember=remember
    )
    begun = wired.supplies(circuits, panel)
    grid = (
        network.build(
            begun, [p for of in parts.values() for p in of], reads.of(practice, reads.NETWORK, remember)
        )
        if begun
        else None
    )
    bought = remember.same(
        "materials",
        materials.materials,
        made,
        {h: m.box for h, m in begun_in.items()},
        [r for c in circuits.values() for r in c.runs],
        laid_cables,
        bored,
        placed,
        drawing.of(Circuit),
        practice.catalogue,
        practice.neutral,
        remember,
    )
    plan = Plan(
        drawing=drawing,
        practice=practice,
        panel=panel,
        rests=assumed,
        rooms=laid.rooms,
        openings=seen,
        placement=laid.placement,
        blocks=blocks,
        placed=placed,
        marks=marks,
        old=there,
        circuits=circuits,
        cables=laid_cables,
        holes=bored,
        boxes=made,
        begun=begun_in,
        parts=parts,
        network=grid,
        materials=bought,
    )
    plan.__dict__["ways"] = through
    return plan


def in_force(house: House) -> Practice:
    """The practice of a house with its local amendments and its own prices."""
    return _in_force(house.practice, house.amendments, house.prices)


def _in_force(practice: str, amendments: tuple[Amendment, ...], prices: dict[str, int]) -> Practice:
    return practices.load(practice).amended(amendments).priced(prices)


def _choices(house: House) -> House:
    """Of a house's choices those that circuits and boxes are wired by."""
    return House(
        practice=house.practice,
        unit=house.unit,
        feed=house.feed,
        two_position=house.two_position,
        joining=house.joining,
        connectors=house.connectors,
        neutrals=house.neutrals,
    )
