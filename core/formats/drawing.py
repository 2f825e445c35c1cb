"""A drawing of lines and words, and the forms it is taken away in: SVG and PNG. Units are points; the origin is at the top left."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from xml.etree import ElementTree

from PIL import Image, ImageDraw, ImageFont

COLOURS = {
    "paper": "#faf7ef",
    "ink": "#22303a",
    "faded": "#55626a",
    "rule": "#dcd5c4",
    "edge": "#8b8675",
    "lichen": "#4a6620",
    "clay": "#974528",
    "puddle": "#2a5f83",
}
"""The paper's own, by the names that the interface has for them."""
FONTS = {"serif": "serif.ttf", "serif-bold": "serif-bold.ttf", "sans": "sans.ttf"}
"""Name of a face → its file in the folder of fonts."""
_FAMILIES = {"serif": ("Literata, Georgia, serif", "400"), "serif-bold": ("Literata, Georgia, serif", "700"), "sans": ("Source Sans 3, sans-serif", "400")}
_SCALE, _FINER = 3, 2
"""Pixels a point of a PNG, so that a page of it prints sharply; and how much finer it is drawn than it is kept."""
Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Stroke:
    """A line through points; filled where it has no width. `at`: the second of the record it stands for."""

    points: tuple[Point, ...]
    colour: str
    width: float = 0.0
    dashed: bool = False
    at: float | None = None


@dataclass(frozen=True, slots=True)
class Words:
    """A line of text; x and y of the start of its baseline."""

    x: float
    y: float
    text: str
    face: str = "sans"
    size: float = 9.0
    colour: str = "ink"
    at: float | None = None


@dataclass(frozen=True, slots=True)
class Drawing:
    """Width, height, and what is on it, the lowest first. `told`: the same in words, for those who do not see it."""

    width: float
    height: float
    strokes: tuple[Stroke, ...]
    words: tuple[Words, ...]
    told: str


@cache
def _font(path: Path, size: float) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(path), size)


def width_of(text: str, face: str, size: float, fonts: Path) -> float:
    """Points that a text takes."""
    return _font(fonts / FONTS[face], 100).getlength(text) * size / 100


def fitted(text: str, face: str, size: float, room: float, fonts: Path) -> str:
    """The text, or as many of its words as there is room for, and an ellipsis."""
    if width_of(text, face, size, fonts) <= room:
        return text
    words = text.split()
    while len(words) > 1 and width_of(" ".join(words) + " …", face, size, fonts) > room:
        words.pop()
    return " ".join(words).rstrip(",;:") + " …"


def to_svg(drawing: Drawing) -> str:
    """SVG 1.1, with its words as words."""
    size = {"width": f"{drawing.width:g}", "height": f"{drawing.height:g}", "viewBox": f"0 0 {drawing.width:g} {drawing.height:g}"}
    root = ElementTree.Element("svg", {"xmlns": "http://www.w3.org/2000/svg", "role": "img", **size})
    ElementTree.SubElement(root, "desc").text = drawing.told
    ElementTree.SubElement(root, "rect", {"width": "100%", "height": "100%", "fill": COLOURS["paper"]})
    for stroke in drawing.strokes:
        points = " ".join(f"{x:.1f},{y:.1f}" for x, y in stroke.points)
        colour = COLOURS[stroke.colour]
        if not stroke.width:
            ElementTree.SubElement(root, "polygon", {"points": points, "fill": colour})
            continue
        looks = {"fill": "none", "stroke": colour, "stroke-width": f"{stroke.width:g}", "stroke-linejoin": "round"}
        if stroke.dashed:
            looks["stroke-dasharray"] = "3 3"
        ElementTree.SubElement(root, "polyline", {"points": points, **looks})
    for words in drawing.words:
        family, weight = _FAMILIES[words.face]
        looks = {"font-family": family, "font-weight": weight, "font-size": f"{words.size:g}", "fill": COLOURS[words.colour]}
        ElementTree.SubElement(root, "text", {"x": f"{words.x:.1f}", "y": f"{words.y:.1f}", **looks}).text = words.text
    return ElementTree.tostring(root, encoding="unicode")


def to_png(drawing: Drawing, fonts: Path) -> bytes:
    """A picture of three pixels a point. fonts: the folder with the files of FONTS."""
    scale = _SCALE * _FINER
    image = Image.new("RGB", (math.ceil(drawing.width * scale), math.ceil(drawing.height * scale)), COLOURS["paper"])
    pen = ImageDraw.Draw(image)
    for stroke in drawing.strokes:
        points = [(x * scale, y * scale) for x, y in stroke.points]
        if not stroke.width:
            pen.polygon(points, fill=COLOURS[stroke.colour])
            continue
        for piece in dashes(points, 3 * scale) if stroke.dashed else [points]:
            pen.line(piece, fill=COLOURS[stroke.colour], width=max(1, round(stroke.width * scale)), joint="curve")
    for words in drawing.words:
        font = _font(fonts / FONTS[words.face], words.size * scale)
        pen.text((words.x * scale, words.y * scale), words.text, fill=COLOURS[words.colour], font=font, anchor="ls")
    image = image.resize((image.width // _FINER, image.height // _FINER), Image.Resampling.LANCZOS)
    sink = io.BytesIO()
    image.save(sink, "PNG", optimize=True, dpi=(72 * _SCALE, 72 * _SCALE))
    return sink.getvalue()


def dashes(points: Sequence[Point], length: float) -> list[list[Point]]:
    """Every second piece of a line, each `length` long."""
    pieces: list[list[Point]] = [[points[0]]]
    left = length
    for (x0, y0), (x1, y1) in zip(points, points[1:], strict=False):
        whole = done = math.hypot(x1 - x0, y1 - y0)
        while done > left:
            done -= left
            share = 1 - done / whole
            cut = (x0 + share * (x1 - x0), y0 + share * (y1 - y0))
            pieces[-1].append(cut)
            pieces.append([cut])
            left = length
        left -= done
        pieces[-1].append((x1, y1))
    return [piece for piece in pieces[::2] if len(piece) > 1]
