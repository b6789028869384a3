"""A hand on an errand's pages: it uses the forms that they offer and no other, and does what a shut step
names as its reason.
"""

from __future__ import annotations

from fjeld.drawing.errand import CHANGED, NEW, REPLACED
from tests.walker import Forms
from tests.web.errands import words

#: What is answered where a gate or a look is still open, by practice (na, gb).
ANSWERS = {
    "ground": ("present", "present"),
    "condition": ("sound", "sound"),
    "serves": ("general", "lighting"),
    "amps": ("15", "6"),
    "gauge": ("14", "1.5"),
    "volume": ("40", ""),
    "depth": ("", "47"),
    "clamps": ("no", ""),
    "opening": ("yes", "yes"),
    "alone": ("yes", "yes"),
    "accessible": ("yes", "yes"),
    "beside": ("100", "100"),
    "ahead": ("both", "ground-fault"),
    "use": ("living", "living"),
    "takes": ("12", "12"),
    "hours": ("no", "no"),
}
#: What may be answered to a question of the spot or the way, by its name.
TOLD = {
    "surface": ("wall", "wall"),
    "covering": ("wallboard", "wallboard"),
    "outside": ("light", "light"),
    "lies": ("same wall", "same wall"),
    "studs": ("2", "2"),
    "joists": ("3", "3"),
    "across": ("9'", "2700 mm"),
    "source": ('46"', "1170 mm"),
    "ceiling": ("8'", "2440 mm"),
    "left": ('16 3/4"', "425 mm"),
    "right": ('31 1/4"', "794 mm"),
    "along": ('24"', "610 mm"),
    "height": ('46"', "1170 mm"),
    "thick": ('1/2"', "12.5 mm"),
    "cavity": ('3 1/2"', "89 mm"),
    "opposite": ("0", "0"),
    "needs": ("0", "0"),
    "lowest": ('6"', "150 mm"),
    "roof": ("0", "0"),
    "above": ("8'", "2440 mm"),
    "insulated": ("no", "no"),
    "base": ("no", "no"),
    "box": ("cut-in-1", "dry-lining-1"),
}


class Hand:
    """Someone with an errand in hand. ``metric`` where it is a British one."""

    def __init__(self, client, job):
        self.client, self.job = client, job
        self.metric = job.head.document.drawing.house.practice == "gb"
        self.at = f"/jobs/{job.pk}/errand"

    def page(self, name="", **query):
        response = self.client.get(f"{self.at}{'/' if name else ''}{name}", query)
        assert response.status_code == 200, (name, response.status_code)
        return response.content.decode()

    def read(self, name="", **query):
        return words(self.page(name, **query))

    def use(self, name, action, status=302, query=None, offered=None, **values):
        """Fills in a form of a page that has every field named, what is hidden as it stands, and sends it.

        ``offered`` are the forms of that page, where it is open already."""
        offered = forms(self.page(name, **(query or {}))) if offered is None else offered
        form = next((f for f in offered if f["action"].endswith(action) and self._offers(f, values)), None)
        assert form is not None, f"no form of {name or 'the source'} sends {values} to {action}"
        sent = {f["name"]: f["value"] for f in form["fields"] if f["kind"] == "hidden"} | values
        response = self.client.post(form["action"], {k: v for k, v in sent.items() if v is not None})
        assert response.status_code == status, (values, words(response.content.decode())[:900])
        self.job.refresh_from_db()
        return response

    @staticmethod
    def _offers(form, values):
        """Whether a form can send these: each field is in it, with that value where it is one of its buttons
        or hidden.
        """
        for name, value in values.items():
            mine = [f for f in form["fields"] if f["name"] == name]
            fixed = [f["value"] for f in mine if f["kind"] in ("hidden", "button")]
            free = [f for f in mine if f["kind"] not in ("hidden", "button")]
            if not mine or (not free and value not in fixed):
                return False
        return True

    def answer(self, field, value=None):
        """One thing looked at, on the page that asks it."""
        value = ANSWERS[field][self.metric] if value is None else value
        if field in ("takes", "hours", "fits"):
            self.use("", "/meant", field=field, value=value)
        else:
            self.use("", "/do/look", field=field, value=value)

    def box(self, field, value):
        self.use("box", "/do/look", field=field, value=value)

    def gates(self):
        """Every gate answered so that nothing stands against it, readings among them."""
        skip = {"volume", "clamps"} if self.metric else {"depth"}
        html = self.page()
        asked = {f["value"] for form in Forms(html).found for f in form["fields"] if f["name"] == "field"}
        for field in ANSWERS:
            if field in asked and field not in skip:
                self.answer(field)
        if "use" not in asked and 'value="use"' in self.page():
            self.answer("use")
        if "ahead" in asked:
            self.answer("ahead")
        self.readings()

    def readings(self):
        """What is live, and the neutral, of a switch's box of two cables."""
        first, second = ("1.BN", "2.BN") if self.metric else ("1.BK", "2.BK")
        white = "1.BU" if self.metric else "1.WH"
        full = "231.0" if self.metric else "120.1"
        html = self.page(take="R4")
        if f'name="volts:{first}"' not in html or 'name="stands:S"' not in html:
            return
        self.reading("R4", **{"stands:S": "open", f"volts:{first}": full, f"volts:{second}": "0.3"})
        pair = f"between:{first}-{white}"
        if f'name="{pair}"' in self.page(take="R5"):
            self.reading("R5", **{pair: full, f"{pair}:loaded": full, "lamps_out": "on", "lamp": "bright"})

    def reading(self, name, status=302, **figures):
        told = {"proven": "on", **figures}
        if 'name="locked"' in self.page(take=name):
            told |= {"locked": "on", "by": "the one at the panel"}
        return self.use("", "/record", status=status, query={"take": name}, **told)

    def ready(self, kind):
        """All that the kind asks, told on its pages so that nothing stands against it."""
        self.gates()
        if kind == "outlet" and self.metric:
            # A lighting circuit feeds no socket; a switch it does.
            self.answer("fits", "switch")
        if kind in NEW or kind in CHANGED:
            self.spot()
        if kind in NEW:
            self.path()
        if kind in REPLACED:
            self.use("box", "/meant", becomes="same")
        if kind == "heavy":
            self.use("box", "/meant", weighs="9")
        if kind == "larger box":
            self.box(*(("depth", "25") if self.metric else ("volume", "12.5")))
            self.use("box", "/meant", field="devices", value="1")
        if kind == "move":
            self.use("box", "/meant", field="farther", value="0")
            self.box("free", '9"' if not self.metric else "230 mm")
            self.box("past", '4"' if not self.metric else "100 mm")
        if kind == "short wires":
            self.box("free", '4"' if not self.metric else "100 mm")
        if kind in CHANGED:
            assert "Boxes that take it all" in self.read("box"), kind
            form = next(f for f in forms(self.page("box")) if f["action"].endswith("/spot/told"))
            box = next(f["value"] for f in form["fields"] if f["name"] == "value")
            self.use("box", "/spot/told", value=box)
        self.job.refresh_from_db()

    def spot(self, **other):
        """Every question of the spot answered, what was looked for not there."""
        self._answered("spot", "/spot/told", other)

    def path(self, **other):
        """Every question of the way answered, and the first way that stands taken."""
        self._answered("path", "/path/told", other)
        self.take_way()
        self._answered("path", "/path/told", other)

    def take_way(self):
        html = self.page("path")
        ways = [f for form in Forms(html).found for f in form["fields"] if f["name"] == "way"]
        if ways:
            self.use("path", "/path/told", way=ways[0]["value"])

    def _answered(self, page, action, other):
        for _ in range(60):
            form = next(
                (
                    f
                    for f in Forms(self.page(page)).found
                    if f["action"].endswith(action)
                    and any(x["name"] == "ask" for x in f["fields"])
                    and any(x["value"] == "later" for x in f["fields"])
                ),
                None,
            )
            if form is None:
                return
            ask = next(f["value"] for f in form["fields"] if f["name"] == "ask")
            options = [f["value"] for f in form["fields"] if f["name"] == "value" and f["kind"] == "button"]
            value = other.get(ask) or (TOLD[ask][self.metric] if ask in TOLD else None)
            if value is None or (options and value not in options and "?" in options and len(options) > 2):
                value = "clear" if "clear" in options else "later"
            if value not in options and not any(f["kind"] == "text" for f in form["fields"]):
                value = "later"
            more = (
                {"by": "probe"} if any(f["name"] == "by" for f in form["fields"]) and value != "later" else {}
            )
            self.use(page, action, query={"ask": ask}, ask=ask, value=value, **more)

    def tick(self, task, status=302, **told):
        """A step done, with what it asks for."""
        offered = forms(self.page("steps", step=task))
        told = {**self.asked(task, offered), **told}
        return self.use("steps", "/step", status, offered=offered, step=task, event="done", **told)

    def asked(self, task, offered=None):
        """What the form of a step asks for, dead and in order."""
        offered = forms(self.page("steps", step=task)) if offered is None else offered
        form = next(
            (
                f
                for f in offered
                if f["action"].endswith("/step") and any(x["value"] == task for x in f["fields"])
            ),
            None,
        )
        told = {}
        for field in form["fields"] if form else ():
            name = field["name"]
            if name.startswith("pair:") and not name.endswith(":loaded"):
                told[name] = "0.2"
            elif name in ("before", "after"):
                told[name] = "on"
            elif name.startswith("figure:"):
                told[name] = {"figure:through": "0.3", "figure:insulation": ">500"}.get(name, "1")
            elif name == "note":
                told[name] = "as it was found"
        return told

    def try_it(self, task):
        """Sends a step as done though no page offers it; how it is answered."""
        told = self.asked(task)
        return self.client.post(f"{self.at}/step", {"step": task, "event": "done", **told})


def forms(html):
    """The forms of a page."""
    return Forms(html).found
