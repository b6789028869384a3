"""Pages and edits over the wire: what a form does, what comes back, and what bad input is told."""

import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from fjeld import __version__, cli
from fjeld.demo import job_file
from fjeld.derive.keys import BreakerOf
from fjeld.drawing.building import Opening, Panel, Room
from fjeld.drawing.edits.common import Place
from fjeld.drawing.model import Cable, Circuit, Control, Point
from fjeld.drawing.old_box import OldBox
from fjeld.formats import jobfile, lists, spice
from fjeld.graphics.shapes import circle, group
from fjeld.graphics.svg import svg
from fjeld.quantities import INCH, Length, format_length
from fjeld.web.http.store import commit, create
from fjeld.web.http.view import planned
from fjeld.web.jobs.models import Job
from fjeld.web.ui.wire import Fragment, changed, changed_layers, mark
from tests.old_boxes import found_cable
from tests.web.errands import folded

LIVE = {"HX-Request": "true"}


@pytest.fixture
def ada(as_, job):
    return as_("owner")


def head(job):
    job.refresh_from_db()
    return job.head.document.drawing


def do(client, job, waypoint, action, expect=200, **form):
    here = f"http://testserver/jobs/{job.pk}/{waypoint}/"
    response = client.post(
        f"/jobs/{job.pk}/{waypoint}/do/{action}", form, headers={**LIVE, "HX-Current-URL": here}
    )
    assert response.status_code == expect, response.content[:300]
    return folded(response)


def test_moving_a_light_sends_only_what_changed(ada, job):
    html = do(ada, job, "layout", "move", handle="V1", x="1500")
    assert 'id="line"' in html
    assert "V1 moved" in html
    assert 'id="f-V1"' in html
    assert 'id="f-A2"' not in html, "a light that stayed is not sent again"
    assert len(html) < 60_000
    assert head(job).get("V1", Point).x.mm == 1500


def test_the_consequence_line_tells_lengths_and_fill(ada, job):
    html = do(ada, job, "circuits", "figure", handle="house", field="neutrals", value="everywhere")
    line = html[html.index('id="line"') :]
    assert re.search(r"(more|less) 14/\d", line)


def test_a_row_moves_as_one_and_alone_with_alt(ada, job):
    before = head(job)
    do(ada, job, "layout", "move", handle="A1", y="900")
    assert {h for h in ("A1", "A2", "A3", "A4") if head(job).get(h, Point) != before.get(h, Point)} == {
        "A1",
        "A2",
    }
    do(ada, job, "layout", "move", handle="A1", y="950", alone="1")
    assert head(job).get("A2", Point).y.mm == pytest.approx(900)


def test_every_way_to_set_a_box_by_eye_works(ada, job):
    for handle in ("O1", "A1", "S1", "V1"):
        page = folded(ada.get(f"/jobs/{job.pk}/layout/?sel={handle}"))
        ways = re.findall(r'<option value="((?:center|mirror|level|line|even)[^"]*)"', page)
        assert len(ways) >= 3
        for way in ways:
            response = ada.post(
                f"/jobs/{job.pk}/layout/do/align", {"handle": handle, "how": way}, headers=LIVE
            )
            assert response.status_code in (200, 422), way
            if response.status_code == 200:
                ada.post(f"/jobs/{job.pk}/layout/undo", headers=LIVE)
            else:
                assert "mirror" in way or "middle" in folded(response)


def test_typing_over_a_figure_keeps_what_was_typed(ada, job):
    do(ada, job, "layout", "figure", handle="O1", field="at", value="3' 2 1/2\"")
    assert head(job).get("O1", Point).at.typed == "3' 2 1/2\""


@pytest.mark.parametrize(
    ("waypoint", "action", "form", "words"),
    [
        ("layout", "figure", {"handle": "O1", "field": "at", "value": "banana"}, "“banana” is not a length"),
        ("layout", "figure", {"handle": "O1", "field": "nonsense", "value": "1"}, "has no nonsense"),
        ("layout", "figure", {"handle": "Z9", "field": "at", "value": "1"}, "no longer there"),
        ("layout", "rows", {"across": "0", "down": "1", "school": "half-spacing"}, "1 to 40"),
        ("layout", "rows", {"across": "x", "down": "1", "school": "half-spacing"}, "not a whole number"),
        (
            "layout",
            "rows",
            {"across": "2", "down": "2", "school": "offset", "offset": "20'"},
            "less than half",
        ),
        ("layout", "add", {"kind": "dragon", "wall": "1", "at": "3'"}, "no box of kind"),
        ("layout", "add", {"kind": "outlet", "wall": "9", "at": "3'"}, "no wall 9"),
        ("layout", "move", {"handle": "A1", "x": "inf"}, "outside any house"),
        ("layout", "move", {"handle": "A1", "x": "east"}, "not a place"),
        ("layout", "nudge", {"handle": "P1", "way": "left"}, "cannot be moved"),
        ("layout", "align", {"handle": "A1", "how": "wish:O1"}, "no way to set"),
        ("layout", "align", {"handle": "A1", "how": "line:O1"}, "on a wall"),
        ("layout", "align", {"handle": "P1", "how": "center"}, "not a box"),
        ("survey", "say", {"words": "dor 32 at 4"}, "no word here"),
        ("survey", "say", {"words": "door 32"}, "a measure is missing"),
        ("survey", "say", {"words": "door 32 at 4 on 17"}, "names no wall"),
        ("survey", "say", {"words": "panel at 2' amps lots"}, "whole numbers"),
        ("survey", "say", {"words": "joists up 16"}, "which way joists run"),
        ("survey", "say", {"words": ""}, "type a length"),
        ("survey", "lift", {}, "carries"),
        ("circuits", "control", {"position": ["S1"]}, "choose at least one light"),
        ("circuits", "control", {"load": ["A1"]}, "choose at least one switch"),
        ("circuits", "control", {"position": ["S3"], "load": ["A1"]}, "already worked by"),
        ("circuits", "groups", {}, "on a circuit already"),
        ("circuits", "assign", {"handle": "S1", "circuit": "Q1"}, "not a load"),
        ("circuits", "load", {"handle": "A1", "va": "bright"}, "is no load"),
        ("circuits", "figure", {"handle": "Q1", "field": "breaker", "value": "0"}, "not a branch breaker"),
        ("circuits", "new", {"name": "x", "breaker": "15", "gauge": "99"}, "no circuit cable of gauge"),
        ("runs", "take", {"feed": "sideways", "circuit": "Q1"}, "no such tree"),
        ("runs", "join", {"a": "P1", "b": "P1"}, "joins a box to itself"),
        ("runs", "measured", {"handle": "C1", "value": "long"}, "is not a length"),
        ("boxes", "figure", {"handle": "S1", "field": "box", "value": "gold"}, "has no box"),
        ("record", "amend", {"rule": "no-such", "value": "1", "reason": "x"}, "no rule"),
        ("record", "amend", {"rule": "volt-drop", "value": "five", "reason": "x"}, "not a number"),
        ("record", "amend", {"rule": "volt-drop", "value": "5"}, "was left empty"),
        ("record", "override", {"finding": "none", "reason": "x"}, "has gone"),
        ("record", "return", {"seq": "99"}, "no step 99"),
        ("layout", "fix", {"finding": "none"}, "has gone"),
        ("layout", "remove", {"handle": "house"}, "stay"),
    ],
)
def test_bad_input_is_told_in_words_and_nothing_is_lost(ada, job, waypoint, action, form, words):
    seq = job.head.seq
    html = do(ada, job, waypoint, action, 422, **form)
    assert words in html.replace("&#x27;", "'").replace("&quot;", '"')
    assert "not done" in html
    job.refresh_from_db()
    assert job.head.seq == seq


def test_without_scripts_a_form_still_works_and_still_refuses(ada, job):
    moved = ada.post(f"/jobs/{job.pk}/layout/do/figure", {"handle": "O1", "field": "at", "value": "3'"})
    assert moved.status_code == 302
    refused = ada.post(f"/jobs/{job.pk}/layout/do/figure", {"handle": "O1", "field": "at", "value": "banana"})
    assert refused.status_code == 422
    assert "“banana”" in folded(refused)


def test_a_conflict_shows_both_ways_out(as_, job):
    base = job.head.seq
    do(as_("editor"), job, "layout", "figure", handle="O1", field="at", value="3'")
    html = do(as_("owner"), job, "layout", "figure", 409, handle="O1", field="at", value="4'", base=str(base))
    assert "editor changed O1" in html
    assert "Take mine" in html
    assert "Keep theirs" in html
    again = do(
        as_("owner"),
        job,
        "layout",
        "figure",
        handle="O1",
        field="at",
        value="4'",
        base=str(head(job) and job.head.seq),
    )
    assert "Change place along the wall of O1" in again


def test_a_fix_is_one_press(ada, job):
    page = folded(ada.get(f"/jobs/{job.pk}/layout/"))
    key = re.search(r'name="finding" value="(clear-of-framing[^"]+)"', page)[1]
    html = do(ada, job, "layout", "fix", finding=key)
    assert "settled" in html
    assert key not in folded(ada.get(f"/jobs/{job.pk}/layout/"))


def test_each_waypoint_tells_where_it_stands(ada, job):
    html = folded(ada.get(f"/jobs/{job.pk}/layout/"))
    assert html.count('class="waypoint') == 8
    assert html.count('aria-current="page"') == 1


def test_head_answers_unchanged_with_304(ada, job):
    first = ada.get(f"/jobs/{job.pk}/head")
    assert first.status_code == 200
    again = ada.get(f"/jobs/{job.pk}/head", headers={"If-None-Match": first["ETag"]})
    assert again.status_code == 304
    do(ada, job, "layout", "move", handle="V1", x="1500")
    assert ada.get(f"/jobs/{job.pk}/head", headers={"If-None-Match": first["ETag"]}).status_code == 200


def test_exports_are_what_the_core_writes(ada, job, boot_plan):
    files = {
        n: ada.get(f"/jobs/{job.pk}/export/{n}")
        for n in ("job.json", "materials.csv", "cables.csv", "network.cir")
    }
    assert jobfile.decode(files["job.json"].content) == head(job)
    assert files["materials.csv"].content == lists.materials_csv(boot_plan)
    assert files["cables.csv"].content == lists.cables_csv(boot_plan)
    whole = ada.get(f"/jobs/{job.pk}/export/house.cir").content.decode()
    assert whole == spice.netlist(boot_plan.network, {}, title=boot_plan.drawing.house.name)
    groups = [boot_plan.network_of(g) for g in boot_plan.together()]
    apart = spice.of_groups(groups, {}, title=boot_plan.drawing.house.name)
    assert files["network.cir"].content.decode() == apart
    assert all("attachment" in f["Content-Disposition"] for f in files.values())


def test_the_netlist_goes_out_as_the_switches_stand(ada, job, boot_plan):
    up, off = boot_plan.network.positions[0], next(iter(boot_plan.circuits))
    there = folded(ada.get(f"/jobs/{job.pk}/proof/?up={up}&off={off}"))
    link = re.search(r'href="([^"]+/export/network.cir[^"]*)"', there)[1].replace("&amp;", "&")
    text = ada.get(link).content.decode()
    contacts = [c for c in boot_plan.network.contacts if c.position in (up, BreakerOf(off))]
    assert contacts
    for contact in contacts:
        closed = contact.closed_at == (1 if contact.position == up else 0)
        assert (f"; closed {contact.key}" in text) is closed
        assert (f"* open {contact.key}" in text) is not closed


def test_a_job_goes_out_and_comes_in_again(ada, job):
    out = ada.get(f"/jobs/{job.pk}/export/job.json").content
    ada.post("/jobs/import", {"file": SimpleUploadedFile("job.json", out, "application/json")})
    assert Job.objects.order_by("-pk").first().head.document.drawing == head(job)


@pytest.mark.parametrize(
    "content", [b"", b"{", b'{"fjeld": 9}', b'{"fjeld": 1, "rooms": {"R1": {"name": "x", "walls": ["E x"]}}}']
)
def test_a_malformed_file_is_refused_in_words(ada, job, content):
    count = Job.objects.count()
    ada.post("/jobs/import", {"file": SimpleUploadedFile("job.json", content)})
    assert "was not taken" in folded(ada.get("/")) or not content
    assert Job.objects.count() == count


def test_a_job_without_a_name_or_file_is_refused(ada, job):
    count = Job.objects.count()
    ada.post("/jobs/new", {"name": "  "})
    ada.post("/jobs/import", {})
    assert Job.objects.count() == count
    assert "needs a name" in folded(ada.get("/"))


def test_jobs_are_found_archived_and_copied(ada, job):
    assert b"Boot room" in ada.get("/?q=tarn").content
    assert b"Copy Tarn" not in ada.get("/?q=nowhere").content
    ada.post(f"/jobs/{job.pk}/copy")
    assert Job.objects.count() == 2
    ada.post(f"/jobs/{job.pk}/archive")
    listed = re.findall(r"/jobs/(\d+)/copy", folded(ada.get("/")))
    assert str(job.pk) not in listed
    assert str(job.pk) in re.findall(r"/jobs/(\d+)/copy", folded(ada.get("/?archived=1")))


def test_schema_and_health(ada):
    assert ada.get("/schema/job-file.json").json()["title"] == "Fjeld job file"
    assert ada.get("/health").content == f"ok {__version__}".encode()


def test_a_name_from_a_stranger_is_text_not_markup(ada):
    drawing = json.loads(job_file("boot-room"))
    drawing["house"]["name"] = drawing["rooms"]["R1"]["name"] = "<script>alert(1)</script>"
    ada.post("/jobs/import", {"file": SimpleUploadedFile("job.json", json.dumps(drawing).encode())})
    job = Job.objects.order_by("-pk").first()
    for waypoint in ("survey", "layout", "record", "proof"):
        assert "<script>alert" not in folded(ada.get(f"/jobs/{job.pk}/{waypoint}/"))
    assert "<script>alert" not in folded(ada.get("/"))


# --- a new job through every form -------------------------------------------------------


def test_a_new_job_from_nothing_to_proof(ada, db):
    ada.post("/jobs/new", {"name": "Shed"})
    job = Job.objects.get(name="Shed")
    do(ada, job, "survey", "start", name="Shed", use="other")
    for words in (
        "12'",
        "9'",
        "12'",
        "9'",
        "door 32 at 2' on 3",
        "panel at 3' on 4",
        "window 36 at 4' sill 36 on 1",
        "height 7'10",
        "joists ew 16 first 10",
        "studs 24 deep 5 1/2",
    ):
        do(ada, job, "survey", "say", words=words)
    do(ada, job, "layout", "rows", across="2", down="1", school="half-spacing")
    do(ada, job, "layout", "beside", door="D1")
    do(ada, job, "layout", "outlets")
    do(ada, job, "layout", "add", kind="alarm")
    drawing = head(job)
    assert len(drawing.of(Opening)) == 2
    assert drawing.get("R1", Room).studs.spacing.typed == '24"'
    do(ada, job, "circuits", "control", position=["S1"], load=["A1", "A2"], name="Lights")
    do(ada, job, "circuits", "control", position=["S1"], load=["O1.upper"])
    do(ada, job, "circuits", "groups")
    drawing = head(job)
    assert len(drawing.of(Circuit)) == 2
    assert len(drawing.of(Control)) == 2
    assert len(drawing.of(Panel)) == 1
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/"))
    assert "proven over" in proof
    for waypoint in ("runs", "boxes", "site", "record"):
        assert ada.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200
    steps = [folded(ada.get(f"/jobs/{job.pk}/boxes/?sel=O1&step={n}")) for n in range(8)]
    told = [n for n, step in enumerate(steps) if "Break off the tab" in step]
    assert len(told) == 1, "once, before the first of its two hots"
    assert "brass" in steps[told[0]]


@pytest.mark.parametrize(
    "waypoint", ["survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record"]
)
def test_every_waypoint_stands_on_an_empty_job_and_on_a_half_walked_room(ada, db, waypoint):
    ada.post("/jobs/new", {"name": "Empty"})
    job = Job.objects.get(name="Empty")
    assert ada.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200
    do(ada, job, "survey", "start", name="Room", use="living")
    do(ada, job, "survey", "say", words="12'")
    do(ada, job, "survey", "say", words="9'")
    assert ada.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200


# --- the wire ---------------------------------------------------------------------------


def test_only_layers_that_differ_travel_inside_an_svg():
    before = {"a": group("a", circle(1, 1, 1, "x")), "b": group("b", circle(1, 1, 1, "x"))}
    after = {"a": before["a"], "b": group("b", circle(2, 1, 1, "x"))}
    html = changed_layers(before, after)
    assert html.startswith("<svg><g hx-swap-oob=")
    assert 'id="b"' in html
    assert 'id="a"' not in html


def test_of_a_layer_only_the_child_that_changed_travels():
    one, two = group("c1", circle(1, 1, 1, "x")), group("c2", circle(1, 1, 1, "x"))
    moved = group("c2", circle(9, 1, 1, "x"))
    html = changed_layers({"p": group("p", one, two)}, {"p": group("p", one, moved)})
    assert 'id="c2"' in html
    assert 'id="c1"' not in html
    assert 'id="p"' not in html


def test_fragments_that_stayed_are_not_sent():
    def part(words, inner=""):
        return Fragment("x", f'<p id="x"{mark("x")}>{words}{inner}</p>')

    assert changed({"x": part(1)}, {"x": part(1)}) == ""
    assert changed({"x": part(1)}, {"x": part(2)}) == '<p id="x" hx-swap-oob="outerHTML">2</p>'
    assert changed({"x": part(1)}, {"x": part(1)}, sent=True) == "", "only what holds forms goes again"
    within = part(1, f'<b id="y"{mark("y")}></b>')
    assert str(within) == '<p id="x">1<b id="y"></b></p>'
    assert within.swapped.count("hx-swap-oob") == 1, "a part of it goes with it"
    with pytest.raises(ValueError, match="begins with"):
        Fragment("x", "<p></p>")


def test_shapes_escape_what_they_carry():
    assert "<b>" not in svg(group('a"<b>', cls="<b>"))


@pytest.mark.parametrize(
    ("handle", "field", "typed"),
    [("A1", "x", "5' 1 1/4\""), ("A1", "y", "4'"), ("S1", "at", "2' 6\""), ("S1", "height", "4' 2\"")],
)
def test_a_reading_typed_over_is_the_reading_shown_after(ada, job, handle, field, typed):
    """From the framing the tape reads more than the finished room: what is typed is what the tape reads."""

    def shown(what):
        mark = planned(head(job))[0].marks[handle]
        return {"x": mark.across, "y": mark.down, "at": mark.across, "height": mark.height}[what]

    do(ada, job, "survey", "figure", handle="R1", field="floor", value='3/4"')
    html = do(ada, job, "layout", "reading", handle=handle, field=field, value=typed)
    assert 'id="line"' in html
    assert format_length(shown(field)) == typed
    before = shown(field)
    do(ada, job, "layout", "reading", handle=handle, field=field, value=format_length(before))
    assert shown(field) == pytest.approx(before, abs=INCH / 32)
    do(ada, job, "layout", "reading", 422, handle=handle, field="width", value=typed)
    do(ada, job, "layout", "reading", 422, handle="P1", field="at", value=typed)
    assert shown(field) == pytest.approx(before, abs=INCH / 32), "nothing is lost"


def test_a_cable_is_hung_on_the_load_side_and_taken_ahead_again(ada, job):
    do(ada, job, "circuits", "figure", handle="Q2", field="protection", value="")
    do(ada, job, "layout", "figure", handle="O4", field="protective", value="true")
    cable = next(e.cable for e in planned(head(job))[0].circuits["Q2"].tree.edges if e.up == "O4")
    do(ada, job, "runs", "side", handle=cable, side="load")
    runs = folded(ada.get(f"/jobs/{job.pk}/runs/?sel={cable}"))
    assert "Covered by O4" in runs
    box = folded(ada.get(f"/jobs/{job.pk}/boxes/?sel=O4"))
    assert "LOAD, covered" in box
    assert "load brass" in box
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/"))
    assert "Leakage seen by each protective device" in proof
    beyond = planned(head(job))[0].circuits["Q2"].tree.beyond[cable]
    for outlet in beyond:
        layout = folded(ada.get(f"/jobs/{job.pk}/layout/?sel={outlet}"))
        assert re.search(r"Covered by <a[^>]*>O4</a>, on its LOAD side", layout)
    do(ada, job, "runs", "side", handle=cable, side="line")
    assert "Joined ahead of O4" in folded(ada.get(f"/jobs/{job.pk}/runs/?sel={cable}"))
    layout = folded(ada.get(f"/jobs/{job.pk}/layout/?sel={min(beyond)}"))
    assert "joined ahead of it: not covered" in layout


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"handle": "C1", "side": "load"}, "does not come from a protective outlet"),
        ({"handle": "C99", "side": "load"}, "does not come from a protective outlet"),
        ({"handle": "C10", "side": "under"}, "on the line side or on the load side"),
    ],
)
def test_a_side_that_is_not_there_is_refused_in_words(ada, job, form, words):
    assert words in do(ada, job, "runs", "side", 422, **form)


def at_old_box(job, people):
    """The boot room with an old outlet's box in it, two cables written down, nothing read."""
    leads = (("black", "brass"), ("white", "silver"), ("bare", "joint"))
    drawing = head(job)
    old = OldBox(
        "R1",
        3,
        Length(600),
        Length(355),
        holds="outlet",
        cables=(found_cable(1, *leads, gauge="14"), found_cable(2, *leads, gauge="14")),
    )
    commit(job.pk, people["owner"], Place({"E1": old}, "an old box"), base=None)
    assert "E1" not in drawing.items
    return job


def test_a_circuit_begins_in_an_old_box_and_what_is_not_read_stays_not_known(ada, job, people):
    at_old_box(job, people)
    circuits = folded(ada.get(f"/jobs/{job.pk}/circuits/?sel=Q1"))
    assert "Old outlet E1, cable 2" in circuits
    do(ada, job, "circuits", "source", handle="Q1", source="E1 1")
    here = folded(ada.get(f"/jobs/{job.pk}/circuits/?sel=Q1"))
    assert "what brings the line there is not known yet" in here
    assert "Breaker space" not in here
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/?sel=A1"))
    assert "not read are so" in proof
    assert "no reading says which breaker" in proof
    assert "if what no reading has settled in an old box is so" in proof
    assert (
        ">expected dead<"
        not in proof.split("Breaker off")[1].split("</table>")[0].split("<tr>")[1].split("<td>")[-1]
    )
    box = folded(ada.get(f"/jobs/{job.pk}/boxes/?sel=E1"))
    assert "some conductor in E1 is live in every state" in box
    assert "nobody has read what E1 holds" in box
    for waypoint in ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record"):
        page = ada.get(f"/jobs/{job.pk}/{waypoint}/?sel=E1")
        assert page.status_code == 200
        if waypoint in ("survey", "layout", "circuits", "runs", "proof"):
            assert folded(page).count('id="f-E1"') == 1, waypoint
    assert "Old box E1, breaker not found yet" in folded(ada.get(f"/jobs/{job.pk}/record/"))


def test_readings_are_written_down_conductor_by_conductor(ada, job, people):
    at_old_box(job, people)
    do(ada, job, "circuits", "source", handle="Q1", source="E1 1")
    here = {"HX-Current-URL": f"http://testserver/jobs/{job.pk}/survey/?sel=E1"}

    def say(expect=200, **form):
        answer = ada.post(f"/jobs/{job.pk}/survey/do/carries", form, headers={**LIVE, **here})
        assert answer.status_code == expect, answer.content[:300]
        return folded(answer)

    say(cable="1", lead="BK", carries="line", read="on")
    say(cable="1", lead="WH", carries="neutral", read="on")
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/?sel=A1"))
    assert "not read" not in proof
    assert "proven over" in proof
    lead = head(job).items["E1"].cables[0].leads[0]
    assert (lead.carries, lead.read) == ("line", True)
    say(cable="1", lead="BK", carries="", read="on")
    assert not head(job).items["E1"].cables[0].leads[0].read, "what is not said is not read"
    assert "nothing that a conductor carries" in say(422, cable="1", lead="BK", carries="luck")
    assert "not written down" in say(422, cable="1", lead="RD", carries="line")
    struck = ada.post(f"/jobs/{job.pk}/survey/do/uncable", {"cable": "1"}, headers={**LIVE, **here})
    assert struck.status_code == 422
    assert "begins at a cable of E1" in folded(struck)


@pytest.mark.parametrize(
    ("source", "words"),
    [
        ("", "left empty"),
        ("E9", "no panel or old box E9"),
        ("A1", "no panel or old box A1"),
        ("E1 7", "no cable 7"),
    ],
)
def test_a_source_that_is_not_there_is_refused_in_words(ada, job, people, source, words):
    at_old_box(job, people)
    assert words in do(ada, job, "circuits", "source", 422, handle="Q1", source=source)


def test_a_second_panel_is_fed_from_the_first(ada, job, people):
    second = Panel("R1", 3, Length(600), ways=6)
    commit(job.pk, people["owner"], Place({"P2": second}, "a second panel"), base=None)
    do(ada, job, "circuits", "new", name="Feeder", breaker="30", gauge="10")
    feeder = next(q for q, c in head(job).of(Circuit).items() if c.name == "Feeder")
    do(ada, job, "survey", "figure", handle="P2", field="circuit", value=feeder)
    do(ada, job, "circuits", "source", handle="Q1", source="P2")
    plan = planned(head(job))[0]
    assert plan.circuits[feeder].panels == ("P2",)
    assert plan.circuits["Q1"].source == "P2"
    assert not plan.circuits["Q1"].tree.unfed
    record = folded(ada.get(f"/jobs/{job.pk}/record/"))
    assert f"Panel P2, fed by {feeder}" in record
    assert "1 of 6 ways used, 5 free" in folded(ada.get(f"/jobs/{job.pk}/circuits/"))
    refused = do(ada, job, "circuits", "source", 422, handle=feeder, source="P2")
    assert "fed by itself" in refused


def test_two_legs_share_a_neutral_by_two_choices(ada, job):
    do(ada, job, "circuits", "figure", handle="Q2", field="poles", value="2")
    outlet = folded(ada.get(f"/jobs/{job.pk}/circuits/?sel=O1"))
    assert "On which leg" in outlet
    do(ada, job, "circuits", "figure", handle="O1", field="leg", value="2")
    plan = planned(head(job))[0]
    nets = {str(c.net) for c in plan.boxes["O1"].ends if c.insulated}
    assert nets == {"L2", "N"}
    assert "line, second leg" in folded(ada.get(f"/jobs/{job.pk}/boxes/?sel=O1"))
    assert "Breaker, two poles" in folded(ada.get(f"/jobs/{job.pk}/site/"))
    refused = do(ada, job, "circuits", "figure", 422, handle="Q2", field="poles", value="3")
    assert "no poles" in refused


def test_a_switch_becomes_a_dimmer_and_is_turned_down_in_the_proof(ada, job):
    form = {"handle": "K1", "position": ["S1", "S2"], "load": ["A1", "A2", "A3", "A4"], "name": "Ceiling"}
    do(ada, job, "circuits", "control", device="dimmer S2", **form)
    control = head(job).items["K1"]
    assert (control.device, control.positions[0]) == ("dimmer", "S2")
    here = folded(ada.get(f"/jobs/{job.pk}/circuits/?sel=K1"))
    assert re.search(r'<option value="dimmer S2" selected', here)
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/?circuit=Q1"))
    assert "proven over" in proof
    assert "dimmer of S2 down" in proof
    down = folded(ada.get(f"/jobs/{job.pk}/proof/?circuit=Q1&up=S1:K1,S2:K1.dimmer"))
    assert 'aria-label="dimmer of S2 for K1 down"' in down
    assert 'aria-label="dimmer of S2 for K1 up"' not in down
    assert "Dimmer, three-way" in folded(ada.get(f"/jobs/{job.pk}/site/"))
    refused = do(ada, job, "circuits", "control", 422, device="timer S2", **form)
    assert "works alone" in refused
    assert "no kind of switch" in do(ada, job, "circuits", "control", 422, device="lever", **form)


def test_a_light_gets_a_pull_chain(ada, job):
    do(ada, job, "layout", "figure", handle="A1", field="chain", value="true")
    proof = folded(ada.get(f"/jobs/{job.pk}/proof/?circuit=Q1"))
    assert "chain of A1 off" in proof
    assert "proven over" in proof


def test_a_ring_is_closed_and_opened_by_a_press(as_, people):
    ada, loft = as_("owner"), jobfile.decode(job_file("chandlers-loft"))
    job = create("Loft", loft, people["owner"])
    sockets = next(
        q for q, c in planned(loft)[0].circuits.items() if {loft.items[b].kind for b in c.boxes} == {"outlet"}
    )
    assert f"Close {sockets} to a ring" in folded(ada.get(f"/jobs/{job.pk}/runs/?circuit={sockets}"))
    do(ada, job, "runs", "ring", circuit=sockets)
    plan = planned(head(job))[0]
    assert plan.circuits[sockets].tree.ring is not None
    here = folded(ada.get(f"/jobs/{job.pk}/runs/?circuit={sockets}"))
    assert f"Open the ring of {sockets}" in here
    assert "nobody searches" in here
    do(ada, job, "runs", "ring", circuit=sockets)
    assert planned(head(job))[0].circuits[sockets].tree.ring is None
    assert "no circuit that can be a ring" in do(ada, job, "runs", "ring", 422, circuit="Q99")


def test_no_ring_is_offered_where_there_are_none(ada, job):
    assert "to a ring" not in folded(ada.get(f"/jobs/{job.pk}/runs/?circuit=Q2"))
    assert "no circuit that can be a ring" in do(ada, job, "runs", "ring", 422, circuit="Q2")


def test_an_outlet_goes_into_a_switchs_box_and_on_its_yoke(ada, job):
    assert "that of switch S1" in folded(ada.get(f"/jobs/{job.pk}/layout/?sel=O3"))
    do(ada, job, "layout", "figure", handle="O3", field="within", value="S1")
    plan = planned(head(job))[0]
    assert "O3" not in plan.boxes
    assert plan.boxes["S1"].kind.gangs == 2
    layout = folded(ada.get(f"/jobs/{job.pk}/layout/?sel=O3"))
    assert "On one yoke with it" in layout
    box = folded(ada.get(f"/jobs/{job.pk}/boxes/?sel=O3"))
    assert "Box S1" in box
    assert "Two circuits meet in this box" in box
    before = head(job).items["S1"].at.mm
    do(ada, job, "layout", "move", handle="O3", at=str(before + 50.0))
    assert head(job).items["S1"].at.mm == pytest.approx(before + 50.0), "the box moves, whichever is dragged"
    do(ada, job, "layout", "figure", handle="O3", field="yoke", value="true")
    assert "Two devices on one yoke" in folded(ada.get(f"/jobs/{job.pk}/site/"))
    for waypoint in ("survey", "circuits", "runs", "proof", "record"):
        assert ada.get(f"/jobs/{job.pk}/{waypoint}/?sel=O3").status_code == 200
    assert ada.get(f"/jobs/{job.pk}/sheets/mark-out").status_code == 200
    do(ada, job, "layout", "figure", handle="O3", field="within", value="")
    assert "O3" in planned(head(job))[0].boxes
    refused = do(ada, job, "layout", "figure", 422, handle="O3", field="within", value="A1")
    assert "no switch or outlet on a wall" in refused


def test_a_piece_of_cable_is_made_of_another_gauge_and_back(ada, job):
    cable = next(h for h, c in head(job).of(Cable).items() if c.circuit == "Q2")
    do(ada, job, "runs", "gauge", handle=cable, gauge="14")
    page = folded(ada.get(f"/jobs/{job.pk}/runs/?sel={cable}"))
    assert '<option value="14" selected>' in page
    circuits = folded(ada.get(f"/jobs/{job.pk}/circuits/"))
    assert re.search(rf"breaker on gauge 14 of {cable} of Boot room outlets Q2", circuits)
    do(ada, job, "runs", "gauge", handle=cable, gauge="12")
    assert head(job).get(cable, Cable).gauge == ""
    do(ada, job, "runs", "gauge", 422, handle=cable, gauge="9 mm")
    do(ada, job, "runs", "gauge", 422, handle="C999", gauge="12")


def test_a_cable_is_led_through_another_circuits_box(ada, job, boot_plan):
    second = boot_plan.circuits["Q2"]
    leaf = next(e for e in reversed(second.tree.edges) if len(second.tree.beyond[e.cable]) == 1)
    switch = next(iter(boot_plan.drawing.of(Control).values())).positions[0]
    do(ada, job, "runs", "through", handle=leaf.cable, box=switch)
    held = head(job)
    through = [h for h, c in held.of(Cable).items() if switch in (c.a, c.b) and c.circuit == "Q2"]
    assert len(through) == 2
    page = folded(ada.get(f"/jobs/{job.pk}/runs/?sel={leaf.cable}"))
    assert f"Passes through the box of {switch}" in page
    assert "Passing through, joined to nothing else there" in page
    assert "two circuits" in folded(ada.get(f"/jobs/{job.pk}/boxes/?sel={switch}")).lower()
    do(ada, job, "runs", "ends", 422, handle=leaf.cable, a=leaf.up, b="S99")
    do(ada, job, "runs", "through", 422, handle=leaf.cable, box=leaf.down)
    do(ada, job, "runs", "through", 422, handle="C999", box=switch)
    # One that ends in the other box and leads nowhere breaks nothing: what it fed is joined again.
    do(ada, job, "runs", "ends", handle=leaf.cable, a=leaf.up, b=switch)
    for waypoint in ("runs", "boxes", "proof", "site", "record"):
        assert ada.get(f"/jobs/{job.pk}/{waypoint}/").status_code == 200


@pytest.mark.parametrize("name", ["boot-room", "chandlers-loft"])
def test_the_netlist_of_the_page_is_the_netlist_of_the_command(ada, people, name, tmp_path, capsys):
    job = create(name, jobfile.decode(job_file(name)), people["owner"])
    page = ada.get(f"/jobs/{job.pk}/export/network.cir").content.decode()
    kept = tmp_path / "job.json"
    kept.write_bytes(ada.get(f"/jobs/{job.pk}/export/job.json").content)
    assert cli.main(["export", str(kept), "--to", "spice"]) == 0
    command = capsys.readouterr().out

    def told(text):
        return [line for line in text.splitlines() if line and not line.startswith("*")]

    assert told(page) == told(command)


def test_a_control_is_offered_what_no_other_works_and_no_room_without_any(as_, people):
    job = create("Tarn House", jobfile.decode(job_file("tarn-house")), people["owner"])
    ada = as_("owner")
    controls = job.head.document.drawing.of(Control)
    assert controls
    for handle in ("", *controls):
        html = ada.get(f"/jobs/{job.pk}/circuits/?sel={handle}").content.decode()
        offered = html.split(">Work these</legend>")[1].split("</fieldset>")[0]
        rooms = offered.split('<p class="text-label muted mt-1">')[1:]
        assert rooms
        assert all('name="load"' in room for room in rooms), handle
        values = set(re.findall(r'name="load" value="([^"]+)"', offered))
        worked = {h: {str(load) for load in control.loads} for h, control in controls.items()}
        assert worked.get(handle, set()) <= values
        assert not values & {load for h, loads in worked.items() if h != handle for load in loads}
