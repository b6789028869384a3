"""A device of an old box replaced, as JSON: what is asked, and the answer."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from fjeld.drawing.errand import Becomes
from fjeld.formats.found import read_box
from fjeld.judge.answer import NotAsked
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.replacing import Replaced, replaced_in
from fjeld.oldbox.still_live import fed_at, still_live
from fjeld.practice import Practice


def answer(body: Mapping[str, Any], practice: Practice) -> tuple[dict[str, Any], bool]:
    """A box with the device that is replaced (the first) and what it ``becomes``; and whether it is refused,
    or fails.
    """
    box = read_box(body)
    becomes = body.get("becomes", "same")
    if becomes not in get_args(Becomes):
        raise NotAsked(f"becomes: “{str(becomes)[:20]}” is none of {', '.join(get_args(Becomes))}")
    name = str(body.get("replaces", box.devices[0].id if box.devices else ""))
    gauge = next((c.gauge for c in box.cables if c.gauge), str(body.get("gauge", "")))
    if gauge and gauge not in {g.id for g in practice.catalogue.gauges}:
        raise NotAsked(f"there is no gauge “{gauge[:20]}”")
    found = replaced_in(box, name, becomes, practice, gauge)
    refused = not found.moves or found.verdict == "fails"
    return _written(found, box, name, practice), refused


def _written(found: Replaced, box: FoundBox, name: str, practice: Practice) -> dict[str, Any]:
    off = fed_at(box, next(d for d in box.devices if d.id == name))
    return {
        "verdict": found.verdict or "refused",
        **({"excludes": found.excludes} if found.excludes else {}),
        "moves": [
            {
                "ends": list(m.with_),
                "off": list(m.off),
                "onto": m.onto or m.tail,
                "count": m.count,
                "connectors": list(m.connectors),
                "words": practice.said(m.words),
            }
            for m in found.moves
        ],
        "said": [{"tone": s.tone, "words": practice.said(s.words)} for s in found.said],
        "cases": [
            {"roles": dict(c.roles), "share": round(c.share, 4), "works": c.works, "why": c.why}
            for c in found.cases
        ],
        "live still": (
            [
                {"ends": list(s.ends), "share": round(s.share, 4), "why": s.why}
                for s in still_live(box, off, practice)
            ]
            if off
            else []
        ),
    }
