"""Every address against every role; sign-in, throttling, the demo's door, headers."""

import pytest
from django.conf import settings
from django.core.management import call_command
from django.urls import get_resolver

from fjeld.drawing.edits.common import Revise
from fjeld.web.jobs.models import Document, Job, Revision
from fjeld.web.places.planned import stands_of

ROLES = (None, "stranger", "reader", "site", "editor", "owner")
WAYPOINTS = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")
EXPORTS = ("job.json", "materials.csv", "cables.csv", "network.cir", "floor.dxf")

READS = (
    [f"/jobs/{{job}}/{w}/" for w in WAYPOINTS]
    + ["/jobs/{job}/head", "/jobs/{job}/sheets/mark-out", "/jobs/{job}/sheets/mark-out.pdf"]
    + [f"/jobs/{{job}}/export/{n}" for n in EXPORTS]
)
EDITS = {
    "/jobs/{job}/underlay": {},
    "/jobs/{job}/photometry": {"handle": "A1"},
    "/jobs/{job}/layout/do/move": {"handle": "A1", "x": "900"},
    "/jobs/{job}/record/do/rename": {"name": "Other"},
    "/jobs/{job}/layout/undo": {},
    "/jobs/{job}/layout/redo": {},
}


@pytest.mark.parametrize("role", ROLES)
@pytest.mark.parametrize("address", READS)
def test_reading(as_, job, role, address):
    status = as_(role).get(address.format(job=job.pk)).status_code
    assert status == {None: 302, "stranger": 404}.get(role, 200)


@pytest.mark.parametrize("role", ROLES)
@pytest.mark.parametrize("address", EDITS)
def test_editing(as_, job, role, address):
    seq = job.head.seq
    response = as_(role).post(address.format(job=job.pk), EDITS[address], headers={"HX-Request": "true"})
    job.refresh_from_db()
    if role in ("editor", "owner"):
        assert response.status_code in (200, 409, 422)
    else:
        assert response.status_code == {None: 302, "stranger": 404}.get(role, 403)
        assert job.head.seq == seq, "nothing was written"


@pytest.mark.parametrize("role", ROLES)
def test_archiving_is_the_owners(as_, job, role):
    response = as_(role).post(f"/jobs/{job.pk}/archive")
    job.refresh_from_db()
    assert job.archived is (role == "owner")
    assert response.status_code == (302 if role in (None, "owner") else 404)


@pytest.mark.parametrize("role", ROLES)
def test_copying_is_for_members(as_, job, role):
    response = as_(role).post(f"/jobs/{job.pk}/copy")
    assert response.status_code == (404 if role == "stranger" else 302)
    if role in ("reader", "owner"):
        assert "/survey/" in response["Location"]


@pytest.mark.parametrize("role", ROLES)
def test_people_are_seen_by_members_and_changed_by_the_owner(as_, job, people, role):
    client = as_(role)
    assert client.get(f"/jobs/{job.pk}/people").status_code == {None: 302, "stranger": 404}.get(role, 200)
    client.post(f"/jobs/{job.pk}/people/role", {"person": "stranger", "role": "reader"})
    assert job.members.filter(user=people["stranger"]).exists() == (role == "owner")
    client.post(f"/jobs/{job.pk}/people/take-off", {"person": "reader"})
    assert job.members.filter(user=people["reader"]).exists() == (role not in ("owner", "reader"))


@pytest.mark.parametrize("role", ROLES)
def test_a_job_is_deleted_by_its_owner_with_its_name(as_, job, role):
    client = as_(role)
    client.post(f"/jobs/{job.pk}/delete", {"name": "another"})
    assert Job.objects.filter(pk=job.pk).exists()
    client.post(f"/jobs/{job.pk}/delete", {"name": job.name})
    assert Job.objects.filter(pk=job.pk).exists() == (role != "owner")
    if role == "owner":
        assert not Revision.objects.exists()
        assert not Document.objects.exists()


def test_a_job_keeps_an_owner(as_, job, people):
    client = as_("owner")
    client.post(f"/jobs/{job.pk}/people/role", {"person": "owner", "role": "reader"})
    client.post(f"/jobs/{job.pk}/people/take-off", {"person": "owner"})
    assert job.members.get(user=people["owner"]).role == "owner"
    client.post(f"/jobs/{job.pk}/people/role", {"person": "editor", "role": "owner"})
    client.post(f"/jobs/{job.pk}/people/take-off", {"person": "owner"})
    assert not job.members.filter(user=people["owner"]).exists()


def test_a_site_hand_writes_a_measured_length_and_nothing_else(as_, job):
    client = as_("site")
    measured = client.post(f"/jobs/{job.pk}/runs/do/measured", {"handle": "C1", "value": "20'"})
    assert measured.status_code == 302
    assert client.post(f"/jobs/{job.pk}/layout/do/nudge", {"handle": "A1", "way": "right"}).status_code == 403
    assert client.post(f"/jobs/{job.pk}/runs/do/remove", {"handle": "C1"}).status_code == 403


def test_an_archived_job_is_closed_to_everyone(as_, job):
    client = as_("owner")
    client.post(f"/jobs/{job.pk}/archive")
    assert client.get(f"/jobs/{job.pk}/layout/").status_code == 200
    assert client.post(f"/jobs/{job.pk}/layout/do/nudge", {"handle": "A1", "way": "right"}).status_code == 403
    assert (
        as_("site").post(f"/jobs/{job.pk}/runs/do/measured", {"handle": "C1", "value": "20'"}).status_code
        == 403
    )
    client = as_("owner")
    client.post(f"/jobs/{job.pk}/archive")
    assert client.post(f"/jobs/{job.pk}/layout/do/nudge", {"handle": "A1", "way": "right"}).status_code == 302


def test_an_account_goes_with_what_it_alone_owns(as_, job, people, boot_room):
    from fjeld.web.http import store

    store.commit(job.pk, people["editor"], Revise("R1", {"name": "Hut"}), base=None)
    own = store.create("own", boot_room, people["editor"])
    client = as_("editor")
    client.post("/account/delete", {"password": "wrong"})
    assert Job.objects.filter(pk=own.pk).exists()
    client.post("/account/delete", {"password": "a long password"})
    assert not Job.objects.filter(pk=own.pk).exists()
    assert job.revisions.get(seq=2).who.username == "someone who has left"
    assert as_("owner").get(f"/jobs/{job.pk}/record/").status_code == 200


def test_a_password_is_changed_with_the_old_one(as_, client):
    as_("editor")
    new = {"new_password1": "quite another one", "new_password2": "quite another one"}
    assert client.post("/account", {"old_password": "wrong", **new}).status_code == 422
    assert client.post("/account", {"old_password": "a long password", **new}).status_code == 302
    client.logout()
    assert client.post("/sign-in", {"username": "editor", "password": "quite another one"}).status_code == 302


@pytest.mark.parametrize("spelled", ["owner ", "\towner", "OWNER", "ｏｗｎｅｒ", " Owner"])
def test_the_throttle_goes_by_the_name_however_it_is_spelled(client, people, spelled):
    for n in range(8):
        client.post("/sign-in", {"username": spelled if n % 2 else "owner", "password": "wrong"})
    assert client.post("/sign-in", {"username": "owner", "password": "a long password"}).status_code == 429


def test_other_names_do_not_wash_a_throttle_away_and_are_counted_themselves(quick_digests, client, people):
    for _ in range(8):
        client.post("/sign-in", {"username": "owner", "password": "wrong"})
    for n in range(52):
        client.post("/sign-in", {"username": f"nobody{n}", "password": "wrong"})
    assert client.post("/sign-in", {"username": "owner", "password": "a long password"}).status_code == 429
    assert client.post("/sign-in", {"username": "editor", "password": "a long password"}).status_code == 429


def test_accounts_from_one_address_are_limited_and_can_be_closed(client, db, settings):
    settings.SIGN_UPS_AN_HOUR = 1
    form = {"username": "first", "password1": "a long enough one", "password2": "a long enough one"}
    assert client.post("/sign-up", form).status_code == 302
    client.logout()
    assert client.post("/sign-up", {**form, "username": "second"}).status_code == 429
    settings.SIGN_UP = False
    assert client.get("/sign-up").status_code == 404


def test_private_pages_are_not_for_others_to_keep(as_, job):
    assert "private" in as_("owner").get(f"/jobs/{job.pk}/survey/")["Cache-Control"]


def test_a_body_that_is_too_large_is_refused_by_its_length(as_):
    response = as_("owner").post(
        "/jobs/import", b"x", content_type="application/x-www-form-urlencoded", CONTENT_LENGTH="300000000"
    )
    assert response.status_code == 413


@pytest.mark.parametrize("role", ROLES)
def test_stopping_a_search_is_for_members(as_, job, role):
    response = as_(role).post(f"/jobs/{job.pk}/searches/stop", {"back": "runs"})
    assert response.status_code == {None: 302, "owner": 302, "editor": 302, "stranger": 404}.get(role, 403)
    assert as_(role).get(f"/jobs/{job.pk}/searches/stop").status_code in (302, 404, 405)


def test_no_address_is_left_out():
    """Each pattern is walked above, or needs no job and is named here."""
    walked = {
        "underlay",
        "photometry",
        "mark-out",
        "mark-out-pdf",
        "head",
        "export",
        "waypoint",
        "act",
        "take-back",
        "stop-searches",
        "archive",
        "copy",
        "delete-job",
        "people",
        "role",
        "take-off",
    }
    # Of errands: walked by every role in test_errand.py.
    walked |= {
        "errand",
        "errand-act",
        "errand-record",
        "errand-strike",
        "errand-steps",
        "errand-step",
        "errand-kept",
        "errand-kept-json",
        "errand-kept-zip",
        "errand-spot",
        "errand-spot-told",
        "errand-path",
        "errand-path-told",
        "errand-box",
        "errand-proof",
        "errand-meant",
        "errand-take-back",
        "errand-adopt",
        "errand-sheet",
        "errand-sheet-pdf",
        "errand-begin",
        "errand-photo",
        "errand-photo-show",
        "errand-photo-strike",
        "errand-photo-delete",
    }
    others = {
        "jobs",
        "start-errand",
        "health",
        "bench",
        "question",
        "sign-in",
        "sign-up",
        "sign-out",
        "demo",
        "theme",
        "schema",
        "new-job",
        "import",
        "account",
        "leave",
    }
    assert {p.name for p in get_resolver().url_patterns} == walked | others


def test_everything_but_the_doors_asks_to_sign_in(client, db):
    for address in ("/", "/schema/job-file.json"):
        assert client.get(address).status_code == 302
    for address in ("/sign-in", "/sign-up", "/health", "/bench/", "/bench/spot"):
        assert client.get(address).status_code == 200


def test_a_wrong_method_is_refused(as_, job):
    client = as_("owner")
    assert client.get(f"/jobs/{job.pk}/layout/do/move").status_code == 405
    assert client.post(f"/jobs/{job.pk}/layout/").status_code == 405
    assert client.get(f"/jobs/{job.pk}/archive").status_code == 405


@pytest.mark.parametrize(
    "address", ["/jobs/{job}/nowhere/", "/jobs/{job}/export/secrets", "/jobs/999/survey/"]
)
def test_what_is_not_there_is_not_there(as_, job, address):
    assert as_("owner").get(address.format(job=job.pk)).status_code == 404


def test_an_unknown_edit_is_not_there(as_, job):
    assert as_("owner").post(f"/jobs/{job.pk}/layout/do/explode").status_code == 404


def test_a_post_without_its_token_is_refused(job, people):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(people["owner"])
    assert client.post(f"/jobs/{job.pk}/record/do/rename", {"name": "x"}).status_code == 403


def test_wrong_passwords_are_slowed(client, people):
    for _ in range(8):
        assert client.post("/sign-in", {"username": "owner", "password": "wrong"}).status_code == 200
    refused = client.post("/sign-in", {"username": "owner", "password": "a long password"})
    assert refused.status_code == 429
    assert b"Wait ten minutes" in refused.content
    assert client.post("/sign-in", {"username": "editor", "password": "a long password"}).status_code == 302


def test_a_new_account_can_start_a_job(client, db):
    made = client.post(
        "/sign-up", {"username": "ada", "password1": "a long password", "password2": "a long password"}
    )
    assert made.status_code == 302
    started = client.post("/jobs/new", {"name": "Hut"})
    assert started["Location"].endswith("/survey/")
    assert client.get(started["Location"]).status_code == 200


def test_a_weak_password_is_refused(client, db):
    assert (
        client.post("/sign-up", {"username": "ada", "password1": "short", "password2": "short"}).status_code
        == 422
    )


def test_passwords_are_kept_by_argon2(people):
    assert people["owner"].password.startswith("argon2")


def test_the_demo_has_a_door_only_where_it_is_served(client, db, settings):
    settings.DEMO = False
    assert client.post("/demo").status_code == 404
    call_command("load_demo")
    assert client.post("/demo").status_code == 404
    settings.DEMO = True
    assert client.post("/demo").status_code == 302
    assert b"Tarn House" in client.get("/").content


def test_the_demo_is_loaded_once(db):
    call_command("load_demo")
    count = Job.objects.count()
    call_command("load_demo")
    assert Job.objects.count() == count > 0


def test_the_demo_has_one_errand_that_is_finished_and_holds(db):
    call_command("load_demo")
    job = Job.objects.get(name__startswith="Galley")
    left = [s.task.id for s in stands_of(job, job.head.document.drawing) if not s.done]
    assert left == []


def test_the_policy_is_strict(as_, job):
    for address in ("/", f"/jobs/{job.pk}/layout/"):
        policy = as_("owner").get(address)["Content-Security-Policy"]
        assert "unsafe" not in policy
        assert "default-src 'none'" in policy
        assert "script-src 'self'" in policy


@pytest.mark.parametrize("waypoint", WAYPOINTS)
def test_no_page_carries_inline_script_style_or_outside_address(as_, job, waypoint):
    import re

    html = as_("owner").get(f"/jobs/{job.pk}/{waypoint}/").content.decode()
    assert not re.search(r"<script(?![^>]*\bsrc=)", html)
    assert not re.search(r"\sstyle=", html)
    assert not re.search(r"\son[a-z]+=", html)
    assert not re.search(r"""(?:src|href)=["'](?:https?:)?//""", html)


def test_theme_is_kept_and_its_way_back_stays_here(client, db):
    kept = client.post("/theme", {"theme": "headlamp", "next": "/sign-in"})
    assert kept["Location"] == "/sign-in"
    assert b'data-theme="headlamp"' in client.get("/sign-in").content
    away = client.post("/theme", {"theme": "day", "next": "//elsewhere.example/"})
    assert away["Location"] == "/"


def test_deploy_settings_pass_their_check(monkeypatch, tmp_path):
    import os
    import subprocess
    import sys

    kept = {k: v for k, v in os.environ.items() if k != "DJANGO_ALLOW_ASYNC_UNSAFE"}
    env = {
        **kept,
        "FJELD_TLS": "1",
        "FJELD_VAR": str(tmp_path),
        "FJELD_SECRET_KEY": "x" * 60 + "abcdefgh",
    }
    run = subprocess.run(
        [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"],
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    assert run.returncode == 0, run.stderr
    assert settings.SESSION_COOKIE_HTTPONLY
