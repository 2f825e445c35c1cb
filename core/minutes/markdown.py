"""Minutes as Markdown and as plain text, each drawn line with the time of its first line as its citation."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from core.minutes.templates import BUILT_IN, Template
from core.minutes.write import MinutesLine
from core.reading.base import first_name
from core.reading.chapters import Chapter
from core.text import Put, as_written


def clock(seconds: float) -> str:
    """Seconds as 4:07 or 1:04:07."""
    whole = int(seconds)
    hours, minutes = divmod(whole // 60, 60)
    return f"{hours}:{minutes:02}:{whole % 60:02}" if hours else f"{minutes}:{whole % 60:02}"


def headings(template: Template, sections: Iterable[str], put: Put = as_written) -> dict[str, str]:
    """Section → heading, in order: those of the template, then others that are named, as another template calls them, which is `put`."""
    known = {section.key: put(section.heading) for one in BUILT_IN.values() for section in one.sections}
    own = {section.key: section.heading for section in template.sections}
    return own | {key: known.get(key, key.replace("_", " ").capitalize()) for key in sections if key not in own}


def sections_of(template: Template, lines: Sequence[MinutesLine], put: Put = as_written) -> list[tuple[str, list[MinutesLine]]]:
    """Headings with the lines below them; those without lines are left out. put: as for `headings`."""
    names = headings(template, (line.section for line in lines), put)
    all_of = [(heading, [line for line in lines if line.section == key]) for key, heading in names.items()]
    return [(heading, inside) for heading, inside in all_of if inside]


def in_full(line: MinutesLine, put: Put = as_written) -> str:
    """A line's words, with what is agreed of an action, which is `put`: whose it is where the words do not say, its day, whether it is done."""
    action = line.action
    if action is None:
        return line.text
    owner = action.owner if action.owner and first_name(action.owner).lower() not in line.text.lower() else None
    agreed = [owner, action.due and put("by {day}").format(day=action.due.isoformat()), put("done") if action.done else None]
    said = ", ".join(part for part in agreed if part)
    return f"{line.text} ({said})" if said else line.text


@dataclass(frozen=True, slots=True)
class _Signs:
    """How a text form marks what: a heading of a level, plain text, the beginning of a line."""

    head: Callable[[int, str], str]
    plain: Callable[[str], str]
    item: Callable[[MinutesLine], str]


def _box(line: MinutesLine) -> str:
    """Actions are a list of tasks, as GitHub Flavored Markdown has it."""
    return "- " if line.action is None else "- [x] " if line.action.done else "- [ ] "


_MARKDOWN = _Signs(lambda level, text: f"{'#' * level} {_escaped(text)}", lambda text: _escaped(text), _box)
_TEXT = _Signs(lambda level, text: text.upper() if level > 1 else f"{text}\n{'=' * len(text)}", str, lambda line: "- ")


def to_markdown(
    title: str,
    lines: Sequence[MinutesLine],
    chapters: Sequence[Chapter] = (),
    template: Template = BUILT_IN["plain"],
    about: Sequence[str] = (),
    put: Put = as_written,
) -> str:
    """A document with a heading a section. about: when, where and who, a line each below the title. put: what is not of the template."""
    return _document(title, lines, chapters, template, about, put, _MARKDOWN)


def to_text(
    title: str,
    lines: Sequence[MinutesLine],
    chapters: Sequence[Chapter] = (),
    template: Template = BUILT_IN["plain"],
    about: Sequence[str] = (),
    put: Put = as_written,
) -> str:
    """The same without any signs of markup."""
    return _document(title, lines, chapters, template, about, put, _TEXT)


def _document(
    title: str, lines: Sequence[MinutesLine], chapters: Sequence[Chapter], template: Template, about: Sequence[str], put: Put, signs: _Signs
) -> str:
    parts = [signs.head(1, title), *map(signs.plain, about)]
    parts += [
        f"{signs.head(2, heading)}\n\n" + "\n".join(signs.item(line) + _line(line, signs.plain, put) for line in inside)
        for heading, inside in sections_of(template, lines, put)
    ]
    if chapters:
        told = "\n".join(f"- {clock(chapter.start)} {signs.plain(chapter.title)}" for chapter in chapters)
        parts.append(f"{signs.head(2, put('Chapters'))}\n\n{told}")
    return "\n\n".join(parts) + "\n"


def _line(line: MinutesLine, plain: Callable[[str], str], put: Put) -> str:
    cited = f" [{clock(min(said.line.start for said in line.said))}]" if line.said else ""
    hand = f" — {line.hand}" if line.hand else ""
    return f"{plain(in_full(line, put))}{cited}{hand}"


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in "\\`*_[]<>#" else sign for sign in text)
