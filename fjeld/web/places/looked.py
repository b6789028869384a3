"""What is looked at in an old box, and the answers that can be given: the same words wherever it is asked."""

from __future__ import annotations

from typing import get_args

from fjeld.drawing.old_box import Condition
from fjeld.practice import Practice
from fjeld.web.ui.panel import Choices

#: Roles in the words of the trade.
ROLES = {
    "FEED": "the feed",
    "ON": "goes on to others",
    "LEG": "switched line and neutral",
    "LEG2": "two switched lines",
    "LOOP": "a switch loop, no neutral",
    "LOOPN": "a switch loop with a neutral",
    "TRAV": "travellers",
    "HALF": "one line always, one switched",
    "TWO": "two lines of two circuits",
    "LINK": "links alarms",
    "DEAD": "nothing",
    "RING": "one side of a ring",
    "SPUR": "a spur",
    "other": "something else",
}
#: What is asked of a box beside its wires: its field, the words, and the answers that can be given.
YES_NO = (("yes", "yes"), ("no", "no"), ("", "?"))
CONDITIONS = tuple((c, c or "?") for c in get_args(Condition))
#: Whether a ground was found, with its words.
GROUNDS = (("present", "is there"), ("none", "none"), ("", "?"))


def ahead_words(practice: Practice) -> Choices:
    """The protection that may stand ahead of a box, with its words."""
    return (*practice.ahead.items(), ("", "?"))
