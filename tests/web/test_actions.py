"""Each form sends what its action needs, each action reads what some form sends, and bad fields are refused
in words.
"""

import re
from pathlib import Path

import msgspec
import pytest
from django.http import QueryDict

import fjeld.web
from fjeld.drawing.edits import EditRefused
from fjeld.drawing.handles import Handle
from fjeld.drawing.model import House
from fjeld.quantities import Length, UnreadableLength
from fjeld.web.http.actions import action, asked, fields_of
from fjeld.web.http.view import View
from fjeld.web.waypoints import WAYPOINTS

WEB = Path(fjeld.web.__file__).parent
#: What a form sends for the frame, whatever it is of.
OF_THE_FRAME = {"csrfmiddlewaretoken", "base"}


class Drawn:
    """As much of a view as reading a form needs."""

    class drawing:
        house = House(unit="mm")


def form(**fields):
    made = QueryDict(mutable=True)
    for name, value in fields.items():
        made.setlist(name, value if isinstance(value, list) else [value])
    return made


class Both(msgspec.Struct, frozen=True):
    wall: int
    at: Length | None = None


@action
def shown(
    view: View,
    handle: Handle,
    both: Both,
    place: float = 0.0,
    words: str = "none",
    ticked: bool = False,
    other: Handle | None = None,
    each: tuple[str, ...] = (),
):
    """An action that gives back what it read."""
    return handle, both, place, words, ticked, other, each


def test_an_action_is_given_what_its_parameters_say():
    read = shown(
        Drawn(), form(handle=" O1 ", wall="2", at="1,5 m", place="12.5", ticked="on", each=["a", "", "b"])
    )
    assert read[0] == "O1"
    assert (read[1].wall, read[1].at.mm) == (2, 1500.0)
    assert read[2:] == (12.5, "none", True, None, ("a", "b"))
    assert shown(Drawn(), form(handle="O1", wall="2"))[2:] == (0.0, "none", False, None, ())
    assert [f.name for f in shown.fields] == [
        "handle",
        "wall",
        "at",
        "place",
        "words",
        "ticked",
        "other",
        "each",
    ]


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"wall": "2"}, "“handle” was left empty"),
        ({"handle": "O1"}, "“wall” was left empty"),
        ({"handle": "O1", "wall": "two"}, "not a whole number"),
        ({"handle": "O1", "wall": "2", "place": "there"}, "is not a place"),
        ({"handle": "O1", "wall": "2", "place": "inf"}, "outside any house"),
        ({"handle": "\u200b", "wall": "2"}, "“handle” was left empty"),
        ({"handle": "O1", "wall": "2", "at": "1,234 mm"}, "decimal mark or a thousands mark"),
        ({"handle": "O1", "wall": "9" * 40}, "not a whole number"),
    ],
)
def test_a_field_that_cannot_be_read_is_refused_in_words(fields, words):
    with pytest.raises((EditRefused, UnreadableLength), match=words):
        shown(Drawn(), form(**fields))


def test_a_struct_is_read_from_an_address_too():
    assert asked(Both, {"wall": "3"}, Drawn()) == Both(3)
    assert [f.optional for f in fields_of(Both)] == [False, True]


def sent_by_templates():
    """(waypoint, action) to the field names of every form that posts it; of buttons with a name too."""
    found = {}
    folders = {w.templates: name for name, w in WAYPOINTS.items()}
    for file in (WEB / "templates").rglob("*.html"):
        for inside in re.findall(r"<form\b.*?</form>", file.read_text(), re.DOTALL):
            url = re.search(r"\{% url 'act' job\.id (\S+) (\S+) %\}", inside)
            if not url:
                continue
            names = set(re.findall(r'name="(\w+)"', inside)) - OF_THE_FRAME
            waypoint = url[1].strip("'\"") if url[1][0] in "'\"" else folders.get(file.parent.name, "*")
            found.setdefault((waypoint, url[2].strip("'\"") if url[2][0] in "'\"" else "*"), []).append(
                (file.name, names)
            )
    return found


def test_every_form_sends_what_its_action_needs():
    looked_at = 0
    for (waypoint, name), forms in sent_by_templates().items():
        if waypoint not in WAYPOINTS or name not in WAYPOINTS[waypoint].actions:
            continue
        fields = WAYPOINTS[waypoint].actions[name].fields
        for where, names in forms:
            missing = {f.name for f in fields if not f.optional and f.kind is not bool} - names
            multiple = {f.name for f in fields if str(f.kind).startswith("tuple")}
            assert missing - multiple == set(), (waypoint, name, where)
            assert names <= {f.name for f in fields}, (waypoint, name, where, "sent and not read")
            looked_at += 1
    assert looked_at > 25


def test_every_action_is_typed():
    """None reads the form behind its parameters' back."""
    for waypoint in WAYPOINTS.values():
        for name, act in waypoint.actions.items():
            assert isinstance(act.fields, list), (waypoint.name, name)
