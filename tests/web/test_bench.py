"""The bench: each question on a page of its own, in both practices, without a job or an account."""

import re
from typing import get_args, get_type_hints

import pytest
from django.http import QueryDict
from django.test import Client
from django.urls import reverse

from fjeld.bench.questions import ANSWERS, CHOSEN_FROM, GROUPS, QUESTIONS
from fjeld.practice import available, load
from fjeld.quantities import Length
from fjeld.web.bench.fields import asking


def page(name, practice="na", **typed):
    return Client().get(reverse("question", args=[name]), {"practice": practice, **typed})


def shown(response):
    html = re.sub(r"<[^>]+>", " ", response.content.decode())
    return re.sub(r"\s+", " ", html)


def test_every_question_is_on_the_list_and_every_field_has_its_words():
    listed = [question.name for group in GROUPS.values() for question in group]
    assert sorted(listed) == sorted(QUESTIONS) == sorted(ANSWERS)
    chosen = {field.chosen_from for q in QUESTIONS.values() for field in q.fields.values()} - {""}
    assert chosen == {*CHOSEN_FROM}, "every list is there, and is asked for"
    for name, question in QUESTIONS.items():
        assert {*question.fields} == {*question.asked.__struct_fields__}, name
    html = Client().get(reverse("bench")).content.decode()
    assert all(question.title in html for question in QUESTIONS.values())


@pytest.mark.django_db
@pytest.mark.parametrize("practice", available())
@pytest.mark.parametrize("name", QUESTIONS)
def test_each_page_opens_empty(name, practice):
    response = page(name, practice)
    assert response.status_code == 200
    assert "Type what you have" in shown(response)


#: What is typed, the figure in large, and a sentence.
ASKED = [
    ("hangs", "na", {"what": "fan", "lb": "36", "listed": "on"}, "16.329", "read its mark"),
    ("link", "na", {"smoke": "13"}, "13", "13 smoke alarms"),
    ("extends", "na", {"room": "bed", "way": "7'"}, "7'", "Arc-fault protection"),
    ("dimmer", "na", {"load": "100", "most": "150", "sides": "2"}, "90", "more than the 90 W"),
    ("conduit", "na", {"way": "8'", "amps": "20"}, "8'", "a ground wire goes through"),
    ("outlets", "na", {"wall": "14'"}, "2", "Outlet 1"),
    ("outlets", "na", {"wall": '20"'}, "0", "none is asked for"),
    ("rows", "na", {"width": "12'", "count": "3"}, "2'", "Apart 4'"),
    ("drop", "na", {"stretches": "80' 14 8"}, "3.93", "of 120 V"),
    ("drop", "na", {"stretches": "? 50' 14 8"}, "2.456", "until stretch 1 is measured"),
    (
        "cord",
        "na",
        {"ceiling": "8'", "top": '30"', "clear": '30"', "shade": '8"'},
        "2' 7\"",
        "spare to level by",
    ),
    (
        "fits",
        "na",
        {"volume": "18", "cables": "14/2, 14/2", "devices": "1", "add": "14/2"},
        "18",
        "After, 18.00 of 18",
    ),
    ("fits", "gb", {"depth": "25", "cables": "1.5, 1.5", "add": "1.5, 1.5"}, "4", "4 of 3 cables"),
    (
        "spot",
        "na",
        {"box": "cut-in-1", "left": '16 3/4"', "right": '31 1/4"'},
        "1' 6 1/8\" to 2' 5 7/8\"",
        "Its middle, from the left",
    ),
    (
        "spot",
        "gb",
        {"box": "dry-lining-1", "left": "619", "right": "1181"},
        "668.5 mm to 1131.5 mm",
        "Its middle",
    ),
    ("spot", "na", {"box": "cut-in-1", "door": '0"', "wished": '4"'}, '5 5/8"', "is refused"),
    ("height", "na", {"high": '14"', "below": '9"', "top": '82"'}, "6' 5\"", ""),
    ("void", "na", {"depth": '5 1/2"', "lowest": '4"'}, '6"', "free"),
    ("transfer", "na", {"room": '41 1/4"', "surface": '1/2"', "plate": '3 1/2"'}, "3' 7 1/2\"", ""),
    (
        "eave",
        "na",
        {"heel": '3 1/2"', "rise": "5", "plate": '3 1/2"', "needs": '12"'},
        '4 7/32"',
        "flexible bit",
    ),
    ("pull", "gb", {"legs": "1300, 100, 3600", "blind": "1"}, "6300 mm", "coil"),
    ("wood", "na", {"start": '20"', "end": '100"', "spacing": '16"'}, "5", "steel"),
    (
        "masonry",
        "gb",
        {"wide": "75", "high": "75", "depth": "25", "bit": "8", "leaf": "100", "chase": "horizontal"},
        "25",
        "deep of",
    ),
    ("short", "na", {"free": '2"'}, '2"', "lever"),
    ("reach", "na", {"free": '6"', "before": '40"', "after": '44"'}, '2"', "short"),
    ("cutout", "na", {"face": '17 3/4"', "old": '2 1/4"', "box": "side-screw-2"}, "1' 5 3/4\"", ""),
    ("ground", "na", {"amps": "10", "way": "60'", "gauge": "14", "volts": "0"}, "1.515", "tied together"),
    (
        "load",
        "na",
        {"breaker": "15", "loads": "6 x 9 W lights\n8 x 180 estimated\n1 x 12 continuous"},
        "2.425 A",
        "12.00 A",
    ),
    ("patch", "na", {"wide": '4"', "high": '6"', "compound": "setting 45"}, '3 7/8"', ""),
    ("time", "na", {"steps": "look\nP1\npull 2", "times": "1"}, "165 min", ""),
    (
        "pairs",
        "na",
        {"nodes": "black 1, black 2, whites, grounds, earth", "switches": "1"},
        "10",
        "black 1 / whites",
    ),
    (
        "pairs",
        "na",
        {"nodes": "a, b", "readings": "a / b 119.8 119.5", "proven_before": "on", "proven_after": "on"},
        "1",
        "live",
    ),
]


@pytest.mark.parametrize(("name", "practice", "typed", "large", "words"), ASKED)
def test_an_answer_shows_its_figure_and_what_it_means(name, practice, typed, large, words):
    response = page(name, practice, **typed)
    assert response.status_code == 200
    html = response.content.decode()
    first = re.search(r'class="answer len">([^<]*)<', html)
    assert first[1].replace("&#x27;", "'").replace("&quot;", '"') == large
    text = shown(response).replace("&quot;", '"').replace("&#x27;", "'")
    assert words in text


@pytest.mark.parametrize(
    ("name", "typed", "words"),
    [
        ("spot", {"box": "cut-in-1", "left": "12O"}, "Left member"),
        ("spot", {"left": '12"'}, "Box: still wanted"),
        ("pull", {"legs": "12', 1,234"}, "Legs of its way"),
        ("load", {"breaker": "15", "loads": "nine lamps"}, "is no load"),
        ("load", {"breaker": "many", "loads": "1 x 1"}, "Breaker, A"),
        ("time", {"steps": "sing"}, "there is no step"),
        ("pairs", {"nodes": "a, b", "readings": "a / b 12O 1"}, "12O"),
        ("pairs", {"nodes": "a, b", "readings": "a"}, "is no reading"),
        ("wood", {"start": '1"', "end": '9"', "spacing": '0"'}, "some way apart"),
        ("drop", {"stretches": "80 feet"}, "is no stretch"),
        ("rows", {"width": "12'", "count": "50"}, "1 to 40"),
        ("cord", {"ceiling": "5'", "top": '40"'}, "too low"),
        ("eave", {"heel": '1"', "rise": "steep", "plate": '3"', "needs": '9"'}, "is not a number"),
    ],
)
def test_what_cannot_be_read_is_told_at_its_field_and_nothing_typed_is_lost(name, typed, words):
    response = page(name, **typed)
    assert response.status_code == 422
    assert words in shown(response)
    html = response.content.decode().replace("&#x27;", "'").replace("&quot;", '"')
    assert all(value in html for key, value in typed.items() if key not in ("box", "compound"))


def test_a_bay_is_drawn_with_what_is_uncertain_of_its_edges():
    html = page("spot", box="cut-in-1", left='16 3/4"', right='31 1/4"', left_by="detector").content.decode()
    assert 'class="unsure"' in html
    assert 'class="span"' in html
    assert 'class="strip-box"' in html
    none = page("spot", box="cut-in-1", left='16 3/4"', right='18"').content.decode()
    assert 'class="span"' not in none
    assert "No place in this bay" in none


def test_a_question_that_there_is_not():
    assert page("where").status_code == 404
    assert page("spot", "mars").status_code == 200, "another practice is not known: the first is taken"


def test_what_is_needed_is_not_told_as_a_no():
    """A page that said “no” before a protection that is wanted would be read the wrong way round."""
    text = shown(page("replace", what="outlet", room="kitchen", ground="yes"))
    assert "needed Ground-fault protection" in text
    assert "no Ground-fault" not in text
    assert "NEC 2023" in text, "with the clause it rests on"


def test_what_is_live_stands_before_what_is_still_to_be_tested():
    text = shown(
        page("pairs", nodes="a, b, c", readings="b / c 120 119", proven_before="on", proven_after="on")
    )
    assert text.index("live, 119") < text.index("still to be tested")


@pytest.mark.parametrize("practice", available())
@pytest.mark.parametrize("name", QUESTIONS)
def test_a_length_is_typed_and_what_is_chosen_is_one_of_what_there_is(name, practice):
    hints = get_type_hints(QUESTIONS[name].asked)
    for field in asking(QUESTIONS[name], load(practice), QueryDict("")):
        is_length = hints[field.name] is Length or Length in get_args(hints[field.name])
        assert (field.kind == "text") or not is_length, field.name
        assert (field.kind == "choice") == bool(field.options)


def test_names_in_a_list_are_parted_by_a_comma_with_or_without_a_blank():
    for told in ("block,insulation,header", "block, insulation, header", "block; insulation\nheader"):
        assert page("ways", attic="on", spot="ceiling", clear=told).status_code == 200, told
    assert page("fits", cables="14/2,14/2", add="14/2", volume="18", devices="1").status_code == 200
    # In a length it is a decimal mark: three and a half metres, a twentieth more, both ends, to the next 100
    # mm.
    assert "4200 mm" in page("pull", legs="1,5 m, 2 m", practice="gb").content.decode()
