"""What rests on measures that nobody has taken: the readings that would settle where a thing is, and how
long.

A measure typed with a question mark is assumed meanwhile. What is worked out from it is worked
out from an assumption, and says so: a room by its walls, a box by its own marks and its room's,
a cable by the rooms that it passes through. A reading is a few words, as ``wall 2 of Pantry``.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Literal

import msgspec

from fjeld.derive.house import RoomShape
from fjeld.derive.memo import Remember
from fjeld.derive.routes import Route
from fjeld.drawing.building import Join, Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing, Standing
from fjeld.geometry import contains
from fjeld.quantities import Length

#: What a measure settles: where things are in plan, how high, or how the framing lies.
Side = Literal["flat", "up", "framing"]
_UP = frozenset({"height", "head", "sill", "high", "low", "floor", "step", "downrod", "body drop", "depth"})

#: A cable in a wall lies this far outside its room's figure at most, mm.
_WALL = 250.0


def measures(item: object) -> Iterator[tuple[str, Length]]:
    """The measures of a thing and of its parts, by name."""
    for field in getattr(item, "__struct_fields__", ()):
        value = getattr(item, field)
        if isinstance(value, Length):
            yield field.replace("_", " "), value
        elif isinstance(value, msgspec.Struct):
            yield from ((f"{field} {name}", v) for name, v in measures(value))


def open_measures(handle: Handle, item: object) -> tuple[tuple[str, Length], ...]:
    """What is still to be measured of one thing: words, and what is assumed."""
    named = handle
    found: list[tuple[str, Length]] = []
    if isinstance(item, Room):
        named = Handle(item.name)
        found += [
            (f"wall {n} of {item.name}", s.length) for n, s in enumerate(item.sides, 1) if s.length.unknown
        ]
    if isinstance(item, Join):
        named = Handle(f"{item.opening} in {item.room}")
    found += [(f"{name} of {named}", v) for name, v in measures(item) if v.unknown]
    return tuple(found)


def settles(words: str) -> Side:
    """What a measure of that name settles."""
    name = words.rpartition(" of ")[0].removeprefix("fitting ")
    if name.startswith(("studs", "joists", "floor joists")):
        return "framing"
    return "up" if name in _UP else "flat"


class Rests(msgspec.Struct, frozen=True):
    """The readings that things wait for: each its ``own``, and with them those of the ``room``
    that it is in.
    """

    own: dict[Handle, tuple[str, ...]] = {}
    room: dict[Handle, Handle] = {}

    def on(self, *handles: str, sides: tuple[Side, ...] = ("flat",)) -> tuple[str, ...]:
        """What these things, where they are, rest on; each reading once."""
        if not self.own:
            return ()
        found: dict[str, None] = {}
        for handle in map(Handle, handles):
            for each in (handle, self.room.get(handle, handle)):
                found.update(dict.fromkeys(w for w in self.own.get(each, ()) if settles(w) in sides))
        return tuple(found)


def rests(drawing: Drawing, remember: Remember) -> Rests:
    """All readings that a drawing waits for, by the thing that they are of."""
    own: dict[Handle, tuple[str, ...]] = {}
    for handle, item in drawing.items.items():
        found: tuple[tuple[str, Length], ...] = remember.same("open measures", open_measures, handle, item)
        if found:
            own[handle] = tuple(words for words, _ in found)
    if not own:
        return Rests()
    return Rests(own, {h: i.room for h, i in drawing.items.items() if isinstance(i, Standing)})


def of_way(
    known: Rests, ends: tuple[str, str], route: Route | None, rooms: Mapping[Handle, RoomShape]
) -> tuple[str, ...]:
    """What a cable's length rests on: its ends, and the rooms that it passes through."""
    if not known.own or route is None:
        return ()
    spots = [leg.at(leg.length / 2)[:2] for leg in route.legs]
    met = [h for h, where in rooms.items() if h in known.own and any(_near(where, spot) for spot in spots)]
    return known.on(*ends, *met, sides=("flat", "up", "framing"))


def _near(where: RoomShape, spot: tuple[float, float]) -> bool:
    return len(where.corners) > 2 and contains(where.corners, spot, _WALL)
