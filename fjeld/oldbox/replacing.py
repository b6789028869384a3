"""A device of an old box replaced: what comes off the old one, where it goes on the new one, and whether all
works as before.

Each conductor goes by what it was on, never by its place or its colour, and one at a time. What was tried is
the box as it then is, in every wiring that is still possible: it must allow the same, and every end be live
as before.
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
from msgspec.structs import replace

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import End, owner, part
from fjeld.drawing.errand import Becomes
from fjeld.drawing.old_box import Device
from fjeld.judge.answer import NotAsked, Said
from fjeld.judge.terminals import TerminalsAsked, terminals
from fjeld.oldbox.as_before import afterwards, as_before
from fjeld.oldbox.following import following
from fjeld.oldbox.found import DeviceKind, FoundBox
from fjeld.oldbox.hypotheses import Hypothesis
from fjeld.oldbox.makeup import Made, Maker, listed
from fjeld.oldbox.tie_in import Case, Verdict
from fjeld.oldbox.weighed import Weighed, weigh
from fjeld.practice import Practice, rules
from fjeld.practice.devices import contacts_of, held_kinds, screw_marks
from fjeld.practice.devices import device as kind_of

#: The terminals of a protective outlet, each with that of its other side.
_OTHER_SIDE = {t: other for a, b, _ in contacts_of("protective") for t, other in ((a, b), (b, a))}


class Replaced(msgspec.Struct, frozen=True):
    """What goes where, in the order of the work, and the box then; what is ``said``; and each case that is
    left with whether it works.

    Nothing moves where it is refused, which ``said`` gives with what to do instead.
    """

    moves: tuple[Made, ...]
    after: FoundBox
    said: tuple[Said, ...]
    cases: tuple[Case, ...] = ()
    verdict: Verdict | None = None
    excludes: str = ""


def may_become(kind: DeviceKind, practice: Practice) -> tuple[Becomes, ...]:
    """What may stand in the place of a device; a British protective outlet has no terminals for what is
    beyond it.
    """
    known: tuple[Becomes, ...] = kind_of(kind).becomes  # type: ignore[assignment]
    return tuple(k for k in known if not (k == "protective" and not practice.load_side))


def replaced_in(
    box: FoundBox,
    name: str,
    becomes: Becomes,
    practice: Practice,
    gauge: str = "",
    remember: Remember = always,
) -> Replaced:
    """A device of a box replaced, by the likeliest of what the box may be and tried in all of it.

    ``gauge`` is that of its cables, empty while nobody has read it. Raises :class:`NotAsked`.
    """
    device = next((d for d in box.devices if d.id == name), None)
    if device is None:
        raise NotAsked(f"there is no device “{name}” in this box")
    if becomes not in may_become(device.kind, practice):
        raise NotAsked(f"a {device.kind} is not replaced like that")
    told = weigh(box, practice, remember)
    weighed = next((w for w in told if device.id in {d.id for d in w.box.devices}), None)
    if weighed is None or weighed.likeliest is None:
        raise NotAsked("what is on it is not told, or its readings do not go together")
    said = tuple(_said(weighed, device, becomes, practice))
    if any(s.tone in ("fails", "danger") for s in said):
        return Replaced((), box, said)
    likeliest = weighed.likeliest

    def tried(neutral: int) -> tuple[tuple[Made, ...], FoundBox, tuple[Case, ...]]:
        mover = _Mover(box, device, becomes, practice, gauge)
        moves = mover.moves(weighed, likeliest, neutral)
        then = afterwards(mover.box, device, becomes, practice)
        about = [neutral] if neutral >= 0 else []
        return moves, mover.box, tuple(as_before(weighed, one, then) for one in weighed.each(about))

    # The neutral with which most of what it may be works.
    neutrals = _neutrals(weighed) if becomes == "sensor" else [-1]
    moves, after, cases = max(map(tried, neutrals), key=lambda t: sum(c.share for c in t[2] if c.works))
    return _tried(moves, after, said=said, cases=cases, weighed=weighed, practice=practice)


def _tried(
    moves: tuple[Made, ...],
    after: FoundBox,
    said: tuple[Said, ...],
    cases: tuple[Case, ...],
    weighed: Weighed,
    practice: Practice,
) -> Replaced:
    good = sum(c.works for c in cases)
    verdict: Verdict = "works" if good == len(cases) else "unless" if good else "fails"
    told = following([weighed], []) if verdict == "unless" else None
    ordered = tuple(sorted(cases, key=lambda c: (c.works, -c.share)))
    return Replaced(
        moves=moves, after=after, said=said, cases=ordered, verdict=verdict, excludes=told.id if told else ""
    )


# --- what is said of it -------------------------------------------------------------------------


def _said(weighed: Weighed, device: Device, becomes: Becomes, practice: Practice) -> list[Said]:
    if becomes == "dimmer":
        found = [
            Said(
                "needs",
                "Lamps only, all of a kind that it is listed for: never an outlet, a fan or a motor, and"
                " their watts between its least and its most",
            )
        ]
        if device.kind == "three-way":
            found.append(
                Said(
                    "needs",
                    "One dimmer only: the other switches of this light stay plain, unless they are sold as"
                    " its companions",
                )
            )
        return found
    if becomes == "sensor" and not _neutrals(weighed):
        return list(terminals(TerminalsAsked("sensor", neutral="no"), practice).said)
    if becomes == "fan":
        return [
            *_controls(weighed, device),
            Said(
                "needs",
                "It hangs from a hook or a helper before any joint is made: nothing hangs on a conductor",
            ),
        ]
    roles = _roles_at(weighed, device)
    if becomes == "protective" and (device.tab == "broken" or {"HALF", "TWO"} & roles):
        return list(terminals(TerminalsAsked("protective", tab="broken"), practice).said)
    if device.kind == "outlet" and device.tab == "broken":
        return list(
            terminals(TerminalsAsked("half outlet", tab="broken", two_circuits="TWO" in roles), practice).said
        )
    if device.kind == "alarm":
        return [
            Said(
                "needs",
                "Of the family of those that it is linked with: two makers' families on one wire can destroy"
                " each other",
            )
        ]
    return []


def _controls(weighed: Weighed, device: Device) -> list[Said]:
    """How a fan may be worked by what comes to its box, as far as every case that is left says the same."""
    net = weighed.where.of.get(device.at("hot"), -1)
    found = [weighed.found[k] for k in weighed.standing]
    if all(_other_lines(h, net) for h in found):
        return [
            Said(
                "passes",
                "Two switched lines come to it: the fan's own control on the one; the light on the other,"
                " where a dimmer may be, on the light alone",
            )
        ]
    never = Said(
        "needs",
        "Never a dimmer or a plain speed control ahead of it that feeds its light too, unless it is"
        " listed so",
    )
    if all(h.carries.get(net) == "l" for h in found):
        return [
            Said(
                "passes",
                "Its line is always live: pull chains, or a remote whose receiver stands in the canopy",
            ),
            never,
        ]
    if any(_other_lines(h, net) for h in found):
        return [
            Said(
                "ask",
                "Whether a second switched line comes to it: its fan and its light would each have a control",
            ),
            never,
        ]
    return [
        Said(
            "passes",
            "One switched line comes to it: one switch and pull chains, a remote whose receiver stands in the"
            " canopy, or a pair of controls that signals over two wires",
        ),
        never,
    ]


def _other_lines(h: Hypothesis, mine: int) -> list[int]:
    """Second switched lines in a box, for the light of a fan."""
    return [n for n, what in h.carries.items() if what == "s" and n != mine]


def _roles_at(weighed: Weighed, device: Device) -> set[str]:
    """What every case that is left says of the cables that land on a device, where they say one thing."""
    found: set[str] = set()
    for n, cable in enumerate(weighed.box.cables):
        here = {owner(e) for ends in device.lands.values() for e in ends}
        roles = {b.role for k in weighed.standing for b in weighed.roles(n, k)}
        if cable.id in here and len(roles) == 1:
            found |= roles
    return found


def _neutrals(weighed: Weighed) -> list[int]:
    """The nets that may be a neutral, as one goes by the cases that are left."""
    return [n for n in range(len(weighed.where.ends)) if "n" in weighed.carried(n)]


# --- what goes where ----------------------------------------------------------------------------


class _Mover(Maker):
    """The box as it becomes while one device is taken out and another put in, conductor by conductor."""

    def __init__(
        self, box: FoundBox, device: Device, becomes: Becomes, practice: Practice, gauge: str
    ) -> None:
        super().__init__(box, gauge, practice, False, 0)
        self.device, self.becomes = (
            _spread(device) if self.practice[rules.SCREW_TAKES] == 1 else device,
            becomes,
        )
        fresh = replace(device, kind=becomes if becomes in held_kinds() else device.kind, lands={})
        self.box = replace(box, devices=tuple(fresh if d.id == device.id else d for d in box.devices))
        self.joints = {
            t: next((j for j in box.joints if device.at(t) in j), ()) for t in self._terminals_of()
        }

    def _terminals_of(self) -> list[str]:
        """The old one's terminals that something is on, in the order in which they are taken: the ground
        first.
        """
        tails = {part(e) for j in self.old.joints for e in j if owner(e) == self.device.id}
        used = [
            t
            for t in {**self.device.lands, **dict.fromkeys(sorted(tails))}
            if self.device.lands.get(t) or t in tails
        ]
        return sorted(used, key=lambda t: t != "g")

    def moves(self, weighed: Weighed, h: Hypothesis, neutral: int = -1) -> tuple[Made, ...]:
        """Every conductor of the old one to the new one; and what the new one wants besides, as its
        ``neutral``.
        """
        goes = self._goes(weighed, h)
        made = [] if "g" in goes else self._ground()
        made += [self._moved([t for t in goes if goes[t] == to], to) for to in dict.fromkeys(goes.values())]
        if self.becomes == "sensor":
            made.append(self._more("n", weighed.where.ends[neutral]))
        if self.becomes == "fan":
            others = _other_lines(h, weighed.where.of.get(self.device.at("hot"), -1))
            light = self._more("light", weighed.where.ends[others[0]]) if others else self._with_own_line()
            # After the fan's own lead: the joint that they share is the one just made.
            made.insert(
                1 + next((n for n, m in enumerate(made) if self.device.at("hot") in m.off), len(made) - 1),
                light,
            )
        return tuple(replace(m, caution=self._caution(m)) for m in made)

    def _caution(self, made: Made) -> str:
        """What is to be minded at the terminal that a conductor goes to."""
        terminal = part(made.onto or made.tail)
        if (self.becomes == "protective" or self.device.kind == "protective") and terminal.startswith(
            ("line", "load")
        ):
            return "Line to LINE, onward to LOAD"
        if self.device.tab == "broken" and terminal.startswith("brass"):
            return "Break the brass tab off"
        return ""

    def _goes(self, weighed: Weighed, h: Hypothesis) -> dict[str, str]:
        """The terminal of the new one for each of the old one."""
        used = self._terminals_of()
        if self.becomes == "sensor":
            carries = {t: h.carries.get(weighed.where.of[self.device.at(t)], "") for t in ("a", "b")}
            return {t: {"l": "a", "s": "b"}.get(carries.get(t, ""), t) for t in used}
        if self.becomes == "protective":
            return {t: t if t == "g" else self._side(t, weighed, h) for t in used}
        if self.device.kind == "protective" and h.reversed:
            # What fed it at its LOAD side is put right, whatever stood there before.
            return {t: _OTHER_SIDE.get(t, t) for t in used}
        return {t: t for t in used}

    def _side(self, terminal: str, weighed: Weighed, h: Hypothesis) -> str:
        """Where what is on a terminal of an outlet goes on a protective one: the feed, and all that comes by
        a joint, to LINE.
        """
        ends = self.device.lands.get(terminal, ())
        brings = {c.id for c, b in zip(weighed.box.cables, h.cables, strict=True) if b.inward}
        beyond = bool(ends) and not {owner(e) for e in ends} & brings
        return ("load" if beyond else "line") + (" n" if terminal.startswith("silver") else "")

    # --- one conductor ------------------------------------------------------------------

    def _moved(self, old: Sequence[str], to: str) -> Made:
        """What is on some terminals of the old one, to one of the new one."""
        ends = tuple(e for t in old for e in self.device.lands.get(t, ()))
        new = self.device.at(to)
        joined = [self.joints[t] for t in old if self.joints[t]]
        marks = listed([f"“{self._mark(t)}”" for t in old])
        onto = f"“{self._mark(to, new=True)}” of the new one{self._hint(to)}"
        gone = {self.device.at(t) for t in old}
        if joined or self.is_lead(self.device.at(to)):
            return self._rejoined(ends, joined, gone=gone, new=new, marks=marks, onto=onto)
        if len(ends) <= self.practice[rules.SCREW_TAKES]:
            self._lands(to, ends)
            words = (
                f"Take {listed(ends)} off {marks} of the old one; put {'them' if len(ends) > 1 else 'it'} on"
                f" {onto}."
            )
            return Made(
                "move",
                ends[0],
                ends,
                words,
                tuple(sorted(gone)),
                onto=new,
                count=len(ends),
                common=to == "common",
            )
        grown = (*ends, new)
        self.put((), grown)
        count, parts = self.connectors(grown, "tail")
        words = (
            f"Take {listed(ends)} off {marks} of the old one, which joined them; join them with a tail of"
            f" {self.tail()} to {onto}: {self.how('tail', count, parts)}."
        )
        return Made(
            what="move",
            end=ends[0],
            with_=ends,
            words=words,
            off=tuple(sorted(gone)),
            tail=new,
            count=count,
            connectors=parts,
            common=to == "common",
        )

    def _rejoined(
        self,
        ends: tuple[End, ...],
        joined: Sequence[tuple[End, ...]],
        gone: set[End],
        new: End,
        marks: str,
        onto: str,
    ) -> Made:
        """A joint that the old one's lead or tail is in: the new one's comes in its place."""
        others = tuple(dict.fromkeys(e for e in (*ends, *(e for j in joined for e in j)) if e not in gone))
        grown = (*others, new)
        self.put(joined, grown)
        if not self.is_lead(new) and not self.practice.has_leads(self.device.kind):
            words = (
                f"Take the tail of the joint of {listed([self.told(e) for e in others])} off {marks} of the"
                f" old one; put it on {onto}."
            )
            return Made(
                "move",
                others[0],
                others,
                words,
                tuple(sorted(gone)),
                onto=new,
                count=1,
                common=part(new) == "common",
            )
        count, parts = self.connectors(grown, "move")
        opened = listed([*(self.told(e) for e in others), f"{marks} of the old one"])
        words = f"Open the joint of {opened}; put {onto} in its place: {self.how('move', count, parts)}."
        return Made("move", others[0], others, words, tuple(sorted(gone)), count=count, connectors=parts)

    def _with_own_line(self) -> Made:
        """The light of a fan beside its motor, where one line comes for both."""
        hot, new = self.device.at("hot"), self.device.at("light")
        together = next((j for j in self.box.joints if hot in j), ())
        if together:
            self.put([together], (*together, new))
            count, parts = self.connectors((*together, new), "move")
            others = listed(
                [
                    *(self.told(e) for e in together if e != hot),
                    f"“{self._mark('hot', new=True)}” of the new one",
                ]
            )
            words = (
                f"Put “{self._mark('light', new=True)}” of the new one into the joint of {others} too:"
                f" {self.how('move', count, parts)}."
            )
            return Made("move", together[0], together, words, count=count, connectors=parts)
        self.put((), (hot, new))
        words = (
            f"Put a link from “{self._mark('hot', new=True)}” of the new one to"
            f" “{self._mark('light', new=True)}”."
        )
        return Made("move", hot, (hot,), words, onto=new, count=2)

    def _more(self, to: str, ends: tuple[End, ...]) -> Made:
        """What the new one has and the old one had not, to a net of the box."""
        new = self.device.at(to)
        together = [j for j in self.box.joints if {*j} & {*ends}]
        grown = (
            *(e for j in together for e in j),
            *(e for e in ends if not any(e in j for j in together)),
            new,
        )
        self.put(together, grown)
        count, parts = self.connectors(grown, "move")
        mark = f"“{self._mark(to, new=True)}” of the new one"
        others = listed([self.told(e) for e in grown[:-1]])
        words = (
            f"Open the joint of {others}; put {mark} to it" if together else f"Join {others} with {mark}"
        ) + f": {self.how('move', count, parts)}."
        return Made("move", grown[0], grown[:-1], words, count=count, connectors=parts)

    def _ground(self) -> list[Made]:
        """The new one's ground where the old one had none and the box has some."""
        ends = tuple(e for cable in self.old.cables for e in cable.grounds)
        return [self._more("g", ends)] if ends else []

    # --- the new one --------------------------------------------------------------------

    def _lands(self, to: str, ends: tuple[End, ...]) -> None:
        self.box = replace(
            self.box,
            devices=tuple(
                replace(d, lands={**d.lands, to: ends}) if d.id == self.device.id else d
                for d in self.box.devices
            ),
        )

    def _mark(self, terminal: str, new: bool = False) -> str:
        if terminal == "g":
            return self.practice.word("ground")
        comes = new and (self.becomes == "sensor" or self.becomes in held_kinds())
        kind = self.becomes if comes else self.device.kind
        return screw_marks(kind, self.practice.tables, comes).get(terminal, terminal)

    def _hint(self, to: str) -> str:
        if (
            self.becomes == "sensor"
            or self.device.kind not in ("switch", "three-way", "four-way")
            or to == "g"
        ):
            return ""
        if to == "common":
            return ", wherever that is" if self.practice.lettered else ", its odd screw, wherever that is"
        if self.device.kind == "four-way":
            return ": a pair stays a pair"
        hint = next((s.hint for s in kind_of(self.device.kind).screws if s.id == to), "")
        return f": {hint}" if hint and not self.practice.lettered else ""


def _spread(device: Device) -> Device:
    """An outlet of which two conductors are told on one side: one under each of the two screws there."""
    lands = dict(device.lands)
    for side in ("brass", "silver"):
        ends = lands.get(side, ())
        if device.kind == "outlet" and len(ends) == 2 and f"{side}2" not in lands and device.tab == "whole":
            lands |= {side: ends[:1], f"{side}2": ends[1:]}
    return replace(device, lands=lands)
