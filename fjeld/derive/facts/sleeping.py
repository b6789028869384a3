"""Which rooms lie outside sleeping rooms, and which garages open into the house."""

from __future__ import annotations

from collections import defaultdict

from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle


def outside_sleeping(plan: Plan) -> dict[Handle, list[Handle]]:
    """For each room to sleep in, the rooms that its doors open from, bath rooms and closets left out."""
    rooms = plan.drawing.of(Room)
    of_openings = leads(plan)
    found = {}
    for handle, room in rooms.items():
        if room.use == "bed":
            beyond = {r for of in of_openings.values() if handle in of for r in of if r != handle}
            found[handle] = sorted(
                r for r in beyond if rooms[r].use not in ("bath", "closet", "outdoors", "bed")
            )
    return found


def attached_garages(plan: Plan) -> list[Handle]:
    """Garages with an opening into the rest of the house."""
    rooms = plan.drawing.of(Room)
    return sorted(
        {
            garage
            for of in leads(plan).values()
            for garage in of
            if rooms[garage].use == "garage" and any(rooms[r].use not in ("garage", "outdoors") for r in of)
        }
    )


def leads(plan: Plan) -> dict[Handle, set[Handle]]:
    """The rooms that each opening leads into."""
    found: dict[Handle, set[Handle]] = defaultdict(set)
    for into, openings in plan.openings.items():
        for opening in openings:
            found[opening].add(into)
    return found
