"""A sheet answered as a page to look at and print, or as the PDF of it."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.text import slugify

from fjeld.graphics import pdf
from fjeld.graphics.page import Page, paper_of
from fjeld.practice import Practice
from fjeld.web.ui.panel import Shown, context


class SheetPage(Shown, frozen=True, kw_only=True):
    """A sheet on a screen: where one came from, and where its PDF is."""

    page: Page
    back: str
    back_words: str
    pdf: str


def answered(
    request: HttpRequest, page: Page, practice: Practice, *, back: str, back_words: str, as_pdf: bool
) -> HttpResponse:
    """The sheet; as PDF on the paper that is asked for, else on the practice's."""
    if as_pdf:
        paper = paper_of(practice, request.GET.get("paper", ""))
        name = f"{slugify(page.title) or 'sheet'}.pdf"
        headers = {"Content-Disposition": f'inline; filename="{name}"'}
        return HttpResponse(pdf.write(page, paper), content_type=pdf.MEDIA_TYPE, headers=headers)
    shown = SheetPage(page=page, back=back, back_words=back_words, pdf=f"{request.path}.pdf")
    return render(request, "paper/sheet.html", context(shown))
