"""Kinds of device: terminals, contacts, loads, tabs, gangs and part, as one table that every stage reads."""

from __future__ import annotations

import tomllib
from collections import Counter
from functools import cache
from importlib import resources
from itertools import chain
from typing import Any, Literal

import msgspec

Wants = Literal["", "line", "neutral", "link"]


class TerminalSpot(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A terminal by name; what it ``wants`` where no chain of switches says, and the load's part that it is
    ``of``.

    One on the load ``side`` of a protective device is landed on only where something hangs on it.
    """

    name: str
    wants: Wants = ""
    of: str = ""
    side: Literal["", "load"] = ""


class ContactKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A contact between two terminals, ``closed`` in these states of its position.

    ``by`` names the device's own position where its switch does not work it; that rests at 1.
    """

    a: str
    b: str
    closed: tuple[int, ...]
    by: str = ""


class LoadKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A load between two terminals, named by its ``part`` where the device has several."""

    hot: str
    neutral: str
    part: str = ""


class Screw(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where a wire stands on a device that is found, by the short ``id`` that records keep.

    ``at`` is the terminal of the table that it is, where that has it; ``may`` are the letters of what may
    stand on it; ``marks`` by practice, where they are other than its id; ``new`` its mark on one that comes
    in place of another, and ``hint`` what tells it there; ``also`` what people write for it.
    """

    id: str
    at: str = ""
    may: str = "x"
    marks: dict[str, str] = {}
    new: str = ""
    also: tuple[str, ...] = ()
    hint: str = ""


class DeviceKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a kind of device is. ``part`` names it in the catalogue, ``mark`` stands small beside its symbol.

    ``gangs`` is 0 for a fitting, which brings ``leads`` instead of screws. ``bridges`` are tabs left whole;
    ``tab`` says that one is broken off before it is wired. One that is ``residual`` opens its contacts when
    what goes out through them does not all come back. ``inside`` are nodes that no wire lands on. One that is
    found in old boxes is ``held`` there by that name, with a ``letter`` and ``screws``; ``called`` is its
    name by practice where that is another, ``also`` what people write, and ``becomes`` what may stand in its
    place.
    """

    id: str
    terminals: tuple[TerminalSpot, ...]
    contacts: tuple[ContactKind, ...] = ()
    loads: tuple[LoadKind, ...] = ()
    bridges: tuple[tuple[str, str], ...] = ()
    gangs: int = 1
    grounded: bool = True
    tab: bool = False
    residual: bool = False
    inside: tuple[str, ...] = ()
    mark: str = ""
    part: str = ""
    held: str = ""
    letter: str = ""
    called: dict[str, str] = {}
    also: tuple[str, ...] = ()
    becomes: tuple[str, ...] = ("same",)
    screws: tuple[Screw, ...] = ()

    @property
    def leads(self) -> bool:
        """Whether it brings wires of its own."""
        return not self.gangs

    @property
    def ground(self) -> str:
        """The name of its ground terminal; empty where it has none."""
        if not self.grounded:
            return ""
        return "ground lead" if self.leads else "ground"

    def problems(self) -> list[str]:
        """What is wrong with the entry itself: names that no terminal has, positions that close nothing."""
        names = {t.name for t in self.terminals} | {*chain.from_iterable(self.bridges)} | {*self.inside}
        parts = {x.part for x in self.loads}
        screws = Counter(s.id for s in self.screws)
        return [
            *(f"{self.id} has no terminal “{name}”" for name in sorted(self._used() - names)),
            *(f"{self.id} has no part “{t.of}”" for t in self.terminals if t.of not in {"", *parts}),
            *(f"{self.id} has two screws “{name}”" for name in sorted(screws) if screws[name] > 1),
            *(f"{self.id} has no terminal “{s.at}”" for s in self.screws if s.at not in {"", *names}),
            *(f"{self.id} has a contact that never closes" for c in self.contacts if not c.closed),
        ]

    def _used(self) -> set[str]:
        """What contacts and loads lie between."""
        ends = ((c.a, c.b) for c in self.contacts)
        return {*chain.from_iterable(ends), *chain.from_iterable((x.hot, x.neutral) for x in self.loads)}


@cache
def devices() -> dict[str, DeviceKind]:
    """Every kind by its name; raises ``ValueError`` for a table that contradicts itself."""
    text = resources.files(__package__).joinpath("common/devices.toml").read_text(encoding="utf-8")
    bodies: dict[str, Any] = tomllib.loads(text)
    found = {kind: msgspec.convert({"id": kind, **body}, DeviceKind) for kind, body in bodies.items()}
    if wrong := [words for kind in found.values() for words in kind.problems()]:
        raise ValueError("; ".join(wrong))
    return found


def device(kind: str) -> DeviceKind:
    """The kind of that name, the table's or a record's; raises ``KeyError``."""
    return devices().get(kind) or held_kinds()[kind]


# --- as they are found in old boxes ---


@cache
def held_kinds() -> dict[str, DeviceKind]:
    """The kinds that are found in old boxes, by what records call them."""
    return {kind.held: kind for kind in devices().values() if kind.held}


@cache
def screws_of(kind: str) -> tuple[str, ...]:
    """The screws of a kind, the ground's apart, by what records call them; raises ``KeyError``."""
    return tuple(s.id for s in device(kind).screws)


@cache
def screw_marks(kind: str, practice: str, new: bool = False) -> dict[str, str]:
    """How the screws of a kind are marked under a practice; on a ``new`` one as it is named there."""
    return {s.id: (new and s.new) or s.marks.get(practice, s.id) for s in device(kind).screws}


@cache
def contacts_of(kind: str) -> tuple[tuple[str, str, int | None], ...]:
    """The contacts between screws of a kind, and how it must stand for each to be closed; None where nobody's
    hand opens it.
    """
    found = device(kind)
    at = {s.at: s.id for s in found.screws}
    return tuple(
        (at[c.a], at[c.b], None if found.residual or len(c.closed) > 1 else c.closed[0])
        for c in found.contacts
    )


@cache
def worked(kind: str) -> bool:
    """Whether a kind that is found is a switch: a hand sets how it stands."""
    return any(stands is not None for _, _, stands in contacts_of(kind))
