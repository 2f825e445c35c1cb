"""Minutes as Markdown, each drawn line with the time of its first line as its citation."""

from __future__ import annotations

from collections.abc import Sequence

from core.minutes.write import SECTIONS, MinutesLine
from core.reading.chapters import Chapter


def clock(seconds: float) -> str:
    """Seconds as 4:07 or 1:04:07."""
    whole = int(seconds)
    hours, minutes = divmod(whole // 60, 60)
    return f"{hours}:{minutes:02}:{whole % 60:02}" if hours else f"{minutes}:{whole % 60:02}"


def to_markdown(title: str, lines: Sequence[MinutesLine], chapters: Sequence[Chapter] = ()) -> str:
    """A document with a heading a section; sections without lines are left out."""
    parts = [f"# {title}"]
    for section in dict.fromkeys([*SECTIONS, *(line.section for line in lines)]):
        inside = [line for line in lines if line.section == section]
        if inside:
            parts.append(f"## {SECTIONS.get(section, section)}\n\n" + "\n".join(f"- {_line(line)}" for line in inside))
    if chapters:
        parts.append("## Chapters\n\n" + "\n".join(f"- {clock(chapter.start)} {_escaped(chapter.title)}" for chapter in chapters))
    return "\n\n".join(parts) + "\n"


def _line(line: MinutesLine) -> str:
    due = f" (by {line.finding.due.isoformat()})" if line.finding and line.finding.kind == "action" and line.finding.due else ""
    cited = f" [{clock(min(said.line.start for said in line.said))}]" if line.said else ""
    hand = f" — {line.hand}" if line.hand else ""
    return f"{_escaped(line.text)}{due}{cited}{hand}"


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in "\\`*_[]<>#" else sign for sign in text)
