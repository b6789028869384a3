"""Boxes that may be sources, as JSON: what is asked of them, and the answer."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fjeld.errand.facts import BoxFacts, Gate
from fjeld.errand.source import Ranked, Source, next_due, rank, source
from fjeld.formats.found import read_box
from fjeld.formats.jobfile import convert
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.infer import EndIs
from fjeld.practice import Practice
from fjeld.practice.finished.roles import role_data
from fjeld.quantities import Unit

_BOX = frozenset(
    {
        "place",
        "gangs",
        "cables",
        "joints",
        "device",
        "devices",
        "readings",
        "material",
        "kind",
        "note",
        "name",
    }
)


def answer(body: Mapping[str, Any], practice: Practice, unit: Unit) -> tuple[dict[str, Any], bool]:
    """One box, or of several under ``boxes`` which; and whether it is refused, or none is left."""
    if "boxes" not in body:
        found = source(*read_source(body, unit), practice)
        return written(found), bool(found.refused or found.found.contradiction)
    if not isinstance(body["boxes"], list):
        raise NotAsked("boxes: a list is wanted")
    common = {k: v for k, v in body.items() if k != "boxes"}
    boxes = {}
    for n, box in enumerate(body["boxes"], 1):
        if not isinstance(box, dict):
            raise NotAsked(f"boxes[{n - 1}]: a box is wanted")
        name = str(box.get("name", n))
        if name in boxes:
            raise NotAsked(f"boxes: two are called “{name}”")
        boxes[name] = source(*read_source({**common, **box}, unit), practice)
    ranked = rank(boxes)
    return {
        "ranking": [_ranked(r) for r in ranked],
        "boxes": {name: written(found) for name, found in boxes.items()},
    }, all(r.standing == "refused" for r in ranked)


def read_source(body: Mapping[str, Any], unit: Unit) -> tuple[FoundBox, BoxFacts]:
    """A box and what else is known; raises :class:`NotAsked` or :class:`JobFileError` with the place."""
    facts = {k: v for k, v in body.items() if k not in _BOX}
    return read_box(body), convert(facts, BoxFacts, "$", unit)


def written(found: Source) -> dict[str, Any]:
    """The answer for one box, each cable under its number."""
    inferred = found.found
    following = next_due(found)
    kind = role_data().readings.get(following)
    unsure = [n for n in inferred.nets if n.carries == "?"]
    settles = next((g.words for g in found.open if following and g.settles == following), "")
    return {
        **{c.id: {"roles": c.roles, "word": c.word} for c in inferred.cables},
        "line": _line(inferred.carrying("l"), unsure),
        "neutral": _neutral(inferred.carrying("n"), unsure),
        "ends": {e: {"carries": _CARRIES[n.carries], "word": n.word} for n in inferred.nets for e in n.ends},
        "next": following or None,
        "why": inferred.next.why if inferred.next else settles,
        **({"how": kind.how, "caution": kind.caution} if kind else {}),
        **({"contradictory": inferred.contradiction, "stop": True} if inferred.contradiction else {}),
        "notes": list(inferred.notes),
        "source": _source(found),
        "gates": {g.id: _gate(g) for g in found.gates},
    }


_CARRIES = {
    "l": "line",
    "s": "switched line",
    "t": "traveller",
    "n": "neutral",
    "k": "link",
    "c": "tie of two commons",
    "x": "nothing",
    "?": "unknown",
}


def _line(lines: list[EndIs], unsure: list[EndIs]) -> Any:
    settled = [e for n in lines if n.word == "settled" for e in n.ends]
    if settled:
        return settled[0] if len(settled) == 1 else settled
    return "unknown" if lines or unsure else "none"


def _neutral(neutrals: list[EndIs], unsure: list[EndIs]) -> Any:
    if neutrals:
        return {"joint": list(neutrals[0].ends), "word": neutrals[0].word}
    return {"joint": [], "word": "unknown" if unsure else "none"}


def _source(found: Source) -> str:
    if found.refused:
        return f"no: {found.refused[0].words}"
    waits = [g.id for g in found.open]
    return f"ready when {', '.join(waits)} are" if waits else "ready"


def _gate(gate: Gate) -> dict[str, Any]:
    return {
        "asks": gate.asks,
        "is": gate.is_,
        "words": gate.words,
        **({"settles": gate.settles} if gate.settles else {}),
        **({"basis": gate.basis} if gate.basis else {}),
    }


def _ranked(ranked: Ranked) -> dict[str, Any]:
    return {
        "name": ranked.name,
        "standing": ranked.standing,
        "minutes": ranked.minutes,
        "readings": ranked.due,
        "worth": ranked.worth,
        "words": ranked.words,
    }
