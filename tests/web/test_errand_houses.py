"""An errand taken into a house, and one begun from an old box of a house: with what was read."""

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from msgspec.structs import replace

from fjeld.drawing.adopting import adopted, begun_from
from fjeld.drawing.edits.common import Remove
from fjeld.drawing.errand import Errand, Spot
from fjeld.drawing.handles import HOUSE, Handle, Mint
from fjeld.drawing.model import Drawing, Point
from fjeld.drawing.old_box import OldBox
from fjeld.drawing.validate import require_valid
from fjeld.quantities import parse_length
from fjeld.web.http import store
from fjeld.web.jobs.models import Job, Member, Record
from fjeld.web.places.kinds import KINDS
from tests.web.errands import R4, page, read, words
from tests.web.test_access import ROLES
from tests.web.test_photos import photograph


def head(job):
    return Job.objects.get(pk=job.pk).head.document.drawing


@pytest.fixture
def both(started, job):
    """An errand that has been read, and a house of the same owner."""
    errand, client = started(wants="outlet")
    read(client, errand, "R4", **R4)
    return errand, job, client


def into(client, errand, house, room="R1", status=302, **form):
    response = client.post(f"/jobs/{errand.pk}/errand/adopt", {"into": f"{house.pk}:{room}", **form})
    assert response.status_code == status, response.content[:1500]
    return response


def test_its_old_box_goes_into_a_house_with_what_was_read_there(both):
    errand, house, client = both
    before = set(head(house).items)
    shown = words(client.get(f"/jobs/{errand.pk}/errand/adopt").content.decode())
    assert "Boot room" in shown
    response = into(client, errand, house, wall="2")
    after = head(house)
    new = {h: i for h, i in after.items.items() if h not in before}
    assert sorted(type(i).__name__ for i in new.values()) == ["OldBox", "Point"]
    box = next(h for h, i in new.items() if isinstance(i, OldBox))
    assert response.url.endswith(f"sel={box}")
    assert new[box].cables == next(iter(head(errand).of(OldBox).values())).cables
    point = next(i for i in new.values() if isinstance(i, Point))
    assert (point.kind, point.wall, point.room) == ("outlet", 2, "R1")
    assert point.at.unknown, "nobody has measured it"
    moved = house.records.get()
    mine = errand.records.get()
    assert (moved.key, moved.body, moved.who, moved.when) == (box, mine.body, mine.who, mine.when)
    # The house's own page of that box has the same answer.
    assert "1: the feed settled" in words(client.get(f"/jobs/{house.pk}/errand?box={box}").content.decode())
    assert "1: the feed settled" in words(page(client, errand)), "the errand stays as it is"
    for waypoint in ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record"):
        assert client.get(f"/jobs/{house.pk}/{waypoint}/").status_code == 200, waypoint


def test_what_was_read_and_photographed_is_seen_in_the_house(both):
    errand, house, client = both
    for key in ("E1", "step:photo"):
        sent = {"key": key, "photo": SimpleUploadedFile("x.jpg", photograph())}
        assert client.post(f"/jobs/{errand.pk}/errand/photo", sent).status_code == 302
    into(client, errand, house)
    box = next(iter(head(house).of(OldBox)))
    html = client.get(f"/jobs/{house.pk}/survey/?sel={box}").content.decode()
    assert "Cable 1: the feed , settled" in words(html)
    shots = re.findall(rf"/jobs/{house.pk}/errand/photo/\d+", html)
    assert len({*shots}) == 2
    assert client.get(shots[0]).status_code == 200
    # From there it goes along into an errand again.
    client.post(f"/jobs/{house.pk}/errand/begin", {"box": box, "wants": "light"})
    assert Job.objects.latest("pk").photos.count() == 2
    assert "no longer drawn" not in words(client.get(f"/jobs/{house.pk}/record/").content.decode())
    store.commit(house.pk, house.members.get(role="owner").user, Remove(box), base=None)
    record = client.get(f"/jobs/{house.pk}/record/").content.decode()
    assert f"{box} no longer drawn" in words(record)
    assert f"/jobs/{house.pk}/errand/photo/" in record, "what was photographed of it is there still"


def test_it_is_one_step_of_the_house_and_can_be_undone(both):
    errand, house, client = both
    before = head(house)
    into(client, errand, house)
    assert client.post(f"/jobs/{house.pk}/survey/undo").status_code in (200, 204, 302)
    assert head(house).items == before.items
    # What was read there has lost its subject, and is kept.
    assert house.records.count() == 1


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"into": ""}, "left empty"),
        ({"into": "x:R1"}, "not yours"),
        ({"into": "9999:R1"}, "not yours"),
        ({"into": "{house}:R77"}, "no such room"),
        ({"into": "{house}:R1", "wall": "40"}, "no such room or wall"),
        ({"into": "{house}:R1", "wall": "½"}, "no such room or wall"),
    ],
)
def test_what_cannot_be_is_refused_in_words_and_changes_nothing(both, form, said):
    errand, house, client = both
    form = {k: v.replace("{house}", str(house.pk)) for k, v in form.items()}
    response = client.post(f"/jobs/{errand.pk}/errand/adopt", form)
    assert response.status_code == 422
    assert said in words(response.content.decode())
    assert house.records.count() == 0


def test_another_persons_house_or_one_only_read_is_not_offered(both, as_, people):
    errand, house, client = both
    Member.objects.filter(job=house, user=people["owner"]).update(role=Member.Role.READER)
    assert "Boot room" not in words(client.get(f"/jobs/{errand.pk}/errand/adopt").content.decode())
    into(client, errand, house, status=422)


def test_a_house_of_another_practice_is_not_offered(started, job):
    errand, client = started("gb", "light", usual="A dark wire on each screw")
    assert "There is no house of this practice" in words(
        client.get(f"/jobs/{errand.pk}/errand/adopt").content.decode()
    )
    assert "another practice" in words(into(client, errand, job, status=422).content.decode())


@pytest.mark.parametrize("kind", list(KINDS))
def test_an_errand_begins_from_an_old_box_of_a_house(both, kind):
    errand, house, client = both
    into(client, errand, house)
    box = next(iter(head(house).of(OldBox)))
    response = client.post(f"/jobs/{house.pk}/errand/begin", {"box": box, "wants": kind})
    assert response.status_code == 302
    begun = Job.objects.latest("pk")
    assert head(begun).house.errand.wants == kind
    assert "1: the feed settled" in words(client.get(response.url).content.decode())
    assert client.post(f"/jobs/{house.pk}/errand/begin", {"box": "E9", "wants": kind}).status_code == 404
    assert client.post(f"/jobs/{house.pk}/errand/begin", {"box": box, "wants": "a palace"}).status_code == 404


@pytest.mark.parametrize("role", ROLES)
def test_who_may_take_it_in_and_begin(both, as_, role):
    errand, house, _ = both
    client = as_(role)
    seen = client.get(f"/jobs/{errand.pk}/errand/adopt").status_code
    assert seen == (404 if role == "stranger" else 302 if role is None else 200)
    client.post(f"/jobs/{errand.pk}/errand/adopt", {"into": f"{house.pk}:R1"})
    assert (Record.objects.filter(job=house).count() == 1) == (role in ("owner", "editor"))


def test_what_was_measured_goes_along_and_the_rest_is_to_be_measured(boot_room):
    spot = Spot("wall", along=parse_length("2'"), height=parse_length('15"'))
    errand, _ = begun_from(
        Drawing(
            {
                **boot_room.items,
                Handle("E1"): OldBox(Handle("R1"), x=parse_length("1'"), y=parse_length("1'")),
            }
        ),
        Handle("E1"),
        "outlet",
        "x",
    )
    errand = Drawing({**errand.items, HOUSE: replace(errand.house, errand=Errand("outlet", spot=spot))})
    things, moved = adopted(errand, boot_room, Handle("R1"), 1, Mint(boot_room.items))
    require_valid(Drawing({**boot_room.items, **things}))
    point = next(i for i in things.values() if isinstance(i, Point))
    assert (point.at, point.height) == (spot.along, spot.height)
    assert things[moved[Handle("E1")]].x.unknown
    light = Drawing({**errand.items, HOUSE: replace(errand.house, errand=Errand("light"))})
    things, _ = adopted(light, boot_room, Handle("R1"), 0, Mint(boot_room.items))
    assert next(i for i in things.values() if isinstance(i, Point)).x.unknown
