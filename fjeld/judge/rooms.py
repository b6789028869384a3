"""A room by what people call it, and the outlets that its walls want."""

from __future__ import annotations

import math
from typing import get_args

from fjeld.drawing.building import RoomUse
from fjeld.judge.answer import NotAsked
from fjeld.quantities import TOLERANCE

USES: tuple[RoomUse, ...] = get_args(RoomUse)
#: What else a room is called, by its use.
CALLED: dict[str, RoomUse] = {
    "bedroom": "bed",
    "nursery": "bed",
    "guest room": "bed",
    "bathroom": "bath",
    "shower room": "bath",
    "toilet": "bath",
    "wc": "bath",
    "powder room": "bath",
    "living room": "living",
    "lounge": "living",
    "sitting room": "living",
    "parlour": "living",
    "parlor": "living",
    "dining room": "dining",
    "breakfast room": "dining",
    "family room": "family",
    "hallway": "hall",
    "corridor": "hall",
    "landing": "hall",
    "entry": "foyer",
    "entrance": "foyer",
    "stair": "stairs",
    "staircase": "stairs",
    "stairway": "stairs",
    "utility": "laundry",
    "utility room": "laundry",
    "laundry room": "laundry",
    "study": "den",
    "office": "den",
    "sunroom": "sun",
    "sun room": "sun",
    "conservatory": "sun",
    "recreation room": "recreation",
    "rec room": "recreation",
    "playroom": "recreation",
    "mudroom": "boot",
    "mud room": "boot",
    "boot room": "boot",
    "outside": "outdoors",
    "outdoor": "outdoors",
    "garden": "outdoors",
    "porch": "outdoors",
    "patio": "outdoors",
    "cellar": "basement",
    "wardrobe": "closet",
    "cupboard": "closet",
    "carport": "garage",
    "workshop": "garage",
    "attic": "other",
    "loft": "other",
}


def use_of(called: str) -> RoomUse:
    """The use of a room by its name, whatever its case; raises :class:`NotAsked` with those there are."""
    name = " ".join(called.lower().split())
    for use in USES:
        if name == use:
            return use
    if name not in CALLED:
        raise NotAsked(f"room: “{called[:40]}” is none of: {', '.join(USES)}")
    return CALLED[name]


def least_outlets(length: float, reach: float) -> int:
    """How many outlets a wall of that length wants at least, when none of it may be farther than ``reach``
    from one, mm.
    """
    return math.ceil((length - TOLERANCE) / (2 * reach)) if length > TOLERANCE else 0
