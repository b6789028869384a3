"""Every hypothesis of a box, weighed by what is usual and by the readings that were taken."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import groupby

import msgspec
from msgspec.structs import replace

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import EARTH, End
from fjeld.drawing.old_box import Device, OldCable
from fjeld.judge.volts import DEAD_BELOW
from fjeld.oldbox.alike import WHOLE, Alike, stays
from fjeld.oldbox.beyond import Beyond
from fjeld.oldbox.found import BoxNets, FoundBox, Reading, nets
from fjeld.oldbox.hypotheses import Hypothesis, hypotheses, image, in_order
from fjeld.oldbox.likely import likelihoods
from fjeld.oldbox.shows import Shows, shows
from fjeld.oldbox.taken import Held, explains, leans
from fjeld.oldbox.telling import alike
from fjeld.practice import Practice
from fjeld.practice.devices import screws_of
from fjeld.practice.finished.roles import role_data

#: More wirings than these are not looked at one by one.
MOST_APART = 1500
#: Readings that settle nothing by themselves.
LEANING = ("R10", "R14")


class One(msgspec.Struct, frozen=True):
    """One wiring that the readings leave, with what it shows and its share of all that they leave."""

    hypothesis: Hypothesis
    shows: Shows
    share: float


class Weighed(msgspec.Struct, frozen=True, dict=True):
    """A group of cables, and every hypothesis of it with what it shows, its share before and after the
    readings, and whether it explains them all; ``undoubted`` whether it explains those too that found nothing
    live and may have been taken with power off.

    Of hypotheses that differ only in which of what is ``same`` is which there is one, with the shares of all;
    what is asked of one cable or one net is asked of all that it may change places with.
    """

    box: FoundBox
    where: BoxNets
    same: Alike
    rings: bool
    found: tuple[Hypothesis, ...]
    shows: tuple[Shows, ...]
    before: tuple[float, ...]
    after: tuple[float, ...]
    explained: tuple[bool, ...]
    counted: tuple[Reading, ...] = ()
    undoubted: tuple[bool, ...] = ()

    @property
    def likely_at_first(self) -> bool:
        """Whether what is left was likely enough at first. What explains the readings and was next to
        impossible is no better than wiring that nobody thought of.
        """
        mine = self.standing
        if not all(self.undoubted[n] for n in mine):
            return False
        return sum(self.before[n] for n in mine) >= role_data().certainty.far_fetched

    @property
    def deciding(self) -> tuple[Reading, ...]:
        """The readings that can settle something: not a load in ohms, and not a tab."""
        return tuple(r for r in self.counted if r.id not in LEANING)

    @cached_property
    def standing(self) -> list[int]:
        """Those that explain every reading, without those too unlikely to stand in the way: each of them
        negligible, and all of them together no more than a part, for many that are small are not small.
        """
        explain = [n for n, e in enumerate(self.explained) if e]
        total, certainty = sum(self.before[n] for n in explain), role_data().certainty
        each = {n: round(self.before[n] / self.found[n].times, 14) for n in explain}
        dropped = 0.0
        for weight, of in groupby(sorted(explain, key=each.__getitem__), key=each.__getitem__):
            dropped += sum(self.before[n] for n in of)
            if weight >= certainty.negligible * total or dropped > certainty.negligible_together * total:
                return [n for n in explain if each[n] >= weight]
        return []

    @property
    def left(self) -> int:
        """How many wirings the readings leave."""
        return sum(self.found[n].times for n in self.standing)

    @property
    def likeliest(self) -> Hypothesis | None:
        """The likeliest wiring that the readings leave; none where they leave none."""
        best = max(self.standing, key=lambda k: self.after[k] / self.found[k].times, default=None)
        return None if best is None else self.found[best]

    # --- what a wiring says of a cable, of a net, of some nets together -----------------------------

    def roles(self, cable: int, k: int) -> list[Beyond]:
        """What a cable may be in a wiring and all that it stands for, each as likely."""
        return [self.found[k].cables[n] for n in self.same.like(cable)]

    def nets(self, net: int, k: int) -> Sequence[int]:
        """The nets of a wiring that a net may be, in all that it stands for."""
        return self.same.nets(net, self._still(k))

    def together(self, nets: Sequence[int], k: int) -> list[tuple[int, ...]]:
        """The nets of a wiring that some nets may be together, each as likely."""
        places = tuple(self.same.place(n) for n in nets)
        return [tuple(self.same.net(p) for p in found) for found in self.same.orbit(places, self._still(k))]

    def carried(self, net: int) -> set[str]:
        """What a net carries in the wirings that are left; nothing in one that says nothing of it."""
        return {self.found[k].carries.get(n, "") for k in self.standing for n in self.nets(net, k)}

    def circuits(self, net: int) -> set[str]:
        """The circuits that a net is of in the wirings that are left, each by the cable that brings it; two
        are given of any number.
        """
        names: set[str] = set()
        for k in self.standing:
            for n in self.nets(net, k):
                names |= self._named(self.found[k].circuit.get(n, ""), net, at=n, k=k)
            if len(names) > 1:
                break
        return names

    def _named(self, circuit: str, net: int, at: int, k: int) -> set[str]:
        """What a circuit of a net is called, where the net of a wiring is another one. What two ends of a
        ring bring together is called by the first.
        """
        ids = [c.id for c in self.box.cables]
        cable = circuit if circuit in ids else circuit.removesuffix("b")
        if cable not in ids:
            return {circuit}
        n = ids.index(cable)
        bring = self._bring_together(n, k) if self.found[k].roles[n] == "RING" else [n]
        places = (self.same.place(at), *((m, WHOLE) for m in bring))
        found = self.same.orbit(places, self._still(k))
        firsts = {min(c for c, _ in brought) for here, *brought in found if self.same.net(here) == net}
        return {ids[first] + circuit[len(cable) :] for first in firsts}

    def _bring_together(self, ring: int, k: int) -> list[int]:
        """The ends of a ring whose lines are joined to that of one."""
        h, at = self.found[k], self.same.at
        lines = {n: at[n][b.brings("l")[0]] for n, b in enumerate(h.cables) if b.role == "RING"}
        return [n for n, net in lines.items() if net == lines[ring]]

    def _still(self, k: int) -> frozenset[int]:
        return frozenset(n for n, b in enumerate(self.found[k].cables) if stays(b))

    def each(self, about: Sequence[int] = ()) -> list[One]:
        """Every wiring that is left by itself, in the order in which they are found. Where that were too
        many, those of one kind are told apart only as far as the cables of the nets ``about`` go.
        """
        apart = None if self.left <= MOST_APART else {self.same.place(n)[0] for n in about}
        total = sum(self.after[k] for k in self.standing) or 1.0
        share: dict[int, float] = {}
        found = []
        for k in self.standing:
            h = self.found[k]
            for cables, times in self.same.images(h.cables, apart):
                made = h if times == h.times else image(self.box, self.where, h, cables, times)
                share[id(made)] = self.after[k] * times / h.times / total
                found.append(made)
        ordered = in_order(self.box, self.where, self.rings, found)
        return [One(h, shows(self.box, self.where, h), share[id(h)]) for h in ordered]


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


def weigh_group(box: FoundBox, practice: Practice, same: Alike | None = None) -> Weighed:
    """Every hypothesis of a group of cables, weighed by what is usual and then by the readings that count.
    What is the ``same`` is found, unless it is given.
    """
    data, where = role_data(), nets(box)
    proven = [r for r in box.readings if r.proven and not r.figures and r.id not in OF_OTHERS]
    counted = [r for r in proven if tells(r)]
    same = same or alike(box, where, proven, practice.volts, practice.neutrals)
    found = hypotheses(box, where, practice.rings, same)
    held = [Held(box, where, practice.volts, h, shows(box, where, h)) for h in found]
    before = likelihoods(box, where, found, weights=data.weights, practice=practice, same=same)
    explained = tuple(explains(h, counted) for h in held)
    return Weighed(
        box=box,
        where=where,
        same=same,
        rings=practice.rings,
        found=tuple(found),
        shows=tuple(h.shows for h in held),
        before=tuple(before),
        after=_after(before, held, explained, counted),
        explained=explained,
        counted=tuple(counted),
        undoubted=tuple(counted == proven or explains(h, proven) for h in held),
    )


def _after(
    before: Sequence[float], held: Sequence[Held], explained: Sequence[bool], counted: Sequence[Reading]
) -> tuple[float, ...]:
    """The shares once readings were taken: a meter may be wrong, and a load that was seen leans."""
    certainty = role_data().certainty
    shares = [
        b * (1.0 if e else certainty.wrong_meter) * certainty.against_load ** leans(h, counted)
        for b, e, h in zip(before, explained, held, strict=True)
    ]
    total = sum(shares) or 1.0
    return tuple(share / total for share in shares)
