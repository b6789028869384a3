"""The consequence line: after every edit, one sentence of differences, each part a link."""

from __future__ import annotations

import msgspec

from fjeld.check import Finding
from fjeld.derive.plan import Plan
from fjeld.drawing.handles import order
from fjeld.drawing.model import Cable
from fjeld.quantities import FOOT, coarse, format_length


class Difference(msgspec.Struct, frozen=True):
    """A difference in words; ``handle`` is what it is about, ``tone`` worse, better or plain."""

    words: str
    handle: str = ""
    tone: str = "plain"


def consequence(
    before: Plan, after: Plan, found: list[Finding], left: list[Finding], done: str
) -> list[Difference]:
    """What an edit did to the plan, the edit's own words first."""
    told = _findings(found, left)
    # What got worse is never cut off: it stands right after what was done.
    worse = [p for p in told if p.tone == "worse"]
    rest = _moved(before, after) + _cable(before, after) + _boxes(before, after)
    parts = ([Difference(done)] if done else []) + worse + rest
    return parts[: max(7, len(worse) + 2)] + [p for p in told if p.tone != "worse"]


def _moved(before: Plan, after: Plan) -> list[Difference]:
    parts = []
    unit = after.drawing.house.unit
    for handle, placed in after.placed.items():
        old = before.placed.get(handle)
        if old is None or old.position == placed.position:
            continue
        moves = [
            f"{format_length(abs(new - was), unit)} {way[new > was]}"
            for was, new, way in zip(
                old.position,
                placed.position,
                (("west", "east"), ("north", "south"), ("down", "up")),
                strict=True,
            )
            if abs(new - was) >= 0.5
        ]
        parts.append(Difference(f"{handle} moved {' and '.join(moves)}", handle))
    return parts[:2]


def _cable(before: Plan, after: Plan) -> list[Difference]:
    parts = []

    def feet(plan: Plan) -> dict[str, float]:
        totals: dict[str, float] = {}
        for run in plan.runs():
            totals[run.kind.id] = totals.get(run.kind.id, 0.0) + plan.cables[run.cable].length / FOOT
        return totals

    old, new = feet(before), feet(after)
    for kind in sorted({*old, *new}):
        change = new.get(kind, 0.0) - old.get(kind, 0.0)
        if abs(change) > 0.04:
            parts.append(
                Difference(
                    f"{coarse(abs(change) * FOOT, after.drawing.house.unit)}"
                    f" {'more' if change > 0 else 'less'} {kind}",
                    tone="plain",
                )
            )
    holes = len(after.holes) - len(before.holes)
    if holes:
        parts.append(
            Difference(f"{abs(holes)} hole{'s' if abs(holes) > 1 else ''} {'more' if holes > 0 else 'less'}")
        )
    fresh = [h for h in after.drawing.of(Cable) if h not in before.drawing.items]
    if fresh and len(fresh) <= 3:
        parts.append(Difference(f"{', '.join(sorted(fresh, key=order))} laid", fresh[0]))
    return parts


def _boxes(before: Plan, after: Plan) -> list[Difference]:
    parts = []
    for handle, box in after.boxes.items():
        old = before.boxes.get(handle)
        if old and box.ends and (old.needed.total, old.kind.id) != (box.needed.total, box.kind.id):
            still = "passes" if box.passes else "is over-full"
            parts.append(
                Difference(
                    f"{handle} {still}, {box.needed.total:g} of {box.kind.volume:g}",
                    handle,
                    "plain" if box.passes else "worse",
                )
            )
    return parts[:2]


def _findings(found: list[Finding], left: list[Finding]) -> list[Difference]:
    old, new = {f.key for f in found}, {f.key for f in left}
    fresh = [f for f in left if f.key not in old]
    dangers = [f for f in fresh if f.severity == "danger"]
    breaches = [f for f in fresh if f.severity == "breach"]
    parts = [Difference(f.words, f.handles[0], "worse") for f in (*dangers, *breaches[:2])]
    if len(breaches) > 2:
        parts.append(Difference(f"{len(breaches) - 2} more breaches", tone="worse"))
    gone = len(old - new)
    if gone:
        parts.append(Difference(f"{gone} finding{'s' if gone > 1 else ''} settled", tone="better"))
    return parts
