"""The gates of an old box on its page: what each asks, how it is answered, and which readings tell of it."""

from __future__ import annotations

from typing import get_args

import msgspec

from fjeld.drawing.building import RoomUse
from fjeld.drawing.errand import NEW, Errand
from fjeld.drawing.old_box import OldBox
from fjeld.errand.facts import WHICH_ROOM, Gate
from fjeld.errand.source import Source as Judged
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources
from fjeld.web.errand.panels import GateRow
from fjeld.web.places.looked import CONDITIONS, GROUNDS, YES_NO, ahead_words
from fjeld.web.ui.panel import Choices

_ASKED: dict[str, str] = {
    "G4": "serves",
    "G5": "amps",
    "G7": "volume",
    "G8": "opening",
    "G10": "alone",
    "G12": "accessible",
}


def gate_rows(
    judged: Judged | None, old: OldBox, errand: Errand, use: str, practice: Practice
) -> list[GateRow]:
    """Every gate with how it is answered, in the practice's words."""
    if judged is None:
        return []
    rows: list[GateRow] = []
    for gate in judged.gates:
        told = msgspec.structs.replace(gate, asks=practice.said(gate.asks), words=practice.said(gate.words))
        first, *more = _rows(told, old, errand, use, practice)
        rows += [msgspec.structs.replace(first, readings=_telling(gate, practice)), *more]
    return [msgspec.structs.replace(r, label=practice.said(r.label)) for r in rows]


#: Readings of the circuit that tell of a gate, beside the one that settles it.
_BESIDE = {"G1": ("R7", "R18"), "G9": ("R20", "R21")}


def _telling(gate: Gate, practice: Practice) -> Choices:
    """The readings of a gate that can be taken on the screen."""
    known = role_data().readings
    names = dict.fromkeys((gate.settles, *_BESIDE.get(gate.id, ())))
    return [
        (n, practice.said(f"{n}, {known[n].name[:1].lower()}{known[n].name[1:]}"))
        for n in names
        if n in known and n not in ("R1", "R11") and practice.of(known[n].practice)
    ]


#: What an errand for an outlet or a switch brings.
_FITS: Choices = (("outlet", "an outlet"), ("switch", "a switch"), ("", "?"))
_LABELS = {
    "clamps": "Clamps inside",
    "opening": "An opening is free",
    "alone": "One circuit alone",
    "accessible": "It stays within reach",
}


def _new_load(gate: Gate, errand: Errand) -> list[GateRow]:
    """What is new takes, where something new comes: of a lamp it stands on it."""
    if errand.wants not in NEW:
        return []
    takes = "" if errand.takes is None else f"{errand.takes:g}"
    return [
        GateRow(
            gate=gate,
            field="takes",
            label="",
            value=takes,
            options=(),
            figure="What is new takes, VA",
            to="meant",
        ),
        GateRow(
            gate=gate,
            field="hours",
            label="It is on for hours on end",
            value="yes" if errand.hours else "",
            options=YES_NO[:2],
            figure="",
            to="meant",
        ),
    ]


def _room(gate: Gate, use: str) -> GateRow:
    uses = [(u, u) for u in get_args(RoomUse) if u != "other"]
    return GateRow(
        gate=gate,
        field="use",
        label="The room",
        value="" if use == "other" else use,
        options=(*uses, ("", "?")),
        figure="",
    )


def _rows(gate: Gate, old: OldBox, errand: Errand, use: str, practice: Practice) -> list[GateRow]:
    match gate.id:
        case "G1":
            ground = _chosen(gate, "ground", "A ground", old.ground, GROUNDS)
            return [ground, _chosen(gate, "condition", "Its wires", old.condition, CONDITIONS)]
        case "G4":
            return _of_kind(gate, old, errand, use, practice)
        case "G5":
            return _of_breaker(gate, old, practice)
        case "G6":
            beside = "" if old.beside is None else f"{old.beside:g}"
            return [
                _figure(gate, "beside", "All that hangs on it, VA", beside),
                _figure(gate, "dies", "What else goes dead with it", old.dies, text=True),
                *_new_load(gate, errand),
            ]
        case "G7" if practice.counts_cables:
            return [_figure(gate, "depth", "Depth, mm", str(old.depth or ""))]
        case "G7":
            volume = f"{old.volume:g}" if old.volume else ""
            return [_figure(gate, "volume", "Volume, in³", volume), _yes_no(gate, old, "clamps")]
        case "G9":
            ahead = _chosen(gate, "ahead", "Protection ahead of it", old.ahead, ahead_words(practice))
            return [_room(gate, use), ahead]
        case "G8" | "G10" | "G12":
            return [_yes_no(gate, old, _ASKED[gate.id])]
        case _:
            return [GateRow(gate=gate, field="", label="", value="", options=(), figure="")]


def _chosen(gate: Gate, field: str, label: str, value: str, options: Choices) -> GateRow:
    """An answer out of some."""
    return GateRow(gate=gate, field=field, label=label, value=value, options=options, figure="")


def _figure(gate: Gate, field: str, figure: str, value: str, text: bool = False) -> GateRow:
    """An answer that is typed."""
    return GateRow(gate=gate, field=field, label="", value=value, options=(), figure=figure, text=text)


def _yes_no(gate: Gate, old: OldBox, field: str) -> GateRow:
    value = getattr(old, field)
    return _chosen(gate, field, _LABELS[field], "" if value is None else "yes" if value else "no", YES_NO)


def _of_kind(gate: Gate, old: OldBox, errand: Errand, use: str, practice: Practice) -> list[GateRow]:
    """What the circuit serves, and what is new on it."""
    kinds = [(k, k) for k in sources().local(practice).circuits]
    rows = [_chosen(gate, "serves", "Its circuit", old.serves, (*kinds, ("", "?")))]
    if errand.wants == "outlet":
        fits = _chosen(gate, "fits", "What is new", errand.fits, _FITS)
        rows.append(msgspec.structs.replace(fits, to="meant"))
    return [*rows, _room(gate, use)] if gate.words.startswith(WHICH_ROOM) else rows


def _of_breaker(gate: Gate, old: OldBox, practice: Practice) -> list[GateRow]:
    """The breaker, the gauge of the cables behind it, and whether it was seen to make the box dead."""
    read = {c.gauge for c in old.cables}
    gauge = read.pop() if len(read) == 1 else ""
    gauges = [(g, g) for g in practice.catalogue.wired_gauges()]
    seen = "It was seen to make the box dead"
    return [
        _figure(gate, "amps", "Breaker, A", str(old.amps or "")),
        _chosen(gate, "gauge", "Every cable", gauge, (*gauges, ("", "?"))),
        _figure(gate, "breaker", "Which breaker it is", old.breaker, text=True),
        _chosen(gate, "breaker_read", seen, "yes" if old.breaker_read else "", YES_NO[:2]),
    ]
