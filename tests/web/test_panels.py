"""What a template is written from is typed: every name it uses is a field of what it is given, and every
field is used.
"""

import re
import typing
from pathlib import Path

import pytest
from django.template.base import Lexer, TokenType
from django.urls import reverse
from django.utils.text import smart_split

import fjeld.web
from fjeld.web import frame
from fjeld.web.accounts.views import Account, SignUp
from fjeld.web.desk.people import People
from fjeld.web.desk.views import Jobs
from fjeld.web.errand.declared import ERRAND_STEPS
from fjeld.web.errand.step import ErrandFrame
from fjeld.web.errand.stones import STEPS
from fjeld.web.http.refusals import RefusedPage
from fjeld.web.ui.panel import Shown, context
from fjeld.web.ui.paper import SheetPage
from fjeld.web.waypoints import WAYPOINTS

TEMPLATES = Path(fjeld.web.__file__).parent / "templates"
#: What every template has from the request, and what Django itself puts in.
FROM_REQUEST = {
    "request",
    "user",
    "csrf_token",
    "demo_mode",
    "theme",
    "perms",
    "messages",
    "forloop",
    "block",
}
WORDS = {
    "and",
    "or",
    "not",
    "in",
    "is",
    "as",
    "with",
    "only",
    "True",
    "False",
    "None",
    "by",
    "from",
    "reversed",
}
#: Tags whose bits are names of addresses, files or words.
QUIET = {
    "load",
    "else",
    "endif",
    "endfor",
    "endwith",
    "empty",
    "extends",
    "block",
    "endblock",
    "comment",
    "endcomment",
}


def names_in(bit):
    """The variable that a bit of a tag asks for, and those in its filters' arguments."""
    bit = re.sub(r"\"[^\"]*\"|'[^']*'", "", bit)
    for part in re.split(r"[|:]", bit)[:1] + re.findall(r":([A-Za-z_][\w.]*)", bit):
        found = re.fullmatch(r"([A-Za-z_]\w*)(?:\.\w+)*", part)
        if found and found[1] not in WORDS:
            yield found[1]


def read(template):
    """(names used, names it makes itself, templates it includes with the names that they are given)."""
    used, own, included = set(), set(), []
    for token in Lexer((TEMPLATES / template).read_text()).tokenize():
        if token.token_type == TokenType.VAR:
            used |= set(names_in(token.contents))
        if token.token_type != TokenType.BLOCK:
            continue
        tag, *bits = smart_split(token.contents)
        if tag in QUIET:
            continue
        if tag == "for":
            at = bits.index("in")
            own |= {name.strip(",") for bit in bits[:at] for name in bit.split(",")}
            bits = bits[at + 1 :]
        if tag == "include":
            given = {b.partition("=")[0] for b in bits[1:] if "=" in b}
            if bits[0][0] in "\"'":
                included.append((bits[0].strip("\"'"), given))
        if "as" in bits:
            own.add(bits[bits.index("as") + 1])
            bits = bits[: bits.index("as")]
        for bit in bits:
            name, equals, value = bit.partition("=")
            if equals and re.fullmatch(r"\w+", name) and tag in ("with", "include"):
                own |= {name} if tag == "with" else set()
                bit = value
            if tag in ("if", "elif") or re.match(r"[\w.|:]+$", bit) or bit.count("|"):
                used |= set(names_in(bit))
    return used, own, included


def sometimes_given(part):
    """What a part is given by some of those that include it; by the others it is left out."""
    found = set()
    for file in TEMPLATES.rglob("*.html"):
        for inner, given in read(file.relative_to(TEMPLATES))[2]:
            found |= given if inner == part else set()
    return found


def missing(template, given, seen=()):
    """Names that a template, or one that it includes, uses and is not given."""
    used, own, included = read(template)
    left_out = sometimes_given(template) if seen else set()
    found = {f"{template}: {name}" for name in used - own - given - left_out - FROM_REQUEST}
    for inner, more in included:
        if inner not in seen:
            found |= missing(inner, given | own | more, (*seen, template))
    return found


def everything(template, seen=()):
    used, _, included = read(template)
    for inner, _ in included:
        if inner not in seen:
            used |= everything(inner, (*seen, template))
    return used


def given_by(waypoint, panel):
    kind = typing.get_type_hints(getattr(waypoint, panel))["return"]
    assert issubclass(kind, Shown)
    return kind


@pytest.mark.parametrize("name", WAYPOINTS)
@pytest.mark.parametrize("panel", ["dock", "workings"])
def test_every_name_in_a_template_is_one_that_it_is_given(name, panel):
    waypoint = WAYPOINTS[name]
    kind = given_by(waypoint, panel)
    given = {*kind.__struct_fields__, *frame.Around.__struct_fields__}
    if panel == "workings":
        given |= {*frame.Findings.__struct_fields__}
    assert missing(f"{waypoint.templates}/{panel}.html", given) == set()


@pytest.mark.parametrize("name", WAYPOINTS)
@pytest.mark.parametrize("panel", ["dock", "workings"])
def test_a_template_is_given_nothing_that_it_does_not_use(name, panel):
    waypoint = WAYPOINTS[name]
    used = everything(f"{waypoint.templates}/{panel}.html")
    if panel == "dock" and waypoint.previews:
        used |= everything(f"{waypoint.templates}/passing.html")
    assert set(given_by(waypoint, panel).__struct_fields__) - used == set()


@pytest.mark.parametrize(
    ("template", "kinds"),
    [
        ("frame/rooms.html", (frame.Around, frame.Rooms)),
        ("frame/trail.html", (frame.Around, frame.Trail)),
        ("frame/line.html", (frame.ConsequenceLine,)),
        ("frame/page.html", (frame.WaypointPage,)),
        ("frame/hurt.html", (frame.Hurt,)),
        ("frame/refused.html", (RefusedPage,)),
        ("jobs/list.html", (Jobs,)),
        ("jobs/people.html", (People,)),
        ("paper/sheet.html", (SheetPage,)),
        ("accounts/account.html", (Account,)),
        ("accounts/sign-up.html", (SignUp,)),
    ],
)
def test_the_frame_is_given_what_it_uses(template, kinds):
    given = {field for kind in kinds for field in kind.__struct_fields__}
    assert missing(template, given) == set()
    assert set(kinds[-1].__struct_fields__) - everything(template) == set()


@pytest.mark.parametrize("name", ERRAND_STEPS)
def test_a_page_of_an_errand_is_given_what_it_uses_and_nothing_more(name):
    step = ERRAND_STEPS[name]
    kind = typing.get_type_hints(step.page)["return"]
    assert issubclass(kind, Shown)
    template = f"errand/{step.template}.html"
    assert missing(template, {*kind.__struct_fields__, *ErrandFrame.__struct_fields__}) == set()
    assert set(kind.__struct_fields__) - everything(template) == set()
    assert not {*kind.__struct_fields__} & {*ErrandFrame.__struct_fields__}, "what stands around is said once"


def test_every_step_of_the_trail_is_a_page_and_every_field_told_is_asked_on_one():
    assert [*ERRAND_STEPS] == [*STEPS]
    fields = [field for step in ERRAND_STEPS.values() for field in step.tells]
    assert len(fields) == len({*fields})
    for step in ERRAND_STEPS.values():
        assert reverse(step.address, args=[1]) == f"/jobs/1/{step.path}"


def test_a_name_that_nobody_gives_would_be_told():
    """The test's own reader, on a template whose names are taken away."""
    given = {*given_by(WAYPOINTS["runs"], "dock").__struct_fields__} - {"offers"}
    assert any(
        "offers" in found for found in missing("runs/dock.html", given | {*frame.Around.__struct_fields__})
    )


def test_the_names_of_what_comes_later_go_before():
    class One(Shown, frozen=True):
        a: int
        b: int

    class Two(Shown, frozen=True):
        b: int

    assert context(One(1, 2), Two(3)) == {"a": 1, "b": 3}


def test_every_page_is_written_from_what_is_typed():
    """No page is rendered from names put together where it is rendered."""
    for file in Path(fjeld.web.__file__).parent.rglob("*.py"):
        for call in re.findall(r"render\(\s*request,\s*\"[^\"]+\"(.*)", file.read_text()):
            assert re.match(r",\s*(context|names)\(|\)|,\s*status", call), f"{file.name}: {call}"
