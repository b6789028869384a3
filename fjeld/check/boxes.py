"""Boxes: is there room, is there a connector, do the conductors fit the cables?"""

from __future__ import annotations

from collections.abc import Iterator

from fjeld.check.finding import Finding, failed, looks_at
from fjeld.derive.places import outdoors
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.model import Point
from fjeld.practice import rules
from fjeld.quantities import verdict_at_most


@looks_at(
    rules.BOX_CABLES,
    rules.BOX_FILL,
    rules.BOX_GANGS,
    rules.BOX_RESERVE,
    rules.CABLE_CONDUCTORS,
    rules.END_OF_RUN_BOX,
    rules.FINISHED_BOX,
    rules.JOINT_CONNECTOR,
    rules.OUTDOOR_BOX,
)
def check(plan: Plan) -> Iterator[Finding]:
    """All findings of the boxes."""
    rule = plan.practice.rule
    for handle, box in plan.boxes.items():
        placed = plan.placed.get(handle)
        if placed is not None and box.kind.surface not in ("any", "finished" if placed.closed else "open"):
            surface = "a finished surface" if placed.closed else "open framing"
            words = f"{handle} is to be a {box.kind.name.lower()}, which {surface} does not take"
            yield failed(plan, rules.FINISHED_BOX, "boxes", (handle,), words)
        point = plan.drawing.get(handle, Point)
        if (
            outdoors(point, plan.drawing.get(point.room, Room))
            and point.kind in plan.practice[rules.OUTDOOR_BOX]
            and not box.kind.outdoor
        ):
            words = f"{handle} stands outside in a {box.kind.name.lower()}, which is not made for wet places"
            yield failed(plan, rules.OUTDOOR_BOX, "boxes", (handle,), words)
        if not box.ends:
            continue
        full = f"{handle} needs {box.needed.total:g} of {box.kind.volume:g} {box.needed.unit}"
        yield Finding(
            rule=rule(rules.BOX_FILL if rules.BOX_FILL in plan.practice else rules.BOX_CABLES),
            handles=(handle,),
            words=full,
            verdict=verdict_at_most(box.needed.total, box.kind.volume),
            waypoint="boxes",
            working=box.needed,
            limit=box.kind.volume,
        )
        if box.passes and plan.practice[rules.BOX_RESERVE] and not box.has_reserve:
            words = f"{handle} has no room for one more cable"
            verdict = verdict_at_most(box.reserved.total, box.kind.volume)
            yield Finding(
                rule=rule(rules.BOX_RESERVE),
                handles=(handle,),
                words=words,
                verdict=verdict,
                waypoint="boxes",
                working=box.reserved,
                limit=box.kind.volume,
            )
        gangs = sum(d.gangs for d in box.devices)
        if box.kind.shape == "device" and box.kind.gangs < gangs:
            yield failed(
                plan,
                rules.BOX_GANGS,
                "boxes",
                (handle,),
                f"{handle} holds {gangs} devices in {box.kind.gangs} gangs",
            )
        cables = len({end.bundle for end in box.ends})
        if box.kind.end_of_run_only and cables > plan.practice[rules.END_OF_RUN_BOX]:
            words = f"{handle} joins {cables} cables in a box marked for the end of a run"
            yield failed(plan, rules.END_OF_RUN_BOX, "boxes", (handle,), words)
        for joint in box.joints:
            if joint.unlisted:
                count = len(joint.ends) + len(joint.landings)
                yield failed(
                    plan,
                    rules.JOINT_CONNECTOR,
                    waypoint="boxes",
                    handles=(handle,),
                    words=f"No connector takes the {count} conductors of the {joint.words} in {handle}",
                    place=str(joint.net),
                )
    for circuit in plan.circuits.values():
        for run in circuit.runs:
            if run.too_few:
                yield failed(
                    plan,
                    rules.CABLE_CONDUCTORS,
                    "boxes",
                    (run.cable,),
                    f"{run.key} would carry {len(run.nets)} conductors",
                )
