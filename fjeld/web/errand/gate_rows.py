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
    def yes_no(field: str) -> GateRow:
        value = getattr(old, field)
        return GateRow(
            gate=gate,
            field=field,
            label=_LABELS[field],
            value="" if value is None else "yes" if value else "no",
            options=YES_NO,
            figure="",
        )

    if gate.id == "G1":
        ground = GateRow(
            gate=gate, field="ground", label="A ground", value=old.ground, options=GROUNDS, figure=""
        )
        return [
            ground,
            GateRow(
                gate=gate,
                field="condition",
                label="Its wires",
                value=old.condition,
                options=CONDITIONS,
                figure="",
            ),
        ]
    if gate.id == "G4":
        kinds = [(k, k) for k in sources().local(practice).circuits]
        rows = [
            GateRow(
                gate=gate,
                field="serves",
                label="Its circuit",
                value=old.serves,
                options=(*kinds, ("", "?")),
                figure="",
            )
        ]
        if errand.wants == "outlet":
            rows.append(
                GateRow(
                    gate=gate,
                    field="fits",
                    label="What is new",
                    value=errand.fits,
                    options=_FITS,
                    figure="",
                    to="meant",
                )
            )
        return [*rows, _room(gate, use)] if gate.words.startswith(WHICH_ROOM) else rows
    if gate.id == "G5":
        read = {c.gauge for c in old.cables}
        gauge = read.pop() if len(read) == 1 else ""
        gauges = [(g, g) for g in practice.catalogue.wired_gauges()]
        return [
            GateRow(
                gate=gate, field="amps", label="", value=str(old.amps or ""), options=(), figure="Breaker, A"
            ),
            GateRow(
                gate=gate,
                field="gauge",
                label="Every cable",
                value=gauge,
                options=(*gauges, ("", "?")),
                figure="",
            ),
            GateRow(
                gate=gate,
                field="breaker",
                label="",
                value=old.breaker,
                options=(),
                figure="Which breaker it is",
                text=True,
            ),
            GateRow(
                gate=gate,
                field="breaker_read",
                label="It was seen to make the box dead",
                value="yes" if old.breaker_read else "",
                options=YES_NO[:2],
                figure="",
            ),
        ]
    if gate.id == "G6":
        beside = "" if old.beside is None else f"{old.beside:g}"
        return [
            GateRow(
                gate=gate,
                field="beside",
                label="",
                value=beside,
                options=(),
                figure="All that hangs on it, VA",
            ),
            GateRow(
                gate=gate,
                field="dies",
                label="",
                value=old.dies,
                options=(),
                figure="What else goes dead with it",
                text=True,
            ),
            *_new_load(gate, errand),
        ]
    if gate.id == "G7":
        if practice.counts_cables:
            return [
                GateRow(
                    gate=gate,
                    field="depth",
                    label="",
                    value=str(old.depth or ""),
                    options=(),
                    figure="Depth, mm",
                )
            ]
        return [
            GateRow(
                gate=gate,
                field="volume",
                label="",
                value=f"{old.volume:g}" if old.volume else "",
                options=(),
                figure="Volume, in³",
            ),
            yes_no("clamps"),
        ]
    if gate.id == "G9":
        return [
            _room(gate, use),
            GateRow(
                gate=gate,
                field="ahead",
                label="Protection ahead of it",
                value=old.ahead,
                options=ahead_words(practice),
                figure="",
            ),
        ]
    if gate.id in ("G8", "G10", "G12"):
        return [yes_no(_ASKED[gate.id])]
    return [GateRow(gate=gate, field="", label="", value="", options=(), figure="")]
