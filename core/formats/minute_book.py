"""Minutes as a document to be printed and filed: DOCX (ECMA-376) and PDF, set like a page of the minute book.

Both carry the same: a head, sections with their lines, each drawn line with the time of the record it rests on in the margin, each
line by hand with its writer's initials there.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import docx
from docx.document import Document as DocumentObject
from docx.enum.text import WD_TAB_ALIGNMENT
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Mm, Pt, RGBColor
from PIL import ImageColor

from core.formats.drawing import COLOURS, Drawing, to_png
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
    """Minutes to be set. `about`: when, where, who, a line each. `language`: ISO 639-1. `map`: a drawing for the last page, `map_heading`:
    what stands over it."""

    title: str
    about: tuple[str, ...]
    parts: tuple[Part, ...]
    language: str = "en"
    map: Drawing | None = None
    map_heading: str = "Map of the talk"

    def __post_init__(self) -> None:
        """The same of its title and of what stands below it."""
        object.__setattr__(self, "title", one_line(self.title))
        object.__setattr__(self, "about", tuple(one_line(line) for line in self.about))


Report = Callable[[float], None]
"""Told the share that is set, 0 to 1."""


def untold(share: float) -> None:
    """Nobody wants to know."""


def counted_entries(document: Document, report: Report) -> Callable[[Entry], Entry]:
    """To be called with each entry that is about to be set."""
    whole, done = sum(len(part.entries) for part in document.parts), 0

    def count(entry: Entry) -> Entry:
        nonlocal done
        report(done / whole)
        done += 1
        return entry

    return count


def to_docx(document: Document, fonts: Path, report: Report = untold) -> bytes:
    """As a word processor's file, with headings as such, so that a reader can walk them. fonts: as for `writers.to_pdf`."""
    counted = counted_entries(document, report)
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
        _docx_map(made, document.map_heading, document.map, fonts)
    sink = io.BytesIO()
    made.save(sink)
    return sink.getvalue()


def _docx_map(made: DocumentObject, heading: str, drawing: Drawing, fonts: Path) -> None:
    """A picture on a page of its own, told in words to those who do not see it."""
    made.add_heading(heading, level=1).paragraph_format.page_break_before = True
    made.add_picture(io.BytesIO(to_png(drawing, fonts)), width=Pt(drawing.width))
    made.inline_shapes[-1]._inline.docPr.set("descr", prose(drawing.told))


MARGIN, CELL = 16, 26
"""Millimetres of the margin, and of a column beside the words."""


def _docx_table(made: DocumentObject, part: Part) -> None:
    """Ruled between its rows; the row of headings stands on each page."""
    table = made.add_table(rows=1, cols=len(part.columns) + 1)
    table.autofit = False
    rows = [("", *part.columns)] + [(entry.margin, entry.text, *entry.cells) for entry in part.entries]
    widths = [Mm(MARGIN), Mm(163 - MARGIN - CELL * (len(part.columns) - 1)), *[Mm(CELL)] * (len(part.columns) - 1)]
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
