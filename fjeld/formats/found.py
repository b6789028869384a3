"""A box as it was found, as JSON: written as one would on a scrap of wood, and read with care.

``{"place": "switch", "cables": [{"id": 1, "cond": ["BK", "WH", "G"]}], "joints": [["1.WH", "2.WH"]],
"device": {"kind": "switch", "a": "1.BK", "b": "2.BK"}, "readings": [{"id": "R4", "state": "S open",
"1.BK": 120.1, "tester": "proven before and after"}]}``
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, get_args

from fjeld.drawing.ends import EARTH, End, is_ground, plain
from fjeld.drawing.old_box import Device, OldCable, cable_of
from fjeld.judge.answer import NotAsked
from fjeld.judge.volts import Volts, impossible
from fjeld.oldbox.found import FoundBox, Place, Reading
from fjeld.practice.colours import code_of
from fjeld.practice.devices import held_kinds, screws_of
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources

#: What people write for a kind, and for a screw of it.
_KINDS: dict[str, str] = {
    word: kind.held for kind in held_kinds().values() for word in (kind.held, *kind.also)
}
_TERMINALS = {
    kind.held: {word: s.id for s in kind.screws for word in s.also} for kind in held_kinds().values()
}
_GROUND = frozenset({"g", "ground", "earth", "green", "e", "cpc"})
_EARTH = frozenset({"earth", "ground", "e", "g", "panel ground"})
_TAKEN = frozenset(
    {
        "id",
        "reading",
        "kind",
        "state",
        "at",
        "time",
        "tester",
        "proven",
        "instrument",
        "parted",
        "every_switch",
        "lamps_out",
        "lamps out",
        "lamp",
        "lamp_in",
        "power",
        "locked",
        "by",
        "at_time",
        "agreed",
        "dies",
        "ring",
        "off",
        "loads",
        "words",
        "volts",
        "between",
        "ohms",
        "amps",
        "figures",
        "who",
        "note",
    }
)


def read_box(body: Mapping[str, Any]) -> FoundBox:
    """A box out of JSON; raises :class:`NotAsked` with the place of what cannot be read."""
    place = _place(body.get("place", "junction"))
    cables = tuple(_cable(c, n) for n, c in enumerate(_list(body.get("cables", []), "cables"), 1))
    if len({c.id for c in cables}) < len(cables):
        raise NotAsked("cables: two have the same number")
    written = _list(body.get("devices", [body["device"]] if body.get("device") else []), "devices")
    devices = tuple(_devices(written))
    first = devices[0].id if devices else ""
    ends = _Ends(cables, devices, first)
    joints = tuple(
        tuple(ends.name(e, f"joints[{n}]") for e in _list(j, f"joints[{n}]"))
        for n, j in enumerate(_list(body.get("joints", []), "joints"))
    )
    landed = tuple(_landed(d, w, ends) for d, w in zip(devices, written, strict=True))
    ends.joints = joints
    readings = tuple(
        _reading(r, f"readings[{n}]", ends) for n, r in enumerate(_list(body.get("readings", []), "readings"))
    )
    return FoundBox(place, cables, joints, landed, readings)


def read_reading(body: Mapping[str, Any], place: str, box: FoundBox) -> Reading:
    """A reading of a box that is recorded; raises :class:`NotAsked` where it is of what is not in the box."""
    ends = _Ends(box.cables, box.devices, box.devices[0].id if box.devices else "")
    ends.joints = box.joints
    return _reading(body, place, ends)


def _table(value: Any, place: str) -> dict[str, Any]:
    if not isinstance(value, dict) or not all(isinstance(k, str) for k in value):
        raise NotAsked(f"{place}: a table is wanted, each figure under its name")
    return value


def _list(value: Any, place: str) -> Sequence[Any]:
    if not isinstance(value, list):
        raise NotAsked(f"{place}: a list is wanted")
    return value


def _place(value: Any) -> Place:
    known: dict[str, Place] = {
        "light": "ceiling",
        "fixture": "ceiling",
        "socket": "outlet",
        "receptacle": "outlet",
    }
    known |= {p: p for p in get_args(Place)}
    if not isinstance(value, str) or value not in known:
        raise NotAsked(f"place: “{str(value)[:40]}” is none of {', '.join(get_args(Place))}")
    return known[value]


def _cable(value: Any, n: int) -> OldCable:
    if not isinstance(value, dict) or "cond" not in value:
        raise NotAsked(f'cables[{n - 1}]: a cable is written {{"id": 1, "cond": ["BK", "WH", "G"]}}')
    colours: list[str] = []
    for written in _list(value["cond"], f"cables[{n - 1}].cond"):
        colour = code(str(written))
        # Two of one colour in a cable are told apart by a number.
        same = sum(plain(c) == colour for c in colours)
        colours.append(f"{colour}{same + 1}" if same else colour)
    marked = value.get("marked", {})
    if not isinstance(marked, dict) or not {*map(str, marked)} <= {*colours}:
        raise NotAsked(f'cables[{n - 1}].marked: written {{"WH": "BK"}}, of conductors that are in it')
    sheath = str(value.get("sheath", ""))
    known = {s for local in (sources().na, sources().gb) for s in local.sheaths}
    if sheath and sheath not in known:
        raise NotAsked(f"cables[{n - 1}].sheath: “{sheath}” is none of {', '.join(sorted(known))}")
    told = {str(c): code(str(m)) for c, m in marked.items()}
    return cable_of(str(value.get("id", n)), tuple(colours), str(value.get("gauge", "")), sheath, told)


def code(written: str) -> str:
    """The code of a colour as written: a code as it is, a word by what it means."""
    found = code_of(written)
    return found if found != "?" else written.strip().upper()


def _devices(written: Sequence[Any]) -> Iterator[Device]:
    names: list[str] = []
    for n, value in enumerate(written):
        if not isinstance(value, dict):
            raise NotAsked(f"devices[{n}]: a device is written with its kind and what lands on each terminal")
        kind = _KINDS.get(str(value.get("kind", "")).strip().lower())
        if kind is None:
            raise NotAsked(f"devices[{n}].kind: “{value.get('kind')}” is none of {', '.join(held_kinds())}")
        base = str(value.get("id", held_kinds()[kind].letter))
        names.append(base)
        name = base if names.count(base) == 1 else f"{base}{names.count(base)}"
        tab = str(value.get("tab", "whole"))
        if tab not in ("whole", "broken"):
            raise NotAsked(f"devices[{n}].tab: it is whole or broken")
        yield Device(name, kind, {}, tab)  # type: ignore[arg-type]


def _landed(device: Device, written: Mapping[str, Any], ends: _Ends) -> Device:
    lands: dict[str, tuple[End, ...]] = {}
    for terminal, value in written.items():
        if terminal in ("kind", "id", "tab", "push_in", "gangs"):
            continue
        name = ends.terminal(device, terminal)
        values = value if isinstance(value, list) else [value]
        lands[name] = (*lands.get(name, ()), *(ends.name(v, device.at(terminal)) for v in values if v))
    return Device(device.id, device.kind, lands, device.tab)


class _Ends:
    """The names that a record may use, and what they stand for."""

    def __init__(self, cables: Sequence[OldCable], devices: Sequence[Device], first: str) -> None:
        self.conductors = {e.upper(): e for c in cables for e in c.ends}
        self.devices = {d.id.lower(): d for d in devices} | ({"dev": devices[0]} if devices else {})
        self.joints: tuple[tuple[End, ...], ...] = ()
        self.first = first

    def terminal(self, device: Device, written: str) -> str:
        """A terminal of a device by any of its names."""
        plain = written.strip().lower()
        if plain in _GROUND and plain not in screws_of(device.kind):
            return "g"
        name = _TERMINALS.get(device.kind, {}).get(plain, plain)
        if name not in screws_of(device.kind):
            raise NotAsked(
                f"{device.id}: there is no terminal “{written}”; there is"
                f" {', '.join(screws_of(device.kind))}, g"
            )
        return name

    def name(self, written: Any, place: str) -> End:
        """A conductor, or a terminal of a device."""
        text = str(written).strip()
        cable, _, rest = text.partition(".")
        if text.upper() in self.conductors:
            return self.conductors[text.upper()]
        if (named := f"{cable}.{code(rest)}".upper()) in self.conductors:
            return self.conductors[named]
        if cable.lower() in self.devices and rest:
            device = self.devices[cable.lower()]
            return device.at(self.terminal(device, rest))
        if text.lower() == "joint":
            for joint in self.joints:
                if not any(is_ground(e) for e in joint):
                    return joint[0]
        if text.lower() in _EARTH:
            return EARTH
        raise NotAsked(
            f"{place}: there is no “{text}” in this box; there is {', '.join(self.conductors.values())}"
        )


# --- readings ------------------------------------------------------------------------------


def _reading(value: Any, place: str, ends: _Ends) -> Reading:
    if not isinstance(value, dict):
        raise NotAsked(f'{place}: a reading is written {{"id": "R4", "1.BK": 120.1}}')
    name = str(value.get("id", value.get("reading", value.get("kind", "")))).strip()
    if not re.fullmatch(r"R\d{1,2}[ab]?", name):
        raise NotAsked(f"{place}: “{name}” is no reading; they are R1 to R21")
    to_earth, between = _volts(value, place, ends)
    lamp = str(value.get("lamp", "")).lower()
    known = {k: v for k, v in value.items() if k in ("every_switch", "parted", "ring")}
    return Reading(
        id=name,
        state=_state(value.get("state", {}), ends),
        to_earth=to_earth,
        words={
            ends.name(k, place): _word(v, place)
            for k, v in _table(value.get("words", {}), f"{place}.words").items()
        },
        between=between,
        ohms=tuple(
            (*_pair(k, place, ends), number(v, f"{place}.{k}"))
            for k, v in _table(value.get("ohms", {}), f"{place}.ohms").items()
        ),
        proven=_proven(value),
        at=str(value.get("at", value.get("time", ""))),
        parted=_yes(known.get("parted", name == "R8")),
        every_switch=_yes(known.get("every_switch", False)),
        lamps_out=_yes(value.get("lamps_out", value.get("lamps out", False))),
        lamp=lamp if lamp in ("bright", "dim", "dark") else "",  # type: ignore[arg-type]
        dies=tuple(str(d) for d in _list(value["dies"], f"{place}.dies")) if "dies" in value else None,
        loads=tuple(str(c) for c in _list(value.get("loads", []), f"{place}.loads")),
        off=tuple(ends.name(e, f"{place}.off") for e in _list(value.get("off", []), f"{place}.off")),
        ring=_yes(known["ring"]) if "ring" in known else None,
        amps={
            ends.name(k, place): number(v, f"{place}.{k}")
            for k, v in _table(value.get("amps", {}), f"{place}.amps").items()
        },
        figures=_figures(value.get("figures", {}), name, place),
        power=_yes(value.get("power", False)),
    )


def _figures(value: Any, reading: str, place: str) -> dict[str, float]:
    """Figures of the circuit, by the names that the reading has for them."""
    kind = role_data().readings.get(reading)
    known = dict(kind.figures) if kind else {}
    if not isinstance(value, dict) or not {*value} <= {*known}:
        raise NotAsked(f"{place}.figures: of {reading} they are {', '.join(known) or 'none'}")
    return {k: figure(v, known[k], f"{place}.{k}") for k, v in value.items()}


def figure(value: Any, words: str, place: str) -> float:
    """A figure of the circuit, without a unit or in the one that its ``words`` end with; raises
    :class:`NotAsked`.
    """
    unit = words.rpartition(", ")[2]
    said = re.search(r"[A-Za-zΩ]+$", str(value).strip())
    if isinstance(value, str) and " " not in unit and said and said[0] != unit:
        raise NotAsked(f"{place}: “{value[:20]}” is not in {unit}")
    return number(value, place)


def _yes(value: Any) -> bool:
    return value is True or str(value).strip().lower() in ("yes", "true", "1", "in", "out")


def _proven(value: Mapping[str, Any]) -> bool:
    """Whether the tester was proven before and after; half of it is not."""
    said = value.get("proven", value.get("tester", False))
    if isinstance(said, bool):
        return said
    text = str(said).lower()
    return "before" in text and "after" in text and "not" not in text


def _word(value: Any, place: str) -> Any:
    text = str(value).strip().lower()
    if text not in ("always", "sometimes", "never"):
        raise NotAsked(f"{place}: “{value}” is none of always, sometimes, never")
    return text


def _state(value: Any, ends: _Ends) -> dict[str, str]:
    """``{"S": "open"}``, or as one says it: ``S open, S3 off``. One switch in the box needs no name."""
    if isinstance(value, str):
        pairs = [part.split() for part in re.split(r"[,;]", value) if part.strip()]
        value = {" ".join(p[:-1]) or ends.first: p[-1] for p in pairs}
    found = {}
    for name, stands in _table(value, "state").items():
        device = ends.devices.get(str(name).lower())
        own = device is None and str(name).lower() in ("switch", "here") and ends.first
        found[device.id if device else own or str(name)] = str(stands).lower()
    return found


def _volts(
    value: Mapping[str, Any], place: str, ends: _Ends
) -> tuple[dict[End, Volts], tuple[tuple[End, End, Volts], ...]]:
    """Voltages, under ``volts`` and ``between`` or bare by their names; one name is to earth, two are
    between.
    """
    written = {k: v for k, v in value.items() if k not in _TAKEN}
    written |= _table(value.get("volts", {}), f"{place}.volts")
    between = value.get("between", {})
    if isinstance(between, list):
        between = dict(_between(b, f"{place}.between[{n}]") for n, b in enumerate(between))
    written |= _table(between, f"{place}.between")
    to_earth: dict[End, Volts] = {}
    pairs: list[tuple[End, End, Volts]] = []
    for name, reads in written.items():
        volts = volts_of(reads, f"{place}.{name}")
        if not re.search(r"[-–—]|\bto\b", name):
            to_earth[ends.name(name, place)] = volts
            continue
        a, b = _pair(name, place, ends)
        if EARTH in (a, b):
            to_earth[b if a == EARTH else a] = volts
        else:
            pairs.append((a, b, volts))
    return to_earth, tuple(pairs)


def _between(value: Any, place: str) -> tuple[str, dict[str, Any]]:
    """A voltage between two ends that are named apart."""
    told = _table(value, place)
    if not {"a", "b"} <= {*told}:
        raise NotAsked(f"{place}: the two ends are written a and b")
    return f"{told['a']} - {told['b']}", {k: v for k, v in told.items() if k not in ("a", "b")}


def _pair(name: str, place: str, ends: _Ends) -> tuple[End, End]:
    parts = [p.strip() for p in re.split(r"\s*[-–—]\s*|\s+to\s+", name) if p.strip()]
    if len(parts) != 2:
        raise NotAsked(f"{place}: “{name}” is not two ends; write 1.BK-2.BK")
    return ends.name(parts[0], place), ends.name(parts[1], place)


def number(value: Any, place: str) -> float:
    """A number as a meter shows it, its unit allowed; raises :class:`NotAsked`."""
    if isinstance(value, int | float) and not isinstance(value, bool):
        found = float(value)
    else:
        said = re.fullmatch(
            r"\s*>?\s*(\d+(?:[.,]\d+)?)\s*(V|v|volts?|Ω|MΩ|ohms?|A|a|ms)?\s*(∞|V∞|V3|open|loaded)?\s*",
            str(value),
        )
        if not said:
            raise NotAsked(f"{place}: “{value}” is not a reading; write it as the meter shows it, 120.1")
        found = float(said[1].replace(",", "."))
    if not 0 <= found <= 1e9:
        raise NotAsked(f"{place}: no meter shows {value}")
    return found


def volts_of(value: Any, place: str) -> Volts:
    """A voltage: one figure, or the one with the open input and the one under load; raises
    :class:`NotAsked`.
    """
    found = _volts_of(value, place)
    if why := impossible(found):
        raise NotAsked(f"{place}: {why}")
    return found


def _volts_of(value: Any, place: str) -> Volts:
    if isinstance(value, str) and "," in value and ("3" in value or "∞" in value):
        value = value.split(",")
    if isinstance(value, list) and len(value) == 2:
        return Volts(number(value[0], place), number(value[1], place))
    if isinstance(value, dict):
        names = {"open": 0, "inf": 0, "V∞": 0, "v_inf": 0, "loaded": 1, "v3": 1, "V3": 1, "load": 1}
        unknown = [k for k in value if k not in names]
        if unknown:
            raise NotAsked(f"{place}: “{unknown[0]}” is neither open nor loaded")
        figures: list[float | None] = [None, None]
        for k, v in value.items():
            figures[names[k]] = number(v, place)
        open_, loaded = figures
        if open_ is None and loaded is None:
            raise NotAsked(f"{place}: no voltage is given")
        return Volts(loaded if open_ is None else open_, loaded)  # type: ignore[arg-type]
    return Volts(number(value, place))
