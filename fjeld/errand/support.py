"""What hangs, and what carries it: its weight, the box by its listing and its mark, a brace by the space that
it spans.

A mark of a weight is no listing for a fan: both are read off the box, and neither stands for the other.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from fjeld.drawing.errand import Errand, length_of
from fjeld.drawing.old_box import OldBox
from fjeld.judge.answer import Said
from fjeld.judge.devices import HangsAsked, hangs
from fjeld.judge.spot import spanned
from fjeld.practice import Practice, rules
from fjeld.work.changes import Change
from fjeld.work.standing import ShutBy

GATE = "G13"
Hung = Literal["fan", "light", "wall light"]


class Support(msgspec.Struct, frozen=True):
    """What is ``said`` of the box and what hangs from it, the ``change`` that it asks for, and what shuts the
    hanging.
    """

    said: tuple[Said, ...] = ()
    change: Change | None = None
    blocked_by: tuple[ShutBy, ...] = ()


def support(errand: Errand, old: OldBox, practice: Practice) -> Support:
    """Whether the old box carries what is hung in place of what hung there; nothing for errands that hang
    nothing.
    """
    if errand.wants != "heavy":
        return Support()
    if errand.weighs is None:
        return Support(blocked_by=(_open("how much it weighs is not told: read it off its sheet"),))
    what: Hung = (
        "fan" if errand.becomes == "fan" else "light" if old.place in ("", "ceiling") else "wall light"
    )
    marked = None if old.marked is None else old.marked
    asked = HangsAsked(what, kg=errand.weighs, marked=marked, listed=old.listed)
    said = hangs(asked, practice).said
    if any(s.tone in ("fails", "danger") for s in said) or (what == "fan" and rules.FAN_BOX not in practice):
        return _instead(said, what, errand, old, practice)
    if what == "fan" and any(s.tone == "ask" for s in said):
        return Support(said, blocked_by=(_open(f"{said[0].words[:1].lower()}{said[0].words[1:]}"),))
    return Support(said)


def _open(why: str) -> ShutBy:
    return ShutBy(why, GATE, "box", known=False)


def _instead(said: tuple[Said, ...], what: Hung, errand: Errand, old: OldBox, practice: Practice) -> Support:
    """What carries it in the place of the old box: a block from above, a brace that bridges the space, a
    hook.
    """
    why = next((s for s in said if s.tone in ("fails", "danger", "ask")), said[0])
    if rules.FAN_BOX not in practice:
        return _with("a hook or a bracket made for the weight, screwed into a joist or a noggin", why, said)
    if errand.attic:
        return _with(
            (
                'a 2x6 block between the joists from above, and a box marked "fan" on it'
                if what == "fan"
                else "a 2x6 block between the joists from above, and a box fixed to it"
            ),
            why,
            said,
        )
    brace = next((b for b in practice.catalogue.old_work if b.grip == "brace"), None)
    clear = length_of(old.clear)
    if brace is None or clear is None:
        words = (
            "its old box does not carry it; how wide is the clear space between the joists there? A brace"
            " bridges so much and no more"
        )
        return Support(said, blocked_by=(_open(words),))
    if refused := spanned(brace, clear, practice.unit):
        words = (
            f"{refused}: a pan box marked for a fan on the joist itself, or a block from an attic that is"
            " open"
        )
        return Support(said, blocked_by=(ShutBy(words, GATE, "box"),))
    return _with(brace.name, why, said)


def _with(part: str, why: Said, said: tuple[Said, ...]) -> Support:
    return Support(said, Change("support", why.words, part, GATE, why.basis))
