"""People, jobs and clients for the web tests."""

import pytest
from django.contrib.auth import get_user_model

from fjeld.web.jobs import store
from fjeld.web.jobs.models import Member


@pytest.fixture
def people(db):
    """An owner, an editor, a site hand, a reader and a stranger."""
    make = get_user_model().objects.create_user
    return {
        name: make(name, password="a long password")
        for name in ("owner", "editor", "site", "reader", "stranger")
    }


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
