"""Two people on one errand, each with a page that may be old: nothing that was answered as done is lost unseen."""

import random

import pytest

from fjeld.drawing.old_box import OldBox
from fjeld.web.jobs.models import forget_drawings
from tests.often import OFTEN
from tests.walker import Forms
from tests.web.errands import words

#: Errands with what their source page and their Box page ask of both hands.
TRIED = (
    ("light", "na"),
    ("outlet", "gb"),
    ("replace", "na"),
    ("heavy", "na"),
    ("larger box", "gb"),
    ("short wires", "na"),
)
PAGES = ("", "/box", "/spot", "/path")
#: Words of a conflict, and how often each walk met one.
BOTH = ("in the meantime",)
REACHED = []
#: What sends one answer: its field and value, or the one field that is typed in.
ANSWERS = ("/do/look", "/meant", "/spot/told", "/path/told")


class Hand:
    """A client with the page that it last looked at; it presses one of the answers which that page offers."""

    def __init__(self, client, job, name):
        self.client, self.job, self.name = client, job, name
        self.forms, self.seen = [], 0

    def look(self, page):
        response = self.client.get(f"/jobs/{self.job.pk}/errand{page}")
        assert response.status_code == 200
        self.job.refresh_from_db()
        self.seen = self.job.head.seq
        self.forms = [f for f in Forms(response.content.decode()).found if f["action"].endswith(ANSWERS)]

    def press(self, die):
        """Sends one offered answer; what was sent, and how it was answered."""
        form = die.choice(self.forms)
        sent = {f["name"]: f["value"] for f in form["fields"] if f["kind"] == "hidden"}
        buttons = [f for f in form["fields"] if f["kind"] == "button" and f["name"]]
        if buttons:
            chosen = die.choice(buttons)
            sent[chosen["name"]] = chosen["value"]
        for f in form["fields"]:
            if f["kind"] not in ("hidden", "button") and f["name"]:
                sent[f["name"]] = die.choice(("12", "3", "100"))
        return sent, self.client.post(form["action"], sent)


def told(job):
    """Every answer of an errand as it is stored: those of the box, of what is wanted, of its spot and its way."""
    forget_drawings()
    job.refresh_from_db()
    drawing = job.head.document.drawing
    errand, box = drawing.house.errand, drawing.get("E1", OldBox)
    of = {"box": box, "": errand, "spot": errand.spot, "way": errand.way}
    apart = ("spot", "way", "cables", "held", "later", "seen")
    found = {(k, f): getattr(v, f) for k, v in of.items() for f in v.__struct_fields__ if f not in apart}
    return found | {("seen", k): v for part in (errand.spot, errand.way) for k, v in part.seen.items()}


@pytest.mark.parametrize(("kind", "practice"), TRIED)
def test_what_one_answered_is_never_undone_by_the_other_unseen(started, as_, kind, practice):
    for seed in range(OFTEN):
        die = random.Random(f"{kind} {practice} {seed}")
        job, client = started(practice, kind)
        both = [Hand(client, job, "one"), Hand(as_("owner"), job, "two")]
        for hand in both:
            hand.look("")
        # Who changed a field last, and the revision in which: what the other did not see is not theirs to change.
        last = {}
        conflicts = accepted = 0
        for _ in range(70):
            hand = die.choice(both)
            if die.random() < 0.35 or not hand.forms:
                hand.look(die.choice(PAGES))
                continue
            before, seq = told(job), job.head.seq
            sent, response = hand.press(die)
            after = told(job)
            changed = {k for k in before.keys() | after.keys() if before.get(k) != after.get(k)}
            if response.status_code == 302:
                accepted += 1
                for field in changed:
                    who, when = last.get(field, (hand.name, 0))
                    assert who == hand.name or when <= hand.seen, (field, sent, "was lost unseen")
                    last[field] = (hand.name, job.head.seq)
            else:
                assert response.status_code in (404, 409, 422), response.status_code
                assert not changed
                assert job.head.seq == seq
                said = words(response.content.decode())
                conflicts += any(key in said for key in BOTH)
        assert accepted > 10
        REACHED.append(conflicts)


def test_the_two_come_into_each_others_way():
    """That the walk above reaches what it is to try."""
    assert not REACHED or sum(REACHED) > 0
