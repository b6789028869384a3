"""Which ways there are between two places, as a single question."""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.concealed.path import path
from fjeld.concealed.routes import ConcealedRoute, blocker
from fjeld.drawing.errand import Errand, Lies, Seen, Spot, Way
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.judge.answer import Answer, Figure, NotAsked, Said, Tone
from fjeld.practice import Practice
from fjeld.practice.finished.spots import MASONRY
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import Length

#: So many alternatives are told.
MOST = 5
#: More members between two places than this are in no house.
MOST_BAYS = 200


class WaysAsked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """An old box and a new place, each in a wall or a ceiling; what stands open; how the one lies to the
    other.

    ``studs`` and ``joists`` are crossed, ``across`` is the level part; heights of both, and of the ceiling.
    ``there`` and ``clear`` name what was looked for, found or not found: a block, a duct …
    """

    source: Literal["wall", "ceiling"] = "wall"
    spot: Literal["wall", "ceiling"] = "wall"
    attic: bool = False
    below: bool = False
    lies: Lies = ""
    studs: int | None = None
    joists: int | None = None
    across: Length | None = None
    source_height: Length | None = None
    spot_height: Length | None = None
    ceiling: Length | None = None
    cavity: Length | None = None
    insulated: Literal["", "yes", "no"] = ""
    base: Literal["", "yes", "no"] = ""
    masonry: bool = False
    there: tuple[str, ...] = ()
    clear: tuple[str, ...] = ()


def ways(asked: WaysAsked, practice: Practice) -> Answer:
    """The best way with its price, its alternatives with theirs, and what blocks or refuses the rest."""
    known = [b.id for b in way_data().blocker] + ["closet"]
    if strange := [s for s in (*asked.there, *asked.clear) if s not in known]:
        raise NotAsked(f"“{strange[0]}” is nothing that is looked for; there is {', '.join(known)}")
    for name in ("studs", "joists"):
        if not 0 <= (getattr(asked, name) or 0) <= MOST_BAYS:
            raise NotAsked(f"so many {name} are in no house")
    seen: dict[str, Seen] = {**dict.fromkeys(asked.clear, "clear"), **dict.fromkeys(asked.there, "there")}
    spot = Spot(asked.spot, MASONRY if asked.masonry else "", height=asked.spot_height, cavity=asked.cavity)
    way = Way(
        lies=asked.lies,
        studs=asked.studs,
        joists=asked.joists,
        across=asked.across,
        source=asked.source_height,
        ceiling=asked.ceiling,
        insulated=_yes(asked.insulated),
        base=_yes(asked.base),
        seen=seen,
    )
    old = OldBox(Handle("R1"), place="ceiling" if asked.source == "ceiling" else "switch")
    found = path(Errand("outlet", asked.attic, asked.below, spot=spot, way=way), old, practice)
    best = found.chosen
    figures = [
        Figure("minutes", best.minutes.total, "minutes"),
        Figure("holes", float(best.holes), "count"),
        Figure("patches", float(best.patches), "count"),
        Figure("steel plates", float(best.steel), "count"),
        Figure("people", float(best.hands), "count"),
    ]
    if found.pull is not None:
        figures.append(Figure("cut", found.pull.figure("cut")))
    said = [_told(route, n == 0) for n, route in enumerate(found.routes[:MOST])]
    said += [Said("fails", f"{r.way.name}: {r.why}") for r in found.refused]
    return Answer(
        tuple(figures),
        tuple(said),
        (best.minutes, *(found.pull.workings if found.pull else ())),
        ("minutes",),
    )


def _yes(told: str) -> bool | None:
    return None if not told else told == "yes"


def _told(route: ConcealedRoute, first: bool) -> Said:
    """A way in a sentence: what it is, its price, what it waits for."""
    price = (
        f"{'from ' if route.at_least else ''}{route.minutes.total:g} min, {_many(route.holes, 'hole')},"
        f" {_many(route.patches, 'patch')}"
    )
    if route.blocked:
        return Said("fails", f"{route.name}: blocked by {route.blocked}")
    tone: Tone = "ask" if route.wants or route.looks else "passes" if first else "advice"
    looks = f"; look first for {', '.join(blocker(b).words for b in route.looks)}" if route.looks else ""
    wants = f"; not told: {', '.join(route.wants)}" if route.wants else ""
    return Said(tone, f"{route.name}: {price}{wants}{looks}")


def _many(n: int, what: str) -> str:
    return f"{n} {what}{'' if n == 1 else 'es' if what.endswith('ch') else 's'}"
