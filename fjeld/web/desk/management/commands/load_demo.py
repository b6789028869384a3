"""Load the demo: its person and its jobs, once."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from fjeld.demo import job_file
from fjeld.formats import jobfile
from fjeld.web.accounts.views import DEMO_USER
from fjeld.web.errand import demo as errand
from fjeld.web.http import store
from fjeld.web.jobs.models import Member

JOBS = ("boot-room", "chandlers-loft", "tarn-house")


class Command(BaseCommand):
    help = "Load the demo person and jobs, unless they are there."

    def handle(self, *args: Any, **options: Any) -> None:
        user, made = get_user_model().objects.get_or_create(username=DEMO_USER)
        if made:
            user.set_unusable_password()
            user.save()
        if not Member.objects.filter(user=user).exists():
            for name in JOBS:
                drawing = jobfile.decode(job_file(name))
                store.create(drawing.house.name, drawing, user, "Survey and layout of the hut")
            errand.load(user)
