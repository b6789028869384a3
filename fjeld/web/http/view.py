"""What a screen is made from: a job's drawing, its plan, where one stands and what is selected."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import NamedTuple
from urllib.parse import parse_qsl, urlsplit

from django.conf import settings
from django.http import HttpRequest

from fjeld.check import Finding, open_findings
from fjeld.derive.memo import LastUsed, Memo
from fjeld.derive.plan import Plan, derive
from fjeld.drawing.building import Room
from fjeld.drawing.edits import Edit
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Drawing, Item
from fjeld.drawing.naming import Drafts, named
from fjeld.graphics.projection import DESK, PHONE, TABLET, Size
from fjeld.propose.fixes import fix, has_ways
from fjeld.web.jobs.models import Member

#: One memo a process: stages are pure, so sharing it between jobs is harmless.
MEMO = Memo(settings.MEMO_BYTES)


class _Worked(NamedTuple):
    """A plan, what is open on it, and of each finding that was asked about what would mend it."""

    plan: Plan
    findings: list[Finding]
    fixes: dict[str, Edit | None]


#: A plan beside what the memo holds of it anyway: its lists, its network, its findings.
_PLAN, _PLAN_ITEM = 200_000, 12_000
#: The plans last worked out; each holds its drawing.
_plans: LastUsed[int] = LastUsed(
    settings.PLANS_BYTES, lambda found: _PLAN + _PLAN_ITEM * len(found.plan.drawing.items)
)


def _worked(drawing: Drawing) -> _Worked:
    def work_out() -> _Worked:
        plan = derive(drawing, MEMO)
        return _Worked(plan, open_findings(plan, MEMO), {})

    found: _Worked = _plans.get(id(drawing), work_out)
    return found


def planned(drawing: Drawing) -> tuple[Plan, list[Finding]]:
    """The plan and open findings of a drawing; the last few are kept as they were."""
    plan, findings, _ = _worked(drawing)
    return plan, findings


class View:
    """One screen's worth: cheap to make, everything else worked out when asked for."""

    def __init__(
        self,
        member: Member,
        waypoint: str,
        drawing: Drawing,
        seq: int,
        params: Mapping[str, str],
        size: Size = DESK,
    ) -> None:
        self.member = member
        self.job = member.job
        self.waypoint = waypoint
        self.drawing = drawing
        self.seq = seq
        self.params = dict(params)
        self.size = size
        self.error = ""
        #: Whether it is drawn in answer to an edit: what would mend a finding is then tried after it.
        self.at_once = False

    @cached_property
    def plan(self) -> Plan:
        return planned(self.drawing)[0]

    @cached_property
    def findings(self) -> list[Finding]:
        return planned(self.drawing)[1]

    @property
    def here(self) -> list[Finding]:
        """The open findings of this waypoint."""
        return [f for f in self.findings if f.waypoint == self.waypoint]

    @cached_property
    def selected(self) -> str:
        """The handle selected, if it is still there."""
        wanted = self.params.get("sel", "")
        return wanted if wanted in self.drawing.items else ""

    @cached_property
    def item(self) -> Item | None:
        return self.drawing.items.get(Handle(self.selected)) if self.selected else None

    @cached_property
    def room(self) -> Handle | None:
        """The room in hand: the selected thing's, else the one stepped into, else the first of the storey."""
        rooms = self.drawing.of(Room)
        if isinstance(self.item, Room):
            return Handle(self.selected)
        found = getattr(self.item, "room", None) or Handle(self.params.get("at", ""))
        if found in rooms:
            return Handle(found)
        storey = self.params.get("storey") or None
        on_it = (
            h for h, r in rooms.items() if r.storey == storey or (storey == "ground" and r.storey is None)
        )
        return next(on_it, next(iter(rooms), None)) if storey else next(iter(rooms), None)

    @cached_property
    def whole(self) -> bool:
        """Whether the whole storey is looked at: nobody stepped into a room of it.

        On a phone a storey can be neither read nor tapped: there one stands in a room, unless the storey is
        asked for.
        """
        if self.params.get("at", "") in self.drawing.items:
            return False
        return (
            self.size.screen != "phone" or bool(self.params.get("storey")) or len(self.drawing.of(Room)) < 2
        )

    @property
    def may_edit(self) -> bool:
        return self.member.may_edit

    def drafts(self) -> Drafts:
        """Names for what an edit brings; their handles are given when it is planned."""
        return Drafts()

    def fix(self, finding: Finding) -> Edit | None:
        """What would mend a finding, tried on the whole plan; None when only a person can."""
        plan, findings, fixes = _worked(self.drawing)
        if finding.key not in fixes:
            fixes[finding.key] = fix(plan, finding, self.drafts(), MEMO, findings)
        return fixes[finding.key]

    def untried(self, finding: Finding) -> bool:
        """Whether nobody has tried yet what would mend a finding, and there is something to try."""
        return finding.key not in _worked(self.drawing).fixes and has_ways(finding)

    def named(self, edit: Edit) -> Edit:
        """An edit with the handles that it would get if it were made now: for words and ghosts."""
        found: Edit = named(edit, Mint(self.drawing.items, self.job.counters))
        return found


def size_of(request: HttpRequest) -> Size:
    """The sheet for this reader: the page's script notes the kind of screen in a cookie."""
    sheets = {size.screen: size for size in (DESK, TABLET, PHONE)}
    usual = PHONE if "Mobi" in request.headers.get("User-Agent", "") else DESK
    return sheets.get(request.COOKIES.get("fjeld-screen", ""), usual)


def params_of(request: HttpRequest) -> dict[str, str]:
    """The query of the page that the request came from (its own, when it is a page)."""
    current = request.htmx.current_url
    if request.method == "GET" or not current:
        return {k: str(v)[:200] for k, v in request.GET.items()}
    return {k: v[:200] for k, v in parse_qsl(urlsplit(current).query)}
