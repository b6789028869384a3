"""No drawing that is taken makes a page fail, however odd: rooms pulled open, framing of another world,
things gone.
"""

import random

import pytest

from fjeld.drawing.building import Opening, Panel, Room
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Remove, Revise
from fjeld.drawing.edits.survey import RemeasureSide
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.drawing.validate import InvalidDrawing
from fjeld.quantities import Length
from fjeld.web.http import store
from tests.houses import inches, one_room
from tests.often import OFTEN

PAGES = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")


def odd_edit(drawing, die):
    """An edit that a person could make, seldom a sensible one."""
    points, openings = sorted(drawing.of(Point)), sorted(drawing.of(Opening))
    room = drawing.get("R1", Room)
    point = die.choice(points) if points else "R1"
    opening = die.choice(openings) if openings else "R1"
    things = [h for kind in (Point, Opening, Panel, Control, Circuit, Cable) for h in drawing.of(kind)]
    choices = [
        lambda: RemeasureSide("R1", die.randint(1, len(room.sides)), inches(die.choice((1, 40, 500, 11000)))),
        lambda: Revise("R1", {"height": inches(die.choice((1, 40, 96, 400)))}),
        lambda: Revise(
            "R1",
            {
                "studs": type(room.studs)(
                    spacing=inches(die.choice((0.1, 16, 900))), depth=inches(die.choice((0.5, 3.5)))
                )
            },
        ),
        lambda: Revise(
            "R1",
            {
                "joists": type(room.joists)(
                    die.choice(("E-W", "N-S")),
                    inches(die.choice((0.1, 24))),
                    inches(die.choice((0, 8, 5000))),
                )
            },
        ),
        lambda: Revise("R1", {"use": die.choice(("bed", "kitchen", "outdoors"))}),
        lambda: Remove(die.choice(things)) if things else Revise("R1", {"name": ""}),
        lambda: (
            Revise(point, {"at": inches(die.choice((0, 1, 9000)))})
            if drawing.get(point, Point).wall
            else Revise(point, {"x": Length(-5000.0)})
        ),
        lambda: Revise(point, {"height": inches(die.choice((0, 60, 300)))}),
        lambda: Revise(point, {"va": die.choice((0.0, 20000.0))}),
        lambda: Revise(point, {"circuit": None}),
        lambda: Revise(point, {"box": "pan"}),
        lambda: Revise(opening, {"width": inches(die.choice((0.5, 32, 4000)))}),
        lambda: Revise(opening, {"sill": inches(90), "head": inches(20)}),
        lambda: Revise(
            die.choice(sorted(drawing.of(Circuit))),
            {"gauge": die.choice(("10", "12", "14")), "breaker": die.choice((1, 15, 200))},
        ),
        lambda: Revise(
            "house",
            {
                "neutrals": "everywhere",
                "two_position": "strap",
                "joining": "feed-through",
                "connectors": die.choice(("lever", "push-in")),
            },
        ),
    ]
    try:
        return die.choice(choices)()
    except (KeyError, IndexError):
        return Revise("R1", {"name": "Room"})


@pytest.mark.parametrize("seed", [*range(6), 67])
def test_every_page_stands_after_any_edits(as_, people, seed):
    die = random.Random(seed)
    job = store.create("x", one_room(seed * 7), people["owner"])
    client = as_("owner")
    for _ in range(4 * OFTEN):
        job.refresh_from_db()
        try:
            store.commit(job.pk, people["owner"], odd_edit(job.head.document.drawing, die), base=None)
        except (EditRefused, InvalidDrawing):
            continue
        handles = list(job.head.document.drawing.items)
        for page in die.sample(PAGES, 4):
            there = f"/jobs/{job.pk}/{page}/?sel={die.choice(handles)}&light=floor&step=2&show=light"
            assert client.get(there).status_code == 200, there
    for name in ("job.json", "materials.csv", "cables.csv"):
        assert client.get(f"/jobs/{job.pk}/export/{name}").status_code == 200
    assert client.get(f"/jobs/{job.pk}/sheets/mark-out").status_code == 200
    assert client.get("/").status_code == 200
