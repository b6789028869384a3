"""Figures in templates: lengths with their fractions set as fractions, sums line by line, money."""

from __future__ import annotations

import re
from typing import Any, NamedTuple

from django import template
from django.template.context import Context
from django.utils.html import escape, format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from fjeld import practice as practices
from fjeld.graphics.page import FIGURE, Block, Span, Table
from fjeld.graphics.shapes import Shape
from fjeld.graphics.svg import svg
from fjeld.quantities import Line, Unit, Working, format_area, format_length, split_imperial
from fjeld.quantities import coarse as as_pulled
from fjeld.web.ui.wire import mark

register = template.Library()

FRACTION = re.compile(r"(\d+)/(\d+)")


@register.filter
def measure(mm: float, unit: Unit = "ft-in") -> SafeString:
    """A length that never wraps, its fraction in a span of its own."""
    if unit == "mm":
        return format_html('<span class="len">{}</span>', format_length(mm, unit))
    found = split_imperial(mm)
    if not found.numerator:
        return format_html('<span class="len">{}</span>', format_length(mm, unit))
    whole = format_length(mm, unit).removesuffix(f'{found.numerator}/{found.denominator}"')
    return format_html(
        '<span class="len">{}<span class="frac">{}/{}</span>"</span>',
        whole,
        found.numerator,
        found.denominator,
    )


@register.filter
def coarse(mm: float, unit: Unit = "ft-in") -> SafeString:
    """A way or a piece of cable as a person pulls it: to the half foot, or to 10 cm."""
    return format_html('<span class="len">{}</span>', as_pulled(mm, unit))


@register.filter
def figures(words: str) -> SafeString:
    """A sentence whose figures keep with their units on one line, their fractions set as fractions."""

    def kept(found: re.Match[str]) -> str:
        return f'<span class="len">{FRACTION.sub(_fraction, found[0])}</span>'

    # Quotation marks are part of feet and inches here, and harmless between tags.
    plain = escape(words).replace("&quot;", '"').replace("&#x27;", "'")
    return mark_safe(FIGURE.sub(kept, plain))


def _fraction(found: re.Match[str]) -> str:
    return f'<span class="frac">{found[0]}</span>'


@register.simple_tag(takes_context=True)
def amount(context: Context, value: float) -> str:
    """A figure of the sum being written, in the sum's unit; lengths in the job's."""
    unit = context["sum"].unit
    if unit == "mm":
        return format_length(value, context["unit"])
    if unit in ("A", "V", "%"):
        return f"{value:.2f}"
    return f"{value:.3f}".rstrip("0").rstrip(".")


@register.filter
def count(value: float) -> str:
    """How many times, as written in a sum."""
    return f"{value:g}"


@register.inclusion_tag("parts/working.html", takes_context=True)
def working(context: Context, found: Working, limit: float | None = None, words: str = "") -> dict[str, Any]:
    """The sum as on paper, with its limit beneath if it has one."""
    # Lengths are written with their unit; what the title counts needs none.
    suffix = "" if found.unit == "mm" or found.unit in found.title.lower().split() else found.unit
    return {"sum": found, "limit": limit, "words": words, "suffix": suffix, "unit": context["unit"]}


@register.filter
def lights(found: Line) -> str:
    """The handles that a line counts, for lighting them up."""
    return " ".join(found.handles)


@register.filter
def money(cents: float, practice: str = "") -> str:
    """Cents as money; with its practice named, in that practice's currency."""
    sign = "−" if cents < 0 else ""
    unit = practices.load(practice).catalogue.currency if practice in practices.available() else ""
    return f"{sign}{unit}{abs(cents) / 100:,.2f}"


@register.simple_tag(takes_context=True)
def said(context: Context, sentence: str) -> str:
    """A fixed sentence in the words of the job's practice, capitals kept."""
    words: dict[str, str] = context.get("said") or {}
    if not words:
        return sentence

    def other(found: re.Match[str]) -> str:
        word = words[found[0].lower()]
        return word[0].upper() + word[1:] if found[0][0].isupper() else word

    return re.sub(rf"\b(?:{'|'.join(map(re.escape, words))})(?=s?\b)", other, sentence, flags=re.IGNORECASE)


@register.filter
def drawn(found: Shape | None) -> SafeString:
    """A shape as SVG, nothing where there is none: the writer escapes everything."""
    return mark_safe(svg(found) if found else "")


@register.filter
def part(block: Block) -> str:
    """The template that writes a block of a sheet."""
    return f"paper/{type(block).__name__.lower()}.html"


class Cell(NamedTuple):
    """A place in a table: what stands there, of which column, and whether that has figures."""

    runs: tuple[Span, ...]
    title: str
    figures: bool


@register.filter
def cells(table: Table) -> list[list[Cell]]:
    """The rows of a table, each place with its column."""
    columns = table.columns
    return [
        [Cell((run,), c.title, c.figures) for c, run in zip(columns, row, strict=True)] for row in table.rows
    ]


@register.filter
def item(mapping: dict[Any, Any], key: Any) -> Any:
    """A value by key."""
    return mapping.get(key)


@register.simple_tag
def stones(danger: int, asks: int, advice: int) -> SafeString:
    """A cairn: three stones, each solid when nothing of its kind is open."""
    rows = ((danger, 12, 18, 9, "danger"), (asks, 12, 12, 6.5, "ask"), (advice, 12, 6.5, 4, "advice"))
    shapes = format_html_join(
        "",
        '<ellipse class="stone {}{}" cx="{}" cy="{}" rx="{}" ry="3"/>',
        ((kind, " open" if n else "", x, y, rx) for n, x, y, rx, kind in rows),
    )
    return format_html(
        '<svg class="cairn" viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">{}</svg>', shapes
    )


@register.simple_tag
def danger_mark() -> SafeString:
    """A triangle beside a word: danger is never told by colour alone."""
    return mark_safe(
        '<svg class="mark" viewBox="0 0 16 16" aria-hidden="true"><path d="M8 2 15 14H1Z"/></svg>'
    )


@register.filter
def split(words: str) -> list[str]:
    """Words at their commas, for short lists of choices."""
    return words.split(",")


@register.filter
def plain(mm: float, unit: Unit = "ft-in") -> str:
    """A length as text to be typed over."""
    return format_length(mm, unit)


@register.filter
def floor_area(square_metres: float, unit: Unit = "ft-in") -> str:
    """A floor area in the job's own unit."""
    return format_area(square_metres, unit)


@register.simple_tag
def fragment(name: str) -> str:
    """The id of a fragment's outermost element, with the place where it says that it is swapped in."""
    return format_html('id="{}"{}', name, mark(name))
