"""What is new joined to an old box: where, and whether it works in every case that is still possible."""

from __future__ import annotations

from collections import defaultdict
from typing import Literal

import msgspec

from fjeld.derive.memo import Remember, always
from fjeld.drawing.ends import End
from fjeld.oldbox.following import following
from fjeld.oldbox.found import FoundBox
from fjeld.oldbox.weighed import One, Weighed, weigh
from fjeld.practice import Practice

Verdict = Literal["works", "unless", "fails"]


class Case(msgspec.Struct, frozen=True):
    """One thing that the box may still be: its roles by cable, how likely, and whether what is new works
    there, or why not.

    ``live`` has a bit for each state of the ``controls``, the first of them the lowest: whether line reaches
    what is new.
    """

    roles: tuple[tuple[str, str], ...]
    share: float
    works: bool
    why: str = ""
    controls: tuple[str, ...] = ()
    live: int = 0


class TieIn(msgspec.Struct, frozen=True):
    """The joints that a new cable's line and neutral go to, and what becomes of it.

    ``excludes`` is the reading that tells the cases apart, where some of them fail.
    """

    line: tuple[End, ...]
    neutral: tuple[End, ...]
    verdict: Verdict
    cases: tuple[Case, ...]
    excludes: str = ""


def tie_in(
    box: FoundBox, practice: Practice, switched: bool = False, remember: Remember = always
) -> TieIn | None:
    """The likeliest place for a new cable, tried in every case left; none where no line and neutral can be
    there.

    ``switched`` where what is new is to follow a switch of this box. Raises :class:`NotAsked`.
    """
    best: tuple[float, Weighed, int, int] | None = None
    for weighed in weigh(box, practice, remember):
        for share, line, neutral in _places(weighed, "s" if switched else "l"):
            if best is None or share > best[0]:
                best = (share, weighed, line, neutral)
    if best is None:
        return None
    _, weighed, line, neutral = best
    cases = tuple(_case(weighed, one, line, neutral, switched) for one in weighed.each((line, neutral)))
    good = [c for c in cases if c.works]
    verdict: Verdict = "works" if len(good) == len(cases) else "unless" if good else "fails"
    told = following([weighed], []) if verdict == "unless" else None
    return TieIn(
        weighed.where.ends[line],
        weighed.where.ends[neutral],
        verdict,
        tuple(sorted(cases, key=lambda c: (c.works, -c.share))),
        told.id if told else "",
    )


def _places(weighed: Weighed, what: str) -> list[tuple[float, int, int]]:
    """Each pair of nets that may be line and neutral of one circuit, with how likely that is."""
    shares: dict[tuple[int, ...], float] = defaultdict(float)
    total = sum(weighed.after[k] for k in weighed.standing) or 1.0
    for k in weighed.standing:
        h = weighed.found[k]
        for line in (n for n, c in h.carries.items() if c == what):
            for neutral in (n for n, c in h.carries.items() if c == "n"):
                may = weighed.together((line, neutral), k)
                for pair in may:
                    shares[pair] += weighed.after[k] / total / len(may)
    return [(share, line, neutral) for (line, neutral), share in shares.items()]


def _case(weighed: Weighed, one: One, line: int, neutral: int, switched: bool) -> Case:
    """Whether line reaches it in every state, or in some as a switch says, and comes home by its
    own neutral.
    """
    h, shown = one.hypothesis, one.shows
    live, home = shown.live.get(line, 0), neutral in shown.home
    why = ""
    if not live:
        why = "nothing live comes to it"
    elif switched and live == shown.all:
        why = "it would be on whatever the switch does"
    elif not switched and live != shown.all:
        why = "it would be dead when a switch is off"
    elif not home:
        why = "nothing leads home from it but a lamp"
    roles = tuple((c.id, b.role) for c, b in zip(weighed.box.cables, h.cables, strict=True))
    return Case(
        roles=roles,
        share=one.share,
        works=not why,
        why=why,
        controls=shown.controls,
        live=live,
    )
