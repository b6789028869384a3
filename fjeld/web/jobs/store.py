"""Committing: read the head, apply the conflict rule, plan, validate, insert, move the head.

If the paths an edit writes are disjoint from those written since its base, it is planned
again on the head; else both values are told. Undo takes back a person's own last step by
its inverse, through the same rule. Nothing is derived here.
"""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Max

from fjeld.drawing.changes import Change, StaleChange, apply, between, clash, invert
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Drawing
from fjeld.drawing.validate import require_valid
from fjeld.propose.attach import settle
from fjeld.web.jobs.models import Document, Job, Member, Revision


class Conflict(Exception):
    """Someone else wrote the same figure; ``paths`` says which."""

    def __init__(self, paths: set[tuple[str, str]], who: str) -> None:
        self.paths = paths
        self.who = who
        named = ", ".join(sorted({h if f == "*" else f"{h} ({f})" for h, f in paths})[:4])
        super().__init__(f"{who} changed {named} in the meantime")


class Committed(msgspec.Struct, frozen=True):
    """What a commit did: the drawing before and after, and the new head's number."""

    before: Drawing
    after: Drawing
    seq: int
    words: str


class ReturnTo(msgspec.Struct, frozen=True, tag="return-to"):
    """Make the drawing what it was at an earlier step."""

    drawing: Drawing
    seq: int

    def words(self, drawing: Drawing) -> str:
        return f"Return to step {self.seq}"

    def plan(self, drawing: Drawing) -> tuple[Change, ...]:
        return between(drawing, self.drawing)


def create(name: str, drawing: Drawing, user: AbstractBaseUser, words: str = "Start") -> Job:
    """A new job with this drawing as its first revision, owned by ``user``."""
    require_valid(drawing)
    with transaction.atomic():
        job = Job.objects.create(name=name, counters=Mint(drawing.items).counters)
        _add(job, None, drawing, words, user)
        Member.objects.create(job=job, user=user, role=Member.Role.OWNER)
    return job


def _add(
    job: Job,
    parent: Revision | None,
    drawing: Drawing,
    words: str,
    user: AbstractBaseUser,
    undoes: Revision | None = None,
) -> Revision:
    job.head = Revision.objects.create(
        job=job, seq=parent.seq + 1 if parent else 1, parent=parent, document=Document.of(drawing), words=words[:300],
        who=user, undoes=undoes,
    )  # fmt: skip
    job.name = drawing.house.name[:120] or job.name
    job.save(update_fields=["head", "counters", "name"])
    return job.head


def commit(job_id: int, user: AbstractBaseUser, edit: Edit, base: int | None = None) -> Committed:
    """Make an edit on a job's head.

    Raises :class:`Conflict`, :class:`fjeld.drawing.edits.EditRefused`,
    :class:`fjeld.drawing.validate.InvalidDrawing`.
    """
    with transaction.atomic():
        job = Job.objects.select_for_update().select_related("head__document").get(pk=job_id)
        head = job.head
        assert head is not None
        before = head.document.drawing
        mint = Mint(before.items, job.counters)
        changes = settle(before, edit, mint)
        if not changes:
            return Committed(before, before, head.seq, "")
        _require_disjoint(job, changes, base, user)
        after = apply(before, changes)
        words = edit.words(before)
        job.counters = Mint(after.items, mint.counters).counters
        made = _add(job, head, after, words, user)
    return Committed(before, made.document.drawing, made.seq, words)


def _require_disjoint(job: Job, changes: tuple[Change, ...], base: int | None, user: AbstractBaseUser) -> None:
    head = job.head
    assert head is not None
    if base is None or base >= head.seq:
        return
    since = (
        job.revisions.filter(seq__gt=base)
        .exclude(who=user)
        .select_related("document", "parent__document", "who")
    )
    for revision in since:
        if revision.parent is None:
            continue
        theirs = between(revision.parent.document.drawing, revision.document.drawing)
        both = clash(changes, theirs)
        if both:
            raise Conflict(both, revision.who.get_username())


def _own(job: Job, user: AbstractBaseUser) -> Iterator[Revision]:
    """The person's own steps, newest first, read no further than asked for."""
    own = job.revisions.filter(who=user, seq__gt=1).select_related("undoes").order_by("-seq")
    return iter(own.iterator(chunk_size=20))


def last_step(job: Job, user: AbstractBaseUser) -> Revision | None:
    """The person's own last step that stands, to be undone."""
    taken_back: set[int] = set()
    for revision in _own(job, user):
        if revision.pk in taken_back:
            continue
        if revision.undoes_id is None:
            return revision
        taken_back.add(revision.undoes_id)
    return None


def last_undone(job: Job, user: AbstractBaseUser) -> Revision | None:
    """The undoing that could be undone again: nothing of the person's own came after it."""
    taken_back: set[int] = set()
    for revision in _own(job, user):
        if revision.undoes is None:
            return None
        if revision.pk in taken_back:
            continue
        taken_back.add(revision.undoes.pk)
        # What takes back an undoing is a redo; it cannot be done again itself.
        if revision.undoes.undoes_id is None:
            return revision
    return None


def take_back(job_id: int, user: AbstractBaseUser, again: bool = False) -> Committed:
    """Undo the person's last step, or with ``again`` redo it; raises ``EditRefused`` or :class:`Conflict`."""
    with transaction.atomic():
        job = Job.objects.select_for_update().select_related("head__document").get(pk=job_id)
        step = last_undone(job, user) if again else last_step(job, user)
        head = job.head
        if step is None or head is None or step.parent is None:
            raise EditRefused("there is nothing to redo" if again else "there is nothing of yours to undo")
        before = head.document.drawing
        changes = invert(between(step.parent.document.drawing, step.document.drawing))
        try:
            after = require_valid(apply(before, changes))
        except StaleChange:
            later = job.revisions.filter(seq__gt=step.seq).exclude(who=user).select_related("who").last()
            who = later.who.get_username() if later else "a later step"
            raise Conflict({(c.handle, "*") for c in changes}, who) from None
        named = step.words if not again else step.words.removeprefix("Undo: ")
        words = f"{'Redo' if again else 'Undo'}: {named}"
        made = _add(job, head, after, words, user, undoes=step)
    return Committed(before, after, made.seq, words)


def head_seq(job_id: int) -> int:
    """The number of a job's newest revision."""
    return Revision.objects.filter(job_id=job_id).aggregate(n=Max("seq"))["n"] or 0
