"""Every thing of both houses can be chosen on the waypoints that show it; odd edits of them break no page."""

import random
import re
from collections import Counter
from html import unescape

import pytest

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.drawing.building import Body, Join, Opening, Panel, Room, Storey
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.edits.common import Remove, Revise
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import InvalidDrawing
from fjeld.formats.jobfile import decode
from fjeld.quantities import Length
from fjeld.web.http import store
from fjeld.web.jobs.models import Job
from tests.houses import inches
from tests.often import OFTEN
from tests.web.errands import folded

PAGES = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")
HOUSES = ("tarn-house", "chandlers-loft")


@pytest.fixture
def opened(people, as_):
    def open_(name):
        drawing = decode(job_file(name))
        return store.create(name, drawing, people["owner"]), drawing, as_("owner")

    return open_


@pytest.mark.parametrize("name", HOUSES)
def test_each_thing_can_be_chosen(opened, name):
    job, drawing, client = opened(name)
    seen = Counter()
    for n, (handle, item) in enumerate(drawing.items.items()):
        # The first few of each kind, and every fifteenth after: the rest are alike.
        seen[type(item)] += 1
        if seen[type(item)] > 3 and n % 15:
            continue
        if isinstance(item, Opening | Body | Panel | OldBox | Room | Storey | Join):
            pages = ("survey", "layout")
        else:
            pages = ("layout", "boxes") if isinstance(item, Point) else ("circuits", "runs")
        # Each thing on one of its pages, its kind in turn on the other.
        page = pages[n % 2]
        response = client.get(f"/jobs/{job.pk}/{page}/?sel={handle}")
        assert response.status_code == 200, (page, handle)


@pytest.mark.parametrize("name", HOUSES)
def test_each_room_and_storey_can_be_stepped_into(opened, name):
    job, drawing, client = opened(name)
    places = [f"at={r}" for r in drawing.of(Room)] + ["storey=ground", "storey=L1", "storey=L9", "at=R99"]
    for n, there in enumerate(places):
        # Every other page in each, in turn.
        for page in PAGES[n % 2 :: 2]:
            assert client.get(f"/jobs/{job.pk}/{page}/?{there}").status_code == 200, (page, there)


def odd(drawing, die):
    """An edit of the survey of a house that a person could make, seldom a sensible one."""
    rooms, bodies, joins = sorted(drawing.of(Room)), sorted(drawing.of(Body)), sorted(drawing.of(Join))
    openings = sorted(drawing.of(Opening))
    length = inches(die.choice((0.5, 12, 40, 900)))
    choices = [
        lambda: Revise(die.choice(rooms), {"height": length}),
        lambda: Revise(die.choice(rooms), {"storey": die.choice((None, "L1"))}),
        lambda: Revise(die.choice(rooms), {"x": Length(die.uniform(-9000, 9000))}),
        lambda: Revise(
            die.choice(rooms), {"use": die.choice(("closet", "bed", "bath", "kitchen", "foyer", "hall"))}
        ),
        lambda: Revise(die.choice(bodies), {"width": length, "low": inches(die.choice((0, 90)))}),
        lambda: Revise(
            die.choice(bodies), {"kind": die.choice(("duct", "stairs", "bath", "cooker", "counter"))}
        ),
        lambda: Revise(die.choice(joins), {"at": length, "thick": inches(die.choice((1, 4.5, 90)))}),
        lambda: Revise(die.choice(joins), {"wall": die.randint(1, 4)}),
        lambda: Revise(die.choice(openings), {"kind": die.choice(("door", "cased", "sliding", "window"))}),
        lambda: Remove(
            die.choice([*rooms, *bodies, *joins, *openings, *drawing.of(Panel), *drawing.of(Storey)])
        ),
    ]
    return die.choice(choices)()


@pytest.mark.parametrize("seed", range(2))
@pytest.mark.parametrize("name", HOUSES)
def test_no_page_fails_on_an_odd_house(opened, people, name, seed):
    job, _, client = opened(name)
    die = random.Random(seed)
    for _ in range(4 * OFTEN):
        job.refresh_from_db()
        try:
            store.commit(job.pk, people["owner"], odd(job.head.document.drawing, die), base=None)
        except (EditRefused, InvalidDrawing):
            continue
        for page in die.sample(PAGES, 4):
            assert client.get(f"/jobs/{job.pk}/{page}/").status_code == 200, page
    for page in PAGES:
        assert client.get(f"/jobs/{job.pk}/{page}/").status_code == 200, page


def test_the_survey_of_a_new_house_by_its_forms(people, as_):
    """What the forms of Survey send: rooms, a dragged rectangle, a wall's build, words, an old
    box's cables.
    """
    client = as_("owner")
    client.post("/jobs/new", {"name": "By forms", "practice": "gb"})
    job = Job.objects.latest("pk")

    def send(action, here="", **values):
        there = f"/jobs/{job.pk}/survey/"
        headers = {"HX-Request": "true", "HX-Current-URL": f"http://testserver{there}?{here}"}
        response = client.post(f"{there}do/{action}", values, headers=headers)
        job.refresh_from_db()
        return response, job.head.document.drawing

    assert send("start", name="Store", use="other")[0].status_code == 200
    response, drawing = send("rectangle", "at=R1", x="0", y="0", width="4000", depth="3000")
    assert drawing.items["R1"].sides[0].length.mm == 4000
    assert send("rectangle", "at=R1", x="0", y="0", width="10", depth="3000")[0].status_code == 422
    for field, value, kept in (("exterior", "yes", True), ("surface", "brick", "brick")):
        response, drawing = send("build", "at=R1", wall="2", field=field, value=value)
        assert getattr(drawing.items["R1"].build(2), field) == kept
    response, drawing = send("build", "at=R1", wall="2", field="depth", value="100 mm")
    assert drawing.items["R1"].studs_of(2).depth.mm == 100
    assert send("build", "at=R1", wall="9", field="depth", value="100 mm")[0].status_code == 422
    assert send("build", "at=R1", wall="2", field="colour", value="red")[0].status_code == 422
    for words in (
        "panel at 1 m on 4 height 1.4 m",
        "way 2 32 Cooker",
        "old switch at 1 m on 1 height 1.2 m",
        "slope 1 low 2 m",
        "under ns 400 mm first 200 mm",
        "wall 3 insulated closed plaster 15 mm",
        "above open",
        "storey Loft at 2.8 m",
        "door 762 mm at 1 m on 2",
        "diagonal 1 3 5 m",
        "height ? 2.4 m",
        "from finish",
    ):
        response, drawing = send("say", "at=R1", words=words)
        assert response.status_code == 200, (words, response.content[:300])
    assert drawing.items["P1"].taken[0].feeds == "Cooker"
    assert drawing.items["R1"].height.unknown
    response, drawing = send(
        "cable", "sel=E1", leads="red on COM, black on L1, bare on box", gauge="1.0", guess="the feed"
    )
    assert [lead.colour for lead in drawing.items["E1"].cables[0].leads] == ["red", "black", "bare"]
    assert send("cable", "sel=P1", leads="red on COM")[0].status_code == 422
    for words in (
        "room Annex as shed",
        "through D9 on 1 at 1 m",
        "counter 2 m at 0",
        "wall 9 exterior",
        "wall 2 purple",
        "way 99 32 Nowhere",
        "slope 9 low 1 m",
        "diagonal 1 1 3 m",
        "joists sideways",
        "above nothing",
        "from memory",
        "storey Loft",
        "rect 3 m",
    ):
        response, _ = send("say", "at=R1", words=words)
        assert response.status_code == 422, words
    response, drawing = send("say", "at=R1", words="room Annex as bed")
    assert drawing.items["R2"].x.mm > 4000, "it begins clear of what stands"
    response, drawing = send("say", "at=R2", words="rect 3 m by 2.5 m")
    response, drawing = send("say", "at=R2", words="through D1 on 4 at 0.5 m thick 100 mm")
    assert response.status_code == 200
    assert derive(drawing).rooms["R2"].origin[0] == pytest.approx(4100)


def test_a_metric_house_begins_with_metric_framing_and_doors(people, as_):
    client = as_("owner")
    client.post("/jobs/new", {"name": "Metric", "practice": "gb"})
    job = Job.objects.latest("pk")
    client.post(f"/jobs/{job.pk}/survey/do/start", {"name": "Store", "use": "other"})
    for words in ("3 m", "2.5 m", "3 m", "2.5 m", "door 762 at 0.5 m on 1", "window 1 m at 1 m on 2"):
        headers = {"HX-Request": "true", "HX-Current-URL": f"http://testserver/jobs/{job.pk}/survey/?at=R1"}
        assert (
            client.post(f"/jobs/{job.pk}/survey/do/say", {"words": words}, headers=headers).status_code == 200
        )
    job.refresh_from_db()
    items = job.head.document.drawing.items
    assert (items["R1"].studs.spacing.mm, items["R1"].joists.depth.mm) == (600, 195)
    assert (items["D1"].head.typed, items["W1"].sill.typed, items["D1"].width.mm) == (
        "1981 mm",
        "900 mm",
        762,
    )
    page = folded(client.get(f"/jobs/{job.pk}/survey/?at=R1"))
    assert "door 762 at 1.2 m" in page
    assert "16&quot;" not in page


#: What a British reader would stumble over, outside names and the practice's own choices.
AMERICAN = re.compile(
    r"\b(?:outlets?|(?<!Above )grounds?|AWG|three-way|four-way|gauge 1[0-4]|hots?|[Ss]taples?)\b|\d+'"
    r" |\d\"|in³|\bft\b"
)


@pytest.mark.parametrize("page", PAGES)
def test_a_british_house_is_read_in_british_words_and_millimetres(opened, page):
    job, drawing, client = opened("chandlers-loft")
    things = Point | Panel | Circuit | Control | Cable | Body | Opening | Room
    some = [h for n, (h, item) in enumerate(drawing.items.items()) if isinstance(item, things) and n % 9 == 0]
    shown = [
        "",
        *(f"?sel={h}" for h in ("A1", "A3", "S1", "O1", "V1", "P1", "Q1", "B1", *some) if h in drawing.items),
    ]
    if page == "boxes":
        shown = [f"?sel={h}&step={n}" for h in ("A1", "S1", "S3", "O5", "V1") for n in (1, 3, 5)]
    for query in shown:
        html = folded(client.get(f"/jobs/{job.pk}/{page}/{query}"))
        html = re.sub(r"<(script|style).*?</\1>", " ", html, flags=re.DOTALL)
        words = unescape(re.sub(r"<[^>]+>", "\n", html)).replace("Ground floor", "")
        assert [line for line in words.split("\n") if AMERICAN.search(line)] == [], query


def test_proof_of_a_house_looks_at_one_circuit_and_hides_no_fault(opened):
    job, drawing, client = opened("tarn-house")
    plan = derive(drawing)

    def shown(query=""):
        text = folded(client.get(f"/jobs/{job.pk}/proof/{query}"))
        return set(re.findall(r'aria-label="Truth strip of (K\d+)"', text)), text.count('class="glow"')

    of = {q: {c for c in drawing.of(Control) if plan.control_circuit(c) == q} for q in plan.circuits}
    every, glowing = shown("?circuit=all")
    assert every == set(drawing.of(Control))
    first = min(q for q in of if of[q])
    assert shown()[0] == of[first]
    for circuit, controls in of.items():
        strips, lines = shown(f"?circuit={circuit}")
        assert strips == controls
        assert 0 < lines < glowing
    # A switch that does not do what was meant is told whatever is in focus.
    plain = (c for c, k in drawing.of(Control).items() if not any(load.part for load in k.loads))
    other = next(c for c in plain if c not in of[first])
    for load in drawing.get(other, Control).loads:
        store.commit(job.pk, job.head.who, Revise(load.point, {"circuit": None}), base=None)
    text = folded(client.get(f"/jobs/{job.pk}/proof/?circuit={first}"))
    (told,) = re.findall(r"on other circuits: ([^<]*)", text)
    assert other in told
