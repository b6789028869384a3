"""Commits, undo and two people at once: every acknowledged edit is kept, undone by its author, or told."""

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TransactionTestCase

from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise
from fjeld.drawing.edits.layout import MovePoint
from fjeld.drawing.model import Point
from fjeld.drawing.validate import InvalidDrawing
from fjeld.web.jobs import store
from fjeld.web.jobs.models import Document, Revision
from tests.houses import inches


def head(job):
    job.refresh_from_db()
    return job.head.document.drawing


def move(handle, x):
    return MovePoint(handle, x=inches(x))


def test_an_edit_is_a_revision_and_undo_is_another(job, people):
    before = head(job)
    done = store.commit(job.pk, people["owner"], move("A1", 40))
    assert done.seq == 2
    assert head(job).get("A1", Point).x == inches(40)
    store.take_back(job.pk, people["owner"])
    assert head(job) == before
    assert [r.words for r in job.revisions.all()][-1] == "Undo: Move A1"
    store.take_back(job.pk, people["owner"], again=True)
    assert head(job).get("A1", Point).x == inches(40)
    assert job.revisions.count() == 4


def test_undo_walks_back_through_ones_own_steps_and_redo_forward(job, people):
    owner = people["owner"]
    seen = [head(job)]
    for n, x in enumerate((40, 50, 60)):
        store.commit(job.pk, owner, move("A1" if n < 2 else "A2", x))
        seen.append(head(job))
    for drawing in reversed(seen[:-1]):
        store.take_back(job.pk, owner)
        assert head(job) == drawing
    with pytest.raises(EditRefused, match="nothing of yours"):
        store.take_back(job.pk, owner)
    for drawing in seen[1:]:
        store.take_back(job.pk, owner, again=True)
        assert head(job) == drawing
    with pytest.raises(EditRefused, match="nothing to redo"):
        store.take_back(job.pk, owner, again=True)


def test_a_new_edit_ends_redo(job, people):
    owner = people["owner"]
    store.commit(job.pk, owner, move("A1", 40))
    store.take_back(job.pk, owner)
    store.commit(job.pk, owner, move("A2", 40))
    with pytest.raises(EditRefused, match="nothing to redo"):
        store.take_back(job.pk, owner, again=True)


def test_undo_is_my_own_step_not_the_last(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40))
    store.commit(job.pk, people["editor"], move("A2", 44))
    store.take_back(job.pk, people["owner"])
    assert head(job).get("A2", Point).x == inches(44), "the other's edit stays"
    assert head(job).get("A1", Point).x != inches(40)


def test_undo_of_what_another_wrote_over_is_told(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40))
    store.commit(job.pk, people["editor"], move("A1", 44))
    with pytest.raises(store.Conflict, match="editor changed A1"):
        store.take_back(job.pk, people["owner"])
    assert head(job).get("A1", Point).x == inches(44)


def test_disjoint_edits_on_one_base_both_stand(job, people):
    base = job.head.seq
    store.commit(job.pk, people["owner"], move("A1", 40), base)
    store.commit(job.pk, people["editor"], move("A2", 44), base)
    assert (head(job).get("A1", Point).x, head(job).get("A2", Point).x) == (inches(40), inches(44))


def test_the_same_figure_from_one_base_is_a_conflict_with_both_told(job, people):
    base = job.head.seq
    store.commit(job.pk, people["owner"], move("A1", 40), base)
    with pytest.raises(store.Conflict, match="owner changed A1"):
        store.commit(job.pk, people["editor"], move("A1", 44), base)
    assert head(job).get("A1", Point).x == inches(40)
    store.commit(job.pk, people["editor"], move("A1", 44), job.head.seq)
    assert head(job).get("A1", Point).x == inches(44)


def test_an_edit_that_changes_nothing_is_no_revision(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40))
    count = Revision.objects.count()
    store.commit(job.pk, people["owner"], move("A1", 40))
    assert Revision.objects.count() == count


def test_a_refused_edit_leaves_no_trace(job, people):
    before = head(job)
    for edit in (Revise("Q1", {"gauge": "13"}), Remove("R1")):
        with pytest.raises((InvalidDrawing, EditRefused)):
            store.commit(job.pk, people["owner"], edit)
    assert head(job) == before
    assert job.revisions.count() == 1


def test_handles_are_never_given_again(job, people):
    owner = people["owner"]
    light = Point("light", "R1", x=inches(50), y=inches(50), circuit="Q1")
    fresh = store.Mint(head(job).items, job.counters).fresh("light")
    store.commit(job.pk, owner, Place({fresh: light}, "a light"))
    store.commit(job.pk, owner, Remove(fresh))
    job.refresh_from_db()
    assert store.Mint(head(job).items, job.counters).fresh("light") != fresh


def test_documents_are_kept_once(job, people):
    owner = people["owner"]
    store.commit(job.pk, owner, move("A1", 40))
    store.take_back(job.pk, owner)
    assert Document.objects.count() == 2, "back at the first drawing, the first document"


def test_return_to_an_earlier_step_is_an_edit_that_can_be_undone(job, people):
    owner = people["owner"]
    first = head(job)
    store.commit(job.pk, owner, move("A1", 40))
    moved = head(job)
    store.commit(job.pk, owner, store.ReturnTo(first, 1))
    assert head(job) == first
    store.take_back(job.pk, owner)
    assert head(job) == moved


class TwoPeople(TransactionTestCase):
    """Random edits, undos and stale bases by two people."""

    @given(st.integers(0, 2**20))
    @settings(max_examples=10)
    def test_nothing_acknowledged_is_lost(self, dice):
        from django.contrib.auth import get_user_model

        from fjeld.demo import job_file
        from fjeld.formats import jobfile
        from fjeld.web.jobs.models import Member

        die = random.Random(dice)
        ada, ben = (get_user_model().objects.create_user(f"{n}{dice}") for n in ("ada", "ben"))
        job = store.create("x", jobfile.decode(job_file("boot-room")), ada)
        Member.objects.create(job=job, user=ben, role="editor")
        written: dict[str, tuple[object, object]] = {}
        bases = {ada.pk: 1, ben.pk: 1}
        for _ in range(14):
            who = die.choice((ada, ben))
            handle, x = die.choice(("A1", "A2", "A3", "V1")), die.randint(20, 120)
            if die.random() < 0.25:
                try:
                    done = store.take_back(job.pk, who)
                except (EditRefused, store.Conflict):
                    continue
                for h in ("A1", "A2", "A3", "V1"):
                    if done.before.get(h, Point) != done.after.get(h, Point):
                        written[h] = (done.after.get(h, Point).x, who)
            else:
                try:
                    done = store.commit(job.pk, who, move(handle, x), bases[who.pk])
                except store.Conflict:
                    bases[who.pk] = store.head_seq(job.pk)
                    continue
                written[handle] = (inches(x), who)
            if die.random() < 0.6:
                bases[who.pk] = done.seq
        drawing = head(job)
        for handle, (x, _) in written.items():
            assert drawing.get(handle, Point).x == x
        assert list(job.revisions.values_list("seq", flat=True)) == list(range(1, job.revisions.count() + 1))
