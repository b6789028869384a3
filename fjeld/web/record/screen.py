"""Record: the panel directory in full words, files out, local rules, and the history."""

from __future__ import annotations

from fjeld.check import check
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.edits.record import AmendRule, OverrideFinding, Reopen, ReturnTo
from fjeld.drawing.handles import HOUSE
from fjeld.graphics.floor import Floor
from fjeld.graphics.shapes import Shape
from fjeld.quantities import finite_number
from fjeld.web.http.actions import action
from fjeld.web.http.typed_over import COMMON
from fjeld.web.http.view import MEMO, View
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.places.gone import gone_of
from fjeld.web.record.directory import directories
from fjeld.web.record.panels import Dock, Workings
from fjeld.work.house import house_book


@action
def _amend(view: View, rule: str, value: str, reason: str) -> Edit:
    if rule not in view.plan.practice.rules:
        raise EditRefused(f"there is no rule “{rule}”")
    standing = view.plan.practice.named(rule).value
    if not isinstance(standing, int | float):
        raise EditRefused(f"“{rule}” is not one number; amend it in the job file")
    number = finite_number(value)
    if number is None:
        raise EditRefused(f"“{value[:20]}” is not a number")
    who = view.member.user.get_username()
    return AmendRule(rule, int(number) if number.is_integer() else number, reason[:200], who)


@action
def _unamend(view: View, rule: str) -> Edit:
    return AmendRule(rule, None, "", "")


@action
def _override(view: View, finding: str, reason: str) -> Edit:
    found = next((f for f in view.findings if f.key == finding), None)
    if found is None:
        raise EditRefused("that finding has gone")
    who = view.member.user.get_username()
    return OverrideFinding(finding, f"{who}: {reason[:200]}", found.measure, found.severity)


@action
def _reopen(view: View, finding: str) -> Edit:
    return Reopen(finding)


@action
def _return(view: View, seq: int) -> Edit:
    revision = view.job.revisions.select_related("document").filter(seq=seq).first()
    if revision is None:
        raise EditRefused(f"there is no step {seq}")
    return ReturnTo(revision.document.drawing, revision.seq)


@action
def _rename(view: View, name: str) -> Edit:
    return Revise(HOUSE, {"name": name[:80]}, "Name the job")


ACTIONS = {
    "amend": _amend,
    "unamend": _unamend,
    "override": _override,
    "reopen": _reopen,
    "return": _return,
    "rename": _rename,
    **COMMON,
}


def layers(view: View, floor: Floor) -> dict[str, Shape]:
    """The house as it stands, quiet."""
    return {"f-walls": floor.walls(), "f-openings": floor.openings(), "f-points": floor.points(view.selected)}


def dock(view: View) -> Dock:
    """The directory, and the steps that led here."""
    revisions = view.job.revisions.select_related("who").order_by("-seq")[:40]
    return Dock(
        directories=directories(view.plan),
        revisions=revisions,
        gone=gone_of(view.job, view.drawing, [t.id for t in house_book(view.plan)]),
    )


def workings(view: View) -> Workings:
    """Files out and in, local rules, overrides, and how much was looked at."""
    looked = check(view.plan, MEMO)
    told = {f.key for f in view.findings}
    return Workings(
        passed=sum(not f.open for f in looked),
        open=len(view.findings),
        units=[("ft-in", "feet and inches"), ("mm", "millimetres")],
        practice_title=view.plan.practice.title,
        rules=[r for r in view.plan.practice.rules.values() if isinstance(r.value, int | float)],
        amendments=[(a, view.plan.practice.named(a.rule)) for a in view.drawing.house.amendments],
        overrides=[
            (k, why if isinstance(why, str) else why.reason, k in told)
            for k, why in view.drawing.house.overrides.items()
        ],
        open_findings=view.findings[:20],
    )


RECORD = Waypoint(name="record", title="Record", layers=layers, dock=dock, workings=workings, actions=ACTIONS)
