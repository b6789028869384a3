"""One thing in a room that stays closed: what is wanted, where it goes, and which way its cable takes.

The old boxes that may feed it are items of the drawing. What stands here is blank until somebody has
looked; a field listed in ``later`` was asked and left open, so that it is not asked again before the rest.
"""

from __future__ import annotations

from operator import attrgetter
from typing import Annotated, Any, Literal

import msgspec

from fjeld.drawing.extents import (
    AboveFloor,
    AlongWall,
    BoardThickness,
    CutLength,
    FittingSize,
    FoundNumber,
    Gangs,
    Kilograms,
    MemberDepth,
    Name,
    Note,
    Rise,
    VoltAmperes,
    WallLength,
    at_most,
)
from fjeld.drawing.handles import Handle
from fjeld.quantities import Length

ErrandKind = Literal[
    "light",
    "outlet",
    "heavy",
    "larger box",
    "replace",
    "short wires",
    "move",
    "outdoors",
    "loose splice",
    "alarms",
]
#: Errands that bring a cable to something new; that put one device in the place of another; in which the box
#: itself gives way.
NEW: frozenset[ErrandKind] = frozenset({"light", "outlet", "outdoors", "alarms"})
REPLACED: frozenset[ErrandKind] = frozenset({"replace", "heavy"})
CHANGED: frozenset[ErrandKind] = frozenset({"larger box", "move"})
#: What stands in the place of a device: its like, one for lamps alone, one that wants a neutral, one that
#: protects, a fan.
Becomes = Literal["same", "dimmer", "sensor", "protective", "fan"]
#: How an edge behind a surface was found; empty where it was seen in the open.
FoundBy = Literal["", "probe", "screws", "detector", "pattern"]
#: What was looked for: not there, or there.
Seen = Literal["clear", "there"]
#: How the new place lies to the old box.
Lies = Literal[
    "",
    "same bay",
    "other side",
    "same wall",
    "along the joists",
    "across the joists",
    "another storey",
    "elsewhere",
]
Looks = Annotated[dict[str, Seen], at_most(60)]
Later = Annotated[tuple[Name, ...], at_most(80)]


class Spot(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Where a box is cut in. ``left`` and ``right`` are the faces of the members that look into the bay,
    ``door`` a jamb's face instead of the left one, ``along`` the middle of the box, all from one ``datum``
    along the surface (across the joists on a ceiling). ``opposite`` is what a box on the other side takes up
    of the ``cavity``; ``lowest`` the lowest thing above a ceiling and ``needs`` what the fitting wants there.
    ``from_water`` is how far sideways it is ``by_water``; ``outside`` is what goes there, ``roof`` how far
    one stands out over it and ``above`` how high over it. ``seen`` is what was looked for before any cut.
    """

    surface: Literal["", "wall", "ceiling"] = ""
    covering: Name = ""
    box: Name = ""
    datum: Note = ""
    left: AlongWall | None = None
    left_by: FoundBy = ""
    right: AlongWall | None = None
    right_by: FoundBy = ""
    door: AlongWall | None = None
    along: AlongWall | None = None
    height: AboveFloor | None = None
    thick: BoardThickness | None = None
    cavity: MemberDepth | None = None
    opposite: FittingSize | None = None
    lowest: FittingSize | None = None
    needs: FittingSize | None = None
    by_water: Literal["", "tub", "shower", "shower without tray", "basin"] = ""
    from_water: AlongWall | None = None
    outside: Literal["", "light", "outlet"] = ""
    roof: FittingSize | None = None
    above: AboveFloor | None = None
    seen: Looks = {}
    later: Later = ()


class Plate(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The wood over or under a closed wall, at one end of a way, and what was measured to find it from the
    other side.

    ``met`` is what is met on both sides: a ``surface`` stands ``room`` from the wall's finished face, and
    ``back`` farther back on the other side; of a pipe or a vent it is to its ``middle``; a ``pilot`` was
    bored tight to the wall, ``pilot`` from its face. ``deep`` is the wood, ``miss`` by how much the hole came
    out too far from what was met, or too near, as ``missed`` tells. ``heel`` is the room from its outer edge
    up to the roof, ``rise`` that of the roof in 12; ``went`` how far a chain (from below, a rod) goes into
    the bay, and whether what it ``stops`` at goes all across.
    """

    met: Literal["", "surface", "middle", "pilot"] = ""
    room: AlongWall | None = None
    back: FittingSize | None = None
    pilot: FittingSize | None = None
    deep: MemberDepth | None = None
    miss: FittingSize | None = None
    missed: Literal["", "too far", "too near"] = ""
    heel: FittingSize | None = None
    rise: Rise | None = None
    went: FittingSize | None = None
    stops: Literal["", "all across", "only here"] = ""


class Way(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """How the cable gets there. ``lies`` is how the spot lies to the source; ``studs`` and ``joists`` are
    crossed between them; ``across`` is the stretch from over (or under) the one to over the other,
    ``ceiling`` the height of the plate's underside, ``source`` how high the old box is; ``chosen`` the ways
    in their order, ``pull`` a length cut by another reckoning. ``here`` is the wood at the old box, ``there``
    at the new one; ``wood`` how deep the members between are, ``bearing`` whether their wall carries
    something, ``leaf`` the brick or block.
    """

    lies: Lies = ""
    studs: FoundNumber | None = None
    joists: FoundNumber | None = None
    across: WallLength | None = None
    source: AboveFloor | None = None
    ceiling: AboveFloor | None = None
    plates: MemberDepth | None = None
    insulated: bool | None = None
    base: bool | None = None
    chosen: Annotated[tuple[Name, ...], at_most(12)] = ()
    pull: CutLength | None = None
    here: Plate = Plate()
    there: Plate = Plate()
    wood: MemberDepth | None = None
    bearing: bool | None = None
    leaf: MemberDepth | None = None
    seen: Looks = {}
    later: Later = ()


class Errand(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """One thing in a finished room: what is wanted, from where the work can be reached, whether it follows
    the ``same_switch`` as what is there, which old box was taken as its ``source`` (the first where nothing
    is said), its spot and its way. Of a device that is replaced, which one of the box by its name (the first
    where nothing is said), and what it ``becomes``, empty while nobody has said; ``weighs`` is that of what
    is hung, kg; ``takes`` what is new takes, VA, and ``hours`` whether it is on for hours on end. ``fits``
    says which of the two an outlet or a switch is; ``devices`` how many will be in a box that is made larger;
    ``farther`` how much farther the cable of a box that is moved has to go.
    """

    wants: ErrandKind
    attic: bool = False
    below: bool = False
    same_switch: bool = False
    source: Handle | None = None
    spot: Spot = Spot()
    way: Way = Way()
    replaces: Name = ""
    becomes: Literal[Becomes, ""] = ""
    weighs: Kilograms | None = None
    takes: VoltAmperes | None = None
    hours: bool = False
    fits: Literal["", "outlet", "switch"] = ""
    devices: Gangs | None = None
    farther: AlongWall | None = None


def part_of(told: Spot | Way, name: str) -> Any:
    """What is told under a name: a field, or one of a plate of a way (``here.room``)."""
    return attrgetter(name)(told)


def with_part(told: Spot | Way, name: str, value: Any) -> Spot | Way:
    """The same with another value under a name."""
    head, _, tail = name.partition(".")
    return msgspec.structs.replace(
        told, **{head: msgspec.structs.replace(getattr(told, head), **{tail: value}) if tail else value}
    )


def length_of(found: Length | None) -> float | None:
    """A measure in mm, where somebody has taken it."""
    return None if found is None or found.unknown else found.mm
