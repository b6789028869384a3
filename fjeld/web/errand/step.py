"""A step of an errand: what a page brings, in one place, with its type; and how every one is answered."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cached_property
from typing import Any

import msgspec
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from fjeld.derive.plan import in_force
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.errand import Errand
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Drawing
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import ErrandPlan, at_hand
from fjeld.practice import Practice
from fjeld.web.errand.hand import base_of, book_drawing, drawing_of, errand_of
from fjeld.web.errand.stones import STEPS, Stone, stones
from fjeld.web.http import store
from fjeld.web.http.refusals import in_words
from fjeld.web.jobs.access import for_editor, for_member
from fjeld.web.jobs.models import Job, Member
from fjeld.web.places.kinds import KINDS, ErrandCard
from fjeld.web.places.planned import plan_of, stands_of
from fjeld.web.ui.panel import Shown, context
from fjeld.work.book import Task
from fjeld.work.standing import Stands


class InHand:
    """A request to a page of an errand: whose it is, the drawing, the plan of it, the old box in hand, and
    what was refused of it in words. What a page does not ask for is not worked out.
    """

    def __init__(self, request: HttpRequest, member: Member, refused: str = "") -> None:
        self.request, self.member, self.refused = request, member, refused

    def refusing(self, words: str) -> InHand:
        """The same page with what was refused."""
        return InHand(self.request, self.member, words)

    @property
    def job(self) -> Job:
        """The job that it is of."""
        return self.member.job

    @cached_property
    def drawing(self) -> Drawing:
        """What is drawn; 404 where nothing is."""
        return book_drawing(self.member)

    @cached_property
    def practice(self) -> Practice:
        """The practice in force."""
        return in_force(self.drawing.house)

    @property
    def errand(self) -> Errand:
        """What is wanted; a light to be added where the job does not say."""
        return errand_of(self.drawing)

    @cached_property
    def box(self) -> tuple[Handle, OldBox]:
        """The old box in hand: the one that was asked for, else the source."""
        return at_hand(self.drawing, self.asked("box"))

    @cached_property
    def known(self) -> ErrandPlan:
        """The plan of the errand, by all that is told, read and done."""
        return plan_of(self.job, self.drawing)

    @cached_property
    def stands(self) -> tuple[Stands[Task], ...]:
        """Where every step of its book stands at this hour."""
        return stands_of(self.job, self.drawing, self.known)

    @property
    def may_record(self) -> bool:
        """Whether steps and readings may be kept: by whoever does more than read, while the job goes on."""
        return not self.job.archived and self.member.role != Member.Role.READER

    def asked(self, name: str) -> str:
        """What the address says of a name, or else the form."""
        return str(self.request.GET.get(name, self.request.POST.get(name, "")))

    def typed(self, name: str) -> str:
        """What was typed, as a field shows it again."""
        return str(self.request.POST.get(name, ""))[:80]


#: What is told of an errand by a field of a page: the fields of it that change, and the step in words.
Telling = Callable[[HttpRequest, Drawing, Errand], tuple[dict[str, Any], str]]


class ErrandStep(msgspec.Struct, frozen=True, kw_only=True):
    """One page of an errand: by ``page`` what its template (``errand/<template>.html``) is written from.

    One that is ``of_houses`` too is there where nothing is old. ``told`` is the edit that its own form means,
    sent to ``<address>/told``, raising ``EditRefused`` with words; ``tells`` are the fields that it asks of
    what is wanted. A step of the trail is named in :data:`STEPS`.
    """

    name: str
    template: str
    page: Callable[[InHand], Shown]
    told: Callable[[InHand, QueryDict], Edit] | None = None
    tells: Mapping[str, Telling] = {}
    of_houses: bool = False

    @property
    def address(self) -> str:
        """The name of its address."""
        return STEPS[self.name][1]

    @property
    def path(self) -> str:
        """Its address below the job's."""
        return self.address.replace("-", "/", 1)


class ErrandFrame(Shown, frozen=True, kw_only=True):
    """What stands around every page of an errand."""

    job: Job
    kind: ErrandCard | None
    stones: list[Stone]
    may_edit: bool
    may_record: bool
    refused: str


def around(hand: InHand, step: str, errand: Errand | None) -> ErrandFrame:
    """The frame of a page; of a house, which has no errand, without its trail."""
    member = hand.member
    return ErrandFrame(
        job=hand.job,
        kind=KINDS[errand.wants] if errand else None,
        stones=stones(errand.wants, step) if errand else [],
        may_edit=member.may_edit,
        may_record=hand.may_record,
        refused=hand.refused,
    )


def answered(step: ErrandStep, hand: InHand) -> HttpResponse:
    """A page of an errand, with what was refused of it; 404 where the job has no old box."""
    if not step.of_houses:
        drawing_of(hand.member)
    shown = step.page(hand)
    frame = around(hand, step.name, hand.drawing.house.errand if step.of_houses else hand.errand)
    status = 422 if hand.refused else 200
    return render(hand.request, f"errand/{step.template}.html", context(frame, shown), status=status)


@require_GET
@for_member
def show(request: HttpRequest, member: Member, step: ErrandStep) -> HttpResponse:
    """A page of an errand."""
    return answered(step, InHand(request, member))


@require_POST
@for_editor
def told(request: HttpRequest, member: Member, step: ErrandStep) -> HttpResponse:
    """One answer kept, or refused on the page that it came from; then that page, or the box's."""
    hand = InHand(request, member)
    if step.told is None:
        raise ValueError(f"nothing is told on the page of {step.name}")
    try:
        edit = step.told(hand, request.POST)
        store.commit(member.job_id, request.user, edit, base=base_of(request, member))
    except (EditRefused, *store.REFUSALS) as refused:
        return answered(step, hand.refusing(in_words(refused, hand.drawing)))
    back = str(request.POST.get("back", ""))
    return redirect(back if back == STEPS["box"][1] else step.address, member.job_id)
