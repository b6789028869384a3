"""The book of an errand: its steps in order, with the gates between them, and how long they take.

Steps can be done in any order that their gates leave; where they stand by a log is told in
:mod:`fjeld.work.standing`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

import msgspec

from fjeld.concealed.along import Detail
from fjeld.concealed.routes import ConcealedLeg, ConcealedRoute
from fjeld.drawing.ends import is_ground
from fjeld.drawing.errand import NEW, Errand
from fjeld.judge.figured import Figured, figured, known_figures
from fjeld.judge.work import by_hands, drying, harder_by
from fjeld.oldbox.found import FoundBox, nets
from fjeld.oldbox.makeup import Made, What
from fjeld.practice import Practice
from fjeld.practice.finished import minutes, read_table
from fjeld.practice.finished.spots import spots
from fjeld.quantities import Line, Working
from fjeld.work.carry import with_what
from fjeld.work.standing import Asks, ShutBy, TaskLike

#: What holds of each conductor of a change but the last.
HOLDS, ONE_AT_A_TIME = "It holds when it is pulled, and no copper shows.", "One conductor at a time"
#: What a gate asks for where errands differ in it.
_EITHER = {"tie in or change": ("tie in", "change", "change box")}


#: From here on a sentence may be parted for whoever reads it from a ladder, characters.
BREATH = 16


class Task(TaskLike, frozen=True, kw_only=True):
    """A step: one sentence, what it should look like, its caution, where, and the steps that must stand
    before it.

    ``time`` is its step among the minutes (none where they are counted with another), ``count`` how many
    times what repeats in that does, ``figures`` what a test is to show; ``marks`` what was worked out for it,
    ``notes`` what is not known of it and does not shut it, ``tools`` what it is done with, ``hands`` how many
    people it takes; ``concern`` names what may shut it.
    """

    looks: str
    caution: str
    time: str
    asks: Asks = "tick"
    of: tuple[str, ...] = ()
    concern: tuple[str, ...] = ()
    count: float = 0.0
    figures: tuple[Figured, ...] = ()
    marks: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    hands: int = 1

    @property
    def first(self) -> str:
        """What is done first, to be read from a ladder: the sentence up to where one can draw breath."""
        return self._halves[0]

    @property
    def then(self) -> str:
        """The rest of it."""
        return self._halves[1]

    @property
    def _halves(self) -> tuple[str, str]:
        cut = re.search(r"[.:;,] ", self.words[BREATH:])
        if cut is None:
            return self.words, ""
        at = BREATH + cut.start()
        return self.words[:at], self.words[at + 2 :]


#: What stands in braces until an errand is known: the part of a change, and the cable that is pulled.
FILLED_IN = ("part", "cable")


@cache
def _words(practice: str) -> dict[str, str]:
    """What stands in braces in the book, in a practice's own words, with and without a capital."""
    own: dict[str, str] = read_table("book.toml")["words"][practice]
    return (
        own
        | {name.capitalize(): value.capitalize() for name, value in own.items()}
        | {n: f"{{{n}}}" for n in FILLED_IN}
    )


def in_practice(row: Mapping[str, Any], practice: str) -> Task:
    """A step of the data in a practice's own words."""
    words = _words(practice)
    task = msgspec.convert({k: v for k, v in row.items() if k != "figures"}, Task)
    told = {name: getattr(task, name).format(**words) for name in ("words", "looks", "caution")}
    return msgspec.structs.replace(task, figures=figured(tuple(row.get("figures", ())), words), **told)


@cache
def figures_in(practice: str) -> dict[str, Figured]:
    """Every figure that a test may show, by its id, in a practice's own words."""
    return {f.id: f for f in figured(known_figures(), _words(practice))}


@cache
def _steps(practice: str) -> tuple[Task, ...]:
    """Every step, in a practice's own words."""
    return tuple(in_practice(row, practice) for row in read_table("book.toml")["step"])


#: The steps in which each conductor of a new cable is tied in.
TIED: dict[What, str] = {
    "ground": "tie in ground",
    "neutral": "tie in neutral",
    "link": "tie in link",
    "line": "tie in",
}


def joint_steps(joints: Sequence[Made]) -> dict[str, Made]:
    """Each joint by the step that it is made in. Of several tails or moves the last keeps the name that
    others wait for.
    """
    tails = [j for j in joints if j.what in ("tail", "move")]
    names = [*(f"change {n}" for n in range(1, len(tails))), "change"]
    return dict(zip(names, tails, strict=False)) | {TIED[j.what]: j for j in joints if j.what in TIED}


def book(
    errand: Errand,
    practice: Practice,
    route: ConcealedRoute | None = None,
    joints: Sequence[Made] = (),
    measured: Sequence[Detail] = (),
    cable: str = "",
) -> tuple[Task, ...]:
    """The steps of an errand, each with those gates that it has; the cut by its surface, a step for each leg
    of its way with what was ``measured`` along it, and the tying in by the ``joints`` of the box in hand,
    where they are known. ``cable`` names the new one by its kind and gauge, empty while the gauge that it
    goes on from is not read.
    """
    made = joint_steps(joints)
    mine = [_in_words(t, made, cable) for t in _of(errand, route, practice)]
    there = {t.id for t in mine}
    found: list[Task] = []
    for task in mine:
        own = msgspec.structs.replace(task, needs=tuple(_gates(task, there)))
        if task.id == "way" and route is not None:
            found += _legs(own, route, practice, measured)
        elif task.id == "change":
            found += _changes(own, made)
        else:
            found.append(_cut(own, errand) if task.id == "cut" else own)
    legs = leg_steps(route) if route else {}
    return tuple(
        msgspec.structs.replace(
            t,
            tools=with_what(t.id, errand, route, legs.get(t.id), practice),
            hands=legs[t.id].way.hands if t.id in legs else 1,
        )
        for t in found
    )


def _of(errand: Errand, route: ConcealedRoute | None, practice: Practice) -> list[Task]:
    """The steps that an errand of its kind has."""
    kind = errand.wants
    mine = [t for t in _steps(practice.tables) if not t.of or kind in t.of or ("new" in t.of and kind in NEW)]
    if kind in NEW and route is not None and not route.patches:
        # A box cut in leaves nothing to patch, and neither does this way.
        return [t for t in mine if t.id != "patch"]
    return mine


def _in_words(task: Task, made: Mapping[str, Made], cable: str) -> Task:
    """A step with the name of its cable, and with the joint that is made in it."""
    pulled = cable or "the new cable (of the gauge that feeds it: not read yet)"
    if task.id in made:
        return msgspec.structs.replace(task, words=made[task.id].words, joint=made[task.id].name)
    return msgspec.structs.replace(task, words=task.words.replace("{cable}", pulled))


def _changes(task: Task, made: Mapping[str, Made]) -> list[Task]:
    """The change, after a step for each tail or move before the last, one after another; its time is counted
    once.
    """
    found: list[Task] = []
    for name, joint in made.items():
        if name.startswith(f"{task.id} "):
            needs = (*task.needs, *([found[-1].id] if found else []))
            own = msgspec.structs.replace(
                task, id=name, words=joint.words, joint=joint.name, time="", needs=needs, looks=HOLDS
            )
            found.append(_cautioned(own, joint))
    last = msgspec.structs.replace(task, needs=(*task.needs, *([found[-1].id] if found else [])))
    return [*found, _cautioned(last, made[task.id]) if task.id in made else last]


def _cautioned(task: Task, joint: Made) -> Task:
    """That the common goes to the common is said where it is the common that goes; else what is to be minded
    of the joint.
    """
    return task if joint.common else msgspec.structs.replace(task, caution=joint.caution or ONE_AT_A_TIME)


def _cut(task: Task, errand: Errand) -> Task:
    """The cut as its surface is cut."""
    surface = next((c for c in spots().covering if c.id == errand.spot.covering), None)
    if surface is None:
        return task
    return msgspec.structs.replace(
        task, words=f"{surface.outline} {surface.start} {surface.saw}; try the box; shave.", time=surface.time
    )


def leg_steps(route: ConcealedRoute) -> dict[str, ConcealedLeg]:
    """Each leg of a way by the step that it is made in; the last keeps the name that others wait for."""
    names = [f"way {n}" for n in range(1, len(route.made))]
    return dict(zip((*names, "way"), route.made, strict=False))


def _legs(task: Task, route: ConcealedRoute, practice: Practice, measured: Sequence[Detail]) -> list[Task]:
    """A step for each leg of the way, one after another."""
    found: list[Task] = []
    for name, leg in leg_steps(route).items():
        found.append(
            msgspec.structs.replace(
                task,
                id=name,
                words=f"{leg.way.name}. {leg.way.told(practice)}",
                time=leg.way.id,
                count=float(leg.count or 0),
                needs=(*task.needs, *([found[-1].id] if found else [])),
                blocked_by=_in_the_way(leg),
                marks=tuple(m for d in measured if d.leg == leg for m in d.marks),
            )
        )
    return found or [task]


def _in_the_way(leg: ConcealedLeg) -> tuple[ShutBy, ...]:
    return (ShutBy(leg.blocked, "G11", "path"),) if leg.blocked else ()


def _gates(task: Task, there: set[str]) -> list[str]:
    found = []
    for need in task.needs:
        found += [n for n in _EITHER.get(need, (need,)) if n in there]
    return found


def nodes_of(box: FoundBox, metal: bool = False) -> tuple[str, ...]:
    """What a dead test measures between: every joint and loose end, the grounds, the metal of the box, an
    earth that is proven.
    """
    where = nets(box)
    found = []
    for ends in where.ends:
        live = [e for e in ends if not is_ground(e)]
        if live:
            found.append(" with ".join(live))
    if any(cable.grounds for cable in box.cables):
        found.append("grounds")
    return (*found, *(("the metal box",) if metal else ()), "earth")


def reckoned(task: Task, cables: int, fished: float = 0.0) -> tuple[str, float]:
    """The class of a step that has a time, and its minutes for practised hands; ``fished`` is what is pulled
    blind, mm.
    """
    step = minutes().steps[task.time]
    counts = {"record": float(max(0, cables - 2)), "pull": fished / (step.per or 1.0)}
    return step.kind, step.minutes + step.each * (task.count or counts.get(task.time, 0.0))


class Hours(msgspec.Struct, frozen=True):
    """How long a book takes: ``labour`` in minutes, its range, and the hours that coats take to dry, which
    are no labour.
    """

    labour: Working
    least: float
    most: float
    waiting: float


def hours(
    tasks: Sequence[Task],
    times: int,
    cables: int,
    fished: float = 0.0,
    own: Mapping[str, float] | None = None,
    access: Sequence[str] = (),
) -> Hours:
    """How long all steps take for who does it the first time, the second, or from the third (1, 2, 3).

    ``fished`` is what is pulled blind, mm. ``own`` are factors by class of work, learned from times that were
    taken: they stand in place of what is usual for the first time or the second. ``access`` is what makes it
    harder.
    """
    lines = []
    harder, around = harder_by(access)
    least = most = waiting = 0.0
    for task in tasks:
        if not task.time:
            continue
        if task.time == "patch":
            coats, patching = drying()
            waiting += coats.total
            lines.append(Line(1.0, patching.total, task.id))
            least += patching.total
            most += patching.total
            continue
        kind, skilled = reckoned(task, cables, fished)
        line = by_hands(kind, skilled, times=times, harder=harder, what=task.id, own=(own or {}).get(kind))
        lines.append(line)
        low, high = minutes().spread
        least += low * line.amount
        most += high * line.amount
    extra = sum(line.amount for line in around)
    return Hours(
        Working("Minutes", "min", (*lines, *around)),
        least + minutes().spread[0] * extra,
        most + minutes().spread[1] * extra,
        waiting,
    )
