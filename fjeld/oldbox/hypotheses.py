"""Every way that the cables of a box can be what they are, given what is joined and what lands on what.

Nothing is looked up: a joint carries one thing of one circuit, a contact joins line to switched
line, a three-way switch its common to travellers, a load joins line or switched line to neutral;
what is taken on must have been brought, and a neutral belongs to the circuit that it goes with.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from itertools import product

import msgspec
from msgspec.structs import replace

from fjeld.drawing.old_box import Device
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.alike import Alike, nothing_alike
from fjeld.oldbox.beyond import Beyond, Role, beyonds
from fjeld.oldbox.choice import Choice, cable_order
from fjeld.oldbox.found import MOST_CABLES, BoxNets, FoundBox
from fjeld.practice.devices import device as kind_of
from fjeld.practice.devices import screws_of

#: More choices of what the cables are than these are not gone through: it would be guessing, and slow.
MOST_LOOKED_AT = 20_000
#: The two sides of a four-way switch, and every terminal that a traveller ends on.
_PAIRS = (("a1", "a2"), ("b1", "b2"))
#: The two sides of what a device feeds, or passes on.
_LOADS = (
    ("hot", "neutral"),
    ("light", "neutral"),
    ("brass", "silver"),
    ("brass2", "silver2"),
    ("line", "line n"),
    ("load", "load n"),
    ("a", "n"),
)
_THROWS = ("t1", "t2", *_PAIRS[0], *_PAIRS[1])


class Hypothesis(msgspec.Struct, frozen=True):
    """What each cable is, in the order of the box's cables, and what each net then carries.

    ``circuit`` names the circuit of a net by the cable that brings it. ``times`` are the hypotheses that it
    stands for, itself among them: those that differ only in which of what is alike is which.
    """

    cables: tuple[Beyond, ...]
    carries: dict[int, str]
    circuit: dict[int, str]
    reversed: bool = False
    times: int = 1

    @property
    def roles(self) -> tuple[Role, ...]:
        """The role of each cable."""
        return tuple(b.role for b in self.cables)

    @property
    def circuits(self) -> list[str]:
        """The circuits that are in the box, the first the one of the first cable that brings one."""
        return sorted({c for n, c in self.circuit.items() if self.carries.get(n) in ("l", "s")})


def hypotheses(
    box: FoundBox,
    nets: BoxNets,
    rings: bool,
    same: Alike | None = None,
    given: Mapping[str, Beyond] | None = None,
) -> list[Hypothesis]:
    """Every hypothesis that the box as found allows; of those that differ only in which of what is the
    ``same`` is which, the first. ``rings`` where circuits may come back to where they began; ``given`` what
    some cables are.

    The time is that of the roles that no net forbids, cable after cable: with nothing alike some six to the
    power of the cables of three conductors, with all of them alike what that has of combinations.
    """
    found = list(_each(box, nets, rings, same=same or nothing_alike(box, nets), given=given or {}))
    if not any(d.lands for d in box.devices) or any(r != "DEAD" for h in found for r in h.roles):
        return found
    # That all of it is dead is always possible: where it is all that is, the record cannot be as it is.
    others = _each(box, nets, rings, same=nothing_alike(box, nets), given={}) if given else iter(())
    return found if any(r != "DEAD" for h in others for r in h.roles) else []


def _each(
    box: FoundBox, nets: BoxNets, rings: bool, same: Alike, given: Mapping[str, Beyond]
) -> Iterator[Hypothesis]:
    """The hypotheses, one after another."""
    if len(box.cables) > MOST_CABLES:
        raise NotAsked(
            f"{len(box.cables)} cables are more than can be told apart at once, {MOST_CABLES} at most: "
            "leave out those of a bundle whose circuit is known, all but the one that you want"
        )
    at, options = _options(box, nets, rings, given)
    short, may = _short_wires(box, nets), _may(box, nets)
    within = [dict(zip(short, letters, strict=True)) for letters in product(*(may[n] for n in short))]
    for looked_at, chosen in enumerate(Choice(box, nets, at, options, same).all()):
        if looked_at == MOST_LOOKED_AT:
            raise NotAsked(
                "what is recorded leaves more ways to wire this box than can be told apart at once: record"
                " what each conductor is joined to, or leave out cables whose circuit is known"
            )
        for turned, carried in product((False, True), within):
            made = _Reasoned(box, nets, at=at, cables=chosen, within=carried, turned=turned).made()
            if made is not None:
                yield replace(made, times=same.times(chosen))


def _options(
    box: FoundBox, nets: BoxNets, rings: bool, given: Mapping[str, Beyond]
) -> tuple[list[list[int]], list[list[Beyond]]]:
    """The nets of each cable's conductors, and what the cable can be by the terminals that those stand on."""
    at = [[nets.of[name] for name in cable.insulated] for cable in box.cables]
    may = _may(box, nets)
    rings = rings and box.place in ("outlet", "junction")
    return at, [
        [
            b
            for b in beyonds(len(places), rings)
            if given.get(cable.id, b) == b
            and all(may.get(n, way[0]).find(way[0]) >= 0 for n, way in zip(places, b.carries, strict=True))
        ]
        for cable, places in zip(box.cables, at, strict=True)
    ]


def in_order(box: FoundBox, nets: BoxNets, rings: bool, found: Iterable[Hypothesis]) -> list[Hypothesis]:
    """Hypotheses in the order in which they would be found, were nothing alike."""
    at, options = _options(box, nets, rings, {})
    order, short = cable_order(at, options), _short_wires(box, nets)

    def place(h: Hypothesis) -> tuple[object, ...]:
        letters = [h.carries[n] for n in short]
        return [options[n].index(h.cables[n]) for n in order], h.reversed, letters

    return sorted(found, key=place)


def image(box: FoundBox, nets: BoxNets, of: Hypothesis, cables: tuple[Beyond, ...], times: int) -> Hypothesis:
    """A hypothesis that another stands for, in which the cables are these."""
    at = [[nets.of[name] for name in cable.insulated] for cable in box.cables]
    carried = {n: of.carries[n] for n in _short_wires(box, nets)}
    made = _Reasoned(box, nets, at=at, cables=cables, within=carried, turned=of.reversed).made()
    assert made is not None, "what is alike is possible alike"
    return replace(made, times=times)


def _short_wires(box: FoundBox, nets: BoxNets) -> list[int]:
    """The nets of wires that stay in the box, from one device to another: no cable tells what they carry."""
    on: dict[int, set[str]] = defaultdict(set)
    for device in box.devices:
        for terminal in screws_of(device.kind):
            on[nets.of[device.at(terminal)]].add(device.id)
    return [net for net, devices in on.items() if len(devices) > 1 and not nets.ends[net]]


def _may(box: FoundBox, nets: BoxNets) -> dict[int, str]:
    """What each net may carry by the terminals it stands on."""
    may: dict[int, str] = {}
    short = _short_wires(box, nets)
    for device in box.devices:
        for screw in kind_of(device.kind).screws:
            net = nets.of[device.at(screw.id)]
            if nets.ends[net] or net in short:
                may[net] = "".join(c for c in may.get(net, screw.may) if c in screw.may)
    return may


class _Reasoned:
    """One choice of roles, looked at as a whole: devices pass things on, circuits follow, and all
    must agree.
    """

    def __init__(
        self,
        box: FoundBox,
        nets: BoxNets,
        at: list[list[int]],
        cables: tuple[Beyond, ...],
        within: dict[int, str],
        turned: bool,
    ) -> None:
        self.box, self.nets, self.at, self.cables, self.turned = box, nets, at, cables, turned
        self.carries: dict[int, str] = {**within}
        self.ways: dict[int, list[str]] = defaultdict(list)
        self.circuit: dict[int, str] = {}
        self.neutral_of: dict[int, str] = {}
        self.by_device: dict[int, int] = defaultdict(int)
        self.passes_through = False
        for cable, places, beyond in zip(box.cables, at, cables, strict=True):
            for k, (net, way) in enumerate(zip(places, beyond.carries, strict=True)):
                self.carries[net] = way[0]
                self.ways[net].append(way)
                self._bring(cable.id, net, k, beyond)
        rings = [c.id for c, b in zip(box.cables, cables, strict=True) if b.role == "RING"]
        self.same = {ring: rings[0] for ring in rings}
        self.roles = tuple(b.role for b in cables)

    def _bring(self, cable: str, net: int, k: int, beyond: Beyond) -> None:
        """The circuit of what a cable brings. What comes back to where its line went out from is
        not its own.
        """
        way = beyond.carries[k]
        comes_back = way in ("s<", "t<") and bool(beyond.takes("l") or beyond.takes("t"))
        if way in ("l<", "s<", "t<") and not comes_back:
            second = beyond.role == "TWO" and way == "l<" and beyond.brings("l").index(k) == 1
            self.circuit.setdefault(net, f"{cable}b" if second else cable)
        elif way == "n<":
            self.neutral_of.setdefault(net, cable)

    def made(self) -> Hypothesis | None:
        """The hypothesis, or nothing where it cannot be."""
        if not all(self._device(device) for device in self.box.devices):
            return None
        if self.turned and not self.passes_through:
            return None
        for _ in range(2):
            self._follow()
        if not self._tied():
            return None
        if not (self._brought() and self._parted() and self._agree() and self._rings()):
            return None
        return Hypothesis(self.cables, self.carries, self.circuit, self.turned)

    # --- devices --------------------------------------------------------------------

    def _on(self, device: Device, terminal: str) -> tuple[int, str]:
        """The net on a terminal, and what it carries; nothing where no conductor is on it."""
        net = self.nets.of.get(device.at(terminal), -1)
        return net, self.carries.get(net, "")

    def _device(self, device: Device) -> bool:
        match device.kind:
            case "switch":
                return self._contact(device)
            case "three-way":
                return self._three_way(device)
            case "four-way":
                return self._four_way(device)
            case "protective" | "fused unit":
                return self._through(device)
            case "alarm":
                # What lands on its link is the link, unless nothing comes here at all.
                on_hot, on_link = self._on(device, "hot")[1], self._on(device, "link")[1]
                return not on_link or (on_hot == "x") == (on_link == "x")
        return True

    def _contact(self, device: Device) -> bool:
        (a, on_a), (b, on_b) = self._on(device, "a"), self._on(device, "b")
        if not on_a or not on_b or (on_a, on_b) == ("x", "x"):
            return True
        if {on_a, on_b} != {"l", "s"}:
            return False
        line, switched = (a, b) if on_a == "l" else (b, a)
        self.by_device[switched] += 1
        self._passes(line, switched)
        return True

    def _three_way(self, device: Device) -> bool:
        common, on_common = self._on(device, "common")
        throws = [self._on(device, t) for t in ("t1", "t2")]
        on_throws = sorted(what for _, what in throws)
        if not on_common or not all(on_throws):
            return True
        if on_common in "xc":
            if on_throws != (["x", "x"] if on_common == "x" else ["l", "s"]):
                return False
            if on_common == "c":
                line, switched = (net for net, _ in sorted(throws, key=lambda on: on[1]))
                self.by_device[switched] += 1
                self._passes(line, switched)
            return True
        return on_throws == ["t", "t"] and self._travels(common, on_common == "l", [net for net, _ in throws])

    def _travels(self, common: int, out: bool, throws: list[int]) -> bool:
        """A line on the common goes out on both travellers; what comes in on them is switched to it."""
        if any(way != ("t>" if out else "t<") for net in throws for way in self.ways[net]):
            return False
        if out:
            for net in throws:
                self._passes(common, net)
        else:
            self.by_device[common] += 1
            self._passes(throws[0], common)
        return True

    def _four_way(self, device: Device) -> bool:
        pairs = [{w for t in pair for w in self._toward(device, t)} for pair in _PAIRS]
        if not all(pairs):
            return True
        if pairs in ([{"t<"}, {"t>"}], [{"t>"}, {"t<"}]):
            given, taken = ("a1", "b1") if pairs[0] == {"t<"} else ("b1", "a1")
            for end in (taken, taken[0] + "2"):
                self._passes(self._on(device, given)[0], self._on(device, end)[0])
            return True
        return pairs == [{"x-"}, {"x-"}]

    def _toward(self, device: Device, terminal: str, seen: frozenset[str] = frozenset()) -> list[str]:
        """Which way the traveller on a terminal goes, as seen from the device: in and out of a cable, or by a
        short wire.
        """
        net = self._on(device, terminal)[0]
        if net not in self.carries or self.nets.ends[net]:
            return self.ways.get(net, [])
        others = [(d, t) for d, t in self._throws_on(net) if (d.id, t) != (device.id, terminal)]
        gives = [self._gives(d, t, seen | {device.id}) for d, t in others]
        return [] if None in gives else ["t<" if g else "t>" for g in gives]

    def _throws_on(self, net: int) -> list[tuple[Device, str]]:
        return [(d, t) for d in self.box.devices for t in _THROWS if self.nets.of.get(d.at(t)) == net]

    def _gives(self, device: Device, terminal: str, seen: frozenset[str] = frozenset()) -> bool | None:
        """Whether a switch gives to the traveller on a terminal, or takes from it; nothing where that is not
        told.
        """
        if device.kind == "three-way":
            return {"l": True, "s": False}.get(self._on(device, "common")[1])
        if device.id in seen:
            # Round in a circle of switches nothing is given.
            return None
        across = next(pair for pair in _PAIRS if terminal not in pair)
        come = {w for t in across for w in self._toward(device, t, seen)}
        return True if come == {"t<"} else False if come == {"t>"} else None

    def _through(self, device: Device) -> bool:
        """One side is brought, and brings the other; ``turned`` where it is fed at its load side."""
        given, taken = ("load", "line") if self.turned else ("line", "load")
        (a, on_a), (b, on_b) = self._on(device, given), self._on(device, taken)
        if on_a and on_b:
            self.passes_through = True
            if (on_a, on_b) == ("x", "x"):
                return not self.turned
            if not any(way == "l<" for way in self.ways[a]):
                return False
            self.by_device[b] += 1
            neutral, onward = self._on(device, f"{given} n")[0], self._on(device, f"{taken} n")[0]
            self.by_device[onward] += 1
            self._passes(a, b)
            if neutral in self.neutral_of:
                self.neutral_of.setdefault(onward, self.neutral_of[neutral])
        return True

    def _passes(self, given: int, taken: int) -> None:
        if given in self.circuit:
            self.circuit.setdefault(taken, self.circuit[given])

    # --- the whole -------------------------------------------------------------------

    def _follow(self) -> None:
        """What comes back from beyond a cable is of the circuit that went out in it."""
        for places, beyond in zip(self.at, self.cables, strict=True):
            out = [n for n, way in zip(places, beyond.carries, strict=True) if way in ("l>", "t>")]
            for net, way in zip(places, beyond.carries, strict=True):
                if way in ("s<", "t<") and out and out[0] in self.circuit:
                    self.circuit.setdefault(net, self.circuit[out[0]])
        for device in self.box.devices:
            self.by_device, kept = defaultdict(int), self.by_device
            self._device(device)
            self.by_device = kept

    def _tied(self) -> bool:
        """What ties two switches is of the line that they have: of one, however many cables tie it. What
        something else brings is of that.
        """
        of: dict[int, str | None] = {}
        for places, beyond in zip(self.at, self.cables, strict=True):
            for net, way in zip(places, beyond.carries, strict=True):
                if way == "s-":
                    line = self.circuit.get(self._line_of(places, beyond))
                    if of.setdefault(net, line) != line:
                        return False
        for net, line in of.items():
            if line is not None:
                self.circuit.setdefault(net, line)
        self._follow()
        return True

    @staticmethod
    def _line_of(places: list[int], beyond: Beyond) -> int:
        """The net of a cable's line, whichever way it goes."""
        return next((n for n, way in zip(places, beyond.carries, strict=True) if way[0] == "l"), -1)

    def _brought(self) -> bool:
        for net, what in self.carries.items():
            ways = self.ways[net]
            given = sum(1 for way in ways if way[1:] == "<")
            if what in ("l", "s", "n"):
                if what == "l" and ways and all(way == "l-" for way in ways):
                    return False
                brought = (min(given, 1) if what != "s" else given) + self.by_device[net]
                if brought != 1 and not (brought == 0 and "s-" in ways):
                    return False
            elif what == "t" and not self._two_ends(net, ways):
                return False
        return True

    def _two_ends(self, net: int, ways: list[str]) -> bool:
        on = self._throws_on(net)
        throws = len(on)
        if not ways:
            # A short wire from one switch to the next: one gives, the other takes.
            return sorted(str(self._gives(d, t)) for d, t in on) == ["False", "True"]
        if len(ways) == 2:
            return not throws and sorted(ways) == ["t<", "t>"]
        return len(ways) == 1 and throws == 1

    def _parted(self) -> bool:
        """Travellers of one cable go to one switch, or on to one cable."""
        for places, beyond in zip(self.at, self.cables, strict=True):
            apart = [n for n, way in zip(places, beyond.carries, strict=True) if way[0] in "ts"]
            if len({*apart}) < len(apart):
                return False
        return True

    def _rings(self) -> bool:
        """What hangs on a ring is a spur, and a ring has two ends here; one only where it is broken."""
        roles = self.roles
        if not {"RING", "SPUR"} & {*roles}:
            return True
        inward = [b.role for b in self.cables if b.inward]
        if inward not in (["RING", "RING"], ["SPUR"]) and not (inward == ["RING"] and len(roles) == 1):
            return False
        return not {"FEED", "ON"} & {*roles}

    def _agree(self) -> bool:
        """Whether each load, and each cable that takes something on, has line and neutral of one circuit."""
        cables = zip(self.at, self.cables, strict=True)
        return all(self._goes_on(*cable) for cable in cables) and all(map(self._fed, self.box.devices))

    def _goes_on(self, places: list[int], beyond: Beyond) -> bool:
        """Whether what a cable takes on is of one circuit, and what goes back is of the line that came."""
        of: dict[str, list[int]] = defaultdict(list)
        for net, way in zip(places, beyond.carries, strict=True):
            of[way].append(net)
        live = (*of["l>"], *of["s>"], *of["t>"])
        if not all(self._of_one(a, b) for a in live for b in of["n>"]):
            return False
        came = sorted((*of["l<"], *of["t<"]), key=places.index)
        if not came or beyond.role not in ("LOOP", "LOOPN", "TRAV"):
            return True
        return all(self._same_circuit(net, came[0]) for net in of["s>"])

    def _fed(self, device: Device) -> bool:
        """Whether each load of a device has line and neutral of one circuit, or nothing at both."""
        for hot, neutral in _LOADS:
            (a, on_a), (b, on_b) = self._on(device, hot), self._on(device, neutral)
            if not on_a or not on_b:
                continue
            if (on_a == "x") != (on_b == "x") or (on_a != "x" and not self._of_one(a, b)):
                return False
        return True

    def _of_one(self, live: int, neutral: int) -> bool:
        circuit, brings = self.circuit.get(live), self.neutral_of.get(neutral)
        if circuit is None or brings is None:
            return circuit is None and brings is None
        return self.same.get(circuit.removesuffix("b"), circuit.removesuffix("b")) == self.same.get(
            brings, brings
        )

    def _same_circuit(self, a: int, b: int) -> bool:
        return self.circuit.get(a) == self.circuit.get(b)
