"""What is joined to what where a new cable comes into an old box: joint by joint, with what is taken apart
for it.

Only what must be is taken apart. A joint is opened and grows by one conductor; what is on a screw that takes
no more comes off it, into a joint with a tail; what is one stays one, and nothing new comes together.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

from fjeld.derive.boxes import connectors_for, lead_gauge
from fjeld.drawing.ends import End, owner, part
from fjeld.drawing.old_box import cable_of, parted
from fjeld.oldbox.found import FoundBox, nets
from fjeld.oldbox.tie_in import TieIn
from fjeld.practice import Practice, rules
from fjeld.practice.colours import NAMES
from fjeld.practice.devices import screw_marks
from fjeld.quantities import format_length

What = Literal["ground", "neutral", "line", "link", "tail", "move"]
#: The new cable's name among the cables of the box.
NEW_CABLE = "new"
#: No terminal.
NOWHERE = End("")


class Made(msgspec.Struct, frozen=True):
    """One conductor of the new cable, or one that was there and gets a tail, and where it goes.

    ``with_`` are the ends that it is joined with, ``off`` the screws that they come off, ``tail`` the screw
    that a tail then goes to, ``onto`` the screw that takes it beside what is on it. ``connectors`` by name,
    one after another where a link between them is needed; none where no listed one takes them, or where a
    gauge is not read. ``common`` where it is the common of a switch among others; ``caution`` where it has
    one of its own.
    """

    what: What
    end: End
    with_: tuple[End, ...]
    words: str
    off: tuple[End, ...] = ()
    tail: End = NOWHERE
    onto: End = NOWHERE
    count: int = 0
    connectors: tuple[str, ...] = ()
    common: bool = False
    caution: str = ""

    @property
    def name(self) -> str:
        """What it is known by: its ends, and the terminal that it goes to."""
        return " ".join(
            dict.fromkeys((*sorted({*self.with_, self.end}), *filter(None, (self.tail, self.onto))))
        )


class MakeUp(msgspec.Struct, frozen=True):
    """How the new cable is made up, in the order of the work, and the box as it then is."""

    joints: tuple[Made, ...]
    after: FoundBox


def make_up(
    box: FoundBox, into: TieIn, gauge: str, practice: Practice, metal: bool = False, linked: bool = False
) -> MakeUp:
    """The joints that a new cable makes in an old box, by where it is tied in, in the order of the work.

    It has two conductors and a ground, or where alarms are ``linked`` three. ``gauge`` is its own, empty
    while those of the box are not read; ``metal`` whether the box is.
    """
    maker = Maker(box, gauge, practice, metal, 3 if linked else 2)
    joints = [
        maker.ground(maker.new["ground"]),
        maker.joined("neutral", maker.new["neutral"], into.neutral),
        *([maker.link()] if linked else []),
        maker.joined("line", maker.new["line"], into.line),
    ]
    return MakeUp(tuple(joints), maker.box)


def tails(box: FoundBox, gauge: str, practice: Practice) -> MakeUp:
    """What makes short wires long enough: all that is one on a device off its screws, into a joint with a
    tail, the ground first. In lever connectors, which want the least wire. What is joined already has its
    tail.
    """
    maker, where = Maker(box, gauge, practice=practice, metal=False, conductors=0, family=SHORT), nets(box)
    made = []
    for device in box.devices:
        if practice.has_leads(device.kind):
            continue
        by_net: dict[int, list[End]] = {}
        for terminal in sorted(device.lands, key=lambda t: t != "g"):
            if device.lands[terminal]:
                by_net.setdefault(where.of[device.at(terminal)], []).append(device.at(terminal))
        made += [maker.tailed(screws) for screws in by_net.values()]
    return MakeUp(tuple(made), maker.box)


#: The family of connectors that takes the shortest wires.
SHORT = "lever"


class Maker:
    """The box as it becomes, conductor by conductor; with a new cable of so many ``conductors``, if any."""

    def __init__(
        self, box: FoundBox, gauge: str, practice: Practice, metal: bool, conductors: int, family: str = ""
    ) -> None:
        self.practice, self.gauge, self.metal = practice, gauge, metal
        self.family = family or practice.catalogue.families()[0]
        self.old = self.box = box
        self.new: dict[str, End] = {}
        if conductors:
            self._comes(conductors)

    def _comes(self, conductors: int) -> None:
        """The new cable among those of the box."""
        practice, gauge = self.practice, self.gauge
        kinds = [c for c in practice.catalogue.cables if len(c.colours) == conductors]
        colours = next((c for c in kinds if c.gauge == gauge), kinds[0]).colours
        first, second, last = colours[0], colours[1], colours[-1]
        # A core in the neutral's colour is the neutral; where none is, the second is sleeved as one, and the
        # last is the link.
        own = practice.neutral in colours or conductors < 3
        white, link = (last, second) if own else (second, last)
        new = cable_of(NEW_CABLE, (*colours, "G"), gauge)
        self.new = {
            "line": new.at(first),
            "neutral": new.at(white),
            "link": new.at(link),
            "ground": new.at("G"),
        }
        self.box = msgspec.structs.replace(self.box, cables=(*self.box.cables, new))

    # --- one conductor ------------------------------------------------------------------

    def ground(self, end: End) -> Made:
        """The ground with all grounds that are there."""
        ends = tuple(e for cable in self.old.cables for e in cable.grounds)
        return self.joined("ground", end, ends) if ends else self._alone(end)

    def _alone(self, end: End) -> Made:
        earth = self.practice.word("ground")
        words = (
            f"No {earth} is in this box to join the new one to: stop, and look again at whether it can be the"
            " source."
        )
        return Made("ground", end, (), words)

    def link(self) -> Made:
        """The link with that of an alarm in the box, where there is one."""
        end, where = self.new["link"], nets(self.old)
        alarm = next((d for d in self.old.devices if d.kind == "alarm"), None)
        if alarm is None:
            return Made(
                "link",
                end,
                (),
                f"No alarm's link is in this box: cap {self._new(end)}, and link where an alarm is.",
            )
        terminal = alarm.at("link")
        if ends := where.ends[where.of[terminal]]:
            return self.joined("link", end, ends)
        if self.is_lead(terminal):
            return self._anew("link", end, (), [terminal], [])
        return self._onto("link", end, terminal)

    def joined(self, what: What, end: End, ends: tuple[End, ...]) -> Made:
        """A conductor with a net of the box: into its joint, onto its screw, or into a joint made for it."""
        terminals = self._terminals(ends)
        leads = [t for t in terminals if self.is_lead(t)]
        screws = [t for t in terminals if t not in leads]
        together = [j for j in self.box.joints if {*j} & {*ends}]
        if together:
            # Two joints of one net hang together by a device, and stay apart; grounds are one.
            mine = together if what == "ground" else [min(together, key=len)]
            return self._into(what, end, mine, ends if what == "ground" else ())
        if screws and not leads and len(self.on(screws[0])) < self.practice[rules.SCREW_TAKES]:
            return self._onto(what, end, screws[0])
        return self._anew(what, end, ends, leads, screws)

    def _into(self, what: What, end: End, together: Sequence[tuple[End, ...]], ends: tuple[End, ...]) -> Made:
        """Into the joint that is there; several of one net become one. What is on no screw and in none comes
        along.
        """
        loose = [e for e in ends if not self._landed(e) and not any(e in j for j in together)]
        grown = (*(e for j in together for e in j), *loose, end)
        self.put(together, grown)
        count, parts = self.connectors(grown, what)
        opened = " and ".join(f"the joint of {listed([self.told(e) for e in j])}" for j in together)
        words = (
            f"Open {opened}; put {listed([*loose, self._new(end)])} to it: {self.how(what, count, parts)}."
        )
        return Made(what, end, grown[:-1], words, count=count, connectors=parts)

    def _onto(self, what: What, end: End, screw: End) -> Made:
        there = self.on(screw)
        device, terminal = owner(screw), part(screw)
        self.box = msgspec.structs.replace(
            self.box,
            devices=tuple(
                (
                    msgspec.structs.replace(d, lands={**d.lands, terminal: (*there, end)})
                    if d.id == device
                    else d
                )
                for d in self.box.devices
            ),
        )
        beside = f" beside {listed(there)}: {len(there) + 1} under its screw" if there else ""
        words = f"Put {self._new(end)} into {self.screw(screw)}{beside}."
        return Made(what, end, there, words, onto=screw, count=len(there) + 1)

    def _anew(self, what: What, end: End, ends: tuple[End, ...], leads: list[End], screws: list[End]) -> Made:
        """A joint of all that is one here, with a tail to the screw that it was on."""
        tail = screws[0] if screws else NOWHERE
        self.box = msgspec.structs.replace(self.box, devices=tuple(parted(d, ends) for d in self.box.devices))
        grown = (*ends, *leads, *([tail] if tail else []), end)
        self.put((), grown)
        count, parts = self.connectors(grown, what)
        how = self.how(what, count, parts)
        if leads and not ends:
            words = f"Join {listed([self.screw(x) for x in leads])} with {self._new(end)}: {how}."
        elif leads:
            words = (
                f"Open the joint of {listed([*ends, *(self.screw(x) for x in leads)])}; put {self._new(end)}"
                f" to it: {how}."
            )
        elif tail:
            it = "them" if len(ends) > 1 else "it"
            words = (
                f"Take {listed(ends)} off {listed([self.screw(s) for s in screws])}; join {it} with"
                f" {self._new(end)} and a tail of {self.tail()} to"
                f" {self.screw(tail) if len(screws) > 1 else 'the same screw'}: {how}."
            )
        else:
            words = f"Join {listed(ends)} with {self._new(end)}: {how}."
        return Made(
            what=what,
            end=end,
            with_=(*ends, *leads),
            words=words,
            off=tuple(screws),
            tail=tail,
            count=count,
            connectors=parts,
        )

    def tailed(self, screws: list[End]) -> Made:
        """What is on some screws of one net in a joint of its own, with a tail to the first of them."""
        ends = tuple(e for s in screws for e in self.on(s))
        self.box = msgspec.structs.replace(self.box, devices=tuple(parted(d, ends) for d in self.box.devices))
        grown = (*ends, screws[0])
        self.put((), grown)
        count, parts = self.connectors(grown, "tail")
        it, to = (
            ("them", self.screw(screws[0]))
            if len(screws) > 1
            else ("them" if len(ends) > 1 else "it", "the same screw")
        )
        words = (
            f"Take {listed(ends)} off {listed([self.screw(s) for s in screws])}; join {it} with a tail of"
            f" {self.tail()} to {to}: {self.how('tail', count, parts)}."
        )
        return Made(
            what="tail",
            end=ends[0],
            with_=ends,
            words=words,
            off=tuple(screws),
            tail=screws[0],
            count=count,
            connectors=parts,
        )

    # --- what is there ------------------------------------------------------------------

    def _terminals(self, ends: tuple[End, ...]) -> list[End]:
        """The terminals that some ends land on, and those that a tail of their joint goes to are not among
        them.
        """
        return [d.at(t) for d in self.box.devices for t, on in d.lands.items() if {*on} & {*ends}]

    def _landed(self, end: End) -> bool:
        return bool(self._terminals((end,)))

    def on(self, screw: End) -> tuple[End, ...]:
        device, terminal = owner(screw), part(screw)
        return next((d.lands.get(terminal, ()) for d in self.box.devices if d.id == device), ())

    def is_lead(self, terminal: End) -> bool:
        kind = next(d.kind for d in self.box.devices if d.id == owner(terminal))
        return self.practice.has_leads(kind)

    def put(self, together: Sequence[tuple[End, ...]], grown: tuple[End, ...]) -> None:
        kept = [j for j in self.box.joints if j not in together]
        self.box = msgspec.structs.replace(self.box, joints=(*kept, grown))

    def connectors(self, grown: tuple[End, ...], what: What) -> tuple[int, tuple[str, ...]]:
        """How many conductors a joint has, and the names of what takes them; none while a gauge is
        not read.
        """
        by_cable = {c.id: c.gauge or self.gauge for c in self.box.cables}
        catalogue = self.practice.catalogue
        gauges = []
        for end in grown:
            name = owner(end)
            lead = name not in by_cable and self.is_lead(end)
            gauges.append(lead_gauge(catalogue) if lead else by_cable.get(name, self.gauge))
        if what == "ground" and self.metal:
            gauges.append(self.gauge)
        if not all(gauges):
            return len(gauges), ()
        return len(gauges), tuple(c.name for c in connectors_for(gauges, self.family, catalogue))

    # --- in words -----------------------------------------------------------------------

    def _new(self, end: End) -> str:
        colour = part(end)
        if colour == "G":
            return "the new bare one, sleeved," if self.practice.sleeves_ground else "the new bare one"
        sleeved = (
            ""
            if not self.practice.sleeves_ground
            or colour in (self.practice.neutral, *self.practice.plain_line)
            else (
                f", sleeved {NAMES[self.practice.neutral]},"
                if end == self.new["neutral"]
                else f", sleeved {NAMES[self.practice.plain_line[0]]},"
            )
        )
        return f"the new {NAMES[colour]}{sleeved}"

    def told(self, end: End) -> str:
        """An end of a joint: a conductor by its name, a tail by the screw that it goes to."""
        return end if owner(end) in {c.id for c in self.box.cables} else self.screw(end)

    def screw(self, terminal: End) -> str:
        """A terminal as it is marked, and the device that it is on, by its letter where there are more."""
        device, name = owner(terminal), part(terminal)
        kind = next(d.kind for d in self.box.devices if d.id == device)
        mark = screw_marks(kind, self.practice.tables).get(name, name)
        mark = self.practice.word("ground") if name == "g" else mark
        alone = sum(d.kind == kind for d in self.box.devices) == 1
        return f"“{mark}” of the {kind}" if alone else f"“{mark}” of {kind} {device}"

    def tail(self) -> str:
        unit = self.practice.unit
        return format_length(self.practice[rules.FREE_CONDUCTOR], unit)

    def how(self, what: What, count: int, parts: tuple[str, ...]) -> str:
        of = f"{count} in it" + (", with a tail to the metal box" if what == "ground" and self.metal else "")
        if len(parts) == 2:
            return f"{of}, parted in two with a link between, {parts[0].lower()} and {parts[1].lower()}"
        if parts:
            return f"{of}, {parts[0].lower()}"
        return (
            f"{of}, which no listed connector takes"
            if self.gauge
            else f"{of}; the connector goes by the gauge"
        )


def listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
