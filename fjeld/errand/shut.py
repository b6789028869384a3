"""What shuts a step: gates that say no, what stands at the spot or in the way, boxes that hold too little,
and what is not known.

A gate concerns some steps and not others; which, the book says. *No* shuts them with its reason. *Not known*
shuts them too where going on could hurt; else it is said on the step. What is answered with a change shuts
nothing: it is a step.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import msgspec

from fjeld.drawing.errand import CHANGED, NEW, length_of
from fjeld.errand.asked import larger_source, over
from fjeld.errand.facts import Gate
from fjeld.errand.filled import asked_for, in_its_place, is_larger, larger
from fjeld.errand.gates import stops
from fjeld.errand.known import ErrandFacts
from fjeld.judge.answer import NotAsked
from fjeld.judge.wires import ReachAsked, reach
from fjeld.quantities import Length, format_length
from fjeld.work.book import Task
from fjeld.work.standing import ShutBy

#: Gates of what the wires themselves are: nothing is touched that they refuse.
OF_THE_WIRES = ("G1", "G3", "G10")
#: Gates without which it is not known what a new cable would be joined to, or behind what.
OF_THE_TIE_IN = ("G1", "G2", "G3", "G5", "G10")
#: What stirs up dust: a wall is not so much as probed before it is known.
DUST = "old coat"


def with_concerns(
    tasks: Sequence[Task], shut: Mapping[str, Sequence[ShutBy]], said: Mapping[str, Sequence[str]]
) -> tuple[Task, ...]:
    """Each task with what shuts it by its concerns, what is known before what is not, and what is only said
    of it.
    """
    found = []
    for task in tasks:
        blocks = [*task.blocked_by, *(b for concern in task.concern for b in shut.get(concern, ()))]
        blocks = sorted(dict.fromkeys(blocks), key=lambda b: not b.known)
        notes = tuple(dict.fromkeys(n for concern in task.concern for n in said.get(concern, ())))
        found.append(msgspec.structs.replace(task, blocked_by=tuple(blocks), notes=notes))
    return tuple(found)


def concerns(facts: ErrandFacts) -> dict[str, tuple[ShutBy, ...]]:
    """What shuts, by what it concerns: see ``concern`` in the data of the book."""
    return {
        "source": _source(facts),
        "wires": _wires(facts),
        "tie": _tie(facts),
        "spot": _spot(facts, dust=False),
        "coat": _spot(facts, dust=True),
        "way": _way(facts),
        "stead": _stead(facts),
        "support": facts.support.blocked_by,
        "hold": _hold(facts),
        "moved": _moved(facts),
        "protection": _protection(facts),
        "state": _state(facts),
        "reach": _short(facts),
    }


def remarks(facts: ErrandFacts) -> dict[str, tuple[str, ...]]:
    """What nobody knows yet and what shuts nothing, by what it concerns: it is said where it matters."""
    if facts.judged is None:
        return {}
    shutting = OF_THE_TIE_IN if facts.errand.wants in NEW else ("G1",)
    told = tuple(
        f"{g.asks} Not known: {g.words}" for g in facts.judged.open if g.id not in (*shutting, "G9", "G11")
    )
    looks = tuple(
        f"Not looked for yet: {look}" for look in (facts.decided.chosen.looks if facts.decided else ())
    )
    return {"tie": told, "hold": () if facts.errand.wants in NEW else told, "way": looks}


# --- what the source is ----------------------------------------------------------------------------------


def _no(gate: Gate) -> ShutBy:
    return ShutBy(gate.words, gate.id, "path" if gate.id == "G11" else "source")


def _source(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """A box that is refused as the source, or whose readings go against each other."""
    found = facts.found
    blocks = [ShutBy(found.contradiction, "G2")] if found.contradiction else []
    if facts.judged is not None and not found.contradiction:
        blocks += [_no(g) for g in facts.judged.refused]
    return (*blocks, *([ShutBy(facts.trouble)] if facts.trouble else []))


def _wires(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """What refuses the wires themselves, so that nothing in the box is touched."""
    if facts.judged is None:
        # What cannot be reckoned is not open: not by what was looked at, nor while its readings are of other
        # wires.
        seen = stops(facts.old.condition)
        return (*([ShutBy(seen, "G1")] if seen else []), *([ShutBy(facts.trouble)] if facts.trouble else []))
    return tuple(_no(g) for g in facts.judged.refused if g.id in OF_THE_WIRES)


def _state(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """Wires that are to be worked on and at which nobody has looked."""
    if facts.judged is None or facts.errand.wants in NEW or facts.old.condition:
        return ()
    return tuple(ShutBy(g.words, g.id, known=False) for g in facts.judged.open if g.id == "G1")


def _tie(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """What a new cable would be joined to: nothing that is not known, and nothing that does not work."""
    if facts.errand.wants not in NEW:
        return ()
    if not facts.old.cables:
        return (ShutBy("what is in the old box is not told yet", "G2", known=False),)
    blocks = []
    into = facts.into
    if into is None:
        # Where readings go against each other that is why, and it is said once.
        why = facts.found.contradiction or "no line and neutral of one circuit can be in this box"
        blocks.append(ShutBy(why, "G2"))
    elif into.verdict == "fails":
        why = next((c.why for c in into.cases if c.why), "it works in no case that is left")
        blocks.append(ShutBy(why, "G2", "proof"))
    if facts.judged is not None:
        blocks += [ShutBy(g.words, g.id, known=False) for g in facts.judged.open if g.id in OF_THE_TIE_IN]
    if into is not None and into.verdict == "unless" and not blocks:
        tells = into.excludes or "a reading"
        why = f"it works in some cases that are left and not in others: {tells} tells"
        blocks.append(ShutBy(why, "G2", known=False))
    return tuple(blocks)


def _protection(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """Nothing is turned on of which nobody knows what has to protect it."""
    if facts.judged is None or facts.errand.wants not in NEW:
        return ()
    return tuple(ShutBy(g.words, g.id, known=False) for g in facts.judged.open if g.id == "G9")


# --- the spot and the way --------------------------------------------------------------------------------


def _spot(facts: ErrandFacts, dust: bool) -> tuple[ShutBy, ...]:
    """What stands against a cut: what was looked for and is there, and what nobody has looked for."""
    placed, seen = facts.placed, facts.errand.spot.seen
    if facts.errand.wants not in NEW | CHANGED:
        return ()
    mine = [(a, a.there) for a in placed.asks if a.kind == "seen" and a.there and (a.id == DUST) == dust]
    blocks = [
        ShutBy(there.words, a.id, "spot")
        for a, there in mine
        if seen.get(a.id) == "there" and there.tone in ("danger", "fails")
    ]
    if not dust:
        blocks += _said_of_spot(facts, {b.why for b in blocks})
    return (
        *blocks,
        *(
            ShutBy(f"not looked at yet: {a.words}", a.id, "spot", known=False)
            for a, _ in mine
            if a.id in placed.open
        ),
    )


def _said_of_spot(facts: ErrandFacts, told: set[str]) -> Iterator[ShutBy]:
    """What else stops the cut that was not ``told`` of, and water of which it is not said where."""
    placed = facts.placed
    words = told | {a.there.words for a in placed.asks if a.there is not None}
    yield from (ShutBy(s.words, "spot", "spot") for s in placed.stops if s.words not in words)
    if facts.errand.spot.seen.get("water") == "there" and {"by_water", "from_water"} & {*placed.open}:
        why = "by water: which of them it is, and how far off, is not told"
        yield ShutBy(why, "water", "spot", known=False)


def _way(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """A way that is blocked, that its wood or its headroom does not allow, or that nobody has taken."""
    way = facts.path
    if way is None:
        return ()
    if way.lost:
        return (
            ShutBy("the way that was taken is no longer there: take another", "G11", "path", known=False),
        )
    if not way.picked:
        return (ShutBy("which way the cable goes has not been chosen", "G11", "path", known=False),)
    if way.chosen.blocked:
        return (ShutBy(way.chosen.blocked, "G11", "path"),)
    if odd := _out_of_the_room(facts):
        return (ShutBy(odd, "G11", "path"),)
    failing = [
        s.words
        for d in way.details
        if d.answer is not None
        for s in d.answer.said
        if s.tone in ("fails", "danger")
    ]
    return tuple(ShutBy(words, "G11", "path") for words in dict.fromkeys(failing))


def _out_of_the_room(facts: ErrandFacts) -> str:
    """Why heights that were told cannot all be so: a box in a wall stands between its floor and
    its ceiling.
    """
    told, unit = facts.errand.way, facts.practice.unit
    ceiling = length_of(told.ceiling)
    for what, height in (
        ("the old box", length_of(told.source)),
        ("the new place", length_of(facts.errand.spot.height)),
    ):
        if height is not None and height < 0:
            return f"{what} is told to stand below the floor"
        if height is not None and ceiling is not None and height > ceiling:
            return (
                f"{what} is told at {format_length(height, unit)} and the ceiling at"
                f" {format_length(ceiling, unit)}"
            )
    return ""


# --- what the box holds, and what stands in it -----------------------------------------------------------


def _hold(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """Boxes that hold too little, where no change makes them larger; of one that is made larger, what it is
    to hold.
    """
    errand = facts.errand
    if errand.wants in CHANGED:
        return _new_box(facts)
    blocks = []
    if (change := larger_source(facts)) is not None and not change.part:
        blocks.append(ShutBy(change.why, "G7", "box"))
    if errand.wants in NEW and facts.filled and facts.filled[-1].over:
        blocks.append(ShutBy(over(facts.filled[-1]), "G7", "spot"))
    return tuple(blocks)


def _new_box(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """The box in the stead of the old one: which, larger where it is to be, and what will be in it."""
    errand, blocks = facts.errand, []
    larger_one = errand.wants == "larger box"
    if larger_one and errand.devices is None:
        blocks.append(ShutBy("how many devices will be in it is not told", "G7", "box", known=False))
    if not errand.spot.box:
        return (*blocks, ShutBy("which box comes in its place is not chosen", "G7", "box", known=False))
    if larger_one and facts.filled and facts.filled[0].holds is None:
        words = "what the old one holds is not read, so that nobody knows what is larger"
        blocks.append(ShutBy(words, "G7", "box", known=False))
    try:
        small = _too_small(facts, larger_one, looked_at=not blocks)
    except NotAsked as wrong:
        return (*blocks, ShutBy(str(wrong), "G7", "box", known=False))
    return (*blocks, *(ShutBy(words, "G7", "box") for words in small))


def _too_small(facts: ErrandFacts, larger_one: bool, looked_at: bool) -> list[str]:
    """Why the box that was chosen is too small for what it is to hold; raises :class:`NotAsked`."""
    box, asked = facts.placed.box, in_its_place(asked_for(facts.old, facts.errand), facts.errand)
    fits = {b.id for b in larger(asked, facts.practice)}
    found = []
    if larger_one and not is_larger(box, asked, facts.practice):
        found.append(f"{box.name} is no larger than the one that is there")
    found += [over(filled) for filled in facts.filled[1:2] if filled.over]
    if larger_one and looked_at and not found and box.id not in fits:
        found.append(f"{box.name} does not take what will be in it")
    return found


def _moved(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """A box that moves: whether its cables reach."""
    if facts.errand.wants != "move":
        return ()
    farther, free = length_of(facts.errand.farther), length_of(facts.old.free)
    if farther is None or free is None:
        what = "how much farther its cable has to go" if farther is None else "how much free wire it has"
        return (
            ShutBy(
                f"{what} is not told: a cable that does not reach is found out before anything is cut",
                "G14",
                "box",
                known=False,
            ),
        )
    known = {
        name: v
        for name in ("sheath", "slack", "past")
        if (v := getattr(facts.old, name)) is not None and not v.unknown
    }
    before, after = (0.0, farther) if farther >= 0 else (-farther, 0.0)
    answer = reach(ReachAsked(Length(free), Length(before), Length(after), **known), facts.practice)
    return tuple(ShutBy(s.words, "G14", "box") for s in answer.said if s.tone == "fails")


def _short(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """Wires too short for any connector; where they are to be made longer, how short they are is
    asked first.
    """
    if facts.ends is None:
        if facts.errand.wants != "short wires":
            return ()
        why = "how much free wire the shortest has is not told: with too little no connector can be put on"
        return (ShutBy(why, "G14", "box", known=False),)
    return tuple(ShutBy(s.words, "G14", "box") for s in facts.ends.said if s.tone == "fails")


def _stead(facts: ErrandFacts) -> tuple[ShutBy, ...]:
    """What is to stand in the place of a device and cannot, or of which nobody has said what it is."""
    stead = facts.stead
    if stead is None:
        return ()
    if stead.trouble:
        return (ShutBy(stead.trouble, "G15", "box"),)
    if stead.tried is None:
        return (ShutBy("what comes in its place is not told", "G15", "box", known=False),)
    blocks = [ShutBy(s.words, "G15", "box") for s in stead.said if s.tone in ("fails", "danger")]
    if stead.tried.verdict == "fails":
        blocks.append(ShutBy(stead.tried.cases[0].why, "G15", "box"))
    elif stead.tried.verdict == "unless":
        reading = stead.tried.excludes or "a reading"
        blocks.append(
            ShutBy(
                f"it works in some cases that are left and not in others: {reading} tells",
                "G15",
                "source",
                known=False,
            )
        )
    return tuple(blocks)
