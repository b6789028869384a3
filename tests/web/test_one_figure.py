"""One figure everywhere: a house's cable, pieces, holes and staples are the same on Runs, Site, lists, book
and paper.
"""

import csv
import io
import math
import re
from collections import Counter

import pytest

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.model import Control
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats.jobfile import decode
from fjeld.quantities import FOOT, parse_length
from fjeld.web.http import store
from tests.often import OFTEN
from tests.web.errands import words
from tests.worlds import world

HOUSES = ("boot-room", "tarn-house", "chandlers-loft")
#: Half of the last place that a length is told to, mm.
TOLD_TO = {"ft-in": FOOT / 4, "mm": 50.0}


def counted(plan):
    """The house from its ways alone: (pieces, mm, staples, holes, steel) of all, by circuit, and
    mm by kind.
    """
    runs = list(plan.runs())
    lengths = {run.key: plan.cables[run.cable].length for run in runs}
    places = {h: {(c.member, c.cell) for c in cable.crossings} for h, cable in plan.cables.items()}

    def of(mine):
        bored = set().union(*(places[h] for h in {run.cable for run in mine}))
        staples = sum(len(plan.cables[run.cable].staples) for run in mine)
        return len(mine), math.fsum(lengths[run.key] for run in mine), staples, len(bored)

    kinds = Counter()
    for run in runs:
        kinds[run.kind.id] += lengths[run.key]
    return (
        of(runs),
        {q: of([run for run in runs if run.circuit == q]) for q in {run.circuit for run in runs}},
        kinds,
    )


def figure(pattern, text):
    found = re.search(pattern, text)
    assert found, (pattern, text[:400])
    return found[1]


def as_told(text, mm, unit):
    """Whether a length that is told to the half foot or to 10 cm is this one."""
    return abs(parse_length(text, unit).mm - mm) <= TOLD_TO[unit] + 1e-6


def holds(client, job, plan):
    """Every place that tells a figure of the house, against the ways."""
    unit, catalogue = plan.drawing.house.unit, plan.practice.catalogue
    (pieces, length, staples, holes), circuits, kinds = counted(plan)
    at = f"/jobs/{job.pk}"

    def read(address):
        response = client.get(f"{at}/{address}")
        assert response.status_code == 200, address
        return response.content.decode()

    runs = words(read("runs/"))
    assert as_told(figure(r"([\d.' \"]+(?: m)?) of cable in", runs).strip(), length, unit)
    assert int(figure(r"of cable in (\d+) piece", runs)) == pieces
    bored = int(figure(r"through studs and joists (\d+)", runs)) + int(
        figure(r"through plates\D*(\d+)", runs)
    )
    assert bored == holes
    assert int(figure(r"each cable on its own (\d+)", runs)) == staples

    rows = list(csv.DictReader(io.StringIO(read("export/cables.csv"))))
    assert len(rows) == pieces
    cut = math.fsum(float(r[f"cut {catalogue.cable_unit}"]) for r in rows) * catalogue.cable_unit_mm
    assert cut == pytest.approx(length, abs=pieces * 0.005 * catalogue.cable_unit_mm + 1e-6)
    assert sum(int(r["staples"]) for r in rows) == staples

    bought = {r["part"]: float(r["count"]) for r in csv.DictReader(io.StringIO(read("export/materials.csv")))}
    for kind, mm in kinds.items():
        assert bought[f"cable:{kind}"] * catalogue.cable_unit_mm == pytest.approx(
            mm, abs=0.006 * catalogue.cable_unit_mm
        )
    assert bought.get("staple", 0) == staples
    steel = int(figure(r"Steel plates (\d+)", runs))
    assert bought.get("nail-plate", 0) == steel == sum(h.plates for h in plan.holes)

    site = read("site/")
    tags = re.findall(r"<tr><td><strong>([^<]+)</strong></td><td>[^<]+ to [^<]+</td>", site)
    assert len(tags) == pieces
    assert len({*tags}) == pieces

    if pieces:
        book = words(read("errand/steps"))
        for circuit, (cables, mm, fastened, through) in circuits.items():
            pulled = re.search(
                rf"Pull the cables of .{{0,90}}?\({circuit}\): (\d+) cables?, ([\d.' \"]+(?: m)?) in all",
                book,
            )
            assert pulled, circuit
            assert int(pulled[1]) == cables
            assert as_told(pulled[2].strip(), mm, unit)
            assert (
                int(figure(rf"Fasten the cables of .{{0,90}}?\({circuit}\): (\d+) (?:staple|clip)", book))
                == fastened
            )
            assert int(figure(rf"Bore for .{{0,90}}?\({circuit}\): (\d+) hole", book)) == through
        assert sum(c[0] for c in circuits.values()) == pieces
        assert sum(c[2] for c in circuits.values()) == staples
    return pieces


@pytest.mark.parametrize("name", HOUSES)
def test_the_demo_houses_tell_one_figure(as_, people, name):
    drawing = decode(job_file(name))
    job = store.create(name, drawing, people["owner"])
    assert holds(as_("owner"), job, derive(drawing)) > 10


@pytest.mark.parametrize("share", range(4))
def test_any_house_tells_one_figure(as_, people, share):
    told = doubled = 0
    for seed in range(share, 12 * OFTEN, 4):
        try:
            job = store.create(f"world {seed}", world(seed), people["owner"])
        except InvalidDrawing:
            continue
        drawing = job.head.document.drawing
        plan = derive(drawing)
        told += holds(as_("owner"), job, plan) > 0
        doubled += len({r.cable for r in plan.runs()}) < len(list(plan.runs()))
    assert told >= 2
    assert share or doubled, "some cable is in two pieces, or nothing was tried"


def test_where_nothing_is_switched_one_tree_is_offered_and_not_the_same_three_times(as_, people):
    drawing = decode(job_file("tarn-house"))
    job = store.create("Tarn House", drawing, people["owner"])
    plan, client = derive(drawing), as_("owner")
    switched = {
        q
        for q, c in plan.circuits.items()
        if any({load.point for load in k.loads} & {*c.boxes} for k in drawing.of(Control).values())
    }
    assert switched < {*plan.circuits}
    for circuit in plan.circuits:
        page = client.get(f"/jobs/{job.pk}/runs/?circuit={circuit}").content.decode()
        assert ("Feed at the switch" in page) == (circuit in switched), circuit
        assert "Whatever is cheapest" in page
