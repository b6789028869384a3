"""People, jobs and clients for the web tests."""

from functools import cache

import pytest
from django.contrib.auth import get_user_model
from django.contrib.auth.hashers import make_password

from fjeld.oldbox.arrangements import arrangements
from fjeld.web.http import store
from fjeld.web.jobs.models import Job, Member
from tests.web.errands import SWITCH, act


@pytest.fixture
def quick_digests(settings):
    """A good digest takes its time, and many refused sign-ins are not about it."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture
def people(db):
    """An owner, an editor, a site hand, a reader and a stranger."""
    users = get_user_model().objects
    names = ("owner", "editor", "site", "reader", "stranger")
    return {name: users.create(username=name, password=hashed()) for name in names}


@cache
def hashed():
    """One password's digest for everyone."""
    return make_password("a long password")


@pytest.fixture
def job(people, boot_room):
    """The boot room, with everyone in their role."""
    found = store.create("Boot room", boot_room, people["owner"])
    for role in ("editor", "site", "reader"):
        Member.objects.create(job=found, user=people[role], role=role)
    return found


@pytest.fixture
def as_(client, people):
    """A client signed in as one of the people, or as nobody."""

    def sign_in(name):
        client.logout()
        if name:
            client.force_login(people[name])
        return client

    return sign_in


@pytest.fixture
def started(as_, people):
    """An errand begun as a switch's box of two cables, with everyone in their role."""

    def start(practice="na", wants="light", usual=SWITCH):
        client = as_("owner")
        assert client.post("/errand", {"wants": wants, "practice": practice}).status_code == 302
        job = Job.objects.latest("pk")
        for role in ("editor", "site", "reader"):
            Member.objects.create(job=job, user=people[role], role=role)
        if usual:
            n = next(n for n, a in enumerate(arrangements(practice)) if a.words.startswith(usual))
            act(client, job, "place", place=arrangements(practice)[n].box.place)
            act(client, job, "begin", usual=n)
        return job, client

    return start
