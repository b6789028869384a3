"""The pages of an errand in the order of the work, each declared where it is written."""

from __future__ import annotations

from fjeld.web.errand.box import BOX
from fjeld.web.errand.path import PATH
from fjeld.web.errand.proof import PROOF
from fjeld.web.errand.screen import SOURCE
from fjeld.web.errand.spot import SPOT
from fjeld.web.errand.step import ErrandStep
from fjeld.web.errand.steps import BOOK

ERRAND_STEPS: dict[str, ErrandStep] = {step.name: step for step in (SOURCE, SPOT, PATH, BOX, PROOF, BOOK)}


def step_that_tells(field: str) -> ErrandStep | None:
    """The page that asks for something that is told of an errand."""
    return next((step for step in ERRAND_STEPS.values() if field in step.tells), None)
