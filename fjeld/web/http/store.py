"""Committing: plan on the head, prove that the result stands, then move the head.

An edit is acknowledged only when the drawing it leads to is written, read back the same,
worked out, checked and drawn. All of that is done before the transaction, which holds only
what must be one with moving the head; where the head has moved meanwhile, it is done again
on the new one. If the paths an edit writes are disjoint from those written since its base,
it stands; else both values are told. Undo takes back a person's own last step by its
inverse, through the same rules.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Collection, Iterator

import msgspec
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from fjeld.drawing.changes import Built, Change, StaleChange, apply, between, invert, meet, written
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.record import ReturnTo
from fjeld.drawing.handles import Handle, Mint
from fjeld.drawing.model import Drawing
from fjeld.drawing.naming import named
from fjeld.drawing.validate import InvalidDrawing, require_no_worse, require_valid
from fjeld.formats import history
from fjeld.formats.document import DocumentError, NotTheSame
from fjeld.propose.attach import settle
from fjeld.web.http import standing
from fjeld.web.jobs.models import Document, Job, Member, Revision

log = logging.getLogger("fjeld.jobs")
#: How often an edit is planned again because someone else was faster, before it is given up in words.
TRIES = 12


class Conflict(Exception):
    """Someone else wrote the same figure; ``paths`` says which, ``theirs`` what they did, ``mine`` what was
    meant.
    """

    def __init__(self, paths: set[tuple[str, str]], who: str, theirs: str = "", mine: str = "") -> None:
        self.paths = paths
        self.who = who
        named = ", ".join(sorted({h if f == "*" else f"{h} ({f})" for h, f in paths})[:4])
        both = (
            f": “{theirs}”. Yours, “{mine}”, was not done; press again if it is still meant"
            if theirs and mine
            else ""
        )
        super().__init__(f"{who} changed {named} in the meantime{both}")


class Closed(EditRefused):
    """The job is archived: bring it back first."""

    def __init__(self) -> None:
        super().__init__("this job is archived; bring it back before changing it")


class Committed(msgspec.Struct, frozen=True):
    """What a commit did: the drawing before and after, the new head's number, what came in new."""

    before: Drawing
    after: Drawing
    seq: int
    words: str

    @property
    def fresh(self) -> list[Handle]:
        """The handles that were not there before, cables left out."""
        return [h for h in self.after.items if h not in self.before.items and not h.startswith("C")]


#: All that making an edit may raise, for a person to be told.
REFUSALS = (EditRefused, InvalidDrawing, StaleChange, Built, Conflict, standing.DoesNotStand)


Draw = Callable[[Drawing, Drawing], None]


class _NextStep(msgspec.Struct, frozen=True):
    """A step proven to stand, ready to be added on the head it was planned on."""

    head: Revision | None
    document: Document
    drawing: Drawing
    card: standing.Card
    words: str
    counters: dict[str, int]
    edit: bytes = b""
    changes: bytes = b""
    undoes: Revision | None = None
    client: str = ""


def create(name: str, drawing: Drawing, user: AbstractBaseUser, words: str = "Start") -> Job:
    """A new job with this drawing as its first revision, owned by ``user``.

    Raises :class:`fjeld.drawing.validate.InvalidDrawing` and :class:`fjeld.web.http.standing.DoesNotStand`.
    """
    require_valid(drawing)
    step = _proven(None, drawing, words, Mint(drawing.items).counters)
    with transaction.atomic():
        job = Job.objects.create(name=name)
        _add(job, step, user)
        Member.objects.create(job=job, user=user, role=Member.Role.OWNER)
    return job


def _proven(
    head: Revision | None,
    drawing: Drawing,
    words: str,
    counters: dict[str, int],
    before: Drawing | None = None,
) -> _NextStep:
    """A step that can be stored and shown. Of the head itself nothing is read: it may be one that cannot be.
    ``before`` is its drawing where that is known.
    """
    try:
        made, back = Document.made(drawing)
    except (NotTheSame, DocumentError) as error:
        log.error("a drawing would not be stored: %s", error)
        raise standing.DoesNotStand(f"this could not be stored, so nothing was changed: {error}") from None
    return _NextStep(
        head=head,
        document=made,
        drawing=back,
        card=standing.stand(back, before),
        words=words,
        counters=counters,
    )


def _add(job: Job, step: _NextStep, user: AbstractBaseUser) -> Revision:
    """Store a proven step as the job's head; within a transaction."""
    head = step.head
    job.head = Revision.objects.create(
        job=job,
        seq=head.seq + 1 if head else 1,
        parent=head,
        document=step.document.stored(),
        words=step.words[:300],
        who=user,
        undoes=step.undoes,
        client=step.client,
        edit=step.edit,
        changes=step.changes,
    )
    job.name = step.drawing.house.name[:120] or job.name
    job.card = step.card
    job.counters = step.counters
    job.save(update_fields=["head", "counters", "name", "card"])
    return job.head


def _upon_head(
    job_id: int, user: AbstractBaseUser, plan: Callable[[Job], _NextStep | Committed]
) -> tuple[Committed | None, _NextStep | None, Revision | None]:
    """Plan on the head, outside any transaction, and add the step if the head is still the same."""
    for _ in range(TRIES):
        job = Job.objects.select_related("head__document").get(pk=job_id)
        if job.archived:
            raise Closed
        step = plan(job)
        if isinstance(step, Committed):
            return step, None, None
        with transaction.atomic():
            now = Job.objects.select_for_update().get(pk=job_id)
            if now.head_id != job.head_id or now.archived:
                continue
            return None, step, _add(now, step, user)
    raise EditRefused("others are changing this job faster than this could be worked out; try again")


def commit(
    job_id: int,
    user: AbstractBaseUser,
    edit: Edit,
    *,
    base: int | None,
    client: str = "",
    draw: Draw | None = None,
) -> Committed:
    """Make an edit on a job's head.

    ``base`` is the step that the person saw (none only where nobody saw one), ``client`` the page it was made
    on: what that page itself has written since is known to it. ``draw`` is given the drawing before and
    after, to draw the page that will show it while it can still be refused.

    Raises :class:`Conflict`, :class:`fjeld.drawing.edits.EditRefused`,
    :class:`fjeld.drawing.validate.InvalidDrawing`, :class:`fjeld.drawing.changes.StaleChange`,
    :class:`fjeld.drawing.changes.Built`, :class:`fjeld.web.http.standing.DoesNotStand`.
    """
    before: Drawing | None = None

    def plan(job: Job) -> _NextStep | Committed:
        nonlocal before
        head = job.head
        assert head is not None
        before = head.document.drawing
        mint = Mint(before.items, job.counters)
        with standing.guarded():
            meant: Edit = named(edit, mint)
            changes = settle(before, meant, mint)
        if not changes:
            return Committed(before, before, head.seq, "")
        # What the person wrote, without the cables that are laid anew to follow it.
        _require_disjoint(
            job,
            head,
            changes=meant.plan(before),
            base=base,
            user=user,
            client=client,
            words=meant.words(before),
        )
        after = apply(before, changes)
        counters = Mint(after.items, mint.counters).counters
        step = _proven(head, after, meant.words(before), counters, before)
        if draw is not None:
            with standing.guarded():
                draw(before, step.drawing)
        return msgspec.structs.replace(
            step, edit=history.of_edit(meant), changes=history.of_changes(changes), client=client
        )

    unchanged, step, made = _upon_head(job_id, user, plan)
    if unchanged is not None:
        return unchanged
    assert before is not None
    assert step is not None
    assert made is not None
    return Committed(before, step.drawing, made.seq, step.words)


def _require_disjoint(
    job: Job,
    head: Revision,
    changes: tuple[Change, ...],
    base: int | None,
    user: AbstractBaseUser,
    client: str,
    words: str,
) -> None:
    if base is None or base >= head.seq:
        return
    mine = written(changes)
    since = job.revisions.filter(seq__gt=base).select_related("who").defer("edit")
    for revision in since:
        if client and revision.client == client and revision.who_id == user.pk:
            continue
        both = meet(mine, _written_by(revision))
        if both:
            who = "another page of yours" if revision.who_id == user.pk else revision.who.get_username()
            raise Conflict(both, who, revision.words, words)


def _written_by(revision: Revision) -> Collection[tuple[str, str]]:
    kept = history.paths(revision.changes)
    if kept is not None:
        return kept
    if revision.parent is None:
        return set()
    return written(between(revision.parent.document.drawing, revision.document.drawing))


def _own(job: Job, user: AbstractBaseUser) -> Iterator[Revision]:
    """The person's own steps, newest first, read no further than asked for."""
    own = job.revisions.filter(who=user, seq__gt=1).select_related("undoes").defer("edit", "changes")
    return iter(own.order_by("-seq").iterator(chunk_size=20))


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


def take_back(
    job_id: int,
    user: AbstractBaseUser,
    again: bool = False,
    client: str = "",
    step_seen: int | None = None,
    *,
    base: int | None,
) -> Committed:
    """Undo the person's last step, or with ``again`` redo it; where they saw which (``step_seen``), that one
    and no other.

    ``base`` is the step that their page showed: what another changed since then is not taken back with it,
    though it may read as their own step left it.

    Raises ``EditRefused``, :class:`Conflict`, ``InvalidDrawing``, ``Built`` and ``DoesNotStand``.
    """
    before: Drawing | None = None

    def plan(job: Job) -> _NextStep:
        nonlocal before
        step, head = (last_undone(job, user) if again else last_step(job, user)), job.head
        if step is None or head is None or step.parent is None:
            raise EditRefused("there is nothing to redo" if again else "there is nothing of yours to undo")
        if step_seen is not None and step.seq != step_seen:
            raise EditRefused(
                f"that was taken back already; what would be now is “{step.words[:80]}”: press again if it is"
                " meant"
            )
        named = step.words if not again else step.words.removeprefix("Undo: ")
        words = f"{'Redo' if again else 'Undo'}: {named}"
        if step.pk == head.pk and not _readable(head):
            # What cannot be read is left whole for what was there before it.
            before = step.parent.document.drawing
            found = _proven(head, before, words, job.counters)
            return msgspec.structs.replace(found, undoes=step, client=client)
        before = head.document.drawing
        changes = invert(between(step.parent.document.drawing, step.document.drawing))
        try:
            after = require_no_worse(before, apply(before, changes))
        except StaleChange:
            later = job.revisions.filter(seq__gt=step.seq).exclude(who=user).select_related("who").last()
            who = later.who.get_username() if later else "a later step"
            raise Conflict({(c.handle, "*") for c in changes}, who) from None
        _require_disjoint(job, head, changes=changes, base=base, user=user, client=client, words=words)
        found = _proven(head, after, words, job.counters)
        return msgspec.structs.replace(found, undoes=step, changes=history.of_changes(changes), client=client)

    _, step, made = _upon_head(job_id, user, plan)
    assert before is not None
    assert step is not None
    assert made is not None
    return Committed(before, step.drawing, made.seq, step.words)


def _readable(revision: Revision) -> bool:
    try:
        return bool(revision.document.drawing.items)
    except DocumentError:
        return False


def go_back(job_id: int, user: AbstractBaseUser, seq: int, *, base: int | None) -> Committed:
    """Make the drawing what it was at an earlier step, whatever state the head is in; ``base`` is the step
    that the person saw.

    Where the head can be read this is :class:`ReturnTo` as any edit; where it cannot, the
    earlier drawing is put in its place whole.
    """
    job = Job.objects.select_related("head__document").get(pk=job_id)
    then = job.revisions.select_related("document").filter(seq=seq).first()
    if then is None or job.head is None:
        raise EditRefused(f"there is no step {seq}")
    drawing = then.document.drawing
    try:
        return commit(job_id, user, ReturnTo(drawing, seq), base=base)
    except (DocumentError, StaleChange, Built, InvalidDrawing, standing.DoesNotStand) as error:
        log.warning("job %s goes back to step %s whole: %s", job_id, seq, error)

    def plan(job: Job) -> _NextStep:
        return _proven(job.head, drawing, f"Return to step {seq}", job.counters)

    _, step, made = _upon_head(job_id, user, plan)
    assert step is not None
    assert made is not None
    return Committed(drawing, step.drawing, made.seq, step.words)
