"""A person who uses whatever is on the page: sane words, figures, choices and buttons, at random, with undo
and restarts.

The forms are read from the pages themselves, so that a form added tomorrow is walked tomorrow.
After each step everything must open, and what is stored must read back as what is in memory.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from html.parser import HTMLParser
from typing import Any

from fjeld.formats import document
from fjeld.web.http import view as views
from fjeld.web.jobs.models import Job, forget_drawings

PAGES = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")
FILES = ("job.json", "materials.csv", "cables.csv", "floor.dxf", "network.cir", "history.json")
#: Statuses that an answer to a person may have.
FINE = (200, 204, 302, 409, 422)
#: What a person never does by accident.
LEFT_ALONE = (
    "delete",
    "archive",
    "sign-out",
    "people",
    "/import",
    "/copy",
    "underlay",
    "photometry",
    "theme",
    "searches",
)

LENGTHS = {
    "ft-in": (
        "3'",
        "12'4",
        "8' 2 1/2\"",
        "30",
        "4'6",
        "16",
        "7 1/2",
        "2'",
        "10'",
        '24"',
        "1/2",
        "? 8'",
        "?",
        "3.2 m",
        "14'",
    ),
    "mm": (
        "900 mm",
        "3.2 m",
        "450",
        "2.4 m",
        "1200",
        "600 mm",
        "75 cm",
        "12.5",
        "?",
        "? 2 m",
        "4'6",
        "2100",
        "3000",
    ),
}
USES = ("hall", "bed", "kitchen", "bath", "garage", "outdoors", "stairs", "laundry")
NAMES = ("Hall", "Kitchen", "North room", "Å bath", "Stair light", "Lights up", "15 A lights", "E", "Wall")
COUNTS = ("1", "2", "3", "4", "12", "15", "20", "60", "100", "800", "0", "9.5", "2.5")
REASONS = ("the inspector asks it", "local habit")


class Forms(HTMLParser):
    """The forms of a page: address, and fields as (name, kind, value, choices)."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.found: list[dict[str, Any]] = []
        self.links: list[str] = []
        self._form: dict[str, Any] | None = None
        self._select: dict[str, Any] | None = None
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        if tag == "form" and given.get("method") == "post":
            self._form = {"action": given.get("action") or "", "fields": []}
            self.found.append(self._form)
        if tag == "a" and "data-live" in given and (given.get("href") or "").startswith("?"):
            self.links.append(given["href"] or "")
        if self._form is None:
            return
        name = given.get("name")
        if tag in ("input", "button") and name:
            kind = "button" if tag == "button" else given.get("type") or "text"
            self._form["fields"].append({"name": name, "kind": kind, "value": given.get("value") or ""})
        elif tag == "select" and name:
            self._select = {"name": name, "kind": "select", "choices": []}
            self._form["fields"].append(self._select)
        elif tag == "option" and self._select is not None:
            self._select["choices"].append(given.get("value", ""))

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._form = None
        elif tag == "select":
            self._select = None


def filled(
    fields: list[dict[str, Any]],
    die: random.Random,
    typed: Callable[[str, str], str],
    *,
    ticks: float,
    photograph: Callable[[], Any] | None = None,
    rather: str = "",
) -> dict[str, Any]:
    """A form as somebody fills it: what is hidden as it is, choices at random, a box ticked with the chance
    ``ticks``, what ``typed`` gives for a name and what stands there, a photograph where one is given, and one
    of its buttons, four times of five the one whose value is ``rather``.
    """
    sent: dict[str, Any] = {}
    for field in fields:
        kind, name = field["kind"], field["name"]
        if name == "csrfmiddlewaretoken" or kind == "button":
            continue
        if kind == "hidden":
            sent[name] = field["value"]
        elif kind == "select":
            sent[name] = die.choice(field["choices"] or [""])
        elif kind == "checkbox":
            if die.random() < ticks:
                sent.setdefault(name, []).append(field["value"] or "on")
        elif kind == "radio":
            if name not in sent or die.random() < 0.5:
                sent[name] = field["value"]
        elif kind == "file":
            if photograph is not None:
                sent[name] = photograph()
        else:
            sent[name] = typed(name, field["value"])
    if buttons := [f for f in fields if f["kind"] == "button" and f["name"]]:
        first = [b for b in buttons if b["value"] == rather]
        pressed = first[0] if first and die.random() < 0.8 else die.choice(buttons)
        sent[pressed["name"]] = pressed["value"]
    return sent


class Walker:
    """Walks one job with a client that is signed in; raises ``AssertionError`` with the way walked."""

    def __init__(self, client: Any, job: Job, seed: int) -> None:
        self.client, self.job, self.die = client, job, random.Random(seed)
        self.seed, self.way = seed, list[str]()
        self.taken = 0

    def step(self) -> None:
        """One thing done."""
        roll = self.die.random()
        before = self._head()
        if roll < 0.34:
            self._say()
        elif roll < 0.84:
            self._use_a_form()
        elif roll < 0.94:
            self._post(
                f"/jobs/{self.job.pk}/{self.die.choice(PAGES)}/{self.die.choice(('undo', 'undo', 'redo'))}",
                {},
            )
        else:
            self.restart()
        self.taken += self._head() != before

    def restart(self) -> None:
        """Forget everything that is in memory, as a new process has."""
        self.way.append("restart")
        forget_drawings()
        views._plans.clear()
        views.MEMO.clear()

    def look(self) -> None:
        """Everything opens, and what is stored reads back equal."""
        job = Job.objects.select_related("head__document").get(pk=self.job.pk)
        drawing = job.head.document.drawing
        assert document.decode(job.head.document.data) == drawing, self._told("stored")
        handle = self.die.choice(list(drawing.items))
        for page in PAGES:
            self._get(f"/jobs/{self.job.pk}/{page}/?sel={handle}")
        for name in FILES:
            status = self._get(
                f"/jobs/{self.job.pk}/export/{name}", (200, 404) if name == "network.cir" else (200,)
            )
            assert status in (200, 404)
        self._get(f"/jobs/{self.job.pk}/sheets/mark-out")
        self._get(f"/jobs/{self.job.pk}/sheets/mark-out.pdf")
        self._get("/")

    def _head(self) -> int:
        return Job.objects.values_list("head__seq", flat=True).get(pk=self.job.pk)

    def _told(self, what: str) -> str:
        return f"seed {self.seed}: {what} after\n" + "\n".join(self.way[-25:])

    def _get(self, address: str, fine: tuple[int, ...] = (200,)) -> int:
        response = self.client.get(address)
        assert response.status_code in fine, self._told(f"{address} answered {response.status_code}")
        return int(response.status_code)

    def _post(self, address: str, form: dict[str, Any], at: str = "") -> None:
        self.way.append(f"{address} {form}")
        here = f"http://testserver{at or f'/jobs/{self.job.pk}/survey/'}"
        response = self.client.post(address, form, headers={"HX-Request": "true", "HX-Current-URL": here})
        assert response.status_code in FINE, self._told(f"answered {response.status_code}")
        assert b"could not work out" not in response.content, self._told("a fault of the program")

    def _drawing(self) -> Any:
        return Job.objects.select_related("head__document").get(pk=self.job.pk).head.document.drawing

    def _length(self) -> str:
        return self.die.choice(LENGTHS[self._drawing().house.unit])

    def _say(self) -> None:
        """A line of the tape."""
        drawing, die, length = self._drawing(), self.die, self._length
        rooms = [h for h in drawing.items if h.startswith("R")]
        at = f"?at={die.choice(rooms)}" if rooms else ""
        wall = die.randint(1, 4)
        doors = [h for h in drawing.items if h.startswith("D")] or ["D1"]
        storeys = [h for h in drawing.items if h.startswith("L")] or ["L1"]
        body = die.choice(
            (
                "counter",
                "bath",
                "sink",
                "bed",
                "table",
                "duct",
                "pipe",
                "shower",
                "cooker",
                "fireplace",
                "beam",
            )
        )
        words = die.choice(
            (
                lambda: length(),
                lambda: f"{die.choice('NESW')} {length()}",
                lambda: f"rect {length()} by {length()}",
                lambda: f"door {length()} at {length()} on {wall}",
                lambda: f"window {length()} at {length()} on {wall} sill {length()}",
                lambda: f"{die.choice(('cased', 'sliding'))} {length()} at {length()} on {wall}",
                lambda: f"through {die.choice(doors)} on {wall} at {length()}",
                lambda: f"room {die.choice(NAMES)} as {die.choice(USES)}",
                lambda: f"room {die.choice(NAMES)} storey {die.choice(storeys)}",
                lambda: f"storey {die.choice(NAMES)} at {length()}",
                lambda: f"{body} {length()} by {length()} at {length()} on {wall}",
                lambda: (
                    f"{body} {length()} by {length()} east {length()} south {length()} low {length()} high"
                    f" {length()}"
                ),
                lambda: f"panel at {length()} on {wall}",
                lambda: f"way {die.randint(1, 14)} {die.choice((15, 20, 30))} Heater",
                lambda: f"old outlet at {length()} on {wall} height {length()}",
                lambda: f"diagonal 1 3 {length()}",
                lambda: f"height {length()}",
                lambda: f"floor {length()}",
                lambda: f"ceiling {length()}",
                lambda: f"slope {wall} low {length()}",
                lambda: (
                    f"joists {die.choice(('ns', 'ew'))} {length()} first {length()} kind"
                    f" {die.choice(('sawn', 'truss', 'engineered'))}"
                ),
                lambda: f"studs {length()} on {wall}",
                lambda: (
                    f"wall {wall} {die.choice(('brick', 'closed', 'exterior', 'plaster', 'bearing', 'open'))}"
                ),
                lambda: f"above {die.choice(('open', 'closed', 'storey'))}",
                lambda: f"from {die.choice(('framing', 'finish'))}",
                lambda: f"{die.randint(0, 359)} {length()}",
                lambda: "fan at 3'",
            )
        )()
        self._post(f"/jobs/{self.job.pk}/survey/do/say", {"words": words}, f"/jobs/{self.job.pk}/survey/{at}")

    def _use_a_form(self) -> None:
        """Any form of any page, filled in as one might."""
        die, drawing = self.die, self._drawing()
        query = die.choice(
            ("", f"?sel={die.choice(list(drawing.items))}", f"?sel={die.choice(list(drawing.items))}")
        )
        at = f"/jobs/{self.job.pk}/{die.choice(PAGES)}/{query}"
        response = self.client.get(at)
        assert response.status_code == 200, self._told(f"{at} answered {response.status_code}")
        forms = [
            f
            for f in Forms(response.content.decode()).found
            if not any(word in f["action"] for word in LEFT_ALONE)
            and "undo" not in f["action"]
            and "redo" not in f["action"]
        ]
        # What takes away is used less than what adds, or there would soon be nothing left.
        forms = [
            f
            for f in forms
            if die.random() < (0.15 if f["action"].endswith(("remove", "lift", "return")) else 1.0)
        ]
        if not forms:
            return
        form = die.choice(forms)
        self._post(form["action"], filled(form["fields"], die, self._typed, ticks=0.3), at)

    def _typed(self, name: str, standing: str) -> str:
        roll = self.die.random()
        if name in ("name", "reason", "feeds", "guess", "leads"):
            return self.die.choice(NAMES if name == "name" else (*REASONS, "black on brass, white on silver"))
        if name in ("breaker", "across", "down", "va", "gangs"):
            return self.die.choice(COUNTS)
        if roll < 0.25 and standing:
            return standing
        return self._length() if roll < 0.75 else self.die.choice(COUNTS)
