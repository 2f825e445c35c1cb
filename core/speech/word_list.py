"""The team's names and jargon: near misses of a listed term are put right by sound and spelling, and what was heard is kept.

A word that exists is replaced only on evidence: the list says that it is what the term is mistaken for, it sounds exactly like the
term, or the recogniser itself was unsure of it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache

from piper.phonemize_espeak import EspeakPhonemizer
from rapidfuzz.distance import Levenshtein

from core.frequency import zipf
from core.record.model import Word
from core.record.sentences import ends_sentence

# How far what was heard may be from a term, as a share of its sounds: where a word of it does not exist; where all exist but the
# recogniser was unsure; and where all exist and it was sure.
_UNKNOWN, _UNSURE, _SURE = 0.35, 0.2, 0.06
_DOUBTED = 0.55  # probability under which the recogniser was unsure
_EXISTS = 3.0  # on the Zipf scale (van Heuven et al. 2014): once in a million words
_NEARER = 0.05
_SHORTEST = 4  # sounds; a shorter term is like too many words
_LONGEST = 4  # words heard in place of one term
_DROPPED, _SWALLOWED = 0.7, 0.4  # what a sound too many or too few costs, and one that is easily swallowed or taken for another
_TOGETHER = 0.7  # seconds between words that may be one
_VOICES = {"es": "es", "ca": "ca", "gl": "es", "pt": "pt", "fr": "fr-fr", "de": "de", "it": "it", "nl": "nl", "pl": "pl"}
_ALIKE = ("pb", "td", "kɡg", "fv", "sz", "ʃʒ", "θð", "mnŋ", "lɹrɾ", "jiɪ", "wuʊ")
_VOWELS = set("aeiouyæɐɑɒɔəɛɜɪʊʌœøɚɝɨ")
_PUNCTUATION = re.compile(r"^\W+|\W+$")
_POSSESSIVE = re.compile(r"['’]s$", re.I)
_LETTERS = re.compile(r"^[a-z](?:[-.][a-z])*\.?$", re.I)


@dataclass(frozen=True, slots=True)
class Term:
    """A name or a piece of jargon: how it is written, how it sounds (in ordinary spelling), what it is mistaken for."""

    text: str
    sounds: tuple[str, ...] = ()
    mistaken: tuple[str, ...] = ()


def read_terms(lines: Sequence[str]) -> list[Term]:
    """Terms from lines of the form `term | how it sounds, … | what it is mistaken for, …`; the last two may be left out."""
    terms = []
    for line in lines:
        text, sounds, mistaken, *_ = [*(part.strip() for part in line.split("|")), "", ""]
        if text:
            terms.append(Term(text, _listed(sounds), _listed(mistaken)))
    return terms


def _listed(text: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in text.split(",") if part.strip())


@dataclass(frozen=True, slots=True)
class _Sounds:
    term: Term
    phonemes: str  # a letter a sound


class WordList:
    """Terms, ready to correct words of a language with."""

    def __init__(self, terms: Sequence[Term], language: str = "en"):
        """language: ISO 639-1 code; it decides how words sound and which exist."""
        self._language = language
        self._written = {_key(term.text): term for term in terms}
        self._mistaken = {_key(wrong): term for term in terms for wrong in term.mistaken}
        sounding = [_Sounds(term, _sound(said, language)) for term in terms for said in (term.text, *term.sounds)]
        self._by_length: dict[int, list[_Sounds]] = {}
        for one in sounding:
            if len(one.phonemes) >= _SHORTEST:
                self._by_length.setdefault(len(one.phonemes), []).append(one)

    def correct(self, words: Sequence[Word], progress: Callable[[float], None] = lambda share: None) -> list[Word]:
        """The words with near misses replaced. One that stands for several spans their time; `heard` keeps what they were."""
        if not self._written:
            return list(words)
        return self._near_misses(self._spelled(words), progress)

    def _near_misses(self, words: Sequence[Word], progress: Callable[[float], None]) -> list[Word]:
        corrected: list[Word] = []
        index = 0
        while index < len(words):
            progress(index / len(words))
            best: tuple[float, int, Term, str] | None = None
            for count in range(1, _LONGEST + 1):
                window = words[index : index + count]
                if len(window) < count or not _together(window):
                    break
                found = self._match(window)
                # A word more is taken in only where it brings what was heard clearly nearer to a term.
                if found and (best is None or found[0] < best[0] - _NEARER):
                    best = found[0], count, found[1], found[2]
            if best and not self._better_without(words[index : index + best[1]], best[0]):
                corrected.append(_in_place(words[index : index + best[1]], best[2].text + best[3]))
                index += best[1]
            else:
                corrected.append(words[index])
                index += 1
        return corrected

    def _better_without(self, window: Sequence[Word], distance: float) -> bool:
        """Does a window match as well without its first word, such as "the"?"""
        rest = self._match(window[1:]) if len(window) > 1 else None
        return rest is not None and rest[0] < distance + _NEARER

    def _match(self, window: Sequence[Word]) -> tuple[float, Term, str] | None:
        """How far what was heard is from the term that is meant, the term, and an ending ('s) that stays."""
        heard = " ".join(_bare(word.text) for word in window)
        ending = found[0] if (found := _POSSESSIVE.search(heard)) else ""
        stem = heard[: len(heard) - len(ending)]
        matches = [self._match_text(stem, ending, window)]
        if ending and _key(stem) not in self._written:
            whole = self._match_text(heard, "", window)
            # "comb's" is no word, so it may be "Colm's"; its ending was heard all the same, unless it is the term's own.
            matches.append(whole and (*whole[:2], "" if whole[1].text.casefold().endswith("s") else ending))
        return min((match for match in matches if match), key=lambda match: match[0], default=None)

    def _match_text(self, heard: str, ending: str, window: Sequence[Word]) -> tuple[float, Term, str] | None:
        key = _key(heard)
        if term := self._written.get(key):
            return (0.0, term, ending) if len(window) > 1 or heard != term.text else None
        if term := self._mistaken.get(key):
            return 0.0, term, ending
        parts = heard.split()
        if not parts or any(_key(part) in self._written for part in parts):
            return None
        known = all(zipf(part, self._language) >= _EXISTS for part in parts)
        unsure = min(word.probability for word in window) < _DOUBTED
        limit = _UNKNOWN if not known else _UNSURE if unsure else _SURE
        if known and not unsure and len(parts) == 1:
            return None  # a word that exists, and was clearly heard
        said = "".join(_sound(part, self._language) for part in parts)
        near = sorted(self._near(said, limit), key=lambda pair: pair[0])
        # Where two terms are as near, neither is put in.
        if not near or any(term is not near[0][1] and distance < near[0][0] + _NEARER for distance, term in near):
            return None
        return near[0][0], near[0][1], ending

    def _near(self, said: str, limit: float) -> Iterator[tuple[float, Term]]:
        """The terms within the limit, and how far they are, as a share of the sounds."""
        for length, sounding in self._by_length.items():
            most = limit * max(length, len(said))
            if abs(length - len(said)) > most + 0.5:
                continue
            edits = int(most / _SWALLOWED + 1e-9)  # counting edits is a hundred times quicker than weighing them, and leaves few terms
            for one in sounding:
                if Levenshtein.distance(said, one.phonemes, score_cutoff=edits) <= edits:
                    distance = _distance(said, one.phonemes)
                    if distance <= most:
                        yield distance / max(length, len(said)), one.term

    def _spelled(self, words: Sequence[Word]) -> list[Word]:
        """Letters said one by one put together: as the listed term they spell, otherwise in capitals. A, B, C stays what it is."""
        joined: list[Word] = []
        index = 0
        while index < len(words):
            end, letters = index, ""
            while (
                end < len(words)
                and _LETTERS.match(_bare(words[end].text))
                and (end == index or words[end].start - words[end - 1].end < 1.0)
            ):
                letters += re.sub(r"\W", "", words[end].text)
                end += 1
                if ends_sentence(words[end - 1].text) and not re.fullmatch(r"\w\.", words[end - 1].text):
                    break
            counted = "".join(chr(ord(letters[0].lower()) + step) for step in range(len(letters))) if letters else ""
            if len(letters) < 3 or letters.lower() == counted:
                joined.append(words[index])
                index += 1
                continue
            near = [(Levenshtein.distance(key, letters.lower()), term) for key, term in self._written.items()]
            misses, term = min(near, key=lambda pair: pair[0])
            if misses <= (0 if len(letters) < 4 else 1):
                joined.append(_in_place(words[index:end], term.text))
            else:
                joined += [_in_place(words[index:end], letters.upper())] if end - index > 1 else words[index:end]
            index = end
        return joined


def uncorrected(word: Word) -> Word:
    """The word as it was heard."""
    return replace(word, text=word.heard, heard="") if word.heard else word


def _in_place(window: Sequence[Word], text: str) -> Word:
    """One word for a window: with the signs around it, its time, its lowest probability, and what was heard."""
    first, last = window[0], window[-1]
    before = first.text[: len(first.text) - len(first.text.lstrip("\"'“‘(¿¡"))]
    after = last.text[len(last.text.rstrip("\"'”’),.;:!?…")) :]
    heard = " ".join(uncorrected(word).text for word in window)
    text = before + text + after
    probability = min(word.probability for word in window)
    return replace(first, text=text, end=last.end, probability=probability, heard=heard if heard != text else "")


def _together(window: Sequence[Word]) -> bool:
    return all(
        later.start - earlier.end < _TOGETHER and not ends_sentence(earlier.text) and later.voice == earlier.voice
        for earlier, later in zip(window, window[1:], strict=False)
    )


def _bare(text: str) -> str:
    return _PUNCTUATION.sub("", text)


def _key(text: str) -> str:
    return re.sub(r"[^\w]", "", text).casefold()


@cache
def _phonemizer() -> EspeakPhonemizer:
    return EspeakPhonemizer()


@cache
def _sound(text: str, language: str) -> str:
    """The sounds of a text (IPA, by eSpeak), a letter each, without stress and length."""
    sentences = _phonemizer().phonemize(_VOICES.get(language, "en-us"), text)
    return "".join(sound for sentence in sentences for sound in sentence if sound.isalpha() and sound not in "ˈˌː")


@cache
def _cost(one: str, other: str) -> float:
    """What it costs to hear one sound for the other."""
    if one == other:
        return 0.0
    if one in _VOWELS and other in _VOWELS:
        return _SWALLOWED
    return _SWALLOWED if any(one in group and other in group for group in _ALIKE) else 1.0


def _dropped(sound: str) -> float:
    """What a sound costs that is in one of the two only: less where it is one that is swallowed."""
    return _SWALLOWED if sound in "əɪhdt" else _DROPPED


def _distance(heard: str, term: str) -> float:
    """Weighted edit distance (Wagner and Fischer 1974)."""
    row = [_DROPPED * index for index in range(len(term) + 1)]
    for i, sound in enumerate(heard, start=1):
        above, row[0] = row[0], _DROPPED * i
        for j, wanted in enumerate(term, start=1):
            best = min(above + _cost(sound, wanted), row[j] + _dropped(sound), row[j - 1] + _dropped(wanted))
            above, row[j] = row[j], best
    return row[-1]


def is_jargon(word: str, language: str = "en") -> bool:
    """Is this a word that the language does not have, such as a name?"""
    bare = _bare(word)
    return bare.isalpha() and len(bare) > 3 and zipf(bare, language) < _EXISTS
