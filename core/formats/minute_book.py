"""Minutes as a document to be printed and filed: DOCX (ECMA-376) and PDF, set like a page of the minute book.

Both carry the same: a head, sections with their lines, each drawn line with the time of the record it rests on in the margin, each
line by hand with its writer's initials there.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import cast

import docx
from docx.document import Document as DocumentObject
from docx.enum.text import WD_TAB_ALIGNMENT
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Mm, Pt, RGBColor
from fpdf import FPDF
from fpdf.enums import TableBordersLayout, XPos, YPos
from fpdf.fonts import FontFace, TTFFont
from PIL import ImageColor

from core.formats.drawing import COLOURS, Drawing, Point, dashes, to_png
from core.text import one_line, prose

INK, FADED, RULE = (ImageColor.getrgb(COLOURS[name])[:3] for name in ("ink", "faded", "rule"))
SERIF, SANS = "Literata", "Source Sans 3"


@dataclass(frozen=True, slots=True)
class Entry:
    """A line with what stands in its margin: the time it rests on, or initials. `cells`: what stands beside it in a section of columns."""

    text: str
    margin: str = ""
    cells: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """XML 1.0 knows no control characters."""
        object.__setattr__(self, "text", prose(self.text))


@dataclass(frozen=True, slots=True)
class Part:
    """A section. `columns`: of a table of its entries, the first over their words; without any they are lines."""

    heading: str
    entries: tuple[Entry, ...]
    columns: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Document:
    """Minutes to be set. `about`: when, where, who, a line each. `language`: ISO 639-1. `map`: a drawing for the last page."""

    title: str
    about: tuple[str, ...]
    parts: tuple[Part, ...]
    language: str = "en"
    map: Drawing | None = None

    def __post_init__(self) -> None:
        """The same of its title and of what stands below it."""
        object.__setattr__(self, "title", one_line(self.title))
        object.__setattr__(self, "about", tuple(one_line(line) for line in self.about))


Report = Callable[[float], None]
"""Told the share that is set, 0 to 1."""


def _untold(share: float) -> None:
    pass


def _counted(document: Document, report: Report) -> Callable[[Entry], Entry]:
    """To be called with each entry that is about to be set."""
    whole, done = sum(len(part.entries) for part in document.parts), 0

    def count(entry: Entry) -> Entry:
        nonlocal done
        report(done / whole)
        done += 1
        return entry

    return count


def to_docx(document: Document, fonts: Path, report: Report = _untold) -> bytes:
    """As a word processor's file, with headings as such, so that a reader can walk them. fonts: as for `to_pdf`."""
    counted = _counted(document, report)
    made = docx.Document()
    section = made.sections[0]
    section.page_width, section.page_height = Mm(210), Mm(297)
    section.left_margin, section.right_margin, section.top_margin, section.bottom_margin = Mm(25), Mm(22), Mm(22), Mm(22)
    made.core_properties.title, made.core_properties.author, made.core_properties.language = document.title, "", document.language
    for name, font, size, colour in (("Normal", SERIF, 11, INK), ("Title", SERIF, 20, INK), ("Heading 1", SERIF, 13, INK)):
        style = made.styles[name]
        style.font.name, style.font.size, style.font.bold, style.font.color.rgb = font, Pt(size), name == "Heading 1", RGBColor(*colour)
        faces = style.element.get_or_add_rPr().get_or_add_rFonts()
        for kind in ("w:ascii", "w:hAnsi", "w:eastAsia", "w:cs"):
            faces.set(qn(kind), font)
        for theme in ("w:asciiTheme", "w:hAnsiTheme", "w:eastAsiaTheme", "w:cstheme"):
            faces.attrib.pop(qn(theme), None)
    made.add_paragraph(document.title, style="Title")
    for line in document.about:
        said = made.add_paragraph().add_run(line)
        said.font.size, said.font.color.rgb = Pt(10), RGBColor(*FADED)
        made.paragraphs[-1].paragraph_format.space_after = Pt(0)
    for part in document.parts:
        made.add_heading(part.heading, level=1)
        if part.columns:
            _docx_table(made, part)
            continue
        for entry in map(counted, part.entries):
            paragraph = made.add_paragraph()
            form = paragraph.paragraph_format
            form.left_indent, form.first_line_indent, form.space_after = Mm(16), Mm(-16), Pt(4)
            form.tab_stops.add_tab_stop(Mm(16), WD_TAB_ALIGNMENT.LEFT)
            margin = paragraph.add_run(f"{entry.margin}\t")
            margin.font.size, margin.font.color.rgb = Pt(9), RGBColor(*FADED)
            margin.italic = entry.margin.isalpha()
            paragraph.add_run(entry.text)
    if document.map:
        _docx_map(made, document.map, fonts)
    sink = io.BytesIO()
    made.save(sink)
    return sink.getvalue()


MAP = "Map of the talk"
"""What stands over it."""


def _docx_map(made: DocumentObject, drawing: Drawing, fonts: Path) -> None:
    """A picture on a page of its own, told in words to those who do not see it."""
    made.add_heading(MAP, level=1).paragraph_format.page_break_before = True
    made.add_picture(io.BytesIO(to_png(drawing, fonts)), width=Pt(drawing.width))
    made.inline_shapes[-1]._inline.docPr.set("descr", prose(drawing.told))


_MARGIN, _CELL = 16, 26
"""Millimetres of the margin, and of a column beside the words."""


def _docx_table(made: DocumentObject, part: Part) -> None:
    """Ruled between its rows; the row of headings stands on each page."""
    table = made.add_table(rows=1, cols=len(part.columns) + 1)
    table.autofit = False
    rows = [("", *part.columns)] + [(entry.margin, entry.text, *entry.cells) for entry in part.entries]
    widths = [Mm(_MARGIN), Mm(163 - _MARGIN - _CELL * (len(part.columns) - 1)), *[Mm(_CELL)] * (len(part.columns) - 1)]
    for number, row in enumerate(rows):
        cells = table.rows[0].cells if number == 0 else table.add_row().cells
        for column, (cell, text, width) in enumerate(zip(cells, row, widths, strict=True)):
            cell.width = width
            run = cell.paragraphs[0].add_run(text)
            cell.paragraphs[0].paragraph_format.space_after = Pt(2)
            if number == 0 or column == 0:
                run.font.size, run.font.color.rgb = Pt(9), RGBColor(*FADED)
                run.italic = column == 0 and text.isalpha()
    table.rows[0]._tr.get_or_add_trPr().append(OxmlElement("w:tblHeader"))
    borders = OxmlElement("w:tblBorders")
    for side in ("w:top", "w:bottom", "w:insideH"):
        line = OxmlElement(side)
        for name, value in (("w:val", "single"), ("w:sz", "4"), ("w:color", bytes(RULE).hex())):
            line.set(qn(name), value)
        borders.append(line)
    table._tbl.tblPr.append(borders)


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


def to_pdf(document: Document, fonts: Path, report: Report = _untold) -> bytes:
    """As a page description with text that can be found and copied, in reading order.

    fonts: the folder with serif.ttf, serif-bold.ttf, serif-italic.ttf and sans.ttf, and any number of other-*.ttf for signs they lack.
    """
    counted = _counted(document, report)
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
        _pdf_map(page, document.map)
    return bytes(page.output())


_FACES = {"serif": (SERIF, ""), "serif-bold": (SERIF, "B"), "sans": (SANS, "")}
_POINT = 25.4 / 72  # millimetres


def _pdf_map(page: _Page, drawing: Drawing) -> None:
    page.add_page()
    _heading(page, MAP)
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
        col_widths=(_MARGIN, width - _MARGIN - _CELL * beside, *[_CELL] * beside),
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
