"""A reading laid out as minutes, by a template."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date

from core.minutes.templates import BUILT_IN, FINDINGS, Section, Template
from core.reading import Reading
from core.reading.base import Finding, Said, all_said
from core.reading.chapters import Chapter
from core.reading.owner import as_typed
from core.reading.passages import STRUCTURED, SUBJECTS, told
from core.reading.words import terms
from core.record.model import Record

WORDS_A_MINUTE = 238
"""How fast English is read silently (Brysbaert 2019)."""
READ_WITHIN = 5 / 60
"""Minutes of reading for a minute of talk: those of an hour are read in five (common practice)."""
_LEAST = 260
"""Words that even short minutes may have."""
_QUOTE = re.compile(r"^(.*?“)(.*)(”)$", re.DOTALL)
_QUOTED = 24
"""Words of a line that are quoted where room is short."""


@dataclass(frozen=True, slots=True)
class Agreed:
    """Whose an action is, when it is due, whether it is done; None for what is not said."""

    owner: str | None = None
    due: date | None = None
    done: bool = False


@dataclass(frozen=True, slots=True)
class MinutesLine:
    """A line of the minutes. `hand` is None for a drawn line, else whose words it is in; a drawn line has at least one line of the record.

    `drawn` is True also for a drawn line that a person has worded anew, confirmed or taken out. `held`: a person confirmed it, took it
    out or put it where it is, so that it stays as it is though its words are drawn. `weight`: the more, the sooner it is kept where room is short.
    `agreed`: of an action that people had a say in; else it is as it was found.
    """

    section: str
    text: str
    said: tuple[Said, ...] = ()
    finding: Finding | None = None
    hand: str | None = None
    drawn: bool = True
    held: str | None = None
    weight: float = 1.0
    agreed: Agreed | None = None

    @property
    def action(self) -> Agreed | None:
        """Who, by when, and whether it is done, where it states an action."""
        found = self.finding if self.finding and self.finding.kind == "action" else None
        return self.agreed or (Agreed(found.owner, found.due) if found else None)

    @property
    def kept(self) -> str | None:
        """The mark of whoever it belongs to: whose hand it is in, or who held it."""
        return self.hand or self.held


def write_minutes(reading: Reading, record: Record, template: Template = BUILT_IN["plain"]) -> list[MinutesLine]:
    """Drawn lines in the order of the template's sections, and of time within each. Only what is standing is stated.

    Together they can be read in five minutes for an hour of talk: where there is more, the least weighty passages are left out, then
    the least sure findings.
    """
    lines = all_said(record)
    written: list[MinutesLine] = []
    stated: set[int] = set()
    moved: set[int] = set()
    for section in template.sections:
        drawn = list(_section(section, reading, record, lines, stated, moved))
        chosen = sorted(drawn, key=lambda line: -line.weight)[: section.most]
        kept = [line for line in drawn if line in chosen]
        written += kept
        if section.takes != ("gist",):
            stated |= {said.index for line in kept for said in line.said}
        if section.takes == ("motions",):
            moved = {said.index for line in kept for said in line.said}
    return _within(written, max(_LEAST, round(record.duration / 60 * READ_WITHIN * WORDS_A_MINUTE)))


def _section(
    section: Section, reading: Reading, record: Record, lines: Sequence[Said], stated: set[int], moved: set[int]
) -> Iterable[MinutesLine]:
    """What goes into a section, in order of time. `stated`: numbers of lines that passages rest on in sections before; `moved`: motions."""
    counts = _chooser(section, reading, record)
    made: list[MinutesLine] = []
    for taken in section.takes:
        if taken == "gist":
            made += [MinutesLine(section.key, sentence.text, sentence.said, weight=3.0) for sentence in reading.gist]
        elif taken == "chapters":
            made += [
                MinutesLine(section.key, chapter.title, (first,), weight=2.5)
                for chapter in reading.chapters
                if (first := next((said for said in lines if said.turn == chapter.from_turn), None))
            ]
        elif taken in FINDINGS:
            made += [
                MinutesLine(
                    section.key, finding.text, finding.said, finding, weight=1.5 + finding.confidence if taken in FINDINGS[:3] else 0.6
                )
                for finding in reading.findings
                if finding.kind == taken
                and finding.status == "standing"
                and any(map(counts, finding.said))
                and not _in_motion(finding, moved)
            ]
        else:
            chosen = [said for said in lines if counts(said)]
            passages = SUBJECTS[taken](chosen, record)
            heaviest = max((passage.weight for passage in passages), default=1.0)
            made += [
                MinutesLine(
                    section.key, passage.text, passage.said, weight=2.2 if passage.weight >= STRUCTURED else passage.weight / heaviest
                )
                for passage in passages
                if not {said.index for said in passage.said} <= stated
            ]
    if not section.takes:
        made = [
            MinutesLine(section.key, told(said), (said,), weight=min(25, len(said.text.split())) / 25)
            for said in lines
            if counts(said) and len(said.text.split()) >= 4
        ]
    # What happened is told in the order of the clock and not of the telling.
    return made if section.takes == ("happened",) else sorted(made, key=lambda line: min(said.index for said in line.said))


def _in_motion(finding: Finding, moved: set[int]) -> bool:
    """What a motion says already is not said again as a decision."""
    return finding.kind == "decision" and bool({said.index for said in finding.said} & moved)


def _chooser(section: Section, reading: Reading, record: Record) -> Callable[[Said], bool]:
    """Does a line count for a section: by who says it, what is talked about, the words in it?"""
    wanted = [name.casefold() for name in section.speakers]
    roles = {one.name: one.role.casefold() for one in record.participants}
    speakers = {
        speaker
        for speaker in record.speakers
        if any(name in (speaker.casefold(), speaker.casefold().split()[0]) or name in roles.get(speaker, "") for name in wanted)
    }
    cues = re.compile(r"\b(?:" + "|".join(re.escape(cue.lower()) for cue in section.cues) + ")") if section.cues else None
    about = _turns_about(section.topics, reading.chapters, record) if section.topics else None

    def counts(said: Said) -> bool:
        return (
            (not wanted or said.speaker in speakers)
            and (about is None or said.turn in about)
            and (cues is None or bool(cues.search(as_typed(said.text))))
        )

    return counts


def _turns_about(topics: Sequence[str], chapters: Sequence[Chapter], record: Record) -> set[int]:
    """Turns of the chapters in which a topic comes up in the title or in a tenth of the turns, and turns that name it."""
    wanted = [set(terms(topic)) for topic in topics]
    bags = {turn.id: set(terms(turn.text)) for turn in record.turns}
    naming = {turn for turn, bag in bags.items() if any(words and words <= bag for words in wanted)}
    about = set(naming)
    for place, chapter in enumerate(chapters):
        end = chapters[place + 1].from_turn if place + 1 < len(chapters) else float("inf")
        inside = {turn for turn in bags if chapter.from_turn <= turn < end}
        titled = any(words and words <= set(terms(chapter.title)) for words in wanted)
        if titled or len(inside & naming) >= max(2, len(inside) / 10):
            about |= inside
    return about


def count_words(lines: Iterable[MinutesLine]) -> int:
    """Words that have to be read."""
    return sum(len(line.text.split()) for line in lines)


_FIRST = 3.0
"""How much more the weightiest line of a section weighs, the second half of that, and so on: every section keeps its best."""


def _within(lines: list[MinutesLine], most: int) -> list[MinutesLine]:
    """No more words than `most`: long quotations are shortened first, then the least weighty lines are left out."""
    if count_words(lines) <= most:
        return lines
    short = [_shortened(line) for line in lines]
    spare = count_words(short) - most
    weights: dict[int, float] = {}
    rank: Counter[str] = Counter()
    for place in sorted(range(len(short)), key=lambda i: -short[i].weight):
        rank[short[place].section] += 1
        weights[place] = short[place].weight + _FIRST / rank[short[place].section]
    left_out: set[int] = set()
    for place in sorted(weights, key=lambda place: weights[place]):
        if spare <= 0:
            break
        spare -= len(short[place].text.split())
        left_out.add(place)
    return [line for place, line in enumerate(short) if place not in left_out]


def _shortened(line: MinutesLine) -> MinutesLine:
    quote = _QUOTE.match(line.text)
    if not quote or len(quote[2].split()) <= _QUOTED:
        return line
    return replace(line, text=f"{quote[1]}{' '.join(quote[2].split()[:_QUOTED]).rstrip(',;:')} …{quote[3]}")
