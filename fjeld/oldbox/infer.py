"""What each cable of a box is, how sure that is, and which reading tells most for its minutes.

A role is *settled* only where proven readings have excluded everything else that the box allows;
what is usual, colours and landings make it *likely* at most. Where no hypothesis is left that
explains every proven reading, nothing is concluded: the record or a reading is wrong.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from itertools import chain
from typing import Literal

import msgspec

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import EARTH, End
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.beyond import Beyond
from fjeld.oldbox.following import Next, following
from fjeld.oldbox.found import FoundBox, Reading, nets
from fjeld.oldbox.showed import contradiction, notes
from fjeld.oldbox.weighed import Weighed, weigh
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data

Word = Literal["settled", "likely", "open", "contradictory"]


class CableIs(msgspec.Struct, frozen=True):
    """What a cable is: the share of each role, the likeliest first, with how sure that is."""

    id: str
    roles: dict[str, float]
    word: Word

    @property
    def role(self) -> str:
        """The likeliest role."""
        return next(iter(self.roles), "other")


class EndIs(msgspec.Struct, frozen=True):
    """What a net carries, how sure that is, and of which circuit (the cable that brings it)."""

    ends: tuple[End, ...]
    carries: str
    word: Word
    circuit: str = ""


class Inferred(msgspec.Struct, frozen=True):
    """What a box holds. ``notes`` explain what readings showed; ``contradiction`` is why all work stops;
    ``dangers`` are what is found to be wired so that it can hurt somebody as it is.
    """

    cables: tuple[CableIs, ...]
    nets: tuple[EndIs, ...]
    next: Next | None
    notes: tuple[str, ...] = ()
    contradiction: str = ""
    left: int = 0
    dangers: tuple[str, ...] = ()

    def carrying(self, what: str) -> list[EndIs]:
        """The nets that carry something, as far as one can say."""
        return [net for net in self.nets if net.carries == what]


def infer(box: FoundBox, practice: Practice, remember: Remember = always) -> Inferred:
    """What a box holds; raises :class:`NotAsked` where the record cannot be read."""
    _named(box)
    weighed = weigh(box, practice, remember)
    said = _said_first(box, weighed, practice)
    lost = next((w for w in weighed if w.found and not w.standing), None)
    if lost is not None:
        unsure = tuple(CableIs(c.id, {}, "contradictory") for c in box.cables)
        return Inferred(unsure, (), None, said, contradiction(lost.box, lost.counted, practice.volts))
    ends = tuple(chain.from_iterable(ends_of(w, practice.volts) for w in weighed))
    neutrals = [e.ends for e in ends if e.carries == "n" and e.word != "settled"]
    return Inferred(
        _cables(box, weighed),
        ends,
        following(weighed, neutrals),
        tuple(dict.fromkeys(said)),
        left=sum(w.left for w in weighed),
        dangers=tuple(chain.from_iterable(map(reversed_devices, weighed))),
    )


def _cables(box: FoundBox, weighed: Sequence[Weighed]) -> tuple[CableIs, ...]:
    """What each cable is, in the box's own order."""
    of = len(box.cables)
    by_id = {c.id: _cable(w, n, of) for w in weighed for n, c in enumerate(w.box.cables)}
    return tuple(by_id[c.id] for c in box.cables)


def _said_first(box: FoundBox, weighed: Sequence[Weighed], practice: Practice) -> tuple[str, ...]:
    """What is said of the readings, whatever comes of them."""
    unproven = (
        f"{r.id}: the tester was not proven before and after, so it is kept and not gone by"
        for r in box.readings
        if not r.proven
    )
    return (*unproven, *(note for w in weighed for note in notes(w, practice)))


def reversed_devices(weighed: Weighed) -> Sequence[str]:
    """A protective outlet that is fed at its LOAD side in every wiring that its readings leave."""
    if (
        not weighed.deciding
        or not weighed.standing
        or not all(weighed.found[k].reversed for k in weighed.standing)
    ):
        return ()
    return [
        f"{d.id} is fed at its LOAD side: its own face stays live when it has tripped, and what was meant to"
        " be protected by it is not"
        for d in weighed.box.devices
        if d.kind == "protective"
    ]


def _named(box: FoundBox) -> None:
    names = {*nets(box).of, EARTH}
    for reading in box.readings:
        for name in (
            *reading.to_earth,
            *reading.words,
            *(n for a, b, _ in (*reading.between, *reading.ohms) for n in (a, b)),
        ):
            if name not in names:
                raise NotAsked(f"{reading.id} is of “{name}”, which is not in this box")


def _cable(weighed: Weighed, n: int, of: int) -> CableIs:
    """What a cable of a group is; ``of`` is how many the whole box has."""
    data, box = role_data(), weighed.box
    shares: dict[str, float] = defaultdict(float)
    for k, share in enumerate(weighed.after):
        may = weighed.roles(n, k)
        for beyond in may:
            shares[_role(beyond)] += share / len(may)
    by_count = data.other.get(box.place, data.other["junction"])
    other = by_count[min(of, len(by_count)) - 1] if shares else 1.0
    other *= 0.1 ** len(weighed.deciding)
    settled = _settled(weighed, n)
    cap = 1.0 if settled else data.certainty.cap
    ordered = sorted(shares.items(), key=lambda e: -round(e[1], 9))
    roles = {r: p for r, share in ordered if (p := round(min(cap, share * (1 - other)), 4)) >= 0.0005}
    if other:
        roles["other"] = round(other, 4)
    top = max((s for r, s in roles.items() if r != "other"), default=0.0)
    word: Word = "settled" if settled else "likely" if top >= data.certainty.likely else "open"
    return CableIs(box.cables[n].id, roles, word)


def _settled(weighed: Weighed, n: int) -> bool:
    """Whether readings have excluded all that a cable may be but one. That nothing was live may be a breaker,
    or a joint upstream: it says nothing of what a cable is.
    """
    left = {_role(b) for k in weighed.standing for b in weighed.roles(n, k)}
    if not weighed.deciding or len(left) != 1 or left == {"DEAD"}:
        return False
    excluded = any(_role(b) not in left for k in range(len(weighed.found)) for b in weighed.roles(n, k))
    return excluded and weighed.likely_at_first


def _role(beyond: Beyond) -> str:
    """A cable's role: two lines of one leg are one feed, come twice."""
    return "FEED" if beyond.role == "TWO" and not beyond.legs else beyond.role


def ends_of(weighed: Weighed, volts: float) -> list[EndIs]:
    """What each net of a group carries, as far as its hypotheses agree."""
    where, counted = weighed.where, weighed.deciding
    found: list[EndIs] = []
    for n, ends in enumerate(where.ends):
        what = weighed.carried(n)
        if not ends or what in (set(), {""}):
            continue
        if len(what) > 1:
            found.append(EndIs(ends, "?", "open"))
            continue
        (kind,) = what
        circuits = weighed.circuits(n)
        circuit = circuits.pop() if len(circuits) == 1 else ""
        excluded = any(
            h.carries.get(m) != kind for k, h in enumerate(weighed.found) for m in weighed.nets(n, k)
        )
        sure = excluded and weighed.likely_at_first
        settled = bool(counted) and sure and (kind != "n" or _proven_neutral(ends, counted, volts))
        found.append(EndIs(ends, kind, "settled" if settled else "likely", circuit))
    return found


def _proven_neutral(ends: Sequence[str], counted: Sequence[Reading], volts: float) -> bool:
    """Whether a lamp burned bright between line and this joint while every other lamp was out."""
    return any(
        r.lamps_out
        and r.lamp == "bright"
        and {a, b} & {*ends}
        and v.shows(volts) == "hot"
        and v.loaded is not None
        for r in counted
        for a, b, v in r.between
    )
