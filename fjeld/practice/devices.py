"""Kinds of device: terminals, contacts, loads, tabs, gangs and part, as one table that every stage reads."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any, Literal

import msgspec

Wants = Literal["", "line", "neutral", "link"]


class Spot(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A terminal by name; what it ``wants`` where no chain of switches says, and the load's part that it is ``of``.

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


class DeviceKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a kind of device is. ``part`` names it in the catalogue, ``mark`` stands small beside its symbol.

    ``gangs`` is 0 for a fitting, which brings ``leads`` instead of screws. ``bridges`` are
    tabs left whole; ``tab`` says that one is broken off before it is wired. One that is
    ``residual`` opens its contacts when what goes out through them does not all come back.
    ``inside`` are nodes that no wire lands on.
    """

    id: str
    part: str
    terminals: tuple[Spot, ...]
    contacts: tuple[ContactKind, ...] = ()
    loads: tuple[LoadKind, ...] = ()
    bridges: tuple[tuple[str, str], ...] = ()
    gangs: int = 1
    grounded: bool = True
    tab: bool = False
    residual: bool = False
    inside: tuple[str, ...] = ()
    mark: str = ""

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
        names = (
            {t.name for t in self.terminals}
            | {end for bridge in self.bridges for end in bridge}
            | {*self.inside}
        )
        used = {n for c in self.contacts for n in (c.a, c.b)} | {
            n for x in self.loads for n in (x.hot, x.neutral)
        }
        found = [f"{self.id} has no terminal “{name}”" for name in sorted(used - names)]
        parts = {x.part for x in self.loads}
        found += [f"{self.id} has no part “{t.of}”" for t in self.terminals if t.of and t.of not in parts]
        return found + [f"{self.id} has a contact that never closes" for c in self.contacts if not c.closed]


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
    """The kind of that name; raises ``KeyError``."""
    return devices()[kind]
