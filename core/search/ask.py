"""A question to one record: the turns that answer it, or "the record does not say"."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from rank_bm25 import BM25Okapi

from core.reading.base import Finding
from core.reading.encoder import LABELS, Encoder, Turns
from core.reading.words import terms
from core.record.model import Participant, Record, Turn
from core.search.found import LEAST, MOST, asks_for
from core.search.question import Question, understand, understand_last
from core.search.weights import fitted

NOT_IN_RECORD = "The record does not say."
_MOST = 3
_LEAST_SAID = 0.4
"""The share of a question's words, by rarity, that a sentence of the minutes has to have to open the answer."""
_SHORT = 6
"""Words of a turn that asks and does nothing else. In longer ones the answer is asked for with what is known already: they are cited first."""

FITTED = Path(__file__).parent / "ask.json"
"""By bench.teach_ask, on two thirds of the labelled meetings: what makes a turn an answer, and whether there is one at all."""
_ABOUT = 0.2  # how well the best turn has to answer for the record to be about the question at all

_NUMBER = re.compile(
    r"\d|\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\w+teen|twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety|"
    r"hundred|thousand|half|quarter|double|dozen|twice)\b"
)
_SUM = re.compile(r"[£$€]|\b(?:pounds?|euros?|quid|pence|grand|thousand|hundred|a day|a month|a week|each|plus|k)\b")
_TIME = re.compile(
    r"\b(?:monday|tuesday|wednesday|thursday|friday|saturday|sunday|january|february|march|april|june|july|august|september|october|november|"
    r"december|today|tomorrow|week|month|morning|noon|night|o'clock|half past|quarter|spring|summer|autumn|winter|year|first|second|third|\w+th|"
    r"ago|since|until|by)\b"
)
_ASKS_SUM = re.compile(r"\bhow much|\bcosts?\b|\bprice|\bpay\b|\bearn|\bsalary|\brent\b|\bfee|\bbudget|\bworth")
_ASKS_NUMBER = re.compile(
    r"\bhow (?:many|long|far|often|old|big|fast|large|late|high|heavy|wide|deep|tall)|\bwhat (?:share|percentage|number|time)|\bpercent"
)
_ASKS_TIME = re.compile(r"^when|\bwhat (?:day|date|time)|\bsince when|\bhow soon|\bwhat year")
_ASKS_PERSON = re.compile(r"^who|\bwhose")


@dataclass(frozen=True, slots=True)
class Answer:
    """The turns that answer, the best evidence first; none when the record does not say. `times`: how often, where that was asked.
    `opening`: a sentence of the minutes that says it and rests on the best of the turns; "" where there is none."""

    question: str
    turns: tuple[Turn, ...]
    times: int | None = None
    opening: str = ""

    @property
    def text(self) -> str:
        """The lines themselves, each with who says it, behind the opening, or their count where one was asked for."""
        lines = " ".join(f"{turn.speaker}: {turn.text}" for turn in self.turns)
        if self.opening:
            lines = f"{self.opening} {lines}"
        if self.times is None:
            return lines or NOT_IN_RECORD
        return f"{'Once' if self.times == 1 else f'{self.times} times'}. {lines}" if self.times else "Not once."


def _asks(turn: Turn) -> bool:
    return turn.text.rstrip().endswith("?")


class Asker:
    """One record, made ready for questions."""

    def __init__(self, record: Record, encoder: Encoder, read: Turns | None = None, findings: Sequence[Finding] = ()):
        """read: what the encoder says of the record's turns, where it is known already. findings: what was drawn from it; only what stands
        is an answer."""
        self._record, self._encoder = record, encoder
        self._findings = [one for one in findings if one.status == "standing"]
        self._place = {turn.id: index for index, turn in enumerate(record.turns)}
        self._read = read or encoder.turns(record.turns)
        self._bags = [set(terms(f"{turn.speaker} {turn.text}")) for turn in record.turns]
        self._rarity = BM25Okapi([list(bag) or [""] for bag in self._bags]).idf if record.turns else {}
        plain = [turn.text.lower() for turn in record.turns]
        self._about = {
            name: np.array([bool(pattern.search(text)) for text in plain], float)
            for name, pattern in {"asks": re.compile(r"\?"), "number": _NUMBER, "sum": _SUM, "time": _TIME}.items()
        }
        self._length = np.log1p([len(text.split()) for text in plain])

    def ask(self, questions: Sequence[str]) -> list[Answer]:
        """One answer a question, each understood by itself."""
        return self.answer([(question, understand(question, self._people)) for question in questions])

    def go_on(self, question: str, before: Sequence[str]) -> Answer:
        """An answer to a question that goes on from others, the first one first."""
        return self.answer([(question, understand_last([*before, question], self._people))])[0]

    def answer(self, questions: Sequence[tuple[str, Question]]) -> list[Answer]:
        """One answer a question, given as it was put and as it was understood."""
        if not self._record.turns or not questions:
            return [Answer(put, (), 0 if asked.counted else None) for put, asked in questions]
        alike = self.alike([asked.text for _, asked in questions])
        return [
            self._count(put, asked) if asked.counted else self._answer(put, asked, alike[:, i]) for i, (put, asked) in enumerate(questions)
        ]

    def alike(self, questions: Sequence[str]) -> np.ndarray:
        """How well each turn answers each question, by the encoder's word, shape (turns, questions)."""
        return self._read.vectors @ self._encoder.questions(questions).T

    def _answer(self, put: str, asked: Question, alike: np.ndarray) -> Answer:
        turns = self._found(asked.text, alike) or self._best(asked.text, alike, asked.speakers)
        return Answer(put, turns, opening=self.opening(asked.text, [one for one in self._findings if turns and turns[0].id in one.turns]))

    def opening(self, question: str, findings: Sequence[Finding]) -> str:
        """What stands in the minutes on the best turn, where it is about what is asked and can be read by itself. findings: that rest on it."""
        weight = self._weights(terms(question))
        total = sum(weight.values()) or 1.0
        shares = {
            one.text: sum(value for term, value in weight.items() if term in terms(one.text)) / total
            for one in findings
            if one.status == "standing" and one.kind in ("decision", "action") and one.written == "writer"
        }
        best = max(shares, key=lambda text: shares[text], default="")
        return best if best and shares[best] >= _LEAST_SAID else ""

    @property
    def _people(self) -> list[Participant]:
        named = {one.name for one in self._record.participants}
        return [*self._record.participants, *(Participant(name) for name in self._record.speakers if name not in named)]

    def _count(self, put: str, asked: Question) -> Answer:
        """How often all the words come up in a line, and the turns of those lines."""
        wanted = set(terms(asked.counted))
        times, turns = 0, []
        for turn in self._record.turns:
            if asked.speakers and turn.speaker not in asked.speakers:
                continue
            said = [terms(line.text) for line in turn.lines]
            here = sum(min(bag.count(term) for term in wanted) for bag in said if wanted) if wanted else 0
            if here:
                times += here
                turns.append(turn)
        return Answer(put, tuple(turns), times)

    def _found(self, question: str, alike: np.ndarray) -> tuple[Turn, ...]:
        """The turns of the decisions, actions or motions that are asked for: of each the one that says most; none where nothing fits."""
        asked = asks_for(question, self._people) if self._findings else None
        if asked is None:
            return ()
        weight = self._weights(asked.about)
        total = sum(weight.values()) or 1.0
        fitting = []
        for one in filter(asked.wanted, self._findings):
            places = [self._place[turn] for turn in one.turns]
            own = set().union(set(terms(one.text)), *(self._bags[place] for place in places))
            near = set().union(*self._bags[max(0, places[0] - 2) : places[-1] + 2])
            share = sum(value * (1.0 if term in own else 0.5 * (term in near)) for term, value in weight.items()) / total
            if asked.all_of or share >= LEAST:
                fitting.append((share + float(alike[places].max()), max(places, key=lambda place: alike[place])))
        best = max((score for score, _ in fitting), default=0.0)
        kept = fitting if asked.all_of else sorted((one for one in fitting if one[0] >= 0.8 * best), reverse=True)[:_MOST]
        return tuple(self._record.turns[place] for place in dict.fromkeys(place for _, place in kept))[:MOST]

    def _weights(self, wanted: Iterable[str]) -> dict[str, float]:
        """How rare each term is; one that no turn has weighs as much as the rarest one that some turn has."""
        rarest = max(self._rarity.values(), default=1.0)
        return {term: max(0.1, self._rarity.get(term, rarest)) for term in set(wanted)}

    def _best(self, question: str, alike: np.ndarray, speakers: Sequence[str]) -> tuple[Turn, ...]:
        weights, features = fitted(FITTED), self.measure(question.lower(), alike)
        score = np.sum([weights.turns[name] * values for name, values in features.items()], axis=0)
        if speakers:
            score = np.where([turn.speaker in speakers for turn in self._record.turns], score, -np.inf)
        if not np.isfinite(score).any():
            return ()
        order = np.argsort(-score, kind="stable")[:_MOST]
        chances = np.exp(score - score[order[0]])
        chances /= chances.sum()
        says = self.says(question, alike, chances)
        if alike.max() < _ABOUT or sum(weights.says[name] * value for name, value in says.items()) < 0:
            return ()
        best = [int(i) for i in order if chances[i] >= 0.4 * chances[order[0]] and chances[i] > 0]
        return tuple(self._record.turns[i] for i in self.answered(best, speakers, question)[:_MOST])

    def answered(self, best: list[int], speakers: Collection[str], question: str, end: int | None = None) -> list[int]:
        """Where the best turn asks, what is answered to it is cited with it; before it, where it asks just what is asked here and no more.
        best: places of turns, the best first; end: the place at which what belongs together with it ends."""
        turns, asking, wanted = self._record.turns, best[0], set(terms(question))
        end = len(turns) if end is None else end
        after = next((i for i in range(asking + 1, min(asking + 3, end)) if turns[i].speaker != turns[asking].speaker), None)
        if not _asks(turns[asking]) or after is None or _asks(turns[after]) or speakers and turns[after].speaker not in speakers:
            return best
        same = len(turns[asking].text.split()) <= _SHORT and 2 * len(self._bags[asking] & wanted) >= len(wanted)
        first = [after, asking] if same else [asking, after]
        return [*first, *(i for i in best[1:] if i != after)]

    def says(self, question: str, alike: np.ndarray, chances: np.ndarray) -> dict[str, float]:
        """What speaks for there being an answer: how well the best turn answers, the question's words around it, how far it stands out."""
        best = int(chances.argmax())
        near = self.covered(question.lower(), 2, 2)[best]
        return {"answers": float(alike.max()), "words": float(near), "stands out": float(chances[best]), "at all": 1.0}

    def measure(self, question: str, alike: np.ndarray) -> dict[str, np.ndarray]:
        """What speaks for each turn as an answer to a question in lower case, by name. alike: how well each answers, as the encoder has it; the
        question's words count by rarity, a number where one is asked for, that something is taken on where a person is asked for."""
        settled, takes_on = (self._read.likely[:, LABELS.index(name)] for name in ("settled", "action"))
        cues = self.cues(question)
        return {
            "answers": alike,
            "beside an answer": np.maximum(np.r_[0, alike[:-1]], np.r_[alike[1:], 0]),
            "words around": self.covered(question, 1, 1),
            "words before": self.covered(question, 3, 0),
            **{name: cues[name] for name in ("asks", "length", "number", "sum", "time")},
            "settles": settled,
            "takes on": takes_on * cues["person"],
            "settles when": settled * cues["asks time"],
        }

    def cues(self, question: str) -> dict[str, np.ndarray]:
        """Whether each turn has what the question (in lower case) asks for, by name, each of shape (turns,); and whether it asks for a person
        or a time at all, the same for every turn."""
        number, sums, time, person = (bool(p.search(question)) for p in (_ASKS_NUMBER, _ASKS_SUM, _ASKS_TIME, _ASKS_PERSON))
        about = self._about
        return {
            "asks": about["asks"],
            "length": self._length,
            "number": about["number"] * (number or sums),
            "sum": about["sum"] * about["number"] * sums,
            "time": np.maximum(about["time"], about["number"]) * time,
            "person": np.full(len(self._length), float(person)),
            "asks time": np.full(len(self._length), float(time)),
        }

    def covered(self, question: str, before: int, after: int) -> np.ndarray:
        """The share of the question's words, by rarity, in each turn and so many around it."""
        weight = self._weights(terms(question))
        total = sum(weight.values()) or 1.0
        near = [set().union(*self._bags[max(0, i - before) : i + after + 1]) for i in range(len(self._bags))]
        return np.array([sum(weight[term] for term in weight if term in bag) / total for bag in near])
