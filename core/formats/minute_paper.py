"""Minutes on paper: the PDF of a page of the minute book, by fpdf2, which takes as long to load as half of Django: it is imported where one is drawn."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import cast

from fpdf import FPDF
from fpdf.enums import TableBordersLayout, XPos, YPos
from fpdf.fonts import FontFace, TTFFont
from PIL import ImageColor

from core.formats.drawing import COLOURS, Drawing, Point, dashes
from core.formats.minute_book import CELL, FADED, INK, MARGIN, RULE, SANS, SERIF, Document, Entry, Part, Report, counted_entries


class _Page(FPDF):
    """A4 with the title at the foot of every page but the first."""

    def __init__(self, document: Document, fonts: Path):
        super().__init__(format="A4")
        self.document = document
        self.set_title(document.title)
        self.set_lang(document.language)
        self.set_margins(25, 22, 22)
        self.set_auto_page_break(True, 22)
        for family, style, file in (
            (SERIF, "", "serif.ttf"),
            (SERIF, "B", "serif-bold.ttf"),
            (SERIF, "I", "serif-italic.ttf"),
            (SANS, "", "sans.ttf"),
        ):
            self.add_font(family, style, fonts / file)
        self.fallbacks = [path.stem for path in sorted(fonts.glob("other-*.ttf"))]
        for name in self.fallbacks:
            self.add_font(name, "", fonts / f"{name}.ttf")
        self.set_fallback_fonts(self.fallbacks, exact_match=False)

    def footer(self) -> None:
        """The page's number, and on later pages what it is of."""
        self.set_y(-15)
        self.set_font(SANS, size=8.5)
        self.set_text_color(*FADED)
        self.cell(0, 5, f"{self.document.title} · {self.page_no()}" if self.page_no() > 1 else str(self.page_no()), align="R")

    def lacks(self, text: str) -> str:
        """The text with a sign of which no font has a picture written as such, so that nothing vanishes."""
        known = [font for font in self.fonts.values() if isinstance(font, TTFFont)]
        return "".join(sign if sign.isspace() or any(ord(sign) in font.cmap for font in known) else f"[U+{ord(sign):04X}]" for sign in text)


def draw(document: Document, fonts: Path, report: Report) -> bytes:
    """A page description; arguments as those of `writers.to_pdf`."""
    counted = counted_entries(document, report)
    page = _Page(document, fonts)
    page.add_page()
    page.set_text_color(*INK)
    page.set_font(SERIF, "", 20)
    page.multi_cell(0, 9, page.lacks(document.title), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_font(SANS, size=10)
    page.set_text_color(*FADED)
    page.ln(1)
    for line in document.about:
        page.multi_cell(0, 5, page.lacks(line), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    for part in document.parts:
        _heading(page, part.heading)
        if part.columns:
            _pdf_table(page, part)
            continue
        for entry in map(counted, part.entries):
            _entry(page, entry)
    if document.map:
        _pdf_map(page, document.map_heading, document.map)
    return bytes(page.output())


_FACES = {"serif": (SERIF, ""), "serif-bold": (SERIF, "B"), "sans": (SANS, "")}
_POINT = 25.4 / 72  # millimetres


def _pdf_map(page: _Page, heading: str, drawing: Drawing) -> None:
    page.add_page()
    _heading(page, heading)
    left, top = page.l_margin, page.get_y() + 1

    def put(points: Sequence[Point]) -> list[Point]:
        return [(left + x * _POINT, top + y * _POINT) for x, y in points]

    for stroke in drawing.strokes:
        colour = ImageColor.getrgb(COLOURS[stroke.colour])
        if not stroke.width:
            page.set_fill_color(*colour)
            page.polygon(put(stroke.points), style="F")
            continue
        page.set_draw_color(*colour)
        page.set_line_width(stroke.width * _POINT)
        for piece in dashes(stroke.points, 3) if stroke.dashed else [stroke.points]:
            page.polyline(put(piece))
    for words in drawing.words:
        family, style = _FACES[words.face]
        page.set_font(family, style, words.size)
        page.set_text_color(*ImageColor.getrgb(COLOURS[words.colour]))
        page.text(left + words.x * _POINT, top + words.y * _POINT, page.lacks(words.text))


def _heading(page: _Page, text: str) -> None:
    page.ln(5)
    if page.will_page_break(20):  # a heading does not stand alone at the foot of a page
        page.add_page()
    page.set_text_color(*INK)
    page.set_font(SERIF, "B", 12.5)
    page.multi_cell(0, 7, page.lacks(text), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_draw_color(*RULE)
    page.line(page.l_margin, page.get_y(), page.w - page.r_margin, page.get_y())
    page.ln(1.5)


_SURELY = 40
"""Letters that a line of an entry surely holds: twice as many are usual."""


def _entry(page: _Page, entry: Entry) -> None:
    text = page.lacks(entry.text)
    page.set_font(SERIF, "", 10.5)
    width = page.w - page.l_margin - page.r_margin - 16
    # Laying out a text is what takes long: it is tried out only where it may not fit any more.
    if page.will_page_break(5.4 * (text.count("\n") + 1 + len(text) // _SURELY)):
        height = cast(float, page.multi_cell(width, 5.4, text, align="L", dry_run=True, output="HEIGHT"))
        if height < 60 and page.will_page_break(height):
            page.add_page()
    top = page.get_y()
    page.set_font(SERIF if entry.margin.isalpha() else SANS, "I" if entry.margin.isalpha() else "", 9)
    page.set_text_color(*FADED)
    page.cell(16, 5.4, entry.margin)
    page.set_xy(page.l_margin + 16, top)
    page.set_text_color(*INK)
    page.set_font(SERIF, "", 10.5)
    page.multi_cell(width, 5.4, text, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.ln(1)


def _pdf_table(page: _Page, part: Part) -> None:
    width = page.w - page.l_margin - page.r_margin
    beside = len(part.columns) - 1
    page.set_font(SERIF, "", 10.5)
    page.set_text_color(*INK)
    page.set_draw_color(*RULE)
    faded = FontFace(family=SANS, emphasis="", size_pt=9, color=FADED)
    with page.table(
        borders_layout=TableBordersLayout.HORIZONTAL_LINES,
        col_widths=(MARGIN, width - MARGIN - CELL * beside, *[CELL] * beside),
        headings_style=faded,
        line_height=5.4,
        text_align="LEFT",
        padding=(0.6, 1, 0.6, 0),
        width=width,
    ) as table:
        heads = table.row()
        for text in ("", *part.columns):
            heads.cell(page.lacks(text))
        for entry in part.entries:
            row = table.row()
            row.cell(page.lacks(entry.margin), style=faded)
            for text in (entry.text, *entry.cells):
                row.cell(page.lacks(text))
