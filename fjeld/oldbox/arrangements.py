"""Boxes as one finds them most often: a record to begin from, changed by what is really there."""

from __future__ import annotations

from functools import cache
from typing import Any

import msgspec

from fjeld.drawing.ends import End
from fjeld.drawing.old_box import Device, cable_of
from fjeld.oldbox.found import DeviceKind, FoundBox, Place
from fjeld.practice.finished import read_table


class Arrangement(msgspec.Struct, frozen=True):
    """A box in words, and as it would be recorded."""

    words: str
    box: FoundBox


class _Written(msgspec.Struct, frozen=True):
    place: Place
    words: str
    cables: tuple[int, ...]
    kind: DeviceKind | None = None
    tab: str = "whole"
    lands: dict[str, str | tuple[str, ...]] = {}
    joints: tuple[tuple[str, ...], ...] = ()


class _All(msgspec.Struct, frozen=True):
    box: tuple[_Written, ...]
    colours: dict[str, dict[str, dict[str, str]]]


@cache
def arrangements(practice: str) -> tuple[Arrangement, ...]:
    """The usual boxes in a practice's colours."""
    known: _All = msgspec.convert(read_table("arrangements.toml"), _All)
    return tuple(Arrangement(w.words, _box(w, known.colours[practice])) for w in known.box)


def _box(written: _Written, colours: dict[str, dict[str, str]]) -> FoundBox:
    cables = tuple(cable_of(str(n), tuple(colours[str(k)].values())) for n, k in enumerate(written.cables, 1))
    name = {None: "", "outlet": "O", "light": "F"}.get(written.kind, "S")

    def end(said: str) -> End:
        at, _, what = said.partition(".")
        return End(
            f"{name}.{what}" if at == "dev" else f"{at}.{colours[str(written.cables[int(at) - 1])][what]}"
        )

    def ends(said: Any) -> tuple[End, ...]:
        return (end(said),) if isinstance(said, str) else tuple(end(s) for s in said)

    grounds = tuple(c.at("G") for c in cables)
    joints = tuple(ends(j) for j in written.joints)
    if len(grounds) > 1:
        joints = (*joints, grounds)
    lands = {t: ends(s) for t, s in written.lands.items()}
    devices = (Device(name, written.kind, lands, written.tab),) if written.kind else ()  # type: ignore[arg-type]
    return FoundBox(written.place, cables, joints, devices)
