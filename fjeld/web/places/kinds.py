"""What people come with, in their words, and which questions of the bench go with it."""

from __future__ import annotations

from fjeld.drawing.errand import ErrandKind
from fjeld.web.ui.panel import Shown


class Kind(Shown, frozen=True):
    """An errand: its name, its words, what its first box is, and the questions that go with it."""

    name: ErrandKind
    words: str
    box: str
    questions: tuple[str, ...]


_NEW = ("fits", "load", "extends", "spot", "ways", "pull", "time")
KINDS: dict[str, Kind] = {
    kind.name: kind
    for kind in (
        Kind("light", "Add a light", "a box that could feed it", ("void", "transfer", *_NEW)),
        Kind("outlet", "Add an outlet or a switch", "a box that could feed it", _NEW),
        Kind(
            "heavy",
            "Hang a fan or something heavy",
            "the box that is there",
            ("hangs", "fan", "downrod", "fits", "dimmer", "time"),
        ),
        Kind("larger box", "Make a box larger", "that box", ("cutout", "fits", "time")),
        Kind(
            "replace",
            "Replace a switch, an outlet or a light",
            "its box",
            ("terminals", "replace", "fits", "dimmer", "time"),
        ),
        Kind("short wires", "Wires too short", "that box", ("short", "fits", "time")),
        Kind("move", "Move a box", "that box", ("reach", "spot", "patch", "time")),
        Kind(
            "outdoors",
            "A light or an outlet outside",
            "a box that could feed it",
            ("outdoors", "masonry", *_NEW),
        ),
        Kind(
            "loose splice",
            "Wires joined outside a box",
            "what is joined there",
            ("splice", "fits", "short", "pairs", "time"),
        ),
        Kind("alarms", "Link smoke alarms", "the alarm that is there", ("link", *_NEW)),
    )
}
