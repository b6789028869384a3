"""What people come with, in their words, and which questions of the bench go with it."""

from __future__ import annotations

from fjeld.drawing.errand import ErrandKind
from fjeld.web.ui.panel import Shown


class ErrandCard(Shown, frozen=True):
    """An errand: its name, its words, what its first box is, and the questions that go with it."""

    name: ErrandKind
    words: str
    box: str
    questions: tuple[str, ...]


_NEW = ("fits", "load", "extends", "spot", "ways", "pull", "time")
KINDS: dict[str, ErrandCard] = {
    kind.name: kind
    for kind in (
        ErrandCard("light", "Add a light", "a box that could feed it", ("void", "transfer", *_NEW)),
        ErrandCard("outlet", "Add an outlet or a switch", "a box that could feed it", _NEW),
        ErrandCard(
            "heavy",
            "Hang a fan or something heavy",
            "the box that is there",
            ("hangs", "fan", "downrod", "fits", "dimmer", "time"),
        ),
        ErrandCard("larger box", "Make a box larger", "that box", ("cutout", "fits", "time")),
        ErrandCard(
            "replace",
            "Replace a switch, an outlet or a light",
            "its box",
            ("terminals", "replace", "fits", "dimmer", "time"),
        ),
        ErrandCard("short wires", "Wires too short", "that box", ("short", "fits", "time")),
        ErrandCard("move", "Move a box", "that box", ("reach", "spot", "patch", "time")),
        ErrandCard(
            "outdoors",
            "A light or an outlet outside",
            "a box that could feed it",
            ("outdoors", "masonry", *_NEW),
        ),
        ErrandCard(
            "loose splice",
            "Wires joined outside a box",
            "what is joined there",
            ("splice", "fits", "short", "pairs", "time"),
        ),
        ErrandCard("alarms", "Link smoke alarms", "the alarm that is there", ("link", *_NEW)),
    )
}
