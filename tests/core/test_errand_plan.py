"""The plan of an errand from any mixture of answers: no sequence of what people do records a step that is
shut.

The checks stand apart from the plan: what a box may not be, and what must have happened before what, are
written down here once more, by hand.
"""

import random
from typing import get_args

import msgspec
import pytest

from fjeld.derive.memo import Memo
from fjeld.drawing.building import usual_room
from fjeld.drawing.errand import Errand, ErrandKind, Spot, Way
from fjeld.drawing.handles import HOUSE, Handle
from fjeld.drawing.model import Drawing, House
from fjeld.drawing.old_box import OldBox
from fjeld.errand.plan import Taken, plan
from fjeld.errand.record import drawn_as
from fjeld.judge.volts import Volts
from fjeld.oldbox.arrangements import arrangements
from fjeld.oldbox.found import Reading
from fjeld.practice import Amendment, load
from fjeld.practice import rules as named
from fjeld.work.standing import Log, as_of, may
from tests.core.errand_bases import BASES, planned, ready, taken
from tests.judged import BAD, WIRES, judge, judge_dead
from tests.often import OFTEN

KINDS = get_args(ErrandKind)
PRACTICES = ("na", "gb")
E1 = Handle("E1")
#: As pages have it: what a stage came to for the same arguments is not worked out again.
MEMO = Memo()
#: What anybody may say of a box, of what is wanted, of the spot and of the way: true or not, and in any
#: mixture.
OF_BOX = {
    "condition": ("", "sound", *BAD, "scorched"),
    "ground": ("", "present", "absent"),
    "serves": ("", "general", "lighting"),
    "amps": (None, 1, 6, 15, 20, 32, 200),
    "volume": (None, 4.0, 18.0, 40.0),
    "depth": (None, 16, 35, 47),
    "opening": (None, True, False),
    "accessible": (None, True, False),
    "alone": (None, True, False),
    "ahead": ("", "none", "arc-fault", "ground-fault", "both"),
    "beside": (None, 0.0, 1200.0, 5000.0),
    "breaker": ("", "7", "9"),
    "breaker_read": (True, False),
    "material": ("", "metal", "plastic", "none"),
    "listed": (None, True, False),
    "marked": (None, 0.0, 15.0),
}
OF_ERRAND = {
    "becomes": ("", "same", "dimmer", "sensor", "protective", "fan"),
    "weighs": (None, 1.0, 60.0),
    "takes": (None, 12.0, 5000.0),
    "hours": (True, False),
    "fits": ("", "outlet", "switch"),
    "devices": (None, 1, 4),
    "attic": (True, False),
    "same_switch": (True, False),
}
OF_SPOT = {
    "surface": ("", "wall", "ceiling"),
    "covering": ("", "wallboard", "old coat"),
    "by_water": ("", "tub", "shower"),
    "box": ("", "cut-in-1", "dry-lining-1"),
    "outside": ("", "light", "outlet"),
    "seen": ({}, {"pipe": "there"}, {"wires": "clear"}),
}
OF_WAY = {
    "lies": ("", "same bay", "same wall", "along the joists", "elsewhere"),
    "studs": (None, 0, 3),
    "insulated": (None, True, False),
    "base": (None, True),
}


class Site:
    """An errand and the hands on it: they answer at random, read at random, and try any step at any time."""

    def __init__(self, kind, practice, seed):
        self.die = random.Random(f"{kind} {practice} {seed}")
        self.now, self.log, self.readings, self.accepted = 1000.0, [], [], []
        self.practice = load(practice)
        usual = self.die.choice(arrangements(practice))
        old = drawn_as(OldBox(Handle("R1"), place=usual.box.place), usual.box)
        self.old, self.errand = old, Errand(kind)
        for _ in range(self.die.randrange(14)):
            self.answer()

    def answer(self):
        which = self.die.randrange(4)
        if which == 0:
            self.old = self._set(self.old, OF_BOX)
        elif which == 1:
            self.errand = self._set(self.errand, OF_ERRAND)
        elif which == 2:
            self.errand = msgspec.structs.replace(
                self.errand, spot=self._set(self.errand.spot or Spot(), OF_SPOT)
            )
        else:
            self.errand = msgspec.structs.replace(
                self.errand, way=self._set(self.errand.way or Way(), OF_WAY)
            )

    def _set(self, thing, of):
        field = self.die.choice([*of])
        return msgspec.structs.replace(thing, **{field: self.die.choice(of[field])})

    def read(self):
        """A reading of the first conductors, live or dead."""
        volts = Volts(self.die.choice((0.2, 120.0)))
        reading = Reading("R4", to_earth={"1.BK": volts, "1.BN": volts}, proven=True)
        self.readings.append(Taken(reading, self.now, self.die.random() < 0.5))

    def plan(self):
        house = House("Any", practice=self.practice.id, errand=self.errand)
        items = {HOUSE: house, Handle("R1"): usual_room(self.practice.unit), E1: self.old}
        drawing, readings = Drawing(items), {E1: self.readings}
        found = plan(drawing, readings, self.log, self.practice, MEMO)
        if self.die.random() < 0.02:
            assert found == plan(drawing, readings, self.log, self.practice), (
                "what was remembered is what is so"
            )
        return found

    def stands(self):
        return as_of(self.plan().stands, self.now)

    def turn(self):
        """One thing that somebody does; a step is recorded only where it may be done."""
        self.now += self.die.choice((5.0, 60.0, 600.0, 4000.0))
        what = self.die.random()
        if what < 0.12:
            self.answer()
        elif what < 0.18:
            self.read()
        elif what < 0.24:
            self.log.append(Log(self.die.choice(("away", "tripped")), at=self.now))
        else:
            self.attempt()

    def attempt(self):
        stands = self.stands()
        wanted = self.die.choice(stands)
        if self.die.random() < 0.7:
            wanted = next((s for s in stands if s.open), wanted)
        event = "undone" if wanted.done and self.die.random() < 0.2 else "done"
        entry = Log(event, wanted.task.id, self.now, True, "E1", self.old.breaker)
        if event == "undone" or may(stands, wanted.task.id) == "":
            if event == "done":
                self.judge(wanted.task.id, {s.task.id for s in stands if s.done})
                self.accepted.append((wanted.task.id, self.now))
            self.log.append(entry)
        elif wanted.wants:
            # What waits for another step, sent all the same, is not done by having been sent.
            self.log.append(entry)
            after = {s.task.id: s for s in self.stands()}[wanted.task.id]
            assert wanted.done or not after.done, wanted.task.id
            self.log.pop()

    def judge(self, step, done):
        """What must be so of a step that was let be done, by rules that are written here."""
        there = {t.id for t in self.plan().tasks}
        judge(step, self.old.condition, there, done)
        tested = max((at for name, at in self.accepted if name == "dead"), default=None)
        doubted = [e.at for e in self.log if e.event in ("away", "tripped")] + [t.at for t in self.readings]
        judge_dead(step, there, self.now, tested, doubted, 60 * self.practice[named.DEAD_TEST_LASTS])


@pytest.mark.parametrize("practice", PRACTICES)
@pytest.mark.parametrize("kind", KINDS)
def test_no_sequence_records_a_step_that_is_shut(kind, practice):
    steps = 0
    for seed in range(6 * OFTEN):
        site = Site(kind, practice, seed)
        for _ in range(60):
            site.turn()
        steps += len(site.accepted)
    assert steps > 10, "the hands came nowhere: nothing was tried"


def test_the_hands_come_to_opened_boxes_and_are_refused_at_bad_ones():
    """That the machine reaches what it is to try: boxes opened, and boxes that stay shut for what
    they are.
    """
    opened = refused = 0
    for kind in ("replace", "loose splice", "short wires"):
        for seed in range(12):
            site = Site(kind, "na", seed)
            for _ in range(60):
                site.turn()
            opened += any(name == "open" for name, _ in site.accepted)
            shut = {s.task.id for s in site.stands() if s.task.blocked_by}
            refused += site.old.condition in BAD and bool(shut & set(WIRES))
    assert opened > 5
    assert refused > 2


@pytest.mark.parametrize("practice", ["na", "gb"])
def test_a_larger_box_fills_its_opening_and_one_that_moves_leaves_a_hole(practice):
    patched = {
        kind: "patch" in {t.id for t in planned(ready(kind, practice), practice).tasks} for kind in BASES
    }
    assert not patched["larger box"]
    assert patched["move"]


@pytest.mark.parametrize("practice", PRACTICES)
def test_what_is_remembered_is_of_the_practice_in_force(practice):
    """A local value, or a price of one's own, is seen by every stage that goes by it, though all else is as
    it was.
    """
    usual, memo = load(practice), Memo()
    drawing = ready("light", practice)
    readings = {E1: taken(drawing.get(E1, OldBox), practice)}
    plan(drawing, readings, (), usual, memo)
    part = f"cable:{usual.catalogue.cables[0].id}"
    others = [usual.priced({part: 12345})]
    for name in ("breaker-gauge", "pull-end", "pull-step", "free-conductor", "cable-slack", "screw-takes"):
        value = usual.named(name).value
        moved = {k: v / 2 for k, v in value.items()} if isinstance(value, dict) else 2 * value
        others.append(usual.amended((Amendment(name, moved, "here"),)))
    different = 0
    for other in others:
        found = plan(drawing, readings, (), other, memo)
        assert found == plan(drawing, readings, (), other)
        different += found.facts.judged != plan(drawing, readings, (), usual, memo).facts.judged
        different += found.facts.path != plan(drawing, readings, (), usual, memo).facts.path
    assert different >= 3
