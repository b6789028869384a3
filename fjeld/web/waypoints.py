"""The trail: the eight waypoints in the order of the work, each a package of its own."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from django.http import QueryDict

from fjeld.drawing.edits import Edit
from fjeld.formats.sheet import Shape
from fjeld.web.boxes import screen as boxes_screen
from fjeld.web.circuits import screen as circuits_screen
from fjeld.web.layout import screen as layout_screen
from fjeld.web.onsite import screen as onsite_screen
from fjeld.web.proof import screen as proof_screen
from fjeld.web.record import screen as record_screen
from fjeld.web.runs import screen as runs_screen
from fjeld.web.survey import screen as survey_screen
from fjeld.web.ui.floor import Floor
from fjeld.web.ui.view import View

Action = Callable[[View, QueryDict], Edit]


class Screen(Protocol):
    """What a waypoint brings: its layers on the floor, its dock and workings, and its edits."""

    NAME: str
    SEARCHES: bool
    ACTIONS: dict[str, Action]

    def layers(self, view: View, floor: Floor) -> dict[str, Shape]: ...

    def dock(self, view: View) -> dict[str, Any]: ...

    def workings(self, view: View) -> dict[str, Any]: ...


TITLES = {
    "survey": "Survey",
    "layout": "Layout",
    "circuits": "Circuits",
    "runs": "Runs",
    "boxes": "Boxes",
    "proof": "Proof",
    "site": "Site",
    "record": "Record",
}
#: What a site hand may write: lengths held up to the way with a tape. The drawing itself is not theirs.
ON_SITE = frozenset({("runs", "measured")})
WAYPOINTS: dict[str, Any] = {
    "survey": survey_screen,
    "layout": layout_screen,
    "circuits": circuits_screen,
    "runs": runs_screen,
    "boxes": boxes_screen,
    "proof": proof_screen,
    "site": onsite_screen,
    "record": record_screen,
}
