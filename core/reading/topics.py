"""Key terms: what a meeting keeps coming back to, in its own words."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from core.frequency import zipf
from core.reading.words import STOP, terms
from core.record.model import Record, Turn

MOST = 10
_RARE = 5.25  # Zipf frequency (van Heuven et al. 2014) above which a word says nothing of a meeting
NUMBER = re.compile(
    r"(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\w+teen|twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety|hundred|thousand|million|first|third|fourth|fifth|sixth|seventh|eighth|ninth|tenth|half|quarter|\w+(?:ty|teen)-\w+)s?"
)
"""Counts are figures, and not subjects."""
_MEETING = frozenset(
    "agenda favour second seconded seconder proposed carried abstain abstaining apologies item minutes corrections quorate any other business".split()
)
"""What is said because it is a meeting, whatever it is about."""
_WORD = re.compile(r"[^\W\d_][\w'’-]+")


@dataclass(frozen=True, slots=True)
class Topic:
    """A key term as it was said most often, how often, and the turns that have it (never none)."""

    text: str
    count: int
    turns: tuple[int, ...]


def find_topics(record: Record, most: int = MOST) -> list[Topic]:
    """Words and pairs of words that are said often and are rare in English at large, the weightiest first."""
    least = 2 if len(record.turns) < 60 else 3
    return _weightiest(record.turns, record.people, least, most)


def title_of(turns: Sequence[Turn], record: Record, most: int = 3) -> str:
    """What a stretch of a record is about: its key terms, rather those that are not said all over the record."""
    found = _weightiest(turns, record.people, 2, most, record.turns) or _weightiest(turns, record.people, 1, 2, record.turns)
    text = ", ".join(topic.text for topic in found) or "Opening"
    return text[:1].upper() + text[1:]


def _weightiest(turns: Sequence[Turn], people: Sequence[str], least: int, most: int, among: Sequence[Turn] = ()) -> list[Topic]:
    """least: turns that have to have a term. among: all turns, where those said elsewhere too are to count less."""
    names = {part.lower() for name in people for part in name.split()}
    everywhere = Counter(stem for turn in among for stem in terms(turn.text))
    found: dict[str, set[int]] = defaultdict(set)
    forms: dict[str, Counter] = defaultdict(Counter)
    count: Counter[str] = Counter()
    for turn in turns:
        words = _WORD.findall(turn.text)
        useful = [_counts(word, names) for word in words]
        for size in (1, 2):
            for first in range(len(words) - size + 1):
                if all(useful[first : first + size]):
                    phrase = " ".join(words[first : first + size])
                    key = " ".join(terms(phrase))
                    if key.count(" ") == size - 1 and key:
                        count[key] += 1
                        found[key].add(turn.id)
                        forms[key][
                            phrase
                            if phrase.isupper() or not phrase.istitle()
                            else phrase.lower()
                            if phrase.lower() in turn.text
                            else phrase
                        ] += 1
    weight = {key: _weight(key, forms[key], count[key]) for key in count if len(found[key]) >= least}
    if among:
        weight = {
            key: value * min(1.0, count[key] / max(1, min(everywhere[stem] for stem in key.split()))) for key, value in weight.items()
        }
    chosen: list[str] = []
    for key in sorted(weight, key=lambda key: -weight[key]):
        # Of a pair and its words the one stays that says more.
        if any(set(key.split()) & set(other.split()) for other in chosen):
            continue
        chosen.append(key)
        if len(chosen) == most:
            break
    return [Topic(max(forms[key], key=lambda form: (forms[key][form], form)), count[key], tuple(sorted(found[key]))) for key in chosen]


def _counts(word: str, names: set[str]) -> bool:
    plain = word.lower().replace("’", "'")
    return (
        len(plain) > 2
        and "'" not in plain
        and plain not in STOP
        and plain not in names
        and not NUMBER.fullmatch(plain)
        and zipf(plain, "en") < _RARE
    )


def _weight(key: str, forms: Counter, count: int) -> float:
    """How often, by how rare its rarest word is; a pair says more than a word."""
    said = max(forms, key=lambda form: forms[form]).lower()
    return count * (8 - min(zipf(word, "en") for word in said.split())) * (1.6 if " " in key else 1.0)
