"""Rules looked at. A finding says what was checked, by which rule, with its sum and verdict."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from fjeld.check import boxes, circuits, layout, proof, protection, runs, sources, survey, zones
from fjeld.check.finding import RANK, Finding, Waypoint, require_all_looked_at
from fjeld.derive.memo import Remember, always
from fjeld.derive.plan import Plan
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Override
from fjeld.practice import Applies
from fjeld.quantities import NotKnown

__all__ = ["RANK", "Finding", "Waypoint", "applies", "check", "open_findings", "rests"]

require_all_looked_at()


def check(plan: Plan, remember: Remember = always) -> list[Finding]:
    """Every rule looked at on a plan, the worst first, each kind together."""

    def all_of() -> Iterator[Finding]:
        for module in (survey, layout, circuits, sources, protection, runs, zones, boxes):
            yield from module.check(plan)
        yield from proof.check(plan, remember)

    found = (_as_known(f) for f in all_of() if applies(plan, f))
    return sorted(found, key=lambda f: (not f.open, RANK[f.severity], f.rule.id, f.handles))


def _as_known(finding: Finding) -> Finding:
    """What a measure that nobody has taken could turn does not pass: it waits for the reading."""
    if finding.open or not finding.rests_on or _far_within(finding):
        return finding
    return msgspec.structs.replace(finding, verdict=NotKnown(" and ".join(finding.rests_on[:3])), grade="ask")


def _far_within(finding: Finding) -> bool:
    """Whether a sum that is to be at most so much is so, whatever a tape would say of what is
    assumed in it.
    """
    sum_, limit = finding.working, finding.limit
    return sum_ is not None and limit is not None and not finding.assumed and sum_.at_most <= limit


def applies(plan: Plan, finding: Finding) -> bool:
    """Whether a rule binds the work that its finding is about.

    What is there already in a room that is left as it stands is no new work; what is added
    to it extends it. A finding is about the room of the first thing it names that is in one.
    """
    rooms = plan.drawing.of(Room)
    for handle in finding.handles:
        item = plan.drawing.items.get(Handle(handle))
        room = item if isinstance(item, Room) else rooms.get(getattr(item, "room", Handle("")))
        if room is not None:
            return bool(set(WORK[room.work]) & set(finding.rule.applies_to))
    # Of the house as a whole: new while any room of it is.
    standing = bool(rooms) and all(room.work == "as it stands" for room in rooms.values())
    return bool(set(WORK["as it stands" if standing else "new"]) & set(finding.rule.applies_to))


#: What a rule must apply to, to bind what is drawn in a room.
WORK: dict[str, tuple[Applies, ...]] = {
    "new": ("new", "extension"),
    "as it stands": ("extension", "finished wall"),
}


def open_findings(plan: Plan, remember: Remember = always) -> list[Finding]:
    """The findings that still ask for something, overridden ones left out."""
    overridden = plan.drawing.house.overrides
    return [f for f in check(plan, remember) if f.open and not rests(f, overridden.get(f.key))]


def rests(finding: Finding, override: Override | str | None) -> bool:
    """Whether an override still covers a finding: not once it is graver, or misses by more, than when it was
    given.
    """
    if override is None or isinstance(override, str):
        return override is not None
    if override.severity and RANK[finding.severity] < RANK[override.severity]:
        return False
    if override.measure is None or finding.measure is None:
        return True
    return finding.measure <= override.measure + max(0.5, 1e-3 * abs(override.measure))
