"""What older programs wrote of old boxes and kept of the work, in the form that it has now: on builtins,
before anything is read of it.

Until then a joint was a number at each conductor, a landing the number of a device, and cables and devices
had no names of their own: they were called by their place, so that what was struck out gave its name to the
next. What was read and done went by those places, which are the names that they get here.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from msgspec.structs import replace

from fjeld.drawing.ends import codes
from fjeld.formats.found import read_reading
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox
from fjeld.practice import USUAL
from fjeld.practice.devices import held_kinds, screws_of
from fjeld.work.book import figures_in
from fjeld.work.records import ReadingTaken, Told, Unread, told


def body_with_names(body: dict[str, Any]) -> dict[str, Any]:
    """The groups of a drawing whose old boxes and what names their parts are of the form without names."""
    named = dict(body)
    for group, brought in (("old_boxes", _box), ("circuits", _circuit)):
        if isinstance(things := body.get(group), dict):
            named[group] = {handle: brought(thing) for handle, thing in things.items()}
    house = body.get("house")
    errand = house.get("errand") if isinstance(house, dict) else None
    if isinstance(house, dict) and isinstance(errand, dict) and isinstance(errand.get("replaces"), int):
        boxes = named.get("old_boxes") or {}
        box = boxes.get(errand.get("source"), next(iter(boxes.values()), {}))
        named["house"] = {**house, "errand": {**errand, "replaces": _device(box, errand["replaces"])}}
    return named


def _box(box: Any) -> Any:
    """An old box with names; what has no such shape stays, and is refused where it is read."""
    try:
        return box_with_names(box)
    except (AttributeError, LookupError, TypeError, ValueError):
        return box


def _circuit(circuit: Any) -> Any:
    found = circuit.get("found") if isinstance(circuit, dict) else None
    return {**circuit, "found": str(found)} if isinstance(found, int) else circuit


def _device(box: dict[str, Any], n: int) -> str:
    """The name of a device by its place; the first's where there is none at that."""
    held = box.get("held", [])
    return str(held[n - 1 if 0 < n <= len(held) else 0]["id"]) if held else ""


def box_with_names(box: dict[str, Any]) -> dict[str, Any]:
    """An old box with the names of its cables, conductors and devices, its joints, and what is on each
    terminal.

    Names that are there stay; those that are not are given by place.
    """
    cables, ends = [], []
    for n, cable in enumerate(box.get("cables", []), 1):
        leads = cable.get("leads", [])
        named = codes([lead.get("colour", "") for lead in leads])
        number = str(cable.get("id", n))
        told = [{"id": code, **_plain(lead)} for code, lead in zip(named, leads, strict=True)]
        ends += [(f"{number}.{lead['id']}", old) for lead, old in zip(told, leads, strict=True)]
        cables.append({"id": number, **cable, **({"leads": told} if told else {})})
    held = box.get("held", [])
    devices = [_named(d, name) for d, name in zip(held, _device_names(held), strict=True)]
    found = {**box, **({"cables": cables} if cables else {})}
    joints = [*box.get("joints", []), *_joints(ends, held, devices)]
    if joints:
        found["joints"] = joints
    if devices:
        _land(ends, devices)
        found["held"] = devices
    return found


_BY_NUMBER = ("joint", "device", "terminal")


def _plain(lead: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in lead.items() if name not in _BY_NUMBER}


def _named(held: dict[str, Any], name: str) -> dict[str, Any]:
    return {"id": name, **{field: value for field, value in held.items() if field != "tails"}}


def _device_names(held: Sequence[dict[str, Any]]) -> list[str]:
    """A device's letter alone where it is the only one of it, else with its number among them."""
    # A kind that is none is refused where the box is read.
    kinds = [held_kinds().get(str(h.get("kind", ""))) for h in held]
    letters = [kind.letter if kind else "X" for kind in kinds]
    return [
        letter if letters.count(letter) == 1 else f"{letter}{letters[: n + 1].count(letter)}"
        for n, letter in enumerate(letters)
    ]


def _joints(
    ends: Sequence[tuple[str, dict[str, Any]]],
    held: Sequence[dict[str, Any]],
    devices: Sequence[dict[str, Any]],
) -> list[list[str]]:
    """The joints of more than one end, in the order of their numbers."""
    found: dict[int, list[str]] = {}
    for end, lead in ends:
        if lead.get("joint"):
            found.setdefault(lead["joint"], []).append(end)
    for old, named in zip(held, devices, strict=True):
        for tail in old.get("tails", []):
            found.setdefault(tail["joint"], []).append(f"{named['id']}.{tail['terminal']}")
    return [members for _, members in sorted(found.items()) if len(members) > 1]


def _land(ends: Sequence[tuple[str, dict[str, Any]]], devices: Sequence[dict[str, Any]]) -> None:
    """What stands on a terminal that its device has, and is in no joint."""
    for end, lead in ends:
        n, terminal = lead.get("device", 0), lead.get("terminal", "")
        if lead.get("joint") or not 0 < n <= len(devices):
            continue
        kind = devices[n - 1].get("kind")
        if kind in held_kinds() and terminal in (*screws_of(kind), "g"):
            devices[n - 1].setdefault("lands", {}).setdefault(terminal, []).append(end)


# --- records -----------------------------------------------------------------------------------------------


def record_as_told(kind: str, body: dict[str, Any], box: FoundBox | None) -> Told:
    """A record of the form in which a reading was as people write it on a scrap of wood, and figures stood
    under their words.

    ``box`` is the old box of a reading as it was drawn then. What cannot be read is kept as it was.
    """
    written = _moment(body.get("at_time"))
    try:
        dated = {"written": written, "agreed": body.get("agreed", False)} if written else {}
        if kind == "step":
            return told({"record": "step", **_step(body), **dated})
        reading = read_reading(body, str(body.get("id", "")), box or FoundBox("junction", ()))
        found = ReadingTaken(
            reading=reading, locked=bool(body.get("locked")), by=str(body.get("by", "")), written=written
        )
        return replace(found, agreed=bool(body.get("agreed"))) if written else found
    except (NotAsked, AttributeError, LookupError, TypeError, ValueError) as wrong:
        return Unread(was=body, why=str(wrong), written=written)


def _moment(value: Any) -> datetime | None:
    try:
        return datetime.fromisoformat(value)
    except (TypeError, ValueError):
        return None


def _step(body: dict[str, Any]) -> dict[str, Any]:
    names = {
        "event": "event",
        "note": "note",
        "words": "words",
        "box": "box",
        "breaker": "breaker",
        "way": "way",
        "pairs": "pairs",
        "class": "work",
        "reckoned": "reckoned",
    }
    found = {new: body[old] for old, new in names.items() if old in body}
    found.setdefault("event", "done")
    if "figures" in body:
        # The words of a figure went by the practice; its unit does not, and no two have the same.
        by_unit = {f.unit: f.id for f in figures_in(USUAL).values()}
        found["figures"] = {by_unit.get(n.rpartition(", ")[2], n): v for n, v in body["figures"].items()}
    return found
