"""A page written as PDF: its words flow through its columns, its drawings are lines, letters and tokens.

Drawings come from the same shapes as on a screen; how each looks is said by its tokens, in the colours of
paper. Fonts are embedded, with a glyph for every character of words and data: the file needs nothing of the
machine that prints it. The same page gives the same bytes.
"""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from fontTools.pens.basePen import BasePen
from fontTools.svgLib.path import parse_path
from reportlab.lib import enums
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.pdfgen.pathobject import PDFPathObject
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    FrameBreak,
    KeepTogether,
    NextPageTemplate,
    PageTemplate,
    Spacer,
)
from reportlab.platypus import Paragraph as Flowing
from reportlab.platypus import Table as Laid
from reportlab.platypus.tables import TableStyle

from fjeld.graphics.page import (
    FIGURE,
    Block,
    Column,
    Heading,
    KeptTogether,
    List,
    Listed,
    Page,
    Paper,
    Paragraph,
    Picture,
    Span,
    Table,
)
from fjeld.graphics.shapes import Shape
from fjeld.graphics.style import INSULATION, NO_COLOUR, PLAIN_SIZE, PRINT, Style, style_of

MEDIA_TYPE = "application/pdf"
FONTS = Path(__file__).parent / "fonts"
TEXT, BOLD, TITLE = "Fjeld-Text", "Fjeld-Bold", "Fjeld-Title"
_FILES = {TEXT: "text-400.ttf", BOLD: "text-700.ttf", TITLE: "title-600.ttf"}
#: Between the columns of a sheet, mm.
GUTTER = 6.0
#: How much larger a figure read from a ladder is than the words.
LARGER = 1.3
#: The margin of a page that is to be one sheet, mm: what any printer can still reach.
NARROW = 10.0
#: How much smaller drawings may become for a page that is to be one sheet.
SMALLER = (0.9, 0.8, 0.72)
#: Space kept free for the line at the foot of each sheet, mm.
FOOT = 9.0
#: Shapes that are for hands and ears, not for paper.
_UNSEEN = {"title", "foreignObject", "desc"}
_COLOURS = {**PRINT, **INSULATION}
_TRANSFORM = re.compile(r"(translate|scale|rotate)\(([^)]*)\)")


@cache
def _fonts() -> None:
    """The fonts, told to the writer once."""
    for name, file in _FILES.items():
        pdfmetrics.registerFont(TTFont(name, str(FONTS / file)))
    pdfmetrics.registerFontFamily(TEXT, normal=TEXT, bold=BOLD, italic=TEXT, boldItalic=BOLD)


def write(page: Page, paper: Paper) -> bytes:
    """The page on as many sheets as it takes; on one where that is wanted and its drawings allow it."""
    _fonts()
    data, sheets = _written(page, paper, 1.0)
    if not page.one or sheets == 1:
        return data
    smaller = (_written(page, paper, scale) for scale in SMALLER)
    return next((found for found, n in smaller if n == 1), data)


def _written(page: Page, paper: Paper, scale: float) -> tuple[bytes, int]:
    """The file, its drawings at most ``scale`` times as high as the page says, and its number of sheets."""
    stream = io.BytesIO()
    wide, high = paper.wide * mm, paper.high * mm
    margin = (NARROW if page.one else paper.margin) * mm
    document = BaseDocTemplate(
        stream,
        pagesize=(wide, high),
        title=page.title,
        author="",
        creator="Fjeld",
        lang=page.lang,
        invariant=True,
        initialFontName=TEXT,
    )
    writer = _Words(page.size, scale)
    room = wide - 2 * margin
    head = [f for block in page.head for f in writer.flow(block)]
    above = sum(f.wrap(room, high)[1] + f.getSpaceBefore() + f.getSpaceAfter() for f in head)
    above = min(above, high / 2)
    foot = margin + FOOT * mm
    body = high - margin - foot
    each = (room - GUTTER * mm * (page.columns - 1)) / page.columns

    def frame(left: float, low: float, wide: float, high: float) -> Frame:
        return Frame(left, low, wide, high, leftPadding=0, rightPadding=0, topPadding=0, bottomPadding=0)

    def frames(top: float) -> list[Frame]:
        return [frame(margin + n * (each + GUTTER * mm), foot, each, top) for n in range(page.columns)]

    lead = frame(margin, foot + body - above, room, above)

    def numbered(canvas: Canvas, template: BaseDocTemplate) -> None:
        canvas.setFont(TEXT, 7.5)
        canvas.setFillColor(HexColor(PRINT["ink2"]))
        canvas.drawString(margin, margin + 10, page.foot)
        canvas.drawRightString(wide - margin, margin, f"{page.title} · {template.page}")

    document.addPageTemplates(
        [
            PageTemplate("first", [lead, *frames(body - above)], onPage=numbered),
            PageTemplate("next", frames(body), onPage=numbered),
        ]
    )
    flow: list[Flowable] = [NextPageTemplate("next"), *head, FrameBreak()]
    flow += [f for block in page.blocks for f in writer.flow(block)]
    document.build(flow)
    return stream.getvalue(), document.page


class _Words:
    """The blocks of a page as what flows, in type of one body size (points)."""

    def __init__(self, size: float, scale: float) -> None:
        self.size, self.scale = size, scale
        self.body = ParagraphStyle(
            "body", fontName=TEXT, fontSize=size, leading=size * 1.24, textColor=HexColor(PRINT["ink"])
        )
        self.figures = ParagraphStyle("figures", parent=self.body, alignment=enums.TA_RIGHT)
        # Its base line as far above the foot of its row as the words' beside it.
        ascent = pdfmetrics.getAscent(TEXT) / 1000
        self.large = ParagraphStyle(
            "large",
            parent=self.figures,
            fontSize=size * LARGER,
            leading=size * (1.24 - ascent) + size * LARGER * ascent,
        )
        self.headings = {
            level: ParagraphStyle(
                f"h{level}",
                parent=self.body,
                fontName=TITLE,
                fontSize=size * k,
                leading=size * k * 1.22,
                spaceBefore=size * (0.7 if level > 1 else 0),
                spaceAfter=size * 0.2,
                keepWithNext=1,
            )
            for level, k in ((1, 1.7), (2, 1.2), (3, 1.05))
        }

    def flow(self, block: Block) -> list[Flowable]:
        """What a block is on paper."""
        match block:
            case Heading():
                beside = (
                    f' <font name="{TEXT}" size="{self.size}">{_kept(block.beside)}</font>'
                    if block.beside
                    else ""
                )
                return [Flowing(_kept(block.words) + beside, self.headings[block.level])]
            case Paragraph():
                return [self._paragraph(block)]
            case Table():
                return [self._table(block), Spacer(0, self.size * 0.5)]
            case List():
                return [self._line(each) for each in block.lines]
            case Picture():
                return [_PictureFlow(block.shape, block.high * self.scale), Spacer(0, self.size * 0.3)]
            case KeptTogether():
                return [KeepTogether([f for b in block.blocks for f in self.flow(b)])]

    def _paragraph(self, block: Paragraph) -> Flowable:
        if not block.caution:
            return Flowing(
                self._markup(block.runs), ParagraphStyle("said", parent=self.body, spaceAfter=self.size * 0.3)
            )
        framed = ParagraphStyle(
            "caution",
            parent=self.body,
            borderColor=HexColor(PRINT["ink"]),
            borderWidth=1.2,
            borderPadding=3,
            borderRadius=2,
            spaceBefore=5,
            spaceAfter=6,
            leftIndent=4,
            rightIndent=4,
        )
        return Flowing(self._markup(block.runs), framed)

    def _markup(self, runs: Sequence[Span]) -> str:
        found = []
        for run in runs:
            words = _kept(run.words)
            if run.quiet:
                words = f'<font color="{PRINT["ink2"]}">{words}</font>'
            found.append(f"<b>{words}</b>" if run.strong or run.large else words)
        return "".join(found)

    def _line(self, listed: Listed) -> Flowable:
        """A line of a list, its box to tick or its point hanging before it."""
        room = self.size * 1.5
        style = ParagraphStyle("listed", parent=self.body, leftIndent=room, spaceAfter=self.size * 0.12)
        return _Ticked(Flowing(self._markup(listed.runs), style), listed.done, self.size)

    def _cell(self, column: Column, cell: Span) -> ParagraphStyle:
        return self.large if cell.large else self.figures if column.figures else self.body

    def _table(self, block: Table) -> Flowable:
        quiet = ParagraphStyle(
            "head", parent=self.body, fontSize=self.size * 0.84, textColor=HexColor(PRINT["ink2"])
        )
        right = ParagraphStyle("head right", parent=quiet, alignment=enums.TA_RIGHT)
        head = [Flowing(_kept(c.title), right if c.figures else quiet) for c in block.columns]
        rows = [
            [
                Flowing(self._markup([cell]), self._cell(column, cell))
                for column, cell in zip(block.columns, row, strict=True)
            ]
            for row in block.rows
        ]
        style = TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.5, HexColor(PRINT["hair"])),
                ("FONTNAME", (0, 0), (-1, -1), TEXT),
                ("VALIGN", (0, 0), (-1, -1), "BOTTOM"),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
                ("RIGHTPADDING", (0, 0), (-1, -1), 6),
                ("TOPPADDING", (0, 0), (-1, -1), 1.5),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
            ]
        )
        return _Laid([head, *rows], _widths(block, self.size), style)


def _widths(table: Table, size: float) -> list[float]:
    """What each column would take on one line, points."""
    found = []
    for n, column in enumerate(table.columns):
        cells = [(column.title, TEXT, size * 0.84)]
        cells += [(r[n].words, BOLD, size * (LARGER if r[n].large else 1)) for r in table.rows]
        found.append(max(pdfmetrics.stringWidth(words, font, s) for words, font, s in cells) + 8)
    return found


class _Laid(Flowable):
    """A table as wide as its column, what is over shared by what its columns take."""

    def __init__(self, rows: list[list[Flowable]], wanted: list[float], style: TableStyle) -> None:
        super().__init__()
        self.rows, self.wanted, self.style = rows, wanted, style
        self.inner: Laid | None = None

    def _laid(self, wide: float) -> Laid:
        k = wide / sum(self.wanted)
        return Laid(self.rows, [w * k for w in self.wanted], style=self.style, repeatRows=1)

    def wrap(self, wide: float, high: float) -> tuple[float, float]:
        self.inner = self._laid(wide)
        size: tuple[float, float] = self.inner.wrap(wide, high)
        return size

    def split(self, wide: float, high: float) -> list[Flowable]:
        found: list[Flowable] = self._laid(wide).split(wide, high)
        return found

    def draw(self) -> None:
        if self.inner is not None:
            self.inner.drawOn(self.canv, 0, 0)


class _Ticked(Flowable):
    """A line of a list with its mark: a box, crossed where done, or a point."""

    def __init__(self, words: Flowing, done: bool | None, size: float) -> None:
        super().__init__()
        self.words, self.done, self.size = words, done, size

    def wrap(self, wide: float, high: float) -> tuple[float, float]:
        self.width, self.height = self.words.wrap(wide, high)
        return self.width, self.height

    def getSpaceAfter(self) -> float:
        after: float = self.words.getSpaceAfter()
        return after

    def draw(self) -> None:
        canvas, edge = self.canv, self.size * 0.82
        top = self.height - self.size * 1.05
        canvas.setStrokeColor(HexColor(PRINT["ink"]))
        canvas.setLineWidth(0.8)
        if self.done is None:
            canvas.setFillColor(HexColor(PRINT["ink"]))
            canvas.circle(self.size * 0.6, top + edge * 0.4, self.size * 0.13, stroke=0, fill=1)
        else:
            canvas.rect(0, top, edge, edge, stroke=1, fill=0)
        if self.done:
            canvas.line(0, top, edge, top + edge)
            canvas.line(0, top + edge, edge, top)
        self.words.drawOn(canvas, 0, 0)


def _kept(words: str) -> str:
    """Words as markup, no figure parted from its unit."""
    return escape(FIGURE.sub(lambda found: found[0].replace(" ", "\u00a0"), words))


class _PictureFlow(Flowable):
    """A drawing in the flow."""

    def __init__(self, shape: Shape, highest: float) -> None:
        super().__init__()
        self.shape, self.highest = shape, highest
        self.view = _view(shape)

    def wrap(self, wide: float, high: float) -> tuple[float, float]:
        self.k = min(wide / self.view[2], self.highest * mm / self.view[3], high / self.view[3])
        self.width, self.height = self.view[2] * self.k, self.view[3] * self.k
        return self.width, self.height

    def draw(self) -> None:
        draw(self.canv, self.shape, self.k)


def _view(shape: Shape) -> tuple[float, float, float, float]:
    """The window of a drawing: left, top, width and height, px."""
    left, top, wide, high = (float(v) for v in dict(shape.attributes)["viewBox"].split())
    return left, top, wide, high


def draw(canvas: Canvas, shape: Shape, k: float) -> None:
    """An SVG's shapes from the origin up, ``k`` points to a pixel; clipped to its window."""
    left, top, wide, high = _view(shape)
    canvas.saveState()
    canvas.scale(k, -k)
    canvas.translate(-left, -top - high)
    window = canvas.beginPath()
    window.rect(left, top, wide, high)
    canvas.clipPath(window, stroke=0, fill=0)
    for child in shape.children:
        _Ink(canvas).draw(child, 1.0, "")
    canvas.restoreState()


#: Words of one size with the shift before them: across and down.
Piece = tuple[str, float, float, float]


class _Ink:
    """Draws shapes; y runs down, as in the drawing."""

    def __init__(self, canvas: Canvas) -> None:
        self.canvas = canvas

    def draw(self, shape: Shape, opacity: float, anchor: str) -> None:
        """A shape with all within it, seen through its groups' ``opacity``; words stand by ``anchor``."""
        if shape.tag in _UNSEEN:
            return
        given = dict(shape.attributes)
        style = style_of(given.get("class", ""))
        seen = opacity * (1.0 if style.opacity is None else style.opacity)
        canvas = self.canvas
        canvas.saveState()
        for kind, figures in _TRANSFORM.findall(given.get("transform", "")):
            self._transform(kind, [float(v) for v in figures.replace(",", " ").split()])
        if shape.tag in ("g", "a", "svg"):
            for child in shape.children:
                self.draw(child, seen, given.get("text-anchor", anchor))
        elif shape.tag == "text":
            self._text(shape, given, style, seen, given.get("text-anchor", style.anchor or anchor or "start"))
        else:
            self._outline(shape.tag, given, style, seen)
        canvas.restoreState()

    def _transform(self, kind: str, by: list[float]) -> None:
        canvas = self.canvas
        if kind == "translate":
            canvas.translate(by[0], by[1] if len(by) > 1 else 0.0)
        elif kind == "scale":
            canvas.scale(by[0], by[-1])
        else:
            x, y = by[1:] if len(by) > 1 else (0.0, 0.0)
            canvas.translate(x, y)
            canvas.rotate(by[0])
            canvas.translate(-x, -y)

    def _outline(self, tag: str, given: dict[str, str], style: Style, seen: float) -> None:
        canvas = self.canvas
        path = canvas.beginPath()
        outline: Callable[[PDFPathObject, dict[str, str]], object] = _OUTLINES[tag]
        outline(path, given)
        # What says nothing of its ground is filled, as in any SVG; a line has none.
        fill = style.fill or ("none" if tag == "line" else "ink")
        stroke = style.stroke or "none"
        filled, drawn = fill not in NO_COLOUR, stroke not in NO_COLOUR
        if filled:
            canvas.setFillColor(HexColor(_COLOURS[fill]))
            canvas.setFillAlpha(seen * (1.0 if style.fill_opacity is None else style.fill_opacity))
        if drawn:
            self._pen(style, stroke, seen)
        canvas.drawPath(
            path, stroke=int(drawn), fill=int(filled), fillMode=int(given.get("fill-rule") != "evenodd")
        )

    def _pen(self, style: Style, stroke: str, seen: float) -> None:
        canvas = self.canvas
        canvas.setStrokeColor(HexColor(_COLOURS[stroke]))
        canvas.setStrokeAlpha(seen * (1.0 if style.stroke_opacity is None else style.stroke_opacity))
        canvas.setLineWidth(1.0 if style.width is None else style.width)
        canvas.setLineCap({"round": 1, "square": 2}.get(style.cap or "", 0))
        canvas.setLineJoin(1 if style.join == "round" else 0)
        if style.dash:
            canvas.setDash(list(style.dash))

    def _text(self, shape: Shape, given: dict[str, str], style: Style, seen: float, anchor: str) -> None:
        """Words, or spans of them one after another, each with its own token and shift."""
        spans = shape.children or (shape,)
        font = TITLE if style.title else BOLD if style.bold else TEXT
        pieces = []
        for span in spans:
            own = dict(span.attributes) if span is not shape else {}
            size = style_of(own.get("class", "")).size or style.size or PLAIN_SIZE
            pieces.append((span.text, size, float(own.get("dy", 0)), float(own.get("dx", 0))))
        wide = sum(pdfmetrics.stringWidth(words, font, size) + dx for words, size, _, dx in pieces)
        x = float(given["x"]) - {"middle": wide / 2, "end": wide}.get(anchor, 0.0)
        y = float(given["y"])
        canvas = self.canvas
        for layer in ("halo", "letters") if style.halo else ("letters",):
            canvas.saveState()
            canvas.translate(x, y)
            canvas.scale(1, -1)
            self._letters(pieces, font, style=style, seen=seen, under=layer == "halo")
            canvas.restoreState()

    def _letters(self, pieces: Sequence[Piece], font: str, *, style: Style, seen: float, under: bool) -> None:
        canvas = self.canvas
        if under:
            self._pen(
                Style(width=style.halo, join="round", stroke_opacity=style.stroke_opacity), "panel", seen
            )
        else:
            canvas.setFillColor(HexColor(_COLOURS[style.fill or "ink"]))
            canvas.setFillAlpha(seen)
        x = y = 0.0
        for words, size, dy, dx in pieces:
            x, y = x + dx, y - dy
            line = canvas.beginText(x, y)
            line.setFont(font, size)
            line.setTextRenderMode(1 if under else 0)
            line.textOut(words)
            canvas.drawText(line)
            x += pdfmetrics.stringWidth(words, font, size)


class _Pen(BasePen):
    """The path of an SVG, drawn as a PDF's."""

    def __init__(self, path: PDFPathObject) -> None:
        super().__init__(None)
        self.path = path

    def _moveTo(self, pt: tuple[float, float]) -> None:
        self.path.moveTo(*pt)

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self.path.lineTo(*pt)

    def _curveToOne(self, a: Any, b: Any, end: Any) -> None:
        self.path.curveTo(*a, *b, *end)

    def _closePath(self) -> None:
        self.path.close()


def _figures(given: dict[str, str], *names: str) -> list[float]:
    return [float(given[name]) for name in names]


def _rect(path: PDFPathObject, given: dict[str, str]) -> None:
    x, y, wide, high = _figures(given, "x", "y", "width", "height")
    radius = min(float(given.get("rx", 0)), wide / 2, high / 2)
    if radius:
        path.roundRect(x, y, wide, high, radius)
    else:
        path.rect(x, y, wide, high)


def _line(path: PDFPathObject, given: dict[str, str]) -> None:
    x1, y1, x2, y2 = _figures(given, "x1", "y1", "x2", "y2")
    path.moveTo(x1, y1)
    path.lineTo(x2, y2)


def _ellipse(path: PDFPathObject, given: dict[str, str]) -> None:
    cx, cy, rx, ry = _figures(given, "cx", "cy", "rx", "ry")
    path.ellipse(cx - rx, cy - ry, 2 * rx, 2 * ry)


#: How each kind of outline is drawn.
_OUTLINES = {
    "rect": _rect,
    "line": _line,
    "ellipse": _ellipse,
    "circle": lambda path, given: path.circle(*_figures(given, "cx", "cy", "r")),
    "path": lambda path, given: parse_path(given["d"], _Pen(path)),
}
