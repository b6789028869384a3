"""Photographs of an errand: read or refused in words, small, without what the camera wrote, kept once."""

import io
import json
import random
import struct
import zipfile
import zlib

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from fjeld.formats import jobfile
from fjeld.formats.picture import KEPT, LARGEST
from fjeld.web.jobs.deletion import GONE, delete_account
from fjeld.web.jobs.models import Job, Photo
from tests.walker import Forms
from tests.web.errands import DEAD, tick, words
from tests.web.test_access import ROLES

ORIENTATION, MAKER, GPS = 0x0112, 0x010F, 0x8825


def photograph(width=800, height=600, kind="JPEG", exif=None, colour=(160, 90, 40)):
    image = Image.new("RGB", (width, height), colour)
    image.paste((10, 200, 10), (0, 0, width // 4, height // 4))
    out = io.BytesIO()
    image.save(out, kind, **({"exif": exif} if exif else {}))
    return out.getvalue()


def send(client, job, data, status=302, name="open box.jpg", **form):
    sent = {"photo": SimpleUploadedFile(name, data, "image/jpeg")} if data is not None else {}
    response = client.post(f"/jobs/{job.pk}/errand/photo", {"key": "step:photo", **sent, **form})
    assert response.status_code == status, response.content[:800]
    return response


def test_a_photograph_is_turned_upright_made_small_and_stripped(started):
    job, client = started()
    exif = Image.Exif()
    exif[ORIENTATION], exif[MAKER] = 6, "a camera and where it was"
    exif.get_ifd(GPS)[1] = "N"
    send(client, job, photograph(4000, 3000, exif=exif.tobytes()))
    kept = Photo.objects.get()
    with Image.open(io.BytesIO(bytes(kept.jpeg))) as image:
        assert image.size == (KEPT * 3 // 4, KEPT), "it was taken on its side"
        assert not dict(image.getexif())
        assert "exif" not in image.info
    assert b"a camera" not in bytes(kept.jpeg)
    shown = client.get(f"/jobs/{job.pk}/errand/photo/{kept.pk}")
    assert shown["Content-Type"] == "image/jpeg"
    assert shown.content == bytes(kept.jpeg)
    page = client.get(f"/jobs/{job.pk}/errand/steps?step=photo").content.decode()
    assert f'src="/jobs/{job.pk}/errand/photo/{kept.pk}"' in page


@pytest.mark.parametrize("kind", ["PNG", "WEBP"])
def test_other_kinds_are_kept_as_jpeg(started, kind):
    job, client = started()
    send(client, job, photograph(kind=kind))
    assert bytes(Photo.objects.get().jpeg)[:2] == b"\xff\xd8"


def test_one_of_forty_megapixels_is_taken_and_one_of_more_than_any_phone_is_not(started):
    job, client = started()
    send(client, job, photograph(7304, 5478))
    assert Photo.objects.get().width == KEPT
    refused = send(client, job, photograph(9000, 7000, kind="PNG"), status=422)
    assert f"more than {LARGEST // 1_000_000} megapixels" in words(refused.content.decode())
    assert Photo.objects.count() == 1


def malformed():
    good = photograph()
    yield b""
    yield b"not a photograph"
    yield good[: len(good) // 2]
    yield b"\xff\xd8\xff\xe1" + b"\x00" * 300
    yield b"GIF89a" + good
    yield b"<svg xmlns='http://www.w3.org/2000/svg'/>"
    yield photograph(kind="PNG")[:60]
    die = random.Random(3)
    for _ in range(12):
        broken = bytearray(good[:2000])
        for _ in range(40):
            broken[die.randrange(4, 600)] = die.randrange(256)
        yield bytes(broken)


@pytest.mark.parametrize("data", list(malformed()))
def test_what_is_no_photograph_is_refused_in_a_sentence_and_nothing_is_lost(started, data):
    job, client = started()
    response = client.post(
        f"/jobs/{job.pk}/errand/photo",
        {"key": "step:photo", "photo": SimpleUploadedFile("x.jpg", data, "image/jpeg")},
    )
    assert response.status_code in (302, 422)
    if response.status_code == 422:
        assert "photograph" in words(response.content.decode())
        assert not Photo.objects.exists()
    assert client.get(f"/jobs/{job.pk}/errand/steps?step=photo").status_code == 200


def test_what_is_sent_twice_is_kept_once_and_what_is_of_nothing_is_not(started):
    job, client = started()
    for _ in range(2):
        send(client, job, photograph(), token="a-token-of-mine")
    assert Photo.objects.count() == 1
    send(client, job, None, status=422)
    assert client.post(f"/jobs/{job.pk}/errand/photo", {"key": "step:nothing"}).status_code == 404
    send(client, job, photograph(), key="E1")
    assert Photo.objects.count() == 2


def test_no_plate_before_its_picture_or_why_there_is_none(started):
    job, client = started(wants="replace", usual="A dark wire on each screw")
    for task in ("breaker",):
        tick(client, job, task)
    tick(client, job, "dead", **DEAD)
    tick(client, job, "open")
    refused = tick(client, job, "photo", status=422, note="")
    assert "no photograph is kept yet" in words(refused.content.decode())
    send(client, job, photograph())
    tick(client, job, "photo", note="")
    other, _ = started(wants="replace", usual="A dark wire on each screw")
    for task, form in (("breaker", {}), ("dead", DEAD), ("open", {})):
        tick(client, other, task, **form)
    tick(client, other, "photo", note="the phone was flat")


def test_a_photograph_is_struck_out_but_kept(started):
    job, client = started()
    send(client, job, photograph())
    pk = Photo.objects.get().pk
    assert client.post(f"/jobs/{job.pk}/errand/photo/{pk}/strike").status_code == 302
    assert Photo.objects.get().struck
    assert "struck out" in client.get(f"/jobs/{job.pk}/errand/steps?step=photo").content.decode()
    assert client.post(f"/jobs/{job.pk}/errand/photo/{pk + 9}/strike").status_code == 404


def press(client, job, action, named):
    """Presses a button that the step's page offers, and no other."""
    page = client.get(f"/jobs/{job.pk}/errand/steps?step=photo").content.decode()
    form = next(f for f in Forms(page).found if f["action"].endswith(action))
    sent = {f["name"]: f["value"] for f in form["fields"] if f["name"] and f["name"] in named}
    return client.post(form["action"], sent)


def test_the_wrong_photograph_is_counted_again_or_deleted_for_good(started):
    job, client = started()
    send(client, job, photograph())
    pk = Photo.objects.get().pk
    assert client.post(f"/jobs/{job.pk}/errand/photo/{pk}/delete").status_code == 422, "it is not struck out"
    press(client, job, "/strike", ("struck",))
    press(client, job, "/strike", ("struck",))
    assert not Photo.objects.get().struck, "the same button gives it back"
    press(client, job, "/strike", ("struck",))
    assert press(client, job, "/delete", ()).status_code == 302
    assert not Photo.objects.exists()
    assert client.get(f"/jobs/{job.pk}/errand/photo/{pk}").status_code == 404


@pytest.mark.parametrize("role", ROLES)
def test_who_may_strike_and_delete_a_photograph(started, as_, role):
    job, client = started()
    send(client, job, photograph())
    pk = Photo.objects.get().pk
    other = as_(role)
    other.post(f"/jobs/{job.pk}/errand/photo/{pk}/strike", {"struck": "yes"})
    assert Photo.objects.get().struck == (role in ("owner", "editor", "site"))
    Photo.objects.update(struck=True)
    other.post(f"/jobs/{job.pk}/errand/photo/{pk}/delete")
    assert Photo.objects.exists() == (role not in ("owner", "editor")), "a site hand strikes out and no more"


@pytest.mark.parametrize("kind", ["PNG", "BMP", "GIF", "TIFF"])
def test_a_picture_of_few_bytes_and_very_many_dots_is_refused_before_it_is_read(started, kind):
    """A screen of one colour packs to almost nothing: what it would unpack to is what is bounded."""
    job, client = started()
    header = photograph(64, 64, kind=kind)
    if kind == "PNG":
        # The size stands at a fixed place of its first chunk, whose checksum is made to agree.
        chunk = b"IHDR" + struct.pack(">II", 60_000, 60_000) + header[24:29]
        header = header[:12] + chunk + struct.pack(">I", zlib.crc32(chunk)) + header[33:]
    response = client.post(
        f"/jobs/{job.pk}/errand/photo",
        {"key": "step:photo", "photo": SimpleUploadedFile("x", header, f"image/{kind.lower()}")},
    )
    assert response.status_code == 422
    assert not Photo.objects.exists()


@pytest.mark.parametrize("role", ROLES)
def test_whose_photographs_they_are(started, as_, role):
    job, client = started()
    send(client, job, photograph())
    pk = Photo.objects.get().pk
    client = as_(role)
    seen = client.get(f"/jobs/{job.pk}/errand/photo/{pk}").status_code
    assert seen == (404 if role == "stranger" else 302 if role is None else 200)
    client.post(
        f"/jobs/{job.pk}/errand/photo",
        {"key": "step:photo", "photo": SimpleUploadedFile("x.jpg", photograph())},
    )
    assert Photo.objects.count() == 1 + (role in ("owner", "editor", "site"))
    # One of another job is not to be had by this job's address.
    as_("owner")
    assert client.get(f"/jobs/{job.pk + 1}/errand/photo/{pk}").status_code == 404


def test_a_job_with_photographs_can_be_deleted(started):
    job, client = started()
    send(client, job, photograph())
    assert client.post(f"/jobs/{job.pk}/delete", {"name": job.name}).status_code in (302, 200)
    assert not Job.objects.filter(pk=job.pk).exists()
    assert not Photo.objects.exists()


def test_the_record_shows_where_it_went_and_the_photographs_of_box_and_step(started):
    job, client = started(wants="outlet")
    send(client, job, photograph(), key="E1")
    tick(client, job, "look")
    send(client, job, photograph(), key="step:look")
    for ask, value in (
        ("surface", "wall"),
        ("box", "cut-in-1"),
        ("left", '16 3/4"'),
        ("right", '31 1/4"'),
        ("along", "2'"),
        ("height", '15"'),
    ):
        client.post(f"/jobs/{job.pk}/errand/spot/told", {"ask": ask, "value": value, "by": "probe"})
    html = client.get(f"/jobs/{job.pk}/errand/kept").content.decode()
    assert html.count("<img") == 2
    said = words(html)
    assert "Where it went" in said
    assert "Middle of the box, along 2'" in said
    told = client.get(f"/jobs/{job.pk}/errand/kept.json").json()
    with zipfile.ZipFile(io.BytesIO(client.get(f"/jobs/{job.pk}/errand/kept.zip").content)) as folder:
        assert json.loads(folder.read("record.json")) == told
        assert jobfile.decode(folder.read("job.json")).house.errand is not None
        for photo in told["photographs"]:
            with Image.open(io.BytesIO(folder.read(photo["file"]))) as image:
                assert [image.width, image.height] == photo["px"]
    assert [p["of"] for p in told["photographs"]] == ["E1", "step:look"]
    assert told["where"]["Up"] == "1' 3\""
    assert told["errand as told"]["spot"]["left_by"] == "probe"
    assert f'src="/jobs/{job.pk}/errand/photo/' in client.get(f"/jobs/{job.pk}/errand").content.decode()


def test_who_leaves_leaves_what_they_read_and_photographed_without_a_name(started, as_, people):
    job, _ = started()
    hand = as_("site")
    tick(hand, job, "look")
    send(hand, job, photograph())
    delete_account(people["site"])
    assert Photo.objects.get().who.get_username() == GONE
    assert job.records.get().who.get_username() == GONE
    assert "someone who has left" in words(as_("owner").get(f"/jobs/{job.pk}/errand/kept").content.decode())
