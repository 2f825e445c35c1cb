"""A question to several records at once: the turns that answer, whichever meeting they are of, or "no meeting says"."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from core.reading.encoder import LABELS, Encoder, Turns
from core.reading.reader import Read
from core.record.model import Participant, Record, Turn
from core.search.ask import Asker
from core.search.question import understand
from core.search.senses import around
from core.search.weights import Weights, fitted

NO_MEETING = "No meeting says."
FITTED = Path(__file__).parent / "together.json"
"""By bench.teach_together, on labelled series."""
_MOST = 4
AGAINST = 0.35
"""The share of the best turn's likelihood that another has to have, to be cited with it."""
_IN_EACH = 0.08
"""The same for the best turn of another meeting, where it is asked how something came about."""

_COURSE = re.compile(
    r"\bhow (?:did|has|have|was|were)\b.*\bchang|\b(?:was|were) (?:it|there|they|that) always\b|\bover time\b|\bat first\b|\bbefore\b|\bbecame of\b|"
    r"\b(?:ended up|in the end)\b|\bhow often\b|\bwho .* first\b|\bby now\b"
)
"""Asks how something stands and how it came to that: answered by more than one meeting."""
_ASIDE = re.compile(
    r",? and (?:how (?:did|has|have|was) .*|(?:was|were) (?:it|there|they|that) always .*|who (?:was to|had|has|promised) .* first|what was the plan at first|"
    r"did anybody find out|what does \w+ promise now)\??$|\b(?:over time|in the end|now|at first|ended up|chang\w+)\b",
    re.IGNORECASE,
)
"""What says how it is asked for, and not what about."""
_NOW = re.compile(r"\b(?:now|still|yet|in the end|became|ended)\b|^(?:is|are|has|have|do|does|can)\b")
_FIRST = re.compile(r"\bfirst\b")


@dataclass(frozen=True, slots=True)
class Cited:
    """A turn, and the meeting it is of (its record's id). share: how likely it is an answer, beside the likeliest."""

    meeting: str
    turn: Turn
    share: float = 1.0


@dataclass(frozen=True, slots=True)
class Together:
    """The turns that answer a question, the best evidence first; none when no meeting says. course: it is asked how something came about, so
    that they are to be read in the order in which they were said. opening: a sentence of the minutes that rests on the best of them, as of `Answer`."""

    question: str
    cited: tuple[Cited, ...]
    course: bool = False
    opening: str = ""

    @property
    def text(self) -> str:
        """The lines themselves, each with who says it."""
        lines = " ".join(f"{one.turn.speaker}: {one.turn.text}" for one in self.cited)
        return f"{self.opening} {lines}".strip() or NO_MEETING


class Library:
    """Several records, made ready for questions, in order of time."""

    def __init__(self, meetings: Sequence[Read], encoder: Encoder, senses: np.ndarray | None = None):
        """senses: what their turns are about (`Encoder.plain`), where that is known already, one after the other."""
        self._encoder = encoder
        self._where = [(place, turn) for place, meeting in enumerate(meetings) for turn in meeting.record.turns]
        self._ids = [meeting.record.id for meeting in meetings]
        self._findings = [meeting.findings for meeting in meetings]
        turns = tuple(replace(turn, id=number) for number, (_, turn) in enumerate(self._where, 1))
        people = {one.name: one for meeting in meetings for one in meeting.record.participants}
        self._record = Record("", turns, participants=tuple(people.values()))
        self._read = Turns(
            np.concatenate([meeting.turns.likely for meeting in meetings] or [np.zeros((0, len(LABELS)))]),
            np.concatenate([meeting.turns.vectors for meeting in meetings] or [np.zeros((0, 0))]),
        )
        self._asker = Asker(self._record, encoder, self._read)
        self._own = encoder.plain([turn.text for turn in turns]) if senses is None else senses
        self._around = around(self._own, np.array([place for place, _ in self._where]))
        self._late = np.array([place / max(1, len(meetings) - 1) for place, _ in self._where])
        self._found = np.zeros(len(turns))
        first = 0
        for meeting in meetings:
            at = {turn.id: first + place for place, turn in enumerate(meeting.record.turns)}
            for finding in meeting.findings:
                if finding.kind in ("decision", "action") and finding.status == "standing":
                    for turn in finding.turns:
                        self._found[at[turn]] = max(self._found[at[turn]], finding.confidence)
            first += len(meeting.record.turns)

    def ask(self, questions: Sequence[str], weights: Weights | None = None, by: Collection[str] = ()) -> list[Together]:
        """One answer a question. by: whose words alone answer, by their names; none for anybody's."""
        return [self._answer(question, weights or fitted(FITTED), by) for question in questions]

    def _answer(self, question: str, weights: Weights, by: Collection[str] = ()) -> Together:
        said = np.array([not by or turn.speaker in by for _, turn in self._where], bool)
        if not said.any():
            return Together(question, ())
        features = self.measure(question)
        score = np.sum([weights.turns[name] * values for name, values in features.items()], axis=0)
        score[~said] = -np.inf
        chances = np.exp(score - score.max())
        chances /= chances.sum()
        says = self.says(features, chances)
        # Where nothing of what is asked for is spoken of anywhere near, likeness alone is no evidence.
        if sum(weights.says[name] * value for name, value in says.items()) < 0 or says["words about"] <= 0:
            return Together(question, ())
        best = int(chances.argmax())
        order = [int(i) for i in np.argsort(-chances, kind="stable")]
        chosen = [i for i in order if chances[i] >= AGAINST * chances[best]][:_MOST]
        course = bool(_COURSE.search(question.lower()))
        if course:
            tops = {self._where[i][0]: i for i in reversed(order)}
            chosen += [i for i in sorted(tops.values(), key=lambda i: -chances[i]) if chances[i] >= _IN_EACH * chances[best] and i not in chosen]
        else:
            end = next((i for i in range(best, len(self._where)) if self._where[i][0] != self._where[best][0]), None)
            chosen = self._asker.answered(chosen, by, question, end)
        cited = tuple(Cited(self._ids[self._where[i][0]], self._where[i][1], float(chances[i] / chances[best])) for i in chosen)
        return Together(question, cited, course, "" if course else self._opening(question, chosen[0]))

    def _opening(self, question: str, first: int) -> str:
        place, turn = self._where[first]
        return self._asker.opening(question, [one for one in self._findings[place] if turn.id in one.turns])

    def says(self, features: dict[str, np.ndarray], chances: np.ndarray) -> dict[str, float]:
        """What speaks for there being an answer, by name. How far the best turn stands out says little: among few it always does."""
        best = int(chances.argmax())
        return {
            "answers": float(features["answers"].max()),
            "words about": float(features["words about"][best]),
            "alike around": float(features["alike around"][best]),
            "words about at most": float(features["words about"].max()),
            "alike at most": float(features["alike"].max()),
            "at all": 1.0,
        }

    def measure(self, question: str) -> dict[str, np.ndarray]:
        """What speaks for each turn, by name, each of shape (turns,)."""
        low = question.lower()
        bare = _ASIDE.sub(" ", question)
        about = bare if len(bare.split()) > 2 else question
        asker, likely = self._asker, self._read.likely
        cues = asker.cues(low)
        asked, bare_asked = (self._read.vectors @ self._encoder.questions([question, about]).T).T
        alike = self._encoder.plain([about])[0]
        words = {name: asker.covered(about.lower(), *span) for name, span in {"own": (0, 0), "near": (1, 1), "far": (3, 1), "wide": (5, 5)}.items()}
        named = understand(question, [*self._record.participants, *(Participant(name) for name in self._record.speakers)]).speakers
        ends = {name: likely[:, LABELS.index(name)] for name in ("settled", "action", "question")}
        before = lambda values: np.r_[0.0, values[:-1]]  # noqa: E731
        return {
            "answers": asked,
            "answers what it is about": bare_asked,
            "beside an answer": np.maximum(before(bare_asked), np.r_[bare_asked[1:], 0.0]),
            "alike around": self._around @ alike,
            "alike": self._own @ alike,
            "words": words["own"],
            "words around": words["near"],
            "words before": words["far"],
            "words about": words["wide"],
            "asks": cues["asks"],
            "asked before": before(cues["asks"]),
            "words in the question before": before(words["own"]) * before(cues["asks"]),
            "length": cues["length"],
            "number": cues["number"],
            "time": cues["time"],
            "settles": ends["settled"],
            "takes on": ends["action"],
            "takes on, for a person": ends["action"] * cues["person"],
            "settles, for a time": ends["settled"] * cues["asks time"],
            "open": ends["question"],
            "found": self._found,
            "found, with its words": self._found * words["near"],
            "said by whom it names": np.array([turn.speaker in named for _, turn in self._where], float),
            "late": self._late,
            "late, for now": self._late * bool(_NOW.search(low)),
            "early, for first": (1 - self._late) * bool(_FIRST.search(low)),
        }
