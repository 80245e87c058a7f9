"""A showing as a PDF: a page for each picture, before and after beside each other, what was done; then its check spots."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import NamedTuple
from xml.sax.saxutils import escape

from PIL import Image as Picture
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import registerFont, registerFontFamily
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Image, PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table

from common.background import State
from common.errors import Conflict
from common.store import store
from showings.fonts import BOLD, REGULAR
from showings.models import Showing, ShownPicture

_MARGIN, _GAP = 14 * mm, 5 * mm
_PAGE = landscape(A4)
_COLUMN = (_PAGE[0] - 2 * _MARGIN - _GAP) / 2
_HIGHEST, _HIGHEST_SPOT = 98 * mm, 62 * mm
_CENTIMETRES_PER_INCH = 2.54


class _Styles(NamedTuple):
    title: ParagraphStyle
    heading: ParagraphStyle
    plain: ParagraphStyle
    small: ParagraphStyle


@cache
def _styles() -> _Styles:
    registerFont(TTFont("Kite", str(REGULAR)))
    registerFont(TTFont("Kite-Bold", str(BOLD)))
    registerFontFamily("Kite", normal="Kite", bold="Kite-Bold", italic="Kite", boldItalic="Kite-Bold")
    grey = HexColor("#555555")
    plain = ParagraphStyle("plain", fontName="Kite", fontSize=9, leading=13)
    return _Styles(
        ParagraphStyle("title", fontName="Kite-Bold", fontSize=18, leading=23, spaceAfter=3 * mm),
        ParagraphStyle("heading", fontName="Kite-Bold", fontSize=12, leading=16, spaceAfter=2 * mm),
        plain,
        ParagraphStyle("small", parent=plain, fontSize=8, leading=11, textColor=grey),
    )


def pdf_of(showing: Showing) -> bytes:
    """The bytes of the PDF. Raises Conflict while one of its pictures is not made."""
    rows = list(showing.pictures.select_related("picture__original", "showing").prefetch_related("answers", "notes"))
    if missing := [row.picture.name for row in rows if row.state != State.DONE]:
        raise Conflict(f"{missing[0]} is not ready to be shown yet; try again in a moment.")
    styles = _styles()
    story: list[Flowable] = [Paragraph(escape(showing.title), styles.title)]
    if showing.words:
        story += [_text(showing.words, styles.plain), Spacer(1, 4 * mm)]
    for index, row in enumerate(rows):
        story += [PageBreak()] if index else []
        story += [*_picture(row, styles), *_spots(row, styles)]
    content = io.BytesIO()
    page = SimpleDocTemplate(
        content, pagesize=_PAGE, leftMargin=_MARGIN, rightMargin=_MARGIN, topMargin=_MARGIN, bottomMargin=_MARGIN,
        title=showing.title, author="",
    )  # fmt: skip
    page.build(story)
    return content.getvalue()


def _text(text: str, style: ParagraphStyle) -> Paragraph:
    """Words as somebody typed them: nothing in them is taken for markup, lines stay lines."""
    # The font has no Greek.
    return Paragraph(escape(text.replace("Δ", "delta ")).replace("\n", "<br/>"), style)


def _picture(row: ShownPicture, styles: _Styles) -> list[Flowable]:
    sides = [_fitted(row.file(side), _HIGHEST) for side in ("before", "after")]
    size = f"{row.width} × {row.height} px"
    if row.ppi:
        width, height = (side / row.ppi * _CENTIMETRES_PER_INCH for side in (row.width, row.height))
        size += f", printed {width:.1f} × {height:.1f} cm at {row.ppi:g} ppi"
    done = "<br/>".join(f"{number}. {escape(line)}." for number, line in enumerate(row.done(), 1))
    story: list[Flowable] = [
        _text(row.picture.name, styles.heading),
        _beside([[*sides], [_text("before", styles.small), _text("after", styles.small)]]),
        Spacer(1, 2 * mm),
        _text(size, styles.plain),
        Spacer(1, 2 * mm),
        Paragraph(done or "Nothing was done to its pixels.", styles.plain),
    ]
    for finding in row.measured():
        told = f"{finding.title}: {finding.value:.2f} {finding.unit}, {finding.word}. {finding.says}"
        story.append(_text(told, styles.small))
    return [*story, *_said(row, styles)]


def _said(row: ShownPicture, styles: _Styles) -> list[Flowable]:
    """The client's last word, and their notes."""
    said: list[Flowable] = []
    if answer := row.answer:
        verdict = "Approved" if answer.verdict == ShownPicture.Verdict.APPROVED else "Changes asked for"
        when = f"{answer.created:%d %B %Y, %H:%M} UTC"
        said += [Spacer(1, 2 * mm), _text(f"{verdict} by {answer.name}, {when}. {answer.words}", styles.plain)]
    return [*said, *(_text(f"{note.name}: {note.words}", styles.small) for note in row.notes.all())]


def _spots(row: ShownPicture, styles: _Styles) -> list[Flowable]:
    if not row.spots:
        return []
    story: list[Flowable] = [PageBreak(), _text(f"{row.picture.name}: check spots, pixel for pixel", styles.heading)]
    for number, spot in enumerate(row.shown_spots):
        sides = [_fitted(row.file(side, number), _HIGHEST_SPOT) for side in ("before", "after")]
        story += [
            _beside([[*sides], [_text(spot.name, styles.small), _text("after", styles.small)]]),
            Spacer(1, 3 * mm),
        ]
    return story


def _beside(rows: Sequence[Sequence[Flowable]]) -> Table:
    return Table(
        [list(row) for row in rows], colWidths=[_COLUMN + _GAP / 2] * 2, hAlign="LEFT",
        style=[("LEFTPADDING", (0, 0), (-1, -1), 0), ("RIGHTPADDING", (0, 0), (-1, -1), _GAP / 2),
               ("TOPPADDING", (0, 0), (-1, -1), 0), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("NOSPLIT", (0, 0), (-1, -1))],
    )  # fmt: skip


def _fitted(path: Path, highest: float) -> Image:
    """A picture as large as a column allows; as it was encoded, nothing is lost."""
    with Picture.open(store().here(path)) as picture:
        width, height = picture.size
    scale = min(_COLUMN / width, highest / height)
    return Image(str(path), width * scale, height * scale)
