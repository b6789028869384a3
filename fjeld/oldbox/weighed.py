"""Every hypothesis of a box, weighed by what is usual and by the readings that were taken."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import msgspec
from msgspec.structs import replace

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import EARTH, End
from fjeld.drawing.old_box import Device, OldCable
from fjeld.judge.volts import DEAD_BELOW
from fjeld.oldbox.found import BoxNets, FoundBox, Reading, nets
from fjeld.oldbox.hypotheses import Hypothesis, hypotheses
from fjeld.oldbox.likely import likelihoods
from fjeld.oldbox.shows import Shows, shows
from fjeld.oldbox.taken import Held, explains, leans
from fjeld.practice import Practice
from fjeld.practice.devices import screws_of
from fjeld.practice.finished.roles import role_data

#: Readings that settle nothing by themselves.
LEANING = ("R10", "R14")


class Weighed(msgspec.Struct, frozen=True):
    """A group of cables, and every hypothesis of it with what it shows, its share before and after the
    readings, and whether it explains them all; ``undoubted`` whether it explains those too that found nothing
    live and may have been taken with power off.
    """

    box: FoundBox
    where: BoxNets
    found: tuple[Hypothesis, ...]
    shows: tuple[Shows, ...]
    before: tuple[float, ...]
    after: tuple[float, ...]
    explained: tuple[bool, ...]
    counted: tuple[Reading, ...] = ()
    undoubted: tuple[bool, ...] = ()

    def stands_for(self, what: Callable[[Hypothesis], bool]) -> bool:
        """Whether what is left of some kind was likely enough at first. What explains the readings and was
        next to impossible is no better than wiring that nobody thought of.
        """
        mine = [n for n in self.standing if what(self.found[n])]
        if not all(self.undoubted[n] for n in mine):
            return False
        left = sum(self.before[n] for n in mine)
        return left >= role_data().certainty.far_fetched

    @property
    def deciding(self) -> tuple[Reading, ...]:
        """The readings that can settle something: not a load in ohms, and not a tab."""
        return tuple(r for r in self.counted if r.id not in LEANING)

    @property
    def standing(self) -> list[int]:
        """Those that explain every reading, without those too unlikely to stand in the way."""
        explain = [n for n, e in enumerate(self.explained) if e]
        total = sum(self.before[n] for n in explain)
        least = role_data().certainty.negligible * total
        return [n for n in explain if self.before[n] >= least]


def groups(box: FoundBox) -> Iterator[FoundBox]:
    """A box in groups of cables that neither a joint nor a device brings together: each is inferred by
    itself.

    Readings go with the ends that they are of; what is between two groups tells of neither.
    """
    where = nets(box)
    parts: list[tuple[set[str], set[int]]] = []

    def add(name: str, met: set[int]) -> None:
        names, found = {name}, {*met}
        for part in [p for p in parts if p[1] & met]:
            names |= part[0]
            found |= part[1]
            parts.remove(part)
        parts.append((names, found))

    for cable in box.cables:
        add(f"cable {cable.id}", {where.of[n] for n in cable.insulated})
    for device in box.devices:
        add(f"device {device.id}", {where.of[device.at(t)] for t in screws_of(device.kind)})
    for names, _ in parts:
        cables = tuple(c for c in box.cables if f"cable {c.id}" in names)
        devices = tuple(d for d in box.devices if f"device {d.id}" in names)
        if cables:
            yield _part(box, cables, devices)


def _part(box: FoundBox, cables: tuple[OldCable, ...], devices: tuple[Device, ...]) -> FoundBox:
    ends = {e for c in cables for e in c.ends}
    ends |= {d.at(t) for d in devices for t in (*screws_of(d.kind), "g")}
    lands = tuple(replace(d, lands={t: n for t, n in d.lands.items() if t != "g"}) for d in devices)
    joints = tuple(j for joint in box.joints if (j := tuple(e for e in joint if e in ends)))
    return FoundBox(box.place, cables, joints, lands, tuple(_of(r, ends) for r in box.readings))


def _of(reading: Reading, ends: set[End]) -> Reading:
    """What a reading says of some ends."""
    here = ends | {EARTH}
    return replace(
        reading,
        to_earth={n: v for n, v in reading.to_earth.items() if n in ends},
        words={n: v for n, v in reading.words.items() if n in ends},
        between=tuple(b for b in reading.between if {b[0], b[1]} <= here),
        ohms=tuple(o for o in reading.ohms if {o[0], o[1]} <= here),
    )


#: Readings that look for what is live: finding nothing, they tell nothing of themselves.
LOOKS_FOR_LIVE = ("R4", "R8", "R17")


#: Readings taken with this circuit's breaker off: they tell of other circuits, and nothing of what its ends
#: carry.
OF_OTHERS = ("R6b",)


def tells(reading: Reading) -> bool:
    """Whether a reading tells anything of the wires: one that finds nothing live does once power is known to
    have been on and every switch that could matter was named.
    """
    if reading.id not in LOOKS_FOR_LIVE or not (reading.to_earth or reading.words):
        return True
    dead = all(v.open < DEAD_BELOW for v in reading.to_earth.values()) and {*reading.words.values()} <= {
        "never"
    }
    return not dead or (reading.power and reading.every_switch)


def weigh(box: FoundBox, practice: Practice, remember: Remember = always) -> tuple[Weighed, ...]:
    """Every hypothesis of a box, group by group, weighed."""
    version = practice.version
    return tuple(
        remember("old box", lambda group: weigh_group(group, practice), group, practice=version)
        for group in groups(box)
    )


def weigh_group(box: FoundBox, practice: Practice) -> Weighed:
    """Every hypothesis of a group of cables, weighed by what is usual and then by the readings that count."""
    data, where = role_data(), nets(box)
    proven = [r for r in box.readings if r.proven and not r.figures and r.id not in OF_OTHERS]
    counted, doubtful = [r for r in proven if tells(r)], [r for r in proven if not tells(r)]
    found = hypotheses(box, where, practice.rings)
    shown = [shows(box, where, h) for h in found]
    before = likelihoods(box, where, found, data.weights, practice)
    held = [Held(box, where, practice.volts, h, s) for h, s in zip(found, shown, strict=True)]
    explained = [explains(h, counted) for h in held]
    wrong, against = data.certainty.wrong_meter, data.certainty.against_load
    after = [
        b * (1.0 if e else wrong) * against ** leans(h, counted)
        for b, e, h in zip(before, explained, held, strict=True)
    ]
    total = sum(after) or 1.0
    return Weighed(
        box=box,
        where=where,
        found=tuple(found),
        shows=tuple(shown),
        before=tuple(before),
        after=tuple(a / total for a in after),
        explained=tuple(explained),
        counted=tuple(counted),
        undoubted=tuple(not doubtful or explains(h, [*counted, *doubtful]) for h in held),
    )
