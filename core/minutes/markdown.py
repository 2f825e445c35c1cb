"""Minutes as Markdown and as plain text, each drawn line with the time of its first line as its citation."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from core.minutes.templates import BUILT_IN, Template
from core.minutes.write import MinutesLine
from core.reading.chapters import Chapter


def clock(seconds: float) -> str:
    """Seconds as 4:07 or 1:04:07."""
    whole = int(seconds)
    hours, minutes = divmod(whole // 60, 60)
    return f"{hours}:{minutes:02}:{whole % 60:02}" if hours else f"{minutes}:{whole % 60:02}"


def headings(template: Template, sections: Iterable[str]) -> dict[str, str]:
    """Section → heading, in order: those of the template, then others that are named, as another template calls them."""
    known = {section.key: section.heading for one in BUILT_IN.values() for section in one.sections}
    own = {section.key: section.heading for section in template.sections}
    return own | {key: known.get(key, key.replace("_", " ").capitalize()) for key in sections if key not in own}


def sections_of(template: Template, lines: Sequence[MinutesLine]) -> list[tuple[str, list[MinutesLine]]]:
    """Headings with the lines below them; those without lines are left out."""
    names = headings(template, (line.section for line in lines))
    all_of = [(heading, [line for line in lines if line.section == key]) for key, heading in names.items()]
    return [(heading, inside) for heading, inside in all_of if inside]


def in_full(line: MinutesLine) -> str:
    """A line's words, with the day an action is due."""
    due = f" (by {line.finding.due.isoformat()})" if line.finding and line.finding.kind == "action" and line.finding.due else ""
    return f"{line.text}{due}"


def to_markdown(title: str, lines: Sequence[MinutesLine], chapters: Sequence[Chapter] = (), template: Template = BUILT_IN["plain"]) -> str:
    """A document with a heading a section."""
    return _document(title, lines, chapters, template, lambda level, text: f"{'#' * level} {_escaped(text)}", _escaped)


def to_text(title: str, lines: Sequence[MinutesLine], chapters: Sequence[Chapter] = (), template: Template = BUILT_IN["plain"]) -> str:
    """The same without any signs of markup."""
    return _document(title, lines, chapters, template, lambda level, text: text.upper() if level > 1 else f"{text}\n{'=' * len(text)}", str)


def _document(
    title: str,
    lines: Sequence[MinutesLine],
    chapters: Sequence[Chapter],
    template: Template,
    head: Callable[[int, str], str],
    plain: Callable[[str], str],
) -> str:
    parts = [head(1, title)]
    parts += [
        f"{head(2, heading)}\n\n" + "\n".join(f"- {_line(line, plain)}" for line in inside)
        for heading, inside in sections_of(template, lines)
    ]
    if chapters:
        parts.append(f"{head(2, 'Chapters')}\n\n" + "\n".join(f"- {clock(chapter.start)} {plain(chapter.title)}" for chapter in chapters))
    return "\n\n".join(parts) + "\n"


def _line(line: MinutesLine, plain: Callable[[str], str]) -> str:
    cited = f" [{clock(min(said.line.start for said in line.said))}]" if line.said else ""
    hand = f" — {line.hand}" if line.hand else ""
    return f"{plain(in_full(line))}{cited}{hand}"


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in "\\`*_[]<>#" else sign for sign in text)
