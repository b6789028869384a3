"""Each box made up: what lands where, what is joined with what connector, and which box holds it.

A net in a box is landed directly when one cable end meets one screw, joined otherwise,
and parked (capped and tagged) when nothing meets it. The box chosen is the least one
that passes with room for one more cable; failing that, one that passes without, then one
of more gangs, then the largest there is.
"""

from __future__ import annotations

from collections import defaultdict
from typing import Literal

import msgspec

from fjeld.derive.conductors import Conductor
from fjeld.derive.keys import GROUND, SPARE, DeviceKey, JointKey, Net, Role
from fjeld.derive.terminals import Terminal
from fjeld.drawing.handles import Handle, order
from fjeld.judge.fill import ConductorCount, Contents, Yoke, fill, with_reserve
from fjeld.practice import Practice
from fjeld.practice.devices import device
from fjeld.practice.parts import BoxKind, Catalogue, ConnectorKind
from fjeld.quantities import ROUNDING, Working, at_most

How = Literal["direct", "joint", "through", "parked"]
#: A fitting's own leads, for choosing the connector.
LEAD_AREA = 0.82


class Landing(msgspec.Struct, frozen=True):
    """A terminal in a joint: reached by a tail, or by the fitting's own lead.

    ``device`` is None for the bonding screw of a metal box itself.
    """

    device: DeviceKey | None
    terminal: str
    lead: bool


class Joint(msgspec.Struct, frozen=True):
    """All that one net does in one box. ``reason`` says why an end is parked."""

    key: JointKey
    net: Net
    how: How
    ends: tuple[str, ...]
    landings: tuple[Landing, ...]
    connectors: tuple[str, ...] = ()
    unlisted: bool = False
    reason: str = ""

    @property
    def words(self) -> str:
        return self.net.words


class BoxDevice(msgspec.Struct, frozen=True):
    """A device on the box: its key, what it is, and its yoke's gangs (0 for a fitting, or one that ``shares``
    another's yoke).
    """

    key: DeviceKey
    kind: str
    gangs: int = 1
    shares: bool = False


class Box(msgspec.Struct, frozen=True):
    """A made-up box. ``volume`` is the chosen kind's; ``needed`` and ``reserved`` are sums in in³."""

    handle: Handle
    kind: BoxKind
    pinned: bool
    ends: tuple[Conductor, ...]
    devices: tuple[BoxDevice, ...]
    joints: tuple[Joint, ...]
    needed: Working
    reserved: Working
    circuits: tuple[Handle, ...]

    @property
    def passes(self) -> bool:
        """Whether the contents fit the volume; exactly full passes."""
        return at_most(self.needed.total, self.kind.volume, ROUNDING)

    @property
    def has_reserve(self) -> bool:
        return at_most(self.reserved.total, self.kind.volume, ROUNDING)


class BoxInputs(msgspec.Struct, frozen=True):
    """What a box is made up from: conductors entering, terminals present, devices, and its choices.

    ``closed`` says that it is cut into a finished surface, ``carries`` whether a fan hangs from
    it or one could be hung there later, ``weight`` (kg) what hangs, as far as it is known.
    ``outdoors`` that it stands where rain comes.
    ``sharing`` are the circuits whose two lines share one neutral: it never goes through a device,
    or taking that out would part it.
    """

    handle: Handle
    shape: Literal["device", "ceiling"]
    conductors: tuple[tuple[Handle, Conductor], ...]
    terminals: tuple[tuple[Handle, Terminal], ...]
    links: tuple[tuple[Handle, Net, Net], ...]
    devices: tuple[BoxDevice, ...]
    pinned: str
    joining: str
    family: str
    closed: bool = False
    carries: Literal["", "fan", "fan-ready"] = ""
    weight: float = 0.0
    sharing: frozenset[Handle] = frozenset()
    outdoors: bool = False


def make_up(inputs: BoxInputs, practice: Practice) -> Box:
    """The box with its joints, its fill sum, and the kind of box that takes it."""
    gauges = [c.gauge for _, c in inputs.conductors if c.insulated]
    largest = max(
        gauges, key=lambda g: practice.catalogue.gauge(g).area, default=practice.catalogue.gauges[-1].id
    )
    kind = _choose(inputs, largest, practice)
    # What it holds is told of it as it is used: a socket takes the room of a cable.
    kind = msgspec.structs.replace(kind, volume=kind.holds(_socket(inputs)))
    joints = _joints(inputs, kind, practice.catalogue)
    contents = _contents(inputs, largest, kind, practice.catalogue)
    circuits = tuple(sorted({q for q, _ in inputs.conductors}, key=order))
    return Box(
        handle=inputs.handle,
        kind=kind,
        pinned=bool(inputs.pinned),
        ends=tuple(c for _, c in inputs.conductors),
        devices=inputs.devices,
        joints=joints,
        needed=fill(contents, practice),
        reserved=fill(with_reserve(contents, largest), practice),
        circuits=circuits,
    )


def _contents(inputs: BoxInputs, largest: str, kind: BoxKind, catalogue: Catalogue) -> Contents:
    by_gauge: dict[str, list[str]] = defaultdict(list)
    for _, conductor in inputs.conductors:
        if conductor.insulated:
            by_gauge[conductor.gauge].append(conductor.key)
    return Contents(
        conductors=tuple(ConductorCount(g, len(keys), tuple(keys)) for g, keys in by_gauge.items()),
        grounds=tuple(c.gauge for _, c in inputs.conductors if not c.insulated),
        yokes=tuple(
            Yoke(_gauge_at(inputs, d, largest, catalogue), d.gangs, str(d.key))
            for d in inputs.devices
            if d.gangs
        ),
        internal_clamps=kind.clamps,
        cables=len({c.bundle for _, c in inputs.conductors}),
    )


def _gauge_at(inputs: BoxInputs, device: BoxDevice, largest: str, catalogue: Catalogue) -> str:
    """The largest gauge here of the circuits on a device's yoke; the largest in the box while it
    is on none.
    """
    on_yoke = {device.key, *(d.key for d in inputs.devices if d.shares and device.key.box == inputs.handle)}
    circuits = {q for q, t in inputs.terminals if t.device in on_yoke}
    mine = [c.gauge for q, c in inputs.conductors if q in circuits and c.insulated]
    return max(mine, key=lambda g: catalogue.gauge(g).area, default=largest)


def _socket(inputs: BoxInputs) -> bool:
    """Whether a plug goes into what the box holds."""
    return any(device(d.kind).part.startswith("outlet") for d in inputs.devices)


def _can_be(box: BoxKind, inputs: BoxInputs, heaviest: float) -> bool:
    """Whether a box could stand here, its room inside not looked at; ``heaviest`` is what the strongest
    of the catalogue carries, kg: a fan heavier than that hangs from the wood, whichever box it is.
    """
    gangs = max(sum(d.gangs for d in inputs.devices), 1 if inputs.shape == "device" else 0)
    cables = len({c.bundle for _, c in inputs.conductors})
    stands = box.outdoor or box.surface in ("any", "finished" if inputs.closed else "open")
    carries = box.fan_kg > 0 or not inputs.carries
    if inputs.carries == "fan":
        carries = carries and box.fan_kg >= min(inputs.weight, heaviest)
    return stands and carries and box.gangs >= gangs and not (box.end_of_run_only and cables > 1)


def _choose(inputs: BoxInputs, largest: str, practice: Practice) -> BoxKind:
    catalogue = practice.catalogue
    if inputs.pinned and (pinned := catalogue.box(inputs.pinned)):
        return pinned
    heaviest = max(b.fan_kg for b in catalogue.boxes)
    shaped = [b for b in catalogue.boxes if b.shape == inputs.shape and b.outdoor == inputs.outdoors]
    fitting = sorted(
        (b for b in shaped if _can_be(b, inputs, heaviest)), key=lambda b: (b.gangs, b.volume, b.cents)
    ) or [max(shaped, key=lambda b: b.volume)]

    def takes(box: BoxKind, reserve: bool) -> bool:
        contents = _contents(inputs, largest, box, catalogue)
        contents = with_reserve(contents, largest) if reserve else contents
        return at_most(fill(contents, practice).total, box.holds(_socket(inputs)), ROUNDING)

    # A box wider than its devices wants a plate of its own: only where nothing else holds them.
    snug = [b for b in fitting if b.gangs == fitting[0].gangs]
    for among, reserve in ((snug, True), (snug, False), (fitting, True), (fitting, False)):
        for box in among:
            if takes(box, reserve):
                return box
    return max(fitting, key=lambda b: b.volume)


def _joints(inputs: BoxInputs, kind: BoxKind, catalogue: Catalogue) -> tuple[Joint, ...]:
    links = {(q, net): parent for q, net, parent in inputs.links}

    def key(circuit: Handle, net: Net, conductor: str = "") -> JointKey:
        while (circuit, net) in links:
            net = links[circuit, net]
        if net == GROUND:
            return grounds
        return JointKey(inputs.handle, net, circuit, conductor if net == SPARE else "")

    grounds = JointKey(inputs.handle, GROUND)
    ends: dict[JointKey, list[Conductor]] = defaultdict(list)
    lands: dict[JointKey, list[Terminal]] = defaultdict(list)
    for circuit, conductor in inputs.conductors:
        ends[key(circuit, conductor.net, conductor.key)].append(conductor)
    for circuit, terminal in inputs.terminals:
        if terminal.device:
            lands[key(circuit, terminal.net)].append(terminal)
    kept = {key(q, t.net) for q, t in inputs.terminals if t.kept}
    for one in inputs.devices:
        kind_of = device(one.kind)
        if kind_of.ground:
            lands[grounds].append(
                Terminal(inputs.handle, one.key, kind_of.ground, GROUND, lead=kind_of.leads)
            )
    if kind.metal:
        lands[grounds].append(Terminal(inputs.handle, None, "ground screw", GROUND))
    return tuple(
        _joint(
            inputs, at, ends=ends.get(at, []), lands=lands.get(at, []), kept=at in kept, catalogue=catalogue
        )
        for at in sorted({*ends, *lands}, key=_make_up_order)
    )


#: Grounds, then neutrals, then the hots: back of the box to the front.
_MAKE_UP: dict[Role, int] = {
    "ground": 0,
    "neutral": 1,
    "line": 2,
    "switched": 3,
    "traveller": 4,
    "strap": 5,
    "link": 6,
}


def _make_up_order(joint: JointKey) -> tuple[int, tuple[str, int, str], tuple[str, int, str]]:
    """By what it carries, then by name; where circuits share a box, by circuit, so that the order is the same
    every time.
    """
    return _MAKE_UP.get(joint.net.role, 7), order(joint.conductor or str(joint.net)), order(joint.circuit)


def _joint(
    inputs: BoxInputs,
    key: JointKey,
    ends: list[Conductor],
    lands: list[Terminal],
    kept: bool,
    catalogue: Catalogue,
) -> Joint:
    made = Joint(
        key=key,
        net=key.net,
        how="parked",
        ends=tuple(c.key for c in ends),
        landings=tuple(Landing(t.device, t.name, t.lead) for t in lands),
        connectors=("cap",),
    )
    if len(ends) + len(lands) <= 1:
        if not lands:
            return msgspec.structs.replace(made, reason=_why_parked(inputs, key.net, kept))
        capped = ("cap",) if lands[0].lead else ()
        return msgspec.structs.replace(made, connectors=capped, reason="nothing to join it to")
    if how := _on_its_screw(inputs, key, len(ends), lands):
        return msgspec.structs.replace(made, how=how, connectors=())
    # The pigtail from a joint to a screw is cut from the same copper as the largest end.
    gauges = [c.gauge for c in ends]
    tail = max(gauges, key=lambda g: catalogue.gauge(g).area, default=catalogue.gauges[-1].id)
    gauges += [lead_gauge(catalogue) if t.lead else tail for t in lands]
    chosen = connectors_for(gauges, inputs.family, catalogue)
    return msgspec.structs.replace(
        made, how="joint", connectors=tuple(c.id for c in chosen), unlisted=not chosen
    )


def _on_its_screw(inputs: BoxInputs, key: JointKey, ends: int, lands: list[Terminal]) -> How | None:
    """How conductors go on a terminal without a joint: one directly, or two through a receptacle's pair of
    screws, never a neutral that circuits share; none where a joint is made.
    """
    if len(lands) != 1 or lands[0].lead:
        return None
    if ends == 1:
        return "direct"
    shared = key.net.role == "neutral" and key.circuit in inputs.sharing
    paired = lands[0].name in ("brass", "silver")
    through = inputs.joining == "feed-through" and ends == 2 and paired and not shared
    return "through" if through else None


def _why_parked(inputs: BoxInputs, net: Net, kept: bool) -> str:
    """Why the only end of a net in a box is capped."""
    if net == GROUND and not all(device(d.kind).grounded for d in inputs.devices):
        return "the alarm takes none"
    return "kept for a later device" if kept else "spare" if net == SPARE else "goes no further"


def lead_gauge(catalogue: Catalogue) -> str:
    """The gauge of a fitting's own leads: the one nearest to what they usually are."""
    return min(catalogue.gauges, key=lambda g: abs(g.area - LEAD_AREA)).id


def connectors_for(gauges: list[str], family: str, catalogue: Catalogue) -> list[ConnectorKind]:
    """The smallest connector of the family that is listed for these conductors, or two with a link; none if
    neither, nor for a gauge that is not of this practice.
    """
    if not {*gauges} <= {g.id for g in catalogue.gauges}:
        return []
    # A family that is not on sale under this practice: the first that is.
    family = family if family in catalogue.families() else catalogue.families()[0]
    one = _smallest(gauges, family, catalogue)
    if one:
        return [one]
    link = max(gauges, key=lambda g: catalogue.gauge(g).area)
    for first in range(len(gauges) - 1, len(gauges) // 2 - 1, -1):
        pair = [
            _smallest([*gauges[:first], link], family, catalogue),
            _smallest([*gauges[first:], link], family, catalogue),
        ]
        if all(pair):
            return [c for c in pair if c]
    return []


def _smallest(gauges: list[str], family: str, catalogue: Catalogue) -> ConnectorKind | None:
    copper = sum(catalogue.gauge(g).area for g in gauges)
    listed = [
        c
        for c in catalogue.connectors
        if c.family == family
        and c.least_count <= len(gauges) <= c.most_count
        and c.least_area <= copper + 1e-9
        and copper <= c.most_area + 1e-9
        and all(g in c.gauges for g in gauges)
    ]
    return min(listed, key=lambda c: (c.most_area, c.most_count, c.cents), default=None)
