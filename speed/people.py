"""``python -m speed.people``: twenty people on the demo's jobs for a minute, each with a second's thought.

Each has a session of their own, opens pages, moves a lamp now and then and polls for news.
Prints the percentiles by kind of request, and fails on any error.
"""

from __future__ import annotations

import http.cookiejar
import random
import re
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections import defaultdict

from speed.serving import demo_served

PEOPLE, SECONDS, THOUGHT = 20, 60, 1.0
PAGES = ("survey", "layout", "circuits", "runs", "boxes", "proof", "site", "record")


class Person(threading.Thread):
    """One person with a browser of their own, on a copy of a demo job."""

    def __init__(self, address: str, n: int, until: float) -> None:
        super().__init__(daemon=True)
        self.address, self.until, self.die = address, until, random.Random(n)
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
        )
        self.took: dict[str, list[float]] = defaultdict(list)
        self.errors: list[str] = []
        self.refused = 0
        self.token = ""

    def ask(self, kind: str, path: str, form: dict[str, str] | None = None, **headers: str) -> str:
        request = urllib.request.Request(
            f"{self.address}{path}", headers={k.replace("_", "-"): v for k, v in headers.items()}
        )
        if form is not None:
            request.data = urllib.parse.urlencode({**form, "csrfmiddlewaretoken": self.token}).encode()
            request.add_header("Referer", self.address)
        begun = time.monotonic()
        try:
            text = self.opener.open(request, timeout=60).read().decode()
        except urllib.error.HTTPError as error:
            if error.code in (409, 422):
                self.refused += 1
                kind = "refused"
            elif error.code != 304:
                self.errors.append(f"{path}: {error.code}")
            return ""
        except OSError as error:
            self.errors.append(f"{path}: {error}")
            return ""
        finally:
            self.took[kind].append(time.monotonic() - begun)
        if found := re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', text):
            self.token = found[1]
        return text

    def run(self) -> None:
        self.ask("page", "/sign-in")
        self.ask("page", "/demo", {})
        # The houses: an errand has none of these pages.
        job = self.die.choice(houses(self.ask("list", "/")))
        seq = ""
        while time.monotonic() < self.until:
            roll = self.die.random()
            if roll < 0.45:
                text = self.ask("page", f"/jobs/{job}/{self.die.choice(PAGES)}/")
                if found := re.search(r'data-seq="(\d+)"', text):
                    seq = found[1]
            elif roll < 0.6:
                form = {
                    "handle": f"A{self.die.randint(1, 3)}",
                    "way": self.die.choice(("left", "right", "up", "down")),
                }
                here = f"{self.address}/jobs/{job}/layout/"
                self.ask("edit", f"/jobs/{job}/layout/do/nudge", form, HX_Request="true", HX_Current_URL=here)
            elif roll < 0.68:
                self.ask("list", "/")
            else:
                self.ask("poll", f"/jobs/{job}/head", None, If_None_Match=f'"{seq}"')
            time.sleep(self.die.uniform(0.5, 1.5) * THOUGHT)


def houses(listed: str) -> list[str]:
    """The houses of the list of jobs, by number: what opens on one of their pages."""
    return sorted({*re.findall(rf'href="/jobs/(\d+)/(?:{"|".join(PAGES)})/', listed)})


def main() -> int:
    """Serve the demo, let the people at it, print the table; 1 if anything failed."""
    with demo_served() as address:
        until = time.monotonic() + SECONDS
        people = [Person(address, n, until) for n in range(PEOPLE)]
        for person in people:
            person.start()
        for person in people:
            person.join(SECONDS + 90)
    errors = [e for p in people for e in p.errors]
    kinds = ("page", "edit", "list", "poll")
    refused, edits = sum(p.refused for p in people), sum(len(p.took["edit"]) for p in people)
    for kind in (*kinds, "all"):
        took = sorted(t for p in people for k in (kinds if kind == "all" else (kind,)) for t in p.took[k])
        if took:
            p50, p95 = took[len(took) // 2], took[int(0.95 * (len(took) - 1))]
            print(
                f"{kind:5} {len(took):5} requests   median {p50:6.3f} s   p95 {p95:6.3f} s   longest"
                f" {took[-1]:6.3f} s"
            )
    print(f"{refused} edits refused, {edits} done")
    if refused > edits:
        errors.append("more edits were refused than done: what is timed are refusals")
    print(f"{len(errors)} errors", *sorted(set(errors))[:8], sep="\n  ")
    return int(bool(errors))


if __name__ == "__main__":
    sys.exit(main())
