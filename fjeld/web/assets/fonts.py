"""Builds the fonts that ship: for screens what the words use, for paper whole alphabets.

The text face comes in subsets, none of which has an ohm, an arrow, a less-or-equal or an eighth. So that a
figure never falls back to whatever the machine has, the subsets are merged with what is missing: alphabets
from Noto Sans, signs from Noto Sans Math, and the fractions of a tape made of the face's own figures.
For paper the figures stand in columns at once, since a PDF has no font features to ask for that.
"""

from __future__ import annotations

import io
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from fontTools.merge import Merger
from fontTools.merge import Options as MergeOptions
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont

FACE = "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next"
TITLE = "@fontsource/national-park/files/national-park"
ALPHABETS = "@fontsource/noto-sans/files/noto-sans"
SIGNS = "@fontsource/noto-sans-math/files/noto-sans-math-latin-400-normal.woff2"
#: Signs of the trade and of figures that the text face has not.
WANTED = "Ω←↑→↓≤≥≈≠√∞′″⌀θπρωΦΣδ∠✓△▲"
#: Fractions of a tape: numerator and denominator.
FRACTIONS = {"⅛": (1, 8), "⅜": (3, 8), "⅝": (5, 8), "⅞": (7, 8), "⅓": (1, 3), "⅔": (2, 3)}
FIGURES = ("zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")
#: A fraction's figures are so much smaller, and its numerator is raised by so much of a capital's height.
SMALLER, RAISED = 0.6, 0.42
#: Figures and stroke stand into one another by so much, units of the em.
CLOSER = 70
#: Tables of layout, which a PDF does not read.
LAYOUT = ["GSUB", "GPOS", "GDEF", "STAT", "kern"]
HINTS = ["prep", "fpgm", "cvt ", "gasp", "STAT", "MATH", "DSIG", "vhea", "vmtx"]


def _read(modules: Path, name: str) -> TTFont:
    font = TTFont(modules / name, recalcTimestamp=False)
    font.flavor = None
    return font


def _only(font: TTFont, letters: Iterable[int], layout: bool, glyphs: Iterable[str] = ()) -> TTFont:
    """The font with some of its letters, and no layout unless asked for."""
    options = Options(
        drop_tables=[*HINTS, *([] if layout else LAYOUT)],
        hinting=False,
        layout_features=["*"],
        glyph_names=True,
        notdef_outline=True,
        recalc_timestamp=False,
    )
    subsetter = Subsetter(options)
    subsetter.populate(unicodes=list(letters), glyphs=list(glyphs))
    subsetter.subset(font)
    return font


def for_screens(modules: Path, weight: int) -> TTFont:
    """The text face with its layout, and the signs that it lacks."""
    first = _read(modules, f"{FACE}-latin-{weight}-normal.woff2")
    parts = [_only(first, first.getBestCmap(), layout=True)]
    rest = [f"{FACE}-latin-ext-{weight}-normal.woff2"]
    signs = [f"{ALPHABETS}-greek-{weight}-normal.woff2", SIGNS]
    return _filled(parts, [_read(modules, name) for name in rest], [_read(modules, name) for name in signs])


def for_paper(modules: Path, face: str, weight: int) -> TTFont:
    """A face with whole alphabets after its own letters, its figures in columns."""
    first = _read(modules, f"{face}-latin-{weight}-normal.woff2")
    columned = {n: f"{name}.tf" for n, name in enumerate(FIGURES) if f"{name}.tf" in first.getGlyphOrder()}
    parts = [_only(first, first.getBestCmap(), layout=False, glyphs=columned.values())]
    heavy = max(weight, 700) if weight > 400 else weight
    rest = [f"{face}-latin-ext-{weight}-normal.woff2"]
    rest += [
        f"{ALPHABETS}-{name}-{heavy}-normal.woff2"
        for name in ("latin", "latin-ext", "greek", "cyrillic", "cyrillic-ext")
    ]
    font = _filled(parts, [_read(modules, name) for name in rest], [_read(modules, SIGNS)])
    for table in font["cmap"].tables:
        table.cmap.update({ord(str(n)): name for n, name in columned.items()})
    return font


def _filled(parts: list[TTFont], rest: Sequence[TTFont], signs: Sequence[TTFont]) -> TTFont:
    """``parts`` with the letters of ``rest`` that they have not, the signs that are wanted, and fractions."""
    have = {c for font in parts for c in font.getBestCmap()}
    for font, wanted in (*((f, None) for f in rest), *((f, {ord(c) for c in WANTED}) for f in signs)):
        letters = {*font.getBestCmap()} - have
        letters = letters if wanted is None else letters & wanted
        if letters:
            have |= letters
            parts.append(_only(font, letters, layout=False))
    font = _one(parts)
    _fractions(font)
    return font


def _one(parts: Sequence[TTFont]) -> TTFont:
    """Fonts of one size of em made into one."""
    files = []
    for font in parts:
        stream = io.BytesIO()
        font.save(stream)
        stream.seek(0)
        files.append(stream)
    first = parts[0]
    merger = Merger(options=MergeOptions(drop_tables=["vhea", "vmtx", "MATH"]))
    font = merger.merge(files)
    font.recalcTimestamp = False
    for table, field in (
        ("hhea", "ascent"),
        ("hhea", "descent"),
        ("hhea", "lineGap"),
        ("head", "modified"),
        ("head", "created"),
    ):
        setattr(font[table], field, getattr(first[table], field))
    for field in ("sTypoAscender", "sTypoDescender", "sTypoLineGap", "usWinAscent", "usWinDescent"):
        setattr(font["OS/2"], field, getattr(first["OS/2"], field))
    return font


def _fractions(font: TTFont) -> None:
    """Each fraction of two small figures and the stroke between them."""
    names, glyphs, widths = font.getBestCmap(), font.getGlyphSet(), font["hmtx"]
    lift = RAISED * font["OS/2"].sCapHeight
    stroke = names[ord("⁄")]
    for sign, (over, under) in FRACTIONS.items():
        top, foot = names[ord(str(over))], names[ord(str(under))]
        first = SMALLER * widths[top][0] - CLOSER
        middle = first + widths[stroke][0] - CLOSER
        pen = TTGlyphPen(glyphs)
        pen.addComponent(top, (SMALLER, 0, 0, SMALLER, 0, lift))
        pen.addComponent(stroke, (1, 0, 0, 1, first, 0))
        pen.addComponent(foot, (SMALLER, 0, 0, SMALLER, middle, 0))
        name = f"uni{ord(sign):04X}"
        font.setGlyphOrder([*font.getGlyphOrder(), name])
        font["glyf"][name] = pen.glyph()
        widths[name] = (round(middle + SMALLER * widths[foot][0]), 0)
        for table in font["cmap"].tables:
            if table.isUnicode():
                table.cmap[ord(sign)] = name


def build(modules: Path, screen: Path, paper: Path) -> None:
    """Write every font: compressed for screens, plain for paper."""
    for weight in (400, 700):
        font = for_screens(modules, weight)
        font.flavor = "woff2"
        font.save(screen / f"atkinson-{weight}.woff2", reorderTables=True)
        for_paper(modules, FACE, weight).save(paper / f"text-{weight}.ttf", reorderTables=True)
    for_paper(modules, TITLE, 600).save(paper / "title-600.ttf", reorderTables=True)


if __name__ == "__main__":
    build(*(Path(a) for a in sys.argv[1:4]))
