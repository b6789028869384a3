"""What is asked for when a reading is taken: its fields for this box, and how what is typed is kept."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import combinations
from typing import Any, Literal

import msgspec

from fjeld.drawing.edits import EditRefused
from fjeld.formats.found import figure as figure_of
from fjeld.formats.found import number, read_reading, volts_of
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox, Nets, nets
from fjeld.oldbox.infer import Inferred
from fjeld.practice.finished.roles import ReadingKind, role_data
from fjeld.web.errand.logbook import written_at
from fjeld.web.ui.forms import given
from fjeld.web.ui.panel import Shown
from fjeld.work.records import ReadingTaken

_ByVolts = ("R4", "R17", "R8", "R3")


class Field(Shown, frozen=True):
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
    fields: list[Field]
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
    where = nets(box)
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
        for f in _fields(reading, box, where, found)
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


def _fields(reading: str, box: FoundBox, where: Nets, found: Inferred) -> list[Field]:
    if figures := role_data().readings[reading].figures:
        return [Field("figures", name, words) for name, words in figures]
    insulated = [name for c in box.cables for name in c.insulated]
    if reading == "R6b":
        joined = {n for net in found.carrying("n") for n in net.ends}
        return [Field("volts", n, n, True) for n in insulated if n in joined]
    if reading == "R8":
        return [Field("volts", n, n, True) for n in insulated]
    if reading in _ByVolts:
        first = [next(e for e in ends if e in insulated) for ends in where.ends if {*ends} & {*insulated}]
        return [Field("volts", n, " with ".join(where.ends[where.of[n]]), True) for n in first]
    lines = [n.ends[0] for n in found.carrying("l")]
    if reading == "R5":
        joints = [n.ends[0] for n in found.carrying("n")]
        return [Field("between", f"{a}-{b}", f"{a} to {b}", True) for a in lines[:1] for b in joints]
    if reading == "R15":
        return [Field("between", f"{a}-{b}", f"{a} to {b}") for a, b in combinations(lines, 2)]
    if reading == "R9":
        pairs = [
            (a, b)
            for one, two in combinations(box.cables, 2)
            for a, b in zip(one.insulated, two.insulated, strict=False)
        ]
        return [Field("ohms", f"{a}-{b}", f"{a} to {b}") for a, b in pairs]
    if reading == "R14":
        return [
            Field("ohms", f"{d.id}.brass-{d.id}.brass2", f"{d.id}, brass to brass")
            for d in box.devices
            if d.kind == "outlet"
        ]
    if reading == "R6":
        return [Field("amps", n.ends[0], " with ".join(n.ends)) for n in found.carrying("n")]
    return []


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


def _value(form: Mapping[str, Any], field: Field) -> Any:
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
