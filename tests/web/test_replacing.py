"""A device replaced, on its screens: what may stand in its place, what goes where, and its steps
in the book.
"""

import pytest

from tests.web.errands import R4, act, read, tick, words
from tests.web.test_errand import DEAD


def see(client, job, part, **query):
    response = client.get(f"/jobs/{job.pk}/errand/{part}", query)
    assert response.status_code == 200
    return words(response.content.decode())


def say(client, job, status=302, **form):
    assert client.post(f"/jobs/{job.pk}/errand/meant", form).status_code == status
    job.refresh_from_db()


def test_what_stands_in_its_place_is_asked_first_and_then_told(started):
    job, client = started(wants="replace")
    act(client, job, "look", field="gauge", value="14")
    assert "What stands in its place?" in see(client, job, "box")
    assert "once it is said what stands in its place" in see(client, job, "proof")
    assert "Change what is to be changed" in see(client, job, "steps", step="change")
    say(client, job, becomes="same")
    assert "What stands in its place?" not in see(client, job, "box")
    said = "Take 1.BK off “a” of the old one; put it on “a” of the new one: either of its two."
    for part in ("proof", "sheet"):
        assert said in see(client, job, part), part
    assert said in see(client, job, "steps", step="change 2")
    assert "Works in every case that is left" in see(client, job, "proof")


def test_each_conductor_is_a_step_of_its_own(started):
    job, client = started(wants="replace")
    say(client, job, becomes="same")
    for field, value in (("ground", "present"), ("condition", "sound")):
        act(client, job, "look", field=field, value=value)
    tick(client, job, "look")
    tick(client, job, "breaker")
    assert "prove the tester" in words(tick(client, job, "change 1", status=422).content.decode())
    tick(client, job, "dead", **DEAD)
    tick(client, job, "open")
    assert "Open the joint of 1.G" in words(tick(client, job, "change 2", status=422).content.decode())
    for task in ("change 1", "change 2", "change", "fold"):
        tick(client, job, task)
    kept = client.get(f"/jobs/{job.pk}/errand/kept.json").json()["records"]
    assert [r["of"] for r in kept][-4:] == ["step:change 1", "step:change 2", "step:change", "step:fold"]


def test_a_sensor_waits_for_the_reading_that_tells_the_line(started):
    job, client = started(wants="replace")
    say(client, job, becomes="sensor")
    proof = see(client, job, "proof")
    assert "Works in some cases, fails in others" in proof
    assert "Its line and its switched line would have changed places" in proof
    assert "“Voltage to ground at each terminal, every switch position” tells which" in proof
    assert "Change what is to be changed" in see(client, job, "steps", step="change"), (
        "nothing is told that may be wrong"
    )
    read(client, job, "R4", **R4)
    assert "Works in every case that is left" in see(client, job, "proof")
    assert "put it on “line” of the new one" in see(client, job, "steps", step="change 2")


@pytest.mark.parametrize(("practice", "ground"), [("na", "ground"), ("gb", "earth")])
def test_a_sensor_without_a_neutral_is_refused_in_the_words_of_the_place(started, practice, ground):
    job, client = started(practice, "replace", "Both wires of the one cable")
    say(client, job, becomes="sensor")
    for part in ("box", "proof"):
        assert f"a{'n' if ground == 'earth' else ''} {ground} is never used as one" in see(client, job, part)
    assert "A sensor at the light" in see(client, job, "box")


def test_where_no_ground_is_found_what_comes_must_do_without(started):
    job, client = started(wants="replace", usual="Two cables, dark on one side")
    act(client, job, "look", field="ground", value="none")
    say(client, job, becomes="same")
    assert "No three-slot outlet by itself" in see(client, job, "box")
    say(client, job, becomes="protective")
    box = see(client, job, "box")
    assert "Marked “no equipment ground”" in box
    assert "No three-slot outlet by itself" not in box


def test_a_fan_takes_the_place_of_a_light_and_is_told_its_controls(started):
    job, client = started(wants="heavy", usual="One cable on the light")
    assert "A fan, with its light" in see(client, job, "box")
    say(client, job, becomes="fan")
    assert "One switched line comes to it" in see(client, job, "box")
    proof = see(client, job, "proof")
    assert "put “fan's lead” of the new one in its place" in proof
    assert (
        "Put “light's lead” of the new one into the joint of 1.BK and “fan's lead” of the new one too"
        in proof
    )


def test_of_several_devices_one_is_chosen(started):
    job, client = started(wants="replace")
    act(client, job, "device", kind="outlet")
    say(client, job, replaces="O")
    assert "A ground-fault or arc-fault outlet" in see(client, job, "box")
    say(client, job, becomes="protective", replaces="O")
    assert "is not told" in see(client, job, "box"), "nothing is on it yet"
    for form in (
        {"replaces": "3"},
        {"replaces": "0"},
        {"becomes": "a heater"},
        {"becomes": "same", "replaces": "²"},
    ):
        say(client, job, status=404, **form)


def test_what_no_longer_fits_what_is_in_the_box_is_asked_again(started):
    job, client = started(wants="replace")
    say(client, job, becomes="sensor")
    act(client, job, "begin", usual="5")
    assert "What stands in its place?" in see(client, job, "box")


def test_the_proof_says_what_may_be_live_still(started):
    job, client = started(wants="replace")
    assert "Nothing, in any case that is left. Every pair is tested all the same." in see(
        client, job, "proof"
    )
    act(client, job, "cable", cores="2")
    proof = see(client, job, "proof")
    assert "Live still, with the breaker of 1.BK off?" in proof
    assert "3.BK : may be, nobody has seen that this breaker makes it dead" in proof
    dead = {"stands:S": "open", **{f"volts:{e}": "0.1" for e in ("1.BK", "2.BK", "1.WH", "3.BK", "3.WH")}}
    read(client, job, "R3", off="1.BK", **dead)
    assert "3.BK : may be" not in see(client, job, "proof")


def test_what_hangs_there_is_held_against_the_mark_of_its_box(started):
    job, client = started(wants="heavy", usual="One cable on the light")
    say(client, job, becomes="fan")
    assert "What does it weigh?" in see(client, job, "box")
    say(client, job, weighs="36")
    assert "look for those words inside it" in see(client, job, "box")
    for marked, listed, said in (
        ("0", "", "A box that is not listed for a fan"),
        ("70", "", "A weight alone does not say it"),
        ("70", "no", "never from it, whatever weight it is marked for"),
        ("35 lb", "yes", "Heavier than its box is marked for"),
        ("70", "yes", "Its box carries it"),
    ):
        act(client, job, "look", field="marked", value=marked)
        act(client, job, "look", field="listed", value=listed)
        assert said in see(client, job, "box"), marked
    say(client, job, weighs="34 kg")
    assert "it hangs from the structure" in see(client, job, "box")
    say(client, job, weighs="")
    assert "What does it weigh?" in see(client, job, "box")


@pytest.mark.parametrize("typed", ["heavy", "-3", "9" * 400, "nan", "²"])
def test_what_is_no_weight_is_refused_where_it_was_typed(started, typed):
    job, client = started(wants="heavy", usual="One cable on the light")
    response = client.post(f"/jobs/{job.pk}/errand/meant", {"weighs": typed})
    assert response.status_code == 422
    said = words(response.content.decode())
    assert "What stands in its place?" in said, "it is the page of the box"


def test_what_is_refused_of_the_box_is_told_on_its_page(started):
    job, client = started(wants="replace")
    form = {"box": "E1", "field": "volume", "value": "eighteen", "back": "errand-box"}
    response = client.post(f"/jobs/{job.pk}/errand/do/look", form)
    assert response.status_code == 422
    said = words(response.content.decode())
    assert "“eighteen” is no volume" in said
    assert "What stands in its place?" in said


def test_what_is_refused_is_not_done_by_its_book_either(started):
    job, client = started(wants="replace", usual="Both wires of the one cable")
    say(client, job, becomes="sensor")
    assert "Not like this: This box has no neutral" in see(client, job, "steps", step="change")
    assert "not like this" in words(tick(client, job, "change", status=422).content.decode())
    say(client, job, becomes="dimmer")
    assert "Not like this" not in see(client, job, "steps", step="change")


def test_the_second_side_of_an_outlet_may_be_live_still(started):
    job, client = started(wants="replace", usual="One cable of three, the tab between")
    proof = see(client, job, "proof")
    assert "with the breaker of 1.BK off?" in proof
    assert "1.RD : may be, of another circuit, or on another leg" in proof
