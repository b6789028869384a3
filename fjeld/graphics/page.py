"""A sheet of paper as a list of what stands on it, before anybody writes it as HTML or as PDF.

A page knows words, tables, lists and drawings, and which of them keep together; sizes of drawings are in
millimetres of paper. What a figure is and that it keeps with its unit is known here too.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal

import msgspec

from fjeld.graphics.shapes import Shape
from fjeld.practice import Practice

#: A figure with its unit within a sentence: feet and inches first, then a number before any unit.
FIGURE = re.compile(
    r"""(?<!\d)-?(?:\d{1,7}'\ \d{1,3}(?:\ \d{1,3}/\d{1,3})?"|\d{1,7}\ \d{1,3}/\d{1,3}"|\d{1,3}/\d{1,3}\""""
    r"""|\d{1,7}(?:\.\d{1,9})?["'](?![\w]))"""
    r"""|(?<!\d)\d{1,9}(?:[.,]\d{1,9})?\ (?:mm|cm|m|m²|ft²|in³|ft|in|A|V|VA|W|mA|lx|lm|cd|Ω|MΩ|mΩ|kg|lb|%)"""
    r"""(?![\w²³])""",
    re.VERBOSE,
)


class Paper(msgspec.Struct, frozen=True):
    """A size of paper and its margin, mm."""

    name: str
    wide: float
    high: float
    margin: float = 14.0


PAPERS = {p.name: p for p in (Paper("A4", 210.0, 297.0), Paper("Letter", 215.9, 279.4))}


def paper_of(practice: Practice, wanted: str = "") -> Paper:
    """The paper that was asked for, else what a printer of the practice's country holds."""
    usual = "A4" if practice.unit == "mm" else "Letter"
    return PAPERS.get(wanted, PAPERS[usual])


class Span(msgspec.Struct, frozen=True):
    """Words set alike: plain, ``strong``, ``large`` as a figure read from a ladder, or ``quiet``."""

    words: str
    strong: bool = False
    large: bool = False
    quiet: bool = False


Spans = tuple[Span, ...]


class Heading(msgspec.Struct, frozen=True, tag=True):
    """A title of its level, 1 the sheet's own, with what is said beside it."""

    words: str
    level: Literal[1, 2, 3] = 2
    beside: str = ""


class Paragraph(msgspec.Struct, frozen=True, tag=True):
    """A sentence or a few; ``caution`` in a frame."""

    runs: Spans
    caution: bool = False


class Column(msgspec.Struct, frozen=True):
    """A column of a table; figures stand at its right."""

    title: str
    figures: bool = False


class Table(msgspec.Struct, frozen=True, tag=True):
    """Rows under the titles of their columns; the head is said again on each sheet that it runs over to."""

    columns: tuple[Column, ...]
    rows: tuple[tuple[Span, ...], ...]


class Listed(msgspec.Struct, frozen=True):
    """A line of a list; with a box to tick where ``done`` is said."""

    runs: Spans
    done: bool | None = None


class List(msgspec.Struct, frozen=True, tag=True):
    """Lines one under another."""

    lines: tuple[Listed, ...]

    @property
    def ticked(self) -> bool:
        """Whether its lines have boxes to tick."""
        return any(each.done is not None for each in self.lines)


class Picture(msgspec.Struct, frozen=True, tag=True):
    """A drawing as wide as its column, but no higher than so many mm."""

    shape: Shape
    high: float = 400.0


Flat = Heading | Paragraph | Table | List | Picture


class KeptTogether(msgspec.Struct, frozen=True, tag=True):
    """What is not parted by the end of a sheet or of a column, where it has room on one."""

    blocks: tuple[Flat, ...]


Block = Flat | KeptTogether


class Page(msgspec.Struct, frozen=True, kw_only=True):
    """A sheet: its title, what stands above its columns, what runs through them, and what ends it.

    ``size`` is the body's type in points; ``lang`` of whoever reads it out. Where it is to be ``one`` sheet,
    its drawings may become smaller for that, as far as their letters can still be read.
    """

    title: str
    head: tuple[Block, ...]
    blocks: tuple[Block, ...]
    foot: str
    columns: Literal[1, 2] = 1
    size: float = 10.0
    one: bool = False
    lang: str = "en"


def plain(words: str, strong: bool = False) -> Spans:
    """Words all set alike."""
    return (Span(words, strong=strong),)


def joined(parts: Sequence[Spans], between: str) -> Spans:
    """Parts after one another, with something between each two."""
    found: list[Span] = []
    for n, part in enumerate(parts):
        if n:
            found.append(Span(between))
        found += part
    return tuple(found)
