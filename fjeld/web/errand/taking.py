"""What is asked for when a reading is taken: its fields for this box, and how what is typed is kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from itertools import combinations
from typing import Any, Literal, NamedTuple

import msgspec

from fjeld.drawing.edits import EditRefused
from fjeld.formats.found import figure as figure_of
from fjeld.formats.found import number, read_reading, volts_of
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import BoxNets, FoundBox, nets
from fjeld.oldbox.infer import Inferred
from fjeld.practice.finished.roles import ReadingKind, role_data
from fjeld.web.errand.logbook import written_at
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Shown
from fjeld.work.records import ReadingTaken

_ByVolts = ("R4", "R17", "R8", "R3")


class ReadingField(Shown, frozen=True):
    """A field of a reading: ``what`` it is kept under, and the end or the pair that it is of."""

    what: Literal["volts", "between", "ohms", "amps", "figures"]
    of: str
    label: str
    loaded: bool = False
    value: str = ""
    under_load: str = ""

    @property
    def name(self) -> str:
        """Its name in the form."""
        return f"{self.what}:{self.of}"


class Taking(Shown, frozen=True, kw_only=True):
    """A reading to be taken: what it is, how, its caution, its fields; ``states`` where switches
    stand in it.
    """

    id: str
    kind: ReadingKind
    fields: list[ReadingField]
    switches: list[tuple[str, list[tuple[str, bool]]]]
    far: bool
    dies: list[str]
    loads: list[str]
    ring: bool
    lamp: bool
    off: list[tuple[str, bool]] = []
    typed: dict[str, str] = {}


def taking(reading: str, box: FoundBox, found: Inferred, form: Mapping[str, Any] = {}) -> Taking:
    """What a reading asks for of this box; with the form that was refused, as it was typed."""
    kind = role_data().readings[reading]
    switches = [
        (
            d.id,
            [
                (w, given(form, f"stands:{d.id}") == w)
                for w in (("open", "closed") if d.kind == "switch" else ("down", "up"))
            ],
        )
        for d in box.devices
        if d.kind in ("switch", "three-way", "four-way")
    ]
    stands = reading in _ByVolts
    fields = [
        msgspec.structs.replace(f, value=given(form, f.name), under_load=given(form, f"{f.name}:loaded"))
        for f in _fields(reading, _Asked(box, nets(box), found))
    ]
    return Taking(
        id=reading,
        kind=kind,
        fields=fields,
        switches=switches if stands else [],
        far=stands and reading != "R8",
        dies=[c.id for c in box.cables] if reading == "R16" else [],
        loads=[c.id for c in box.cables] if reading == "R10" else [],
        ring=reading == "R19",
        lamp=reading == "R5",
        off=[(f.of, given(form, "off") == f.of) for f in fields] if reading == "R3" else [],
        typed={name.replace(":", "_"): str(value)[:120] for name, value in form.items()},
    )


class _Asked(NamedTuple):
    """The box that a reading is taken in, and what is made out of it so far."""

    box: FoundBox
    where: BoxNets
    found: Inferred

    @property
    def insulated(self) -> list[str]:
        return [name for c in self.box.cables for name in c.insulated]

    @property
    def lines(self) -> list[str]:
        """An end of each joint that carries the line."""
        return [net.ends[0] for net in self.found.carrying("l")]


def _every_end(at: _Asked) -> list[ReadingField]:
    return [ReadingField("volts", end, end, True) for end in at.insulated]


def _returning_ends(at: _Asked) -> list[ReadingField]:
    joined = {end for net in at.found.carrying("n") for end in net.ends}
    return [ReadingField("volts", end, end, True) for end in at.insulated if end in joined]


def _every_joint(at: _Asked) -> list[ReadingField]:
    insulated = at.insulated
    first = [next(e for e in ends if e in insulated) for ends in at.where.ends if {*ends} & {*insulated}]
    return [ReadingField("volts", end, " with ".join(at.where.ends[at.where.of[end]]), True) for end in first]


def _line_to_neutrals(at: _Asked) -> list[ReadingField]:
    neutrals = [net.ends[0] for net in at.found.carrying("n")]
    return [ReadingField("between", f"{a}-{b}", f"{a} to {b}", True) for a in at.lines[:1] for b in neutrals]


def _between_lines(at: _Asked) -> list[ReadingField]:
    return [ReadingField("between", f"{a}-{b}", f"{a} to {b}") for a, b in combinations(at.lines, 2)]


def _cable_to_cable(at: _Asked) -> list[ReadingField]:
    pairs = [
        (a, b)
        for one, two in combinations(at.box.cables, 2)
        for a, b in zip(one.insulated, two.insulated, strict=False)
    ]
    return [ReadingField("ohms", f"{a}-{b}", f"{a} to {b}") for a, b in pairs]


def _brass_to_brass(at: _Asked) -> list[ReadingField]:
    outlets = [d.id for d in at.box.devices if d.kind == "outlet"]
    return [ReadingField("ohms", f"{d}.brass-{d}.brass2", f"{d}, brass to brass") for d in outlets]


def _neutral_amps(at: _Asked) -> list[ReadingField]:
    return [ReadingField("amps", net.ends[0], " with ".join(net.ends)) for net in at.found.carrying("n")]


_ASKS: Mapping[str, Callable[[_Asked], list[ReadingField]]] = {
    **dict.fromkeys(_ByVolts, _every_joint),
    "R8": _every_end,
    "R6b": _returning_ends,
    "R5": _line_to_neutrals,
    "R15": _between_lines,
    "R9": _cable_to_cable,
    "R14": _brass_to_brass,
    "R6": _neutral_amps,
}
"""What a reading takes of a box, by its number; one that is not here asks for figures of its own or for
circumstances alone.
"""


def _fields(reading: str, at: _Asked) -> list[ReadingField]:
    if figures := role_data().readings[reading].figures:
        return [ReadingField("figures", name, words) for name, words in figures]
    return _ASKS[reading](at) if reading in _ASKS else []


def written(form: Mapping[str, Any], taken: Taking, box: FoundBox) -> ReadingTaken:
    """What is kept of a reading; raises :class:`EditRefused` with the place of what cannot be read."""
    body: dict[str, Any] = {"id": taken.id}
    try:
        for field in taken.fields:
            value = _value(form, field)
            if value is not None:
                body.setdefault(field.what, {})[field.of] = value
        body |= _circumstances(form, taken)
        body["proven"] = bool(form.get("proven"))
        if not {"volts", "between", "ohms", "amps", "figures", "dies", "loads", "ring"} & {*body}:
            raise EditRefused("nothing was read: type at least one figure")
        reading = read_reading(body, taken.id, box)
    except NotAsked as wrong:
        raise EditRefused(str(wrong)) from None
    when, agreed, late = written_at(form)
    by = given(form, "by")[:60] if taken.kind.live else ""
    locked = taken.kind.live and bool(form.get("locked"))
    if late:
        return ReadingTaken(reading=reading, locked=locked, by=by, written=when, agreed=agreed)
    return ReadingTaken(reading=reading, locked=locked, by=by)


def _circumstances(form: Mapping[str, Any], taken: Taking) -> dict[str, Any]:
    """What was so while it was read; raises :class:`EditRefused` where something that it turns on is not
    said.
    """
    body: dict[str, Any] = {}
    if state := _state(form, taken):
        body["state"] = state
    for name, cables in (("dies", taken.dies), ("loads", taken.loads)):
        if cables:
            body[name] = [c for c in cables if form.get(f"{name}:{c}")]
    if taken.off:
        # Without it what is dead for want of its breaker would be read as never live.
        if given(form, "off") not in [end for end, _ in taken.off]:
            raise EditRefused("say what the breaker that is off is known to make dead")
        body["off"] = [given(form, "off")]
    if taken.ring:
        if given(form, "ring") not in ("yes", "no"):
            raise EditRefused("say whether the ends are one ring")
        body["ring"] = given(form, "ring") == "yes"
    if taken.lamp:
        body |= {"lamps_out": bool(form.get("lamps_out")), "lamp": given(form, "lamp")}
    if form.get("every_switch"):
        body["every_switch"] = True
    if taken.kind.live and form.get("power"):
        body["power"] = True
    return body


def _state(form: Mapping[str, Any], taken: Taking) -> str:
    """How the switches stood, those of the box by name and one elsewhere in words."""
    stood = [(name, given(form, f"stands:{name}")) for name, _ in taken.switches]
    far = given(form, "far")[:80]
    return ", ".join([*(f"{name} {how}" for name, how in stood if how), *([far] if far else [])])


def _value(form: Mapping[str, Any], field: ReadingField) -> Any:
    typed, loaded = given(form, field.name), given(form, f"{field.name}:loaded")
    if not typed:
        if loaded:
            raise EditRefused(f"{field.label}: the figure without a load is wanted too")
        return None
    if field.what == "figures":
        return figure_of(typed, field.label, field.label)
    if field.what in ("volts", "between"):
        volts = volts_of([typed, loaded] if loaded else typed, field.label)
        return volts.open if volts.loaded is None else [volts.open, volts.loaded]
    return number(typed, field.label)
