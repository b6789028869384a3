"""Whether a box in which a device was replaced allows what it did, and every end is live as it was."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec
from msgspec.structs import replace

from fjeld.drawing.ends import End
from fjeld.drawing.errand import Becomes
from fjeld.drawing.old_box import Device
from fjeld.oldbox.found import BoxNets, FoundBox, nets
from fjeld.oldbox.hypotheses import Hypothesis, hypotheses
from fjeld.oldbox.shows import Shows, shows
from fjeld.oldbox.tie_in import Case
from fjeld.oldbox.weighed import One, Weighed, groups
from fjeld.practice import Practice
from fjeld.practice.devices import screws_of


class Afterwards(msgspec.Struct, frozen=True):
    """The cables and devices about one that was replaced by ``becomes``."""

    device: Device
    becomes: Becomes
    box: FoundBox
    where: BoxNets
    rings: bool


def afterwards(after: FoundBox, device: Device, becomes: Becomes, practice: Practice) -> Afterwards:
    """What a box may be in which a ``device`` was replaced."""
    group = next(g for g in groups(after) if device.id in {d.id for d in g.devices})
    return Afterwards(device, becomes, group, nets(group), practice.rings)


def as_before(weighed: Weighed, one: One, after: Afterwards) -> Case:
    """Whether the box afterwards allows a case, and shows in it what it showed before. A protective outlet
    that was fed at its LOAD side is never left so.
    """
    h, before = one.hypothesis, one.shows
    mine = {c.id: b for c, b in zip(weighed.box.cables, h.cables, strict=True)}
    roles = tuple((c, b.role) for c, b in mine.items())
    case = Case(roles, one.share, False, controls=before.controls)
    device, where = after.device, after.where
    best: Case | None = None
    # What lay beyond a cable lies beyond it still.
    there = {c.id for c in after.box.cables}
    for now in hypotheses(after.box, where, after.rings, given=mine) if there >= {*mine} else ():
        if now.reversed:
            best = best or replace(
                case, why="it would be fed at its LOAD side: its own face stays live when it has tripped"
            )
            continue
        shown = shows(after.box, where, now)
        why = ""
        if after.becomes == "sensor" and now.carries.get(where.of[device.at("a")]) != "l":
            why = "its line and its switched line would have changed places"
        elif _differs(weighed, before, shown, where.of):
            why = "something would be live in other states than now"
        best = replace(case, works=not why, why=why, live=_fed(h, before, weighed, device))
        if not why:
            break
    return best or replace(case, why=_cannot(weighed, h, after))


def _cannot(weighed: Weighed, h: Hypothesis, after: Afterwards) -> str:
    """Why the new one cannot be so in a case."""
    hot = weighed.where.of.get(after.device.at("brass"), -1)
    if after.becomes == "protective" and h.carries.get(hot) == "s":
        return "its line would be switched, and it wants one that is always live"
    return "what it is then joined to cannot be of one circuit"


def _differs(weighed: Weighed, before: Shows, after: Shows, of: Mapping[End, int]) -> bool:
    """Whether an end is live, or leads home, otherwise than it did; switches that only the wider group has
    change nothing.
    """
    at = [after.controls.index(c) for c in before.controls]
    for end, net in weighed.where.of.items():
        if end not in of or not weighed.where.ends[net] or end not in weighed.where.ends[net]:
            continue
        if (net in before.home) != (of[end] in after.home):
            return True
        was, now = before.live.get(net, 0), after.live.get(of[end], 0)
        for state in range(1 << len(after.controls)):
            mine = sum((state >> there & 1) << i for i, there in enumerate(at))
            if (was >> mine & 1) != (now >> state & 1):
                return True
    return False


def _fed(h: Hypothesis, before: Shows, weighed: Weighed, device: Device) -> int:
    """The states in which what the device is for is live: its switched line, else its line."""
    here = {weighed.where.of[device.at(t)] for t in screws_of(device.kind)}
    fed = sorted((n for n in here if h.carries.get(n) in ("l", "s")), key=lambda n: h.carries[n] != "s")
    return before.live.get(fed[0], 0) if fed else 0
