"""The map of a talk: what is on it, that it fits its page, and the forms it is taken away in."""

import io
from datetime import datetime
from xml.etree import ElementTree

import docx
import pytest
from PIL import Image
from pypdf import PdfReader

from core.formats.drawing import COLOURS, dashes, fitted, to_png, to_svg, width_of
from core.formats.minute_book import Document, to_docx
from core.formats.talk_map import PAGE, draw_map
from core.formats.writers import to_pdf
from core.minutes.talk_map import MOST, map_of
from core.reading import Reading
from core.reading.base import Finding, all_said
from core.reading.chapters import Chapter
from core.record.assemble import turns_from_cues
from core.record.model import Participant, Record
from house.ground import VAR

FONTS = VAR / "fonts"

SUBJECTS = [
    ("The boiler wants a new valve and the valve wants a fitter.", "A fitter for the boiler valve costs money."),
    ("The orchard path is under water past the gate.", "Gravel on the orchard path, then."),
    ("Volunteers need gloves and a rota.", "A rota for volunteers and their gloves."),
    ("About the boiler again: the fitter wants to see that valve.", "Let him see the valve on the boiler."),
]


def talk(subjects=SUBJECTS) -> tuple[Record, Reading]:
    """A chapter a subject, two turns each, a minute long, the second speaker the longer."""
    cues = []
    for place, (first, second) in enumerate(subjects):
        cues += [("Ada Quist", 60.0 * place, 60.0 * place + 10, first), ("Bo Lind", 60.0 * place + 11, 60.0 * place + 59, second)]
    record = Record("m", turns_from_cues(cues), 60.0 * len(subjects), "en", datetime(2026, 3, 3), (Participant("Ada Quist"), Participant("Bo Lind")))
    lines = all_said(record)
    chapters = tuple(Chapter(f"Subject {place}", record.turns[2 * place].id, 60.0 * place) for place in range(len(subjects)))
    findings = (
        Finding("decision", "Gravel goes on the orchard path.", tuple(lines[3:4]) or (lines[0],), 0.9),
        Finding("action", "Bo writes a rota.", tuple(lines[5:6]) or (lines[0],), 0.8, "Bo Lind"),
        Finding("question", "When does the fitter come?", tuple(lines[6:7]) or (lines[0],), 0.7),
        Finding("decision", "The path stays as it is.", (lines[1],), 0.9, status="superseded"),
    )
    return record, Reading(findings, chapters, ())


def test_a_map_has_the_chapters_who_carried_them_what_fell_where_and_where_the_talk_came_back():
    stretches = map_of(*talk())
    assert [one.title for one in stretches] == ["Subject 0", "Subject 1", "Subject 2", "Subject 3"]
    assert [one.back_to for one in stretches] == [None, None, None, 0]
    assert [[found.text for found in one.findings] for one in stretches] == [
        [],
        ["Gravel goes on the orchard path."],
        ["Bo writes a rota."],
        ["When does the fitter come?"],
    ]
    assert [name for name, _ in stretches[0].carried] == ["Bo Lind"] and stretches[0].carried[0][1] == pytest.approx(48 / 58)
    assert map_of(Record("m", (), 0.0), Reading((), (), ())) == []


def test_a_long_talk_has_as_many_stretches_as_a_page_shows_and_nothing_is_lost():
    record, reading = talk(SUBJECTS * 10)
    stretches = map_of(record, reading)
    assert len(stretches) == MOST and sum(len(one.findings) for one in stretches) == 3
    assert stretches[0].start == 0 and all(one.end == after.start for one, after in zip(stretches, stretches[1:], strict=False))


@pytest.mark.parametrize("count", [1, 4, 40])
@pytest.mark.parametrize("width", [280.0, PAGE[0]])
def test_a_drawing_stays_within_its_page(count, width):
    record, reading = talk((SUBJECTS * 10)[:count])
    drawing = draw_map(map_of(record, reading), FONTS, width)
    assert drawing.width == width and drawing.height <= PAGE[1] + 0.01
    for one in drawing.words:
        assert one.x + width_of(one.text, one.face, one.size, FONTS) <= width and 0 < one.y < drawing.height, one.text
    assert all(0 <= x <= width and 0 <= y <= drawing.height for stroke in drawing.strokes for x, y in stroke.points)


def test_what_is_named_beneath_a_title_is_kept_or_left_by_the_room_there_is():
    record, reading = talk()
    stretches = map_of(record, reading)
    named = [one.text for one in draw_map(stretches, FONTS).words]
    assert {"Gravel goes on the orchard path.", "Bo writes a rota.", "When does the fitter come?"} <= set(named)
    short = [one.text for one in draw_map(stretches, FONTS, height=180.0).words]
    assert "Gravel goes on the orchard path." in short and "When does the fitter come?" not in short
    assert "1 min · Bo 83% · back to Subject 0" in named


def test_a_drawing_is_taken_away_as_svg_and_png_and_on_the_last_page():
    drawing = draw_map(map_of(*talk()), FONTS)
    svg = ElementTree.fromstring(to_svg(drawing))
    texts = [one.text for one in svg.iter("{http://www.w3.org/2000/svg}text")]
    assert "Subject 3" in texts and "Gravel goes" in svg.findtext("{http://www.w3.org/2000/svg}desc")
    image = Image.open(io.BytesIO(to_png(drawing, FONTS)))
    assert image.size == (round(3 * drawing.width), pytest.approx(3 * drawing.height, abs=2))
    colours = {colour for _, colour in image.convert("RGB").getcolors(1 << 24)}
    assert tuple(bytes.fromhex(COLOURS["lichen"][1:])) in colours
    document = Document("Works", (), (), map=drawing)
    last = PdfReader(io.BytesIO(to_pdf(document, FONTS))).pages[-1].extract_text()
    assert "Map of the talk" in last and "Subject 3" in last and "Bo writes a rota." in last
    made = docx.Document(io.BytesIO(to_docx(document, FONTS)))
    assert made.paragraphs[-2].text == "Map of the talk" and "Subject 3" in made.inline_shapes[0]._inline.docPr.get("descr")


def test_words_are_cut_to_the_room_and_lines_are_dashed():
    cut = fitted("A decision that goes on for very much longer than there is room", "serif", 10, 120, FONTS)
    assert cut.endswith(" …") and width_of(cut, "serif", 10, FONTS) <= 120 and fitted("Short", "serif", 10, 120, FONTS) == "Short"
    ends = [[round(x) for x, _ in piece] for piece in dashes([(0, 0), (10, 0)], 2)]
    assert ends == [[0, 2], [4, 6], [8, 10]]
