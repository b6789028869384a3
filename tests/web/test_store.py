"""Commits, undo and two people at once: every acknowledged edit is kept, undone by its author, or told."""

import random

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.django import TransactionTestCase

from fjeld.drawing.changes import Built
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise
from fjeld.drawing.edits.layout import MovePoint, MoveRow
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import Cable, Point
from fjeld.drawing.naming import Drafts
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats import document, history
from fjeld.web.http import standing, store
from fjeld.web.jobs.models import Document, Job, Revision
from tests.houses import inches
from tests.often import often


def head(job):
    job.refresh_from_db()
    return job.head.document.drawing


def move(handle, x):
    return MovePoint(handle, x=inches(x))


def test_an_edit_is_a_revision_and_undo_is_another(job, people):
    before = head(job)
    done = store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    assert done.seq == 2
    assert head(job).get("A1", Point).x == inches(40)
    store.take_back(job.pk, people["owner"], base=None)
    assert head(job) == before
    assert [r.words for r in job.revisions.all()][-1] == "Undo: Move A1"
    store.take_back(job.pk, people["owner"], again=True, base=None)
    assert head(job).get("A1", Point).x == inches(40)
    assert job.revisions.count() == 4


def test_undo_walks_back_through_ones_own_steps_and_redo_forward(job, people):
    owner = people["owner"]
    seen = [head(job)]
    for n, x in enumerate((40, 50, 60)):
        store.commit(job.pk, owner, move("A1" if n < 2 else "A2", x), base=None)
        seen.append(head(job))
    for drawing in reversed(seen[:-1]):
        store.take_back(job.pk, owner, base=None)
        assert head(job) == drawing
    with pytest.raises(EditRefused, match="nothing of yours"):
        store.take_back(job.pk, owner, base=None)
    for drawing in seen[1:]:
        store.take_back(job.pk, owner, again=True, base=None)
        assert head(job) == drawing
    with pytest.raises(EditRefused, match="nothing to redo"):
        store.take_back(job.pk, owner, again=True, base=None)


def test_what_another_put_back_since_is_not_undone_unseen(job, people):
    """It reads as my step left it, and another has answered it twice since my page was opened."""
    owner, editor = people["owner"], people["editor"]
    mine = store.commit(job.pk, editor, move("A1", 40), base=None).seq
    store.commit(job.pk, owner, move("A1", 50), base=None)
    store.take_back(job.pk, owner, base=None)
    assert head(job).get("A1", Point).x == inches(40)
    with pytest.raises(store.Conflict):
        store.take_back(job.pk, editor, base=mine)
    assert head(job).get("A1", Point).x == inches(40)
    # Seen, it may be.
    store.take_back(job.pk, editor, base=job.head.seq)
    assert head(job).get("A1", Point).x != inches(40)


def test_a_new_edit_ends_redo(job, people):
    owner = people["owner"]
    store.commit(job.pk, owner, move("A1", 40), base=None)
    store.take_back(job.pk, owner, base=None)
    store.commit(job.pk, owner, move("A2", 40), base=None)
    with pytest.raises(EditRefused, match="nothing to redo"):
        store.take_back(job.pk, owner, again=True, base=None)


def test_undo_is_my_own_step_not_the_last(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    store.commit(job.pk, people["editor"], move("A2", 44), base=None)
    store.take_back(job.pk, people["owner"], base=None)
    assert head(job).get("A2", Point).x == inches(44), "the other's edit stays"
    assert head(job).get("A1", Point).x != inches(40)


def test_undo_of_what_another_wrote_over_is_told(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    store.commit(job.pk, people["editor"], move("A1", 44), base=None)
    with pytest.raises(store.Conflict, match="editor changed A1"):
        store.take_back(job.pk, people["owner"], base=None)
    assert head(job).get("A1", Point).x == inches(44)


def test_disjoint_edits_on_one_base_both_stand(job, people):
    base = job.head.seq
    store.commit(job.pk, people["owner"], move("A1", 40), base=base)
    store.commit(job.pk, people["editor"], move("A2", 44), base=base)
    assert (head(job).get("A1", Point).x, head(job).get("A2", Point).x) == (inches(40), inches(44))


def test_the_same_figure_from_one_base_is_a_conflict_with_both_told(job, people):
    base = job.head.seq
    store.commit(job.pk, people["owner"], move("A1", 40), base=base)
    with pytest.raises(store.Conflict, match="owner changed A1"):
        store.commit(job.pk, people["editor"], move("A1", 44), base=base)
    assert head(job).get("A1", Point).x == inches(40)
    store.commit(job.pk, people["editor"], move("A1", 44), base=job.head.seq)
    assert head(job).get("A1", Point).x == inches(44)


def test_an_edit_that_changes_nothing_is_no_revision(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    count = Revision.objects.count()
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    assert Revision.objects.count() == count


def test_a_refused_edit_leaves_no_trace(job, people):
    before = head(job)
    for edit in (Revise("Q1", {"gauge": "13"}), Remove("R1")):
        with pytest.raises((InvalidDrawing, EditRefused)):
            store.commit(job.pk, people["owner"], edit, base=None)
    assert head(job) == before
    assert job.revisions.count() == 1


def test_handles_are_never_given_again(job, people):
    owner = people["owner"]
    light = Point("light", "R1", x=inches(50), y=inches(50), circuit="Q1")
    fresh = store.Mint(head(job).items, job.counters).fresh("light")
    store.commit(job.pk, owner, Place({fresh: light}, "a light"), base=None)
    store.commit(job.pk, owner, Remove(fresh), base=None)
    job.refresh_from_db()
    assert store.Mint(head(job).items, job.counters).fresh("light") != fresh


def test_documents_are_kept_once(job, people):
    owner = people["owner"]
    store.commit(job.pk, owner, move("A1", 40), base=None)
    store.take_back(job.pk, owner, base=None)
    assert Document.objects.count() == 2, "back at the first drawing, the first document"


def test_return_to_an_earlier_step_is_an_edit_that_can_be_undone(job, people):
    owner = people["owner"]
    first = head(job)
    store.commit(job.pk, owner, move("A1", 40), base=None)
    moved = head(job)
    store.commit(job.pk, owner, store.ReturnTo(first, 1), base=None)
    assert head(job) == first
    store.take_back(job.pk, owner, base=None)
    assert head(job) == moved


class TwoPeople(TransactionTestCase):
    """Random edits, undos and stale bases by two people."""

    @given(st.integers(0, 2**20))
    @often(8)
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
                    done = store.take_back(job.pk, who, base=None)
                except (EditRefused, store.Conflict):
                    continue
                for h in ("A1", "A2", "A3", "V1"):
                    if done.before.get(h, Point) != done.after.get(h, Point):
                        written[h] = (done.after.get(h, Point).x, who)
            else:
                try:
                    done = store.commit(job.pk, who, move(handle, x), base=bases[who.pk])
                except store.Conflict:
                    bases[who.pk] = Job.objects.get(pk=job.pk).head.seq
                    continue
                written[handle] = (inches(x), who)
            if die.random() < 0.6:
                bases[who.pk] = done.seq
        drawing = head(job)
        for handle, (x, _) in written.items():
            assert drawing.get(handle, Point).x == x
        assert list(job.revisions.values_list("seq", flat=True)) == list(range(1, job.revisions.count() + 1))


def test_two_pages_of_one_person_are_two_clients(job, people):
    base, owner = job.head.seq, people["owner"]
    store.commit(job.pk, owner, move("A1", 40), base=base, client="page-one-1")
    with pytest.raises(store.Conflict, match="another page of yours"):
        store.commit(job.pk, owner, move("A1", 44), base=base, client="page-two-2")
    store.commit(job.pk, owner, move("A1", 46), base=base, client="page-one-1")
    assert head(job).get("A1", Point).x == inches(46), "what a page wrote itself it knows"
    with pytest.raises(store.Conflict):
        store.commit(job.pk, owner, move("A1", 48), base=base)


def test_what_is_built_only_its_release_changes(job, people):
    owner = people["owner"]
    store.commit(job.pk, owner, Revise("A1", {"state": "built"}), base=None)
    for edit in (
        move("A1", 40),
        Remove("A1"),
        Revise("A1", {"circuit": None}),
        Remove("Q1"),
        MoveRow("A1", dx=30.0),
    ):
        with pytest.raises(Built, match="A1 is built"):
            store.commit(job.pk, owner, edit, base=None)
    store.commit(job.pk, owner, Revise("A1", {"state": "proposed"}), base=None)
    store.commit(job.pk, owner, move("A1", 40), base=None)


def test_a_cable_of_a_person_keeps_its_handle(job, people):
    """What an edit lays itself and what is laid to a loose box come from one mint."""
    drafts = Drafts()
    outlet = drafts.fresh("outlet")
    cable = drafts.fresh("cable")
    points = {outlet: Point("outlet", "R1", 1, inches(40), circuit="Q2")}
    laid = Cable("P1", Handle("O1"), Handle("Q2"), by="person", state="pinned")
    done = store.commit(job.pk, people["owner"], Place({**points, cable: laid}, "both"), base=None)
    fresh = [c for h, c in done.after.of(Cable).items() if h not in done.before.items]
    assert laid in fresh
    assert len(fresh) == 2
    explicit = next(h for h in (f"C{n}" for n in range(1, 99)) if h not in done.after.items)
    again = store.commit(
        job.pk,
        people["owner"],
        Place(
            {
                Handle(explicit): msgspec.structs.replace(laid, b=Handle("O2")),
                drafts.fresh("outlet"): Point("outlet", "R1", 1, inches(60), circuit="Q2"),
            },
            "both",
        ),
        base=None,
    )
    assert again.after.get(explicit, Cable).state == "pinned"


def test_two_people_place_a_light_each_from_one_base(job, people):
    """An edit names what it brings, not its handle: the second is planned anew and gets the next."""
    base = job.head.seq
    for who in ("owner", "editor"):
        light = Point("light", "R1", x=inches(50), y=inches(60), circuit="Q1")
        store.commit(
            job.pk, people[who], Place({Drafts().fresh("light"): light}, "a light"), base=base, client=who
        )
    lights = [h for h, p in head(job).of(Point).items() if p.x == inches(50) and p.y == inches(60)]
    assert len(lights) == 2


def test_a_step_keeps_what_was_meant_and_what_it_changed(job, people):
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    job.refresh_from_db()
    assert history.read(job.head.edit)["type"] == "move-point"
    (change,) = history.read(job.head.changes)
    assert (change["handle"], change["field"], change["new"]["mm"]) == ("A1", "x", 1016.0)
    assert history.paths(job.head.changes) == {("A1", "x")}


def test_an_edit_whose_result_cannot_be_worked_out_is_refused_and_leaves_nothing(job, people, monkeypatch):
    for name in ("planned", "_draw", "card_of"):
        with monkeypatch.context() as patched:
            patched.setattr(standing, name, lambda *_: 1 / 0)
            with pytest.raises(standing.DoesNotStand, match="nothing was changed"):
                store.commit(job.pk, people["owner"], move("A1", 41), base=None)
    with monkeypatch.context() as patched:
        patched.setattr(document, "decode", lambda data, number=2: head(job))
        with pytest.raises(standing.DoesNotStand, match="could not be stored"):
            store.commit(job.pk, people["owner"], move("A1", 41), base=None)
    assert job.revisions.count() == 1


def test_an_edit_is_worked_out_again_on_a_head_that_moved_meanwhile(job, people, monkeypatch):
    real, calls = standing.stand, []

    def meanwhile(drawing, before=None):
        if not calls:
            calls.append(1)
            store.commit(job.pk, people["editor"], move("A2", 44), base=None)
        return real(drawing, before)

    monkeypatch.setattr(standing, "stand", meanwhile)
    done = store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    assert done.seq == 3
    assert (head(job).get("A1", Point).x, head(job).get("A2", Point).x) == (inches(40), inches(44))


def test_no_plan_is_made_while_the_database_is_held(job, people, monkeypatch):
    from django.db import connection

    held = len(connection.savepoint_ids)
    real = standing.stand

    def looked(drawing, before=None):
        assert len(connection.savepoint_ids) == held
        return real(drawing, before)

    monkeypatch.setattr(standing, "stand", looked)
    store.commit(job.pk, people["owner"], move("A1", 40), base=None)
    store.take_back(job.pk, people["owner"], base=None)
