"""Boxes: is there room, is there a connector, do the conductors fit the cables?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check.finding import Finding, failed, looks_at
from fjeld.derive.boxes import Box
from fjeld.derive.places import outdoors
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Point
from fjeld.practice import rules
from fjeld.quantities import verdict_at_most


def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the boxes."""
    for handle, box in plan.boxes.items():
        yield from _stands(plan, handle, box)
        if box.ends:
            yield from _fill(plan, handle, box)
            yield from _holds(plan, handle, box)
    yield from _conductors(plan)


@looks_at(rules.FINISHED_BOX, rules.OUTDOOR_BOX)
def _stands(plan: Plan, handle: Handle, box: Box) -> Iterator[Finding]:
    """Whether a box is made for where it stands."""
    placed, kind = plan.placed.get(handle), box.kind
    if placed is not None and kind.surface not in ("any", "finished" if placed.closed else "open"):
        surface = "a finished surface" if placed.closed else "open framing"
        words = f"{handle} is to be a {kind.name.lower()}, which {surface} does not take"
        yield failed(plan, rules.FINISHED_BOX, "boxes", (handle,), words)
    point = plan.drawing.get(handle, Point)
    outside = outdoors(point, plan.drawing.get(point.room, Room))
    if outside and point.kind in plan.practice[rules.OUTDOOR_BOX] and not kind.outdoor:
        words = f"{handle} stands outside in a {kind.name.lower()}, which is not made for wet places"
        yield failed(plan, rules.OUTDOOR_BOX, "boxes", (handle,), words)


@looks_at(rules.BOX_CABLES, rules.BOX_FILL, rules.BOX_RESERVE)
def _fill(plan: Plan, handle: Handle, box: Box) -> Iterator[Finding]:
    """What a box needs against what it has, and whether a cable more would go in."""
    rule = plan.practice.rule
    yield Finding(
        rule=rule(rules.BOX_FILL if rules.BOX_FILL in plan.practice else rules.BOX_CABLES),
        handles=(handle,),
        words=f"{handle} needs {box.needed.total:g} of {box.kind.volume:g} {box.needed.unit}",
        verdict=verdict_at_most(box.needed.total, box.kind.volume),
        waypoint="boxes",
        working=box.needed,
        limit=box.kind.volume,
    )
    if box.passes and plan.practice[rules.BOX_RESERVE] and not box.has_reserve:
        yield Finding(
            rule=rule(rules.BOX_RESERVE),
            handles=(handle,),
            words=f"{handle} has no room for one more cable",
            verdict=verdict_at_most(box.reserved.total, box.kind.volume),
            waypoint="boxes",
            working=box.reserved,
            limit=box.kind.volume,
        )


@looks_at(rules.BOX_GANGS, rules.END_OF_RUN_BOX, rules.JOINT_CONNECTOR)
def _holds(plan: Plan, handle: Handle, box: Box) -> Iterator[Finding]:
    """Whether a box takes the devices, the cables and the joints that are in it."""
    gangs = sum(d.gangs for d in box.devices)
    if box.kind.shape == "device" and box.kind.gangs < gangs:
        words = f"{handle} holds {gangs} devices in {box.kind.gangs} gangs"
        yield failed(plan, rules.BOX_GANGS, "boxes", (handle,), words)
    cables = len({end.bundle for end in box.ends})
    if box.kind.end_of_run_only and cables > plan.practice[rules.END_OF_RUN_BOX]:
        words = f"{handle} joins {cables} cables in a box marked for the end of a run"
        yield failed(plan, rules.END_OF_RUN_BOX, "boxes", (handle,), words)
    for joint in box.joints:
        if joint.unlisted:
            count = len(joint.ends) + len(joint.landings)
            words = f"No connector takes the {count} conductors of the {joint.words} in {handle}"
            yield failed(
                plan,
                rules.JOINT_CONNECTOR,
                waypoint="boxes",
                handles=(handle,),
                words=words,
                place=str(joint.net),
            )


@looks_at(rules.CABLE_CONDUCTORS)
def _conductors(plan: Plan) -> Iterator[Finding]:
    """Whether a cable has as many conductors as it is to carry nets."""
    for circuit in plan.circuits.values():
        for run in circuit.runs:
            if run.too_few:
                words = f"{run.key} would carry {len(run.nets)} conductors"
                yield failed(plan, rules.CABLE_CONDUCTORS, "boxes", (run.cable,), words)
