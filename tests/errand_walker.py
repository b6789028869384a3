"""People who use whatever an errand's pages offer: answers, readings, steps and photographs at random, by
several hands whose pages may be old, while time goes by and the program is started anew.

The forms are read from the pages themselves, so that one added tomorrow is walked tomorrow. Held after each
press: what was refused changed nothing; what was acknowledged is there; nobody changed unseen what another
had answered; and no step was recorded that was shut, by rules written apart.
"""

from __future__ import annotations

import random
import re
from collections import Counter
from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db.models import F
from msgspec.structs import replace

from fjeld.derive.plan import in_force
from fjeld.drawing.handles import HOUSE
from fjeld.drawing.old_box import OldBox
from fjeld.practice import rules
from fjeld.practice.finished.roles import role_data
from fjeld.web.http import view as views
from fjeld.web.jobs.models import Job, Photo, Record, forget_drawings
from fjeld.web.places.planned import plan_of, stands_of
from fjeld.work.records import stored
from tests.judged import judge, judge_dead
from tests.walker import Forms, filled
from tests.web.errands import words

PAGES = (
    "",
    "?take=R4",
    "?take=R5",
    "?take=R7",
    "/spot",
    "/path",
    "/box",
    "/proof",
    "/steps",
    "/steps",
    "/steps",
    "/sheet",
    "/kept",
)
#: What is not a person's ordinary press on these pages.
LEFT_ALONE = ("/theme", "/sign-out", "/delete", "/archive", "/copy", "/adopt")
FINE = (204, 302, 404, 409, 422)
REFUSED = (404, 409, 422)
#: Fields of an errand that are lists of what was put off, or parts told one by one.
APART = ("spot", "way", "seen", "later")
TYPED = {
    "ft-in": ('9"', '16 3/4"', '31 1/4"', '46"', "8'", '1/2"', "0", "?", "12", "100", "15", "3"),
    "mm": ("230 mm", "425 mm", "794", "1170", "2440", "12.5", "0", "?", "12", "100", "6", "3"),
}
#: What is usually read; the rest of the time something odd.
USUAL = {
    "pair": "0.2",
    "figure:through": "0.3",
    "figure:insulation": ">500",
    "amps": "0",
    "by": "Kim",
    "note": "as it was found",
}
ODD = ("0", "0.2", "3", "48", "120.1", "231", "118", "", "12O", "-5", "1e9")


class Person:
    """Somebody with a page open, which may be old: its address, its forms, and the revision that it shows."""

    def __init__(self, name, client):
        self.name, self.client = name, client
        self.at, self.forms, self.links, self.seen = "", [], [], 0


class ErrandWalk:
    """Walks one errand; raises ``AssertionError`` with the way walked."""

    def __init__(self, people, job, seed):
        self.people, self.job, self.die = people, job, random.Random(seed)
        self.seed, self.way, self.count = seed, [], Counter()
        #: Who changed an answer last, and the revision in which.
        self.last = {}
        for person in people:
            self.look(person)

    def told(self, what):
        return f"seed {self.seed}: {what} after\n" + "\n".join(self.way[-12:])

    def step(self):
        """One thing done."""
        person, roll = self.die.choice(self.people), self.die.random()
        if roll < 0.03:
            self.restart()
        elif roll < 0.08:
            self.time_goes_by(self.die.choice((1, 20, 20, 240)))
        elif roll < 0.4 or not person.forms:
            self.look(person)
        else:
            self.press(person)

    def restart(self):
        """Nothing that is in memory outlives a new process; every page reads as it did."""
        pages = ("", "/box", "/steps", "/kept")
        before = [words(self._get(self.people[0], page)) for page in pages]
        forget_drawings()
        views._plans.clear()
        views.MEMO.clear()
        assert [words(self._get(self.people[0], page)) for page in pages] == before, self.told("a restart")
        self.count["restart"] += 1

    def time_goes_by(self, minutes):
        """All that was done is so much longer ago."""
        self.way.append(f"{minutes} minutes go by")
        for record in self.job.records.all():
            told = record.told
            if told.written is not None:
                told = replace(told, written=told.written - timedelta(minutes=minutes))
            Record.objects.filter(pk=record.pk).update(
                body=stored(told), when=F("when") - timedelta(minutes=minutes)
            )

    def look(self, person):
        """A page of the errand, or where a link of the page in hand leads."""
        page = self.die.choice(self.die.choice((PAGES, person.links or PAGES)))
        html = self._get(person, page)
        self.job.refresh_from_db()
        base = f"/jobs/{self.job.pk}/errand"
        person.at, person.seen = page, self.job.head.seq
        person.links = [
            h.replace("&amp;", "&")[len(base) :]
            for h in re.findall(r'href="([^"#]+)"', html)
            if re.match(rf"{base}(\?|/(spot|path|box|proof|steps|kept)(\?|$))", h)
        ]
        person.forms = [f for f in Forms(html).found if not f["action"].endswith(LEFT_ALONE)]

    def _get(self, person, page):
        response = person.client.get(f"/jobs/{self.job.pk}/errand{page}")
        assert response.status_code == 200, self.told(f"{page} answered {response.status_code}")
        return response.content.decode()

    def press(self, person):
        """A form of the page in hand, filled in and sent."""
        form = self._chosen(person)
        sent = filled(
            form["fields"], self.die, self._typed, ticks=0.85, photograph=self._photograph, rather="done"
        )
        action = form["action"].rpartition("/errand")[2]
        self.way.append(
            f"{person.name} at {person.at!r}: {action} { ({k: v for k, v in sent.items() if k != 'token'}) }"
        )
        before = self._state()
        response = person.client.post(form["action"], sent)
        assert response.status_code in FINE, self.told(f"answered {response.status_code}")
        after = self._state()
        if response.status_code in REFUSED:
            assert after["all"] == before["all"], self.told("what was refused changed something")
            said = words(response.content.decode())
            assert len(said) > 20, self.told("a refusal says why")
            self.count["conflict"] += "in the meantime" in said
            self.count["refused"] += 1
            return
        self.count[re.sub(r"\d+", "n", action)] += 1
        self._nothing_lost(person, action, before, after)
        for record in after["records"] - before["records"]:
            self._rightly_done(Record.objects.get(pk=record), before)

    def _chosen(self, person):
        """A form of the page: any action as likely as another, and of steps most often the one
        that is next.
        """
        die = self.die
        by_action = {}
        for form in person.forms:
            by_action.setdefault(form["action"], []).append(form)
        # A photograph takes its time, and a reading is what turns most.
        weights = [0.2 if "/photo" in a else 3.0 if a.endswith("/record") else 1.0 for a in by_action]
        forms = by_action[die.choices([*by_action], weights)[0]]
        mine = [f for f in forms if self._value(f, "step") == self._next()]
        return die.choice(mine) if mine and die.random() < 0.8 else die.choice(forms)

    def _next(self):
        return next((s.task.id for s in stands_of(self.job, self._drawing()) if s.open and not s.done), None)

    @staticmethod
    def _value(form, name):
        return next((f["value"] for f in form["fields"] if f["name"] == name), None)

    def _typed(self, name, _standing):
        if name.endswith(":loaded"):
            return self.die.choice(("", "", "", "", *ODD))
        usual = USUAL.get(name) or USUAL.get(name.partition(":")[0])
        if usual is not None and self.die.random() < 0.95:
            return usual
        return self.die.choice(ODD if ":" in name else TYPED[self._drawing().house.unit])

    def _photograph(self):
        from tests.web.test_photos import photograph

        taken = photograph(80, 60) if self.die.random() < 0.8 else b"no picture at all"
        return SimpleUploadedFile("here.jpg", taken, "image/jpeg")

    # --- what is held -----------------------------------------------------------------

    def _drawing(self):
        forget_drawings()
        return Job.objects.select_related("head__document").get(pk=self.job.pk).head.document.drawing

    def _state(self):
        """What is stored: every answer by its name, the records and photographs that count, and where the
        steps stand.
        """
        drawing = self._drawing()
        answers = dict(_answers(drawing))
        records = set(self.job.records.values_list("pk", flat=True))
        photos = set(Photo.objects.filter(job=self.job).values_list("pk", flat=True))
        struck = set(self.job.records.filter(struck=True).values_list("pk", flat=True))
        seq = Job.objects.values_list("head__seq", flat=True).get(pk=self.job.pk)
        stands = stands_of(self.job, drawing) if drawing.house.errand is not None else ()
        known = plan_of(self.job, drawing)
        return {
            "all": (answers, records, photos, struck, seq),
            "answers": answers,
            "records": records,
            "photos": photos,
            "seq": seq,
            "done": {s.task.id for s in stands if s.done},
            "there": {s.task.id for s in stands},
            "condition": known.facts.old.condition,
            "lasts": 60 * in_force(drawing.house)[rules.DEAD_TEST_LASTS],
        }

    def _nothing_lost(self, person, action, before, after):
        """What stood stands, and what another answered since this page was opened was not changed unseen."""
        assert before["records"] <= after["records"], self.told("a record was lost")
        if "/photo" not in action:
            assert before["photos"] <= after["photos"], self.told("a photograph was lost")
        for name in before["answers"].keys() | after["answers"].keys():
            if before["answers"].get(name) == after["answers"].get(name):
                continue
            who, when = self.last.get(name, (person.name, 0))
            assert who == person.name or when <= person.seen, self.told(
                f"{name}, which {who} answered, was changed unseen"
            )
            self.last[name] = (person.name, after["seq"])

    def _rightly_done(self, record, before):
        """A step that was recorded as done was one that could be."""
        if record.kind != "step" or record.told.event != "done":
            return
        step = record.key.removeprefix("step:")
        self.count["done"] += 1
        try:
            judge(step, before["condition"], before["there"], before["done"])
            others = list(self.job.records.filter(struck=False).exclude(pk=record.pk))
            tested = max(
                (r.happened.timestamp() for r in others if r.key == "step:dead" and r.told.event == "done"),
                default=None,
            )
            doubted = [
                r.happened.timestamp()
                for r in others
                if (r.kind == "step" and r.told.event in ("away", "tripped")) or self._live(r)
            ]
            judge_dead(step, before["there"], record.happened.timestamp(), tested, doubted, before["lasts"])
        except AssertionError as wrong:
            raise AssertionError(self.told(f"{wrong} was done")) from None

    @staticmethod
    def _live(record):
        kind = role_data().readings.get(record.told.reading.id) if record.kind == "reading" else None
        return kind is not None and kind.live


def _answers(drawing):
    """Every answer of an errand by its name: of its boxes, of what is wanted, of its spot and its way."""
    errand = drawing.get(HOUSE, type(drawing.house)).errand
    parts = {handle: box for handle, box in drawing.of(OldBox).items()}
    parts |= {"errand": errand, "spot": errand.spot, "way": errand.way}
    for name, part in parts.items():
        yield from (((name, f), getattr(part, f)) for f in part.__struct_fields__ if f not in APART)
        if name in ("spot", "way"):
            yield from (((name, "seen", look), found) for look, found in part.seen.items())
