"""What tests of errands send and read."""

import re
from html import unescape

from fjeld.oldbox.arrangements import arrangements
from fjeld.web.errand.logbook import pairs_of
from fjeld.work.book import nodes_of

#: The box that most errands of the tests begin with.
SWITCH = "A dark wire on each screw"
#: The pairs of that box's dead test, and a form in which all of them are dead.
PAIRS = pairs_of(nodes_of(next(a.box for a in arrangements("na") if a.words.startswith(SWITCH))))
DEAD = {"before": "on", "after": "on", **{f"pair:{pair}": "0.2" for pair in PAIRS}}
R4 = {"stands:S": "open", "volts:1.BK": "120.1", "volts:2.BK": "0.3"}
ALLOWED = {"owner": 302, "editor": 302, "site": 403, "reader": 403, "stranger": 404, None: 302}


def act(client, job, action, status=302, **form):
    response = client.post(f"/jobs/{job.pk}/errand/do/{action}", {"box": "E1", **form})
    assert response.status_code == status, response.content[:2000]
    job.refresh_from_db()
    return response


def read(client, job, reading, status=302, **form):
    named = {k.replace("__", ":"): v for k, v in form.items()}
    response = client.post(
        f"/jobs/{job.pk}/errand/record", {"box": "E1", "reading": reading, "proven": "on", **named}
    )
    assert response.status_code == status, response.content[:2000]
    return response


def page(client, job, **query):
    response = client.get(f"/jobs/{job.pk}/errand", query)
    assert response.status_code == 200
    return response.content.decode()


def folded(response):
    """What was answered, its white space folded as a browser does."""
    return re.sub(r"\s+", " ", response.content.decode())


def words(html):
    """What is read on a page: without its marks, figures in one piece."""
    plain = re.sub(r"</?span[^>]*>", "", html)
    return re.sub(r"\s+", " ", unescape(re.sub(r"<[^>]+>", " ", plain)))


def tick(client, job, task, event="done", status=302, **form):
    if task == "photo":
        form.setdefault("note", "no camera at hand")
    form = {"figure:through": "0.3", "figure:insulation": ">500", **form}
    response = client.post(f"/jobs/{job.pk}/errand/step", {"step": task, "event": event, **form})
    assert response.status_code == status, (task, words(response.content.decode())[:600])
    return response
