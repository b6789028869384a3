"""Ordinary lines and figures that once shut a person out: each is taken whole or refused in words, and every
page opens.
"""

import json

import pytest

from fjeld.demo import job_file
from fjeld.formats import jobfile
from fjeld.web.http import store
from fjeld.web.jobs.models import forget_drawings

PAGES = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")
FILES = ("job.json", "materials.csv", "cables.csv", "floor.dxf", "network.cir", "history.json")
LIVE = {"HX-Request": "true"}


def post(client, job, waypoint, action, at="", **form):
    here = f"http://testserver/jobs/{job.pk}/{waypoint}/{at}"
    return client.post(
        f"/jobs/{job.pk}/{waypoint}/do/{action}", form, headers={**LIVE, "HX-Current-URL": here}
    )


def opens(client, job):
    """Every page, sheet and file of a job opens, as after a restart."""
    forget_drawings()
    for page in PAGES:
        assert client.get(f"/jobs/{job.pk}/{page}/").status_code == 200, page
    for name in FILES:
        response = client.get(f"/jobs/{job.pk}/export/{name}")
        assert response.status_code == 200 or (name == "network.cir" and response.status_code == 404), name
    assert client.get(f"/jobs/{job.pk}/sheets/mark-out").status_code == 200
    assert client.get("/").status_code == 200


def started(client, practice="na"):
    """A job from nothing with one room named."""
    client.post("/jobs/new", {"name": "x", "practice": practice})
    from fjeld.web.jobs.models import Job

    job = Job.objects.latest("pk")
    post(client, job, "survey", "start", name="Hall", use="hall")
    return job


@pytest.mark.parametrize(
    "lines",
    [
        ["?"],
        ["? 12'"],
        ["E 12'", "S ?"],
        ["E ?", "S ?", "W ?", "N ?"],
        ["E 1'", "wall 1 brick"],
        ["rect 12' by 10'", "wall 1 brick", "wall 2 brick", "wall 3 brick", "wall 4 brick"],
        ["rect 12' by 10'", "height ?"],
        ["rect 12' by ?", "door 30 at 1'", "studs ?"],
        ["E 12'", "112.5 4'2", "SW 3'"],
        ["rect 12' by 10'", "studs 900", "joists ns 900", 'wall 1 3"'],
        ["rect 12' by 10'", "slope 1 low 8'", "slope 2 low 12'"],
        ["rect 60 by 60", "door 40 at 10"],
        ["E 10'", "W 10'", "E 10'", "W 10'"],
        ["rect 12' by 10'", "duct 12' by 12 at 0 low 0 high 8'"],
    ],
)
def test_no_line_of_the_tape_shuts_a_job(as_, lines):
    client = as_("owner")
    # What is one line longer is asked of the other practice.
    job = started(client, ("na", "gb")[len(lines) % 2])
    for line in lines:
        assert post(client, job, "survey", "say", words=line).status_code in (200, 422), line
    opens(client, job)


@pytest.mark.parametrize("wall", [1, 2, 3, 4])
def test_a_brick_wall_in_the_boot_room(as_, job, wall):
    client = as_("owner")
    assert post(client, job, "survey", "say", words=f"wall {wall} brick").status_code == 200
    opens(client, job)


@pytest.mark.parametrize(
    ("waypoint", "action", "form"),
    [
        ("circuits", "load", {"handle": "A1", "va": "nan"}),
        ("circuits", "load", {"handle": "A1", "va": "inf"}),
        ("circuits", "load", {"handle": "A1", "va": "1e400"}),
        ("layout", "figure", {"handle": "A1", "field": "lumens", "value": "inf"}),
        ("layout", "figure", {"handle": "A1", "field": "lumens", "value": "nan"}),
        ("layout", "sheet", {"handle": "A1", "field": "weight", "value": "inf"}),
        ("layout", "sheet", {"handle": "A1", "field": "weight", "value": "9" * 5000}),
        ("layout", "sheet", {"handle": "A1", "field": "cords", "value": "²"}),
        ("layout", "figure", {"handle": "A1", "field": "kind.mm", "value": "3"}),
        ("layout", "figure", {"handle": "R1", "field": "name.x", "value": "3"}),
        ("layout", "figure", {"handle": "A1", "field": "fitting.hole", "value": "3"}),
        ("survey", "figure", {"handle": "P1", "field": "ways", "value": "1000000000"}),
        ("survey", "figure", {"handle": "P1", "field": "amps", "value": "9" * 30}),
        ("survey", "figure", {"handle": "R1", "field": "x", "value": "1 km"}),
        ("survey", "figure", {"handle": "R1", "field": "x", "value": "1000 m"}),
        ("survey", "figure", {"handle": "R1", "field": "studs.thick", "value": "12'"}),
        ("survey", "say", {"words": "way 1 " + "9" * 5000 + " x"}),
        ("survey", "say", {"words": "diagonal " + "1" * 5000 + " 3 15'"}),
        ("survey", "say", {"words": "wall ² brick"}),
        ("survey", "say", {"words": "?" * 3000}),
        ("survey", "side", {"wall": "²", "value": "12'"}),
        ("survey", "rectangle", {"x": "nan", "y": "0", "width": "4000", "depth": "3000"}),
        ("runs", "measured", {"handle": "C1", "value": "0"}),
        ("record", "return", {"seq": "²"}),
        ("record", "return", {"seq": "9" * 5000}),
        ("record", "amend", {"rule": "support-interval", "value": "0", "reason": "x"}),
        ("record", "amend", {"rule": "support-interval", "value": "1e-9", "reason": "x"}),
        ("record", "amend", {"rule": "support-interval", "value": "0.000001", "reason": "x"}),
        ("record", "amend", {"rule": "support-interval", "value": "inf", "reason": "x"}),
        ("record", "amend", {"rule": "drill-height", "value": "1000000000", "reason": "x"}),
    ],
)
def test_what_is_no_figure_of_a_house_is_refused_in_words(as_, job, waypoint, action, form):
    client = as_("owner")
    response = post(client, job, waypoint, action, **form)
    assert response.status_code == 422, response.content[:300]
    words = response.content.decode()
    assert "Traceback" not in words
    assert "could not work out" not in words, words[:600]
    # Nothing of it is stored: what opened before opens still.
    job.refresh_from_db()
    assert job.head.seq == 1
    assert client.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200


def test_every_amendable_rule_at_the_ends_of_what_is_taken(as_, job, people):
    """However a local value lies within its extent, nothing breaks and nothing takes for ever."""
    from fjeld import practice
    from fjeld.drawing.edits.record import AmendRule

    client = as_("owner")
    for rule in practice.load("na").rules.values():
        if not isinstance(rule.value, int | float) or isinstance(rule.value, bool):
            continue
        low, high = practice.extent(rule)
        for value in (low, high):
            store.commit(job.pk, people["owner"], AmendRule(rule.id, value, "tried", "x"), base=None)
        store.commit(job.pk, people["owner"], AmendRule(rule.id, None, "", ""), base=None)
    opens(client, job)


def test_a_join_to_a_box_of_another_circuit(as_, job, boot_room):
    """A cable that leads to a box not on its circuit is refused in words, or is found and told: no page
    breaks.
    """
    client = as_("owner")
    from fjeld.drawing.model import Point

    points = boot_room.of(Point)
    for a in ("A1", "P1"):
        for b in list(points)[::3]:
            if a != b:
                assert post(client, job, "runs", "join", at="?circuit=Q1", a=a, b=b).status_code in (200, 422)
    for circuit in ("Q1", "Q2", "Q3"):
        assert client.get(f"/jobs/{job.pk}/runs/?circuit={circuit}").status_code == 200
    opens(client, job)


def test_a_tree_of_a_circuit_without_boxes(as_, job):
    client = as_("owner")
    post(client, job, "circuits", "new", name="Spare", breaker="15", gauge="14")
    job.refresh_from_db()
    (fresh,) = [h for h in job.head.document.drawing.items if h.startswith("Q")][-1:]
    for feed in ("switch", "light", "cheapest"):
        assert post(client, job, "runs", "take", circuit=fresh, feed=feed).status_code == 422
    opens(client, job)


def test_actions_without_any_room_are_refused(as_, people):
    client = as_("owner")
    client.post("/jobs/new", {"name": "x", "practice": "na"})
    from fjeld.web.jobs.models import Job

    job = Job.objects.latest("pk")
    for action, form in (
        ("say", {"words": "12'"}),
        ("side", {"wall": "1", "value": "12'"}),
        ("build", {"wall": "1", "field": "closed", "value": "yes"}),
        ("lift", {}),
        ("rectangle", {"x": "0", "y": "0", "width": "4000", "depth": "3000"}),
    ):
        assert post(client, job, "survey", action, **form).status_code == 422, action
    opens(client, job)


@pytest.mark.parametrize("address", ["/jobs/99999999999999999999/survey/", "/jobs/99999999999999999999/head"])
def test_a_job_number_beyond_any_is_not_found(as_, address):
    assert as_("owner").get(address).status_code == 404


def test_a_word_that_is_neither_undo_nor_redo_does_nothing(as_, job):
    client = as_("owner")
    post(client, job, "layout", "nudge", handle="A1", way="right")
    for word in ("undone", "un", "do", "x"):
        assert client.post(f"/jobs/{job.pk}/layout/{word}").status_code == 404
    job.refresh_from_db()
    assert job.head.seq == 2


def test_a_name_is_one_clean_line(as_, job):
    client = as_("owner")
    post(
        client,
        job,
        "record",
        "figure",
        handle="house",
        field="name",
        value="Hut\n.shell touch /tmp/x\x00\u202e",
    )
    job.refresh_from_db()
    name = job.head.document.drawing.house.name
    assert "\n" not in name
    assert "\x00" not in name
    assert "\u202e" not in name
    netlist = client.get(f"/jobs/{job.pk}/export/network.cir").content.decode()
    assert not any(line.lstrip().startswith((".shell", ".control")) for line in netlist.splitlines())


def test_an_imported_name_is_one_clean_line_too(as_, people):
    from django.core.files.uploadedfile import SimpleUploadedFile

    body = json.loads(job_file("boot-room"))
    body["house"]["name"] = "Hut\n.control\nshell touch /tmp/x\n.endc"
    client = as_("owner")
    file = SimpleUploadedFile("job.json", json.dumps(body).encode())
    assert client.post("/jobs/import", {"file": file}).status_code == 302
    from fjeld.web.jobs.models import Job

    job = Job.objects.latest("pk")
    assert "\n" not in job.name
    netlist = client.get(f"/jobs/{job.pk}/export/network.cir").content.decode()
    assert not any(line.lstrip().startswith(".control") for line in netlist.splitlines())


@pytest.mark.parametrize(
    "change",
    [
        lambda b: b["panels"]["P1"].update(ways=1_000_000_000),
        lambda b: b["panels"]["P1"].update(taken=[{"number": 1, "amps": 15, "feeds": "x", "poles": 10**9}]),
        lambda b: b["rooms"]["R1"].update(x=1e300),
        lambda b: b["rooms"]["R1"].update(name="x" * 10_000),
        lambda b: b["points"].update({"A9\n": b["points"]["A1"]}),
        lambda b: b["rooms"]["R1"].update(walls=["E 1 km"] * 4),
        lambda b: b["points"].update({f"A{n}": b["points"]["A1"] for n in range(100, 5000)}),
        lambda b: b.update(
            controls={f"K{n}": {"positions": ["S1"], "loads": ["A1"] * 12000} for n in range(40)}
        ),
    ],
)
def test_a_job_file_out_of_all_measure_is_refused_in_a_line(as_, change):
    from django.core.files.uploadedfile import SimpleUploadedFile

    body = json.loads(job_file("boot-room"))
    change(body)
    client = as_("owner")
    response = client.post(
        "/jobs/import", {"file": SimpleUploadedFile("job.json", json.dumps(body).encode())}, follow=True
    )
    words = response.content.decode()
    assert "was not taken" in words
    assert "Traceback" not in words


def test_what_is_stored_is_what_was_drawn(as_, people, job):
    """Computed lengths in a feet-and-inches job come back as they were, from the disc."""
    client = as_("owner")
    made = started(client)
    assert (
        post(client, made, "survey", "rectangle", x="0", y="0", width="3352.8", depth="3048").status_code
        == 200
    )
    made.refresh_from_db()
    before = made.head.document.drawing
    forget_drawings()
    made.refresh_from_db()
    after = made.head.document.drawing
    assert after is not before
    assert after == before
    assert [s.length.mm for s in after.get("R1", type(after.items["R1"])).sides] == [
        3352.8,
        3048.0,
        3352.8,
        3048.0,
    ]
    again = jobfile.decode(client.get(f"/jobs/{made.pk}/export/job.json").content)
    assert again.items["R1"] == after.items["R1"]
