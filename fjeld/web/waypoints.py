"""The trail: the eight waypoints in the order of the work, each a package of its own."""

from __future__ import annotations

from fjeld.web.boxes.screen import BOXES
from fjeld.web.circuits.screen import CIRCUITS
from fjeld.web.http.waypoint import Waypoint
from fjeld.web.layout.screen import LAYOUT
from fjeld.web.onsite.screen import SITE
from fjeld.web.proof.screen import PROOF
from fjeld.web.record.screen import RECORD
from fjeld.web.runs.screen import RUNS
from fjeld.web.survey.screen import SURVEY

WAYPOINTS: dict[str, Waypoint] = {
    waypoint.name: waypoint for waypoint in (SURVEY, LAYOUT, CIRCUITS, RUNS, BOXES, PROOF, SITE, RECORD)
}
