"""The palette and the type, held to their figures."""

import ast
import unicodedata
from itertools import combinations
from pathlib import Path

import pytest
from fontTools.ttLib import TTFont

import fjeld
from fjeld.graphics.style import DAY, HEADLAMP

WEB = Path(fjeld.__file__).parent / "web"
PAPER = Path(fjeld.__file__).parent / "graphics" / "fonts"


def palette(name):
    return {"day": DAY, "headlamp": HEADLAMP}[name]


def linear(colour):
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    return [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]


def luminance(colour):
    r, g, b = linear(colour)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a, b):
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", ["day", "headlamp"])
@pytest.mark.parametrize("ink", ["ink", "ink2", "ink3", "rowan", "lichen", "fjord"])
@pytest.mark.parametrize("ground", ["paper", "panel"])
def test_text_stands_out(theme, ink, ground):
    found = palette(theme)
    assert contrast(found[ink], found[ground]) >= (4.5 if ink != "fjord" or theme == "day" else 4.4)


@pytest.mark.parametrize("theme", ["day", "headlamp"])
def test_lines_and_buttons_stand_out(theme):
    found = palette(theme)
    assert contrast(found["line"], found["panel"]) >= 3
    assert contrast(found["on-lichen"], found["lichen"]) >= 4.5


#: Viénot, Brettel and Mollon (1999): what a person without the red or the green cone sees, in linear RGB.
BLIND = {
    "protan": ((0.11238, 0.88762, 0.0), (0.11238, 0.88762, 0.0), (0.00401, -0.00401, 1.0)),
    "deutan": ((0.29275, 0.70725, 0.0), (0.29275, 0.70725, 0.0), (-0.02234, 0.02234, 1.0)),
}


def seen(colour, kind):
    rgb = linear(colour)
    if kind:
        rgb = [sum(m * c for m, c in zip(row, rgb, strict=True)) for row in BLIND[kind]]
    x, y, z = (
        sum(m * c for m, c in zip(row, rgb, strict=True))
        for row in ((0.4124, 0.3576, 0.1805), (0.2126, 0.7152, 0.0722), (0.0193, 0.1192, 0.9505))
    )
    f = [
        c ** (1 / 3) if c > 0.008856 else 7.787 * c + 16 / 116
        for c in (max(x, 0) / 0.9505, max(y, 0), max(z, 0) / 1.089)
    ]
    return 116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])


@pytest.mark.parametrize("theme", ["day", "headlamp"])
@pytest.mark.parametrize("kind", [None, "protan", "deutan"])
def test_meanings_are_told_apart_by_colour_blind_eyes(theme, kind):
    found = palette(theme)
    for a, b in combinations(("rowan", "lichen", "fjord", "glow"), 2):
        apart = (
            sum((p - q) ** 2 for p, q in zip(seen(found[a], kind), seen(found[b], kind), strict=True)) ** 0.5
        )
        assert apart >= 14, (a, b, apart)


def said(source):
    """The texts of a module that are not about it: all its constants but docstrings."""
    tree = ast.parse(source)
    about = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in about:
            yield node.value


def characters():
    """Every character of words and data: templates, tables, demo jobs, what the program says."""
    root = Path(fjeld.__file__).parent
    found = set()
    for file in [*WEB.rglob("templates/**/*.html"), *root.rglob("*.toml"), *root.rglob("demo/*.json")]:
        found |= set(file.read_text())
    for file in root.rglob("*.py"):
        # What is written in lengths and quantities is also read: signs that people may type are no words.
        for text in said(file.read_text()):
            found |= set(text)
    return {c for c in found if ord(c) > 127 and c.isprintable() and unicodedata.category(c) != "Co"}


#: Only looked for in what people type or files bring, and never written.
ONLY_READ = set("\u202f‹›")


@pytest.mark.parametrize(
    "font",
    [
        *(WEB / "static" / "fonts").glob("atkinson-*.woff2"),
        *PAPER.glob("*.ttf"),
    ],
    ids=lambda f: f.name,
)
def test_every_character_used_is_in_the_fonts(font):
    covered = set(TTFont(font).getBestCmap())
    assert {*map(ord, "Ω⅛≤→³")} <= covered
    missing = {c for c in characters() - ONLY_READ if ord(c) not in covered}
    assert not missing, {f"{c} U+{ord(c):04X}" for c in missing}


def test_names_of_people_and_rooms_can_be_printed():
    """On paper whole alphabets, since nothing stands in for a letter that a font has not."""
    for file in PAPER.glob("*.ttf"):
        covered = set(TTFont(file).getBestCmap())
        assert {*map(ord, "ŁódźÅsgårdžЖукΔέλταẞñœ")} <= covered, file.name


def test_fonts_have_tabular_figures_and_fractions():
    for file in (WEB / "static" / "fonts").glob("atkinson-*.woff2"):
        features = {r.FeatureTag for r in TTFont(file)["GSUB"].table.FeatureList.FeatureRecord}
        assert {"frac", "tnum"} <= features


def test_the_page_is_light():
    """First visit, compressed: scripts, style, fonts."""
    import gzip

    total = sum(
        len(gzip.compress(f.read_bytes()))
        for f in (WEB / "static").rglob("*")
        if f.suffix in {".js", ".css", ".woff2"}
    )
    assert total <= 180_000, total
