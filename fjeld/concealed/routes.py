"""Which ways lead from an old box to a new place: every chain of ways through what stands open or can be
opened.

The places that a cable can pass are few: the two boxes, over and under each of them, behind the new one,
and the corner where its wall meets its ceiling. Each way joins two of them where what is known of the
room allows it; all chains without a place twice are tried. What nobody has looked at yet leaves a way
in, with the look that settles it; what was looked at and stands in the way takes it out, with its reason.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from fjeld.concealed.ground import Ground
from fjeld.concealed.plates import measured
from fjeld.drawing.errand import Seen, length_of
from fjeld.practice import Practice, rules
from fjeld.practice.finished import minutes
from fjeld.practice.finished.spots import MASONRY
from fjeld.practice.finished.ways import Blocker, WayKind, way_data
from fjeld.quantities import Length, Line, Working, format_length

#: A place that a cable passes.
Node = str
SOURCE, SPOT, BEHIND, CORNER = "source", "spot", "behind the spot", "corner"
OVER, UNDER = ("over the source", "over the spot"), ("under the source", "under the spot")
#: How the new place can lie to the old box, by whether either is in a ceiling.
ON_WALLS = {
    "same bay": "In the same bay",
    "other side": "On the other side of this wall",
    "same wall": "On the same wall, other bays",
    "another storey": "On another storey",
    "elsewhere": "Elsewhere",
}
ON_CEILINGS = {
    "along the joists": "Along the joists, in one bay",
    "across the joists": "Across the joists",
    "another storey": "On another storey",
    "elsewhere": "Elsewhere",
}
#: Measures of a wall that tell what stands in the way, so that nobody needs to look.
MEASURED = {"sounding", "eave"}


class ConcealedLeg(msgspec.Struct, frozen=True):
    """A way between two places, ``count`` members crossed where it counts them; ``length`` in mm where every
    measure of it is known.

    ``wants`` are facts that nobody has told and that it stands on; ``looks`` are what can block it and was
    not looked for, ``measured`` what a measure tells of it.
    """

    way: WayKind
    a: Node
    b: Node
    counts: str = ""
    count: int | None = None
    length: float | None = None
    lacks: tuple[str, ...] = ()
    wants: tuple[str, ...] = ()
    looks: tuple[str, ...] = ()
    measured: dict[str, Seen] = {}
    blocked: str = ""


class ConcealedRoute(msgspec.Struct, frozen=True):
    """A chain of ``legs`` from the source to the spot, each taken the way it is met; ``minutes`` of practised
    hands, at least where a count is not known.

    It takes two pairs of ``hands`` where feeding and catching are apart, or where a blind leg is long.
    """

    legs: tuple[ConcealedLeg, ...]
    minutes: Working
    at_least: bool
    hands: int

    @property
    def key(self) -> tuple[str, ...]:
        """Its ways in their order."""
        return tuple(leg.way.id for leg in self.made)

    @property
    def made(self) -> tuple[ConcealedLeg, ...]:
        """Its legs without those where a box stands open to a void."""
        return tuple(leg for leg in self.legs if leg.way.id)

    @property
    def name(self) -> str:
        """Its ways in words, in their order; one that is made at both ends is said once."""
        names = [leg.way.name[:1].lower() + leg.way.name[1:] for leg in self.made]
        return ", then ".join(f"{n} (twice)" if names.count(n) > 1 else n for n in dict.fromkeys(names))

    @property
    def wants(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(w for leg in self.legs for w in leg.wants))

    @property
    def looks(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(look for leg in self.legs for look in leg.looks))

    @property
    def blocked(self) -> str:
        return next((leg.blocked for leg in self.legs if leg.blocked), "")

    @property
    def lacks(self) -> tuple[str, ...]:
        """Measures that its length still wants."""
        return tuple(dict.fromkeys(name for leg in self.legs for name in leg.lacks))

    @property
    def holes(self) -> int:
        return sum(leg.way.holes + leg.way.each_hole * (leg.count or 0) for leg in self.legs)

    @property
    def steel(self) -> int:
        """Steel plates over notches."""
        return sum(leg.way.each_plate * (leg.count or 0) for leg in self.legs)

    @property
    def patches(self) -> int:
        return sum(leg.way.patches for leg in self.legs)

    @property
    def fills(self) -> int:
        """Holes between storeys or voids that are filled again."""
        return sum(leg.way.fills for leg in self.legs)

    @property
    def blind(self) -> int:
        return sum(leg.way.blind for leg in self.legs)

    @property
    def lengths(self) -> tuple[Length, ...] | None:
        """Its legs in mm, where all are known."""
        found = [leg.length for leg in self.legs]
        return tuple(Length(v) for v in found if v is not None) if None not in found else None


class RefusedWay(msgspec.Struct, frozen=True):
    """A way that does not come into question here, and why."""

    way: WayKind
    why: str


def routes(ground: Ground) -> tuple[ConcealedRoute, ...]:
    """Every chain of ways: those that nothing blocks first, hidden before what stays in sight, what is known
    before what is not, then by minutes, patches and holes.
    """
    legs = [*_from_outside(ground), *_within(ground), *_surface(ground), *_last(ground)]
    found = [_route(tuple(chain), ground.practice) for chain in _chains(legs, SOURCE, (SOURCE,))]
    return tuple(sorted(found, key=_rank))


def _rank(route: ConcealedRoute) -> tuple[bool, bool, bool, float, int, int, tuple[str, ...]]:
    in_sight = any(leg.way.in_sight for leg in route.legs)
    return (
        bool(route.blocked),
        in_sight,
        bool(route.wants),
        route.minutes.total,
        route.patches,
        route.holes,
        route.key,
    )


def refused(ground: Ground, found: tuple[ConcealedRoute, ...]) -> tuple[RefusedWay, ...]:
    """The ways that no route takes, each with its reason."""
    used = {id_ for route in found for id_ in route.key}
    return tuple(RefusedWay(way, _why_not(way.id, ground)) for way in way_data().way if way.id not in used)


def _chains(legs: list[ConcealedLeg], at: Node, been: tuple[Node, ...]) -> Iterator[list[ConcealedLeg]]:
    for leg in legs:
        there = leg.b if leg.a == at else leg.a if leg.b == at else ""
        if not there or there in been:
            continue
        if there == SPOT:
            yield [leg]
            continue
        yield from ([leg, *rest] for rest in _chains(legs, there, (*been, there)))


def _route(chain: tuple[ConcealedLeg, ...], practice: Practice) -> ConcealedRoute:
    known = minutes().steps
    mine = [leg for leg in chain if leg.way.id]
    lines = [
        Line(1.0, known[leg.way.id].minutes + known[leg.way.id].each * (leg.count or 0), leg.way.name)
        for leg in mine
    ]
    long = any(leg.way.blind and (leg.length or 0.0) > practice[rules.LONG_BLIND] for leg in chain)
    return ConcealedRoute(
        chain,
        Working("Minutes", "min", tuple(lines)),
        any(leg.counts and leg.count is None for leg in mine),
        max([2 if long else 1, *(leg.way.hands for leg in chain)]),
    )


#: A box that is reached from a void: nothing is made.
_OPEN = WayKind("", "", "")


def _leg(
    id_: str,
    a: Node,
    b: Node,
    ground: Ground,
    lines: tuple[tuple[str, float | None], ...],
    counts: str = "",
    wants: tuple[str, ...] = (),
) -> ConcealedLeg:
    """A leg whose length is the sum of named measures."""
    way, told = way_data().kind(id_), ground.errand.way
    known = _by_measure(way, {a, b}, ground)
    seen = told.seen | known
    values = [value for _, value in lines if value is not None]
    lacks = tuple(name for name, value in lines if value is None)
    count = _count(way, ground, counts) if counts else None
    bare = {"insulation"} if told.insulated is False else set()
    there = next((b for b in way.blockers if "there" in (seen.get(b), told.seen.get(b))), "")
    missing = (counts,) if counts in ("studs", "joists") and count is None else ()
    return ConcealedLeg(
        way=way,
        a=a,
        b=b,
        counts=counts,
        count=count,
        length=None if lacks else sum(values),
        lacks=lacks,
        wants=(*wants, *missing),
        looks=tuple(b for b in way.blockers if b not in {*seen, *bare}),
        measured=known,
        blocked=f"{blocker(there).words}" if there else "",
    )


def _by_measure(way: WayKind, nodes: set[Node], ground: Ground) -> dict[str, Seen]:
    """What was measured of the wall that a leg goes through, where it is measured: whether it blocks it."""
    if not {*way.measures} & MEASURED:
        return {}
    end = 1 if nodes & {OVER[1], UNDER[1]} else 0
    return measured(ground, end, below=bool(nodes & {*UNDER}))


def _count(way: WayKind, ground: Ground, counts: str) -> int | None:
    """How many of what its minutes go by there are: of a length, by what one of it is."""
    if per := minutes().steps[way.id].per:
        across = length_of(ground.errand.way.across)
        return None if across is None else round(across / per)
    found: int | None = getattr(ground.errand.way, counts)
    return found


def blocker(id_: str) -> Blocker:
    """A blocker by id; raises ``KeyError``."""
    return {b.id: b for b in way_data().blocker}[id_]


def _level(ground: Ground, end: int) -> tuple[str, float | None]:
    """How high an end is, under the name of what tells it: a box in a ceiling is as high as that."""
    if ground.on_wall[end]:
        return ("source", "height")[end], ground.heights[end]
    return "ceiling", length_of(ground.errand.way.ceiling)


def _drop(ground: Ground) -> tuple[tuple[str, float | None], ...]:
    """How much higher the one end is than the other."""
    if ground.ceilings:
        return ()
    levels = [_level(ground, end) for end in (0, 1)]
    if missing := [(name, None) for name, value in levels if value is None]:
        return tuple(missing)
    return (("", abs((levels[0][1] or 0.0) - (levels[1][1] or 0.0))),)


def _rise(ground: Ground, end: int, beyond: float) -> tuple[tuple[str, float | None], ...]:
    """From a box in a wall to its ceiling, and ``beyond``."""
    height, ceiling = ground.heights[end], length_of(ground.errand.way.ceiling)
    return (
        (("source", "height")[end], None if height is None else -height),
        ("ceiling", ceiling),
        ("", beyond),
    )


def _from_outside(ground: Ground) -> Iterator[ConcealedLeg]:
    """Ways that lead up into an attic or down into a cellar, and along there."""
    errand, told = ground.errand, ground.errand.way
    if told.lies == "another storey":
        return
    across = (("across", length_of(told.across)),)
    plates = length_of(told.plates)
    for end, node in enumerate((SOURCE, BEHIND)):
        if errand.attic and ground.on_wall[end]:
            beyond = ground.practice[rules.TOP_PLATES] if plates is None else plates
            yield _leg("P10" if told.insulated else "P1", node, OVER[end], ground, _rise(ground, end, beyond))
        elif errand.attic:
            yield ConcealedLeg(_OPEN, node, OVER[end], length=0.0)
        if errand.below and ground.on_wall[end]:
            height = ground.heights[end]
            lines = ((("source", "height")[end], height), ("", ground.practice[rules.FLOOR_PLATE]))
            yield _leg("P2", node, UNDER[end], ground, lines)
    if errand.attic:
        along = told.lies == "along the joists"
        yield _leg("P0" if along else "P8", *OVER, ground, across, "feet" if along else "joists")
    if errand.below and any(ground.on_wall):
        yield _leg("P0", *UNDER, ground, across, "feet")


def _within(ground: Ground) -> Iterator[ConcealedLeg]:
    """Ways through closed walls and ceilings."""
    if ground.walls:
        yield from _in_walls(ground)
    elif ground.ceilings:
        across = (("across", length_of(ground.errand.way.across)),)
        if (wants := ground.lies("along the joists")) is not None:
            yield _leg("P3", SOURCE, BEHIND, ground, across, wants=wants)
        if (wants := ground.lies("across the joists")) is not None:
            yield _leg("P9", SOURCE, b=BEHIND, ground=ground, lines=across, counts="joists", wants=wants)
    else:
        yield from _between_wall_and_ceiling(ground)
    if any(ground.on_wall) and (wants := ground.lies("another storey")) == ():
        yield _leg("P11", SOURCE, BEHIND, ground, (("pull", length_of(ground.errand.way.pull)),))


def _in_walls(ground: Ground) -> Iterator[ConcealedLeg]:
    """From one wall to another, or to the same: in its bay, through it, along it, behind its base."""
    told, heights = ground.errand.way, ground.heights
    across = ("across", length_of(told.across))
    if (wants := ground.lies("same bay")) is not None:
        yield _leg("P3", SOURCE, BEHIND, ground, (across, *_drop(ground)), wants=wants)
    if (wants := ground.lies("other side")) is not None:
        cavity = (("cavity", length_of(ground.errand.spot.cavity)),)
        yield _leg("P4", SOURCE, BEHIND, ground, cavity, wants=wants)
    if (wants := ground.lies("same wall")) is None:
        return
    lines = (across, *_drop(ground))
    yield _leg("P5", SOURCE, b=BEHIND, ground=ground, lines=lines, counts="studs", wants=wants)
    if rules.CABLE_ZONES not in ground.practice and told.base is not False:
        foot = (("source", heights[0]), across, ("height", heights[1]))
        wants = (*wants, "base") if told.base is None else wants
        yield _leg("P6", SOURCE, b=BEHIND, ground=ground, lines=foot, counts="studs", wants=wants)


def _between_wall_and_ceiling(ground: Ground) -> Iterator[ConcealedLeg]:
    """Up a wall and along the joists, or across them from the corner."""
    across = ("across", length_of(ground.errand.way.across))
    rise = _rise(ground, ground.on_wall.index(True), ground.practice[rules.TOP_PLATES])
    if (wants := ground.lies("along the joists")) is not None:
        yield _leg("P7", SOURCE, BEHIND, ground, (*rise, across), wants=wants)
    if (wants := ground.lies("across the joists")) is not None:
        ends, other = ((SOURCE, CORNER), (CORNER, BEHIND))[:: 1 if ground.on_wall[0] else -1]
        yield _leg("P7", *ends, ground, rise, wants=wants)
        yield _leg("P9", *other, ground, (across,), counts="joists", wants=wants)


def _surface(ground: Ground) -> Iterator[ConcealedLeg]:
    """Ways that stay in sight, or behind what stands before the wall."""
    told, across = ground.errand.way, (("across", length_of(ground.errand.way.across)), *_drop(ground))
    if told.seen.get("closet") == "there" and told.lies != "another storey":
        yield _leg("P12", SOURCE, BEHIND, ground, across)
    yield _leg("P13", SOURCE, b=SPOT, ground=ground, lines=across, counts="feet")


def _last(ground: Ground) -> Iterator[ConcealedLeg]:
    """From behind the new place into it."""
    if ground.errand.spot.covering == MASONRY:
        yield _leg("P14", BEHIND, SPOT, ground, (("", length_of(ground.errand.spot.thick) or 0.0),))
    else:
        yield ConcealedLeg(_OPEN, BEHIND, SPOT, length=0.0)


def _why_not(id_: str, ground: Ground) -> str:
    """Why a way does not come into question: the first that holds, else that the place does not lie so."""
    errand, told = ground.errand, ground.errand.way
    no_attic = not errand.attic, "no attic is open above"
    neither = bool(ground.ceilings), "neither is in a wall"
    reasons: dict[str, tuple[tuple[bool, str], ...]] = {
        "P0": (
            (not (errand.attic or errand.below), "no attic and no cellar is open"),
            (True, "what is open does not lead from the one to the other"),
        ),
        "P1": (no_attic, (bool(told.insulated), "the wall is insulated"), neither),
        "P2": ((not errand.below, "nothing is open below"), neither),
        "P5": ((not ground.walls, neither[1]),),
        "P6": (
            (rules.CABLE_ZONES in ground.practice, "along the foot of a wall is no zone for a hidden cable"),
            (told.base is False, "the base does not come off"),
        ),
        "P8": (no_attic, (told.lies == "along the joists", "along the joists nothing is crossed")),
        "P10": (no_attic, (True, "the wall is not known to be insulated")),
        "P11": ((any(ground.on_wall), "they are not said to be on two storeys"), (True, neither[1])),
        "P12": (
            (told.seen.get("closet") == "clear", "nothing stands along it that hides a cable"),
            (told.lies != "another storey", "nothing is said to stand along it that hides a cable"),
        ),
        "P14": ((True, "the surface is not brick or block"),),
        **dict.fromkeys(("P3", "P4", "P7", "P9"), ()),
    }
    holds = (words for so, words in reasons[id_] if so)
    return next(holds, "the new place does not lie so to the old box")


#: The rule that says how much wood a bit goes through.
_WOOD = {"plates": rules.TOP_PLATES, "floor": rules.FLOOR_PLATE}


def bits(route: ConcealedRoute, practice: Practice) -> dict[str, str]:
    """What a way is bored with: the ``bit`` as wide as a cable wants and, where it goes through wood, as
    ``long``; the ``pilot`` before it.
    """
    unit = practice.unit
    woods = [practice[_WOOD[leg.way.through]] for leg in route.made if leg.way.through]
    wide = format_length(practice[rules.FISHED_HOLE], unit)
    long = f", {format_length(max(woods) + practice[rules.BIT_BEYOND], unit)} long or more" if woods else ""
    pilot = practice[rules.PILOT_BIT]
    return {
        "bit": f"a {wide} bit{long}",
        "long": long,
        "pilot": f"a {format_length(pilot[0], unit)} bit, {format_length(pilot[1], unit)} long",
    }
