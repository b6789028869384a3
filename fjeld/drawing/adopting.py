"""One thing in a finished room taken into a house, and begun from an old box of one."""

from __future__ import annotations

from msgspec.structs import replace

from fjeld.drawing.building import Room
from fjeld.drawing.errand import Errand, ErrandKind, length_of
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, House, Item, Point, PointKind
from fjeld.drawing.old_box import OldBox
from fjeld.quantities import Length, Unit, not_measured

#: What is new becomes a point of the house; whatever only changes what is there becomes none.
NEW: dict[ErrandKind, PointKind] = {
    "light": "light",
    "outlet": "outlet",
    "outdoors": "light",
    "alarms": "alarm",
}


def adopted(
    errand: Drawing, house: Drawing, room: Handle, wall: int, mint: Mint
) -> tuple[dict[Handle, Item], dict[Handle, Handle]]:
    """What an errand brings into a ``room`` of a house: its old boxes, and what is new as a point on its
    ``wall`` (0: on the ceiling). With the handle that each old box has there. What nobody measured stays to
    be measured.
    """
    unit = house.house.unit
    things: dict[Handle, Item] = {}
    moved: dict[Handle, Handle] = {}
    for handle, old in errand.of(OldBox).items():
        moved[handle] = mint.fresh("old box")
        things[moved[handle]] = replace(_unplaced(old, unit), room=room)
    told = errand.house.errand
    if told is not None and (kind := NEW.get(told.wants)) is not None:
        things[mint.fresh(kind)] = _point(told, kind, room, wall, unit)
    return things, moved


def _unplaced(old: OldBox, unit: Unit) -> OldBox:
    """An old box whose place in the house nobody has measured; how high it is, is known as it was."""
    nowhere = not_measured(Length(0.0), unit)
    return replace(old, wall=0, at=None, x=nowhere, y=nowhere)


def _point(told: Errand, kind: PointKind, room: Handle, wall: int, unit: Unit) -> Point:
    spot, nowhere = told.spot, not_measured(Length(0.0), unit)
    if not wall or spot.surface == "ceiling":
        return Point(kind, room, x=nowhere, y=nowhere)
    along = spot.along if length_of(spot.along) is not None else nowhere
    height = (
        spot.height
        if length_of(spot.height) is not None
        else not_measured(Length(1200.0 if kind == "light" else 300.0), unit)
    )
    return Point(kind, room, wall, at=along, height=height, mount="wall" if kind == "light" else "")


def begun_from(house: Drawing, box: Handle, wants: ErrandKind, name: str) -> tuple[Drawing, Handle]:
    """An errand's drawing whose first old box is one of a house, and its handle there; raises
    ``KeyError``.
    """
    old = house.get(box, OldBox)
    mint = Mint({})
    room, handle = mint.fresh("room"), mint.fresh("old box")
    told = house.house
    about = House(
        name,
        told.practice,
        told.unit,
        connectors=told.connectors,
        amendments=told.amendments,
        errand=Errand(wants),
    )
    mine = replace(_unplaced(old, told.unit), room=room)
    return Drawing({HOUSE: about, room: Room(house.get(old.room, Room).name), handle: mine}), handle
