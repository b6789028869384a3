"""An ordinary-use walk in both practices, on a new house and on the demo jobs: no step breaks a page or loses
a thing.

``FJELD_WALK=5000`` walks further.
"""

import os

import pytest

from fjeld.demo import job_file
from fjeld.formats import jobfile
from fjeld.web.http import store
from fjeld.web.jobs.models import Job
from tests.walker import Walker

#: Steps in all, shared out: most on what is small, where a step costs least.
STEPS = int(os.environ.get("FJELD_WALK", "28"))
#: In a long walk everything is looked at after every fourth step; in the suite after each.
LOOKED_AT = 4 if STEPS > 1000 else 1
STARTS = (("na", 0.35), ("gb", 0.35), ("boot-room", 0.2), ("chandlers-loft", 0.05), ("tarn-house", 0.05))


@pytest.mark.parametrize(("start", "share"), STARTS)
def test_nothing_breaks_in_ordinary_use(as_, people, start, share):
    client = as_("owner")
    steps, seed = max(2, round(STEPS * share)), int(os.environ.get("FJELD_WALK_SEED", "7"))
    taken = 0
    while steps > 0:
        walker = Walker(client, begun(client, people, start), seed)
        for n in range(min(steps, 60)):
            walker.step()
            if n % LOOKED_AT == 0:
                walker.look()
        walker.look()
        taken += walker.taken
        steps -= 60
        seed += 1
    assert taken > 0


def begun(client, people, start):
    if start in ("na", "gb"):
        client.post("/jobs/new", {"name": "Walked", "practice": start})
        job = Job.objects.latest("pk")
        here = f"http://testserver/jobs/{job.pk}/survey/"
        for action, form in (
            ("start", {"name": "Hall", "use": "hall"}),
            ("say", {"words": "rect 3.6 m by 4.2 m"}),
            ("say", {"words": "door 800 mm at 600 mm on 2"}),
            ("say", {"words": "panel at 500 mm on 1"}),
        ):
            client.post(
                f"/jobs/{job.pk}/survey/do/{action}",
                form,
                headers={"HX-Request": "true", "HX-Current-URL": here},
            )
        return job
    return store.create(start, jobfile.decode(job_file(start)), people["owner"])
