"""Lengths as people write and read them."""

import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.quantities import (
    INCH,
    Line,
    UnreadableLength,
    Working,
    at_least,
    at_most,
    format_length,
    parse_length,
    split_imperial,
)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("12' 4 1/2\"", 148.5 * INCH),
        ("12-4 1/2", 148.5 * INCH),
        ("12'4", 148 * INCH),
        ("12'4 1/2", 148.5 * INCH),
        ('148.5"', 148.5 * INCH),
        ("12.375'", 148.5 * INCH),
        ("12′ 4½″", 148.5 * INCH),
        ("1/2", 0.5 * INCH),
        ('½"', 0.5 * INCH),
        ("4' 0 1/2\"", 48.5 * INCH),
        ("32", 32 * INCH),
        ("3.77 m", 3770),
        ("3,77 m", 3770),
        ("377 cm", 3770),
        ("3 770 mm", 3770),
    ],
)
def test_read_in_feet_and_inches(text, mm):
    assert parse_length(text).mm == pytest.approx(mm)


@pytest.mark.parametrize(
    ("text", "mm"), [("3770", 3770), ("3 770 mm", 3770), ("3770,5", 3770.5), ("12'4", 148 * INCH)]
)
def test_a_bare_number_takes_the_drawings_unit(text, mm):
    assert parse_length(text, "mm").mm == pytest.approx(mm)


@pytest.mark.parametrize(
    "text", ["", "  ", "abc", "12'4'", "--", "1/0", "12 apples", "'", '"', "9" * 60, "nan", "1e9", "-5'"]
)
def test_garbage_is_refused_and_named(text):
    with pytest.raises(UnreadableLength) as refused:
        parse_length(text)
    if text.strip() and len(text) < 40:
        assert text.strip() in str(refused.value)


def test_a_comma_before_three_digits_is_questioned():
    with pytest.raises(UnreadableLength, match="decimal mark or a thousands mark"):
        parse_length("1,234 mm", "mm")


def test_what_was_typed_is_kept():
    assert parse_length("12' 4 1/2\"").typed == "12' 4 1/2\""
    assert parse_length("32").typed == '32"', "a bare number is written out with its unit"


@pytest.mark.parametrize(
    ("mm", "text"),
    [
        (148.5 * INCH, "12' 4 1/2\""),
        (54.5 * INCH, "4' 6 1/2\""),
        (0, '0"'),
        (12 * INCH, "1'"),
        (11.97 * INCH, "1'"),
        (0.03125 * INCH, '1/16"'),
        (0.0312 * INCH, '0"'),
        (-3.25 * INCH, '-3 1/4"'),
    ],
)
def test_printed_to_the_nearest_sixteenth_half_up(mm, text):
    assert format_length(mm) == text


def test_printed_in_millimetres_and_to_an_eighth():
    assert format_length(1371.5, "mm") == "1372 mm"
    assert format_length(5.0625 * INCH, step=8) == '5 1/8"'


@given(st.floats(min_value=0, max_value=200_000), st.sampled_from(["ft-in", "mm"]))
def test_printing_what_was_read_prints_the_same(mm, unit):
    text = format_length(mm, unit)
    assert format_length(parse_length(text, unit).mm, unit) == text


@given(st.floats(min_value=-100_000, max_value=100_000))
def test_a_printed_length_is_within_half_a_step(mm):
    found = split_imperial(mm)
    back = (found.feet * 12 + found.inches + found.numerator / found.denominator) * INCH
    assert abs(abs(mm) - back) <= INCH / 32 + 1e-6
    assert found.inches < 12
    assert found.numerator < found.denominator


@given(st.text(max_size=30))
def test_any_text_is_read_or_refused(text):
    with contextlib.suppress(UnreadableLength):
        assert parse_length(text).mm >= 0


def test_the_one_tolerance_is_half_a_millimetre():
    assert at_most(1000.5, 1000)
    assert not at_most(1000.6, 1000)
    assert at_least(999.5, 1000)
    assert not at_least(999.4, 1000)


def test_a_working_is_the_sum_of_its_lines_and_rounds_up():
    found = Working("Cut", "mm", (Line(1, 1000, "route"), Line(0.05, 1000, "slack")), 100)
    assert found.exact == pytest.approx(1050)
    assert found.total == 1100
    assert Working("Cut", "mm", (Line(1, 1100, "route"),), 100).total == 1100, "an exact multiple stays"


def test_a_sum_that_grows_with_what_it_rests_on_is_bounded_and_another_is_not():
    lines = (Line(1.0, 2.0, "known"), Line(2.0, 3.0, "assumed", (), ("wall 1",)))
    assert Working("Drop", "V", lines, in_proportion=True).at_most == 2.0 + 2 * 6.0
    assert Working("Gap", "mm", lines).at_most == math.inf
    assert Working("Gap", "mm", lines[:1]).at_most == 2.0
