"""What each stage reads: the rules of a practice, and the sides of a room, that its result hangs on.

A stage is given no more than that, so that an amended rule, a room's new name or the way a door
swings runs again only the stages that read it. A rule that is not in a stage's list cannot be
read by it: it is refused, not taken for absent.
"""

from __future__ import annotations

from typing import Any

import msgspec

from fjeld.derive.memo import Remember
from fjeld.drawing.building import Opening, Room
from fjeld.practice import Practice, rules
from fjeld.practice.rules import RuleKey

Read = tuple[RuleKey[Any], ...]

LAYING: Read = (rules.ROOM_CLOSES, rules.ROOMS_FIT)
SETTING: Read = (rules.CLEAR_OF_FRAMING, rules.OUTLET_HEIGHT, rules.SWITCH_HEIGHT)
CARRYING: Read = (rules.FAN_BOX, rules.FAN_READY, rules.FAN_BLADES, rules.FAN_CLEAR, rules.USUAL_FAN)
LANES: Read = (rules.DRILL_BELOW, rules.DRILL_HEIGHT, rules.CABLE_ZONES)
PIECES: Read = (
    rules.CABLE_ALLOWANCE,
    rules.CABLE_SLACK,
    rules.CUT_STEP,
    rules.FIRST_SUPPORT,
    rules.FIRST_SUPPORT_UNCLAMPED,
    rules.SUPPORT_IN_VOIDS,
    rules.SUPPORT_INTERVAL,
    rules.SUPPORT_INTERVAL_UPRIGHT,
    rules.SUPPORT_INTERVAL_WIDE,
    rules.SUPPORT_WIDE,
)
BORING: Read = (rules.HOLE_SIZE, rules.HOLE_EDGE, rules.CABLE_ZONES, rules.FIRE_STOP)
CIRCUITS: Read = (
    rules.CIRCUIT_LOAD,
    rules.LIGHT_ESTIMATE,
    rules.LOAD_ESTIMATE,
    rules.NEUTRAL_AT_SWITCH,
    rules.OUTLET_DESIGN,
    rules.OUTLET_ESTIMATE,
)
BOXES: Read = (rules.BOX_FILL, rules.BOX_RESERVE, rules.GROUND_FILL)
NETWORK: Read = (rules.RESIDUAL_TRIP, rules.SUPPLY_LOOP)
LOADS: Read = (rules.LIGHT_ESTIMATE, rules.LOAD_ESTIMATE, rules.OUTLET_ESTIMATE)


def of(practice: Practice, read: Read, remember: Remember) -> Practice:
    """The practice with no other rules than those; the same object as before where none of them changed."""
    held = (practice.rules.get(key.id) for key in read)
    known = (rule if rule is None or not rule.amended else remember.known("rule", rule) for rule in held)
    found: Practice = remember.same(
        "rules read", lambda *of: practice.only(read), practice.id, practice.catalogue, *known
    )
    return found


def version(practice: Practice, prices: dict[str, int]) -> str:
    """What tells a stage's practice from others where results are known by value."""
    amended = [(rule.id, rule.value) for rule in practice.rules.values() if rule.amended]
    return f"{practice.id} {amended!r} {prices!r}"


def shell(room: Room, remember: Remember) -> Room:
    """A room without its name, its use and what only people look at: what its figure and its
    framing hang on.
    """
    bare: Room = remember.same("shell", _bare, room)
    return remember.known("shell", bare)


def _bare(room: Room) -> Room:
    return msgspec.structs.replace(
        room, name="", use="other", seen="", diagonals=(), work="new", below="closed"
    )


def purpose(room: Room, remember: Remember) -> Room:
    """A room as circuits see it: by its use alone."""
    used: Room = remember.same("purpose", _used, room)
    return remember.known("purpose", used)


def _used(room: Room) -> Room:
    return Room("", use=room.use)


def gap(opening: Opening, remember: Remember) -> Opening:
    """An opening as a wall has it, whichever way it is hung."""
    plain: Opening = remember.same("gap", _plain, opening)
    return remember.known("gap", plain)


def _plain(opening: Opening) -> Opening:
    return msgspec.structs.replace(opening, hinge="start", swing="in")
